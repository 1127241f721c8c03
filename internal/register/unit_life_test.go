package register_test

import (
	"errors"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/register"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A companion task is set for many units at once, and back again; units without it are named.
func TestCompanionsAreSetInBulk(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	cassette, ice := h.Unit("CA-1", "cassette", "2026-01-03"), h.Unit("IM-1", "ice_machine", "2026-01-03")
	second := h.Unit("CA-2", "cassette", "2026-01-03")
	every := func(u contract.Unit) int {
		for _, c := range h.Look(u.ID).Companions {
			if c.Kind == contract.CompanionKindFilter {
				return c.EveryDays
			}
		}
		return 0
	}
	before := every(cassette)
	require.Positive(t, before)
	require.Zero(t, every(ice))
	change := contract.NewBulkChange{
		UnitIds: []uuid.UUID{cassette.ID, ice.ID, second.ID}, What: contract.NewBulkChangeWhatCompanion,
		Kind: new(contract.NewBulkChangeKindFilter), Days: new(before + 15),
	}
	made, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	require.NoError(t, err)
	skipped := map[string]string{}
	for _, l := range made.Lines {
		skipped[l.Tag] = l.Skipped
	}
	assert.Equal(t, map[string]string{"CA-1": "", "CA-2": "", "IM-1": "has no such clock"}, skipped)
	assert.Equal(t, before+15, every(cassette))
	assert.Equal(t, before+15, every(second))
	again, err := h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	require.NoError(t, err)
	for _, l := range again.Lines {
		assert.NotEmpty(t, l.Skipped, l.Tag)
	}
	_, err = h.Rooms.Register.UndoBulkChange(h.Ctx, h.Manager, made.ID)
	require.NoError(t, err)
	assert.Equal(t, before, every(cassette))

	change.Days = new(0)
	_, err = h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	assert.Contains(t, roomstest.Fields(t, err), "/days")
	change.Days, change.UnitIds = new(20), []uuid.UUID{store.NewID()}
	_, err = h.Rooms.Register.ChangeInBulk(h.Ctx, h.Manager, change)
	assert.Error(t, err, "a unit that is not there")
	_, err = h.Rooms.Register.ChangeInBulk(h.Ctx, h.Technician, change)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// A unit that is retired while out of service ends both; nothing is asked of it any more, and its past stays.
func TestRetiredWhileOutOfService(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2025-09-03")
	h.Submit(h.Visit(u, "2026-01-20", contract.TaskKindLight, 3, 0, contract.FaceLook))
	require.NotEmpty(t, h.Stops())
	_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-02-10"), Reason: "compressor"})
	require.NoError(t, err)
	for _, c := range []struct {
		in    contract.UnitRetirement
		field string
	}{
		{contract.UnitRetirement{Day: roomstest.On("2026-03-01"), Reason: "  "}, "/reason"},
		{contract.UnitRetirement{Day: roomstest.On("2026-02-10"), Reason: "scrap"}, "/day"},
		{contract.UnitRetirement{Day: roomstest.On("2026-01-19"), Reason: "scrap"}, "/day"},
		{contract.UnitRetirement{Day: roomstest.On("2027-01-01"), Reason: "scrap"}, "/day"},
	} {
		_, err := h.Rooms.Register.RetireUnit(h.Ctx, h.Manager, u.ID, c.in)
		assert.Contains(t, roomstest.Fields(t, err), c.field, "%v", c.in)
	}
	_, err = h.Rooms.Register.RetireUnit(h.Ctx, h.Technician, u.ID, contract.UnitRetirement{Day: roomstest.On("2026-03-01"), Reason: "scrap"})
	require.ErrorIs(t, err, organisation.ErrForbidden)

	gone, err := h.Rooms.Register.RetireUnit(h.Ctx, h.Manager, u.ID, contract.UnitRetirement{Day: roomstest.On("2026-03-01"), Reason: "scrap"})
	require.NoError(t, err)
	assert.Equal(t, contract.UnitStatusRetired, gone.Status)
	require.Len(t, gone.Pauses, 1)
	assert.Equal(t, roomstest.On("2026-03-01"), *gone.Pauses[0].To)
	assert.Equal(t, roomstest.On("2026-03-01"), *gone.Stays[len(gone.Stays)-1].To)
	assert.Empty(t, h.Portfolio(h.Viewer))
	assert.Empty(t, h.Stops())
	assert.Len(t, h.Look(u.ID).Visits, 1)
	page, err := h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, register.PortfolioQuery{CoilFilter: store.CoilFilter{Status: "retired"}})
	require.NoError(t, err)
	assert.Len(t, page.Rows, 1, "it is found among the retired")
	for name, do := range map[string]func() error{
		"pause": func() error {
			_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-03-02"), Reason: "x"})
			return err
		},
		"resume": func() error {
			_, err := h.Rooms.Register.ResumeUnit(h.Ctx, h.Manager, u.ID, contract.UnitResumption{Day: roomstest.On("2026-03-02")})
			return err
		},
		"replace": func() error {
			_, err := h.Rooms.Register.ReplaceUnit(h.Ctx, h.Manager, u.ID, contract.UnitReplacement{Day: roomstest.On("2026-03-02"), Tag: "IM-2", Reason: "x"})
			return err
		},
	} {
		var conflict organisation.Conflict
		assert.True(t, errors.As(do(), &conflict), name)
	}
}

// A replacement needs a tag that is free; if it is not, the old unit stays as it is.
func TestAReplacementNeedsATag(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2025-09-03")
	h.Unit("IM-2", "ice_machine", "2025-09-03")
	for _, tag := range []string{"", "IM-2"} {
		_, err := h.Rooms.Register.ReplaceUnit(h.Ctx, h.Manager, u.ID, contract.UnitReplacement{Day: roomstest.On("2026-02-20"), Tag: tag, Reason: "worn out"})
		assert.Contains(t, roomstest.Fields(t, err), "/tag", tag)
	}
	_, err := h.Rooms.Register.ReplaceUnit(h.Ctx, h.Manager, u.ID, contract.UnitReplacement{Day: roomstest.On("2026-02-20"), Tag: "IM-3"})
	assert.Contains(t, roomstest.Fields(t, err), "/reason")
	assert.Equal(t, contract.UnitStatusInService, h.Card(u.ID).Status)
	assert.Len(t, h.Portfolio(h.Viewer), 2)
}

// A side that was looked at stays; one that nobody saw may go, and a new one waits for its first look.
func TestSidesComeAndGo(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2026-02-20")
	sides := len(h.Card(u.ID).Card.Coils[0].Sides)
	require.Greater(t, sides, 1)
	with, err := h.SaveCard(u.ID, func(c *contract.UnitCard) {
		for i := range c.Coils[0].Sides {
			c.Coils[0].Sides[i].AreaShare = .8 / float64(sides)
		}
		c.Coils[0].Sides = append(c.Coils[0].Sides, contract.SideCard{Name: "roof", Kind: c.Coils[0].Sides[0].Kind, AreaShare: .2, Reachable: true})
	})
	require.NoError(t, err)
	require.Len(t, with.Card.Coils[0].Sides, sides+1)
	assert.True(t, roomstest.Task(h.Look(u.ID), contract.TaskKindLight).FirstLook, "nothing is known of the new side")
	without, err := h.SaveCard(u.ID, func(c *contract.UnitCard) {
		c.Coils[0].Sides = c.Coils[0].Sides[:sides]
		for i := range c.Coils[0].Sides {
			c.Coils[0].Sides[i].AreaShare = 1 / float64(sides)
		}
	})
	require.NoError(t, err)
	assert.Len(t, without.Card.Coils[0].Sides, sides)

	h.Submit(h.Visit(h.Look(u.ID), "2026-02-25", contract.TaskKindLight, 2, 0, contract.FaceLook))
	_, err = h.SaveCard(u.ID, func(c *contract.UnitCard) {
		c.Coils[0].Sides = c.Coils[0].Sides[1:]
		for i := range c.Coils[0].Sides {
			c.Coils[0].Sides[i].AreaShare = 1 / float64(sides-1)
		}
	})
	assert.Contains(t, roomstest.Fields(t, err), "/card/coils")
	assert.Len(t, h.Card(u.ID).Card.Coils[0].Sides, sides, "nothing was taken out")
}
