// Package skos brings topic lists in and out as SKOS concept schemes (W3C Recommendation “SKOS Simple Knowledge
// Organization System Reference”, 18 August 2009): in Turtle, RDF/XML or JSON-LD. Reading checks the whole document
// before anything is done, and says of all that is wrong in which line or of which subject it is.
package skos

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/formats/rdf"
)

// Namespace is that of the vocabulary.
const Namespace = "http://www.w3.org/2004/02/skos/core#"

const (
	isA        = rdf.Syntax + "type"
	dcTitle    = "http://purl.org/dc/terms/title"
	oldTitle   = "http://purl.org/dc/elements/1.1/title"
	labelOfRDF = "http://www.w3.org/2000/01/rdf-schema#label"
)

// A Label is words in a language; "": in none that is named.
type Label struct{ Words, Lang string }

// A Concept is a topic to be.
type Concept struct {
	IRI     string
	Pref    []Label // one a language (S14)
	Alt     []Label
	Hidden  []Label
	Notes   []Label
	Broader string   // the one that is kept: of several the first by code points
	Related []string // kept to be checked (S27)
	Line    int
}

// A Scheme is a topic list to be, its concepts by IRI.
type Scheme struct {
	IRI      string // "" for concepts of no scheme
	Title    []Label
	Concepts []*Concept
}

// A Document is what was read, with what is not as it stands there.
type Document struct {
	Schemes  []*Scheme
	Remarks  []string // what was left aside
	concepts map[string]*Concept
	schemes  map[string]*Scheme
	in       map[string]string // the scheme of a concept
	broader  map[string][]string
}

// FaultLimit is the number of faults that are told.
const FaultLimit = 20

// Read reads a document.
func Read(document []byte) (*Document, error) {
	triples, err := rdf.Read(document)
	if err != nil {
		return nil, err
	}
	d := &Document{
		concepts: map[string]*Concept{}, schemes: map[string]*Scheme{}, in: map[string]string{},
		broader: map[string][]string{},
	}
	for _, t := range triples {
		d.declare(t)
	}
	for _, t := range triples {
		d.take(t)
	}
	d.settle()
	if len(d.concepts) == 0 && len(d.schemes) == 0 {
		return nil, &rdf.Fault{Line: 1, Sentence: "there is no concept in it"}
	}
	return d, d.check()
}

// declare finds concepts and schemes: by what they are said to be, and by what is said of them (S4 to S21).
func (d *Document) declare(t rdf.Triple) {
	name, ours := strings.CutPrefix(t.Predicate.Value, Namespace)
	switch {
	case t.Predicate.Value == isA && t.Object.Value == Namespace+"Concept":
		d.concept(t.Subject, t.Line)
	case t.Predicate.Value == isA && t.Object.Value == Namespace+"ConceptScheme":
		d.scheme(t.Subject)
	case !ours:
	case name == "inScheme", name == "topConceptOf":
		d.concept(t.Subject, t.Line)
		d.scheme(t.Object)
	case name == "hasTopConcept":
		d.scheme(t.Subject)
		d.concept(t.Object, t.Line)
	case slices.Contains([]string{"broader", "narrower", "related", "broaderTransitive", "narrowerTransitive"}, name):
		d.concept(t.Subject, t.Line)
		d.concept(t.Object, t.Line)
	}
}

func nameOf(t rdf.Term) string {
	if t.Kind == rdf.Blank {
		return "_:" + t.Value
	}
	return t.Value
}

func (d *Document) concept(t rdf.Term, line int) *Concept {
	iri := nameOf(t)
	c := d.concepts[iri]
	if c == nil {
		c = &Concept{IRI: iri, Line: line}
		d.concepts[iri] = c
	}
	return c
}

func (d *Document) scheme(t rdf.Term) *Scheme {
	iri := nameOf(t)
	s := d.schemes[iri]
	if s == nil {
		s = &Scheme{IRI: iri}
		d.schemes[iri] = s
	}
	return s
}

// take reads one statement about a concept or scheme.
func (d *Document) take(t rdf.Triple) {
	subject := nameOf(t.Subject)
	label := Label{strings.Join(strings.Fields(t.Object.Value), " "), t.Object.Lang}
	if s := d.schemes[subject]; s != nil {
		switch t.Predicate.Value {
		case Namespace + "prefLabel", dcTitle, oldTitle, labelOfRDF:
			s.Title = append(s.Title, label)
		case Namespace + "hasTopConcept":
			d.in[nameOf(t.Object)] = subject
		}
	}
	c := d.concepts[subject]
	if c == nil {
		return
	}
	object := nameOf(t.Object)
	switch strings.TrimPrefix(t.Predicate.Value, Namespace) {
	case "prefLabel":
		c.Pref = append(c.Pref, label)
	case "altLabel":
		c.Alt = append(c.Alt, label)
	case "hiddenLabel":
		c.Hidden = append(c.Hidden, label)
	case "scopeNote", "definition":
		c.Notes = append(c.Notes, label)
	case "inScheme", "topConceptOf":
		if _, known := d.in[subject]; !known {
			d.in[subject] = object
		}
	case "broader":
		d.broader[subject] = append(d.broader[subject], object)
	case "narrower":
		d.broader[object] = append(d.broader[object], subject)
	case "related":
		c.Related = append(c.Related, object)
	}
}

// settle chooses one broader concept for each (rules 7: a topic has one place), and gives concepts to their schemes.
func (d *Document) settle() {
	for iri, broader := range d.broader {
		slices.Sort(broader)
		broader = slices.Compact(broader)
		d.concepts[iri].Broader = broader[0]
		if len(broader) > 1 {
			const aside = "%s stands in %s; its other broader concepts are left aside: %s"
			d.Remarks = append(d.Remarks, fmt.Sprintf(aside, iri, broader[0], strings.Join(broader[1:], ", ")))
		}
	}
	loose := &Scheme{}
	for iri, c := range d.concepts {
		d.schemeOf(c, map[string]bool{})
		if s := d.schemes[d.in[iri]]; s != nil {
			s.Concepts = append(s.Concepts, c)
		} else {
			loose.Concepts = append(loose.Concepts, c)
		}
	}
	for _, s := range d.schemes {
		d.Schemes = append(d.Schemes, s)
	}
	slices.SortFunc(d.Schemes, func(a, b *Scheme) int { return cmp.Compare(a.IRI, b.IRI) })
	if len(loose.Concepts) > 0 {
		d.Schemes = append(d.Schemes, loose)
	}
	for _, s := range d.Schemes {
		slices.SortFunc(s.Concepts, func(a, b *Concept) int { return cmp.Compare(a.IRI, b.IRI) })
	}
	slices.Sort(d.Remarks)
}

// schemeOf gives the scheme of a concept, which one that names none has from its broader ones.
func (d *Document) schemeOf(c *Concept, seen map[string]bool) string {
	if d.in[c.IRI] != "" || c.Broader == "" || seen[c.IRI] {
		return d.in[c.IRI]
	}
	seen[c.IRI] = true
	if above := d.concepts[c.Broader]; above != nil {
		if in := d.schemeOf(above, seen); in != "" {
			d.in[c.IRI] = in
		}
	}
	return d.in[c.IRI]
}

// check holds the document to the integrity conditions of the Reference, and to ours.
func (d *Document) check() error {
	var faults []error
	wrong := func(c *Concept, format string, args ...any) {
		if len(faults) < FaultLimit {
			where := c.IRI
			if c.Line > 0 {
				where = fmt.Sprintf("line %d: %s", c.Line, c.IRI)
			}
			faults = append(faults, fmt.Errorf("%s %s", where, fmt.Sprintf(format, args...)))
		}
	}
	for _, s := range d.Schemes {
		for _, c := range s.Concepts {
			if d.schemes[c.IRI] != nil {
				wrong(c, "is a concept and a concept scheme (SKOS S9)")
			}
			d.checkLabels(c, wrong)
			above := d.ancestors(c)
			if slices.Contains(above, c.IRI) {
				wrong(c, "is broader than itself, by %s", strings.Join(above, ", "))
			}
			for _, related := range c.Related {
				if other := d.concepts[related]; slices.Contains(above, related) ||
					other != nil && slices.Contains(d.ancestors(other), c.IRI) {
					wrong(c, "is related to %s, which is broader or narrower than it (SKOS S27)", related)
				}
			}
			if in := d.in[c.Broader]; c.Broader != "" && in != d.in[c.IRI] {
				wrong(c, "stands in %s, which is in another scheme", c.Broader)
			}
		}
	}
	return errors.Join(faults...)
}

// ancestors gives the broader concepts of one, the nearest first, to the top or to where they come round again.
func (d *Document) ancestors(c *Concept) []string {
	var above []string
	for at := c.Broader; at != "" && !slices.Contains(above, at); {
		above = append(above, at)
		next := d.concepts[at]
		if next == nil {
			break
		}
		at = next.Broader
	}
	return above
}

func (d *Document) checkLabels(c *Concept, wrong func(c *Concept, format string, args ...any)) {
	langs := map[string]bool{}
	for _, l := range c.Pref {
		if langs[l.Lang] {
			wrong(c, "has two preferred labels in one language (SKOS S14): “%s”", l.Words)
		}
		langs[l.Lang] = true
	}
	for _, pair := range [][2][]Label{{c.Pref, c.Alt}, {c.Pref, c.Hidden}, {c.Alt, c.Hidden}} {
		for _, l := range pair[0] {
			if slices.Contains(pair[1], l) {
				wrong(c, "has “%s” as two sorts of label (SKOS S13)", l.Words)
			}
		}
	}
	if len(c.Pref) == 0 {
		wrong(c, "has no preferred label")
	}
}
