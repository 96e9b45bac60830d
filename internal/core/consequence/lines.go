package consequence

import (
	"cmp"
	"slices"
	"strings"

	"vineladder/internal/core/common"
	"vineladder/internal/core/count"
	"vineladder/internal/core/look"
)

// A kind is how the look of a block differs.
type kind string

const (
	kindGains    kind = "gains"
	kindLoses    kind = "loses"
	kindMoves    kind = "moves"
	kindRenames  kind = "renames"
	kindLeads    kind = "leads"
	kindCounts   kind = "counts"
	kindDresses  kind = "dresses" // hint, tab, badge, icon
	kindSays     kind = "says"
	kindTitles   kind = "titles"
	kindNames    kind = "names"
	kindPictures kind = "pictures"
	kindLists    kind = "lists"
	kindTells    kind = "tells"
	kindBecomes  kind = "becomes"
)

// A change is one difference between two looks.
type change struct {
	kind kind
	item string
	diff *Difference // nil: the item says it all
}

// changesOf reads off two looks how they differ.
func changesOf(was, is *look.Look) []change {
	var all []change
	differs := func(k kind, a, b []string) {
		if d := differenceOf(a, b); len(d.Was)+len(d.Is) > 0 {
			all = append(
				all,
				change{kind: k, item: strings.Join(d.Was, "\n") + "\x00" + strings.Join(d.Is, "\n"), diff: &d},
			)
		}
	}
	part := func(only look.Look) []string { return only.Words() }
	differs(kindNames, part(look.Look{Named: was.Named}), part(look.Look{Named: is.Named}))
	differs(
		kindTitles,
		part(look.Look{Title: was.Title, Level: was.Level}),
		part(look.Look{Title: is.Title, Level: is.Level}),
	)
	differs(kindSays, part(look.Look{Text: was.Text}), part(look.Look{Text: is.Text}))
	differs(kindPictures, part(look.Look{File: was.File, Alt: was.Alt}), part(look.Look{File: is.File, Alt: is.Alt}))
	lists := kindLists
	if slices.EqualFunc(was.Rows, is.Rows, func(a, b look.Row) bool { return a.Link == b.Link }) && len(is.Rows) > 0 {
		lists = kindTells
	}
	differs(
		lists,
		part(look.Look{Pages: was.Pages, Rows: was.Rows, Table: was.Table}),
		part(look.Look{Pages: is.Pages, Rows: is.Rows, Table: is.Table}),
	)
	differs(kindBecomes, part(look.Look{Other: was.Other}), part(look.Look{Other: is.Other}))
	return append(all, lineChanges(was.Lines, is.Lines)...)
}

// lightsOf says how the trail lights other lines, if that does not follow from lines that went or have other names or
// addresses.
func (r *Report) lightsOf(f *fact) (item string, differs bool) {
	l := r.facts
	was, is, sameLines := l.lit[l.ways[f.is]], l.lit[l.ways[f.to]], l.bases[f.is] == l.bases[f.to]
	if was.words == is.words || was.to == is.to || !sameLines && isRest(was.words, is.words) {
		return "", false
	}
	return cmp.Or(is.words, "nothing") + " instead of " + cmp.Or(was.words, "nothing"), true
}

// A spot is a line with its place among the others.
type spot struct {
	line  *look.Line
	unlit string // but for the number of pages
	above string // the label of the line above it
	place string
	done  bool
	open  bool // what is below it is among the others already
}

// pairing finds lines again. Lines are known by what they show: equal ones stay, or have moved; one with the same
// label in the same place leads elsewhere or is dressed otherwise; one that leads to the same is renamed.
type pairing struct {
	was, is []spot
	all     []change
}

func lineChanges(was, is []look.Line) []change {
	p := &pairing{}
	p.siblings(was, is, "", "")
	for grows := true; grows; {
		for _, by := range likenesses {
			p.pair(by)
		}
		grows = open(&p.was)
		grows = open(&p.is) || grows
	}
	for i := range p.was {
		if s := &p.was[i]; !s.done {
			p.all = append(p.all, change{kind: kindLoses, item: s.line.Unlit() + in(s.above)})
		}
	}
	for i := range p.is {
		if s := &p.is[i]; !s.done {
			p.all = append(p.all, change{kind: kindGains, item: s.line.Unlit() + ", " + s.place})
		}
	}
	return p.all
}

func in(above string) string {
	if above == "" {
		return ""
	}
	return " in “" + above + "”"
}

func unlits(lines []look.Line) []string {
	words := make([]string, len(lines))
	for i := range lines {
		words[i] = lines[i].Uncounted()
	}
	return words
}

// siblings lets equal lines stay in the longest order that both lists keep, and goes down into them.
func (p *pairing) siblings(was, is []look.Line, aboveWas, aboveIs string) {
	a, b := unlits(was), unlits(is)
	i, k := 0, 0
	for _, pair := range append(common.Lines(a, b), [2]int{len(was), len(is)}) {
		for ; i < pair[0]; i++ {
			p.was = append(p.was, spot{line: &was[i], unlit: a[i], above: aboveWas, place: placed(was, i, aboveWas)})
		}
		for ; k < pair[1]; k++ {
			p.is = append(p.is, spot{line: &is[k], unlit: b[k], above: aboveIs, place: placed(is, k, aboveIs)})
		}
		if i < len(was) && k < len(is) {
			p.counts(&was[i], &is[k])
			p.siblings(was[i].Lines, is[k].Lines, was[i].Label, is[k].Label)
		}
		i, k = i+1, k+1
	}
}

func placed(lines []look.Line, at int, above string) string {
	place := "first"
	if at > 0 {
		place = "after " + among(lines, at-1)
	}
	return place + in(above)
}

// among names a line among those beside it: by its label, and which one it is where several have that.
func among(lines []look.Line, at int) string {
	which, all := 0, 0
	for i := range lines {
		if lines[i].Label == lines[at].Label {
			if all++; i <= at {
				which++
			}
		}
	}
	if all == 1 {
		return "“" + lines[at].Label + "”"
	}
	return "the " + count.Ordinal(which) + " “" + lines[at].Label + "”"
}

// likenesses are the ways in which a line can be the same as another, the surest first; "" is like nothing.
var likenesses = []func(*spot) string{
	func(s *spot) string { return s.unlit },
	func(s *spot) string { return s.above + "\x00" + s.line.Label },
	func(s *spot) string { return s.line.Leads() },
	func(s *spot) string { return s.line.Label },
}

// pair finds lines again by one likeness. Lines below those that are found join, and are found in their turn.
func (p *pairing) pair(by func(*spot) string) {
	free := map[string][]int{}
	listed := 0
	for i := 0; i < len(p.was); i++ {
		for ; listed < len(p.is); listed++ {
			if s := &p.is[listed]; !s.done {
				free[by(s)] = append(free[by(s)], listed)
			}
		}
		like := by(&p.was[i])
		if at := free[like]; like != "" && !p.was[i].done && len(at) > 0 {
			free[like] = at[1:]
			p.found(i, at[0])
		}
	}
}

// found tells how a line differs that was found again.
func (p *pairing) found(i, k int) {
	a, b := p.was[i], p.is[k]
	p.was[i].done, p.is[k].done = true, true
	was, is := a.line, b.line
	add := func(k kind, item string) { p.all = append(p.all, change{kind: k, item: item}) }
	moved := a.unlit == b.unlit || a.place != b.place && a.above != b.above // equal lines that stay are no spots
	if moved {
		add(kindMoves, is.Unlit()+", "+b.place)
	}
	if was.Label != is.Label {
		add(kindRenames, "“"+was.Label+"” becomes “"+is.Label+"”")
	}
	if was.Leads() != is.Leads() && !moved {
		add(
			kindLeads,
			"“"+is.Label+"” leads to "+cmp.Or(is.Leads(), "nothing")+" instead of "+cmp.Or(was.Leads(), "nothing"),
		)
	}
	p.counts(was, is)
	if was.Hint != is.Hint {
		add(kindDresses, "“"+is.Label+"” has the hint “"+is.Hint+"” instead of “"+was.Hint+"”")
	}
	if was.NewTab != is.NewTab {
		add(
			kindDresses,
			"“"+is.Label+"” opens in "+map[bool]string{true: "a new tab", false: "the same tab"}[is.NewTab],
		)
	}
	if was.Badge != is.Badge {
		add(kindDresses, "“"+is.Label+"” has "+look.BadgeWords(is.Badge)+" instead of "+look.BadgeWords(was.Badge))
	}
	if was.Icon != is.Icon {
		add(kindDresses, "“"+is.Label+"” has "+iconWords(is.Icon)+" instead of "+iconWords(was.Icon))
	}
	if a.open || b.open {
		return
	}
	p.was[i].open, p.is[k].open = true, true
	p.siblings(was.Lines, is.Lines, was.Label, is.Label)
}

// counts tells how many pages a line says that there are, where it says something else.
func (p *pairing) counts(was, is *look.Line) {
	words := "“" + is.Label + "” "
	switch {
	case was.Counted == is.Counted && was.Count == is.Count:
		return
	case !is.Counted:
		words += "says no more how many pages there are"
	case !was.Counted:
		words += "says that there are " + count.Pages(is.Count)
	default:
		words += count.Number(is.Count) + " instead of " + count.Number(was.Count)
	}
	p.all = append(p.all, change{kind: kindCounts, item: words})
}

func iconWords(icon string) string {
	if icon == "" {
		return "no icon"
	}
	return "the icon " + icon
}

// open takes what is below the lines that were not found again among the others.
func open(spots *[]spot) bool {
	grew := false
	for i := range *spots {
		s := &(*spots)[i]
		if s.done || s.open {
			continue
		}
		s.open = true
		lines, label := s.line.Lines, s.line.Label
		for k := range lines {
			*spots = append(
				*spots,
				spot{line: &lines[k], unlit: lines[k].Uncounted(), above: label, place: placed(lines, k, label)},
			)
			grew = true
		}
	}
	return grew
}

// isRest says whether a way of lit lines is what is left of another one whose last lines went.
func isRest(was, is string) bool {
	plain := func(way string) string {
		way, _ = strings.CutSuffix(way, " as this page")
		way, _ = strings.CutSuffix(way, " as the nearest")
		return way
	}
	was, is = plain(was), plain(is)
	return is == "" || strings.HasPrefix(was, is+" › ")
}
