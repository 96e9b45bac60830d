package oracle

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// page draws a page that is in the tree.
func (w *world) page() site.PageID {
	var pages []site.PageID
	w.site.Walk(w.site.Home(), func(p *site.Page) bool { pages = append(pages, p.ID); return true })
	return pages[w.IntN(len(pages))]
}

// gapFor draws a place for a page: topics stand in topic lists, and nothing else does.
func (w *world) gapFor(page site.PageID) edit.Place {
	p := w.site.Page(page)
	if p != nil && (p.IsFile() || p.IsFolder()) && w.chance(2) && w.site.InTree(theFolder) && page != theFolder {
		return edit.Place{Parent: theFolder}
	}
	return w.gap(p != nil && p.IsTopic())
}

func (w *world) gap(ofTopic bool) edit.Place {
	place := edit.Place{Parent: w.plain()}
	if ofTopic {
		place.Parent = w.gathering(site.KindTopicList, site.KindTopic)
	}
	if kids := w.site.Children(place.Parent); len(kids) > 0 {
		place.Before = kids[w.IntN(len(kids))]
	}
	return place
}

// instant draws one of the world's edges, in its canonical form; "" in a world without any.
func (w *world) instant() string {
	if len(w.edges) == 0 {
		return ""
	}
	return pick(w, w.edges...).UTC().Format(time.RFC3339)
}

func (w *world) audience() string {
	return pick(w, "", "everyone", "signed-in", "staff", "masters|staff", "keepers")
}

// pageValue draws a value of a page's field.
func (w *world) pageValue(field edit.Field) string {
	switch field {
	case edit.FieldLabel:
		return pick(w, labels...)
	case edit.FieldTitle:
		return pick(w, "", "A long name", "Another name")
	case edit.FieldSummary:
		return pick(w, "", "In short.", "In other words.")
	case edit.FieldKind:
		return pick(w, "page", "notice", "poster")
	case edit.FieldText:
		return pick(w, "", "t1", "t2", "t3", "t4", "t5", "t6", "t7")
	case edit.FieldKeptOut:
		return pick(w, "no", "yes")
	case edit.FieldBytes:
		return testkit.Bytes(pick(w, "a", "b", "c")).String()
	case edit.FieldSegment:
		return pick(w, "typed", "fares", "old-1", "winter")
	case edit.FieldOwnAddress:
		return pick(w, "", "/fixed", "/fixed/deep", "/fares/winter")
	case edit.FieldShortAddresses:
		return pick(w, "", "/go", "/quick", "/go\n/quick", "/old-1")
	case edit.FieldStatus:
		return pick(w, "live", "live", "live", "offline")
	case edit.FieldLiveFrom:
		return pick(w, "", w.instant())
	case edit.FieldLiveUntil:
		return pick(w, "", w.instant())
	case edit.FieldAudience:
		return w.audience()
	case edit.FieldSort:
		return pick(w, "manual", "label", "newest", "date", "date-down")
	case edit.FieldPin:
		return pick(w, "", "start", "end")
	case edit.FieldDate:
		return pick(w, "", "2026-01-31", "2026-11-24", "2026-11-25", "2025-06-01")
	case edit.FieldLayout, edit.FieldBranchLayout:
		return pick(w, "", "standard", "wide")
	case edit.FieldLeadsTo:
		return pick(w, "", fmt.Sprint(w.page()))
	case edit.FieldDetails:
		return w.details()
	case edit.FieldListing:
		text := strings.TrimPrefix(w.question(), "listing:")
		if narrow := w.narrow(); narrow != "" {
			text += strings.Repeat(";", 6-strings.Count(text, ";")) + ";" + narrow
		}
		return pick(w, "", text, text)
	case edit.FieldTopics:
		return edit.TopicsText(w.topics()...)
	case edit.FieldOtherLabels, edit.FieldHiddenLabels:
		return pick(w, "", "Isle", "Isle\nIsland")
	case edit.FieldMergedInto:
		return pick(w, "", fmt.Sprint(w.gathering(site.KindTopic)))
	case edit.FieldOwner:
		return pick(w, "", "role:staff", "person:keeper")
	case edit.FieldReview:
		return pick(w, "", "12", "never")
	case edit.FieldNote:
		return pick(w, "", "Ask the pier office")
	case edit.FieldScopeNote:
		return pick(w, "", "Islands only")
	}
	return pick(w, "yes", "no")
}

// details draws values for some details, whatever type the page is of.
func (w *world) details() string {
	all := map[string]string{}
	offered := map[string][]string{
		"notice.depth": {
			"2",
			"3.5",
		}, "notice.pier": {"page:3", "page:5", "page:7"}, "notice.note": {richOne, richTwo},
		"notice.level": {"low", "high"}, "poster.hangs": {"2026-01-01/2026-11-24", "2026-11-25/"},
		"poster.by": {"clerk@harbour.example"}, "page.when": {"2026-12-24T12:00:00Z", "2026-12-25T12:00:00Z"},
		"page.see": {"page:3"},
	}
	for _, key := range slices.Sorted(maps.Keys(offered)) {
		if w.chance(2) {
			all[key] = pick(w, offered[key]...)
		}
	}
	return string(site.ValuesOf(all))
}

// kindValue draws a value of a field of a page type, detailValue one of a detail.
func (w *world) kindValue(field edit.Field) string {
	switch field {
	case edit.FieldName:
		return pick(w, "Word", "Bill")
	case edit.FieldDateName:
		return pick(w, "", "Date", "Valid from")
	case edit.FieldLayout:
		return pick(w, "", "standard", "wide")
	case edit.FieldDefaultPlace:
		return pick(w, "", fmt.Sprint(w.page()))
	case edit.FieldTopicLists:
		if list := w.gathering(site.KindTopicList); list != 0 {
			return pick(w, "", edit.TopicsText(list))
		}
		return ""
	}
	return pick(w, "yes", "no")
}

func (w *world) detailValue(field edit.Field) string {
	switch field {
	case edit.FieldLabel:
		return pick(w, "Depth", "Height", "Pier")
	case edit.FieldRank:
		return pick(w, "a00V", "a3V", "a6")
	case edit.FieldUnit:
		return pick(w, "", "m", "ft")
	case edit.FieldChoices:
		return pick(w, "", "low\nhigh", "low")
	case edit.FieldHelp:
		return pick(w, "", "As on the chart")
	case edit.FieldShown:
		return pick(w, "both", "page", "column", "editors")
	}
	return pick(w, "yes", "no")
}

// merging gives a topic that counts as another one once it is in the bin; 0 if there is none.
func (w *world) merging() (topic site.PageID) {
	w.site.Walk(w.site.Home(), func(p *site.Page) bool {
		if p.MergedInto != 0 {
			topic = p.ID
		}
		return topic == 0
	})
	return topic
}

// topicSpot names a topic in a condition, if there is one.
func (w *world) topicSpot() string {
	if topic := w.gathering(site.KindTopic); topic != 0 {
		return fmt.Sprintf("topic:%d", topic)
	}
	return ""
}

// listing draws a question.
func (w *world) listing() string {
	if len(w.site.Listers()) > 0 && w.chance(5) {
		like := pick(w, w.site.Listers()...)
		return fmt.Sprintf("listing:page:%d;;;;%d;%s;", like, w.IntN(4)+1, pick(w, "", "cards", "table"))
	}
	return w.question()
}

// question draws what a block or a page asks for itself.
func (w *world) question() string {
	within := ""
	if w.chance(3) {
		within = fmt.Sprintf("branch:%d", w.page())
	}
	kinds, by := pick(w, "", "", "notice", "notice|poster"), pick(w, site.ListSorts()...)
	if w.chance(4) {
		by = pick[site.ListSort](w, "notice.depth", "-notice.depth", "poster.hangs", "page.when")
	}
	text := fmt.Sprintf("listing:%s;%s;%s;%s;%d", kinds, pick(w, "", w.topicSpot()), within, by, w.IntN(4)+1)
	wants := pick(w, "", "", "", "date=today..", "date=..today", "date=today-1..today%2B1", "date=2026-01-01..",
		"notice.depth=3..", "notice.level=low", "poster.hangs=today..today", "page.when=today..")
	if looks := pick(w, "", "cards", "table"); looks != "" || wants != "" {
		text += ";" + looks + ";" + wants
	}
	return text
}

// narrow draws by what visitors narrow a list.
func (w *world) narrow() string {
	list := ""
	if id := w.gathering(site.KindTopicList); id != 0 {
		list = fmt.Sprintf("topic:%d", id)
	}
	return pick(w, "", "notice.level", list, strings.Trim("notice.level|"+list, "|"))
}

// topics draws none, one or two topics.
func (w *world) topics() []site.PageID {
	var some []site.PageID
	for range w.IntN(3) {
		if topic := w.gathering(site.KindTopic); topic != 0 && !slices.Contains(some, topic) {
			some = append(some, topic)
		}
	}
	slices.Sort(some)
	return some
}

// gathering draws a topic or topic list of the tree; 0 if there is none.
func (w *world) gathering(kinds ...string) site.PageID {
	var pages []site.PageID
	w.site.Walk(w.site.Home(), func(p *site.Page) bool {
		if slices.Contains(kinds, p.Kind) {
			pages = append(pages, p.ID)
		}
		return true
	})
	if len(pages) == 0 {
		return 0
	}
	return pick(w, pages...)
}

// plain draws a page of the tree that is of no sort of its own.
func (w *world) plain() site.PageID {
	for {
		page := w.page()
		if p := w.site.Page(page); !p.Gathers() && !p.IsFile() && !p.IsFolder() {
			return page
		}
	}
}

func (w *world) itemValue(field edit.Field) string {
	switch field {
	case edit.FieldShows:
		return pick(
			w,
			fmt.Sprintf("page:%d", w.page()),
			w.growth(),
			w.growth(),
			w.narrowed(),
			"web:https://weather.example/",
			"file:map.pdf",
			"heading",
			"account:sign-in",
			"account:details",
		)
	case edit.FieldLabel:
		return pick(w, "", "Other", "Fares")
	case edit.FieldHint:
		return pick(w, "", "Where", "Elsewhere")
	case edit.FieldAudience:
		return w.audience()
	case edit.FieldLiveFrom, edit.FieldLiveUntil:
		return pick(w, "", w.instant())
	case edit.FieldBadgeText:
		return pick(w, "", "New", "Full")
	case edit.FieldBadgePair:
		return pick(w, "", "calm", "#000000 on #ffffff")
	case edit.FieldIcon:
		return pick(w, "", "ship", "star")
	case edit.FieldLines:
		return w.lines()
	}
	return pick(w, "yes", "no")
}

// narrowed draws the list of a page as visitors can narrow it, if there is one.
func (w *world) narrowed() string {
	for range 20 {
		if len(w.site.Listers()) == 0 {
			break
		}
		id := pick(w, w.site.Listers()...)
		q, _ := listing.Of(w.site, id)
		everybody := func(site.PageID) bool { return true }
		for _, f := range listing.Filters(w.site, q, listing.Candidates(w.site, q), nil, everybody) {
			value := f.Values[w.IntN(len(f.Values))]
			return fmt.Sprintf("page:%d:%s", id, listing.Narrowing{f.Key: value.Value}.Query(1))
		}
	}
	return fmt.Sprintf("page:%d", w.page())
}

// narrowedBy draws a page whose list is narrowed by the topic list in which something stands; 0 if there is none.
func (w *world) narrowedBy(topics site.PageID) site.PageID {
	pages := listing.NarrowedBy(w.site, w.site.TopicList(topics).ID)
	if len(pages) == 0 {
		return 0
	}
	return pick(w, pages...)
}

// growth draws what an item shows that grows: from the tree, from topics with counts, or from what a page lists.
func (w *world) growth() string {
	root, more := w.page(), pick(w, "", "", ":by=label")
	if topics := w.gathering(site.KindTopicList, site.KindTopic); topics != 0 && w.chance(2) {
		root = topics
		more = pick(w, "", ":least=1", ":least=2", ":least=1:by=count") +
			pick(w, "", ":by=count:count", ":by=label", ":count")
		if of := w.narrowedBy(topics); of != 0 && w.chance(2) {
			return fmt.Sprintf("branch:%d:%d:not%s:of=%d", topics, w.IntN(3), more, of)
		}
	} else if listers := w.site.Listers(); len(listers) > 0 && w.chance(2) {
		root, more = pick(w, listers...), pick(w, ":hits=1", ":hits=2", ":hits=3")
	}
	return fmt.Sprintf("branch:%d:%d:%s%s", root, w.IntN(3), pick(w, "not", "above", "beside"), more)
}

// lines draws what is set of single lines that grow, those that some item grows among them.
func (w *world) lines() string {
	var set site.Values
	for range w.IntN(3) {
		page := w.page()
		if _, e := w.item(); e != nil && e.Target() != 0 {
			if kids := w.site.Children(e.Target()); len(kids) > 0 && w.chance(2) {
				page = pick(w, kids...)
			}
		}
		line := site.GrownLine{
			Pin: pick(
				w,
				"",
				site.GrownFirst,
				site.GrownLast,
			), Hidden: w.chance(4), Label: pick(w, "", "", "Elsewhere"),
		}
		set = set.With(site.LineKey(page), line.String())
	}
	return string(set)
}

func (w *world) blockValue(field edit.Field) string {
	switch field {
	case edit.FieldName:
		return pick(w, "Block A", "Block B", "Block C")
	case edit.FieldTitle:
		return pick(w, "", "Near here", "Block A")
	case edit.FieldHeading:
		return pick(w, "2", "3", "4")
	case edit.FieldPiece:
		return pick(
			w,
			"name",
			"account",
			"breadcrumb",
			"children",
			"search",
			"text:t1",
			"text:t2",
			"text:t4",
			"image:pier.jpg:The pier",
			"image:pier.jpg:A pier",
			"image:boat.jpg:The pier",
			fmt.Sprintf("image:%s:The chart", site.FileRef(thePicture)),
			fmt.Sprintf("image:%s:", site.FileRef(thePicture)),
			w.listing(),
			w.listing(),
			w.window(1),
			w.window(1),
			w.window(2),
			w.window(2),
			w.window(3),
		)
	}
	return pick(w, "yes", "no")
}

func (w *world) placeValue(field edit.Field) string {
	spots := func() string {
		return pick(
			w,
			"",
			fmt.Sprintf("branch:%d", w.page()),
			fmt.Sprintf("page:%d", w.page()),
			"pattern:/*",
			"pattern:/**/fares",
			fmt.Sprintf("page:%d|pattern:/fixed/**", w.page()),
			w.topicSpot(),
		)
	}
	switch field {
	case edit.FieldWhere, edit.FieldExcept:
		return spots()
	case edit.FieldKinds, edit.FieldNotKinds:
		return pick(w, "", "page", "notice", "notice|poster")
	case edit.FieldLayout:
		return pick(w, "", "standard", "wide")
	case edit.FieldAudience:
		return w.audience()
	case edit.FieldLiveFrom, edit.FieldLiveUntil:
		return pick(w, "", w.instant())
	case edit.FieldSet:
		number := ""
		if sets := w.site.ConditionSets(); len(sets) > 0 {
			number = fmt.Sprint(pick(w, sets...).ID)
		}
		return pick(w, "", number)
	}
	return pick(w, "yes", "no")
}

func (w *world) settingValue(field edit.Field) string {
	switch field {
	case edit.FieldRobots:
		return pick(w, "", "User-agent: *\nDisallow: /nets", "User-agent: *\nDisallow: /")
	case edit.FieldSearchPage,
		edit.FieldNotFoundPage,
		edit.FieldNoAccessPage,
		edit.FieldSignInPage,
		edit.FieldClosedPage:
		return pick(w, "", fmt.Sprint(w.page()))
	case edit.FieldLayout:
		return pick(w, "", "standard", "wide")
	case edit.FieldBinDays, edit.FieldReadyDays, edit.FieldMostBeside, edit.FieldMostLevels:
		return pick(w, "30", "60")
	case edit.FieldSiteName:
		return pick(w, "Harbour", "Port", "Quay")
	case edit.FieldLanguage:
		return pick(w, "en", "sv", "da")
	case edit.FieldZone:
		return pick(w, "UTC", "Europe/Oslo", "Europe/London")
	case edit.FieldDates:
		return pick(w, "day-month", "year-month")
	}
	return pick(w, "yes", "no")
}

func (w *world) slot() edit.Slot {
	slot := edit.Slot{Region: pick(w, "header", "side", "side", "footer")}
	if ids := region.In(w.site, slot.Region); len(ids) > 0 {
		slot.After = pick(w, append(ids, 0)...)
	}
	return slot
}

func (w *world) menu() *site.Menu { return &w.site.Menus()[w.IntN(len(w.site.Menus()))] }

func (w *world) item() (*site.Menu, *site.Entry) {
	for range 20 {
		if m := w.menu(); len(m.Entries) > 0 {
			return m, &m.Entries[w.IntN(len(m.Entries))]
		}
	}
	return nil, nil
}

func (w *world) itemGap() edit.Gap {
	m := w.menu()
	gap := edit.Gap{Menu: m.ID}
	if len(m.Entries) > 0 {
		e := m.Entries[w.IntN(len(m.Entries))]
		if w.chance(2) {
			if gap.Parent = e.ID; e.IsGenerated() {
				gap.Under = pick(w, append(w.site.Children(e.Target()), e.Target(), w.page())...)
			}
		} else {
			gap.Parent, gap.Under, gap.Before = e.Parent, e.Under, e.ID
		}
	}
	return gap
}

// set draws a value other than the one that stands, if there is one.
func set(field edit.Field, old string, draw func(edit.Field) string) []edit.FieldChange {
	value := draw(field)
	for range 20 {
		if value != old {
			break
		}
		value = draw(field)
	}
	return []edit.FieldChange{{Field: field, Old: old, New: value}}
}

// A sort is an operation, and where it edits fields the field.
type sort struct {
	op    string
	field edit.Field
}

// sorts are all of them, drawn from the families themselves.
func sorts() []sort {
	all := []sort{
		{"make", ""},
		{"move", ""},
		{"order", ""},
		{"bin", ""},
		{"restore", ""},
		{"put item", ""},
		{"take item", ""},
		{"move item", ""},
		{"make kind", ""},
		{"take kind", ""},
		{"make detail", ""},
		{"take detail", ""},
		{"make set", ""},
		{"take set", ""},
		{"make menu", ""},
		{"take menu", ""},
		{"make block", ""},
		{"take block", ""},
		{"put place", ""},
		{"take place", ""},
		{"move place", ""},
	}
	for family, fields := range edit.Fields() {
		if family == "role" { // what edits of roles do is held apart: they change who asks, not what is answered
			continue
		}
		for _, field := range fields {
			if field != edit.FieldType { // which is said once, as a detail is made
				all = append(all, sort{family, field})
			}
		}
	}
	slices.SortFunc(all, func(a, b sort) int {
		return slices.Compare([]string{a.op, string(a.field)}, []string{b.op, string(b.field)})
	})
	return all
}

// draw makes an operation of a sort; it may be refused.
func (w *world) draw(of sort) edit.Op {
	w.next++
	switch of.op {
	case "page":
		page := w.page()
		if of.field == edit.FieldLeadsTo {
			binned := w.site.Binned()
			if len(binned) == 0 {
				return nil
			}
			page = pick(w, binned...)
		} else if edit.FixedOnHome(of.field) {
			for range 20 {
				if page != w.site.Home() {
					break
				}
				page = w.page()
			}
		}
		switch of.field {
		case edit.FieldTopics, edit.FieldKind, edit.FieldText, edit.FieldListing, edit.FieldOwnAddress:
			page = w.plain()
		case edit.FieldBytes:
			if page = pick[site.PageID](w, thePicture, thePaper); !w.site.InTree(page) {
				return nil
			}
		case edit.FieldOtherLabels, edit.FieldHiddenLabels, edit.FieldScopeNote, edit.FieldMergedInto:
			if page = w.gathering(site.KindTopic); page == 0 {
				return nil
			}
		}
		return edit.OpEdit{Page: page, Fields: set(of.field, edit.Value(w.site.Page(page), of.field), w.pageValue)}
	case "make":
		fields := []edit.FieldChange{
			{Field: edit.FieldLabel, New: pick(w, labels...)},
			{Field: edit.FieldStatus, New: pick(w, "live", "live", "offline")},
		}
		if w.chance(3) {
			fields = append(fields, edit.FieldChange{Field: edit.FieldAudience, New: w.audience()})
		}
		topic := w.chance(4) && w.gathering(site.KindTopicList, site.KindTopic) != 0
		if topic {
			fields = append(fields, edit.FieldChange{Field: edit.FieldKind, New: site.KindTopic})
		} else if w.chance(4) {
			fields = append(fields, edit.FieldChange{Field: edit.FieldTopics, New: edit.TopicsText(w.topics()...)})
		}
		return edit.OpMake{Page: site.PageID(w.next), Place: w.gap(topic), Fields: fields}
	case "move":
		page := w.page()
		return edit.OpMove{Page: page, From: edit.Place{Parent: w.site.Page(page).Parent}, To: w.gapFor(page)}
	case "order":
		page := w.page()
		kids := slices.Clone(w.site.Children(page))
		w.Shuffle(len(kids), func(i, k int) { kids[i], kids[k] = kids[k], kids[i] })
		return edit.OpOrder{Page: page, Children: kids}
	case "bin":
		return edit.OpBin{Page: pick(w, w.page(), max(w.merging(), w.page()))}
	case "restore":
		if len(w.site.Binned()) == 0 {
			return nil
		}
		return edit.OpRestore{Page: pick(w, w.site.Binned()...)}
	}
	return w.drawMenu(of)
}

func (w *world) drawMenu(of sort) edit.Op {
	m, e := w.item()
	switch of.op {
	case "put item":
		fields := map[edit.Field]string{
			edit.FieldShows: w.itemValue(edit.FieldShows),
			edit.FieldLabel: pick(w, "Put", "Fares"),
		}
		if w.chance(3) {
			fields[edit.FieldLiveFrom] = w.instant()
		}
		return edit.OpPutEntries{
			Gap:     w.itemGap(),
			Entries: []edit.EntryForm{{ID: site.EntryID(w.next), Fields: fields}},
		}
	case "take item":
		if e == nil {
			return nil
		}
		return edit.OpTakeEntry{Entry: e.ID}
	case "move item":
		if e == nil {
			return nil
		}
		return edit.OpMoveEntry{Entry: e.ID, To: w.itemGap()}
	case "item":
		if e == nil {
			return nil
		}
		for range 5 {
			if _, grown := e.Shows.(site.ItemBranch); grown || of.field != edit.FieldLines {
				break
			}
			m, e = w.item()
		}
		return edit.OpEditEntry{
			Menu:   m.ID,
			Entry:  e.ID,
			Fields: set(of.field, edit.EntryValue(e, of.field), w.itemValue),
		}
	case "make menu":
		return edit.OpMakeMenu{Menu: site.MenuID(w.next), Name: pick(w, "Spring", "Autumn"), Programs: w.chance(2)}
	case "take menu":
		return edit.OpTakeMenu{Was: edit.OpMakeMenu{Menu: pick(w, w.menu().ID, 3, 3, 3)}}
	case "menu":
		m := w.menu()
		value := m.Name
		if of.field == edit.FieldPrograms {
			value = map[bool]string{true: "yes", false: "no"}[m.Programs]
		}
		return edit.OpEditMenu{Menu: m.ID, Fields: set(of.field, value, func(edit.Field) string {
			if of.field == edit.FieldPrograms {
				return pick(w, "yes", "no")
			}
			return pick(w, "Spring", "Autumn")
		})}
	case "settings":
		s := w.site.Settings()
		return edit.OpEditSettings{Fields: set(of.field, edit.SettingValue(s, of.field), w.settingValue)}
	case "kind":
		k := pick(w, w.site.Kinds()...)
		return edit.OpEditKind{Kind: k.Key, Fields: set(of.field, edit.KindValue(&k, of.field), w.kindValue)}
	case "make kind":
		return edit.OpMakeKind{
			Kind:   fmt.Sprint("kind-", w.next),
			Fields: map[edit.Field]string{edit.FieldName: "Made"},
		}
	case "take kind":
		return edit.OpTakeKind{Was: edit.OpMakeKind{Kind: pick(w, "poster", "leaflet", "leaflet", "leaflet")}}
	case "make detail", "take detail", "detail":
		return w.drawDetail(of)
	case "make set", "take set", "set":
		return w.drawSet(of)
	}
	return w.drawBlock(of)
}

// drawSet draws an operation on a condition set, mostly one that places have.
func (w *world) drawSet(of sort) edit.Op {
	if of.op == "make set" {
		return edit.OpMakeSet{Set: site.SetID(w.next), Fields: map[edit.Field]string{
			edit.FieldName: "Made", edit.FieldWhere: w.placeValue(edit.FieldWhere),
		}}
	}
	used := func(set site.ConditionSet) bool { return len(w.site.PlacementsWith(set.ID)) > 0 }
	sets := w.site.ConditionSets()
	for i := range sets {
		if used(sets[i]) == (of.op == "take set") {
			continue
		}
		if of.op == "take set" {
			return edit.OpTakeSet{Was: edit.OpMakeSet{Set: sets[i].ID}}
		}
		value := w.placeValue
		if of.field == edit.FieldName {
			value = func(edit.Field) string { return pick(w, "Piers", "Boats", "Isles") }
		}
		return edit.OpEditSet{Set: sets[i].ID, Fields: set(of.field, edit.SetValue(&sets[i], of.field), value)}
	}
	return nil
}

func (w *world) drawDetail(of sort) edit.Op {
	if of.op == "make detail" { // one that was taken away, or a new one
		for _, d := range details() {
			if w.site.Detail(d.Key) == nil {
				return edit.OpMakeDetail{Detail: d.Key, Fields: map[edit.Field]string{
					edit.FieldLabel: d.Label, edit.FieldType: string(d.Type),
				}}
			}
		}
		return edit.OpMakeDetail{Detail: fmt.Sprintf("notice.made-%d", w.next), Fields: map[edit.Field]string{
			edit.FieldLabel: "Made", edit.FieldType: pick(w, "line", "number"),
		}}
	}
	if len(w.site.AllDetails()) == 0 {
		return nil
	}
	d := pick(w, w.site.AllDetails()...)
	if of.op == "take detail" {
		return edit.OpTakeDetail{Was: edit.OpMakeDetail{Detail: d.Key}}
	}
	return edit.OpEditDetail{Detail: d.Key, Fields: set(of.field, edit.DetailValue(&d, of.field), w.detailValue)}
}

func (w *world) drawBlock(of sort) edit.Op {
	b := &w.site.Blocks()[w.IntN(len(w.site.Blocks()))]
	switch of.op {
	case "make block":
		return edit.OpMakeBlock{
			Block: site.BlockID(w.next),
			Fields: map[edit.Field]string{
				edit.FieldName:  w.blockValue(edit.FieldName),
				edit.FieldPiece: w.blockValue(edit.FieldPiece),
			},
		}
	case "take block":
		for _, b := range w.site.Blocks() {
			if len(w.site.PlacementsOf(b.ID)) == 0 {
				return edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: b.ID}}
			}
		}
		return nil
	case "block":
		return edit.OpEditBlock{Block: b.ID, Fields: set(of.field, edit.BlockValue(b, of.field), w.blockValue)}
	case "put place":
		return w.put(b.ID)
	}
	if len(w.site.Placements()) == 0 {
		return nil
	}
	p := &w.site.Placements()[w.IntN(len(w.site.Placements()))]
	ofSet := slices.Contains([]edit.Field{
		edit.FieldWhere, edit.FieldExcept, edit.FieldKinds, edit.FieldNotKinds,
	}, of.field)
	for range 20 {
		if !ofSet || p.Set == 0 { // what a set says of a place is not edited there
			break
		}
		p = &w.site.Placements()[w.IntN(len(w.site.Placements()))]
	}
	switch of.op {
	case "take place":
		return edit.OpTakePlacement{Placement: p.ID}
	case "move place":
		return edit.OpMovePlacement{Placement: p.ID, From: edit.Slot{Region: p.Region}, To: w.slot()}
	}
	return edit.OpEditPlacement{
		Placement: p.ID,
		Fields:    set(of.field, edit.PlacementValue(p, of.field), w.placeValue),
	}
}
