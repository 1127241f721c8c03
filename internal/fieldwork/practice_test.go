package fieldwork_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

// The rule in force shows in the advice of the unit's pack.
func TestPracticeReachesTheAdvice(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	unit := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	air := func() bool {
		pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Manager, unit.ID)
		require.NoError(t, err)
		in := pack.Coils[0].Advice
		in.Found.Grade, in.Place.Setting, in.Place.WallBacked = 3, "outdoor", false
		advice, err := workplan.Advise(in)
		require.NoError(t, err)
		for _, p := range advice.Plans {
			for _, x := range p.Passes {
				if x.Method == "gentle_air" {
					return true
				}
			}
		}
		return false
	}
	require.True(t, air())
	_, err := h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "air", contract.PracticeChange{Choice: new("never"), Reason: "fans got dirty"})
	require.NoError(t, err)
	assert.False(t, air())
}
