package edit

import (
	"slices"
	"time"

	"vineladder/internal/core/colour"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// Fields of a menu entry. Label, audience and window are named as those of a page.
const (
	FieldShows       Field = "shows" // see target.Text
	FieldHint        Field = "hint"
	FieldOn          Field = "on"      // yes, no
	FieldNewTab      Field = "new_tab" // yes, no
	FieldBadgeText   Field = "badge"
	FieldBadgePair   Field = "badge_pair"
	FieldBadgeBefore Field = "badge_before" // yes, no
	FieldIcon        Field = "icon"
)

// Fields of a menu.
const (
	FieldName     Field = "name"
	FieldPrograms Field = "programs" // yes, no
)

// menuFields is every field of a menu.
var menuFields = family[site.Menu]{
	at(Fact{Field: FieldName}, line("A menu's name", 80), func(m *site.Menu) *string { return &m.Name }),
	at(
		Fact{Field: FieldPrograms, Words: "leave for programs to read it"},
		flag(), func(m *site.Menu) *bool { return &m.Programs },
	),
}

// entryFields is every field of an entry.
var entryFields = family[site.Entry]{
	at(
		Fact{Field: FieldShows, Words: "target", Traits: Naming},
		Form[site.Shows]{Write: target.Text, Read: target.Parse}, func(e *site.Entry) *site.Shows { return &e.Shows },
	),
	at(Fact{Field: FieldLabel}, line("A label", LabelLimit), func(e *site.Entry) *string { return &e.Label }),
	at(Fact{Field: FieldHint}, line("A hint", LabelLimit), func(e *site.Entry) *string { return &e.Hint }),
	at(Fact{Field: FieldOn, Words: "switch"}, flagOff(), func(e *site.Entry) *bool { return &e.Off }),
	at(
		Fact{Field: FieldAudience, Needs: site.ActionAdmit},
		audience(), func(e *site.Entry) *site.Audience { return &e.Audience },
	),
	at(Fact{Field: FieldLiveFrom}, instant(), func(e *site.Entry) *time.Time { return &e.LiveFrom }),
	at(Fact{Field: FieldLiveUntil}, instant(), func(e *site.Entry) *time.Time { return &e.LiveUntil }),
	at(Fact{Field: FieldNewTab, Words: "way of opening"}, flag(), func(e *site.Entry) *bool { return &e.NewTab }),
	at(Fact{Field: FieldBadgeText}, line("A badge", 40), func(e *site.Entry) *string { return &e.Badge.Text }),
	at(
		Fact{Field: FieldBadgePair, Words: "colours of the badge"},
		badgePair(), func(e *site.Entry) *string { return &e.Badge.Pair },
	),
	at(
		Fact{Field: FieldBadgeBefore, Words: "side of the badge"},
		flag(), func(e *site.Entry) *bool { return &e.Badge.Before },
	),
	at(Fact{Field: FieldIcon}, icon(), func(e *site.Entry) *string { return &e.Icon }),
	newGrownLines(),
}

// MenuValue gives a field of a menu in its canonical form.
func MenuValue(m *site.Menu, of Field) string { return menuFields.value(m, of) }

// EntryValue gives a field of an entry in its canonical form.
func EntryValue(e *site.Entry, of Field) string { return entryFields.value(e, of) }

// EntryFields names every field of an entry, in the order in which they are set.
func EntryFields() []Field { return entryFields.with(0) }

// badgePair is the form of a pair of the theme, or a free one. A pair that can hardly be read is refused, unless the
// site only warns of it (WCAG 2.2, 1.4.3).
func badgePair() Form[string] {
	read := func(s *site.Site, text string) (string, error) {
		if text == "" || s.Theme().Pair(text) != nil {
			return text, nil
		}
		pair, ok := colour.ParsePair(text)
		switch {
		case !ok:
			return "", refuse("“%s” is not a pair of colours; write it as #1e2b27 on #f7f5ef.", text)
		case pair.Contrast() < colour.Enough && !s.Settings().PaleBadges:
			const pale = "Text in %s has a contrast of %s to 1; it takes 4.5 to 1 to be read. Choose a darker or a lighter " +
				"colour."
			return "", refuse(pale, pair, pair.Ratio())
		}
		return pair.String(), nil
	}
	return Form[string]{Write: func(value string) string { return value }, Read: read}
}

// icon is the form of one of the theme's icons, or none.
func icon() Form[string] {
	read := func(s *site.Site, text string) (string, error) {
		if text != "" && !slices.Contains(s.Theme().Icons, text) {
			return "", refuse("The theme has no icon “%s”.", text)
		}
		return text, nil
	}
	return Form[string]{Write: func(value string) string { return value }, Read: read}
}
