package settings

import (
	"net/http"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// settingsView is what holds for the whole site: edits of the draft, as all else.
type settingsView struct {
	desk.Screen
	Specials []specialPage
	Values   map[string]string
	Keep     grant.Answer
	Locked   bool

	Sought    []store.SoughtInVain
	Languages []site.Language
	Zones     []string
}

// soughtShown is how much of what visitors sought in vain the screen lists.
const soughtShown = 30

// A specialPage is a page that stands in where there is nothing else to show (rules 4.5).
type specialPage struct {
	Field edit.Field
	Name  string
	When  string
	Page  *site.Page // nil: a few words of the theme
	Old   string
}

var specialWords = map[edit.Field][2]string{
	edit.FieldNotFoundPage: {"Not found", "where an address leads nowhere"},
	edit.FieldNoAccessPage: {"No access", "for who is signed in and may not see the page"},
	edit.FieldSignInPage:   {"Sign-in", "around the form"},
	edit.FieldClosedPage:   {"Closed", "while the site is closed"},
	edit.FieldSearchPage:   {"Search", "with the field in which visitors search"},
}

func (s *Area) siteSettings(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := settingsView{
		Screen: desk.Screen{Desk: d},
		Keep:   d.May(string(site.ActionKeep)),
		Values: map[string]string{},
	}
	view.Locked = d.State == "now" || !view.Keep.Yes
	var err error
	if view.Screen, err = s.Screen(r, d, "settings"); err != nil {
		return err
	}
	settings := d.Site.Settings()
	for _, special := range edit.Specials(settings) {
		words := specialWords[special.Field]
		view.Specials = append(
			view.Specials,
			specialPage{
				special.Field,
				words[0],
				words[1],
				d.Site.Page(special.Page),
				edit.SettingValue(settings, special.Field),
			},
		)
	}
	for _, field := range []edit.Field{
		edit.FieldClosed, edit.FieldRegister, edit.FieldSecondFactor, edit.FieldPaleBadges, edit.FieldAskWhy,
		edit.FieldLookAtLinks,
		edit.FieldLayout,
		edit.FieldBinDays, edit.FieldReadyDays, edit.FieldMostBeside, edit.FieldMostLevels, edit.FieldRobots,
		edit.FieldSiteName, edit.FieldLanguage, edit.FieldZone, edit.FieldDates,
	} {
		view.Values[string(field)] = edit.SettingValue(settings, field)
	}
	if view.Zones, err = s.Store.Zones(r.Context()); err != nil {
		return err
	}
	if view.Sought, err = s.Store.SoughtInVain(r.Context(), soughtShown); err != nil {
		return err
	}
	view.Languages = languagesWith(settings.Language)
	name := "settings"
	if r.Header.Get("X-Part") != "" {
		name = "settings-parts"
	}
	s.Render(w, r, name, view)
	return nil
}

// languagesWith gives the languages to choose from, with the region that the site's own names.
func languagesWith(own string) []site.Language {
	all := slices.Clone(site.Languages)
	if slices.ContainsFunc(all, func(l site.Language) bool { return l.Tag == own }) {
		return all
	}
	base, _, _ := strings.Cut(own, "-")
	for i := range all {
		if all[i].Tag == base {
			all = slices.Insert(all, i, site.Language{Tag: own, Name: all[i].Name + ", as “" + own + "”"})
			break
		}
	}
	return all
}

// settingOps turns a form into operations, with what was done in words.
func settingOps(r *http.Request) desk.Operations {
	change := edit.FieldChange{
		Field: edit.Field(r.FormValue("field")),
		Old:   r.FormValue("old"),
		New:   strings.TrimSpace(r.FormValue("new")),
	}
	return func(s *site.Site) ([]edit.Op, string, error) {
		if kind := r.FormValue("kind"); kind != "" {
			op := edit.OpEditKind{Kind: kind, Fields: []edit.FieldChange{change}}
			return []edit.Op{op}, "set the layout of the page type “" + s.Kind(kind).Name + "”", nil
		}
		words := "changed the setting “" + change.Field.Words() + "”"
		switch {
		case change.Field == edit.FieldClosed && change.New == "yes":
			words = "chose to close the site"
		case change.Field == edit.FieldClosed:
			words = "chose to open the site"
		}
		return []edit.Op{edit.OpEditSettings{Fields: []edit.FieldChange{change}}}, words, nil
	}
}

func (s *Area) settingsEdit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	_, words, err := s.InDraft(r, d, settingOps(r))
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: say.Capital(words) + "."})
	return nil
}

// settingsTry says what a setting would do and leaves everything as it is.
func (s *Area) settingsTry(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	_, changes, err := s.Tried(r, d, settingOps(r))
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Changes: changes}})
	return nil
}
