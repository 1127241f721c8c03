package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/store"
)

func TestOnePlanIsCurrentAndOneRuns(t *testing.T) {
	t.Parallel()
	_, tenant, _ := house(t)
	at := time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)
	plan := func(status string, current bool) store.Plan {
		return store.Plan{
			OrganisationID: tenant.Org, ID: store.NewID(), MadeBy: "planner", MadeAt: at, Status: status, IsCurrent: current, Version: 1, Days: 7, AliveAt: at,
			Problem: store.JSON("{}"),
		}
	}
	_, err := tenant.CurrentPlan()
	assert.ErrorIs(t, err, store.ErrNotFound)
	first := plan("done", true)
	require.NoError(t, store.Insert(tenant, first))
	assert.ErrorIs(t, store.Insert(tenant, plan("done", true)), store.ErrDuplicate)
	running := plan("running", false)
	require.NoError(t, store.Insert(tenant, running))
	assert.ErrorIs(t, store.Insert(tenant, plan("running", false)), store.ErrDuplicate)

	stop, err := tenant.TellPlan(running.ID, .5, 12, 3, 50, at)
	require.NoError(t, err)
	assert.False(t, stop)
	require.NoError(t, tenant.StopPlan())
	stop, err = tenant.TellPlan(running.ID, .6, 11, 3, 100, at)
	require.NoError(t, err)
	assert.True(t, stop)
	newest, err := tenant.NewestPlan()
	require.NoError(t, err)
	assert.Equal(t, running.ID, newest.ID)
	assert.InDelta(t, .6, newest.Share, 1e-12)
	assert.Equal(t, 100, newest.Iterations)

	// A run that is silent has lost its server.
	require.NoError(t, tenant.FailSilentPlans(at))
	newest, err = tenant.NewestPlan()
	require.NoError(t, err)
	assert.Equal(t, "running", newest.Status, "alive just now")
	require.NoError(t, tenant.FailSilentPlans(at.Add(time.Second)))
	newest, err = tenant.NewestPlan()
	require.NoError(t, err)
	assert.Equal(t, "failed", newest.Status)

	require.NoError(t, tenant.RetirePlans())
	_, err = tenant.CurrentPlan()
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, store.Insert(tenant, plan("done", true)))
}

func TestACalendarIsOpenUnderOneAddress(t *testing.T) {
	t.Parallel()
	st, tenant, _ := house(t)
	crew := store.Crew{OrganisationID: tenant.Org, ID: store.NewID(), Name: "Crew A", Kind: "own", People: 1, Skills: store.Array[string]{}, Kit: store.Array[string]{}}
	require.NoError(t, store.Insert(tenant, crew))
	at := time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)
	feed := func(hash string) store.FeedToken {
		return store.FeedToken{OrganisationID: tenant.Org, ID: store.NewID(), CrewID: crew.ID, TokenHash: hash, At: at}
	}
	require.NoError(t, store.Insert(tenant, feed("one")))
	assert.ErrorIs(t, store.Insert(tenant, feed("two")), store.ErrDuplicate, "one at a time")
	found, err := st.FindFeed(t.Context(), "one")
	require.NoError(t, err)
	assert.Equal(t, crew.ID, found.CrewID)
	require.NoError(t, tenant.CloseFeed(crew.ID, at))
	_, err = st.FindFeed(t.Context(), "one")
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, store.Insert(tenant, feed("two")))
	open, err := tenant.OpenFeeds()
	require.NoError(t, err)
	require.Len(t, open, 1)
	assert.Equal(t, "two", open[0].TokenHash)

	require.NoError(t, tenant.SendOnce("digest", "2026-03-02", at))
	assert.ErrorIs(t, tenant.SendOnce("digest", "2026-03-02", at), store.ErrDuplicate)
	require.NoError(t, tenant.SendOnce("reminder", "2026-03-02", at))
	rounds, err := tenant.RoundsOfCrew(crew.ID, calendar.MustParse("2026-03-01"))
	require.NoError(t, err)
	assert.Empty(t, rounds)
}
