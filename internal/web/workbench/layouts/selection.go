package layouts

import (
	"context"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
	"vineladder/internal/web/workbench/desk"
)

// readChips reads the places of a selection, as in "p12,p14".
func readChips(typed string) (places []site.PlacementID) {
	for one := range strings.SplitSeq(typed, ",") {
		if chip := readChip(one); chip.Placement != 0 {
			places = append(places, chip.Placement)
		}
	}
	return places
}

// selection renders the sheet of several places.
func (s *Area) selection(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	s.Render(w, r, "blocks-selected", selectionOf(d, readChips(r.FormValue("chips"))))
	return nil
}

func selectionOf(d *desk.Desk, chosen []site.PlacementID) desk.Selection {
	chosen = slices.DeleteFunc(slices.Clone(chosen), func(id site.PlacementID) bool {
		return d.Site.Placement(id) == nil
	})
	regions := map[string]bool{}
	for _, id := range chosen {
		regions[d.Site.Placement(id).Region] = true
	}
	v := desk.Selection{
		Desk: d, Words: placesWords(d.Site, chosen) + " selected",
		Where:  "In " + count.Of(len(regions), "region", "regions"),
		Locked: d.State == "now" || !d.MayAnywhere(string(site.ActionPlace)).Yes,
	}
	for _, choice := range choices(d) {
		var values []string
		for _, id := range chosen {
			values = append(values, edit.PlacementValue(d.Site.Placement(id), choice.Field))
		}
		if choice.Locked = v.Locked; len(values) > 0 {
			choice.Common(values)
		}
		v.Choices = append(v.Choices, choice)
	}
	return v
}

// placesWords counts places, and the blocks that stand there.
func placesWords(s *site.Site, chosen []site.PlacementID) string {
	return count.Of(len(chosen), "place", "places") + " of " + count.Of(len(blocksAt(s, chosen)), "block", "blocks")
}

func blocksAt(s *site.Site, places []site.PlacementID) (blocks []site.BlockID) {
	for _, id := range places {
		if p := s.Placement(id); p != nil && !slices.Contains(blocks, p.Block) {
			blocks = append(blocks, p.Block)
		}
	}
	return blocks
}

// choices are what is set for several places at once.
func choices(d *desk.Desk) []desk.ForMany {
	layouts := desk.Options("", "every layout that has the region")
	for _, l := range d.Site.Theme().Layouts {
		layouts = append(layouts, desk.Option{Value: l.Key, Words: l.Name + " only"})
	}
	all := []desk.ForMany{
		{Field: edit.FieldOn, Label: "Switched", Options: desk.Options("yes", "on", "no", "off")},
		{Field: edit.FieldAudience, Label: "For", Options: d.Audiences("", "everyone")},
		{Field: edit.FieldLayout, Label: "In", Options: layouts},
	}
	if sets := d.Site.ConditionSets(); len(sets) > 0 {
		options := desk.Options("", "by conditions of its own")
		for _, set := range sets {
			options = append(options, desk.Option{
				Value: strconv.FormatInt(int64(set.ID), 10), Words: "as in “" + set.Name + "”",
			})
		}
		all = append(all, desk.ForMany{Field: edit.FieldSet, Label: "On pages", Options: options})
	}
	return all
}

// onMany is what is done with several places at once.
func (i *mapIntent) onMany(s *site.Site) ([]edit.Op, string, error) {
	of := placesWords(s, i.places)
	switch i.do {
	case "set":
		field := edit.Field(i.form("field"))
		ops := edit.SetPlaces(s, i.places, map[edit.Field]string{field: i.form("new")})
		if field == edit.FieldOn {
			verb := map[string]string{"yes": "switched on ", "no": "switched off "}[i.form("new")]
			return ops, verb + of, nil
		}
		return ops, "changed the " + field.Words() + " of " + of, nil
	case "dates":
		window, err := desk.TypedWindow(s, i.now, i.form)
		return edit.SetPlaces(s, i.places, window), "set from when until when to show " + of, err
	case "take":
		var ops []edit.Op
		for _, id := range i.places {
			if s.Placement(id) != nil {
				ops = append(ops, edit.OpTakePlacement{Placement: id})
			}
		}
		return ops, "took " + of + " out; the blocks are kept", nil
	case "replace":
		return i.replace(s)
	}
	return nil, "", typed.Refuse("That can't be done with several at once.")
}

// replace puts another block wherever those of the selection stand.
func (i *mapIntent) replace(s *site.Site) ([]edit.Op, string, error) {
	by, blocks := s.Block(readChip(i.form("by")).Block), blocksAt(s, i.places)
	switch {
	case by == nil:
		return nil, "", &edit.Conflict{Sentence: "The block to put there is not there any more."}
	case slices.Contains(blocks, by.ID):
		return nil, "", typed.Refuse("“%s” is one of those that it should replace.", by.Name)
	}
	places := edit.PlacesOf(s, blocks)
	if len(i.made) < len(places) {
		return nil, "", &edit.Conflict{Sentence: "One of the blocks came to stand elsewhere meanwhile; try again."}
	}
	words := "put “" + desk.Short(by.Name) + "” in place of " + placesWords(s, places)
	return edit.Replace(s, blocks, by.ID, i.made), words, nil
}

// readyReplace takes numbers for the places that will be of another block.
func (s *Area) readyReplace(ctx context.Context, on *site.Site, i *mapIntent) (err error) {
	for range edit.PlacesOf(on, blocksAt(on, i.places)) {
		id, err := s.Store.NewPlacementID(ctx)
		if err != nil {
			return err
		}
		i.made = append(i.made, id)
	}
	return nil
}
