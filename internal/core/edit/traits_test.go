package edit

import (
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
			FieldSort, FieldLiveFrom, FieldLiveUntil,
		},
		Purged: {FieldLabel, FieldTitle, FieldSummary, FieldText, FieldDate},
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
		Inner:    {FieldTitle, FieldSummary, FieldText, FieldDate},
		ForMany: {
			FieldStatus, FieldListed, FieldAudience, FieldConceal, FieldKind, FieldLayout, FieldBranchLayout, FieldPin,
		},
		InSheet: {
			FieldLabel, FieldTitle, FieldSegment, FieldOwnAddress, FieldStatus, FieldLiveFrom, FieldLiveUntil, FieldListed,
			FieldAudience, FieldKind, FieldSummary, FieldConceal, FieldShortAddresses, FieldDate, FieldSort, FieldPin,
			FieldLayout, FieldBranchLayout,
		},
	} {
		assert.ElementsMatch(t, want, PageFields(traits), "trait %b", traits)
	}
	needs := map[site.Action][]Field{}
	for _, fact := range pageFields.facts() {
		needs[fact.Needs] = append(needs[fact.Needs], fact.Field)
	}
	assert.ElementsMatch(t, needs[site.ActionEdit], []Field{
		FieldLabel, FieldTitle, FieldSummary, FieldKind, FieldText, FieldDate,
	})
	assert.ElementsMatch(t, needs[site.ActionAdmit], []Field{FieldAudience, FieldConceal})
	assert.ElementsMatch(t, needs[site.ActionPlace], []Field{FieldLayout, FieldBranchLayout})
	for family, fields := range Facts() {
		for _, fact := range fields {
			audience := fact.Field == FieldAudience || fact.Field == FieldConceal
			assert.Equal(t, audience, fact.Needs == site.ActionAdmit, "%s of a %s", fact.Field, family)
		}
	}
	assert.ElementsMatch(t, []Field{FieldShows}, entryFields.with(Naming))
	assert.ElementsMatch(t, []Field{FieldPiece}, blockFields.with(Naming))
	assert.ElementsMatch(t, []Field{FieldWhere, FieldExcept}, placementFields.with(Naming))
	assert.ElementsMatch(t, []Field{FieldNotFoundPage, FieldNoAccessPage, FieldSignInPage, FieldClosedPage},
		settingsFields.with(Choosing))
}
