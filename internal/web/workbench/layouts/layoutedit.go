package layouts

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/region"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A mapIntent is what the map of a layout asks for, before it is known what stands in the draft.
type mapIntent struct {
	do   string
	chip chipID
	form func(string) string
	hash string // of a text

	newBlock     site.BlockID
	newPlacement site.PlacementID
	newSet       site.SetID

	places []site.PlacementID // of a selection
	made   []site.PlacementID // for replacing
	now    time.Time
}

// layoutEdit does one thing with a block or a place of it.
func (s *Area) layoutEdit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := s.readMapIntent(r, d)
	if err != nil {
		return err
	}
	if err := s.readyMap(r, d, i); err != nil {
		return err
	}
	made, words, err := s.InDraft(r, d, i.operations)
	if err != nil {
		return err
	}
	chip := i.where(made.Site)
	said := say.Capital(words) + "."
	if p := made.Site.Placement(chip.Placement); p != nil &&
		slices.Contains([]string{"move", "nudge", "place", "make", "notice", "position"}, i.do) {
		on := *d
		on.Site = made.Site
		said = say.Capital(words) + ": " + on.PlaceWords(p) + "."
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said, Chip: chip.String()})
	return nil
}

// where is what to select after an edit.
func (i *mapIntent) where(s *site.Site) chipID {
	switch {
	case i.do == "make-set" && s.ConditionSet(i.newSet) != nil:
		return chipID{Set: i.newSet}
	case i.chip.Set != 0 && s.ConditionSet(i.chip.Set) == nil:
		return chipID{Sets: true}
	case i.newPlacement != 0 && s.Placement(i.newPlacement) != nil:
		return chipID{Placement: i.newPlacement}
	case i.newBlock != 0 && s.Block(i.newBlock) != nil:
		return chipID{Block: i.newBlock}
	case i.chip.Placement != 0 && s.Placement(i.chip.Placement) == nil:
		if b := s.Block(desk.Number[site.BlockID](i.form("block"))); b != nil {
			return chipID{Block: b.ID}
		}
		return chipID{}
	}
	return i.chip
}

// layoutTry says what an edit on the map would do and leaves everything as it is.
func (s *Area) layoutTry(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := s.readMapIntent(r, d)
	if err != nil {
		return err
	}
	if slices.Contains([]string{"place", "make", "notice"}, i.do) {
		i.newPlacement, i.newBlock = desk.TryEntry, desk.TryEntry
	}
	if i.do == "replace" {
		for n := range edit.PlacesOf(d.Draft.Site, blocksAt(d.Draft.Site, i.places)) {
			i.made = append(i.made, desk.TryEntry+site.PlacementID(n))
		}
	}
	next, changes, err := s.Tried(r, d, i.operations)
	if err != nil {
		return err
	}
	facts := &desk.TryFacts{Changes: changes}
	on := *d
	on.Site = next
	if p := next.Placement(i.where(next).Placement); p != nil {
		facts.Place = on.PlaceWords(p)
		b := next.Block(p.Block)
		facts.Menu = "“" + b.Name + "” would show on " + count.Pages(region.Pages(next, b, d.Lens))
	}
	s.Say(w, http.StatusOK, desk.Reply{Facts: facts})
	return nil
}

func (s *Area) readMapIntent(r *http.Request, d *desk.Desk) (*mapIntent, error) {
	i := &mapIntent{do: r.FormValue("do"), chip: readChip(r.FormValue("chip")), form: r.FormValue, now: s.Now()}
	if i.places = readChips(r.FormValue("chips")); len(i.places) == 0 && i.do == "replace" {
		i.places = edit.PlacesOf(d.Draft.Site, []site.BlockID{desk.Number[site.BlockID](r.FormValue("block"))})
	}
	var err error
	switch i.do {
	case "field":
		i.form, err = desk.WithMoment(r, d)
	case "text":
		i.hash, err = s.KeepText(r, d)
	case "notice":
		err = s.readNotice(r, d, i)
	}
	return i, err
}

func (s *Area) readyMap(r *http.Request, d *desk.Desk, i *mapIntent) (err error) {
	if i.do == "replace" {
		return s.readyReplace(r.Context(), d.Draft.Site, i)
	}
	if i.do == "make" || i.do == "notice" {
		if i.newBlock, err = s.Store.NewBlockID(r.Context()); err != nil {
			return err
		}
	}
	if i.do == "make-set" || i.do == "name-set" {
		if i.newSet, err = s.Store.NewSetID(r.Context()); err != nil {
			return err
		}
	}
	if i.do == "place" || i.do == "notice" || i.do == "make" && i.form("region") != "" {
		i.newPlacement, err = s.Store.NewPlacementID(r.Context())
	}
	return err
}

// operations turns the intent into operations on a Site, with what was done in words.
func (i *mapIntent) operations(s *site.Site) ([]edit.Op, string, error) {
	switch i.do {
	case "make":
		return i.make(s)
	case "notice":
		return i.notice(s)
	}
	if len(i.places) > 0 {
		return i.onMany(s)
	}
	if i.isOfSets() {
		return i.onSet(s)
	}
	p := s.Placement(i.chip.Placement)
	id := i.chip.Block
	if p != nil {
		id = p.Block
	}
	b := s.Block(id)
	if b == nil {
		return nil, "", &edit.Conflict{Sentence: "The block is not there any more."}
	}
	name := "“" + desk.Short(b.Name) + "”"
	switch i.do {
	case "block-field":
		field := edit.Field(i.form("field"))
		return []edit.Op{
			edit.OpEditBlock{
				Block:  b.ID,
				Fields: []edit.FieldChange{{Field: field, Old: i.form("old"), New: strings.TrimSpace(i.form("new"))}},
			},
		}, "changed the " + field.Words() + " of " + name, nil
	case "text":
		return []edit.Op{
			edit.OpEditBlock{
				Block:  b.ID,
				Fields: []edit.FieldChange{{Field: edit.FieldPiece, Old: "text:" + i.form("old"), New: "text:" + i.hash}},
			},
		}, "wrote the text of " + name, nil
	case "image":
		shows, _ := b.Shows.(site.BlockImage)
		next := site.BlockImage{File: cmp.Or(desk.FileOf(i.form("file")), shows.File), Alternative: shows.Alternative}
		if i.form("field") == "alternative" {
			next.Alternative = i.form("new")
		}
		return []edit.Op{
			edit.OpEditBlock{
				Block:  b.ID,
				Fields: []edit.FieldChange{{Field: edit.FieldPiece, Old: piece.Text(shows), New: piece.Text(next)}},
			},
		}, "changed the image of " + name, nil
	case "listing":
		return i.listing(s, b)
	case "place":
		slot := desk.SlotAt(s, i.form("region"), i.form("position"), 0)
		if slot.Region == "" {
			return nil, "", &edit.Refusal{Sentence: "Choose the region in which the block should stand."}
		}
		return []edit.Op{
			edit.OpPutPlacement{Placement: i.newPlacement, Block: b.ID, Slot: slot, Fields: onlyIn(i.form("layout"))},
		}, "put " + name, nil
	case "take-block":
		return []edit.Op{edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: b.ID}}}, "took the block " + name + " away", nil
	}
	if p == nil {
		return nil, "", &edit.Conflict{Sentence: "The block does not stand there any more."}
	}
	return i.onPlace(s, p, name)
}

// onPlace is what is done with one place of a block.
func (i *mapIntent) onPlace(s *site.Site, p *site.Placement, name string) ([]edit.Op, string, error) {
	switch i.do {
	case "field":
		field, value := edit.Field(i.form("field")), i.form("new")
		words := "changed the " + field.Words() + " of " + name
		if field == edit.FieldOn {
			words = map[string]string{"yes": "switched on ", "no": "switched off "}[value] + name
		}
		return []edit.Op{
			edit.OpEditPlacement{
				Placement: p.ID,
				Fields:    []edit.FieldChange{{Field: field, Old: i.form("old"), New: value}},
			},
		}, words, nil
	case "add", "drop":
		return i.changeList(p, name)
	case "move":
		slot, err := i.slot(s, p)
		return []edit.Op{edit.OpMovePlacement{Placement: p.ID, From: edit.SlotOf(s, p), To: slot}}, "moved " + name, err
	case "position":
		return []edit.Op{
			edit.OpMovePlacement{
				Placement: p.ID,
				From:      edit.SlotOf(s, p),
				To:        desk.SlotAt(s, p.Region, i.form("position"), p.ID),
			},
		}, "moved " + name, nil
	case "nudge":
		slot, err := i.nudged(s, p)
		return []edit.Op{edit.OpMovePlacement{Placement: p.ID, From: edit.SlotOf(s, p), To: slot}}, "moved " + name, err
	case "take":
		words := "took " + name + " out of the region “" + s.Theme().Region(p.Region).Name + "”; the block is kept"
		return []edit.Op{edit.OpTakePlacement{Placement: p.ID}}, words, nil
	}
	return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
}

// changeList adds an item to a condition, or drops one.
func (i *mapIntent) changeList(p *site.Placement, name string) ([]edit.Op, string, error) {
	change := i.changedList(func(field edit.Field) string { return edit.PlacementValue(p, field) })
	return []edit.Op{
		edit.OpEditPlacement{Placement: p.ID, Fields: []edit.FieldChange{change}},
	}, "changed where " + name + " shows", nil
}

// changedList gives a list of conditions with the item of the form added, or dropped.
func (i *mapIntent) changedList(value func(edit.Field) string) edit.FieldChange {
	field := edit.Field(i.form("field"))
	old := value(field)
	items := slices.DeleteFunc(
		strings.Split(old, "|"),
		func(item string) bool { return item == "" || item == i.form("item") },
	)
	if i.do == "add" {
		items = append(items, i.form("item"))
	}
	return edit.FieldChange{Field: field, Old: old, New: strings.Join(items, "|")}
}

// slot reads a slot: before or after another placement, or a position in a region.
func (i *mapIntent) slot(s *site.Site, p *site.Placement) (edit.Slot, error) {
	beside := s.Placement(readChip(i.form("target")).Placement)
	if beside == nil {
		if s.Theme().Region(i.form("region")) == nil {
			return edit.Slot{}, &edit.Refusal{Sentence: "Choose the region to which the block should move."}
		}
		return desk.SlotAt(s, i.form("region"), i.form("position"), p.ID), nil
	}
	if beside.ID == p.ID {
		return edit.Slot{}, &edit.Refusal{Sentence: "A block can't stand beside itself."}
	}
	at := slices.Index(
		slices.DeleteFunc(region.In(s, beside.Region), func(id site.PlacementID) bool { return id == p.ID }),
		beside.ID,
	) + 1
	if i.form("way") != "before" {
		at++
	}
	return desk.SlotAt(s, beside.Region, strconv.Itoa(at), p.ID), nil
}

// nudged is the slot one step up or down in the region, or in the region before or after as the map is read.
func (i *mapIntent) nudged(s *site.Site, p *site.Placement) (edit.Slot, error) {
	refuse := func(format string, args ...any) (edit.Slot, error) {
		return edit.Slot{}, &edit.Refusal{Sentence: fmt.Sprintf(format, args...)}
	}
	l := s.Layout(cmp.Or(p.Layout, i.form("layout")))
	position := i.seen(s, p, l)
	of := s.Theme().Region(p.Region).Name
	switch way := i.form("way"); way {
	case "up":
		if len(position.before) == 0 {
			return refuse("It is the first in “%s” already.", of)
		}
		return i.beside(s, p, position.before[len(position.before)-1], "before")
	case "down":
		if len(position.after) == 0 {
			return refuse("It is the last in “%s” already.", of)
		}
		return i.beside(s, p, position.after[0], "after")
	case "left", "right":
		if l == nil {
			return refuse("There is no layout in which to move it.")
		}
		order := l.Order(i.form("narrow") == "yes")
		at := slices.Index(order, p.Region)
		step := map[string]int{"left": -1, "right": 1}[way]
		for at += step; at >= 0 && at < len(order); at += step {
			if order[at] != site.ContentRegion {
				return desk.SlotAt(s, order[at], "", p.ID), nil
			}
		}
		return refuse("There is no region beyond “%s” in the layout “%s”.", of, l.Name)
	}
	return refuse("This step is not known.")
}

type around struct{ before, after []site.PlacementID }

// seen gives the placements of the region that stand in the same layout, before and after one.
func (i *mapIntent) seen(s *site.Site, p *site.Placement, l *site.Layout) around {
	var made around
	passed := false
	for _, id := range region.In(s, p.Region) {
		other := s.Placement(id)
		switch {
		case id == p.ID:
			passed = true
		case l != nil && other.Layout != "" && other.Layout != l.Key:
		case passed:
			made.after = append(made.after, id)
		default:
			made.before = append(made.before, id)
		}
	}
	return made
}

func (i *mapIntent) beside(s *site.Site, p *site.Placement, target site.PlacementID, way string) (edit.Slot, error) {
	asked := *i
	asked.form = func(name string) string {
		return map[string]string{"target": chipID{Placement: target}.String(), "way": way}[name]
	}
	return asked.slot(s, p)
}

func onlyIn(layout string) map[edit.Field]string {
	if layout == "" {
		return nil
	}
	return map[edit.Field]string{edit.FieldLayout: layout}
}

// make makes a block, and where the form names a region puts it there.
func (i *mapIntent) make(s *site.Site) ([]edit.Op, string, error) {
	name := strings.TrimSpace(i.form("name"))
	shows := i.form("sort")
	switch shows {
	case "text":
		shows = "text:"
	case "menu":
		m := s.Menu(desk.Number[site.MenuID](i.form("of")))
		if m == nil {
			return nil, "", &edit.Refusal{Sentence: "Choose the menu that the block should show."}
		}
		shows, name = piece.Text(
			site.BlockMenu{Menu: m.ID, Window: site.Window{First: 1, From: site.FromTrail, Unfold: site.UnfoldTrail}},
		), cmp.Or(
			name,
			m.Name,
		)
	case "listing":
		shows = piece.Text(site.BlockListing{Sort: site.ListNewest, Most: 5})
	case "image":
		if i.form("file") == "" {
			return nil, "", &edit.Refusal{Sentence: "Choose or upload the image that the block should show."}
		}
		shows = piece.Text(site.BlockImage{File: desk.FileOf(i.form("file"))})
	}
	for _, t := range piece.Types() {
		if name == "" && t.Key == i.form("sort") {
			name = t.Words
		}
	}
	ops := []edit.Op{
		edit.OpMakeBlock{
			Block:  i.newBlock,
			Fields: map[edit.Field]string{edit.FieldName: name, edit.FieldTitle: name, edit.FieldPiece: shows},
		},
	}
	words := "made the block “" + desk.Short(name) + "”"
	if i.form("region") == "" {
		return ops, words, nil
	}
	slot := desk.SlotAt(s, i.form("region"), i.form("position"), 0)
	return append(
		ops,
		edit.OpPutPlacement{Placement: i.newPlacement, Block: i.newBlock, Slot: slot, Fields: onlyIn(i.form("only"))},
	), words, nil
}

// blockText gives the text of a block for the editor.
func (s *Area) blockText(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	hash := ""
	if b := d.Site.Block(desk.Number[site.BlockID](r.FormValue("of"))); b != nil {
		if shows, isText := b.Shows.(site.BlockText); isText {
			hash = shows.Text
		}
	}
	html, err := s.Store.Text(r.Context(), hash)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = w.Write([]byte(html)) // the reader may have left
	return nil
}

// listing sets a part of the question that a block asks.
func (i *mapIntent) listing(s *site.Site, b *site.Block) ([]edit.Op, string, error) {
	was, is := b.Shows.(site.BlockListing)
	if !is {
		return nil, "", &edit.Conflict{Sentence: "The block is no listing any more."}
	}
	next, err := desk.AskOtherwise(s, was, i.form)
	return []edit.Op{edit.OpEditBlock{Block: b.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldPiece, Old: piece.Text(was), New: piece.Text(next)},
	}}}, "changed what “" + desk.Short(b.Name) + "” lists", err
}
