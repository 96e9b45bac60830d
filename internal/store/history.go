package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A Publication is one entry of the history.
type Publication struct {
	Revision  int64
	At        time.Time
	By        string
	Said      []string // its steps in words
	Sentences []consequence.Sentence
	Draft     string    // the name of the draft, where there was one
	Planned   time.Time // the moment that it was set to, where it was
	Reason    string    // why, where somebody said so
}

// A Search is what of the history is asked for; zero values ask for anything.
type Search struct {
	Before int64 // only publications before this revision
	Limit  int
	By     string    // who published, by name
	Words  string    // all in its steps or consequences
	From   time.Time // published from then on
	Until  time.Time // and before then
	Page   site.PageID
	Menu   site.MenuID
	Block  site.BlockID // edits of its places as they stand now count as well
	Places []site.PlacementID
	Sets   []site.SetID // of conditions
}

// mentions gives a pattern that operations written down match which name the menu or block; "" where none is asked
// for.
func (s Search) mentions() string {
	var named []string
	add := func(key string, id int64) { named = append(named, fmt.Sprintf(`"%s":\s*%d\M`, key, id)) }
	if s.Menu != 0 {
		add("menu", int64(s.Menu))
	}
	if s.Block != 0 {
		add("block", int64(s.Block))
	}
	for _, id := range s.Places {
		add("placement", int64(id))
	}
	for _, id := range s.Sets {
		add("set", int64(id))
	}
	return strings.Join(named, "|")
}

// like writes words as a pattern that holds them in any place.
func like(word string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word) + "%"
}

// History gives the publications that are asked for, newest first.
func (st *Store) History(ctx context.Context, s Search) ([]Publication, error) {
	words := []string{}
	for _, word := range strings.Fields(s.Words) {
		words = append(words, like(word))
	}
	moment := func(t time.Time) sql.NullTime { return sql.NullTime{Time: t, Valid: !t.IsZero()} }
	rows, err := st.db.QueryContext(
		ctx,
		`SELECT revision, at, by_name, said, sentences, draft, planned, reason FROM publications p
		WHERE ($1 = 0 OR revision < $1) AND ($3 = '' OR by_name = $3)
			AND ($4::timestamptz IS NULL OR at >= $4) AND ($5::timestamptz IS NULL OR at < $5)
			AND NOT EXISTS (SELECT FROM unnest($6::text[]) w WHERE
				array_to_string(said, ' ') NOT ILIKE w AND sentences::text NOT ILIKE w AND draft NOT ILIKE w AND
				reason NOT ILIKE w)
			AND ($7 = 0 OR EXISTS (SELECT FROM page_changes c WHERE c.revision = p.revision AND $7 = ANY (c.pages)))
			AND ($8 = '' OR EXISTS (SELECT FROM publication_ops o WHERE o.revision = p.revision AND o.ops::text ~ $8))
		ORDER BY revision DESC LIMIT $2`,
		s.Before,
		s.Limit,
		s.By,
		moment(s.From),
		moment(s.Until),
		words,
		int64(s.Page),
		s.mentions(),
	)
	if err != nil {
		return nil, fmt.Errorf("read the history: %w", err)
	}
	defer rows.Close()
	var history []Publication
	types := pgtype.NewMap()
	for rows.Next() {
		var p Publication
		var sentences []byte
		var planned sql.NullTime
		if err := rows.Scan(&p.Revision, &p.At, &p.By, types.SQLScanner(&p.Said), &sentences, &p.Draft,
			&planned, &p.Reason); err != nil {
			return nil, fmt.Errorf("read the history: %w", err)
		}
		if err := json.Unmarshal(sentences, &p.Sentences); err != nil {
			return nil, fmt.Errorf("read the history: %w", err)
		}
		p.Planned = planned.Time
		history = append(history, p)
	}
	return history, rows.Err()
}

// Publishers gives the names of all who have published, in order.
func (st *Store) Publishers(ctx context.Context) ([]string, error) {
	var names []string
	if err := st.db.SelectContext(ctx, &names, `SELECT DISTINCT by_name FROM publications ORDER BY by_name`); err != nil {
		return nil, fmt.Errorf("list who has published: %w", err)
	}
	return names, nil
}

// ErrNoPublication is a revision that no publication made.
var ErrNoPublication = errors.New("there is no publication")

// PublishedOps gives the operations of a publication; none for what was done outside drafts.
func (st *Store) PublishedOps(ctx context.Context, revision int64) ([]edit.Op, error) {
	var forms []string
	if err := st.db.SelectContext(ctx, &forms, `SELECT ops FROM publication_ops WHERE revision = $1 ORDER BY seq`,
		revision); err != nil {
		return nil, fmt.Errorf("read the history: %w", err)
	}
	var ops []edit.Op
	for _, form := range forms {
		some, err := decodeOps([]byte(form))
		if err != nil {
			return nil, err
		}
		ops = append(ops, some...)
	}
	return ops, nil
}

// Inverses gives the operations that take a publication back, in the order in which they are to be done (rules 9.6).
func (st *Store) Inverses(ctx context.Context, revision int64) ([]edit.Op, error) {
	var forms []string
	if err := st.db.SelectContext(ctx, &forms, `SELECT ops FROM publication_ops WHERE revision = $1 ORDER BY seq`,
		revision); err != nil {
		return nil, fmt.Errorf("read publication %d: %w", revision, err)
	}
	if len(forms) == 0 {
		return nil, fmt.Errorf("%w %d", ErrNoPublication, revision)
	}
	var inverses []edit.Op
	now := st.published.Load().Revision
	for _, form := range slices.Backward(forms) {
		ops, err := decodeOps([]byte(form))
		if err != nil {
			return nil, err
		}
		for _, op := range slices.Backward(ops) {
			inverses = append(inverses, edit.TakeBack(op, now))
		}
	}
	return inverses, nil
}
