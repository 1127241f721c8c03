package store_test

import (
	"context"
	"maps"
	"os"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func TestMigrationsGoDownAndUpAgain(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	url := pgtest.New(t)
	pending, err := store.Pending(ctx, url)
	require.NoError(t, err)
	assert.False(t, pending)
	require.NoError(t, store.Rollback(ctx, url, 0))
	pending, err = store.Pending(ctx, url)
	require.NoError(t, err)
	assert.True(t, pending)
	require.NoError(t, store.Migrate(ctx, url))
}

// released is the schema of the first release, 0.1.0.
const released = 5

// Data of the first release comes through every migration up, down and up again.
func TestMigrationsCarryDataFromTheFirstRelease(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	url := pgtest.New(t)
	require.NoError(t, store.Rollback(ctx, url, released))
	conn, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer func() { _ = conn.Close(ctx) }()
	data, err := os.ReadFile("testdata/released.sql")
	require.NoError(t, err)
	_, err = conn.Exec(ctx, string(data))
	require.NoError(t, err)
	tables := []string{
		"organisation", "account", "person", "membership", "equipment_class", "class_side", "soil_kind", "factor_def", "method", "cleaner",
		"house_rule", "site", "site_window", "placement", "unit", "unit_stay", "coil", "surface", "site_factor", "task", "task_surface",
		"import_run", "visit", "visit_person", "finding", "treatment", "task_reset", "proposal", "interval_change", "round", "stop", "stop_job", "audit",
	}
	counts := func() map[string]int {
		out := map[string]int{}
		for _, table := range tables {
			var n int
			require.NoError(t, conn.QueryRow(ctx, "SELECT count(*) FROM "+table).Scan(&n), table)
			assert.Positive(t, n, table)
			out[table] = n
		}
		return out
	}
	before := counts()
	after := maps.Clone(before)
	after["house_rule"] += 2 // the risk with which the limit may be passed, and the share of days
	require.NoError(t, store.Migrate(ctx, url))
	assert.Equal(t, after, counts())
	var stands, label string
	require.NoError(t, conn.QueryRow(ctx, `SELECT p.name, u.label_code FROM unit u JOIN placement p ON p.id = u.placement_id WHERE u.tag = 'IM-1'`).Scan(&stands, &label))
	assert.Equal(t, "Roof", stands, "where its last stay is")
	assert.Len(t, label, 32)
	require.NoError(t, store.Rollback(ctx, url, released))
	assert.Equal(t, before, counts())
	require.NoError(t, store.Migrate(ctx, url))
	assert.Equal(t, after, counts())

	// And the program of today works with it.
	st, err := store.Open(ctx, url)
	require.NoError(t, err)
	defer st.Close()
	m, err := st.MemberByLogin(ctx, "manager")
	require.NoError(t, err)
	facts, err := st.For(ctx, m.Organisation.ID).LoadFacts(nil)
	require.NoError(t, err)
	assert.Len(t, facts.Units, 1)
	assert.Len(t, facts.Visits, 1)
}

func TestValuesSurviveTheDatabase(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	org := store.Organisation{ID: store.NewID(), Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric", CreatedAt: st.DB.NowFunc()}
	require.NoError(t, st.CreateOrganisation(ctx, &org))
	other := store.Organisation{ID: store.NewID(), Name: "Other", Zone: "UTC", Currency: "EUR", Units: "metric", CreatedAt: st.DB.NowFunc()}
	require.NoError(t, st.CreateOrganisation(ctx, &other))
	tenant := st.For(ctx, org.ID)

	site := store.Site{OrganisationID: org.ID, ID: store.NewID(), Name: "Hall", Status: "open", Zone: "UTC", Water: "unknown", Version: 1}
	require.NoError(t, store.Insert(tenant, site))
	from := calendar.MustParse("2025-05-01")
	window := store.SiteWindow{
		OrganisationID: org.ID, ID: store.NewID(), SiteID: site.ID, Kind: "quiet", Weekdays: store.Array[int]{1, 5},
		Starts: "10:00", Ends: "16:00", Valid: store.DateRange{From: &from}, Note: "silence",
	}
	require.NoError(t, store.Insert(tenant, window))
	back, err := store.Get[store.SiteWindow](tenant, window.ID)
	require.NoError(t, err)
	assert.Equal(t, window.Weekdays, back.Weekdays)
	assert.Equal(t, window.Valid, back.Valid)
	assert.Equal(t, "10:00:00", back.Starts)
	assert.True(t, back.Valid.Holds(from))
	assert.False(t, back.Valid.Holds(from.Add(-1)))

	soil := store.SoilKind{
		OrganisationID: org.ID, ID: store.NewID(), Code: "dust", Name: "Dust", Family: "dust_like", Penetration: .3,
		MonthWeights: store.Array[float64]{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, .5, 1.5}, Founded: store.Founded{Evidence: "assumption", DefaultVersion: 1},
	}
	require.NoError(t, store.Insert(tenant, soil))
	soils, err := store.All[store.SoilKind](tenant, "position")
	require.NoError(t, err)
	assert.Equal(t, soil.MonthWeights, soils[0].MonthWeights)

	_, err = store.Get[store.Site](st.For(ctx, other.ID), site.ID)
	assert.ErrorIs(t, err, store.ErrNotFound, "another organisation sees nothing")
	alien := store.Placement{OrganisationID: other.ID, ID: store.NewID(), SiteID: site.ID, Name: "Roof", Setting: "roof", Water: "unstated"}
	assert.Error(t, store.Insert(st.For(ctx, other.ID), alien), "a row cannot point into another organisation")
	twin := store.Site{OrganisationID: org.ID, ID: store.NewID(), Name: "Hall", Status: "open", Zone: "UTC", Water: "unknown", Version: 1}
	assert.ErrorIs(t, store.Insert(tenant, twin), store.ErrDuplicate)
}
