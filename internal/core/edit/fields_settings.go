package edit

import (
	"time"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Fields of the settings, besides the layout.
const (
	FieldNotFoundPage Field = "not_found_page" // ids of pages, or empty
	FieldNoAccessPage Field = "no_access_page"
	FieldSignInPage   Field = "sign_in_page"
	FieldClosedPage   Field = "closed_page"
	FieldSearchPage   Field = "search_page"
	FieldClosed       Field = "closed"        // yes, no
	FieldPaleBadges   Field = "pale_badges"   // yes, no
	FieldAskWhy       Field = "ask_why"       // yes, no: who publishes says why
	FieldLookAtLinks  Field = "look_at_links" // yes, no: web addresses are asked for now and then
	FieldRegister     Field = "register"      // yes, no
	FieldSecondFactor Field = "second_factor" // yes, no: asked of who holds any permission
	FieldBinDays      Field = "bin_days"
	FieldMostBeside   Field = "most_beside" // items of a menu at one level
	FieldMostLevels   Field = "most_levels" // of the tree
	FieldReadyDays    Field = "ready_days"
	FieldRobots       Field = "robots" // lines of RFC 9309, or empty: all may be read
	FieldSiteName     Field = "site_name"
	FieldLanguage     Field = "language" // BCP 47
	FieldZone         Field = "zone"     // name in the tz database
	FieldDates        Field = "date_order"
)

// settingsFields is every setting that a draft can change.
var settingsFields = family[site.Settings]{
	at(
		Fact{Field: FieldNotFoundPage, Words: "page for “Not found”", Traits: Choosing},
		pageNumber(inTree), func(s *site.Settings) *site.PageID { return &s.NotFound },
	),
	at(
		Fact{Field: FieldNoAccessPage, Words: "page for “No access”", Traits: Choosing},
		pageNumber(inTree), func(s *site.Settings) *site.PageID { return &s.NoAccess },
	),
	at(
		Fact{Field: FieldSignInPage, Words: "page for “Sign-in”", Traits: Choosing},
		pageNumber(inTree), func(s *site.Settings) *site.PageID { return &s.SignIn },
	),
	at(
		Fact{Field: FieldClosedPage, Words: "page for “Closed”", Traits: Choosing},
		pageNumber(inTree), func(s *site.Settings) *site.PageID { return &s.Shut },
	),
	at(
		Fact{Field: FieldSearchPage, Words: "page for searching", Traits: Choosing},
		pageNumber(inTree), func(s *site.Settings) *site.PageID { return &s.Search },
	),
	at(
		Fact{Field: FieldClosed, Words: "opening of the site"},
		flag(), func(s *site.Settings) *bool { return &s.Closed },
	),
	at(
		Fact{Field: FieldRegister, Words: "making of accounts by visitors"},
		flag(), func(s *site.Settings) *bool { return &s.Register },
	),
	at(
		Fact{Field: FieldSecondFactor, Words: "need of a second factor"},
		flag(), func(s *site.Settings) *bool { return &s.SecondFactor },
	),
	at(
		Fact{Field: FieldPaleBadges, Words: "rule for badges of low contrast"},
		flag(), func(s *site.Settings) *bool { return &s.PaleBadges },
	),
	at(
		Fact{Field: FieldAskWhy, Words: "rule that publications have a reason"},
		flag().or("no"), func(s *site.Settings) *bool { return &s.AskWhy },
	),
	at(
		Fact{Field: FieldLookAtLinks, Words: "looking at web addresses"},
		flag().or("no"), func(s *site.Settings) *bool { return &s.LookAtLinks },
	),
	at(Fact{Field: FieldLayout}, layout(), func(s *site.Settings) *string { return &s.Layout }),
	at(
		Fact{Field: FieldSiteName, Words: "name of the site"},
		line("The name of the site", 80), func(s *site.Settings) *string { return &s.Name },
	),
	at(
		Fact{Field: FieldLanguage, Words: "language of the site"},
		language(), func(s *site.Settings) *string { return &s.Language },
	),
	at(Fact{Field: FieldZone, Words: "time zone"}, zone(), func(s *site.Settings) **time.Location { return &s.Zone }),
	at(
		Fact{Field: FieldDates, Words: "order of day and month"},
		choice(site.DatesDayMonth, site.DatesMonthDay, site.DatesYearMonth).unsaid(site.DatesDayMonth),
		func(s *site.Settings) *site.DateOrder { return &s.Dates },
	),
	at(
		Fact{Field: FieldRobots, Words: "rules for search engines"},
		robots(), func(s *site.Settings) *string { return &s.Robots },
	),
	at(
		Fact{Field: FieldMostBeside, Words: "number of items of a menu that are not many"},
		whole(0, 1000, "More items of one level of a menu than a number up to 1000 are many; 0 is as usual."),
		func(s *site.Settings) *int { return &s.MostBeside },
	),
	at(
		Fact{Field: FieldMostLevels, Words: "deepest level that is not deep"},
		whole(0, LevelsLimit, "Pages deeper than a level up to 60 are deep; 0 is as usual."),
		func(s *site.Settings) *int { return &s.MostLevels },
	),
	at(
		Fact{Field: FieldReadyDays, Words: "days after which a page that is only for us is told"},
		whole(0, 3650, "Pages that are only for us are told after a number of days up to 3650."),
		func(s *site.Settings) *int { return &s.ReadyDays },
	),
	at(
		Fact{Field: FieldBinDays, Words: "days for which the bin keeps pages"},
		whole(0, 3650, "The bin keeps pages for a number of days up to 3650."),
		func(s *site.Settings) *int { return &s.BinDays },
	),
}

// SettingValue gives a setting in its canonical form.
func SettingValue(s site.Settings, of Field) string { return settingsFields.value(&s, of) }

func inTree(s *site.Site, id site.PageID) error {
	if !s.InTree(id) {
		return &typed.Missing{Sentence: "The page that was chosen is not there any more."}
	}
	if p := s.Page(id); p.IsFile() || p.IsFolder() {
		return refuse("“%s” is no page that visitors read; choose another.", p.Label)
	}
	return nil
}

func language() Form[string] {
	return Form[string]{
		Write: func(value string) string { return value },
		Read: func(_ *site.Site, text string) (string, error) {
			if !site.KnowsLanguage(text) {
				return "", refuse("“%s” is none of the languages whose order of letters is known here.", text)
			}
			return text, nil
		},
	}
}

func zone() Form[*time.Location] {
	return Form[*time.Location]{
		Write: func(value *time.Location) string { return value.String() },
		Read: func(_ *site.Site, text string) (*time.Location, error) {
			found, known := site.LoadZone(text)
			if !known {
				return nil, refuse("“%s” is not a time zone; they have names like Europe/London.", text)
			}
			return found, nil
		},
	}
}
