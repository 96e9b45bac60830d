package edit

import (
	"cmp"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/colour"
	"vineladder/internal/core/site"
)

// Fields of a menu entry. Label, Audience, LiveFrom and LiveUntil are named as those of a page.
const (
	FieldShows       Field = "shows" // see ShowsText
	FieldHint        Field = "hint"
	FieldOn          Field = "on"      // yes, no
	FieldNewTab      Field = "new_tab" // yes, no
	FieldBadgeText   Field = "badge"
	FieldBadgePair   Field = "badge_pair"
	FieldBadgeBefore Field = "badge_before" // yes, no
	FieldIcon        Field = "icon"
)

// Fields of a menu.
const (
	FieldName     Field = "name"
	FieldPrograms Field = "programs" // yes, no
)

// menuTable is every field of a menu.
var menuTable = table[site.Menu]{
	words(FieldName, "A menu's name", 80, func(m *site.Menu) *string { return &m.Name }),
	flag(FieldPrograms, func(m *site.Menu) *bool { return &m.Programs }),
}

// entryTable is every field of an entry.
var entryTable = table[site.Entry]{
	{
		FieldShows,
		func(e *site.Entry) string { return ShowsText(e.Shows) },
		func(s *site.Site, e *site.Entry, value string) (err error) {
			e.Shows, err = ParseShows(s, value)
			return err
		},
	},
	words(FieldLabel, "A label", LabelLimit, func(e *site.Entry) *string { return &e.Label }),
	words(FieldHint, "A hint", LabelLimit, func(e *site.Entry) *string { return &e.Hint }),
	flagOff(FieldOn, func(e *site.Entry) *bool { return &e.Off }),
	audience(func(e *site.Entry) *site.Audience { return &e.Audience }),
	instant(FieldLiveFrom, func(e *site.Entry) *time.Time { return &e.LiveFrom }),
	instant(FieldLiveUntil, func(e *site.Entry) *time.Time { return &e.LiveUntil }),
	flag(FieldNewTab, func(e *site.Entry) *bool { return &e.NewTab }),
	words(FieldBadgeText, "A badge", 40, func(e *site.Entry) *string { return &e.Badge.Text }),
	{
		FieldBadgePair,
		func(e *site.Entry) string { return e.Badge.Pair },
		func(s *site.Site, e *site.Entry, value string) (err error) {
			e.Badge.Pair, err = badgePair(s, value)
			return err
		},
	},
	flag(FieldBadgeBefore, func(e *site.Entry) *bool { return &e.Badge.Before }),
	{FieldIcon, func(e *site.Entry) string { return e.Icon }, func(s *site.Site, e *site.Entry, value string) error {
		if value != "" && !slices.Contains(s.Theme().Icons, value) {
			return refuse("The theme has no icon “%s”.", value)
		}
		e.Icon = value
		return nil
	}},
}

// badgePair reads a pair of the theme or a free one. A pair that can hardly be read is refused, unless the site only
// warns of it (WCAG 2.2, 1.4.3).
func badgePair(s *site.Site, value string) (string, error) {
	if value == "" || s.Theme().Pair(value) != nil {
		return value, nil
	}
	pair, ok := colour.ParsePair(value)
	switch {
	case !ok:
		return "", refuse("“%s” is not a pair of colours; write it as #1e2b27 on #f7f5ef.", value)
	case pair.Contrast() < colour.Enough && !s.Settings().PaleBadges:
		return "", refuse(
			"Text in %s has a contrast of %s to 1; it takes 4.5 to 1 to be read. Choose a darker or a lighter colour.",
			pair,
			pair.Ratio(),
		)
	}
	return pair.String(), nil
}

// A Gap is a place among the entries of a menu, named by neighbours as a Place is.
type Gap struct {
	Menu   site.MenuID  `json:"menu"`
	Parent site.EntryID `json:"parent,omitempty"`
	After  site.EntryID `json:"after,omitempty"`
	Before site.EntryID `json:"before,omitempty"`
}

// GapOf gives the gap in which an entry stands.
func GapOf(m *site.Menu, id site.EntryID) Gap {
	e := m.Entry(id)
	gap := Gap{Menu: m.ID, Parent: e.Parent}
	siblings := Siblings(m, e.Parent)
	at := slices.Index(siblings, id)
	if at > 0 {
		gap.After = siblings[at-1]
	}
	if at+1 < len(siblings) {
		gap.Before = siblings[at+1]
	}
	return gap
}

// ItemOf gives the entry that an operation is about; 0 if it is about something else.
func ItemOf(op Op) site.EntryID {
	switch o := op.(type) {
	case OpPutEntries:
		return o.Entries[0].ID
	case OpTakeEntry:
		return o.Entry
	case OpEditEntry:
		return o.Entry
	case OpMoveEntry:
		return o.Entry
	}
	return 0
}

// Siblings gives the entries below one, in order; 0 gives the top ones.
func Siblings(m *site.Menu, parent site.EntryID) []site.EntryID {
	return slices.Clone(m.Below(parent))
}

// An EntryForm is an entry written down: its fields in their canonical form, those that are unset left out.
type EntryForm struct {
	ID     site.EntryID     `json:"id"`
	Parent site.EntryID     `json:"parent,omitempty"` // 0: the gap's parent
	Fields map[Field]string `json:"fields"`
}

type (
	// OpPutEntries puts entries into a menu: one that is made or copied, or a whole branch that comes back.
	OpPutEntries struct {
		Gap     Gap         `json:"gap"`
		Entries []EntryForm `json:"entries"`
	}
	// OpTakeEntry takes an entry and all below it out of its menu. The pages that they lead to stay (rules 2.10).
	OpTakeEntry struct {
		Entry site.EntryID `json:"entry"`
		Was   OpPutEntries `json:"was"`
	}
	// OpEditEntry sets fields of an entry.
	OpEditEntry struct {
		Menu   site.MenuID   `json:"menu"`
		Entry  site.EntryID  `json:"entry"`
		Fields []FieldChange `json:"fields"`
	}
	// OpMoveEntry takes an entry and all below it to another place, in its menu or another one.
	OpMoveEntry struct {
		Entry site.EntryID `json:"entry"`
		From  Gap          `json:"from"`
		To    Gap          `json:"to"`
		// Keeps is the audience that the item takes from above where it stood, if its new place would open it.
		Keeps []FieldChange `json:"keeps,omitempty"`
		// Was and Is are the audiences above it before and after, its own first. An inverse goes back to what was, as
		// long as both still hold.
		Was  []site.Audience `json:"was,omitempty"`
		Is   []site.Audience `json:"is,omitempty"`
		Back bool            `json:"back,omitempty"`
	}
	// OpMakeMenu makes a menu without entries; OpTakeMenu takes one away that no block shows, with its entries.
	OpMakeMenu struct {
		Menu     site.MenuID `json:"menu"`
		Key      string      `json:"key"`
		Name     string      `json:"name"`
		Programs bool        `json:"programs,omitempty"`
		Entries  []EntryForm `json:"entries,omitempty"`
	}
	OpTakeMenu struct {
		Was OpMakeMenu `json:"was"`
	}
	// OpEditMenu sets fields of a menu: its name, and whether programs may read it.
	OpEditMenu struct {
		Menu   site.MenuID   `json:"menu"`
		Fields []FieldChange `json:"fields"`
	}
)

// No page is the subject of an operation on menus.
func (OpPutEntries) Subject() site.PageID { return 0 }
func (OpTakeEntry) Subject() site.PageID  { return 0 }
func (OpEditEntry) Subject() site.PageID  { return 0 }
func (OpMoveEntry) Subject() site.PageID  { return 0 }
func (OpMakeMenu) Subject() site.PageID   { return 0 }
func (OpTakeMenu) Subject() site.PageID   { return 0 }
func (OpEditMenu) Subject() site.PageID   { return 0 }

func (OpPutEntries) name() string { return "put-entries" }
func (OpTakeEntry) name() string  { return "take-entry" }
func (OpEditEntry) name() string  { return "edit-entry" }
func (OpMoveEntry) name() string  { return "move-entry" }
func (OpMakeMenu) name() string   { return "make-menu" }
func (OpTakeMenu) name() string   { return "take-menu" }
func (OpEditMenu) name() string   { return "edit-menu" }

func (o OpPutEntries) Needs() []site.Action {
	return withAudience(
		site.ActionLink,
		slices.ContainsFunc(o.Entries, func(form EntryForm) bool { return form.Fields[FieldAudience] != "" }),
	)
}
func (OpTakeEntry) Needs() []site.Action { return []site.Action{site.ActionLink} }
func (o OpEditEntry) Needs() []site.Action {
	return withAudience(site.ActionLink, setsField(o.Fields, FieldAudience))
}
func (OpMoveEntry) Needs() []site.Action { return []site.Action{site.ActionLink} }
func (o OpMakeMenu) Needs() []site.Action {
	return withAudience(
		site.ActionLink,
		slices.ContainsFunc(o.Entries, func(form EntryForm) bool { return form.Fields[FieldAudience] != "" }),
	)
}
func (OpTakeMenu) Needs() []site.Action { return []site.Action{site.ActionLink} }
func (OpEditMenu) Needs() []site.Action { return []site.Action{site.ActionLink} }

func (o OpPutEntries) Inverse() Op { return OpTakeEntry{o.Entries[0].ID, o} }
func (o OpTakeEntry) Inverse() Op  { return o.Was }
func (o OpEditEntry) Inverse() Op  { return OpEditEntry{o.Menu, o.Entry, turned(o.Fields)} }
func (o OpMoveEntry) Inverse() Op {
	return OpMoveEntry{Entry: o.Entry, From: o.To, To: o.From, Keeps: turned(o.Keeps), Was: o.Is, Is: o.Was, Back: true}
}
func (o OpMakeMenu) Inverse() Op { return OpTakeMenu{o} }
func (o OpTakeMenu) Inverse() Op { return o.Was }
func (o OpEditMenu) Inverse() Op { return OpEditMenu{o.Menu, turned(o.Fields)} }

// ShowsText writes what an entry shows in one word: "page:12", "branch:12:0:beside", "web:https://…", "file:…",
// "heading", "account:sign-in".
func ShowsText(shows site.Shows) string {
	switch to := shows.(type) {
	case site.ItemPage:
		return fmt.Sprintf("page:%d", to.Page)
	case site.ItemBranch:
		return fmt.Sprintf("branch:%d:%d:%s", to.Root, to.Depth, to.Self)
	case site.ItemWeb:
		return "web:" + to.Address
	case site.ItemFile:
		return "file:" + to.File
	case site.ItemAccount:
		return "account:" + string(to.Does)
	}
	return "heading"
}

// ParseShows reads what ShowsText wrote. A page must be there, in the bin or not.
func ParseShows(s *site.Site, text string) (site.Shows, error) {
	kind, rest, _ := strings.Cut(text, ":")
	page := func(number string) (site.PageID, error) {
		id, err := strconv.ParseInt(number, 10, 64)
		if p := s.Page(site.PageID(id)); err != nil || p == nil || p.Purged {
			return 0, &Conflict{
				Page:     site.PageID(id),
				Sentence: "The page that the item should lead to is not there any more.",
			}
		}
		return site.PageID(id), nil
	}
	switch kind {
	case "page":
		id, err := page(rest)
		return site.ItemPage{Page: id}, err
	case "branch":
		number, rest, _ := strings.Cut(rest, ":")
		levels, self, _ := strings.Cut(rest, ":")
		id, err := page(number)
		if err != nil {
			return nil, err
		}
		depth, err := strconv.Atoi(levels)
		if err != nil || depth < 0 {
			return nil, refuse("The number of levels is a number; 0 is all of them.")
		}
		how, err := oneOf(self, site.SelfNot, site.SelfAbove, site.SelfBeside)
		return site.ItemBranch{Root: id, Depth: depth, Self: how}, err
	case "web":
		return webAddress(rest)
	case "file":
		if rest == "" || strings.ContainsAny(rest, "/\\") {
			return nil, refuse("Choose a file.")
		}
		return site.ItemFile{File: rest}, nil
	case "account":
		does, err := oneOf(rest, site.AccountLinks()...)
		return site.ItemAccount{Does: does}, err
	case "heading":
		return site.ItemHeading{}, nil
	}
	return nil, refuse("An item of the sort “%s” is not known.", kind)
}

// CheckWeb says whether an outside address has the form of one; nobody looks whether it answers.
func CheckWeb(typed string) error {
	_, err := webAddress(typed)
	return err
}

// webAddress checks an outside address for its form only.
func webAddress(typed string) (site.Shows, error) {
	u, err := url.Parse(typed)
	switch {
	case err != nil, u.Scheme == "", u.Opaque == "" && u.Host == "":
		return nil, refuse("“%s” is not a web address; write it as https://host/path.", typed)
	case !slices.Contains([]string{"http", "https", "mailto", "tel"}, u.Scheme):
		return nil, refuse("A web address starts with https, http, mailto or tel, not with “%s”.", u.Scheme)
	}
	return site.ItemWeb{Address: typed}, nil
}

// EntryValue gives a field of an entry in its canonical form; EntryFields names them all, in the order in which they
// are set.
func EntryValue(e *site.Entry, field Field) string { return entryTable.value(e, field) }
func EntryFields() []Field                         { return entryTable.fields() }

// formOf writes an entry down. The parent is left out where it is the gap's.
func formOf(e *site.Entry, top site.EntryID) EntryForm {
	form := EntryForm{ID: e.ID, Fields: entryTable.written(e, site.Entry{})}
	form.Fields[FieldShows] = ShowsText(e.Shows)
	if e.ID != top {
		form.Parent = e.Parent
	}
	return form
}

func formsOf(entries []site.Entry, top site.EntryID) []EntryForm {
	forms := make([]EntryForm, len(entries))
	for i := range entries {
		forms[i] = formOf(&entries[i], top)
	}
	return forms
}

// sameForms compares entries and where each stands below, not their order.
func sameForms(a, b []EntryForm) bool {
	byID := func(a, b EntryForm) int { return cmp.Compare(a.ID, b.ID) }
	return slices.EqualFunc(
		slices.SortedFunc(slices.Values(a), byID),
		slices.SortedFunc(slices.Values(b), byID),
		func(a, b EntryForm) bool {
			return a.ID == b.ID && a.Parent == b.Parent && maps.Equal(a.Fields, b.Fields)
		},
	)
}

// PutBranches puts entries that are written down, parents first, at the end of a menu: one operation for each top entry
// with those below it.
func PutBranches(m site.MenuID, forms []EntryForm) []Op {
	var ops []Op
	of := map[site.EntryID]int{} // index of the operation that an entry is in
	for _, form := range forms {
		at, below := of[form.Parent]
		if !below || form.Parent == 0 {
			at = len(ops)
			ops = append(ops, OpPutEntries{Gap: Gap{Menu: m}})
		}
		of[form.ID] = at
		put := ops[at].(OpPutEntries)
		put.Entries = append(put.Entries, form)
		ops[at] = put
	}
	return ops
}

// CopyEntries writes copies of entries of a menu down, parents first, under new numbers in the same order. A copy whose
// original's parent is not among them stands in the gap.
func CopyEntries(m *site.Menu, ids, made []site.EntryID) []EntryForm {
	forms := make([]EntryForm, len(ids))
	for i, id := range ids {
		e := *m.Entry(id)
		forms[i] = formOf(&e, id)
		forms[i].ID = made[i]
		if above := slices.Index(ids, e.Parent); above >= 0 {
			forms[i].Parent = made[above]
		}
	}
	return forms
}

func (f EntryForm) entry(s *site.Site) (site.Entry, error) {
	e := site.Entry{ID: f.ID, Parent: f.Parent, Shows: site.ItemHeading{}}
	if err := entryTable.fill(s, &e, f.Fields); err != nil {
		return e, err
	}
	return e, checkEntry(&e)
}

func checkEntry(e *site.Entry) error {
	switch {
	case e.Label == "" && e.Target() == 0:
		return refuse("This item leads to no page of the site, so it needs a label of its own.")
	case e.Window().IsBackwards():
		return refuse("The item would end before it begins: the end must be after the beginning.")
	}
	return nil
}
