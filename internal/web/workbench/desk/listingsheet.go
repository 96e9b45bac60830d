package desk

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A ListingSheet is what a sheet says of a question that is asked for a listing, with what it gives the visitor.
type ListingSheet struct {
	site.BlockListing
	Sentence      string
	Likes         []Option // lists that a block can show again
	Kinds         []Option // to choose from
	Sorts, Looks  []Option
	Wants         []wanted
	Askable       []Option    // details of which more can be asked
	Narrowing     []narrowing // by what visitors may narrow it
	Narrows       []Option    // by what they could besides
	Topic, Within *site.Page
	Count         int
	First         []*site.Page
	OfPage        bool // it is what a page lists, in pages of their own, and visitors may narrow it
	Locked        bool // it can't be changed now, or not by this person
}

// PageListingOf gives the sheet of what a page lists, which is cut into pages and which visitors may narrow.
func PageListingOf(d *Desk, q site.BlockListing) *ListingSheet {
	made := ListingOf(d, q, d.MayHere(string(site.ActionEdit)))
	made.OfPage = true
	once := q
	once.Most = 0
	made.Sentence = fmt.Sprintf("%s, %d at a time", d.ListingWords(once), q.Most)
	for i, by := range made.Narrowing {
		made.Sentence += []string{"; visitors narrow it by ", " and "}[min(i, 1)] + by.Label
	}
	return made
}

// Text is the question as an edit writes it.
func (l *ListingSheet) Text() string { return listing.Text(l.BlockListing) }

// A narrowing is a key by which visitors may narrow a list.
type narrowing struct{ Key, Label string }

// A wanted is what a listing asks of a detail, to be changed on the sheet.
type wanted struct {
	listing.Want
	Label   string
	Range   bool
	Choices []Option // nil: it is typed
}

// firstHits is the number of hits that stand on the sheet of a listing.
const firstHits = 5

// ListingOf gives the sheet of a question, which may be locked to the person.
func ListingOf(d *Desk, q site.BlockListing, may grant.Answer) *ListingSheet {
	made := &ListingSheet{
		Locked:       d.State == "now" || !may.Yes,
		BlockListing: q, Sentence: d.ListingWords(q), Topic: d.Site.Page(q.Topic), Within: d.Site.Page(q.Within),
		Kinds: Options("", "any page type"), Sorts: sortOptions(d, q.Sort),
		Looks: Options("", "a list", string(site.LooksCards), "cards", string(site.LooksTable), "a table"),
	}
	made.Likes = likesOf(d, q)
	if q.Like != 0 {
		q = resolved(d.Site, q)
	}
	made.Wants, made.Askable = wantedOf(d, q)
	made.Narrowing, made.Narrows = narrowingOf(d, q)
	several := strings.Contains(q.Kinds, "|")
	for _, k := range d.Site.Kinds() {
		if k.Key != site.KindTopic && k.Key != site.KindTopicList {
			made.Kinds = append(made.Kinds, Options(k.Key, k.Name)...)
		}
	}
	if several {
		made.Kinds = append(made.Kinds, Options(q.Kinds, d.ListingWords(site.BlockListing{Kinds: q.Kinds}))...)
	}
	reached := listing.Reached(d.Site, q, reach.NewPanel(d.Lens))
	for _, id := range listing.Candidates(d.Site, q) {
		if reached(id) == 0 {
			continue
		}
		if made.Count++; len(made.First) < min(firstHits, q.Most) {
			made.First = append(made.First, d.Site.Page(id))
		}
	}
	return made
}

// likesOf gives the lists of pages that a block can show again.
func likesOf(d *Desk, q site.BlockListing) []Option {
	likes := Options("", "a question of its own")
	for _, id := range d.Site.Listers() {
		if d.Site.InTree(id) || id == q.Like {
			likes = append(likes, Options(fmt.Sprint(id), "what "+d.PageWords(id)+" lists")...)
		}
	}
	return likes
}

// resolved is what a listing asks, written out.
func resolved(s *site.Site, q site.BlockListing) site.BlockListing {
	out, _ := listing.OfBlock(s, &site.Block{Shows: q})
	return out
}

// sortOptions gives the orders that can be chosen, the one that is set in any case.
func sortOptions(d *Desk, set site.ListSort) []Option {
	sorts := site.ListSorts()
	for _, k := range d.Site.Kinds() {
		for _, of := range d.Site.Details(k.Key) {
			if detail.Of(of).Order != nil && listing.Asks(of) {
				sorts = append(sorts, site.ListSort(of.Key), site.ListSort("-"+of.Key))
			}
		}
	}
	if !slices.Contains(sorts, set) {
		sorts = append(sorts, set)
	}
	var all []Option
	for _, by := range sorts {
		all = append(all, Options(string(by), d.ListSortWords(by))...)
	}
	return all
}

// wantedOf gives what a listing asks of details, and the details of which it can ask more.
func wantedOf(d *Desk, q site.BlockListing) (all []wanted, askable []Option) {
	for _, w := range listing.Wants(q) {
		of := w.Of(d.Site)
		made := wanted{Want: w, Label: of.Label, Range: w.Value == ""}
		switch of.Type {
		case site.DetailYes:
			made.Choices = Options("yes", "Yes", "no", "No")
		case site.DetailChoice, site.DetailChoices:
			for _, word := range of.ChoiceList() {
				made.Choices = append(made.Choices, Options(word, word)...)
			}
		}
		all = append(all, made)
	}
	askable = Options("", "nothing more", listing.DateKey, "Date")
	for _, k := range d.Site.Kinds() {
		for _, of := range d.Site.Details(k.Key) {
			if _, can := listing.Usual(of); can {
				askable = append(askable, Options(of.Key, k.Name+": "+of.Label)...)
			}
		}
	}
	return all, askable
}

// narrowingOf gives by what visitors may narrow a list, and by what they could besides.
func narrowingOf(d *Desk, q site.BlockListing) (all []narrowing, more []Option) {
	more = Options("", "nothing more")
	offer := func(key, label string) {
		if slices.Contains(strings.Split(q.Narrow, "|"), key) {
			all = append(all, narrowing{key, label})
		} else {
			more = append(more, Options(key, label)...)
		}
	}
	for _, k := range d.Site.Kinds() {
		for _, of := range d.Site.Details(k.Key) {
			if listing.CanNarrow(of) {
				offer(of.Key, k.Name+": "+of.Label)
			}
		}
	}
	for _, list := range d.Site.TopicLists() {
		offer(fmt.Sprintf("topic:%d", list), d.Site.Page(list).Label)
	}
	return all, more
}

// AskOtherwise sets a part of the question of a listing, as a form says it.
func AskOtherwise(s *site.Site, q site.BlockListing, form func(string) string) (site.BlockListing, error) {
	value := form("new")
	switch form("field") {
	case "like":
		if id := Number[site.PageID](value); id != 0 {
			return site.BlockListing{Like: id, Most: q.Most, Looks: q.Looks}, nil
		}
		if q = resolved(s, q); q.Within < 0 {
			return site.BlockListing{Sort: site.ListNewest, Most: q.Most, Looks: q.Looks}, nil
		}
	case "kinds":
		q.Kinds = value
	case "topic":
		q.Topic = Number[site.PageID](value)
	case "within":
		q.Within = Number[site.PageID](value)
	case "sort":
		q.Sort = site.ListSort(value)
	case "most":
		most, err := strconv.Atoi(value)
		if err != nil {
			return q, &edit.Refusal{Sentence: fmt.Sprintf("A listing shows from 1 to %d pages.", listing.Most)}
		}
		q.Most = most
	case "looks":
		q.Looks = site.ListLook(value)
	case "narrow":
		q.Narrow = strings.Trim(q.Narrow+"|"+value, "|")
	case "unnarrow":
		keys := slices.DeleteFunc(strings.Split(q.Narrow, "|"), func(key string) bool { return key == value })
		q.Narrow = strings.Join(keys, "|")
	case "ask", "value", "from", "until", "unask":
		q.Wants = wantsAfter(s, q, form)
	default:
		return q, &edit.Refusal{Sentence: "This part of a listing is not known."}
	}
	return q, nil
}

// wantsAfter gives what a listing asks of details after a change: more of it, or another value or end of one of them,
// whose number the form says. One with neither is asked no more.
func wantsAfter(s *site.Site, q site.BlockListing, form func(string) string) string {
	wants, field, value := listing.Wants(q), form("field"), form("new")
	if field == "ask" {
		more := listing.Want{Key: value}
		if usual, can := listing.Usual(more.Of(s)); can {
			more = usual
			more.Key = value
		}
		return listing.WantsText(append(wants, more))
	}
	n, err := strconv.Atoi(form("row"))
	if err != nil || n < 0 || n >= len(wants) {
		return q.Wants
	}
	w := &wants[n]
	*map[string]*string{"value": &w.Value, "from": &w.From, "until": &w.Until, "unask": new(string)}[field] = value
	if field == "unask" || w.Value == "" && w.From == "" && w.Until == "" {
		wants = slices.Delete(wants, n, n+1)
	}
	return listing.WantsText(wants)
}
