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

func TestCrewsHaveHours(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 5, 1)
	crews, err := h.Rooms.Planning.Crews(h.Ctx, h.Viewer)
	require.NoError(t, err)
	require.Len(t, crews, 1)
	assert.Equal(t, []int{1, 5}, []int{crews[0].Card.Hours[0].Weekday, crews[0].Card.Hours[1].Weekday})
	card := contract.CrewCard{Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 2, Starts: "06:00", Minutes: 300}}}
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crews[0].ID, card)
	var stale organisation.Stale
	require.ErrorAs(t, err, &stale, "changed without having read it")
	assert.Equal(t, crews[0].ID, stale.Current.(contract.CrewRecord).ID)
	card.Version = crews[0].Card.Version
	saved, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crews[0].ID, card)
	require.NoError(t, err)
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crews[0].ID, card)
	require.ErrorAs(t, err, &stale, "saved twice from one reading")
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "crew", crews[0].ID)
	require.NoError(t, err)
	assert.Contains(t, trail[0].Changes, contract.AuditChange{Path: "name", Before: "Crew A", After: "Crew B"})
	assert.Equal(t, crews[0].ID, saved.ID)
	crews, err = h.Rooms.Planning.Crews(h.Ctx, h.Viewer)
	require.NoError(t, err)
	assert.Equal(t, card.Hours, crews[0].Card.Hours, "the old hours are gone")
	assert.Equal(t, []string{"ladder"}, *crews[0].Card.Kit, "a crew is thought to have a ladder until it says otherwise")
	for field, bad := range map[string]contract.CrewCard{
		"/name":            {Name: " "},
		"/hours/0/starts":  {Name: "C", Hours: []contract.CrewHours{{Weekday: 1, Starts: "six", Minutes: 10}}},
		"/hours/1/weekday": {Name: "C", Hours: []contract.CrewHours{{Weekday: 1, Starts: "06:00", Minutes: 10}, {Weekday: 1, Starts: "07:00", Minutes: 10}}},
	} {
		_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, bad)
		assert.Contains(t, roomstest.Fields(t, err), field)
	}
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, card)
	assert.Contains(t, roomstest.Fields(t, err), "/name", "a name is one crew's")
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, new(store.NewID()), contract.CrewCard{Name: "D"})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Technician, nil, card)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}
