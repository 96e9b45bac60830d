package grant

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// Opens says what operations open beside pages, where that needs the right to admit (rules 2.6): the words or the
// picture of a block shown to somebody who saw them nowhere before, an item outside the audiences below which it
// stood. Compared is what is public with the Site as the operations leave it, now and at each later moment at which
// one of the block's places begins or ends. "" if nothing is opened.
func Opens(public, after *site.Site, ops []edit.Op, now time.Time) string {
	for _, id := range blocksOf(public, after, ops) {
		if b := after.Block(id); b != nil && opensBlock(public, after, b, now) {
			return fmt.Sprintf("It shows what the block “%s” says to people who see it nowhere now", b.Name)
		}
	}
	for _, op := range ops {
		if o, moves := op.(edit.OpMoveEntry); moves {
			if why := opensItem(public, after, o.Entry); why != "" {
				return why
			}
		}
	}
	return ""
}

// CanOpen says whether operations are of a sort that opens anything beside pages.
func CanOpen(ops []edit.Op) bool {
	return slices.ContainsFunc(ops, func(op edit.Op) bool {
		switch op.(type) {
		case edit.OpPutPlacement, edit.OpEditPlacement, edit.OpMovePlacement, edit.OpEditBlock, edit.OpMoveEntry:
			return true
		}
		return false
	})
}

// blocksOf gives the blocks that operations put, move or edit.
func blocksOf(public, after *site.Site, ops []edit.Op) []site.BlockID {
	var ids []site.BlockID
	of := func(id site.PlacementID) {
		for _, s := range []*site.Site{after, public} {
			if p := s.Placement(id); p != nil {
				ids = append(ids, p.Block)
				return
			}
		}
	}
	for _, op := range ops {
		switch o := op.(type) {
		case edit.OpPutPlacement:
			ids = append(ids, o.Block)
		case edit.OpEditPlacement:
			of(o.Placement)
		case edit.OpMovePlacement:
			of(o.Placement)
		case edit.OpEditBlock:
			ids = append(ids, o.Block)
		}
	}
	slices.Sort(ids)
	return slices.Compact(ids)
}

// saying is what a block says itself: its text or its picture. Menus, lists and breadcrumbs say nothing of their own;
// the pages in them guard themselves.
func saying(b *site.Block) string { return piece.Of(b.Shows).Says(b.Shows) }

// says is new, and nobody's secret.
func opensBlock(public, after *site.Site, b *site.Block, now time.Time) bool {
	says := saying(b)
	var said []*site.Block
	for i := range public.Blocks() {
		if old := &public.Blocks()[i]; saying(old) == says {
			said = append(said, old)
		}
	}
	if says == "" || len(said) == 0 {
		return false
	}
	moments := momentsOf(now, after, b, public, said)
	people := slices.Collect(slices.Chunk(peopleOf(public), reach.PanelLimit))
	for _, some := range people {
		var seen reach.Mask
		for _, at := range moments {
			panel := panelAt(some, at)
			for _, old := range said {
				seen |= showsTo(public, old, panel)
			}
			if showsTo(after, b, panel)&^seen != 0 {
				return true
			}
		}
	}
	return false
}

// momentsOf gives now and the moments at which a place of one of the blocks begins or ends, in order.
func momentsOf(now time.Time, after *site.Site, b *site.Block, public *site.Site, said []*site.Block) []time.Time {
	moments := []time.Time{now}
	add := func(s *site.Site, id site.BlockID) {
		for _, p := range s.PlacementsOf(id) {
			for _, at := range []time.Time{p.LiveFrom, p.LiveUntil} {
				if at.After(now) {
					moments = append(moments, at)
				}
			}
		}
	}
	add(after, b.ID)
	for _, old := range said {
		add(public, old.ID)
	}
	slices.SortFunc(moments, time.Time.Compare)
	return slices.CompactFunc(moments, time.Time.Equal)
}

// peopleOf gives every kind of person that a page's audience and a place's together can tell apart: any role suffices
// for each of them, so two roles do for both.
func peopleOf(s *site.Site) []reach.Visitor {
	people := []reach.Visitor{{}, {SignedIn: true}}
	roles := s.Roles()
	for i := range roles {
		people = append(people, reach.As(s, []string{roles[i].Key}))
		for k := i + 1; k < len(roles); k++ {
			people = append(people, reach.As(s, []string{roles[i].Key, roles[k].Key}))
		}
	}
	return people
}

func panelAt(people []reach.Visitor, at time.Time) *reach.Panel {
	lenses := make([]reach.Lens, len(people))
	for i, who := range people {
		lenses[i] = reach.Lens{Visitor: who, At: at}
	}
	return reach.NewPanel(lenses...)
}

func showsTo(s *site.Site, b *site.Block, panel *reach.Panel) (lenses reach.Mask) {
	region.Cover(s, b, panel, func(_ *site.Page, shows reach.Mask) { lenses |= shows })
	return lenses
}

// opensItem says why an item that was moved is open to more people than below the items where it is now. Pages guard
// themselves, wherever an item leads to them.
func opensItem(public, after *site.Site, id site.EntryID) string {
	was, is := edit.AudiencesOf(public, id), edit.AudiencesOf(after, id)
	if was == nil || is == nil || edit.LeadsToPages(after, id) {
		return ""
	}
	lost := edit.Lost(public, was, is)
	if len(lost) == 0 {
		return ""
	}
	return fmt.Sprintf(
		"The item is for %s, by the items above it, and at its new place for %s",
		namesOf(public, lost),
		namesOf(public, is),
	)
}

func namesOf(s *site.Site, audiences []site.Audience) string {
	names := ""
	for _, a := range audiences {
		if a != site.AudienceInherited && a != site.AudienceEveryone {
			if names != "" {
				names += " and "
			}
			names += "“" + s.AudienceWords(a) + "”"
		}
	}
	if names == "" {
		return "everyone"
	}
	return names
}
