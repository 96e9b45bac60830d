package tree

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/web/workbench/desk"
)

// topicsOf is what the sheet of a page says of topics: those that it bears or, of a topic, what it gathers.
type topicsOf struct {
	IsTopic, IsList       bool
	Bears                 []topicLine
	Others, Hidden, Scope string
	Count                 topic.Count
	Bearers               []topicLine // the first of them, as the visitor reaches them
	More                  int
	Alike                 []topicLine // topics that are called nearly so
}

// A topicLine is a topic that a page bears, or a page that bears one.
type topicLine struct {
	Page         string
	Label, Where string
	Own          bool   // it bears the topic itself
	By           string // else the narrower topic that it bears
}

// bearersInSight is the number of pages of a topic that stand on its sheet.
const bearersInSight = 20

func topicsOn(d *desk.Desk, p *site.Page) topicsOf {
	s := d.Site
	v := topicsOf{
		IsTopic: p.IsTopic(), IsList: p.IsTopicList(), Others: edit.Value(p, edit.FieldOtherLabels),
		Hidden: edit.Value(p, edit.FieldHiddenLabels), Scope: p.ScopeNote,
	}
	for _, id := range p.Topics {
		if t := s.Page(id); t != nil {
			v.Bears = append(v.Bears, topicLine{Page: fmt.Sprint(id), Label: t.Label, Where: topicWhere(s, id)})
		}
	}
	if !v.IsTopic {
		return v
	}
	panel := reach.NewPanel(d.Lens)
	reached := topic.Of(s, p.ID).To(s, func(id site.PageID) bool { return panel.At(s, id).Reachable() != 0 }).Pages
	v.Count.All = len(reached)
	for _, id := range reached {
		own := slices.Contains(s.Page(id).Topics, p.ID)
		if own {
			v.Count.Own++
		}
		if len(v.Bearers) < bearersInSight {
			line := topicLine{Page: fmt.Sprint(id), Label: s.Page(id).Label, Where: desk.Place(s, id), Own: own}
			line.By = narrowerOf(s, s.Page(id), p.ID)
			v.Bearers = append(v.Bearers, line)
		}
	}
	for _, id := range topic.Alike(s, p.ID, ask.Folded) {
		v.Alike = append(v.Alike, topicLine{Page: fmt.Sprint(id), Label: s.Page(id).Label, Where: desk.Place(s, id)})
	}
	v.More = len(reached) - len(v.Bearers)
	return v
}

// litWords says which items are lit on a page because of topics or lists, menu by menu, and by which.
func litWords(d *desk.Desk, id site.PageID) []string {
	s := d.Site
	views := region.NewViews(s, d.Lens)
	var said []string
	for _, b := range s.Blocks() {
		shows, _, isMenu := b.Menu()
		if !isMenu || !region.Placed(s, b.ID, id, d.Lens) || views.View(shows) == nil {
			continue
		}
		end, borne, lit := views.View(shows).LitBy(id)
		if !lit {
			continue
		}
		words := fmt.Sprintf("“%s” is lit in %s, because ", end.Label, b.Name)
		switch list := s.TopicList(borne); {
		case list == nil:
			words += "“" + s.Page(borne).Label + "” lists the page"
		case borne != end.Page:
			words += "the page bears " + s.Page(borne).Label + ", which stands in it, in " + list.Label
		default:
			words += "the page bears " + s.Page(borne).Label + ", in " + list.Label
		}
		if !slices.Contains(said, words) {
			said = append(said, words)
		}
	}
	return said
}

// merge merges a topic into another one.
func (i *intent) merge(s *site.Site, p *site.Page) ([]edit.Op, string, error) {
	number, _ := strconv.ParseInt(i.form("topic"), 10, 64)
	into := s.Page(site.PageID(number))
	if into == nil || !s.InTree(into.ID) {
		return nil, "", &edit.Conflict{Page: site.PageID(number), Sentence: "The topic is not there any more."}
	}
	words := "merged “" + desk.Short(p.Label) + "” into “" + desk.Short(into.Label) + "”"
	return edit.Merge(s, p.ID, into.ID, i.seen), words, nil
}

// narrowerOf names a topic that a page bears and that stands in another one.
func narrowerOf(s *site.Site, p *site.Page, in site.PageID) string {
	for _, id := range p.Topics {
		if s.IsWithin(id, in) {
			return s.Page(id).Label
		}
	}
	return ""
}

// topicWhere says where a topic stands: its list, and the broader topics.
func topicWhere(s *site.Site, id site.PageID) string {
	if !s.InTree(id) {
		return "in the bin; it counts again when it comes back"
	}
	var above []string
	for _, p := range s.Path(id) {
		if p.Gathers() && p.ID != id {
			above = append(above, p.Label)
		}
	}
	return "in " + strings.Join(above, " › ")
}

// kindIn gives the kind of what is made by a page: a topic in what gathers, and beside a list another list where lists
// are kept; "" for a plain page.
func (i *intent) kindIn(s *site.Site, parent site.PageID) string {
	if above := s.Page(parent); above != nil && above.Gathers() {
		return site.KindTopic
	}
	number, _ := strconv.ParseInt(i.form("target"), 10, 64)
	if beside := s.Page(site.PageID(number)); i.form("area") == topicGrove.area && beside != nil && beside.IsTopicList() {
		return site.KindTopicList
	}
	return ""
}

// tag gives pages a topic, or takes it off them. What else they bear stays.
func (i *intent) tag(s *site.Site) ([]edit.Op, string, error) {
	number, _ := strconv.ParseInt(i.form("topic"), 10, 64)
	t := s.Page(site.PageID(number))
	if t == nil || !s.InTree(t.ID) {
		return nil, "", &edit.Conflict{Page: site.PageID(number), Sentence: "The topic is not there any more."}
	}
	change := edit.FieldChange{Field: edit.FieldTopics, New: edit.TopicsText(t.ID)}
	verb := "added “" + desk.Short(t.Label) + "” to"
	if i.form("way") == "take" {
		change.Old, change.New, verb = change.New, change.Old, "took “"+desk.Short(t.Label)+"” off"
	}
	var ops []edit.Op
	for _, id := range i.branches(s) {
		if p := s.Page(id); p != nil && slices.Contains(p.Topics, t.ID) == (i.form("way") == "take") {
			ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{change}})
		}
	}
	if len(ops) == 0 {
		return nil, "", &edit.Refusal{Sentence: "“" + t.Label + "” is on it already."}
	}
	return ops, i.said(verb, s), nil
}

// makeList makes a topic list, where the others stand; the first one in a page “Topics” of its own.
func (i *intent) makeList(s *site.Site) ([]edit.Op, string, error) {
	label := strings.TrimSpace(i.form("label"))
	field := func(of edit.Field, value string) edit.FieldChange { return edit.FieldChange{Field: of, New: value} }
	list := edit.OpMake{Page: i.newID, Fields: []edit.FieldChange{
		field(edit.FieldLabel, label), field(edit.FieldKind, site.KindTopicList),
		field(edit.FieldStatus, string(site.StatusLive)),
	}}
	above, place, err := edit.ListsPlace(s, func(int) ([]site.PageID, error) { return []site.PageID{i.besideID}, nil })
	list.Place = place
	return append(above, list), "made the topic list “" + desk.Short(label) + "”", err
}
