package layouts

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A blockSheet is all that is said of a block, and of the place of it that is selected.
type blockSheet struct {
	*site.Block
	Chip    string
	Sort    string
	What    string
	Pages   int // on which it shows, for the lens
	Fields  map[string]string
	Places  []blockPlace
	Place   *placeSheet // nil for a block of the tray
	Menu    *site.Menu
	Image   site.BlockImage
	Listing *desk.ListingSheet
	Text    string // hash
	Shown   string // on the page at hand: "" yes; else why not
	Removed bool   // it can be taken away: it stands nowhere
}

// A blockPlace is one of the places of a block.
type blockPlace struct {
	ID    string
	Words string
	On    bool
}

// A placeSheet is a place with its conditions.
type placeSheet struct {
	*site.Placement
	Region   string
	Position int
	Of       int
	Fields   map[string]string
	Sentence string
	Set      *site.ConditionSet // whose conditions on pages it has; nil: its own
	Pages    onPages
	Named    bool // it has conditions on pages of its own, which can be given a name
	Window   []desk.Moment
	Several  string
}

// onPages are conditions on pages, as they are edited.
type onPages struct {
	Where    []spotWords
	Except   []spotWords
	Kinds    []kindChoice
	NotKinds []kindChoice
	Locked   bool
}

// A spotWords is an item of a condition.
type spotWords struct {
	Key   string // as edit.SpotsText writes it
	Words string
	Gone  bool
}

type kindChoice struct {
	*site.Kind
	On bool
}

func blockSheetOf(d *desk.Desk, chip chipID) *blockSheet {
	p := d.Site.Placement(chip.Placement)
	id := chip.Block
	if p != nil {
		id = p.Block
	}
	b := d.Site.Block(id)
	if b == nil {
		return nil
	}
	made := &blockSheet{
		Block:  b,
		Chip:   chip.String(),
		Sort:   piece.Of(b.Shows).Key,
		What:   d.PieceWords(b),
		Fields: map[string]string{},
		Pages:  region.Pages(d.Site, b, d.Lens),
	}
	for _, f := range []edit.Field{edit.FieldName, edit.FieldTitle, edit.FieldTitled, edit.FieldHeading, edit.FieldPiece} {
		made.Fields[string(f)] = edit.BlockValue(b, f)
	}
	switch shows := b.Shows.(type) {
	case site.BlockMenu:
		made.Menu = d.Site.Menu(shows.Menu)
	case site.BlockImage:
		made.Image = shows
	case site.BlockListing:
		made.Listing = desk.ListingOf(d, shows, d.MayAnywhere(string(site.ActionPlace)))
	case site.BlockText:
		made.Text = shows.Text
	}
	for _, other := range d.Site.PlacementsOf(id) {
		of := chipID{Placement: other.ID}
		made.Places = append(made.Places, blockPlace{of.String(), d.PlaceWords(other), p != nil && other.ID == p.ID})
	}
	made.Removed = len(made.Places) == 0
	if p != nil {
		made.Place = placeSheetOf(d, p)
		made.Shown = d.WhyNotThere(p, region.Ask(d.Site, p, d.Selected, d.Lens))
	}
	return made
}

func placeSheetOf(d *desk.Desk, p *site.Placement) *placeSheet {
	made := &placeSheet{
		Placement: p, Region: d.Site.Theme().Region(p.Region).Name, Fields: map[string]string{}, Sentence: conditionWords(d,
			p),
		Set: d.Site.ConditionSet(p.Set), Pages: onPagesOf(d, &p.Conditions),
		Window: d.Window("p", "From", "Until", p.LiveFrom, p.LiveUntil),
	}
	made.Position, made.Of = region.Position(d.Site, p)
	for _, f := range []edit.Field{
		edit.FieldOn, edit.FieldLayout, edit.FieldWhere, edit.FieldExcept, edit.FieldKinds,
		edit.FieldNotKinds, edit.FieldAudience, edit.FieldLiveFrom, edit.FieldLiveUntil, edit.FieldSet,
	} {
		made.Fields[string(f)] = edit.PlacementValue(p, f)
	}
	made.Named = p.Set == 0 && len(p.Where)+len(p.Except)+len(p.Kinds)+len(p.NotKinds) > 0
	if len(p.Audience.Roles()) > 1 {
		made.Several = d.Site.AudienceWords(p.Audience)
	}
	return made
}

func onPagesOf(d *desk.Desk, of *site.Conditions) onPages {
	made := onPages{Where: spots(d, of.Where), Except: spots(d, of.Except)}
	made.Locked = d.State == "now" || !d.MayAnywhere(string(site.ActionPlace)).Yes
	kinds := slices.DeleteFunc(slices.Clone(d.Site.Kinds()), func(k site.Kind) bool {
		return site.IsOwnKind(k.Key) // conditions by topic name topics, and files have no blocks
	})
	for i := range kinds {
		made.Kinds = append(made.Kinds, kindChoice{&kinds[i], slices.Contains(of.Kinds, kinds[i].Key)})
		made.NotKinds = append(made.NotKinds, kindChoice{&kinds[i], slices.Contains(of.NotKinds, kinds[i].Key)})
	}
	return made
}

func spots(d *desk.Desk, spots []site.Spot) []spotWords {
	made := make([]spotWords, len(spots))
	for i, spot := range spots {
		made[i] = spotWords{edit.SpotsText([]site.Spot{spot}), d.SpotText(spot), !region.There(d.Site, spot)}
	}
	return made
}

// conditionWords says the conditions of a placement as one sentence (rules 6.3).
func conditionWords(d *desk.Desk, p *site.Placement) string { return wordsOf(d, &p.Conditions) }

func wordsOf(d *desk.Desk, p *site.Conditions) string {
	list := func(spots []site.Spot) []string {
		var words []string
		for _, spot := range spots {
			words = append(words, d.SpotText(spot))
		}
		return words
	}
	kinds := func(keys []string) []string {
		var words []string
		for _, key := range keys {
			words = append(words, strings.ToLower(d.Site.Kind(key).Name))
		}
		return words
	}
	on := "on every page"
	if len(p.Where) > 0 {
		on = "on " + orList(list(p.Where), "and on")
	}
	parts := []string{on}
	if len(p.Except) > 0 {
		parts = append(parts, "but not on "+orList(list(p.Except), "or on"))
	}
	if len(p.Kinds) > 0 {
		parts = append(parts, "of the type "+orList(kinds(p.Kinds), "or"))
	}
	if len(p.NotKinds) > 0 {
		parts = append(parts, "not of the type "+orList(kinds(p.NotKinds), "or"))
	}
	if who := d.Site.AudienceWords(p.Audience); who != "" {
		parts = append(parts, "for "+strings.ToLower(who[:1])+who[1:])
	}
	if !p.LiveFrom.IsZero() {
		parts = append(parts, "from "+desk.Day(d.Site, p.LiveFrom))
	}
	if !p.LiveUntil.IsZero() {
		parts = append(parts, "until "+desk.Day(d.Site, p.LiveUntil))
	}
	return say.Capital(strings.Join(parts, ", ")) + "."
}

func orList(words []string, last string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " " + last + " " + words[len(words)-1]
}

// A regionSheet says of a region which layouts have it, and which pages' layouts lack it while a block counts on it.
type regionSheet struct {
	*site.Region
	Layouts []string
	Lacks   []lackingBlock
}

// A lackingBlock is a block whose conditions name pages of which the layout has no such region.
type lackingBlock struct {
	Name  string
	Chip  string
	Pages int
	First []*site.Page
}

// lackLimit bounds the pages that are listed of those whose layout lacks a region.
const lackLimit = 12

func regionSheetOf(d *desk.Desk, of *site.Region) *regionSheet {
	made := &regionSheet{Region: of}
	for _, l := range d.Site.Theme().Layouts {
		if l.Has(of.Key) {
			made.Layouts = append(made.Layouts, l.Name)
		}
	}
	for _, id := range region.In(d.Site, of.Key) {
		p := d.Site.Placement(id)
		if len(p.Where)+len(p.Kinds) == 0 {
			continue // it counts on no page in particular
		}
		lacking := lackingBlock{Name: d.Site.Block(p.Block).Name, Chip: chipID{Placement: id}.String()}
		for _, page := range region.Lacking(d.Site, p, d.Lens) {
			if lacking.Pages++; len(lacking.First) < lackLimit {
				lacking.First = append(lacking.First, d.Site.Page(page))
			}
		}
		if lacking.Pages > 0 {
			made.Lacks = append(made.Lacks, lacking)
		}
	}
	return made
}

// counts gives the number of pages on which each block shows, as they are asked for after the map.
func (s *Area) counts(w http.ResponseWriter, _ *http.Request, d *desk.Desk) error {
	counts := map[string]string{}
	for i := range d.Site.Blocks() {
		b := &d.Site.Blocks()[i]
		if len(d.Site.PlacementsOf(b.ID)) > 0 {
			counts[fmt.Sprint(b.ID)] = count.Pages(region.Pages(d.Site, b, d.Lens))
		}
	}
	w.Header().Set("Content-Type", "application/json")
	return json.NewEncoder(w).Encode(counts)
}

// coverView is the list of the pages on which a block shows.
type coverView struct {
	*desk.Desk
	Pages []*site.Page
	More  int
}

const coverLimit = 300

// cover lists the pages on which a block shows, in the tree's order.
func (s *Area) cover(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := coverView{Desk: d}
	b := d.Site.Block(desk.Number[site.BlockID](r.FormValue("of")))
	if b != nil {
		region.Cover(d.Site, b, reach.NewPanel(d.Lens), func(p *site.Page, _ reach.Mask) {
			if len(view.Pages) < coverLimit {
				view.Pages = append(view.Pages, p)
			} else {
				view.More++
			}
		})
	}
	s.Render(w, r, "cover", view)
	return nil
}

// PageLink is the address of a page in the tree.
func (v coverView) PageLink(id site.PageID) string { return v.Link("/tree", "page", fmt.Sprint(id)) }

// findBlocks searches all blocks by words or type, with where they stand.
func (s *Area) findBlocks(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	typed := r.FormValue("q")
	var hits []desk.Hit
	for i := range d.Site.Blocks() {
		b := &d.Site.Blocks()[i]
		if len(hits) == 2*desk.HitLimit ||
			!desk.HasAll(b.Name+" "+b.Title+" "+d.PieceWords(b)+" "+desk.SortName(b), typed) {
			continue
		}
		var places []string
		for _, p := range d.Site.PlacementsOf(b.ID) {
			places = append(places, d.PlaceWords(p))
		}
		hits = append(
			hits,
			desk.Hit{
				Key:     chipID{Block: b.ID}.String(),
				Label:   b.Name,
				Address: d.PieceWords(b),
				Where:   cmp.Or(strings.Join(places, "; "), "stands nowhere"),
			},
		)
	}
	s.Say(w, http.StatusOK, desk.Reply{Hits: hits})
	return nil
}
