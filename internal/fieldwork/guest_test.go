package fieldwork_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A contractor's link reaches several units of a site, each returned once; with the last it is used up.
func TestAContractorsLinkReachesSeveralUnits(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	a, b := h.Unit("A-1", "display_cooler", "2026-02-01"), h.Unit("A-2", "display_cooler", "2026-02-01")
	other := h.Unit("A-3", "display_cooler", "2026-02-01")
	link, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, h.Manager, contract.NewGuestLink{
		Kind: contract.NewGuestLinkKindContractor, Name: "Coil contractor", Days: 3, UnitID: &a.ID, UnitIds: &[]uuid.UUID{b.ID, a.ID},
	})
	require.NoError(t, err)
	page := func() contract.GuestPage {
		out, err := h.Rooms.Fieldwork.GuestPage(h.Ctx, link.Token)
		require.NoError(t, err)
		return out
	}
	assert.Len(t, page().Units, 2)
	assert.Equal(t, defaults.ContractorCautions, page().Cautions)
	_, err = h.Rooms.Fieldwork.GuestVisitPack(h.Ctx, link.Token, &other.ID)
	require.ErrorIs(t, err, organisation.ErrNotFound)
	visit := func(u contract.Unit) error {
		pack, err := h.Rooms.Fieldwork.GuestVisitPack(h.Ctx, link.Token, &u.ID)
		if err != nil {
			return err
		}
		v := contract.NewVisit{UnitID: u.ID, Day: pack.Today, Outcome: contract.OutcomeNoAccess, Note: new("shut"), People: []contract.VisitPerson{}, Coils: []contract.VisitCoil{}}
		_, err = h.Rooms.Fieldwork.GuestVisit(h.Ctx, link.Token, store.NewID(), v)
		return err
	}
	require.NoError(t, visit(b))
	require.ErrorIs(t, visit(b), organisation.ErrNotFound, "each once")
	assert.True(t, *page().Units[1].Returned)
	assert.False(t, *page().Units[0].Returned)
	require.NoError(t, visit(a))
	_, err = h.Rooms.Fieldwork.GuestPage(h.Ctx, link.Token)
	require.ErrorIs(t, err, organisation.ErrNotFound, "used up")
}

// Staff take a tick back on its day, through the link it came by; what they reported shows what became of it.
func TestStaffTakeATickBack(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("BC-1", "undercounter_cooler", "2026-02-01")
	link := func() string {
		made, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, h.Manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "kitchen", Days: 3, SiteID: &u.SiteID})
		require.NoError(t, err)
		return made.Token
	}
	mine, theirs := link(), link()
	page := func() contract.GuestPage {
		out, err := h.Rooms.Fieldwork.GuestPage(h.Ctx, mine)
		require.NoError(t, err)
		return out
	}
	require.NotEmpty(t, page().Tasks)
	task := page().Tasks[0]
	tick, err := h.Rooms.Fieldwork.GuestTick(h.Ctx, mine, contract.GuestTick{TaskID: task.TaskID})
	require.NoError(t, err)
	assert.Equal(t, tick.ID, *page().Tasks[0].Ticked)
	require.ErrorIs(t, h.Rooms.Fieldwork.GuestUntick(h.Ctx, theirs, tick.ID), organisation.ErrNotFound, "another link's")
	require.NoError(t, h.Rooms.Fieldwork.GuestUntick(h.Ctx, mine, tick.ID))
	assert.Nil(t, page().Tasks[0].Ticked)
	assert.Equal(t, task.Due, page().Tasks[0].Due, "due as before")
	old, err := h.Rooms.Fieldwork.GuestTick(h.Ctx, mine, contract.GuestTick{TaskID: task.TaskID})
	require.NoError(t, err)
	require.NoError(t, h.Store.DB.Exec("UPDATE task_tick SET day = day - 1 WHERE id = ?", old.ID).Error)
	var conflict organisation.Conflict
	require.ErrorAs(t, h.Rooms.Fieldwork.GuestUntick(h.Ctx, mine, old.ID), &conflict)
	_, err = h.Rooms.Fieldwork.GuestSymptom(h.Ctx, mine, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	require.NoError(t, err)
	require.Len(t, *page().Reports, 1)
	assert.Equal(t, contract.GuestReportStatus("open"), (*page().Reports)[0].Status)
}

// A face that was left bare over a core that is thought packed is told so: it is not called clean.
func TestTheReportTellsOfAPackedCore(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2023-01-10")
	v := h.Visit(u, "2026-03-03", contract.TaskKindLight, int(soil.Felt), 0, contract.FaceLook)
	v.Parts = &[]contract.PartCard{{Kind: "fan motor", Specification: "16 W", Quantity: 1}}
	v.NewWatch = &[]contract.NewWatchItem{{What: "green specks on the end plate"}}
	report, err := h.Rooms.Fieldwork.SiteReport(h.Ctx, h.Manager, h.Submit(v).ID)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(report.Left, "\n"), "between the fins it is probably still packed")
	assert.Contains(t, report.Title, "between the fins it is probably still packed", "it is not called cleaned")
	assert.NotContains(t, strings.Join(report.Next, "\n"), "costs", "no arithmetic")
	assert.Contains(t, strings.Join(report.Found, "\n"), "Part noted for later: fan motor, 16 W.")
	assert.Contains(t, strings.Join(report.Found, "\n"), "We keep an eye on: green specks on the end plate.")
	seen := h.Visit(u, "2026-03-04", contract.TaskKindDeep, int(soil.Felt), 0, contract.LightThrough)
	report, err = h.Rooms.Fieldwork.SiteReport(h.Ctx, h.Manager, h.Submit(seen).ID)
	require.NoError(t, err)
	assert.NotContains(t, strings.Join(report.Left, "\n"), "packed", "light came through")
}
