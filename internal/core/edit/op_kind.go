package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/site"
)

// OpEditKind sets the layout of the pages of a kind.
type OpEditKind struct {
	Kind   string        `json:"kind"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditKind) name() string { return "edit-kind" }

func (OpEditKind) Subject() site.PageID { return 0 }

func (o OpEditKind) About(s *site.Site) About { return About{"Page type", s.Kind(o.Kind).Name} }

func (OpEditKind) Needs(*site.Site) []Need { return []Need{{site.ActionKeep, SiteThing}} }

func (o OpEditKind) Inverse() Op { return OpEditKind{o.Kind, turned(o.Fields)} }

func (o OpEditKind) ties() ties { return ties{sets: fieldTies(kindTie(o.Kind), o.Fields)} }

func (o OpEditKind) insist(s *site.Site, _ int64) (Op, error) {
	kind := s.Kind(o.Kind)
	o.Fields = kindFields.onTop(&kind, o.Fields)
	return o, nil
}

func (o OpEditKind) apply(st *state) (Op, error) {
	kinds := slices.Clone(st.Peek().Kinds())
	at := slices.IndexFunc(kinds, func(k site.Kind) bool { return k.Key == o.Kind })
	if at < 0 {
		return nil, &Conflict{Sentence: "The page type is not there any more."}
	}
	var err error
	o.Fields, err = kindFields.change(st.Peek(), &kinds[at], o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:  field,
			Mine:   mine,
			Theirs: theirs,
			Sentence: fmt.Sprintf(
				"The %s of the page type “%s” was changed by somebody else.",
				field.Words(),
				kinds[at].Name,
			),
		}
	})
	st.SetKinds(kinds)
	return o, err
}
