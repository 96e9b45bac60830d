package store

import (
	"context"
	"fmt"
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
		reference("closed_page", edit.FieldClosedPage, func(s *settings) *site.PageID { return &s.Shut }),
		truth("closed", edit.FieldClosed, func(s *settings) *bool { return &s.Closed }),
		truth("register", edit.FieldRegister, func(s *settings) *bool { return &s.Register }),
		truth("pale_badges", edit.FieldPaleBadges, func(s *settings) *bool { return &s.PaleBadges }),
		phrase("layout", edit.FieldLayout, func(s *settings) *string { return &s.Layout }),
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
		phrase("name", "", func(k *keptKind) *string { return &k.Name }),
		phrase("date_name", "", func(k *keptKind) *string { return &k.DateName }),
		phrase("layout", edit.FieldLayout, func(k *keptKind) *string { return &k.Layout }),
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
	var written []*keptKind
	for i, kind := range is.Kinds() {
		if i >= len(was.Kinds()) || was.Kinds()[i] != kind {
			written = append(written, &keptKind{kind, i})
		}
	}
	return kindRow().save(ctx, tx, written)
}
