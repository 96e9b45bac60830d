package listing

import (
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// DateKey stands for the date of a page among the details that are wanted.
const DateKey = "date"

// A Want is what a listing asks of one detail: a value, or one between two ends that are included.
type Want struct {
	Key         string
	Value       string // "": a range is wanted
	From, Until string // "" is open; a day can be “today”, with days added or taken, as in “today-30”
}

// ofToday is an end that moves with the day.
const ofToday = "today"

// Wants reads what a listing asks of details. What can't be read asks for nothing; ParseWants refuses it.
func Wants(q site.BlockListing) []Want {
	values, err := url.ParseQuery(q.Wants)
	if err != nil || len(values) == 0 {
		return nil
	}
	var wants []Want
	for _, key := range slices.Sorted(maps.Keys(values)) {
		for _, text := range values[key] {
			w := Want{Key: key, Value: text}
			if from, until, is := strings.Cut(text, ".."); is {
				w = Want{Key: key, From: from, Until: until}
			}
			wants = append(wants, w)
		}
	}
	return wants
}

// WantsText writes what Wants reads, in one form.
func WantsText(wants []Want) string {
	values := url.Values{}
	for _, w := range wants {
		text := w.Value
		if text == "" {
			text = w.From + ".." + w.Until
		}
		values.Add(w.Key, text)
	}
	return values.Encode()
}

// ParseWants takes what is wanted into its one form, or says what of it can't be meant.
func ParseWants(s *site.Site, text string) (string, error) {
	values, err := url.ParseQuery(text)
	if err != nil {
		return "", typed.Refuse("What is asked of details can't be read: “%s”.", text)
	}
	for key := range values {
		if key != DateKey && s.Detail(key) == nil {
			return "", &typed.Missing{Sentence: "A detail that the listing asks for is not there any more."}
		}
	}
	wants := Wants(site.BlockListing{Wants: text})
	for i := range wants {
		if err := wants[i].check(s); err != nil {
			return "", err
		}
	}
	return WantsText(wants), nil
}

// Of is the detail that a want is about.
func (w Want) Of(s *site.Site) site.Detail {
	if d := s.Detail(w.Key); d != nil {
		return *d
	}
	return site.Detail{Key: w.Key, Label: "Date", Type: site.DetailDate}
}

// Asks says whether visitors may learn of the values of a detail from a listing that asks for them or is sorted by
// them. Those for editors only stay unknown (rules 7.10).
func Asks(d site.Detail) bool { return d.Shows != site.DetailEditors }

// check takes the ends and the value into their canonical form.
func (w *Want) check(s *site.Site) error {
	d := w.Of(s)
	if !Asks(d) {
		return typed.Refuse("“%s” is for editors only; a listing can't ask for it.", d.Label)
	}
	if w.Value != "" {
		read, err := detail.Read(s, d, w.Value)
		w.Value = read
		return err
	}
	switch {
	case !IsRange(d):
		return typed.Refuse("“%s” has no values from one to another; ask for one of them.", d.Label)
	case w.From == "" && w.Until == "":
		return typed.Refuse("Say from where or to where “%s” is asked for.", d.Label)
	}
	for _, end := range []*string{&w.From, &w.Until} {
		if *end == "" {
			continue
		}
		if _, moves := DaysFromToday(*end); moves && d.Type != site.DetailNumber {
			continue
		}
		of := d
		if d.Type != site.DetailNumber {
			of.Type = site.DetailDate
		}
		read, err := detail.Read(s, of, *end)
		if err != nil {
			return err
		}
		*end = read
	}
	return nil
}

// Usual is what is asked of a detail at first, where something can be asked of it.
func Usual(d site.Detail) (w Want, can bool) {
	w = Want{Key: d.Key}
	switch {
	case !Asks(d):
		return w, false
	case d.Type == site.DetailNumber:
		w.From = "0"
	case IsRange(d):
		w.From = ofToday
	case d.Type == site.DetailYes:
		w.Value = "yes"
	case (d.Type == site.DetailChoice || d.Type == site.DetailChoices) && d.Choices != "":
		w.Value = d.ChoiceList()[0]
	default:
		return w, false
	}
	return w, true
}

// IsRange says whether values of a detail can be asked for from one to another.
func IsRange(d site.Detail) bool {
	switch d.Type {
	case site.DetailNumber, site.DetailDate, site.DetailDates, site.DetailMoment:
		return true
	}
	return false
}

// dayLimit bounds the days before and after today.
const dayLimit = 36_600

// DaysFromToday reads an end that moves: “today”, “today+7”, “today-30”.
func DaysFromToday(end string) (days int, moves bool) {
	rest, is := strings.CutPrefix(end, ofToday)
	if !is || rest == "" {
		return 0, is
	}
	days, err := strconv.Atoi(rest)
	return days, err == nil && (rest[0] == '+' || rest[0] == '-') && days >= -dayLimit && days <= dayLimit
}

// Moves says whether what a listing asks for depends on the day.
func Moves(q site.BlockListing) bool { return strings.Contains(q.Wants, ofToday) }

// holds says whether a page has what is wanted on a day of the site's zone; today as 2026-11-24. Where the day is "",
// ends that move are open, so that all is found that holds on some day.
func (w Want) holds(s *site.Site, p *site.Page, today string) bool {
	d, value := w.Of(s), p.Values.Get(w.Key)
	if w.Key == DateKey {
		value = p.Date
	} else if d.Kind() != p.Kind || !Asks(d) {
		return false
	}
	if value == "" || !detail.Reads(s, d, value) {
		return false
	}
	if w.Value != "" {
		return value == w.Value || d.Type == site.DetailChoices && slices.Contains(strings.Split(value, "\n"), w.Value)
	}
	first, last := span(s, d, value)
	from, until := w.end(d, w.From, today), w.end(d, w.Until, today)
	return (from == "" || last == "" || last >= from) && (until == "" || first == "" || first <= until)
}

// span gives the first and the last of what a value stands for, as bytes in order; "" is open.
func span(s *site.Site, d site.Detail, value string) (first, last string) {
	switch d.Type {
	case site.DetailDates:
		first, last, _ = strings.Cut(value, "/")
		return first, last
	case site.DetailMoment:
		at, _ := typed.ParseMoment(value)
		value = at.In(s.Settings().Zone).Format(time.DateOnly)
		return value, value
	case site.DetailNumber:
		value = detail.Of(d).Order(value)
	}
	return value, value
}

// end gives an end as bytes in order; "" is open.
func (w Want) end(d site.Detail, end, today string) string {
	if end == "" {
		return ""
	}
	if days, moves := DaysFromToday(end); moves {
		at, err := time.Parse(time.DateOnly, today)
		if err != nil {
			return ""
		}
		return at.AddDate(0, 0, days).Format(time.DateOnly)
	}
	if d.Type == site.DetailNumber {
		return detail.Of(d).Order(end)
	}
	return end
}

// Today is the day of a moment in the zone of a site.
func Today(s *site.Site, at time.Time) string { return at.In(s.Settings().Zone).Format(time.DateOnly) }

// HoldsAt says whether a candidate has what is wanted at a moment.
func HoldsAt(s *site.Site, p *site.Page, q site.BlockListing, at time.Time) bool {
	return holdsOn(s, p, Wants(q), Today(s, at))
}

func holdsOn(s *site.Site, p *site.Page, wants []Want, today string) bool {
	for _, w := range wants {
		if !w.holds(s, p, today) {
			return false
		}
	}
	return true
}

// NextMidnight gives the first midnight after a moment if something on the site lists pages by the day; else zero.
func NextMidnight(s *site.Site, at time.Time) time.Time {
	moves := false
	for i := range s.Blocks() {
		q, is := OfBlock(s, &s.Blocks()[i])
		moves = moves || is && Moves(q)
	}
	for _, id := range s.Listers() {
		q, _ := Of(s, id)
		moves = moves || Moves(q)
	}
	if !moves {
		return time.Time{}
	}
	day := at.In(s.Settings().Zone)
	return time.Date(day.Year(), day.Month(), day.Day()+1, 0, 0, 0, 0, day.Location())
}

// Midnights gives the moments at which candidates of a listing that moves come or go, in no order.
func Midnights(s *site.Site, q site.BlockListing) []time.Time {
	if !Moves(q) {
		return nil
	}
	var edges []time.Time
	midnight := func(day string, days int) {
		if at, err := time.ParseInLocation(time.DateOnly, day, s.Settings().Zone); err == nil {
			edges = append(edges, time.Date(at.Year(), at.Month(), at.Day()+days, 0, 0, 0, 0, at.Location()))
		}
	}
	for _, id := range Candidates(s, q) {
		p := s.Page(id)
		for _, w := range Wants(q) {
			d, value := w.Of(s), p.Values.Get(w.Key)
			if w.Key == DateKey {
				value = p.Date
			}
			first, last := span(s, d, value)
			if days, moves := DaysFromToday(w.From); moves {
				midnight(last, 1-days) // it holds while today plus the days is no later than its last day
			}
			if days, moves := DaysFromToday(w.Until); moves {
				midnight(first, -days)
			}
		}
	}
	return edges
}
