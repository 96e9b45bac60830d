package address

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/site"
)

// Of gives the address at which a page is served (rules 3.1), "" for a page that is not there.
func Of(s *site.Site, id site.PageID) string {
	var segments [24]string
	n := len(segments)
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		switch {
		case p.OwnAddress != "":
			return p.OwnAddress + strings.Join(segments[n:], "")
		case p.Parent == 0:
			if n == len(segments) {
				return "/"
			}
			return strings.Join(segments[n:], "")
		case n == 0:
			return ofDeep(s, id)
		}
		n--
		segments[n] = "/" + p.Segment
	}
	return ""
}

// ofDeep serves trees of more levels than Of keeps at hand.
func ofDeep(s *site.Site, id site.PageID) string {
	p := s.Page(id)
	if p.OwnAddress != "" {
		return p.OwnAddress
	}
	return Under(Of(s, p.Parent), p.Segment)
}

// Under joins a parent's address and a segment.
func Under(parent, segment string) string {
	if parent == "/" {
		return "/" + segment
	}
	return parent + "/" + segment
}

// Found is what an address leads to. Short and Old addresses redirect to the page's own.
type Found struct {
	Page  site.PageID
	Short bool
	Old   bool // the page was online there before
	Gone  bool // the page that was there is in the bin, or purged, and its addresses lead nowhere

	// the binned page that was there, where its addresses lead on to Page; who was not admitted to it gets nothing
	Via site.PageID
}

// Resolve finds the page of a path in normal form, in the order own, page, short, old, binned (rules 3.6). Reserved
// paths are the caller's. now decides which old addresses are old already. The zero Found is no page.
func Resolve(s *site.Site, path string, now time.Time) Found {
	var short site.PageID
	for _, f := range fixedAt(s, path) {
		if !f.Short {
			return Found{Page: f.Page}
		}
		short = f.Page
	}
	if pages := descents(s, path); len(pages) > 0 {
		return Found{Page: pages[0]}
	}
	if short != 0 {
		return Found{Page: short, Short: true}
	}
	old := Old(s, path, now)
	if old == 0 {
		old = binnedShort(s, path, now)
	}
	if old == 0 || s.InTree(old) {
		return Found{Page: old, Old: old != 0}
	}
	if to := LeadsTo(s, old); to != 0 {
		return Found{Page: to, Old: true, Via: old}
	}
	return Found{Page: old, Gone: true}
}

// binnedShort finds the page in the bin that has a path for a short address and was online; 0 if there is none.
func binnedShort(s *site.Site, path string, now time.Time) site.PageID {
	for _, f := range fixedWithin(s, path, path) {
		if p := s.Page(f.Page); f.Short && !s.InTree(f.Page) && p.WasOnline(now) {
			return f.Page
		}
	}
	return 0
}

// LeadsTo gives the page to which the addresses of a binned one lead: what was chosen for it or, nearest, above it,
// followed to its end (rules 3.5); 0 if they lead nowhere.
func LeadsTo(s *site.Site, id site.PageID) site.PageID {
	seen := map[site.PageID]bool{}
	for id != 0 && !s.InTree(id) && !seen[id] {
		seen[id] = true
		for !s.InTree(id) && s.Page(id) != nil && s.Page(id).LeadsTo == 0 {
			id = s.Page(id).Parent
		}
		if s.InTree(id) || s.Page(id) == nil {
			return 0
		}
		id = s.Page(id).LeadsTo
	}
	if id == 0 || !s.InTree(id) {
		return 0
	}
	return id
}

// descents gives every page that a path reaches by segments, from the nearest own address above it or the home page.
// There is more than one only while an edit that is about to be refused stands.
func descents(s *site.Site, path string) []site.PageID {
	var pages []site.PageID
	for at := len(path); at > 0; at = strings.LastIndexByte(path[:at], '/') {
		for _, f := range fixedAt(s, path[:at]) {
			if !f.Short && at < len(path) {
				pages = appendDescent(pages, s, f.Page, path[at:])
			}
		}
	}
	return appendDescent(pages, s, s.Home(), path)
}

func appendDescent(pages []site.PageID, s *site.Site, from site.PageID, path string) []site.PageID {
	if path == "/" {
		return append(pages, from)
	}
	for path != "" {
		segment := path[1:]
		if end := strings.IndexByte(segment, '/'); end >= 0 {
			segment = segment[:end]
		}
		if from = s.Child(from, segment); from == 0 || s.Page(from).OwnAddress != "" {
			return pages
		}
		path = path[1+len(segment):]
	}
	return append(pages, from)
}

// fixedAt gives the pages of the tree that have a path as own or short address. Pages below a binned one keep theirs on
// record, and don't count.
func fixedAt(s *site.Site, path string) []site.FixedAddress {
	var standing []site.FixedAddress
	for _, f := range fixedWithin(s, path, path) {
		if s.InTree(f.Page) {
			standing = append(standing, f)
		}
	}
	return standing
}

// fixedWithin gives the fixed addresses from low to high, both included.
func fixedWithin(s *site.Site, low, high string) []site.FixedAddress {
	fixed := s.Fixed()
	from, to := 0, len(fixed)
	for from < to {
		if mid := (from + to) / 2; fixed[mid].Address < low {
			from = mid + 1
		} else {
			to = mid
		}
	}
	for to = from; to < len(fixed) && fixed[to].Address <= high; to++ {
	}
	return fixed[from:to]
}

// A Clash is two pages that one address would lead to (rules 3.3).
type Clash struct {
	Address  string
	One, Two site.PageID
	Siblings bool // with one last part
}

// FindClash looks for an address in or below a page's that would lead to two pages. Every clash has an own or short
// address on one side, since the tree alone gives siblings different segments; so only those are looked at.
func FindClash(s *site.Site, id site.PageID) *Clash {
	top := Of(s, id)
	return clashAmong(s, slices.Concat(fixedWithin(s, top, top+"/\xff"), fixedOf(s, id)))
}

// FindClashBelow looks at every own and short address of a branch, as it must when the branch comes back from the bin.
func FindClashBelow(s *site.Site, top site.PageID) *Clash {
	var below []site.FixedAddress
	for _, f := range s.Fixed() {
		if s.IsWithin(f.Page, top) {
			below = append(below, f)
		}
	}
	return clashAmong(s, below)
}

func clashAmong(s *site.Site, fixed []site.FixedAddress) *Clash {
	for _, f := range fixed {
		if !s.InTree(f.Page) {
			continue
		}
		for _, other := range fixedAt(s, f.Address) {
			if other.Page != f.Page {
				return &Clash{Address: f.Address, One: f.Page, Two: other.Page}
			}
		}
		for _, other := range descents(s, f.Address) {
			if other != f.Page || f.Short {
				return &Clash{Address: f.Address, One: f.Page, Two: other}
			}
		}
	}
	return nil
}

func fixedOf(s *site.Site, id site.PageID) []site.FixedAddress {
	var fixed []site.FixedAddress
	for _, short := range s.Page(id).ShortAddresses {
		fixed = append(fixed, site.FixedAddress{Address: short, Page: id, Short: true})
	}
	return fixed
}

// Slashed takes an address as people type it, with or without the slash before it or after it, as a path.
func Slashed(typed string) string { return "/" + strings.Trim(strings.TrimSpace(typed), "/") }

// CheckFixed says what is wrong with an own or short address as typed, nil if nothing is.
func CheckFixed(path string) error {
	if path == "/" {
		return fmt.Errorf("“/” belongs to the home page")
	}
	if normal, err := Normal(path); err != nil || normal != path {
		return fmt.Errorf("“%s” is not an address in its normal form; try “%s”", path, normal)
	}
	first, _, _ := strings.Cut(path[1:], "/")
	if IsReserved(first) {
		return fmt.Errorf("addresses that start with “/%s” belong to the program", first)
	}
	return nil
}
