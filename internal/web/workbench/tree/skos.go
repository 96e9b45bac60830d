package tree

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/formats/skos"
	"vineladder/internal/web/workbench/desk"
)

// kinds of documents by their formats, as a browser saves them.
var skosKinds = map[string]struct{ media, ending string }{
	"turtle": {"text/turtle; charset=utf-8", "ttl"},
	"xml":    {"application/rdf+xml", "rdf"},
	"json":   {"application/ld+json", "jsonld"},
}

// exportTopics gives the list that is selected as SKOS, as the draft has it.
func (s *Area) exportTopics(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	p, format := d.Site.Page(d.Selected), r.FormValue("format")
	kind, known := skosKinds[format]
	if !known || !p.IsTopicList() {
		return &edit.Refusal{Sentence: "Choose a topic list and a format: turtle, xml or json."}
	}
	w.Header().Set("Content-Type", kind.media)
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.%s"`, p.Segment, kind.ending))
	return skos.Write(w, d.Site, []site.PageID{p.ID}, s.Settings.Site, format)
}

// importTopics brings a document of SKOS into the draft, or says what that would change.
func (s *Area) importTopics(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	document, err := skosOf(r)
	if err != nil {
		return err
	}
	read, err := skos.Read(document)
	if err != nil {
		return &edit.Refusal{Sentence: "Nothing was imported. " + strings.ReplaceAll(err.Error(), "\n", "; ") + "."}
	}
	var plan *skos.Plan
	operations := func(newIDs func(int) ([]site.PageID, error)) desk.Operations {
		return func(on *site.Site) ([]edit.Op, string, error) {
			above, place, err := edit.ListsPlace(on, newIDs)
			if err != nil {
				return nil, "", err
			}
			if plan, err = read.Brings(on, s.Settings.Site, place, newIDs); err != nil || plan.Lists == 0 {
				above = nil
			}
			return append(above, plan.Ops...), "brought topics in", err
		}
	}
	if r.FormValue("do") == "try" {
		next := tryID(d.Draft.Site)
		ops, _, err := operations(func(n int) ([]site.PageID, error) {
			ids := make([]site.PageID, n)
			for i := range ids {
				ids[i] = next
				next++
			}
			return ids, nil
		})(d.Draft.Site)
		if err == nil {
			_, _, err = d.Draft.Next(ops, s.Now())
		}
		if err != nil {
			return err
		}
		s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Place: planWords(plan), Changes: remarks(read)}})
		return nil
	}
	ids := func(n int) ([]site.PageID, error) { return s.Store.NewPageIDs(r.Context(), n) }
	if _, _, err := s.InDraft(r, d, operations(ids)); err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: "Brought topics in: " + planWords(plan) + "."})
	return nil
}

// skosLimit bounds a document that is imported on the screen, in bytes.
const skosLimit = 32 << 20

func skosOf(r *http.Request) ([]byte, error) {
	file, _, err := r.FormFile("file")
	if err != nil {
		return nil, &edit.Refusal{Sentence: fmt.Sprintf("Choose a document of %d MiB at most.", skosLimit>>20)}
	}
	defer file.Close()
	document, err := io.ReadAll(io.LimitReader(file, skosLimit+1))
	if err == nil && len(document) > skosLimit {
		err = errors.New("it is too large")
	}
	if err != nil {
		const large = "Nothing was imported: a document has %d MiB at most."
		return nil, &edit.Refusal{Sentence: fmt.Sprintf(large, skosLimit>>20)}
	}
	return document, nil
}

// planWords says what an import does.
func planWords(p *skos.Plan) string {
	if len(p.Ops) == 0 {
		return "the site says all of it already; nothing changes"
	}
	words := fmt.Sprintf("%s and %s new, %s changed", count.Of(p.Lists, "list", "lists"),
		count.Of(p.Made, "topic", "topics"), count.Number(p.Changed))
	if p.Missing > 0 {
		words += fmt.Sprintf("; %s that the document does not name stay", count.Number(p.Missing))
	}
	return words
}

// remarkLimit is the number of remarks of an import that are told.
const remarkLimit = 5

func remarks(read *skos.Document) []string {
	some := read.Remarks[:min(len(read.Remarks), remarkLimit)]
	if more := len(read.Remarks) - len(some); more > 0 {
		some = append(some[:len(some):len(some)], "and "+count.Number(more)+" more.")
	}
	return some
}
