package planning_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// crewWith puts people into a crew that works every day.
func crewWith(t *testing.T, h *roomstest.House, name string, members ...contract.CrewMember) contract.CrewRecord {
	t.Helper()
	card := contract.CrewCard{Name: name, Members: &members}
	for d := range 7 {
		card.Hours = append(card.Hours, contract.CrewHours{Weekday: d, Starts: "07:30", Minutes: 300})
	}
	crew, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, card)
	require.NoError(t, err)
	return crew
}

// Whoever is in a crew sees the round that is out for it next; others see none until they name a crew.
func TestACrewSeesItsDay(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	me := h.Technician.Person.ID
	crew := crewWith(t, h, "Crew A", contract.CrewMember{PersonID: me})
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	today := func(a organisation.Actor, crew *uuid.UUID) contract.Today {
		out, err := h.Rooms.Planning.CrewToday(h.Ctx, a, crew)
		require.NoError(t, err)
		return out
	}
	assert.Nil(t, today(h.Technician, nil).Round, "nothing is out")
	assert.Equal(t, "Crew A", today(h.Technician, nil).Crew.Name)
	h.Planned()
	h.Publish(*h.Next().Round)
	got := today(h.Technician, nil)
	require.NotNil(t, got.Round)
	job := got.Round.Stops[0].Jobs[0]
	assert.Equal(t, "IM-1", job.Tag)
	assert.Contains(t, *job.VisitFor, contract.VisitJobLight)
	assert.Empty(t, got.Round.Progress)
	assert.Nil(t, today(h.Manager, nil).Crew, "in no crew")
	assert.NotNil(t, today(h.Manager, &crew.ID).Round)
	_, err := h.Rooms.Planning.CrewToday(h.Ctx, h.Viewer, nil)
	require.ErrorIs(t, err, organisation.ErrForbidden)
	_, err = h.Rooms.Planning.CrewToday(h.Ctx, h.Manager, new(uuid.New()))
	require.ErrorIs(t, err, organisation.ErrNotFound)
}

// A job given back is said to be so, once, and is planned again by the next plan.
func TestAJobGivenBackIsPlannedAgain(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	crewWith(t, h, "Crew A", contract.CrewMember{PersonID: h.Technician.Person.ID})
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Planned()
	sent := h.Publish(*h.Next().Round)[0]
	round, err := h.Rooms.Planning.Round(h.Ctx, h.Technician, sent.ID)
	require.NoError(t, err)
	job := round.Stops[0].Jobs[0]
	in := contract.NewJobReturn{Key: job.Key, Kind: contract.NewJobReturnKindNoTime, Note: "called to a burst hose"}
	key := store.NewID()
	for range 2 { // sent twice, kept once
		round, err = h.Rooms.Planning.ReturnJob(h.Ctx, h.Technician, key, sent.ID, in)
		require.NoError(t, err)
	}
	require.Len(t, round.Progress, 1)
	assert.Equal(t, contract.JobProgressStateGivenBack, round.Progress[0].State)
	assert.Equal(t, "No time left: called to a burst hose", round.Progress[0].Why)
	_, err = h.Rooms.Planning.ReturnJob(h.Ctx, h.Technician, store.NewID(), sent.ID, in)
	var conflict organisation.Conflict
	require.ErrorAs(t, err, &conflict)
	_, err = h.Rooms.Planning.ReturnJob(h.Ctx, h.Technician, store.NewID(), sent.ID, contract.NewJobReturn{Key: "task/none", Kind: contract.NewJobReturnKindNoTime, Note: "x"})
	require.ErrorIs(t, err, organisation.ErrNotFound)
	attention, err := h.Rooms.Fieldwork.Attention(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.NotEmpty(t, attention)
	assert.Equal(t, "Given back by its crew: no time left", attention[0].Text)
	assert.Equal(t, "called to a burst hose", attention[0].Reason)
	plan := h.Planned()
	again, _, ok := jobNamed(plan, "IM-1", job.Kind)
	require.True(t, ok, "it is on the plan again")
	assert.Equal(t, job.Key, again.Key)
	assert.NotContains(t, because(again), "published")
}

// A visit of the day tells what became of the jobs of its unit: done where it served their clocks, else partly.
func TestARoundTellsWhatBecameOfItsJobs(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-20")
	crewWith(t, h, "Crew A")
	h.Planned()
	next := *h.Next().Round
	sent := h.Publish(next)[0]
	// The visits came in on the round's day.
	visited := func(v contract.NewVisit) contract.JobProgress {
		id := h.Submit(v).ID
		require.NoError(t, h.Store.DB.Exec("UPDATE visit SET day = ? WHERE id = ?", store.Date(next.Day), id).Error)
		round, err := h.Rooms.Planning.Round(h.Ctx, h.Manager, sent.ID)
		require.NoError(t, err)
		require.NotEmpty(t, round.Progress)
		assert.Equal(t, id, *round.Progress[0].VisitID)
		return round.Progress[0]
	}
	shut := visited(contract.NewVisit{UnitID: u.ID, Day: calendar.MustParse("2026-03-03"), Outcome: contract.OutcomeNoAccess, Note: new("gate shut"), People: []contract.VisitPerson{}, Coils: []contract.VisitCoil{}})
	assert.Equal(t, contract.JobProgressStateNoAccess, shut.State)
	assert.Equal(t, "gate shut", shut.Why)
	assert.Equal(t, contract.JobProgressStateDone, visited(h.Visit(u, "2026-03-04", contract.TaskKindDeep, 2, 0, contract.LightThrough)).State)
}

// A person is in one crew at a time; who it is of the crew's people is nobody's business who only looks.
func TestCrewsHaveMembers(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	me := h.Technician.Person.ID
	day := func(s string) *calendar.Day { return new(calendar.MustParse(s)) }
	crewWith(t, h, "Crew A", contract.CrewMember{PersonID: me, To: day("2026-03-31")})
	b := crewWith(t, h, "Crew B", contract.CrewMember{PersonID: me, From: day("2026-04-01")})
	for _, bad := range []struct {
		at     string
		member contract.CrewMember
	}{
		{"/members/0/person_id", contract.CrewMember{PersonID: me, From: day("2026-03-31")}},
		{"/members/0/person_id", contract.CrewMember{PersonID: uuid.New()}},
		{"/members/0/to", contract.CrewMember{PersonID: me, From: day("2026-05-02"), To: day("2026-05-01")}},
	} {
		card := b.Card
		card.Members = &[]contract.CrewMember{bad.member}
		_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &b.ID, card)
		assert.Equal(t, bad.at, roomstest.FieldsOf(t, err)[0].Path)
	}
	card := b.Card
	card.Members = nil
	kept, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &b.ID, card)
	require.NoError(t, err)
	assert.Len(t, *kept.Card.Members, 1, "left out, nothing changes")
	seen, err := h.Rooms.Planning.Crews(h.Ctx, h.Viewer)
	require.NoError(t, err)
	assert.Nil(t, seen[0].Card.Members)
}
