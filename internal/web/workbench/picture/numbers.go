package picture

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"sync"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// pagesShown bounds the pages of a number that are listed at once.
const pagesShown = 300

// A numbersView is what can be said of a site at a glance, public now beside after publishing.
type numbersView struct {
	desk.Screen
	Parts    []numbersPart
	Counting bool // clicks are still counted
	Clicks   string
	Worst    *site.Page
	Shown    string // the number whose pages are listed
	Asked    string // in words
	Pages    []pageOf
	Count    int
	Both     bool // the draft differs
	Line     *numbersLine
}

// A numbersPart is one distribution, as bars.
type numbersPart struct {
	Title, Words string
	Rows         []numbersRow
}

type numbersRow struct {
	Key, Name string
	Was, Is   int
	WasPart   int // of the longest bar, from 0 to 100
	IsPart    int
}

type pageOf struct {
	Page  *site.Page
	Where string
	Link  string
}

func (s *Area) numbers(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	v := numbersView{Shown: r.FormValue("number")}
	var err error
	if v.Screen, err = s.Screen(r, d, "numbers"); err != nil {
		return err
	}
	public := d.Draft.Base.Site
	is := measure.Count(d.Site, d.Lens, d.Care)
	was := is
	if v.Both = d.Site != public; v.Both {
		was = measure.Count(public, d.Lens, d.Care)
	}
	var owners []site.Owner
	for _, g := range slices.Concat(was.Owners, is.Owners) {
		owners = append(owners, site.Owner(g.Name))
	}
	named, err := s.OwnerNames(r.Context(), d.Site, owners...)
	if err != nil {
		return err
	}
	v.fill(was, is, named)
	walked := s.walks.of(d.Site, d.Lens, s.Store.TextWords)
	if v.Counting = walked == nil; !v.Counting {
		v.walked(walked)
	}
	v.list(is, walked)
	if v.Line, err = s.line(r.Context(), d); err != nil {
		return err
	}
	v.Counting = v.Counting || v.Line.Counting
	name := "numbers"
	if r.Header.Get("X-Part") != "" {
		name = "numbers-parts"
	}
	s.Render(w, r, name, &v)
	return nil
}

func (v *numbersView) fill(was, is measure.Numbers, named func(site.Owner) string) {
	owners := func(groups []measure.Group) []measure.Group {
		made := slices.Clone(groups)
		for i := range made {
			made[i].Name = named(site.Owner(made[i].Name))
		}
		return made
	}
	v.Parts = []numbersPart{
		part("The whole", "", was.Whole, is.Whole),
		part("How deep", "pages that this visitor reaches, by their level", was.Levels, is.Levels),
		part("How wide", "pages right inside one", was.Widths, is.Widths),
		part("How old", "when their own words last changed", was.Ages, is.Ages),
		part("Who looks after them", "", owners(was.Owners), owners(is.Owners)),
		part("Reviews", "", was.Reviews, is.Reviews),
	}
}

// part lays two sides of one distribution beside each other.
func part(title, words string, was, is []measure.Group) numbersPart {
	made, longest := numbersPart{Title: title, Words: words}, 1
	before := map[string]int{}
	for _, g := range was {
		before[g.Key] = len(g.Pages)
		longest = max(longest, len(g.Pages))
	}
	for _, g := range is {
		longest = max(longest, len(g.Pages))
	}
	for _, g := range is {
		made.Rows = append(made.Rows, numbersRow{
			Key: g.Key, Name: g.Name, Was: before[g.Key], Is: len(g.Pages),
			WasPart: before[g.Key] * 100 / longest, IsPart: len(g.Pages) * 100 / longest,
		})
	}
	return made
}

// alone lays out a distribution of which only one side was counted.
func alone(title, words string, is []measure.Group) numbersPart { return part(title, words, is, is) }

func (v *numbersView) walked(w *far) {
	v.Parts = append(v.Parts,
		alone("How long", "words of the text of pages that this visitor reaches", w.lengths),
		alone("In menus", "of what this visitor reaches", []measure.Group{w.unlisted}),
		alone("How many clicks", "from the home page, over the links that really render", append(w.Far, w.Beyond)))
	v.Clicks = fmt.Sprintf("Half of the pages need %s or fewer, 95 of 100 at most %s.",
		count.Of(w.Median, "click", "clicks"), count.Number(w.Most))
	v.Worst = v.Site.Page(w.WorstPage)
}

// list gives the pages of the number that was pressed.
func (v *numbersView) list(n measure.Numbers, w *far) {
	groups := slices.Concat(n.Whole, n.Levels, n.Widths, n.Ages, n.Owners, n.Reviews)
	if w != nil {
		groups = append(slices.Concat(groups, w.Far, w.lengths), w.Beyond, w.unlisted)
	}
	for _, g := range groups {
		if g.Key != v.Shown {
			continue
		}
		v.Asked, v.Count = g.Name, len(g.Pages)
		for _, id := range g.Pages[:min(len(g.Pages), pagesShown)] {
			v.Pages = append(
				v.Pages,
				pageOf{v.Site.Page(id), desk.Place(v.Site, id), v.Link("/tree", "page", fmt.Sprint(id))},
			)
		}
	}
}

// walks keeps the clicks of the sites that were looked at last; they are counted in the background.
type walks struct {
	sync.Mutex
	kept []*walked
}

type walked struct {
	of   *site.Site
	lens string
	is   *far // nil: it is being counted
}

// far is what takes so long to count that it is done in the background.
type far struct {
	measure.Walked
	lengths  []measure.Group
	unlisted measure.Group
}

const walksKept = 6

// of gives the clicks of a site for a visitor; nil while they are counted.
func (w *walks) of(
	s *site.Site, lens reach.Lens, words func(context.Context) (map[string]int, error),
) *far {
	key := fmt.Sprint(lens.SignedIn, lens.Roles, lens.At.Format("2006-01-02T15")) // windows count by the hour
	w.Lock()
	defer w.Unlock()
	for _, k := range w.kept {
		if k.of == s && k.lens == key {
			return k.is
		}
	}
	made := &walked{of: s, lens: key}
	w.kept = slices.Insert(w.kept, 0, made)
	w.kept = w.kept[:min(len(w.kept), walksKept)]
	go func() {
		is := far{Walked: measure.Walk(s, lens)}
		is.unlisted = measure.Group{
			Key: "no-menu", Name: "In no menu", Pages: ask.Find(s, ask.Query{Question: "no-menu"}, lens),
		}
		if counts, err := words(context.Background()); err == nil { // else there is one distribution less
			is.lengths = measure.Lengths(s, lens, counts)
		}
		w.Lock()
		defer w.Unlock()
		made.is = &is
	}()
	return nil
}
