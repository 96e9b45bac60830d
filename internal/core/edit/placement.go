package edit

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// Fields of a placement, besides On, Layout, Audience, LiveFrom and LiveUntil. Items are joined by "|".
const (
	FieldWhere    Field = "where"  // spots; see SpotsText
	FieldExcept   Field = "except" // spots
	FieldKinds    Field = "kinds"
	FieldNotKinds Field = "not_kinds"
)

// A Slot is a place among the placements of a region, named by neighbours.
type Slot struct {
	Region string           `json:"region"`
	After  site.PlacementID `json:"after,omitempty"`
	Before site.PlacementID `json:"before,omitempty"`
}

// SlotOf gives the slot in which a placement stands.
func SlotOf(s *site.Site, p *site.Placement) Slot {
	slot := Slot{Region: p.Region}
	ids := region.In(s, p.Region)
	at := slices.Index(ids, p.ID)
	if at > 0 {
		slot.After = ids[at-1]
	}
	if at+1 < len(ids) {
		slot.Before = ids[at+1]
	}
	return slot
}

type (
	// OpPutPlacement puts a block into a region; OpTakePlacement takes it out there.
	OpPutPlacement struct {
		Placement site.PlacementID `json:"placement"`
		Block     site.BlockID     `json:"block"`
		Slot      Slot             `json:"slot"`
		Fields    map[Field]string `json:"fields,omitempty"`
	}
	OpTakePlacement struct {
		Placement site.PlacementID `json:"placement"`
		Was       OpPutPlacement   `json:"was"`
	}
	// OpEditPlacement sets the conditions of a placement, and whether it is switched on.
	OpEditPlacement struct {
		Placement site.PlacementID `json:"placement"`
		Fields    []FieldChange    `json:"fields"`
	}
	// OpMovePlacement takes a placement to another slot, in its region or another one.
	OpMovePlacement struct {
		Placement site.PlacementID `json:"placement"`
		From      Slot             `json:"from"`
		To        Slot             `json:"to"`
	}
)

func (OpPutPlacement) Subject() site.PageID  { return 0 }
func (OpTakePlacement) Subject() site.PageID { return 0 }
func (OpEditPlacement) Subject() site.PageID { return 0 }
func (OpMovePlacement) Subject() site.PageID { return 0 }

func (OpPutPlacement) name() string  { return "put-placement" }
func (OpTakePlacement) name() string { return "take-placement" }
func (OpEditPlacement) name() string { return "edit-placement" }
func (OpMovePlacement) name() string { return "move-placement" }

func (o OpPutPlacement) Needs() []site.Action {
	return withAudience(site.ActionPlace, o.Fields[FieldAudience] != "")
}
func (OpTakePlacement) Needs() []site.Action { return []site.Action{site.ActionPlace} }
func (o OpEditPlacement) Needs() []site.Action {
	return withAudience(site.ActionPlace, setsField(o.Fields, FieldAudience))
}
func (OpMovePlacement) Needs() []site.Action { return []site.Action{site.ActionPlace} }

func (o OpPutPlacement) Inverse() Op  { return OpTakePlacement{o.Placement, o} }
func (o OpTakePlacement) Inverse() Op { return o.Was }
func (o OpEditPlacement) Inverse() Op { return OpEditPlacement{o.Placement, turned(o.Fields)} }
func (o OpMovePlacement) Inverse() Op { return OpMovePlacement{o.Placement, o.To, o.From} }

// placementTable is every field of a placement.
var placementTable = table[site.Placement]{
	flagOff(FieldOn, func(p *site.Placement) *bool { return &p.Off }),
	layout(FieldLayout, func(p *site.Placement) *string { return &p.Layout }),
	spots(FieldWhere, func(p *site.Placement) *[]site.Spot { return &p.Where }),
	spots(FieldExcept, func(p *site.Placement) *[]site.Spot { return &p.Except }),
	kinds(FieldKinds, func(p *site.Placement) *[]string { return &p.Kinds }),
	kinds(FieldNotKinds, func(p *site.Placement) *[]string { return &p.NotKinds }),
	audience(func(p *site.Placement) *site.Audience { return &p.Audience }),
	instant(FieldLiveFrom, func(p *site.Placement) *time.Time { return &p.LiveFrom }),
	instant(FieldLiveUntil, func(p *site.Placement) *time.Time { return &p.LiveUntil }),
}

// PlacementValue gives a field of a placement in its canonical form.
func PlacementValue(p *site.Placement, field Field) string { return placementTable.value(p, field) }

func spots(field Field, of func(*site.Placement) *[]site.Spot) column[site.Placement] {
	return column[site.Placement]{
		field,
		func(p *site.Placement) string { return SpotsText(*of(p)) },
		func(s *site.Site, p *site.Placement, value string) (err error) {
			*of(p), err = ParseSpots(s, value)
			return err
		},
	}
}

func kinds(field Field, of func(*site.Placement) *[]string) column[site.Placement] {
	return column[site.Placement]{
		field,
		func(p *site.Placement) string { return strings.Join(*of(p), "|") },
		func(_ *site.Site, p *site.Placement, value string) error {
			if *of(p) = nil; value != "" {
				*of(p) = strings.FieldsFunc(value, func(r rune) bool { return r == '|' })
			}
			return nil
		},
	}
}

// SpotsText writes what a condition names: "branch:12|page:3|pattern:/harbours/*".
func SpotsText(spots []site.Spot) string {
	parts := make([]string, len(spots))
	for i, spot := range spots {
		switch {
		case spot.Page == 0:
			parts[i] = "pattern:" + spot.Pattern
		case spot.Branch:
			parts[i] = fmt.Sprintf("branch:%d", spot.Page)
		default:
			parts[i] = fmt.Sprintf("page:%d", spot.Page)
		}
	}
	return strings.Join(parts, "|")
}

// ParseSpots reads what SpotsText wrote. Pages may be binned by now: the condition keeps them (rules 6.3).
func ParseSpots(s *site.Site, value string) ([]site.Spot, error) {
	var spots []site.Spot
	for part := range strings.SplitSeq(value, "|") {
		if part == "" {
			continue
		}
		kind, rest, _ := strings.Cut(part, ":")
		var spot site.Spot
		switch kind {
		case "pattern":
			spot.Pattern = rest
			if err := checkPattern(rest); err != nil {
				return nil, err
			}
		case "branch", "page":
			id, err := strconv.ParseInt(rest, 10, 64)
			if err != nil || s.Page(site.PageID(id)) == nil {
				return nil, &Conflict{Sentence: "A page that the condition names is not there any more."}
			}
			spot.Page, spot.Branch = site.PageID(id), kind == "branch"
		default:
			return nil, refuse("“%s” is neither a page nor a pattern of addresses.", part)
		}
		if !slices.Contains(spots, spot) {
			spots = append(spots, spot)
		}
	}
	return spots, nil
}

func checkPattern(pattern string) error {
	if !strings.HasPrefix(pattern, "/") || strings.ContainsAny(pattern, "?# ") {
		return refuse("A pattern of addresses begins with “/”, as in /harbours/* or /notices/**.")
	}
	if n := strings.Count(pattern, "/"); n > region.PatternLimit {
		return refuse("A pattern of addresses can have %d parts at most; this one has %d.", region.PatternLimit, n)
	}
	return nil
}

func (st *state) placement(id site.PlacementID) (site.Placement, error) {
	if p := st.Peek().Placement(id); p != nil {
		return *p, nil
	}
	return site.Placement{}, &Conflict{Sentence: "The block does not stand there any more."}
}

// putAt puts a placement into a slot and settles the slot's neighbours.
func (st *state) putAt(placements []site.Placement, p site.Placement, slot *Slot) error {
	theme := st.Peek().Theme()
	if theme.Region(slot.Region) == nil || slot.Region == site.ContentRegion {
		return refuse("The theme has no region “%s” in which blocks can stand.", slot.Region)
	}
	p.Region = slot.Region
	var beside []site.PlacementID
	for _, other := range placements {
		if other.Region == slot.Region {
			beside = append(beside, other.ID)
		}
	}
	settleGap(beside, &slot.After, &slot.Before)
	at := len(placements)
	if slot.Before != 0 {
		at = slices.IndexFunc(placements, func(other site.Placement) bool { return other.ID == slot.Before })
	}
	placements = slices.Insert(placements, at, p)
	slices.SortStableFunc(placements, func(a, b site.Placement) int { return strings.Compare(a.Region, b.Region) })
	st.SetBlocks(st.Peek().Blocks(), placements)
	return nil
}

func (o OpPutPlacement) apply(st *state) (Op, error) {
	if st.Peek().Placement(o.Placement) != nil {
		return nil, refuse("There is a place with the number %d already.", o.Placement)
	}
	if _, err := st.block(o.Block); err != nil {
		return nil, err
	}
	p := site.Placement{ID: o.Placement, Block: o.Block}
	if err := placementTable.fill(st.Peek(), &p, o.Fields); err != nil {
		return nil, err
	}
	if err := checkPlacement(st.Peek(), &p, o.Slot.Region); err != nil {
		return nil, err
	}
	o.Fields = placementTable.written(&p, site.Placement{})
	return o, st.putAt(slices.Clone(st.Peek().Placements()), p, &o.Slot)
}

func checkPlacement(s *site.Site, p *site.Placement, at string) error {
	switch l := s.Layout(p.Layout); {
	case l != nil && !l.Has(at):
		return refuse("The layout “%s” has no such region.", l.Name)
	case p.Window().IsBackwards():
		return refuse("The block would go before it comes: the end must be after the beginning.")
	}
	return nil
}

func (o OpTakePlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	if err != nil {
		return nil, err
	}
	is := OpPutPlacement{p.ID, p.Block, SlotOf(st.Peek(), &p), placementTable.written(&p, site.Placement{})}
	if o.Was.Placement != 0 && (o.Was.Slot.Region != is.Slot.Region || !maps.Equal(o.Was.Fields, is.Fields)) {
		return nil, &Conflict{
			Mine: "taken out", Theirs: "changed, or in another region",
			Sentence: fmt.Sprintf(
				"Somebody else changed the place of “%s”, or when it shows.",
				st.Peek().Block(p.Block).Name,
			),
		}
	}
	o.Was = is
	st.SetBlocks(st.Peek().Blocks(), without(st.Peek().Placements(), p.ID))
	return o, nil
}

func without(placements []site.Placement, id site.PlacementID) []site.Placement {
	return slices.DeleteFunc(slices.Clone(placements), func(p site.Placement) bool { return p.ID == id })
}

func (o OpEditPlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	if err != nil {
		return nil, err
	}
	name := st.Peek().Block(p.Block).Name
	o.Fields, err = placementTable.change(st.Peek(), &p, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:    field,
			Mine:     mine,
			Theirs:   theirs,
			Sentence: fmt.Sprintf("The %s of “%s” at this place was changed by somebody else.", field.Words(), name),
		}
	})
	if err == nil {
		err = checkPlacement(st.Peek(), &p, p.Region)
	}
	if err != nil {
		return nil, err
	}
	placements := slices.Clone(st.Peek().Placements())
	placements[slices.IndexFunc(placements, func(other site.Placement) bool { return other.ID == p.ID })] = p
	st.SetBlocks(st.Peek().Blocks(), placements)
	return o, nil
}

func (o OpMovePlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	switch {
	case err != nil:
		return nil, err
	case o.From.Region != "" && o.From.Region != p.Region:
		return nil, &Conflict{
			Mine:     "moved",
			Theirs:   "moved elsewhere",
			Sentence: "The block was moved to another region by somebody else.",
		}
	case o.To.After == p.ID || o.To.Before == p.ID:
		return nil, refuse("A block can't stand beside itself.")
	}
	if err := checkPlacement(st.Peek(), &p, o.To.Region); err != nil {
		return nil, err
	}
	o.From = SlotOf(st.Peek(), &p)
	return o, st.putAt(without(st.Peek().Placements(), p.ID), p, &o.To)
}
