package site

import (
	"slices"
	"strconv"
	"strings"
	"time"
)

// MenuID and EntryID name menus and entries for ever.
type (
	MenuID  int64
	EntryID int64
)

// A Menu is a named, ordered tree of entries (rules 5).
type Menu struct {
	ID      MenuID
	Key     string
	Name    string
	Entries []Entry // in order: an entry's siblings stand as they follow each other here

	// Programs says that the public site gives the menu to programs too.
	Programs bool

	index *entryIndex // nil while the entries are being written
}

// An Entry is one line of a menu, or one run of lines that is generated (rules 5.1). What it shows is one of a closed
// family.
type Entry struct {
	ID     EntryID
	Parent EntryID // 0: a top entry
	Under  PageID  // of an entry below a line of its parent's run: the page of that line, which need not be there; else 0
	Shows  Shows

	Label     string // in place of the page's own; must be set where there is no page
	Hint      string // where it leads, as the link's title text
	Off       bool
	Audience  Audience  // Inherited: everyone
	LiveFrom  time.Time // zero: no bound
	LiveUntil time.Time // zero: no bound; the moment itself is outside
	NewTab    bool
	Badge     Badge
	Icon      string // of the shipped set; empty: none
	Grown     Values // what is set of single lines of its run, a GrownLine by the LineKey of its page
}

// A Badge is a short text beside a label, in a pair of colours.
type Badge struct {
	Text   string // empty: no badge
	Pair   string // key of a pair of the theme, or a free one as "#rrggbb on #rrggbb"
	Before bool   // before the label; else after it
}

// Shows is what an entry shows: Page, Branch, Web, File, Heading or Account.
type Shows interface{ shows() }

type (
	// ItemPage shows a page: label and address follow it. Of one that lists others it can be the list as it is narrowed.
	ItemPage struct {
		Page   PageID `json:"page"`
		Narrow string `json:"narrow,omitempty"` // the query of the narrowed list, in its one form; "": all of it
	}
	// ItemBranch makes a run: the listed children of a page, to a depth; or the first pages that it lists below its text.
	ItemBranch struct {
		Root  PageID  `json:"root"`
		Depth int     `json:"depth"` // levels of the run; 0: all
		Self  Self    `json:"self"`
		Hits  int     `json:"hits,omitempty"`  // lines of what it lists; 0: its children are the lines
		Least int     `json:"least,omitempty"` // topics of fewer pages make no line (rules 5.3)
		By    GrownBy `json:"by,omitempty"`
		Count bool    `json:"count,omitempty"` // the lines of topics say how many pages they have
		// Of is a page that lists others: then the lines of topics lead to its list, narrowed to them, of whose pages there
		// must be enough, and which count. 0: they lead to the topics.
		Of PageID `json:"of,omitempty"`
	}
	// ItemWeb leads to an address elsewhere.
	ItemWeb struct {
		Address string `json:"address"`
	}
	// ItemFile leads to a file, by its name in the files directory.
	ItemFile struct {
		File string `json:"file"`
	}
	// ItemHeading is a label without a link; it needs one shown child.
	ItemHeading struct{}
	// ItemAccount is a link that depends on the visitor.
	ItemAccount struct {
		Does AccountLink `json:"does"`
	}
)

func (ItemPage) shows()    {}
func (ItemBranch) shows()  {}
func (ItemWeb) shows()     {}
func (ItemFile) shows()    {}
func (ItemHeading) shows() {}
func (ItemAccount) shows() {}

// AccountLink is what an account entry does: SignInLink and RegisterLink show to who is signed out, the latter only
// while the site lets visitors register; SignOutLink and DetailsLink show to who is signed in.
type AccountLink string

const (
	AccountSignIn  AccountLink = "sign-in"
	AccountSignOut AccountLink = "sign-out"

	AccountRegister AccountLink = "register"
	AccountDetails  AccountLink = "details"
)

// AccountLinks are all of them.
func AccountLinks() []AccountLink {
	return []AccountLink{AccountSignIn, AccountSignOut, AccountRegister, AccountDetails}
}

// ForSignedIn says whether the link is for people who are signed in.
func (l AccountLink) ForSignedIn() bool { return l == AccountSignOut || l == AccountDetails }

// Target gives the page that an entry shows; 0 if it shows none.
func (e *Entry) Target() PageID {
	switch to := e.Shows.(type) {
	case ItemPage:
		return to.Page
	case ItemBranch:
		return to.Root
	}
	return 0
}

// EntryLabel is what visitors read of an entry: its own label, else that of the page that it shows.
func (s *Site) EntryLabel(e *Entry) string {
	if page := s.Page(e.Target()); e.Label == "" && page != nil {
		return page.Label
	}
	return e.Label
}

// Self says where a branch entry shows its root: nowhere, above the run as its parent, or beside it as its first line.
type Self string

const (
	SelfNot    Self = "not"
	SelfAbove  Self = "above"
	SelfBeside Self = "beside"
)

// GrownBy is the order of a run's lines: that of the tree, or of the list.
type GrownBy string

const (
	GrownByPlace GrownBy = ""
	GrownByLabel GrownBy = "label"
	GrownByCount GrownBy = "count" // of topics: most pages first, equals by label
)

// A GrownLine is what is set of one line of a run. It is kept while the run does not make the line.
type GrownLine struct {
	Pin    GrownPin
	Hidden bool // with all lines below it
	Label  string
}

// GrownPin says where a line stands among those beside it in its run, whatever their order.
type GrownPin string

const (
	GrownFirst GrownPin = "first"
	GrownLast  GrownPin = "last"
)

// Line gives what is set of a line of the entry's run.
func (e *Entry) Line(page PageID) GrownLine {
	line, _ := ParseGrownLine(e.Grown.Get(LineKey(page)))
	return line
}

// Lines gives what is set of all lines of the entry's run; nil where nothing is.
func (e *Entry) Lines() map[PageID]GrownLine {
	if e.Grown == "" {
		return nil
	}
	lines := map[PageID]GrownLine{}
	for key, text := range e.Grown.All() {
		if id, is := LinePage(key); is {
			lines[id], _ = ParseGrownLine(text)
		}
	}
	return lines
}

const lineKeyPrefix = "page:"

// LineKey is the key of what is set of a line, by its page.
func LineKey(page PageID) string { return lineKeyPrefix + strconv.FormatInt(int64(page), 10) }

// LinePage reads what LineKey wrote.
func LinePage(key string) (page PageID, ok bool) {
	number, is := strings.CutPrefix(key, lineKeyPrefix)
	id, err := strconv.ParseInt(number, 10, 64)
	return PageID(id), is && err == nil && LineKey(PageID(id)) == key
}

// String writes what is set, as in “first;;The big island” and “;hidden;”; "" for nothing.
func (l GrownLine) String() string {
	if l == (GrownLine{}) {
		return ""
	}
	hidden := ""
	if l.Hidden {
		hidden = "hidden"
	}
	return string(l.Pin) + ";" + hidden + ";" + l.Label
}

// ParseGrownLine reads what String wrote; false for what it can't have written.
func ParseGrownLine(text string) (line GrownLine, ok bool) {
	if text == "" {
		return line, true
	}
	parts := strings.SplitN(text, ";", 3)
	if len(parts) != 3 {
		return line, false
	}
	line = GrownLine{Pin: GrownPin(parts[0]), Hidden: parts[1] == "hidden", Label: parts[2]}
	pins := []GrownPin{"", GrownFirst, GrownLast}
	return line, slices.Contains(pins, line.Pin) && line.String() == text
}

// Entry finds an entry by id; nil if there is none.
func (m *Menu) Entry(id EntryID) *Entry {
	if m.index != nil {
		if at, found := m.index.at[id]; found {
			return &m.Entries[at]
		}
		return nil
	}
	for i := range m.Entries {
		if m.Entries[i].ID == id {
			return &m.Entries[i]
		}
	}
	return nil
}

// IsGenerated says whether an entry makes its lines by itself.
func (e *Entry) IsGenerated() bool { _, generated := e.Shows.(ItemBranch); return generated }

// BelowLine gives the entries right below a line of an entry, in order: of its own one, for which page is 0 unless the
// entry is generated, or of one in its run.
func (m *Menu) BelowLine(parent EntryID, page PageID) []EntryID {
	all := m.Below(parent)
	stands := func(id EntryID) bool { return m.Entry(id).Under == page }
	for _, id := range all {
		if !stands(id) {
			return slices.DeleteFunc(slices.Clone(all), func(id EntryID) bool { return !stands(id) })
		}
	}
	return all
}

// Menu finds a menu by id; nil if there is none.
func (s *Site) Menu(id MenuID) *Menu {
	for i := range s.menus {
		if s.menus[i].ID == id {
			return &s.menus[i]
		}
	}
	return nil
}

// MenuByKey finds a menu by its key; nil if there is none.
func (s *Site) MenuByKey(key string) *Menu {
	for i := range s.menus {
		if s.menus[i].Key == key {
			return &s.menus[i]
		}
	}
	return nil
}

// Menus gives every menu, in order.
func (s *Site) Menus() []Menu { return s.menus }

// SetMenus replaces the menus. Each is indexed once; a menu that came from a Site as it was keeps its index.
func (b *Builder) SetMenus(menus []Menu) {
	for i := range menus {
		if m := &menus[i]; m.index == nil {
			m.index = indexOf(m.Entries)
		}
	}
	b.site.menus = menus
}

// An entryIndex finds entries by id and by what they stand below.
type entryIndex struct {
	at   map[EntryID]int
	kids map[EntryID][]EntryID
}

func indexOf(entries []Entry) *entryIndex {
	made := &entryIndex{make(map[EntryID]int, len(entries)), map[EntryID][]EntryID{}}
	for i := range entries {
		made.at[entries[i].ID] = i
		made.kids[entries[i].Parent] = append(made.kids[entries[i].Parent], entries[i].ID)
	}
	return made
}

// Rewrite gives a copy of the menu with entries for writing; it is indexed when a Site takes it.
func (m Menu) Rewrite() Menu {
	m.Entries, m.index = slices.Clone(m.Entries), nil
	return m
}

// Branch gives an entry and all below it, parents first.
func (m *Menu) Branch(id EntryID) []EntryID {
	branch := []EntryID{id}
	for _, kid := range m.Below(id) {
		branch = append(branch, m.Branch(kid)...)
	}
	return branch
}

// Below gives the entries right below one, in order; 0 gives the top ones. Those of a generated entry stand below lines
// of its run, each below its own. The slice belongs to the Menu.
func (m *Menu) Below(parent EntryID) []EntryID {
	if m.index != nil {
		return m.index.kids[parent]
	}
	return indexOf(m.Entries).kids[parent]
}
