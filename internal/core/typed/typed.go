// Package typed takes what a person typed, or a program wrote, into the one form that is kept, and refuses what can't
// be meant with a sentence for who typed it.
package typed

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"vineladder/internal/core/site"
)

// A Refusal is what rules forbid, as a sentence for the person who asked.
type Refusal struct{ Sentence string }

func (r *Refusal) Error() string { return r.Sentence }

// Refuse makes a refusal.
func Refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// Missing is something that a value names and that is not there any more, as a sentence.
type Missing struct {
	Page     site.PageID // 0: it is no page
	Sentence string
}

func (m *Missing) Error() string { return m.Sentence }

// turning are the signs that turn the direction of what is written after them (Unicode UAX #9): words with them read
// otherwise than they are.
const turning = "\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"

// Line takes one line of text: blanks and controls are one blank, and none at the ends. what names it in a refusal,
// limit counts characters.
func Line(text, what string, limit int) (string, error) {
	if strings.ContainsAny(text, turning) {
		return "", Refuse("%s can't hold signs that turn the direction of writing; type it without them.", what)
	}
	text = strings.Join(strings.FieldsFunc(strings.ToValidUTF8(text, ""), func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r)
	}), " ")
	if n := utf8.RuneCountInString(text); n > limit {
		return "", Refuse("%s can have %d characters at most; this one has %d.", what, limit, n)
	}
	return text, nil
}

// OneOf takes one of a few words.
func OneOf[T ~string, V ~string](text V, allowed ...T) (T, error) {
	if slices.Contains(allowed, T(text)) {
		return T(text), nil
	}
	return "", Refuse("“%s” is not one of the choices here.", text)
}

// Yes writes “yes” or “no”; ParseYes reads it.
func Yes(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

// ParseYes reads what Yes wrote.
func ParseYes(text string) (bool, error) {
	chosen, err := OneOf(text, "yes", "no")
	return chosen == "yes", err
}

// Moment writes a moment as RFC 3339 in UTC; "" for none. ParseMoment reads it.
func Moment(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}

// ParseMoment reads what Moment wrote, or a moment of any zone.
func ParseMoment(text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return t, Refuse("“%s” is not a date and time.", text)
	}
	return t.UTC(), CheckYear(t)
}

// Years that a date can have: no page is older or will live longer, and the database keeps them.
const firstYear, lastYear = 1000, 9000

// CheckYear refuses a moment that can't be meant.
func CheckYear(t time.Time) error {
	if y := t.Year(); y < firstYear || y > lastYear {
		return Refuse("The year %d can't be meant; a date lies between the years %d and %d.", y, firstYear, lastYear)
	}
	return nil
}

// File takes what shows a file: the reference to a page that is one or, as before files were pages, its name.
func File(s *site.Site, text string) (string, error) {
	if id, isPage := site.ReadFileRef(text); isPage {
		switch p := s.Page(id); {
		case p == nil || p.Purged:
			return "", &Missing{Page: id, Sentence: "The file is not there any more."}
		case !p.IsFile():
			return "", Refuse("“%s” is no file.", p.Label)
		}
		return text, nil
	}
	if text == "" || strings.ContainsAny(text, "/\\") {
		return "", Refuse("Choose a file.")
	}
	return text, nil
}
