package public

import (
	"context"
	"html"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A Finder finds pages by words, whoever asks.
type Finder interface {
	FindPages(ctx context.Context, language, words string, from, most int) ([]site.PageID, error)
	Excerpts(ctx context.Context, language, words string, hashes []string) (map[string]string, error)
}

// wordsKey has what a visitor seeks; words beyond wordsLimit bytes are left out.
const (
	wordsKey   = "q"
	wordsLimit = 200
)

// hitsPerPage are the hits on one page of what was found; askedAtOnce are asked of the finder at once, and no more than
// askedLimit in all, since of most of them a visitor might reach none.
const (
	hitsPerPage = 20
	askedAtOnce = 200
	askedLimit  = 4000
)

// A search is what a page on which visitors search shows besides its text.
type search struct {
	Action string
	Words  string
	Asked  bool
	Blind  bool // previews: nothing is found here
	Hits   []searchHit
	Next   string // address of more; "" if there are none
	Before string
}

type searchHit struct {
	Label, Href, Where string
	Part               template.HTML // the words around those that were sought
}

// searching answers on the page that the settings choose for it (rules 12.5). What is found are pages and files that
// the visitor reaches, on the Site that answers.
func (r *Renderer) searching(ctx context.Context, q Request, id site.PageID) (Response, error) {
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	v, err := r.view(ctx, q, id)
	if err != nil {
		return Response{}, err
	}
	v.Canonical = r.origin + address.Of(q.Site, id)
	words := strings.TrimSpace(strings.ToValidUTF8(query.Get(wordsKey), ""))
	words = strings.ReplaceAll(words[:min(len(words), wordsLimit)], "\x00", "")
	v.Search = &search{
		Action: q.Base + address.Of(q.Site, id), Words: strings.ToValidUTF8(words, ""), Asked: words != "",
		Blind: r.finder == nil || q.Base != "",
	}
	if v.Search.Asked && !v.Search.Blind {
		number, _ := strconv.Atoi(query.Get(numberKey))
		if err := r.fill(ctx, q, v.Search, max(number, 1)); err != nil {
			return Response{}, err
		}
		v.KeptOut = true // what somebody sought is no page of the site
	}
	answer, err := r.execute("page", v, http.StatusOK)
	answer.Paged = true
	return answer, err
}

// fill finds one page of hits.
func (r *Renderer) fill(ctx context.Context, q Request, to *search, number int) error {
	language := q.Site.Settings().Language
	panel := reach.NewPanel(q.Lens)
	var hits []site.PageID
	more, wanted := false, number*hitsPerPage
	for from := 0; from < askedLimit && !more; from += askedAtOnce {
		found, err := r.finder.FindPages(ctx, language, to.Words, from, askedAtOnce)
		if err != nil {
			return err
		}
		for _, id := range found {
			if !findable(q.Site, id) || panel.At(q.Site, id).Reachable() == 0 {
				continue
			}
			if more = len(hits) == wanted; more {
				break
			}
			hits = append(hits, id)
		}
		if len(found) < askedAtOnce {
			break
		}
	}
	hits = hits[min(len(hits), wanted-hitsPerPage):]
	var hashes []string
	for _, id := range hits {
		hashes = append(hashes, q.Site.Page(id).Text)
	}
	parts, err := r.finder.Excerpts(ctx, language, to.Words, hashes)
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
	at := func(n int) string {
		return to.Action + "?" + url.Values{wordsKey: {to.Words}, numberKey: {strconv.Itoa(n)}}.Encode()
	}
	if more {
		to.Next = at(number + 1)
	}
	if number > 1 {
		to.Before = at(number - 1)
	}
	return nil
}

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
