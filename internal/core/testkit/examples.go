package testkit

import (
	"crypto/sha256"
	"encoding/hex"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// Bytes gives what a picture holds whose bytes are some words.
func Bytes(words string) site.Bytes {
	sum := sha256.Sum256([]byte(words))
	return site.Bytes{
		Hash: hex.EncodeToString(sum[:]), Type: "image/png", Size: int64(len(words)), Width: 640, Height: 480,
	}
}

// Examples gives for each field of each family a value that the site of ExampleSite takes and does not have. A field
// that is added needs one here: tests that go through all fields ask for it.
func Examples() map[string]map[edit.Field]string {
	const later, muchLater = "2026-12-24T12:00:00Z", "2027-12-24T12:00:00Z"
	return map[string]map[edit.Field]string{
		"page": {
			edit.FieldLabel: "Other", edit.FieldTitle: "Another title", edit.FieldSummary: "In short", edit.FieldKind: "notice",
			edit.FieldText: "hash", edit.FieldSegment: "typed", edit.FieldOwnAddress: "/fixed",
			edit.FieldShortAddresses: "/a\n/b", edit.FieldStatus: "offline", edit.FieldLiveFrom: later,
			edit.FieldLiveUntil: muchLater, edit.FieldListed: "no", edit.FieldAudience: "masters|staff",
			edit.FieldConceal: "yes", edit.FieldSecondPerson: "yes", edit.FieldKeptOut: "yes",
			edit.FieldBytes: Bytes("later").String(),
			edit.FieldSort:  "label", edit.FieldPin: "start", edit.FieldDate: "2026-11-23",
			edit.FieldListing: "notice;;;newest;5",
			edit.FieldLayout:  "wide", edit.FieldBranchLayout: "wide", edit.FieldLeadsTo: "1",
			edit.FieldDetails: `{"notice.depth":"3.5"}`,
			edit.FieldTopics:  "page:6", edit.FieldOtherLabels: "Island\nIsle", edit.FieldHiddenLabels: "Oyra",
			edit.FieldOwner: "role:staff", edit.FieldReview: "12", edit.FieldNote: "Ask the pier office",
			edit.FieldScopeNote: "The island, not the harbour", edit.FieldMergedInto: "7",
		},
		"item": {
			edit.FieldShows: "web:https://tides.example/", edit.FieldLabel: "Other", edit.FieldHint: "Where it leads",
			edit.FieldOn: "no", edit.FieldAudience: "staff", edit.FieldLiveFrom: later, edit.FieldLiveUntil: muchLater,
			edit.FieldNewTab: "yes", edit.FieldBadgeText: "New", edit.FieldBadgePair: "#ffffff on #12414a",
			edit.FieldBadgeBefore: "yes", edit.FieldIcon: "ship",
			edit.FieldLines: `{"page:2":"first;;The first one"}`,
		},
		"menu": {edit.FieldName: "Other", edit.FieldPrograms: "yes"},
		"block": {
			edit.FieldName: "Other", edit.FieldTitle: "Another title", edit.FieldTitled: "yes", edit.FieldHeading: "3",
			edit.FieldPiece: "image:pier.jpg:The pier",
		},
		"place": {
			edit.FieldOn: "no", edit.FieldLayout: "standard", edit.FieldWhere: "branch:2|pattern:/a/**",
			edit.FieldExcept: "page:3", edit.FieldKinds: "notice|page", edit.FieldNotKinds: "notice",
			edit.FieldAudience: "staff", edit.FieldLiveFrom: later, edit.FieldLiveUntil: muchLater, edit.FieldSet: "1",
		},
		"set": {
			edit.FieldName: "Other", edit.FieldWhere: "page:3|pattern:/a/**", edit.FieldExcept: "page:3",
			edit.FieldKinds: "notice|page", edit.FieldNotKinds: "notice",
		},
		"settings": {
			edit.FieldNotFoundPage: "2", edit.FieldNoAccessPage: "2", edit.FieldSignInPage: "2", edit.FieldClosedPage: "2",
			edit.FieldSearchPage: "2",
			edit.FieldClosed:     "yes", edit.FieldRegister: "yes", edit.FieldSecondFactor: "yes",
			edit.FieldPaleBadges: "yes", edit.FieldAskWhy: "yes", edit.FieldLookAtLinks: "yes",
			edit.FieldLayout:   "wide",
			edit.FieldSiteName: "Other", edit.FieldLanguage: "de", edit.FieldZone: "Europe/London",
			edit.FieldDates: "year-month", edit.FieldRobots: "User-agent: *\nDisallow: /nets",
			edit.FieldBinDays: "7", edit.FieldReadyDays: "9", edit.FieldMostBeside: "8", edit.FieldMostLevels: "4",
		},
		"kind": {
			edit.FieldName: "Word", edit.FieldDateName: "Valid from", edit.FieldLayout: "wide", edit.FieldDefaultPlace: "2",
			edit.FieldPagesListed: "no", edit.FieldTopicLists: "page:5",
		},
		"role": {
			edit.FieldName: "Other", edit.FieldIncludes: "", edit.FieldPermissions: "arrange:page:2|edit:kind:notice",
		},
		"detail": {
			edit.FieldLabel: "Height", edit.FieldType: "number", edit.FieldRank: "a3", edit.FieldUnit: "ft",
			edit.FieldChoices: "Low\nHigh", edit.FieldHelp: "As on the chart", edit.FieldRequired: "yes",
			edit.FieldShown: "editors",
		},
	}
}
