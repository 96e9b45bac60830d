package edit

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// Field names a field of a page. Values travel as strings in one canonical form, so forms, sheets, the log and the
// comparison of mine and theirs need no second one.
type Field string

const (
	FieldLabel          Field = "label"
	FieldTitle          Field = "title"
	FieldSummary        Field = "summary"
	FieldKind           Field = "kind"
	FieldText           Field = "text"            // hash of the sanitised text
	FieldSegment        Field = "segment"         // "~" before it while it follows the label
	FieldOwnAddress     Field = "own_address"     // normal form
	FieldShortAddresses Field = "short_addresses" // sorted, one a line
	FieldStatus         Field = "status"          // live, offline
	FieldLiveFrom       Field = "live_from"       // RFC 3339 in UTC, or empty
	FieldLiveUntil      Field = "live_until"
	FieldListed         Field = "listed"   // yes, no
	FieldAudience       Field = "audience" // empty, everyone, signed-in, or role keys joined by "|"
	FieldConceal        Field = "conceal"  // yes, no
	FieldSort           Field = "sort"
	FieldPin            Field = "pin"
	FieldDate           Field = "date"          // of the kind, 2026-11-24, or empty
	FieldLayout         Field = "layout"        // key of the page's own layout, or empty
	FieldBranchLayout   Field = "branch_layout" // key of that of the page and all below it, or empty
	FieldLeadsTo        Field = "leads_to"      // of a binned page: the id of the page its addresses lead to, or empty
)

// A FieldChange is a field with the value it is expected to have and the one it gets. Derived ones follow from another
// change of the same operation and are made anew when it is brought up to date.
type FieldChange struct {
	Field   Field  `json:"field"`
	Old     string `json:"old"`
	New     string `json:"new"`
	Derived bool   `json:"derived,omitempty"`
}

// LabelLimit and its like bound what a person may type, in characters.
const (
	LabelLimit   = 200
	SummaryLimit = 1000
)

func turned(changes []FieldChange) []FieldChange {
	back := make([]FieldChange, 0, len(changes))
	for _, c := range slices.Backward(changes) {
		back = append(back, FieldChange{c.Field, c.New, c.Old, c.Derived})
	}
	return back
}

func turnedOne(c *FieldChange) *FieldChange {
	if c == nil {
		return nil
	}
	return &FieldChange{c.Field, c.New, c.Old, c.Derived}
}

// needs gives the rights for changing fields, each once (rules 8.1).
func needs(changes []FieldChange) []site.Action {
	var needed []site.Action
	for _, c := range changes {
		action := site.ActionArrange
		switch c.Field {
		case FieldLabel, FieldTitle, FieldSummary, FieldKind, FieldText, FieldDate:
			action = site.ActionEdit
		case FieldAudience, FieldConceal:
			action = site.ActionAdmit
		case FieldLayout, FieldBranchLayout:
			action = site.ActionPlace
		}
		if !slices.Contains(needed, action) && !c.Derived {
			needed = append(needed, action)
		}
	}
	return needed
}

// Value gives a field of a page in its canonical form.
func Value(p *site.Page, field Field) string { return pageTable.value(p, field) }

// pageTable is every field of a page.
var pageTable = table[site.Page]{
	{
		FieldLabel,
		func(p *site.Page) string { return p.Label },
		func(_ *site.Site, p *site.Page, value string) (err error) {
			p.Label, err = oneLine(value, "A label", LabelLimit)
			if err == nil && p.Label == "" {
				err = refuse("A page needs a label: a few words that name it in menus.")
			}
			return err
		},
	},
	words(FieldTitle, "A title", LabelLimit, func(p *site.Page) *string { return &p.Title }),
	words(FieldSummary, "A summary", SummaryLimit, func(p *site.Page) *string { return &p.Summary }),
	{FieldKind, func(p *site.Page) string { return p.Kind }, func(s *site.Site, p *site.Page, value string) error {
		value = cmp.Or(value, "page")
		known := slices.ContainsFunc(s.Kinds(), func(k site.Kind) bool { return k.Key == value })
		if !known && value != "page" && value != p.Kind && len(s.Kinds()) > 0 {
			return refuse("There is no page type “%s”.", value)
		}
		p.Kind = value
		return nil
	}},
	{FieldText, func(p *site.Page) string { return p.Text }, func(_ *site.Site, p *site.Page, value string) error {
		p.Text = value
		return nil
	}},
	{FieldSegment, func(p *site.Page) string {
		if p.SegmentFollows {
			return "~" + p.Segment
		}
		return p.Segment
	}, setSegment},
	{
		FieldOwnAddress,
		func(p *site.Page) string { return p.OwnAddress },
		func(_ *site.Site, p *site.Page, value string) error {
			if value != "" {
				if err := address.CheckFixed(value); err != nil {
					return refuse("A fixed address can't be that: %v.", err)
				}
			}
			p.OwnAddress = value
			return nil
		},
	},
	{FieldShortAddresses, func(p *site.Page) string { return strings.Join(p.ShortAddresses, "\n") }, setShortAddresses},
	choice(FieldStatus, func(p *site.Page) *site.Status { return &p.Status }, site.StatusLive, site.StatusOffline),
	instant(FieldLiveFrom, func(p *site.Page) *time.Time { return &p.LiveFrom }),
	instant(FieldLiveUntil, func(p *site.Page) *time.Time { return &p.LiveUntil }),
	flag(FieldListed, func(p *site.Page) *bool { return &p.Listed }),
	audience(func(p *site.Page) *site.Audience { return &p.Audience }),
	flag(FieldConceal, func(p *site.Page) *bool { return &p.Conceal }),
	{
		FieldSort,
		func(p *site.Page) string { return string(p.Sort) },
		func(_ *site.Site, p *site.Page, value string) (err error) {
			p.Sort, err = oneOf(
				site.SortRule(cmp.Or(value, string(site.SortManual))),
				site.SortManual,
				site.SortLabel,
				site.SortNewest,
				site.SortDate,
				site.SortDateDown,
			)
			return err
		},
	},
	choice(FieldPin, func(p *site.Page) *site.Pin { return &p.Pin }, site.PinNone, site.PinStart, site.PinEnd),
	{FieldDate, func(p *site.Page) string { return p.Date }, func(_ *site.Site, p *site.Page, value string) error {
		p.Date = value
		if value == "" {
			return nil
		}
		day, wrong := time.Parse(time.DateOnly, value)
		if wrong != nil {
			return refuse("“%s” is not a date; write it as 2026-11-24.", value)
		}
		return checkYear(day)
	}},
	layout(FieldLayout, func(p *site.Page) *string { return &p.Layout }),
	layout(FieldBranchLayout, func(p *site.Page) *string { return &p.BranchLayout }),
	{FieldLeadsTo, func(p *site.Page) string {
		if p.LeadsTo == 0 {
			return ""
		}
		return strconv.FormatInt(int64(p.LeadsTo), 10)
	}, setLeadsTo},
}

func setShortAddresses(_ *site.Site, p *site.Page, value string) error {
	p.ShortAddresses = nil
	for short := range strings.FieldsSeq(value) {
		if err := address.CheckFixed(short); err != nil {
			return refuse("A short address can't be that: %v.", err)
		}
		p.ShortAddresses = append(p.ShortAddresses, short)
	}
	slices.Sort(p.ShortAddresses)
	p.ShortAddresses = slices.Compact(p.ShortAddresses)
	return nil
}

// setLeadsTo chooses where the addresses of a binned page lead; a way that would come back to it is refused (rules
// 3.5).
func setLeadsTo(s *site.Site, p *site.Page, value string) error {
	p.LeadsTo = 0
	if value == "" {
		return nil
	}
	id, err := strconv.ParseInt(value, 10, 64)
	if err != nil || s.Page(site.PageID(id)) == nil || s.Page(site.PageID(id)).Purged {
		return refuse("The page to which the addresses should lead is not there any more.")
	}
	for at, seen := site.PageID(id), map[site.PageID]bool{}; at != 0 && !seen[at]; {
		if at == p.ID {
			return refuse("The addresses of “%s” would lead round in a circle, back to itself.", p.Label)
		}
		seen[at] = true
		for above := s.Page(at); above != nil && !s.InTree(at) && above.LeadsTo == 0; above = s.Page(at) {
			if at = above.Parent; at == p.ID {
				return refuse("The addresses of “%s” would lead round in a circle, back to itself.", p.Label)
			}
		}
		if s.InTree(at) || s.Page(at) == nil {
			break
		}
		at = s.Page(at).LeadsTo
	}
	p.LeadsTo = site.PageID(id)
	return nil
}

// setSegment takes a typed segment, "~" or "" to follow the label, or "~" and a segment to follow it from there.
// Whether it is free is asked at the end of the step.
func setSegment(s *site.Site, p *site.Page, value string) error {
	exact, follows := strings.CutPrefix(value, "~")
	p.SegmentFollows = follows || value == ""
	switch {
	case exact == "":
		p.Segment = address.Segment(p.Label)
		return nil
	case !address.ValidSegment(exact):
		return refuse(
			"The last part of an address can hold small letters a to z, digits and hyphens, at most %d of them; try “%s”.",
			address.SegmentLimit,
			address.Segment(exact),
		)
	}
	if p.Parent == s.Home() && !follows && address.IsReserved(exact) {
		return refuse("Addresses that start with “/%s” belong to the program; choose another last part.", exact)
	}
	p.Segment = exact
	return nil
}

// CheckField says what is wrong with a value of a page's field by itself; nil if nothing is. Whether it goes together
// with others is found when it is set.
func CheckField(s *site.Site, field Field, value string) error {
	if field == FieldSegment {
		if exact := strings.TrimPrefix(value, "~"); exact != "" && !address.ValidSegment(exact) {
			return setSegment(s, &site.Page{}, exact)
		}
		return nil
	}
	return pageTable.set(s, &site.Page{}, field, value)
}

// FixedOnHome says whether a field is what it is on the home page (rules 2.1).
func FixedOnHome(field Field) bool { return fixedOnHome(field) }

// Inexact fields of the home page: it is always live, listed and at "/" (rules 2.1).
func fixedOnHome(field Field) bool {
	return slices.Contains(
		[]Field{FieldSegment, FieldOwnAddress, FieldStatus, FieldLiveFrom, FieldLiveUntil, FieldListed, FieldPin},
		field,
	)
}

// turning are the signs that turn the direction of what is written after them (Unicode UAX #9): words with them read
// otherwise than they are.
const turning = "\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"

func oneLine(value, what string, limit int) (string, error) {
	if strings.ContainsAny(value, turning) {
		return "", refuse("%s can't hold signs that turn the direction of writing; type it without them.", what)
	}
	value = strings.Join(strings.FieldsFunc(strings.ToValidUTF8(value, ""), func(r rune) bool {
		return unicode.IsSpace(r) || unicode.IsControl(r)
	}), " ")
	if n := utf8.RuneCountInString(value); n > limit {
		return "", refuse("%s can have %d characters at most; this one has %d.", what, limit, n)
	}
	return value, nil
}

func oneOf[T ~string, V ~string](value V, allowed ...T) (T, error) {
	if slices.Contains(allowed, T(value)) {
		return T(value), nil
	}
	return "", refuse("“%s” is not one of the choices here.", value)
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

func parseYes(value string) (bool, error) {
	chosen, err := oneOf(value, "yes", "no")
	return chosen == "yes", err
}

func moment(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.UTC().Format(time.RFC3339)
}

func parseMoment(value string) (time.Time, error) {
	if value == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.RFC3339, value)
	if err != nil {
		return t, refuse("“%s” is not a date and time.", value)
	}
	return t.UTC(), checkYear(t)
}

// Years that a date can have: no page is older or will live longer, and the database keeps them.
const firstYear, lastYear = 1000, 9000

func checkYear(t time.Time) error {
	if y := t.Year(); y < firstYear || y > lastYear {
		return refuse("The year %d can't be meant; a date lies between the years %d and %d.", y, firstYear, lastYear)
	}
	return nil
}

// ParseAudience reads an audience and sorts its roles; a role that the site does not have is refused.
func ParseAudience(s *site.Site, value string) (site.Audience, error) {
	audience := site.Audience(value)
	roles := audience.Roles()
	for _, key := range roles {
		if s.Role(key) == nil {
			return "", refuse("There is no role “%s”.", key)
		}
	}
	if roles == nil {
		return audience, nil
	}
	slices.Sort(roles)
	return site.Audience(strings.Join(slices.Compact(roles), "|")), nil
}
