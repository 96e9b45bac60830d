package table

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/grid"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// usual are the columns of a table of which nobody has chosen others.
var usual = []string{
	string(edit.FieldLabel), string(edit.FieldTitle), string(edit.FieldSummary), string(edit.FieldKind),
	string(edit.FieldAudience), string(edit.FieldOwner),
}

// A view is a table of pages.
type view struct {
	desk.Screen
	Of      string // what the pages are
	Columns []*grid.Column
	Groups  []group // of all columns, to choose from
	Rows    []row
	Count   int // of all pages that were asked for
	First   int // of the rows among them, counted from 1
	Before  string
	After   string // addresses of the rows before and after; "" where there are none
	Topics  []string
	Locked  bool
}

// A group is the columns of one page type, or those of every page.
type group struct {
	Name    string
	Columns []choice
}

type choice struct {
	*grid.Column
	On bool
}

// A row is a page.
type row struct {
	ID    site.PageID
	Index int // among all that were asked for, the line of heads counted
	Label string
	Where string
	Link  string
	Cells []cell
}

// A cell is what stands in one place; Closed says why nobody types there.
type cell struct {
	Text   string
	Closed string
}

func (s *Area) show(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	screen, err := s.Screen(r, d, "table")
	if err != nil {
		return err
	}
	of, err := s.tableOf(r, d)
	if err != nil {
		return err
	}
	v := view{Screen: screen, Locked: d.State == "now"}
	d.Stays = map[string]string{"pages": r.FormValue("pages"), "cols": r.FormValue("cols")}
	v.choose(of, strings.FieldsFunc(r.FormValue("cols"), func(c rune) bool { return c == ',' }))
	pages := v.pages(d, r)
	v.cut(pages, int(desk.Number[int64](r.FormValue("from"))))
	reads, may := d.Reader(), d.Holder()
	for i, p := range pages[v.First-1 : min(v.First-1+grid.RowLimit, len(pages))] {
		made := v.row(of, p, reads(p.ID), may.On(p.ID))
		made.Index = v.First + i + 1
		v.Rows = append(v.Rows, made)
	}
	if slices.ContainsFunc(v.Columns, func(c *grid.Column) bool { return c.Key == string(edit.FieldTopics) }) {
		v.Topics = of.TopicNames()
	}
	name := "table"
	if r.Header.Get("X-Part") != "" {
		name = "table-parts"
	}
	s.Render(w, r, name, &v)
	return nil
}

// tableOf gives the table of what the desk looks at.
func (s *Area) tableOf(r *http.Request, d *desk.Desk) (*grid.Table, error) {
	carers, err := s.Carers(r.Context(), d)
	if err != nil {
		return nil, err
	}
	people := make([]grid.Option, len(carers))
	for i, hit := range carers {
		people[i] = grid.Option{Value: hit.Key, Words: hit.Label}
	}
	return grid.Of(d.Site, d.Now, people), r.ParseForm()
}

// choose takes the columns that were asked for, in the order in which they are offered.
func (v *view) choose(of *grid.Table, keys []string) {
	if len(keys) == 0 {
		keys = usual
	}
	var names []string
	byName := map[string][]choice{}
	for i := range of.Columns {
		c := &of.Columns[i]
		on := slices.Contains(keys, c.Key)
		if on {
			v.Columns = append(v.Columns, c)
		}
		name := "Every page"
		if c.Kind != "" {
			name = v.Site.Kind(c.Kind).Name
		}
		if byName[name] == nil {
			names = append(names, name)
		}
		byName[name] = append(byName[name], choice{c, on})
	}
	for _, name := range names {
		v.Groups = append(v.Groups, group{name, byName[name]})
	}
}

// pages gives those that were selected, or answer the question, or else the branch of the selected page.
func (v *view) pages(d *desk.Desk, r *http.Request) (pages []*site.Page) {
	chosen := desk.ReadIDs(r.FormValue("pages"))
	switch {
	case len(chosen) > 0:
		v.Of = "What you selected"
		chosen = slices.DeleteFunc(chosen, func(id site.PageID) bool { return !d.Site.InTree(id) })
		d.Site.SortByTree(chosen)
	case !d.Filter.Empty():
		v.Of, chosen = v.asked(d), ask.Find(d.Site, d.Filter, d.Lens)
	default:
		v.Of = "“" + desk.Short(d.Site.Page(d.Selected).Label) + "” and all below"
		d.Site.Walk(d.Selected, func(p *site.Page) bool { pages = append(pages, p); return true })
	}
	for _, id := range chosen {
		pages = append(pages, d.Site.Page(id))
	}
	return pages
}

// asked says what was asked for.
func (v *view) asked(d *desk.Desk) string {
	var words []string
	for _, q := range ask.Questions(d.Site) {
		if q.Key == d.Filter.Question {
			words = append(words, q.Words)
		}
	}
	if d.Filter.Words != "" {
		words = append(words, "“"+d.Filter.Words+"”")
	}
	if topic := d.Site.Page(d.Filter.Topic); topic != nil {
		words = append(words, "about “"+desk.Short(topic.Label)+"”")
	}
	if within := d.Site.Page(d.Filter.Within); within != nil {
		words = append(words, "in “"+desk.Short(within.Label)+"”")
	}
	return strings.Join(words, ", ")
}

// cut says which of the pages are shown, with ways to the others.
func (v *view) cut(pages []*site.Page, from int) {
	v.Count = len(pages)
	v.First = max(1, min(from, v.Count))
	if v.First > 1 {
		v.Before = v.Here("from", strconv.Itoa(max(1, v.First-grid.RowLimit)))
	}
	if next := v.First + grid.RowLimit; next <= v.Count {
		v.After = v.Here("from", strconv.Itoa(next))
	}
}

// Lines is how many lines the whole table has, the one of heads among them.
func (v *view) Lines() int { return v.Count + 1 }

// Span says which of the pages are shown.
func (v *view) Span() string {
	if v.Before+v.After == "" {
		return count.Pages(v.Count)
	}
	return count.Number(v.First) + " to " + count.Number(v.First+len(v.Rows)-1) + " of " + count.Pages(v.Count)
}

func (v *view) row(of *grid.Table, p *site.Page, reads bool, may grant.Rights) row {
	made := row{
		ID: p.ID, Label: p.Label, Link: v.Link("/tree", "page", strconv.FormatInt(int64(p.ID), 10)),
	}
	if above := v.Site.Page(p.Parent); above != nil {
		made.Where = above.Label
	}
	for _, c := range v.Columns {
		if c.Inner() && !reads {
			made.Cells = append(made.Cells, cell{"", v.Reads(p.ID).Why})
			continue
		}
		made.Cells = append(made.Cells, cell{of.Text(p, c), v.closed(of, p, c, may)})
	}
	return made
}

func (v *view) closed(of *grid.Table, p *site.Page, c *grid.Column, may grant.Rights) string {
	if why := of.Closed(p, c); why != "" {
		return why
	}
	if need := c.Needs(); !may.Has(need) {
		return "It takes the right to " + grant.Words(need) + " here."
	}
	return ""
}
