package store

import (
	"context"
	"fmt"
	"reflect"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
)

// A keptBlock is a block, with what it shows as type and settings.
type keptBlock struct {
	site.Block
	Type     string
	Settings string // JSON
}

func blockRow() row[keptBlock] {
	settings := phrase("settings", edit.FieldPiece, func(k *keptBlock) *string { return &k.Settings })
	settings.reads, settings.stored = "settings::text", "settings::jsonb"
	return row[keptBlock]{
		table: "blocks", key: "id", order: "id",
		read: func(k *keptBlock) (err error) { k.Shows, err = piece.Decode(k.Type, []byte(k.Settings)); return err },
		columns: []column[keptBlock]{
			number("id", "", func(k *keptBlock) *site.BlockID { return &k.ID }),
			phrase("name", edit.FieldName, func(k *keptBlock) *string { return &k.Name }),
			phrase("title", edit.FieldTitle, func(k *keptBlock) *string { return &k.Title }),
			truth("titled", edit.FieldTitled, func(k *keptBlock) *bool { return &k.Titled }),
			number("heading", edit.FieldHeading, func(k *keptBlock) *int { return &k.Heading }),
			phrase("type", edit.FieldPiece, func(k *keptBlock) *string { return &k.Type }),
			settings,
		},
	}
}

// A keptPlacement is a placement with its rank; the pages and addresses that it names are rows of their own.
type keptPlacement struct {
	site.Placement
	Rank string
}

func placementRow() row[keptPlacement] {
	return row[keptPlacement]{
		table: "placements", key: "id", order: `region COLLATE "C", rank, id`,
		columns: []column[keptPlacement]{
			number("id", "", func(k *keptPlacement) *site.PlacementID { return &k.ID }),
			number("block_id", "", func(k *keptPlacement) *site.BlockID { return &k.Block }),
			phrase("region", "", func(k *keptPlacement) *string { return &k.Region }),
			phrase("rank", "", func(k *keptPlacement) *string { return &k.Rank }),
			phrase("layout", edit.FieldLayout, func(k *keptPlacement) *string { return &k.Layout }),
			truth("off", edit.FieldOn, func(k *keptPlacement) *bool { return &k.Off }),
			reference("set_id", edit.FieldSet, func(k *keptPlacement) *site.SetID { return &k.Set }),
			listed("kinds", edit.FieldKinds, func(k *keptPlacement) *[]string { return &k.Kinds }),
			listed("not_kinds", edit.FieldNotKinds, func(k *keptPlacement) *[]string { return &k.NotKinds }),
			phrase("audience", edit.FieldAudience, func(k *keptPlacement) *site.Audience { return &k.Audience }),
			instant("live_from", edit.FieldLiveFrom, func(k *keptPlacement) *time.Time { return &k.LiveFrom }),
			instant("live_until", edit.FieldLiveUntil, func(k *keptPlacement) *time.Time { return &k.LiveUntil }),
		},
	}
}

// A keptSpot is a page or a pattern that a placement names, or leaves out.
type keptSpot struct {
	Placement site.PlacementID
	LeftOut   bool
	Seq       int
	site.Spot
}

func spotRow() row[keptSpot] {
	return row[keptSpot]{
		table: "placement_spots", key: "placement_id, left_out, seq", order: "placement_id, left_out, seq",
		columns: []column[keptSpot]{
			number("placement_id", "", func(k *keptSpot) *site.PlacementID { return &k.Placement }),
			truth("left_out", edit.FieldExcept, func(k *keptSpot) *bool { return &k.LeftOut }),
			number("seq", "", func(k *keptSpot) *int { return &k.Seq }),
			reference("page_id", edit.FieldWhere, func(k *keptSpot) *site.PageID { return &k.Page }),
			truth("branch", edit.FieldWhere, func(k *keptSpot) *bool { return &k.Branch }),
			truth("topic", edit.FieldWhere, func(k *keptSpot) *bool { return &k.Topic }),
			phrase("pattern", edit.FieldWhere, func(k *keptSpot) *string { return &k.Pattern }),
		},
	}
}

func loadBlocks(ctx context.Context, tx *sqlx.Tx) ([]site.Block, error) {
	rows, err := blockRow().load(ctx, tx, "")
	blocks := make([]site.Block, len(rows))
	for i, k := range rows {
		blocks[i] = k.Block
	}
	return blocks, err
}

func loadPlacements(ctx context.Context, tx *sqlx.Tx) ([]site.Placement, error) {
	rows, err := placementRow().load(ctx, tx, "")
	if err != nil {
		return nil, err
	}
	spots, err := spotRow().load(ctx, tx, "")
	placements, at := make([]site.Placement, len(rows)), map[site.PlacementID]int{}
	for i, k := range rows {
		placements[i], at[k.ID] = k.Placement, i
	}
	for _, k := range spots {
		if p := &placements[at[k.Placement]]; k.LeftOut {
			p.Except = append(p.Except, k.Spot)
		} else {
			p.Where = append(p.Where, k.Spot)
		}
	}
	return placements, err
}

// A keptSet is a condition set, with what it names as edit.SpotsText writes it.
type keptSet struct {
	site.ConditionSet
	Named, LeftOut string
}

func setRow() row[keptSet] {
	return row[keptSet]{
		table: "condition_sets", key: "id", order: "id",
		columns: []column[keptSet]{
			number("id", "", func(k *keptSet) *site.SetID { return &k.ID }),
			phrase("name", edit.FieldName, func(k *keptSet) *string { return &k.Name }),
			phrase("named", edit.FieldWhere, func(k *keptSet) *string { return &k.Named }),
			phrase("left_out", edit.FieldExcept, func(k *keptSet) *string { return &k.LeftOut }),
			listed("kinds", edit.FieldKinds, func(k *keptSet) *[]string { return &k.Kinds }),
			listed("not_kinds", edit.FieldNotKinds, func(k *keptSet) *[]string { return &k.NotKinds }),
		},
	}
}

func loadSets(ctx context.Context, tx *sqlx.Tx) ([]site.ConditionSet, error) {
	rows, err := setRow().load(ctx, tx, "")
	if len(rows) == 0 {
		return nil, err
	}
	sets := make([]site.ConditionSet, len(rows))
	for i, k := range rows {
		sets[i] = k.ConditionSet
		sets[i].Where, sets[i].Except = edit.KeptSpots(k.Named), edit.KeptSpots(k.LeftOut)
	}
	return sets, err
}

// writeSets writes the condition sets that differ, and takes those away that are gone, which no placement has any more.
func writeSets(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	var written []*keptSet
	for _, set := range is.ConditionSets() {
		if before := was.ConditionSet(set.ID); before == nil || !reflect.DeepEqual(*before, set) {
			written = append(written, &keptSet{set, edit.SpotsText(set.Where), edit.SpotsText(set.Except)})
		}
	}
	if err := setRow().save(ctx, tx, written); err != nil {
		return err
	}
	var gone []int64
	for _, set := range was.ConditionSets() {
		if is.ConditionSet(set.ID) == nil {
			gone = append(gone, int64(set.ID))
		}
	}
	return remove(ctx, tx, "condition_sets", gone)
}

// writeBlocks writes the blocks and placements in which two Sites differ.
func writeBlocks(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	var out, gone []int64
	for _, p := range was.Placements() {
		if is.Placement(p.ID) == nil {
			out = append(out, int64(p.ID))
		}
	}
	for _, b := range was.Blocks() {
		if is.Block(b.ID) == nil {
			gone = append(gone, int64(b.ID))
		}
	}
	if err := remove(ctx, tx, "placements", out); err != nil {
		return err
	}
	if err := remove(ctx, tx, "blocks", gone); err != nil {
		return err
	}
	var written []*keptBlock
	for _, b := range is.Blocks() {
		if before := was.Block(b.ID); before != nil && reflect.DeepEqual(*before, b) {
			continue
		}
		key, settings, err := piece.Encode(b.Shows)
		if err != nil {
			return fmt.Errorf("write the block “%s”: %w", b.Name, err)
		}
		written = append(written, &keptBlock{b, key, string(settings)})
	}
	if err := blockRow().save(ctx, tx, written); err != nil {
		return err
	}
	if err := writePlacements(ctx, tx, was.Placements(), is.Placements()); err != nil {
		return err
	}
	return writeSets(ctx, tx, was, is)
}

// writePlacements writes the placements that differ, or stand elsewhere among all.
func writePlacements(ctx context.Context, tx *sqlx.Tx, was, is []site.Placement) error {
	ranks := site.Ranks(len(is))
	var written []*keptPlacement
	var spots []*keptSpot
	var ids []int64
	for i, p := range is {
		if len(was) == len(is) && reflect.DeepEqual(was[i], p) {
			continue
		}
		written, ids = append(written, &keptPlacement{p, ranks[i]}), append(ids, int64(p.ID))
		for leftOut, named := range [][]site.Spot{p.Where, p.Except} {
			for seq, spot := range named {
				spots = append(spots, &keptSpot{p.ID, leftOut == 1, seq, spot})
			}
		}
	}
	if len(written) == 0 {
		return nil
	}
	if err := placementRow().save(ctx, tx, written); err != nil {
		return err
	}
	const named = `DELETE FROM placement_spots WHERE placement_id = ANY ($1::bigint[])`
	if _, err := tx.ExecContext(ctx, named, ids); err != nil {
		return fmt.Errorf("write where blocks stand: %w", err)
	}
	return spotRow().insert(ctx, tx, slices.Clip(spots))
}
