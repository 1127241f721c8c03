package store

import (
	"bufio"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// An archive is a gzip of lines of JSON. The first names the schema. A table is a line with its name, then pieces of
// COPY text, each after a line with its length, then a line with the number of rows. The last line holds the hash of
// all that came before.

// archiveFormat names the format.
const archiveFormat = "nextround-backup-1"

// pieceSize bounds what is held of a table at once, other than a single row.
const pieceSize = 1 << 20

// notKept are tables that an archive leaves out: who is signed in just now, and goose's own.
var notKept = map[string]bool{"sessions": true, "goose_db_version": true}

var (
	// ErrNotEmpty means that a database to restore into holds something.
	ErrNotEmpty = errors.New("the database is not empty")
	// ErrArchive means that a file is no archive, or is damaged.
	ErrArchive = errors.New("the file is no backup, or it is damaged")
)

type archiveHead struct {
	Format string    `json:"format"`
	Schema string    `json:"schema"`
	At     time.Time `json:"at"`
}

type archiveSection struct {
	Table   string   `json:"table,omitempty"`
	Columns []string `json:"columns,omitempty"`
	Bytes   int      `json:"bytes,omitempty"`
	Rows    *int64   `json:"rows,omitempty"`
	Hash    string   `json:"hash,omitempty"`
}

// pieces writes a table in pieces.
type pieces struct {
	out  io.Writer
	held []byte
}

func (p *pieces) Write(b []byte) (int, error) {
	p.held = append(p.held, b...)
	if len(p.held) < pieceSize {
		return len(b), nil
	}
	return len(b), p.flush()
}

func (p *pieces) flush() error {
	if len(p.held) == 0 {
		return nil
	}
	if err := writeLine(p.out, archiveSection{Bytes: len(p.held)}); err != nil {
		return err
	}
	_, err := p.out.Write(p.held)
	p.held = p.held[:0]
	return err
}

// joined reads the pieces of a table as one, up to the line with its rows.
type joined struct {
	in   *bufio.Reader
	hash io.Writer
	left int
	rows int64
	bad  bool
}

func (j *joined) Read(b []byte) (int, error) {
	n, err := j.read(b)
	j.bad = errors.Is(err, ErrArchive)
	return n, err
}

func (j *joined) read(b []byte) (int, error) {
	for j.left == 0 {
		var s archiveSection
		if err := readLine(j.in, j.hash, &s); err != nil {
			return 0, ErrArchive
		}
		if s.Rows != nil {
			j.rows = *s.Rows
			return 0, io.EOF
		}
		if s.Bytes <= 0 {
			return 0, ErrArchive
		}
		j.left = s.Bytes
	}
	n, err := j.in.Read(b[:min(len(b), j.left)])
	j.left -= n
	if err != nil {
		return n, ErrArchive
	}
	return j.hash.Write(b[:n])
}

// Holding is what a database holds.
type Holding struct {
	// Empty is true when there is no table, or ours without a row.
	Empty         bool
	Organisations []string
}

// Holds looks at what a database holds.
func Holds(ctx context.Context, url string) (Holding, error) {
	var h Holding
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return h, fmt.Errorf("reaching the database: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	var tables int
	var ours bool
	err = conn.QueryRow(ctx, `SELECT count(*), bool_or(tablename = 'organisation') IS TRUE FROM pg_tables WHERE schemaname = 'public'`).Scan(&tables, &ours)
	if err != nil {
		return h, fmt.Errorf("looking at the database: %w", err)
	}
	if !ours {
		h.Empty = tables == 0 || (tables == 1 && onlyGoose(ctx, conn))
		return h, nil
	}
	rows, err := conn.Query(ctx, "SELECT name FROM organisation ORDER BY name")
	if err != nil {
		return h, fmt.Errorf("looking at the database: %w", err)
	}
	h.Organisations, err = pgx.CollectRows(rows, pgx.RowTo[string])
	h.Empty = len(h.Organisations) == 0
	return h, err
}

func onlyGoose(ctx context.Context, conn *pgx.Conn) bool {
	var name string
	err := conn.QueryRow(ctx, "SELECT tablename FROM pg_tables WHERE schemaname = 'public'").Scan(&name)
	return err == nil && name == "goose_db_version"
}

// tablesInOrder lists our tables so that each comes after those it refers to.
func tablesInOrder(ctx context.Context, conn *pgx.Conn) ([]string, error) {
	rows, err := conn.Query(ctx, "SELECT tablename::text FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")
	if err != nil {
		return nil, err
	}
	names, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	rows, err = conn.Query(ctx, `SELECT conrelid::regclass::text || ' ' || confrelid::regclass::text FROM pg_constraint
		WHERE contype = 'f' AND connamespace = 'public'::regnamespace AND conrelid <> confrelid`)
	if err != nil {
		return nil, err
	}
	edges, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	needs := map[string][]string{}
	for _, e := range edges {
		from, to, _ := strings.Cut(e, " ")
		needs[from] = append(needs[from], to)
	}
	var out []string
	done := map[string]bool{}
	var visit func(string)
	visit = func(name string) {
		if done[name] {
			return
		}
		done[name] = true
		for _, n := range needs[name] {
			visit(n)
		}
		if !notKept[name] {
			out = append(out, name)
		}
	}
	for _, n := range names {
		visit(n)
	}
	return out, nil
}

// Backup writes everything as it stands at one moment.
func Backup(ctx context.Context, url string, w io.Writer, at time.Time) (rows int64, err error) {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return 0, fmt.Errorf("reaching the database: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return 0, fmt.Errorf("beginning: %w", err)
	}
	defer func() { _ = tx.Rollback(ctx) }()
	var version int
	if err := conn.QueryRow(ctx, "SELECT max(version_id) FROM goose_db_version WHERE is_applied").Scan(&version); err != nil || version < 1 || version > len(schemas()) {
		return 0, errors.Join(errors.New("the database is not one of this program's"), err)
	}
	tables, err := tablesInOrder(ctx, conn)
	if err != nil {
		return 0, fmt.Errorf("listing the tables: %w", err)
	}
	zip := gzip.NewWriter(w)
	hash := sha256.New()
	out := io.MultiWriter(zip, hash)
	if err := writeLine(out, archiveHead{Format: archiveFormat, Schema: schemas()[version-1], At: at}); err != nil {
		return 0, err
	}
	for _, table := range tables {
		columns, err := columnsOf(ctx, conn, table)
		if err != nil {
			return rows, err
		}
		if err := writeLine(out, archiveSection{Table: table, Columns: columns}); err != nil {
			return rows, err
		}
		data := &pieces{out: out}
		tag, err := conn.PgConn().CopyTo(ctx, data, "COPY "+pgx.Identifier{table}.Sanitize()+" ("+quotedList(columns)+") TO STDOUT")
		if err != nil {
			return rows, fmt.Errorf("reading %s: %w", table, err)
		}
		n := tag.RowsAffected()
		rows += n
		if err := data.flush(); err != nil {
			return rows, err
		}
		if err := writeLine(out, archiveSection{Rows: &n}); err != nil {
			return rows, err
		}
	}
	if err := writeLine(out, archiveSection{Hash: hex.EncodeToString(hash.Sum(nil))}); err != nil {
		return rows, err
	}
	return rows, zip.Close()
}

func columnsOf(ctx context.Context, conn *pgx.Conn, table string) ([]string, error) {
	rows, err := conn.Query(ctx, `SELECT attname::text FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0
		AND NOT attisdropped AND attgenerated = '' ORDER BY attnum`, table)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

func quotedList(names []string) string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = pgx.Identifier{n}.Sanitize()
	}
	return strings.Join(out, ", ")
}

// Restore reads an archive into an empty database, or with replace in place of what a database holds. All of it goes
// in or nothing does. One of an earlier version goes into an empty database only, and is brought to the newest schema there.
func Restore(ctx context.Context, url string, r io.Reader, replace bool) (rows int64, err error) {
	zip, err := gzip.NewReader(r)
	if err != nil {
		return 0, ErrArchive
	}
	in := bufio.NewReaderSize(zip, 1<<20)
	hash := sha256.New()
	var head archiveHead
	if err := readLine(in, hash, &head); err != nil || head.Format != archiveFormat {
		return 0, ErrArchive
	}
	known := schemas()
	version := slices.Index(known, head.Schema) + 1
	if version == 0 {
		return 0, errors.New("the backup was made by a version of this program that this one does not know; restore it with that one, then migrate")
	}
	holds, err := Holds(ctx, url)
	if err != nil {
		return 0, err
	}
	if !holds.Empty && !replace {
		return 0, ErrNotEmpty
	}
	if version == len(known) {
		if err := Migrate(ctx, url); err != nil {
			return 0, err
		}
		return fillFrom(ctx, url, in, hash)
	}
	if !holds.Empty {
		return 0, errors.New("the backup was made by an earlier version of this program: restore it into an empty database, where it is brought up to date")
	}
	if err := Rollback(ctx, url, 0); err != nil {
		return 0, err
	}
	if err := MigrateTo(ctx, url, int64(version)); err != nil {
		return 0, err
	}
	if rows, err = fillFrom(ctx, url, in, hash); err != nil {
		return rows, errors.Join(err, Rollback(ctx, url, 0))
	}
	return rows, Migrate(ctx, url)
}

// fillFrom puts the tables of an archive in place of what is in the database's, in one transaction.
func fillFrom(ctx context.Context, url string, in *bufio.Reader, hash hash.Hash) (rows int64, err error) {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return 0, fmt.Errorf("reaching the database: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	tx, err := conn.Begin(ctx)
	if err != nil {
		return 0, fmt.Errorf("beginning: %w", err)
	}
	defer func() { _ = tx.Rollback(ctx) }()
	tables, err := tablesInOrder(ctx, conn)
	if err != nil {
		return 0, fmt.Errorf("listing the tables: %w", err)
	}
	if _, err := conn.Exec(ctx, "TRUNCATE sessions, "+quotedList(tables)); err != nil {
		return 0, fmt.Errorf("emptying the database: %w", err)
	}
	for {
		var s archiveSection
		before := hex.EncodeToString(hash.Sum(nil))
		if err := readLine(in, hash, &s); err != nil {
			return rows, ErrArchive
		}
		if s.Table == "" {
			if s.Hash != before {
				return rows, ErrArchive
			}
			return rows, tx.Commit(ctx)
		}
		data := &joined{in: in, hash: hash}
		tag, err := conn.PgConn().CopyFrom(ctx, data, "COPY "+pgx.Identifier{s.Table}.Sanitize()+" ("+quotedList(s.Columns)+") FROM STDIN")
		if data.bad {
			return rows, ErrArchive
		}
		if err != nil {
			return rows, fmt.Errorf("restoring %s: %w", s.Table, err)
		}
		if tag.RowsAffected() != data.rows {
			return rows, ErrArchive
		}
		rows += data.rows
	}
}

func writeLine(out io.Writer, v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	_, err = out.Write(append(b, '\n'))
	return err
}

func readLine(in *bufio.Reader, hash io.Writer, into any) error {
	b, err := in.ReadBytes('\n')
	if err != nil {
		return err
	}
	if _, err := hash.Write(b); err != nil {
		return err
	}
	return json.Unmarshal(b, into)
}
