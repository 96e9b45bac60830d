package demo

import (
	"context"
	"fmt"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// Grow adds to the hand-written demo what a site of some years has: six years of notices, minutes, documents and the
// pages of each harbour, some 2,300 pages, the same on every machine; pages that have moved since; and a draft in
// progress.
func Grow(ctx context.Context, st *store.Store) error {
	g := &grower{site: st.Published().Site}
	g.notices()
	g.minutes()
	g.documents()
	g.harbours()
	ids, err := st.NewPageIDs(ctx, len(g.made))
	if err != nil {
		return err
	}
	if err := g.write(ctx, st); err != nil {
		return err
	}
	ops := make([]edit.Op, len(g.made))
	for i, p := range g.made {
		op := edit.OpMake{Page: ids[i], Place: edit.Place{Parent: p.parent}, Fields: append([]edit.FieldChange{
			{Field: edit.FieldLabel, New: p.label}, {Field: edit.FieldStatus, New: string(site.StatusLive)},
		}, p.fields...)}
		if p.parent == 0 {
			op.Place.Parent = ids[p.above]
		}
		ops[i] = op
	}
	by := store.Account{Name: "the demo"}
	if _, err := st.PublishDirect(ctx, by, "brought six years of notices, minutes and documents in", ops); err != nil {
		return fmt.Errorf("grow the demo: %w", err)
	}
	if err := movePages(ctx, st, by); err != nil {
		return err
	}
	if err := age(ctx, st, by); err != nil {
		return err
	}
	return winterChangeover(ctx, st)
}

// A growing page stands in a page of the hand-written demo, or in another growing one.
type growing struct {
	parent site.PageID // 0: it stands in made[above]
	above  int
	label  string
	fields []edit.FieldChange
	says   string // its summary and the first sentence of its text; "": it only holds others
}

// write gives the pages that say something their texts and summaries.
func (g *grower) write(ctx context.Context, st *store.Store) error {
	var saying []int
	var texts []string
	for i, p := range g.made {
		if p.says != "" {
			saying = append(saying, i)
			texts = append(
				texts,
				"<p>"+p.says+"</p><p>The pier office answers questions, every day from seven to four.</p>",
			)
		}
	}
	hashes, err := st.SaveTexts(ctx, texts...)
	if err != nil {
		return err
	}
	for n, i := range saying {
		g.made[i].fields = append(
			g.made[i].fields,
			field(edit.FieldText, hashes[n]),
			field(edit.FieldSummary, g.made[i].says),
		)
	}
	return nil
}

// say has the page that was added last say something.
func (g *grower) say(format string, words ...any) {
	g.made[len(g.made)-1].says = fmt.Sprintf(format, words...)
}

type grower struct {
	site *site.Site
	made []growing
}

// under adds a page below another growing one, and gives its number.
func (g *grower) under(above int, label string, fields ...edit.FieldChange) int {
	g.made = append(g.made, growing{above: above, label: label, fields: fields})
	return len(g.made) - 1
}

// inside adds a page below a hand-written one.
func (g *grower) inside(parent, label string, fields ...edit.FieldChange) int {
	g.made = append(g.made, growing{parent: find(g.site, parent), label: label, fields: fields})
	return len(g.made) - 1
}

// find gives the first page of a label; the home page if there is none, so that a wrong label shows in the tests.
func find(s *site.Site, label string) site.PageID {
	found := s.Home()
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Label == label {
			found = p.ID
		}
		return p.Label != label
	})
	return found
}

func field(f edit.Field, value string) edit.FieldChange {
	return edit.FieldChange{Field: f, New: value}
}

func kind(key string, date time.Time) []edit.FieldChange {
	return []edit.FieldChange{field(edit.FieldKind, key), field(edit.FieldDate, date.Format(time.DateOnly))}
}

var islands = []string{
	"Skerrow",
	"Great Hallin",
	"Little Hallin",
	"Øyra",
	"Åsgarth",
	"Muckle Tarn",
	"St Brannoc",
	"Vesterhav",
	"The Calf",
}

// readers are for whom notices are.
var readers = []string{"Passengers", "Boat owners", "Passengers", "Shippers"}

// severities are how bad it is.
var severities = []string{"For information", "For information", "Take care", "Danger"}

// notices are six years, each in order of date with the latest first.
func (g *grower) notices() {
	archive := g.inside("Notices", "Archive of notices", field(edit.FieldSort, string(site.SortLabel)))
	events := []string{
		"Late sailings to %s", "Swell closes the landing at %s", "New ropes at %s", "Diving off %s", "No fuel at %s",
		"Light out at %s",
		"Extra boat to %s", "Works on the slip at %s", "Fog delays at %s", "Survey boat at %s", "Regatta at %s",
	}
	for year := 2020; year <= 2025; year++ {
		in := g.under(archive, fmt.Sprintf("Notices of %d", year), field(edit.FieldSort, string(site.SortDateDown)))
		for n := range 155 {
			at := time.Date(year, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, n*365/155)
			island := islands[(n*5+year*2)%len(islands)]
			label := fmt.Sprintf(events[(n*7+year)%len(events)], island)
			about := bears(
				topic(g.site, "Places", island),
				topic(g.site, "Audience of notice", readers[n%len(readers)]),
			)
			held := []edit.FieldChange{
				about, field("notice.until", at.AddDate(0, 0, 3+n%25).Format(time.DateOnly)),
				field("notice.severity", severities[(n*3+year)%len(severities)]),
			}
			g.under(in, fmt.Sprintf("%s, %s", label, at.Format("2 January")), append(kind("notice", at), append(held,
				field(edit.FieldTitle, fmt.Sprintf("%s, %s", label, at.Format("2 January 2006"))))...)...)
			g.say("%s: given out on %s.", label, at.Format("2 January 2006"))
		}
	}
}

func (g *grower) minutes() {
	all := g.inside("Meetings", "Minutes", field(edit.FieldSort, string(site.SortLabel)))
	for year := 2014; year <= 2025; year++ {
		in := g.under(all, fmt.Sprintf("Minutes of %d", year), field(edit.FieldSort, string(site.SortDate)))
		for month := time.January; month <= time.December; month++ {
			if month == time.August {
				continue // the Board rests
			}
			at := time.Date(year, month, 8+(year+int(month))%7, 0, 0, 0, 0, time.UTC)
			about := bears(topic(g.site, "Document type", "Minutes"))
			g.under(in, "Minutes of "+at.Format("2 January 2006"), append(kind("minutes", at), about)...)
			g.say("What the Board heard and decided on %s.", at.Format("2 January 2006"))
		}
	}
}

func (g *grower) documents() {
	sorts := g.site.TopicList(topic(g.site, "Document type", "Policies"))
	places := g.site.TopicList(topic(g.site, "Places", islands[0]))
	all := g.inside("About the Board", "Documents", field(
		edit.FieldListing, fmt.Sprintf("document;;;date-down;25;table;;topic:%d|topic:%d", sorts.ID, places.ID),
	))
	for _, sort := range []string{"Policies", "Tenders", "Statistics", "Plans and drawings"} {
		in := g.under(all, sort, field(edit.FieldSort, string(site.SortDateDown)))
		for n := range 130 {
			at := time.Date(2025, 11, 20, 0, 0, 0, 0, time.UTC).AddDate(0, 0, -n*17)
			island := islands[(n*4+len(sort))%len(islands)]
			about := bears(topic(g.site, "Document type", sort), topic(g.site, "Places", island))
			g.under(in, fmt.Sprintf("%s, %s, no. %d", sort, island, 130-n), append(kind("document", at), about)...)
			g.say("As the Board approved it on %s.", at.Format("2 January 2006"))
		}
	}
}

func (g *grower) harbours() {
	var harbours []*site.Page
	g.site.Walk(find(g.site, "Harbours"), func(p *site.Page) bool {
		if p.Kind == "harbour" {
			harbours = append(harbours, p)
		}
		return true
	})
	for n, harbour := range harbours {
		add := func(label string, fields ...edit.FieldChange) int {
			g.made = append(g.made, growing{parent: harbour.ID, label: label, fields: append(
				fields, field(edit.FieldTitle, label+", "+harbour.Label))})
			g.say("%s at %s.", label, harbour.Label)
			return len(g.made) - 1
		}
		berths := add("Berths")
		for berth := range 24 + n*2%9 {
			g.under(berths, fmt.Sprintf("Berth %d", berth+1),
				field(edit.FieldTitle, fmt.Sprintf("Berth %d, %s", berth+1, harbour.Label)))
			g.say("Berth %d at %s: moor with two lines ashore.", berth+1, harbour.Label)
		}
		tides := add("Tide tables")
		for month := time.January; month <= time.December; month++ {
			g.under(tides, fmt.Sprintf("Tides in %s 2026", month),
				field(edit.FieldTitle, fmt.Sprintf("Tides in %s 2026, %s", month, harbour.Label)))
			g.say("High and low water at %s in %s 2026.", harbour.Label, month)
		}
		services := add("Services")
		for _, service := range []string{"Water", "Fuel", "Shore power", "Waste", "Showers", "Crane", "Ice", "Chandler"} {
			about := bears(topic(g.site, "Services", service), topic(g.site, "Places", harbour.Label))
			g.under(services, service, about, field(edit.FieldTitle, service+", "+harbour.Label))
			g.say("%s at %s, on the pier.", service, harbour.Label)
		}
		for _, label := range []string{
			"How to come in", "Depths", "Photographs", "Charges", "In bad weather",
			"Who to call",
		} {
			add(label)
		}
	}
}

// movePages publishes what has moved and been renamed over the years, so that there are old addresses.
func movePages(ctx context.Context, st *store.Store, by store.Account) error {
	s := st.Published().Site
	edits := func(label string, f edit.Field, value string) edit.Op {
		id := find(s, label)
		return edit.OpEdit{
			Page:   id,
			Fields: []edit.FieldChange{{Field: f, Old: edit.Value(s.Page(id), f), New: value}},
		}
	}
	for _, one := range []struct {
		said string
		ops  []edit.Op
	}{
		{
			"moved “Parking at the pier” to “Getting to the pier”",
			[]edit.Op{edit.OpMove{
				Page: find(s, "Parking at the pier"),
				To:   edit.Place{Parent: find(s, "Getting to the pier")},
			}},
		},
		{
			"shortened the address of “When sailings are cancelled”",
			[]edit.Op{edits("When sailings are cancelled", edit.FieldSegment, "cancelled")},
		},
		{
			"moved “Documents” out of “About the Board”, and back the week after",
			[]edit.Op{edit.OpMove{Page: find(s, "Documents"), To: edit.Place{Parent: s.Home()}}},
		},
		{
			"put “Documents” back into “About the Board”",
			[]edit.Op{edit.OpMove{Page: find(s, "Documents"), To: edit.Place{Parent: find(s, "About the Board")}}},
		},
	} {
		if _, err := st.PublishDirect(ctx, by, one.said, one.ops); err != nil {
			return fmt.Errorf("move the demo's pages: %w", err)
		}
	}
	return nil
}

// winterChangeover leaves a draft of 23 edits in progress, shared by two people: timetables change places, a pier is
// retired, and a run of notices is added.
func winterChangeover(ctx context.Context, st *store.Store) error {
	keeper, err := st.AccountByLogin(ctx, "keeper")
	if err != nil {
		return err
	}
	editor, err := st.AccountByLogin(ctx, "structure")
	if err != nil {
		return err
	}
	draft, err := st.NewDraft(ctx, keeper, "Winter changeover")
	if err != nil {
		return err
	}
	if err := st.Share(ctx, draft, keeper, editor.ID, true); err != nil {
		return err
	}
	var ids []site.PageID
	if ids, err = st.NewPageIDs(ctx, 12); err != nil {
		return err
	}
	s := st.Published().Site
	step := func(by store.Account, said string, build func(*site.Site) edit.Op) {
		if err == nil {
			_, err = st.AddStep(
				ctx,
				draft,
				by,
				said,
				func(d *store.Draft) ([]edit.Op, error) { return []edit.Op{build(d.Site)}, nil },
			)
		}
	}
	set := func(label string, f edit.Field, value string) func(*site.Site) edit.Op {
		return func(on *site.Site) edit.Op {
			id := find(s, label)
			return edit.OpEdit{
				Page:   id,
				Fields: []edit.FieldChange{{Field: f, Old: edit.Value(on.Page(id), f), New: value}},
			}
		}
	}
	step(keeper, "moved “Summer”", func(*site.Site) edit.Op {
		return edit.OpMove{
			Page: find(s, "Summer"),
			To:   edit.Place{Parent: find(s, "Timetables"), Before: find(s, "Winter")},
		}
	})
	step(keeper, "moved “Bank holidays”", func(*site.Site) edit.Op {
		return edit.OpMove{
			Page: find(s, "Bank holidays"),
			To:   edit.Place{Parent: find(s, "Timetables"), Before: find(s, "Summer")},
		}
	})
	step(keeper, "set live “Summer”", set("Summer", edit.FieldStatus, "live"))
	step(keeper, "renamed “Winter”", set("Winter", edit.FieldLabel, "Winter 2026"))
	step(
		editor,
		"changed the title of “Winter 2026”",
		set("Winter", edit.FieldTitle, "Winter timetable 2026 to 2027"),
	)
	step(editor, "put in the bin “The Calf steps”", func(*site.Site) edit.Op {
		return edit.OpBin{Page: find(s, "The Calf steps"), Seen: st.Published().Revision}
	})
	step(editor, "chose where the addresses lead of “The Calf steps”", func(*site.Site) edit.Op {
		return edit.OpEdit{
			Page:   find(s, "The Calf steps"),
			Fields: []edit.FieldChange{{Field: edit.FieldLeadsTo, New: fmt.Sprint(find(s, "The Calf"))}},
		}
	})
	step(keeper, "unlisted “Route 5 reduced in November”", set("Route 5 reduced in November", edit.FieldListed, "no"))
	step(keeper, "moved “Vesterhav”", func(*site.Site) edit.Op {
		return edit.OpMove{
			Page: find(s, "Vesterhav"),
			To:   edit.Place{Parent: find(s, "Routes"), Before: find(s, "Skerrow to Great Hallin")},
		}
	})
	step(keeper, "made “Winter notices”", func(*site.Site) edit.Op {
		return edit.OpMake{
			Page:  ids[0],
			Place: edit.Place{Parent: find(s, "Sailing notices")},
			Fields: []edit.FieldChange{
				field(
					edit.FieldLabel,
					"Winter notices",
				), field(edit.FieldStatus, "live"), field(edit.FieldSort, string(site.SortDate)),
			},
		}
	})
	for n, label := range []string{
		"Route 3 every second day", "No night boat in January", "Storm timetable", "Ice on the ramps",
		"Heating in the lounge",
		"Early closing at Øyra", "Dogs in the winter lounge", "Freight before foot passengers", "Lights at the pier",
		"Engine works on MV Tern", "Snow on the mainland road",
	} {
		at := time.Date(2026, 12, 1+n*5, 0, 0, 0, 0, time.UTC)
		step(keeper, "made “"+label+"”", func(*site.Site) edit.Op {
			return edit.OpMake{Page: ids[n+1], Place: edit.Place{Parent: ids[0]}, Fields: append([]edit.FieldChange{
				field(edit.FieldLabel, label),
				field(edit.FieldStatus, "live"), field(edit.FieldLiveFrom, at.Format(time.RFC3339)),
			}, kind("notice", at)...)}
		})
	}
	step(
		keeper,
		"set when to be online for “Christmas sailings”",
		set("Christmas sailings", edit.FieldLiveUntil, "2027-01-03T00:00:00Z"),
	)
	step(
		keeper,
		"changed the summary of “Timetables”",
		set("Timetables", edit.FieldSummary, "When the boats leave, in winter and from March in summer."),
	)
	if err != nil {
		return fmt.Errorf("make the winter draft: %w", err)
	}
	return nil
}
