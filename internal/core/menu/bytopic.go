package menu

import (
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

// byTopics goes on from the trail that the tree gives a page: to the best line for a topic among those below it, and
// so on to the end; from the top where the tree gives none.
func (v *View) byTopics(current site.PageID, base []Line) []Line {
	topics := v.site.TopicsOf(v.site.Page(current))
	if len(topics) == 0 {
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
	var found [][]Line
	t.offer = func(trail []Line) {
		if _, leading := leads[trail[len(trail)-1].Page]; leading {
			found = append(found, slices.Clone(trail))
		}
	}
	t.below(0, 0, nil)
	for {
		at := preferred(len(found), func(i int) (lead, bool) {
			return leads[found[i][len(found[i])-1].Page], goesOn(found[i], base)
		})
		if at < 0 {
			return base
		}
		base = found[at]
	}
}

// LitBy gives the line at which the trail of a page ends because of a topic, and the topic that the page bears for it:
// that of the line, or one that stands in it. There is none where the tree says it.
func (v *View) LitBy(current site.PageID) (end Line, borne site.PageID, ok bool) {
	trail := v.Trail(current)
	if len(trail) == 0 {
		return end, 0, false
	}
	end = trail[len(trail)-1]
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

// byTopics goes on from the ends that the tree gives a page, for each lens.
func (t *Trails) byTopics(p *site.Page, ends []End) []End {
	var found []leading
	for _, topic := range t.site.TopicsOf(p) {
		found = append(found, t.leadsTo(topic).found...)
	}
	if len(found) == 0 {
		return ends
	}
	slices.SortStableFunc(found, func(a, b leading) int { return a.at - b.at })
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
			at := preferred(len(found), func(i int) (lead, bool) {
				return found[i].lead, with(found[i].lenses) && found[i].step.isBelow(base)
			})
			if at < 0 {
				break
			}
			base = found[at].step
		}
		if base != nil {
			d.decide(alike, base)
		}
		left &^= alike
	}
	return d.ends
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
