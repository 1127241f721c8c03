package learning_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

// What is derived is recalculated over what stands, and comes out the same; soil grows with the days.
func TestRebuildGivesTheSame(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	before := h.Portfolio(h.Viewer)
	n, err := h.Rooms.Learning.Rebuild(h.Ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	again := h.Portfolio(h.Viewer)
	require.NotNil(t, before[0].Coil.Tasks[0].ProposalID, "something waits for an answer")
	assert.Equal(t, before, again, "and what waits for an answer goes on waiting, under its own number")
	h.Now = h.Now.AddDate(0, 0, 20)
	require.NoError(t, h.Rooms.Learning.RefreshAll(h.Ctx))
	after := h.Portfolio(h.Viewer)[0].Coil
	assert.Greater(t, *after.State.BlockedShare, *before[0].Coil.State.BlockedShare)
	assert.Equal(t, before[0].Coil.Tasks[0].DaysLate+20, after.Tasks[0].DaysLate)
	behind, err := h.Store.For(h.Ctx, h.Org.ID).UnitsBehind(h.Now, organisation.ModelVersion, 10)
	require.NoError(t, err)
	assert.Empty(t, behind)
}
