package register_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

func TestBulkChangesArePreviewedMadeAndUndone(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	var ids []uuid.UUID
	for _, tag := range []string{"IM-1", "IM-2", "CC-1"} {
		class := "ice_machine"
		if tag == "CC-1" {
			class = "undercounter_cooler"
		}
		ids = append(ids, h.Unit(tag, class, "2026-01-01").ID)
	}
	change := contract.NewBulkChange{UnitIds: ids, What: "interval", Kind: new(contract.NewBulkChangeKindLight), Days: new(21), Reason: new("busy season"), DryRun: true}
	shown, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	require.NoError(t, err)
	require.Len(t, shown.Lines, 3)
	assert.Equal(t, "30 d", shown.Lines[0].From)
	assert.Equal(t, 1, strings.Count(shown.Lines[0].Skipped+shown.Lines[1].Skipped+shown.Lines[2].Skipped, "has no light clean"))
	assert.Equal(t, 30, roomstest.Task(h.Look(ids[0]), contract.TaskKindLight).EveryDays, "only shown")
	change.DryRun = false
	made, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	require.NoError(t, err)
	u := h.Look(ids[0])
	assert.Equal(t, 21, roomstest.Task(u, contract.TaskKindLight).EveryDays)
	assert.Equal(t, "busy season", roomstest.Task(u, contract.TaskKindLight).Changes[0].Reason)

	// One of them is changed by hand meanwhile: nothing is undone until that is looked at.
	id := roomstest.Task(u, contract.TaskKindLight).TaskID
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, id, contract.OwnInterval{Days: 14, Reason: "mine"})
	require.NoError(t, err)
	_, err = h.Rooms.Register.UndoBulkChange(h.Ctx, h.Manager, made.ID)
	var conflict organisation.Conflict
	require.True(t, errors.As(err, &conflict))
	assert.Contains(t, conflict.Reason, "IM-1 was changed since")
	assert.Equal(t, 21, roomstest.Task(h.Look(ids[1]), contract.TaskKindLight).EveryDays)
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, id, contract.OwnInterval{Days: 21, Reason: "back"})
	require.NoError(t, err)
	undone, err := h.Rooms.Register.UndoBulkChange(h.Ctx, h.Manager, made.ID)
	require.NoError(t, err)
	assert.True(t, undone.Undone)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "unit", ids[1])
	require.NoError(t, err)
	assert.Equal(t, "bulk change undone", trail[0].Action)
	assert.Equal(t, "changed in bulk", trail[1].Action)
	assert.Equal(t, contract.AuditChange{Path: "light", Before: "30 d", After: "21 d"}, trail[1].Changes[0])
	assert.Equal(t, contract.AuditChange{Path: "light", Before: "21 d", After: "30 d"}, trail[0].Changes[0])
	for _, id := range ids[:2] {
		assert.Equal(t, 30, roomstest.Task(h.Look(id), contract.TaskKindLight).EveryDays)
	}
	_, err = h.Rooms.Register.UndoBulkChange(h.Ctx, h.Manager, made.ID)
	assert.True(t, errors.As(err, &conflict), "once")

	for _, c := range []struct {
		change contract.NewBulkChange
		read   func(contract.UnitCard) string
		want   string
	}{
		{contract.NewBulkChange{What: "refrigerant", Text: new("R-290")}, func(c contract.UnitCard) string { return c.Refrigerant }, "R-290"},
		{contract.NewBulkChange{What: "people", Number: new(2.0)}, func(c contract.UnitCard) string { return string(rune('0' + c.Access.People)) }, "2"},
		{contract.NewBulkChange{What: "energy_kwh_day", Number: new(7.5)}, func(c contract.UnitCard) string {
			return map[bool]string{true: "7.5"}[c.EnergyKwhDay != nil && *c.EnergyKwhDay == 7.5]
		}, "7.5"},
	} {
		before := c.read(h.Card(ids[0]).Card)
		c.change.UnitIds = ids
		made, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, c.change)
		require.NoError(t, err)
		assert.Equal(t, c.want, c.read(h.Card(ids[0]).Card))
		_, err = h.Rooms.Register.UndoBulkChange(h.Ctx, h.Manager, made.ID)
		require.NoError(t, err, c.change.What)
		assert.Equal(t, before, c.read(h.Card(ids[0]).Card))
	}
	for _, bad := range []struct {
		change contract.NewBulkChange
		field  string
	}{
		{contract.NewBulkChange{What: "interval", Kind: new(contract.NewBulkChangeKindDeep), Days: new(0), Reason: new("x")}, "/days"},
		{contract.NewBulkChange{What: "interval", Kind: new(contract.NewBulkChangeKindDeep), Days: new(20)}, "/reason"},
		{contract.NewBulkChange{What: "companion", Kind: new(contract.NewBulkChangeKindDeep), Days: new(20)}, "/kind"},
		{contract.NewBulkChange{What: "people", Number: new(2.5)}, "/number"},
		{contract.NewBulkChange{What: "consequence_cost", Number: new(-1.0)}, "/number"},
	} {
		bad.change.UnitIds = ids
		_, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, bad.change)
		assert.Contains(t, roomstest.Fields(t, err), bad.field)
	}
	list, err := h.Rooms.Register.BulkChanges(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Len(t, list, 4)
}
