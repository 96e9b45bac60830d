package text

import (
	"slices"
	"strings"

	"golang.org/x/net/html"

	"vineladder/internal/core/site"
)

// vague are words of links that say nothing of where they lead. Source: WCAG 2.2 failure F84, “Failure of Success
// Criterion 2.4.9 due to using a non-specific link”, and its examples; the rest is common practice, no source. They
// are English; a text in another language has its own, which are not found.
var vague = []string{
	"click here", "here", "more", "read more", "more information", "link", "this link", "this page", "this", "details",
	"learn more", "continue", "see here", "find out more",
}

// Faults gives what is wrong in a kept text by itself, as a Site knows it: tables without a header cell, and links
// whose words say nothing.
func Faults(clean string) (faults []string) {
	var words strings.Builder
	link, table, heads := false, false, false
	tell := func(fault string) {
		if !slices.Contains(faults, fault) {
			faults = append(faults, fault)
		}
	}
	z := html.NewTokenizer(strings.NewReader(clean))
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			return faults
		}
		token := z.Token()
		switch {
		case kind == html.TextToken:
			if link {
				words.WriteString(token.Data)
			}
		case token.Data == "a":
			if said := strings.TrimSpace(words.String()); kind == html.EndTagToken && IsVague(said) {
				tell(site.FaultVagueLink + said)
			}
			link = kind == html.StartTagToken
			words.Reset()
		case token.Data == "table":
			if kind == html.EndTagToken && table && !heads {
				tell(site.FaultBareTable)
			}
			table, heads = kind == html.StartTagToken, false
		case token.Data == "th":
			heads = true
		}
	}
}

// IsVague says whether the words of a link say nothing of where it leads.
func IsVague(words string) bool {
	return slices.Contains(vague, strings.ToLower(strings.Trim(strings.Join(strings.Fields(words), " "), " .…!»>")))
}
