package edit

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// OpEditSettings sets what holds for the whole site.
type OpEditSettings struct {
	Fields []FieldChange `json:"fields"`
}

func (OpEditSettings) name() string { return "edit-settings" }

func (o OpEditSettings) edits() []FieldChange { return o.Fields }

func (OpEditSettings) Subject() site.PageID { return 0 }

func (OpEditSettings) About(*site.Site) About { return About{What: "Settings"} }

func (OpEditSettings) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionKeep, On: site.SiteThing}}
}

func (o OpEditSettings) Inverse() Op { return OpEditSettings{turned(o.Fields)} }

func (o OpEditSettings) ties() ties {
	return ties{uses: settingsFields.chosen(o.Fields), sets: fieldTies(settingsTie, o.Fields)}
}

func (o OpEditSettings) insist(s *site.Site, _ int64) (Op, error) {
	settings := s.Settings()
	o.Fields = settingsFields.onTop(&settings, o.Fields)
	return o, nil
}

func (o OpEditSettings) apply(st *state) (Op, error) {
	settings := st.Peek().Settings()
	var err error
	o.Fields, err = settingsFields.change(st.Peek(), &settings, o.Fields, func(field Field, mine, theirs string) error {
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

// A Special is a page that stands in for others, as the settings choose it (rules 4.5).
type Special struct {
	Field Field
	Name  string
	Page  site.PageID // 0: a plain text of the theme
}

// Specials gives all of them.
func Specials(settings site.Settings) []Special {
	return []Special{
		{FieldNotFoundPage, "“not found”", settings.NotFound},
		{FieldNoAccessPage, "“no access”", settings.NoAccess},
		{FieldSignInPage, "sign-in", settings.SignIn},
		{FieldClosedPage, "“closed”", settings.Shut},
		{FieldSearchPage, "search", settings.Search},
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
