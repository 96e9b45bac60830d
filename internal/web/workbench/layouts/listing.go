package layouts

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A listingSheet is what the sheet of a block says of its question, with what it gives the visitor.
type listingSheet struct {
	site.BlockListing
	Sentence      string
	Kinds         []desk.Option // to choose from
	Sorts, Looks  []desk.Option
	Wants         []wanted
	Askable       []desk.Option // details of which more can be asked
	Topic, Within *site.Page
	Count         int
	First         []*site.Page
}

// A wanted is what a listing asks of a detail, to be changed on the sheet.
type wanted struct {
	listing.Want
	Label   string
	Range   bool
	Choices []desk.Option // nil: it is typed
}

// firstHits is the number of hits that stand on the sheet of a listing.
const firstHits = 5

func listingOf(d *desk.Desk, q site.BlockListing) *listingSheet {
	made := &listingSheet{
		BlockListing: q, Sentence: d.ListingWords(q), Topic: d.Site.Page(q.Topic), Within: d.Site.Page(q.Within),
		Kinds: desk.Options("", "any page type"), Sorts: sortOptions(d, q.Sort),
		Looks: desk.Options("", "a list", string(site.LooksCards), "cards", string(site.LooksTable), "a table"),
	}
	made.Wants, made.Askable = wantedOf(d, q)
	several := strings.Contains(q.Kinds, "|")
	for _, k := range d.Site.Kinds() {
		if k.Key != site.KindTopic && k.Key != site.KindTopicList {
			made.Kinds = append(made.Kinds, desk.Options(k.Key, k.Name)...)
		}
	}
	if several {
		made.Kinds = append(made.Kinds, desk.Options(q.Kinds, d.ListingWords(site.BlockListing{Kinds: q.Kinds}))...)
	}
	panel := reach.NewPanel(d.Lens)
	for _, id := range listing.Candidates(d.Site, q) {
		if listing.Reached(d.Site, q, panel, id) == 0 {
			continue
		}
		if made.Count++; len(made.First) < min(firstHits, q.Most) {
			made.First = append(made.First, d.Site.Page(id))
		}
	}
	return made
}

// sortOptions gives the orders that can be chosen, the one that is set in any case.
func sortOptions(d *desk.Desk, set site.ListSort) []desk.Option {
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
	var all []desk.Option
	for _, by := range sorts {
		all = append(all, desk.Options(string(by), d.ListSortWords(by))...)
	}
	return all
}

// wantedOf gives what a listing asks of details, and the details of which it can ask more.
func wantedOf(d *desk.Desk, q site.BlockListing) (all []wanted, askable []desk.Option) {
	for _, w := range listing.Wants(q) {
		of := w.Of(d.Site)
		made := wanted{Want: w, Label: of.Label, Range: w.Value == ""}
		switch of.Type {
		case site.DetailYes:
			made.Choices = desk.Options("yes", "Yes", "no", "No")
		case site.DetailChoice, site.DetailChoices:
			for _, word := range of.ChoiceList() {
				made.Choices = append(made.Choices, desk.Options(word, word)...)
			}
		}
		all = append(all, made)
	}
	askable = desk.Options("", "nothing more", listing.DateKey, "Date")
	for _, k := range d.Site.Kinds() {
		for _, of := range d.Site.Details(k.Key) {
			if _, can := listing.Usual(of); can {
				askable = append(askable, desk.Options(of.Key, k.Name+": "+of.Label)...)
			}
		}
	}
	return all, askable
}

// listing sets a part of the question that a block asks.
func (i *mapIntent) listing(s *site.Site, b *site.Block) ([]edit.Op, string, error) {
	was, is := b.Shows.(site.BlockListing)
	if !is {
		return nil, "", &edit.Conflict{Sentence: "The block is no listing any more."}
	}
	next, value := was, i.form("new")
	switch i.form("field") {
	case "kinds":
		next.Kinds = value
	case "topic":
		next.Topic = desk.Number[site.PageID](value)
	case "within":
		next.Within = desk.Number[site.PageID](value)
	case "sort":
		next.Sort = site.ListSort(value)
	case "most":
		most, err := strconv.Atoi(value)
		if err != nil {
			return nil, "", &edit.Refusal{Sentence: fmt.Sprintf("A listing shows from 1 to %d pages.", piece.ListingMost)}
		}
		next.Most = most
	case "looks":
		next.Looks = site.ListLook(value)
	case "ask", "value", "from", "until", "unask":
		next.Wants = i.wants(s, was, i.form("field"), value)
	default:
		return nil, "", &edit.Refusal{Sentence: "This part of a listing is not known."}
	}
	return []edit.Op{edit.OpEditBlock{Block: b.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldPiece, Old: piece.Text(was), New: piece.Text(next)},
	}}}, "changed what “" + desk.Short(b.Name) + "” lists", nil
}

// wants gives what a listing asks of details after a change: more of it, or another value or end of one of them, whose
// number the form says. One with neither is asked no more.
func (i *mapIntent) wants(s *site.Site, q site.BlockListing, field, value string) string {
	wants := listing.Wants(q)
	if field == "ask" {
		more := listing.Want{Key: value}
		if usual, can := listing.Usual(more.Of(s)); can {
			more = usual
			more.Key = value
		}
		return listing.WantsText(append(wants, more))
	}
	n, err := strconv.Atoi(i.form("row"))
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
