package skos_test

import (
	"bufio"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/skos"
)

// nouns reads WordNet's nouns with their hypernyms, instances among them. Source: Debian package wordnet-base, whose
// format is wndb(5WN).
func nouns(t testing.TB) (words map[string]string, above map[string][]string) {
	file, err := os.Open("/usr/share/wordnet/data.noun")
	if err != nil {
		t.Skip("WordNet is not installed; “make test” brings it")
	}
	defer file.Close()
	words, above = map[string]string{}, map[string][]string{}
	for in := bufio.NewScanner(file); in.Scan(); {
		line := in.Text()
		if strings.HasPrefix(line, " ") {
			continue // the licence
		}
		data, _, _ := strings.Cut(line, " | ")
		f := strings.Fields(data)
		count, err := strconv.ParseInt(f[3], 16, 64)
		require.NoError(t, err)
		words[f[0]] = strings.ReplaceAll(f[4], "_", " ")
		pointers := f[4+2*count:]
		for p := pointers[1:]; len(p) >= 4; p = p[4:] {
			if (p[0] == "@" || p[0] == "@i") && p[2] == "n" {
				above[f[0]] = append(above[f[0]], p[1])
			}
		}
	}
	return words, above
}

// The 82,115 nouns of WordNet come in as a topic list whose depths and paths are those of a plain walk up the first
// hypernym of each.
func TestWordNetAsATopicList(t *testing.T) {
	words, above := nouns(t)
	var document strings.Builder
	document.WriteString(head + "@prefix wn: <urn:noun:> .\nwn:all a skos:ConceptScheme ; skos:prefLabel \"Nouns\" .\n")
	for id, label := range words {
		fmt.Fprintf(&document, "wn:n%s skos:inScheme wn:all ; skos:prefLabel %q .\n", id, label)
		for _, broader := range above[id] {
			fmt.Fprintf(&document, "wn:n%s skos:broader wn:n%s .\n", id, broader)
		}
	}
	read, err := skos.Read([]byte(document.String()))
	require.NoError(t, err)
	s := testkit.HomeAlone()
	next := site.PageID(1)
	plan, err := read.Brings(s, origin, edit.Place{Parent: 1}, ids(&next))
	require.NoError(t, err)
	assert.Equal(t, len(words), plan.Made)
	assert.Greater(t, plan.Made, 80_000)
	s, _, err = edit.ApplyAll(s, plan.Ops, testkit.Now)
	require.NoError(t, err)

	first := func(id string) string {
		if len(above[id]) == 0 {
			return ""
		}
		return slices.Min(above[id])
	}
	depths, want := map[int]int{}, map[int]int{}
	byKey := map[string]*site.Page{}
	list := s.TopicLists()[0]
	s.Walk(list, func(p *site.Page) bool {
		if p.IsTopic() {
			depths[s.Level(p.ID)-s.Level(list)]++
			byKey[p.Key] = p
		}
		return true
	})
	for id := range words {
		depth := 0
		for at := id; at != ""; at = first(at) {
			depth++
		}
		want[depth]++
	}
	assert.Equal(t, want, depths)
	checked := 0
	for id := range words {
		var path []string
		for at := id; at != ""; at = first(at) {
			path = append(path, words[at])
		}
		slices.Reverse(path)
		var is []string
		for _, p := range s.Path(byKey["urn:noun:n"+id].ID) {
			if p.IsTopic() {
				is = append(is, p.Label)
			}
		}
		require.Equal(t, path, is)
		if checked++; checked == 2000 {
			break
		}
	}
}
