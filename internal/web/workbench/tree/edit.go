package tree

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// An intent is what a form asks for, before it is known what stands in the draft.
type intent struct {
	do       string
	page     site.PageID
	pages    []site.PageID // of a selection; else the page alone
	form     func(string) string
	newID    site.PageID                 // for making
	besideID site.PageID                 // for making a list: the page in which the first one stands
	newEntry site.EntryID                // for making, with an item in a menu
	made     map[site.PageID]site.PageID // for copying: the copy of each page
	texts    map[string]string           // for copying: the hash of the text in which links point at the copies
	hash     string                      // for text
	now      time.Time
	seen     int64
}

// operations turns an intent into operations on a Site, with what was done in words.
func (i *intent) operations(s *site.Site) ([]edit.Op, string, error) {
	p := s.Page(i.page)
	switch i.do {
	case "make-list":
		return i.makeList(s)
	case "make-folder":
		return i.makeFolder(s)
	}
	if p == nil || !s.InTree(i.page) && i.do != "restore" && i.do != "leads" {
		return nil, "", &edit.Conflict{
			Page:     i.page,
			Sentence: "This page is not there any more; it may have been put in the bin in another window.",
		}
	}
	switch i.do {
	case "make":
		return i.make(s, p)
	case "field":
		return i.field(p)
	case "listing":
		return i.listing(s, p)
	case "tag":
		return i.tag(s)
	case "merge":
		return i.merge(s, p)
	case "move":
		to, err := i.place(s)
		ops := edit.MoveMany(s, i.pages, to)
		if i.form("takes") != "" {
			edit.TakeFromPlace(ops)
		}
		return ops, i.said("moved", s), err
	case "copy":
		return i.copy(s)
	case "set":
		if !edit.FieldHas(edit.Field(i.form("field")), edit.ForMany) {
			return nil, "", &edit.Refusal{Sentence: "That can't be set for several pages at once."}
		}
		return edit.SetMany(
				s,
				i.branches(s),
				edit.Field(i.form("field")),
				i.form("new"),
			), i.said(
				settingVerb(edit.Field(i.form("field")), i.form("new")),
				s,
			), nil
	case "window":
		return i.window(s)
	case "sort":
		rule := site.SortRule(i.form("new"))
		return edit.Sorting(
				s,
				p.ID,
				rule,
			), fmt.Sprintf(
				"put the pages in “%s” in order: %s",
				desk.Short(p.Label),
				edit.RuleWords(rule),
			), nil
	case "nudge", "position":
		return i.shifted(s)
	case "bin":
		var ops []edit.Op
		for _, top := range edit.Tops(s, i.pages) {
			ops = append(ops, edit.OpBin{Page: top, Seen: i.seen})
		}
		return ops, i.said("put in the bin", s), nil
	case "leads":
		return []edit.Op{
				edit.OpEdit{
					Page: i.page,
					Fields: []edit.FieldChange{
						{Field: edit.FieldLeadsTo, Old: edit.Value(p, edit.FieldLeadsTo), New: i.form("new")},
					},
				},
			},
			said(
				"chose where the addresses lead of",
				p,
			), nil
	case "restore":
		return []edit.Op{edit.OpRestore{Page: i.page, Seen: i.seen}}, said("restored", p), nil
	}
	return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
}

// listing sets a part of the question that a page asks for what it lists.
func (i *intent) listing(s *site.Site, p *site.Page) ([]edit.Op, string, error) {
	was, lists := listing.Asked(p.Listing)
	if !lists {
		return nil, "", &edit.Conflict{Page: p.ID, Sentence: "The page lists nothing any more."}
	}
	next, err := desk.AskOtherwise(s, was, i.form)
	return []edit.Op{edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldListing, Old: p.Listing, New: listing.Text(next)},
	}}}, said("changed what is listed on", p), err
}

func (i *intent) make(s *site.Site, beside *site.Page) ([]edit.Op, string, error) {
	to, err := i.place(s)
	if err != nil {
		return nil, "", err
	}
	label := i.form("label")
	op := edit.OpMake{Page: i.newID, Place: to, Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: label}}}
	if segment := i.form("segment"); segment != "" {
		op.Fields = append(op.Fields, edit.FieldChange{Field: edit.FieldSegment, New: segment})
	}
	if i.form("live") == "yes" {
		op.Fields = append(op.Fields, edit.FieldChange{Field: edit.FieldStatus, New: string(site.StatusLive)})
	}
	if kind := i.kindIn(s, to.Parent); kind != "" {
		op.Fields = append(op.Fields, edit.FieldChange{Field: edit.FieldKind, New: kind})
	} else {
		op.Fields = append(op.Fields, i.plain(s)...)
	}
	ops, err := i.alsoInMenu(s, []edit.Op{op}, i.newID)
	return ops, "made “" + desk.Short(label) + "”", err
}

// plain gives what a page that gathers nothing is made with: its type, listed as that has it, and what it lists.
func (i *intent) plain(s *site.Site) (fields []edit.FieldChange) {
	if kind := i.form("kind"); kind != "" && kind != "page" {
		fields = append(fields, edit.FieldChange{Field: edit.FieldKind, New: kind})
		if s.Kind(kind).Unlisted {
			fields = append(fields, edit.FieldChange{Field: edit.FieldListed, New: "no"})
		}
	}
	if topics := i.form("topics"); topics != "" {
		fields = append(fields, edit.FieldChange{Field: edit.FieldTopics, New: topics})
	}
	if lists := i.form("lists"); lists != "" {
		q := site.BlockListing{Kinds: lists, Sort: site.ListLabel, Most: 20, Looks: site.LooksTable}
		if s.Kind(lists).DateName != "" {
			q.Sort = site.ListDateDown
		}
		fields = append(fields, edit.FieldChange{Field: edit.FieldListing, New: listing.Text(q)})
	}
	return fields
}

// place reads where: "into", "before" or "after" a target page.
func (i *intent) place(s *site.Site) (edit.Place, error) {
	number, _ := strconv.ParseInt(i.form("target"), 10, 64)
	target := s.Page(site.PageID(number))
	if target == nil || !s.InTree(target.ID) {
		return edit.Place{}, &edit.Conflict{
			Page:     site.PageID(number),
			Sentence: "The page to put it by is not there any more.",
		}
	}
	before, after := s.Neighbours(target.ID)
	switch way := i.form("way"); {
	case way == "into":
		return edit.Place{Parent: target.ID}, nil
	case target.Parent == 0:
		return edit.Place{}, &edit.Refusal{Sentence: "Nothing can stand beside the home page; put it inside."}
	case way == "before":
		return edit.Place{Parent: target.Parent, After: before, Before: target.ID}, nil
	default:
		return edit.Place{Parent: target.Parent, After: target.ID, Before: after}, nil
	}
}

// shifted gives the moves that take the selection a step, or to a typed position.
func (i *intent) shifted(s *site.Site) ([]edit.Op, string, error) {
	tops := edit.Tops(s, i.pages)
	if slices.Contains(tops, s.Home()) {
		return nil, "", &edit.Refusal{Sentence: "The home page stays where it is."}
	}
	kin := edit.Kin[site.PageID]{
		Above: func(id site.PageID) site.PageID { return s.Page(id).Parent },
		Below: s.Children,
		Out:   func(parent site.PageID) (site.PageID, bool) { return parent, s.Page(parent).Parent != 0 },
		Name:  func(id site.PageID) string { return s.Page(id).Label },
	}
	shifts, err := edit.Shifts(kin, tops, i.form("way"), i.form("position"))
	var ops []edit.Op
	for _, to := range shifts {
		place := edit.Place{Parent: to.Parent, After: to.After, Before: to.Before}
		ops = append(ops, edit.OpMove{Page: to.ID, From: edit.Place{Parent: s.Page(to.ID).Parent}, To: place})
	}
	return ops, i.said("moved", s), err
}

func (i *intent) field(p *site.Page) ([]edit.Op, string, error) {
	field := edit.Field(i.form("field"))
	change := edit.FieldChange{Field: field, Old: i.form("old"), New: strings.TrimSpace(i.form("new"))}
	if field == edit.FieldText || i.hash != "" {
		change.New = i.hash
	}
	words := said(settingVerb(field, change.New), p)
	if field == edit.FieldLabel && change.New != "" {
		words += " to “" + desk.Short(change.New) + "”"
	}
	return []edit.Op{edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{change}}}, words, nil
}

// isRich says whether a field is a detail whose value is a text of its own.
func isRich(s *site.Site, field edit.Field) bool {
	d := s.Detail(string(field))
	return d != nil && d.Type == site.DetailRich
}

// readIntent reads the form and fetches what the operations need besides the Site.
func (s *Area) readIntent(r *http.Request, d *desk.Desk) (*intent, error) {
	number, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
	i := &intent{
		do:   r.FormValue("do"),
		page: site.PageID(number),
		form: r.FormValue,
		now:  s.Now(),
		seen: d.Draft.Base.Revision,
	}
	if i.pages = desk.ReadIDs(r.FormValue("pages")); len(i.pages) == 0 {
		i.pages = []site.PageID{i.page}
	} else if !slices.Contains(i.pages, i.page) {
		i.page = i.pages[0]
	}
	field := edit.Field(r.FormValue("field"))
	switch {
	case i.do == "field" && (field == edit.FieldText || isRich(d.Site, field)):
		var err error
		if i.hash, err = s.KeepText(r, d); err != nil {
			return nil, err
		}
	case i.do == "leads" && r.FormValue("address") != "":
		path, err := address.Normal(
			"/" + strings.TrimLeft(
				strings.TrimPrefix(strings.TrimSpace(r.FormValue("address")), s.Settings.Site),
				"/",
			),
		)
		found := address.Resolve(d.Site, path, s.Now())
		if err != nil || found.Page == 0 || found.Gone {
			return nil, &edit.Refusal{Sentence: "There is no page at that address to lead to."}
		}
		i.form = desk.With(r.FormValue, "new", strconv.FormatInt(int64(found.Page), 10))
	case i.do == "field":
		var err error
		if i.form, err = desk.WithMoment(r, d); err != nil {
			return nil, err
		}
	}
	return i, nil
}

// edit does one thing in the draft.
func (s *Area) edit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := s.readIntent(r, d)
	if err != nil {
		return err
	}
	switch i.do {
	case "make":
		ids, err := s.Store.NewPageIDs(r.Context(), 1)
		if err != nil {
			return err
		}
		i.newID = ids[0]
		if i.form("gap") != "" {
			items, err := s.Store.NewEntryIDs(r.Context(), 1)
			if err != nil {
				return err
			}
			i.newEntry = items[0]
		}
	case "make-folder":
		ids, err := s.Store.NewPageIDs(r.Context(), 1)
		if err != nil {
			return err
		}
		i.newID = ids[0]
	case "make-list":
		ids, err := s.Store.NewPageIDs(r.Context(), 2)
		if err != nil {
			return err
		}
		i.besideID, i.newID = ids[0], ids[1]
	case "copy":
		if err := s.readyCopies(r.Context(), d, i); err != nil {
			return err
		}
	}
	made, words, err := s.InDraft(r, d, i.operations)
	if err != nil {
		return err
	}
	page := i.about(d.Draft.Site)
	said := done(words, made.Site, i, page)
	switch i.do {
	case "bin":
		page = desk.Neighbour(d.Draft.Site, i.page)
	case "leads":
		page = d.Selected
	case "merge":
		page = desk.Number[site.PageID](r.FormValue("topic"))
	case "tag":
		if r.FormValue("stay") != "" {
			page = desk.Number[site.PageID](r.FormValue("topic"))
		}
	}
	s.Say(
		w,
		http.StatusOK,
		desk.Reply{
			Said: strings.TrimSpace(said + " " + keptWords(d.Draft.Site, made.Site, i.pages)),
			Page: int64(page),
		},
	)
	return nil
}

// keptWords says which audience pages keep that come to another place, since moving never opens (rules 2.6); "" if none
// does.
func keptWords(was, is *site.Site, pages []site.PageID) string {
	for _, id := range pages {
		before, after := was.Page(id), is.Page(id)
		if before == nil || after == nil || before.Parent == after.Parent || before.Audience == after.Audience {
			continue
		}
		subject := "It"
		if len(pages) > 1 {
			subject = "“" + desk.Short(after.Label) + "”"
		}
		return fmt.Sprintf(
			"%s keeps “%s”, which it had from “%s”.",
			subject,
			is.AudienceWords(after.Audience),
			desk.Short(reach.Source(was, id).Label),
		)
	}
	return ""
}

// about gives the page that the edit is about: the one that it makes, the first copy, or the one that was named.
func (i *intent) about(was *site.Site) site.PageID {
	if i.newID != 0 {
		return i.newID
	}
	if i.do == "copy" {
		if pages := i.copying(was).Pages(was); len(pages) > 0 {
			return i.made[pages[0]]
		}
	}
	return i.page
}

// done says what was done, with the place of the page after a move.
func done(words string, s *site.Site, i *intent, page site.PageID) string {
	first := strings.ToUpper(words[:1]) + words[1:]
	if slices.Contains([]string{"field", "set", "window", "sort", "leads", "tag", "merge"}, i.do) || len(i.pages) > 1 ||
		!s.InTree(page) {
		return first + "."
	}
	return first + ": " + desk.Place(s, page) + "."
}

// try says what an edit would do and leaves everything as it is.
func (s *Area) try(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := s.readIntent(r, d)
	if err != nil {
		return err
	}
	switch i.do {
	case "make":
		i.newID, i.newEntry = tryID(d.Draft.Site), desk.TryEntry
	case "copy":
		i.made = map[site.PageID]site.PageID{}
		for n, id := range i.copying(d.Draft.Site).Pages(d.Draft.Site) {
			i.made[id] = tryID(d.Draft.Site) + site.PageID(n)
		}
	}
	next, changes, err := s.Tried(r, d, i.operations)
	if err != nil {
		return err
	}
	page := i.about(d.Draft.Site)
	facts := &desk.TryFacts{Changes: changes}
	switch {
	case i.do == "sort":
		facts.Place = reordered(d.Site, next, page)
	case len(i.pages) > 1:
		facts.Place = many(d.Site, next, i)
	case next.InTree(page):
		facts.Place, facts.Address, facts.Menu = desk.Place(
			next,
			page,
		), address.Of(
			next,
			page,
		), menuLine(
			next,
			page,
			d.Lens,
			s.Now(),
		)
	}
	if kept := keptWords(d.Draft.Site, next, i.pages); kept != "" {
		facts.Place += ". " + strings.TrimSuffix(kept, ".")
	}
	if e, m := desk.Holding(next, i.newEntry); e != nil {
		where, _, _ := d.ItemPlace(next, m, e)
		facts.Menu += "; item " + where
	}
	s.Say(w, http.StatusOK, desk.Reply{Facts: facts})
	return nil
}

// menuLine says where a page shows in menus; for one that is offline, where it will once it is live.
func menuLine(s *site.Site, id site.PageID, lens reach.Lens, now time.Time) string {
	shown, not := shownIn(s, id, lens)
	if len(shown) > 0 {
		return strings.Join(shown, "; ")
	}
	if s.Page(id).Status == site.StatusOffline {
		live, _, err := edit.Apply(
			s,
			edit.OpEdit{
				Page: id,
				Fields: []edit.FieldChange{
					{Field: edit.FieldStatus, Old: string(site.StatusOffline), New: string(site.StatusLive)},
				},
			},
			now,
		)
		if err == nil {
			if shown, not = shownIn(live, id, lens); len(shown) > 0 {
				return "once live: " + strings.Join(shown, "; ")
			}
		}
	}
	return "in no menu: " + not
}

// tryID is an id that no page has, for a page that is only tried.
func tryID(s *site.Site) site.PageID {
	id := site.PageID(s.Count() + len(s.Binned()) + 1)
	for s.Page(id) != nil {
		id *= 2
	}
	return id
}
