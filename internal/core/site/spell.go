package site

import (
	"cmp"
	"slices"
	"strings"
	"time"
)

// An Interval is a stretch of time, its start included, its end not. Zero times are open ends.
type Interval struct{ From, Until time.Time }

// Holds says whether a moment is in an interval: at its beginning or after, and before its end.
func (i Interval) Holds(at time.Time) bool {
	return !at.Before(i.From) && (i.Until.IsZero() || at.Before(i.Until))
}

// IsBackwards says that an interval would end before it begins, or as it does.
func (i Interval) IsBackwards() bool {
	return !i.From.IsZero() && !i.Until.IsZero() && !i.From.Before(i.Until)
}

// Window is when a page is live, if it is switched on.
func (p *Page) Window() Interval { return Interval{p.LiveFrom, p.LiveUntil} }

// Window is when an entry shows, if it is switched on.
func (e *Entry) Window() Interval { return Interval{e.LiveFrom, e.LiveUntil} }

// Window is when a placement stands, if it is switched on.
func (c *Conditions) Window() Interval { return Interval{c.LiveFrom, c.LiveUntil} }

// Meet gives the time that two intervals share; ok is false if there is none.
func (i Interval) Meet(other Interval) (shared Interval, ok bool) {
	shared = i
	if other.From.After(shared.From) {
		shared.From = other.From
	}
	if shared.Until.IsZero() || !other.Until.IsZero() && other.Until.Before(shared.Until) {
		shared.Until = other.Until
	}
	return shared, shared.Until.IsZero() || shared.From.Before(shared.Until)
}

// EndsBefore says whether one interval ends before another; an open one ends last.
func (i Interval) EndsBefore(other Interval) bool {
	return !i.Until.IsZero() && (other.Until.IsZero() || i.Until.Before(other.Until))
}

// A Spell is a stretch of time in which a page stood at one place and was itself live. A page keeps its spells for
// ever, so every address at which it was online can be found again without a table of addresses: a path was real at the
// times that the spells along it share (rules 3.4).
type Spell struct {
	Parent  PageID
	Segment string
	Own     string // the own address, in place of the one that parent and segment give
	Interval
}

// Spell gives the spell that lasts: where the page has stood, live, since it last changed place or status. ok is false
// for a page that is not published, offline, or the top of a binned branch.
func (p *Page) Spell() (spell Spell, ok bool) {
	if p.Since.IsZero() || p.Binned || p.Status != StatusLive {
		return spell, false
	}
	window, ok := Interval{p.Since, time.Time{}}.Meet(Interval{p.LiveFrom, p.LiveUntil})
	return Spell{p.Parent, p.Segment, p.OwnAddress, window}, ok
}

// EverySpell gives the spells of a page, the oldest first and the one that lasts at the end.
func (p *Page) EverySpell() []Spell {
	spells := slices.Clip(p.Spells)
	if spell, ok := p.Spell(); ok {
		spells = append(spells, spell)
	}
	return spells
}

// A Claim is a page that stood somewhere, and when.
type Claim struct {
	Page PageID
	Interval
}

// Claims gives the pages that stand or stood below a parent with a segment, live, and when.
func (s *Site) Claims(parent PageID, segment string) []Claim {
	f := s.families.get(int64(parent))
	if f == nil {
		return nil
	}
	claims := claimsAt(f.past, segment)
	for _, id := range s.namesakes(f, segment) {
		if spell, ok := s.Page(id).Spell(); ok && spell.Own == "" {
			claims = append(claims, Claim{id, spell.Interval})
		}
	}
	return claims
}

// OwnClaims gives the pages that have or had an own address, and when; whether their parents were online is another
// question.
func (s *Site) OwnClaims(address string) []Claim { return claimsAt(s.pastOwn, address) }

// HadOwnWithin says whether a page had an own address at a path or below it.
func (s *Site) HadOwnWithin(path string) bool {
	at, _ := slices.BinarySearchFunc(
		s.pastOwn,
		path,
		func(p past, name string) int { return strings.Compare(p.name, name) },
	)
	return at < len(s.pastOwn) && (s.pastOwn[at].name == path || strings.HasPrefix(s.pastOwn[at].name, path+"/"))
}

// A past spell is kept under the segment or own address by which it is looked for.
type past struct {
	name string
	page PageID
	Interval
}

func claimsAt(list []past, name string) []Claim {
	var claims []Claim
	at, _ := slices.BinarySearchFunc(list, name, func(p past, name string) int { return strings.Compare(p.name, name) })
	for ; at < len(list) && list[at].name == name; at++ {
		claims = append(claims, Claim{list[at].page, list[at].Interval})
	}
	return claims
}

func comparePast(a, b past) int {
	return cmp.Or(strings.Compare(a.name, b.name), cmp.Compare(a.page, b.page), a.From.Compare(b.From))
}

// listSpells keeps the index of spells that are over. A page's list only ever grows, so what two versions share is
// skipped.
func (b *Builder) listSpells(was, is *Page) {
	old, made := spellsOf(was), spellsOf(is)
	for len(old) > 0 && len(made) > 0 && old[0] == made[0] {
		old, made = old[1:], made[1:]
	}
	for _, spell := range old {
		list, entry := b.pastOf(was.ID, spell)
		if at, found := slices.BinarySearchFunc(*list, entry, comparePast); found {
			*list = slices.Delete(*list, at, at+1)
		}
	}
	for _, spell := range made {
		list, entry := b.pastOf(is.ID, spell)
		at, _ := slices.BinarySearchFunc(*list, entry, comparePast)
		*list = slices.Insert(*list, at, entry)
	}
}

func spellsOf(p *Page) []Spell {
	if p == nil {
		return nil
	}
	return p.Spells
}

// pastOf gives the list in which a spell is found again, for writing.
func (b *Builder) pastOf(page PageID, spell Spell) (*[]past, past) {
	if spell.Own != "" {
		own(&b.site.pastOwn, &b.owns.pastOwn)
		return &b.site.pastOwn, past{spell.Own, page, spell.Interval}
	}
	return &b.family(spell.Parent).past, past{spell.Segment, page, spell.Interval}
}
