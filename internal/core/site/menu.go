package site

import "time"

// MenuID, EntryID and BlockID name menus, entries and blocks for ever.
type (
	MenuID  int64
	EntryID int64
	BlockID int64
)

// A Menu is a named, ordered tree of entries (rules 5).
type Menu struct {
	ID      MenuID
	Key     string
	Name    string
	Entries []Entry // in order: an entry's siblings stand as they follow each other here
}

// An Entry is one line of a menu, or one run of lines that is generated (rules 5.1). What it shows is one of a closed family.
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
	Pair   string // key of a pair of the theme
	Before bool   // before the label; else after it
}

// Shows is what an entry shows: Page, Branch, Web, File, Heading or Account.
type Shows interface{ shows() }

type (
	// ToPage shows a page: label and address follow it.
	ToPage struct{ Page PageID }
	// ToBranch makes a run: the listed children of a page, to a depth, in the tree's order.
	ToBranch struct {
		Root  PageID
		Depth int // levels of the run; 0: all
		Self  Self
	}
	// ToWeb leads to an address elsewhere.
	ToWeb struct{ Address string }
	// ToFile leads to a file, by its name in the files directory.
	ToFile struct{ File string }
	// Heading is a label without a link; it needs one shown child.
	Heading struct{}
	// ToAccount is a link that depends on the visitor.
	ToAccount struct{ Does AccountLink }
)

func (ToPage) shows()    {}
func (ToBranch) shows()  {}
func (ToWeb) shows()     {}
func (ToFile) shows()    {}
func (Heading) shows()   {}
func (ToAccount) shows() {}

// AccountLink is what an account entry does: SignInLink shows to who is signed out, SignOutLink to who is signed in.
type AccountLink string

const (
	SignInLink  AccountLink = "sign-in"
	SignOutLink AccountLink = "sign-out"
)

// Target gives the page that an entry shows; 0 if it shows none.
func (e *Entry) Target() PageID {
	switch to := e.Shows.(type) {
	case ToPage:
		return to.Page
	case ToBranch:
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

// A MenuBlock shows a menu through a window, in a place of the page's frame (rules 5.5).
type MenuBlock struct {
	ID     BlockID
	Key    string // where the theme shows it: "header", "side", "quick", "footer"
	Name   string // names the block to administrators
	Title  string // names the navigation landmark to visitors
	Menu   MenuID
	Window Window
}

// StandsOn says whether the theme has a place for a block on a page: quick tasks stand on the home page only.
func (b MenuBlock) StandsOn(s *Site, page PageID) bool { return b.Key != "quick" || page == s.Home() }

// A Window cuts what a block shows out of a menu (rules 5.5).
type Window struct {
	First  int // first level shown, from 1; without meaning for FromEntry
	Levels int // number of levels; 0: all
	From   From
	Entry  EntryID // for FromEntry: whose children are shown
	Unfold Unfold
}

// Holds says whether a line of a level can stand in a window that does not start from an entry.
func (w Window) Holds(level int) bool {
	return level >= w.First && (w.Levels == 0 || level < w.First+w.Levels)
}

// From says what a window starts from.
type From string

const (
	FromTrail From = "trail"
	FromEntry From = "entry"
	FromWhole From = "whole"
)

// Unfold says which sub-levels are open.
type Unfold string

const (
	UnfoldAll   Unfold = "all"
	UnfoldTrail Unfold = "trail"
)

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

// Menus gives every menu; Blocks every menu block, in order.
func (s *Site) Menus() []Menu       { return s.menus }
func (s *Site) Blocks() []MenuBlock { return s.blocks }

// Block finds a menu block by its key; nil if there is none.
func (s *Site) Block(key string) *MenuBlock {
	for i := range s.blocks {
		if s.blocks[i].Key == key {
			return &s.blocks[i]
		}
	}
	return nil
}
