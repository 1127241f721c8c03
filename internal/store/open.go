// Package store keeps the facts in PostgreSQL: models, queries and the numbered migrations.
//
// Every query of a domain table goes through Tenant, which binds it to one organisation.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is the open database. One pool serves GORM and the session store.
type Store struct {
	Pool *pgxpool.Pool
	DB   *gorm.DB
	// Pooled says that the database is reached through a pooler in transaction mode: nothing may be kept in a connection between
	// transactions, no prepared statement, no listening for notices.
	Pooled bool
	sql    *sql.DB

	statements atomic.Int64
}

// ThroughPooler is a database address for a pooler in transaction mode, such as PgBouncer: each statement is prepared and used
// in one go.
func ThroughPooler(address string) (string, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme == "" {
		return "", errors.New("the address of a database behind a pooler must be a postgres:// address")
	}
	q := u.Query()
	q.Set("default_query_exec_mode", "cache_describe")
	u.RawQuery = q.Encode()
	return u.String(), nil
}

// Open connects; it does not migrate.
func Open(ctx context.Context, url string) (*Store, error) {
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("reaching the database: %w", err)
	}
	raw := stdlib.OpenDBFromPool(pool)
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: raw}), &gorm.Config{
		Logger:                 statements(ctx),
		NowFunc:                func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
		SkipDefaultTransaction: true,
		TranslateError:         true,
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	s := &Store{Pool: pool, DB: db, sql: raw, Pooled: pool.Config().ConnConfig.DefaultQueryExecMode != pgx.QueryExecModeCacheStatement}
	if err := s.countStatements(); err != nil {
		pool.Close()
		return nil, fmt.Errorf("preparing the database: %w", err)
	}
	return s, nil
}

// statements is the log of SQL statements: every one, without its values, where debugging is on; none otherwise.
func statements(ctx context.Context) logger.Interface {
	log := slog.Default()
	if !log.Enabled(ctx, slog.LevelDebug) {
		return logger.Discard
	}
	return logger.NewSlogLogger(log, logger.Config{LogLevel: logger.Info, ParameterizedQueries: true, IgnoreRecordNotFoundError: true})
}

// Close gives all connections back.
func (s *Store) Close() {
	_ = s.sql.Close()
	s.Pool.Close()
}

// QueueSchema holds the tables of the queue of work in the background.
const QueueSchema = "river"

// Migrate brings the database to the newest schema, and the queue's with it.
func Migrate(ctx context.Context, url string) error {
	err := withProvider(url, func(p *goose.Provider) error {
		_, err := p.Up(ctx)
		return err
	})
	if err != nil {
		return err
	}
	db, err := sql.Open("pgx", url)
	if err != nil {
		return fmt.Errorf("reading the database address: %w", err)
	}
	defer func() { _ = db.Close() }()
	queue, err := rivermigrate.New(riverdatabasesql.New(db), &rivermigrate.Config{Schema: QueueSchema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("reading the queue's migrations: %w", err)
	}
	if _, err := queue.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	return nil
}

// MigrateTo brings the database to an earlier schema of ours, so that a backup of that time fits in.
func MigrateTo(ctx context.Context, url string, version int64) error {
	return withProvider(url, func(p *goose.Provider) error {
		_, err := p.UpTo(ctx, version)
		return err
	})
}

// clearAll empties every table but that of the migrations.
const clearAll = `DO $$ DECLARE names text; BEGIN
    SELECT string_agg(format('%I', tablename), ', ') INTO names FROM pg_tables WHERE schemaname = 'public' AND tablename <> 'goose_db_version';
    IF names IS NOT NULL THEN EXECUTE 'TRUNCATE ' || names || ' CASCADE'; END IF;
END $$`

// Rollback takes the schema back to a version; 0 is empty, whatever is in it: its rows go first, so that none stands in the way.
func Rollback(ctx context.Context, url string, version int64) error {
	if version == 0 {
		if err := execute(ctx, url, clearAll); err != nil {
			return fmt.Errorf("emptying the database: %w", err)
		}
	}
	return withProvider(url, func(p *goose.Provider) error {
		_, err := p.DownTo(ctx, version)
		return err
	})
}

// Pending reports whether the schema is older than this program.
func Pending(ctx context.Context, url string) (bool, error) {
	pending := false
	err := withProvider(url, func(p *goose.Provider) (err error) {
		pending, err = p.HasPending(ctx)
		return err
	})
	return pending, err
}

func execute(ctx context.Context, url, statement string) error {
	db, err := sql.Open("pgx", url)
	if err != nil {
		return fmt.Errorf("reading the database address: %w", err)
	}
	defer func() { _ = db.Close() }()
	_, err = db.ExecContext(ctx, statement)
	return err
}

func withProvider(url string, do func(*goose.Provider) error) error {
	db, err := sql.Open("pgx", url)
	if err != nil {
		return fmt.Errorf("reading the database address: %w", err)
	}
	defer func() { _ = db.Close() }()
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, files)
	if err != nil {
		return fmt.Errorf("reading the migrations: %w", err)
	}
	if err := do(p); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	return nil
}

// schemas names every schema there was, the oldest first: the hash of the migration files up to and with its own.
func schemas() []string {
	h := sha256.New()
	entries, _ := migrations.ReadDir("migrations")
	out := make([]string, len(entries))
	for i, e := range entries {
		b, _ := migrations.ReadFile("migrations/" + e.Name())
		h.Write(b)
		out[i] = hex.EncodeToString(h.Sum(nil))
	}
	return out
}

// MigrationsHash names the newest schema.
func MigrationsHash() string {
	all := schemas()
	return all[len(all)-1]
}

// NewID is a UUIDv7, so that keys sort by the time they were made.
func NewID() uuid.UUID { return uuid.Must(uuid.NewV7()) }

// Tenant is a connection or transaction bound to one organisation and, where somebody may only see some of its
// sites, to those.
type Tenant struct {
	Org uuid.UUID
	// Sites that may be seen; nil means all.
	Sites []uuid.UUID
	db    *gorm.DB
	bulk  *sql.Conn // inside InBulk
}

// For binds to an organisation.
func (s *Store) For(ctx context.Context, org uuid.UUID) Tenant {
	return Tenant{Org: org, db: s.DB.WithContext(ctx)}
}

// Context is that of whoever asked.
func (t Tenant) Context() context.Context { return t.db.Statement.Context }

// InTransaction runs do in one transaction.
func (t Tenant) InTransaction(do func(Tenant) error) error {
	return t.db.Transaction(func(tx *gorm.DB) error { return do(Tenant{Org: t.Org, Sites: t.Sites, db: tx, bulk: t.bulk}) })
}

// scoped starts a query on a table, bound to the organisation. No other way of querying is used in this
// package for domain tables.
func (t Tenant) scoped() *gorm.DB { return t.db.Where("organisation_id = ?", t.Org) }

// lock is a scoped query whose rows stay locked until the transaction ends. Outside one there is nothing to keep: the rows are
// only read, as a database that is a standby allows.
func (t Tenant) lock() *gorm.DB {
	if _, in := t.db.Statement.ConnPool.(gorm.TxCommitter); !in {
		return t.scoped()
	}
	return t.scoped().Clauses(clause.Locking{Strength: "UPDATE"})
}

// Statements counts the statements that went through GORM since the store was opened.
func (s *Store) Statements() int64 { return s.statements.Load() }

// countStatements registers the counter behind Statements.
func (s *Store) countStatements() error {
	count := func(*gorm.DB) { s.statements.Add(1) }
	c := s.DB.Callback()
	if err := c.Query().After("gorm:query").Register("nextround:count", count); err != nil {
		return err
	}
	if err := c.Row().After("gorm:row").Register("nextround:count", count); err != nil {
		return err
	}
	if err := c.Raw().After("gorm:raw").Register("nextround:count", count); err != nil {
		return err
	}
	if err := c.Create().After("gorm:create").Register("nextround:count", count); err != nil {
		return err
	}
	if err := c.Update().After("gorm:update").Register("nextround:count", count); err != nil {
		return err
	}
	return c.Delete().After("gorm:delete").Register("nextround:count", count)
}
