package typed

import (
	"net/url"
	"slices"
)

// Web takes an outside address that has the form of one; nobody looks whether it answers.
func Web(text string) (string, error) {
	u, err := url.Parse(text)
	switch {
	case err != nil, u.Scheme == "", u.Opaque == "" && u.Host == "":
		return "", Refuse("“%s” is not a web address; write it as https://host/path.", text)
	case !slices.Contains([]string{"http", "https", "mailto", "tel"}, u.Scheme):
		return "", Refuse("A web address starts with https, http, mailto or tel, not with “%s”.", u.Scheme)
	}
	return text, nil
}
