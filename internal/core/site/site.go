package site

import (
	"cmp"
	"slices"
	"sync"
	"time"
)

// A Site is the whole of what a site is at one revision of its content: settings, roles, menus and the tree of pages.
// It is immutable and safe for concurrent use. Structural indexes live inside it: children in order, children by
// segment, counts of branches, and own and short addresses.
type Site struct {
	settings   Settings
	collation  *collation
	texts      *Texts
	roles      []Role
	rolesGone  []string
	menus      []Menu
	blocks     []Block
	placements []Placement
	sets       []ConditionSet
	theme      *Theme

	pages    trie[*Page]
	families trie[*family]
	linking  trie[*linkers]
	bearing  trie[*linkers]
	fixed    []FixedAddress // sorted by address
	binned   []PageID       // tops of binned branches, ascending
	windowed []PageID       // pages with a live window, ascending
	lists    []PageID       // topic lists, ascending
	files    []PageID       // files and folders, ascending; some may be in the bin
	listers  []PageID       // pages that list others below their text, ascending
	merged   []PageID       // topics that were merged into others, ascending
	pastOwn  []past         // own addresses that are over, sorted
	kinds    []Kind
	details  []Detail
	home     PageID
	count    int         // pages that are not binned
	topics   *topicsOnce // how topics stand in each other, once somebody has asked
}

// Settings of the whole site.
type Settings struct {
	Name         string
	Language     string         // BCP 47
	Zone         *time.Location // as LoadZone gives it, so that equal zones are equal values
	Dates        DateOrder
	NotFound     PageID // page shown where there is none; 0: a plain text of the theme
	NoAccess     PageID
	SignIn       PageID // page around the sign-in form
	Search       PageID // on which visitors search; 0: nowhere
	Shut         PageID // page shown while the site is closed
	Closed       bool   // closed to all who may not edit (rules 4.5)
	Register     bool   // visitors may make themselves an account, without roles
	SecondFactor bool   // who holds any permission signs in with a code of a device too
	Layout       string // key of the layout of pages of which nothing nearer says another
	AskWhy       bool   // who publishes says why
	LookAtLinks  bool   // web addresses that the site links to are asked for now and then
	PaleBadges   bool   // badges of low contrast are warned of and not refused
	BinDays      int    // days for which a binned page is kept before the bin can be emptied of it
	Robots       string // what search engines may read, as lines of RFC 9309; empty: all
	MostBeside   int    // items of a menu at one level, more of which are many; 0: as usual
	MostLevels   int    // levels of the tree, deeper than which is deep; 0: as usual
	ReadyDays    int    // after which a page that is only for who edits it is told to them
}

// DateOrder is the order in which people type and read the parts of a date.
type DateOrder string

// The orders of dates; "" is DayMonth.
const (
	DatesDayMonth  DateOrder = "day-month"  // 24.11.2026
	DatesMonthDay  DateOrder = "month-day"  // 11/24/2026
	DatesYearMonth DateOrder = "year-month" // 2026-11-24
)

var zones sync.Map // name -> *time.Location

// LoadZone gives a time zone by its name in the tz database, the same value each time; false for one that is not
// known.
func LoadZone(name string) (*time.Location, bool) {
	if known, found := zones.Load(name); found {
		return known.(*time.Location), true
	}
	if name == "" || name == "Local" {
		return nil, false
	}
	made, err := time.LoadLocation(name)
	if err != nil {
		return nil, false
	}
	known, _ := zones.LoadOrStore(name, made)
	return known.(*time.Location), true
}

// A FixedAddress is an own or short address: a path that does not come from the tree (rules 3).
type FixedAddress struct {
	Address string
	Page    PageID
	Short   bool
}

// A family is a page's children. Binned pages and the branches below them are in no family that hangs on the tree.
type family struct {
	owner     *edit
	kids      []PageID // in order
	bySegment []PageID
	below     int    // pages below, at any depth
	past      []past // spells here that are over, by segment
}

// Settings, roles and menus come whole.
func (s *Site) Settings() Settings { return s.settings }

// Home is the home page's id; 0 on a site without pages.
func (s *Site) Home() PageID { return s.home }

// Count is the number of pages that are not binned.
func (s *Site) Count() int { return s.count }

// Page finds a page, binned ones included; nil if there never was one.
func (s *Site) Page(id PageID) *Page { return s.pages.get(int64(id)) }

// Children gives the children of a page in their order, binned ones left out. The slice belongs to the Site.
func (s *Site) Children(id PageID) []PageID {
	if f := s.families.get(int64(id)); f != nil {
		return f.kids
	}
	return nil
}

// Below counts the pages below a page, at any depth.
func (s *Site) Below(id PageID) int {
	if f := s.families.get(int64(id)); f != nil {
		return f.below
	}
	return 0
}

// Child finds the child of a page that has a segment; 0 if none has.
func (s *Site) Child(parent PageID, segment string) PageID {
	f := s.families.get(int64(parent))
	if f == nil {
		return 0
	}
	if same := s.namesakes(f, segment); len(same) > 0 {
		return same[0]
	}
	return 0
}

// Namesakes gives the children of a page that have a segment, by number. There is more than one only within a step, of
// which the end decides (rules 3.3).
func (s *Site) Namesakes(parent PageID, segment string) []PageID {
	f := s.families.get(int64(parent))
	if f == nil {
		return nil
	}
	return slices.Clone(s.namesakes(f, segment))
}

func (s *Site) namesakes(f *family, segment string) []PageID {
	from := s.segmentIndex(f, segment, 0)
	to := from
	for to < len(f.bySegment) && s.Page(f.bySegment[to]).Segment == segment {
		to++
	}
	return f.bySegment[from:to:to]
}

// segmentIndex is the place of a page among those of a family in order of segment and number.
func (s *Site) segmentIndex(f *family, segment string, id PageID) int {
	at, _ := slices.BinarySearchFunc(f.bySegment, id, func(other, id PageID) int {
		return cmp.Or(compare(s.Page(other).Segment, segment), cmp.Compare(other, id))
	})
	return at
}

// Index gives the place of a page among its siblings, from 0, and their number. A binned page has none: -1.
func (s *Site) Index(id PageID) (index, siblings int) {
	p := s.Page(id)
	if p == nil || p.Binned {
		return -1, 0
	}
	f := s.families.get(int64(p.Parent))
	if f == nil {
		return 0, 1 // the home page
	}
	return s.orderIndex(f, p), len(f.kids)
}

// Neighbours gives the siblings before and after a page; 0 at an end.
func (s *Site) Neighbours(id PageID) (before, after PageID) {
	at, n := s.Index(id)
	if at < 0 || s.Page(id).Parent == 0 {
		return 0, 0
	}
	kids := s.Children(s.Page(id).Parent)
	if at > 0 {
		before = kids[at-1]
	}
	if at+1 < n {
		after = kids[at+1]
	}
	return before, after
}

// Path gives the pages from the home page, or from the top of a binned branch, down to the page itself.
func (s *Site) Path(id PageID) []*Page {
	var path []*Page
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		path = append(path, p)
		if p.Binned {
			break
		}
	}
	slices.Reverse(path)
	return path
}

// Level is the distance from the home page (rules 1).
func (s *Site) Level(id PageID) int { return len(s.Path(id)) - 1 }

// InTree says whether the page exists and neither it nor an ancestor is binned.
func (s *Site) InTree(id PageID) bool {
	for p := s.Page(id); p != nil && !p.Binned; p = s.Page(p.Parent) {
		if p.ID == s.home {
			return true
		}
	}
	return false
}

// IsWithin says whether a page is the top of a branch or below it.
func (s *Site) IsWithin(id, top PageID) bool {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if p.ID == top {
			return true
		}
		if p.Binned {
			break
		}
	}
	return false
}

// Fixed gives the own and short addresses, sorted.
func (s *Site) Fixed() []FixedAddress { return s.fixed }

// Binned gives the tops of the binned branches.
func (s *Site) Binned() []PageID { return s.binned }

// Windowed gives the pages that have a live window, binned ones included.
func (s *Site) Windowed() []PageID { return s.windowed }

// Walk visits a page and all below it in the tree's order, until visit says false.
func (s *Site) Walk(top PageID, visit func(*Page) bool) bool {
	p := s.Page(top)
	if p == nil {
		return true
	}
	if !visit(p) {
		return false
	}
	for _, kid := range s.Children(top) {
		if !s.Walk(kid, visit) {
			return false
		}
	}
	return true
}

// SortByTree puts pages in the order in which a walk of the tree meets them.
func (s *Site) SortByTree(pages []PageID) {
	way := make(map[PageID][]int, len(pages))
	for _, id := range pages {
		path := s.Path(id)
		way[id] = make([]int, len(path))
		for i, p := range path {
			way[id][i], _ = s.Index(p.ID)
		}
	}
	slices.SortFunc(pages, func(a, b PageID) int { return slices.Compare(way[a], way[b]) })
}

// A Change is a page as it was and as it is; nil where there is none.
type Change struct{ Was, Is *Page }

// Changes gives the pages that differ between two Sites, by id. Its cost grows with the difference, not with the
// Sites.
func Changes(was, is *Site) []Change {
	var changes []Change
	eachUnshared(was.pages, is.pages, func(_ int64, a, b *Page) {
		if a != b {
			changes = append(changes, Change{a, b})
		}
	})
	return changes
}
