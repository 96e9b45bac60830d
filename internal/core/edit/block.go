package edit

import (
	"fmt"
	"maps"
	"slices"
	"strconv"

	"vineladder/internal/core/site"
)

// Fields of a block, besides Name and Title.
const (
	FieldTitled  Field = "titled"  // yes, no
	FieldHeading Field = "heading" // 2, 3 or 4
	FieldPiece   Field = "piece"   // see PieceText
)

type (
	// OpMakeBlock makes a block that stands nowhere; OpTakeBlock takes one away that has no placement.
	OpMakeBlock struct {
		Block  site.BlockID     `json:"block"`
		Fields map[Field]string `json:"fields"`
	}
	OpTakeBlock struct {
		Was OpMakeBlock `json:"was"`
	}
	// OpEditBlock sets fields of a block, wherever it stands.
	OpEditBlock struct {
		Block  site.BlockID  `json:"block"`
		Fields []FieldChange `json:"fields"`
	}
)

// No page is the subject of an operation on blocks and their places.
func (OpMakeBlock) Subject() site.PageID { return 0 }
func (OpTakeBlock) Subject() site.PageID { return 0 }
func (OpEditBlock) Subject() site.PageID { return 0 }

func (OpMakeBlock) name() string { return "make-block" }
func (OpTakeBlock) name() string { return "take-block" }
func (OpEditBlock) name() string { return "edit-block" }

func (OpMakeBlock) Needs() []site.Action { return []site.Action{site.ActionPlace} }
func (OpTakeBlock) Needs() []site.Action { return []site.Action{site.ActionPlace} }
func (OpEditBlock) Needs() []site.Action { return []site.Action{site.ActionPlace} }

func (o OpMakeBlock) Inverse() Op { return OpTakeBlock{o} }
func (o OpTakeBlock) Inverse() Op { return o.Was }
func (o OpEditBlock) Inverse() Op { return OpEditBlock{o.Block, turned(o.Fields)} }

// blockTable is every field of a block.
var blockTable = table[site.Block]{
	words(FieldName, "A block's name", 80, func(b *site.Block) *string { return &b.Name }),
	words(FieldTitle, "A title", LabelLimit, func(b *site.Block) *string { return &b.Title }),
	flag(FieldTitled, func(b *site.Block) *bool { return &b.Titled }),
	{
		FieldHeading,
		func(b *site.Block) string { return strconv.Itoa(b.Heading) },
		func(_ *site.Site, b *site.Block, value string) error {
			level, err := strconv.Atoi(value)
			if err != nil || level < 2 || level > 4 {
				return refuse("A heading of a block has level 2, 3 or 4.")
			}
			b.Heading = level
			return nil
		},
	},
	{
		FieldPiece,
		func(b *site.Block) string { return PieceText(b.Shows) },
		func(s *site.Site, b *site.Block, value string) (err error) {
			b.Shows, err = ParsePiece(s, value)
			return err
		},
	},
}

// BlockValue gives a field of a block in its canonical form.
func BlockValue(b *site.Block, field Field) string { return blockTable.value(b, field) }

func (st *state) block(id site.BlockID) (site.Block, error) {
	if b := st.Peek().Block(id); b != nil {
		return *b, nil
	}
	return site.Block{}, &Conflict{Sentence: "The block is not there any more."}
}

// setBlock puts a block back among the others, or adds it.
func (st *state) setBlock(b site.Block) {
	blocks := slices.Clone(st.Peek().Blocks())
	if i := slices.IndexFunc(blocks, func(other site.Block) bool { return other.ID == b.ID }); i >= 0 {
		blocks[i] = b
	} else {
		blocks = append(blocks, b)
		slices.SortFunc(blocks, func(a, b site.Block) int { return int(a.ID - b.ID) })
	}
	st.SetBlocks(blocks, st.Peek().Placements())
}

func (o OpMakeBlock) apply(st *state) (Op, error) {
	if st.Peek().Block(o.Block) != nil {
		return nil, refuse("There is a block with the number %d already.", o.Block)
	}
	b := site.Block{ID: o.Block, Heading: 2}
	if err := blockTable.fill(st.Peek(), &b, o.Fields); err != nil {
		return nil, err
	}
	if err := checkBlock(&b); err != nil {
		return nil, err
	}
	o.Fields = blockTable.written(&b, site.Block{})
	st.setBlock(b)
	return o, nil
}

func checkBlock(b *site.Block) error {
	switch {
	case b.Shows == nil:
		return refuse("A block needs something to show.")
	case b.Name == "":
		return refuse("A block needs a name, by which you find it again.")
	}
	return nil
}

func (o OpTakeBlock) apply(st *state) (Op, error) {
	b, err := st.block(o.Was.Block)
	if err != nil {
		return nil, err
	}
	if n := len(st.Peek().PlacementsOf(b.ID)); n > 0 {
		return nil, &Conflict{Sentence: fmt.Sprintf("“%s” stands in %d places; take it out of them first.", b.Name, n)}
	}
	is := OpMakeBlock{b.ID, blockTable.written(&b, site.Block{})}
	if o.Was.Fields != nil && !maps.Equal(o.Was.Fields, is.Fields) {
		return nil, &Conflict{
			Mine:     "taken away",
			Theirs:   "changed",
			Sentence: fmt.Sprintf("The block “%s” was changed by somebody else.", b.Name),
		}
	}
	o.Was = is
	blocks := slices.DeleteFunc(
		slices.Clone(st.Peek().Blocks()),
		func(other site.Block) bool { return other.ID == b.ID },
	)
	st.SetBlocks(blocks, st.Peek().Placements())
	return o, nil
}

func (o OpEditBlock) apply(st *state) (Op, error) {
	b, err := st.block(o.Block)
	if err != nil {
		return nil, err
	}
	was := b.Name
	o.Fields, err = blockTable.change(st.Peek(), &b, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:    field,
			Mine:     mine,
			Theirs:   theirs,
			Sentence: fmt.Sprintf("The %s of the block “%s” was changed by somebody else.", field.Words(), was),
		}
	})
	if err == nil {
		err = checkBlock(&b)
	}
	if err != nil {
		return nil, err
	}
	st.setBlock(b)
	return o, nil
}
