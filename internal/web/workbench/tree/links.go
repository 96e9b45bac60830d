package tree

import (
	"context"
	"fmt"
	"strings"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/web/workbench/desk"
)

// linksShown bounds the links that a sheet lists each way.
const linksShown = 50

// A link is one end of a link on the sheet: a page, an item or a block, or an address elsewhere.
type link struct {
	Words string
	Href  string // of the screen that has it, or the address elsewhere; "" where the person may not go
	Away  bool   // the address is elsewhere
	Fault string // why visitors find nothing there; "" if they do
}

// linksOn are those of a page: what leads here, and where its text and details lead.
type linksOn struct {
	From, To         []link
	MoreFrom, MoreTo int
}

// links gives the links of a page both ways (rules 12.2).
func (s *Area) links(ctx context.Context, d *desk.Desk, p *site.Page) (linksOn, error) {
	from := linksTo(d, p.ID)
	var to []link
	if d.Reads(p.ID).Yes {
		for _, id := range d.Site.LinksOf(p) {
			to = append(to, pageLink(d, id, ""))
		}
		kept, err := s.Store.Text(ctx, p.Text)
		if err != nil {
			return linksOn{}, err
		}
		for _, href := range text.Away(kept) {
			to = append(to, link{Words: href, Href: href, Away: true})
		}
	}
	made := linksOn{From: from[:min(len(from), linksShown)], To: to[:min(len(to), linksShown)]}
	made.MoreFrom, made.MoreTo = len(from)-len(made.From), len(to)-len(made.To)
	return made, nil
}

// pageLink is a page at one end of a link, with what is wrong where visitors don't reach it.
func pageLink(d *desk.Desk, id site.PageID, before string) link {
	p := d.Site.Page(id)
	switch {
	case p == nil || p.Purged:
		return link{Words: before + "a page that is gone for good", Fault: "plain words for everyone"}
	case !d.Reads(id).Yes && p.Conceal:
		return link{Words: before + "a page that you can’t see"}
	}
	made := link{Words: before + "“" + p.Label + "”", Href: d.Link("/tree", "page", fmt.Sprint(id))}
	switch {
	case !d.Site.InTree(id):
		made.Fault = "in the bin: plain words for everyone"
	case reach.NewPanel(d.Lens).At(d.Site, id).Reachable() == 0:
		made.Fault = "not reached by the visitor you view as: plain words"
	}
	return made
}

// linksTo lists what leads to a page, or shows a file, and the short addresses that do.
func linksTo(d *desk.Desk, id site.PageID) []link {
	reads := d.Reader()
	var all []link
	for _, use := range d.Site.UsesOf(id) {
		all = append(all, useLink(d, use, reads))
	}
	if shorts := d.Site.Page(id).ShortAddresses; len(shorts) > 0 {
		all = append(all, link{Words: "Short addresses: " + strings.Join(shorts, ", ")})
	}
	return all
}

// useLink says where something is used, to who may read that.
func useLink(d *desk.Desk, use site.Use, reads func(site.PageID) bool) link {
	s := d.Site
	switch {
	case use.Menu != 0:
		m := s.Menu(use.Menu)
		words := "Item “" + s.EntryLabel(m.Entry(use.Entry)) + "” in the menu “" + m.Name + "”"
		return link{Words: words, Href: d.ItemLink(m.ID, desk.ItemID{Entry: use.Entry}.String())}
	case use.Block != 0:
		at := d.Link("/layouts", "chip", fmt.Sprintf("b%d", use.Block))
		return link{Words: "In the block “" + s.Block(use.Block).Name + "”", Href: at}
	case use.Leads:
		return link{Words: "The addresses of “" + s.Page(use.Page).Label + "”, which is in the bin"}
	case reads(use.Page):
		return link{
			Words: "On “" + s.Page(use.Page).Label + "”",
			Href:  d.Link("/tree", "page", fmt.Sprint(use.Page)),
		}
	}
	return link{Words: "On a page that you can’t see"}
}
