package skos

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// keyLimit is the length of the longest key of a page, in characters.
const keyLimit = 100

// KeyOf gives the key of the page that a concept or scheme is known by: its IRI, or one made of it where it is too long
// for a key. What an export of this site names comes back to the page that it was.
func KeyOf(iri, origin string) string {
	if key, own := strings.CutPrefix(iri, origin+"/#"); own && origin != "" {
		return key
	}
	if len(iri) <= keyLimit && !strings.ContainsAny(iri, "| ") {
		return iri
	}
	sum := sha256.Sum256([]byte(iri))
	return "concept-" + hex.EncodeToString(sum[:16])
}

// A Plan is what an import does.
type Plan struct {
	Ops []edit.Op

	Lists, Made, Changed int // lists and topics that are made, topics that are edited or moved
	Missing              int // topics of the lists that the document does not name; they stay
}

// Brings gives the operations that bring a site to what a document says: lists and topics are known by their concept,
// made where they are not there, edited and moved where they differ. What it does not name stays. lists says where new
// lists stand; newIDs takes page ids.
func (d *Document) Brings(
	s *site.Site, origin string, lists edit.Place, newIDs func(int) ([]site.PageID, error),
) (*Plan, error) {
	b := &bringing{site: s, origin: origin, lists: lists, lang: languageOf(s), known: map[string]*site.Page{}}
	index := func(p *site.Page) bool { b.known[p.Key] = p; return true }
	s.Walk(s.Home(), index)
	for _, top := range s.Binned() {
		s.Walk(top, index)
	}
	n := 0
	for _, scheme := range d.Schemes {
		n += 1 + len(scheme.Concepts)
	}
	ids, err := newIDs(n)
	if err != nil {
		return nil, err
	}
	b.ids = ids
	for _, scheme := range d.Schemes {
		b.scheme(scheme)
	}
	return &b.plan, nil
}

// languageOf is that of a site's labels: its own, without a region.
func languageOf(s *site.Site) string {
	lang, _, _ := strings.Cut(strings.ToLower(s.Settings().Language), "-")
	return lang
}

type bringing struct {
	site   *site.Site
	origin string
	lists  edit.Place
	lang   string
	known  map[string]*site.Page // by key
	ids    []site.PageID
	at     map[string]site.PageID // pages of the concepts of the scheme, by IRI
	plan   Plan
}

func (b *bringing) newID() site.PageID {
	id := b.ids[0]
	b.ids = b.ids[1:]
	return id
}

// scheme brings one list, parents before what is in them.
func (b *bringing) scheme(s *Scheme) {
	list := b.list(s)
	b.at = make(map[string]site.PageID, len(s.Concepts))
	below := map[string][]*Concept{}
	inside := make(map[string]bool, len(s.Concepts))
	for _, c := range s.Concepts {
		inside[c.IRI] = true
	}
	for _, c := range s.Concepts {
		above := c.Broader
		if !inside[above] {
			above = ""
		}
		below[above] = append(below[above], c)
	}
	named := map[site.PageID]bool{list: true}
	queue := []string{""}
	for len(queue) > 0 {
		above := queue[0]
		queue = queue[1:]
		parent := cmp.Or(b.at[above], list)
		for _, c := range below[above] {
			b.at[c.IRI] = b.concept(c, parent, len(below[c.IRI]) > 0)
			named[b.at[c.IRI]] = true
			queue = append(queue, c.IRI)
		}
	}
	b.site.Walk(list, func(p *site.Page) bool {
		if !named[p.ID] {
			b.plan.Missing++
		}
		return true
	})
}

// list gives the page of a list, made if it is not there.
func (b *bringing) list(s *Scheme) site.PageID {
	key := KeyOf(cmp.Or(s.IRI, "urn:concepts-of-no-scheme"), b.origin)
	label := cmp.Or(b.words(s.Title), "Topics")
	if p := b.known[key]; p != nil && p.IsTopicList() && b.site.InTree(p.ID) {
		if p.Label != label && len(s.Title) > 0 {
			b.edit(p, edit.FieldLabel, label)
		}
		return p.ID
	}
	id := b.newID()
	b.plan.Lists++
	b.plan.Ops = append(b.plan.Ops, edit.OpMake{Page: id, Key: key, Place: b.lists, Fields: fields(
		edit.FieldLabel, label, edit.FieldKind, site.KindTopicList, edit.FieldStatus, string(site.StatusLive),
		edit.FieldSort, string(site.SortLabel),
	)})
	return id
}

func fields(pairs ...any) []edit.FieldChange {
	var made []edit.FieldChange
	for i := 0; i < len(pairs); i += 2 {
		if value := pairs[i+1].(string); value != "" {
			made = append(made, edit.FieldChange{Field: pairs[i].(edit.Field), New: value})
		}
	}
	return made
}

// words chooses among labels: the site's language, else words in none, else the first by language.
func (b *bringing) words(labels []Label) string {
	sorted := slices.SortedFunc(slices.Values(labels), func(x, y Label) int {
		return cmp.Or(b.rank(x)-b.rank(y), cmp.Compare(x.Lang, y.Lang), cmp.Compare(x.Words, y.Words))
	})
	if len(sorted) == 0 {
		return ""
	}
	return cut(sorted[0].Words, edit.LabelLimit)
}

func (b *bringing) rank(l Label) int {
	lang, _, _ := strings.Cut(l.Lang, "-")
	switch lang {
	case b.lang:
		return 0
	case "":
		return 1
	}
	return 2
}

func only(labels []Label, fits func(Label) bool) []Label {
	return slices.DeleteFunc(slices.Clone(labels), func(l Label) bool { return !fits(l) })
}

func cut(words string, limit int) string {
	if runes := []rune(words); len(runes) > limit {
		return string(runes[:limit])
	}
	return words
}

// written gives labels as the fields of a topic have them. Those of another language have its tag behind an @.
func (b *bringing) written(labels []Label, but ...string) string {
	var all []string
	for _, l := range labels {
		words := cut(l.Words, edit.LabelLimit-20)
		if b.rank(l) == 2 {
			words += "@" + l.Lang
		}
		if words != "" && !slices.Contains(but, words) {
			all = append(all, words)
		}
	}
	slices.Sort(all)
	all = slices.Compact(all)
	return strings.Join(all[:min(len(all), edit.LabelsLimit)], "\n")
}

// concept gives the page of a concept: made, or edited and moved where it differs.
func (b *bringing) concept(c *Concept, parent site.PageID, broad bool) site.PageID {
	label := b.words(c.Pref)
	var foreign []Label
	for _, l := range c.Pref {
		if b.rank(l) == 2 && cut(l.Words, edit.LabelLimit) != label {
			foreign = append(foreign, l)
		}
	}
	// What nobody is shown in another language is found by too; its place is that of the preferred labels there.
	own := func(l Label) bool { return b.rank(l) < 2 }
	others := b.written(slices.Concat(c.Alt, only(c.Hidden, func(l Label) bool { return !own(l) })), label)
	hidden := b.written(slices.Concat(only(c.Hidden, own), foreign), append(strings.Split(others, "\n"), label)...)
	note := cut(b.words(c.Notes), edit.SummaryLimit)
	key := KeyOf(c.IRI, b.origin)
	p := b.known[key]
	if p == nil || !p.IsTopic() || !b.site.InTree(p.ID) {
		id := b.newID()
		b.plan.Made++
		sort := ""
		if broad {
			sort = string(site.SortLabel)
		}
		if p != nil { // its key is that of something else, or in the bin
			key = ""
		}
		b.plan.Ops = append(
			b.plan.Ops,
			edit.OpMake{Page: id, Key: key, Place: edit.Place{Parent: parent}, Fields: fields(
				edit.FieldLabel,
				label,
				edit.FieldKind,
				site.KindTopic,
				edit.FieldStatus,
				string(site.StatusLive),
				edit.FieldSort,
				sort,
				edit.FieldOtherLabels,
				others,
				edit.FieldHiddenLabels,
				hidden,
				edit.FieldScopeNote,
				note,
			)},
		)
		return id
	}
	before := len(b.plan.Ops)
	if p.Parent != parent {
		b.plan.Ops = append(b.plan.Ops, edit.OpMove{
			Page: p.ID, From: edit.Place{Parent: p.Parent}, To: edit.Place{Parent: parent},
		})
	}
	var changes []edit.FieldChange
	for _, want := range []edit.FieldChange{
		{Field: edit.FieldOtherLabels, New: others},
		{Field: edit.FieldHiddenLabels, New: hidden},
		{Field: edit.FieldLabel, New: label},
		{Field: edit.FieldScopeNote, New: note},
	} {
		if want.Old = edit.Value(p, want.Field); want.Old != want.New {
			changes = append(changes, want)
		}
	}
	if len(changes) > 0 {
		b.plan.Ops = append(b.plan.Ops, edit.OpEdit{Page: p.ID, Fields: changes})
	}
	if len(b.plan.Ops) > before {
		b.plan.Changed++
	}
	return p.ID
}

func (b *bringing) edit(p *site.Page, of edit.Field, value string) {
	b.plan.Changed++
	b.plan.Ops = append(b.plan.Ops, edit.OpEdit{
		Page: p.ID, Fields: []edit.FieldChange{{Field: of, Old: edit.Value(p, of), New: value}},
	})
}
