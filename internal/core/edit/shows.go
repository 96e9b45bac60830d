package edit

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// ShowsText writes what an entry shows in one word: "page:12", "branch:12:0:beside", "web:https://…", "file:…",
// "heading", "account:sign-in".
func ShowsText(shows site.Shows) string {
	switch to := shows.(type) {
	case site.ItemPage:
		return fmt.Sprintf("page:%d", to.Page)
	case site.ItemBranch:
		return fmt.Sprintf("branch:%d:%d:%s", to.Root, to.Depth, to.Self)
	case site.ItemWeb:
		return "web:" + to.Address
	case site.ItemFile:
		return "file:" + to.File
	case site.ItemAccount:
		return "account:" + string(to.Does)
	}
	return "heading"
}

// ParseShows reads what ShowsText wrote. A page must be there, in the bin or not.
func ParseShows(s *site.Site, text string) (site.Shows, error) {
	kind, rest, _ := strings.Cut(text, ":")
	page := func(number string) (site.PageID, error) {
		id, err := strconv.ParseInt(number, 10, 64)
		if p := s.Page(site.PageID(id)); err != nil || p == nil || p.Purged {
			return 0, &Conflict{
				Page:     site.PageID(id),
				Sentence: "The page that the item should lead to is not there any more.",
			}
		}
		return site.PageID(id), nil
	}
	switch kind {
	case "page":
		id, err := page(rest)
		return site.ItemPage{Page: id}, err
	case "branch":
		number, rest, _ := strings.Cut(rest, ":")
		levels, self, _ := strings.Cut(rest, ":")
		id, err := page(number)
		if err != nil {
			return nil, err
		}
		depth, err := strconv.Atoi(levels)
		if err != nil || depth < 0 {
			return nil, refuse("The number of levels is a number; 0 is all of them.")
		}
		how, err := oneOf(self, site.SelfNot, site.SelfAbove, site.SelfBeside)
		return site.ItemBranch{Root: id, Depth: depth, Self: how}, err
	case "web":
		return webAddress(rest)
	case "file":
		if rest == "" || strings.ContainsAny(rest, "/\\") {
			return nil, refuse("Choose a file.")
		}
		return site.ItemFile{File: rest}, nil
	case "account":
		does, err := oneOf(rest, site.AccountLinks()...)
		return site.ItemAccount{Does: does}, err
	case "heading":
		return site.ItemHeading{}, nil
	}
	return nil, refuse("An item of the sort “%s” is not known.", kind)
}

// CheckWeb says whether an outside address has the form of one; nobody looks whether it answers.
func CheckWeb(typed string) error {
	_, err := webAddress(typed)
	return err
}

// webAddress checks an outside address for its form only.
func webAddress(typed string) (site.Shows, error) {
	u, err := url.Parse(typed)
	switch {
	case err != nil, u.Scheme == "", u.Opaque == "" && u.Host == "":
		return nil, refuse("“%s” is not a web address; write it as https://host/path.", typed)
	case !slices.Contains([]string{"http", "https", "mailto", "tel"}, u.Scheme):
		return nil, refuse("A web address starts with https, http, mailto or tel, not with “%s”.", u.Scheme)
	}
	return site.ItemWeb{Address: typed}, nil
}
