package service_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

func (h *house) factor(code string) uuid.UUID {
	for _, f := range h.cat.Factors {
		if f.Code == code {
			return f.ID
		}
	}
	h.t.Fatalf("no factor %s", code)
	return uuid.Nil
}

// A factor that ends counts until then; its end shows at the site and in its history, and proposals follow.
func TestASiteFactorEnds(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	made, err := h.svc.AddSiteFactor(h.ctx, h.manager, contract.NewSiteFactor{
		FactorID: h.factor("foot_traffic"), Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: on("2026-01-01"),
	})
	require.NoError(t, err)
	all := load(h.look(u.ID).Coils[0].Sides[0].State.BlockedShare)
	require.NotNil(t, task(h.look(u.ID), contract.TaskKindLight).Proposal.ID, "habit by the factor is shorter")
	for to, field := range map[string]string{"2025-12-31": "/to", "2026-01-01": "/to"} {
		_, err = h.svc.EndSiteFactor(h.ctx, h.manager, made.ID, contract.FactorChange{To: ptr(on(to))})
		assert.Contains(t, fields(t, err), field)
	}
	line, err := h.svc.EndSiteFactor(h.ctx, h.manager, made.ID, contract.FactorChange{To: ptr(on("2026-02-02")), Note: ptr("door kept shut")})
	require.NoError(t, err)
	assert.False(t, *line.InForce)
	half := h.look(u.ID)
	assert.InDelta(t, all*(30*4+30)/(60*4), load(half.Coils[0].Sides[0].State.BlockedShare), .02*all)
	assert.Nil(t, task(half, contract.TaskKindLight).Proposal.ID, "what rested on it is superseded")
	site, err := h.svc.Site(h.ctx, h.viewer, u.SiteID)
	require.NoError(t, err)
	require.Len(t, site.Factors, 1)
	assert.Equal(t, "door kept shut", *site.Factors[0].Note)
	trail, err := h.svc.Audit(h.ctx, h.viewer, "site", u.SiteID)
	require.NoError(t, err)
	assert.Equal(t, "factor changed", trail[0].Action)
	_, err = h.svc.EndSiteFactor(h.ctx, h.manager, store.NewID(), contract.FactorChange{})
	assert.ErrorIs(t, err, service.ErrNotFound)
}

func TestEventsAreNotedAtTheirSite(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	_, err := h.svc.AddFactorEvent(h.ctx, h.manager, u.SiteID, contract.NewFactorEvent{Kind: "mowing", Day: on("2026-03-01"), Note: ptr("first cut")})
	require.NoError(t, err)
	_, err = h.svc.AddFactorEvent(h.ctx, h.manager, u.SiteID, contract.NewFactorEvent{Kind: "mowing", Day: on("2026-04-01")})
	assert.Contains(t, fields(t, err), "/day")
	_, err = h.svc.AddFactorEvent(h.ctx, h.manager, store.NewID(), contract.NewFactorEvent{Kind: "mowing", Day: on("2026-03-01")})
	assert.ErrorIs(t, err, service.ErrNotFound)
	site, err := h.svc.Site(h.ctx, h.viewer, u.SiteID)
	require.NoError(t, err)
	require.Len(t, site.Events, 1)
	assert.Equal(t, "first cut", site.Events[0].Note)
	assert.Equal(t, "The manager", site.Events[0].By)
}

func TestCrewsHaveHours(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 400, 5, 1)
	crews, err := h.svc.Crews(h.ctx, h.viewer)
	require.NoError(t, err)
	require.Len(t, crews, 1)
	assert.Equal(t, []int{1, 5}, []int{crews[0].Card.Hours[0].Weekday, crews[0].Card.Hours[1].Weekday})
	card := contract.CrewCard{Name: "Crew B", Hours: []contract.CrewHours{{Weekday: 2, Starts: "06:00", Minutes: 300}}}
	saved, err := h.svc.SaveCrew(h.ctx, h.manager, &crews[0].ID, card)
	require.NoError(t, err)
	assert.Equal(t, crews[0].ID, saved.ID)
	crews, err = h.svc.Crews(h.ctx, h.viewer)
	require.NoError(t, err)
	assert.Equal(t, card.Hours, crews[0].Card.Hours, "the old hours are gone")
	assert.Equal(t, []string{"ladder"}, *crews[0].Card.Kit, "a crew is thought to have a ladder until it says otherwise")
	for field, bad := range map[string]contract.CrewCard{
		"/name":            {Name: " "},
		"/hours/0/starts":  {Name: "C", Hours: []contract.CrewHours{{Weekday: 1, Starts: "six", Minutes: 10}}},
		"/hours/1/weekday": {Name: "C", Hours: []contract.CrewHours{{Weekday: 1, Starts: "06:00", Minutes: 10}, {Weekday: 1, Starts: "07:00", Minutes: 10}}},
	} {
		_, err := h.svc.SaveCrew(h.ctx, h.manager, nil, bad)
		assert.Contains(t, fields(t, err), field)
	}
	_, err = h.svc.SaveCrew(h.ctx, h.manager, nil, card)
	assert.Contains(t, fields(t, err), "/name", "a name is one crew's")
	_, err = h.svc.SaveCrew(h.ctx, h.manager, ptr(store.NewID()), contract.CrewCard{Name: "D"})
	assert.ErrorIs(t, err, service.ErrNotFound)
	_, err = h.svc.SaveCrew(h.ctx, h.technician, nil, card)
	assert.ErrorIs(t, err, service.ErrForbidden)
}

func TestSearchFindsWhatBeginsWithTheTextFirst(t *testing.T) {
	h := newHouse(t)
	h.take("register", "site,placement,tag,class,coil role,serial,model\n"+
		"Alpha Hall,Yard,XA-1,Ice machine,condenser,S-77,NO-1\nBeta Hall,Yard,A-1,Ice machine,condenser,S-78,NO-2\n", false)
	labels := func(text string) (out []string) {
		hits, err := h.svc.Search(h.ctx, h.viewer, text)
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
	h := newHouse(t)
	h.take("register", many(30), false)
	var sheet bytes.Buffer
	require.NoError(t, h.svc.Labels(h.ctx, h.viewer, store.CoilFilter{}, "https://nextround.lan:8443", &sheet))
	assert.Equal(t, 2, strings.Count(sheet.String(), "/Type /Page\n"))
	row := h.portfolio(h.viewer)[0]
	found, err := h.svc.FindLabel(h.ctx, h.viewer, strings.ToUpper(h.card(row.UnitID).LabelCode))
	require.NoError(t, err)
	assert.Equal(t, row.UnitID, found)
	var none bytes.Buffer
	require.NoError(t, h.svc.Labels(h.ctx, h.viewer, store.CoilFilter{Text: "dragon"}, "https://x", &none))
	assert.Equal(t, 1, strings.Count(none.String(), "/Type /Page\n"))
}

// Everyone's figures and pages are as they like them; who says nothing gets the house's units.
func TestPreferencesAreOnesOwn(t *testing.T) {
	h := newHouse(t)
	s, err := h.svc.SetPreferences(h.ctx, h.viewer, contract.Preferences{Units: "us", Theme: "dark"})
	require.NoError(t, err)
	assert.Equal(t, "us", string(s.Units))
	again, err := h.svc.Actor(h.ctx, h.viewer.AccountID)
	require.NoError(t, err)
	assert.Equal(t, s, h.svc.Session(again))
	other, err := h.svc.Actor(h.ctx, h.manager.AccountID)
	require.NoError(t, err)
	assert.Equal(t, "metric", string(h.svc.Session(other).Units))
	assert.Equal(t, "auto", string(h.svc.Session(other).Theme))
}

// The forms that come back for an amendment are what was sent, with mixes, amounts and sides left out.
func TestFormsComeBackAsSent(t *testing.T) {
	h := newHouse(t)
	u := h.unit("CU-1", "outdoor_condensing", "2025-03-04")
	v := h.visit(u, "2026-03-01", contract.TaskKindDeep, 3, 1, contract.LightThrough)
	v.Outcome = contract.OutcomePartly
	why := "fence"
	v.Coils[0].Sides[3] = contract.VisitSide{SurfaceID: u.Coils[0].Sides[3].ID, WhyNot: &why}
	first := &v.Coils[0].Treatments[0]
	first.MethodID, first.Direction, first.SurfaceIds = h.method("foam_rinse"), contract.AgainstAirflow, first.SurfaceIds[:3]
	first.CleanerID, first.WaterParts = ptr(h.cat.Cleaners[4].ID), ptr(6.0)
	first.Amount = &contract.Amount{Value: 1.25, Unit: contract.AmountUnitUsGal}
	first.EndPoints = &[]contract.EndPoint{contract.ClearRunOff}
	second := contract.VisitTreatment{Work: contract.TaskKindLight, MethodID: h.method("brush_vacuum"), Direction: contract.AlongFins, SurfaceIds: first.SurfaceIds[:1]}
	v.Coils[0].Treatments = append(v.Coils[0].Treatments, second)
	v.Note = ptr("two treatments")
	sent := h.submit(v)
	record, err := h.svc.VisitRecord(h.ctx, h.viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, v, record.Visit)
	assert.InDelta(t, 1.25*3.785411784, *record.Summary.Treatments[0].AmountL, 1e-9)
	assert.Equal(t, "1.25 US gal", record.Summary.Treatments[0].Amount)

	// A file of it says the same, in any order of its rows.
	lines := strings.Split(strings.TrimSpace(h.export(h.manager, "visits", "csv")), "\r\n")
	require.Len(t, lines, 1+4+1, "a row a side, and one more for the second treatment")
	lines[1], lines[4] = lines[4], lines[1]
	run := h.take("visits", strings.Join(lines, "\r\n"), false)
	assert.Equal(t, contract.ImportRunStatusUnchanged, run.Status, reasons(run))
	assert.Equal(t, 1, run.Report.KnownVisits)
}
