package tree

import (
	"fmt"
	"net/http"
	"strconv"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// selection renders the sheet of several pages.
func (s *Area) selection(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	s.Render(w, r, "pages-selected", selectionOf(d, desk.ReadIDs(r.FormValue("pages"))))
	return nil
}

func selectionOf(d *desk.Desk, chosen []site.PageID) desk.Selection {
	var pages []*site.Page
	for _, id := range chosen {
		if d.Site.InTree(id) {
			pages = append(pages, d.Site.Page(id))
		}
	}
	v := desk.Selection{Desk: d, Words: tallyWords(d.Site, chosen), Locked: d.State == "now"}
	v.Where = spread(d.Site, pages, &v)
	for _, field := range []edit.Field{
		edit.FieldStatus, edit.FieldListed, edit.FieldKind, edit.FieldAudience, edit.FieldLayout, edit.FieldBranchLayout,
	} {
		choice := choiceOf(d, field)
		if choice.Locked = v.Locked; len(choice.Options) < 2 {
			continue
		}
		var values []string
		for _, p := range pages {
			values = append(values, edit.Value(p, field))
		}
		if len(values) > 0 {
			choice.Common(values)
		}
		v.Choices = append(v.Choices, choice)
	}
	return v
}

// spread says where pages stand; of siblings in one run it gives the positions.
func spread(s *site.Site, pages []*site.Page, v *desk.Selection) string {
	parents := map[site.PageID]int{}
	first, last := 0, 0
	for i, p := range pages {
		parents[p.Parent]++
		at, n := s.Index(p.ID)
		if i == 0 {
			first = at
		}
		first, last, v.Of = min(first, at), max(last, at), n
	}
	if len(parents) != 1 {
		return fmt.Sprintf("Below %s", count.Of(len(parents), "page", "different pages"))
	}
	above := s.Page(pages[0].Parent)
	if above == nil {
		return "The home page"
	}
	v.Siblings, v.Position = above.Sort == site.SortManual, strconv.Itoa(first+1)
	if last-first+1 != len(pages) {
		return fmt.Sprintf("In “%s”, not beside each other", desk.Short(above.Label))
	}
	return fmt.Sprintf("%s of %s in “%s”", positions(first, last), count.Number(v.Of), desk.Short(above.Label))
}

// positions names a run of positions, given from 0.
func positions(first, last int) string {
	if first == last {
		return "Position " + count.Number(first+1)
	}
	return fmt.Sprintf("Positions %s to %s", count.Number(first+1), count.Number(last+1))
}

// choiceOf gives a field with what it can be.
func choiceOf(d *desk.Desk, field edit.Field) desk.ForMany {
	f := desk.ForMany{Field: field}
	switch field {
	case edit.FieldStatus:
		f.Label, f.Options = "Online", desk.Options("live", "live", "offline", "offline")
	case edit.FieldListed:
		f.Label, f.Options = "In menus that follow the tree", desk.Options("yes", "listed", "no", "not listed")
	case edit.FieldKind:
		f.Label = "Page type"
		for _, k := range kindsFor(d.Site, &site.Page{Kind: "page"}) {
			f.Options = append(f.Options, desk.Options(k.Key, k.Name)...)
		}
	case edit.FieldAudience:
		f.Label, f.Options = "Who sees it", d.Audiences("", "as the page above", string(site.AudienceEveryone), "everyone")
	case edit.FieldLayout:
		f.Label, f.Options = "Layout", layoutOptions(d, "as its page type, the pages above or the site say")
	case edit.FieldBranchLayout:
		f.Label, f.Options = "Layout for it and all below", layoutOptions(d, "none set here")
	}
	return f
}

func layoutOptions(d *desk.Desk, none string) []desk.Option {
	options := desk.Options("", none)
	for _, l := range d.Site.Theme().Layouts {
		options = append(options, desk.Options(l.Key, l.Name)...)
	}
	return options
}
