// Package founding makes the first site in an empty database: roles, a plain page type, the home page, the pages that
// stand in for others, and a main and a footer menu in their regions. All of it can be changed afterwards.
package founding

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

// Keeper is the role that may do everything.
const Keeper = "site-keeper"

// Roles that a new site has.
func Roles() []site.Role {
	return []site.Role{
		{
			Key: Keeper, Name: "Site keeper", Includes: []string{"editor", "members"},
			Grants: site.OnSite(site.Actions()...),
		},
		{
			Key: "editor", Name: "Editor", Includes: []string{"members", "writer"},
			Grants: site.OnSite(
				site.ActionEdit,
				site.ActionArrange,
				site.ActionPlace,
				site.ActionLink,
				site.ActionClassify,
				site.ActionPublish,
			),
		},
		{
			Key: "writer", Name: "Writer", Includes: []string{"members"},
			Grants: site.OnSite(site.ActionEdit, site.ActionClassify),
		},
		{Key: "members", Name: "Members"},
	}
}

// A Beginning is what must be known to begin. Zone is a name of the IANA time zone database.
type Beginning struct {
	Name, Language, Zone string
}

// Check says what is wrong with it, by the name of the field; nothing if all is well.
func (b Beginning) Check() map[string]string {
	faults := map[string]string{}
	if name := strings.TrimSpace(b.Name); name == "" || len([]rune(name)) > 200 {
		faults["name"] = "A site needs a name, of 200 characters at most."
	}
	if !site.KnowsLanguage(b.Language) {
		faults["language"] = fmt.Sprintf(
			"“%s” is not one of the languages that a site can be kept in: %s.",
			b.Language,
			tags(),
		)
	}
	if _, known := site.LoadZone(b.Zone); !known {
		faults["zone"] = fmt.Sprintf("“%s” is not a time zone; write one as “Europe/London” or “UTC”.", b.Zone)
	}
	return faults
}

func tags() string {
	all := make([]string, len(site.Languages))
	for i, language := range site.Languages {
		all[i] = language.Tag
	}
	return strings.Join(all, ", ")
}

// ErrBegun is a database that has pages already.
var ErrBegun = errors.New("this site has been set up already")

// Begin founds the site, all of it or nothing that shows: as long as there is no home page it can be called again.
func Begin(ctx context.Context, st *store.Store, b Beginning) error {
	for _, fault := range b.Check() {
		return errors.New(fault)
	}
	zone, _ := site.LoadZone(b.Zone)
	if !st.IsEmpty() {
		return ErrBegun
	}
	settings := site.Settings{Name: strings.TrimSpace(b.Name), Language: b.Language, Zone: zone}
	if err := st.Found(ctx, store.Foundation{
		Settings: settings, Roles: Roles(),
		Kinds: append([]site.Kind{{Key: "page", Name: "Page"}}, site.OwnKinds()...),
	}); err != nil {
		return err
	}
	f := &founder{ctx: ctx, st: st, cleaner: text.NewCleaner()}
	f.pages(settings.Name)
	f.menus()
	if f.err != nil {
		return fmt.Errorf("set up the site: %w", f.err)
	}
	_, err := st.PublishDirect(ctx, store.Account{Name: "set-up"}, "set up the site", f.ops)
	if err != nil && !st.IsEmpty() {
		return ErrBegun
	}
	return err
}

// A founder gathers operations. The first error ends it.
type founder struct {
	ctx     context.Context
	st      *store.Store
	cleaner *text.Cleaner
	ops     []edit.Op
	home    site.PageID
	err     error
}

func note[T any](f *founder) func(T, error) T {
	return func(made T, err error) T {
		if f.err == nil {
			f.err = err
		}
		return made
	}
}

// page makes a live page; one below the home page is not listed, since it stands in for others.
func (f *founder) page(label, html string) site.PageID {
	ids := note[[]site.PageID](f)(f.st.NewPageIDs(f.ctx, 1))
	hashes := note[[]string](f)(f.st.SaveTexts(f.ctx, f.cleaner.Clean(f.st.Published().Site, html, clock.Now())))
	if f.err != nil {
		return 0
	}
	fields := []edit.FieldChange{{Field: edit.FieldLabel, New: label}, {Field: edit.FieldText, New: hashes[0]}}
	place := edit.Place{}
	if f.home != 0 {
		place.Parent = f.home
		fields = append(
			fields,
			edit.FieldChange{Field: edit.FieldStatus, New: string(site.StatusLive)},
			edit.FieldChange{Field: edit.FieldListed, New: "no"},
		)
	}
	f.ops = append(f.ops, edit.OpMake{Page: ids[0], Place: place, Fields: fields})
	return ids[0]
}

func (f *founder) pages(name string) {
	f.home = f.page("Home", "<p>Welcome.</p>")
	f.ops = append(f.ops, edit.OpEdit{Page: f.home, Fields: []edit.FieldChange{{Field: edit.FieldTitle, New: name}}})
	special := func(field edit.Field, label, html string) edit.FieldChange {
		return edit.FieldChange{Field: field, New: strconv.FormatInt(int64(f.page(label, html)), 10)}
	}
	chosen := []edit.FieldChange{ // these make their pages, which the settings then name
		special(
			edit.FieldNotFoundPage,
			"Page not found",
			"<p>There is no page at this address. It may have moved; the menu leads to all there is.</p>",
		),
		special(edit.FieldNoAccessPage, "No access", "<p>You are signed in, and this page is not for you.</p>"),
		special(edit.FieldSignInPage, "Sign in", ""),
		special(
			edit.FieldClosedPage,
			"Closed for the moment",
			"<p>We are at work on this site. Please come back in half an hour.</p>",
		),
		{Field: edit.FieldLayout, New: "standard"},
	}
	f.ops = append(f.ops, edit.OpEditSettings{Fields: chosen})
}

// block makes a block and puts it last into a region of every layout that has it.
func (f *founder) block(name, piece, region, title string) {
	block, place := note[site.BlockID](f)(f.st.NewBlockID(f.ctx)), note[site.PlacementID](f)(f.st.NewPlacementID(f.ctx))
	f.ops = append(
		f.ops,
		edit.OpMakeBlock{
			Block:  block,
			Fields: map[edit.Field]string{edit.FieldName: name, edit.FieldPiece: piece, edit.FieldTitle: title},
		},
		edit.OpPutPlacement{Placement: place, Block: block, Slot: edit.Slot{Region: region}},
	)
}

func (f *founder) menu(name, shows string) site.MenuID {
	id := note[site.MenuID](f)(f.st.NewMenuID(f.ctx))
	f.ops = append(f.ops, edit.OpMakeMenu{Menu: id, Name: name})
	f.entry(id, shows, "")
	return id
}

func (f *founder) entry(menu site.MenuID, shows, label string) {
	ids := note[[]site.EntryID](f)(f.st.NewEntryIDs(f.ctx, 1))
	if f.err != nil {
		return
	}
	fields := map[edit.Field]string{edit.FieldShows: shows}
	if label != "" {
		fields[edit.FieldLabel] = label
	}
	f.ops = append(
		f.ops,
		edit.OpPutEntries{Gap: edit.Gap{Menu: menu}, Entries: []edit.EntryForm{{ID: ids[0], Fields: fields}}},
	)
}

func (f *founder) menus() {
	home := strconv.FormatInt(int64(f.home), 10)
	main := f.menu("Main menu", "branch:"+home+":0:beside")
	footer := f.menu("Footer", "page:"+home)
	f.entry(footer, "account:sign-in", "Sign in")
	f.entry(footer, "account:sign-out", "Sign out")
	bar := site.Window{First: 1, Levels: 2, From: site.FromWhole, Unfold: site.UnfoldAll}
	section := site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail}
	whole := site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}
	f.block("Name of the site", "name", "header", "")
	f.block("Who is signed in", "account", "header", "")
	f.block("Header menu", piece.Text(site.BlockMenu{Menu: main, Window: bar}), "header", "Main")
	f.block("Breadcrumb", "breadcrumb", "top", "You are here")
	f.block("Side menu", piece.Text(site.BlockMenu{Menu: main, Window: section}), "left", "In this section")
	f.block("Footer menu", piece.Text(site.BlockMenu{Menu: footer, Window: whole}), "footer", "About this site")
}
