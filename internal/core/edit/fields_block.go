package edit

import (
	"strconv"
	"time"

	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Fields of a block, besides name and title.
const (
	FieldTitled  Field = "titled"  // yes, no
	FieldHeading Field = "heading" // 2, 3 or 4
	FieldPiece   Field = "piece"   // see piece.Text
)

// Fields of a placement, besides switch, layout, audience and window. Items are joined by "|".
const (
	FieldWhere    Field = "where"  // spots; see SpotsText
	FieldExcept   Field = "except" // spots
	FieldKinds    Field = "kinds"
	FieldNotKinds Field = "not_kinds"
	FieldSet      Field = "set" // number of the condition set whose conditions on pages it has, or empty
)

// onPages are the fields of conditions on pages, which a set has as well.
var onPages = []Field{FieldWhere, FieldExcept, FieldKinds, FieldNotKinds}

// blockFields is every field of a block.
var blockFields = family[site.Block]{
	at(Fact{Field: FieldName}, line("A block's name", 80), func(b *site.Block) *string { return &b.Name }),
	at(Fact{Field: FieldTitle}, line("A title", LabelLimit), func(b *site.Block) *string { return &b.Title }),
	at(Fact{Field: FieldTitled, Words: "showing of the title"}, flag(), func(b *site.Block) *bool { return &b.Titled }),
	at(
		Fact{Field: FieldHeading},
		whole(2, 4, "A heading of a block has level 2, 3 or 4."), func(b *site.Block) *int { return &b.Heading },
	),
	at(
		Fact{Field: FieldPiece, Words: "content", Traits: Naming},
		Form[site.Piece]{Write: piece.Text, Read: piece.Parse}, func(b *site.Block) *site.Piece { return &b.Shows },
	),
}

// BlockValue gives a field of a block in its canonical form.
func BlockValue(b *site.Block, of Field) string { return blockFields.value(b, of) }

// placementFields is every field of a placement.
var placementFields = family[site.Placement]{
	at(Fact{Field: FieldOn, Words: "switch"}, flagOff(), func(p *site.Placement) *bool { return &p.Off }),
	at(Fact{Field: FieldLayout}, layout(), func(p *site.Placement) *string { return &p.Layout }),
	at(
		Fact{Field: FieldWhere, Words: "pages", Traits: Naming},
		spots(), func(p *site.Placement) *[]site.Spot { return &p.Where },
	),
	at(
		Fact{Field: FieldExcept, Words: "pages left out", Traits: Naming},
		spots(), func(p *site.Placement) *[]site.Spot { return &p.Except },
	),
	at(Fact{Field: FieldKinds, Words: "page types"}, words(), func(p *site.Placement) *[]string { return &p.Kinds }),
	at(
		Fact{Field: FieldNotKinds, Words: "page types left out"},
		words(), func(p *site.Placement) *[]string { return &p.NotKinds },
	),
	at(
		Fact{Field: FieldAudience, Needs: site.ActionAdmit},
		audience(), func(p *site.Placement) *site.Audience { return &p.Audience },
	),
	at(Fact{Field: FieldLiveFrom}, instant(), func(p *site.Placement) *time.Time { return &p.LiveFrom }),
	at(Fact{Field: FieldLiveUntil}, instant(), func(p *site.Placement) *time.Time { return &p.LiveUntil }),
	at(Fact{Field: FieldSet, Words: "condition set"}, setNumber(), func(p *site.Placement) *site.SetID { return &p.Set }),
}

// setFields is every field of a condition set.
var setFields = family[site.ConditionSet]{
	Column[site.ConditionSet, string]{
		Fact: Fact{Field: FieldName},
		Get:  func(c *site.ConditionSet) string { return c.Name },
		Set: func(_ *site.Site, c *site.ConditionSet, name string) error {
			if c.Name = name; name == "" {
				return refuse("A condition set needs a name.")
			}
			return nil
		},
		Form: line("A name", NameLimit),
	},
	at(
		Fact{Field: FieldWhere, Words: "pages", Traits: Naming},
		spots(), func(c *site.ConditionSet) *[]site.Spot { return &c.Where },
	),
	at(
		Fact{Field: FieldExcept, Words: "pages left out", Traits: Naming},
		spots(), func(c *site.ConditionSet) *[]site.Spot { return &c.Except },
	),
	at(Fact{Field: FieldKinds, Words: "page types"}, words(), func(c *site.ConditionSet) *[]string { return &c.Kinds }),
	at(
		Fact{Field: FieldNotKinds, Words: "page types left out"},
		words(), func(c *site.ConditionSet) *[]string { return &c.NotKinds },
	),
}

// SetValue gives a field of a condition set in its canonical form.
func SetValue(c *site.ConditionSet, of Field) string { return setFields.value(c, of) }

// setNumber is the form of a condition set by its number, or none.
func setNumber() Form[site.SetID] {
	return Form[site.SetID]{
		Write: func(value site.SetID) string {
			if value == 0 {
				return ""
			}
			return strconv.FormatInt(int64(value), 10)
		},
		Read: func(s *site.Site, text string) (site.SetID, error) {
			id, err := strconv.ParseInt(text, 10, 64)
			if text != "" && (err != nil || s.ConditionSet(site.SetID(id)) == nil) {
				return 0, &typed.Missing{Sentence: "The condition set is not there any more."}
			}
			return site.SetID(id), nil
		},
	}
}

// PlacementValue gives a field of a placement in its canonical form.
func PlacementValue(p *site.Placement, of Field) string { return placementFields.value(p, of) }

func spots() Form[[]site.Spot] { return Form[[]site.Spot]{Write: SpotsText, Read: ParseSpots} }
