// Package edit holds the operations of which every change of a site is made (rules 9): a closed family of plain values
// that can be applied to a Site, inverted, written as JSON, and brought up to date on another Site. It decides what an
// operation presumes and what it derives; it stores nothing.
package edit

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// An Op is one operation, on one page, one parent's order, one menu, one block or its place, or the settings. Applied,
// it comes back settled: with everything filled in that it derived, so that its inverse is exact.
type Op interface {
	// Subject is the page that the operation is about; 0 for one on a menu.
	Subject() site.PageID
	// Needs lists the rights that the operation asks for on a Site, each with what it is needed on (rules 8.1).
	Needs(*site.Site) []Need
	// Inverse gives the operation that undoes a settled one inside a draft.
	Inverse() Op
	// About names what it is about; what others took away meanwhile is named by what the operation says of it.
	About(*site.Site) About

	name() string
	apply(*state) (Op, error)
	// ties says by what other operations depend on it, and it on them.
	ties() ties
	// insist gives it with what it presumes made true again on a Site and its revision.
	insist(*site.Site, int64) (Op, error)
}

// editing is an operation that sets fields of a thing which stands.
type editing interface{ edits() []FieldChange }

// IsIdle says whether an operation that was settled makes no difference: what it sets stood so already.
func IsIdle(op Op) bool {
	e, edits := op.(editing)
	return edits && len(e.edits()) == 0
}

// operations has every type of operation, by a reader of its own form.
func operations() []decoder {
	return []decoder{
		as[OpMake](), as[OpUnmake](), as[OpEdit](), as[OpMove](), as[OpOrder](), as[OpBin](), as[OpRestore](),
		as[OpPutEntries](), as[OpTakeEntry](), as[OpEditEntry](), as[OpMoveEntry](),
		as[OpMakeMenu](), as[OpTakeMenu](), as[OpEditMenu](),
		as[OpMakeBlock](), as[OpTakeBlock](), as[OpEditBlock](),
		as[OpPutPlacement](), as[OpTakePlacement](), as[OpEditPlacement](), as[OpMovePlacement](),
		as[OpMakeSet](), as[OpTakeSet](), as[OpEditSet](),
		as[OpEditSettings](), as[OpMakeKind](), as[OpTakeKind](), as[OpEditKind](),
		as[OpMakeDetail](), as[OpTakeDetail](), as[OpEditDetail](),
		as[OpMakeRole](), as[OpTakeRole](), as[OpEditRole](),
	}
}

// A decoder reads operations of one name.
type decoder struct {
	name string
	read func([]byte) (Op, error)
}

func as[T Op]() decoder {
	var op T
	return decoder{op.name(), decodeAs[T]}
}

// A Place is a gap among the children of a page, named by its neighbours, never by rank or number (rules 2.6). Zero
// neighbours are the ends; without any the place is the last.
type Place struct {
	Parent site.PageID `json:"parent"`
	After  site.PageID `json:"after,omitempty"`
	Before site.PageID `json:"before,omitempty"`
}

// PlaceOf gives the place at which a page stands.
func PlaceOf(s *site.Site, id site.PageID) Place {
	before, after := s.Neighbours(id)
	return Place{s.Page(id).Parent, before, after}
}

// TakeBack gives the operation that undoes a published one: a page that was made is binned, since its address may be
// known by now (rules 9.1).
func TakeBack(op Op, revision int64) Op {
	switch o := op.(type) {
	case OpMake:
		return OpBin{Page: o.Page, Seen: revision}
	case OpRestore:
		return OpBin{Page: o.Page, Seen: revision, From: o.To}
	}
	return op.Inverse()
}

// Version is the version of the operations' JSON forms.
const Version = 1

type envelope struct {
	Op      string          `json:"op"`
	Version int             `json:"v"`
	With    json.RawMessage `json:"with"`
}

// Encode writes an operation as JSON: its name, the version and its own form.
func Encode(op Op) ([]byte, error) {
	with, err := json.Marshal(op)
	if err != nil {
		return nil, fmt.Errorf("encode %s: %w", op.name(), err)
	}
	return slices.Concat([]byte(`{"op":"`+op.name()+`","v":`+strconv.Itoa(Version)+`,"with":`), with, []byte("}")), nil
}

// Decode reads what Encode wrote.
func Decode(data []byte) (Op, error) {
	var e envelope
	if err := json.Unmarshal(data, &e); err != nil {
		return nil, fmt.Errorf("decode operation: %w", err)
	}
	if e.Version != Version {
		return nil, fmt.Errorf("decode operation: version %d is not known", e.Version)
	}
	for _, d := range operations() {
		if d.name == e.Op {
			return d.read(e.With)
		}
	}
	return nil, fmt.Errorf("decode operation: “%s” is not known", e.Op)
}

func decodeAs[T Op](data []byte) (Op, error) {
	var op T
	if err := json.Unmarshal(data, &op); err != nil {
		return nil, fmt.Errorf("decode %s: %w", op.name(), err)
	}
	return op, nil
}

// A Refusal is an operation that rules forbid, as a sentence for the person who asked.
type Refusal = typed.Refusal

func refuse(format string, args ...any) error { return typed.Refuse(format, args...) }
