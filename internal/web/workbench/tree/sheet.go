package tree

import (
	"maps"
	"net/http"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A sheet is all that is said of the page that is selected.
type sheet struct {
	Page         *site.Page
	Path         []*site.Page
	Address      string
	Where        string
	WherePub     string // where it stands in public, if that differs
	Who          string
	WhoFrom      string
	Online       string
	Cause        *site.Page // the page that keeps it offline, if another
	Menus        []menuPlace
	NotShown     string     // why it shows in no menu
	Gaps         []menuGaps // where it can be put
	Layout       string     // the one it has, and what decided on it
	Below        int
	Position     int
	Siblings     int
	Public       string // address in public; "" if it is not there
	Fields       map[string]string
	Window       []desk.Moment
	Audience     []audienceRole
	KeptOutBy    string // label of a page above that keeps its branch out of search engines
	Demanding    string // label of a page above that asks for a second person
	Roles        []site.Role
	IsHome       bool
	Visitor      string
	SeveralRoles string // the audience in words, where it is more than one role
	Follows      bool   // the segment follows the label
	CanMatch     bool   // it does not, and the label would make another
	Kinds        []site.Kind
	Details      []detailField
	DateName     string // what the date of its kind means; "" if it has none
	Rules        []rule
	Leads        []lead
	Topics       topicsOf
	File         *fileSheet // nil: it is none
	Links        linksOn
	Listing      *desk.ListingSheet // nil: it lists nothing
	ListedIn     []listingPlace     // the listings in which the visitor finds it
	NotListedIn  []listingPlace     // those of its type in which they don't
	Lit          []string           // which menu items are lit on it because of topics
	Unread       string             // why the person may not read what the page says; "" if they may
	Care         careOf
	Kept         bool     // at the person's hand
	Others       []string // who has the page open as well
}

// An audienceRole is a role that can be one of several for which a page is.
type audienceRole struct {
	site.Role
	On bool
}

func (s *Area) sheet(d *desk.Desk) sheet {
	on, id := d.Site, d.Selected
	p := on.Page(id)
	v := sheet{
		Page: p, Path: on.Path(id), Address: desk.AddressOf(on, id), Where: desk.Place(on,
			id), Below: on.Below(id), IsHome: p.Parent == 0,
		Roles: on.Roles(), Visitor: desk.VisitorGets(on, id, d.Lens),
	}
	index, n := on.Index(id)
	v.Position, v.Siblings = index+1, n
	source := reach.Source(on, id)
	v.Who = on.AudienceWords(source.Audience)
	if v.Who == "" {
		v.Who = "Everyone"
	}
	if source.ID != id {
		v.WhoFrom = source.Label
	}
	_, v.Online, _ = shape(on, p, d.Lens.At)
	if why := reach.WhyOffline(on, id, d.Lens.At); why.Cause != nil && why.Cause.ID != id {
		v.Cause = why.Cause
	}
	v.Menus, v.NotShown = pageMenus(d, id)
	v.Topics, v.Lit = topicsOn(d, p), litWords(d, id)
	v.Details, v.File = detailsOn(d, p), fileOn(d, p)
	v.Gaps = menuGapsOf(d)
	if decided := region.LayoutOf(on, id); decided.Layout != nil {
		v.Layout = decided.Layout.Name + ", " + d.DecidedBy(decided)
	}
	if above := grant.Demanding(on, p.Parent); above != nil {
		v.Demanding = above.Label
	}
	for above := on.Page(p.Parent); above != nil && v.KeptOutBy == ""; above = on.Page(above.Parent) {
		if above.KeptOut {
			v.KeptOutBy = above.Label
		}
	}
	for _, role := range on.Roles() {
		v.Audience = append(v.Audience, audienceRole{role, slices.Contains(p.Audience.Roles(), role.Key)})
	}
	if len(p.Audience.Roles()) > 1 {
		v.SeveralRoles = on.AudienceWords(p.Audience)
	}
	v.Fields = edit.Values(p)
	if answer := d.Reads(id); !answer.Yes {
		v.Unread = answer.Why
		for _, field := range edit.PageFields(edit.Inner) {
			delete(v.Fields, string(field))
		}
		v.Details, v.File = nil, nil
		maps.DeleteFunc(v.Fields, func(key, _ string) bool { return edit.IsDetail(edit.Field(key)) })
	}
	v.Window = d.Window("f", "Online from", "Online until", p.LiveFrom, p.LiveUntil)
	v.Follows, v.Kinds, v.DateName, v.Rules = p.Follows(s.Now()), kindsFor(on, p), on.Kind(p.Kind).DateName, rules()
	for _, l := range address.Leads(on, id, s.Now()) {
		v.Leads = append(v.Leads, lead{l, desk.Day(on, l.Last)})
	}
	v.CanMatch = !v.Follows && address.FreeSegment(on, p, address.Segment(p.Label), address.AnyOther) != p.Segment
	v.ListedIn, v.NotListedIn = listingsOf(d, id)
	if q, lists := listing.Asked(p.Listing); lists {
		v.Listing = desk.PageListingOf(d, q)
	}
	public := d.Draft.Base.Site
	switch {
	case !public.InTree(id):
		v.WherePub = "not there"
	default:
		v.Public = desk.AddressOf(public, id)
		if where := desk.Place(public, id); where != v.Where && d.State == "after" {
			v.WherePub = where
		}
	}
	return v
}

// Shown are the places at which visitors find the page.
func (v sheet) Shown() []menuPlace {
	return slices.DeleteFunc(slices.Clone(v.Menus), func(p menuPlace) bool { return !p.Shows })
}

// A rule is a sort rule as a choice.
type rule struct {
	Key   site.SortRule
	Words string
}

func rules() []rule {
	var all []rule
	for _, key := range []site.SortRule{
		site.SortManual, site.SortLabel, site.SortNewest, site.SortDate,
		site.SortDateDown,
	} {
		all = append(all, rule{key, edit.RuleWords(key)})
	}
	return all
}

// A lead is an address that leads to the page.
type lead struct {
	address.Lead
	Until string // of an old one
}

// kindsFor gives the kinds to choose from; one that the site does not know stays, as long as the page has it.
func kindsFor(s *site.Site, p *site.Page) []site.Kind {
	kinds := slices.DeleteFunc(slices.Clone(s.Kinds()), func(k site.Kind) bool {
		return site.IsOwnKind(k.Key) // their pages are made as such
	})
	if !slices.ContainsFunc(kinds, func(k site.Kind) bool { return k.Key == p.Kind }) {
		kinds = append(slices.Clip(kinds), s.Kind(p.Kind))
	}
	return kinds
}

// text gives the page text for the editor.
func (s *Area) text(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustRead(); err != nil {
		return err
	}
	p := d.Site.Page(d.Selected)
	hash := p.Text
	if key := r.FormValue("field"); key != "" {
		hash = p.Values.Get(key)
	}
	html, err := s.Store.Text(r.Context(), hash)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = w.Write([]byte(html)) // the reader may have left
	return nil
}
