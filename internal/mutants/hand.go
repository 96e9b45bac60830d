package main

import (
	"bytes"
	"fmt"
	"os"
)

// A slip is a mistake in words: what stands in a file once, and what stands there by mistake.
type slip struct{ file, right, wrong string }

func byHand() []mutant {
	var all []mutant
	for _, s := range slips {
		source, err := os.ReadFile(s.file)
		if err != nil {
			panic(err)
		}
		if n := bytes.Count(source, []byte(s.right)); n != 1 {
			panic(
				fmt.Sprintf("%s has “%s” %d times; a mutant by hand must be brought up to date", s.file, s.right, n),
			)
		}
		at := bytes.Index(source, []byte(s.right))
		line := 1 + bytes.Count(source[:at], []byte("\n"))
		broke := bytes.Replace(source, []byte(s.right), []byte(s.wrong), 1)
		all = append(all, mutant{s.file, line, fmt.Sprintf("by hand: “%s” is “%s”", s.right, s.wrong), broke})
	}
	return all
}

const (
	pages      = "internal/store/rows_page.go"
	menus      = "internal/store/rows_menu.go"
	blocks     = "internal/store/rows_block.go"
	settings   = "internal/store/rows_settings.go"
	pageFields = "internal/core/edit/fields_page.go"
)

var slips = []slip{
	{
		pages,
		`instant("live_from", edit.FieldLiveFrom, func(p *page) *time.Time { return &p.LiveFrom })`,
		`instant("live_from", edit.FieldLiveFrom, func(p *page) *time.Time { return &p.LiveUntil })`,
	},
	{pages, `func(p *page) *time.Time { return &p.Since })`, `func(p *page) *time.Time { return &p.Changed })`},
	{pages, "		truth(\"conceal\", edit.FieldConceal, func(p *page) *bool { return &p.Conceal }),\n", ""},
	{
		pages,
		"		few(\"branch_layout\", edit.FieldBranchLayout, func(p *page) *string { return &p.BranchLayout }),\n",
		"",
	},
	{
		pages,
		`few("branch_layout", edit.FieldBranchLayout, func(p *page) *string { return &p.BranchLayout })`,
		`few("branch_layout", edit.FieldBranchLayout, func(p *page) *string { return &p.Layout })`,
	},
	{pages, `p.Spells = of[p.ID]`, `p.Spells = nil`},
	{pages, `order: "page_id, seq", columns`, `order: "seq DESC", columns`},
	{
		menus,
		`func(k *keptEntry) *time.Time { return &k.LiveUntil }`,
		`func(k *keptEntry) *time.Time { return &k.LiveFrom }`,
	},
	{
		menus,
		`func(k *keptEntry) *string { return &k.Badge.Pair }`,
		`func(k *keptEntry) *string { return &k.Badge.Text }`,
	},
	{menus, "			truth(\"off\", edit.FieldOn, func(k *keptEntry) *bool { return &k.Off }),\n", ""},
	{menus, `OR menu_id = ANY ($2::bigint[]) AND NOT id = ANY ($3::bigint[])`, ``},
	{menus, `order: "position, id"`, `order: "id DESC"`},
	{
		blocks,
		`if p := &placements[at[k.Placement]]; k.LeftOut {`,
		`if p := &placements[at[k.Placement]]; !k.LeftOut {`,
	},
	{
		blocks,
		`listed("not_kinds", edit.FieldNotKinds, func(k *keptPlacement) *[]string { return &k.NotKinds })`,
		`listed("not_kinds", edit.FieldNotKinds, func(k *keptPlacement) *[]string { return &k.Kinds })`,
	},
	{blocks, `[][]site.Spot{p.Where, p.Except}`, `[][]site.Spot{p.Except, p.Where}`},
	{
		blocks,
		"	if _, err := tx.ExecContext(ctx, named, ids); err != nil {\n		return fmt.Errorf(\"write where blocks stand: " +
			"%w\", err)\n	}\n",
		"	_ = named\n",
	},
	{
		settings,
		`func(s *settings) *site.PageID { return &s.SignIn }`,
		`func(s *settings) *site.PageID { return &s.Shut }`,
	},
	{
		settings,
		"		truth(\"register\", edit.FieldRegister, func(s *settings) *bool { return &s.Register }),\n",
		"",
	},
	{settings, `columns[1:], []string{}`, `columns[2:], []string{}`},
	{
		pageFields,
		`Fact{Field: FieldTitle, Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Inner}`,
		`Fact{Field: FieldTitle, Needs: site.ActionEdit, Traits: Copied | InSheet | Inner}`,
	},
	{
		pageFields,
		`Fact{Field: FieldSummary, Needs: site.ActionEdit, Traits: Copied | Purged | InSheet | Inner}`,
		`Fact{Field: FieldSummary, Needs: site.ActionEdit, Traits: Purged | InSheet | Inner}`,
	},
	{
		pageFields,
		`Fact{Field: FieldAudience, Needs: site.ActionAdmit, Traits: Copied | InSheet | Placing | ForMany}`,
		`Fact{Field: FieldAudience, Traits: Copied | InSheet | Placing | ForMany}`,
	},
	{
		pageFields,
		`Fact{Field: FieldListed, Words: "place in menus", Traits: Copied | InSheet | HomeFixed | Placing | ForMany}`,
		`Fact{Field: FieldListed, Words: "place in menus", Traits: Copied | InSheet | HomeFixed | ForMany}`,
	},
	{
		pageFields,
		`Fact{Field: FieldPin, Words: "pin at an end of the order", Traits: InSheet | HomeFixed | Ordering | ForMany}`,
		`Fact{Field: FieldPin, Words: "pin at an end of the order", Traits: InSheet | HomeFixed | ForMany}`,
	},
	{
		pageFields,
		`Fact{Field: FieldLayout, Needs: site.ActionPlace, Traits: InSheet | Laying | ForMany}`,
		`Fact{Field: FieldLayout, Needs: site.ActionPlace, Traits: InSheet | ForMany}`,
	},
	{
		pageFields,
		`instant(), func(p *site.Page) *time.Time { return &p.LiveUntil }`,
		`instant(), func(p *site.Page) *time.Time { return &p.LiveFrom }`,
	},
	{
		"internal/core/edit/fields_block.go",
		`spots(), func(p *site.Placement) *[]site.Spot { return &p.Except }`,
		`spots(), func(p *site.Placement) *[]site.Spot { return &p.Where }`,
	},
	{
		"internal/core/edit/fields_block.go",
		`words(), func(p *site.Placement) *[]string { return &p.NotKinds }`,
		`words(), func(p *site.Placement) *[]string { return &p.Kinds }`,
	},
	{
		"internal/core/edit/fields_item.go",
		`Fact{Field: FieldShows, Words: "target", Traits: Naming}`,
		`Fact{Field: FieldShows, Words: "target"}`,
	},
	{
		"internal/core/edit/fields_item.go",
		`flag(), func(e *site.Entry) *bool { return &e.NewTab }`,
		`flag(), func(e *site.Entry) *bool { return &e.Badge.Before }`,
	},
	{"internal/core/edit/op.go", `as[OpBin](), as[OpRestore](),`, `as[OpBin](),`},
	{
		"internal/core/edit/op.go",
		`as[OpMakeKind](), as[OpTakeKind](), as[OpEditKind](),`,
		`as[OpMakeKind](), as[OpTakeKind](),`,
	},
	{"internal/core/edit/op_move.go", `sets: []tie{pageTie(o.Page).of(fieldPlace)},`, ``},
	{
		"internal/core/edit/op_entry.go",
		`uses: append([]tie{itemTie(o.Entry)}, o.To.ties()...),`,
		`uses: []tie{itemTie(o.Entry)},`,
	},
	{
		"internal/core/piece/piece.go",
		`var types = []Type{text(), menu(), breadcrumb(), children(), ofPages(), search(), image(), account(), name()}`,
		`var types = []Type{text(), menu(), breadcrumb(), children(), ofPages(), search(), image(), account()}`,
	},
	{
		"internal/core/target/target.go",
		`var types = []Type{page(), branch(), web(), file(), account(), heading()}`,
		`var types = []Type{page(), web(), file(), account(), heading()}`,
	},
	{"internal/core/piece/breadcrumb.go", `on.Parent != 0`, `true`},
	{"internal/core/target/account.go", `lens.SignedIn != does.ForSignedIn()`, `lens.SignedIn == does.ForSignedIn()`},
	{
		"internal/formats/sheet/sheet.go",
		`		return writeMoment(s, p.LiveUntil)`,
		`		return writeMoment(s, p.LiveFrom)`,
	},
	{
		"internal/store/before.go",
		`WHEN 'file' THEN jsonb_build_object('file', leads_to)`,
		`WHEN 'file' THEN jsonb_build_object('address', leads_to)`,
	},
	{"internal/store/version.go", `case has < firstVersion:`, `case has < 0:`},
}
