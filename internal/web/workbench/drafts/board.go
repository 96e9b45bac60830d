package drafts

import (
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// A card is a draft on the board: whose, how many edits, what will change in a line, when.
type card struct {
	store.DraftLine
	Here    bool   // it is the one at hand
	Last    string // when it was edited last, and by whom
	Changes string // the first consequence, and how many there are
	When    string // the moment at which it is published
}

// cardLimit is how many drafts say what they change; those beyond it say it when they are opened.
const cardLimit = 12

func (s *Area) cards(r *http.Request, d *desk.Desk) ([]card, error) {
	lines, err := s.Store.DraftsOf(r.Context(), d.Who.ID)
	if err != nil {
		return nil, err
	}
	cards := make([]card, len(lines))
	for i, line := range lines {
		cards[i] = card{DraftLine: line, Here: line.ID == d.Draft.ID}
		if line.Planned.Valid {
			cards[i].When = desk.LongMoment(d.Site, line.Planned.Time)
		}
		if line.Edits == 0 || i >= cardLimit {
			continue
		}
		if err := s.fillCard(r, d, &cards[i]); err != nil {
			return nil, err
		}
	}
	return cards, nil
}

// fillCard reads the draft itself. What is concealed from the person is not told.
func (s *Area) fillCard(r *http.Request, d *desk.Desk, c *card) error {
	draft, err := s.Store.Draft(r.Context(), c.ID)
	if err != nil || len(draft.Steps) == 0 {
		return err
	}
	last := draft.Steps[len(draft.Steps)-1]
	c.Last = desk.Day(d.Site, last.At)
	if last.By != d.Who.ID {
		c.Last += ", " + last.ByName
	}
	if draft.As(d.Veil()) != draft {
		c.Changes = "Some of it is told to who may order pages only."
		return nil
	}
	sentences, err := s.Store.Consequences(r.Context(), draft)
	if err != nil || len(sentences) == 0 {
		return err
	}
	c.Changes = sentences[0].Text
	if more := len(sentences) - 1; more > 0 {
		c.Changes += " And " + count.Number(more) + " more."
	}
	return nil
}

// A tick is a moment to come on the time line: a draft that is published then, or pages that come and go by
// themselves.
type tick struct {
	When, What string
	Draft      bool
	at         time.Time
}

// timeLine puts the planned drafts among the next edges, in order.
func (s *Area) timeLine(d *desk.Desk, cards []card) []tick {
	var ticks []tick
	for _, c := range cards {
		if c.Planned.Valid {
			ticks = append(ticks, tick{c.When, "“" + c.Name + "” is published", true, c.Planned.Time})
		}
	}
	for _, edge := range s.Strip(d) {
		ticks = append(ticks, tick{desk.LongMoment(d.Site, edge.Moment), edge.What, false, edge.Moment})
	}
	slices.SortStableFunc(ticks, func(a, b tick) int { return a.at.Compare(b.at) })
	return ticks
}

// asked is what of the history is asked for, as it was typed.
type asked struct {
	Who, Words, Day, About string
	Thing                  string // what About was understood as; "" for nothing
	Fault                  string
	Publishers             []string
	Any                    bool
}

// history fills in the publications that are asked for.
func (s *Area) history(r *http.Request, view *draftsView) error {
	d := view.Desk
	q := asked{
		Who: r.FormValue(
			"who",
		), Words: strings.TrimSpace(r.FormValue("said")), Day: strings.TrimSpace(r.FormValue("day")),
		About: strings.TrimSpace(r.FormValue("about")),
	}
	search := store.Search{
		Limit:  historyPage,
		By:     q.Who,
		Words:  q.Words,
		Before: desk.Number[int64](r.FormValue("before")),
	}
	if q.Day != "" {
		from, err := d.Calendar().ReadDay(q.Day)
		if err != nil {
			q.Fault = err.Error()
		} else if day, err := time.ParseInLocation(time.DateOnly, from, d.Site.Settings().Zone); err == nil {
			search.From, search.Until = day, day.AddDate(0, 0, 1)
		}
	}
	if q.About != "" {
		if q.Thing = s.thing(d, q.About, &search); q.Thing == "" {
			q.Fault = "No page, menu or block is called “" + q.About + "”."
			search.Limit = 0
		}
	}
	q.Any = q.Who+q.Words+q.Day+q.About != ""
	var err error
	if q.Publishers, err = s.Store.Publishers(r.Context()); err != nil {
		return err
	}
	view.Asked = q
	found, err := s.Store.History(r.Context(), search)
	if err != nil {
		return err
	}
	for _, p := range found {
		if d.Veiled { // its words may name pages of which the person may not know
			p.Said, p.Sentences = []string{"what was changed is told to who may order pages"}, nil
			p.Reason = ""
		}
		line := historyLine{Publication: p, When: desk.LongMoment(d.Site, p.At)}
		if !p.Planned.IsZero() {
			line.Planned = desk.LongMoment(d.Site, p.Planned)
		}
		view.History = append(view.History, line)
	}
	if n := len(found); n == historyPage {
		view.More = found[n-1].Revision
	}
	return nil
}

// thing finds what the history is asked about: a page by label or address, else a menu or a block by its name.
func (s *Area) thing(d *desk.Desk, typed string, search *store.Search) string {
	words, _ := s.OwnPath(typed)
	same := func(name string) bool { return strings.EqualFold(strings.TrimSpace(name), typed) }
	for i := range d.Site.Menus() {
		if m := &d.Site.Menus()[i]; same(m.Name) {
			search.Menu = m.ID
			return "the menu “" + m.Name + "”"
		}
	}
	for i := range d.Site.Blocks() {
		if b := &d.Site.Blocks()[i]; same(b.Name) {
			search.Block = b.ID
			for _, p := range d.Site.PlacementsOf(b.ID) {
				search.Places = append(search.Places, p.ID)
			}
			return "the block “" + b.Name + "”"
		}
	}
	if hits := d.PagesFor(words, s.Now()); len(hits) > 0 {
		search.Page = site.PageID(hits[0].ID)
		return "the page “" + hits[0].Label + "”, " + hits[0].Address
	}
	return ""
}

// Older leads to the publications before those that are shown, asked for in the same way.
func (v draftsView) Older() string {
	q := url.Values{"draft": {strconv.FormatInt(v.Draft.ID, 10)}, "before": {strconv.FormatInt(v.More, 10)}}
	for name, typed := range map[string]string{
		"said": v.Asked.Words, "about": v.Asked.About, "who": v.Asked.Who, "day": v.Asked.Day,
	} {
		if typed != "" {
			q.Set(name, typed)
		}
	}
	return "/drafts?" + q.Encode()
}
