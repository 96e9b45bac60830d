package rdf

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/piprate/json-gold/ld"
)

// noContexts refuses contexts that stand elsewhere: nothing is fetched from a document that somebody gives.
type noContexts struct{}

func (noContexts) LoadDocument(address string) (*ld.RemoteDocument, error) {
	return nil, fmt.Errorf("the context “%s” stands elsewhere; give the document with its context in it", address)
}

// readJSON reads JSON-LD by its reference algorithms (JSON-LD 1.1 Processing Algorithms and API, 8).
func readJSON(document []byte) ([]Triple, error) {
	var plain any
	if err := json.Unmarshal(document, &plain); err != nil {
		line := 1
		var syntax *json.SyntaxError
		if errors.As(err, &syntax) {
			line += strings.Count(string(document[:min(int(syntax.Offset), len(document))]), "\n")
		}
		return nil, &Fault{line, "the JSON is broken: " + err.Error()}
	}
	options := ld.NewJsonLdOptions("")
	options.DocumentLoader = noContexts{}
	read, err := ld.NewJsonLdProcessor().ToRDF(plain, options)
	if err != nil {
		return nil, &Fault{1, "the JSON-LD can't be read: " + err.Error()}
	}
	var triples []Triple
	for _, quads := range read.(*ld.RDFDataset).Graphs {
		for _, quad := range quads {
			triples = append(triples, Triple{
				Subject: termOf(quad.Subject), Predicate: termOf(quad.Predicate), Object: termOf(quad.Object),
			})
		}
	}
	if len(triples) > Limit {
		return nil, &Fault{1, fmt.Sprintf("the document has more than %d statements", Limit)}
	}
	return triples, nil
}

func termOf(node ld.Node) Term {
	switch n := node.(type) {
	case ld.Literal:
		made := Term{Kind: Literal, Value: n.Value, Lang: strings.ToLower(n.Language), Type: n.Datatype}
		if made.Lang != "" || made.Type == xsd+"string" {
			made.Type = ""
		}
		return made
	case ld.BlankNode:
		return Term{Kind: Blank, Value: n.Attribute}
	}
	return Term{Value: node.GetValue()}
}
