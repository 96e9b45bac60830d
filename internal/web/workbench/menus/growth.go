package menus

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/web/workbench/desk"
)

// A growthForm is what an item that leads to a page shows of it, as fields.
type growthForm struct {
	site.ItemBranch
	As      string // “page”, or what of it and how it shows itself, as in “branch:above” and “hits:not”
	Ways    []desk.Option
	Orders  []desk.Option
	Grows   bool
	Counts  bool             // its lines can have counts
	Narrows []listing.Filter // by which visitors narrow what the page lists
	HitMost int
	Ofs     []desk.Option // where its lines can lead
}

func growthFormOf(d *desk.Desk, e *site.Entry) *growthForm {
	s, root := d.Site, d.Site.Page(e.Target())
	if root == nil {
		return nil
	}
	made := &growthForm{As: "page", Counts: root.Gathers(), HitMost: target.HitsMost}
	if to, grows := e.Shows.(site.ItemBranch); grows {
		made.ItemBranch, made.Grows, made.As = to, true, "branch:"+string(to.Self)
		if to.Hits > 0 {
			made.As = "hits:" + string(to.Self)
		}
	}
	if to, leads := e.Shows.(site.ItemPage); leads {
		made.Narrows = narrowsOf(d, to)
	}
	inside := "pages"
	if root.Gathers() {
		inside = "topics"
	}
	made.Ways = desk.Options(
		"page", "the page", "branch:not", "the "+inside+" inside it",
		"branch:above", "the page, and the "+inside+" inside it below",
		"branch:beside", "the page first, then the "+inside+" inside it beside",
	)
	if _, lists := listing.Of(s, root.ID); lists || made.Hits > 0 {
		made.Ways = append(made.Ways, desk.Options(
			"hits:not", "the first pages that it lists", "hits:above", "the page, and the first that it lists below",
			"hits:beside", "the page first, then the first that it lists beside")...)
	}
	made.Ofs = ofsOf(s, root, made.Of)
	made.Orders = desk.Options("", "as in the tree", "label", "by label")
	if root.Gathers() {
		made.Orders = desk.Options("", "as in the list", "label", "by label", "count", "those with most pages first")
	}
	return made
}

// ofsOf gives where the lines of topics can lead: to the topics, or to lists that visitors narrow to them; none where
// there is no such list.
func ofsOf(s *site.Site, root *site.Page, set site.PageID) (ofs []desk.Option) {
	list := s.TopicList(root.ID)
	if list == nil {
		return nil
	}
	pages := listing.NarrowedBy(s, list.ID)
	if set != 0 && !slices.Contains(pages, set) {
		pages = append(pages, set) // whose list is narrowed so no more
	}
	for _, id := range pages {
		if id == set || s.InTree(id) {
			ofs = append(ofs, desk.Options(fmt.Sprint(id), "what “"+s.Page(id).Label+"” lists, narrowed to it")...)
		}
	}
	if len(ofs) == 0 {
		return nil
	}
	return append(desk.Options("0", "the topic"), ofs...)
}

// narrowsOf gives by what visitors can narrow what a page lists, with the value that the item leads to.
func narrowsOf(d *desk.Desk, to site.ItemPage) []listing.Filter {
	q, lists := listing.Of(d.Site, to.Page)
	if !lists {
		return nil
	}
	panel := reach.NewPanel(d.Lens)
	reached := func(id site.PageID) bool { return panel.At(d.Site, id).Reachable() != 0 }
	all := listing.Filters(d.Site, q, listing.Hits(d.Site, to.Page, q, panel), nil, reached)
	for _, set := range listing.Named(d.Site, q, to.Narrow) {
		at := slices.IndexFunc(all, func(f listing.Filter) bool { return f.Key == set.Key })
		if at < 0 {
			all = append(all, set)
			continue
		}
		same := func(v listing.FilterValue) bool { return v.Value == set.Values[0].Value }
		if value := slices.IndexFunc(all[at].Values, same); value >= 0 {
			all[at].Values[value].Chosen = true
		} else {
			all[at].Values = append(all[at].Values, set.Values...)
		}
	}
	return all
}

// narrowed gives the query of the list that the fields ask for.
func (i *menuIntent) narrowed(s *site.Site, page site.PageID) string {
	q, _ := listing.Asked(s.Page(page).Listing)
	n := listing.Narrowing{}
	for _, key := range listing.Keys(s, q) {
		n = n.With(key, i.form("narrow."+key))
	}
	return n.Query(1)
}

// grow turns the fields of a growthForm into what the item shows.
func (i *menuIntent) grow(s *site.Site, m *site.Menu, e *site.Entry, what string) ([]edit.Op, string, error) {
	as, self, _ := strings.Cut(i.form("as"), ":")
	text := fmt.Sprintf("page:%d", e.Target())
	if narrow := i.narrowed(s, e.Target()); as == "page" && narrow != "" {
		text += ":" + narrow
	}
	if as != "page" {
		depth := strings.TrimSpace(i.form("depth"))
		if depth == "" {
			depth = "0"
		}
		text = fmt.Sprintf("branch:%d:%s:%s", e.Target(), depth, self)
		if as == "hits" {
			text += ":hits=" + orUsual(i.form("hits"), "5")
		} else {
			text += ":least=" + i.form("least") + ":by=" + i.form("by")
			if of := orUsual(i.form("of"), ""); of != "" {
				text += ":of=" + of
			}
			if i.form("count") != "" {
				text += ":count"
			}
		}
	}
	shows, err := target.Parse(s, text)
	if err != nil {
		return nil, "", err
	}
	op := edit.OpEditEntry{Menu: m.ID, Entry: e.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldShows, Old: i.form("old"), New: target.Text(shows)},
	}}
	return []edit.Op{op}, "changed what " + what + " shows", nil
}

func orUsual(text, usual string) string {
	if n, err := strconv.Atoi(text); err == nil && n == 0 || text == "" {
		return usual
	}
	return text
}

// line sets one thing of a line that an item grows: “pin”, “hidden” or “label”; or, without any, has it as it grows.
func (i *menuIntent) line(s *site.Site, m *site.Menu, e *site.Entry, page site.PageID) ([]edit.Op, string, error) {
	was, _ := site.ParseGrownLine(i.form("old"))
	now, name := was, "“"+desk.Short(menu.LabelOf(s, e, page))+"”"
	value := strings.TrimSpace(i.form("new"))
	said := "let " + name + " stand as it grows"
	switch i.form("field") {
	case "pin":
		now.Pin = site.GrownPin(value)
		if value != "" {
			said = "pinned " + name + " " + value
		}
	case "hidden":
		now.Hidden = value == "yes"
		said = map[bool]string{true: "hid ", false: "showed "}[now.Hidden] + name
	case "label":
		now.Label = value
		said = "changed the label of " + name + " in this menu"
	default:
		now = site.GrownLine{}
	}
	op := edit.OpEditEntry{Menu: m.ID, Entry: e.ID, Fields: []edit.FieldChange{
		{Field: edit.LineField(page), Old: i.form("old"), New: now.String()},
	}}
	return []edit.Op{op}, said, nil
}

// A setLine is a line of which something is set, as the sheet of the item that grows it lists them.
type setLine struct {
	site.GrownLine
	Row   string
	Page  *site.Page
	Words string // what is set, and whether the line is there
	Old   string
}

func setLines(d *desk.Desk, e *site.Entry) (lines []setLine) {
	panel := reach.NewPanel(d.Lens)
	for id, line := range e.Lines() {
		p := d.Site.Page(id)
		if p == nil {
			continue
		}
		lines = append(lines, setLine{
			GrownLine: line, Row: desk.ItemID{Entry: e.ID, Page: id}.String(), Page: p, Old: line.String(),
			Words: setWords(line, noLineWords(d, panel, e, id)),
		})
	}
	slices.SortFunc(lines, func(a, b setLine) int { return d.Site.Collate(a.Page.Label, b.Page.Label) })
	return lines
}

func setWords(line site.GrownLine, not string) string {
	var words []string
	if line.Pin != "" {
		words = append(words, "pinned "+string(line.Pin))
	}
	if line.Label != "" {
		words = append(words, "called “"+line.Label+"”")
	}
	if line.Hidden {
		words = append(words, "hidden")
	} else if not != "" {
		words = append(words, "not there now: "+not)
	}
	return strings.Join(words, ", ")
}

// noLineWords says why an item makes no line of a page for the lens; "" if it does.
func noLineWords(d *desk.Desk, panel *reach.Panel, e *site.Entry, page site.PageID) string {
	to, generated := e.Shows.(site.ItemBranch)
	switch why := menu.WhyNoLine(d.Site, d.Menu, e, page, panel); {
	case !generated:
		return "the item grows nothing"
	case why == menu.NoLineUnlisted:
		return "it is not listed"
	case why == menu.NoLineHidden:
		return "it is hidden in this menu"
	case why == menu.NoLineReach:
		return "this visitor does not reach it"
	case why == menu.NoLineNarrowed:
		return "nothing of that list is about it"
	case why == menu.NoLineFew:
		return "it has fewer than " + count.Pages(to.Least)
	case why == menu.NoLineAway && to.Hits > 0:
		return fmt.Sprintf("it is none of the first %d", to.Hits)
	case why == menu.NoLineAway:
		return "it does not stand in what the item shows"
	}
	return ""
}
