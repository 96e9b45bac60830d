package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/site"
)

// thingsFor finds menus, items and blocks by words in their names, in what they lead to, and in what visitors read of
// them. The key of a hit says what it is: menu, item or block; its address is the screen that has it.
func (d *Desk) thingsFor(words string, sorts []string) []Hit {
	if words == "" {
		return nil
	}
	var hits []Hit
	take := func(sort string, made Hit, also ...string) {
		fits := slices.Contains(sorts, sort) && len(hits) < HitLimit
		if fits && HasAll(made.Label+" "+sort+" "+strings.Join(also, " "), words) {
			hits = append(hits, made)
		}
	}
	for i := range d.Site.Menus() {
		m := &d.Site.Menus()[i]
		link := d.Link("/menus", "menu", fmt.Sprint(m.ID))
		take("menu", Hit{Key: fmt.Sprintf("menu:%d", m.ID), Label: m.Name, Where: "Menu", URL: link})
	}
	for i := range d.Site.Menus() {
		m := &d.Site.Menus()[i]
		for j := range m.Entries {
			e := &m.Entries[j]
			where, _, _ := d.ItemPlace(d.Site, m, e)
			row := ItemID{Entry: e.ID}.String()
			take("item", Hit{
				Key: "item:" + row, Label: d.Site.EntryLabel(e), Address: d.Leads(e), Where: "Menu item, " + where,
				URL: d.ItemLink(m.ID, row),
			}, d.Leads(e), e.Hint, m.Name)
		}
	}
	for i := range d.Site.Blocks() {
		b := &d.Site.Blocks()[i]
		take("block", Hit{
			Key: fmt.Sprintf("block:%d", b.ID), Label: b.Name, Where: "Block, " + d.standsWords(b.ID),
			URL: d.Link("/layouts", "chip", d.chipOf(b.ID)),
		}, b.Title)
	}
	return hits
}

// atHand gives what somebody is offered before a word is typed: the pages that they keep at hand, and those that they
// opened last.
func (s *Server) atHand(ctx context.Context, d *Desk) (hits []Hit, err error) {
	kept, err := s.Store.KeptBy(ctx, d.Who.ID)
	if err != nil {
		return nil, err
	}
	recent, err := s.Store.Recent(ctx, d.Who.ID)
	if err != nil {
		return nil, err
	}
	seen := map[site.PageID]bool{}
	take := func(pages []site.PageID, why string) {
		for _, id := range pages {
			if seen[id] || !d.Site.InTree(id) || len(hits) == HitLimit {
				continue
			}
			seen[id] = true
			hit := d.pageHit(d.Site.Page(id))
			hit.Where = why + " · " + hit.Where
			hits = append(hits, hit)
		}
	}
	take(kept, "Kept at hand")
	take(recent, "Opened lately")
	return hits, nil
}

// standsWords says where a block stands, in short.
func (d *Desk) standsWords(id site.BlockID) string {
	places := d.Site.PlacementsOf(id)
	switch len(places) {
	case 0:
		return "in no region"
	case 1:
		return d.PlaceWords(places[0])
	}
	return fmt.Sprintf("in %d places", len(places))
}

// chipOf is what stands for a block on the map: its first place, or the block itself.
func (d *Desk) chipOf(id site.BlockID) string {
	if places := d.Site.PlacementsOf(id); len(places) > 0 {
		return fmt.Sprintf("p%d", places[0].ID)
	}
	return fmt.Sprintf("b%d", id)
}
