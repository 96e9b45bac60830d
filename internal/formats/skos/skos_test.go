package skos_test

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/skos"
)

const head = "@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n@prefix ex: <http://www.example.com/> .\n"

const origin = "https://harbour.example"

func ids(next *site.PageID) func(int) ([]site.PageID, error) {
	return func(n int) ([]site.PageID, error) {
		made := make([]site.PageID, n)
		for i := range made {
			*next++
			made[i] = *next
		}
		return made, nil
	}
}

// bring imports a document into a site.
func bring(t require.TestingT, s *site.Site, document string) (*site.Site, *skos.Plan) {
	read, err := skos.Read([]byte(document))
	require.NoError(t, err)
	next := site.PageID(s.Count() + len(s.Binned()) + 500_000)
	plan, err := read.Brings(s, origin, edit.Place{Parent: s.Home()}, ids(&next))
	require.NoError(t, err)
	made, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
	require.NoError(t, err)
	return made, plan
}

// outline draws the topic lists of a site.
func outline(s *site.Site) string {
	var out strings.Builder
	for _, list := range s.TopicLists() {
		s.Walk(list, func(p *site.Page) bool {
			fmt.Fprintf(&out, "%s%s", strings.Repeat("  ", s.Level(p.ID)-s.Level(list)), p.Label)
			if len(p.OtherLabels) > 0 {
				fmt.Fprintf(&out, " (also %s)", strings.Join(p.OtherLabels, ", "))
			}
			if p.ScopeNote != "" {
				fmt.Fprintf(&out, " (for %s)", p.ScopeNote)
			}
			out.WriteString("\n")
			return true
		})
	}
	return out.String()
}

// Examples of the SKOS Primer (W3C Working Group Note, 18 August 2009, sections 2.2 to 2.4 and 4.1, from memory).
func TestExamplesOfThePrimer(t *testing.T) {
	s := testkit.Outline(t, "Home")
	s, plan := bring(t, s, head+`
ex:animalThesaurus a skos:ConceptScheme ; skos:prefLabel "Animal thesaurus"@en ; skos:hasTopConcept ex:animals .
ex:animals a skos:Concept ; skos:prefLabel "animals"@en, "animaux"@fr ; skos:altLabel "creatures"@en, "bêtes"@fr ;
  skos:hiddenLabel "beasties"@en ; skos:narrower ex:mammals ; skos:scopeNote "All that breathes"@en .
ex:mammals a skos:Concept ; skos:prefLabel "mammals"@en ; skos:broader ex:animals ; skos:inScheme ex:animalThesaurus .
ex:love a skos:Concept ; skos:prefLabel "love"@en ; skos:related ex:animals .`)
	assert.Equal(t, 2, plan.Lists)
	assert.Equal(t, 3, plan.Made)
	assert.Equal(t, "Animal thesaurus\n  animals (also bêtes@fr, creatures) (for All that breathes)\n    mammals\n"+
		"Topics\n  love\n", outline(s))
	animals := testkit.Find(t, s, "animals")
	assert.Equal(t, []string{"animaux@fr", "beasties"}, s.Page(animals).HiddenLabels)
}

// Integrity conditions of the SKOS Reference (S9, S13, S14, S27), and ours: no concept is broader than itself. All
// faults are told, each with its line and subject, and nothing is imported.
func TestIntegrityIsChecked(t *testing.T) {
	for name, c := range map[string]struct{ document, want string }{
		"S9":                          {`ex:a a skos:Concept, skos:ConceptScheme ; skos:prefLabel "a" .`, "line 3: http://www.example.com/a is a concept and a concept scheme (SKOS S9)"},
		"S13":                         {`ex:a a skos:Concept ; skos:prefLabel "love"@en ; skos:altLabel "love"@en .`, "“love” as two sorts of label (SKOS S13)"},
		"S13, alternative and hidden": {`ex:a a skos:Concept ; skos:prefLabel "x"@en ; skos:altLabel "love"@en ; skos:hiddenLabel "love"@en .`, "(SKOS S13)"},
		"S14":                         {`ex:a a skos:Concept ; skos:prefLabel "love"@en, "adoration"@en .`, "two preferred labels in one language (SKOS S14)"},
		"S27": {`ex:a a skos:Concept ; skos:prefLabel "a" ; skos:broader ex:b ; skos:related ex:c .
ex:b skos:prefLabel "b" ; skos:broader ex:c . ex:c skos:prefLabel "c" .`, "is related to http://www.example.com/c, which is broader or narrower than it (SKOS S27)"},
		"a chain that bites its tail": {`ex:a skos:prefLabel "a" ; skos:broader ex:b . ex:b skos:prefLabel "b" ; skos:broader ex:a .`, "is broader than itself"},
		"no preferred label":          {`ex:a a skos:Concept ; skos:altLabel "a" .`, "has no preferred label"},
		"nothing":                     {`ex:a ex:b ex:c .`, "there is no concept in it"},
		"broken":                      {"ex:a skos:prefLabel \"open .", "line 3: a quote that opens in this line is not"},
	} {
		_, err := skos.Read([]byte(head + c.document))
		require.ErrorContains(t, err, c.want, name)
	}
	// The same words in two languages, or of two concepts, are no fault; nor is “related” between neighbours.
	_, err := skos.Read(
		[]byte(head + `ex:a a skos:Concept ; skos:prefLabel "love"@en ; skos:altLabel "love"@fr ; skos:related ex:b .
ex:b a skos:Concept ; skos:prefLabel "love"@en .`),
	)
	require.NoError(t, err)
}

// Of several broader concepts the first by code points is kept, and the others are told.
func TestOneOfSeveralBroaderConceptsIsKept(t *testing.T) {
	document := head + `ex:c skos:prefLabel "c" ; skos:broader ex:b, ex:a . ex:a skos:prefLabel "a" . ex:b skos:prefLabel "b" .`
	read, err := skos.Read([]byte(document))
	require.NoError(t, err)
	assert.Equal(t, []string{
		"http://www.example.com/c stands in http://www.example.com/a; its other broader concepts are left aside: " +
			"http://www.example.com/b",
	}, read.Remarks)
	s, _ := bring(t, testkit.Outline(t, "Home"), document)
	assert.Equal(t, "Topics\n  a\n    c\n  b\n", outline(s))
}

// A second import knows the concepts again: it edits and moves what differs, makes what is new, and leaves what it does
// not name.
func TestASecondImportMatchesByConcept(t *testing.T) {
	first := head + `ex:l a skos:ConceptScheme ; skos:prefLabel "Places" . ex:a skos:inScheme ex:l ; skos:prefLabel "Øyra" .
ex:b skos:inScheme ex:l ; skos:prefLabel "East pier" . ex:c skos:inScheme ex:l ; skos:prefLabel "The Calf" .`
	s, _ := bring(t, testkit.Outline(t, "Home"), first)
	again, plan := bring(t, s, first)
	assert.Empty(t, plan.Ops)
	assert.Same(t, s.Page(2), again.Page(2))
	s, plan = bring(
		t,
		s,
		head+`ex:l a skos:ConceptScheme ; skos:prefLabel "Places" . ex:a skos:inScheme ex:l ; skos:prefLabel "Oyra" ;
  skos:altLabel "Øyra" . ex:b skos:broader ex:a ; skos:prefLabel "East pier" . ex:d skos:inScheme ex:l ; skos:prefLabel "Vesterhav" .`,
	)
	assert.Equal(t, []int{0, 1, 2, 1}, []int{plan.Lists, plan.Made, plan.Changed, plan.Missing})
	assert.Equal(t, "Places\n  Oyra (also Øyra)\n    East pier\n  The Calf\n  Vesterhav\n", outline(s))
}

// Whatever lists are drawn, each format brings them back as they were: to the site that they came from nothing, to
// another one all.
func TestWhatGoesOutComesBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.RandomTopics(t, testkit.Random(t, 5), 6)
		for _, topic := range s.TopicLists() {
			s = dressed(t, s, topic)
		}
		for _, format := range skos.Formats {
			var out bytes.Buffer
			require.NoError(t, skos.Write(&out, s, nil, origin, format))
			_, plan := bring(t, s, out.String())
			assert.Empty(t, plan.Ops, "%s\n%s", format, out.String())
			other, _ := bring(t, testkit.HomeAlone(), out.String())
			assert.ElementsMatch(t, strings.Split(outline(s), "\n"), strings.Split(outline(other), "\n"), format)
		}
	})
}

// dressed gives the topics of a list other labels and notes.
func dressed(t *rapid.T, s *site.Site, list site.PageID) *site.Site {
	words := rapid.SampledFrom([]string{"", "Isle", "a \"quoted\" <b>\\word", "æ & ø\nIsland", "Insel@de"})
	var ops []edit.Op
	s.Walk(list, func(p *site.Page) bool {
		if p.IsTopic() {
			ops = append(ops, edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{
				{Field: edit.FieldOtherLabels, New: words.Draw(t, "others")},
				{Field: edit.FieldScopeNote, New: rapid.SampledFrom([]string{"", "Not the “harbour”"}).Draw(t, "note")},
			}})
		}
		return true
	})
	made, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	return made
}

// A reference parser reads what we write. Source: Raptor, Debian package raptor2-utils.
func TestAReferenceParserReadsOurExports(t *testing.T) {
	rapper, err := exec.LookPath("rapper")
	if err != nil {
		t.Skip("rapper is not installed; “make test” brings it")
	}
	s := testkit.Outline(
		t,
		"Home\n  Places | kind=topic-list\n    Øyra & \"Oyra\" | kind=topic\n      East pier | kind=topic",
	)
	for format, parser := range map[string]string{"turtle": "turtle", "xml": "rdfxml"} {
		var out bytes.Buffer
		require.NoError(t, skos.Write(&out, s, nil, origin, format))
		file := filepath.Join(t.TempDir(), format)
		require.NoError(t, os.WriteFile(file, out.Bytes(), 0o600))
		counted, err := exec.Command(rapper, "-q", "-i", parser, "-o", "ntriples", file).Output()
		require.NoError(t, err, format)
		assert.Equal(t, 10, bytes.Count(counted, []byte("\n")), "%s\n%s", format, counted)
	}
	require.Error(t, skos.Write(&bytes.Buffer{}, s, nil, origin, "csv"))
}
