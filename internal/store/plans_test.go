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
	st, tenant, _ := house(t)
	at, alive := time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC), time.Now()
	plan := func(status string, current bool) store.Plan {
		return store.Plan{
			OrganisationID: tenant.Org, ID: store.NewID(), MadeBy: "planner", MadeAt: at, Status: status, IsCurrent: current, Version: 1, Days: 7, AliveAt: alive, Attempt: 1,
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

	stop, err := tenant.TellPlan(running.ID, 1, .5, 12, 3, 50)
	require.NoError(t, err)
	assert.False(t, stop)
	require.NoError(t, tenant.StopPlan())
	stop, err = tenant.TellPlan(running.ID, 1, .6, 11, 3, 100)
	require.NoError(t, err)
	assert.True(t, stop)
	newest, err := tenant.NewestPlan()
	require.NoError(t, err)
	assert.Equal(t, running.ID, newest.ID)
	assert.InDelta(t, .6, newest.Share, 1e-12)
	assert.Equal(t, 100, newest.Iterations)

	// A run that is silent has lost its server; it is taken up again only where it is known what was asked.
	lost, err := st.LostPlans(t.Context(), time.Hour)
	require.NoError(t, err)
	assert.Empty(t, lost, "alive just now")
	lost, err = st.LostPlans(t.Context(), 0)
	require.NoError(t, err)
	assert.Equal(t, []store.Lost{{OrganisationID: tenant.Org, ID: running.ID, Attempt: 1}}, lost)
	next, err := tenant.ReturnPlan(running.ID, 1)
	require.NoError(t, err)
	assert.Zero(t, next)
	newest, err = tenant.NewestPlan()
	require.NoError(t, err)
	assert.Equal(t, "failed", newest.Status)

	kept := plan("running", false)
	kept.Asked = store.JSON("{}")
	require.NoError(t, store.Insert(tenant, kept))
	for attempt := 1; attempt < 3; attempt++ {
		next, err := tenant.ReturnPlan(kept.ID, attempt)
		require.NoError(t, err)
		assert.Equal(t, attempt+1, next)
		stop, err := tenant.TellPlan(kept.ID, attempt, .5, 1, 1, 1)
		require.NoError(t, err)
		assert.True(t, stop, "the attempt before is to stop")
		holds, err := tenant.HoldPlan(kept.ID, attempt)
		require.NoError(t, err)
		assert.False(t, holds, "and may not become the plan")
		claimed, err := tenant.ClaimPlan(kept.ID, next)
		require.NoError(t, err)
		assert.True(t, claimed)
		claimed, err = tenant.ClaimPlan(kept.ID, next)
		require.NoError(t, err)
		assert.False(t, claimed, "once")
	}
	next, err = tenant.ReturnPlan(kept.ID, 3)
	require.NoError(t, err)
	assert.Zero(t, next, "three times is enough")

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
