package edit

import (
	"slices"
	"strings"

	"vineladder/internal/core/site"
)

// OpOrder arranges the children of a page by hand. Children that it does not name keep their order, after the others.
type OpOrder struct {
	Page     site.PageID   `json:"page"`
	Children []site.PageID `json:"children"`
	Was      []site.PageID `json:"was,omitempty"`
}

func (OpOrder) name() string { return "order" }

func (o OpOrder) Subject() site.PageID { return o.Page }

func (o OpOrder) About(s *site.Site) About { return aboutPage(s, o.Page) }

func (o OpOrder) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionArrange, On: site.PageThing(o.Page)}}
}

func (o OpOrder) Inverse() Op { return OpOrder{o.Page, o.Was, o.Children} }

func (o OpOrder) ties() ties { return ties{uses: []tie{pageTie(o.Page)}} }

func (o OpOrder) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpOrder) apply(st *state) (Op, error) {
	parent, err := st.page(o.Page)
	if err != nil {
		return nil, err
	}
	s := st.Peek()
	byHand := slices.SortedFunc(slices.Values(s.Children(o.Page)), func(a, b site.PageID) int {
		return strings.Compare(s.Page(a).Rank, s.Page(b).Rank)
	})
	order, placed := make([]site.PageID, 0, len(byHand)), make(map[site.PageID]bool, len(byHand))
	for _, id := range o.Children {
		if p := s.Page(id); p != nil && !p.Binned && p.Parent == parent.ID && !placed[id] {
			order, placed[id] = append(order, id), true
		}
	}
	for _, id := range byHand {
		if !placed[id] {
			order = append(order, id)
		}
	}
	if slices.Equal(order, byHand) {
		return OpOrder{o.Page, order, byHand}, nil
	}
	ranks := site.Ranks(len(order))
	var moved []*site.Page
	for i, id := range order {
		if was := s.Page(id); was.Rank != ranks[i] {
			p := *was
			p.Rank = ranks[i]
			moved = append(moved, &p)
		}
	}
	st.Put(moved...)
	return OpOrder{o.Page, order, byHand}, nil
}
