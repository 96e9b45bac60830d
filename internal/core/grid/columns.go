package grid

import (
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/care"
	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// ofPages has the columns of what every page has, in the order in which they are offered.
func (t *Table) ofPages(people []Option) []Column {
	s := t.site
	return []Column{
		t.words(edit.FieldLabel, "Label"),
		t.words(edit.FieldTitle, "Title"),
		t.words(edit.FieldSummary, "Summary"),
		t.segment(),
		t.choice(edit.FieldKind, "Page type", kinds(s)),
		t.moment(edit.FieldLiveFrom, "Online from", false),
		t.moment(edit.FieldLiveUntil, "Online until", true),
		t.day(),
		t.topicsColumn(),
		t.choice(edit.FieldOwner, "Looked after by", append(owners(s), people...)),
		t.choice(edit.FieldReview, "Reviewed", reviews()),
		t.words(edit.FieldNote, "Note for colleagues"),
		t.audience(),
		t.choice(edit.FieldStatus, "Online", options("live", "live", "offline", "offline")),
		t.choice(edit.FieldListed, "In menus", options("yes", "listed", "no", "not listed")),
		t.choice(edit.FieldPin, "Stays", options("", "where it stands", "start", "first", "end", "last")),
		t.choice(edit.FieldLayout, "Layout", layouts(s, "as above")),
		t.choice(edit.FieldBranchLayout, "Layout with all below", layouts(s, "none set here")),
		t.position(),
	}
}

// column is one of a field whose cells are its values as they stand.
func (t *Table) column(field edit.Field, name string) Column {
	return Column{
		Key: string(field), Name: name,
		write: func(p *site.Page) string { return edit.Value(p, field) },
		read: func(_ *site.Page, text string) (string, error) {
			return text, edit.CheckField(t.site, field, text)
		},
	}
}

// words is a column of words on one line.
func (t *Table) words(field edit.Field, name string) Column {
	c := t.column(field, name)
	c.read = func(_ *site.Page, text string) (string, error) {
		line, err := typed.Line(text, name, edit.SummaryLimit)
		if err == nil {
			err = edit.CheckField(t.site, field, line)
		}
		return line, err
	}
	return c
}

// segment is the last part of the address; an empty cell leaves it to the label.
func (t *Table) segment() Column {
	c := t.column(edit.FieldSegment, "Last part of the address")
	c.write = func(p *site.Page) string { return p.Segment }
	c.read = func(p *site.Page, text string) (string, error) {
		text = strings.Trim(strings.TrimSpace(text), "/")
		if p.SegmentFollows && text == p.Segment {
			return edit.Value(p, edit.FieldSegment), nil
		}
		return text, edit.CheckField(t.site, edit.FieldSegment, text)
	}
	return c
}

// choice is a column of one of a few values. What a page has besides them can stay.
func (t *Table) choice(field edit.Field, name string, of []Option) Column {
	c := t.column(field, name)
	c.Options = of
	c.write = func(p *site.Page) string { return wordsOf(of, edit.Value(p, field)) }
	c.read = func(p *site.Page, text string) (string, error) {
		if stands := edit.Value(p, field); fold(text) == fold(wordsOf(of, stands)) {
			return stands, nil
		}
		return valueOf(of, text)
	}
	return c
}

// moment is a column of moments, as people of the site type them; an end without a time is the end of its day.
func (t *Table) moment(field edit.Field, name string, end bool) Column {
	c := t.column(field, name)
	stands := func(p *site.Page) time.Time {
		if end {
			return p.LiveUntil
		}
		return p.LiveFrom
	}
	c.write = func(p *site.Page) string { return t.calendar.Write(stands(p)) }
	c.read = func(p *site.Page, text string) (string, error) {
		if text == c.write(p) { // to the second, which is not written
			return typed.Moment(stands(p)), nil
		}
		at, err := t.calendar.Read(text, end)
		return typed.Moment(at), err
	}
	return c
}

// day is the column of the date that a page's type asks for.
func (t *Table) day() Column {
	c := t.column(edit.FieldDate, "Date")
	c.write = func(p *site.Page) string { return t.calendar.WriteDay(p.Date) }
	c.read = func(_ *site.Page, text string) (string, error) { return t.calendar.ReadDay(text) }
	return c
}

// audience is who sees a page: one of the choices, or several roles.
func (t *Table) audience() Column {
	c := t.column(edit.FieldAudience, "Who sees it")
	c.Options, c.Several = audiences(t.site), true
	c.write = func(p *site.Page) string {
		var said []string
		for _, key := range p.Audience.Roles() {
			said = append(said, t.site.RoleName(key))
		}
		if said == nil {
			return wordsOf(c.Options, string(p.Audience))
		}
		return strings.Join(said, apart)
	}
	c.read = func(p *site.Page, text string) (string, error) {
		if fold(text) == fold(c.write(p)) {
			return string(p.Audience), nil
		}
		values, err := several(c.Options, text)
		if err != nil {
			return "", err
		}
		for _, value := range values {
			if len(values) > 1 && t.site.Role(value) == nil {
				const alone = "Only roles can stand side by side; “%s” holds for itself."
				return "", typed.Refuse(alone, wordsOf(c.Options, value))
			}
		}
		read, err := edit.ParseAudience(t.site, strings.Join(values, "|"))
		return string(read), err
	}
	return c
}

// ofDetails has a column for each detail of the site's page types whose value can be typed on one line or a few.
func (t *Table) ofDetails() (all []Column) {
	for _, d := range t.site.AllDetails() {
		if d.Type == site.DetailRich || d.Type == site.DetailPicture {
			continue
		}
		all = append(all, t.detail(d))
	}
	return all
}

func (t *Table) detail(d site.Detail) Column {
	c := Column{
		Key: d.Key, Name: d.Label, Kind: d.Kind(), Lines: d.Type == site.DetailText,
		write: func(p *site.Page) string { return t.writeDetail(d, p.Values.Get(d.Key)) },
	}
	switch d.Type {
	case site.DetailYes:
		c.Options = options("", "", "yes", "yes", "no", "no")
	case site.DetailChoice, site.DetailChoices:
		c.Options, c.Several = options("", ""), d.Type == site.DetailChoices
		for _, choice := range d.ChoiceList() {
			c.Options = append(c.Options, Option{choice, choice})
		}
	}
	c.read = func(p *site.Page, text string) (string, error) {
		if text == c.write(p) {
			return p.Values.Get(d.Key), nil
		}
		canonical, err := t.readDetail(&c, d, strings.TrimSpace(text))
		if err != nil {
			return "", err
		}
		return detail.Read(t.site, d, canonical)
	}
	return c
}

// writeDetail writes a value as it is typed: days in the site's order, choices side by side, pages by their address.
func (t *Table) writeDetail(d site.Detail, value string) string {
	if value == "" {
		return ""
	}
	switch d.Type {
	case site.DetailDate:
		return t.calendar.WriteDay(value)
	case site.DetailMoment:
		at, _ := typed.ParseMoment(value)
		return t.calendar.Write(at)
	case site.DetailDates:
		from, until, _ := strings.Cut(value, "/")
		return strings.TrimSpace(t.calendar.WriteDay(from) + " – " + t.calendar.WriteDay(until))
	case site.DetailChoices:
		return strings.ReplaceAll(value, "\n", apart)
	case site.DetailPage:
		id, _ := strconv.ParseInt(strings.TrimPrefix(value, "page:"), 10, 64)
		if t.site.InTree(site.PageID(id)) {
			return address.Of(t.site, site.PageID(id))
		}
	}
	return value
}

// readDetail takes what was typed into what detail.Read reads.
func (t *Table) readDetail(c *Column, d site.Detail, text string) (string, error) {
	switch d.Type {
	case site.DetailDate:
		return t.calendar.ReadDay(text)
	case site.DetailMoment:
		at, err := t.calendar.Read(text, false)
		return typed.Moment(at), err
	case site.DetailDates:
		return t.calendar.ReadDays(text)
	case site.DetailYes, site.DetailChoice:
		return valueOf(c.Options, text)
	case site.DetailChoices:
		values, err := several(c.Options, text)
		return strings.Join(values, "\n"), err
	case site.DetailPage:
		return t.pageAt(text)
	}
	return text, nil
}

// pageAt reads a page by its address.
func (t *Table) pageAt(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	path, err := address.Normal("/" + strings.Trim(text, "/"))
	found := address.Resolve(t.site, path, t.now)
	if err != nil || found.Page == 0 || found.Gone {
		return "", typed.Refuse("There is no page at “%s”; type the address of one, as in /contact.", text)
	}
	return "page:" + strconv.FormatInt(int64(found.Page), 10), nil
}

func owners(s *site.Site) []Option {
	all := options("", "as above")
	for _, r := range s.Roles() {
		all = append(all, Option{string(site.RoleOwner(r.Key)), r.Name})
	}
	return all
}

func reviews() (all []Option) {
	for _, every := range site.Reviews() {
		all = append(all, Option{string(every), care.EveryWords(every)})
	}
	return all
}

func kinds(s *site.Site) (all []Option) {
	for _, k := range s.Kinds() {
		if !site.IsOwnKind(k.Key) {
			all = append(all, Option{k.Key, k.Name})
		}
	}
	return all
}

func layouts(s *site.Site, none string) []Option {
	all := options("", none)
	for _, l := range s.Theme().Layouts {
		all = append(all, Option{l.Key, l.Name})
	}
	return all
}

func audiences(s *site.Site) []Option {
	all := options("", "as the page above")
	for _, a := range []site.Audience{site.AudienceEveryone, site.AudienceSignedIn, site.AudienceEditors} {
		all = append(all, Option{string(a), s.AudienceWords(a)})
	}
	for _, r := range s.Roles() {
		all = append(all, Option{r.Key, r.Name})
	}
	return all
}
