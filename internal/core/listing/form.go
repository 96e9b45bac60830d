package listing

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Most is the largest number of pages that a listing shows at once.
const Most = 50

// Text writes a question as in “notice|document;topic:12;branch:4;newest;5;table;date=today..;notice.severity|topic:7”;
// what is not asked for is left empty, and what comes last is left out where that leaves nothing out. One that asks
// what a page lists begins with “page:12”.
func Text(q site.BlockListing) string {
	text := strings.Join([]string{
		q.Kinds + naming("page", q.Like), naming("topic", q.Topic), naming("branch", q.Within), string(q.Sort),
		strconv.Itoa(q.Most),
	}, ";")
	if q.Looks != "" || q.Wants != "" || q.Narrow != "" {
		text += ";" + string(q.Looks) + ";" + q.Wants
	}
	if q.Narrow != "" {
		text += ";" + q.Narrow
	}
	return text
}

func naming(kind string, id site.PageID) string {
	if id == 0 {
		return ""
	}
	return fmt.Sprintf("%s:%d", kind, id)
}

// Asked reads a question that was read before: what it names may be gone by now.
func Asked(text string) (q site.BlockListing, is bool) {
	parts := strings.Split(text, ";")
	if n := len(parts); n != 5 && n != 7 && n != 8 {
		return q, false
	}
	parts = append(parts, "", "", "")
	q.Kinds, q.Sort, q.Looks, q.Wants = parts[0], site.ListSort(parts[3]), site.ListLook(parts[5]), parts[6]
	q.Narrow = parts[7]
	var faults [4]error
	if strings.HasPrefix(q.Kinds, "page:") {
		q.Like, faults[3] = named(q.Kinds, "page:")
		q.Kinds = ""
	}
	q.Topic, faults[0] = named(parts[1], "topic:")
	q.Within, faults[1] = named(parts[2], "branch:")
	q.Most, faults[2] = strconv.Atoi(parts[4])
	return q, faults == [4]error{}
}

// named reads the number of a page behind a word; 0 for none.
func named(text, word string) (site.PageID, error) {
	if text == "" {
		return 0, nil
	}
	id, err := strconv.ParseInt(strings.TrimPrefix(text, word), 10, 64)
	return site.PageID(id), err
}

// namings are where a written question names another page: by its number, or by another name, as a sheet does.
var namings = regexp.MustCompile(`\b(topic|branch|page):([^;|]+)`)

// Rename puts other names for the pages that a written question names.
func Rename(text string, other func(name string) string) string {
	return namings.ReplaceAllStringFunc(text, func(part string) string {
		word, name, _ := strings.Cut(part, ":")
		return word + ":" + other(name)
	})
}

// Nameless leaves out of a written question what names other pages.
func Nameless(text string) string { return namings.ReplaceAllString(text, "") }

// Read reads what somebody asks, and takes it into its one form. Pages that it names may be in the bin by now.
func Read(s *site.Site, text string) (q site.BlockListing, err error) {
	asked, is := Asked(text)
	if !is {
		return q, typed.Refuse("“%s” is no listing.", text)
	}
	if asked.Like != 0 {
		return readLike(s, asked)
	}
	if asked.Kinds, err = readKinds(s, asked.Kinds); err != nil {
		return q, err
	}
	for _, id := range []site.PageID{asked.Topic, asked.Within} {
		if p := s.Page(id); id != 0 && (p == nil || p.Purged) {
			const gone = "A page that the listing asks for is not there any more."
			return q, &typed.Missing{Page: id, Sentence: gone}
		}
	}
	if p := s.Page(asked.Topic); p != nil && !p.IsTopic() {
		return q, typed.Refuse("“%s” is no topic.", p.Label)
	}
	if asked.Sort, err = readSort(s, asked.Sort); err != nil {
		return q, err
	}
	if asked.Wants, err = ParseWants(s, asked.Wants); err != nil {
		return q, err
	}
	if err := checkNarrow(s, asked.Narrow); err != nil {
		return q, err
	}
	return readLooks(asked)
}

func readLooks(q site.BlockListing) (site.BlockListing, error) {
	var err error
	looks := []site.ListLook{site.LooksList, site.LooksCards, site.LooksTable}
	if q.Looks, err = typed.OneOf(string(q.Looks), looks...); err != nil {
		return q, err
	}
	if q.Most < 1 || q.Most > Most {
		return q, typed.Refuse("A listing shows from 1 to %d pages.", Most)
	}
	return q, nil
}

// readLike reads what a block says of a list that it shows again.
func readLike(s *site.Site, q site.BlockListing) (site.BlockListing, error) {
	p := s.Page(q.Like)
	if p == nil || p.Purged {
		return q, &typed.Missing{Page: q.Like, Sentence: "The page whose list is asked for is not there any more."}
	}
	return readLooks(site.BlockListing{Like: q.Like, Most: q.Most, Looks: q.Looks})
}

// OfBlock gives the question that a block asks, itself or as a page does; is tells whether it is a listing. What a page
// asks that lists nothing any more is answered by none.
func OfBlock(s *site.Site, b *site.Block) (q site.BlockListing, is bool) {
	own, is := b.Shows.(site.BlockListing)
	if !is || own.Like == 0 {
		return own, is
	}
	q, lists := Of(s, own.Like)
	if !lists {
		q = site.BlockListing{Within: nowhere}
	}
	q.Most, q.Looks, q.Narrow = own.Most, own.Looks, ""
	return q, true
}

// nowhere is a branch in which no page stands.
const nowhere site.PageID = -1

func readKinds(s *site.Site, text string) (string, error) {
	kinds := strings.FieldsFunc(text, func(r rune) bool { return r == '|' })
	slices.Sort(kinds)
	for _, key := range kinds {
		known := slices.ContainsFunc(s.Kinds(), func(k site.Kind) bool { return k.Key == key })
		if !known && key != "page" && len(s.Kinds()) > 0 {
			return "", typed.Refuse("There is no page type “%s”.", key)
		}
	}
	return strings.Join(slices.Compact(kinds), "|"), nil
}

// readSort reads an order: one of those that every page has, or by a detail.
func readSort(s *site.Site, by site.ListSort) (site.ListSort, error) {
	key, _ := by.Detail()
	if key == "" {
		return typed.OneOf(string(by), site.ListSorts()...)
	}
	d := s.Detail(key)
	if d == nil {
		return "", &typed.Missing{Sentence: "The detail by which the listing is sorted is not there any more."}
	}
	if detail.Of(*d).Order == nil || !Asks(*d) {
		return "", typed.Refuse("Nothing can be sorted by “%s”.", d.Label)
	}
	return by, nil
}
