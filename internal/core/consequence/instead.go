package consequence

import (
	"vineladder/internal/core/grant"
	"vineladder/internal/core/look"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// programs compares the menus that programs read.
func (c *comparison) programs() {
	told := map[site.MenuID]bool{}
	for _, s := range []*site.Site{c.Was, c.Is} {
		for i := range s.Menus() {
			if m := &s.Menus()[i]; m.Programs && !told[m.ID] {
				told[m.ID] = true
				if c.programsCanDiffer(m.ID) {
					c.programsOf(m.ID)
				}
			}
		}
	}
}

// everyLevel is the window through which programs read a menu.
var everyLevel = site.Window{First: 1, Unfold: site.UnfoldAll}

// programsCanDiffer says whether the edits touch what a menu shows to programs.
func (c *comparison) programsCanDiffer(id site.MenuID) bool {
	was, is := c.Was.Menu(id), c.Is.Menu(id)
	if c.whole || c.layouts || was == nil || is == nil || was.Programs != is.Programs || was.Name != is.Name ||
		was.Key != is.Key || c.Was.Settings() != c.Is.Settings() {
		return true
	}
	on := region.Contexts{}
	c.menuContexts(site.BlockMenu{Menu: id, Window: everyLevel}, &on)
	return on.Everywhere || len(on.Tops)+len(on.Alone) > 0
}

func (c *comparison) programsOf(id site.MenuID) {
	d := c.newDrawing()
	was, is := d.scenes[0].forPrograms(id), d.scenes[1].forPrograms(id)
	for _, a := range was {
		for _, b := range is {
			if m := a.lenses & b.lenses & c.open; m != 0 && a.look != b.look {
				k := key{topic: topicPrograms, words: c.menuName(id), is: a.look, to: b.look}
				c.facts.add(k, item{path: c.programPath(id)}, m)
			}
		}
	}
}

// forPrograms gives the looks of a menu for programs; nothing where they may not read it.
func (sc *scene) forPrograms(id site.MenuID) []alike {
	m := sc.site.Menu(id)
	if m == nil || !m.Programs {
		return []alike{{sc.panel.All(), 0}}
	}
	var made []alike
	view := sc.viewsOf(m)
	for left := sc.panel.All(); left != 0; {
		as, same := view.As(left.First())
		lines, more := look.Programs(sc.site, m, as, look.ProgramLevelLimit)
		drawn := look.Look{Other: "menu “" + m.Name + "”", Lines: lines}
		if more {
			drawn.Other += ", cut short"
		}
		made = append(made, alike{*same & left, sc.facts.intern(drawn)})
		left &^= *same
	}
	return made
}

func (c *comparison) programPath(id site.MenuID) string {
	m := c.Was.Menu(id)
	if m == nil {
		m = c.Is.Menu(id)
	}
	return "/api/menus/" + m.Key + ".json"
}

// instead compares the pages that are shown where another was asked for, as far as they are not compared as pages:
// the forms of accounts and the few words of the theme, which stand on no page of the tree, and what a closed site
// shows.
func (c *comparison) instead() {
	for _, page := range c.standIns() {
		d := c.newDrawing()
		for i, lens := range c.panel.Lenses() {
			if !page.lenses.Has(i) {
				continue
			}
			for side, s := range []*site.Site{c.Was, c.Is} {
				d.frame(side, region.WithMenus(s, lens, &eyes{d.scenes[side], i}), page.id, i)
			}
		}
		d.compareAs(item{page: page.id, path: page.name}, page.lenses)
		if was, is := c.Was.Page(page.id), c.Is.Page(page.id); was != nil && is != nil {
			c.wordsFor(was, is, page.lenses)
			// Where the page has another address, that is told to who gets the page itself, and not to these.
			for _, w := range c.waysWith(page.id, page.lenses, true, nil) {
				w.fact.marks = append(w.fact.marks, mark{lot{item: item{page: page.id}}, c.facts.pass, w.lenses})
			}
		}
	}
}

// forms are the pages of the program's own that stand on no page of the tree.
const forms = "the forms for accounts"

// A standIn is a page that is shown in place of others to some lenses.
type standIn struct {
	id     site.PageID // 0: none of the tree
	name   string
	lenses reach.Mask
}

func (c *comparison) standIns() []standIn {
	var before, after, closed, in, reached reach.Mask
	for i, lens := range c.panel.Lenses() {
		bit := reach.Mask(1) << i
		if c.outside(c.Was, lens) {
			before |= bit
		}
		if c.outside(c.Is, lens) {
			after |= bit
		}
		if grant.ClosedTo(c.Was, lens.Roles) && grant.ClosedTo(c.Is, lens.Roles) {
			closed |= bit
		}
		if !lens.SignedIn {
			in |= bit
		}
	}
	c.standsIn(closed, in)
	found := []standIn{{0, forms, before & after}}
	was, is := c.Was.Settings(), c.Is.Settings()
	if was.Shut == is.Shut && was.Shut != 0 {
		reached = c.panel.At(c.Was, was.Shut).Reachable() & c.panel.At(c.Is, is.Shut).Reachable()
		found = append(found, standIn{is.Shut, "", closed & reached})
	}
	if was.SignIn == is.SignIn && was.SignIn != 0 && is.SignIn != is.Shut {
		reached = c.panel.At(c.Was, was.SignIn).Reachable() & c.panel.At(c.Is, is.SignIn).Reachable()
		found = append(found, standIn{is.SignIn, "", closed & reached & in})
	}
	return found
}

// standsIn notes that a page of a closed site comes to be shown in place of others, or ceases to be, by whom it is for
// and when; who is not signed in gets it nowhere else, so nothing else says so.
func (c *comparison) standsIn(closed, signedOut reach.Mask) {
	was, is := c.Was.Settings(), c.Is.Settings()
	for _, page := range []struct {
		where   string
		was, is site.PageID
		lenses  reach.Mask
	}{
		{"while the site is closed", was.Shut, is.Shut, closed},
		{"around the sign-in form", was.SignIn, is.SignIn, closed & signedOut},
	} {
		if page.was != page.is || page.is == 0 {
			continue
		}
		before, after := c.panel.At(c.Was, page.is).Reachable(), c.panel.At(c.Is, page.is).Reachable()
		k := key{topic: topicStandsIn, words: page.where}
		c.facts.add(k, item{page: page.is}, page.lenses&before&^after)
		k.to = 1
		c.facts.add(k, item{page: page.is}, page.lenses&after&^before)
	}
}

// outside says whether a lens ever gets a page that is none of the tree.
func (c *comparison) outside(s *site.Site, lens reach.Lens) bool {
	settings := s.Settings()
	missing := func(id site.PageID) bool { return id == 0 || reach.Ask(s, id, lens) != reach.Sees }
	if lens.SignedIn {
		return true // the form of one's own details
	}
	if grant.ClosedTo(s, lens.Roles) {
		return missing(settings.Shut) || missing(settings.SignIn)
	}
	return settings.Register || missing(settings.NotFound) || missing(settings.SignIn)
}

// eyes look at menus through one lens, and remember what others saw that see the same.
type eyes struct {
	scene *scene
	lens  int
}

type seenKey struct {
	block site.BlockID
	page  site.PageID
}

type seenLines struct {
	lenses reach.Mask
	nodes  []menu.Node
}

// Lines gives what a menu block shows on a page.
func (e *eyes) Lines(b *site.Block, page site.PageID) []menu.Node {
	id, window, isMenu := b.Menu()
	m := e.scene.site.Menu(id)
	if !isMenu || m == nil {
		return nil
	}
	k := seenKey{b.ID, page}
	for _, known := range e.scene.saw[k] {
		if known.lenses.Has(e.lens) {
			return known.nodes
		}
	}
	nodes, same := e.scene.viewsOf(m).Window(window, page, e.lens)
	e.scene.saw[k] = append(e.scene.saw[k], seenLines{same, nodes})
	return nodes
}
