package register_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A factor that ends counts until then; its end shows at the site and in its history, and proposals follow.
func TestASiteFactorEnds(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	made, err := h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, contract.NewSiteFactor{
		FactorID: h.Factor("foot_traffic"), Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: roomstest.On("2026-01-01"),
	})
	require.NoError(t, err)
	all := roomstest.Load(h.Look(u.ID).Coils[0].Sides[0].State.BlockedShare)
	require.NotNil(t, roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID, "habit by the factor is shorter")
	for to, field := range map[string]string{"2025-12-31": "/to", "2026-01-01": "/to"} {
		_, err = h.Rooms.Register.EndSiteFactor(h.Ctx, h.Manager, made.ID, contract.FactorChange{To: new(roomstest.On(to))})
		assert.Contains(t, roomstest.Fields(t, err), field)
	}
	line, err := h.Rooms.Register.EndSiteFactor(h.Ctx, h.Manager, made.ID, contract.FactorChange{To: new(roomstest.On("2026-02-02")), Note: new("door kept shut")})
	require.NoError(t, err)
	assert.False(t, *line.InForce)
	half := h.Look(u.ID)
	assert.InDelta(t, all*(30*4+30)/(60*4), roomstest.Load(half.Coils[0].Sides[0].State.BlockedShare), .02*all)
	assert.Nil(t, roomstest.Task(half, contract.TaskKindLight).Proposal.ID, "what rested on it is superseded")
	site, err := h.Rooms.Register.Site(h.Ctx, h.Viewer, u.SiteID)
	require.NoError(t, err)
	require.Len(t, site.Factors, 1)
	assert.Equal(t, "door kept shut", *site.Factors[0].Note)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Viewer, "site", u.SiteID)
	require.NoError(t, err)
	assert.Equal(t, "factor changed", trail[0].Action)
	_, err = h.Rooms.Register.EndSiteFactor(h.Ctx, h.Manager, store.NewID(), contract.FactorChange{})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
}

func TestEventsAreNotedAtTheirSite(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	_, err := h.Rooms.Register.AddFactorEvent(h.Ctx, h.Manager, u.SiteID, contract.NewFactorEvent{Kind: "mowing", Day: roomstest.On("2026-03-01"), Note: new("first cut")})
	require.NoError(t, err)
	_, err = h.Rooms.Register.AddFactorEvent(h.Ctx, h.Manager, u.SiteID, contract.NewFactorEvent{Kind: "mowing", Day: roomstest.On("2026-04-01")})
	assert.Contains(t, roomstest.Fields(t, err), "/day")
	_, err = h.Rooms.Register.AddFactorEvent(h.Ctx, h.Manager, store.NewID(), contract.NewFactorEvent{Kind: "mowing", Day: roomstest.On("2026-03-01")})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	site, err := h.Rooms.Register.Site(h.Ctx, h.Viewer, u.SiteID)
	require.NoError(t, err)
	require.Len(t, site.Events, 1)
	assert.Equal(t, "first cut", site.Events[0].Note)
	assert.Equal(t, "The manager", site.Events[0].By)
}

func TestSearchFindsWhatBeginsWithTheTextFirst(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Take("register", "site,placement,tag,class,coil role,serial,model\n"+
		"Alpha Hall,Yard,XA-1,Ice machine,condenser,S-77,NO-1\nBeta Hall,Yard,A-1,Ice machine,condenser,S-78,NO-2\n", false)
	labels := func(text string) (out []string) {
		hits, err := h.Rooms.Register.Search(h.Ctx, h.Viewer, text)
		require.NoError(t, err)
		for _, hit := range hits {
			out = append(out, hit.Label)
		}
		return out
	}
	assert.Equal(t, []string{"A-1", "XA-1"}, labels("a-1"))
	assert.Equal(t, []string{"XA-1"}, labels("S-77"), "by serial number")
	assert.Equal(t, []string{"A-1"}, labels("no-2"), "by model")
	assert.Equal(t, []string{"Beta Hall"}, labels("beta"))
	assert.Empty(t, labels("%"), "signs of patterns are plain text")
	assert.Empty(t, labels("_"))
	assert.Empty(t, labels("  "))
}

// A sheet of labels has a page for every 24, and the code of each leads to its unit.
func TestLabelSheets(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Take("register", many(30), false)
	var sheet bytes.Buffer
	require.NoError(t, h.Rooms.Register.Labels(h.Ctx, h.Viewer, store.CoilFilter{}, "https://nextround.lan:8443", &sheet))
	assert.Equal(t, 2, strings.Count(sheet.String(), "/Type /Page\n"))
	row := h.Portfolio(h.Viewer)[0]
	found, err := h.Rooms.Register.FindLabel(h.Ctx, h.Viewer, strings.ToUpper(h.Card(row.UnitID).LabelCode))
	require.NoError(t, err)
	assert.Equal(t, row.UnitID, found)
	var none bytes.Buffer
	require.NoError(t, h.Rooms.Register.Labels(h.Ctx, h.Viewer, store.CoilFilter{Text: "dragon"}, "https://x", &none))
	assert.Equal(t, 1, strings.Count(none.String(), "/Type /Page\n"))
}
