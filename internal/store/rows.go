package store

import (
	"context"
	"database/sql"
	"fmt"
	"reflect"
	"strconv"
	"strings"
	"time"
	"unique"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
)

// A row says how things of one sort are kept in a table: one list of columns that reads and writes. It is made anew for
// each use, since its columns read into places of their own.
type row[T any] struct {
	table   string
	key     string // columns by which a row is found
	order   string // of reading
	columns []column[T]
	read    func(*T) error // makes whole what was read; nil: nothing is left to do
}

// A column is one of a table: what it keeps of a thing, how it is read and how it is written.
type column[T any] struct {
	name   string
	field  edit.Field // that it keeps, or a part of it; "": it keeps none
	kind   string     // its type, as values are sent
	reads  string     // what is selected; "": the column
	stored string     // what is stored for the value sent; "": the value
	into   func(*T) any
	values func([]*T) any
}

// from is a column that reads and sends values of one Go type; field names what it keeps.
func from[T, V any](name, kind string, field edit.Field, of func(*T) V, into func(*T) any) column[T] {
	return column[T]{name: name, field: field, kind: kind, into: into, values: func(things []*T) any {
		values := make([]V, len(things))
		for i, t := range things {
			values[i] = of(t)
		}
		return values
	}}
}

// number keeps an id or a number.
func number[T any, V ~int | ~int64](name string, field edit.Field, of func(*T) *V) column[T] {
	return from(name, "bigint", field, func(t *T) int64 { return int64(*of(t)) }, func(t *T) any { return of(t) })
}

// reference keeps an id, which is null for none.
func reference[T any, V ~int64](name string, field edit.Field, of func(*T) *V) column[T] {
	c := number(name, field, of)
	c.reads, c.stored = "coalesce("+name+", 0)", "nullif("+name+", 0)"
	return c
}

// phrase keeps words.
func phrase[T any, V ~string](name string, field edit.Field, of func(*T) *V) column[T] {
	return from(name, "text", field, func(t *T) string { return string(*of(t)) }, func(t *T) any { return of(t) })
}

// few keeps words of which most things have the same; they stand in memory once.
func few[T any, V ~string](name string, field edit.Field, of func(*T) *V) column[T] {
	scan := &shared[V]{}
	return from(name, "text", field, func(t *T) string { return string(*of(t)) },
		func(t *T) any { scan.at = of(t); return scan })
}

// truth keeps yes or no.
func truth[T any](name string, field edit.Field, of func(*T) *bool) column[T] {
	return from(name, "bool", field, func(t *T) bool { return *of(t) }, func(t *T) any { return of(t) })
}

// instant keeps a moment, which is null for none.
func instant[T any](name string, field edit.Field, of func(*T) *time.Time) column[T] {
	scan := &scannedTime{}
	return from(name, "timestamptz", field, func(t *T) *time.Time { return timeOrNull(*of(t)) },
		func(t *T) any { scan.at = of(t); return scan })
}

// listed keeps a few words as an array. Words hold no line breaks.
func listed[T any](name string, field edit.Field, of func(*T) *[]string) column[T] {
	scan := &scannedList{}
	c := from(name, "text", field, func(t *T) string { return strings.Join(*of(t), "\n") },
		func(t *T) any { scan.at = of(t); return scan })
	c.reads, c.stored = `array_to_string(`+name+`, E'\n')`, `string_to_array(`+name+`, E'\n')`
	return c
}

// numbers keeps ids as an array.
func numbers[T any, V ~int64](name string, field edit.Field, of func(*T) *[]V) column[T] {
	scan := &scannedNumbers[V]{}
	c := from(name, "text", field, func(t *T) string {
		words := make([]string, len(*of(t)))
		for i, id := range *of(t) {
			words[i] = strconv.FormatInt(int64(id), 10)
		}
		return strings.Join(words, ",")
	}, func(t *T) any { scan.at = of(t); return scan })
	c.reads, c.stored = `array_to_string(`+name+`, ',')`, `string_to_array(`+name+`, ',')::bigint[]`
	return c
}

type scannedNumbers[V ~int64] struct{ at *[]V }

func (s *scannedNumbers[V]) Scan(src any) error {
	words, err := scannedWords(src)
	if *s.at = nil; words == "" || err != nil {
		return err
	}
	for word := range strings.SplitSeq(words, ",") {
		id, err := strconv.ParseInt(word, 10, 64)
		if err != nil {
			return fmt.Errorf("read numbers: %w", err)
		}
		*s.at = append(*s.at, V(id))
	}
	return nil
}

// shared reads words that stand in memory once.
type shared[V ~string] struct{ at *V }

func (s *shared[V]) Scan(src any) error {
	words, err := scannedWords(src)
	if *s.at = V(words); words != "" {
		*s.at = unique.Make(V(words)).Value()
	}
	return err
}

type scannedTime struct{ at *time.Time }

func (s *scannedTime) Scan(src any) error {
	switch at := src.(type) {
	case nil:
		*s.at = time.Time{}
	case time.Time:
		*s.at = at.UTC()
	default:
		return fmt.Errorf("%T is no moment", src)
	}
	return nil
}

type scannedList struct{ at *[]string }

func (s *scannedList) Scan(src any) error {
	words, err := scannedWords(src)
	if *s.at = nil; words != "" {
		*s.at = strings.Split(words, "\n")
	}
	return err
}

func scannedWords(src any) (string, error) {
	switch words := src.(type) {
	case string:
		return words, nil
	case []byte:
		return string(words), nil
	}
	return "", fmt.Errorf("%T is no text", src)
}

// selects is the query for rows of a table, with what narrows it.
func (r row[T]) selects(where string) string {
	names := make([]string, len(r.columns))
	for i, c := range r.columns {
		if names[i] = c.reads; c.reads == "" {
			names[i] = c.name
		}
	}
	return "SELECT " + strings.Join(names, ", ") + " FROM " + r.table + where + " ORDER BY " + r.order
}

// load reads things.
func (r row[T]) load(ctx context.Context, tx *sqlx.Tx, where string, args ...any) ([]*T, error) {
	rows, err := tx.QueryContext(ctx, r.selects(where), args...)
	if err != nil {
		return nil, fmt.Errorf("read %s: %w", r.table, err)
	}
	defer rows.Close()
	var things []*T
	into := make([]any, len(r.columns))
	for rows.Next() {
		t := new(T)
		if err := r.scan(rows, t, into); err != nil {
			return nil, fmt.Errorf("read %s: %w", r.table, err)
		}
		things = append(things, t)
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("read %s: %w", r.table, err)
	}
	return things, nil
}

func (r row[T]) scan(rows *sql.Rows, t *T, into []any) error {
	for i, c := range r.columns {
		into[i] = c.into(t)
	}
	if err := rows.Scan(into...); err != nil || r.read == nil {
		return err
	}
	return r.read(t)
}

// batch is the number of rows sent in one statement.
const batch = 5000

// save inserts things, and writes those anew that are there.
func (r row[T]) save(ctx context.Context, tx *sqlx.Tx, things []*T) error {
	sets := make([]string, len(r.columns))
	for i, c := range r.columns {
		sets[i] = c.name + " = excluded." + c.name
	}
	end := " ON CONFLICT (" + r.key + ") DO UPDATE SET " + strings.Join(sets, ", ")
	return r.send(ctx, tx, r.columns, things, func(names, table string) string {
		return "INSERT INTO " + r.table + " (" + names + ") SELECT " + names + " FROM " + table + end
	})
}

// insert writes things that are not there yet.
func (r row[T]) insert(ctx context.Context, tx *sqlx.Tx, things []*T) error {
	return r.send(ctx, tx, r.columns, things, func(names, table string) string {
		return "INSERT INTO " + r.table + " (" + names + ") SELECT " + names + " FROM " + table
	})
}

// update writes things that are there, in the columns in which any of them differs from before: so it writes no index
// anew unless what is indexed changes.
func (r row[T]) update(ctx context.Context, tx *sqlx.Tx, before, things []*T) error {
	for from := 0; from < len(things); from += batch {
		to := min(from+batch, len(things))
		columns := r.differing(before[from:to], things[from:to])
		err := r.send(ctx, tx, columns, things[from:to], func(_, table string) string {
			sets := make([]string, len(columns)-1)
			for i, c := range columns[1:] {
				sets[i] = c.name + " = t." + c.name
			}
			return "UPDATE " + r.table + " p SET " + strings.Join(sets, ", ") + " FROM " + table +
				" WHERE p." + r.key + " = t." + r.key
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// differing gives the key and the columns in which any of some things differs from what it was.
func (r row[T]) differing(before, things []*T) []column[T] {
	columns := []column[T]{r.columns[0]}
	for _, c := range r.columns[1:] {
		if !reflect.DeepEqual(c.values(before), c.values(things)) {
			columns = append(columns, c)
		}
	}
	return columns
}

// send runs a statement on rows that are sent as a table t, in batches.
func (r row[T]) send(
	ctx context.Context, tx *sqlx.Tx, columns []column[T], things []*T, statement func(names, table string) string,
) error {
	query := statement(sent(columns))
	for from := 0; from < len(things); from += batch {
		some := things[from:min(from+batch, len(things))]
		values := make([]any, len(columns))
		for i, c := range columns {
			values[i] = c.values(some)
		}
		if _, err := tx.ExecContext(ctx, query, values...); err != nil {
			return fmt.Errorf("write %s: %w", r.table, err)
		}
	}
	return nil
}

// sent is the rows that a statement is sent, as a table t, and the names of its columns.
func sent[T any](columns []column[T]) (names, table string) {
	all, stored, arrays := make([]string, len(columns)), make([]string, len(columns)), make([]string, len(columns))
	for i, c := range columns {
		all[i], stored[i], arrays[i] = c.name, c.name, fmt.Sprintf("$%d::%s[]", i+1, c.kind)
		if c.stored != "" {
			stored[i] = c.stored + " AS " + c.name
		}
	}
	names = strings.Join(all, ", ")
	table = "(SELECT " + strings.Join(stored, ", ") + " FROM unnest(" + strings.Join(arrays, ", ") + ") AS u (" +
		names + ")) AS t"
	return names, table
}

// remove takes rows away by their numbers.
func remove(ctx context.Context, tx *sqlx.Tx, table string, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM `+table+` WHERE id = ANY ($1::bigint[])`, ids); err != nil {
		return fmt.Errorf("take rows of %s away: %w", table, err)
	}
	return nil
}

// removeByKey takes rows away by their keys.
func removeByKey(ctx context.Context, tx *sqlx.Tx, table string, keys []string) error {
	if len(keys) == 0 {
		return nil
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM `+table+` WHERE key = ANY ($1)`, keys); err != nil {
		return fmt.Errorf("take rows of %s away: %w", table, err)
	}
	return nil
}

func timeOrNull(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}
