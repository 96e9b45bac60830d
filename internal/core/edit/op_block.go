package edit

import (
	"fmt"
	"maps"
	"slices"

	"vineladder/internal/core/site"
)

// OpMakeBlock makes a block that stands nowhere; OpTakeBlock takes one away that has no placement.
type OpMakeBlock struct {
	Block  site.BlockID     `json:"block"`
	Fields map[Field]string `json:"fields"`
}

func (OpMakeBlock) name() string { return "make-block" }

func (OpMakeBlock) Subject() site.PageID { return 0 }

func (o OpMakeBlock) About(s *site.Site) About { return aboutBlock(s, o.Block, o.Fields[FieldName]) }

func (OpMakeBlock) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionPlace, On: site.AnyThing}}
}

func (o OpMakeBlock) Inverse() Op { return OpTakeBlock{o} }

func (o OpMakeBlock) ties() ties {
	return ties{makes: []tie{blockTie(o.Block)}, uses: blockFields.named(o.Fields)}
}

func (o OpMakeBlock) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMakeBlock) apply(st *state) (Op, error) {
	if st.Peek().Block(o.Block) != nil {
		return nil, refuse("There is a block with the number %d already.", o.Block)
	}
	b := site.Block{ID: o.Block, Heading: 2}
	if err := blockFields.fill(st.Peek(), &b, o.Fields); err != nil {
		return nil, err
	}
	if err := checkBlock(&b); err != nil {
		return nil, err
	}
	o.Fields = blockFields.written(&b, site.Block{})
	st.setBlock(b)
	return o, nil
}

type OpTakeBlock struct {
	Was OpMakeBlock `json:"was"`
}

func (OpTakeBlock) name() string { return "take-block" }

func (OpTakeBlock) Subject() site.PageID { return 0 }

func (o OpTakeBlock) About(s *site.Site) About {
	return aboutBlock(s, o.Was.Block, o.Was.Fields[FieldName])
}

func (o OpTakeBlock) Needs(s *site.Site) []Need { return placing(s, o.Was.Block) }

func (o OpTakeBlock) Inverse() Op { return o.Was }

func (o OpTakeBlock) ties() ties { return ties{uses: []tie{blockTie(o.Was.Block)}} }

func (o OpTakeBlock) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeBlock{Block: o.Was.Block}
	return o, nil
}

func (o OpTakeBlock) apply(st *state) (Op, error) {
	b, err := st.block(o.Was.Block)
	if err != nil {
		return nil, err
	}
	if n := len(st.Peek().PlacementsOf(b.ID)); n > 0 {
		return nil, &Conflict{Sentence: fmt.Sprintf("“%s” stands in %d places; take it out of them first.", b.Name, n)}
	}
	is := OpMakeBlock{b.ID, blockFields.written(&b, site.Block{})}
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

// OpEditBlock sets fields of a block, wherever it stands.
type OpEditBlock struct {
	Block  site.BlockID  `json:"block"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditBlock) name() string { return "edit-block" }

func (o OpEditBlock) edits() []FieldChange { return o.Fields }

func (OpEditBlock) Subject() site.PageID { return 0 }

func (o OpEditBlock) About(s *site.Site) About { return aboutBlock(s, o.Block, "") }

func (o OpEditBlock) Needs(s *site.Site) []Need { return placing(s, o.Block) }

func (o OpEditBlock) Inverse() Op { return OpEditBlock{o.Block, turned(o.Fields)} }

func (o OpEditBlock) ties() ties {
	thing := blockTie(o.Block)
	return ties{uses: append(blockFields.namedAnew(o.Fields), thing), sets: fieldTies(thing, o.Fields)}
}

func (o OpEditBlock) insist(s *site.Site, _ int64) (Op, error) {
	b := s.Block(o.Block)
	if b == nil {
		return nil, errNoInsisting
	}
	o.Fields = blockFields.onTop(b, o.Fields)
	return o, nil
}

func (o OpEditBlock) apply(st *state) (Op, error) {
	b, err := st.block(o.Block)
	if err != nil {
		return nil, err
	}
	was := b.Name
	o.Fields, err = blockFields.change(st.Peek(), &b, o.Fields, func(field Field, mine, theirs string) error {
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

func checkBlock(b *site.Block) error {
	switch {
	case b.Shows == nil:
		return refuse("A block needs something to show.")
	case b.Name == "":
		return refuse("A block needs a name, by which you find it again.")
	}
	return nil
}
