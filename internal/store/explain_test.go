package store_test

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"nextround/internal/store"
)

// many are the tables that grow with units and visits; each has a row in testdata/released.sql.
var many = []string{
	"unit", "unit_stay", "coil", "surface", "task", "task_surface", "visit", "visit_person", "finding", "treatment", "task_reset", "interval_change",
}

// multiplied is the data of the first release brought up to date, with so many further copies of its units and their visits.
func multiplied(t *testing.T, copies int) string {
	t.Helper()
	url := empty(t)
	require.NoError(t, store.MigrateTo(t.Context(), url, released))
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer func() { _ = conn.Close(t.Context()) }()
	data, err := os.ReadFile("testdata/released.sql")
	require.NoError(t, err)
	_, err = conn.Exec(t.Context(), string(data))
	require.NoError(t, err)
	require.NoError(t, store.Migrate(t.Context(), url))
	// Each copy gets keys of its own, made from the first's, so that its rows go on pointing at one another.
	own := []string{"id", "unit_id", "coil_id", "surface_id", "task_id", "visit_id", "finding_id", "treatment_id"}
	_, err = conn.Exec(t.Context(), "SET session_replication_role = replica") // nothing is checked again
	require.NoError(t, err)
	for _, table := range many {
		var columns, values []string
		for _, c := range texts(t, conn, "SELECT attname::text FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped AND attgenerated = ''", table) {
			value := "t." + c
			switch {
			case slices.Contains(own, c):
				value = fmt.Sprintf("md5(t.%s::text || n)::uuid", c)
			case c == "tag":
				value = "t.tag || '-' || n"
			case c == "label_code":
				value = "md5(t.label_code || n)"
			}
			columns, values = append(columns, c), append(values, value)
		}
		_, err = conn.Exec(t.Context(), fmt.Sprintf("INSERT INTO %s (%s) SELECT %s FROM %s t, generate_series(1, %d) n", table, strings.Join(columns, ", "), strings.Join(values, ", "), table, copies))
		require.NoError(t, err, table)
	}
	_, err = conn.Exec(t.Context(), "ANALYZE")
	require.NoError(t, err)
	return url
}

// However much there is, the facts of some units are found by index: no statement reads a table from end to end. (Without the index of resets by visit
// a batch of 500 units took seventy times as long with 100,000 units.)
func TestFactsAreFoundByIndex(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), multiplied(t, 20_000))
	require.NoError(t, err)
	defer st.Close()
	orgs, err := st.OrganisationIDs(t.Context())
	require.NoError(t, err)
	require.Len(t, orgs, 1)
	var units []uuid.UUID
	require.NoError(t, st.DB.Table("unit").Order("id").Limit(100).Pluck("id", &units).Error)
	type statement struct {
		sql  string
		vars []any
	}
	var seen []statement
	require.NoError(t, st.DB.Callback().Query().After("gorm:query").Register("test:seen", func(db *gorm.DB) {
		seen = append(seen, statement{db.Statement.SQL.String(), slices.Clone(db.Statement.Vars)})
	}))
	facts, err := st.For(t.Context(), orgs[0]).LoadFacts(units)
	require.NoError(t, err)
	assert.Len(t, facts.Units, 100)
	assert.NotEmpty(t, facts.Resets)
	assert.Greater(t, len(seen), 20)
	whole := regexp.MustCompile(`Seq Scan on (` + strings.Join(many, "|") + `)\b`)
	for _, s := range seen {
		var plan []string
		rows, err := st.Pool.Query(t.Context(), "EXPLAIN "+s.sql, s.vars...)
		require.NoError(t, err)
		plan, err = pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err, s.sql)
		assert.NotRegexp(t, whole, strings.Join(plan, "\n"), s.sql)
	}
}
