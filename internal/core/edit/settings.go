package edit

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Fields of the settings, besides Layout.
const (
	FieldNotFoundPage Field = "not_found_page" // ids of pages, or empty
	FieldNoAccessPage Field = "no_access_page"
	FieldSignInPage   Field = "sign_in_page"
	FieldClosedPage   Field = "closed_page"
	FieldClosed       Field = "closed"      // yes, no
	FieldPaleBadges   Field = "pale_badges" // yes, no
	FieldRegister     Field = "register"    // yes, no
	FieldBinDays      Field = "bin_days"
	FieldSiteName     Field = "site_name"
	FieldLanguage     Field = "language" // BCP 47
	FieldZone         Field = "zone"     // name in the tz database
	FieldDates        Field = "date_order"
)

type (
	// OpEditSettings sets what holds for the whole site.
	OpEditSettings struct {
		Fields []FieldChange `json:"fields"`
	}
	// OpEditKind sets the layout of the pages of a kind.
	OpEditKind struct {
		Kind   string        `json:"kind"`
		Fields []FieldChange `json:"fields"`
	}
)

func (OpEditSettings) Subject() site.PageID { return 0 }
func (OpEditSettings) name() string         { return "edit-settings" }
func (OpEditSettings) Needs() []site.Action { return []site.Action{site.ActionKeep} }
func (o OpEditSettings) Inverse() Op        { return OpEditSettings{turned(o.Fields)} }
func (OpEditKind) Subject() site.PageID     { return 0 }
func (OpEditKind) name() string             { return "edit-kind" }
func (OpEditKind) Needs() []site.Action     { return []site.Action{site.ActionKeep} }
func (o OpEditKind) Inverse() Op            { return OpEditKind{o.Kind, turned(o.Fields)} }

// settingsTable is every setting that a draft can change.
var settingsTable = table[site.Settings]{
	special(FieldNotFoundPage, func(s *site.Settings) *site.PageID { return &s.NotFound }),
	special(FieldNoAccessPage, func(s *site.Settings) *site.PageID { return &s.NoAccess }),
	special(FieldSignInPage, func(s *site.Settings) *site.PageID { return &s.SignIn }),
	special(FieldClosedPage, func(s *site.Settings) *site.PageID { return &s.Shut }),
	flag(FieldClosed, func(s *site.Settings) *bool { return &s.Closed }),
	flag(FieldRegister, func(s *site.Settings) *bool { return &s.Register }),
	flag(FieldPaleBadges, func(s *site.Settings) *bool { return &s.PaleBadges }),
	layout(FieldLayout, func(s *site.Settings) *string { return &s.Layout }),
	{
		FieldSiteName,
		func(s *site.Settings) string { return s.Name },
		func(_ *site.Site, s *site.Settings, value string) (err error) {
			s.Name, err = oneLine(value, "The name of the site", 80)
			return err
		},
	},
	{
		FieldLanguage,
		func(s *site.Settings) string { return s.Language },
		func(_ *site.Site, s *site.Settings, value string) error {
			if s.Language = value; !site.KnowsLanguage(value) {
				return refuse("“%s” is none of the languages whose order of letters is known here.", value)
			}
			return nil
		},
	},
	{
		FieldZone,
		func(s *site.Settings) string { return s.Zone.String() },
		func(_ *site.Site, s *site.Settings, value string) error {
			zone, known := site.LoadZone(value)
			if !known {
				return refuse("“%s” is not a time zone; they have names like Europe/London.", value)
			}
			s.Zone = zone
			return nil
		},
	},
	{
		FieldDates,
		func(s *site.Settings) string { return string(cmp.Or(s.Dates, site.DatesDayMonth)) },
		func(_ *site.Site, s *site.Settings, value string) (err error) {
			s.Dates, err = oneOf(value, site.DatesDayMonth, site.DatesMonthDay, site.DatesYearMonth)
			return err
		},
	},
	{
		FieldBinDays,
		func(s *site.Settings) string { return strconv.Itoa(s.BinDays) },
		func(_ *site.Site, s *site.Settings, value string) error {
			days, err := strconv.Atoi(value)
			if err != nil || days < 0 || days > 3650 {
				return refuse("The bin keeps pages for a number of days up to 3650.")
			}
			s.BinDays = days
			return nil
		},
	},
}

// SettingValue gives a setting in its canonical form.
func SettingValue(s site.Settings, field Field) string { return settingsTable.value(&s, field) }

var kindTable = table[site.Kind]{layout(FieldLayout, func(k *site.Kind) *string { return &k.Layout })}

// special is a column of a page that stands in for others.
func special(field Field, of func(*site.Settings) *site.PageID) column[site.Settings] {
	return column[site.Settings]{field, func(s *site.Settings) string {
		if *of(s) == 0 {
			return ""
		}
		return strconv.FormatInt(int64(*of(s)), 10)
	}, func(s *site.Site, settings *site.Settings, value string) error {
		if value == "" {
			*of(settings) = 0
			return nil
		}
		id, err := strconv.ParseInt(value, 10, 64)
		if err != nil || !s.InTree(site.PageID(id)) {
			return &Conflict{Sentence: "The page that was chosen is not there any more."}
		}
		*of(settings) = site.PageID(id)
		return nil
	}}
}

func (o OpEditSettings) apply(st *state) (Op, error) {
	settings := st.Peek().Settings()
	var err error
	o.Fields, err = settingsTable.change(st.Peek(), &settings, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:    field,
			Mine:     mine,
			Theirs:   theirs,
			Sentence: "This setting was changed by somebody else.",
		}
	})
	if err != nil {
		return nil, err
	}
	st.SetSettings(settings)
	for _, f := range o.Fields {
		for _, page := range Specials(settings) {
			if page.Field == f.Field && page.Page != 0 && !st.everyoneReaches(st.Peek(), page.Page) {
				return nil, refuse(
					"“%s” can't be the %s page: not everyone reaches it.",
					st.Peek().Page(page.Page).Label,
					page.Name,
				)
			}
		}
	}
	return o, nil
}

func (o OpEditKind) apply(st *state) (Op, error) {
	kinds := slices.Clone(st.Peek().Kinds())
	at := slices.IndexFunc(kinds, func(k site.Kind) bool { return k.Key == o.Kind })
	if at < 0 {
		return nil, &Conflict{Sentence: "The page type is not there any more."}
	}
	var err error
	o.Fields, err = kindTable.change(st.Peek(), &kinds[at], o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:  field,
			Mine:   mine,
			Theirs: theirs,
			Sentence: fmt.Sprintf(
				"The %s of the page type “%s” was changed by somebody else.",
				field.Words(),
				kinds[at].Name,
			),
		}
	})
	st.SetKinds(kinds)
	return o, err
}

// A Special is a page that stands in for others, as the settings choose it (rules 4.5).
type Special struct {
	Field Field
	Name  string
	Page  site.PageID // 0: a plain text of the theme
}

// Specials gives the four of them.
func Specials(settings site.Settings) []Special {
	return []Special{
		{FieldNotFoundPage, "“not found”", settings.NotFound},
		{FieldNoAccessPage, "“no access”", settings.NoAccess},
		{FieldSignInPage, "sign-in", settings.SignIn},
		{FieldClosedPage, "“closed”", settings.Shut},
	}
}

// everyoneReaches says whether a page is reached even signed out.
func (st *state) everyoneReaches(s *site.Site, page site.PageID) bool {
	return reach.Ask(s, page, reach.Lens{At: st.now}) == reach.Sees
}

// keepsSpecials refuses edits after which somebody does not reach a page that stands in for others, and did before
// (rules 4.5).
func (st *state) keepsSpecials(before *site.Site) error {
	for _, page := range Specials(st.Peek().Settings()) {
		if page.Page != 0 && st.everyoneReaches(before, page.Page) && !st.everyoneReaches(st.Peek(), page.Page) {
			return refuse(
				"“%s” is the site's %s page, which everyone must be able to reach; choose another one in the settings first.",
				before.Page(page.Page).Label,
				page.Name,
			)
		}
	}
	return nil
}
