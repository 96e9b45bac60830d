package edit

import (
	"fmt"

	"vineladder/internal/core/site"
)

// OpBin takes a branch out of the tree (rules 2.9). Seen is the revision that its maker saw.
type OpBin struct {
	Page site.PageID `json:"page"`
	Seen int64       `json:"seen"`
	From Place       `json:"from"`
	// Keeps is the audience and concealment that the page had, which it keeps in the bin: what stood above it may
	// be opened meanwhile.
	Keeps []FieldChange `json:"keeps,omitempty"`
	Back  bool          `json:"back,omitempty"` // the inverse of a Restore: the page is as it was in the bin
}

func (OpBin) name() string { return "bin" }

func (o OpBin) Subject() site.PageID { return o.Page }

func (o OpBin) About(s *site.Site) About { return aboutPage(s, o.Page) }

func (o OpBin) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionArrange, On: site.PageThing(o.Page)}}
}

func (o OpBin) Inverse() Op {
	return OpRestore{Page: o.Page, Seen: o.Seen, To: o.From, Keeps: turned(o.Keeps)}
}

func (o OpBin) ties() ties { return ties{uses: []tie{pageTie(o.Page)}} }

func (o OpBin) insist(_ *site.Site, revision int64) (Op, error) { o.Seen = revision; return o, nil }

func (o OpBin) apply(st *state) (Op, error) {
	was, err := st.page(o.Page)
	if err != nil {
		return nil, err
	}
	if was.Parent == 0 {
		return nil, refuse("The home page can't be put in the bin.")
	}
	if changed := changedSince(st.Peek(), o.Page, o.Seen); changed != nil {
		return nil, &Conflict{
			Page:   o.Page,
			Mine:   "in the bin",
			Theirs: fmt.Sprintf("“%s” changed", changed.Label),
			About:  changed.ID,
			Sentence: fmt.Sprintf(
				"“%s” can't go in the bin unseen: “%s” in it was changed by somebody else since.",
				was.Label,
				changed.Label,
			),
		}
	}
	settled := OpBin{Page: o.Page, Seen: o.Seen, From: PlaceOf(st.Peek(), o.Page), Back: o.Back}
	p := *was
	settled.Keeps = st.keepInBin(&p, o)
	p.Binned = true
	st.leaves(p.ID)
	st.Put(&p)
	return settled, nil
}

// changedSince finds a page of a branch that was published after a revision.
func changedSince(s *site.Site, top site.PageID, revision int64) (changed *site.Page) {
	s.Walk(top, func(p *site.Page) bool {
		if p.Revision > revision {
			changed = p
		}
		return changed == nil
	})
	return changed
}

// OpRestore puts a binned branch back to its old place, or under the nearest ancestor that is still there.
type OpRestore struct {
	Page    site.PageID  `json:"page"`
	Seen    int64        `json:"seen"`
	To      Place        `json:"to"`
	Segment *FieldChange `json:"segment,omitempty"`
	// Keeps is what the page keeps, or gives up again, of what it kept in the bin.
	Keeps []FieldChange `json:"keeps,omitempty"`
}

func (OpRestore) name() string { return "restore" }

func (o OpRestore) Subject() site.PageID { return o.Page }

func (o OpRestore) About(s *site.Site) About { return aboutPage(s, o.Page) }

func (o OpRestore) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionArrange, On: site.PageThing(o.Page)}}
}

func (o OpRestore) Inverse() Op {
	return OpBin{Page: o.Page, Seen: o.Seen, From: o.To, Keeps: turned(o.Keeps), Back: true}
}

func (o OpRestore) ties() ties { return ties{uses: []tie{pageTie(o.Page)}} }

func (o OpRestore) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpRestore) apply(st *state) (Op, error) {
	s := st.Peek()
	was := s.Page(o.Page)
	if was != nil && was.Purged {
		return nil, &Conflict{Page: o.Page, Sentence: "The bin has been emptied of this page; it can't come back."}
	}
	if was == nil || !was.Binned {
		return nil, &Conflict{Page: o.Page, Sentence: "The page is not in the bin any more."}
	}
	p := *was
	p.Binned = false
	for !s.InTree(p.Parent) {
		p.Parent = s.Page(p.Parent).Parent
	}
	if err := st.checkSort(&p); err != nil {
		return nil, err
	}
	settled := OpRestore{
		Page:  o.Page,
		Seen:  o.Seen,
		To:    Place{Parent: p.Parent},
		Keeps: st.keepClosed(&p, admissionOf(s, o.Page), o.Keeps),
	}
	var err error
	if settled.Segment, err = st.fitSegment(was, &p, o.Segment); err != nil {
		return nil, err
	}
	if p.Parent != was.Parent || st.rankTaken(&p) {
		place := Place{Parent: p.Parent, After: o.To.After, Before: o.To.Before}
		if err := st.rank(&p, &place); err != nil {
			return nil, err
		}
	}
	st.put(&p)
	st.back = append(st.back, p.ID)
	settled.To = PlaceOf(st.Peek(), p.ID)
	return settled, nil
}
