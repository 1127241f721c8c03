package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"reflect"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/schema"
)

// copyFrom is the number of rows from which Insert uses COPY inside InBulk.
const copyFrom = 200

// InBulk is InTransaction for many rows: inside it Insert writes large lists with COPY. An error that is ignore takes
// everything back and is not reported.
func (t Tenant) InBulk(do func(Tenant) error, ignore error) error {
	err := t.inBulk(do)
	if ignore != nil && errors.Is(err, ignore) {
		return nil
	}
	return err
}

func (t Tenant) inBulk(do func(Tenant) error) (err error) {
	ctx := t.db.Statement.Context
	pool, err := t.db.DB()
	if err != nil {
		return fmt.Errorf("reaching the database: %w", err)
	}
	conn, err := pool.Conn(ctx)
	if err != nil {
		return fmt.Errorf("reaching the database: %w", err)
	}
	defer func() { _ = conn.Close() }()
	tx, err := conn.BeginTx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning: %w", err)
	}
	defer func() {
		if err != nil {
			_ = tx.Rollback()
		}
	}()
	db := t.db.Session(&gorm.Session{NewDB: true, Context: ctx}) // with a statement of its own
	db.Statement.ConnPool = tx
	if err := do(Tenant{Org: t.Org, Sites: t.Sites, db: db, bulk: conn}); err != nil {
		return err
	}
	return tx.Commit()
}

var parsed sync.Map // schemas, by GORM

// copyRows writes rows with COPY.
func copyRows[T any](t Tenant, rows []T) error {
	ctx := t.db.Statement.Context
	model, err := schema.Parse(new(T), &parsed, t.db.NamingStrategy)
	if err != nil {
		return fmt.Errorf("reading %T: %w", rows[0], err)
	}
	columns := model.DBNames
	source := pgx.CopyFromSlice(len(rows), func(i int) ([]any, error) {
		v := reflect.ValueOf(&rows[i]).Elem()
		out := make([]any, len(columns))
		for k, name := range columns {
			value, _ := model.FieldsByDBName[name].ValueOf(ctx, v)
			out[k] = forCopy(value)
		}
		return out, nil
	})
	err = t.bulk.Raw(func(raw any) error {
		_, err := raw.(*stdlib.Conn).Conn().CopyFrom(ctx, pgx.Identifier{model.Table}, columns, source)
		return err
	})
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return ErrDuplicate
	}
	if err != nil {
		return fmt.Errorf("storing %T: %w", rows[0], err)
	}
	return nil
}

// forCopy turns the values of our columns into what the binary format of COPY takes.
func forCopy(v any) any {
	switch x := v.(type) {
	case uuid.UUID:
		return pgtype.UUID{Bytes: x, Valid: true}
	case *uuid.UUID:
		if x == nil {
			return nil
		}
		return pgtype.UUID{Bytes: *x, Valid: true}
	case DateRange:
		r := pgtype.Range[pgtype.Date]{LowerType: pgtype.Unbounded, UpperType: pgtype.Unbounded, Valid: true}
		if x.From != nil {
			r.Lower, r.LowerType = pgtype.Date{Time: x.From.Time(), Valid: true}, pgtype.Inclusive
		}
		if x.To != nil {
			r.Upper, r.UpperType = pgtype.Date{Time: x.To.Time(), Valid: true}, pgtype.Exclusive
		}
		return r
	case JSON:
		return []byte(x)
	case Date:
		return x.Day().Time()
	case *Date:
		if x == nil {
			return nil
		}
		return x.Day().Time()
	case driver.Valuer:
		if r := reflect.ValueOf(v); r.Kind() == reflect.Pointer && r.IsNil() {
			return nil
		}
	}
	return v
}

// KeepMapping remembers what a foreign column name stands for.
func (t Tenant) KeepMapping(row ImportMapping) error {
	return t.db.Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "organisation_id"}, {Name: "kind"}, {Name: "foreign_name"}},
		DoUpdates: clause.AssignmentColumns([]string{"column_name"}),
	}).Create(&row).Error
}

// StepWaiting is the step of a run that no server has taken up yet.
const StepWaiting = "waiting"

// mostAttempts is how often a run is taken up again after its server was lost.
const mostAttempts = 3

// ClaimImport takes up a run that waits; false where it does not wait any more at that attempt.
func (t Tenant) ClaimImport(id uuid.UUID, attempt int, step string) (bool, error) {
	res := t.scoped().Model(&ImportRun{}).Where("id = ? AND attempt = ? AND status = 'running' AND step = ?", id, attempt, StepWaiting).
		Updates(map[string]any{"step": step, "alive_at": databaseNow})
	return res.RowsAffected == 1, res.Error
}

// TellImport says how far a run is, and returns whether somebody wants it stopped and whether it still counts as running.
func (t Tenant) TellImport(id uuid.UUID, attempt int, step string, done, total int) (stop, running bool, err error) {
	var row struct{ CancelWanted bool }
	res := t.db.Raw(`UPDATE import_run SET step = ?, done = ?, total = ?, alive_at = clock_timestamp()
		WHERE organisation_id = ? AND id = ? AND attempt = ? AND status = 'running' RETURNING cancel_wanted`,
		step, done, total, t.Org, id, attempt).Scan(&row)
	return row.CancelWanted, res.RowsAffected == 1, res.Error
}

// EndImport keeps how a run ended, and drops its file; false when it was ended or taken up again before. Within the transaction
// that stores what the run took in, it is the fence: a run told as ended stores nothing.
func (t Tenant) EndImport(row ImportRun) (ended bool, err error) {
	res := t.db.Model(&ImportRun{}).Where("organisation_id = ? AND id = ? AND attempt = ? AND status = 'running'", t.Org, row.ID, row.Attempt).
		Select("rows", "status", "step", "done", "total", "report").Updates(row)
	if res.Error != nil || res.RowsAffected == 0 {
		return false, res.Error
	}
	return true, t.dropImportFile(row.ID)
}

func (t Tenant) dropImportFile(run uuid.UUID) error {
	return t.scoped().Where("run_id = ?", run).Delete(&ImportFile{}).Error
}

// ImportFileOf is the file of a run at work.
func (t Tenant) ImportFileOf(run uuid.UUID) ([]byte, error) {
	var row ImportFile
	err := t.scoped().Where("run_id = ?", run).Take(&row).Error
	return row.File, notFound(err)
}

// databaseNow is the database's clock: servers whose clocks differ agree on whether a run is alive.
var databaseNow = gorm.Expr("clock_timestamp()")

// Lost is a run whose server was lost.
type Lost struct {
	OrganisationID, ID uuid.UUID
	Attempt            int
}

// LostImports lists the runs at work that have not told of themselves for so long.
func (s *Store) LostImports(ctx context.Context, silent time.Duration) ([]Lost, error) {
	var rows []Lost
	err := s.DB.WithContext(ctx).Model(&ImportRun{}).Where("status = 'running' AND step <> ? AND alive_at < clock_timestamp() - make_interval(secs => ?)", StepWaiting, silent.Seconds()).Find(&rows).Error
	return rows, err
}

// ReturnImport lets a run wait again, for whichever server takes it up, and returns the attempt that will be. It ends as failed
// where its file was not kept or it was lost too often; then, and where it was ended before, the attempt is 0.
func (t Tenant) ReturnImport(id uuid.UUID, attempt int) (next int, err error) {
	mine := t.scoped().Model(&ImportRun{}).Where("id = ? AND attempt = ? AND status = 'running'", id, attempt)
	if attempt < mostAttempts {
		res := mine.Session(&gorm.Session{}).Where("NOT cancel_wanted AND EXISTS (SELECT 1 FROM import_file f WHERE f.organisation_id = import_run.organisation_id AND f.run_id = import_run.id)").
			Updates(map[string]any{"step": StepWaiting, "done": 0, "total": 0, "alive_at": databaseNow, "attempt": attempt + 1})
		if res.Error != nil || res.RowsAffected == 1 {
			return attempt + 1, res.Error
		}
	}
	res := mine.Updates(map[string]any{"status": gorm.Expr("CASE WHEN cancel_wanted THEN 'cancelled' ELSE 'failed' END"), "step": ""})
	if res.Error != nil || res.RowsAffected == 0 {
		return 0, res.Error
	}
	return 0, t.dropImportFile(id)
}

// WantImportCancelled asks a running import to stop, and ends one that waits; ErrNotFound when there is no such run.
func (t Tenant) WantImportCancelled(id uuid.UUID) error {
	res := t.scoped().Model(&ImportRun{}).Where("id = ?", id).Update("cancel_wanted", true)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	if res.Error != nil {
		return res.Error
	}
	res = t.scoped().Model(&ImportRun{}).Where("id = ? AND status = 'running' AND step = ?", id, StepWaiting).Updates(map[string]any{"status": "cancelled", "step": ""})
	if res.Error != nil || res.RowsAffected == 0 {
		return res.Error
	}
	return t.dropImportFile(id)
}

// NewestImports lists the newest runs, newest first.
func (t Tenant) NewestImports(limit int) ([]ImportRun, error) {
	var rows []ImportRun
	err := t.scoped().Order("at DESC, id DESC").Limit(limit).Find(&rows).Error
	return rows, err
}
