package store_test

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/internal/store"
)

// furnish adds what units need: a class, a site and a placement.
func furnish(t *testing.T, tenant store.Tenant) (class, place uuid.UUID) {
	t.Helper()
	class, place = store.NewID(), store.NewID()
	site := store.NewID()
	require.NoError(t, store.Insert(tenant, store.EquipmentClass{
		OrganisationID: tenant.Org, ID: class, Code: "x", Name: "X", ReferenceDays: 60, ReferenceFanShare: 1, DeepDays: 182, MaxDays: 364,
		LightMinutes: 10, DeepMinutes: 30, UsualSoil: "dust", Load: "even", ReplaceCost: 900, People: 1, Founded: store.Founded{Evidence: "assumption", DefaultVersion: 1, Version: 1},
	}))
	require.NoError(t, store.Insert(tenant, store.Site{OrganisationID: tenant.Org, ID: site, Name: "Hall", Status: "open", Zone: "UTC", Water: "unknown", Version: 1}))
	require.NoError(t, store.Insert(tenant, store.Placement{OrganisationID: tenant.Org, ID: place, SiteID: site, Name: "Yard", Setting: "indoor", Water: "unknown", Drain: "unknown"}))
	return class, place
}

func units(tenant store.Tenant, class, place uuid.UUID, prefix string, n int) []store.Unit {
	day := store.Date(calendar.MustParse("2025-03-04"))
	year, cost := 2019, 12.5
	out := make([]store.Unit, n)
	for i := range out {
		out[i] = store.Unit{
			OrganisationID: tenant.Org, ID: store.NewID(), Tag: fmt.Sprintf("%s-%04d", prefix, i), ClassID: class, PlacementID: place,
			Flammable: "unknown", FanDrive: "fixed", Compressor: "fixed", Medium: "refrigerant", Make: `with "quotes", commas\ and` + "\ttabs", Status: "in_service", LabelCode: uuid.NewString(), Note: "Küche\nzwei", Version: 1,
		}
		if i%2 == 0 {
			out[i].Commissioned, out[i].Year, out[i].ConsequenceCost = &day, &year, &cost
		}
	}
	return out
}

// Rows that go in by COPY come back the same as those that go in by INSERT, whatever their columns hold.
func TestCopyAndInsertStoreTheSame(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	class, place := furnish(t, tenant)
	few, many := units(tenant, class, place, "I", 3), units(tenant, class, place, "C", 500)
	from, to := calendar.MustParse("2025-01-01"), calendar.MustParse("2026-01-01")
	stays := make([]store.UnitStay, len(many))
	lines := make([]store.SoilKind, 300)
	for i, u := range many {
		stays[i] = store.UnitStay{OrganisationID: tenant.Org, ID: store.NewID(), UnitID: u.ID, PlacementID: place}
		switch i % 3 {
		case 1:
			stays[i].During.From = &from
		case 2:
			stays[i].During = store.DateRange{From: &from, To: &to}
		}
	}
	for i := range lines {
		lines[i] = store.SoilKind{
			OrganisationID: tenant.Org, ID: store.NewID(), Code: fmt.Sprint(i), Name: "S", Family: "mixed", Penetration: .3,
			MonthWeights: store.Array[float64]{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12.5}, Founded: store.Founded{Evidence: "assumption", DefaultVersion: 1, Version: 1},
		}
	}
	require.NoError(t, tenant.InBulk(func(t store.Tenant) error {
		return errors.Join(store.Insert(t, few...), store.Insert(t, many...), store.Insert(t, stays...), store.Insert(t, lines...))
	}, nil))
	for _, want := range append(few, many...) {
		got, err := store.Get[store.Unit](tenant, want.ID)
		require.NoError(t, err)
		require.Equal(t, want, got)
	}
	for _, want := range stays {
		got, err := store.Get[store.UnitStay](tenant, want.ID)
		require.NoError(t, err)
		require.Equal(t, want, got)
	}
	got, err := store.Get[store.SoilKind](tenant, lines[7].ID)
	require.NoError(t, err)
	assert.Equal(t, lines[7], got)
}

func TestBulkIsAllOrNothing(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	class, place := furnish(t, tenant)
	list := units(tenant, class, place, "A", 300)
	twice := append(units(tenant, class, place, "B", 300), list[0])
	stop := errors.New("stop")
	for name, c := range map[string]struct {
		do     func(store.Tenant) error
		ignore error
		want   error
	}{
		"an error":         {func(t store.Tenant) error { return errors.Join(store.Insert(t, list...), stop) }, nil, stop},
		"one to be passed": {func(t store.Tenant) error { return errors.Join(store.Insert(t, list...), stop) }, stop, nil},
		"a tag twice":      {func(t store.Tenant) error { return errors.Join(store.Insert(t, list...), store.Insert(t, twice...)) }, nil, store.ErrDuplicate},
	} {
		err := tenant.InBulk(c.do, c.ignore)
		if c.want == nil {
			require.NoError(t, err, name)
		} else {
			require.ErrorIs(t, err, c.want, name)
		}
		left, err := store.All[store.Unit](tenant, "id")
		require.NoError(t, err)
		assert.Empty(t, left, name)
	}
	require.NoError(t, tenant.InBulk(func(t store.Tenant) error { return store.Insert(t, list...) }, nil))
	left, err := tenant.UnitIDs(uuid.Nil, 1000)
	require.NoError(t, err)
	assert.Len(t, left, 300)
}

// The days in both of two ranges are those that each holds.
func TestOverlapsHoldTheDaysOfBoth(t *testing.T) {
	t.Parallel()
	draw := func(t *rapid.T, name string) store.DateRange {
		var r store.DateRange
		at := calendar.MustParse("2025-01-01").Add(rapid.IntRange(0, 30).Draw(t, name))
		end := at.Add(rapid.IntRange(1, 30).Draw(t, name+" long"))
		if rapid.Bool().Draw(t, name+" from") {
			r.From = &at
		}
		if rapid.Bool().Draw(t, name+" to") {
			r.To = &end
		}
		return r
	}
	rapid.Check(t, func(t *rapid.T) {
		a, b := draw(t, "a"), draw(t, "b")
		both, some := a.Overlap(b)
		found := false
		for i := -5; i < 70; i++ {
			day := calendar.MustParse("2025-01-01").Add(i)
			in := a.Holds(day) && b.Holds(day)
			found = found || in
			if some {
				assert.Equal(t, in, both.Holds(day))
			}
		}
		assert.Equal(t, found, some)
	})
}

// A line is behind when its day is not the day at its site, whatever the day is elsewhere.
func TestLinesAreBehindByTheirSitesDay(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	class, place := furnish(t, tenant)
	list := units(tenant, class, place, "A", 1)
	coil := store.Coil{OrganisationID: tenant.Org, ID: store.NewID(), UnitID: list[0].ID, Role: "condenser", StartQuality: "unknown", Construction: "unstated", Slabs: 1, FinMetal: "unstated", TubeMetal: "unstated"}
	p, err := store.Get[store.Placement](tenant, place)
	require.NoError(t, err)
	site, err := store.Get[store.Site](tenant, p.SiteID)
	require.NoError(t, err)
	site.Zone, site.Version = "Pacific/Auckland", 2
	require.NoError(t, store.SaveVersion(tenant, site.ID, 1, &site))
	require.NoError(t, errors.Join(store.Insert(tenant, list...), store.Insert(tenant, coil)))
	noon := time.Date(2026, time.March, 4, 12, 0, 0, 0, time.UTC) // the fifth there
	behind := func() int {
		ids, err := tenant.UnitsBehind(noon, "m", 10)
		require.NoError(t, err)
		return len(ids)
	}
	assert.Equal(t, 1, behind(), "no line yet")
	line := store.CoilLine{
		OrganisationID: tenant.Org, CoilID: coil.ID, UnitID: list[0].ID, SiteID: site.ID, PlacementID: place, ClassID: class, SiteName: "Hall",
		ClassName: "X", Tag: "A-0000", Status: "in_service", Role: "condenser", Due: store.Date(calendar.MustParse("2026-03-05")), Blocked: -1,
		Line: store.JSON("{}"), AsOf: store.Date(calendar.MustParse("2026-03-05")), ModelVersion: "m", ComputedAt: noon,
	}
	require.NoError(t, tenant.PutCoilLines([]store.CoilLine{line}))
	assert.Zero(t, behind())
	line.AsOf = store.Date(calendar.MustParse("2026-03-04"))
	require.NoError(t, tenant.PutCoilLines([]store.CoilLine{line}))
	assert.Equal(t, 1, behind(), "yesterday's")
	require.NoError(t, tenant.AgeCoilLines())
	line.AsOf = store.Date(calendar.MustParse("2026-03-05"))
	require.NoError(t, tenant.PutCoilLines([]store.CoilLine{line}))
	assert.Zero(t, behind())
}

// Errors that mean a fault of the database are told apart from failures of the program.
func TestFaultsAreToldApart(t *testing.T) {
	t.Parallel()
	st, tenant, _ := house(t)
	raise := func(code string) error {
		return st.DB.Exec("DO $$ BEGIN RAISE EXCEPTION 'x' USING ERRCODE = '" + code + "'; END $$").Error
	}
	assert.True(t, store.Full(raise("53100")))
	for _, code := range []string{"57P01", "57P03", "08006", "53300"} {
		assert.True(t, store.Unreachable(raise(code)), code)
	}
	for _, code := range []string{"22001", "40001", "42601"} {
		assert.False(t, store.Unreachable(raise(code)), code)
		assert.False(t, store.Full(raise(code)), code)
	}
	st.Pool.Close()
	_, err := store.All[store.Unit](tenant, "id")
	assert.True(t, store.Unreachable(err), "%v", err)
}
