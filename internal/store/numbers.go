package store

import (
	"context"
	"fmt"
	"time"
)

// NumbersThen is how many pages there were as of a publication, for who is not signed in.
type NumbersThen struct {
	Revision int64     `db:"revision"`
	At       time.Time `db:"at"`
	Pages    int       `db:"pages"`
	Online   int       `db:"online"`
	Reached  int       `db:"reached"`
	Listed   int       `db:"listed"`
	Known    bool      `db:"known"` // they were counted
}

// NumbersLine gives publications, at most so many and evenly spread over those that are kept, the newest among them,
// with their numbers as far as they were counted.
func (st *Store) NumbersLine(ctx context.Context, most int) (line []NumbersThen, err error) {
	if err := st.db.SelectContext(ctx, &line, `
		WITH numbered AS (SELECT revision, at, row_number() OVER (ORDER BY revision DESC) - 1 AS n, count(*) OVER () AS of
			FROM moments)
		SELECT m.revision, m.at, coalesce(pages, 0) AS pages, coalesce(online, 0) AS online,
			coalesce(reached, 0) AS reached, coalesce(listed, 0) AS listed, pages IS NOT NULL AS known
		FROM numbered m LEFT JOIN site_numbers USING (revision)
		WHERE n % greatest(1, (m.of + $1 - 1) / $1) = 0 ORDER BY m.revision`, most); err != nil {
		return nil, fmt.Errorf("read the numbers of publications: %w", err)
	}
	return line, nil
}

// KeepNumbers keeps the numbers of a publication, which never change.
func (st *Store) KeepNumbers(ctx context.Context, n NumbersThen) error {
	if _, err := st.db.ExecContext(ctx, `INSERT INTO site_numbers (revision, pages, online, reached, listed)
		VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`, n.Revision, n.Pages, n.Online, n.Reached, n.Listed); err != nil {
		return fmt.Errorf("keep the numbers of a publication: %w", err)
	}
	return nil
}

// TextWords gives how many words each text has, by its hash.
func (st *Store) TextWords(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		Hash  string `db:"hash"`
		Words int    `db:"words"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT hash, words FROM texts WHERE words > 0`); err != nil {
		return nil, fmt.Errorf("read how long texts are: %w", err)
	}
	words := make(map[string]int, len(rows))
	for _, row := range rows {
		words[row.Hash] = row.Words
	}
	return words, nil
}
