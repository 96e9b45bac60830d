package piece

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// ListingMost is the number of pages that a listing shows at most.
const ListingMost = 50

// listing lists the pages that answer a question. Its settings are written as in
// “notice|document;topic:12;branch:4;newest;5”; what is not asked for is left empty.
func listing() Type {
	t := typeOf[site.BlockListing]("listing", "Listing")
	t.Set = true
	t.Write = func(p site.Piece) string {
		q := p.(site.BlockListing)
		named := func(kind string, id site.PageID) string {
			if id == 0 {
				return ""
			}
			return fmt.Sprintf("%s:%d", kind, id)
		}
		return fmt.Sprintf("%s;%s;%s;%s;%d", q.Kinds, named("topic", q.Topic), named("branch", q.Within), q.Sort, q.Most)
	}
	t.Read = readListing
	return t
}

func readListing(s *site.Site, text string) (site.Piece, error) {
	parts := strings.Split(text, ";")
	if len(parts) != 5 {
		return nil, typed.Refuse("“%s” is no listing.", text)
	}
	q := site.BlockListing{}
	kinds := strings.FieldsFunc(parts[0], func(r rune) bool { return r == '|' })
	slices.Sort(kinds)
	for _, key := range kinds {
		known := slices.ContainsFunc(s.Kinds(), func(k site.Kind) bool { return k.Key == key })
		if !known && key != "page" && len(s.Kinds()) > 0 {
			return nil, typed.Refuse("There is no page type “%s”.", key)
		}
	}
	q.Kinds = strings.Join(slices.Compact(kinds), "|")
	var err error
	if q.Topic, err = named(s, parts[1], "topic:"); err != nil {
		return nil, err
	}
	if q.Within, err = named(s, parts[2], "branch:"); err != nil {
		return nil, err
	}
	if p := s.Page(q.Topic); p != nil && !p.IsTopic() {
		return nil, typed.Refuse("“%s” is no topic.", p.Label)
	}
	if q.Sort, err = typed.OneOf(parts[3], site.ListSorts()...); err != nil {
		return nil, err
	}
	if q.Most, err = strconv.Atoi(parts[4]); err != nil || q.Most < 1 || q.Most > ListingMost {
		return nil, typed.Refuse("A listing shows from 1 to %d pages.", ListingMost)
	}
	return q, nil
}

// named reads the number of a page behind a word; 0 for none. It may be in the bin by now.
func named(s *site.Site, text, word string) (site.PageID, error) {
	number, is := strings.CutPrefix(text, word)
	if text == "" {
		return 0, nil
	}
	id, err := strconv.ParseInt(number, 10, 64)
	if p := s.Page(site.PageID(id)); !is || err != nil || p == nil || p.Purged {
		const gone = "A page that the listing asks for is not there any more."
		return 0, &typed.Missing{Page: site.PageID(id), Sentence: gone}
	}
	return site.PageID(id), nil
}
