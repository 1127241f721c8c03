package store_test

import (
	"context"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg/pgtest"
)

// exempt tables belong to no organisation.
var exempt = map[string]bool{"organisation": true, "account": true, "sessions": true, "goose_db_version": true, "account_token": true, "account_session": true, "account_device": true, "account_recovery": true, "sign_in_attempt": true}

func connect(t *testing.T) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

func texts(t *testing.T, conn *pgx.Conn, sql string, args ...any) []string {
	t.Helper()
	rows, err := conn.Query(context.Background(), sql, args...)
	require.NoError(t, err)
	out, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	return out
}

func TestEveryDomainTableBelongsToAnOrganisation(t *testing.T) {
	t.Parallel()
	conn := connect(t)
	tables := texts(t, conn, `SELECT tablename::text FROM pg_tables WHERE schemaname = 'public' ORDER BY 1`)
	assert.Greater(t, len(tables), 30)
	for _, table := range tables {
		if exempt[table] {
			continue
		}
		key := texts(t, conn, `
			SELECT a.attname::text FROM pg_index i
			CROSS JOIN LATERAL unnest(i.indkey) WITH ORDINALITY k(num, pos)
			JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = k.num
			WHERE i.indrelid = $1::regclass AND i.indisprimary ORDER BY k.pos`, table)
		require.NotEmpty(t, key, "%s has no primary key", table)
		assert.Equal(t, "organisation_id", key[0], "%s: the key leads with the organisation", table)
		assert.GreaterOrEqual(t, len(key), 2, table)
	}
}

// A foreign key between domain tables carries the organisation, so that no row can point into another one.
func TestForeignKeysCarryTheOrganisation(t *testing.T) {
	t.Parallel()
	conn := connect(t)
	rows, err := conn.Query(context.Background(), `
		SELECT c.conrelid::regclass::text, c.confrelid::regclass::text, c.conname::text,
			(SELECT bool_or(a.attname = 'organisation_id') FROM pg_attribute a WHERE a.attrelid = c.conrelid AND a.attnum = ANY (c.conkey))
		FROM pg_constraint c WHERE c.contype = 'f'`)
	require.NoError(t, err)
	n := 0
	for rows.Next() {
		var from, to, name string
		var carries bool
		require.NoError(t, rows.Scan(&from, &to, &name, &carries))
		n++
		if to != "account" {
			assert.True(t, carries, "%s: %s → %s", name, from, to)
		}
	}
	require.NoError(t, rows.Err())
	assert.Greater(t, n, 40)
}

// Every foreign key's columns lead some index, so that following it backwards is not a search of the table.
func TestIndexedLookups(t *testing.T) {
	t.Parallel()
	conn := connect(t)
	for table, column := range map[string]string{
		"site_window": "site_id", "task": "unit_id", "unit_stay": "unit_id", "coil": "unit_id", "surface": "coil_id", "visit": "unit_id",
		"finding": "visit_id", "treatment": "visit_id", "visit_surface": "visit_id", "visit_person": "visit_id", "task_surface": "task_id",
		"interval_change": "task_id", "stop": "round_id", "stop_job": "task_id", "membership": "account_id", "finding_soil": "finding_id",
		"treatment_surface": "treatment_id",
	} {
		found := texts(t, conn, `
			SELECT i.indexrelid::regclass::text FROM pg_index i
			WHERE i.indrelid = $1::regclass AND (
				SELECT a.attnum FROM pg_attribute a WHERE a.attrelid = i.indrelid AND a.attname = $2) = ANY (i.indkey[0:1])`, table, column)
		assert.NotEmpty(t, found, "%s by %s", table, column)
	}
}

// The database itself refuses what must never be, whatever a program does.
func TestTheDatabaseRefusesImpossibleRows(t *testing.T) {
	t.Parallel()
	conn := connect(t)
	ctx := context.Background()
	exec := func(sql string) error {
		_, err := conn.Exec(ctx, sql)
		return err
	}
	const org = "'01a20bbc-3b1f-7569-b022-000000000001'"
	const a, b, c = "'01a20bbc-3b1f-7569-b022-00000000000a'", "'01a20bbc-3b1f-7569-b022-00000000000b'", "'01a20bbc-3b1f-7569-b022-00000000000c'"
	for _, sql := range []string{
		`INSERT INTO organisation VALUES (` + org + `, 'Trust', 'UTC', 'EUR', 'metric', now())`,
		`INSERT INTO equipment_class VALUES (` + org + `, ` + a + `, 'x', 'X', 60, 1, 30, 182, 364, 10, 30, 'dust', 0, 'assumption', '')`,
		`INSERT INTO site (organisation_id, id, name, zone) VALUES (` + org + `, ` + a + `, 'Hall', 'UTC')`,
		`INSERT INTO placement (organisation_id, id, site_id, name) VALUES (` + org + `, ` + a + `, ` + a + `, 'Yard')`,
		`INSERT INTO unit (organisation_id, id, tag, class_id, placement_id, label_code) VALUES (` + org + `, ` + a + `, 'IM-1', ` + a + `, ` + a + `, 'a')`,
		`INSERT INTO unit_stay VALUES (` + org + `, ` + a + `, ` + a + `, ` + a + `, '[2025-01-01,2025-06-01)')`,
		`INSERT INTO factor_def (organisation_id, id, code, name, multiplier, position, evidence, source) VALUES (` + org + `, ` + a + `, 'f', 'F', 2, 0, 'assumption', '')`,
		`INSERT INTO visit (organisation_id, id, unit_id, day, outcome, submitted_at) VALUES (` + org + `, ` + a + `, ` + a + `, '2025-03-01', 'done', now())`,
		`INSERT INTO unit_pause VALUES (` + org + `, ` + a + `, ` + a + `, '[2025-01-01,2025-02-01)', 'x')`,
		`INSERT INTO unit_access (organisation_id, id, unit_id, valid) VALUES (` + org + `, ` + a + `, ` + a + `, '[2025-01-01,2025-02-01)')`,
	} {
		require.NoError(t, exec(sql), sql)
	}
	for name, sql := range map[string]string{
		"a unit in two places at once":     `INSERT INTO unit_stay VALUES (` + org + `, ` + b + `, ` + a + `, ` + a + `, '[2025-05-01,2025-07-01)')`,
		"the same tag twice":               `INSERT INTO unit (organisation_id, id, tag, class_id, placement_id, label_code) VALUES (` + org + `, ` + b + `, 'IM-1', ` + a + `, ` + a + `, 'b')`,
		"a factor at two scopes":           `INSERT INTO site_factor VALUES (` + org + `, ` + b + `, ` + a + `, ` + a + `, ` + a + `, NULL, '[2025-01-01,)', '')`,
		"a factor nowhere":                 `INSERT INTO site_factor VALUES (` + org + `, ` + b + `, ` + a + `, NULL, NULL, NULL, '[2025-01-01,)', '')`,
		"a factor on no day":               `INSERT INTO site_factor VALUES (` + org + `, ` + b + `, ` + a + `, ` + a + `, NULL, NULL, 'empty', '')`,
		"an outcome nobody knows":          `INSERT INTO visit (organisation_id, id, unit_id, day, outcome, submitted_at) VALUES (` + org + `, ` + b + `, ` + a + `, '2025-03-01', 'fine', now())`,
		"a side missed for no reason":      `INSERT INTO visit_surface VALUES (` + org + `, ` + a + `, ` + a + `, false, '')`,
		"a visit of a unit that is not":    `INSERT INTO visit (organisation_id, id, unit_id, day, outcome, submitted_at) VALUES (` + org + `, ` + b + `, ` + c + `, '2025-03-01', 'done', now())`,
		"a clean known on no day":          `INSERT INTO coil VALUES (` + org + `, ` + b + `, ` + a + `, 'condenser', 'exact', NULL)`,
		"an interval of one's own, no why": `INSERT INTO interval_change VALUES (` + org + `, ` + b + `, ` + a + `, 30, 20, 'own', '', NULL, NULL, now())`,
		"a multiplier of nothing":          `INSERT INTO factor_def (organisation_id, id, code, name, multiplier, position, evidence, source) VALUES (` + org + `, ` + b + `, 'g', 'G', 0, 0, 'assumption', '')`,
		"evidence of a kind of its own":    `INSERT INTO factor_def (organisation_id, id, code, name, multiplier, position, evidence, source) VALUES (` + org + `, ` + b + `, 'g', 'G', 2, 0, 'hearsay', '')`,
		"two pauses at once":               `INSERT INTO unit_pause VALUES (` + org + `, ` + b + `, ` + a + `, '[2025-01-15,)', 'x')`,
		"two accesses at once":             `INSERT INTO unit_access (organisation_id, id, unit_id, valid) VALUES (` + org + `, ` + b + `, ` + a + `, '[2025-01-15,)')`,
		"a surface of nothing":             `INSERT INTO surface (organisation_id, id, name, position, area_share) VALUES (` + org + `, ` + b + `, 'x', 0, 1)`,
		"a filter clock on a coil":         `INSERT INTO task (organisation_id, id, unit_id, coil_id, kind, every_days) VALUES (` + org + `, ` + b + `, ` + a + `, ` + b + `, 'filter', 30)`,
		"a deep clock on no coil":          `INSERT INTO task (organisation_id, id, unit_id, kind, every_days) VALUES (` + org + `, ` + b + `, ` + a + `, 'deep', 30)`,
		"a side out of reach, no why":      `INSERT INTO surface (organisation_id, id, unit_id, name, position, area_share, reachable) VALUES (` + org + `, ` + b + `, ` + a + `, 'x', 0, 1, false)`,
		"a login in capitals":              `INSERT INTO account VALUES (` + b + `, 'Manager', 'x', false, now())`,
	} {
		assert.Error(t, exec(sql), name)
	}
	assert.NoError(t, exec(`INSERT INTO unit_stay VALUES (`+org+`, `+b+`, `+a+`, `+a+`, '[2025-06-01,)')`), "one stay after another")
}
