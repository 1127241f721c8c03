package planning_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestCrewsThatCannotBe(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1)
	before, err := h.Rooms.Planning.Crews(h.Ctx, h.Manager)
	require.NoError(t, err)
	for pointer, in := range map[string]contract.CrewCard{
		"/name":            {Name: "Crew A"},
		"/hours/0/starts":  {Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 1, Starts: "7", Minutes: 60}}},
		"/hours/1/weekday": {Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 1, Starts: "07:00", Minutes: 60}, {Weekday: 1, Starts: "12:00", Minutes: 60}}},
	} {
		_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, in)
		assert.Contains(t, roomstest.Fields(t, err), pointer)
	}
	gone := store.NewID()
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &gone, contract.CrewCard{Name: "Crew C"})
	require.ErrorIs(t, err, organisation.ErrNotFound)
	after, err := h.Rooms.Planning.Crews(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}
