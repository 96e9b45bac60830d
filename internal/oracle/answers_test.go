package oracle

import (
	"context"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/public"
)

type memory map[string]string

func (m memory) Texts(_ context.Context, hashes []string) (map[string]string, error) { return m, nil }

var renderer = must(
	public.NewRenderer(
		memory(texts),
		func(name string) string { return "/assets/" + name },
		"https://harbour.example",
	),
)

func must[T any](value T, err error) T {
	if err != nil {
		panic(err)
	}
	return value
}

// A listener asks a site for everything that is known of it, as its viewers see it at some moments.
type listener struct {
	viewers consequence.Viewers
	moments []time.Time
	heard   map[name]string // what the site that does not change answered
}

// A name is who asked for what, when.
type name struct {
	at     int64
	viewer int
	path   string
}

// listen gives the answers of a site to every path: an answer for each moment and viewer, in that order.
func (l *listener) listen(s *site.Site, paths []string, remember bool) map[string][]string {
	heard := make(map[string][]string, len(paths))
	for _, at := range l.moments {
		for v, lens := range l.viewers.Panel.Lenses() {
			kept := public.NewKept()
			for _, path := range paths {
				n := name{at.Unix(), v, path}
				answer, known := l.heard[n]
				if !remember || !known {
					answer = ask(s, reach.Lens{Visitor: lens.Visitor, At: at}, path, kept)
				}
				if remember {
					l.heard[n] = answer
				}
				heard[path] = append(heard[path], answer)
			}
		}
	}
	return heard
}

// generated are style sheets whose rules are named by the classes that use them, so that a body says which of them
// count.
var generated = regexp.MustCompile(`<link rel="stylesheet" href="/assets/pairs/[^>]*>`)

func ask(s *site.Site, lens reach.Lens, path string, kept *public.Kept) string {
	q := public.Request{Site: s, Lens: lens, Path: path, Kept: kept}
	q.Path, q.Query, _ = strings.Cut(path, "?")
	if lens.SignedIn {
		q.Name, q.Login = "somebody", "somebody"
	}
	answer := must(renderer.Answer(context.Background(), q))
	body := generated.ReplaceAll(answer.Body, nil)
	if answer.File != nil {
		body = []byte(answer.Tag)
	}
	if q.Path == sitemap { // the order of its lines says nothing
		lines := strings.Split(string(body), "\n")
		slices.Sort(lines)
		body = []byte(strings.Join(lines, "\n"))
	}
	return fmt.Sprintf("%d %s %s %s\n%s", answer.Status, answer.Location, answer.RetryAfter, answer.Robots, body)
}

// sitemap is asked for by search engines, who are not signed in.
const sitemap = "/sitemap.xml"

// listed gives the pages whose addresses stand in one of two sitemaps only.
func listed(was, is *site.Site, before, after string, at time.Time) (pages []site.PageID) {
	for _, side := range []struct {
		s             *site.Site
		says, without string
	}{{was, before, after}, {is, after, before}} {
		for _, line := range strings.Split(side.says, "\n") {
			path, is := strings.CutPrefix(line, "<url><loc>https://harbour.example")
			if path = strings.TrimSuffix(path, "</loc></url>"); is && !strings.Contains(side.without, line) {
				pages = append(pages, address.Resolve(side.s, path, at).Page)
			}
		}
	}
	return pages
}

// pathsOf are all addresses that are known of some sites, or were: of pages, short, old, of binned pages, of forms
// and menus for programs, and one that never was.
func pathsOf(sites ...*site.Site) []string {
	paths := map[string]bool{
		"/never-there": true, "/sign-in": true, "/register": true, "/my-details": true,
		"/robots.txt": true, sitemap: true,
	}
	for _, s := range sites {
		for id := site.PageID(1); id < 20_000; id++ {
			p := s.Page(id)
			if p == nil {
				if id > 12 && id < 100 {
					id = 100
				}
				if id > 600 {
					break
				}
				continue
			}
			if at := address.Of(s, id); at != "" {
				paths[at] = true
				for _, query := range queriesOf(s, id) {
					paths[at+"?"+query] = true
				}
			}
			for _, short := range p.ShortAddresses {
				paths[short] = true
			}
			for _, lead := range address.Leads(s, id, now.Add(time.Minute)) {
				paths[lead.Address] = true
			}
		}
		for i := range s.Menus() {
			at := "/api/menus/" + s.Menus()[i].Key + ".json"
			paths[at], paths[at+"?levels=20"] = true, true
		}
	}
	return slices.Sorted(maps.Keys(paths))
}

// days are those to come that the details of drawn pages name.
var days = []string{"2026-12-24", "2026-12-25"}

// edgesOf are the moments to come at which anything of some sites comes or goes.
func edgesOf(sites ...*site.Site) []time.Time {
	found := map[int64]time.Time{}
	add := func(edges ...time.Time) {
		for _, edge := range edges {
			if edge.After(now) {
				found[edge.Unix()] = edge
			}
		}
	}
	for _, s := range sites {
		for _, id := range s.Windowed() {
			add(s.Page(id).LiveFrom, s.Page(id).LiveUntil)
		}
		for i := range s.Menus() {
			for _, e := range s.Menus()[i].Entries {
				add(e.LiveFrom, e.LiveUntil)
			}
		}
		for _, p := range s.Placements() {
			add(p.LiveFrom, p.LiveUntil)
		}
		var asked []string
		for _, id := range s.Listers() {
			asked = append(asked, s.Page(id).Listing)
		}
		if strings.Contains(
			fmt.Sprint(s.Blocks(), asked),
			"today",
		) { // what is asked for by the day comes and goes at midnight
			midnights := func(from time.Time, days int) {
				for i := range days {
					add(time.Date(from.Year(), from.Month(), from.Day()+i, 0, 0, 0, 0, s.Settings().Zone))
				}
			}
			midnights(now.In(s.Settings().Zone), 4)
			for _, day := range days {
				at, _ := time.Parse(time.DateOnly, day)
				midnights(at, 2)
			}
		}
	}
	return slices.SortedFunc(maps.Values(found), time.Time.Compare)
}

// queriesOf gives the queries that lead to something of what a page lists: its pages but the first, and the first ones
// of what it is narrowed to by one value.
func queriesOf(s *site.Site, id site.PageID) (queries []string) {
	q, lists := listing.Of(s, id)
	if !lists {
		return nil
	}
	every, hits := func(site.PageID) bool { return true }, listing.Candidates(s, q)
	for number := 2; (number-1)*q.Most < len(hits); number++ {
		queries = append(queries, listing.Narrowing(nil).Query(number))
	}
	for _, f := range listing.Filters(s, q, hits, nil, every) {
		for _, v := range f.Values {
			queries = append(queries, listing.Narrowing{f.Key: v.Value}.Query(1))
		}
	}
	return queries
}
