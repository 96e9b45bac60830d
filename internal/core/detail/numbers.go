package detail

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	decimal "golang.org/x/text/number"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// numeral is a number in its canonical form: at most fifteen digits before the point, so that it is exact, and six
// behind it.
var numeral = regexp.MustCompile(`^-?(0|[1-9][0-9]{0,14})(\.[0-9]{0,5}[1-9])?$`)

// number is a number with its unit.
func number() Type {
	t := typeOf(site.DetailNumber, "Number")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) { return readNumber(d, text) }
	t.Shown = func(s *site.Site, d site.Detail, value string) []Shown {
		words := numberWords(s, value)
		if d.Unit != "" {
			words += " " + d.Unit
		}
		return []Shown{{Words: words}}
	}
	t.Order = orderOfNumber
	return t
}

func readNumber(d site.Detail, text string) (string, error) {
	text = strings.TrimSpace(text)
	if d.Unit != "" {
		text = strings.TrimSpace(strings.TrimSuffix(text, d.Unit))
	}
	text = strings.Replace(text, "−", "-", 1)
	if _, after, once := strings.Cut(text, ","); once {
		if strings.ContainsAny(after, ",.") || len(after) == 3 {
			const unclear = "“%s” can be read in two ways: write a number with a point, as in 4.5, and without commas."
			return "", typed.Refuse(unclear, text)
		}
		text = strings.Replace(text, ",", ".", 1)
	}
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	if strings.HasPrefix(text, ".") {
		text = "0" + text
	}
	if !numeral.MatchString(text) || text == "-0" {
		return "", typed.Refuse("“%s” is no number for %s: write it as 4 or 4.5, with at most six digits behind the point.",
			text, quoted(d))
	}
	return text, nil
}

// numberWords writes a number as readers of the site's language do (CLDR, by x/text).
func numberWords(s *site.Site, value string) string {
	x, err := strconv.ParseFloat(value, 64)
	tag, unknown := language.Parse(s.Settings().Language)
	if err != nil || unknown != nil {
		return value
	}
	_, behind, _ := strings.Cut(value, ".")
	return message.NewPrinter(tag).Sprint(decimal.Decimal(x, decimal.Scale(len(behind))))
}

// orderOfNumber writes a number so that its bytes stand in the order of numbers.
func orderOfNumber(value string) string {
	x, err := strconv.ParseFloat(value, 64)
	if err != nil {
		return ""
	}
	bits := math.Float64bits(x)
	if x < 0 {
		bits = ^bits
	} else {
		bits |= 1 << 63
	}
	return fmt.Sprintf("%016x", bits)
}

// date is a day.
func date() Type {
	t := typeOf(site.DetailDate, "Date")
	t.Read = func(_ *site.Site, _ site.Detail, text string) (string, error) { return readDate(text) }
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		return []Shown{{Words: DateWords(s, value)}}
	}
	return t
}

func readDate(text string) (string, error) {
	at, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return "", typed.Refuse("“%s” is not a date; write it as 2026-11-24.", text)
	}
	return text, typed.CheckYear(at)
}

// dates is from one day to another, both included, as in “2026-04-01/2026-09-30” (ISO 8601); either can be left open.
func dates() Type {
	t := typeOf(site.DetailDates, "Range of dates")
	t.Read = func(_ *site.Site, d site.Detail, text string) (string, error) {
		ends := strings.Split(text, "/")
		if len(ends) != 2 || ends[0] == "" && ends[1] == "" {
			return "", typed.Refuse("%s has a first and a last day, as in 2026-04-01/2026-09-30.", quoted(d))
		}
		for _, end := range ends {
			if end == "" {
				continue
			}
			if _, err := readDate(end); err != nil {
				return "", err
			}
		}
		if ends[0] != "" && ends[1] != "" && ends[1] < ends[0] {
			return "", typed.Refuse("%s would end before it begins.", quoted(d))
		}
		return text, nil
	}
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		from, until, _ := strings.Cut(value, "/")
		switch {
		case from == "":
			return []Shown{{Words: "until " + DateWords(s, until)}}
		case until == "":
			return []Shown{{Words: "from " + DateWords(s, from)}}
		}
		return []Shown{{Words: DateWords(s, from) + " to " + DateWords(s, until)}}
	}
	return t
}

// moment is a day and a time, in the zone of the site.
func moment() Type {
	t := typeOf(site.DetailMoment, "Date and time")
	t.Read = func(_ *site.Site, _ site.Detail, text string) (string, error) {
		at, err := typed.ParseMoment(text)
		return typed.Moment(at), err
	}
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		at, err := typed.ParseMoment(value)
		if err != nil {
			return nil
		}
		at = at.In(s.Settings().Zone)
		return []Shown{{Words: DateWords(s, at.Format(time.DateOnly)) + ", " + at.Format("15:04")}}
	}
	return t
}

// DateWords writes a day as readers of the site do: with the name of its month in English, else in figures; as it
// stands where it is none.
func DateWords(s *site.Site, value string) string {
	at, err := time.Parse(time.DateOnly, value)
	if err != nil {
		return value
	}
	inEnglish := strings.HasPrefix(s.Settings().Language, "en")
	switch order := s.Settings().Dates; {
	case order == site.DatesYearMonth:
		return value
	case order == site.DatesMonthDay && inEnglish:
		return at.Format("January 2, 2006")
	case order == site.DatesMonthDay:
		return at.Format("01/02/2006")
	case inEnglish:
		return at.Format("2 January 2006")
	}
	return at.Format("02.01.2006")
}
