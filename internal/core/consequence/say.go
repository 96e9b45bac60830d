package consequence

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Sentences says the report, the most important first. There is always at least one.
func (r *Report) Sentences() []Sentence {
	said := append(r.saySettings(), r.sayStandsIn()...)
	said = append(said, r.sayOutcomes()...)
	said = append(said, r.sayAddresses()...)
	said = append(said, r.sayBlocks()...)
	said = append(said, r.sayLayouts()...)
	said = append(said, r.sayLost()...)
	said = append(said, r.sayWords(topicWords, "The words of %s change %s.")...)
	said = append(said, r.sayWords(topicAppears, "The words with which %s appears were edited too, %s.")...)
	said = append(said, r.sayWords(topicCrumbs, "The breadcrumb of %s reads otherwise %s.")...)
	said = append(said, r.sayPrograms()...)
	said = append(said, r.sayRoles()...)
	if r.visible(said) == 0 && r.Edited > 0 &&
		!slices.ContainsFunc(said, func(s Sentence) bool { return s.About == "nothing" }) {
		said = append(said, r.sayNothing())
	} else if len(said) == 0 {
		said = append(said, Sentence{About: "nothing", Text: "Nothing changes."})
	}
	for i := range said {
		for k := range said[i].Words {
			said[i].Words[k].bound()
		}
	}
	if !r.Unlooked.IsZero() {
		said = append(
			said,
			Sentence{
				About: "nothing",
				Text:  "What comes and goes from " + r.moment(r.Unlooked) + " on was not looked at.",
			},
		)
	}
	return said
}

func (r *Report) visible(said []Sentence) int {
	n := 0
	for _, s := range said {
		if s.About != "nothing" && s.About != "rights" && !s.If {
			n++
		}
	}
	return n
}

// sayNothing says that nobody can tell, if that was found of all.
func (r *Report) sayNothing() Sentence {
	who := "Nobody"
	if r.Left > 0 {
		who = fmt.Sprintf("None of the %s of visitor compared", count.Of(len(r.Names), "kind", "kinds"))
	}
	text := who + " can tell the difference in public: " + r.whyNothing()
	if r.Left > 0 {
		text += " " + count.Of(r.Left, "more kind was", "more kinds were") + " not looked at."
	}
	return Sentence{About: "nothing", Text: text}
}

// whyNothing gives the likeliest reason for which edits have no effect for anyone.
func (r *Report) whyNothing() string {
	for _, change := range site.Changes(r.Was, r.Is) {
		if change.Is == nil || !r.Is.InTree(change.Is.ID) {
			continue
		}
		if why := reach.WhyOffline(r.Is, change.Is.ID, r.now()[0]); why.Cause != nil {
			if why.Cause == change.Is {
				return fmt.Sprintf("“%s” is not online.", change.Is.Label)
			}
			return fmt.Sprintf("“%s” lies in “%s”, which is not online.", change.Is.Label, why.Cause.Label)
		}
	}
	return "the edits do not show anywhere."
}

// made gives a sentence about a stretch what programs and lists need to know of it.
func (r *Report) made(s Sentence, at stretch, group []item) Sentence {
	s.From, s.Until, s.Pages = at.from, at.until, pagesOf(group)
	s.Forms = slices.ContainsFunc(group, func(it item) bool { return it.path == forms })
	for i := range r.Names {
		if at.lenses.Has(i) {
			s.For = append(s.For, i)
		}
	}
	return s
}

// sayOutcomes says what the addresses of pages answer now, first what appears, then what can't be reached any more.
func (r *Report) sayOutcomes() []Sentence {
	facts := r.facts.of(topicOutcome)
	rank := func(f *fact) int {
		switch {
		case class(f.to) == classSees:
			return 0
		case class(f.is) == classSees:
			return 1
		}
		return 2
	}
	slices.SortStableFunc(facts, func(a, b *fact) int {
		return cmp.Or(
			cmp.Compare(rank(a), rank(b)),
			cmp.Compare(a.is, b.is),
			cmp.Compare(a.to, b.to),
			strings.Compare(a.words, b.words),
		)
	})
	var said []Sentence
	for _, f := range facts {
		for _, group := range r.spreads(f.marks) {
			for _, at := range r.parts(group) {
				text := r.outcomeText(f, at.stretch, at.items)
				said = append(
					said,
					r.made(Sentence{About: "page", Text: text + ".", Items: r.listed(at.items)}, at.stretch, at.items),
				)
			}
		}
	}
	return said
}

func (r *Report) outcomeText(f *fact, at stretch, group []item) string {
	pages, n := count.Pages(len(group)), len(group)
	was, is := class(f.is), class(f.to)
	to := classWords(is)
	if is == classLeads {
		to = "a redirect to " + f.words
	}
	switch {
	case is == classSees:
		verb := "appear"
		if n == 1 {
			verb = "appears"
		}
		return fmt.Sprintf("%s %s %s", pages, verb, r.whom(at)) + before(was, f)
	case was == classSees && r.everyone(at.lenses):
		return fmt.Sprintf("Nobody reaches %s any more%s: %s %s", pages, r.when(at), it(n), answers(n)+" with "+to)
	case was == classSees:
		return fmt.Sprintf(
			"%s can no longer be reached by %s%s: %s %s",
			pages,
			r.Words(at.lenses),
			r.when(at),
			it(n),
			answers(n)+" with "+to,
		)
	}
	return fmt.Sprintf("%s %s with %s instead of %s %s", pages, answers(n), to, classWords(was), r.whom(at))
}

func before(was class, f *fact) string {
	switch was {
	case classSignIn:
		return ", who were asked to sign in"
	case classDenied:
		return ", who got “no access”"
	case classGone:
		return ", where it was “gone”"
	case classLeads:
		return ", where " + f.words + " was shown"
	}
	return ""
}

func it(n int) string {
	if n == 1 {
		return "it"
	}
	return "they"
}

func answers(n int) string {
	if n == 1 {
		return "answers"
	}
	return "answer"
}

// sayAddresses says how many addresses change and what becomes of the old ones.
func (r *Report) sayAddresses() []Sentence {
	var said []Sentence
	kept := map[item]bool{}
	for _, f := range r.facts.of(topicPath) {
		if f.words == "keeps" {
			for _, m := range f.marks {
				kept[m.item] = true
			}
		}
	}
	for _, f := range r.facts.of(topicMoved) {
		for _, group := range r.spreads(f.marks) {
			keeps := 0
			for _, it := range group.items() {
				if kept[it] {
					keeps++
				}
			}
			for _, at := range r.parts(group) {
				text := count.Of(len(at.items), "address changes", "addresses change") + r.forSome(at.stretch)
				if keeps > 0 {
					text += "; " + count.Of(keeps, "old one keeps working", "old ones keep working")
				}
				said = append(
					said,
					r.made(
						Sentence{About: "address", Text: text + ".", Items: paths(at.items)},
						at.stretch,
						at.items,
					),
				)
			}
		}
	}
	for _, kind := range []struct{ fate, one, many string }{
		{"taken", "old address leads elsewhere", "old addresses lead elsewhere"},
		{"ends", "old address ends", "old addresses end"},
		{"takes", "old address of another page is taken over", "old addresses of other pages are taken over"},
		{"other", "more address answers otherwise", "more addresses answer otherwise"},
	} {
		for _, f := range r.facts.of(topicPath) {
			if f.words != kind.fate {
				continue
			}
			for _, group := range r.spreads(f.marks) {
				for _, at := range r.parts(group) {
					text := count.Of(len(at.items), kind.one, kind.many) + r.forSome(at.stretch)
					said = append(
						said,
						r.made(
							Sentence{About: "address", Text: text + ".", Items: paths(at.items)},
							at.stretch,
							at.items,
						),
					)
				}
			}
		}
	}
	return said
}

// forSome says for whom, if not for everyone, and when, if not at once.
func (r *Report) forSome(at stretch) string {
	if r.everyone(at.lenses) {
		return r.when(at)
	}
	return " for " + r.Words(at.lenses) + r.when(at)
}

func paths(group []item) []string {
	var all []string
	for _, it := range group[:min(len(group), ItemLimit)] {
		all = append(all, it.path)
	}
	return all
}

func (r *Report) sayLayouts() []Sentence {
	var said []Sentence
	for _, f := range r.facts.of(topicLayout) {
		for _, b := range r.together([]*fact{f}) {
			verb := "have"
			if len(b.items) == 1 {
				verb = "has"
			}
			text := fmt.Sprintf(
				"%s %s the layout “%s” from now on%s.",
				r.on(b.items, false),
				verb,
				f.words,
				r.forSome(b.at),
			)
			said = append(
				said,
				r.made(capital(Sentence{About: "layout", Text: text, Items: r.listed(b.items)}), b.at, b.items),
			)
		}
	}
	return said
}

// A bundle is a time and viewers, with the facts that hold then for them, each with its items.
type bundle struct {
	at    stretch
	facts []*fact
	items []item
}

// bundles gathers facts by when and for whom they hold.
func (r *Report) bundles(facts []*fact) []*bundle {
	var all []*bundle
	at := map[stretch]*bundle{}
	for _, f := range facts {
		for _, group := range r.gathered(f.marks) {
			for _, s := range r.parts(group) {
				b := at[s.stretch]
				if b == nil {
					b = &bundle{at: s.stretch}
					at[s.stretch], all = b, append(all, b)
				}
				b.facts, b.items = append(b.facts, f), append(b.items, s.items...)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b *bundle) int {
		return cmp.Or(
			a.at.from.Compare(b.at.from),
			cmp.Compare(b.at.lenses.Count(), a.at.lenses.Count()),
			cmp.Compare(a.at.lenses, b.at.lenses),
		)
	})
	return all
}

// together gathers facts that one sentence says: the items of which any of them is true, by when and for whom.
func (r *Report) together(facts []*fact) []*bundle {
	var marks []mark
	for _, f := range facts {
		marks = append(marks, f.marks...)
	}
	part := mustPart(marks)
	if part {
		marks = parted(marks)
	}
	of := map[lot][]*fact{}
	for _, f := range facts {
		own := f.marks
		if part {
			own = parted(own)
		}
		for _, m := range own {
			if told := of[m.lot]; len(told) == 0 || told[len(told)-1] != f {
				of[m.lot] = append(told, f)
			}
		}
	}
	var all []*bundle
	for _, group := range r.gathered(marks) {
		for _, at := range r.parts(group) {
			b := &bundle{at: at.stretch, items: at.items}
			told := map[*fact]bool{}
			for _, l := range at.lots {
				for _, f := range of[l] {
					if !told[f] {
						told[f], b.facts = true, append(b.facts, f)
					}
				}
			}
			all = append(all, b)
		}
	}
	return all
}

// sayWords says which pages say other words of themselves, or have a breadcrumb that reads otherwise, and what is read
// before and after.
func (r *Report) sayWords(of topic, format string) []Sentence {
	var said []Sentence
	for _, b := range r.together(r.facts.of(of)) {
		text := fmt.Sprintf(format, r.on(b.items, false), r.whom(b.at))
		s := Sentence{About: "words", Text: text, Items: r.listed(b.items)}
		for _, f := range b.facts[:min(len(b.facts), ItemLimit)] {
			s.Words = append(s.Words, f.diff)
		}
		said = append(said, r.made(s, b.at, b.items))
	}
	return said
}

func distinct(group []item) []item {
	slices.SortFunc(
		group,
		func(a, b item) int { return cmp.Or(cmp.Compare(a.page, b.page), strings.Compare(a.path, b.path)) },
	)
	return slices.Compact(group)
}

// sayPrograms says which menus programs read otherwise.
func (r *Report) sayPrograms() []Sentence {
	var said []Sentence
	for _, f := range r.facts.of(topicPrograms) {
		was, is := r.facts.look(f.is), r.facts.look(f.to)
		for _, group := range r.spreads(f.marks) {
			for _, at := range r.parts(group) {
				text := "Programs read the menu " + f.words + " otherwise"
				switch {
				case f.is == 0:
					text = "Programs can read the menu " + f.words
				case f.to == 0:
					text = "Programs can no longer read the menu " + f.words
				}
				s := Sentence{About: "programs", Text: text + " " + r.whom(at.stretch) + ".", Items: paths(at.items)}
				diff := differenceOf(was.Words(), is.Words())
				diff.Of = at.items[0].path
				s.Words = []Difference{diff}
				said = append(said, r.made(s, at.stretch, nil))
			}
		}
	}
	return said
}
