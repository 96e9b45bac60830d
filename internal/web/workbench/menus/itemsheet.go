package menus

import (
	"vineladder/internal/core/colour"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/core/topic"
	"vineladder/internal/web/workbench/desk"
)

// An itemSheet is all that is said of the item that is selected, or of the automatic line.
type itemSheet struct {
	*site.Entry
	Row       string // its row's id
	Label     string // as visitors read it
	Where     string
	Shows     string // "Yes", or why not
	Leads     string
	Target    *site.Page // the page it leads to or starts from
	Fields    map[string]string
	Sort      string      // page, branch, web, file, heading, account
	Growth    *growthForm // of what leads to a page
	Set       []setLine   // single lines of which something is set
	Line      site.GrownLine
	LineOld   string
	NoLine    string // why the automatic line does not show
	Window    []desk.Moment
	Several   string // the audience in words, where it is more than one role
	Position  int
	Siblings  int
	Below     int // items that are taken out with it
	Ratio     string
	Automatic *site.Page // the page of an automatic line; nil for an item
	Unlisted  *site.Page // why the page of an item is in no automatic line
	Icons     []string
	Text      string // colours of the badge, for the picker
	Back      string
}

func (s *Area) itemSheet(d *desk.Desk) *itemSheet {
	e := d.Menu.Entry(d.Item.Entry)
	if e == nil {
		return nil
	}
	made := &itemSheet{
		Entry: e,
		Row:   d.Item.String(),
		Label: d.Site.EntryLabel(e),
		Leads: d.Leads(e),
		Icons: d.Site.Theme().Icons,
	}
	if p := d.Site.Page(d.Item.Page); p != nil {
		made.automatic(d, e, p)
		return made
	}
	made.Fields = fieldsOf(e)
	made.Window = d.Window("i", "Shows from", "Shows until", e.LiveFrom, e.LiveUntil)
	made.Where, made.Position, made.Siblings = d.ItemPlace(d.Site, d.Menu, e)
	made.Below = len(d.Menu.Branch(e.ID)) - 1
	made.Sort, made.Target = target.Of(e.Shows).Key, d.Site.Page(e.Target())
	made.Growth, made.Set = growthFormOf(d, e), setLines(d, e)
	made.Shows = "Yes"
	if why := menu.WhyNot(d.Site, d.Menu, e.ID, d.Lens); why.Entry != 0 {
		made.Shows = d.WhyWords(d.Menu, e, why)
	}
	if len(e.Audience.Roles()) > 1 {
		made.Several = d.Site.AudienceWords(e.Audience)
	}
	made.dressBadge(d.Site)
	return made
}

// automatic says all of a line that an item grows.
func (v *itemSheet) automatic(d *desk.Desk, e *site.Entry, p *site.Page) {
	v.Automatic, v.Label, v.Leads, v.Shows = p, menu.LabelOf(d.Site, e, p.ID), desk.AddressOf(d.Site, p.ID), "Yes"
	v.Line = e.Line(p.ID)
	panel := reach.NewPanel(d.Lens)
	v.LineOld = v.Line.String()
	if v.NoLine = noLineWords(d, panel, e, p.ID); v.NoLine != "" {
		v.Shows = "No: " + v.NoLine
	}
	v.Where = "Grown by “" + d.Site.EntryLabel(e) + "”: " + grownFrom(d, panel, e, p)
}

// grownFrom says from what a line grows.
func grownFrom(d *desk.Desk, panel *reach.Panel, e *site.Entry, p *site.Page) string {
	to, _ := e.Shows.(site.ItemBranch)
	switch {
	case to.Hits > 0:
		return "one of the first that “" + d.Site.Page(to.Root).Label + "” lists"
	case p.IsTopic():
		n := topic.TallyOf(d.Site, panel).Of(p.ID)
		list := d.Site.TopicList(p.ID).Label
		return "a topic of “" + list + "” with " + count.Pages(int(n[0])) + ", " + desk.Place(d.Site, p.ID)
	}
	return "it follows the tree, where it is " + desk.Place(d.Site, p.ID)
}

// dressBadge gives the colours of the badge and their contrast.
func (v *itemSheet) dressBadge(s *site.Site) {
	pair := colour.Pair{Text: "#1e2b27", Back: "#f7f5ef"}
	if free, ok := colour.ParsePair(v.Badge.Pair); ok {
		pair = free
	} else if themed := s.Theme().Pair(v.Badge.Pair); themed != nil {
		pair = colour.Pair{Text: themed.Text, Back: themed.Back}
	}
	v.Text, v.Back, v.Ratio = pair.Text, pair.Back, pair.Ratio()
}

// Free says that the badge's pair of colours is none of the theme's.
func (v *itemSheet) Free() bool {
	_, free := colour.ParsePair(v.Badge.Pair)
	return free
}

// setItem says what setting a field of an item does.
func setItem(field edit.Field, value string) string {
	switch {
	case field == edit.FieldOn && value == "yes":
		return "switched on"
	case field == edit.FieldOn:
		return "switched off"
	case field == edit.FieldLabel:
		return "changed the label of"
	case field == edit.FieldShows:
		return "changed where it leads:"
	}
	return "changed the " + field.Words() + " of"
}
