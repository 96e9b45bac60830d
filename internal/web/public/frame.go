package public

import (
	"context"
	"html/template"
	"net/url"

	"vineladder/internal/core/address"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// A view is what the templates show.
type view struct {
	Site      string
	Language  string
	Title     string
	Summary   string
	Canonical string
	KeptOut   bool   // of search engines
	Picture   string // the first in its text, as programs that show links want it
	Base      string
	Note      string
	Shut      bool   // the site is closed, and who asks may edit it
	Lost      bool   // a session could not be read, so the page is that of everyone
	Frame     string // the origin that frames a preview; "" for the public
	Home      bool
	Layout    string // key
	Areas     []area
	Style     string // address of the theme's style sheet
	Pairs     string // address of that of the free pairs of colours; "" if the site uses none
	Data      any    // the breadcrumb as linked data
	Text      template.HTML
	Search    *search // nil: visitors don't search here
	Facts     []fact
	Topics    look.Topics
	Listing   *piece   // what it lists below its text; nil: nothing
	Feed      string   // where what it lists or gathers is a feed; "" if it does neither
	Numbers   []number // the pages of the list, where there are several
	Beyond    string   // the address of the list that has no such page
	Name      string   // of who is signed in
	To        string   // where sign-in leads
	Error     string
	Login     string
	Roles     string    // of who is signed in, in words
	Said      string    // what was done
	Outside   string    // name of the organisation's own sign-in; "" for none
	Security  security  // how somebody signs in
	Edit      *editLink // of the page itself
	Outline   bool
}

// An area is a region with what shows in it. The content has no pieces of its own.
type area struct {
	Key, Name string
	Content   bool
	Outline   bool
	Pieces    []piece
}

// A piece is a block as the theme shows it.
type piece struct {
	Sort string // the template: "menu", "breadcrumb", "text", "account", "name", "children", "image",
	// "listing", "search"
	Region   string
	Landmark string
	Title    string // shown; "" if it is not
	Level    int    // of the title
	Menu     template.HTML
	Text     template.HTML
	Crumbs   []crumb
	Pages    []crumb
	Cards    []listRow
	Table    []listRow
	Columns  []string
	Filters  []filter // by which visitors narrow it
	Image    picture.Picture
	Action   string // address of the page on which visitors search
	ID       string // begins the ids of a search field
	View     *view
	Edit     *editLink // nil: nobody edits here

	Done template.HTML // the whole piece, where it looks the same on many pages and was kept
}

// view gives all that stands around a page and in it; 0 is no page of the tree.
func (r *Renderer) view(ctx context.Context, q Request, id site.PageID) (*view, error) {
	s := q.Site
	v := &view{
		Site: s.Settings().Name, Language: s.Settings().Language, Base: q.Base, Frame: q.Frame,
		Note: q.Note, Lost: q.Lost, Name: q.Name,
		Shut: s.Settings().Closed && q.Edit != nil,
		Home: id == s.Home(),
		To:   withQuery(q.Path, q.Query),
	}
	v.Style, v.Pairs = q.skins()
	if p := s.Page(id); p != nil {
		v.Title, v.Summary = p.Heading(), p.Summary
	}
	v.Edit, v.Outline = q.Edit.page(id), q.Edit != nil && q.Edit.Outline
	menus := r.menus(q)
	decided, areas := region.WithMenus(s, q.Lens, menus).On(id)
	if decided.Layout != nil {
		v.Layout = decided.Layout.Key
	}
	facts := factsOf(q, id)
	texts, err := r.texts.Texts(ctx, append(hashes(s, id, areas), facts.Texts()...))
	if err != nil {
		return nil, err
	}
	linked := r.linker(q)
	if p := s.Page(id); p != nil {
		v.Text = linked(texts[p.Text], false)
		v.KeptOut = reach.KeptOut(s, id)
		v.Picture = r.pictureOf(q, texts[p.Text])
		v.Facts = dressed(facts, texts, linked)
		v.Topics, v.Numbers = topicsOf(q, id)
		if listed, numbers := listedOn(q, id); listed != nil {
			v.Listing, v.Numbers = listed, numbers
		}
	}
	v.Beyond = q.beyond
	for _, at := range areas {
		made := area{
			Key:     at.Region.Key,
			Name:    at.Region.Name,
			Content: at.Region.Key == site.ContentRegion,
			Outline: v.Outline,
		}
		for _, st := range at.Standings {
			if st.Why != "" {
				continue
			}
			one, err := r.piece(q, v, menus, st, id)
			if err != nil {
				return nil, err
			}
			if shows, isText := st.Block.Shows.(site.BlockText); isText && one.Done == "" {
				one.Text = linked(texts[shows.Text], true)
			}
			if err := r.finish(q, st, &one); err != nil {
				return nil, err
			}
			made.Pieces = append(made.Pieces, one)
		}
		if made.Content || len(made.Pieces) > 0 {
			v.Areas = append(v.Areas, made)
		}
	}
	if len(areas) == 0 {
		v.Areas = []area{{Key: site.ContentRegion, Content: true}}
	}
	if crumbs := breadcrumb(q, id); len(crumbs) > 0 {
		v.Data = r.linkedData(q, id)
	}
	return v, nil
}

// hashes names the texts of a page and of the blocks on it.
func hashes(s *site.Site, id site.PageID, areas []region.Area) []string {
	var all []string
	if p := s.Page(id); p != nil && p.Text != "" {
		all = append(all, p.Text)
	}
	for _, at := range areas {
		for _, st := range at.Standings {
			if shows, isText := st.Block.Shows.(site.BlockText); isText && st.Why == "" {
				all = append(all, shows.Text)
			}
		}
	}
	return all
}

// linker turns kept text into what a visitor gets. Sanitised when it was saved; only links to pages change here.
func (r *Renderer) linker(q Request) func(source string, part bool) template.HTML {
	panel := reach.NewPanel(q.Lens)
	by := text.Reader{
		Link: func(to site.PageID) (string, bool) {
			return q.Base + address.Of(q.Site, to), panel.At(q.Site, to).Reachable() != 0
		},
		Picture: func(id site.PageID, words string) (picture.Picture, bool) {
			shown, _, there := picture.At(q.Site, site.FileRef(id), q.Base, words)
			return shown, there && panel.At(q.Site, id).Reachable() != 0
		},
	}
	return func(source string, part bool) template.HTML {
		reader := by
		reader.Part = part
		return template.HTML(text.Render(source, reader))
	}
}

func (r *Renderer) piece(q Request, v *view, menus *lines, st region.Standing, id site.PageID) (piece, error) {
	b := st.Block
	if done, known := q.finished(st, v.Home); known {
		return piece{Done: done, View: v}, nil
	}
	made := piece{
		Region:   st.Placement.Region,
		Landmark: st.Landmark,
		Title:    look.Title(b),
		Level:    b.Heading,
		View:     v,
		Edit:     q.Edit.block(st, id),
	}
	var err error
	switch shows := b.Shows.(type) {
	case site.BlockMenu:
		made.Sort = "menu"
		made.Menu, err = r.fragment(q, menus, st)
	case site.BlockBreadcrumb:
		made.Sort, made.Crumbs = "breadcrumb", breadcrumb(q, id)
	case site.BlockText:
		made.Sort = "text"
	case site.BlockAccount:
		made.Sort = "account"
	case site.BlockName:
		made.Sort = "name"
	case site.BlockImage:
		made.Sort = "image"
		made.Image, _, _ = picture.At(q.Site, shows.File, q.Base, shows.Alternative)
	case site.BlockSearch:
		made.Sort, made.Action = "search", q.Base+address.Of(q.Site, q.Site.Settings().Search)
		made.ID = foldID(st.Landmark)
	case site.BlockListing:
		made.Sort = "listing"
		asked, _ := listing.OfBlock(q.Site, b)
		made.listing(q, asked, region.NewFrame(q.Site, q.Lens).Listed(b, id))
	case site.BlockChildren:
		made.Sort = "children"
		for _, kid := range region.NewFrame(q.Site, q.Lens).Children(id) {
			made.Pages = append(made.Pages, crumb{q.Site.Page(kid).Label, q.Base + address.Of(q.Site, kid)})
		}
	}
	return made, err
}

// A crumb is a page of the breadcrumb, or of a list.
type crumb struct {
	Label string
	Href  string // "" renders as plain text
}

// LastCrumb is the index of the page's own crumb.
func (p piece) LastCrumb() int { return len(p.Crumbs) - 1 }

// breadcrumb gives the way from the home page: an ancestor out of reach as plain text, left out if it is concealed
// (rules 4.4). The home page and pages right below nothing have none.
func breadcrumb(q Request, id site.PageID) []crumb {
	path := q.Site.Path(id)
	if len(path) < 2 {
		return nil
	}
	panel := reach.NewPanel(q.Lens)
	var crumbs []crumb
	for _, p := range path {
		state := panel.At(q.Site, p.ID)
		switch {
		case state.Reachable() != 0:
			crumbs = append(crumbs, crumb{p.Label, q.Base + address.Of(q.Site, p.ID)})
		case !state.Concealed:
			crumbs = append(crumbs, crumb{Label: p.Label})
		}
	}
	return crumbs
}

type listItem struct {
	Type     string `json:"@type"`
	Position int    `json:"position"`
	Name     string `json:"name"`
	Item     string `json:"item,omitempty"`
}

type breadcrumbList struct {
	Context string     `json:"@context"`
	Type    string     `json:"@type"`
	Items   []listItem `json:"itemListElement"`
}

// linkedData is the breadcrumb as a schema.org BreadcrumbList in JSON-LD 1.1.
func (r *Renderer) linkedData(q Request, id site.PageID) any {
	list := breadcrumbList{Context: "https://schema.org", Type: "BreadcrumbList"}
	for i, c := range breadcrumb(Request{Site: q.Site, Lens: q.Lens}, id) {
		entry := listItem{Type: "ListItem", Position: i + 1, Name: c.Label}
		if c.Href != "" {
			entry.Item = r.origin + c.Href
		}
		list.Items = append(list.Items, entry)
	}
	return list
}

func signInPath(q Request) string {
	return q.Base + signInQuery + url.QueryEscape(withQuery(q.Path, q.Query))
}

// SignIn is where one signs in and comes back to the address that was asked for.
func (v *view) SignIn() string { return v.Base + signInQuery + url.QueryEscape(v.To) }

// signInQuery comes before the address to which one comes back.
const signInQuery = "/sign-in?to="
