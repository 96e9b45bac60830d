package piece

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	listings "vineladder/internal/core/listing"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// ListingMost is the number of pages that a listing shows at most.
const ListingMost = 50

// listing lists the pages that answer a question. Its settings are written as in
// “notice|document;topic:12;branch:4;newest;5;table;date=today..”; what is not asked for is left empty, and the last
// two are left out where both are.
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
		text := fmt.Sprintf("%s;%s;%s;%s;%d", q.Kinds, named("topic", q.Topic), named("branch", q.Within), q.Sort, q.Most)
		if q.Looks != "" || q.Wants != "" {
			text += ";" + string(q.Looks) + ";" + q.Wants
		}
		return text
	}
	t.Read = readListing
	return t
}

func readListing(s *site.Site, text string) (site.Piece, error) {
	parts := strings.Split(text, ";")
	if len(parts) == 5 {
		parts = append(parts, "", "")
	}
	if len(parts) != 7 {
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
	if q.Sort, err = readSort(s, parts[3]); err != nil {
		return nil, err
	}
	if q.Looks, err = typed.OneOf(parts[5], site.LooksList, site.LooksCards, site.LooksTable); err != nil {
		return nil, err
	}
	if q.Wants, err = listings.ParseWants(s, parts[6]); err != nil {
		return nil, err
	}
	if q.Most, err = strconv.Atoi(parts[4]); err != nil || q.Most < 1 || q.Most > ListingMost {
		return nil, typed.Refuse("A listing shows from 1 to %d pages.", ListingMost)
	}
	return q, nil
}

// readSort reads an order: one of those that every page has, or by a detail.
func readSort(s *site.Site, text string) (site.ListSort, error) {
	key, _ := site.ListSort(text).Detail()
	if key == "" {
		return typed.OneOf(text, site.ListSorts()...)
	}
	d := s.Detail(key)
	if d == nil {
		return "", &typed.Missing{Sentence: "The detail by which the listing is sorted is not there any more."}
	}
	if detail.Of(*d).Order == nil || !listings.Asks(*d) {
		return "", typed.Refuse("Nothing can be sorted by “%s”.", d.Label)
	}
	return site.ListSort(text), nil
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
