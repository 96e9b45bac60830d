package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// forgetHistory takes the words of pages whose bin was emptied out of the history: out of the operations on them, and
// their names out of what publications say. was is the site before that. A name that another page bears stays.
func forgetHistory(ctx context.Context, tx *sqlx.Tx, was *site.Site, pages []*site.Page) error {
	gone, names := map[site.PageID]bool{}, map[string]bool{}
	ids := make([]int64, len(pages))
	for i, p := range pages {
		ids[i], gone[p.ID] = int64(p.ID), true
		before := was.Page(p.ID)
		names[before.Label], names[before.Title] = true, true
	}
	if err := forgetOps(ctx, tx, ids, gone, names); err != nil {
		return err
	}
	delete(names, "")
	for _, top := range append([]site.PageID{was.Home()}, was.Binned()...) {
		was.Walk(top, func(p *site.Page) bool {
			if !gone[p.ID] {
				delete(names, p.Label)
				delete(names, p.Title)
			}
			return true
		})
	}
	return forgetNames(ctx, tx, names)
}

// forgetOps takes them out of the operations, and notes the names that these said.
func forgetOps(
	ctx context.Context, tx *sqlx.Tx, ids []int64, gone map[site.PageID]bool, names map[string]bool,
) error {
	var rows []struct {
		Revision int64  `db:"revision"`
		Seq      int    `db:"seq"`
		Ops      string `db:"ops"`
	}
	if err := tx.SelectContext(ctx, &rows, `SELECT revision, seq, ops FROM publication_ops WHERE revision IN (
		SELECT revision FROM page_changes WHERE pages && $1)`, ids); err != nil {
		return fmt.Errorf("read the history of what is gone: %w", err)
	}
	for _, row := range rows {
		ops, err := decodeOps([]byte(row.Ops))
		if err != nil {
			return err
		}
		some := false
		for i := range ops {
			left, did := edit.Forget(
				ops[i], func(id site.PageID) bool { return gone[id] }, func(words string) { names[words] = true },
			)
			ops[i], some = left, some || did
		}
		if !some {
			continue
		}
		forms, err := encodeOps(ops)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE publication_ops SET ops = $3 WHERE revision = $1 AND seq = $2`,
			row.Revision, row.Seq, string(forms)); err != nil {
			return fmt.Errorf("take words out of the history: %w", err)
		}
	}
	return nil
}

// shortNames is how many characters of a name stand in a sentence at most.
const shortNames = 60

// forgetNames takes names out of what publications say.
func forgetNames(ctx context.Context, tx *sqlx.Tx, names map[string]bool) error {
	var patterns, plain, written []string
	for name := range names {
		said := []string{"“" + name + "”"}
		if long := []rune(name); len(long) > shortNames { // some sentences begin it only
			said = append(said, "“"+string(long[:shortNames-1])+"…”")
		}
		for _, words := range said {
			quoted, err := json.Marshal(words)
			if err != nil {
				return err
			}
			inside := string(quoted[1 : len(quoted)-1])
			plain, written = append(plain, words, "“…”"), append(written, inside, "“…”")
			patterns = append(patterns, like(words), like(inside))
		}
	}
	if len(patterns) == 0 {
		return nil
	}
	var rows []struct {
		Revision  int64  `db:"revision"`
		Said      string `db:"said"` // as JSON
		Sentences string `db:"sentences"`
	}
	if err := tx.SelectContext(ctx, &rows, `SELECT revision, array_to_json(said)::text AS said, sentences::text
		FROM publications
		WHERE array_to_string(said, ' ') LIKE ANY ($1) OR sentences::text LIKE ANY ($1)`, patterns); err != nil {
		return fmt.Errorf("look for names of what is gone: %w", err)
	}
	says, sentences := strings.NewReplacer(plain...), strings.NewReplacer(written...)
	for _, row := range rows {
		var said []string
		if err := json.Unmarshal([]byte(row.Said), &said); err != nil {
			return err
		}
		for i := range said {
			said[i] = says.Replace(said[i])
		}
		if _, err := tx.ExecContext(ctx, `UPDATE publications SET said = $2, sentences = $3 WHERE revision = $1`,
			row.Revision, said, sentences.Replace(row.Sentences)); err != nil {
			return fmt.Errorf("take names out of the history: %w", err)
		}
	}
	return nil
}
