package skos

import (
	"bufio"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"golang.org/x/text/language"

	"vineladder/internal/core/site"
	"vineladder/internal/formats/rdf"
)

// Formats are those that are written.
var Formats = []string{"turtle", "xml", "json"}

// Write writes topic lists, all that are in the tree where none is named, in one of the Formats. origin is that of the
// public site, for the names of topics that were made here.
func Write(w io.Writer, s *site.Site, lists []site.PageID, origin, format string) error {
	out := bufio.NewWriter(w)
	if len(lists) == 0 {
		lists = s.TopicLists()
	}
	e := &export{site: s, origin: origin, lang: languageOf(s)}
	var err error
	switch format {
	case "turtle":
		err = e.turtle(out, lists)
	case "xml":
		err = e.xml(out, lists)
	case "json":
		err = e.json(out, lists)
	default:
		return fmt.Errorf("the format “%s” is not known; there are %s", format, strings.Join(Formats, ", "))
	}
	if err != nil {
		return fmt.Errorf("write topics: %w", err)
	}
	return out.Flush()
}

type export struct {
	site   *site.Site
	origin string
	lang   string
}

// A fact is one thing that is said of a list or topic: a name of another one, or words.
type fact struct {
	name  string // in the vocabulary of SKOS
	iri   string
	label Label
}

// each visits every list and its topics with what is said of them, in the tree's order.
func (e *export) each(lists []site.PageID, visit func(iri, kind string, facts []fact) error) error {
	var err error
	for _, list := range lists {
		scheme := e.site.Page(list).IRI(e.origin)
		e.site.Walk(list, func(p *site.Page) bool {
			if p.ID == list {
				err = visit(scheme, "ConceptScheme", []fact{{name: "prefLabel", label: Label{p.Label, e.lang}}})
				return err == nil
			}
			err = visit(p.IRI(e.origin), "Concept", e.facts(p, list, scheme))
			return err == nil
		})
	}
	return err
}

func (e *export) facts(p *site.Page, list site.PageID, scheme string) []fact {
	facts := []fact{{name: "inScheme", iri: scheme}, {name: "prefLabel", label: Label{p.Label, e.lang}}}
	add := func(name, foreign string, labels []string) {
		for _, words := range labels {
			l := e.read(words)
			if l.Lang != e.lang {
				facts = append(facts, fact{name: foreign, label: l})
			} else {
				facts = append(facts, fact{name: name, label: l})
			}
		}
	}
	add("altLabel", "altLabel", p.OtherLabels)
	add("hiddenLabel", "prefLabel", p.HiddenLabels) // the preferred label of another language is kept there
	if p.ScopeNote != "" {
		facts = append(facts, fact{name: "scopeNote", label: Label{p.ScopeNote, e.lang}})
	}
	if p.Parent == list {
		return append(facts, fact{name: "topConceptOf", iri: scheme})
	}
	return append(facts, fact{name: "broader", iri: e.site.Page(p.Parent).IRI(e.origin)})
}

// read takes the tag of another language off a label.
func (e *export) read(words string) Label {
	at := strings.LastIndexByte(words, '@')
	if at <= 0 {
		return Label{words, e.lang}
	}
	if _, err := language.Parse(words[at+1:]); err != nil { // no tag of a language, but words (BCP 47)
		return Label{words, e.lang}
	}
	return Label{words[:at], words[at+1:]}
}

var quoted = strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`, "\r", `\r`, "\t", `\t`)

func (e *export) turtle(w io.Writer, lists []site.PageID) error {
	if _, err := fmt.Fprintf(w, "@prefix skos: <%s> .\n", Namespace); err != nil {
		return err
	}
	return e.each(lists, func(iri, kind string, facts []fact) error {
		lines := []string{"a skos:" + kind}
		for _, f := range facts {
			if f.iri != "" {
				lines = append(lines, fmt.Sprintf("skos:%s <%s>", f.name, f.iri))
			} else {
				lines = append(lines, fmt.Sprintf(`skos:%s "%s"@%s`, f.name, quoted.Replace(f.label.Words), f.label.Lang))
			}
		}
		_, err := fmt.Fprintf(w, "\n<%s> %s .\n", iri, strings.Join(lines, " ;\n    "))
		return err
	})
}

func (e *export) xml(w io.Writer, lists []site.PageID) error {
	const head = `<?xml version="1.0" encoding="UTF-8"?>` + "\n" + `<rdf:RDF xmlns:rdf="%s" xmlns:skos="%s">` + "\n"
	if _, err := fmt.Fprintf(w, head, rdf.Syntax, Namespace); err != nil {
		return err
	}
	escaped := func(words string) string {
		var out strings.Builder
		_ = xml.EscapeText(&out, []byte(words)) // to memory
		return out.String()
	}
	err := e.each(lists, func(iri, kind string, facts []fact) error {
		var out strings.Builder
		fmt.Fprintf(&out, "  <skos:%s rdf:about=\"%s\">\n", kind, escaped(iri))
		for _, f := range facts {
			if f.iri != "" {
				fmt.Fprintf(&out, "    <skos:%s rdf:resource=\"%s\"/>\n", f.name, escaped(f.iri))
			} else {
				const words = "    <skos:%s xml:lang=\"%s\">%s</skos:%s>\n"
				fmt.Fprintf(&out, words, f.name, f.label.Lang, escaped(f.label.Words), f.name)
			}
		}
		fmt.Fprintf(&out, "  </skos:%s>\n", kind)
		_, err := io.WriteString(w, out.String())
		return err
	})
	if err != nil {
		return err
	}
	_, err = io.WriteString(w, "</rdf:RDF>\n")
	return err
}

func (e *export) json(w io.Writer, lists []site.PageID) error {
	var graph []map[string]any
	err := e.each(lists, func(iri, kind string, facts []fact) error {
		node := map[string]any{"@id": iri, "@type": "skos:" + kind}
		for _, f := range facts {
			var value any = map[string]string{"@value": f.label.Words, "@language": f.label.Lang}
			if f.iri != "" {
				value = map[string]string{"@id": f.iri}
			}
			all, _ := node["skos:"+f.name].([]any)
			node["skos:"+f.name] = append(all, value)
		}
		graph = append(graph, node)
		return nil
	})
	if err != nil {
		return err
	}
	out := json.NewEncoder(w)
	out.SetIndent("", " ")
	return out.Encode(map[string]any{"@context": map[string]string{"skos": Namespace}, "@graph": graph})
}
