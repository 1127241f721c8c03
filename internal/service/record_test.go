package service_test

import (
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// How long something in the background is waited for, and how often it is looked at.
const (
	waitLong = 2 * time.Minute
	waitStep = 20 * time.Millisecond
)

func (h *house) sites() []contract.SiteLine {
	h.t.Helper()
	out, err := h.svc.Sites(h.ctx, h.manager)
	require.NoError(h.t, err)
	return out
}

func (h *house) saveSite(id uuid.UUID, change func(*contract.SiteCard)) contract.SiteRecord {
	h.t.Helper()
	record, err := h.svc.Site(h.ctx, h.manager, id)
	require.NoError(h.t, err)
	change(&record.Card)
	out, err := h.svc.SaveSite(h.ctx, h.manager, id, contract.SiteChange{Version: record.Version, Card: record.Card})
	require.NoError(h.t, err)
	return out
}

func (h *house) card(id uuid.UUID) contract.UnitRecord {
	h.t.Helper()
	out, err := h.svc.UnitCard(h.ctx, h.manager, id)
	require.NoError(h.t, err)
	return out
}

func (h *house) saveCard(id uuid.UUID, change func(*contract.UnitCard)) (contract.UnitRecord, error) {
	h.t.Helper()
	record := h.card(id)
	change(&record.Card)
	return h.svc.SaveUnitCard(h.ctx, h.manager, id, contract.UnitChange{Version: record.Version, Card: record.Card})
}

func on(day string) calendar.Day { return calendar.MustParse(day) }

func TestASiteKeepsEverythingItIsTold(t *testing.T) {
	h := newHouse(t)
	made, err := h.svc.AddSite(h.ctx, h.manager, contract.SiteCard{Name: "Hall", Zone: "Europe/Oslo"})
	require.NoError(t, err)
	want := h.saveSite(made.ID, func(c *contract.SiteCard) {
		c.Code, c.Keys, c.Water, c.Lat, c.Lon, c.AltitudeM = ptr("HA"), ptr("at the desk"), ptr("tap"), ptr(61.4), ptr(4.6), ptr(12.0)
		c.Placements = &[]contract.PlacementCard{{Name: "Roof", Setting: "roof", WallBacked: true, HeightM: ptr(9.5), Drain: "gully"}}
		c.Windows = &[]contract.WindowCard{{Kind: "quiet", Weekdays: []int{1, 2}, Starts: "10:00", Ends: "16:00", From: ptr(on("2026-01-01"))}}
		c.Holidays = &[]contract.Holiday{{Day: on("2026-05-17"), Name: "National day"}}
	})
	got, err := h.svc.Site(h.ctx, h.viewer, made.ID)
	require.NoError(t, err)
	assert.Equal(t, want, got)
	assert.Equal(t, 2, got.Version)

	// Names, times, figures: each wrong one is named at its place.
	bad := got.Card
	bad.Zone, bad.Lat = "Nowhere", ptr(99.0)
	bad.Windows = &[]contract.WindowCard{{Kind: "open", Weekdays: []int{1}, Starts: "25:00", Ends: "16:00"}, {Kind: "open", Weekdays: []int{1}, Starts: "16:00", Ends: "10:00"}}
	_, err = h.svc.SaveSite(h.ctx, h.manager, made.ID, contract.SiteChange{Version: 2, Card: bad})
	found := fields(t, err)
	for _, pointer := range []string{"/card/zone", "/card/lat", "/card/windows/0/starts", "/card/windows/1/ends"} {
		assert.Contains(t, found, pointer)
	}
	_, err = h.svc.AddSite(h.ctx, h.manager, contract.SiteCard{Name: "Hall", Zone: "UTC"})
	assert.Contains(t, fields(t, err), "/card/name")

	// A placement with units stays; one without goes.
	h.take("register", header+"Hall,Roof,A-1,Ice machine,condenser,never\n", false)
	_, err = h.svc.SaveSite(h.ctx, h.manager, made.ID, contract.SiteChange{Version: 2, Card: contract.SiteCard{Name: "Hall", Zone: "UTC"}})
	assert.Contains(t, fields(t, err), "/card/placements")
	after := h.saveSite(made.ID, func(c *contract.SiteCard) { c.Name, c.Holidays = "Great hall", &[]contract.Holiday{} })
	assert.Empty(t, *after.Card.Holidays)
	assert.Equal(t, "Great hall", h.portfolio(h.viewer)[0].Site, "the portfolio follows the name")
}

func TestAUnitKeepsEverythingItIsTold(t *testing.T) {
	h := newHouse(t)
	u := h.unit("CU-1", "outdoor_condensing", "2025-03-04")
	want, err := h.saveCard(u.ID, func(c *contract.UnitCard) {
		c.Make, c.Serial, c.Refrigerant, c.Year, c.CapacityKw, c.ConsequenceCost = "Norrvind", "S1", "R-410A", ptr(2019), ptr(9.5), ptr(300.0)
		c.Access = contract.AccessCard{IsolationPoint: "disconnect, left", IsolationKind: "disconnect", Panels: "top", Fixings: "14 screws", People: 2, LadderM: ptr(2.4), Hazards: "sharp"}
		coil := &c.Coils[0]
		coil.Construction, coil.Slabs, coil.TubeRows, coil.FaceWidthM, coil.FaceHeightM = "microchannel", 2, ptr(2), ptr(1.2), ptr(.8)
		coil.Sides[3].Reachable, coil.Sides[3].WhyNot = false, "fence"
		coil.Sides[0].AreaShare = .15
		coil.Sides = append(coil.Sides, contract.SideCard{Name: "gap", Kind: "slab_gap", AreaShare: .1, Reachable: true})
		c.Surfaces = []contract.SurfaceCard{{Kind: "trough", Name: "bottom trough", Note: "mud"}}
		c.Parts = []contract.PartCard{{Kind: "filter", Specification: "F-20", Quantity: 2}}
		c.Companions = []contract.CompanionCard{{Kind: "inspect", EveryDays: 30, Doer: "site_staff", LastQuality: "exact", LastDay: ptr(on("2026-02-20"))}}
	})
	require.NoError(t, err)
	got, err := h.svc.UnitCard(h.ctx, h.viewer, u.ID)
	require.NoError(t, err)
	assert.Equal(t, want, got)
	assert.Equal(t, "gap", got.Card.Coils[0].Sides[4].Name)
	shown := h.look(u.ID)
	require.Len(t, shown.Companions, 1)
	assert.Equal(t, "2026-03-22", shown.Companions[0].Due.String())
	assert.Len(t, shown.Coils[0].Sides, 5)

	// Yesterday's access can still be read: it was ended, not overwritten.
	h.now = h.now.AddDate(0, 0, 1)
	_, err = h.saveCard(u.ID, func(c *contract.UnitCard) { c.Access.People = 1 })
	require.NoError(t, err)
	access, err := store.All[store.UnitAccess](h.store.For(h.ctx, h.org.ID), "lower(valid)")
	require.NoError(t, err)
	require.Len(t, access, 2)
	assert.Equal(t, 2, access[0].People)
	assert.Equal(t, on("2026-03-05"), *access[0].Valid.To)

	for name, c := range map[string]struct {
		change func(*contract.UnitCard)
		field  string
	}{
		"tag taken":         {func(c *contract.UnitCard) { c.Tag = "IM-9" }, "/card/tag"},
		"year ahead":        {func(c *contract.UnitCard) { c.Year = ptr(2031) }, "/card/year"},
		"shares":            {func(c *contract.UnitCard) { c.Coils[0].Sides[0].AreaShare = .5 }, "/card/coils/0/sides"},
		"gap without slabs": {func(c *contract.UnitCard) { c.Coils[0].Slabs = 1 }, "/card/coils/0/sides/4/kind"},
		"no reason":         {func(c *contract.UnitCard) { c.Coils[0].Sides[3].WhyNot = " " }, "/card/coils/0/sides/3/why_not"},
		"a coil left out":   {func(c *contract.UnitCard) { c.Coils = nil }, "/card/coils"},
		"a clock twice":     {func(c *contract.UnitCard) { c.Companions = append(c.Companions, c.Companions[0]) }, "/card/companions/1/kind"},
		"half a map":        {func(c *contract.UnitCard) { c.Coils[0].Sides[0].MapRows = ptr(3) }, "/card/coils/0/sides/0/map_rows"},
	} {
		t.Run(name, func(t *testing.T) {
			if name == "tag taken" {
				h.unit("IM-9", "ice_machine", "")
			}
			_, err := h.saveCard(u.ID, c.change)
			assert.Contains(t, fields(t, err), c.field)
		})
	}
}

// Whoever saves second is shown what the first one saved, and overwrites nothing.
func TestTwoPeopleSaveOneRecord(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	mine := h.card(u.ID)
	_, err := h.saveCard(u.ID, func(c *contract.UnitCard) { c.Note = "hers" })
	require.NoError(t, err)
	mine.Card.Note = "mine"
	_, err = h.svc.SaveUnitCard(h.ctx, h.manager, u.ID, contract.UnitChange{Version: mine.Version, Card: mine.Card})
	var stale service.Stale
	require.True(t, errors.As(err, &stale), "%v", err)
	assert.Equal(t, "hers", stale.Current.(contract.UnitRecord).Card.Note)
	assert.Equal(t, "hers", h.card(u.ID).Card.Note)

	site := h.sites()[0].ID
	first, err := h.svc.Site(h.ctx, h.manager, site)
	require.NoError(t, err)
	h.saveSite(site, func(c *contract.SiteCard) { c.Keys = ptr("desk") })
	_, err = h.svc.SaveSite(h.ctx, h.manager, site, contract.SiteChange{Version: first.Version, Card: first.Card})
	require.True(t, errors.As(err, &stale))

	audit, err := h.svc.Audit(h.ctx, h.viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.AuditChange{Path: "note", After: "hers"}, audit[0].Changes[0])
	assert.Equal(t, "The manager", audit[0].By)
	assert.Equal(t, "added", audit[len(audit)-1].Action)
}

// While a unit is out of service its exposure stands still, and so do its clocks.
func TestOutOfServiceStandsStill(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	before := task(u, contract.TaskKindLight).Due
	full := load(u.Coils[0].Sides[0].State.BlockedShare)
	_, err := h.svc.PauseUnit(h.ctx, h.manager, u.ID, contract.UnitPause{Day: on("2026-02-02"), Reason: "hall closed"})
	require.NoError(t, err)
	paused := h.look(u.ID)
	assert.InDelta(t, full/2, load(paused.Coils[0].Sides[0].State.BlockedShare), .02*full, "30 of 60 days count, but for the months")
	assert.Equal(t, before.Add(30), task(paused, contract.TaskKindLight).Due)
	assert.Equal(t, "out_of_service", paused.Status)
	_, err = h.svc.ResumeUnit(h.ctx, h.manager, u.ID, contract.UnitResumption{Day: on("2026-02-22")})
	require.NoError(t, err)
	back := h.look(u.ID)
	assert.Equal(t, before.Add(20), task(back, contract.TaskKindLight).Due)
	assert.InDelta(t, full*40/60, load(back.Coils[0].Sides[0].State.BlockedShare), .02*full)

	for _, c := range []struct {
		do    func() error
		field string
	}{
		{func() error {
			_, err := h.svc.PauseUnit(h.ctx, h.manager, u.ID, contract.UnitPause{Day: on("2026-02-10"), Reason: "x"})
			return err
		}, "/day"},
		{func() error {
			_, err := h.svc.PauseUnit(h.ctx, h.manager, u.ID, contract.UnitPause{Day: on("2026-04-10"), Reason: "x"})
			return err
		}, "/day"},
	} {
		assert.Contains(t, fields(t, c.do()), c.field)
	}
	_, err = h.svc.ResumeUnit(h.ctx, h.manager, u.ID, contract.UnitResumption{Day: on("2026-03-01")})
	var conflict service.Conflict
	assert.True(t, errors.As(err, &conflict))
}

// A unit that moves leaves the factors of its old place behind from that day, and keeps what it soiled there.
func TestAMoveChangesTheFactorsFromItsDay(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	h.take("register", header+"Barn,Loft,X-1,Ice machine,condenser,never\n", false)
	var dust uuid.UUID
	for _, f := range h.cat.Factors {
		if f.Code == "foot_traffic" {
			dust = f.ID
		}
	}
	_, err := h.svc.AddSiteFactor(h.ctx, h.manager, contract.NewSiteFactor{FactorID: dust, Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: on("2025-01-01")})
	require.NoError(t, err)
	assert.InDelta(t, 4.0, h.look(u.ID).Factor, 1e-9)
	stays := load(h.look(u.ID).Coils[0].Sides[0].State.BlockedShare)

	var loft uuid.UUID
	for _, s := range h.sites() {
		if s.Name == "Barn" {
			loft = s.Placements[0].ID
		}
	}
	record, err := h.svc.MoveUnit(h.ctx, h.manager, u.ID, contract.UnitMove{PlacementID: loft, Day: on("2026-02-02")})
	require.NoError(t, err)
	assert.Equal(t, "Barn", record.Site)
	require.Len(t, record.Stays, 2)
	assert.Equal(t, on("2026-02-02"), *record.Stays[0].To)
	moved := h.look(u.ID)
	assert.InDelta(t, 1.0, moved.Factor, 1e-9)
	assert.InDelta(t, stays*(30*4+30)/(60*4), load(moved.Coils[0].Sides[0].State.BlockedShare), .02*stays)
	for _, row := range h.portfolio(h.viewer) {
		assert.Equal(t, "Barn", row.Site)
	}
	_, err = h.svc.MoveUnit(h.ctx, h.manager, u.ID, contract.UnitMove{PlacementID: loft, Day: on("2026-02-20")})
	assert.Contains(t, fields(t, err), "/placement_id")
	_, err = h.svc.MoveUnit(h.ctx, h.manager, u.ID, contract.UnitMove{PlacementID: store.NewID(), Day: on("2026-02-20")})
	assert.Contains(t, fields(t, err), "/placement_id")
}

func TestRetiredAndReplaced(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 400, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2025-09-03")
	h.submit(h.visit(u, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	_, err := h.svc.ReplaceUnit(h.ctx, h.manager, u.ID, contract.UnitReplacement{Day: on("2026-01-15"), Tag: "IM-2", Reason: "worn out"})
	assert.Contains(t, fields(t, err), "/day", "before its last visit")
	made, err := h.svc.ReplaceUnit(h.ctx, h.manager, u.ID, contract.UnitReplacement{Day: on("2026-02-20"), Tag: "IM-2", Make: ptr("Kuldvik"), Reason: "worn out"})
	require.NoError(t, err)
	old := h.card(u.ID)
	assert.Equal(t, contract.UnitStatusRetired, old.Status)
	assert.Equal(t, made.ID, *old.ReplacedBy)
	fresh := h.look(made.ID)
	assert.Equal(t, "Hall", fresh.Site)
	assert.Equal(t, "2026-03-22", task(fresh, contract.TaskKindLight).Due.String(), "its clocks run from its first day")
	assert.Len(t, h.portfolio(h.manager), 1, "the retired one is out of the way")
	for _, stop := range h.stops() {
		for _, job := range stop.Jobs {
			assert.NotEqual(t, "IM-1", job.Tag)
		}
	}
	_, err = h.svc.RetireUnit(h.ctx, h.manager, u.ID, contract.UnitRetirement{Day: on("2026-03-01"), Reason: "again"})
	var conflict service.Conflict
	assert.True(t, errors.As(err, &conflict))
	_, err = h.svc.SubmitVisit(h.ctx, h.technician, store.NewID(), h.visit(u, "2026-03-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	assert.Contains(t, fields(t, err), "/unit_id")
}

func TestCompanionClocks(t *testing.T) {
	h := newHouse(t)
	u := h.unit("CA-1", "cassette", "2026-01-03")
	require.Len(t, u.Companions, 3, "the class brings them")
	filter := u.Companions[1]
	assert.Equal(t, contract.CompanionKindFilter, filter.Kind)
	assert.True(t, filter.FirstLook, "a coil's clean says nothing of the filter")
	done, err := h.svc.Tick(h.ctx, h.technician, filter.ID, contract.NewTick{Day: on("2026-03-01")})
	require.NoError(t, err)
	assert.Equal(t, "2026-03-31", done.Due.String())
	assert.Equal(t, done, h.look(u.ID).Companions[1])
	_, err = h.svc.Tick(h.ctx, h.technician, filter.ID, contract.NewTick{Day: on("2026-04-01")})
	assert.Contains(t, fields(t, err), "/day")
	_, err = h.svc.Tick(h.ctx, h.technician, task(u, contract.TaskKindDeep).TaskID, contract.NewTick{Day: on("2026-03-01")})
	var conflict service.Conflict
	assert.True(t, errors.As(err, &conflict))
	_, err = h.saveCard(u.ID, func(c *contract.UnitCard) { c.Companions = nil })
	assert.Contains(t, fields(t, err), "/card/companions", "a clock that was ticked stays")
}
