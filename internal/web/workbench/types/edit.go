package types

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// operations turns a form into operations, with what was done in words.
func operations(r *http.Request) desk.Operations {
	change := edit.FieldChange{
		Field: edit.Field(r.FormValue("field")), Old: r.FormValue("old"), New: strings.TrimSpace(r.FormValue("new")),
	}
	kind, key := r.FormValue("kind"), r.FormValue("detail")
	return func(s *site.Site) ([]edit.Op, string, error) {
		switch r.FormValue("do") {
		case "make-kind":
			return makeKind(s, r.FormValue("name"))
		case "take-kind":
			words := "took the page type “" + desk.Short(s.Kind(kind).Name) + "” away"
			return []edit.Op{edit.OpTakeKind{Was: edit.OpMakeKind{Kind: kind}}}, words, nil
		case "kind":
			words := "changed the " + change.Field.Words() + " of the page type “" + desk.Short(s.Kind(kind).Name) + "”"
			return []edit.Op{edit.OpEditKind{Kind: kind, Fields: []edit.FieldChange{change}}}, words, nil
		case "make-detail":
			return makeDetail(s, kind, r.FormValue("label"), r.FormValue("type"))
		}
		d := s.Detail(key)
		if d == nil {
			return nil, "", &edit.Conflict{Sentence: "This detail is not there any more."}
		}
		label := "“" + desk.Short(d.Label) + "”"
		switch r.FormValue("do") {
		case "take-detail":
			return []edit.Op{edit.OpTakeDetail{Was: edit.OpMakeDetail{Detail: key}}}, "took the detail " + label + " away", nil
		case "detail":
			words := "changed the " + change.Field.Words() + " of the detail " + label
			return []edit.Op{edit.OpEditDetail{Detail: key, Fields: []edit.FieldChange{change}}}, words, nil
		case "earlier":
			return shift(s, *d, -1), "moved the detail " + label + " up", nil
		case "later":
			return shift(s, *d, 1), "moved the detail " + label + " down", nil
		}
		return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
	}
}

// free gives a key that nothing has: made of words, and numbered where that is taken.
func free(words string, taken func(string) bool) string {
	stem := address.Segment(words)
	for key, n := stem, 2; ; key, n = stem+"-"+strconv.Itoa(n), n+1 {
		if !taken(key) {
			return key
		}
	}
}

func makeKind(s *site.Site, name string) ([]edit.Op, string, error) {
	if strings.TrimSpace(name) == "" {
		return nil, "", &edit.Refusal{Sentence: "A page type needs a name."}
	}
	kinds := s.Kinds()
	key := free(name, func(key string) bool {
		return slices.ContainsFunc(kinds, func(k site.Kind) bool { return k.Key == key })
	})
	op := edit.OpMakeKind{Kind: key, Fields: map[edit.Field]string{edit.FieldName: name}}
	if len(kinds) > 0 {
		op.After = kinds[len(kinds)-1].Key
	}
	return []edit.Op{op}, "made the page type “" + desk.Short(name) + "”", nil
}

func makeDetail(s *site.Site, kind, label, sort string) ([]edit.Op, string, error) {
	if strings.TrimSpace(label) == "" {
		return nil, "", &edit.Refusal{Sentence: "A detail needs a label: what stands before its values."}
	}
	own := free(label, func(key string) bool { return s.Detail(kind+"."+key) != nil })
	op := edit.OpMakeDetail{Detail: kind + "." + own, Fields: map[edit.Field]string{
		edit.FieldLabel: label, edit.FieldType: sort,
	}}
	return []edit.Op{op}, "gave the page type “" + desk.Short(s.Kind(kind).Name) + "” the detail “" + desk.Short(label) +
		"”", nil
}

// shift moves a detail a step among those of its type; all get new ranks where two have the same.
func shift(s *site.Site, d site.Detail, by int) []edit.Op {
	all := slices.Clone(s.Details(d.Kind()))
	at := slices.IndexFunc(all, func(other site.Detail) bool { return other.Key == d.Key })
	to := min(max(at+by, 0), len(all)-1)
	if at == to {
		return nil
	}
	all = slices.Insert(slices.Delete(all, at, at+1), to, d)
	ranks := site.Ranks(len(all))
	var ops []edit.Op
	for i, other := range all {
		if other.Rank != ranks[i] {
			ops = append(ops, edit.OpEditDetail{Detail: other.Key, Fields: []edit.FieldChange{
				{Field: edit.FieldRank, Old: other.Rank, New: ranks[i]},
			}})
		}
	}
	return ops
}

func (s *Area) edit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	draft, words, err := s.InDraft(r, d, operations(r))
	if err != nil {
		return err
	}
	reply := desk.Reply{Said: say.Capital(words) + "."}
	if r.FormValue("do") == "make-kind" {
		kinds := draft.Site.Kinds()
		reply.URL = "/types?kind=" + url.QueryEscape(kinds[len(kinds)-1].Key) + fmt.Sprintf("&draft=%d", draft.ID)
	}
	s.Say(w, http.StatusOK, reply)
	return nil
}

// try says what an edit would do and leaves everything as it is.
func (s *Area) try(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	_, changes, err := s.Tried(r, d, operations(r))
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Changes: changes}})
	return nil
}
