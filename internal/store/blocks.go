package store

import (
	"cmp"
	"context"
	"database/sql"
	"fmt"
	"reflect"
	"slices"

	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
)

// loadBlocks reads blocks and their placements.
func loadBlocks(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	var rows []blockRow
	if err := tx.SelectContext(ctx, &rows, `SELECT id, name, title, titled, heading, type, coalesce(menu_id, 0) AS menu_id, first_level, levels, starts_from,
		coalesce(entry_id, 0) AS entry_id, unfold, coalesce(text_hash, '') AS text_hash, file, alternative FROM blocks ORDER BY id`); err != nil {
		return fmt.Errorf("read blocks: %w", err)
	}
	blocks := make([]site.Block, len(rows))
	for i, row := range rows {
		blocks[i] = row.block()
	}
	placements, err := loadPlacements(ctx, tx)
	b.SetBlocks(blocks, placements)
	return err
}

// A blockRow is a row of blocks.
type blockRow struct {
	ID          site.BlockID `db:"id"`
	Name        string       `db:"name"`
	Title       string       `db:"title"`
	Titled      bool         `db:"titled"`
	Heading     int          `db:"heading"`
	Type        string       `db:"type"`
	Menu        site.MenuID  `db:"menu_id"`
	First       int          `db:"first_level"`
	Levels      int          `db:"levels"`
	From        site.From    `db:"starts_from"`
	Entry       site.EntryID `db:"entry_id"`
	Unfold      site.Unfold  `db:"unfold"`
	Text        string       `db:"text_hash"`
	File        string       `db:"file"`
	Alternative string       `db:"alternative"`
}

func (r blockRow) block() site.Block {
	b := site.Block{ID: r.ID, Name: r.Name, Title: r.Title, Titled: r.Titled, Heading: r.Heading}
	switch r.Type {
	case "menu":
		b.Shows = site.BlockMenu{
			Menu:   r.Menu,
			Window: site.Window{First: r.First, Levels: r.Levels, From: r.From, Entry: r.Entry, Unfold: r.Unfold},
		}
	case "text":
		b.Shows = site.BlockText{Text: r.Text}
	case "account":
		b.Shows = site.BlockAccount{}
	case "name":
		b.Shows = site.BlockName{}
	case "children":
		b.Shows = site.BlockChildren{}
	case "image":
		b.Shows = site.BlockImage{File: r.File, Alternative: r.Alternative}
	default:
		b.Shows = site.BlockBreadcrumb{}
	}
	return b
}

// rowOfBlock writes a block as its row.
func rowOfBlock(b site.Block) blockRow {
	r := blockRow{
		ID:      b.ID,
		Name:    b.Name,
		Title:   b.Title,
		Titled:  b.Titled,
		Heading: b.Heading,
		Type:    "breadcrumb",
		First:   1,
		From:    site.FromTrail,
		Unfold:  site.UnfoldAll,
	}
	switch piece := b.Shows.(type) {
	case site.BlockMenu:
		w := piece.Window
		r.Type, r.Menu, r.First, r.Levels, r.From, r.Entry, r.Unfold = "menu", piece.Menu, w.First, w.Levels, w.From, w.Entry, w.Unfold
	case site.BlockText:
		r.Type, r.Text = "text", piece.Text
	case site.BlockAccount:
		r.Type = "account"
	case site.BlockName:
		r.Type = "name"
	case site.BlockChildren:
		r.Type = "children"
	case site.BlockImage:
		r.Type, r.File, r.Alternative = "image", piece.File, piece.Alternative
	}
	return r
}

func loadPlacements(ctx context.Context, tx *sqlx.Tx) ([]site.Placement, error) {
	rows, err := tx.QueryContext(
		ctx,
		`SELECT id, block_id, region, layout, off, kinds, not_kinds, audience, live_from, live_until FROM placements ORDER BY region COLLATE "C", rank, id`,
	)
	if err != nil {
		return nil, fmt.Errorf("read placements: %w", err)
	}
	defer rows.Close()
	var placements []site.Placement
	types := pgtype.NewMap()
	for rows.Next() {
		var p site.Placement
		var from, until sql.NullTime
		if err := rows.Scan(&p.ID, &p.Block, &p.Region, &p.Layout, &p.Off, types.SQLScanner(&p.Kinds), types.SQLScanner(&p.NotKinds), &p.Audience, &from, &until); err != nil {
			return nil, fmt.Errorf("read placements: %w", err)
		}
		p.LiveFrom, p.LiveUntil = from.Time.UTC(), until.Time.UTC()
		placements = append(placements, p)
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("read placements: %w", err)
	}
	return placements, loadSpots(ctx, tx, placements)
}

func loadSpots(ctx context.Context, tx *sqlx.Tx, placements []site.Placement) error {
	var rows []struct {
		Placement site.PlacementID `db:"placement_id"`
		LeftOut   bool             `db:"left_out"`
		Page      site.PageID      `db:"page_id"`
		Branch    bool             `db:"branch"`
		Pattern   string           `db:"pattern"`
	}
	if err := tx.SelectContext(ctx, &rows, `SELECT placement_id, left_out, coalesce(page_id, 0) AS page_id, branch, pattern FROM placement_spots ORDER BY placement_id, left_out, seq`); err != nil {
		return fmt.Errorf("read conditions: %w", err)
	}
	for _, row := range rows {
		p := &placements[slices.IndexFunc(placements, func(p site.Placement) bool { return p.ID == row.Placement })]
		spot := site.Spot{Page: row.Page, Branch: row.Branch, Pattern: row.Pattern}
		if row.LeftOut {
			p.Except = append(p.Except, spot)
		} else {
			p.Where = append(p.Where, spot)
		}
	}
	return nil
}

// writeBlocks writes the blocks and placements in which two Sites differ.
func writeBlocks(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	for _, p := range was.Placements() {
		if is.Placement(p.ID) == nil {
			if _, err := tx.ExecContext(ctx, `DELETE FROM placements WHERE id = $1`, int64(p.ID)); err != nil {
				return fmt.Errorf("take a block out of a region: %w", err)
			}
		}
	}
	for _, b := range was.Blocks() {
		if is.Block(b.ID) == nil {
			if _, err := tx.ExecContext(ctx, `DELETE FROM blocks WHERE id = $1`, int64(b.ID)); err != nil {
				return fmt.Errorf("take a block away: %w", err)
			}
		}
	}
	for _, b := range is.Blocks() {
		if before := was.Block(b.ID); before == nil || !reflect.DeepEqual(*before, b) {
			if err := writeBlock(ctx, tx, rowOfBlock(b)); err != nil {
				return fmt.Errorf("write the block “%s”: %w", b.Name, err)
			}
		}
	}
	return writePlacements(ctx, tx, was, is)
}

func writeBlock(ctx context.Context, tx *sqlx.Tx, row blockRow) error {
	_, err := tx.NamedExecContext(
		ctx,
		`INSERT INTO blocks (id, name, title, titled, heading, type, menu_id, first_level, levels, starts_from, entry_id, unfold, text_hash, file, alternative)
		VALUES (:id, :name, :title, :titled, :heading, :type, nullif(:menu_id, 0), :first_level, :levels, :starts_from, nullif(:entry_id, 0), :unfold, nullif(:text_hash, ''), :file, :alternative)
		ON CONFLICT (id) DO UPDATE SET name = excluded.name, title = excluded.title, titled = excluded.titled, heading = excluded.heading, type = excluded.type, menu_id = excluded.menu_id,
			first_level = excluded.first_level, levels = excluded.levels, starts_from = excluded.starts_from, entry_id = excluded.entry_id, unfold = excluded.unfold,
			text_hash = excluded.text_hash, file = excluded.file, alternative = excluded.alternative`,
		row,
	)
	return err
}

// writePlacements writes the placements that differ, and the ranks of regions of which the order does.
func writePlacements(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	if reflect.DeepEqual(was.Placements(), is.Placements()) {
		return nil
	}
	ranks, at := site.Ranks(len(is.Placements())), map[site.PlacementID]int{}
	for i, p := range was.Placements() {
		at[p.ID] = i
	}
	for i, p := range is.Placements() {
		before, stood := at[p.ID]
		if stood && before == i && len(was.Placements()) == len(is.Placements()) &&
			reflect.DeepEqual(was.Placements()[before], p) {
			continue
		}
		if err := writePlacement(ctx, tx, p, ranks[i]); err != nil {
			return fmt.Errorf("write the place of a block in “%s”: %w", p.Region, err)
		}
	}
	return nil
}

func writePlacement(ctx context.Context, tx *sqlx.Tx, p site.Placement, rank string) error {
	_, err := tx.ExecContext(
		ctx,
		`INSERT INTO placements (id, block_id, region, rank, layout, off, kinds, not_kinds, audience, live_from, live_until)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
		ON CONFLICT (id) DO UPDATE SET block_id = excluded.block_id, region = excluded.region, rank = excluded.rank, layout = excluded.layout, off = excluded.off,
			kinds = excluded.kinds, not_kinds = excluded.not_kinds, audience = excluded.audience, live_from = excluded.live_from, live_until = excluded.live_until`,
		int64(p.ID),
		int64(p.Block),
		p.Region,
		rank,
		p.Layout,
		p.Off,
		list(p.Kinds),
		list(p.NotKinds),
		string(p.Audience),
		timeOrNull(p.LiveFrom),
		timeOrNull(p.LiveUntil),
	)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM placement_spots WHERE placement_id = $1`, int64(p.ID)); err != nil {
		return err
	}
	for leftOut, spots := range map[bool][]site.Spot{false: p.Where, true: p.Except} {
		for i, spot := range spots {
			if _, err := tx.ExecContext(ctx, `INSERT INTO placement_spots (placement_id, left_out, seq, page_id, branch, pattern) VALUES ($1, $2, $3, nullif($4, 0), $5, $6)`,
				int64(p.ID), leftOut, i, int64(spot.Page), spot.Branch, spot.Pattern); err != nil {
				return err
			}
		}
	}
	return nil
}

// list is an array for the database, which is never null.
func list(words []string) []string {
	if words == nil {
		return []string{}
	}
	return words
}

// writeSettings writes the settings and kinds in which two Sites differ.
func writeSettings(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	if s := is.Settings(); was.Settings() != s {
		if _, err := tx.ExecContext(ctx, `UPDATE site SET not_found = nullif($1, 0), no_access = nullif($2, 0), sign_in_page = nullif($3, 0), closed_page = nullif($4, 0),
			closed = $5, pale_badges = $6, layout = $7, bin_days = $8, register = $9,
			name = $10, language = $11, zone = $12, date_order = $13`, int64(s.NotFound), int64(s.NoAccess), int64(s.SignIn), int64(s.Shut), s.Closed, s.PaleBadges, s.Layout, s.BinDays, s.Register,
			s.Name, s.Language, s.Zone.String(), cmp.Or(s.Dates, site.DatesDayMonth)); err != nil {
			return fmt.Errorf("write the settings: %w", err)
		}
	}
	for i, kind := range is.Kinds() {
		if i < len(was.Kinds()) && was.Kinds()[i] == kind {
			continue
		}
		if _, err := tx.ExecContext(ctx, `UPDATE kinds SET layout = $2 WHERE key = $1`, kind.Key, kind.Layout); err != nil {
			return fmt.Errorf("write a page type: %w", err)
		}
	}
	return nil
}
