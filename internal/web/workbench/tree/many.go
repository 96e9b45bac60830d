package tree

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/web/workbench/desk"
)

// said names what was done to the page, or to how many.
func (i *intent) said(verb string, s *site.Site) string {
	if len(i.pages) > 1 {
		return verb + " " + count.Pages(len(i.pages))
	}
	return said(verb, s.Page(i.page))
}

// branches gives the pages of the selection, and what is below them where the form asks for it.
func (i *intent) branches(s *site.Site) []site.PageID {
	if i.form("below") != "yes" {
		return i.pages
	}
	var pages []site.PageID
	for _, top := range edit.Tops(s, i.pages) {
		s.Walk(top, func(p *site.Page) bool { pages = append(pages, p.ID); return true })
	}
	return pages
}

// window sets the first and last moment online of every page of the selection.
func (i *intent) window(s *site.Site) ([]edit.Op, string, error) {
	var ops []edit.Op
	window, err := desk.TypedWindow(s, i.now, i.form)
	if err != nil {
		return nil, "", err
	}
	from, until := window[edit.FieldLiveFrom], window[edit.FieldLiveUntil]
	for _, id := range i.pages {
		if p := s.Page(id); p != nil && p.Parent != 0 {
			ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{
				{
					Field: edit.FieldLiveFrom,
					Old:   edit.Value(p, edit.FieldLiveFrom),
					New:   from,
				}, {Field: edit.FieldLiveUntil, Old: edit.Value(p, edit.FieldLiveUntil), New: until},
			}})
		}
	}
	return ops, i.said("set when to be online for", s), nil
}

func (i *intent) copying(s *site.Site) edit.Copying {
	to, _ := i.place(s)
	return edit.Copying{Selection: i.pages, Below: i.form("below") == "yes", To: to}
}

func (i *intent) copy(s *site.Site) ([]edit.Op, string, error) {
	if _, err := i.place(s); err != nil {
		return nil, "", err
	}
	c := i.copying(s)
	pages := c.Pages(s)
	if len(pages) == 0 {
		return nil, "", &edit.Refusal{Sentence: "Files and folders are not copied; several pages can link to one."}
	}
	for _, id := range pages {
		if i.made[id] == 0 {
			return nil, "", &edit.Conflict{Page: id, Sentence: "What is to be copied has changed; copy it once more."}
		}
	}
	ops := c.Ops(s, i.made, func(p *site.Page) string {
		if hash, changed := i.texts[p.Text]; changed {
			return hash
		}
		return p.Text
	})
	if len(pages) > 1 {
		return ops, "copied " + count.Pages(len(pages)), nil
	}
	return ops, said("copied", s.Page(i.page)), nil
}

// readyCopies takes ids for the copies, and saves the texts in which links point at them (rules 2.8).
func (s *Area) readyCopies(ctx context.Context, d *desk.Desk, i *intent) error {
	on := d.Draft.Site
	pages := i.copying(on).Pages(on)
	if len(pages) == 0 {
		return &edit.Refusal{Sentence: "There is nothing to copy."}
	}
	ids, err := s.Store.NewPageIDs(ctx, len(pages))
	if err != nil {
		return err
	}
	i.made = make(map[site.PageID]site.PageID, len(pages))
	var hashes []string
	for n, id := range pages {
		i.made[id] = ids[n]
		if hash := on.Page(id).Text; hash != "" {
			hashes = append(hashes, hash)
		}
	}
	texts, err := s.Store.Texts(ctx, hashes)
	if err != nil {
		return err
	}
	var was, made []string
	for hash, html := range texts {
		if pointed := text.Repoint(html, i.made); pointed != html {
			was, made = append(was, hash), append(made, pointed)
		}
	}
	saved, err := s.Store.SaveTexts(ctx, made...)
	if err != nil {
		return err
	}
	i.texts = make(map[string]string, len(was))
	for n, hash := range was {
		i.texts[hash] = saved[n]
	}
	return nil
}

// reordered says how many of a page's children stand in another place, and which come first.
func reordered(was, is *site.Site, id site.PageID) string {
	kids := is.Children(id)
	if len(kids) == 0 {
		return "There is nothing inside yet."
	}
	place := map[site.PageID]int{}
	for at, kid := range was.Children(id) {
		place[kid] = at
	}
	order := make([]int, len(kids))
	var first []string
	for at, kid := range kids {
		order[at] = place[kid]
		if at < 3 {
			first = append(first, "“"+desk.Short(is.Page(kid).Label)+"”")
		}
	}
	moved := len(rise.Outside(order))
	if moved == 0 {
		return "No page inside changes its place."
	}
	return fmt.Sprintf(
		"%s of %s inside change their place; first come %s",
		count.Number(moved),
		count.Pages(len(kids)),
		strings.Join(first, ", "),
	)
}

// many says where a selection would stand.
func many(was, is *site.Site, i *intent) string {
	tops := edit.Tops(was, i.pages)
	below := 0
	for _, top := range tops {
		below += was.Below(top)
	}
	words := count.Pages(len(i.pages))
	if below > 0 {
		words += ", " + count.Number(below) + " below travel along"
	}
	stand := tops
	if i.do == "copy" {
		stand = nil
		for _, top := range tops {
			stand = append(stand, i.made[top])
		}
	}
	if slices.Contains([]string{"move", "nudge", "position", "copy"}, i.do) && len(stand) > 0 && is.InTree(stand[0]) {
		words += "; " + where(is, stand)
	}
	return words
}

// where says where pages stand: at which positions, if they are one run of siblings, else the first of them.
func where(s *site.Site, pages []site.PageID) string {
	first, of := s.Index(pages[0])
	parent := s.Page(pages[0]).Parent
	for n, id := range pages {
		if at, _ := s.Index(id); s.Page(id).Parent != parent || at != first+n {
			return "the first: " + desk.Place(s, pages[0])
		}
	}
	run := positions(first, first+len(pages)-1)
	return fmt.Sprintf("%s of %s in “%s”", strings.ToLower(run), count.Number(of), desk.Short(s.Page(parent).Label))
}
