package desk

import (
	"database/sql"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/care"
	"vineladder/internal/core/check"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/weblink"
	"vineladder/internal/store"
)

// ErrForbidden is what a person has no right to do; who asks for it gets 403, with what is missing.
var ErrForbidden = errors.New("you may not do this")

// A desk is what one request of the workbench looks at: whose draft, public now or after publishing, through which
// lens, with which page selected. All of it stands in the address, so each tab keeps its own.
type Desk struct {
	Who       store.Account
	Draft     *store.Draft
	State     string         // "now" or "after"
	Path      string         // what was asked for
	As        string         // "", "signed-in", keys of roles (“staff|operators”), or a person (“account:7”)
	Approves  bool           // the draft is somebody else's, who asks for approval
	Person    *store.Account // as whom one looks; nil: as nobody in particular
	At        string         // moment as typed, "" for now
	Lens      reach.Lens
	Now       time.Time
	Site      *site.Site  // what State shows
	Then      *store.Past // the past that is looked at; nil: today
	ThenAsked string      // its revision, where the address names it
	Unkept    bool        // nothing is kept of the moment that is asked for
	Veiled    bool        // there are pages of which the person may not know
	Filter    ask.Query   // what the ladder is cut down to
	Care      *care.Known // besides the site
	Links     *weblink.Known
	Selected  site.PageID
	InBin     site.PageID // the page in the bin that was asked for; then the selected one is the home page
	Menu      *site.Menu  // in the menus area
	Item      ItemID
	Stays     map[string]string // what else the links within the area keep
	Map       map[string]string // what the layouts area looks at: layout, mode, width, chip
	Block     *site.Block       // the block whose window the menus area looks through; nil if none shows the menu
}

func (s *Server) desk(r *http.Request) (*Desk, error) {
	d := &Desk{Who: Who(r), State: "after", As: r.FormValue("as"), At: r.FormValue("at")}
	id, err := strconv.ParseInt(r.FormValue("draft"), 10, 64)
	if err != nil {
		if r.FormValue("draft") != "" {
			return nil, store.ErrNoDraft
		}
		if id, err = s.Store.MyChanges(r.Context(), d.Who.ID); err != nil {
			return nil, err
		}
	}
	if d.Draft, err = s.Store.Draft(r.Context(), id); err != nil {
		return nil, err
	}
	if !d.Draft.IsFor(d.Who.ID) {
		if d.Approves, err = s.approves(r, d); err != nil {
			return nil, err
		}
		if !d.Approves {
			return nil, store.ErrNoDraft
		}
	}
	if !grant.SeesThrough(d.Draft.Base.Site, d.Who.Roles) {
		whole := d.Draft
		d.Draft = whole.As(d.Veil())
		d.Veiled = d.Draft != whole
	}
	d.Now, d.Path = s.Now(), r.URL.Path
	d.Site = d.Draft.After(d.Now)
	if r.FormValue("state") == "now" {
		d.State, d.Site = "now", d.Draft.Base.Site
	}
	if err := s.then(r, d); err != nil {
		return nil, err
	}
	if err := s.asPerson(r, d); err != nil {
		return nil, err
	}
	d.Lens = d.LensAt(d.Now)
	within, _ := strconv.ParseInt(r.FormValue("within"), 10, 64)
	d.Filter = ask.Query{
		Within: site.PageID(within), Topic: Number[site.PageID](r.FormValue("about")),
		Question: r.FormValue("ask"), Words: r.FormValue("words"),
		Reads: d.titles(),
		Mine:  d.owning(),
	}
	if d.Care, err = s.Store.Care(r.Context()); err != nil {
		return nil, err
	}
	d.Filter.Care = d.Care
	if d.Links, err = s.Store.DeadLinks(r.Context()); err != nil {
		return nil, err
	}
	if d.Filter.Question == "draft" {
		d.Filter.Changed = d.ChangedPages()
	}
	page, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
	if d.Selected = site.PageID(page); !d.Site.InTree(d.Selected) {
		d.InBin, d.Selected = edit.BinnedTop(d.Site, d.Selected), d.Site.Home()
	}
	d.Item, d.Map = ReadItem(r.FormValue("item")), map[string]string{}
	for _, name := range []string{"layout", "mode", "narrow", "chip"} {
		if value := r.FormValue(name); value != "" {
			d.Map[name] = value
		}
	}
	if d.Menu = d.Site.Menu(Number[site.MenuID](r.FormValue("menu"))); d.Menu == nil && len(d.Site.Menus()) > 0 {
		d.Menu = &d.Site.Menus()[0]
	}
	d.Block = d.Showing(Number[site.BlockID](r.FormValue("block")))
	return d, nil
}

// Besides is what is known besides the site, as checks are told it.
func (d *Desk) Besides() check.Besides { return check.Besides{Care: d.Care, Links: d.Links} }

// owning gives the owners that the person is: themselves, and each role that they hold.
func (d *Desk) owning() []site.Owner {
	owners := []site.Owner{site.PersonOwner(d.Who.Login)}
	for _, key := range reach.As(d.Draft.Base.Site, d.Who.Roles).Roles {
		owners = append(owners, site.RoleOwner(key))
	}
	return owners
}

// Veil gives a Site as the person may look at it.
func (d *Desk) Veil() func(*site.Site) *site.Site {
	return grant.NewVeil(d.Who.Roles)
}

// Showing gives the block of a number if it shows the menu at hand, else the first one that does; nil if none does.
func (d *Desk) Showing(id site.BlockID) *site.Block {
	var first *site.Block
	for i := range d.Site.Blocks() {
		b := &d.Site.Blocks()[i]
		if shows, _, isMenu := b.Menu(); !isMenu || d.Menu == nil || shows != d.Menu.ID {
			continue
		}
		if b.ID == id {
			return b
		}
		if first == nil {
			first = b
		}
	}
	return first
}

// A deskHandler answers a request that looks at a desk. Its error is said to the person who asked.
type DeskHandler func(http.ResponseWriter, *http.Request, *Desk) error

// At lays the desk for a handler: whole screens fail as pages do, all else as replies to a script.
func (s *Server) At(handle DeskHandler) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		d, err := s.desk(r)
		if err == nil {
			err = d.mayTouch(r)
		}
		if err == nil {
			err = handle(w, r, d)
		}
		if met := new(edit.Conflict); errors.As(err, &met) && met.NamesSomebody() {
			err = s.named(r, d, met)
		}
		switch {
		case err == nil:
		case r.Method == http.MethodGet && r.Header.Get("X-Part") == "":
			s.Fail(w, r, err)
		default:
			s.Refuse(w, r, err)
		}
	}
}

// LensAt is the lens that the desk looks through: the visitor and the moment that were chosen, or now.
func (d *Desk) LensAt(now time.Time) reach.Lens {
	lens := reach.Lens{At: now}
	if at, err := time.ParseInLocation(lensLayout, d.At, d.Site.Settings().Zone); err == nil {
		lens.At = at
	} else {
		d.At = ""
	}
	switch {
	case d.As == "signed-in":
		lens.SignedIn = true
	case d.Person != nil:
		lens.Visitor = reach.As(d.Site, d.Person.Roles)
	case d.AsRoles() != nil:
		lens.Visitor = reach.As(d.Site, d.AsRoles())
	default:
		d.As = ""
	}
	return lens
}

// LensAs gives the lens of another visitor at the same moment: signed in or out, or a holder of roles, as the top bar
// names them. ok is false for nobody.
func (d *Desk) LensAs(as string) (lens reach.Lens, words string, ok bool) {
	other := *d
	other.As, other.Person = as, nil
	lens = other.LensAt(d.Lens.At)
	lens.At = d.Lens.At
	return lens, other.LensWords(), as == "" || other.As != ""
}

// AsRoles gives the roles as whose holder one looks; nil if that is not chosen, or one of them is not there.
func (d *Desk) AsRoles() []string {
	keys := site.Audience(d.As).Roles()
	if slices.ContainsFunc(keys, func(key string) bool { return d.Site.Role(key) == nil }) {
		return nil
	}
	return keys
}

// asPerson looks up the person as whom one looks; only who may set who sees the site may look as somebody.
func (s *Server) asPerson(r *http.Request, d *Desk) error {
	number, person := strings.CutPrefix(d.As, "account:")
	if !person || !d.May(string(site.ActionAdmit)).Yes {
		return nil
	}
	id, _ := strconv.ParseInt(number, 10, 64)
	a, err := s.Store.Account(r.Context(), id)
	switch {
	case errors.Is(err, sql.ErrNoRows), errors.Is(err, store.ErrDisabled):
		return nil
	case err == nil:
		d.Person = &a
	}
	return err
}

// LensWords names the visitor and moment as a sentence part.
func (d *Desk) LensWords() string {
	words := "a visitor who is not signed in"
	if d.As == "signed-in" {
		words = "somebody signed in without a role"
	} else if d.Person != nil {
		words = d.Person.Name + ", signed in"
	} else if keys := d.AsRoles(); keys != nil {
		names := make([]string, len(keys))
		for i, key := range keys {
			names[i] = "“" + d.Site.RoleName(key) + "”"
		}
		words = "somebody with the role " + names[0]
		if len(names) > 1 {
			words = "somebody with the roles " + consequence.And(names)
		}
	}
	if d.At != "" {
		words += ", on " + d.Lens.At.In(d.Site.Settings().Zone).Format("2 January 2006 at 15:04")
	}
	return words
}

// OtherLens names who one looks as where that is a person, or holds several roles; "" for who stands in the list.
func (d *Desk) OtherLens() string {
	if d.Person != nil {
		return d.Person.Name
	}
	if keys := d.AsRoles(); len(keys) > 1 {
		return d.Site.AudienceWords(site.Audience(strings.Join(keys, "|")))
	}
	return ""
}

// NamedDraft says that the draft is not the one that everybody has for themselves.
func (d *Desk) NamedDraft() bool {
	return d.Draft.Name != store.MyChangesName || d.Draft.Owner != d.Who.ID
}

// PlannedWords says when the draft is to be published; "" if nothing is planned.
func (d *Desk) PlannedWords() string {
	if d.Draft.Planned.IsZero() {
		return ""
	}
	return LongMoment(d.Site, d.Draft.Planned)
}

// SharedWith counts those who share the draft besides its owner.
func (d *Desk) SharedWith() string {
	switch n := len(d.Draft.People); n {
	case 0:
		return ""
	case 1:
		return "one other person"
	default:
		return strconv.Itoa(n) + " other people"
	}
}

// PlainLens says that the view is the usual one: signed out, now.
func (d *Desk) PlainLens() bool { return d.As == "" && d.At == "" }

// Link gives the address of the workbench with one thing changed.
func (d *Desk) Link(path, key, value string) string {
	q := url.Values{
		"draft": {strconv.FormatInt(d.Draft.ID, 10)},
		"page":  {strconv.FormatInt(int64(d.Selected), 10)},
		"state": {d.State},
	}
	if d.As != "" {
		q.Set("as", d.As)
	}
	if d.At != "" {
		q.Set("at", d.At)
	}
	if d.ThenAsked != "" {
		q.Set("then", d.ThenAsked)
	}
	if path == d.Path {
		d.keepFilter(q)
	}
	if d.Menu != nil && path == "/menus" {
		q.Set("menu", strconv.FormatInt(int64(d.Menu.ID), 10))
		if key != "menu" {
			if d.Item.Entry != 0 {
				q.Set("item", d.Item.String())
			}
			if d.Block != nil {
				q.Set("block", strconv.FormatInt(int64(d.Block.ID), 10))
			}
		}
	}
	if path == "/layouts" {
		for name, value := range d.Map {
			q.Set(name, value)
		}
	}
	q.Set(key, value)
	return path + "?" + q.Encode()
}

// LinkWith gives the address of a screen with several things set; what is empty is left out.
func (d *Desk) LinkWith(path string, set map[string]string) string {
	link := d.Link(path, "page", strconv.FormatInt(int64(d.Selected), 10))
	for _, key := range slices.Sorted(maps.Keys(set)) {
		if set[key] != "" {
			link += "&" + key + "=" + url.QueryEscape(set[key])
		}
	}
	return link
}

// ThingLink is the address of the screen on which a thing is edited.
func (d *Desk) ThingLink(on site.Thing) string {
	number := strconv.FormatInt(on.ID, 10)
	switch on.Family {
	case site.FamilyPage:
		area := "/tree"
		switch p := d.Site.Page(site.PageID(on.ID)); {
		case p == nil:
		case p.Gathers():
			area = "/topics"
		case p.IsFile(), p.IsFolder():
			area = "/files"
		}
		return d.Link(area, "page", number)
	case site.FamilyMenu:
		return d.Link("/menus", "menu", number)
	case site.FamilyEntry:
		if _, m := Holding(d.Site, site.EntryID(on.ID)); m != nil {
			return d.ItemLink(m.ID, ItemID{Entry: site.EntryID(on.ID)}.String())
		}
	case site.FamilyBlock:
		return d.Link("/layouts", "chip", "b"+number)
	case site.FamilyPlacement:
		return d.Link("/layouts", "chip", "p"+number)
	}
	return d.Link("/problems", "page", strconv.FormatInt(int64(d.Selected), 10))
}

// keepFilter has a link show what the ladder is cut down to. It goes along within the area only: another asks other
// questions.
func (d *Desk) keepFilter(q url.Values) {
	for name, typed := range map[string]string{"ask": d.Filter.Question, "words": d.Filter.Words} {
		if typed != "" {
			q.Set(name, typed)
		}
	}
	if d.Filter.Topic != 0 {
		q.Set("about", strconv.FormatInt(int64(d.Filter.Topic), 10))
	}
	if d.Filter.Within != 0 {
		q.Set("within", strconv.FormatInt(int64(d.Filter.Within), 10))
	}
	for name, value := range d.Stays {
		if value != "" {
			q.Set(name, value)
		}
	}
}

// ItemLink is the address of an item, or an automatic line, in the menus area.
func (d *Desk) ItemLink(m site.MenuID, row string) string {
	return d.Link("/menus", "menu", strconv.FormatInt(int64(m), 10)) + "&item=" + url.QueryEscape(row)
}

// ChangedPages are those that the draft changes.
func (d *Desk) ChangedPages() map[site.PageID]bool {
	changed := map[site.PageID]bool{}
	for _, change := range site.Changes(d.Draft.Base.Site, d.Draft.Site) {
		if change.Is != nil {
			changed[change.Is.ID] = true
		}
	}
	return changed
}

// May asks for a right, as the templates do to disable what a person may not do.
func (d *Desk) May(action string) grant.Answer {
	return d.MayOn(action, site.SiteThing)
}

// MayOn asks for a right on a thing.
func (d *Desk) MayOn(action string, on site.Thing) grant.Answer {
	return d.Holder().May(site.Action(action), on)
}

// Holder has what the person may do, looked up once.
func (d *Desk) Holder() *grant.Holder {
	return grant.Holding(d.Draft.Base.Site, d.Who.Roles).In(d.Draft.Site)
}

// MayExcuse asks whether the person may say of a problem with a thing that it is meant so.
func (d *Desk) MayExcuse(on site.Thing) grant.Answer {
	return d.Holder().MayExcuse(d.Site, on)
}

// MayAnywhere asks for a right on anything at all.
func (d *Desk) MayAnywhere(action string) grant.Answer { return d.MayOn(action, site.AnyThing) }

// MayHere asks for a right on the selected page.
func (d *Desk) MayHere(action string) grant.Answer {
	return d.MayOn(action, site.PageThing(d.Selected))
}

// SetsWhoSees says whether the person may set who sees pages.
func (d *Desk) SetsWhoSees() bool { return d.MayAnywhere(string(site.ActionAdmit)).Yes }

// Reads says whether the person may read what a page says.
func (d *Desk) Reads(id site.PageID) grant.Answer {
	if on := d.Draft.Base.Site; on.Page(id) != nil {
		if answer := grant.Reads(on, d.Who.Roles, id); !answer.Yes {
			return answer
		}
	}
	return grant.Reads(d.Site, d.Who.Roles, id)
}

// Reader says of many pages whether the person may read what they say, in the draft and in public.
func (d *Desk) Reader() func(site.PageID) bool {
	public := d.Draft.Base.Site
	now, after := grant.Reader(public, d.Who.Roles), grant.Reader(d.Site, d.Who.Roles)
	return func(id site.PageID) bool { return (public.Page(id) == nil || now(id)) && after(id) }
}

// titles says of which pages the person may search the title; nil: of all, as for who may set who sees them.
func (d *Desk) titles() func(*site.Page) bool {
	if d.May(string(site.ActionAdmit)).Yes {
		return nil
	}
	reads := d.Reader()
	return func(p *site.Page) bool { return reads(p.ID) }
}

// MustRead is the error of somebody who may not read the selected page.
func (d *Desk) MustRead() error {
	if answer := d.Reads(d.Selected); !answer.Yes {
		return fmt.Errorf("%w: %s", ErrForbidden, answer.Why)
	}
	return nil
}

// Viewers are those for whom consequences are computed.
func (s *Server) Viewers(r *http.Request, d *Desk) (consequence.Viewers, error) {
	sets, err := s.Store.RoleSets(r.Context())
	if err != nil {
		return consequence.Viewers{}, err
	}
	at := d.Lens.At
	if !d.Draft.Planned.IsZero() && d.At == "" {
		at = d.Draft.Planned
	}
	return consequence.ViewersOf(d.Draft.Base.Site, sets, at), nil
}
