package demo

import (
	"context"
	"fmt"
	"strconv"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

// furnish makes the demo's menus and blocks, puts them into regions, and chooses layouts and the pages that stand in
// for others.
func furnish(ctx context.Context, st *store.Store, s *site.Site, hosts []string) error {
	f := &furnisher{ctx: ctx, st: st, site: s, cleaner: text.NewCleaner(hosts...)}
	f.menus()
	f.blocks()
	f.settings()
	if f.err != nil {
		return fmt.Errorf("furnish the demo: %w", f.err)
	}
	_, err := st.PublishDirect(ctx, store.Account{Name: "the demo"}, "put menus and blocks in their places", f.ops)
	return err
}

// A furnisher gathers operations. The first error ends it.
type furnisher struct {
	ctx     context.Context
	st      *store.Store
	site    *site.Site
	cleaner *text.Cleaner
	ops     []edit.Op
	err     error

	main, quick, freight, footer, operators, islands, account site.MenuID
}

func (f *furnisher) page(label string) site.PageID {
	id := find(f.site, label)
	if id == 0 && f.err == nil {
		f.err = fmt.Errorf("there is no page “%s”", label)
	}
	return id
}

// fields writes the fields of a thing that is made: names and values in turn.
func fields(pairs ...string) map[edit.Field]string {
	made := map[edit.Field]string{}
	for i := 0; i < len(pairs); i += 2 {
		made[edit.Field(pairs[i])] = pairs[i+1]
	}
	return made
}

func (f *furnisher) menu(name string) site.MenuID {
	id, err := f.st.NewMenuID(f.ctx)
	f.note(err)
	f.ops = append(f.ops, edit.OpMakeMenu{Menu: id, Name: name})
	return id
}

func (f *furnisher) note(err error) {
	if f.err == nil {
		f.err = err
	}
}

// entry puts an item last into a menu, below another one or at the top, and gives its id.
func (f *furnisher) entry(m site.MenuID, parent site.EntryID, shows string, pairs ...string) site.EntryID {
	return f.entryBelow(m, parent, 0, shows, pairs...)
}

// entryBelow puts an item below a line that another one grows, by the page of the line.
func (f *furnisher) entryBelow(
	m site.MenuID, parent site.EntryID, line site.PageID, shows string, pairs ...string,
) site.EntryID {
	ids, err := f.st.NewEntryIDs(f.ctx, 1)
	if f.note(err); err != nil {
		return 0
	}
	form := edit.EntryForm{ID: ids[0], Fields: fields(append([]string{"shows", shows}, pairs...)...)}
	gap := edit.Gap{Menu: m, Parent: parent, Under: line}
	f.ops = append(f.ops, edit.OpPutEntries{Gap: gap, Entries: []edit.EntryForm{form}})
	return ids[0]
}

func (f *furnisher) to(label string) string { return fmt.Sprintf("page:%d", f.page(label)) }

func (f *furnisher) menus() {
	f.main = f.menu("Main menu")
	f.entry(f.main, 0, fmt.Sprintf("branch:%d:0:beside", f.site.Home()))

	f.quick = f.menu("Quick tasks")
	f.entry(
		f.quick,
		0,
		f.to("Winter"),
		"label",
		"Winter timetable",
		"icon",
		"calendar-clock",
		"hint",
		"Until 27 March, all routes",
	)
	f.entry(f.quick, 0, f.to("Book a place"), "badge", "Cars fill early", "badge_pair", "sand", "icon", "ticket")
	f.entry(f.quick, 0, f.to("Visitors' berths"), "icon", "anchor", "hint", "Visitors' berths") // says its label again
	f.entry(f.quick, 0, f.to("Report a problem"), "icon", "phone")

	f.freight = f.menu("Freight")
	for _, label := range []string{"Dangerous goods", "Livestock", "For regular shippers"} {
		f.entry(f.freight, 0, f.to(label))
	}

	f.footer = f.menu("Footer")
	board := f.entry(f.footer, 0, "heading", "label", "The Board")
	for _, label := range []string{"Members of the Board", "Annual reports", "Jobs"} {
		f.entry(f.footer, board, f.to(label))
	}
	travel := f.entry(f.footer, 0, "heading", "label", "Travelling")
	for _, label := range []string{"When sailings are cancelled", "With limited mobility", "Tides and weather"} {
		f.entry(f.footer, travel, f.to(label))
	}
	f.entry(
		f.footer,
		travel,
		"web:http://127.0.0.1:8080/sailings/fares",
		"label",
		"What it costs",
	) // an address of the site's own
	f.entry(f.footer, 0, fmt.Sprintf("branch:%d:1:above:hits=3", f.page("Notices")), "label", "Notices in force")
	help := f.entry(f.footer, 0, "heading", "label", "This site")
	for _, label := range []string{"Privacy", "Accessibility of this site", "Complaints"} {
		f.entry(f.footer, help, f.to(label))
	}
	f.entry(f.footer, 0, "heading", "label", "Partners") // nothing stands below it

	f.operators = f.menu("Operators")
	room := f.entry(f.operators, 0, f.to("Operators' room"), "audience", "operators")
	f.pale("yes")
	f.entry(
		f.operators,
		room,
		f.to("Duty rota"),
		"badge",
		"New week",
		"badge_pair",
		"#8d9a96 on #eef4f3",
	) // hard to read
	f.pale("no")
	for _, label := range []string{"Berth plan", "Weather briefing", "Incident log"} {
		f.entry(f.operators, room, f.to(label))
	}
	f.entry(f.operators, 0, f.to("Harbour rules"), "audience", "operators")

	f.islands = f.menu("Islands")
	islands := topic(f.site, "Places", "Skerrow Isles")
	grown := f.entry(f.islands, 0, fmt.Sprintf("branch:%d:1:not:least=1:count", islands),
		"lines", fmt.Sprintf(`{"page:%d":"first;;"}`, topic(f.site, "Places", "Skerrow")))
	f.entryBelow(f.islands, grown, topic(f.site, "Places", "Øyra"), f.to("Øyra landing"), "icon", "anchor")

	f.account = f.menu("Account")
	f.entry(f.account, 0, "account:sign-in", "label", "Sign in", "icon", "log-in")
	f.entry(f.account, 0, f.to("Operators' room"), "badge", "Operators", "badge_pair", "#ffffff on #5b2a6e")
	f.entry(f.account, 0, f.to("Staff handbook"))
	f.entry(f.account, 0, f.to("Board papers"))
	f.entry(f.account, 0, "account:sign-out", "label", "Sign out", "icon", "log-out")

	season := f.menu("Summer season") // no block shows it
	f.entry(season, 0, f.to("Summer"))
	f.entry(season, 0, f.to("Seasonal berths"))
	f.entry(season, 0, f.to("Sølvika anchorage"))
}

// pale says whether badges of low contrast are only warned of; the demo has one from the days when they were.
func (f *furnisher) pale(to string) {
	was := map[string]string{"yes": "no", "no": "yes"}[to]
	f.ops = append(
		f.ops,
		edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldPaleBadges, Old: was, New: to}}},
	)
}

// block makes a block and puts it last into a region.
func (f *furnisher) block(name, piece, region string, settings, conditions map[edit.Field]string) {
	id, err := f.st.NewBlockID(f.ctx)
	f.note(err)
	place, err := f.st.NewPlacementID(f.ctx)
	f.note(err)
	settings[edit.FieldName], settings[edit.FieldPiece] = name, piece
	f.ops = append(f.ops, edit.OpMakeBlock{Block: id, Fields: settings})
	if region != "" {
		f.ops = append(
			f.ops,
			edit.OpPutPlacement{Placement: place, Block: id, Slot: edit.Slot{Region: region}, Fields: conditions},
		)
	}
}

func (f *furnisher) menuPiece(m site.MenuID, w site.Window) string {
	return piece.Text(site.BlockMenu{Menu: m, Window: w})
}

// words keeps a text and gives the piece that shows it.
func (f *furnisher) words(html string) string {
	hashes, err := f.st.SaveTexts(f.ctx, f.cleaner.Clean(f.site, html, clock.Now()))
	f.note(err)
	if err != nil {
		return ""
	}
	return "text:" + hashes[0]
}

func (f *furnisher) blocks() {
	whole := site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}
	bar, section := site.Window{
		First:  1,
		Levels: 2,
		From:   site.FromWhole,
		Unfold: site.UnfoldAll,
	}, site.Window{
		First:  2,
		From:   site.FromTrail,
		Unfold: site.UnfoldTrail,
	}
	branch := func(label string) string { return fmt.Sprintf("branch:%d", f.page(label)) }
	one := func(label string) string { return fmt.Sprintf("page:%d", f.page(label)) }
	f.block("Name of the site", "name", "header", fields(), nil)
	f.block("Who is signed in", "account", "header", fields(), nil)
	f.block("Header menu", f.menuPiece(f.main, bar), "header", fields("title", "Main"), nil)
	f.block("Breadcrumb", "breadcrumb", "top", fields("title", "You are here"), nil)
	f.block("Side menu", f.menuPiece(f.main, section), "left", fields("title", "In this section"), nil)
	f.block("Freight menu", f.menuPiece(f.freight, whole), "left", fields("title", "For shippers", "titled", "yes"),
		fields("where", fmt.Sprintf("branch:%d", f.page("Freight"))))
	f.block("Quick tasks", f.menuPiece(f.quick, whole), "tasks", fields("title", "Quick tasks", "titled", "yes"), nil)
	f.block(
		"Operators' menu",
		f.menuPiece(f.operators, whole),
		"right",
		fields("title", "For operators", "titled", "yes"),
		fields("where", branch("Operators' room")+"|"+branch("Harbours"), "audience", "operators"),
	)
	f.block(
		"Harbour radio",
		f.words("<p>Call the harbour office on VHF channel 12 before you enter. Out of hours: channel 16.</p>"),
		"right",
		fields(
			"title",
			"Harbour radio",
			"titled",
			"yes",
		),
		fields("where", branch("Harbours"), "except", one("North pier")),
	)
	f.block(
		"Office closed over Christmas",
		f.words(
			"<p>The office at Skerrow is closed from 24 to 28 December. Sailings are in the <a "+
				"href=\"/sailings/timetables/bank-holidays\">timetable for bank holidays</a>.</p>",
		),
		"right",
		fields(
			"title",
			"Christmas",
			"titled",
			"yes",
		),
		fields("where", branch("Contact")+"|pattern:/about-the-board/*", "live_until", "2026-12-29T00:00:00Z"),
	)
	f.block(
		"Islands",
		f.menuPiece(f.islands, whole),
		"right",
		fields("title", "By island", "titled", "yes"),
		fields("where", branch("Sailings")+"|"+branch("Plan a crossing")+"|"+branch("Notices")+"|"+branch("Topics")),
	)
	f.block(
		"Pages inside",
		"children",
		"below",
		fields("title", "More on this", "titled", "yes"),
		fields("where", branch("Harbours")+"|"+branch("About the Board")),
	)
	f.block(
		"Latest notices",
		fmt.Sprintf("listing:notice;;branch:%d;date-down;5", f.page("Notices")),
		"below",
		fields("title", "Latest notices", "titled", "yes"),
		fields("where", fmt.Sprintf("page:%d", f.site.Home())),
	)
	f.block(
		"Harbours at a glance",
		"listing:harbour;;;-harbour.depth;20;table;",
		"below",
		fields("title", "Harbours at a glance, the deepest first", "titled", "yes"),
		fields("where", one("Harbours")),
	)
	f.block("Footer menu", f.menuPiece(f.footer, whole), "footer", fields("title", "About this site"), nil)
	f.block("Account menu", f.menuPiece(f.account, whole), "footer", fields("title", "Your account"), nil)
	f.block(
		"Opening hours",
		f.words("<p>Skerrow Isles Harbour Board. Harbour office open every day, 08:00 to 18:00. VHF channel 12.</p>"),
		"footer",
		fields("title", "Opening hours"),
		nil,
	)
	f.block(
		"Storm warning",
		f.words(
			"<p>Sailings may be cancelled at short notice today. Look at the <a href=\"/notices/sailing-notices\">sailing "+
				"notices</a>.</p>",
		),
		"",
		fields("title", "Storm warning", "titled", "yes"),
		nil,
	)
}

// settings chooses layouts and the pages that stand in for others.
func (f *furnisher) settings() {
	set := func(label string, field edit.Field, value string) {
		f.ops = append(f.ops, edit.OpEdit{Page: f.page(label), Fields: []edit.FieldChange{{Field: field, New: value}}})
	}
	set("Home", edit.FieldLayout, "front")
	set("Plan a crossing", edit.FieldBranchLayout, "form")
	set("Staff handbook", edit.FieldBranchLayout, "standard")
	f.ops = append(
		f.ops,
		edit.OpEditKind{Kind: "timetable", Fields: []edit.FieldChange{{Field: edit.FieldLayout, New: "wide"}}},
	)
	var chosen []edit.FieldChange
	for _, special := range []struct {
		field edit.Field
		label string
	}{{edit.FieldNotFoundPage, "Page not found"}, {edit.FieldNoAccessPage, "No access"}, {
		edit.FieldSignInPage,
		"Sign in",
	}, {edit.FieldClosedPage, "Closed for the moment"}} {
		chosen = append(
			chosen,
			edit.FieldChange{Field: special.field, New: strconv.FormatInt(int64(f.page(special.label)), 10)},
		)
	}
	f.ops = append(
		f.ops,
		edit.OpEditSettings{Fields: append(chosen, edit.FieldChange{Field: edit.FieldLayout, New: "standard"})},
	)
}
