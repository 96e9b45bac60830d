package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// A Foundation is what a site has before its first page.
type Foundation struct {
	Settings site.Settings
	Roles    []site.Role
	Kinds    []site.Kind
}

// IsEmpty says whether the database has no page yet.
func (st *Store) IsEmpty() bool { return st.Published().Site.Home() == 0 }

// Found writes settings and roles into a database without pages.
func (st *Store) Found(ctx context.Context, f Foundation) error {
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE site SET name = $1, language = $2, zone = $3`,
			f.Settings.Name, f.Settings.Language, f.Settings.Zone.String()); err != nil {
			return err
		}
		roles := make([]*keptRole, len(f.Roles))
		for i, role := range f.Roles {
			roles[i] = keptAs(role, i)
		}
		if err := roleRow().save(ctx, tx, roles); err != nil {
			return err
		}
		for i, kind := range f.Kinds {
			if _, err := tx.ExecContext(ctx, `INSERT INTO kinds (key, name, date_name, position) VALUES ($1, $2, $3, $4)
				ON CONFLICT (key) DO UPDATE SET name = excluded.name, date_name = excluded.date_name, position = excluded.position`,
				kind.Key, kind.Name, kind.DateName, i); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("found the site: %w", err)
	}
	return st.Reload(ctx)
}

// Reload reads everything anew, for what changes without a publication.
func (st *Store) Reload(ctx context.Context) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		next, err := catchUp(ctx, tx, nil)
		if err == nil {
			st.published.Store(next)
		}
		return err
	})
}

// NewPageIDs takes n ids from the one sequence of page ids, ascending (rules 9.1).
func (st *Store) NewPageIDs(ctx context.Context, n int) ([]site.PageID, error) {
	var ids []site.PageID
	if err := st.db.SelectContext(ctx, &ids, `SELECT nextval('page_ids') FROM generate_series(1, $1)`, n); err != nil {
		return nil, fmt.Errorf("take page ids: %w", err)
	}
	return ids, nil
}

// SaveTexts keeps sanitised page texts and gives their hashes, in order; an empty text has an empty hash.
func (st *Store) SaveTexts(ctx context.Context, texts ...string) ([]string, error) {
	hashes := make([]string, len(texts))
	var newHashes, newTexts, newLinks, newFaults, newWeb []string
	var newWords []int
	for i, html := range texts {
		if html == "" {
			continue
		}
		sum := sha256.Sum256([]byte(html))
		hashes[i] = hex.EncodeToString(sum[:16])
		links, faults, web := text.Links(html), text.Faults(html), text.Web(html)
		st.Published().Site.Texts().Know(hashes[i], links)
		st.Published().Site.Texts().KnowFaults(hashes[i], faults)
		st.Published().Site.Texts().KnowWeb(hashes[i], web)
		newWeb, newWords = append(newWeb, strings.Join(web, " ")), append(newWords, text.Length(html))
		newHashes, newTexts = append(newHashes, hashes[i]), append(newTexts, html)
		newLinks, newFaults = append(newLinks, joinIDs(links)), append(newFaults, strings.Join(faults, "\n"))
	}
	if _, err := st.db.ExecContext(ctx, `INSERT INTO texts (hash, html, links, faults, web, words)
		SELECT DISTINCT ON (hash) hash, html, string_to_array(links, ' ')::bigint[], string_to_array(faults, E'\n'),
			string_to_array(web, ' '), words
		FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::text[], $6::int[])
			AS t (hash, html, links, faults, web, words)
		ON CONFLICT DO NOTHING`, newHashes, newTexts, newLinks, newFaults, newWeb, newWords); err != nil {
		return nil, fmt.Errorf("save the text: %w", err)
	}
	return hashes, nil
}

func joinIDs(ids []site.PageID) string {
	var out strings.Builder
	for i, id := range ids {
		if i > 0 {
			out.WriteByte(' ')
		}
		out.WriteString(strconv.FormatInt(int64(id), 10))
	}
	return out.String()
}

// Text gives a page text by its hash; the empty hash is the empty text.
func (st *Store) Text(ctx context.Context, hash string) (html string, err error) {
	if hash == "" {
		return "", nil
	}
	if err := st.db.GetContext(ctx, &html, `SELECT html FROM texts WHERE hash = $1`, hash); err != nil {
		return "", fmt.Errorf("read a page's text: %w", err)
	}
	return html, nil
}

// Texts gives page texts by their hashes, in one query.
func (st *Store) Texts(ctx context.Context, hashes []string) (map[string]string, error) {
	return readTexts(ctx, st.db, hashes)
}

func readTexts(ctx context.Context, q sqlx.QueryerContext, hashes []string) (map[string]string, error) {
	if len(hashes) == 0 {
		return nil, nil
	}
	var rows []struct {
		Hash string `db:"hash"`
		HTML string `db:"html"`
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `SELECT hash, html FROM texts WHERE hash = ANY ($1::text[])`,
		hashes); err != nil {
		return nil, fmt.Errorf("read page texts: %w", err)
	}
	texts := make(map[string]string, len(rows))
	for _, row := range rows {
		texts[row.Hash] = row.HTML
	}
	return texts, nil
}

// Secret is the key with which this site signs what it hands to browsers, the same on every instance.
func (st *Store) Secret(ctx context.Context) (key []byte, err error) {
	if err := st.db.GetContext(ctx, &key, `SELECT secret FROM site`); err != nil {
		return nil, fmt.Errorf("read the site's secret: %w", err)
	}
	return key, nil
}

// OpenBranches gives the branches that a person has open in an area of the workbench.
func (st *Store) OpenBranches(ctx context.Context, account int64, area string) (map[site.PageID]bool, error) {
	var ids []site.PageID
	if err := st.db.SelectContext(ctx, &ids, `SELECT page_id FROM open_branches WHERE account_id = $1 AND area = $2`,
		account, area); err != nil {
		return nil, fmt.Errorf("read open branches: %w", err)
	}
	open := make(map[site.PageID]bool, len(ids))
	for _, id := range ids {
		open[id] = true
	}
	return open, nil
}

// Place gives the page at which a person was last in an area; 0 if nowhere yet.
func (st *Store) Place(ctx context.Context, account int64, area string) (page site.PageID, err error) {
	err = st.db.GetContext(
		ctx,
		&page,
		`SELECT coalesce((SELECT page_id FROM places WHERE account_id = $1 AND area = $2), 0)`,
		account,
		area,
	)
	if err != nil {
		return 0, fmt.Errorf("read the place: %w", err)
	}
	return page, nil
}

// SetPlace remembers it.
func (st *Store) SetPlace(ctx context.Context, account int64, area string, page site.PageID) error {
	_, err := st.db.ExecContext(
		ctx,
		`INSERT INTO places VALUES ($1, $2, $3) ON CONFLICT (account_id, area) DO UPDATE SET page_id = excluded.page_id`,
		account,
		area,
		int64(page),
	)
	if err != nil {
		return fmt.Errorf("save the place: %w", err)
	}
	return nil
}

// SetOpen opens or closes branches.
func (st *Store) SetOpen(ctx context.Context, account int64, area string, open bool, ids ...site.PageID) error {
	raw := make([]int64, len(ids))
	for i, id := range ids {
		raw[i] = int64(id)
	}
	query := `DELETE FROM open_branches WHERE account_id = $1 AND area = $2 AND page_id = ANY ($3::bigint[])`
	if open {
		query = `INSERT INTO open_branches SELECT $1, $2, unnest($3::bigint[]) ON CONFLICT DO NOTHING`
	}
	if _, err := st.db.ExecContext(ctx, query, account, area, raw); err != nil {
		return fmt.Errorf("save open branches: %w", err)
	}
	return nil
}
