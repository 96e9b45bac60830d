package edit

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"vineladder/internal/core/site"
)

// OpMakeDetail makes a detail of a page type; OpTakeDetail takes one away, and the values that pages have for it stay
// with them, unseen.
type OpMakeDetail struct {
	Detail string           `json:"detail"` // key, as in “harbour.depth”
	Fields map[Field]string `json:"fields"`
}

// detailsOfKind is the number of details that a page type can have.
const detailsOfKind = 60

func (OpMakeDetail) name() string { return "make-detail" }

func (OpMakeDetail) Subject() site.PageID { return 0 }

func (o OpMakeDetail) About(*site.Site) About { return About{"Detail", o.Fields[FieldLabel]} }

func (OpMakeDetail) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpMakeDetail) Inverse() Op { return OpTakeDetail{o} }

func (o OpMakeDetail) ties() ties {
	return ties{makes: []tie{detailTie(o.Detail)}, uses: []tie{kindTie(site.KindOfDetail(o.Detail))}}
}

func (o OpMakeDetail) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMakeDetail) apply(st *state) (Op, error) {
	s := st.Peek()
	kind, own, _ := strings.Cut(o.Detail, ".")
	switch {
	case !slices.ContainsFunc(s.Kinds(), func(k site.Kind) bool { return k.Key == kind }):
		return nil, errKindGone()
	case !kindKey.MatchString(own):
		return nil, refuse("“%s” can't name a detail.", o.Detail)
	case s.Detail(o.Detail) != nil:
		return nil, refuse("The page type “%s” has a detail “%s” already.", s.Kind(kind).Name, s.Detail(o.Detail).Label)
	case len(s.Details(kind)) >= detailsOfKind:
		return nil, refuse("A page type can have %d details.", detailsOfKind)
	}
	made := site.Detail{Key: o.Detail, Shows: site.DetailBoth}
	if err := detailFields.fill(s, &made, o.Fields); err != nil {
		return nil, err
	}
	if made.Label == "" || made.Type == "" {
		return nil, refuse("A detail needs a label and a sort of value.")
	}
	if made.Rank == "" {
		last := ""
		for _, d := range s.Details(kind) {
			last = max(last, d.Rank)
		}
		made.Rank = site.RankBetween(last, "")
	}
	o.Fields = detailFields.written(&made, site.Detail{})
	st.SetDetails(append(slices.Clone(s.AllDetails()), made))
	return o, nil
}

type OpTakeDetail struct {
	Was OpMakeDetail `json:"was"`
}

func (OpTakeDetail) name() string { return "take-detail" }

func (OpTakeDetail) Subject() site.PageID { return 0 }

func (o OpTakeDetail) About(s *site.Site) About {
	if label := o.Was.Fields[FieldLabel]; label != "" {
		return About{"Detail", label}
	}
	return aboutDetail(s, o.Was.Detail)
}

func (OpTakeDetail) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpTakeDetail) Inverse() Op { return o.Was }

func (o OpTakeDetail) ties() ties { return ties{uses: []tie{detailTie(o.Was.Detail)}} }

func (o OpTakeDetail) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeDetail{Detail: o.Was.Detail}
	return o, nil
}

func (o OpTakeDetail) apply(st *state) (Op, error) {
	s := st.Peek()
	d := s.Detail(o.Was.Detail)
	if d == nil {
		return nil, errDetailGone()
	}
	is := OpMakeDetail{d.Key, detailFields.written(d, site.Detail{})}
	if o.Was.Fields != nil && !maps.Equal(o.Was.Fields, is.Fields) {
		return nil, &Conflict{
			Mine: "taken away", Theirs: "changed",
			Sentence: fmt.Sprintf("The detail “%s” was changed by %s.", d.Label, somebody),
		}
	}
	o.Was = is
	st.SetDetails(slices.DeleteFunc(slices.Clone(s.AllDetails()), func(other site.Detail) bool {
		return other.Key == is.Detail
	}))
	return o, nil
}

// OpEditDetail sets fields of a detail; its place among the others is one of them.
type OpEditDetail struct {
	Detail string        `json:"detail"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditDetail) name() string { return "edit-detail" }

func (o OpEditDetail) edits() []FieldChange { return o.Fields }

func (OpEditDetail) Subject() site.PageID { return 0 }

func (o OpEditDetail) About(s *site.Site) About { return aboutDetail(s, o.Detail) }

func (OpEditDetail) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpEditDetail) Inverse() Op { return OpEditDetail{o.Detail, turned(o.Fields)} }

func (o OpEditDetail) ties() ties {
	thing := detailTie(o.Detail)
	return ties{uses: []tie{thing}, sets: fieldTies(thing, o.Fields)}
}

func (o OpEditDetail) insist(s *site.Site, _ int64) (Op, error) {
	d := s.Detail(o.Detail)
	if d == nil {
		return nil, errNoInsisting
	}
	o.Fields = detailFields.onTop(d, o.Fields)
	return o, nil
}

func (o OpEditDetail) apply(st *state) (Op, error) {
	all := slices.Clone(st.Peek().AllDetails())
	at := slices.IndexFunc(all, func(d site.Detail) bool { return d.Key == o.Detail })
	if at < 0 {
		return nil, errDetailGone()
	}
	was := all[at]
	var err error
	o.Fields, err = detailFields.change(st.Peek(), &all[at], o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field: field, Mine: mine, Theirs: theirs,
			Sentence: fmt.Sprintf("The %s of the detail “%s” was changed by %s.", field.Words(), was.Label, somebody),
		}
	})
	st.SetDetails(all)
	return o, err
}

func aboutDetail(s *site.Site, key string) About {
	if d := s.Detail(key); d != nil {
		return About{"Detail", d.Label}
	}
	return About{"Detail", Field(key).Words()}
}

func errDetailGone() error { return &Conflict{Sentence: "The detail is not there any more."} }
