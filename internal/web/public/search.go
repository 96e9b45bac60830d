package public

import (
	"cmp"
	"context"
	"encoding/json"
	"html"
	"html/template"
	"log/slog"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/store"
)

// A Finder finds pages by words, whoever asks.
type Finder interface {
	FindPages(ctx context.Context, language, words string, from, most int) ([]site.PageID, error)
	FindBegun(ctx context.Context, language, words string, most int) ([]site.PageID, error)
	Spelt(ctx context.Context, words string) ([]string, error)
	SeekInVain(ctx context.Context, words string) error
	Excerpts(ctx context.Context, language, words string, hashes []string) (map[string]string, error)
}

// patient is a finder for which counting what was sought in vain is no part of the answer.
type patient struct {
	Finder
	log *slog.Logger
}

func (p patient) SeekInVain(ctx context.Context, words string) error {
	if err := p.Finder.SeekInVain(ctx, words); err != nil {
		p.log.Warn("what was sought in vain can't be counted", "error", err)
	}
	return nil
}

// wordsKey has what a visitor seeks, begunKey what they are typing; words beyond wordsLimit bytes are left out. kindKey
// and topicKey narrow what is found.
const (
	wordsKey   = "q"
	begunKey   = "begun"
	kindKey    = "type"
	topicKey   = "topic"
	wordsLimit = 200
)

// hitsPerPage are the hits on one page of what was found; askedAtOnce are asked of the finder at once, and no more than
// askedLimit in all, since of most of them a visitor might reach none. begunLimit is how many labels are proposed.
const (
	hitsPerPage = 20
	askedAtOnce = 200
	askedLimit  = 4000
	begunLimit  = 8
)

// A search is what a page on which visitors search shows besides its text.
type search struct {
	Action  string
	Words   string
	Asked   bool
	Blind   bool // previews: nothing is found here
	Filters []filter
	Hits    []searchHit
	Meant   *crumb // what might have been meant, where nothing was found
	Next    string // address of more; "" if there are none
	Before  string
}

type searchHit struct {
	Label, Href, Where string
	Part               template.HTML // the words around those that were sought
}

// A seeking is what a visitor asks for: words, and of which type or about which topic pages are to be.
type seeking struct {
	words string
	kind  string
	topic site.PageID
	page  int // of the hits, from 1
}

func seekingOf(query url.Values) seeking {
	number, _ := strconv.Atoi(query.Get(numberKey))
	topic, _ := strconv.ParseInt(query.Get(topicKey), 10, 64)
	return seeking{typedWords(query.Get(wordsKey)), query.Get(kindKey), site.PageID(topic), max(number, 1)}
}

func typedWords(raw string) string {
	words := strings.TrimSpace(strings.ToValidUTF8(raw, ""))
	return strings.ToValidUTF8(strings.ReplaceAll(words[:min(len(words), wordsLimit)], "\x00", ""), "")
}

// at gives the address of the search with that.
func (k seeking) at(action string) string {
	query := url.Values{wordsKey: {k.words}}
	if k.kind != "" {
		query.Set(kindKey, k.kind)
	}
	if k.topic != 0 {
		query.Set(topicKey, strconv.FormatInt(int64(k.topic), 10))
	}
	if k.page > 1 {
		query.Set(numberKey, strconv.Itoa(k.page))
	}
	return action + "?" + query.Encode()
}

// takes says whether a page is of the type and about the topic.
func (k seeking) takes(s *site.Site, id site.PageID) bool {
	return (k.kind == "" || s.Page(id).Kind == k.kind) && (k.topic == 0 || topic.IsAbout(s, id, k.topic))
}

// searching answers on the page that the settings choose for it (rules 12.5). What is found are pages and files that
// the visitor reaches, on the Site that answers.
func (r *Renderer) searching(ctx context.Context, q Request, id site.PageID) (Response, error) {
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	blind := r.finder == nil || q.Base != ""
	if begun := typedWords(query.Get(begunKey)); begun != "" && !blind {
		return r.begun(ctx, q, begun)
	}
	v, err := r.view(ctx, q, id)
	if err != nil {
		return Response{}, err
	}
	v.Canonical = r.origin + address.Of(q.Site, id)
	k := seekingOf(query)
	v.Search = &search{Action: q.Base + address.Of(q.Site, id), Words: k.words, Asked: k.words != "", Blind: blind}
	if v.Search.Asked && !blind {
		if err := r.fill(ctx, q, v.Search, k); err != nil {
			return Response{}, err
		}
		v.KeptOut = true // what somebody sought is no page of the site
	}
	answer, err := r.execute("page", v, http.StatusOK)
	answer.Paged = true
	return answer, err
}

// begun answers with the labels of pages that have the words which a visitor is typing.
func (r *Renderer) begun(ctx context.Context, q Request, words string) (Response, error) {
	found, err := r.finder.FindBegun(ctx, q.Site.Settings().Language, words, askedAtOnce)
	if err != nil {
		return Response{}, err
	}
	panel := reach.NewPanel(q.Lens)
	labels := []string{}
	for _, id := range found {
		label := q.Site.Page(id).Heading()
		if len(labels) < begunLimit && reached(q, panel, id) && !slices.Contains(labels, label) {
			labels = append(labels, label)
		}
	}
	body, err := json.Marshal(labels)
	return Response{Status: http.StatusOK, Type: "application/json", Body: body, Paged: true}, err
}

// reached says whether a page is one that the visitor finds.
func reached(q Request, panel *reach.Panel, id site.PageID) bool {
	return q.Site.Page(id) != nil && findable(q.Site, id) && panel.At(q.Site, id).Reachable() != 0
}

// A finding is what was found for somebody.
type finding struct {
	hits  []site.PageID // as many as were wanted, the best first
	more  bool
	among []site.PageID // the best, narrowed or not
}

// find asks the finder for pages and keeps what the visitor reaches. Behind those that have the words themselves come
// those about topics that have them.
func (r *Renderer) find(ctx context.Context, q Request, k seeking, wanted int) (made finding, err error) {
	panel := reach.NewPanel(q.Lens)
	known := map[site.PageID]bool{}
	var topics []site.PageID
	take := func(id site.PageID) {
		if known[id] || !reached(q, panel, id) {
			return
		}
		known[id] = true
		if len(made.among) < askedAtOnce {
			made.among = append(made.among, id)
		}
		switch {
		case !k.takes(q.Site, id):
		case len(made.hits) == wanted:
			made.more = true
		default:
			made.hits = append(made.hits, id)
		}
		if q.Site.Page(id).IsTopic() {
			topics = append(topics, id)
		}
	}
	for from := 0; from < askedLimit && !made.more; from += askedAtOnce {
		found, err := r.finder.FindPages(ctx, q.Site.Settings().Language, k.words, from, askedAtOnce)
		if err != nil {
			return made, err
		}
		for _, id := range found {
			take(id)
		}
		if len(found) < askedAtOnce {
			break
		}
	}
	for _, of := range topics {
		about := topic.Bearers(q.Site, of)
		q.Site.SortByTree(about)
		for _, id := range about {
			take(id)
		}
	}
	return made, nil
}

// fill finds one page of hits.
func (r *Renderer) fill(ctx context.Context, q Request, to *search, k seeking) error {
	found, err := r.find(ctx, q, k, k.page*hitsPerPage)
	if err != nil {
		return err
	}
	if len(found.hits) == 0 && k.page == 1 {
		return r.inVain(ctx, q, to, k, len(found.among) > 0)
	}
	hits := found.hits[min(len(found.hits), (k.page-1)*hitsPerPage):]
	var hashes []string
	for _, id := range hits {
		hashes = append(hashes, q.Site.Page(id).Text)
	}
	parts, err := r.finder.Excerpts(ctx, q.Site.Settings().Language, k.words, hashes)
	if err != nil {
		return err
	}
	for _, id := range hits {
		p := q.Site.Page(id)
		to.Hits = append(to.Hits, searchHit{
			Label: p.Heading(), Href: q.Base + address.Of(q.Site, id), Where: whereOf(q, id),
			Part: marked(parts[p.Text], p.Summary),
		})
	}
	to.Filters = filtersOf(q, to.Action, k, found.among)
	next, before := k, k
	next.page, before.page = k.page+1, k.page-1
	if found.more {
		to.Next = next.at(to.Action)
	}
	if before.page > 0 {
		to.Before = before.at(to.Action)
	}
	return nil
}

// inVain proposes other words where nothing was found, if they find something for this visitor, and counts what was
// sought in vain unless it is only narrowed too far.
func (r *Renderer) inVain(ctx context.Context, q Request, to *search, k seeking, narrowed bool) error {
	if narrowed {
		to.Filters = filtersOf(q, to.Action, k, nil)
		return nil
	}
	if err := r.finder.SeekInVain(ctx, k.words); err != nil {
		return err
	}
	meant, err := r.finder.Spelt(ctx, k.words)
	if err != nil {
		return err
	}
	for _, words := range meant {
		other := seeking{words: words, page: 1}
		if found, err := r.find(ctx, q, other, 1); err != nil || len(found.hits) > 0 {
			to.Meant = &crumb{words, other.at(to.Action)}
			return err
		}
	}
	return nil
}

// filtersOf gives the types and topics of the best hits, by which they can be narrowed; what is chosen stays.
func filtersOf(q Request, action string, k seeking, among []site.PageID) []filter {
	panel := reach.NewPanel(q.Lens)
	kinds, topics := map[string]int{}, map[site.PageID]int{}
	for _, id := range among {
		p := q.Site.Page(id)
		if !k.takes(q.Site, id) {
			continue
		}
		kinds[p.Kind]++
		for _, of := range q.Site.TopicsOf(p) {
			if reached(q, panel, of) {
				topics[of]++
			}
		}
	}
	byKind, byTopic := filter{Label: "Type"}, filter{Label: "Topic"}
	if kinds[k.kind] == 0 && q.Site.Kind(k.kind).Name != k.kind { // one that the site knows
		kinds[k.kind] = 0
	}
	for _, key := range slices.SortedFunc(maps.Keys(kinds), func(a, b string) int {
		return cmp.Or(kinds[b]-kinds[a], q.Site.Collate(q.Site.Kind(a).Name, q.Site.Kind(b).Name), cmp.Compare(a, b))
	}) {
		other := k
		other.kind, other.page = key, 1
		link := filterLink{q.Site.Kind(key).Name, other.at(action), count.Number(kinds[key]), key == k.kind}
		byKind.Values = append(byKind.Values, link)
	}
	ids := slices.Collect(maps.Keys(topics))
	if k.topic != 0 && !slices.Contains(ids, k.topic) && reached(q, panel, k.topic) {
		ids = append(ids, k.topic)
	}
	label := func(id site.PageID) string { return q.Site.Page(id).Label }
	slices.SortFunc(ids, func(a, b site.PageID) int {
		return cmp.Or(topics[b]-topics[a], q.Site.Collate(label(a), label(b)), cmp.Compare(a, b))
	})
	for _, of := range ids[:min(len(ids), topicsShown)] {
		other := k
		other.topic, other.page = of, 1
		link := filterLink{q.Site.Page(of).Label, other.at(action), count.Number(topics[of]), of == k.topic}
		byTopic.Values = append(byTopic.Values, link)
	}
	every := k
	every.page = 1
	if k.kind != "" {
		every.kind = ""
		byKind.Every = every.at(action)
	}
	if every = k; k.topic != 0 {
		every.topic, every.page = 0, 1
		byTopic.Every = every.at(action)
	}
	chooses := func(f filter) bool { return len(f.Values) > 1 || f.Every != "" }
	return slices.DeleteFunc([]filter{byKind, byTopic}, func(f filter) bool { return !chooses(f) })
}

// topicsShown bounds the topics by which hits can be narrowed, those of most hits first.
const topicsShown = 12

// findable says whether a page is one that visitors seek: not one that stands in for others, nor the one they search
// on.
func findable(s *site.Site, id site.PageID) bool {
	settings := s.Settings()
	switch id {
	case settings.NotFound, settings.NoAccess, settings.SignIn, settings.Shut, settings.Search:
		return false
	}
	return true
}

// whereOf says the pages above one that the visitor reads of, for a hit.
func whereOf(q Request, id site.PageID) string {
	var words []string
	for _, c := range breadcrumb(q, id) {
		words = append(words, c.Label)
	}
	if len(words) > 1 {
		words = words[:len(words)-1]
	}
	return strings.Join(words, " › ")
}

// marked writes an excerpt with what was sought marked; where no text has it, what sums the page up.
func marked(part, summary string) template.HTML {
	if part == "" {
		part = summary
	}
	escaped := template.HTMLEscapeString(html.UnescapeString(part)) // which it had as kept HTML
	return template.HTML(
		strings.NewReplacer(store.FoundStart, "<mark>", store.FoundEnd, "</mark>").Replace(escaped),
	)
}
