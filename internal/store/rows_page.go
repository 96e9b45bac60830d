package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

type page = site.Page

// pageRow is how pages are kept. A segment is two columns; key, rank and the like are no fields.
func pageRow() row[page] {
	date := phrase("date", edit.FieldDate, func(p *page) *string { return &p.Date })
	date.reads, date.stored = `coalesce(to_char(date, 'YYYY-MM-DD'), '')`, `nullif(date, '')::date`
	hash := phrase("text_hash", edit.FieldText, func(p *page) *string { return &p.Text })
	hash.reads, hash.stored = `coalesce(text_hash, '')`, `nullif(text_hash, '')`
	details := phrase("details", edit.FieldDetails, func(p *page) *site.Values { return &p.Values })
	details.reads, details.stored = `coalesce(details::text, '')`, `nullif(details, '')::json`
	return row[page]{table: "pages", key: "id", order: "parent_id NULLS FIRST, rank", columns: []column[page]{
		number("id", "", func(p *page) *site.PageID { return &p.ID }),
		phrase("key", "", func(p *page) *string { return &p.Key }),
		reference("parent_id", "", func(p *page) *site.PageID { return &p.Parent }),
		phrase("rank", "", func(p *page) *string { return &p.Rank }),
		few("pin", edit.FieldPin, func(p *page) *site.Pin { return &p.Pin }),
		few("sort", edit.FieldSort, func(p *page) *site.SortRule { return &p.Sort }),
		phrase("label", edit.FieldLabel, func(p *page) *string { return &p.Label }),
		phrase("title", edit.FieldTitle, func(p *page) *string { return &p.Title }),
		phrase("summary", edit.FieldSummary, func(p *page) *string { return &p.Summary }),
		few("kind", edit.FieldKind, func(p *page) *string { return &p.Kind }),
		hash,
		date,
		phrase("segment", edit.FieldSegment, func(p *page) *string { return &p.Segment }),
		truth("segment_follows", edit.FieldSegment, func(p *page) *bool { return &p.SegmentFollows }),
		phrase("own_address", edit.FieldOwnAddress, func(p *page) *string { return &p.OwnAddress }),
		listed("short_addresses", edit.FieldShortAddresses, func(p *page) *[]string { return &p.ShortAddresses }),
		few("status", edit.FieldStatus, func(p *page) *site.Status { return &p.Status }),
		instant("live_from", edit.FieldLiveFrom, func(p *page) *time.Time { return &p.LiveFrom }),
		instant("live_until", edit.FieldLiveUntil, func(p *page) *time.Time { return &p.LiveUntil }),
		truth("listed", edit.FieldListed, func(p *page) *bool { return &p.Listed }),
		few("audience", edit.FieldAudience, func(p *page) *site.Audience { return &p.Audience }),
		truth("conceal", edit.FieldConceal, func(p *page) *bool { return &p.Conceal }),
		truth("kept_out", edit.FieldKeptOut, func(p *page) *bool { return &p.KeptOut }),
		truth("second_person", edit.FieldSecondPerson, func(p *page) *bool { return &p.SecondPerson }),
		few("layout", edit.FieldLayout, func(p *page) *string { return &p.Layout }),
		few("branch_layout", edit.FieldBranchLayout, func(p *page) *string { return &p.BranchLayout }),
		details,
		phrase("bytes", edit.FieldBytes, func(p *page) *string { return &p.Bytes }),
		phrase("listing", edit.FieldListing, func(p *page) *string { return &p.Listing }),
		numbers("topics", edit.FieldTopics, func(p *page) *[]site.PageID { return &p.Topics }),
		listed("other_labels", edit.FieldOtherLabels, func(p *page) *[]string { return &p.OtherLabels }),
		listed("hidden_labels", edit.FieldHiddenLabels, func(p *page) *[]string { return &p.HiddenLabels }),
		phrase("scope_note", edit.FieldScopeNote, func(p *page) *string { return &p.ScopeNote }),
		reference("merged_into", edit.FieldMergedInto, func(p *page) *site.PageID { return &p.MergedInto }),
		few("owner", edit.FieldOwner, func(p *page) *site.Owner { return &p.Owner }),
		few("review", edit.FieldReview, func(p *page) *site.ReviewEvery { return &p.Review }),
		phrase("note", edit.FieldNote, func(p *page) *string { return &p.Note }),
		instant("first_online", "", func(p *page) *time.Time { return &p.FirstOnline }),
		instant("since", "", func(p *page) *time.Time { return &p.Since }),
		truth("binned", "", func(p *page) *bool { return &p.Binned }),
		instant("binned_at", "", func(p *page) *time.Time { return &p.BinnedAt }),
		reference("leads_to", edit.FieldLeadsTo, func(p *page) *site.PageID { return &p.LeadsTo }),
		truth("purged", "", func(p *page) *bool { return &p.Purged }),
		instant("worded", "", func(p *page) *time.Time { return &p.Worded }),
		instant("changed", "", func(p *page) *time.Time { return &p.Changed }),
		number("revision", "", func(p *page) *int64 { return &p.Revision }),
	}}
}

// A keptSpell is where a page stood, with its number in the order of time.
type keptSpell struct {
	Page site.PageID
	Seq  int
	site.Spell
}

func spellRow() row[keptSpell] {
	return row[keptSpell]{table: "page_spells", key: "page_id, seq", order: "page_id, seq", columns: []column[keptSpell]{
		number("page_id", "", func(k *keptSpell) *site.PageID { return &k.Page }),
		number("seq", "", func(k *keptSpell) *int { return &k.Seq }),
		number("parent_id", "", func(k *keptSpell) *site.PageID { return &k.Parent }),
		phrase("segment", "", func(k *keptSpell) *string { return &k.Segment }),
		phrase("own_address", "", func(k *keptSpell) *string { return &k.Own }),
		instant("began", "", func(k *keptSpell) *time.Time { return &k.From }),
		instant("ended", "", func(k *keptSpell) *time.Time { return &k.Until }),
	}}
}

// changedIDs are the pages that revisions after one have changed, as an array: so they are looked up one by one and
// the table is not read whole.
const changedIDs = `ANY (ARRAY(SELECT unnest(pages) FROM page_changes WHERE revision > $1))`

// loadSince reads everything where after is negative, else what changed after that revision; on names the pages.
func loadSince[T any](ctx context.Context, tx *sqlx.Tx, r row[T], on string, after int64) ([]*T, error) {
	if after < 0 {
		return r.load(ctx, tx, "")
	}
	return r.load(ctx, tx, " WHERE "+on+" = "+changedIDs, after)
}

// loadPages reads pages with where they stood before, the oldest first.
func loadPages(ctx context.Context, tx *sqlx.Tx, after int64) ([]*page, error) {
	pages, err := loadSince(ctx, tx, pageRow(), "id", after)
	if err != nil {
		return nil, err
	}
	spells, err := loadSince(ctx, tx, spellRow(), "page_id", after)
	if err != nil {
		return nil, err
	}
	of := map[site.PageID][]site.Spell{}
	for _, k := range spells {
		of[k.Page] = append(of[k.Page], k.Spell)
	}
	for _, p := range pages {
		p.Spells = of[p.ID]
	}
	return pages, nil
}

// writePages inserts pages that the tables don't have and updates the others, and adds the spells that ended with this
// publication; those before are there.
func writePages(ctx context.Context, tx *sqlx.Tx, was *site.Site, pages []*page) error {
	var made, changed, before []*page
	var spells []*keptSpell
	for _, p := range pages {
		known := 0
		if old := was.Page(p.ID); old == nil {
			made = append(made, p)
		} else {
			changed, before, known = append(changed, p), append(before, old), len(old.Spells)
		}
		for i, spell := range p.Spells[known:] {
			spells = append(spells, &keptSpell{p.ID, known + i, spell})
		}
	}
	r := pageRow()
	if err := r.insert(ctx, tx, made); err != nil {
		return err
	}
	if err := r.update(ctx, tx, before, changed); err != nil {
		return err
	}
	return spellRow().insert(ctx, tx, spells)
}
