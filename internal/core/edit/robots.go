package edit

import (
	"regexp"
	"strings"

	"vineladder/internal/core/site"
)

// robotsLimit bounds the rules for search engines, in bytes; RFC 9309, 2.5 has parsers read 500 KiB at least.
const robotsLimit = 20_000

// robotsLine is a line of the rules. Source: RFC 9309, 2.2 and 2.3.
var robotsLine = regexp.MustCompile(`^(?:(?i:user-agent): ?(?:\*|[A-Za-z_-]+)|(?i:(?:dis)?allow): ?(?:/\S*)?|#.*|)$`)

// robots is the form of the rules for search engines: groups that name whom they are for, and what those may read.
func robots() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
			if len(text) > robotsLimit {
				return "", refuse("The rules for search engines can have %d characters at most.", robotsLimit)
			}
			named := false
			for line := range strings.Lines(text) {
				line = strings.TrimSpace(line)
				isRule := strings.Contains(strings.ToLower(line), "allow:") && !strings.HasPrefix(line, "#")
				switch {
				case !robotsLine.MatchString(line):
					const like = "“User-agent: *”, “Disallow: /nets” or “Allow: /”"
					return "", refuse("“%s” is no rule for search engines; they read %s.", line, like)
				case isRule && !named:
					return "", refuse("“%s” stands before any “User-agent:” line, so it is for nobody.", line)
				}
				named = named || strings.HasPrefix(strings.ToLower(line), "user-agent:")
			}
			return text, nil
		},
	}
}
