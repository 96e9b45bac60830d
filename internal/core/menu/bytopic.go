package menu

import (
	"cmp"
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A lead is a line for a topic that a page bears, or for a broader one.
type lead struct {
	list  site.PageID // in which the topic stands
	depth int         // of the topic in it, from 1
}

// preferred gives the best of some leads in menu order: the deepest in its list, between lists the first one; -1 if
// none of them counts.
func preferred(leads int, of func(i int) (l lead, counts bool)) int {
	best := map[site.PageID]int{}
	for i := range leads {
		l, counts := of(i)
		if !counts {
			continue
		}
		if had, known := best[l.list]; known {
			if other, _ := of(had); other.depth >= l.depth {
				continue
			}
		}
		best[l.list] = i
	}
	first := -1
	for _, i := range best {
		if first < 0 || i < first {
			first = i
		}
	}
	return first
}

// leadsOn gives the topics on the way to one, as leads by page.
func leadsOn(way []*site.Page) map[site.PageID]lead {
	leads := map[site.PageID]lead{}
	var l lead
	for _, p := range way {
		switch {
		case p.IsTopicList():
			l = lead{list: p.ID}
		case p.IsTopic():
			l.depth++
			leads[p.ID] = l
		}
	}
	return leads
}

// beyondTree goes on from the trail that the tree gives a page: to the best line for a topic among those below it, else
// to the first for a list on which it is, and so on to the end; from the top where the tree gives none.
func (v *View) beyondTree(current site.PageID, base []Line) []Line {
	p := v.site.Page(current)
	topics, lists := v.site.TopicsOf(p), v.listing(p)
	if len(topics)+len(lists) == 0 {
		return base
	}
	t := &trailing{view: v}
	leads := map[site.PageID]lead{}
	for _, id := range topics {
		way := v.site.Path(id)
		t.ways = append(t.ways, way)
		for page, l := range leadsOn(way) {
			leads[page] = l
		}
	}
	for _, id := range lists {
		t.ways = append(t.ways, v.site.Path(id))
	}
	var found, listed [][]Line
	t.offer = func(trail []Line) {
		switch end := trail[len(trail)-1]; {
		case end.Query != "":
		case leads[end.Page] != lead{}:
			found = append(found, slices.Clone(trail))
		case slices.Contains(lists, end.Page):
			listed = append(listed, slices.Clone(trail))
		}
	}
	t.below(0, 0, nil)
	order := map[site.EntryID]int{}
	for _, trail := range listed {
		if _, known := order[trail[len(trail)-1].Entry]; !known {
			order[trail[len(trail)-1].Entry] = len(order)
		}
	}
	slices.SortStableFunc(listed, func(a, b []Line) int {
		x, y := a[len(a)-1], b[len(b)-1]
		return cmp.Or(order[x.Entry]-order[y.Entry], slices.Index(lists, x.Page)-slices.Index(lists, y.Page))
	})
	for {
		at := preferred(len(found), func(i int) (lead, bool) {
			return leads[found[i][len(found[i])-1].Page], goesOn(found[i], base)
		})
		if at >= 0 {
			base = found[at]
			continue
		}
		if at = slices.IndexFunc(listed, func(trail []Line) bool { return goesOn(trail, base) }); at < 0 {
			return base
		}
		base = listed[at]
	}
}

// listing gives the pages with a line that list a page.
func (v *View) listing(p *site.Page) (pages []site.PageID) {
	if p == nil {
		return nil
	}
	for _, l := range v.grow.lists() {
		if v.has(l.of(p)) {
			pages = append(pages, l.page)
		}
	}
	return pages
}

// LitBy gives the line at which the trail of a page ends because of a topic or of a list, and the topic that the page
// bears for it, that of the line or one that stands in it, or the page that lists it. There is none where the tree says
// it.
func (v *View) LitBy(current site.PageID) (end Line, borne site.PageID, ok bool) {
	trail := v.Trail(current)
	if len(trail) == 0 {
		return end, 0, false
	}
	end = trail[len(trail)-1]
	if slices.Contains(v.listing(v.site.Page(current)), end.Page) && !v.site.IsWithin(current, end.Page) {
		return end, end.Page, true
	}
	if p := v.site.Page(end.Page); p == nil || !p.IsTopic() || v.site.IsWithin(current, end.Page) {
		return end, 0, false
	}
	for _, id := range v.site.TopicsOf(v.site.Page(current)) {
		if v.site.IsWithin(id, end.Page) {
			return end, id, true
		}
	}
	return end, 0, false
}

// goesOn says whether a trail begins with another one and is longer.
func goesOn(trail, base []Line) bool {
	return len(trail) > len(base) && slices.EqualFunc(trail[:len(base)], base, Line.same)
}

// A leading line is one for a topic, for some lenses.
type leading struct {
	lead
	at     int // its entry, in menu order
	lenses reach.Mask
	step   *Step
}

// led is what leads to a topic or topic list: the lines for it and its broader ones, from the top down, and how it
// stands for the walk on to narrower ones.
type led struct {
	found []leading
	at    Footing
	state reach.State
	lead  lead
}

// leadsTo gives what leads to a topic, made once, from what leads to the broader one.
func (t *Trails) leadsTo(id site.PageID) *led {
	if known := t.leads[id]; known != nil {
		return known
	}
	p := t.site.Page(id)
	made := &led{}
	if p.IsTopic() {
		above := t.leadsTo(p.Parent)
		made.lead = lead{above.lead.list, above.lead.depth + 1}
		made.state = t.panel.Below(above.state, p)
		made.found = above.found[:len(above.found):len(above.found)]
		made.at.runs = t.lines(above.at, p, made.state, func(tr *track, lenses reach.Mask, step *Step) {
			if lenses != 0 {
				made.found = append(made.found, leading{made.lead, tr.at, lenses, step})
			}
		})
	} else {
		made.lead.list = id
		for i, q := range t.site.Path(id) {
			if made.state = t.panel.Below(made.state, q); i == 0 {
				made.state = t.panel.Home(q)
			}
			made.at.runs = t.lines(made.at, q, made.state, func(*track, reach.Mask, *Step) {})
		}
	}
	t.leads[id] = made
	return made
}

// mayGoOn says whether a line for a topic can stand below one of the ends that the tree gives a page, or for lenses
// without one. Below a line of a run only what stands in its page does, and entries that were put there.
func (t *Trails) mayGoOn(p *site.Page, ends []End) bool {
	var ended reach.Mask
	for _, end := range ends {
		ended |= end.Lenses
		if end.Step.Page != p.ID && (!end.Step.run || t.mixed || t.above[end.Step.Page]) {
			return true
		}
	}
	return ended != t.panel.All()
}

// beyondTree goes on from the ends that the tree gives a page, for each lens.
func (t *Trails) beyondTree(p *site.Page, ends []End) []End {
	var found, listed []leading
	for _, topic := range t.site.TopicsOf(p) {
		found = append(found, t.leadsTo(topic).found...)
	}
	for _, l := range t.grow.lists() {
		if on := l.of(p); on != 0 {
			for _, line := range t.linesOf(l.page) {
				line.lenses &= on
				listed = append(listed, line)
			}
		}
	}
	if len(found)+len(listed) == 0 {
		return ends
	}
	inOrder := func(a, b leading) int { return a.at - b.at }
	slices.SortStableFunc(found, inOrder)
	slices.SortStableFunc(listed, inOrder)
	d := deciding{}
	for left := t.panel.All(); left != 0; {
		lens := left.First()
		alike := left
		with := func(m reach.Mask) bool {
			if m.Has(lens) {
				alike &= m
				return true
			}
			alike &^= m
			return false
		}
		var base *Step
		for _, end := range ends {
			if with(end.Lenses) {
				base = end.Step
			}
		}
		for base == nil || base.Page != p.ID {
			next := func(l leading) bool { return with(l.lenses) && l.step.isBelow(base) }
			if at := preferred(len(found), func(i int) (lead, bool) { return found[i].lead, next(found[i]) }); at >= 0 {
				base = found[at].step
				continue
			}
			at := slices.IndexFunc(listed, next)
			if at < 0 {
				break
			}
			base = listed[at].step
		}
		if base != nil {
			d.decide(alike, base)
		}
		left &^= alike
	}
	return d.ends
}

// linesOf gives the lines of a page that lists others, made once.
func (t *Trails) linesOf(id site.PageID) []leading {
	known, made := t.listed[id]
	if made {
		return known
	}
	var at Footing
	var state reach.State
	for i, q := range t.site.Path(id) {
		if state = t.panel.Below(state, q); i == 0 {
			state = t.panel.Home(q)
		}
		at.runs = t.lines(at, q, state, func(tr *track, lenses reach.Mask, step *Step) {
			if q.ID == id && lenses != 0 {
				known = append(known, leading{at: tr.at, lenses: lenses, step: step})
			}
		})
	}
	t.listed[id] = known
	return known
}

// isBelow says whether a step stands below another one, or below none.
func (s *Step) isBelow(base *Step) bool {
	if base == nil {
		return true
	}
	for above := s.Above; above != nil; above = above.Above {
		if above.Entry == base.Entry && above.Page == base.Page && above.Level == base.Level {
			return true
		}
	}
	return false
}

// hasTopics says whether lines of the menu can lead to topics.
func (t *Trails) hasTopics() bool {
	for page := range t.targets {
		if p := t.site.Page(page); p != nil && p.IsTopic() {
			return true
		}
	}
	for _, list := range t.site.TopicLists() {
		for _, run := range t.runs {
			if t.site.IsWithin(list, run.to.Root) {
				return true
			}
		}
	}
	return false
}
