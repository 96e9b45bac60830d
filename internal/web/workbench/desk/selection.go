package desk

import (
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A Selection is the sheet of several things: how many, where, and what they have in common.
type Selection struct {
	*Desk
	Words    string // how many, and what travels along
	Where    string
	Siblings bool // they stand beside each other, so that they have positions
	Position string
	Of       int
	Choices  []ForMany
	Locked   bool
}

// A ForMany is a field that is set for all at once, with the values that it can have. Value is what they have in
// common; Several where that is nothing.
type ForMany struct {
	Field   edit.Field
	Label   string
	Value   string
	Several string // which values there are, in words
	Options []Option
	Locked  bool
	Why     string // it can't be set
}

// An Option is a value of a field, and how people read it.
type Option struct{ Value, Words string }

// Common finds what things have in common in a field, else says how many have which value.
func (f *ForMany) Common(values []string) {
	counts := map[string]int{}
	for _, v := range values {
		counts[v]++
	}
	if len(counts) == 1 {
		f.Value = values[0]
		return
	}
	var parts []string
	for _, o := range f.Options {
		if n := counts[o.Value]; n > 0 {
			parts = append(parts, count.Number(n)+" "+o.Words)
		}
	}
	f.Value, f.Several = "-", strings.Join(parts, ", ")
}

// Options gives values and their words, told in turn.
func Options(pairs ...string) []Option {
	var all []Option
	for i := 0; i+1 < len(pairs); i += 2 {
		all = append(all, Option{pairs[i], pairs[i+1]})
	}
	return all
}

// Audiences gives who can be admitted: signed in, and each role, after what is told before them.
func (d *Desk) Audiences(before ...string) []Option {
	all := Options(append(before, string(site.AudienceSignedIn), "signed in")...)
	for _, r := range d.Site.Roles() {
		all = append(all, Option{r.Key, r.Name})
	}
	return all
}
