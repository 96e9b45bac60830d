package layouts

import (
	"fmt"
	"strconv"
	"strings"

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
	Sorts         []desk.Option
	Topic, Within *site.Page
	Count         int
	First         []*site.Page
}

// firstHits is the number of hits that stand on the sheet of a listing.
const firstHits = 5

func listingOf(d *desk.Desk, q site.BlockListing) *listingSheet {
	made := &listingSheet{
		BlockListing: q, Sentence: d.ListingWords(q), Topic: d.Site.Page(q.Topic), Within: d.Site.Page(q.Within),
		Kinds: desk.Options("", "any page type"), Sorts: sortOptions(),
	}
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
		if panel.At(d.Site, id).Reachable() == 0 {
			continue
		}
		if made.Count++; len(made.First) < min(firstHits, q.Most) {
			made.First = append(made.First, d.Site.Page(id))
		}
	}
	return made
}

func sortOptions() []desk.Option {
	var all []desk.Option
	for _, by := range site.ListSorts() {
		all = append(all, desk.Options(string(by), desk.ListSortWords(by))...)
	}
	return all
}

// listing sets a part of the question that a block asks.
func (i *mapIntent) listing(b *site.Block) ([]edit.Op, string, error) {
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
	default:
		return nil, "", &edit.Refusal{Sentence: "This part of a listing is not known."}
	}
	return []edit.Op{edit.OpEditBlock{Block: b.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldPiece, Old: piece.Text(was), New: piece.Text(next)},
	}}}, "changed what “" + desk.Short(b.Name) + "” lists", nil
}
