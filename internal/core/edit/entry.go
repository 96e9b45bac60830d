package edit

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// Fields of a menu entry. Label, Audience, LiveFrom and LiveUntil are named as those of a page.
const (
	Shows       Field = "shows" // see ShowsText
	Hint        Field = "hint"
	On          Field = "on"      // yes, no
	NewTab      Field = "new_tab" // yes, no
	BadgeText   Field = "badge"
	BadgePair   Field = "badge_pair"
	BadgeBefore Field = "badge_before" // yes, no
	Icon        Field = "icon"
)

// entryFields are all fields of an entry, in the order in which they are set.
var entryFields = []Field{Shows, Label, Hint, On, Audience, LiveFrom, LiveUntil, NewTab, BadgeText, BadgePair, BadgeBefore, Icon}

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

// Siblings gives the entries below one, in order; 0 gives the top ones.
func Siblings(m *site.Menu, parent site.EntryID) []site.EntryID {
	var ids []site.EntryID
	for i := range m.Entries {
		if m.Entries[i].Parent == parent {
			ids = append(ids, m.Entries[i].ID)
		}
	}
	return ids
}

// An EntryForm is an entry written down: its fields in their canonical form, those that are unset left out.
type EntryForm struct {
	ID     site.EntryID     `json:"id"`
	Parent site.EntryID     `json:"parent,omitempty"` // 0: the gap's parent
	Fields map[Field]string `json:"fields"`
}

type (
	// PutEntries puts entries into a menu: one that is made or copied, or a whole branch that comes back.
	PutEntries struct {
		Gap     Gap         `json:"gap"`
		Entries []EntryForm `json:"entries"`
	}
	// TakeEntry takes an entry and all below it out of its menu. The pages that they lead to stay (rules 2.10).
	TakeEntry struct {
		Entry site.EntryID `json:"entry"`
		Was   PutEntries   `json:"was"`
	}
	// EditEntry sets fields of an entry.
	EditEntry struct {
		Menu   site.MenuID   `json:"menu"`
		Entry  site.EntryID  `json:"entry"`
		Fields []FieldChange `json:"fields"`
	}
	// MoveEntry takes an entry and all below it to another place, in its menu or another one.
	MoveEntry struct {
		Entry site.EntryID `json:"entry"`
		From  Gap          `json:"from"`
		To    Gap          `json:"to"`
	}
	// MakeMenu makes a menu without entries; TakeMenu takes one away that no block shows, with its entries.
	MakeMenu struct {
		Menu    site.MenuID `json:"menu"`
		Key     string      `json:"key"`
		Name    string      `json:"name"`
		Entries []EntryForm `json:"entries,omitempty"`
	}
	TakeMenu struct {
		Was MakeMenu `json:"was"`
	}
	// RenameMenu gives a menu another name.
	RenameMenu struct {
		Menu site.MenuID `json:"menu"`
		Old  string      `json:"old"`
		New  string      `json:"new"`
	}
)

// No page is the subject of an operation on menus.
func (PutEntries) Subject() site.PageID { return 0 }
func (TakeEntry) Subject() site.PageID  { return 0 }
func (EditEntry) Subject() site.PageID  { return 0 }
func (MoveEntry) Subject() site.PageID  { return 0 }
func (MakeMenu) Subject() site.PageID   { return 0 }
func (TakeMenu) Subject() site.PageID   { return 0 }
func (RenameMenu) Subject() site.PageID { return 0 }

func (PutEntries) name() string { return "put-entries" }
func (TakeEntry) name() string  { return "take-entry" }
func (EditEntry) name() string  { return "edit-entry" }
func (MoveEntry) name() string  { return "move-entry" }
func (MakeMenu) name() string   { return "make-menu" }
func (TakeMenu) name() string   { return "take-menu" }
func (RenameMenu) name() string { return "rename-menu" }

func (PutEntries) Needs() []site.Action { return []site.Action{site.Link} }
func (TakeEntry) Needs() []site.Action  { return []site.Action{site.Link} }
func (EditEntry) Needs() []site.Action  { return []site.Action{site.Link} }
func (MoveEntry) Needs() []site.Action  { return []site.Action{site.Link} }
func (MakeMenu) Needs() []site.Action   { return []site.Action{site.Link} }
func (TakeMenu) Needs() []site.Action   { return []site.Action{site.Link} }
func (RenameMenu) Needs() []site.Action { return []site.Action{site.Link} }

func (o PutEntries) Inverse() Op { return TakeEntry{o.Entries[0].ID, o} }
func (o TakeEntry) Inverse() Op  { return o.Was }
func (o EditEntry) Inverse() Op  { return EditEntry{o.Menu, o.Entry, turned(o.Fields)} }
func (o MoveEntry) Inverse() Op  { return MoveEntry{o.Entry, o.To, o.From} }
func (o MakeMenu) Inverse() Op   { return TakeMenu{o} }
func (o TakeMenu) Inverse() Op   { return o.Was }
func (o RenameMenu) Inverse() Op { return RenameMenu{o.Menu, o.New, o.Old} }

// ShowsText writes what an entry shows in one word: "page:12", "branch:12:0:beside", "web:https://…", "file:…", "heading",
// "account:sign-in".
func ShowsText(shows site.Shows) string {
	switch to := shows.(type) {
	case site.ToPage:
		return fmt.Sprintf("page:%d", to.Page)
	case site.ToBranch:
		return fmt.Sprintf("branch:%d:%d:%s", to.Root, to.Depth, to.Self)
	case site.ToWeb:
		return "web:" + to.Address
	case site.ToFile:
		return "file:" + to.File
	case site.ToAccount:
		return "account:" + string(to.Does)
	}
	return "heading"
}

// parseShows reads what ShowsText wrote. A page must be there, in the bin or not.
func parseShows(s *site.Site, text string) (site.Shows, error) {
	kind, rest, _ := strings.Cut(text, ":")
	page := func(number string) (site.PageID, error) {
		id, err := strconv.ParseInt(number, 10, 64)
		if p := s.Page(site.PageID(id)); err != nil || p == nil || p.Purged {
			return 0, &Conflict{Page: site.PageID(id), Sentence: "The page that the item should lead to is not there any more."}
		}
		return site.PageID(id), nil
	}
	switch kind {
	case "page":
		id, err := page(rest)
		return site.ToPage{Page: id}, err
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
		return site.ToBranch{Root: id, Depth: depth, Self: how}, err
	case "web":
		return webAddress(rest)
	case "file":
		if rest == "" || strings.ContainsAny(rest, "/\\") {
			return nil, refuse("Choose a file.")
		}
		return site.ToFile{File: rest}, nil
	case "account":
		does, err := oneOf(rest, site.SignInLink, site.SignOutLink)
		return site.ToAccount{Does: does}, err
	case "heading":
		return site.Heading{}, nil
	}
	return nil, refuse("An item of the sort “%s” is not known.", kind)
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
	return site.ToWeb{Address: typed}, nil
}

// EntryValue gives a field of an entry in its canonical form.
func EntryValue(e *site.Entry, field Field) string {
	switch field {
	case Shows:
		return ShowsText(e.Shows)
	case Label:
		return e.Label
	case Hint:
		return e.Hint
	case On:
		return yes(!e.Off)
	case Audience:
		return string(e.Audience)
	case LiveFrom:
		return moment(e.LiveFrom)
	case LiveUntil:
		return moment(e.LiveUntil)
	case NewTab:
		return yes(e.NewTab)
	case BadgeText:
		return e.Badge.Text
	case BadgePair:
		return e.Badge.Pair
	case BadgeBefore:
		return yes(e.Badge.Before)
	case Icon:
		return e.Icon
	}
	return ""
}

func setEntryField(s *site.Site, e *site.Entry, field Field, value string) (err error) {
	flag := func() bool {
		var on bool
		on, err = parseYes(value)
		return on
	}
	switch field {
	case Shows:
		e.Shows, err = parseShows(s, value)
	case Label:
		e.Label, err = oneLine(value, "A label", LabelLimit)
	case Hint:
		e.Hint, err = oneLine(value, "A hint", LabelLimit)
	case On:
		e.Off = !flag()
	case Audience:
		e.Audience, err = ParseAudience(s, value)
	case LiveFrom:
		e.LiveFrom, err = parseMoment(value)
	case LiveUntil:
		e.LiveUntil, err = parseMoment(value)
	case NewTab:
		e.NewTab = flag()
	case BadgeText:
		e.Badge.Text, err = oneLine(value, "A badge", 40)
	case BadgePair:
		e.Badge.Pair, err = oneLine(value, "A colour pair", 40)
	case BadgeBefore:
		e.Badge.Before = flag()
	case Icon:
		e.Icon, err = oneLine(value, "An icon", 40)
	default:
		err = refuse("There is no field “%s”.", field)
	}
	return err
}

// formOf writes an entry down. The parent is left out where it is the gap's.
func formOf(e *site.Entry, top site.EntryID) EntryForm {
	form := EntryForm{ID: e.ID, Fields: map[Field]string{}}
	if e.ID != top {
		form.Parent = e.Parent
	}
	var empty site.Entry
	for _, field := range entryFields {
		if value := EntryValue(e, field); field == Shows || value != EntryValue(&empty, field) {
			form.Fields[field] = value
		}
	}
	return form
}

func (f EntryForm) entry(s *site.Site) (site.Entry, error) {
	e := site.Entry{ID: f.ID, Parent: f.Parent, Shows: site.Heading{}}
	for _, field := range entryFields {
		if value, set := f.Fields[field]; set {
			if err := setEntryField(s, &e, field, value); err != nil {
				return e, err
			}
		}
	}
	return e, checkEntry(&e)
}

func checkEntry(e *site.Entry) error {
	switch {
	case e.Label == "" && e.Target() == 0:
		return refuse("This item leads to no page of the site, so it needs a label of its own.")
	case !e.LiveFrom.IsZero() && !e.LiveUntil.IsZero() && !e.LiveFrom.Before(e.LiveUntil):
		return refuse("The item would end before it begins: the end must be after the beginning.")
	}
	return nil
}
