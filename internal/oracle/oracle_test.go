package oracle

import (
	"encoding/json"
	"fmt"
	"os"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A draft is a list of operations with their sorts.
type draft []step

type step struct {
	sort sort
	op   edit.Op
}

// A told draft is one with what it makes, what it is said to do, and what it does.
type told struct {
	site   *site.Site
	said   []consequence.Sentence
	heard  map[string][]string
	paths  []string
	sorts  []sort
	titles string
}

// An examination counts cases and collects what breaks the laws.
type examination struct {
	drawn, refused map[sort]int
	with, without  map[sort]int
	cases, quiet   int
	faults         []string
	kinds          map[string]int
	seed           uint64
}

const draftsPerWorld = 12

func TestReportsSayWhatAnswersShow(t *testing.T) {
	cases := 6000
	if n, err := strconv.Atoi(os.Getenv("VINELADDER_ORACLE")); err == nil {
		cases = n
	}
	seed := uint64(1)
	if n, err := strconv.ParseUint(os.Getenv("VINELADDER_SEED"), 10, 64); err == nil {
		seed = n
	}
	x := &examination{
		drawn:   map[sort]int{},
		refused: map[sort]int{},
		with:    map[sort]int{},
		without: map[sort]int{},
		kinds:   map[string]int{},
	}
	defer debug.SetGCPercent(debug.SetGCPercent(400)) // pages are made and thrown away by the thousand
	all := sorts()
	if only := os.Getenv("VINELADDER_ORACLE_SORT"); only != "" { // as in "settings date_order"
		all = slices.DeleteFunc(
			all,
			func(of sort) bool { return strings.TrimSpace(of.op+" "+string(of.field)) != only },
		)
	}
	began := time.Now()
	for n := uint64(0); x.cases < cases; n++ {
		x.world(newWorld(seed*1_000_000+n), all)
		if len(x.faults) > 400 {
			break
		}
	}
	t.Logf(
		"%d cases in %s, %d without a public difference",
		x.cases,
		time.Since(began).Round(time.Millisecond),
		x.quiet,
	)
	x.judge(t, all)
}

// unseen are operations of which nobody can tell while the site is open, and that only settings of editors hear of.
var unseen = map[sort]bool{
	{"settings", edit.FieldBinDays}: true, {"settings", edit.FieldPaleBadges}: true, {"settings", edit.FieldAskWhy}: true,
	{"settings", edit.FieldLookAtLinks}: true, {"settings", edit.FieldMostBeside}: true,
	{"settings", edit.FieldMostLevels}: true,
	{"settings", edit.FieldZone}:       true, {"settings", edit.FieldDates}: true,
	{"kind", edit.FieldName}: true, {"kind", edit.FieldDefaultPlace}: true, {"kind", edit.FieldPagesListed}: true,
	{"kind", edit.FieldTopicLists}: true, {"make kind", ""}: true, {"take kind", ""}: true,
	{"set", edit.FieldName}: true, {"make set", ""}: true, {"take set", ""}: true,
	{"detail", edit.FieldChoices}: true, {"detail", edit.FieldHelp}: true, {"detail", edit.FieldRequired}: true,
	{"page", edit.FieldMergedInto}:  true, // until the topic goes to the bin
	{"page", edit.FieldOtherLabels}: true, {"page", edit.FieldHiddenLabels}: true, {"page", edit.FieldScopeNote}: true,
	{"page", edit.FieldOwner}: true, {"page", edit.FieldReview}: true, {"page", edit.FieldNote}: true,
}

// judge holds the generator to its word: every operation on every field is drawn often enough with a public
// difference and without, and few are refused.
func (x *examination) judge(t *testing.T, all []sort) {
	drawn, refused := 0, 0
	for _, of := range all {
		drawn, refused = drawn+x.drawn[of], refused+x.refused[of]
		if x.cases >= 4000 {
			assert.True(t, unseen[of] || x.with[of] >= 20, "%v: %d cases with a public difference", of, x.with[of])
			assert.GreaterOrEqual(t, x.without[of], 5, "%v: cases without a public difference", of)
		}
		if os.Getenv("VINELADDER_ORACLE_SHARES") != "" {
			t.Logf(
				"%s %s: %d drawn, %d refused, %d with, %d without",
				of.op,
				of.field,
				x.drawn[of],
				x.refused[of],
				x.with[of],
				x.without[of],
			)
		}
	}
	t.Logf("%d operations drawn, %d refused", drawn, refused)
	assert.LessOrEqual(t, refused*5, drawn, "operations are refused")
	for kind, n := range x.kinds {
		t.Logf("%d × %s", n, kind)
	}
	for i, fault := range x.faults {
		if i == 12 {
			t.Errorf("and %d more", len(x.faults)-i)
			break
		}
		t.Error(fault)
	}
}

func (x *examination) fault(kind, format string, args ...any) {
	x.kinds[kind]++
	if x.kinds[kind] <= 3 {
		x.faults = append(x.faults, fmt.Sprintf("%s (world %d): ", kind, x.seed)+fmt.Sprintf(format, args...))
	} else {
		x.faults = append(x.faults, "")
	}
	x.faults = slices.DeleteFunc(x.faults, func(f string) bool { return f == "" && x.kinds[kind] < 1000 })
}

// world examines pairs of drafts on one site.
func (x *examination) world(w *world, all []sort) {
	was := w.site
	x.seed = w.seed
	l := &listener{viewers: consequence.ViewersOf(was, nil, now), heard: map[name]string{}}
	for range draftsPerWorld / 2 {
		w.site = was
		d := x.draft(w, all)
		if len(d) == 0 {
			continue
		}
		first := made(was, d)
		second := made(was, w.other(was, d))
		l.moments = append([]time.Time{now}, edgesOf(was, first.site, second.site)...)
		paths := pathsOf(was, first.site, second.site)
		before := l.listen(was, paths, true)
		for _, side := range []*told{first, second} {
			side.paths, side.heard = paths, l.listen(side.site, paths, false)
			side.said = consequence.Compare(was, side.site, l.viewers, texts).Sentences()
			whole := consequence.CompareWhole(was, side.site, l.viewers, texts)
			if all := spoken(whole.Sentences()); all != spoken(side.said) {
				x.fault(
					"miscounted "+words(side.sorts),
					"%s\n%s\n-- looking everywhere --\n%s",
					side.titles,
					spoken(side.said),
					all,
				)
			}
			x.cases++
			x.count(side, before)
			x.complete(was, side, before, l)
			x.truthful(was, side, before, l)
		}
		x.separate(first, second)
	}
}

// draft draws one to three operations, each on what those before it made.
func (x *examination) draft(w *world, all []sort) draft {
	var d draft
	for range w.IntN(3) + 1 {
		of := all[w.IntN(len(all))]
		short, quiet := sort{}, false
		if len(d) == 0 {
			of = all[(x.cases/2)%len(all)]
			if short, quiet = x.short(all); x.cases%8 == 0 && short.op != "" {
				of = short
			}
		}
		op := w.draw(of)
		if op == nil {
			continue
		}
		x.drawn[of]++
		if !w.do(op) {
			x.refused[of]++
			continue
		}
		d = append(d, step{of, op})
		if w.chance(8) || quiet && of == short { // back and forth: whatever it is, nobody can tell
			return append(d, step{of, w.last.Inverse()})
		}
	}
	return d
}

// short gives an operation of which there are too few cases by far, and whether those without a public difference
// lack.
func (x *examination) short(all []sort) (of sort, quiet bool) {
	due := 24 * x.cases / 4000 // so that all have their share by the number of cases at which it is asked for
	for _, of := range all {
		switch {
		case !unseen[of] && x.with[of] < min(22, due):
			return of, false
		case x.without[of] < min(6, due/3):
			return of, true
		}
	}
	return sort{}, false
}

// other gives a draft with one operation left out, or drawn anew.
func (w *world) other(was *site.Site, d draft) draft {
	i := w.IntN(len(d))
	if w.chance(2) {
		return slices.Delete(slices.Clone(d), i, i+1)
	}
	w.site = made(was, d[:i]).site
	other := slices.Clone(d)
	if op := w.draw(d[i].sort); op != nil {
		other[i].op = op
	}
	return other
}

// made applies what of a draft can be done, and settles it as a publication would.
func made(was *site.Site, d draft) *told {
	t := &told{site: was}
	for _, step := range d {
		if next, _, err := edit.Apply(t.site, step.op, now); err == nil {
			t.site = next
			t.sorts = append(t.sorts, step.sort)
			op, _ := edit.Encode(step.op)
			t.titles += string(op) + "\n"
		}
	}
	t.site = edit.Settle(was, t.site, now)
	return t
}

func (x *examination) count(side *told, before map[string][]string) {
	differs := false
	for _, path := range side.paths {
		differs = differs || !slices.Equal(before[path], side.heard[path])
	}
	if !differs {
		x.quiet++
	}
	for _, of := range side.sorts {
		if differs {
			x.with[of]++
		} else {
			x.without[of]++
		}
	}
}

// holds says whether a sentence is about a viewer at a moment.
func holds(s *consequence.Sentence, viewer int, at time.Time) bool {
	if at.Before(s.From) && at.After(now) || at.Equal(now) && !s.From.IsZero() ||
		!s.Until.IsZero() && !at.Before(s.Until) {
		return false
	}
	return s.For == nil && s.About == "settings" || slices.Contains(s.For, viewer)
}

// subjects are the pages that an address is about, before and after.
func subjects(was, is *site.Site, path string, at time.Time) []site.PageID {
	var pages []site.PageID
	normal, _ := address.Normal(strings.SplitN(path, "?", 2)[0])
	for _, s := range []*site.Site{was, is} {
		settings := s.Settings()
		found := address.Resolve(s, normal, at)
		pages = append(pages, found.Page, settings.NotFound, settings.NoAccess, settings.Shut)
		if path == "/sign-in" {
			pages = append(pages, settings.SignIn)
		}
		for id := found.Page; id != 0 && s.Page(id) != nil && !s.InTree(id); id = s.Page(id).Parent {
			pages = append(pages, id)
		}
	}
	return slices.DeleteFunc(pages, func(id site.PageID) bool { return id == 0 })
}

// names says whether a sentence names what an address is about.
func names(s *consequence.Sentence, path string, pages []site.PageID) bool {
	if s.About == "settings" ||
		slices.ContainsFunc(s.Pages, func(id site.PageID) bool { return slices.Contains(pages, id) }) {
		return true
	}
	plain := strings.SplitN(path, "?", 2)[0]
	return slices.ContainsFunc(append(s.Items, s.Text), func(item string) bool {
		return slices.Contains(strings.FieldsFunc(item, func(r rune) bool { return r == ' ' || r == ',' }), plain)
	}) || s.Forms
}

// complete: if an answer differs for somebody, a sentence names what it is about and whom it is for.
func (x *examination) complete(was *site.Site, side *told, before map[string][]string, l *listener) {
	viewers := len(l.viewers.Names)
	for _, path := range side.paths {
		for i := range before[path] {
			if before[path][i] == side.heard[path][i] {
				continue
			}
			at, viewer := l.moments[i/viewers], i%viewers
			said := func(pages []site.PageID) bool {
				return slices.ContainsFunc(side.said, func(s consequence.Sentence) bool {
					return s.About != "nothing" && !s.If && holds(&s, viewer, at) && names(&s, path, pages)
				})
			}
			silent := !said(subjects(was, side.site, path, at))
			if path == sitemap { // each page that comes or goes is told of; those who search are not signed in
				silent = viewer == 0 && slices.ContainsFunc(
					listed(was, side.site, before[path][i], side.heard[path][i], at),
					func(id site.PageID) bool { return !said([]site.PageID{id}) },
				)
			}
			if !silent {
				continue
			}
			x.fault(
				"silent "+words(side.sorts),
				"%s for %s at %s\n%s\n%s\n%s",
				path,
				l.viewers.Names[viewer],
				at,
				difference(before[path][i], side.heard[path][i]),
				side.titles,
				spoken(side.said),
			)
			return
		}
	}
}

// truthful: each sentence is witnessed by an answer for each viewer that it names, and for each page.
func (x *examination) truthful(was *site.Site, side *told, before map[string][]string, l *listener) {
	viewers := len(l.viewers.Names)
	for _, s := range side.said {
		if s.About == "nothing" || s.If || s.For == nil {
			continue
		}
		seen := map[site.PageID]bool{}
		for k, at := range l.moments {
			for _, viewer := range s.For {
				witnessed := !holds(&s, viewer, at) || len(s.Pages) == 0 || s.Forms ||
					!at.Equal(s.From) && !at.Equal(now)
				for _, page := range s.Pages {
					if slices.ContainsFunc(side.paths, func(path string) bool {
						return before[path][k*viewers+viewer] != side.heard[path][k*viewers+viewer] &&
							slices.Contains(subjects(was, side.site, path, at), page)
					}) {
						witnessed, seen[page] = true, true
					}
				}
				if !witnessed {
					x.fault(
						"false "+words(side.sorts),
						"%q for %s at %s\n%s\n%s",
						s.Text,
						l.viewers.Names[viewer],
						at,
						side.titles,
						spoken(side.said),
					)
					return
				}
			}
		}
		for _, page := range s.Pages {
			if !seen[page] {
				x.fault(
					"false "+words(side.sorts),
					"%q of page %d\n%s\n%s",
					s.Text,
					page,
					side.titles,
					spoken(side.said),
				)
				return
			}
		}
	}
}

// separate: two reports are equal exactly when all answers are.
func (x *examination) separate(a, b *told) {
	answers := true
	for _, path := range a.paths {
		answers = answers && slices.Equal(a.heard[path], b.heard[path])
	}
	reports := spoken(a.said) == spoken(b.said)
	if answers != reports {
		what := map[bool]string{true: "told apart", false: "not told apart"}[answers]
		diff := ""
		for _, path := range a.paths {
			for i := range a.heard[path] {
				if a.heard[path][i] != b.heard[path][i] && diff == "" {
					diff = fmt.Sprint(path, " ", i, ": ", difference(a.heard[path][i], b.heard[path][i]))
				}
			}
		}
		x.fault(
			what+" "+words(a.sorts),
			"%s\nA %s\nB %s\n%s\n-- or --\n%s",
			diff,
			a.titles,
			b.titles,
			spoken(a.said),
			spoken(b.said),
		)
	}
}

// spoken writes down all that a report says of states that hold.
func spoken(said []consequence.Sentence) string {
	var lines []string
	for _, s := range said {
		if s.If || s.About == "nothing" {
			continue
		}
		var words []string
		for _, d := range s.Words {
			read, _ := json.Marshal(d)
			words = append(words, string(read))
		}
		slices.Sort(words)
		items := slices.Clone(s.Items)
		slices.Sort(items)
		lines = append(lines, fmt.Sprintf("%s %q %s", s.Text, items, words))
	}
	slices.Sort(lines)
	return strings.Join(lines, "\n")
}

func words(sorts []sort) string {
	var all []string
	for _, of := range sorts {
		all = append(all, strings.TrimSpace(of.op+" "+string(of.field)))
	}
	return strings.Join(all, " + ")
}

// difference shows where two answers part.
func difference(a, b string) string {
	at := 0
	for at < len(a) && at < len(b) && a[at] == b[at] {
		at++
	}
	from := max(0, at-60)
	return fmt.Sprintf("…%s\n≠ …%s", a[from:min(len(a), at+160)], b[from:min(len(b), at+160)])
}
