package site

import (
	"slices"
	"strings"
	"time"
)

// BlockID and PlacementID name blocks and placements for ever.
type (
	BlockID     int64
	PlacementID int64
)

// A Block is a piece that can stand in regions (rules 6.4). One block may have many placements.
type Block struct {
	ID      BlockID
	Name    string // to administrators
	Title   string // to visitors; of a menu it names the navigation landmark
	Titled  bool   // the title is shown above it; else it only names a landmark
	Heading int    // level of the shown title, 2 to 4
	Shows   Piece
}

// Piece is what a block shows: one of a closed family.
type Piece interface{ piece() }

type (
	// BlockMenu shows a menu through a window.
	BlockMenu struct {
		Menu   MenuID `json:"menu"`
		Window Window `json:"window"`
	}
	// BlockBreadcrumb shows the way from the home page.
	BlockBreadcrumb struct{}
	// BlockText shows sanitised HTML, by its hash.
	BlockText struct {
		Text string `json:"text"`
	}
	// BlockAccount shows who is signed in, and the way in or out.
	BlockAccount struct{}
	// BlockName shows the name of the site and its mark.
	BlockName struct{}
	// BlockChildren lists the pages inside the current one that menus would show.
	BlockChildren struct{}
	// BlockSearch shows a field for words to find, on the page that the settings choose for it (rules 12.5).
	BlockSearch struct{}
	// BlockListing lists the pages that answer a question (rules 7.6).
	BlockListing struct {
		// Like is the page whose list is asked again, in a block: then only Most and Looks are the block's own. 0:
		// none.
		Like   PageID `json:"like,omitempty"`
		Kinds  string `json:"kinds,omitempty"`  // keys joined by "|", any of which suffices; "": any
		Topic  PageID `json:"topic,omitempty"`  // that they are about; 0: any
		Within PageID `json:"within,omitempty"` // the branch in which they stand, its top left out; 0: anywhere
		// Wants are the values that they have, as a query of an address: “harbour.slipway=yes”, and for numbers and
		// days a first and a last one, either open, as in “date=today-30..today”. All of it must hold; "": nothing is
		// wanted.
		Wants string   `json:"wants,omitempty"`
		Sort  ListSort `json:"sort"`
		Most  int      `json:"most"` // that are shown, 1 to 50
		Looks ListLook `json:"looks,omitempty"`
		// Narrow are the keys by which visitors may narrow what a page lists, joined by "|": details, and topic lists
		// as in “topic:12”; "": none. A block is not narrowed.
		Narrow string `json:"narrow,omitempty"`
	}
	// BlockImage shows an image of the files directory.
	BlockImage struct {
		File        string `json:"file"`
		Alternative string `json:"alternative"`
	}
)

func (BlockMenu) piece()       {}
func (BlockBreadcrumb) piece() {}
func (BlockText) piece()       {}
func (BlockAccount) piece()    {}
func (BlockName) piece()       {}
func (BlockChildren) piece()   {}
func (BlockImage) piece()      {}
func (BlockListing) piece()    {}
func (BlockSearch) piece()     {}

// ListLook is how a listing looks.
type ListLook string

// A plain list of links, cards with summary and columns, or a table with a column for each detail of the types.
const (
	LooksList  ListLook = ""
	LooksCards ListLook = "cards"
	LooksTable ListLook = "table"
)

// ListSort is the order of a listing; equals stand by their long names. Besides those below it is the key of a detail,
// with “-” before it for the largest first.
type ListSort string

// Detail gives the detail by which a listing is sorted, and whether the largest comes first; "" for none.
func (l ListSort) Detail() (key string, down bool) {
	key, down = strings.CutPrefix(string(l), "-")
	if !strings.Contains(key, ".") {
		return "", false
	}
	return key, down
}

const (
	ListLabel    ListSort = "label"
	ListNewest   ListSort = "newest" // those last online first
	ListDate     ListSort = "date"   // the earliest first
	ListDateDown ListSort = "date-down"
	ListTree     ListSort = "tree"
)

// ListSorts are all of them.
func ListSorts() []ListSort {
	return []ListSort{ListLabel, ListNewest, ListDate, ListDateDown, ListTree}
}

// Menu gives the menu that a block shows and the window it shows it through; ok is false if it shows something else.
func (b *Block) Menu() (menu MenuID, window Window, ok bool) {
	piece, ok := b.Shows.(BlockMenu)
	return piece.Menu, piece.Window, ok
}

// A Placement is a block put in a region, with its conditions (rules 6.2 and 6.3). Site.Placements has them by key of
// the region, and in one order for each.
type Placement struct {
	ID     PlacementID
	Block  BlockID
	Region string // key
	Layout string // key; empty: in that region of every layout that has it
	Off    bool
	Set    SetID // whose conditions on pages it has; 0: its own
	Conditions
}

// SetID names a condition set for ever.
type SetID int64

// A ConditionSet is conditions on pages under a name, which many placements can have together (rules 6.3).
type ConditionSet struct {
	ID       SetID
	Name     string
	Where    []Spot
	Except   []Spot
	Kinds    []string
	NotKinds []string
}

// Take gives conditions those on pages that a set has.
func (c *Conditions) Take(set *ConditionSet) {
	c.Where, c.Except, c.Kinds, c.NotKinds = set.Where, set.Except, set.Kinds, set.NotKinds
}

// Conditions say on which pages, for whom and when a placement stands. Within one any item suffices, all that are
// stated must hold, and what is left out wins (rules 6.3).
type Conditions struct {
	Where     []Spot   // empty: everywhere
	Except    []Spot   // left out
	Kinds     []string // keys; empty: any
	NotKinds  []string // left out
	Audience  Audience // Inherited: everyone
	LiveFrom  time.Time
	LiveUntil time.Time // zero: no bound; the moment itself is outside
}

// A Spot is what a condition names: one page, a page and all below it, the pages about a topic with its own and those
// of narrower ones, or the addresses that a pattern matches.
type Spot struct {
	Page    PageID // 0 for a pattern
	Branch  bool   // with all below it
	Topic   bool   // it is a topic: the pages that bear it or a narrower one count too
	Pattern string // "*" is one segment, "**" any number
}

// Free says that nothing is stated.
func (c Conditions) Free() bool {
	return len(c.Where)+len(c.Except)+len(c.Kinds)+len(c.NotKinds) == 0 && c.Audience == AudienceInherited &&
		c.LiveFrom.IsZero() &&
		c.LiveUntil.IsZero()
}

// A Window cuts what a block shows out of a menu (rules 5.5).
type Window struct {
	First  int     `json:"first"`  // first level shown, from 1; without meaning for FromEntry
	Levels int     `json:"levels"` // number of levels; 0: all
	From   From    `json:"from"`
	Entry  EntryID `json:"entry"` // for FromEntry: whose children are shown
	Unfold Unfold  `json:"unfold"`
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

// ConditionSets gives every condition set in order of making; ConditionSet finds one, nil if there is none.
func (s *Site) ConditionSets() []ConditionSet { return s.sets }

func (s *Site) ConditionSet(id SetID) *ConditionSet {
	if i := slices.IndexFunc(s.sets, func(c ConditionSet) bool { return c.ID == id }); i >= 0 {
		return &s.sets[i]
	}
	return nil
}

// PlacementsWith gives the placements that have the conditions of a set, in order.
func (s *Site) PlacementsWith(id SetID) []*Placement {
	var placed []*Placement
	for i := range s.placements {
		if id != 0 && s.placements[i].Set == id {
			placed = append(placed, &s.placements[i])
		}
	}
	return placed
}

// SetConditionSets replaces the condition sets. What placements have of them is for who does that to replace too.
func (b *Builder) SetConditionSets(sets []ConditionSet) {
	if b.site.sets = sets; len(sets) == 0 {
		b.site.sets = nil // as on a site that never had one
	}
}

// Blocks gives every block in order of making; Placements every placement in order.
func (s *Site) Blocks() []Block         { return s.blocks }
func (s *Site) Placements() []Placement { return s.placements }

// Block finds a block; nil if there is none.
func (s *Site) Block(id BlockID) *Block {
	if i := slices.IndexFunc(s.blocks, func(b Block) bool { return b.ID == id }); i >= 0 {
		return &s.blocks[i]
	}
	return nil
}

// Placement finds a placement; nil if there is none.
func (s *Site) Placement(id PlacementID) *Placement {
	if i := slices.IndexFunc(s.placements, func(p Placement) bool { return p.ID == id }); i >= 0 {
		return &s.placements[i]
	}
	return nil
}

// PlacementsOf gives the placements of a block, in order.
func (s *Site) PlacementsOf(id BlockID) []*Placement {
	var placed []*Placement
	for i := range s.placements {
		if s.placements[i].Block == id {
			placed = append(placed, &s.placements[i])
		}
	}
	return placed
}

// SetBlocks replaces the blocks and where they stand.
func (b *Builder) SetBlocks(blocks []Block, placements []Placement) {
	b.site.blocks, b.site.placements = blocks, placements
}
