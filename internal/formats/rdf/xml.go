package rdf

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/url"
	"strconv"
	"strings"
)

// xmlReader reads a document of RDF/XML element by element.
type xmlReader struct {
	in      *xml.Decoder
	blanks  int
	depth   int
	triples []Triple
}

// A frame is what an element takes from those around it.
type frame struct {
	base *url.URL
	lang string
}

func readXML(document []byte) ([]Triple, error) {
	x := &xmlReader{in: xml.NewDecoder(bytes.NewReader(document))}
	err := x.document()
	var syntax *xml.SyntaxError
	if errors.As(err, &syntax) {
		return nil, &Fault{syntax.Line, "the XML is broken: " + syntax.Msg}
	}
	if err != nil {
		return nil, err
	}
	return x.triples, nil
}

func (x *xmlReader) line() int {
	line, _ := x.in.InputPos()
	return line
}

func (x *xmlReader) wrong(format string, args ...any) error {
	return &Fault{x.line(), fmt.Sprintf(format, args...)}
}

func (x *xmlReader) emit(s, p, o Term, line int) {
	x.triples = append(x.triples, Triple{s, p, o, line})
}

func (x *xmlReader) document() error {
	for {
		token, err := x.in.Token()
		switch {
		case errors.Is(err, io.EOF):
			return nil
		case err != nil:
			return err
		}
		start, opens := token.(xml.StartElement)
		if !opens {
			continue
		}
		if start.Name.Space != Syntax || start.Name.Local != "RDF" {
			if _, err := x.node(start, frame{}); err != nil {
				return err
			}
			continue
		}
		f, err := x.frame(start, frame{})
		if err != nil {
			return err
		}
		if err := x.nodes(f); err != nil {
			return err
		}
	}
}

// nodes reads what stands in rdf:RDF, to its end.
func (x *xmlReader) nodes(f frame) error {
	for {
		token, err := x.in.Token()
		if err != nil {
			return x.ended(err)
		}
		switch element := token.(type) {
		case xml.StartElement:
			if _, err := x.node(element, f); err != nil {
				return err
			}
		case xml.EndElement:
			return nil
		}
	}
}

func (x *xmlReader) ended(err error) error {
	if errors.Is(err, io.EOF) {
		return x.wrong("the document ends too early")
	}
	return err
}

// frame reads the base and language that an element sets.
func (x *xmlReader) frame(start xml.StartElement, around frame) (frame, error) {
	for _, a := range start.Attr {
		switch {
		case a.Name.Space == xmlns && a.Name.Local == "lang", a.Name.Space == "xml" && a.Name.Local == "lang":
			around.lang = strings.ToLower(a.Value)
		case a.Name.Space == xmlns && a.Name.Local == "base", a.Name.Space == "xml" && a.Name.Local == "base":
			base, err := url.Parse(a.Value)
			if err != nil {
				return around, x.wrong("the base is no IRI")
			}
			around.base = base
		}
	}
	return around, nil
}

func (x *xmlReader) newBlank() Term {
	x.blanks++
	return Term{Kind: Blank, Value: "b" + strconv.Itoa(x.blanks)}
}

func (x *xmlReader) iri(f frame, text string) (Term, error) {
	made, err := resolve(f.base, text)
	if err != nil {
		return Term{}, x.wrong("%v", err)
	}
	return Term{Value: made}, nil
}

// node reads an element that stands for a node, to its end.
func (x *xmlReader) node(start xml.StartElement, around frame) (subject Term, err error) {
	if x.depth++; x.depth > nestingLimit {
		return subject, x.wrong("elements stand more than %d deep in each other", nestingLimit)
	}
	defer func() { x.depth-- }()
	f, err := x.frame(start, around)
	if err != nil {
		return subject, err
	}
	line := x.line()
	if subject, err = x.subject(start, f); err != nil {
		return subject, err
	}
	if start.Name.Space != Syntax || start.Name.Local != "Description" {
		x.emit(subject, Term{Value: Syntax + "type"}, Term{Value: start.Name.Space + start.Name.Local}, line)
	}
	for _, a := range properties(start) {
		x.emit(subject, Term{Value: a.Name.Space + a.Name.Local}, x.words(f, a.Value, a), line)
	}
	return subject, x.said(subject, f)
}

func (x *xmlReader) words(f frame, value string, a xml.Attr) Term {
	if a.Name.Space == Syntax && a.Name.Local == "type" {
		return Term{Value: value}
	}
	return Term{Kind: Literal, Value: value, Lang: f.lang}
}

// subject reads which node an element is about.
func (x *xmlReader) subject(start xml.StartElement, f frame) (Term, error) {
	for _, a := range start.Attr {
		if a.Name.Space != Syntax {
			continue
		}
		switch a.Name.Local {
		case "about":
			return x.iri(f, a.Value)
		case "ID":
			return x.iri(f, "#"+a.Value)
		case "nodeID":
			return Term{Kind: Blank, Value: "_" + a.Value}, nil
		}
	}
	return x.newBlank(), nil
}

// properties gives the attributes of an element that say something of its node.
func properties(start xml.StartElement) []xml.Attr {
	var some []xml.Attr
	for _, a := range start.Attr {
		inner := a.Name.Space == Syntax && a.Name.Local != "type"
		if a.Name.Space == "" || a.Name.Space == "xmlns" || a.Name.Space == xmlns || a.Name.Space == "xml" || inner {
			continue
		}
		some = append(some, a)
	}
	return some
}

// said reads the elements that stand for what is said of a node, to the end of the node.
func (x *xmlReader) said(subject Term, f frame) error {
	items := 0
	for {
		token, err := x.in.Token()
		if err != nil {
			return x.ended(err)
		}
		switch element := token.(type) {
		case xml.StartElement:
			predicate := element.Name.Space + element.Name.Local
			if predicate == Syntax+"li" {
				items++
				predicate = Syntax + "_" + strconv.Itoa(items)
			}
			if err := x.property(subject, Term{Value: predicate}, element, f); err != nil {
				return err
			}
		case xml.EndElement:
			return nil
		case xml.CharData:
			if words := strings.TrimSpace(string(element)); words != "" {
				return x.wrong("“%s” stands where a property should", words)
			}
		}
	}
}

// property reads one thing that is said of a node, to its end.
func (x *xmlReader) property(subject, predicate Term, start xml.StartElement, around frame) error {
	f, err := x.frame(start, around)
	if err != nil {
		return err
	}
	line := x.line()
	given := map[string]string{}
	for _, a := range start.Attr {
		if a.Name.Space == Syntax {
			given[a.Name.Local] = a.Value
		}
	}
	say := func(object Term) { x.emit(subject, predicate, object, line) }
	resource, isResource := given["resource"]
	node, isNode := given["nodeID"]
	switch more := properties(start); {
	case isResource:
		object, err := x.iri(f, resource)
		if err != nil {
			return err
		}
		say(object)
		return x.in.Skip()
	case isNode:
		say(Term{Kind: Blank, Value: "_" + node})
		return x.in.Skip()
	case given["parseType"] == "Resource":
		object := x.newBlank()
		say(object)
		return x.said(object, f)
	case given["parseType"] == "Collection":
		return x.collection(say, f, line)
	case given["parseType"] != "":
		var inner struct {
			Text string `xml:",innerxml"`
		}
		if err := x.in.DecodeElement(&inner, &start); err != nil {
			return err
		}
		say(Term{Kind: Literal, Value: inner.Text, Type: Syntax + "XMLLiteral"})
		return nil
	case len(more) > 0:
		object := x.newBlank()
		say(object)
		for _, a := range more {
			x.emit(object, Term{Value: a.Name.Space + a.Name.Local}, x.words(f, a.Value, a), line)
		}
		return x.in.Skip()
	}
	return x.content(say, f, given["datatype"])
}

// content reads words, or one node, to the end of the property.
func (x *xmlReader) content(say func(Term), f frame, datatype string) error {
	var words strings.Builder
	node := false
	for {
		token, err := x.in.Token()
		if err != nil {
			return x.ended(err)
		}
		switch element := token.(type) {
		case xml.CharData:
			words.Write(element)
		case xml.StartElement:
			if node {
				return x.wrong("a property has two values; each needs an element of its own")
			}
			node = true
			object, err := x.node(element, f)
			if err != nil {
				return err
			}
			say(object)
		case xml.EndElement:
			if !node {
				made := Term{Kind: Literal, Value: words.String(), Lang: f.lang, Type: datatype}
				if datatype != "" {
					made.Lang = ""
				}
				say(made)
			}
			return nil
		}
	}
}

// collection reads a list of nodes, to the end of the property.
func (x *xmlReader) collection(say func(Term), f frame, line int) error {
	var items []Term
	for {
		token, err := x.in.Token()
		if err != nil {
			return x.ended(err)
		}
		switch element := token.(type) {
		case xml.StartElement:
			item, err := x.node(element, f)
			if err != nil {
				return err
			}
			items = append(items, item)
		case xml.EndElement:
			say(chain(items, x.newBlank, func(s, p, o Term) { x.emit(s, p, o, line) }))
			return nil
		}
	}
}
