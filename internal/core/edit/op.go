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
)

// An Op is one operation, on one page, one parent's order, one menu, one block or its place, or the settings. Applied,
// it comes back settled: with everything filled in that it derived, so that its inverse is exact.
type Op interface {
	// Subject is the page that the operation is about; 0 for one on a menu.
	Subject() site.PageID
	// Needs lists the rights that the operation asks for on its subject (rules 8.1).
	Needs() []site.Action
	// Inverse gives the operation that undoes a settled one inside a draft.
	Inverse() Op

	apply(*state) (Op, error)
	name() string
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

type (
	// OpMake makes a page (rules 2.5): offline, listed and last unless said otherwise.
	OpMake struct {
		Page   site.PageID   `json:"page"`
		Key    string        `json:"key,omitempty"`
		Place  Place         `json:"place"`
		Fields []FieldChange `json:"fields"`
	}
	// OpUnmake takes back a Make that was not published.
	OpUnmake struct {
		Made OpMake `json:"made"`
	}
	// OpEdit sets fields of a page.
	OpEdit struct {
		Page   site.PageID   `json:"page"`
		Fields []FieldChange `json:"fields"`
	}
	// OpMove takes a branch to another place (rules 2.6).
	OpMove struct {
		Page site.PageID `json:"page"`
		From Place       `json:"from"`
		To   Place       `json:"to"`
		// Segment is set where the automatic segment had to change among the new siblings.
		Segment *FieldChange `json:"segment,omitempty"`
		// Pin is set where the move pins the page under a sort rule, or takes a pin away (rules 2.3).
		Pin *FieldChange `json:"pin,omitempty"`
		// Keeps is the audience and concealment that the page keeps, where its new place would open it.
		Keeps []FieldChange `json:"keeps,omitempty"`
		// Takes lets the new place say who is admitted. What it said then is kept, and must still hold wherever the
		// move is done again.
		Takes  bool       `json:"takes,omitempty"`
		Chosen *Admission `json:"chosen,omitempty"`
		// Was and Is say who is admitted before and after, where that differs. An inverse goes back to what was, as
		// long as both still hold.
		Was  *Admission `json:"was,omitempty"`
		Is   *Admission `json:"is,omitempty"`
		Back bool       `json:"back,omitempty"`
	}
	// OpOrder arranges the children of a page by hand. Children that it does not name keep their order, after the others.
	OpOrder struct {
		Page     site.PageID   `json:"page"`
		Children []site.PageID `json:"children"`
		Was      []site.PageID `json:"was,omitempty"`
	}
	// OpBin takes a branch out of the tree (rules 2.9). Seen is the revision that its maker saw.
	OpBin struct {
		Page site.PageID `json:"page"`
		Seen int64       `json:"seen"`
		From Place       `json:"from"`
		// Keeps is the audience and concealment that the page had, which it keeps in the bin: what stood above it may
		// be opened meanwhile.
		Keeps []FieldChange `json:"keeps,omitempty"`
		Back  bool          `json:"back,omitempty"` // the inverse of a Restore: the page is as it was in the bin
	}
	// OpRestore puts a binned branch back to its old place, or under the nearest ancestor that is still there.
	OpRestore struct {
		Page    site.PageID  `json:"page"`
		Seen    int64        `json:"seen"`
		To      Place        `json:"to"`
		Segment *FieldChange `json:"segment,omitempty"`
		// Keeps is what the page keeps, or gives up again, of what it kept in the bin.
		Keeps []FieldChange `json:"keeps,omitempty"`
	}
)

func (o OpMake) Subject() site.PageID    { return o.Page }
func (o OpUnmake) Subject() site.PageID  { return o.Made.Page }
func (o OpEdit) Subject() site.PageID    { return o.Page }
func (o OpMove) Subject() site.PageID    { return o.Page }
func (o OpOrder) Subject() site.PageID   { return o.Page }
func (o OpBin) Subject() site.PageID     { return o.Page }
func (o OpRestore) Subject() site.PageID { return o.Page }

func (OpMake) name() string    { return "make" }
func (OpUnmake) name() string  { return "unmake" }
func (OpEdit) name() string    { return "edit" }
func (OpMove) name() string    { return "move" }
func (OpOrder) name() string   { return "order" }
func (OpBin) name() string     { return "bin" }
func (OpRestore) name() string { return "restore" }

func (o OpMake) Needs() []site.Action {
	return append([]site.Action{site.ActionArrange}, needs(o.Fields)...)
}
func (OpUnmake) Needs() []site.Action  { return []site.Action{site.ActionArrange} }
func (o OpEdit) Needs() []site.Action  { return needs(o.Fields) }
func (o OpMove) Needs() []site.Action  { return withAudience(site.ActionArrange, o.Takes) }
func (OpOrder) Needs() []site.Action   { return []site.Action{site.ActionArrange} }
func (OpBin) Needs() []site.Action     { return []site.Action{site.ActionArrange} }
func (OpRestore) Needs() []site.Action { return []site.Action{site.ActionArrange} }

func (o OpMake) Inverse() Op   { return OpUnmake{o} }
func (o OpUnmake) Inverse() Op { return o.Made }
func (o OpEdit) Inverse() Op   { return OpEdit{o.Page, turned(o.Fields)} }
func (o OpMove) Inverse() Op {
	return OpMove{
		Page: o.Page, From: o.To, To: o.From, Segment: turnedOne(o.Segment), Pin: turnedOne(o.Pin), Keeps: turned(o.Keeps),
		Was: o.Is, Is: o.Was, Back: true,
	}
}
func (o OpOrder) Inverse() Op { return OpOrder{o.Page, o.Was, o.Children} }
func (o OpBin) Inverse() Op {
	return OpRestore{Page: o.Page, Seen: o.Seen, To: o.From, Keeps: turned(o.Keeps)}
}

func (o OpRestore) Inverse() Op {
	return OpBin{Page: o.Page, Seen: o.Seen, From: o.To, Keeps: turned(o.Keeps), Back: true}
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
	switch e.Op {
	case "make":
		return decodeAs[OpMake](e.With)
	case "unmake":
		return decodeAs[OpUnmake](e.With)
	case "edit":
		return decodeAs[OpEdit](e.With)
	case "move":
		return decodeAs[OpMove](e.With)
	case "order":
		return decodeAs[OpOrder](e.With)
	case "bin":
		return decodeAs[OpBin](e.With)
	case "put-entries":
		return decodeAs[OpPutEntries](e.With)
	case "take-entry":
		return decodeAs[OpTakeEntry](e.With)
	case "edit-entry":
		return decodeAs[OpEditEntry](e.With)
	case "move-entry":
		return decodeAs[OpMoveEntry](e.With)
	case "make-menu":
		return decodeAs[OpMakeMenu](e.With)
	case "take-menu":
		return decodeAs[OpTakeMenu](e.With)
	case "edit-menu":
		return decodeAs[OpEditMenu](e.With)
	case "make-block":
		return decodeAs[OpMakeBlock](e.With)
	case "take-block":
		return decodeAs[OpTakeBlock](e.With)
	case "edit-block":
		return decodeAs[OpEditBlock](e.With)
	case "put-placement":
		return decodeAs[OpPutPlacement](e.With)
	case "take-placement":
		return decodeAs[OpTakePlacement](e.With)
	case "edit-placement":
		return decodeAs[OpEditPlacement](e.With)
	case "move-placement":
		return decodeAs[OpMovePlacement](e.With)
	case "edit-settings":
		return decodeAs[OpEditSettings](e.With)
	case "edit-kind":
		return decodeAs[OpEditKind](e.With)
	case "restore":
		return decodeAs[OpRestore](e.With)
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
type Refusal struct{ Sentence string }

func (r *Refusal) Error() string { return r.Sentence }

func refuse(format string, args ...any) error {
	return &Refusal{fmt.Sprintf(format, args...)}
}
