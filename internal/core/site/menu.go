package site

import (
	"slices"
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
	Parent EntryID // 0: a top entry; a generated entry has no children
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
	// ItemPage shows a page: label and address follow it.
	ItemPage struct {
		Page PageID `json:"page"`
	}
	// ItemBranch makes a run: the listed children of a page, to a depth, in the tree's order.
	ItemBranch struct {
		Root  PageID `json:"root"`
		Depth int    `json:"depth"` // levels of the run; 0: all
		Self  Self   `json:"self"`
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

// Level is the level at which an entry stands: 1 for a top entry.
func (m *Menu) Level(id EntryID) int {
	level := 0
	for e := m.Entry(id); e != nil; e = m.Entry(e.Parent) {
		level++
	}
	return level
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

// Below gives the entries right below one, in order; 0 gives the top ones. The slice belongs to the Menu.
func (m *Menu) Below(parent EntryID) []EntryID {
	if m.index != nil {
		return m.index.kids[parent]
	}
	return indexOf(m.Entries).kids[parent]
}
