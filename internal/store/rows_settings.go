package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// KeptSettings are the settings with the revision that the tables stand at.
type keptSettings struct {
	site.Settings
	Revision int64
}

type settings = keptSettings

func settingsRow() row[settings] {
	zone := &scannedZone{}
	return row[settings]{table: "site", key: "id", order: "id", columns: []column[settings]{
		number("revision", "", func(s *settings) *int64 { return &s.Revision }),
		phrase("robots", edit.FieldRobots, func(s *settings) *string { return &s.Robots }),
		phrase("name", edit.FieldSiteName, func(s *settings) *string { return &s.Name }),
		phrase("language", edit.FieldLanguage, func(s *settings) *string { return &s.Language }),
		from("zone", "text", edit.FieldZone, func(s *settings) string { return s.Zone.String() },
			func(s *settings) any { zone.at = &s.Zone; return zone }),
		from("date_order", "text", edit.FieldDates,
			func(s *settings) string { return edit.SettingValue(s.Settings, edit.FieldDates) },
			func(s *settings) any { return &s.Dates }),
		reference("not_found", edit.FieldNotFoundPage, func(s *settings) *site.PageID { return &s.NotFound }),
		reference("no_access", edit.FieldNoAccessPage, func(s *settings) *site.PageID { return &s.NoAccess }),
		reference("sign_in_page", edit.FieldSignInPage, func(s *settings) *site.PageID { return &s.SignIn }),
		reference("search_page", edit.FieldSearchPage, func(s *settings) *site.PageID { return &s.Search }),
		reference("closed_page", edit.FieldClosedPage, func(s *settings) *site.PageID { return &s.Shut }),
		truth("closed", edit.FieldClosed, func(s *settings) *bool { return &s.Closed }),
		truth("register", edit.FieldRegister, func(s *settings) *bool { return &s.Register }),
		truth("second_factor", edit.FieldSecondFactor, func(s *settings) *bool { return &s.SecondFactor }),
		truth("ask_why", edit.FieldAskWhy, func(s *settings) *bool { return &s.AskWhy }),
		truth("look_at_links", edit.FieldLookAtLinks, func(s *settings) *bool { return &s.LookAtLinks }),
		truth("pale_badges", edit.FieldPaleBadges, func(s *settings) *bool { return &s.PaleBadges }),
		phrase("layout", edit.FieldLayout, func(s *settings) *string { return &s.Layout }),
		number("most_beside", edit.FieldMostBeside, func(s *settings) *int { return &s.MostBeside }),
		number("most_levels", edit.FieldMostLevels, func(s *settings) *int { return &s.MostLevels }),
		number("ready_days", edit.FieldReadyDays, func(s *settings) *int { return &s.ReadyDays }),
		number("bin_days", edit.FieldBinDays, func(s *settings) *int { return &s.BinDays }),
	}}
}

// scannedZone reads a time zone by its name.
type scannedZone struct{ at **time.Location }

func (z *scannedZone) Scan(src any) error {
	name, err := scannedWords(src)
	if err != nil {
		return err
	}
	found, known := site.LoadZone(name)
	if !known {
		return fmt.Errorf("the time zone of the site, “%s”, is not known on this machine", name)
	}
	*z.at = found
	return nil
}

func loadSettings(ctx context.Context, tx *sqlx.Tx) (*settings, error) {
	rows, err := settingsRow().load(ctx, tx, "")
	if err != nil {
		return nil, err
	}
	if len(rows) != 1 {
		return nil, fmt.Errorf("read the site; has the database been migrated? There are %d rows", len(rows))
	}
	return rows[0], nil
}

// A keptKind is a page type with its place among them.
type keptKind struct {
	site.Kind
	Position int
}

func kindRow() row[keptKind] {
	return row[keptKind]{table: "kinds", key: "key", order: "position", columns: []column[keptKind]{
		phrase("key", "", func(k *keptKind) *string { return &k.Key }),
		phrase("name", edit.FieldName, func(k *keptKind) *string { return &k.Name }),
		phrase("date_name", edit.FieldDateName, func(k *keptKind) *string { return &k.DateName }),
		phrase("layout", edit.FieldLayout, func(k *keptKind) *string { return &k.Layout }),
		reference("place", edit.FieldDefaultPlace, func(k *keptKind) *site.PageID { return &k.Place }),
		truth("unlisted", edit.FieldPagesListed, func(k *keptKind) *bool { return &k.Unlisted }),
		phrase("lists", edit.FieldTopicLists, func(k *keptKind) *string { return &k.Lists }),
		number("position", "", func(k *keptKind) *int { return &k.Position }),
	}}
}

func loadKinds(ctx context.Context, tx *sqlx.Tx) ([]site.Kind, error) {
	rows, err := kindRow().load(ctx, tx, "")
	kinds := make([]site.Kind, len(rows))
	for i, k := range rows {
		kinds[i] = k.Kind
	}
	return kinds, err
}

// writeSettings writes the settings and kinds in which two Sites differ.
func writeSettings(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	if was.Settings() != is.Settings() {
		columns, sets := settingsRow().columns[1:], []string{} // a publication raises the revision at its end
		for _, c := range columns {
			sets = append(sets, c.name+" = t."+c.name)
		}
		kept := []*settings{{Settings: is.Settings()}}
		err := settingsRow().send(ctx, tx, columns, kept, func(_, table string) string {
			return "UPDATE site SET " + strings.Join(sets, ", ") + " FROM " + table
		})
		if err != nil {
			return err
		}
	}
	return writeKinds(ctx, tx, was, is)
}

// detailRow is how the details of page types are kept.
func detailRow() row[site.Detail] {
	return row[site.Detail]{table: "details", key: "key", order: "key", columns: []column[site.Detail]{
		phrase("key", "", func(d *site.Detail) *string { return &d.Key }),
		phrase("rank", edit.FieldRank, func(d *site.Detail) *string { return &d.Rank }),
		phrase("label", edit.FieldLabel, func(d *site.Detail) *string { return &d.Label }),
		phrase("type", edit.FieldType, func(d *site.Detail) *site.DetailType { return &d.Type }),
		phrase("unit", edit.FieldUnit, func(d *site.Detail) *string { return &d.Unit }),
		phrase("choices", edit.FieldChoices, func(d *site.Detail) *string { return &d.Choices }),
		phrase("help", edit.FieldHelp, func(d *site.Detail) *string { return &d.Help }),
		truth("required", edit.FieldRequired, func(d *site.Detail) *bool { return &d.Required }),
		phrase("shown", edit.FieldShown, func(d *site.Detail) *site.DetailShows { return &d.Shows }),
	}}
}

func loadDetails(ctx context.Context, tx *sqlx.Tx) ([]site.Detail, error) {
	rows, err := detailRow().load(ctx, tx, "")
	details := make([]site.Detail, len(rows))
	for i, d := range rows {
		details[i] = *d
	}
	return details, err
}

// writeDetails writes the details in which two Sites differ.
func writeDetails(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	var written []*site.Detail
	for _, d := range is.AllDetails() {
		if old := was.Detail(d.Key); old == nil || *old != d {
			written = append(written, &d)
		}
	}
	var gone []string
	for _, d := range was.AllDetails() {
		if is.Detail(d.Key) == nil {
			gone = append(gone, d.Key)
		}
	}
	if err := removeByKey(ctx, tx, "details", gone); err != nil {
		return err
	}
	return detailRow().save(ctx, tx, written)
}

// writeKinds writes the page types in which two Sites differ, and their details.
func writeKinds(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	var written []*keptKind
	for i, kind := range is.Kinds() {
		if i >= len(was.Kinds()) || was.Kinds()[i] != kind {
			written = append(written, &keptKind{kind, i})
		}
	}
	var gone []string
	for _, kind := range was.Kinds() {
		if !slices.ContainsFunc(is.Kinds(), func(k site.Kind) bool { return k.Key == kind.Key }) {
			gone = append(gone, kind.Key)
		}
	}
	if err := removeByKey(ctx, tx, "kinds", gone); err != nil {
		return err
	}
	return errors.Join(kindRow().save(ctx, tx, written), writeDetails(ctx, tx, was, is))
}
