package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// OpEdit sets fields of a page.
type OpEdit struct {
	Page   site.PageID   `json:"page"`
	Fields []FieldChange `json:"fields"`
}

func (OpEdit) name() string { return "edit" }

func (o OpEdit) edits() []FieldChange { return o.Fields }

func (o OpEdit) Subject() site.PageID { return o.Page }

func (o OpEdit) About(s *site.Site) About { return aboutPage(s, o.Page) }

func (o OpEdit) Needs(*site.Site) []Need {
	needed := needsOf(site.PageThing(o.Page), "", pageFields, o.Fields)
	for _, c := range o.Fields {
		if c.Field == FieldKind { // also as what it becomes
			on := site.PageThing(o.Page)
			on.Key = c.New
			needed = with(needed, Need{Action: site.ActionEdit, On: on})
		}
	}
	return needed
}

func (o OpEdit) Inverse() Op { return OpEdit{o.Page, turned(o.Fields)} }

func (o OpEdit) ties() ties {
	return ties{
		uses: slices.Concat(pageFields.namedAnew(o.Fields), detailTies(o.Fields), []tie{pageTie(o.Page)}),
		sets: fieldTies(pageTie(o.Page), o.Fields),
	}
}

func (o OpEdit) insist(s *site.Site, _ int64) (Op, error) {
	page := s.Page(o.Page)
	if page == nil {
		return nil, errNoInsisting
	}
	o.Fields = pageFields.onTop(page, o.Fields)
	return o, nil
}

func (o OpEdit) apply(st *state) (Op, error) {
	find := st.page
	if len(o.Fields) == 1 && o.Fields[0].Field == FieldLeadsTo {
		find = st.binnedPage
	}
	was, err := find(o.Page)
	if err != nil {
		return nil, err
	}
	p := *was
	settled := OpEdit{Page: o.Page}
	for _, c := range o.Fields {
		stands := Value(&p, c.Field)
		if apart := apartOf(c.Field); apart != "" {
			c.Old, c.New = stands, merged(stands, c.Old, c.New, apart)
		}
		if err := st.set(&p, c); err != nil {
			return nil, err
		}
		made := Value(&p, c.Field)
		if stands == made {
			continue
		}
		if c.Old != stands && !(c.Field == FieldSegment && isDerived(c.Old) && isDerived(stands)) {
			return nil, &Conflict{
				Page: o.Page, Field: c.Field, Mine: made, Theirs: stands,
				Sentence: fmt.Sprintf("The %s of “%s” was changed by somebody else.", c.Field.Words(), was.Label),
			}
		}
		if c.Field == FieldSegment && isOpen(c.New) {
			made = "~"
		}
		settled.Fields = append(settled.Fields, FieldChange{c.Field, stands, made, c.Derived})
	}
	if derived := st.followLabel(was, &p); derived != nil {
		settled.Fields = append(settled.Fields, *derived)
	}
	if err := checkWindow(&p); err != nil {
		return nil, err
	}
	if err := keepsSort(was, &p); err != nil {
		return nil, err
	}
	if err := st.checkSort(&p); err != nil {
		return nil, err
	}
	if len(settled.Fields) == 0 {
		return settled, nil // all is as it should be already
	}
	st.put(&p)
	return settled, nil
}

// set changes one field of a page that is being edited.
func (st *state) set(p *site.Page, c FieldChange) error {
	if p.Parent == 0 && FixedOnHome(c.Field) {
		return refuse("The home page is always live, listed and at “/”.")
	}
	return pageFields.set(st.Peek(), p, c.Field, c.New)
}

// binnedPage finds a page for an edit of where its addresses lead, which only binned ones have.
func (st *state) binnedPage(id site.PageID) (*site.Page, error) {
	p := st.Peek().Page(id)
	switch {
	case p == nil || p.Purged:
		return nil, &Conflict{Page: id, Sentence: "The page is not there any more."}
	case !p.Binned:
		return nil, &Conflict{Page: id, Sentence: fmt.Sprintf("“%s” is not in the bin any more.", p.Label)}
	}
	return p, nil
}

// checkWindow refuses a page that would end before it begins.
func checkWindow(p *site.Page) error {
	if p.Window().IsBackwards() {
		return refuse("“%s” would end before it begins: the end must be after the beginning.", p.Label)
	}
	return nil
}

// followLabel gives a page the segment of its new label, unless somebody set one or the page has been online (rules
// 3.2).
func (st *state) followLabel(was, p *site.Page) *FieldChange {
	if was.Label == p.Label || !p.Follows(st.now) || was.Segment != p.Segment || p.Parent == 0 {
		return nil
	}
	old := Value(p, FieldSegment)
	p.Segment = address.Segment(p.Label)
	return &FieldChange{FieldSegment, old, Value(p, FieldSegment), true}
}
