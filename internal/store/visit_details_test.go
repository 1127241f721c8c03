package store_test

import (
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

// sampleTenant opens the sample data as its one organisation.
func sampleTenant(t *testing.T) (store.Tenant, *store.Store) {
	t.Helper()
	st, err := store.Open(t.Context(), pgtest.Filled(t, "demo", demo.Fill))
	require.NoError(t, err)
	t.Cleanup(st.Close)
	orgs, err := st.OrganisationIDs(t.Context())
	require.NoError(t, err)
	require.Len(t, orgs, 1)
	return st.For(t.Context(), orgs[0]), st
}

func unitOf(t *testing.T, tenant store.Tenant, tag string) store.Unit {
	t.Helper()
	ids, err := tenant.UnitsByTag([]string{strings.ToLower(tag)})
	require.NoError(t, err)
	require.Len(t, ids, 1)
	u, err := store.Get[store.Unit](tenant, ids[0])
	require.NoError(t, err)
	return u
}

// The newest visit that graded a unit is the one that counts, with its worst side.
func TestLastFoundIsTheNewestVisit(t *testing.T) {
	t.Parallel()
	tenant, st := sampleTenant(t)
	units := []uuid.UUID{unitOf(t, tenant, "FA-IM-1").ID, unitOf(t, tenant, "NL-CU-2").ID}
	found, err := tenant.LastFound(units)
	require.NoError(t, err)
	require.Len(t, found, 2)
	for _, f := range found {
		var day time.Time
		var grade int
		row := st.DB.Raw(`SELECT v.day, max(f.grade) FROM visit v JOIN finding f ON f.visit_id = v.id AND f.phase = 'opened_up'
			WHERE v.unit_id = ? GROUP BY v.id, v.day ORDER BY v.day DESC LIMIT 1`, f.UnitID).Row()
		require.NoError(t, row.Scan(&day, &grade))
		assert.Equal(t, calendar.Of(day), f.Day.Day())
		assert.Equal(t, grade, f.Grade)
	}
	none, err := tenant.LastFound([]uuid.UUID{uuid.New()})
	require.NoError(t, err)
	assert.Empty(t, none)
}

// What came back from the field is listed as far as it may be seen.
func TestAttentionKeepsToTheSitesSeen(t *testing.T) {
	t.Parallel()
	tenant, _ := sampleTenant(t)
	all, err := tenant.Attention(calendar.MustParse("2026-01-01"), 100)
	require.NoError(t, err)
	require.NotEmpty(t, all)
	sites := map[string]bool{}
	for _, l := range all {
		sites[l.Site] = true
	}
	assert.True(t, sites["Fish Auction Hall"] && sites["Crew Canteen"])
	museum, err := tenant.SiteByName("Maritime Museum")
	require.NoError(t, err)
	tenant.Sites = []uuid.UUID{museum.ID}
	some, err := tenant.Attention(calendar.MustParse("2026-01-01"), 100)
	require.NoError(t, err)
	assert.Empty(t, some)
	symptoms, err := tenant.Symptoms(100)
	require.NoError(t, err)
	assert.Empty(t, symptoms)
	tenant.Sites = nil
	few, err := tenant.Attention(calendar.MustParse("2026-01-01"), 1)
	require.NoError(t, err)
	assert.Len(t, few, 1)
}

// An answer ends on the day another is given; one given the same day never held and goes away.
func TestAnswersEndWithoutOverlap(t *testing.T) {
	t.Parallel()
	tenant, _ := sampleTenant(t)
	first, second := calendar.MustParse("2026-01-01"), calendar.MustParse("2026-02-01")
	give := func(choice string, from calendar.Day) {
		_, err := tenant.EndAnswers("air", nil, nil, from)
		require.NoError(t, err)
		require.NoError(t, store.Insert(tenant, store.HouseRule{
			OrganisationID: tenant.Org, ID: store.NewID(), Question: "air", Choice: store.ToJSON(choice), Reason: "x", Valid: store.DateRange{From: &from}, Revision: 1,
		}))
	}
	give("yes", first)
	give("never", second)
	give("against", second)
	rows, err := store.All[store.HouseRule](tenant, "lower(valid)")
	require.NoError(t, err)
	held := []string{}
	for _, r := range rows {
		if r.Question == "air" {
			var choice string
			require.NoError(t, r.Choice.Into(&choice))
			held = append(held, choice)
			if choice == "yes" {
				assert.Equal(t, second, *r.Valid.To)
			}
		}
	}
	assert.Equal(t, []string{"yes", "against"}, held)
}

// A link is found by its hash alone while it is in force; a contractor's only until it was used.
func TestLinksAreFoundByTheirHash(t *testing.T) {
	t.Parallel()
	tenant, st := sampleTenant(t)
	u := unitOf(t, tenant, "CC-BC-1")
	place, err := store.Get[store.Placement](tenant, u.PlacementID)
	require.NoError(t, err)
	accounts, err := tenant.Accounts()
	require.NoError(t, err)
	at := time.Date(2026, 3, 4, 8, 0, 0, 0, time.UTC)
	add := func(kind, hash string, unit *uuid.UUID) store.GuestLink {
		row := store.GuestLink{
			OrganisationID: tenant.Org, ID: store.NewID(), Kind: kind, SiteID: place.SiteID, UnitID: unit, Name: "x", TokenHash: hash,
			ExpiresAt: at.Add(time.Hour), AccountID: accounts[0].ID, At: at,
		}
		require.NoError(t, store.Insert(tenant, row))
		return row
	}
	staff, once := add("site_staff", "a", nil), add("contractor", "b", &u.ID)
	found := func(hash string, at time.Time) bool {
		_, err := st.TakeGuestLink(t.Context(), hash, at)
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
		}
		return err == nil
	}
	assert.True(t, found("a", at) && found("b", at))
	assert.False(t, found("c", at))
	assert.False(t, found("a", at.Add(time.Hour)), "expired")
	for _, l := range []store.GuestLink{staff, once} {
		l.UsedAt = &at
		require.NoError(t, store.Save(tenant, l.ID, &l))
	}
	assert.True(t, found("a", at), "staff come again")
	assert.False(t, found("b", at), "a contractor does not")
	used, err := st.UsedGuestLink(t.Context(), "b", at)
	require.NoError(t, err)
	assert.Equal(t, once.ID, used.ID)
	staff.RevokedAt = &at
	require.NoError(t, store.Save(tenant, staff.ID, &staff))
	assert.False(t, found("a", at), "ended by hand")
}

// Two who change a reorder level at once: the second is told.
func TestReorderLevelsAreNotLost(t *testing.T) {
	t.Parallel()
	tenant, _ := sampleTenant(t)
	cleaners, err := store.All[store.Cleaner](tenant, "position")
	require.NoError(t, err)
	row := store.StockItem{OrganisationID: tenant.Org, CleanerID: cleaners[0].ID, ReorderAtL: 3, LeadDays: 5, Version: 1}
	require.NoError(t, tenant.SaveStockItem(row, 0))
	row.Version, row.ReorderAtL = 2, 4
	require.NoError(t, tenant.SaveStockItem(row, 1))
	assert.ErrorIs(t, tenant.SaveStockItem(row, 1), store.ErrStale)
	other, err := store.All[store.StockItem](tenant, "cleaner_id")
	require.NoError(t, err)
	for _, x := range other {
		if x.CleanerID == row.CleanerID {
			assert.InDelta(t, 4, x.ReorderAtL, 1e-9)
		}
	}
}
