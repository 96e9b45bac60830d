package edit

// fieldWords are the names of fields as the screens say them, where the key is not the word itself.
var fieldWords = map[Field]string{
	Segment:        "last part of the address",
	OwnAddress:     "fixed address",
	ShortAddresses: "short addresses",
	Status:         "state of being online",
	LiveFrom:       "first moment online",
	LiveUntil:      "last moment online",
	Listed:         "place in menus",
	Kind:           "page type",
	Conceal:        "answer to people without access",
	Sort:           "order of the pages inside",
	Pin:            "pin at an end of the order",
	BranchLayout:   "layout of the branch",
	LeadsTo:        "place to which the addresses lead",

	Shows:       "target",
	On:          "switch",
	NewTab:      "way of opening",
	BadgePair:   "colours of the badge",
	BadgeBefore: "side of the badge",
	Programs:    "leave for programs to read it",

	Piece:    "content",
	Titled:   "showing of the title",
	Where:    "pages",
	Except:   "pages left out",
	Kinds:    "page types",
	NotKinds: "page types left out",

	NotFoundPage: "page for “Not found”",
	NoAccessPage: "page for “No access”",
	SignInPage:   "page for “Sign-in”",
	ClosedPage:   "page for “Closed”",
	Closed:       "opening of the site",
	Register:     "making of accounts by visitors",
	PaleBadges:   "rule for badges of low contrast",
	BinDays:      "days for which the bin keeps pages",
	SiteName:     "name of the site",
	Language:     "language of the site",
	Zone:         "time zone",
	Dates:        "order of day and month",
}

// Words gives the name of a field as the screens say it.
func (f Field) Words() string {
	if words, said := fieldWords[f]; said {
		return words
	}
	return string(f)
}
