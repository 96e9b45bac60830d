package rdf

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// lines writes triples as N-Triples do, without blank nodes' names, sorted.
func lines(triples []Triple) []string {
	term := func(t Term) string {
		switch {
		case t.Kind == Blank:
			return "_"
		case t.Kind == IRI:
			return "<" + t.Value + ">"
		case t.Lang != "":
			return fmt.Sprintf("%q@%s", t.Value, t.Lang)
		case t.Type != "":
			return fmt.Sprintf("%q^^<%s>", t.Value, t.Type)
		}
		return fmt.Sprintf("%q", t.Value)
	}
	var all []string
	for _, t := range triples {
		all = append(all, term(t.Subject)+" "+term(t.Predicate)+" "+term(t.Object))
	}
	slices.Sort(all)
	return all
}

// Examples of RDF 1.1 Turtle (sections 2.1 to 2.8, from memory), of RDF 1.1 XML Syntax (2.2 to 2.16, from memory), and
// of JSON-LD 1.1 (from memory).
var examples = map[string]struct {
	document string
	want     []string
}{
	"prefixes, “a”, lists of predicates and objects": {
		`@base <http://example.org/> .
@prefix foaf: <http://xmlns.com/foaf/0.1/> .
PREFIX rel: <http://www.perceive.net/schemas/relationship/>
<#green-goblin> rel:enemyOf <#spiderman> ; a foaf:Person ; # a comment
    foaf:name "Green Goblin", "Grüner Kobold"@de-AT ; .`,
		[]string{
			`<http://example.org/#green-goblin> <http://www.perceive.net/schemas/relationship/enemyOf> <http://example.org/#spiderman>`,
			`<http://example.org/#green-goblin> <http://www.w3.org/1999/02/22-rdf-syntax-ns#type> <http://xmlns.com/foaf/0.1/Person>`,
			`<http://example.org/#green-goblin> <http://xmlns.com/foaf/0.1/name> "Green Goblin"`,
			`<http://example.org/#green-goblin> <http://xmlns.com/foaf/0.1/name> "Grüner Kobold"@de-at`,
		},
	},
	"numbers, truth, long words and escapes": {
		`@prefix : <http://example.org/> .
:helium :atomicNumber 2 ; :mass 4.002602 ; :c -1.2E-9 ; :known true ; :says """a "quoted"
line""" ; :is 'caf\u00E9\t' ; :at "2026"^^:year.`,
		[]string{
			`<http://example.org/helium> <http://example.org/at> "2026"^^<http://example.org/year>`,
			`<http://example.org/helium> <http://example.org/atomicNumber> "2"^^<http://www.w3.org/2001/XMLSchema#integer>`,
			`<http://example.org/helium> <http://example.org/c> "-1.2E-9"^^<http://www.w3.org/2001/XMLSchema#double>`,
			`<http://example.org/helium> <http://example.org/is> "café\t"`,
			`<http://example.org/helium> <http://example.org/known> "true"^^<http://www.w3.org/2001/XMLSchema#boolean>`,
			`<http://example.org/helium> <http://example.org/mass> "4.002602"^^<http://www.w3.org/2001/XMLSchema#decimal>`,
			`<http://example.org/helium> <http://example.org/says> "a \"quoted\"\nline"`,
		},
	},
	"blank nodes and lists": {
		`@prefix : <http://e.example/> .
[] :knows [ :name "Bob" ] . _:x.y :in ( 1 :b ) .`,
		[]string{
			`_ <http://e.example/in> _`,
			`_ <http://e.example/knows> _`,
			`_ <http://e.example/name> "Bob"`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#first> "1"^^<http://www.w3.org/2001/XMLSchema#integer>`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#first> <http://e.example/b>`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#rest> <http://www.w3.org/1999/02/22-rdf-syntax-ns#nil>`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#rest> _`,
		},
	},
	"nodes, properties and languages of XML": {
		`<?xml version="1.0"?>
<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns:dc="http://purl.org/dc/elements/1.1/"
  xmlns:ex="http://example.org/stuff/1.0/" xml:base="http://www.w3.org/TR/">
  <rdf:Description rdf:about="rdf-syntax-grammar" dc:title="RDF1.1 XML Syntax">
    <ex:editor rdf:parseType="Resource"><ex:fullName>Dave Beckett</ex:fullName></ex:editor>
    <dc:title xml:lang="de">RDF/XML-Syntax</dc:title>
    <ex:size rdf:datatype="http://www.w3.org/2001/XMLSchema#int">123</ex:size>
    <ex:see rdf:resource="#top"/>
  </rdf:Description>
  <ex:Document rdf:ID="snack"><ex:has rdf:parseType="Collection"><rdf:Description rdf:about="http://example.org/banana"/></ex:has></ex:Document>
</rdf:RDF>`,
		[]string{
			`<http://www.w3.org/TR/#snack> <http://example.org/stuff/1.0/has> _`,
			`<http://www.w3.org/TR/#snack> <http://www.w3.org/1999/02/22-rdf-syntax-ns#type> <http://example.org/stuff/1.0/Document>`,
			`<http://www.w3.org/TR/rdf-syntax-grammar> <http://example.org/stuff/1.0/editor> _`,
			`<http://www.w3.org/TR/rdf-syntax-grammar> <http://example.org/stuff/1.0/see> <http://www.w3.org/TR/#top>`,
			`<http://www.w3.org/TR/rdf-syntax-grammar> <http://example.org/stuff/1.0/size> "123"^^<http://www.w3.org/2001/XMLSchema#int>`,
			`<http://www.w3.org/TR/rdf-syntax-grammar> <http://purl.org/dc/elements/1.1/title> "RDF/XML-Syntax"@de`,
			`<http://www.w3.org/TR/rdf-syntax-grammar> <http://purl.org/dc/elements/1.1/title> "RDF1.1 XML Syntax"`,
			`_ <http://example.org/stuff/1.0/fullName> "Dave Beckett"`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#first> <http://example.org/banana>`,
			`_ <http://www.w3.org/1999/02/22-rdf-syntax-ns#rest> <http://www.w3.org/1999/02/22-rdf-syntax-ns#nil>`,
		},
	},
	"JSON-LD": {
		`{"@context": {"name": "http://schema.org/name", "knows": {"@id": "http://schema.org/knows", "@type": "@id"}},
  "@id": "http://me.example/", "name": {"@value": "Manu", "@language": "en"}, "knows": "http://you.example/"}`,
		[]string{
			`<http://me.example/> <http://schema.org/knows> <http://you.example/>`,
			`<http://me.example/> <http://schema.org/name> "Manu"@en`,
		},
	},
}

func TestExamplesOfTheFormats(t *testing.T) {
	for name, c := range examples {
		read, err := Read([]byte(c.document))
		require.NoError(t, err, name)
		assert.Equal(t, c.want, lines(read), name)
	}
}

// What we read is what a reference parser reads. Source: Raptor, Debian package raptor2-utils.
func TestAReferenceParserReadsTheSame(t *testing.T) {
	rapper, err := exec.LookPath("rapper")
	if err != nil {
		t.Skip("rapper is not installed; “make test” brings it")
	}
	for name, c := range examples {
		format := "turtle"
		switch c.document[0] {
		case '{':
			continue // it reads none
		case '<':
			format = "rdfxml"
		}
		file := filepath.Join(t.TempDir(), "document")
		require.NoError(t, os.WriteFile(file, []byte(c.document), 0o600))
		out, err := exec.Command(rapper, "-q", "-i", format, "-o", "turtle", file).Output()
		require.NoError(t, err, name)
		again, err := Read(out)
		require.NoError(t, err, name)
		assert.Equal(t, c.want, lines(again), name)
	}
}

// What is wrong is said with its line, and nothing is read.
func TestFaultsNameTheirLine(t *testing.T) {
	for document, want := range map[string]string{
		"":                                     "line 1: the document is empty",
		"\n<a> <b> <c>":                        "line 2: there should be “.” before “the end”",
		"@prefix : <http://e/> .\n:a x:b :c .": "line 2: the prefix “x:” is not declared",
		"<a>\n<b>\n\"open .\n":                 "line 3: a quote that opens in this line is not closed",
		"<a> <b> \"\"\"open\n.\n":              "line 1: a quote that opens in this line is not closed",
		"<a> \"b\" <c> .":                      "line 1: “\"b\" <c> .” is neither an IRI nor a name",
		"<a> _:b <c> .":                        "line 1: a predicate must be an IRI",
		"<a b> <c> <d> .":                      "line 1: “a b” is no IRI",
		"<a> <b> \"\\q\" .":                    "line 1: “\\q” is no escape",
		"<a> <b> ( <c> ":                       "line 1: a list is not closed",
		"<a> <b> \xff .":                       "line 1: the document is not UTF-8",
		"<?xml version=\"1.0\"?>\n<rdf:RDF":    "line 2: the XML is broken: unexpected EOF",
		"{\n\"a\": }":                          "line 2: the JSON is broken",
		`{"@context": "https://elsewhere.example/"}`: "stands elsewhere",
	} {
		read, err := Read([]byte(document))
		assert.Nil(t, read)
		require.ErrorContains(t, err, want, document)
	}
	deep := "@prefix : <http://e/> . :a :b " + strings.Repeat("[ :b ", 300)
	_, err := Read([]byte(deep))
	require.ErrorContains(t, err, "more than 200 deep")
}

// Whatever is given, reading ends with triples or with a fault that names a line.
func FuzzRead(f *testing.F) {
	for _, c := range examples {
		f.Add([]byte(c.document))
	}
	f.Fuzz(func(t *testing.T, document []byte) {
		read, err := Read(document)
		if err != nil {
			assert.Nil(t, read)
			var fault *Fault
			if assert.ErrorAs(t, err, &fault) {
				assert.Positive(t, fault.Line)
			}
		}
	})
}
