package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

func TestHandFormErrors(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Unit("IM-1", "ice_machine", "2026-01-01")
	early, late := calendar.MustParse("2020-01-01"), calendar.MustParse("2030-01-01")
	good := contract.NewUnit{
		Site: "Hall", Placement: "Yard", Tag: "IM-2", Class: "Ice machine", CoilRoles: []contract.CoilRole{contract.CoilRoleCondenser},
		LastClean: contract.LastClean{Quality: contract.LastCleanQualityNever},
	}
	for name, c := range map[string]struct {
		change func(*contract.NewUnit)
		field  string
	}{
		"tag taken":     {func(u *contract.NewUnit) { u.Tag = "IM-1" }, "/tag"},
		"blank tag":     {func(u *contract.NewUnit) { u.Tag = "  " }, "/tag"},
		"no such class": {func(u *contract.NewUnit) { u.Class = "Dragon" }, "/class"},
		"no such coil":  {func(u *contract.NewUnit) { u.CoilRoles[0] = contract.CoilRoleBack }, "/coil_roles/0"},
		"no day":        {func(u *contract.NewUnit) { u.LastClean.Quality = contract.LastCleanQualityExact }, "/last_clean/day"},
		"day of never":  {func(u *contract.NewUnit) { u.LastClean.Day = &early }, "/last_clean/day"},
		"future start":  {func(u *contract.NewUnit) { u.Commissioned = &late }, "/commissioned"},
		"before it was": {func(u *contract.NewUnit) {
			u.Commissioned, u.LastClean = new(calendar.MustParse("2025-01-01")), contract.LastClean{Quality: contract.LastCleanQualityExact, Day: &early}
		}, "/last_clean/day"},
	} {
		t.Run(name, func(t *testing.T) {
			in := good
			in.CoilRoles = []contract.CoilRole{contract.CoilRoleCondenser}
			c.change(&in)
			_, err := h.Rooms.Register.AddUnit(h.Ctx, h.Manager, in)
			assert.Contains(t, roomstest.Fields(t, err), c.field)
		})
	}
	good.Commissioned = new(calendar.MustParse("2026-02-01"))
	made, err := h.Rooms.Register.AddUnit(h.Ctx, h.Manager, good)
	require.NoError(t, err)
	u := h.Look(made.ID)
	assert.Equal(t, "2026-03-03", roomstest.Task(u, contract.TaskKindLight).Due.String(), "never cleaned: the clock runs from commissioning")
	assert.True(t, u.Coils[0].Sides[0].State.Known, "and so does the soil")
}
