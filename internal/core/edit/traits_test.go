package edit

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/site"
)

// What the rules say of a page's fields, field by field, so that a trait that is lost is missed: copies (2.8), the bin
// (2.9), the home page (2.1), addresses (3), who reaches a page and where it stands (4, 2.3), layouts (6.1), the sheet
// (docs/sheet.md) and rights (8.1).
func TestTraitsAreThoseOfTheRules(t *testing.T) {
	for traits, want := range map[Traits][]Field{
		Copied: {
			FieldLabel, FieldTitle, FieldSummary, FieldKind, FieldText, FieldDate, FieldListed, FieldAudience, FieldConceal,
			FieldSort, FieldLiveFrom, FieldLiveUntil, FieldTopics, FieldOtherLabels, FieldHiddenLabels, FieldScopeNote,
			FieldDetails, FieldListing, FieldKeptOut,
		},
		Purged: {
			FieldLabel, FieldTitle, FieldSummary, FieldText, FieldDate, FieldDetails, FieldListing, FieldTopics,
			FieldOtherLabels,
			FieldHiddenLabels, FieldScopeNote, FieldBytes, FieldNote,
		},
		HomeFixed: {
			FieldSegment, FieldOwnAddress, FieldStatus, FieldLiveFrom, FieldLiveUntil, FieldListed, FieldPin,
		},
		Addresses: {FieldLabel, FieldSegment, FieldOwnAddress, FieldShortAddresses},
		Placing: {
			FieldSegment, FieldOwnAddress, FieldStatus, FieldLiveFrom, FieldLiveUntil, FieldListed, FieldAudience,
			FieldConceal,
		},
		Ordering: {FieldLabel, FieldPin, FieldDate},
		Laying:   {FieldKind, FieldLayout, FieldBranchLayout},
		Inner:    {FieldTitle, FieldSummary, FieldText, FieldDate, FieldDetails, FieldBytes, FieldNote},
		ForMany: {
			FieldStatus, FieldListed, FieldAudience, FieldConceal, FieldKind, FieldLayout, FieldBranchLayout, FieldPin,
			FieldTopics, FieldKeptOut, FieldOwner, FieldReview,
		},
		InSheet: {
			FieldLabel, FieldTitle, FieldSegment, FieldOwnAddress, FieldStatus, FieldLiveFrom, FieldLiveUntil, FieldListed,
			FieldAudience, FieldKind, FieldSummary, FieldConceal, FieldShortAddresses, FieldDate, FieldSort, FieldPin,
			FieldLayout, FieldBranchLayout, FieldListing, FieldTopics, FieldOtherLabels, FieldHiddenLabels, FieldScopeNote,
			FieldKeptOut, FieldOwner, FieldReview, FieldNote,
		},
	} {
		assert.ElementsMatch(t, want, PageFields(traits), "trait %b", traits)
	}
	needs := map[site.Action][]Field{}
	for _, fact := range pageFields.facts() {
		needs[fact.Needs] = append(needs[fact.Needs], fact.Field)
	}
	assert.ElementsMatch(t, needs[site.ActionEdit], []Field{
		FieldLabel, FieldTitle, FieldSummary, FieldKind, FieldText, FieldDate, FieldDetails, FieldListing,
		FieldBytes, FieldOwner, FieldReview, FieldNote,
	})
	assert.ElementsMatch(t, needs[site.ActionClassify], []Field{
		FieldTopics, FieldOtherLabels, FieldHiddenLabels, FieldScopeNote, FieldMergedInto,
	})
	assert.ElementsMatch(t, needs[site.ActionAdmit], []Field{FieldAudience, FieldConceal, FieldSecondPerson})
	assert.ElementsMatch(t, needs[site.ActionPlace], []Field{FieldLayout, FieldBranchLayout})
	for family, fields := range Facts() {
		for _, fact := range fields {
			audience := fact.Field == FieldAudience || fact.Field == FieldConceal ||
				fact.Field == FieldSecondPerson || family == "role"
			assert.Equal(t, audience, fact.Needs == site.ActionAdmit, "%s of a %s", fact.Field, family)
		}
	}
	assert.ElementsMatch(t, []Field{FieldShows, FieldLines}, entryFields.with(Naming))
	assert.ElementsMatch(t, []Field{FieldPiece}, blockFields.with(Naming))
	assert.ElementsMatch(t, []Field{FieldWhere, FieldExcept}, placementFields.with(Naming))
	assert.ElementsMatch(t, []Field{
		FieldNotFoundPage, FieldNoAccessPage, FieldSignInPage, FieldClosedPage, FieldSearchPage,
	}, settingsFields.with(Choosing))
}

// What hangs together by a place: a move sets it, and what is moved into something needs that to be there.
func TestTiesOfMoves(t *testing.T) {
	move := OpMove{Page: 3, To: Place{Parent: 2}}.ties()
	assert.Equal(t, []tie{pageTie(3).of(fieldPlace)}, move.sets)
	assert.ElementsMatch(t, []tie{pageTie(3), pageTie(2)}, move.uses)
	item := OpMoveEntry{Entry: 5, To: Gap{Menu: 1, Parent: 4}}.ties()
	assert.Equal(t, []tie{itemTie(5).of(fieldPlace)}, item.sets)
	assert.ElementsMatch(t, []tie{itemTie(5), menuTie(1), itemTie(4)}, item.uses)
	place := OpMovePlacement{Placement: 7}.ties()
	assert.Equal(t, []tie{placementTie(7).of(fieldPlace)}, place.sets)
}

// Numbers are taken up to their bounds, and not beyond.
func TestNumbersHaveBounds(t *testing.T) {
	s := site.NewBuilder(site.Settings{}).Site()
	for value, taken := range map[string]bool{"1": false, "2": true, "4": true, "5": false, "x": false} {
		b := site.Block{}
		assert.Equal(t, taken, blockFields.set(s, &b, FieldHeading, value) == nil, value)
	}
	for value, taken := range map[string]bool{"-1": false, "0": true, "3650": true, "3651": false} {
		settings := site.Settings{}
		assert.Equal(t, taken, settingsFields.set(s, &settings, FieldBinDays, value) == nil, value)
	}
}

// An item that grows or narrows needs every page that its text names: they travel with it when edits are parted.
func TestItemsNeedThePagesThatTheyName(t *testing.T) {
	for shows, pages := range map[string][]int64{
		"branch:3:1:not:least=1:of=12": {3, 12}, "page:12:t3=4": {12, 3, 4}, "page:7": {7}, "heading": nil,
	} {
		var named []int64
		form := EntryForm{ID: 60, Fields: map[Field]string{FieldShows: shows}}
		for _, thing := range uses(OpPutEntries{Gap: Gap{Menu: 9}, Entries: []EntryForm{form}}) {
			if thing.Family == site.FamilyPage {
				named = append(named, thing.ID)
			}
		}
		assert.Equal(t, pages, named, shows)
	}
}

// Every operation that sets fields of a thing which stands is idle when it sets none, so that it makes no step: each
// whose name says that it edits.
func TestEditsThatSetNothingAreIdle(t *testing.T) {
	edits := 0
	for _, op := range []Op{
		OpMake{},
		OpUnmake{},
		OpEdit{},
		OpMove{},
		OpOrder{},
		OpBin{},
		OpRestore{},
		OpPutEntries{},
		OpTakeEntry{},
		OpEditEntry{},
		OpMoveEntry{},
		OpMakeMenu{},
		OpTakeMenu{},
		OpEditMenu{},
		OpMakeBlock{},
		OpTakeBlock{},
		OpEditBlock{},
		OpPutPlacement{},
		OpTakePlacement{},
		OpEditPlacement{},
		OpMovePlacement{},
		OpEditSettings{},
		OpMakeKind{},
		OpTakeKind{},
		OpEditKind{},
		OpMakeSet{},
		OpTakeSet{},
		OpEditSet{},
		OpMakeDetail{},
		OpTakeDetail{},
		OpEditDetail{},
		OpMakeRole{},
		OpTakeRole{},
		OpEditRole{},
	} {
		edit := strings.HasPrefix(op.name(), "edit")
		assert.Equal(t, edit, IsIdle(op), op.name())
		if edit {
			edits++
		}
	}
	assert.Len(t, operations(), 34, "one more is one more here")
	assert.Equal(t, 10, edits)
	assert.False(t, IsIdle(OpEditEntry{Fields: []FieldChange{{Field: FieldLabel, New: "Isles"}}}))
}
