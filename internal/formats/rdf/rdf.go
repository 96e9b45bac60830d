// Package rdf reads graphs: Turtle (RDF 1.1 Turtle), RDF/XML (RDF 1.1 XML Syntax) and JSON-LD 1.1, as triples with the
// line in which each stands. It knows nothing of what they mean.
package rdf

import (
	"bytes"
	"fmt"
	"net/url"
	"strings"
)

// A Kind is what sort of term a term is.
type Kind int

const (
	IRI Kind = iota
	Blank
	Literal
)

// A Term is a node of a graph.
type Term struct {
	Kind  Kind
	Value string // the IRI, the name of the blank node in its document, or the words
	Lang  string // of a literal, in lower case; "": none
	Type  string // of a literal: the IRI of its datatype; "": plain words
}

// A Triple is one statement. Line counts from 1; 0 where the format says none.
type Triple struct {
	Subject, Predicate, Object Term
	Line                       int
}

// A Fault is something wrong in a document, with the line in which it stands.
type Fault struct {
	Line     int
	Sentence string
}

func (f *Fault) Error() string { return fmt.Sprintf("line %d: %s", f.Line, f.Sentence) }

// Limit is the number of triples that a document can have.
const Limit = 5_000_000

// Namespaces that readers know.
const (
	Syntax = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
	xsd    = "http://www.w3.org/2001/XMLSchema#"
	xmlns  = "http://www.w3.org/XML/1998/namespace"
)

// Read reads a document in the format that it looks like: JSON-LD begins with a brace or bracket, RDF/XML with an
// angle bracket that is no IRI of Turtle.
func Read(document []byte) ([]Triple, error) {
	document = bytes.TrimPrefix(document, []byte("\ufeff"))
	begin := bytes.TrimSpace(document)
	switch {
	case len(begin) == 0:
		return nil, &Fault{1, "the document is empty"}
	case begin[0] == '{' || begin[0] == '[' && !isTurtle(begin):
		return readJSON(document)
	case bytes.HasPrefix(begin, []byte("<?xml")),
		bytes.HasPrefix(begin, []byte("<!")),
		bytes.HasPrefix(begin, []byte("<rdf:")):
		return readXML(document)
	}
	return readTurtle(document)
}

// isTurtle says whether a bracket opens a blank node and not a list of JSON.
func isTurtle(begin []byte) bool {
	rest := bytes.TrimSpace(begin[1:])
	return len(rest) > 0 && !bytes.ContainsRune([]byte(`{["]-0123456789tfn`), rune(rest[0]))
}

// resolve gives an IRI of a document from its base (RFC 3986, 5.2).
func resolve(base *url.URL, iri string) (string, error) {
	if strings.ContainsAny(iri, "<>\"{}|^`\\ ") {
		return "", fmt.Errorf("“%s” is no IRI", iri)
	}
	u, err := url.Parse(iri)
	switch {
	case err != nil:
		return "", fmt.Errorf("“%s” is no IRI", iri)
	case u.IsAbs() || base == nil:
		return iri, nil
	}
	return base.ResolveReference(u).String(), nil
}
