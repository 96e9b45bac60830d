package edit

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// Fields of a page.
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
	FieldListed         Field = "listed"        // yes, no
	FieldAudience       Field = "audience"      // empty, everyone, signed-in, or role keys joined by "|"
	FieldConceal        Field = "conceal"       // yes, no
	FieldKeptOut        Field = "kept_out"      // yes, no: of search engines, with all below
	FieldSecondPerson   Field = "second_person" // yes, no: nobody publishes alone here what they made
	FieldSort           Field = "sort"
	FieldPin            Field = "pin"
	FieldDate           Field = "date"          // of the kind, 2026-11-24, or empty
	FieldLayout         Field = "layout"        // key of the page's own layout, or empty
	FieldBranchLayout   Field = "branch_layout" // key of that of the page and all below it, or empty
	FieldLeadsTo        Field = "leads_to"      // of a binned page: the id of the page its addresses lead to, or empty
	FieldListing        Field = "listing"       // what it lists, as in "notice;;branch:4;newest;5", or empty
	FieldTopics         Field = "topics"        // as in "page:12|page:15", ascending
	FieldOtherLabels    Field = "other_labels"  // of a topic: sorted, one a line
	FieldHiddenLabels   Field = "hidden_labels" // the same
	FieldScopeNote      Field = "scope_note"    // of a topic
	FieldOwner          Field = "owner"         // "role:staff", "person:keeper", or empty: as above
	FieldReview         Field = "review"        // months, "never", or empty: as above
	FieldNote           Field = "note"          // for colleagues
	FieldMergedInto     Field = "merged_into"   // of a topic: the id of the one that it counts as in the bin, or empty
)

// LabelLimit and its like bound what a person may type, in characters.
const (
	LabelLimit   = 200
	SummaryLimit = 1000
)

// pageFields is every field of a page, in the order of the sheet's columns.
var pageFields = family[site.Page]{
	Column[site.Page, string]{
		Fact: Fact{
			Field:  FieldLabel,
			Needs:  site.ActionEdit,
			Traits: Copied | Purged | InSheet | Addresses | Ordering,
		},
		Get: func(p *site.Page) string { return p.Label },
		Set: func(_ *site.Site, p *site.Page, label string) error {
			if p.Label = label; label == "" {
				return refuse("A page needs a label: a few words that name it in menus.")
			}
			return nil
		},
		Form: line("A label", LabelLimit),
	},
	at(
		Fact{Field: FieldTitle, Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Inner},
		line("A title", LabelLimit), func(p *site.Page) *string { return &p.Title },
	),
	Column[site.Page, string]{
		Fact: Fact{
			Field: FieldSegment, Words: "last part of the address", Traits: InSheet | HomeFixed | Addresses | Placing,
		},
		Get: func(p *site.Page) string {
			if p.SegmentFollows {
				return "~" + p.Segment
			}
			return p.Segment
		},
		Set:  setSegment,
		Form: plain(),
	},
	at(
		Fact{
			Field: FieldOwnAddress, Words: "fixed address", Traits: InSheet | HomeFixed | Addresses | Placing,
		},
		fixedAddress(), func(p *site.Page) *string { return &p.OwnAddress },
	),
	at(
		Fact{Field: FieldStatus, Words: "state of being online", Traits: InSheet | HomeFixed | Placing | ForMany},
		choice(site.StatusLive, site.StatusOffline), func(p *site.Page) *site.Status { return &p.Status },
	),
	at(
		Fact{Field: FieldLiveFrom, Words: "first moment online", Traits: Copied | InSheet | HomeFixed | Placing},
		instant(), func(p *site.Page) *time.Time { return &p.LiveFrom },
	),
	at(
		Fact{Field: FieldLiveUntil, Words: "last moment online", Traits: Copied | InSheet | HomeFixed | Placing},
		instant(), func(p *site.Page) *time.Time { return &p.LiveUntil },
	),
	at(
		Fact{Field: FieldListed, Words: "place in menus", Traits: Copied | InSheet | HomeFixed | Placing | ForMany},
		flag(), func(p *site.Page) *bool { return &p.Listed },
	),
	at(
		Fact{Field: FieldAudience, Needs: site.ActionAdmit, Traits: Copied | InSheet | Placing | ForMany},
		audienceOfPage(), func(p *site.Page) *site.Audience { return &p.Audience },
	),
	Column[site.Page, string]{
		Fact: Fact{
			Field:  FieldKind,
			Words:  "page type",
			Needs:  site.ActionEdit,
			Traits: Copied | InSheet | Laying | ForMany,
		},
		Get:  func(p *site.Page) string { return p.Kind },
		Set:  setKind,
		Form: plain().or("page"),
	},
	at(
		Fact{Field: FieldSummary, Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Inner},
		line("A summary", SummaryLimit), func(p *site.Page) *string { return &p.Summary },
	),
	at(
		Fact{
			Field: FieldConceal, Words: "answer to people without access", Needs: site.ActionAdmit,
			Traits: Copied | InSheet | Placing | ForMany,
		},
		flag(), func(p *site.Page) *bool { return &p.Conceal },
	),
	at(
		Fact{Field: FieldKeptOut, Words: "place in search engines", Traits: Copied | InSheet | ForMany},
		flag().or("no"), func(p *site.Page) *bool { return &p.KeptOut },
	),
	at(
		Fact{Field: FieldSecondPerson, Words: "need of a second person", Needs: site.ActionAdmit},
		flag().or("no"), func(p *site.Page) *bool { return &p.SecondPerson },
	),
	at(
		Fact{Field: FieldShortAddresses, Words: "short addresses", Traits: InSheet | Addresses},
		shortAddresses(), func(p *site.Page) *[]string { return &p.ShortAddresses },
	),
	at(
		Fact{Field: FieldDate, Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Ordering | Inner},
		day(), func(p *site.Page) *string { return &p.Date },
	),
	at(
		Fact{Field: FieldSort, Words: "order of the pages inside", Traits: Copied | InSheet},
		choice(site.SortManual, site.SortLabel, site.SortNewest, site.SortDate, site.SortDateDown).
			or(string(site.SortManual)),
		func(p *site.Page) *site.SortRule { return &p.Sort },
	),
	at(
		Fact{Field: FieldPin, Words: "pin at an end of the order", Traits: InSheet | HomeFixed | Ordering | ForMany},
		choice(site.PinNone, site.PinStart, site.PinEnd), func(p *site.Page) *site.Pin { return &p.Pin },
	),
	at(
		Fact{Field: FieldLayout, Needs: site.ActionPlace, Traits: InSheet | Laying | ForMany},
		layout(), func(p *site.Page) *string { return &p.Layout },
	),
	at(
		Fact{
			Field: FieldBranchLayout, Words: "layout of the branch", Needs: site.ActionPlace,
			Traits: InSheet | Laying | ForMany,
		},
		layout(), func(p *site.Page) *string { return &p.BranchLayout },
	),
	newValues(),
	at(
		Fact{Field: FieldBytes, Words: "contents", Needs: site.ActionEdit, Traits: Purged | Inner},
		bytesForm(), func(p *site.Page) *string { return &p.Bytes },
	),
	at(
		Fact{
			Field: FieldListing, Words: "listing", Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Naming,
		},
		listed(), func(p *site.Page) *string { return &p.Listing },
	),
	Column[site.Page, []site.PageID]{
		Fact: Fact{
			Field: FieldTopics, Needs: site.ActionClassify, Apart: "|",
			Traits: Copied | Purged | InSheet | Naming | ForMany,
		},
		Get:  func(p *site.Page) []site.PageID { return p.Topics },
		Set:  setTopics,
		Form: pageNumbers(),
	},
	at(
		Fact{
			Field: FieldOtherLabels, Words: "other labels", Needs: site.ActionClassify, Apart: "\n",
			Traits: Copied | Purged | InSheet,
		},
		labels(), func(p *site.Page) *[]string { return &p.OtherLabels },
	),
	at(
		Fact{
			Field: FieldHiddenLabels, Words: "hidden labels", Needs: site.ActionClassify, Apart: "\n",
			Traits: Copied | Purged | InSheet,
		},
		labels(), func(p *site.Page) *[]string { return &p.HiddenLabels },
	),
	at(
		Fact{
			Field: FieldScopeNote, Words: "note on scope", Needs: site.ActionClassify, Traits: Copied | Purged | InSheet,
		},
		line("A note on scope", SummaryLimit), func(p *site.Page) *string { return &p.ScopeNote },
	),
	Column[site.Page, site.PageID]{
		Fact: Fact{
			Field: FieldMergedInto, Words: "topic that it was merged into", Needs: site.ActionClassify, Traits: Choosing,
		},
		Get:  func(p *site.Page) site.PageID { return p.MergedInto },
		Set:  setMergedInto,
		Form: pageNumber(stillThere),
	},
	at(
		Fact{Field: FieldOwner, Words: "owner", Needs: site.ActionEdit, Traits: InSheet | ForMany},
		owner(), func(p *site.Page) *site.Owner { return &p.Owner },
	),
	at(
		Fact{Field: FieldReview, Words: "time until a review", Needs: site.ActionEdit, Traits: InSheet | ForMany},
		choice(site.Reviews()...), func(p *site.Page) *site.ReviewEvery { return &p.Review },
	),
	at(
		Fact{
			Field:  FieldNote,
			Words:  "note for colleagues",
			Needs:  site.ActionEdit,
			Traits: Purged | InSheet | Inner,
		},
		line("A note", SummaryLimit),
		func(p *site.Page) *string { return &p.Note },
	),
	at(
		Fact{Field: FieldText, Needs: site.ActionEdit, Traits: Copied | Purged | Inner},
		plain(), func(p *site.Page) *string { return &p.Text },
	),
	Column[site.Page, site.PageID]{
		Fact: Fact{Field: FieldLeadsTo, Words: "place to which the addresses lead"},
		Get:  func(p *site.Page) site.PageID { return p.LeadsTo },
		Set:  setLeadsTo,
		Form: pageNumber(stillThere),
	},
}

// unset is a page with every field as a new one has it.
var unset = site.Page{Kind: "page", Status: site.StatusOffline, Listed: true, Sort: site.SortManual}

// Value gives a field of a page in its canonical form.
func Value(p *site.Page, of Field) string { return pageFields.value(p, of) }

// Values gives every field of a page in its canonical form, by its key.
func Values(p *site.Page) map[string]string {
	values := make(map[string]string, len(pageFields))
	for _, c := range pageFields {
		values[string(c.fact().Field)] = c.read(p)
	}
	maps.Copy(values, p.Values.All())
	return values
}

// UnsetValue gives a field as a new page has it.
func UnsetValue(of Field) string { return pageFields.value(&unset, of) }

// PageFields names the fields of a page that have some traits, in the order of the sheet's columns.
func PageFields(traits Traits) []Field { return pageFields.with(traits) }

// Differ says whether two states of a page differ in a field that has some traits.
func Differ(a, b *site.Page, traits Traits) bool { return pageFields.differ(a, b, traits) }

// FixedOnHome says whether a field is what it is on the home page (rules 2.1).
func FixedOnHome(of Field) bool { return FieldHas(of, HomeFixed) }

// FieldHas says whether a field of a page has some traits.
func FieldHas(of Field, traits Traits) bool {
	c, err := pageFields.column(of)
	return err == nil && c.fact().Has(traits)
}

// apartOf gives what stands between the members of a field of a page; "" for one whose values are no sets.
func apartOf(of Field) string {
	if c, err := pageFields.column(of); err == nil {
		return c.fact().Apart
	}
	return ""
}

// IsSet says whether the values of a field of a page are sets, to which two people can add.
func IsSet(of Field) bool { return apartOf(of) != "" }

// CheckField says what is wrong with a value of a page's field by itself; nil if nothing is. Whether it goes together
// with others is found when it is set.
func CheckField(s *site.Site, of Field, value string) error {
	if of == FieldSegment {
		if exact := strings.TrimPrefix(value, "~"); exact != "" && !address.ValidSegment(exact) {
			return setSegment(s, &site.Page{}, exact)
		}
		return nil
	}
	return pageFields.set(s, &site.Page{}, of, value)
}

func fixedAddress() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			if text != "" {
				text = address.Slashed(text)
				if err := address.CheckFixed(text); err != nil && !isFileAddress(text) {
					return "", refuse("A fixed address can't be that: %v.", err)
				}
			}
			return text, nil
		},
	}
}

func shortAddresses() Form[[]string] {
	return Form[[]string]{
		Write: func(value []string) string { return strings.Join(value, "\n") },
		Read: func(_ *site.Site, text string) ([]string, error) {
			var all []string
			for short := range strings.FieldsSeq(text) {
				short = address.Slashed(short)
				if err := address.CheckFixed(short); err != nil {
					return nil, refuse("A short address can't be that: %v.", err)
				}
				all = append(all, short)
			}
			slices.Sort(all)
			return slices.Compact(all), nil
		},
	}
}

// setKind keeps a type that the page has already, though the site does not know it any more.
func setKind(s *site.Site, p *site.Page, kind string) error {
	known := slices.ContainsFunc(s.Kinds(), func(k site.Kind) bool { return k.Key == kind })
	if !known && !site.IsOwnKind(kind) && kind != "page" && kind != p.Kind && len(s.Kinds()) > 0 {
		return &Conflict{Page: p.ID, Sentence: fmt.Sprintf("There is no page type “%s”.", kind)}
	}
	p.Kind = kind
	return nil
}

func stillThere(s *site.Site, id site.PageID) error {
	if p := s.Page(id); p == nil || p.Purged {
		return refuse("The page to which the addresses should lead is not there any more.")
	}
	return nil
}

// setLeadsTo chooses where the addresses of a binned page lead; a way that would come back to it is refused (rules
// 3.5).
func setLeadsTo(s *site.Site, p *site.Page, to site.PageID) error {
	circle := refuse("The addresses of “%s” would lead round in a circle, back to itself.", p.Label)
	for at, seen := to, map[site.PageID]bool{}; at != 0 && !seen[at]; {
		if at == p.ID {
			return circle
		}
		seen[at] = true
		for above := s.Page(at); above != nil && !s.InTree(at) && above.LeadsTo == 0; above = s.Page(at) {
			if at = above.Parent; at == p.ID {
				return circle
			}
		}
		if s.InTree(at) || s.Page(at) == nil {
			break
		}
		at = s.Page(at).LeadsTo
	}
	p.LeadsTo = to
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

// Reworded says whether the own words of a page are others: label, title, summary, text, details (rules 13). Its note
// is for colleagues, and none of them.
func Reworded(was, is *site.Page) bool {
	a, b := *was, *is
	a.Note, b.Note = "", ""
	return a.Label != b.Label || Differ(&a, &b, Inner)
}
