package consequence

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
)

// sayBlocks says of each block where it comes and goes, and how it looks otherwise.
func (r *Report) sayBlocks() []Sentence {
	var said []Sentence
	by := map[site.BlockID][]*fact{}
	for _, f := range r.facts.order {
		if f.block != 0 {
			by[f.block] = append(by[f.block], f)
		}
	}
	for _, id := range sortedIDs(by) {
		said = append(said, r.sayLooks(id, by[id])...)
	}
	for _, id := range sortedIDs(by) {
		said = append(said, r.sayPlaces(id, by[id])...)
	}
	return said
}

// sayPlaces says on how many pages a block appears and disappears, and where it stands there.
func (r *Report) sayPlaces(id site.BlockID, facts []*fact) []Sentence {
	var said []Sentence
	name := r.blockName(id)
	type place struct {
		topic topic
		words string
	}
	groups := map[place][]*fact{}
	var order []place
	for _, f := range facts {
		switch f.topic {
		case topicComes, topicGoes, topicStands, topicUncounted:
			k := place{f.topic, f.words}
			if groups[k] == nil {
				order = append(order, k)
			}
			groups[k] = append(groups[k], f)
		}
	}
	slices.SortStableFunc(order, func(a, b place) int { return cmp.Compare(placeRank[a.topic], placeRank[b.topic]) })
	for _, k := range order {
		region, where, _ := strings.Cut(k.words, "\x00")
		for _, b := range r.bundles(groups[k]) {
			b.items = distinct(b.items)
			text := ""
			switch on := r.on(b.items, false); k.topic {
			case topicComes:
				text = fmt.Sprintf(
					"%s appears on %s, %s in %s, %s.",
					name,
					on,
					where,
					r.regionName(region),
					r.whom(b.at),
				)
			case topicGoes:
				text = fmt.Sprintf("%s disappears from %s in %s %s.", name, on, r.regionName(region), r.whom(b.at))
			case topicStands:
				text = fmt.Sprintf("%s stands %s in %s on %s %s.", name, where, r.regionName(region), on, r.whom(b.at))
			case topicUncounted:
				text = fmt.Sprintf("%s may look otherwise on %s %s.", name, r.on(b.items, true), r.whom(b.at))
			}
			s := Sentence{About: "block", Text: text, Items: r.listed(b.items), Block: id}
			for _, f := range b.facts {
				if k.topic == topicComes && f.to != unknown && len(s.Words) < ItemLimit {
					s.Words = append(s.Words, Difference{Of: name, Is: r.facts.look(f.to).Words()})
				}
			}
			said = append(said, r.made(capital(s), b.at, b.items))
		}
	}
	return said
}

var placeRank = map[topic]int{topicComes: 1, topicStands: 2, topicGoes: 3, topicUncounted: 4}

func capital(s Sentence) Sentence {
	s.Text = say.Capital(s.Text)
	return s
}

// A told change is one with the groups of facts of which it is a part.
type toldChange struct {
	change
	groups []int
}

// sayLooks says how a block looks otherwise: changes of one kind that are seen on the same pages stand in one
// sentence.
func (r *Report) sayLooks(id site.BlockID, facts []*fact) []Sentence {
	groups := r.alikeLooks(facts)
	var said []Sentence
	name := r.blockName(id)
	for _, changes := range r.alikeChanges(groups) {
		var of [][]*fact
		told, size := map[int]bool{}, 0
		for _, ch := range changes {
			for _, g := range ch.groups {
				if !told[g] {
					told[g], of = true, append(of, groups[g])
				}
			}
		}
		for _, facts := range of {
			for _, f := range facts {
				size += len(f.marks)
			}
		}
		marks := make([]mark, 0, size)
		for _, facts := range of {
			for _, f := range facts {
				marks = append(marks, f.marks...)
			}
		}
		for _, spread := range r.gathered(marks) {
			for _, at := range r.parts(spread) {
				s := r.lookSentence(id, name, groups, of, changes, at)
				said = append(said, r.made(s, at.stretch, at.items))
			}
		}
	}
	return append(said, r.sayLights(id, name, facts)...)
}

// alikeLooks groups facts whose looks differ only in what the trail lights.
func (r *Report) alikeLooks(facts []*fact) [][]*fact {
	at := map[[2]int32]int{}
	var groups [][]*fact
	for _, f := range facts {
		if f.topic != topicLooks {
			continue
		}
		bases := [2]int32{r.facts.bases[f.is], r.facts.bases[f.to]}
		k, known := at[bases]
		if !known {
			k = len(groups)
			at[bases], groups = k, append(groups, nil)
		}
		groups[k] = append(groups[k], f)
	}
	return groups
}

// alikeChanges groups the changes of looks by kind and by the groups of facts in which they occur.
func (r *Report) alikeChanges(groups [][]*fact) [][]toldChange {
	type name struct {
		kind kind
		item string
	}
	at := map[name]int{}
	var all []toldChange
	for i, facts := range groups {
		was, is := r.facts.bases[facts[0].is], r.facts.bases[facts[0].to]
		if was == is {
			continue
		}
		for _, ch := range changesOf(r.facts.look(was), r.facts.look(is)) {
			n := name{ch.kind, ch.item}
			k, known := at[n]
			if !known {
				k = len(all)
				at[n], all = k, append(all, toldChange{change: ch})
			}
			if told := all[k].groups; len(told) == 0 || told[len(told)-1] != i {
				all[k].groups = append(told, i)
			}
		}
	}
	signed := map[string]int{}
	var grouped [][]toldChange
	for _, ch := range all {
		sign := []byte(ch.kind)
		for _, i := range ch.groups {
			if ch.diff == nil { // other words are told together, wherever they stand
				sign = binary.LittleEndian.AppendUint32(sign, uint32(i))
			}
		}
		k, known := signed[string(sign)]
		if !known {
			k = len(grouped)
			signed[string(sign)], grouped = k, append(grouped, nil)
		}
		grouped[k] = append(grouped[k], ch)
	}
	slices.SortStableFunc(
		grouped,
		func(a, b []toldChange) int { return cmp.Compare(kindRank[a[0].kind], kindRank[b[0].kind]) },
	)
	return grouped
}

// sayLights says where the trail lights other lines.
func (r *Report) sayLights(id site.BlockID, name string, facts []*fact) []Sentence {
	var lit []*fact
	words := map[*fact]string{}
	for _, f := range facts {
		if f.topic != topicLooks {
			continue
		}
		if item, differs := r.lightsOf(f); differs {
			lit, words[f] = append(lit, f), item
		}
	}
	var said []Sentence
	for _, b := range r.together(lit) {
		s := Sentence{
			About: "menu",
			Block: id,
			Text:  fmt.Sprintf("%s highlights other items on %s %s.", name, r.on(b.items, false), r.whom(b.at)),
		}
		for _, f := range b.facts {
			if !slices.Contains(s.Items, words[f]) && len(s.Items) < ItemLimit {
				s.Items = append(s.Items, words[f])
			}
		}
		said = append(said, r.made(capital(s), b.at, b.items))
	}
	return said
}

var kindRank = map[kind]int{
	kindGains:    1,
	kindLoses:    2,
	kindMoves:    3,
	kindRenames:  4,
	kindLeads:    5,
	kindCounts:   6,
	kindDresses:  6,
	kindSays:     7,
	kindTitles:   8,
	kindLists:    9,
	kindTells:    9,
	kindPictures: 10,
	kindBecomes:  11,
	kindNames:    12,
}

func (r *Report) lookSentence(
	id site.BlockID, name string, groups, of [][]*fact, group []toldChange, at part,
) Sentence {
	n := len(group)
	on := fmt.Sprintf(" on %s %s", r.on(at.items, false), r.whom(at.stretch))
	s := Sentence{About: "menu", Block: id}
	for _, ch := range group[:min(n, ItemLimit)] {
		if ch.diff != nil {
			d := *ch.diff
			if d.Of = name; len(ch.groups) == 1 {
				d.Of += r.onlyOn(groups[ch.groups[0]])
			}
			s.Words = append(s.Words, d)
		} else {
			s.Items = append(s.Items, ch.item)
		}
	}
	what := ""
	switch group[0].kind {
	case kindGains, kindLoses:
		what = r.comeAndGo(of, group[0].kind, n)
	case kindMoves:
		what = "has " + items(n) + " in another place"
	case kindRenames:
		what = "has " + items(n) + " renamed"
	case kindLeads:
		what = "leads to other addresses with " + items(n)
	case kindCounts:
		what = "counts the pages of " + items(n) + " anew"
	case kindDresses:
		what = "has " + items(n) + " dressed otherwise"
	default:
		s.About = "block"
		what = map[kind]string{
			kindSays: "says other words", kindTitles: "has another title", kindLists: "lists other pages",
			kindTells:    "tells something else of the pages that it lists",
			kindPictures: "shows another image", kindBecomes: "shows something else", kindNames: "is named otherwise to " +
				"screen readers",
		}[group[0].kind]
		s.Items = r.listed(at.items)
	}
	s.Text = name + " " + what + on
	if len(s.Items) == 1 && len(s.Words) == 0 {
		s.Text += ": " + s.Items[0]
	}
	s.Text += "."
	return capital(s)
}

// onlyOn names the one page on which facts hold; "" if there are more.
func (r *Report) onlyOn(facts []*fact) string {
	var only site.PageID
	for _, f := range facts {
		for _, m := range f.marks {
			page := m.page
			if m.peers != nil && len(m.peers.pages) == 1 {
				page = m.peers.pages[0]
			}
			if page == 0 || only != 0 && only != page {
				return ""
			}
			only = page
		}
	}
	return " on " + r.label(only)
}

// comeAndGo says how many items come or go; and the levels, where there are more or fewer of them on all pages
// concerned.
func (r *Report) comeAndGo(groups [][]*fact, k kind, n int) string {
	verb := map[kind]string{kindGains: "gains", kindLoses: "loses"}[k]
	was, is := 0, 0
	for i, facts := range groups {
		a := depthOf(r.facts.look(r.facts.bases[facts[0].is]).Lines)
		b := depthOf(r.facts.look(r.facts.bases[facts[0].to]).Lines)
		if i > 0 && (a != was || b != is) {
			return verb + " " + items(n)
		}
		was, is = a, b
	}
	fewer := k == kindLoses && is < was || k == kindGains && is > was
	if !fewer || was == 0 || is == 0 {
		return verb + " " + items(n)
	}
	return fmt.Sprintf(
		"shows %s instead of %s: it %s %s",
		count.Of(is, "level", "levels"),
		count.Number(was),
		verb,
		items(n),
	)
}
