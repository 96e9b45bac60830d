package care

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// LetterEvery is the time between two letters about reviews to one person; letterSoon how long before they are due
// pages are written about.
const (
	LetterEvery = 7 * 24 * time.Hour
	letterSoon  = 7 * 24 * time.Hour
	letterLines = 20
)

// ToldOf gives those of due pages that somebody is written about: theirs, overdue or due within a week.
func ToldOf(due []DuePage, now time.Time, theirs func(site.Owner) bool) []DuePage {
	return slices.DeleteFunc(slices.Clone(due), func(d DuePage) bool {
		return d.Due.After(now.Add(letterSoon)) || !theirs(d.At.Owner)
	})
}

// Letter is what somebody is written about pages that they look after; “%s” stands for the address where they all are.
func Letter(s *site.Site, name string, pages []DuePage, now time.Time) (subject, body string) {
	overdue := 0
	for _, d := range pages {
		if d.Overdue(now) {
			overdue++
		}
	}
	subject = count.Of(len(pages), "page", "pages") + " to look at again"
	var out strings.Builder
	fmt.Fprintf(&out, "%s,\n\nyou look after these pages of %s, and it is time to see whether they are still right", name,
		s.Settings().Name)
	if overdue > 0 {
		fmt.Fprintf(&out, "; %s overdue", count.Number(overdue)+map[bool]string{true: " is", false: " are"}[overdue == 1])
	}
	out.WriteString(":\n\n")
	for i, d := range pages {
		if i == letterLines {
			fmt.Fprintf(&out, "and %s more.\n", count.Number(len(pages)-i))
			break
		}
		label := strings.ReplaceAll(d.Page.Label, "%s", "% s")
		fmt.Fprintf(&out, "- %s, due on %s\n", label, d.Due.In(s.Settings().Zone).Format("2 January 2006"))
	}
	out.WriteString("\nAll of them, and “still right” for each:\n\n%s\n")
	return subject, out.String()
}
