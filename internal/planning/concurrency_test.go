package planning_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestOneOfManyPublishesTheDay(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 120, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Planned()
	n := h.Next()
	assert.Equal(t, 1, roomstest.AtOnce(t, 6, func() error {
		_, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, store.NewID(), roomstest.Publication(n.Version, *n.Round))
		return err
	}))
	rounds, err := h.Rooms.Planning.Rounds(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Len(t, rounds, 1)
}

// Two managers at once: whoever comes second is told, and nothing of theirs is stored.
func TestOneOfManyMovesANotch(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 120, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	p := h.Planned()
	j, r, _ := jobNamed(p, "IM-1", contract.JobKindLight)
	day := r.Day.Add(5)
	assert.Equal(t, 1, roomstest.AtOnce(t, 5, func() error {
		_, err := h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &day}}})
		return err
	}))
	assert.Equal(t, p.Version+1, h.Next().Version)
}
