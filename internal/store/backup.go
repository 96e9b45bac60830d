package store

import (
	"archive/tar"
	"bufio"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"os"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/site"
	"vineladder/internal/files"
)

// A manifest is the last part of a backup: what it must hold to be whole. A backup is a tar file, packed with gzip:
// tables as CSV with a head, files as they are, and this as JSON.
type manifest struct {
	Schema    int64             `json:"schema"`
	Made      time.Time         `json:"made"`
	Hashes    map[string]string `json:"sha256"` // by the name of the part
	Sequences map[string]int64  `json:"sequences"`
}

const manifestName = "manifest.json"

// leftOut are tables that a backup has no use for; what pages are found by is made anew of them.
var leftOut = []string{"sessions", "setup_links", "goose_db_version", "search_words", "spellings", "here"}

// Files are where the bytes of files are: those that were uploaded, by their hash, and before that by name.
type Files struct {
	Dir   files.Dir
	Bytes *blob.Store
}

// Backup writes all tables as they are at one moment, and the files. A file that the site names and that is not there
// fails it.
func (st *Store) Backup(ctx context.Context, w io.Writer, kept Files) error {
	dir := kept.Dir
	names, err := dir.Names()
	if err != nil {
		return err
	}
	isThere := func(name string) bool { return slices.Contains(names, name) }
	if missing := slices.DeleteFunc(filesNamed(st.Published().Site), isThere); len(missing) > 0 {
		return fmt.Errorf("the site names files that are not in the files directory: %s", strings.Join(missing, ", "))
	}
	conn, err := pgx.Connect(ctx, st.url)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer conn.Close(context.WithoutCancel(ctx))
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return fmt.Errorf("begin a snapshot: %w", err)
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	packed := gzip.NewWriter(w)
	b := &backup{
		out:      tar.NewWriter(packed),
		manifest: manifest{Made: clock.Now().UTC(), Hashes: map[string]string{}, Sequences: map[string]int64{}},
	}
	b.Schema = schemaVersion
	tables, err := tablesInOrder(ctx, tx)
	if err != nil {
		return err
	}
	for _, table := range tables {
		if err := b.table(ctx, tx, table); err != nil {
			return fmt.Errorf("back up the table %s: %w", table, err)
		}
	}
	if err := b.sequences(ctx, tx); err != nil {
		return err
	}
	for _, name := range names {
		if err := b.file(dir.Path(name), name); err != nil {
			return fmt.Errorf("back up the file %s: %w", name, err)
		}
	}
	if err := b.bytes(ctx, kept.Bytes, st.Published().Site); err != nil {
		return err
	}
	last, err := json.MarshalIndent(b.manifest, "", "  ")
	if err != nil {
		return err
	}
	return errors.Join(
		b.part(manifestName, int64(len(last)), strings.NewReader(string(last))),
		b.out.Close(),
		packed.Close(),
	)
}

// filesNamed gives the files that the published menus and blocks name, each once.
func filesNamed(s *site.Site) []string {
	var names []string
	for _, m := range s.Menus() {
		for _, e := range m.Entries {
			if to, is := e.Shows.(site.ItemFile); is {
				names = append(names, to.File)
			}
		}
	}
	for _, b := range s.Blocks() {
		if image, is := b.Shows.(site.BlockImage); is {
			names = append(names, image.File)
		}
	}
	names = append(names, filesOfDetails(s)...)
	slices.Sort(names)
	return slices.DeleteFunc(slices.Compact(names), func(name string) bool { // pages are asked for their bytes
		_, isPage := site.ReadFileRef(name)
		return isPage
	})
}

// filesOfDetails gives the files and pictures that pages have for the details of their types.
func filesOfDetails(s *site.Site) []string {
	var names []string
	for _, d := range s.AllDetails() {
		if d.Type != site.DetailFile && d.Type != site.DetailPicture {
			continue
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			if value := p.Values.Get(d.Key); value != "" && p.Kind == d.Kind() {
				name, _, _ := strings.Cut(value, "\n")
				names = append(names, name)
			}
			return true
		})
	}
	return names
}

type backup struct {
	manifest
	out *tar.Writer
}

// part writes one part of known length and notes its hash.
func (b *backup) part(name string, size int64, from io.Reader) error {
	if err := b.out.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: size, ModTime: b.Made}); err != nil {
		return err
	}
	sum := sha256.New()
	n, err := io.Copy(io.MultiWriter(b.out, sum), from)
	if err == nil && n != size {
		err = errors.New("it changed while it was read")
	}
	b.Hashes[name] = hex.EncodeToString(sum.Sum(nil))
	return err
}

func (b *backup) file(at, name string) error {
	in, err := os.Open(at)
	if err != nil {
		return err
	}
	defer in.Close()
	info, err := in.Stat()
	if err != nil {
		return err
	}
	return b.part("files/"+name, info.Size(), in)
}

// bytes writes all that is kept of uploaded files. What the site names and is not there fails it.
func (b *backup) bytes(ctx context.Context, from *blob.Store, s *site.Site) error {
	var names []string
	if from != nil {
		var err error
		if names, err = from.Names(ctx); err != nil {
			return err
		}
	}
	var missing string
	s.Walk(s.Home(), func(p *site.Page) bool {
		if hash := p.BytesOf().Hash; hash != "" && !slices.Contains(names, hash) {
			missing = p.FileName()
		}
		return missing == ""
	})
	if missing != "" {
		return fmt.Errorf("the site has a file whose bytes are not in the store: %s", missing)
	}
	for _, name := range names {
		if err := b.spooled(ctx, from, name); err != nil {
			return fmt.Errorf("back up the bytes %s: %w", name, err)
		}
	}
	return nil
}

func (b *backup) spooled(ctx context.Context, from *blob.Store, name string) error {
	in, size, err := from.Raw(ctx, name)
	if err != nil {
		return err
	}
	defer in.Close()
	return b.part("bytes/"+name, size, in)
}

// table writes a table by way of a file of its own, since its length must be known first.
func (b *backup) table(ctx context.Context, tx pgx.Tx, table string) error {
	columns, err := columnsOf(ctx, tx, table)
	if err != nil {
		return err
	}
	spool, err := os.CreateTemp("", "vineladder-backup-*")
	if err != nil {
		return err
	}
	defer os.Remove(spool.Name())
	defer spool.Close()
	query := fmt.Sprintf(`COPY %s (%s) TO STDOUT (FORMAT csv, HEADER)`, pgx.Identifier{table}.Sanitize(), columns)
	if _, err := tx.Conn().PgConn().CopyTo(ctx, spool, query); err != nil {
		return err
	}
	size, err := spool.Seek(0, io.SeekEnd)
	if err == nil {
		_, err = spool.Seek(0, io.SeekStart)
	}
	if err != nil {
		return err
	}
	return b.part("tables/"+table+".csv", size, spool)
}

func (b *backup) sequences(ctx context.Context, tx pgx.Tx) error {
	rows, err := tx.Query(
		ctx,
		`SELECT sequencename, last_value FROM pg_sequences WHERE schemaname = current_schema() AND last_value IS NOT NULL`,
	)
	if err != nil {
		return fmt.Errorf("read the sequences: %w", err)
	}
	var name string
	var last int64
	_, err = pgx.ForEachRow(rows, []any{&name, &last}, func() error { b.Sequences[name] = last; return nil })
	return err
}

// columnsOf gives the columns of a table that are written, as a list for SQL.
func columnsOf(ctx context.Context, tx pgx.Tx, table string) (string, error) {
	rows, err := tx.Query(ctx, `SELECT quote_ident(column_name) FROM information_schema.columns
		WHERE table_schema = current_schema() AND table_name = $1 AND is_generated = 'NEVER' ORDER BY ordinal_position`,
		table)
	if err != nil {
		return "", err
	}
	columns, err := pgx.CollectRows(rows, pgx.RowTo[string])
	return strings.Join(columns, ", "), err
}

// tablesInOrder gives all tables of the site, each after those that it names.
func tablesInOrder(ctx context.Context, tx pgx.Tx) ([]string, error) {
	rows, err := tx.Query(ctx, `SELECT table_name::text FROM information_schema.tables
		WHERE table_schema = current_schema() AND table_type = 'BASE TABLE' AND table_name <> ALL ($1) ORDER BY 1`, leftOut)
	if err != nil {
		return nil, fmt.Errorf("list the tables: %w", err)
	}
	tables, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	needs := map[string][]string{}
	if rows, err = tx.Query(ctx, `SELECT conrelid::regclass::text, confrelid::regclass::text FROM pg_constraint
		WHERE contype = 'f' AND conrelid <> confrelid`); err != nil {
		return nil, err
	}
	var of, needed string
	if _, err = pgx.ForEachRow(rows, []any{&of, &needed},
		func() error { needs[of] = append(needs[of], needed); return nil }); err != nil {
		return nil, err
	}
	var order []string
	var visit func(table string)
	visit = func(table string) {
		if slices.Contains(order, table) || slices.Contains(leftOut, table) {
			return
		}
		for _, first := range needs[table] {
			visit(first)
		}
		order = append(order, table)
	}
	for _, table := range tables {
		visit(table)
	}
	return order, nil
}

// Restore reads a backup into a database without a site, all of it or nothing. Plans are held back: nobody expects what
// was due in between.
func Restore(ctx context.Context, url string, from io.Reader, kept Files) error {
	schema, err := SchemaOf(ctx, url)
	if err != nil {
		return err
	}
	if schema == SchemaNone {
		if err := Migrate(ctx, url); err != nil {
			return err
		}
	} else if schema != SchemaFits {
		return errors.New("the tables of this database are of another version; restore into an empty database")
	}
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer conn.Close(context.WithoutCancel(ctx))
	tx, err := conn.Begin(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	var taken bool
	if err := tx.QueryRow(ctx,
		`SELECT EXISTS (SELECT FROM pages) OR EXISTS (SELECT FROM accounts)`).Scan(&taken); err != nil {
		return err
	}
	if taken {
		return errors.New("there is a site in this database; restore into an empty one")
	}
	r := &restoring{tx: tx, dir: kept.Dir, bytes: kept.Bytes, seen: map[string]string{}}
	defer r.clear()
	if err := r.read(ctx, from); err != nil {
		return fmt.Errorf("nothing was restored: %w", err)
	}
	// Files first: without the tables nobody sees them, and the tables without them would be half a site.
	if err := r.keepFiles(ctx); err != nil {
		return err
	}
	if err := tx.Commit(ctx); err != nil {
		return fmt.Errorf("nothing was restored: %w", err)
	}
	return nil
}

type restoring struct {
	tx    pgx.Tx
	dir   files.Dir
	bytes *blob.Store
	seen  map[string]string // hashes of the parts that were read
	held  string            // directory of bytes until all is known to be whole
	spool string            // directory of files until then
	names []string
}

func (r *restoring) read(ctx context.Context, from io.Reader) error {
	unpacked, err := gzip.NewReader(from)
	if err != nil {
		return fmt.Errorf("this is no backup: %w", err)
	}
	tables, err := tablesInOrder(ctx, r.tx)
	if err != nil {
		return err
	}
	if _, err := r.tx.Exec(ctx, "TRUNCATE "+strings.Join(tables, ", ")+
		", sessions, search_words, spellings, here"); err != nil {
		return err
	}
	in := tar.NewReader(unpacked)
	for {
		head, err := in.Next()
		if errors.Is(err, io.EOF) {
			return errors.New("the backup ends before its manifest; it is not whole")
		}
		if err != nil {
			return fmt.Errorf("read the backup: %w", err)
		}
		if head.Name == manifestName {
			return r.finish(ctx, in)
		}
		sum := sha256.New()
		if err := r.part(ctx, head.Name, tables, io.TeeReader(in, sum), sum); err != nil {
			return fmt.Errorf("%s: %w", head.Name, err)
		}
	}
}

func (r *restoring) part(ctx context.Context, name string, tables []string, from io.Reader, sum hash.Hash) error {
	sort, of := path.Split(name)
	switch table, isTable := strings.CutSuffix(of, ".csv"); {
	case sort == "tables/" && isTable && (slices.Contains(tables, table) || wasTable(table)):
		if err := r.table(ctx, table, from); err != nil {
			return err
		}
	case sort == "files/" && files.IsName(of):
		if err := r.spoolFile(of, from); err != nil {
			return err
		}
	case sort == "bytes/" && blob.IsName(of) && r.bytes != nil:
		if err := r.spoolBytes(of, from); err != nil {
			return err
		}
	default:
		return errors.New("a backup has no such part")
	}
	if _, err := io.Copy(io.Discard, from); err != nil {
		return err
	}
	r.seen[name] = hex.EncodeToString(sum.Sum(nil))
	return nil
}

// table reads the rows of a table, whose first line names their columns. Rows of the line of versions before this one
// come by way of a table of theirs.
func (r *restoring) table(ctx context.Context, table string, from io.Reader) error {
	in := bufio.NewReader(from)
	head, err := in.ReadString('\n')
	if err != nil {
		return fmt.Errorf("read the names of the columns: %w", err)
	}
	columns, err := quotedAll(head)
	if err != nil {
		return err
	}
	into := pgx.Identifier{table}.Sanitize()
	moved, isBefore := movedFrom(table, columns)
	if isBefore {
		into = pgx.Identifier{table + "_before"}.Sanitize()
		if _, err := r.tx.Exec(ctx, fmt.Sprintf(`CREATE TEMPORARY TABLE %s (%s text) ON COMMIT DROP`,
			into, strings.Join(columns, " text, "))); err != nil {
			return err
		}
	}
	query := fmt.Sprintf(`COPY %s (%s) FROM STDIN (FORMAT csv)`, into, strings.Join(columns, ", "))
	if _, err := r.tx.Conn().PgConn().CopyFrom(ctx, in, query); err != nil {
		return err
	}
	if isBefore {
		_, err = r.tx.Exec(ctx, moved)
	}
	return err
}

// quotedAll gives the names of columns of a line of CSV as SQL has them.
func quotedAll(line string) ([]string, error) {
	names, err := csv.NewReader(strings.NewReader(line)).Read()
	if err != nil {
		return nil, fmt.Errorf("read the names of the columns: %w", err)
	}
	for i, name := range names {
		names[i] = pgx.Identifier{name}.Sanitize()
	}
	return names, nil
}

func (r *restoring) spoolFile(name string, from io.Reader) error {
	if r.spool == "" {
		if r.dir == "" {
			return errors.New("it has files; say where they go with --files-dir")
		}
		if err := os.MkdirAll(string(r.dir), 0o755); err != nil {
			return err
		}
		spool, err := os.MkdirTemp(string(r.dir), ".restore-*")
		if err != nil {
			return err
		}
		r.spool = spool
	}
	if r.dir.Has(name) {
		return errors.New("there is a file of this name in the files directory; restore into an empty one")
	}
	out, err := os.OpenFile(path.Join(r.spool, name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, from)
	r.names = append(r.names, name)
	return errors.Join(err, out.Close())
}

// finish holds what was read against the manifest, and settles what a restored site needs.
func (r *restoring) finish(ctx context.Context, from io.Reader) error {
	var m manifest
	if err := json.NewDecoder(from).Decode(&m); err != nil {
		return fmt.Errorf("read the manifest: %w", err)
	}
	if m.Schema != versionBefore && (m.Schema < firstVersion || m.Schema > schemaVersion) {
		return fmt.Errorf(
			"the backup has tables of version %d, this program has %d; restore it with the program that made it, then migrate",
			m.Schema,
			schemaVersion,
		)
	}
	for name, sum := range m.Hashes {
		if r.seen[name] != sum {
			return fmt.Errorf("%s is damaged, or missing", name)
		}
	}
	if len(m.Hashes) != len(r.seen) {
		return errors.New("the backup has parts that its manifest does not know")
	}
	for name, last := range m.Sequences {
		if _, err := r.tx.Exec(ctx, `SELECT setval($1::regclass, $2)`, pgx.Identifier{name}.Sanitize(), last); err != nil {
			return fmt.Errorf("set the sequence %s: %w", name, err)
		}
	}
	if _, err := r.tx.Exec(ctx, `INSERT INTO search_words SELECT p.id, page_words(p, s.language) FROM pages p, site s
			WHERE NOT p.purged;
		INSERT INTO spellings SELECT DISTINCT spellings_of(p) FROM pages p WHERE NOT p.purged`); err != nil {
		return fmt.Errorf("write the words by which pages are found: %w", err)
	}
	_, err := r.tx.Exec(ctx, `UPDATE drafts SET publish_at = NULL, retry_at = NULL, version = version + 1,
		trouble = 'This draft was to be published on ' || to_char(publish_at AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI') ||
			' UTC; the site was restored from a backup since, so it waits for somebody to publish it.'
		WHERE publish_at IS NOT NULL`)
	return err
}

// spoolBytes holds bytes until all is known to be whole.
func (r *restoring) spoolBytes(name string, from io.Reader) error {
	if r.held == "" {
		held, err := os.MkdirTemp("", "vineladder-restore-*")
		if err != nil {
			return err
		}
		r.held = held
	}
	out, err := os.Create(path.Join(r.held, name))
	if err != nil {
		return err
	}
	_, err = io.Copy(out, from)
	return errors.Join(err, out.Close())
}

// keepBytes puts bytes into their store. They are named by what they are, so what is there already is the same.
func (r *restoring) keepBytes(ctx context.Context) error {
	if r.held == "" {
		return nil
	}
	held, err := os.ReadDir(r.held)
	if err != nil {
		return err
	}
	for _, one := range held {
		from, err := os.Open(path.Join(r.held, one.Name()))
		if err != nil {
			return err
		}
		if err := errors.Join(r.bytes.PutRaw(ctx, one.Name(), from), from.Close()); err != nil {
			return err
		}
	}
	return nil
}

// keepFiles moves the files to their place.
func (r *restoring) keepFiles(ctx context.Context) error {
	if err := r.keepBytes(ctx); err != nil {
		return fmt.Errorf("nothing was restored: %w", err)
	}
	for _, name := range r.names {
		if err := os.Rename(path.Join(r.spool, name), r.dir.Path(name)); err != nil {
			return fmt.Errorf("nothing was restored: %w", err)
		}
	}
	return nil
}

func (r *restoring) clear() {
	for _, dir := range []string{r.spool, r.held} {
		if dir != "" {
			_ = os.RemoveAll(dir) // whatever is left of it
		}
	}
}
