package store

import (
	"context"
	"database/sql"
	_ "embed"
	"fmt"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

//go:embed schema.sql
var schema string

//go:embed schema_101.sql
var schemaOfTopics string

//go:embed schema_102.sql
var schemaOfDetails string

//go:embed schema_103.sql
var schemaOfListings string

//go:embed schema_104.sql
var schemaOfLines string

//go:embed schema_105.sql
var schemaOfGrants string

//go:embed schema_106.sql
var schemaOfPeople string

//go:embed schema_107.sql
var schemaOfApproval string

//go:embed schema_108.sql
var schemaOfSecond string

//go:embed schema_109.sql
var schemaOfOutside string

//go:embed schema_110.sql
var schemaOfMembers string

//go:embed schema_111.sql
var schemaOfReadiness string

//go:embed schema_112.sql
var schemaOfFiles string

//go:embed schema_113.sql
var schemaOfEngines string

//go:embed schema_114.sql
var schemaOfSearch string

//go:embed schema_115.sql
var schemaOfPresence string

//go:embed schema_116.sql
var schemaOfSpelling string

//go:embed schema_117.sql
var schemaOfProblems string

//go:embed schema_118.sql
var schemaOfCare string

//go:embed schema_119.sql
var schemaOfPast string

//go:embed schema_120.sql
var schemaOfSets string

//go:embed schema_121.sql
var schemaOfLinks string

// schemaVersion is the version of the tables that this program knows; firstVersion that of schema.sql, with which
// their line begins.
const (
	firstVersion  = 100
	schemaVersion = 121
)

// migrations has every step from empty tables to the newest ones. A later one comes after the schema, with the next
// number.
func migrations() []*goose.Migration {
	var all []*goose.Migration
	for i, statements := range []string{
		schema, schemaOfTopics, schemaOfDetails, schemaOfListings, schemaOfLines, schemaOfGrants, schemaOfPeople,
		schemaOfApproval, schemaOfSecond, schemaOfOutside, schemaOfMembers,
		schemaOfReadiness, schemaOfFiles, schemaOfEngines, schemaOfSearch, schemaOfPresence,
		schemaOfSpelling, schemaOfProblems, schemaOfCare, schemaOfPast, schemaOfSets, schemaOfLinks,
	} {
		up := func(ctx context.Context, tx *sql.Tx) error {
			_, err := tx.ExecContext(ctx, statements)
			return err
		}
		all = append(all, goose.NewGoMigration(firstVersion+int64(i), &goose.GoFunc{RunTx: up}, nil))
	}
	return all
}

// Migrate brings a database to the newest schema. One whose tables are of the line before version 100 is refused.
func Migrate(ctx context.Context, url string) error {
	switch found, err := SchemaOf(ctx, url); {
	case err != nil:
		return err
	case found == SchemaBefore:
		return ErrSchemaBefore
	}
	db, err := sqlx.Open("pgx", url)
	if err != nil {
		return fmt.Errorf("open database: %w", err)
	}
	defer db.Close()
	provider, err := goose.NewProvider(goose.DialectPostgres, db.DB, nil,
		goose.WithGoMigrations(migrations()...), goose.WithDisableGlobalRegistry(true))
	if err != nil {
		return fmt.Errorf("read migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	return lookAtTexts(ctx, db)
}

// ErrSchemaBefore refuses tables of the line of versions before 100.
var ErrSchemaBefore = fmt.Errorf(
	"the tables are of the line of versions before %d, which this program does not bring up to date: "+
		"make a backup with the program that made them, and restore it with this one into an empty database",
	firstVersion,
)

// A Schema is how far the tables of a database are.
type Schema int

// None has no tables, Before is of a line of versions that ended, Older and Newer are of another version of the
// program, Fits is this one's.
const (
	SchemaNone Schema = iota
	SchemaBefore
	SchemaOlder
	SchemaFits
	SchemaNewer
)

// SchemaOf looks at the tables of a database.
func SchemaOf(ctx context.Context, url string) (Schema, error) {
	db, err := sqlx.Open("pgx", url)
	if err != nil {
		return SchemaNone, fmt.Errorf("open database: %w", err)
	}
	defer db.Close()
	var there bool
	if err := db.GetContext(ctx, &there, `SELECT to_regclass('goose_db_version') IS NOT NULL`); err != nil {
		return SchemaNone, fmt.Errorf("the database does not answer: %w", err)
	}
	if !there {
		return SchemaNone, nil
	}
	var has int64
	if err := db.GetContext(ctx, &has,
		`SELECT coalesce(max(version_id), 0) FROM goose_db_version WHERE is_applied`); err != nil {
		return SchemaNone, fmt.Errorf("read the version of the tables: %w", err)
	}
	switch {
	case has == 0:
		return SchemaNone, nil
	case has < firstVersion:
		return SchemaBefore, nil
	case has < schemaVersion:
		return SchemaOlder, nil
	case has > schemaVersion:
		return SchemaNewer, nil
	}
	return SchemaFits, nil
}
