package detail

import (
	"slices"
	"strings"
	"unicode/utf8"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// line is one line of text.
func line() Type {
	t := typeOf(site.DetailLine, "Line of text")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		return typed.Line(text, quoted(d), Limit)
	}
	return t
}

// text is plain text of several lines; an empty line begins a paragraph.
func text() Type {
	t := typeOf(site.DetailText, "Text")
	t.Order = nil
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		if n := utf8.RuneCountInString(text); n > TextLimit {
			return "", typed.Refuse("%s can have %d characters at most; this one has %d.", quoted(d), TextLimit, n)
		}
		var lines []string
		for row := range strings.SplitSeq(strings.TrimSpace(text), "\n") {
			clean, err := typed.Line(row, quoted(d), TextLimit)
			if err != nil {
				return "", err
			}
			lines = append(lines, clean)
		}
		return strings.Join(lines, "\n"), nil
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		var all []Shown
		for paragraph := range strings.SplitSeq(value, "\n\n") {
			if paragraph = strings.TrimSpace(paragraph); paragraph != "" {
				all = append(all, Shown{Words: paragraph})
			}
		}
		return all
	}
	return t
}

// rich is text with links and emphasis; its value is the hash of the kept text, as that of a page is.
func rich() Type {
	t := typeOf(site.DetailRich, "Rich text")
	t.Order = nil
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		if len(text) != hashLength || strings.Trim(text, "0123456789abcdef") != "" {
			return "", typed.Refuse("%s is kept as a text of its own.", quoted(d))
		}
		return text, nil
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown { return []Shown{{Rich: value}} }
	return t
}

// hashLength is the length of the hash of a kept text.
const hashLength = 32

// choice is one of a few words, choices are several of them, a line each. One that can't be chosen any more stays where
// it stands.
func choice() Type {
	t := typeOf(site.DetailChoice, "Choice of one")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		return typed.Line(text, quoted(d), Limit)
	}
	return t
}

func choices() Type {
	t := typeOf(site.DetailChoices, "Choice of several")
	t.Order = nil
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		var chosen []string
		for row := range strings.SplitSeq(text, "\n") {
			clean, err := typed.Line(row, quoted(d), Limit)
			if err != nil {
				return "", err
			}
			if clean != "" && !slices.Contains(chosen, clean) {
				chosen = append(chosen, clean)
			}
		}
		offered := d.ChoiceList()
		slices.SortStableFunc(chosen, func(a, b string) int {
			return slices.Index(offered, a) - slices.Index(offered, b)
		})
		return strings.Join(chosen, "\n"), nil
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		var all []Shown
		for word := range strings.SplitSeq(value, "\n") {
			all = append(all, Shown{Words: word})
		}
		return all
	}
	return t
}

// CheckChoice refuses words that can't be chosen and that a page did not have before.
func CheckChoice(d site.Detail, was, is string) error {
	if d.Type != site.DetailChoice && d.Type != site.DetailChoices {
		return nil
	}
	allowed := append(strings.Split(was, "\n"), d.ChoiceList()...)
	for word := range strings.SplitSeq(is, "\n") {
		if word != "" && !slices.Contains(allowed, word) {
			return typed.Refuse("“%s” is none of the choices of %s.", word, quoted(d))
		}
	}
	return nil
}

// yesNo is yes or no.
func yesNo() Type {
	t := typeOf(site.DetailYes, "Yes or no")
	t.Read = func(_ *site.Site, _ site.Detail, text string) (string, error) {
		is, err := typed.ParseYes(text)
		return typed.Yes(is), err
	}
	t.Shown = func(_ *site.Site, _ site.Detail, value string) []Shown {
		if value == "yes" {
			return []Shown{{Words: "Yes"}}
		}
		return []Shown{{Words: "No"}}
	}
	return t
}

func quoted(d site.Detail) string { return "“" + d.Label + "”" }
