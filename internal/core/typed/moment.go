package typed

import (
	"strconv"
	"strings"
	"time"
	"unicode"

	"vineladder/internal/core/site"
)

// A Calendar is how people of a site read and type moments.
type Calendar struct {
	Order site.DateOrder
	Zone  *time.Location
	Now   time.Time // what “tomorrow” and a date without a year are counted from
}

// CalendarOf is that of a site's settings.
func CalendarOf(s *site.Site, now time.Time) Calendar {
	return Calendar{s.Settings().Dates, s.Settings().Zone, now}
}

// layouts are how a moment stands in a field. What stands there is read as the same moment.
var layouts = map[site.DateOrder]string{
	site.DatesDayMonth:  "02.01.2006 15:04",
	site.DatesMonthDay:  "01/02/2006 15:04",
	site.DatesYearMonth: "2006-01-02 15:04",
}

// Write writes a moment as it stands in a field, in minutes; "" for none.
func (c Calendar) Write(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	layout, known := layouts[c.Order]
	if !known {
		layout = layouts[site.DatesDayMonth]
	}
	return t.In(c.Zone).Format(layout)
}

// Example shows how a moment can be typed.
func (c Calendar) Example() string {
	return c.Write(time.Date(2026, time.November, 24, 14, 30, 0, 0, c.Zone))
}

// Read takes a moment as people type it: “24.11.2026”, “24 Nov”, “1 March 2027 14:30”, “tomorrow 9 am”. The order of
// day and month is the site's, but a year of four digits may come first. Without a year it is the next such day;
// without a time it is 00:00, and of an end the end of that day (rules 1). RFC 3339 is read as it stands; "" is none.
func (c Calendar) Read(text string, end bool) (time.Time, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return time.Time{}, nil
	}
	if t, err := time.Parse(time.RFC3339, text); err == nil {
		return t.UTC(), CheckYear(t)
	}
	if t, err := time.ParseInLocation("2006-01-02T15:04", text, c.Zone); err == nil {
		return t.UTC(), CheckYear(t)
	}
	words, clock := c.parts(text)
	hour, minute, timed, ok := clockOf(clock)
	year, month, day, known := c.dayOf(words)
	if !ok || !known {
		return time.Time{}, Refuse("“%s” can't be read as a date; type it like “%s”.", text, c.Example())
	}
	t := time.Date(year, month, day, hour, minute, 0, 0, c.Zone)
	if first := time.Date(year, month, day, 12, 0, 0, 0, time.UTC); first.Day() != day || first.Month() != month {
		return time.Time{}, Refuse("%s %d has no day %d.", month, year, day)
	}
	if end && !timed {
		t = time.Date(year, month, day+1, 0, 0, 0, 0, c.Zone)
	}
	return t.UTC(), CheckYear(t)
}

// WriteDay and ReadDay do the same for a day without a time, kept as 2026-11-24; "" for none.
func (c Calendar) WriteDay(day string) string {
	at, err := time.ParseInLocation(time.DateOnly, day, c.Zone)
	if err != nil {
		return ""
	}
	words, _, _ := strings.Cut(c.Write(at.Add(12*time.Hour)), " ")
	return words
}

// ReadDay reads what a person types as a day.
func (c Calendar) ReadDay(text string) (string, error) {
	at, err := c.Read(text, false)
	if err != nil || at.IsZero() {
		return "", err
	}
	return at.In(c.Zone).Format(time.DateOnly), nil
}

// ReadDays reads two days with “–”, “-” between blanks, “to” or “/” between them, either of which can be left out, as
// 2026-04-01/2026-09-30.
func (c Calendar) ReadDays(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	text = " " + text + " "
	for _, between := range []string{"–", " - ", " to ", " / "} {
		first, last, found := strings.Cut(text, between)
		if !found {
			continue
		}
		from, err := c.ReadDay(first)
		if err != nil {
			return "", err
		}
		until, err := c.ReadDay(last)
		return from + "/" + until, err
	}
	if from, until, iso := strings.Cut(strings.TrimSpace(text), "/"); iso && (len(from) == 10 || len(until) == 10) {
		return strings.TrimSpace(text), nil
	}
	const two = "Type a first and a last day with a dash between them, as in %s – %s."
	return "", Refuse(two, c.exampleDay(0), c.exampleDay(7))
}

// exampleDay is a day that can be typed, some days after the one of Example.
func (c Calendar) exampleDay(later int) string {
	return c.WriteDay(time.Date(2026, time.November, 24+later, 0, 0, 0, 0, time.UTC).Format(time.DateOnly))
}

// parts parts the words of a date from those of a time of day.
func (c Calendar) parts(text string) (date, clock []string) {
	fields := strings.FieldsFunc(
		strings.ToLower(text),
		func(r rune) bool { return unicode.IsSpace(r) || r == ',' || r == 'T' },
	)
	for i, f := range fields {
		half := f == "am" || f == "pm"
		switch {
		case f == "at" || f == "of" || f == "the":
		case strings.Contains(f, ":") || f == "noon" || f == "midnight" || half ||
			i+1 < len(fields) && (fields[i+1] == "am" || fields[i+1] == "pm") ||
			len(f) > 2 && unicode.IsDigit(rune(f[0])) && (strings.HasSuffix(f, "am") || strings.HasSuffix(f, "pm")):
			clock = append(clock, f)
		default:
			date = append(date, strings.FieldsFunc(f, func(r rune) bool { return strings.ContainsRune("./-", r) })...)
		}
	}
	return date, clock
}

// clockOf reads a time of day; timed says that there is one.
func clockOf(words []string) (hour, minute int, timed, ok bool) {
	switch text := strings.Join(words, ""); text {
	case "":
		return 0, 0, false, true
	case "noon":
		return 12, 0, true, true
	case "midnight":
		return 0, 0, true, true
	default:
		digits, half := strings.TrimSuffix(text, "am"), 0
		if digits != text {
			half = 1
		} else if digits = strings.TrimSuffix(text, "pm"); digits != text {
			half = 2
		}
		hours, minutes, parted := strings.Cut(digits, ":")
		if !parted {
			minutes = "0"
		}
		hour, okHour := number(hours, 24)
		minute, okMinute := number(minutes, 59)
		switch {
		case !okHour || !okMinute || hour == 24 && minute > 0 || half > 0 && (hour < 1 || hour > 12):
			return 0, 0, false, false
		case half > 0:
			hour = hour%12 + 12*(half-1)
		}
		return hour, minute, true, true
	}
}

// number reads a number of digits from 0 to a greatest.
func number(text string, most int) (int, bool) {
	n, err := strconv.Atoi(text)
	return n, err == nil && n >= 0 && n <= most && unicode.IsDigit(rune(text[0]))
}

// dayOf reads a date: a name of a day, two or three numbers, or a month by name with a day and perhaps a year.
func (c Calendar) dayOf(words []string) (year int, month time.Month, day int, ok bool) {
	today := c.Now.In(c.Zone)
	if len(words) == 1 {
		switch words[0] {
		case "tomorrow":
			today = today.AddDate(0, 0, 1)
		case "today":
		default:
			return 0, 0, 0, false
		}
		return today.Year(), today.Month(), today.Day(), true
	}
	var numbers []int
	named := time.Month(0)
	yearFirst := len(words) > 0 && len(words[0]) == 4
	for i, w := range words {
		if n, isNumber := number(ordinal(w), 9999); isNumber {
			if i == len(words)-1 && len(words) == 3 && len(w) == 2 && !yearFirst { // “26” is 2026
				n += 2000
			}
			numbers = append(numbers, n)
		} else if m := monthOf(w); m > 0 && named == 0 {
			named = m
		} else {
			return 0, 0, 0, false
		}
	}
	return c.assemble(numbers, named, yearFirst, today)
}

// ordinal takes the ending off “1st”, “2nd”, “3rd”, “4th”.
func ordinal(word string) string {
	for _, end := range []string{"st", "nd", "rd", "th"} {
		if bare := strings.TrimSuffix(word, end); bare != word && bare != "" && unicode.IsDigit(rune(bare[0])) {
			return bare
		}
	}
	return word
}

// assemble puts the numbers of a date in their places.
func (c Calendar) assemble(n []int, named time.Month, yearFirst bool, today time.Time) (int, time.Month, int, bool) {
	year, month, day := 0, named, 0
	switch {
	case named > 0 && len(n) == 2 && yearFirst:
		year, day = n[0], n[1]
	case named > 0 && len(n) == 2:
		day, year = n[0], n[1]
	case named > 0 && len(n) == 1:
		day = n[0]
	case named > 0 || len(n) < 2 || len(n) > 3:
		return 0, 0, 0, false
	case len(n) == 3 && (yearFirst || c.Order == site.DatesYearMonth):
		year, month, day = n[0], time.Month(n[1]), n[2]
	default:
		day, month = n[0], time.Month(n[1])
		if c.Order != site.DatesDayMonth {
			day, month = n[1], time.Month(n[0])
		}
		if len(n) == 3 {
			year = n[2]
		}
	}
	if month < 1 || month > 12 || day < 1 || day > 31 {
		return 0, 0, 0, false
	}
	if named > 0 && len(n) == 1 || named == 0 && len(n) == 2 {
		year = today.Year()
		if time.Date(year, month, day+1, 0, 0, 0, 0, c.Zone).Before(today) {
			year++
		}
	}
	return year, month, day, true
}

// monthOf reads the name of a month, of three letters at least; 0 for none.
func monthOf(word string) time.Month {
	for m := time.January; m <= time.December; m++ {
		if name := strings.ToLower(m.String()); len(word) >= 3 && strings.HasPrefix(name, word) {
			return m
		}
	}
	return 0
}
