package edit

// fieldWords are the names of fields as the screens say them, where the key is not the word itself.
var fieldWords = map[Field]string{
	FieldSegment:        "last part of the address",
	FieldOwnAddress:     "fixed address",
	FieldShortAddresses: "short addresses",
	FieldStatus:         "state of being online",
	FieldLiveFrom:       "first moment online",
	FieldLiveUntil:      "last moment online",
	FieldListed:         "place in menus",
	FieldKind:           "page type",
	FieldConceal:        "answer to people without access",
	FieldSort:           "order of the pages inside",
	FieldPin:            "pin at an end of the order",
	FieldBranchLayout:   "layout of the branch",
	FieldLeadsTo:        "place to which the addresses lead",

	FieldShows:       "target",
	FieldOn:          "switch",
	FieldNewTab:      "way of opening",
	FieldBadgePair:   "colours of the badge",
	FieldBadgeBefore: "side of the badge",
	FieldPrograms:    "leave for programs to read it",

	FieldPiece:    "content",
	FieldTitled:   "showing of the title",
	FieldWhere:    "pages",
	FieldExcept:   "pages left out",
	FieldKinds:    "page types",
	FieldNotKinds: "page types left out",

	FieldNotFoundPage: "page for “Not found”",
	FieldNoAccessPage: "page for “No access”",
	FieldSignInPage:   "page for “Sign-in”",
	FieldClosedPage:   "page for “Closed”",
	FieldClosed:       "opening of the site",
	FieldRegister:     "making of accounts by visitors",
	FieldPaleBadges:   "rule for badges of low contrast",
	FieldBinDays:      "days for which the bin keeps pages",
	FieldSiteName:     "name of the site",
	FieldLanguage:     "language of the site",
	FieldZone:         "time zone",
	FieldDates:        "order of day and month",
}

// Words gives the name of a field as the screens say it.
func (f Field) Words() string {
	if words, said := fieldWords[f]; said {
		return words
	}
	return string(f)
}
