package fieldwork_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A unit met on site waits for a manager, who adds it or says why not; sent twice, it waits once.
func TestAFoundUnitWaitsForADecision(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "display_cooler", "2026-02-01")
	find := func(in contract.NewFoundUnit) (contract.FoundUnit, error) {
		key := store.NewID()
		_, err := h.Rooms.Fieldwork.AddFoundUnit(h.Ctx, h.Technician, key, in)
		if err != nil {
			return contract.FoundUnit{}, err
		}
		return h.Rooms.Fieldwork.AddFoundUnit(h.Ctx, h.Technician, key, in)
	}
	open := func() []contract.FoundUnit {
		list, err := h.Rooms.Fieldwork.FoundUnits(h.Ctx, h.Manager)
		require.NoError(t, err)
		return list
	}
	_, err := find(contract.NewFoundUnit{SiteID: uuid.New(), Place: " ", ClassID: new(uuid.New())})
	assert.ElementsMatch(t, []string{"/site_id", "/place", "/class_id"}, pathsOf(t, err))
	one, err := find(contract.NewFoundUnit{SiteID: u.SiteID, Place: "roof, north corner", Tag: new("X-9")})
	require.NoError(t, err)
	two, err := find(contract.NewFoundUnit{SiteID: u.SiteID, Place: "cellar"})
	require.NoError(t, err)
	require.Len(t, open(), 2)
	assert.Equal(t, "roof, north corner", open()[0].Place)
	assert.Equal(t, "The technician", open()[0].By)

	decide := func(id uuid.UUID, in contract.FoundDecision) error {
		return h.Rooms.Fieldwork.DecideFoundUnit(h.Ctx, h.Manager, id, in)
	}
	assert.Equal(t, []string{"/dismissed"}, pathsOf(t, decide(one.ID, contract.FoundDecision{})))
	assert.Equal(t, []string{"/unit_id"}, pathsOf(t, decide(one.ID, contract.FoundDecision{UnitID: new(uuid.New())})))
	require.NoError(t, decide(one.ID, contract.FoundDecision{UnitID: &u.ID}))
	require.NoError(t, decide(two.ID, contract.FoundDecision{Dismissed: new("the neighbour's")}))
	assert.Empty(t, open())
	var conflict organisation.Conflict
	require.ErrorAs(t, decide(two.ID, contract.FoundDecision{UnitID: &u.ID}), &conflict)
	_, err = h.Rooms.Fieldwork.FoundUnits(h.Ctx, h.Technician)
	require.ErrorIs(t, err, organisation.ErrForbidden)
}

func pathsOf(t *testing.T, err error) []string {
	t.Helper()
	out := []string{}
	for _, f := range roomstest.FieldsOf(t, err) {
		out = append(out, f.Path)
	}
	return out
}
