package store_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func TestMigrationsGoDownAndUpAgain(t *testing.T) {
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

func TestValuesSurviveTheDatabase(t *testing.T) {
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	org := store.Organisation{ID: store.NewID(), Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric", CreatedAt: st.DB.NowFunc()}
	require.NoError(t, st.CreateOrganisation(ctx, &org))
	other := store.Organisation{ID: store.NewID(), Name: "Other", Zone: "UTC", Currency: "EUR", Units: "metric", CreatedAt: st.DB.NowFunc()}
	require.NoError(t, st.CreateOrganisation(ctx, &other))
	tenant := st.For(ctx, org.ID)

	site := store.Site{OrganisationID: org.ID, ID: store.NewID(), Name: "Hall", Status: "open", Zone: "UTC", Version: 1}
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
	alien := store.Placement{OrganisationID: other.ID, ID: store.NewID(), SiteID: site.ID, Name: "Roof", Setting: "roof"}
	assert.Error(t, store.Insert(st.For(ctx, other.ID), alien), "a row cannot point into another organisation")
	twin := store.Site{OrganisationID: org.ID, ID: store.NewID(), Name: "Hall", Status: "open", Zone: "UTC", Version: 1}
	assert.ErrorIs(t, store.Insert(tenant, twin), store.ErrDuplicate)
}
