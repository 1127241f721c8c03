package roomstest

import (
	"github.com/stretchr/testify/require"

	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Planned plans the coming weeks.
func (h *House) Planned() contract.Plan {
	h.t.Helper()
	p, err := h.Rooms.Planning.MakePlan(h.Ctx, h.Manager, contract.NewPlan{Iterations: new(60)})
	require.NoError(h.t, err)
	require.Empty(h.t, h.Broken(), "the checker finds nothing")
	return p
}

// Broken holds the plan against its problem from the outside.
func (h *House) Broken() []string {
	h.t.Helper()
	row, err := h.Store.For(h.Ctx, h.Manager.Org.ID).CurrentPlan()
	require.NoError(h.t, err)
	var problem round.Problem
	var plan round.Plan
	require.NoError(h.t, row.Problem.Into(&problem))
	require.NoError(h.t, row.Result.Into(&plan))
	return round.Verify(problem, plan)
}

// Next is the next round.
func (h *House) Next() contract.NextRound {
	h.t.Helper()
	n, err := h.Rooms.Planning.NextRound(h.Ctx, h.Manager, nil, nil)
	require.NoError(h.t, err)
	return n
}

// Publication of a round of the plan.
func Publication(version int, rounds ...contract.PlannedRound) contract.Publication {
	out := contract.Publication{Version: version}
	for _, r := range rounds {
		out.Rounds = append(out.Rounds, contract.CrewDay{CrewID: r.CrewID, Day: r.Day})
	}
	return out
}

// Publish publishes rounds of the plan there is.
func (h *House) Publish(rounds ...contract.PlannedRound) []contract.RoundSummary {
	h.t.Helper()
	out, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, store.NewID(), Publication(h.Next().Version, rounds...))
	require.NoError(h.t, err)
	return out
}

// Crews lists the crews.
func (h *House) Crews() []contract.CrewRecord {
	h.t.Helper()
	all, err := h.Rooms.Planning.Crews(h.Ctx, h.Manager)
	require.NoError(h.t, err)
	return all
}

// Stops plans the weeks and gives the stops of the next round.
func (h *House) Stops() []contract.Stop {
	h.t.Helper()
	h.Planned()
	if n := h.Next(); n.Round != nil {
		return n.Round.Stops
	}
	return nil
}

// Crew adds a crew that works some minutes on some weekdays.
func (h *House) Crew(name string, minutes int, weekdays ...int) {
	h.t.Helper()
	card := contract.CrewCard{Name: name}
	for _, d := range weekdays {
		card.Hours = append(card.Hours, contract.CrewHours{Weekday: d, Starts: "07:30", Minutes: minutes})
	}
	_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, card)
	require.NoError(h.t, err)
}
