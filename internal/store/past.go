package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
)

// A Past is the site as it was at a publication: content as it was, with today's theme.
type Past struct {
	Published
	At     time.Time // of the publication
	By     string
	Said   []string
	Reason string
	Gone   int // pages that were there and whose words are gone for good since
}

// pastTables are the tables that are kept whole where a publication changes them, by what says that it does. A table
// that is named by another one comes first.
var pastTables = []struct {
	names   []string
	differs func(was, is *site.Site) bool
}{
	{[]string{"site"}, func(was, is *site.Site) bool { return was.Settings() != is.Settings() }},
	{[]string{"roles"}, func(was, is *site.Site) bool { return !site.SameRoles(was, is) }},
	{[]string{"kinds"}, func(was, is *site.Site) bool { return !slices.Equal(was.Kinds(), is.Kinds()) }},
	{[]string{"details"}, func(was, is *site.Site) bool { return !slices.Equal(was.AllDetails(), is.AllDetails()) }},
	{[]string{"menus", "entries"}, func(was, is *site.Site) bool {
		return !reflect.DeepEqual(was.Menus(), is.Menus())
	}},
	{[]string{"condition_sets"}, func(was, is *site.Site) bool {
		return !reflect.DeepEqual(was.ConditionSets(), is.ConditionSets())
	}},
	{[]string{"blocks", "placements", "placement_spots"}, func(was, is *site.Site) bool {
		return !reflect.DeepEqual(was.Blocks(), is.Blocks()) || !reflect.DeepEqual(was.Placements(), is.Placements())
	}},
}

// keepPast keeps the rows that a revision is about to change, and when that is.
func keepPast(
	ctx context.Context, tx *sqlx.Tx, was, is *site.Site, revision int64, at time.Time, changed []*site.Page,
) error {
	ids := make([]int64, len(changed))
	for i, p := range changed {
		ids[i] = int64(p.ID)
	}
	for _, statement := range []string{
		`INSERT INTO past_pages SELECT $1, false, false, p.* FROM pages p WHERE p.id = ANY ($2)`,
		`INSERT INTO past_pages (past_revision, past_absent, past_purged, id) SELECT $1, true, false, c.id
			FROM unnest($2::bigint[]) AS c (id) WHERE NOT EXISTS (SELECT FROM pages p WHERE p.id = c.id)`,
		`INSERT INTO past_spells SELECT $1, s.* FROM page_spells s WHERE s.page_id = ANY ($2)`,
	} {
		if _, err := tx.ExecContext(ctx, statement, revision, ids); err != nil {
			return fmt.Errorf("keep pages as they were: %w", err)
		}
	}
	for _, of := range pastTables {
		if !of.differs(was, is) {
			continue
		}
		for _, name := range of.names {
			as := `to_json(t)` // which leaves the settings of things as they are written
			if name == "site" {
				as = `(to_jsonb(t) - 'secret')::json`
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO past_tables (revision, name, rows)
				SELECT $1, $2, coalesce(json_agg(`+as+`), '[]') FROM `+name+` t`, revision, name); err != nil {
				return fmt.Errorf("keep the %s as they were: %w", name, err)
			}
		}
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO moments (revision, at) VALUES ($1, $2)`, revision, at); err != nil {
		return fmt.Errorf("keep when the site changed: %w", err)
	}
	return nil
}

// forgetPast takes the words of pages whose bin was emptied out of the past.
func forgetPast(ctx context.Context, tx *sqlx.Tx, pages []*site.Page) error {
	ids := make([]int64, len(pages))
	for i, p := range pages {
		ids[i] = int64(p.ID)
	}
	for _, statement := range []string{
		`WITH gone AS (DELETE FROM past_pages WHERE id = ANY ($1) AND NOT past_absent RETURNING past_revision, id)
			INSERT INTO past_pages (past_revision, past_absent, past_purged, id)
			SELECT past_revision, false, true, id FROM gone`,
		`DELETE FROM past_spells WHERE page_id = ANY ($1)`,
	} {
		if _, err := tx.ExecContext(ctx, statement, ids); err != nil {
			return fmt.Errorf("take words out of the past: %w", err)
		}
	}
	return nil
}

// ErrNoPast is a moment before the past begins.
var ErrNoPast = errors.New("nothing is kept of what was public then")

// pastsKept are the past sites that are kept at hand.
const pastsKept = 4

// Then gives the site as it was public at a moment. The error is ErrNoPast where the past does not reach back so far.
func (st *Store) Then(ctx context.Context, at time.Time) (*Past, error) {
	var revision int64
	err := st.db.GetContext(
		ctx,
		&revision,
		`SELECT revision FROM moments WHERE at <= $1 ORDER BY revision DESC LIMIT 1`,
		at,
	)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNoPast
	}
	if err != nil {
		return nil, fmt.Errorf("find what was public: %w", err)
	}
	return st.PastAt(ctx, revision)
}

// PastBegins gives the first moment of which the site is kept as it was.
func (st *Store) PastBegins(ctx context.Context) (begins time.Time, err error) {
	if err := st.db.GetContext(ctx, &begins, `SELECT min(at) FROM moments`); err != nil {
		return begins, fmt.Errorf("find where the past begins: %w", err)
	}
	return begins, nil
}

// PastAt gives the site as it was at a revision. A purge since then leaves out what it took.
func (st *Store) PastAt(ctx context.Context, revision int64) (*Past, error) {
	newest := st.Published()
	st.careful.Lock()
	for _, kept := range st.pasts {
		if kept.past.Revision == revision && kept.of == newest {
			st.careful.Unlock()
			return kept.past, nil
		}
	}
	st.careful.Unlock()
	made, err := st.rebuild(ctx, newest, revision)
	if err != nil {
		return nil, err
	}
	st.careful.Lock()
	st.pasts = slices.Insert(st.pasts, 0, keptPast{newest, made})
	st.pasts = st.pasts[:min(len(st.pasts), pastsKept)]
	st.careful.Unlock()
	return made, nil
}

// A keptPast is a past site, made from what was the newest then.
type keptPast struct {
	of   *Published
	past *Past
}

// rebuild puts the rows that were changed since a revision back, in tables of the transaction's own that stand before
// those of today, and reads them by the code that reads those.
func (st *Store) rebuild(ctx context.Context, newest *Published, revision int64) (*Past, error) {
	made := &Past{Published: Published{Revision: revision}}
	tx, err := st.unprepared.BeginTxx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead})
	if err != nil {
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	defer tx.Rollback() // nothing of it stays
	row := tx.QueryRowxContext(
		ctx,
		`SELECT m.at, coalesce(p.by_name, ''), coalesce(array_to_string(p.said, E'\n'), ''),
		coalesce(p.reason, '') FROM moments m LEFT JOIN publications p USING (revision) WHERE m.revision = $1`,
		revision,
	)
	var said string
	switch err := row.Scan(&made.At, &made.By, &said, &made.Reason); {
	case errors.Is(err, sql.ErrNoRows):
		return nil, ErrNoPast
	case err != nil:
		return nil, fmt.Errorf("find what was public: %w", err)
	}
	made.Said = strings.FieldsFunc(said, func(r rune) bool { return r == '\n' })
	today, err := catchUp(ctx, tx, newest)
	if err != nil {
		return nil, err
	}
	if revision >= today.Revision {
		made.Published = *today
		return made, nil
	}
	absent, err := putBackPages(ctx, tx, revision, made)
	if err != nil {
		return nil, err
	}
	if err := putBackTables(ctx, tx, revision); err != nil {
		return nil, err
	}
	made.Site, err = readPast(ctx, tx, today.Site, absent)
	return made, err
}

// unprepared gives a way to the database on which no statement is prepared: one that was would go on reading the table
// that it was prepared for.
func unprepared(url string) (*sqlx.DB, error) {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("read the address of the database: %w", err)
	}
	config.DefaultQueryExecMode = pgx.QueryExecModeExec
	db := sqlx.NewDb(stdlib.OpenDB(*config), "pgx")
	db.SetMaxOpenConns(2)
	db.SetConnMaxIdleTime(time.Minute)
	return db, nil
}

// putBackPages makes tables of the pages that changed since a revision, as they were then, and gives those that were
// not there.
func putBackPages(ctx context.Context, tx *sqlx.Tx, revision int64, made *Past) (absent []site.PageID, err error) {
	for _, statement := range []string{
		`CREATE TEMP TABLE then_first ON COMMIT DROP AS SELECT id, min(past_revision) AS past_revision FROM past_pages
			WHERE past_revision > ` + fmt.Sprint(revision) + ` GROUP BY id`,
		`ANALYZE then_first`,
		`CREATE TEMP VIEW pages AS SELECT p.* FROM then_first f JOIN past_pages p
			ON p.id = f.id AND p.past_revision = f.past_revision WHERE NOT p.past_absent AND NOT p.past_purged`,
		`CREATE TEMP VIEW page_spells AS SELECT s.* FROM then_first f JOIN past_spells s
			ON s.page_id = f.id AND s.past_revision = f.past_revision`,
	} {
		if _, err := tx.ExecContext(ctx, statement); err != nil {
			return nil, fmt.Errorf("read pages as they were: %w", err)
		}
	}
	var others []struct {
		ID     site.PageID `db:"id"`
		Purged bool        `db:"past_purged"`
	}
	if err := tx.SelectContext(ctx, &others, `SELECT p.id, p.past_purged FROM then_first f JOIN past_pages p
		ON p.id = f.id AND p.past_revision = f.past_revision WHERE p.past_absent OR p.past_purged`); err != nil {
		return nil, fmt.Errorf("read pages as they were: %w", err)
	}
	for _, p := range others {
		if p.Purged {
			made.Gone++
		} else {
			absent = append(absent, p.ID)
		}
	}
	return absent, nil
}

// putBackTables makes tables of what changed since a revision besides pages. Columns that came later have what new
// rows have in them.
func putBackTables(ctx context.Context, tx *sqlx.Tx, revision int64) error {
	var kept []struct {
		Name string `db:"name"`
		Rows []byte `db:"rows"`
	}
	if err := tx.SelectContext(ctx, &kept, `SELECT DISTINCT ON (name) name, rows FROM past_tables WHERE revision > $1
		ORDER BY name, revision`, revision); err != nil {
		return fmt.Errorf("read the site as it was: %w", err)
	}
	for _, table := range kept {
		var columns []string
		if err := tx.SelectContext(ctx, &columns, `SELECT DISTINCT quote_ident(k)
			FROM json_array_elements($1::json) AS r, json_object_keys(r) AS k
			WHERE k IN (SELECT column_name FROM information_schema.columns
				WHERE table_schema = 'public' AND table_name = $2)`, string(table.Rows), table.Name); err != nil {
			return fmt.Errorf("read the %s as they were: %w", table.Name, err)
		}
		if _, err := tx.ExecContext(ctx, `CREATE TEMP TABLE `+table.Name+` (LIKE public.`+table.Name+
			` INCLUDING DEFAULTS) ON COMMIT DROP`); err != nil {
			return fmt.Errorf("read the %s as they were: %w", table.Name, err)
		}
		if len(columns) == 0 {
			continue // it was empty
		}
		names := strings.Join(columns, ", ")
		if _, err := tx.ExecContext(ctx, `INSERT INTO pg_temp.`+table.Name+` (`+names+`) SELECT `+names+
			` FROM json_populate_recordset(NULL::public.`+table.Name+`, $1::json)`, string(table.Rows)); err != nil {
			return fmt.Errorf("read the %s as they were: %w", table.Name, err)
		}
	}
	return nil
}

// readPast makes today's Site that of the tables that stand before today's.
func readPast(ctx context.Context, tx *sqlx.Tx, today *site.Site, absent []site.PageID) (*site.Site, error) {
	b := today.Builder()
	kept, err := loadSettings(ctx, tx)
	if err != nil {
		return nil, err
	}
	pages, err := loadPages(ctx, tx, -1)
	if err != nil {
		return nil, err
	}
	b.Put(pages...)
	for _, id := range absent {
		b.Remove(id)
	}
	b.SetSettings(kept.Settings)
	if err := loadFurniture(ctx, tx, b); err != nil {
		return nil, err
	}
	return b.Site(), nil
}
