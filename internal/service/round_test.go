package service_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

func (h *house) next() contract.NextRound {
	h.t.Helper()
	n, err := h.svc.NextRound(h.ctx, h.manager, nil, nil)
	require.NoError(h.t, err)
	return n
}

func tasksOf(n contract.NextRound) []uuid.UUID {
	ids := []uuid.UUID{}
	for _, s := range n.Stops {
		for _, j := range s.Jobs {
			ids = append(ids, j.TaskID)
		}
	}
	return ids
}

func TestRoundFromDueToPublishedToWithdrawn(t *testing.T) {
	h := newHouse(t)
	assert.Empty(t, h.next().Crew, "no crew yet")
	h.crew("Crew A", 120, 1, 2, 3, 5)
	im := h.unit("IM-1", "ice_machine", "2026-01-20")
	h.unit("CU-1", "outdoor_condensing", "")
	h.unit("WU-1", "wall_unit", "2026-02-01")

	n := h.next()
	assert.Equal(t, "2026-03-06", n.Day.String(), "the crew does not work on Thursdays")
	require.Len(t, n.Stops, 1)
	tags := []string{}
	for _, j := range n.Stops[0].Jobs {
		tags = append(tags, j.Tag+" "+string(j.Kind))
	}
	assert.Equal(t, []string{"IM-1 light", "CU-1 deep"}, tags, "earliest due first; the deep clean covers the light one")
	assert.Equal(t, 20.0+12+50, n.Minutes)
	assert.Equal(t, "first_look", n.Stops[0].Jobs[1].Reasons[0].Code)

	req := contract.NewRound{CrewID: *n.CrewID, Day: n.Day, TaskIds: tasksOf(n)}
	key := store.NewID()
	r, err := h.svc.PublishRound(h.ctx, h.manager, key, req)
	require.NoError(t, err)
	again, err := h.svc.PublishRound(h.ctx, h.manager, key, req)
	require.NoError(t, err)
	assert.Equal(t, r.ID, again.ID, "sent twice, published once")
	assert.Equal(t, "The manager", r.PublishedBy)
	assert.NotEmpty(t, r.Cautions)
	assert.Contains(t, r.Deferral, "maker's manual")
	_, err = h.svc.PublishRound(h.ctx, h.manager, store.NewID(), req)
	assert.ErrorAs(t, err, &service.Conflict{})

	after := h.next()
	assert.Equal(t, "2026-03-09", after.Day.String(), "the next working day without a round")
	assert.Empty(t, after.Stops, "what is on a round is not proposed again")
	other := contract.NewRound{CrewID: *n.CrewID, Day: after.Day, TaskIds: req.TaskIds}
	_, err = h.svc.PublishRound(h.ctx, h.manager, store.NewID(), other)
	assert.ErrorContains(t, err, "IM-1 is already on the round of 2026-03-06")
	u := h.look(im.ID)
	require.NotNil(t, task(u, contract.TaskKindLight).OnRound)

	// The sheet says later what it said then.
	h.submit(h.visit(im, "2026-03-04", contract.TaskKindLight, 1, 0, contract.FaceLook))
	kept, err := h.svc.Round(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Stops[0].Jobs[0].Reasons, kept.Stops[0].Jobs[0].Reasons)
	assert.Equal(t, r.Stops[0].Jobs[0].State, kept.Stops[0].Jobs[0].State)
	assert.NotEqual(t, h.look(im.ID).Coils[0].Sides[0].State, kept.Stops[0].Jobs[0].State, "the soil has changed since")
	assert.Equal(t, r.Stops[0].Jobs[0].Due, kept.Stops[0].Jobs[0].Due)

	back, err := h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.RoundStatusWithdrawn, back.Status)
	_, err = h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	assert.ErrorAs(t, err, &service.Conflict{})
	assert.Equal(t, "2026-03-06", h.next().Day.String())
	list, err := h.svc.Rounds(h.ctx, h.viewer)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Jobs)
}

func TestPublishingChecksTheDayAndTheTasks(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 120, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2026-01-20")
	n := h.next()
	id := task(u, contract.TaskKindLight).TaskID
	for name, c := range map[string]struct {
		req   contract.NewRound
		field string
	}{
		"passed":         {contract.NewRound{CrewID: *n.CrewID, Day: calendar.MustParse("2026-03-03"), TaskIds: []uuid.UUID{id}}, "/day"},
		"a Sunday":       {contract.NewRound{CrewID: *n.CrewID, Day: calendar.MustParse("2026-03-08"), TaskIds: []uuid.UUID{id}}, "/day"},
		"no such crew":   {contract.NewRound{CrewID: id, Day: n.Day, TaskIds: []uuid.UUID{id}}, "/crew_id"},
		"no such task":   {contract.NewRound{CrewID: *n.CrewID, Day: n.Day, TaskIds: []uuid.UUID{id, u.ID}}, "/task_ids/1"},
		"the task twice": {contract.NewRound{CrewID: *n.CrewID, Day: n.Day, TaskIds: []uuid.UUID{id, id}}, "/task_ids/1"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := h.svc.PublishRound(h.ctx, h.manager, store.NewID(), c.req)
			assert.Contains(t, fields(t, err), c.field)
		})
	}
	odd := uuid.New()
	_, err := h.svc.NextRound(h.ctx, h.manager, &odd, nil)
	assert.ErrorIs(t, err, service.ErrNotFound)
}

func TestWindowsStandOnTheStopOfTheirDay(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 120, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) {
		c.Contact = ptr("porter")
		c.Windows = &[]contract.WindowCard{
			{Kind: "quiet", Weekdays: []int{4}, Starts: "10:00", Ends: "16:00", Note: "concerts"},
			{Kind: "allowed", Weekdays: []int{6}, Starts: "06:00", Ends: "09:00"},
		}
	})
	n := h.next()
	require.Len(t, n.Stops[0].Windows, 1, "only the windows of that weekday")
	assert.Equal(t, contract.Window{Kind: contract.WindowKindQuiet, Weekdays: []int{4}, Starts: "10:00", Ends: "16:00", Note: "concerts"}, n.Stops[0].Windows[0])
	assert.Equal(t, "porter", n.Stops[0].Contact)
}
