package site

import (
	"cmp"
	"slices"
	"strings"
)

// A Builder makes a Site out of another one. Everything that changes pages goes through Put, so the indexes have one
// keeper. A Builder is for one goroutine and ends with Site.
type Builder struct {
	site Site
	edit *edit
	// lists that are this Builder's own to write in
	owns struct{ binned, windowed, lists, listers, files, merged, fixed, pastOwn bool }
}

// NewBuilder starts an empty site.
func NewBuilder(settings Settings) *Builder {
	return &Builder{
		site: Site{
			settings:  settings,
			collation: newCollation(settings.Language),
			texts:     new(Texts),
			theme:     new(Theme),
			topics:    new(topicsOnce),
		},
		edit: new(edit),
	}
}

// Builder starts from s, which stays as it is.
func (s *Site) Builder() *Builder { return &Builder{site: *s, edit: new(edit)} }

// Site hands out what was built; the Builder must not be used after.
func (b *Builder) Site() *Site {
	made := b.site
	b.edit = nil
	return &made
}

// Peek is the state so far, for reading between two Puts.
func (b *Builder) Peek() *Site { return &b.site }

// SetSettings replaces the settings.
func (b *Builder) SetSettings(settings Settings) {
	another := settings.Language != b.site.settings.Language
	b.site.settings = settings
	if another { // labels are ordered as its readers expect
		b.site.collation = newCollation(settings.Language)
		b.sortAll()
	}
}

// sortAll puts the children of all pages in order.
func (b *Builder) sortAll() {
	s := &b.site
	for _, top := range append([]PageID{s.home}, s.Binned()...) {
		if s.Page(top) == nil {
			continue
		}
		s.Walk(top, func(p *Page) bool {
			if f := s.families.get(int64(p.ID)); f != nil && len(f.kids) > 1 {
				b.sortFamily(p)
			}
			return true
		})
	}
}

// SetKinds replaces the kinds of page.
func (b *Builder) SetKinds(kinds []Kind) { b.site.kinds = kinds }

// Put replaces pages by id, or adds them. All old ones leave the tree before the first new one enters, so a list may
// exchange parents and children. The caller sees to it that the result is a tree and, in the end, that no two children
// of a page have one segment.
func (b *Builder) Put(pages ...*Page) {
	if len(pages) > 1 {
		for _, p := range pages {
			b.detach(p.ID)
		}
		for _, p := range pages {
			b.attach(p)
		}
		return
	}
	for _, p := range pages {
		if was := b.site.Page(p.ID); was != nil && samePlace(was, p) {
			b.site.pages.set(b.edit, int64(p.ID), p)
			b.list(was, p)
			continue
		}
		b.detach(p.ID)
		b.attach(p)
	}
}

// Remove takes a page out altogether, as the inverse of making it does.
func (b *Builder) Remove(id PageID) { b.detach(id) }

func samePlace(a, b *Page) bool {
	return a.Parent == b.Parent && a.Rank == b.Rank && a.Segment == b.Segment && a.Binned == b.Binned &&
		a.Label == b.Label && a.Pin == b.Pin && a.Sort == b.Sort && a.Date == b.Date && a.FirstOnline.Equal(b.FirstOnline)
}

func (b *Builder) detach(id PageID) {
	p := b.site.Page(id)
	if p == nil {
		return
	}
	s := &b.site
	switch {
	case p.Binned:
	case p.Parent == 0:
		s.home = 0
		s.count -= 1 + s.Below(id)
	default:
		f := b.family(p.Parent)
		at := s.orderIndex(f, p)
		if at >= len(f.kids) || f.kids[at] != id {
			at = slices.Index(f.kids, id) // the family still stands in the order of a rule its parent has just left
		}
		f.kids = slices.Delete(f.kids, at, at+1)
		at = s.segmentIndex(f, p.Segment, id)
		f.bySegment = slices.Delete(f.bySegment, at, at+1)
		b.addBelow(p.Parent, -1-s.Below(id))
	}
	b.list(p, nil)
	s.pages.set(b.edit, int64(id), nil)
}

func (b *Builder) attach(p *Page) {
	s := &b.site
	s.pages.set(b.edit, int64(p.ID), p)
	switch {
	case p.Binned:
	case p.Parent == 0:
		s.home = p.ID
		s.count += 1 + s.Below(p.ID)
	default:
		f := b.family(p.Parent)
		f.kids = slices.Insert(f.kids, s.orderIndex(f, p), p.ID)
		at := s.segmentIndex(f, p.Segment, p.ID)
		f.bySegment = slices.Insert(f.bySegment, at, p.ID)
		b.addBelow(p.Parent, 1+s.Below(p.ID))
	}
	b.list(nil, p)
	if f := s.families.get(int64(p.ID)); f != nil && len(f.kids) > 1 {
		b.sortFamily(p)
	}
}

// sortFamily puts children in order that came before their parent, or whose parent has a new rule.
func (b *Builder) sortFamily(parent *Page) {
	f := b.family(parent.ID)
	slices.SortFunc(f.kids, func(x, y PageID) int {
		return b.site.order(parent, b.site.Page(x), b.site.Page(y))
	})
}

// family gives the children of a page for writing.
func (b *Builder) family(id PageID) *family {
	f := b.site.families.get(int64(id))
	switch {
	case f == nil:
		f = &family{owner: b.edit}
	case f.owner == b.edit:
		return f
	default:
		f = &family{b.edit, slices.Clone(f.kids), slices.Clone(f.bySegment), f.below, slices.Clone(f.past)}
	}
	b.site.families.set(b.edit, int64(id), f)
	return f
}

// addBelow counts pages that came or went below a page and all above it.
func (b *Builder) addBelow(id PageID, n int) {
	for {
		b.family(id).below += n
		p := b.site.Page(id)
		if p == nil || p.Binned {
			return
		}
		if p.Parent == 0 {
			b.site.count += n
			return
		}
		id = p.Parent
	}
}

// list keeps the short sorted lists that stand beside the tree. Each is copied once for a Builder and then written in
// place.
func (b *Builder) list(was, is *Page) {
	b.listSpells(was, is)
	b.listLinks(was, is)
	b.listTopics(was, is)
	s := &b.site
	member(&s.binned, &b.owns.binned, was, is, func(p *Page) bool { return p.Binned && !p.Purged })
	member(
		&s.windowed,
		&b.owns.windowed,
		was,
		is,
		func(p *Page) bool { return !p.LiveFrom.IsZero() || !p.LiveUntil.IsZero() },
	)
	old, made := fixedOf(was), fixedOf(is)
	if slices.Equal(old, made) {
		return
	}
	own(&s.fixed, &b.owns.fixed)
	for _, f := range old {
		if at, found := slices.BinarySearchFunc(s.fixed, f, compareFixed); found {
			s.fixed = slices.Delete(s.fixed, at, at+1)
		}
	}
	for _, f := range made {
		at, _ := slices.BinarySearchFunc(s.fixed, f, compareFixed)
		s.fixed = slices.Insert(s.fixed, at, f)
	}
}

func compareFixed(x, y FixedAddress) int {
	return cmp.Or(strings.Compare(x.Address, y.Address), cmp.Compare(x.Page, y.Page))
}

// member takes a page into a sorted list, or out of it, as a question about it says.
func member(list *[]PageID, owned *bool, was, is *Page, belongs func(*Page) bool) {
	stood, stands := was != nil && belongs(was), is != nil && belongs(is)
	switch {
	case stood && !stands:
		own(list, owned)
		if at, found := slices.BinarySearch(*list, was.ID); found {
			*list = slices.Delete(*list, at, at+1)
		}
	case stands && !stood:
		own(list, owned)
		at, _ := slices.BinarySearch(*list, is.ID)
		*list = slices.Insert(*list, at, is.ID)
	}
}

func own[T any](list *[]T, owned *bool) {
	if !*owned {
		*list, *owned = slices.Clone(*list), true
	}
}

// fixedOf gives the own and short addresses of a page. Those of a binned one stay on record, since they answer that it
// is gone.
func fixedOf(p *Page) []FixedAddress {
	if p == nil || p.Purged {
		return nil
	}
	var fixed []FixedAddress
	if p.OwnAddress != "" {
		fixed = append(fixed, FixedAddress{p.OwnAddress, p.ID, false})
	}
	for _, short := range p.ShortAddresses {
		fixed = append(fixed, FixedAddress{short, p.ID, true})
	}
	return fixed
}
