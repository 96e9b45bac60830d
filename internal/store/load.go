package store

import (
	"context"
	"database/sql"
	"fmt"
	"strconv"
	"strings"
	"unique"

	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
	"vineladder/internal/theme"
)

// CatchUp brings the published Site to the revision of the tables: the pages changed after the revision at hand are
// read in one snapshot and put into a copy, so a first load and the news of one publication are the same thing.
func (st *Store) CatchUp(ctx context.Context) error {
	st.loading.Lock()
	defer st.loading.Unlock()
	tx, err := st.db.BeginTxx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer tx.Rollback()
	next, err := catchUp(ctx, tx, st.published.Load())
	if err != nil || next == st.published.Load() {
		return err
	}
	st.swap(next)
	return nil
}

// swap shows a newer revision to everyone, never an older one.
func (st *Store) swap(next *Published) {
	for {
		seen := st.published.Load()
		if seen != nil && seen.Revision >= next.Revision && seen.Revision > 0 {
			return
		}
		if st.published.CompareAndSwap(seen, next) {
			st.watchers.tell(News{Revision: next.Revision})
			return
		}
	}
}

type siteRow struct {
	Revision int64         `db:"revision"`
	Name     string        `db:"name"`
	Language string        `db:"language"`
	Zone     string        `db:"zone"`
	NotFound sql.NullInt64 `db:"not_found"`
	NoAccess sql.NullInt64 `db:"no_access"`
	SignIn   sql.NullInt64 `db:"sign_in_page"`
	Shut     sql.NullInt64 `db:"closed_page"`
	Closed   bool          `db:"closed"`
	Layout   string        `db:"layout"`
	Pale     bool          `db:"pale_badges"`
	BinDays  int           `db:"bin_days"`
	Dates    string        `db:"date_order"`
	Register bool          `db:"register"`
}

func catchUp(ctx context.Context, tx *sqlx.Tx, seen *Published) (*Published, error) {
	var row siteRow
	if err := tx.GetContext(ctx, &row, `SELECT revision, name, language, zone, not_found, no_access, sign_in_page, closed_page, closed, layout, pale_badges, bin_days, register, date_order FROM site`); err != nil {
		return nil, fmt.Errorf("read the site; has the database been migrated? %w", err)
	}
	if seen != nil && seen.Revision == row.Revision && row.Revision > 0 {
		return seen, nil
	}
	zone, known := site.LoadZone(row.Zone)
	if !known {
		return nil, fmt.Errorf("the time zone of the site, “%s”, is not known on this machine", row.Zone)
	}
	settings := site.Settings{
		Name: row.Name, Language: row.Language, Zone: zone,
		NotFound: site.PageID(row.NotFound.Int64), NoAccess: site.PageID(row.NoAccess.Int64),
		SignIn: site.PageID(row.SignIn.Int64), Shut: site.PageID(row.Shut.Int64),
		Closed: row.Closed, Layout: row.Layout, PaleBadges: row.Pale, BinDays: row.BinDays, Register: row.Register,
		Dates: site.DateOrder(row.Dates),
	}
	b, after := site.NewBuilder(settings), int64(-1)
	declared, err := theme.Of()
	if err != nil {
		return nil, err
	}
	b.SetTheme(declared)
	if seen != nil {
		b, after = seen.Site.Builder(), seen.Revision
		b.SetSettings(settings)
	}
	if err := loadRoles(ctx, tx, b); err != nil {
		return nil, err
	}
	pages, err := loadPages(ctx, tx, after)
	if err != nil {
		return nil, err
	}
	if err := loadSpells(ctx, tx, after, pages); err != nil {
		return nil, err
	}
	if err := loadLinks(ctx, tx, after, b); err != nil { // before the pages, which are listed by what they link to
		return nil, err
	}
	b.Put(pages...)
	if err := loadKinds(ctx, tx, b); err != nil {
		return nil, err
	}
	if err := loadMenus(ctx, tx, b); err != nil {
		return nil, err
	}
	if err := loadBlocks(ctx, tx, b); err != nil {
		return nil, err
	}
	return &Published{row.Revision, b.Site()}, nil
}

const pageColumns = `id, key, coalesce(parent_id, 0), rank, pin, sort, label, title, summary, kind, coalesce(text_hash, ''),
	segment, segment_follows, own_address, short_addresses, status, live_from, live_until, listed, audience, conceal,
	first_online, binned, revision, coalesce(to_char(date, 'YYYY-MM-DD'), ''), since, binned_at, coalesce(leads_to, 0), purged, changed, layout, branch_layout`

const (
	pagesQuery  = `SELECT ` + pageColumns + ` FROM pages`
	spellsQuery = `SELECT page_id, parent_id, segment, own_address, began, ended FROM page_spells`
	linksQuery  = `SELECT hash, array_to_string(links, ' ') FROM texts WHERE cardinality(links) > 0`
	// changedIDs are the pages that revisions after one have changed, as an array: so they are looked up one by one and
	// the table is not read whole.
	changedIDs = `ANY (ARRAY(SELECT unnest(pages) FROM page_changes WHERE revision > $1))`
)

// LoadQueries are the queries whose answers grow with the site; the benchmark of loading is held against them.
var LoadQueries = []string{pagesQuery + pagesOrder, spellsQuery + spellsOrder, linksQuery}

const (
	pagesOrder  = ` ORDER BY parent_id NULLS FIRST, rank`
	spellsOrder = ` ORDER BY page_id, seq`
)

// querySince runs a query for everything where after is negative, else for what changed after that revision.
func querySince(ctx context.Context, tx *sqlx.Tx, after int64, query, changed, order string) (*sql.Rows, error) {
	if after < 0 {
		return tx.QueryContext(ctx, query+order)
	}
	return tx.QueryContext(ctx, query+changed+order, after)
}

func loadPages(ctx context.Context, tx *sqlx.Tx, after int64) ([]*site.Page, error) {
	rows, err := querySince(ctx, tx, after, pagesQuery, ` WHERE id = `+changedIDs, pagesOrder)
	if err != nil {
		return nil, fmt.Errorf("read pages: %w", err)
	}
	defer rows.Close()
	var pages []*site.Page
	types := pgtype.NewMap()
	for rows.Next() {
		p := &site.Page{}
		var from, until, first, since, binned, changed sql.NullTime
		if err := rows.Scan(&p.ID, &p.Key, &p.Parent, &p.Rank, &p.Pin, &p.Sort, &p.Label, &p.Title, &p.Summary, &p.Kind, &p.Text,
			&p.Segment, &p.SegmentFollows, &p.OwnAddress, types.SQLScanner(&p.ShortAddresses), &p.Status, &from, &until, &p.Listed,
			&p.Audience, &p.Conceal, &first, &p.Binned, &p.Revision, &p.Date, &since, &binned, &p.LeadsTo, &p.Purged, &changed, &p.Layout, &p.BranchLayout); err != nil {
			return nil, fmt.Errorf("read pages: %w", err)
		}
		p.LiveFrom, p.LiveUntil, p.FirstOnline = from.Time.UTC(), until.Time.UTC(), first.Time.UTC()
		p.Since, p.BinnedAt, p.Changed = since.Time.UTC(), binned.Time.UTC(), changed.Time.UTC()
		if len(p.ShortAddresses) == 0 {
			p.ShortAddresses = nil
		}
		share(p)
		pages = append(pages, p)
	}
	return pages, rows.Err()
}

// loadSpells reads where the pages at hand stood before, the oldest first.
func loadSpells(ctx context.Context, tx *sqlx.Tx, after int64, pages []*site.Page) error {
	rows, err := querySince(ctx, tx, after, spellsQuery, ` WHERE page_id = `+changedIDs, spellsOrder)
	if err != nil {
		return fmt.Errorf("read old places: %w", err)
	}
	defer rows.Close()
	spells := map[site.PageID][]site.Spell{}
	for rows.Next() {
		var id site.PageID
		var spell site.Spell
		if err := rows.Scan(&id, &spell.Parent, &spell.Segment, &spell.Own, &spell.From, &spell.Until); err != nil {
			return fmt.Errorf("read old places: %w", err)
		}
		spell.From, spell.Until = spell.From.UTC(), spell.Until.UTC()
		spells[id] = append(spells[id], spell)
	}
	for _, p := range pages {
		p.Spells = spells[p.ID]
	}
	return rows.Err()
}

// loadLinks reads to which pages texts link: all of them at first, so that drafts find theirs, then those of changed
// pages.
func loadLinks(ctx context.Context, tx *sqlx.Tx, after int64, b *site.Builder) error {
	rows, err := querySince(
		ctx,
		tx,
		after,
		linksQuery,
		` AND hash IN (SELECT text_hash FROM pages WHERE id = `+changedIDs+`)`,
		"",
	)
	if err != nil {
		return fmt.Errorf("read links: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var hash, joined string
		if err := rows.Scan(&hash, &joined); err != nil {
			return fmt.Errorf("read links: %w", err)
		}
		var links []site.PageID
		for _, word := range strings.Fields(joined) {
			id, _ := strconv.ParseInt(word, 10, 64)
			links = append(links, site.PageID(id))
		}
		b.KnowText(hash, links)
	}
	return rows.Err()
}

func loadKinds(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	rows, err := tx.QueryContext(ctx, `SELECT key, name, date_name, layout FROM kinds ORDER BY position`)
	if err != nil {
		return fmt.Errorf("read kinds: %w", err)
	}
	defer rows.Close()
	var kinds []site.Kind
	for rows.Next() {
		var kind site.Kind
		if err := rows.Scan(&kind.Key, &kind.Name, &kind.DateName, &kind.Layout); err != nil {
			return fmt.Errorf("read kinds: %w", err)
		}
		kinds = append(kinds, kind)
	}
	b.SetKinds(kinds)
	return rows.Err()
}

// share lets the few values that most pages have stand in memory once.
func share(p *site.Page) {
	p.Kind, p.Layout, p.BranchLayout = once(p.Kind), once(p.Layout), once(p.BranchLayout)
	p.Status, p.Audience, p.Pin, p.Sort = once(p.Status), once(p.Audience), once(p.Pin), once(p.Sort)
}

func once[T ~string](value T) T {
	if value == "" {
		return value
	}
	return unique.Make(value).Value()
}

func loadRoles(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	var rows []struct {
		Key      string `db:"key"`
		Name     string `db:"name"`
		Includes string `db:"includes"`
		Actions  string `db:"actions"`
	}
	err := tx.SelectContext(ctx, &rows, `SELECT key, name,
		coalesce((SELECT string_agg(included, ' ' ORDER BY included) FROM role_includes i WHERE i.role = r.key), '') AS includes,
		coalesce((SELECT string_agg(action, ' ' ORDER BY action) FROM role_actions a WHERE a.role = r.key), '') AS actions
		FROM roles r ORDER BY position`)
	if err != nil {
		return fmt.Errorf("read roles: %w", err)
	}
	roles := make([]site.Role, len(rows))
	for i, row := range rows {
		roles[i] = site.Role{
			Key:      row.Key,
			Name:     row.Name,
			Includes: words[string](row.Includes),
			Actions:  words[site.Action](row.Actions),
		}
	}
	b.SetRoles(roles)
	return nil
}

func loadMenus(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	var menus []site.Menu
	if err := tx.SelectContext(ctx, &menus, `SELECT id, key, name, programs FROM menus ORDER BY position, id`); err != nil {
		return fmt.Errorf("read menus: %w", err)
	}
	byID := map[site.MenuID]*site.Menu{}
	for i := range menus {
		byID[menus[i].ID] = &menus[i]
	}
	var rows []entryRow
	if err := tx.SelectContext(ctx, &rows, `SELECT id, menu_id, coalesce(parent_id, 0) AS parent_id, type, coalesce(page_id, 0) AS page_id, depth, self,
		leads_to, label, hint, off, audience, live_from, live_until, new_tab, badge, badge_pair, badge_before, icon FROM entries ORDER BY menu_id, rank, id`); err != nil {
		return fmt.Errorf("read menu entries: %w", err)
	}
	for _, row := range rows {
		menu := byID[row.Menu]
		menu.Entries = append(menu.Entries, row.entry())
	}
	b.SetMenus(menus)
	return nil
}

// An entryRow is a row of entries.
type entryRow struct {
	ID       site.EntryID  `db:"id"`
	Menu     site.MenuID   `db:"menu_id"`
	Parent   site.EntryID  `db:"parent_id"`
	Type     string        `db:"type"`
	Page     site.PageID   `db:"page_id"`
	Depth    int           `db:"depth"`
	Self     site.Self     `db:"self"`
	LeadsTo  string        `db:"leads_to"`
	Label    string        `db:"label"`
	Hint     string        `db:"hint"`
	Off      bool          `db:"off"`
	Audience site.Audience `db:"audience"`
	From     sql.NullTime  `db:"live_from"`
	Until    sql.NullTime  `db:"live_until"`
	NewTab   bool          `db:"new_tab"`
	Badge    string        `db:"badge"`
	Pair     string        `db:"badge_pair"`
	Before   bool          `db:"badge_before"`
	Icon     string        `db:"icon"`
}

func (r entryRow) entry() site.Entry {
	e := site.Entry{
		ID: r.ID, Parent: r.Parent, Label: r.Label, Hint: r.Hint, Off: r.Off, Audience: r.Audience, LiveFrom: r.From.Time.UTC(),
		LiveUntil: r.Until.Time.UTC(), NewTab: r.NewTab, Badge: site.Badge{Text: r.Badge, Pair: r.Pair, Before: r.Before}, Icon: r.Icon,
	}
	switch r.Type {
	case "page":
		e.Shows = site.ItemPage{Page: r.Page}
	case "branch":
		e.Shows = site.ItemBranch{Root: r.Page, Depth: r.Depth, Self: r.Self}
	case "web":
		e.Shows = site.ItemWeb{Address: r.LeadsTo}
	case "file":
		e.Shows = site.ItemFile{File: r.LeadsTo}
	case "account":
		e.Shows = site.ItemAccount{Does: site.AccountLink(r.LeadsTo)}
	default:
		e.Shows = site.ItemHeading{}
	}
	return e
}

// rowOf writes what an entry shows as its columns.
func rowOf(e site.Entry) (kind string, page site.PageID, depth int, self site.Self, leadsTo string) {
	self = site.SelfNot
	switch to := e.Shows.(type) {
	case site.ItemPage:
		return "page", to.Page, 0, self, ""
	case site.ItemBranch:
		return "branch", to.Root, to.Depth, to.Self, ""
	case site.ItemWeb:
		return "web", 0, 0, self, to.Address
	case site.ItemFile:
		return "file", 0, 0, self, to.File
	case site.ItemAccount:
		return "account", 0, 0, self, string(to.Does)
	}
	return "heading", 0, 0, self, ""
}
