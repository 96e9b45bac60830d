package site

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
	Entries []Entry
}

// An Entry is one of a closed family: what a menu is made of. Generated runs make their lines from pages.
type Entry interface {
	EntryID() EntryID
	entry()
}

// A BranchEntry makes a run: the listed children of a page, to a depth, in the tree's order (rules 5.1).
type BranchEntry struct {
	ID    EntryID
	Root  PageID
	Depth int // levels of the run; 0: all
	Self  Self
}

func (e BranchEntry) EntryID() EntryID { return e.ID }
func (BranchEntry) entry()             {}

// Self says where a branch entry shows its root: nowhere, above the run as its parent, or beside it as its first line.
type Self string

const (
	SelfNot    Self = "not"
	SelfAbove  Self = "above"
	SelfBeside Self = "beside"
)

// A MenuBlock shows a menu through a window, in a place of the page's frame (rules 5.5).
type MenuBlock struct {
	ID     BlockID
	Key    string // where the theme shows it: "header" or "side"
	Name   string // names the block to administrators
	Title  string // names the navigation landmark to visitors
	Menu   MenuID
	Window Window
}

// A Window cuts what a block shows out of a menu (rules 5.5).
type Window struct {
	First  int // first level shown, from 1
	Levels int // number of levels; 0: all
	From   From
	Unfold Unfold
}

// Holds says whether a line of a level can stand in the window.
func (w Window) Holds(level int) bool {
	return level >= w.First && (w.Levels == 0 || level < w.First+w.Levels)
}

// From says what a window starts from.
type From string

const (
	FromTrail From = "trail"
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
