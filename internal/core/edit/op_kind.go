package edit

import (
	"fmt"
	"maps"
	"regexp"
	"slices"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// OpMakeKind makes a page type, after another one in their order; OpTakeKind takes one away that no page has.
type OpMakeKind struct {
	Kind   string           `json:"kind"`
	After  string           `json:"after,omitempty"` // "": the first
	Fields map[Field]string `json:"fields"`
}

// kindKey is the form of the keys of page types and of details in them.
var kindKey = regexp.MustCompile(`^[a-z0-9-]{1,80}$`)

func (OpMakeKind) name() string { return "make-kind" }

func (OpMakeKind) Subject() site.PageID { return 0 }

func (o OpMakeKind) About(*site.Site) About { return About{"Page type", o.Fields[FieldName]} }

func (OpMakeKind) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpMakeKind) Inverse() Op { return OpTakeKind{o} }

func (o OpMakeKind) ties() ties {
	return ties{makes: []tie{kindTie(o.Kind)}, uses: append(kindFields.named(o.Fields), kindFields.chosenIn(o.Fields)...)}
}

func (o OpMakeKind) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMakeKind) apply(st *state) (Op, error) {
	kinds := slices.Clone(st.Peek().Kinds())
	at := func(key string) int {
		return slices.IndexFunc(kinds, func(k site.Kind) bool { return k.Key == key })
	}
	switch {
	case !kindKey.MatchString(o.Kind):
		return nil, refuse("“%s” can't name a page type.", o.Kind)
	case at(o.Kind) >= 0:
		return nil, refuse("There is a page type “%s” already.", o.Kind)
	}
	made := site.Kind{Key: o.Kind}
	if err := kindFields.fill(st.Peek(), &made, o.Fields); err != nil {
		return nil, err
	}
	if made.Name == "" {
		return nil, refuse("A page type needs a name.")
	}
	place := at(o.After) + 1
	if o.After != "" && place == 0 { // what it came after is gone
		place = len(kinds)
	}
	o.After, o.Fields = "", kindFields.written(&made, site.Kind{})
	if place > 0 {
		o.After = kinds[place-1].Key
	}
	st.SetKinds(slices.Insert(kinds, place, made))
	return o, nil
}

type OpTakeKind struct {
	Was OpMakeKind `json:"was"`
}

func (OpTakeKind) name() string { return "take-kind" }

func (OpTakeKind) Subject() site.PageID { return 0 }

func (o OpTakeKind) About(s *site.Site) About {
	if name := o.Was.Fields[FieldName]; name != "" {
		return About{"Page type", name}
	}
	return About{"Page type", s.Kind(o.Was.Kind).Name}
}

func (OpTakeKind) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpTakeKind) Inverse() Op { return o.Was }

func (o OpTakeKind) ties() ties { return ties{uses: []tie{kindTie(o.Was.Kind)}} }

func (o OpTakeKind) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeKind{Kind: o.Was.Kind}
	return o, nil
}

func (o OpTakeKind) apply(st *state) (Op, error) {
	s := st.Peek()
	kinds := slices.Clone(s.Kinds())
	at := slices.IndexFunc(kinds, func(k site.Kind) bool { return k.Key == o.Was.Kind })
	if at < 0 {
		return nil, errKindGone()
	}
	kind := kinds[at]
	switch n := s.PagesOf(kind.Key); {
	case kind.Key == "page" || site.IsOwnKind(kind.Key):
		return nil, refuse("The page type “%s” belongs to the program and stays.", kind.Name)
	case n > 0:
		return nil, refuse("The page type “%s” can't go: %s of it, those in the bin included.", kind.Name,
			count.Of(n, "page is", "pages are"))
	case len(s.Details(kind.Key)) > 0:
		return nil, refuse("The page type “%s” has details; take them away first.", kind.Name)
	}
	is := OpMakeKind{Kind: kind.Key, Fields: kindFields.written(&kind, site.Kind{})}
	if at > 0 {
		is.After = kinds[at-1].Key
	}
	if o.Was.Fields != nil && !maps.Equal(o.Was.Fields, is.Fields) {
		return nil, &Conflict{
			Mine: "taken away", Theirs: "changed",
			Sentence: fmt.Sprintf("The page type “%s” was changed by %s.", kind.Name, somebody),
		}
	}
	o.Was = is
	st.SetKinds(slices.Delete(kinds, at, at+1))
	return o, nil
}

// OpEditKind sets fields of a page type.
type OpEditKind struct {
	Kind   string        `json:"kind"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditKind) name() string { return "edit-kind" }

func (o OpEditKind) edits() []FieldChange { return o.Fields }

func (OpEditKind) Subject() site.PageID { return 0 }

func (o OpEditKind) About(s *site.Site) About { return About{"Page type", s.Kind(o.Kind).Name} }

func (OpEditKind) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpEditKind) Inverse() Op { return OpEditKind{o.Kind, turned(o.Fields)} }

func (o OpEditKind) ties() ties {
	thing := kindTie(o.Kind)
	uses := slices.Concat(kindFields.namedAnew(o.Fields), kindFields.chosen(o.Fields), []tie{thing})
	return ties{uses: uses, sets: fieldTies(thing, o.Fields)}
}

func (o OpEditKind) insist(s *site.Site, _ int64) (Op, error) {
	kind := s.Kind(o.Kind)
	o.Fields = kindFields.onTop(&kind, o.Fields)
	return o, nil
}

func (o OpEditKind) apply(st *state) (Op, error) {
	kinds := slices.Clone(st.Peek().Kinds())
	at := slices.IndexFunc(kinds, func(k site.Kind) bool { return k.Key == o.Kind })
	if at < 0 {
		return nil, errKindGone()
	}
	was := kinds[at]
	var err error
	o.Fields, err = kindFields.change(st.Peek(), &kinds[at], o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field: field, Mine: mine, Theirs: theirs,
			Sentence: fmt.Sprintf("The %s of the page type “%s” was changed by %s.", field.Words(), was.Name, somebody),
		}
	})
	st.SetKinds(kinds)
	return o, err
}

func errKindGone() error { return &Conflict{Sentence: "The page type is not there any more."} }
