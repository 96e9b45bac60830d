package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/site"
)

// OpMake makes a page (rules 2.5): offline, listed and last unless said otherwise.
type OpMake struct {
	Page   site.PageID   `json:"page"`
	Key    string        `json:"key,omitempty"`
	Place  Place         `json:"place"`
	Fields []FieldChange `json:"fields"`
}

func (OpMake) name() string { return "make" }

func (o OpMake) Subject() site.PageID { return o.Page }

func (o OpMake) About(s *site.Site) About {
	if about := aboutPage(s, o.Page); about.Name != "" {
		return about
	}
	for _, c := range o.Fields {
		if c.Field == FieldLabel {
			return About{Name: c.New}
		}
	}
	return About{What: "A page"}
}

// Needs asks for the right to order pages where the page will stand, and for what its fields need. An audience that
// admits nobody whom the place would not admit needs nothing more.
func (o OpMake) Needs(s *site.Site) []Need {
	on := site.PageThing(o.Place.Parent)
	needed := needsOf(on, site.ActionArrange, pageFields, o.Fields)
	if s.Page(o.Place.Parent) == nil || admitsMore(s, o) {
		return needed
	}
	return slices.DeleteFunc(needed, func(n Need) bool { return n.Action == site.ActionAdmit })
}

func (o OpMake) Inverse() Op { return OpUnmake{o} }

func (o OpMake) ties() ties {
	return ties{
		makes: []tie{pageTie(o.Page)},
		uses:  slices.Concat(pageFields.namedAnew(o.Fields), detailTies(o.Fields), []tie{pageTie(o.Place.Parent)}),
	}
}

func (o OpMake) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMake) apply(st *state) (Op, error) {
	s := st.Peek()
	if s.Page(o.Page) != nil {
		return nil, refuse("There is a page with the number %d already.", o.Page)
	}
	if _, err := st.page(o.Place.Parent); err != nil && o.Place.Parent != 0 {
		return nil, err
	}
	if o.Place.Parent == 0 && s.Home() != 0 {
		return nil, refuse("A site has one home page.")
	}
	p := &site.Page{
		ID: o.Page, Key: o.Key, Parent: o.Place.Parent, Kind: "page", Status: site.StatusOffline, Listed: true,
		Sort: site.SortManual, SegmentFollows: true,
	}
	if p.Key == "" {
		p.Key = fmt.Sprintf("p%d", o.Page)
	}
	if p.Parent == 0 {
		p.Status, p.SegmentFollows = site.StatusLive, false
	}
	var segment *FieldChange
	for i, c := range o.Fields {
		if c.Field == FieldSegment {
			segment = &o.Fields[i]
			continue
		}
		if err := st.set(p, c); err != nil {
			return nil, err
		}
	}
	if p.Label == "" {
		return nil, refuse("A page needs a label: a few words that name it in menus.")
	}
	if err := checkWindow(p); err != nil {
		return nil, err
	}
	if err := st.checkSort(p); err != nil {
		return nil, err
	}
	if p.Parent != 0 {
		if s.Level(p.Parent)+1 > LevelsLimit {
			return nil, refuse(
				"“%s” would stand %d levels deep; a tree has at most %d levels.",
				p.Label,
				s.Level(p.Parent)+1,
				LevelsLimit,
			)
		}
		o.Fields = slices.Clone(o.Fields)
		if segment == nil {
			o.Fields = append(o.Fields, FieldChange{Field: FieldSegment})
			segment = &o.Fields[len(o.Fields)-1]
		}
		if err := setSegment(s, p, segment.New); err != nil {
			return nil, err
		}
		for i, c := range o.Fields {
			if c.Field == FieldSegment {
				o.Fields[i].New, o.Fields[i].Derived = Value(p, FieldSegment), c.Derived || isOpen(c.New)
			}
		}
		if err := st.rank(p, &o.Place); err != nil {
			return nil, err
		}
	}
	st.put(p)
	return o, nil
}

// OpUnmake takes back a Make that was not published.
type OpUnmake struct {
	Made OpMake `json:"made"`
}

func (OpUnmake) name() string { return "unmake" }

func (o OpUnmake) Subject() site.PageID { return o.Made.Page }

func (o OpUnmake) About(s *site.Site) About { return aboutPage(s, o.Made.Page) }

func (o OpUnmake) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionArrange, On: site.PageThing(o.Made.Place.Parent)}}
}

func (o OpUnmake) Inverse() Op { return o.Made }

func (o OpUnmake) ties() ties { return ties{uses: []tie{pageTie(o.Made.Page)}} }

func (o OpUnmake) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpUnmake) apply(st *state) (Op, error) {
	if _, err := st.page(o.Made.Page); err != nil {
		return nil, err
	}
	if len(st.Peek().Children(o.Made.Page)) > 0 {
		return nil, &Conflict{Page: o.Made.Page, Sentence: "There are pages inside it by now."}
	}
	st.leaves(o.Made.Page)
	st.Remove(o.Made.Page)
	return o, nil
}

// page finds a page that is in the tree.
func (st *state) page(id site.PageID) (*site.Page, error) {
	s := st.Peek()
	if p := s.Page(id); p != nil && s.InTree(id) {
		return p, nil
	}
	if p := s.Page(id); p != nil {
		return nil, &Conflict{Page: id, Sentence: fmt.Sprintf("“%s” is in the bin.", p.Label)}
	}
	return nil, &Conflict{Page: id, Sentence: "The page is not there any more."}
}
