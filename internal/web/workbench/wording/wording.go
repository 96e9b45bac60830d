package wording

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/web/workbench/desk"
)

const (
	shownHits = 500 // are shown at once; who replaces those goes on with the rest
	atOnce    = 500 // texts are read together
)

// wordingView is where words stand in a branch.
type wordingView struct {
	desk.Screen
	Asked  asked
	Branch *site.Page
	Pages  []pageHits
	Count  int
	More   bool // there are more hits than are shown
	Unread int  // pages of the branch that the person may not read
	Locked bool
}

// asked is what a person looks for, and what is to stand there.
type asked struct {
	text.Search
	With string
}

func askedBy(r *http.Request) asked {
	return asked{
		text.Search{
			Words: r.FormValue("find"),
			Exact: r.FormValue("exact") == "yes",
			Whole: r.FormValue("whole") == "yes",
		},
		r.FormValue("with"),
	}
}

// pageHits are those of one page.
type pageHits struct {
	Page   *site.Page
	Where  string
	Link   string
	Locked string // why the person may not edit it; "" if they may
	Fields []fieldHits
}

// fieldHits are those of one field of it.
type fieldHits struct {
	edit.Wording
	Hits []text.Hit
}

// Key names a hit in a form: its page, the field, and which of those in it.
func (f fieldHits) Key(of site.PageID, n int) string { return fmt.Sprintf("%d|%s|%d", of, f.Field, n) }

// found shows where words stand in the branch of the selected page.
func (s *Area) found(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	screen, err := s.Screen(r, d, "wording")
	if err != nil {
		return err
	}
	view := wordingView{Screen: screen, Asked: askedBy(r), Branch: d.Site.Page(d.Selected), Locked: d.State == "now"}
	if view.Asked.Words != "" {
		if err := s.look(r.Context(), d, &view); err != nil {
			return err
		}
	}
	name := "wording"
	if r.Header.Get("X-Part") != "" {
		name = "wording-parts"
	}
	s.Render(w, r, name, view)
	return nil
}

// look fills in the hits, in the order of the tree.
func (s *Area) look(ctx context.Context, d *desk.Desk, view *wordingView) error {
	reads := d.Reader()
	var pages []*site.Page
	d.Site.Walk(d.Selected, func(p *site.Page) bool {
		if reads(p.ID) {
			pages = append(pages, p)
		} else {
			view.Unread++
		}
		return true
	})
	for some := range slices.Chunk(pages, atOnce) {
		texts, err := s.textsOf(ctx, d.Site, some)
		if err != nil {
			return err
		}
		for _, p := range some {
			if view.Count >= shownHits {
				view.More = true
				return nil
			}
			if of := hitsOf(d, view.Asked, p, texts); len(of.Fields) > 0 {
				view.Pages = append(view.Pages, of)
				for _, field := range of.Fields {
					view.Count += len(field.Hits)
				}
			}
		}
	}
	return nil
}

func hitsOf(d *desk.Desk, by asked, p *site.Page, texts map[string]string) pageHits {
	made := pageHits{Page: p}
	for _, said := range edit.Wordings(d.Site, p) {
		if hits := by.hits(said, texts); len(hits) > 0 {
			made.Fields = append(made.Fields, fieldHits{said, hits})
		}
	}
	if len(made.Fields) > 0 {
		made.Where, made.Link = desk.Place(d.Site, p.ID), d.Link("/tree", "page", fmt.Sprint(p.ID))
		if may := d.MayOn(string(site.ActionEdit), site.PageThing(p.ID)); !may.Yes {
			made.Locked = may.Why
		}
	}
	return made
}

func (a asked) hits(said edit.Wording, texts map[string]string) []text.Hit {
	if said.Rich {
		return a.In(texts[said.Value])
	}
	return a.InLine(said.Value)
}

func (a asked) replaced(said edit.Wording, texts map[string]string, taken func(int) bool) string {
	if said.Rich {
		return a.Replace(texts[said.Value], a.With, taken)
	}
	return a.ReplaceLine(said.Value, a.With, taken)
}

// textsOf reads what pages say in texts of their own, in one query.
func (s *Area) textsOf(ctx context.Context, on *site.Site, pages []*site.Page) (map[string]string, error) {
	var hashes []string
	for _, p := range pages {
		for _, said := range edit.Wordings(on, p) {
			if said.Rich {
				hashes = append(hashes, said.Value)
			}
		}
	}
	return s.Store.Texts(ctx, hashes)
}

// replace writes the new words where hits were taken: one step of the draft, on as many pages as they stand on.
func (s *Area) replace(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	by := askedBy(r)
	chosen := takenBy(r)
	if by.Words == "" || chosen.count == 0 {
		return &edit.Refusal{Sentence: "Nothing is chosen to be replaced."}
	}
	said, err := s.reworded(r, d, by, chosen)
	if err != nil {
		return err
	}
	ops := opsOf(said)
	words := fmt.Sprintf("replaced “%s” by “%s” on %s", desk.Short(by.Words), desk.Short(by.With), count.Pages(len(ops)))
	_, _, err = s.InDraft(r, d, func(*site.Site) ([]edit.Op, string, error) { return ops, words, nil })
	if err != nil {
		return err
	}
	done := fmt.Sprintf("R%s, %s.", words[1:], count.Of(chosen.count, "time", "times"))
	s.Say(w, http.StatusOK, desk.Reply{Said: done, Page: int64(d.Selected)})
	return nil
}

// A choice is which hits a form has chosen: of which pages, which fields, which of those in it.
type choice struct {
	of    map[place]map[int]bool
	count int
}

// A place is a field of a page.
type place struct {
	page  site.PageID
	field edit.Field
}

func takenBy(r *http.Request) choice {
	made := choice{of: map[place]map[int]bool{}}
	for _, key := range r.Form["hit"] {
		parts := strings.Split(key, "|")
		if len(parts) != 3 {
			continue
		}
		at := place{desk.Number[site.PageID](parts[0]), edit.Field(parts[1])}
		if made.of[at] == nil {
			made.of[at] = map[int]bool{}
		}
		made.of[at][int(desk.Number[int64](parts[2]))] = true
		made.count++
	}
	return made
}

// pages gives those with chosen hits, in the order of the tree.
func (c choice) pages(on *site.Site) []*site.Page {
	var ids []site.PageID
	for at := range c.of {
		if on.InTree(at.page) {
			ids = append(ids, at.page)
		}
	}
	on.SortByTree(ids)
	var pages []*site.Page
	for _, id := range slices.Compact(ids) {
		pages = append(pages, on.Page(id))
	}
	return pages
}

// A rewording is a field of a page with what it says after.
type rewording struct {
	place
	edit.Wording
	Became string
}

// reworded gives the fields in which hits were taken as they become, texts kept. What changed since the person saw it
// is a conflict, and nothing is replaced.
func (s *Area) reworded(r *http.Request, d *desk.Desk, by asked, chosen choice) ([]rewording, error) {
	on := d.Draft.Site
	pages := chosen.pages(on)
	texts, err := s.textsOf(r.Context(), on, pages)
	if err != nil {
		return nil, err
	}
	var made []rewording
	var raw []string
	for _, p := range pages {
		for _, said := range edit.Wordings(on, p) {
			at := place{p.ID, said.Field}
			taken := chosen.of[at]
			if len(taken) == 0 || !d.Reads(p.ID).Yes {
				continue
			}
			if r.FormValue(fmt.Sprintf("stood|%d|%s", at.page, at.field)) != said.Value {
				return nil, changed(p)
			}
			became := by.replaced(said, texts, func(n int) bool { return taken[n] })
			made = append(made, rewording{at, said, became})
			if said.Rich {
				raw = append(raw, became)
			}
		}
	}
	hashes, err := s.KeepTexts(r.Context(), d, raw...)
	if err != nil {
		return nil, err
	}
	for i := range made {
		if made[i].Rich {
			made[i].Became, hashes = hashes[0], hashes[1:]
		}
	}
	return made, nil
}

// opsOf gives an edit for each page.
func opsOf(all []rewording) []edit.Op {
	var ops []edit.Op
	for len(all) > 0 {
		page := all[0].page
		op := edit.OpEdit{Page: page}
		for len(all) > 0 && all[0].page == page {
			of := all[0]
			op.Fields = append(op.Fields, edit.FieldChange{Field: of.Field, Old: of.Value, New: of.Became})
			all = all[1:]
		}
		ops = append(ops, op)
	}
	return ops
}

func changed(p *site.Page) error {
	return &edit.Conflict{
		Page:     p.ID,
		Sentence: fmt.Sprintf("“%s” has changed since its hits were shown. Nothing was replaced: look again.", p.Label),
	}
}
