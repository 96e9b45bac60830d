package types

import (
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A view is the page types, and all of the one that is chosen.
type view struct {
	desk.Screen
	Kinds  []kindLine
	Chosen *sheet
	Keep   grant.Answer
	Locked bool
}

// A kindLine is a page type in the list of them.
type kindLine struct {
	site.Kind
	Pages int
	On    bool
}

// A sheet is all of one page type.
type sheet struct {
	kindLine
	Own                bool // it belongs to the program, and stays
	Fields             map[string]string
	Place              *site.Page
	Lists              []listLine
	MakeLink, ListLink string // where a page of it is made, and one that lists those that there are

	Lacking int // pages that lack what the type needs
	Details []detailLine
	Types   []detail.Type
	Left    int // pages that still have a value of a detail that is gone
}

// A listLine is a topic list as one that the pages of a type can need.
type listLine struct {
	*site.Page
	On  bool
	New string // what the type needs once that is changed
}

// A detailLine is a detail of a page type.
type detailLine struct {
	site.Detail
	TypeWords string
	Filled    int // pages that have a value
	Rows      int // that its choices take
	First     bool
	Last      bool
}

// HasUnit and HasChoices say what is asked of a detail besides.
func (l detailLine) HasUnit() bool { return l.Type == site.DetailNumber }

func (l detailLine) HasChoices() bool {
	return l.Type == site.DetailChoice || l.Type == site.DetailChoices
}

func (s *Area) types(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	v := view{Screen: desk.Screen{Desk: d}, Keep: d.May(string(site.ActionKeep))}
	v.Locked = d.State == "now" || !v.Keep.Yes
	var err error
	if v.Screen, err = s.Screen(r, d, "types"); err != nil {
		return err
	}
	counts := countPages(d.Site)
	chosen := r.FormValue("kind")
	if !slices.ContainsFunc(d.Site.Kinds(), func(k site.Kind) bool { return k.Key == chosen }) && len(d.Site.Kinds()) > 0 {
		chosen = d.Site.Kinds()[0].Key
	}
	for _, k := range d.Site.Kinds() {
		line := kindLine{k, counts[k.Key].pages, k.Key == chosen}
		v.Kinds = append(v.Kinds, line)
		if line.On {
			v.Chosen = sheetOf(d.Site, line, counts[k.Key])
			v.Chosen.MakeLink = making(d, k.Place, url.Values{"make-kind": {k.Key}})
			v.Chosen.ListLink = making(d, d.Site.Home(), url.Values{"make-lists": {k.Key}, "make-label": {k.Name}})
		}
	}
	name := "types"
	if r.Header.Get("X-Part") != "" {
		name = "types-parts"
	}
	s.Render(w, r, name, v)
	return nil
}

// A tally is what the pages of one type have.
type tally struct {
	pages, lacking, left int
	filled               map[string]int // by the key of a detail
}

// countPages looks at every page once.
func countPages(s *site.Site) map[string]tally {
	counts := map[string]tally{}
	s.Walk(s.Home(), func(p *site.Page) bool {
		t := counts[p.Kind]
		if t.filled == nil {
			t.filled = map[string]int{}
		}
		t.pages++
		if len(detail.Lacking(s, p)) > 0 {
			t.lacking++
		}
		gone := false
		for key := range p.Values.All() {
			t.filled[key]++
			gone = gone || s.Detail(key) == nil
		}
		if gone {
			t.left++
		}
		counts[p.Kind] = t
		return true
	})
	return counts
}

// making gives the address of the tree with the row open in which a page is made inside another, or inside the one that
// is selected.
func making(d *desk.Desk, inside site.PageID, more url.Values) string {
	path, query, _ := strings.Cut(d.Link("/tree", "show", "make"), "?")
	values, _ := url.ParseQuery(query) // the desk wrote it
	if d.Site.InTree(inside) {
		values.Set("page", fmt.Sprint(inside))
	}
	maps.Copy(values, more)
	return path + "?" + values.Encode()
}

func sheetOf(s *site.Site, line kindLine, t tally) *sheet {
	made := &sheet{kindLine: line, Place: s.Page(line.Place), Types: detail.Types(), Lacking: t.lacking, Left: t.left}
	made.Own = line.Key == "page" || site.IsOwnKind(line.Key)
	made.Fields = map[string]string{}
	for _, field := range edit.Fields()["kind"] {
		made.Fields[string(field)] = edit.KindValue(&line.Kind, field)
	}
	needed := detail.ListsOf(line.Kind)
	for _, id := range s.TopicLists() {
		one := listLine{Page: s.Page(id), On: slices.Contains(needed, id)}
		next := slices.DeleteFunc(slices.Clone(needed), func(other site.PageID) bool { return other == id })
		if !one.On {
			next = append(next, id)
		}
		slices.Sort(next)
		one.New = edit.TopicsText(next...)
		made.Lists = append(made.Lists, one)
	}
	details := s.Details(line.Key)
	for i, d := range details {
		made.Details = append(made.Details, detailLine{
			Detail: d, TypeWords: detail.Of(d).Words, Filled: t.filled[d.Key], Rows: max(3, len(d.ChoiceList())+1),
			First: i == 0, Last: i == len(details)-1,
		})
	}
	return made
}
