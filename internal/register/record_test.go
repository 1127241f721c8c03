package register_test

import (
	"errors"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestASiteKeepsEverythingItIsTold(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	made, err := h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{Name: "Hall", Zone: "Europe/Oslo"})
	require.NoError(t, err)
	want := h.SaveSite(made.ID, func(c *contract.SiteCard) {
		c.Code, c.Keys, c.WaterNote, c.Lat, c.Lon, c.AltitudeM = new("HA"), new("at the desk"), new("tap"), new(61.4), new(4.6), new(12.0)
		c.Placements = &[]contract.PlacementCard{{Name: "Roof", Setting: "roof", WallBacked: true, HeightM: new(9.5), Drain: new(contract.YesNoYes), DrainNote: new("gully"), Water: new(contract.YesNoNo)}}
		c.Windows = &[]contract.WindowCard{{Kind: "quiet", Weekdays: []int{1, 2}, Starts: "10:00", Ends: "16:00", From: new(roomstest.On("2026-01-01"))}}
		c.Holidays = &[]contract.Holiday{{Day: roomstest.On("2026-05-17"), Name: "National day"}}
	})
	got, err := h.Rooms.Register.Site(h.Ctx, h.Viewer, made.ID)
	require.NoError(t, err)
	assert.Equal(t, want, got)
	assert.Equal(t, 2, got.Version)

	// Names, times, figures: each wrong one is named at its place.
	bad := got.Card
	bad.Zone, bad.Lat = "Nowhere", new(99.0)
	bad.Windows = &[]contract.WindowCard{{Kind: "open", Weekdays: []int{1}, Starts: "25:00", Ends: "16:00"}, {Kind: "open", Weekdays: []int{1}, Starts: "16:00", Ends: "10:00"}}
	_, err = h.Rooms.Register.SaveSite(h.Ctx, h.Manager, made.ID, contract.SiteChange{Version: 2, Card: bad})
	found := roomstest.Fields(t, err)
	for _, pointer := range []string{"/card/zone", "/card/lat", "/card/windows/0/starts", "/card/windows/1/ends"} {
		assert.Contains(t, found, pointer)
	}
	_, err = h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{Name: "Hall", Zone: "UTC"})
	assert.Contains(t, roomstest.Fields(t, err), "/card/name")

	// A placement with units stays; one without goes.
	h.Take("register", roomstest.Header+"Hall,Roof,A-1,Ice machine,condenser,never\n", false)
	_, err = h.Rooms.Register.SaveSite(h.Ctx, h.Manager, made.ID, contract.SiteChange{Version: 2, Card: contract.SiteCard{Name: "Hall", Zone: "UTC"}})
	assert.Contains(t, roomstest.Fields(t, err), "/card/placements")
	after := h.SaveSite(made.ID, func(c *contract.SiteCard) { c.Name, c.Holidays = "Great hall", &[]contract.Holiday{} })
	assert.Empty(t, *after.Card.Holidays)
	assert.Equal(t, "Great hall", h.Portfolio(h.Viewer)[0].Site, "the portfolio follows the name")
}

func TestAUnitKeepsEverythingItIsTold(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-03-04")
	want, err := h.SaveCard(u.ID, func(c *contract.UnitCard) {
		c.Make, c.Serial, c.Refrigerant, c.Year, c.CapacityKw, c.ConsequenceCost = "Norrvind", "S1", "R-410A", new(2019), new(9.5), new(300.0)
		c.Access = contract.AccessCard{IsolationPoint: "disconnect, left", IsolationKind: "disconnect", Panels: "top", Fixings: new(14), FixingsNote: new("screws"), People: 2, LadderM: new(2.4), Hazards: "sharp"}
		coil := &c.Coils[0]
		coil.Construction, coil.Slabs, coil.TubeRows, coil.FaceWidthM, coil.FaceHeightM = "microchannel", 2, new(2), new(1.2), new(.8)
		coil.Sides[3].Reachable, coil.Sides[3].WhyNot = false, "fence"
		coil.Sides[0].AreaShare = .15
		coil.Sides = append(coil.Sides, contract.SideCard{Name: "gap", Kind: "slab_gap", AreaShare: .1, Reachable: true})
		c.Surfaces = []contract.SurfaceCard{{Kind: "trough", Name: "bottom trough", Note: "mud"}}
		c.Parts = []contract.PartCard{{Kind: "filter", Specification: "F-20", Quantity: 2}}
		c.Companions = []contract.CompanionCard{{Kind: "inspect", EveryDays: 30, Doer: "site_staff", LastQuality: "exact", LastDay: new(roomstest.On("2026-02-20"))}}
	})
	require.NoError(t, err)
	got, err := h.Rooms.Register.UnitCard(h.Ctx, h.Viewer, u.ID)
	require.NoError(t, err)
	assert.Equal(t, want, got)
	assert.Equal(t, "gap", got.Card.Coils[0].Sides[4].Name)
	shown := h.Look(u.ID)
	require.Len(t, shown.Companions, 1)
	assert.Equal(t, "2026-03-22", shown.Companions[0].Due.String())
	assert.Len(t, shown.Coils[0].Sides, 5)

	// Yesterday's access can still be read: it was ended, not overwritten.
	h.Now = h.Now.AddDate(0, 0, 1)
	_, err = h.SaveCard(u.ID, func(c *contract.UnitCard) { c.Access.People = 1 })
	require.NoError(t, err)
	access, err := store.All[store.UnitAccess](h.Store.For(h.Ctx, h.Org.ID), "lower(valid)")
	require.NoError(t, err)
	require.Len(t, access, 2)
	assert.Equal(t, 2, access[0].People)
	assert.Equal(t, roomstest.On("2026-03-05"), *access[0].Valid.To)

	for name, c := range map[string]struct {
		change func(*contract.UnitCard)
		field  string
	}{
		"tag taken":         {func(c *contract.UnitCard) { c.Tag = "IM-9" }, "/card/tag"},
		"year ahead":        {func(c *contract.UnitCard) { c.Year = new(2031) }, "/card/year"},
		"shares":            {func(c *contract.UnitCard) { c.Coils[0].Sides[0].AreaShare = .5 }, "/card/coils/0/sides"},
		"gap without slabs": {func(c *contract.UnitCard) { c.Coils[0].Slabs = 1 }, "/card/coils/0/sides/4/kind"},
		"no reason":         {func(c *contract.UnitCard) { c.Coils[0].Sides[3].WhyNot = " " }, "/card/coils/0/sides/3/why_not"},
		"a coil left out":   {func(c *contract.UnitCard) { c.Coils = nil }, "/card/coils"},
		"a clock twice":     {func(c *contract.UnitCard) { c.Companions = append(c.Companions, c.Companions[0]) }, "/card/companions/1/kind"},
		"half a map":        {func(c *contract.UnitCard) { c.Coils[0].Sides[0].MapRows = new(3) }, "/card/coils/0/sides/0/map_rows"},
	} {
		t.Run(name, func(t *testing.T) {
			if name == "tag taken" {
				h.Unit("IM-9", "ice_machine", "")
			}
			_, err := h.SaveCard(u.ID, c.change)
			assert.Contains(t, roomstest.Fields(t, err), c.field)
		})
	}
}

// Whoever saves second is shown what the first one saved, and overwrites nothing.
func TestTwoPeopleSaveOneRecord(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	mine := h.Card(u.ID)
	_, err := h.SaveCard(u.ID, func(c *contract.UnitCard) { c.Note = "hers" })
	require.NoError(t, err)
	mine.Card.Note = "mine"
	_, err = h.Rooms.Register.SaveUnitCard(h.Ctx, h.Manager, u.ID, contract.UnitChange{Version: mine.Version, Card: mine.Card})
	var stale organisation.Stale
	require.True(t, errors.As(err, &stale), "%v", err)
	assert.Equal(t, "hers", stale.Current.(contract.UnitRecord).Card.Note)
	assert.Equal(t, "hers", h.Card(u.ID).Card.Note)

	site := h.Sites()[0].ID
	first, err := h.Rooms.Register.Site(h.Ctx, h.Manager, site)
	require.NoError(t, err)
	h.SaveSite(site, func(c *contract.SiteCard) { c.Keys = new("desk") })
	_, err = h.Rooms.Register.SaveSite(h.Ctx, h.Manager, site, contract.SiteChange{Version: first.Version, Card: first.Card})
	require.True(t, errors.As(err, &stale))

	audit, err := h.Rooms.Organisation.Audit(h.Ctx, h.Viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.AuditChange{Path: "note", After: "hers"}, audit[0].Changes[0])
	assert.Equal(t, "The manager", audit[0].By)
	assert.Equal(t, "added", audit[len(audit)-1].Action)
}

// While a unit is out of service it does not soil meanwhile, and so do its clocks.
func TestOutOfServiceStandsStill(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	before := roomstest.Task(u, contract.TaskKindLight).Due
	full := roomstest.Load(u.Coils[0].Sides[0].State.BlockedShare)
	_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-02-02"), Reason: "hall closed"})
	require.NoError(t, err)
	paused := h.Look(u.ID)
	assert.InDelta(t, full/2, roomstest.Load(paused.Coils[0].Sides[0].State.BlockedShare), .02*full, "30 of 60 days count, but for the months")
	assert.Equal(t, before.Add(30), roomstest.Task(paused, contract.TaskKindLight).Due)
	assert.Equal(t, "out_of_service", paused.Status)
	_, err = h.Rooms.Register.ResumeUnit(h.Ctx, h.Manager, u.ID, contract.UnitResumption{Day: roomstest.On("2026-02-22")})
	require.NoError(t, err)
	back := h.Look(u.ID)
	assert.Equal(t, before.Add(20), roomstest.Task(back, contract.TaskKindLight).Due)
	assert.InDelta(t, full*40/60, roomstest.Load(back.Coils[0].Sides[0].State.BlockedShare), .02*full)

	for _, c := range []struct {
		do    func() error
		field string
	}{
		{func() error {
			_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-02-10"), Reason: "x"})
			return err
		}, "/day"},
		{func() error {
			_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-04-10"), Reason: "x"})
			return err
		}, "/day"},
	} {
		assert.Contains(t, roomstest.Fields(t, c.do()), c.field)
	}
	_, err = h.Rooms.Register.ResumeUnit(h.Ctx, h.Manager, u.ID, contract.UnitResumption{Day: roomstest.On("2026-03-01")})
	var conflict organisation.Conflict
	assert.True(t, errors.As(err, &conflict))
}

// A unit that moves leaves the factors of its old place behind from that day, and keeps what it soiled there.
func TestAMoveChangesTheFactorsFromItsDay(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	h.Take("register", roomstest.Header+"Barn,Loft,X-1,Ice machine,condenser,never\n", false)
	var dust uuid.UUID
	for _, f := range h.Cat.Factors {
		if f.Code == "foot_traffic" {
			dust = f.ID
		}
	}
	_, err := h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, contract.NewSiteFactor{FactorID: dust, Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: roomstest.On("2025-01-01")})
	require.NoError(t, err)
	assert.InDelta(t, 4.0, h.Look(u.ID).Factor, 1e-9)
	stays := roomstest.Load(h.Look(u.ID).Coils[0].Sides[0].State.BlockedShare)

	var loft uuid.UUID
	for _, s := range h.Sites() {
		if s.Name == "Barn" {
			loft = s.Placements[0].ID
		}
	}
	record, err := h.Rooms.Register.MoveUnit(h.Ctx, h.Manager, u.ID, contract.UnitMove{PlacementID: loft, Day: roomstest.On("2026-02-02")})
	require.NoError(t, err)
	assert.Equal(t, "Barn", record.Site)
	require.Len(t, record.Stays, 2)
	assert.Equal(t, roomstest.On("2026-02-02"), *record.Stays[0].To)
	moved := h.Look(u.ID)
	assert.InDelta(t, 1.0, moved.Factor, 1e-9)
	assert.InDelta(t, stays*(30*4+30)/(60*4), roomstest.Load(moved.Coils[0].Sides[0].State.BlockedShare), .02*stays)
	for _, row := range h.Portfolio(h.Viewer) {
		assert.Equal(t, "Barn", row.Site)
	}
	_, err = h.Rooms.Register.MoveUnit(h.Ctx, h.Manager, u.ID, contract.UnitMove{PlacementID: loft, Day: roomstest.On("2026-02-20")})
	assert.Contains(t, roomstest.Fields(t, err), "/placement_id")
	_, err = h.Rooms.Register.MoveUnit(h.Ctx, h.Manager, u.ID, contract.UnitMove{PlacementID: store.NewID(), Day: roomstest.On("2026-02-20")})
	assert.Contains(t, roomstest.Fields(t, err), "/placement_id")
}

func TestRetiredAndReplaced(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2025-09-03")
	h.Submit(h.Visit(u, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	_, err := h.Rooms.Register.ReplaceUnit(h.Ctx, h.Manager, u.ID, contract.UnitReplacement{Day: roomstest.On("2026-01-15"), Tag: "IM-2", Reason: "worn out"})
	assert.Contains(t, roomstest.Fields(t, err), "/day", "before its last visit")
	made, err := h.Rooms.Register.ReplaceUnit(h.Ctx, h.Manager, u.ID, contract.UnitReplacement{Day: roomstest.On("2026-02-20"), Tag: "IM-2", Make: new("Kuldvik"), Reason: "worn out"})
	require.NoError(t, err)
	old := h.Card(u.ID)
	assert.Equal(t, contract.UnitStatusRetired, old.Status)
	assert.Equal(t, made.ID, *old.ReplacedBy)
	fresh := h.Look(made.ID)
	assert.Equal(t, "Hall", fresh.Site)
	assert.Equal(t, "2026-03-22", roomstest.Task(fresh, contract.TaskKindLight).Due.String(), "its clocks run from its first day")
	assert.Len(t, h.Portfolio(h.Manager), 1, "the retired one is out of the way")
	for _, stop := range h.Stops() {
		for _, job := range stop.Jobs {
			assert.NotEqual(t, "IM-1", job.Tag)
		}
	}
	_, err = h.Rooms.Register.RetireUnit(h.Ctx, h.Manager, u.ID, contract.UnitRetirement{Day: roomstest.On("2026-03-01"), Reason: "again"})
	var conflict organisation.Conflict
	assert.True(t, errors.As(err, &conflict))
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), h.Visit(u, "2026-03-01", contract.TaskKindLight, 2, 0, contract.FaceLook))
	assert.Contains(t, roomstest.Fields(t, err), "/unit_id")
}

func TestCompanionClocks(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CA-1", "cassette", "2026-01-03")
	require.Len(t, u.Companions, 4, "the class brings them")
	filter := u.Companions[1]
	assert.Equal(t, contract.CompanionKindFilter, filter.Kind)
	assert.True(t, filter.FirstLook, "a coil's clean says nothing of the filter")
	done, err := h.Rooms.Fieldwork.Tick(h.Ctx, h.Technician, filter.ID, contract.NewTick{Day: roomstest.On("2026-03-01")})
	require.NoError(t, err)
	assert.Equal(t, "2026-03-31", done.Due.String())
	assert.Equal(t, done, h.Look(u.ID).Companions[1])
	_, err = h.Rooms.Fieldwork.Tick(h.Ctx, h.Technician, filter.ID, contract.NewTick{Day: roomstest.On("2026-04-01")})
	assert.Contains(t, roomstest.Fields(t, err), "/day")
	_, err = h.Rooms.Fieldwork.Tick(h.Ctx, h.Technician, roomstest.Task(u, contract.TaskKindDeep).TaskID, contract.NewTick{Day: roomstest.On("2026-03-01")})
	var conflict organisation.Conflict
	assert.True(t, errors.As(err, &conflict))
	_, err = h.SaveCard(u.ID, func(c *contract.UnitCard) { c.Companions = nil })
	assert.Contains(t, roomstest.Fields(t, err), "/card/companions", "a clock that was ticked stays")
}
