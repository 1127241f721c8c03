package fieldwork_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// What is wrong with dose and dwell is said at its field, and nothing is stored.
func TestDoseAndDwellAreChecked(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	setting := h.Sprayers()[0]
	at := "/coils/0/treatments/0"
	for _, c := range []struct {
		pointer, why string
		change       func(*contract.VisitTreatment)
	}{
		{at + "/returned_l", "more came back than was loaded", func(x *contract.VisitTreatment) { x.ReturnedL = new(3.0) }},
		{at + "/amount/value", "come to 1.2 L used", func(x *contract.VisitTreatment) { x.Amount = &contract.Amount{Value: 4, Unit: "l"} }},
		{at + "/over_dwell", "it stood 0s, less than its minimum of 5 min", func(x *contract.VisitTreatment) { x.DwellS = new(0) }},
		{at + "/over_dwell", "10m0s past its maximum of 10 min", func(x *contract.VisitTreatment) { x.DwellS = new(1200) }},
		{at + "/setting_id", "is not one of your sprayers' settings", func(x *contract.VisitTreatment) { x.SettingID = new(uuid.New()) }},
		{at + "/water_parts", "it cannot make 77 to 1", func(x *contract.VisitTreatment) { x.SettingID, x.WaterParts = &setting.ID, new(77.0) }},
		{at + "/setting_id", "A ready-to-use cleaner through a mixing head is thinned", func(x *contract.VisitTreatment) {
			x.SettingID, x.CleanerID, x.WaterParts = &setting.ID, new(h.Cleaner("indoor_neutral")), nil
		}},
	} {
		v := h.Wet(u, "2026-02-02", "medium_universal")
		c.change(&v.Coils[0].Treatments[0])
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
		bad := roomstest.FieldsOf(t, err)
		assert.Equal(t, c.pointer, bad[0].Path, c.why)
		assert.Contains(t, bad[0].Reason, c.why)
	}
	assert.Empty(t, h.Look(u.ID).Visits, "nothing was stored")
	fine := h.Wet(u, "2026-02-02", "medium_universal")
	fine.Coils[0].Treatments[0].SettingID, fine.Coils[0].Treatments[0].WaterParts = &setting.ID, nil
	fine.Coils[0].Treatments[0].DwellS, fine.Coils[0].Treatments[0].OverDwell = new(1200), new("rinsed twice")
	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Manager, h.Submit(fine).ID)
	require.NoError(t, err)
	got := record.Visit.Coils[0].Treatments[0]
	assert.InDelta(t, setting.WaterParts, *got.WaterParts, 1e-9, "the setting's ratio")
	assert.InDelta(t, 1.2, *record.Summary.Treatments[0].AmountL, 1e-9, "loaded + topped up − returned")
}

// A visit led step by step is held to what the label allows, and to the end-points that the rule ends a rinse with.
func TestALedVisitIsHeldToLabelAndEndPoint(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	led := func(change func(*contract.VisitTreatment)) map[string]string {
		v := h.Wet(u, "2026-02-02", "medium_universal")
		v.Steps = &[]contract.StepResult{{Step: "rinse_end", State: contract.StepResultStateDone}}
		change(&v.Coils[0].Treatments[0])
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
		return roomstest.Fields(t, err)
	}
	at := "/coils/0/treatments/0"
	assert.Contains(t, led(func(x *contract.VisitTreatment) { x.WaterParts = nil })[at+"/water_parts"], "has to be diluted")
	assert.Contains(t, led(func(x *contract.VisitTreatment) { x.WaterParts = new(500.0) })[at+"/water_parts"], "500:1 is outside of that")
	bare := led(func(x *contract.VisitTreatment) { x.EndPoints = nil })
	assert.Contains(t, bare, at+"/end_points")
	both := led(func(x *contract.VisitTreatment) {
		x.EndPoints = &[]contract.EndPoint{contract.ClearRunOff, contract.LightThroughAll}
	})
	assert.NotContains(t, both, at+"/end_points")
	assert.NotContains(t, both, at+"/water_parts")
	_, err := h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "rinse_end", contract.PracticeChange{Choice: new("ten_minutes"), Reason: "nobody stops early"})
	require.NoError(t, err)
	assert.NotContains(t, led(func(x *contract.VisitTreatment) { x.EndPoints = nil }), at+"/end_points")
}

// A unit that always takes twice what is planned is planned for more: its own factor, shrunk towards 1.
func TestTheUnitsOwnDoseIsLearned(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2025-01-01")
	factor := func() float64 {
		pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Manager, u.ID)
		require.NoError(t, err)
		return pack.Coils[0].Advice.Coil.DoseFactor
	}
	assert.InDelta(t, 1, factor(), 1e-9)
	for _, day := range []string{"2025-06-01", "2025-09-01", "2026-01-10"} {
		v := h.Wet(u, day, "medium_universal")
		x := &v.Coils[0].Treatments[0]
		x.LoadedL, x.ToppedUpL, x.ReturnedL, x.PlannedL = new(2.0), nil, nil, new(1.0)
		h.Submit(v)
	}
	// exp(3 ln 2 / (3 + 3)) = √2
	assert.InDelta(t, 1.41421356, factor(), 1e-6)
	doses, err := h.Rooms.Fieldwork.Doses(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, doses.ByUnit, 1)
	assert.InDelta(t, 2, doses.ByUnit[0].Ratio, 1e-9)
	assert.Equal(t, [2]int{3, 3}, [2]int{doses.Recorded, doses.Planned})
	assert.Equal(t, "The technician", doses.ByCrew[0].Group)
}

// Stock: what was counted is what is there; the pace of 90 days says when to order.
func TestTheStockBookCounts(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2025-01-01")
	k := h.Cleaner("medium_universal")
	move := func(kind contract.NewStockMoveKind, litres float64, day string) contract.StockLine {
		book, err := h.Rooms.Fieldwork.AddStockMove(h.Ctx, h.Manager, contract.NewStockMove{CleanerID: k, Kind: kind, Litres: litres, Day: calendar.MustParse(day)})
		require.NoError(t, err)
		return lineOfStock(t, book, k)
	}
	assert.InDelta(t, 20, move(contract.NewStockMoveKindBought, 20, "2025-11-01").OnHandL, 1e-9)
	assert.Equal(t, 1, move(contract.NewStockMoveKindOpened, 5, "2025-11-02").Opened)
	assert.InDelta(t, 12, move(contract.NewStockMoveKindCounted, 12, "2025-12-01").OnHandL, 1e-9)
	h.Submit(h.Wet(u, "2026-02-01", "medium_universal")) // draws 1.5 L, brings 0.3 L back
	book, err := h.Rooms.Fieldwork.SaveStockItem(h.Ctx, h.Manager, k, contract.StockItemChange{ReorderAtL: 8, LeadDays: 10})
	require.NoError(t, err)
	line := lineOfStock(t, book, k)
	assert.InDelta(t, 10.8, line.OnHandL, 1e-9)
	assert.InDelta(t, 1.2, line.Drawn90L, 1e-9)
	// (10.8 − 8) L at 1.2 L in 90 d last 210 d; ordered 10 d ahead.
	assert.Equal(t, calendar.Of(roomstest.Now).Add(200), *line.ReorderOn)
	_, err = h.Rooms.Fieldwork.SaveStockItem(h.Ctx, h.Manager, k, contract.StockItemChange{ReorderAtL: 1})
	assert.ErrorContains(t, err, "somebody else changed this")
	for pointer, in := range map[string]contract.NewStockMove{
		"/day": {CleanerID: k, Kind: contract.NewStockMoveKindBought, Litres: 1, Day: calendar.Of(roomstest.Now).Add(1)}, "/litres": {CleanerID: k, Kind: contract.NewStockMoveKindBought, Day: calendar.Of(roomstest.Now)},
		"/cleaner_id": {CleanerID: uuid.New(), Kind: contract.NewStockMoveKindBought, Litres: 1, Day: calendar.Of(roomstest.Now)},
	} {
		_, err := h.Rooms.Fieldwork.AddStockMove(h.Ctx, h.Manager, in)
		assert.Equal(t, pointer, roomstest.FieldsOf(t, err)[0].Path)
	}
}

// A watched thing is shown with how each visit found it; an amended visit keeps what its first version opened.
func TestWatchItemsGoThroughTheirVisits(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2025-06-01")
	side := u.Coils[0].Sides[0].ID
	v := h.Visit(u, "2026-01-10", contract.TaskKindDeep, 2, 0, contract.LightThrough)
	v.NewWatch = &[]contract.NewWatchItem{{What: "chafing at the second bend", SurfaceID: &side}}
	v.Parts = &[]contract.PartCard{{Kind: "capacitor", Specification: "30 µF", Quantity: 1}}
	first := h.Submit(v)
	items, err := h.Rooms.Fieldwork.WatchItems(h.Ctx, h.Viewer, u.ID)
	require.NoError(t, err)
	require.Len(t, items, 1)
	assert.Equal(t, u.Coils[0].Sides[0].Name, *items[0].Side)

	next := h.Visit(u, "2026-02-10", contract.TaskKindDeep, 2, 0, contract.LightThrough)
	next.Watched = &[]contract.WatchLook{{WatchID: items[0].ID, State: "worse", Note: new("metal shows")}}
	second := h.Submit(next)
	items, err = h.Rooms.Fieldwork.WatchItems(h.Ctx, h.Viewer, u.ID)
	require.NoError(t, err)
	require.Len(t, items[0].Looks, 1)
	assert.Equal(t, "metal shows", items[0].Looks[0].Note)
	lines, err := h.Rooms.Fieldwork.Attention(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	assert.Equal(t, "Got worse: chafing at the second bend", lines[0].Text)

	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Manager, first.ID)
	require.NoError(t, err)
	_, err = h.Rooms.Fieldwork.AmendVisit(h.Ctx, h.Manager, store.NewID(), first.ID, contract.VisitAmendment{Reason: "minutes", Visit: record.Visit})
	require.NoError(t, err)
	items, err = h.Rooms.Fieldwork.WatchItems(h.Ctx, h.Viewer, u.ID)
	require.NoError(t, err)
	assert.Len(t, items, 1, "not opened again")
	card, err := h.Rooms.Register.UnitCard(h.Ctx, h.Manager, u.ID)
	require.NoError(t, err)
	assert.Len(t, card.Card.Parts, 1, "nor its part")

	record, err = h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Manager, second.ID)
	require.NoError(t, err)
	require.NoError(t, closeWatch(h, items[0].ID))
	_, err = h.Rooms.Fieldwork.AmendVisit(h.Ctx, h.Manager, store.NewID(), second.ID, contract.VisitAmendment{Reason: "minutes", Visit: record.Visit})
	require.NoError(t, err, "an amended visit may say again what it said of an item closed since")
	assert.ErrorContains(t, closeWatch(h, items[0].ID), "already closed")
	_, err = h.Rooms.Fieldwork.CloseWatchItem(h.Ctx, h.Technician, items[0].ID, "x")
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// An amended visit comes back as it was sent, with all that a led visit holds.
func TestALedVisitComesBackAsSent(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2025-06-01")
	v := h.Wet(u, "2026-02-02", "medium_universal")
	v.Source, v.ToldWhom = new(contract.NewVisitSourcePhone), new("the host")
	side := &v.Coils[0].Sides[0]
	side.FirstLook = &contract.Look{Grade: 1, Seen: contract.FaceLook}
	side.Found.Cells = &[]contract.FaceCell{{Row: 0, Column: 0, Grade: new(3)}, {Row: 0, Column: 1, Grade: new(4)}}
	v.Isolation = &contract.Isolation{Point: "breaker 4", Means: contract.IsolationMeansBreaker, Secured: contract.Locked, Discharged: true, MeterTried: true, L1L2V: new(0.0)}
	v.Readings = &[]contract.NewReading{
		{Phase: "after", Kind: "capacitor_uf", Value: 29.4, Source: "typed", Typed: new("29.4"), Context: &contract.ReadingContext{Nameplate: new(30.0)}},
	}
	v.Advised = &[]contract.AdviceGiven{{Text: "move the dryer", Answer: "declined"}}
	v.Counts = &[]contract.CountBack{{What: "screws", Taken: 8, Back: 7, Why: new("in the trough")}}
	v.Exceptions = &[]contract.RuleException{{Ban: "air_never", Reason: "nothing else reached"}}
	v.Choices = &map[string]string{"wheel": "left"}
	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Manager, h.Submit(v).ID)
	require.NoError(t, err)
	got := record.Visit
	assert.Equal(t, v.ToldWhom, got.ToldWhom)
	assert.Equal(t, v.Source, got.Source)
	assert.Equal(t, side.FirstLook.Grade, got.Coils[0].Sides[0].FirstLook.Grade)
	assert.Equal(t, *side.Found.Cells, *got.Coils[0].Sides[0].Found.Cells)
	assert.Equal(t, v.Isolation, got.Isolation)
	assert.Equal(t, v.Advised, got.Advised)
	assert.Equal(t, v.Counts, got.Counts)
	assert.Equal(t, v.Exceptions, got.Exceptions)
	assert.Equal(t, v.Choices, got.Choices)
	require.Len(t, record.Readings, 1)
	assert.Equal(t, "pass", string(record.Readings[0].Verdict), "29.4 on 30 µF")
	assert.Contains(t, record.Readings[0].Text, "±6 %")
	kinds := map[string]int{}
	lines, err := h.Rooms.Fieldwork.Attention(h.Ctx, h.Manager)
	require.NoError(t, err)
	for _, l := range lines {
		kinds[string(l.Kind)]++
	}
	assert.Equal(t, map[string]int{"declined": 1, "count": 1, "exception": 1}, kinds)
	practice, err := h.Rooms.Organisation.Practice(h.Ctx, h.Viewer)
	require.NoError(t, err)
	require.Len(t, practice.Exceptions, 1)
	assert.Equal(t, "air", practice.Exceptions[0].Question)
}

// A report says in plain words what was found, done, left and why, and when somebody comes next.
func TestTheReportSpeaksPlainly(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2025-06-01")
	v := h.Wet(u, "2026-02-02", "medium_universal")
	last := len(v.Coils[0].Sides) - 1
	missed := v.Coils[0].Sides[last].SurfaceID
	v.Coils[0].Sides[last] = contract.VisitSide{SurfaceID: missed, WhyNot: new("behind the ivy")}
	v.Coils[0].Treatments[0].SurfaceIds = v.Coils[0].Treatments[0].SurfaceIds[:last]
	v.Outcome = contract.OutcomePartly
	v.Advised = &[]contract.AdviceGiven{{Text: "cut the ivy", Answer: "agreed"}}
	out := h.Submit(v)
	r, err := h.Rooms.Fieldwork.SiteReport(h.Ctx, h.Viewer, out.ID)
	require.NoError(t, err)
	assert.Equal(t, "A-1 was cleaned in part", r.Title)
	assert.Contains(t, r.Found[0], "felted (grade 3 of 5)")
	assert.Contains(t, r.Done[0], "with medium universal")
	require.Len(t, r.Left, 1)
	assert.Contains(t, r.Left[0], "not reached, behind the ivy. It stays due.")
	assert.Equal(t, []string{"cut the ivy (agreed)"}, r.Advised)
	assert.NotEmpty(t, r.Next)
	assert.Equal(t, "Nobody was told on the spot.", r.Told)
	_, file, err := h.Rooms.Fieldwork.SiteReportFile(h.Ctx, h.Viewer, out.ID)
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(file[:4]))
	_, err = h.Rooms.Fieldwork.SiteReport(h.Ctx, h.Viewer, uuid.New())
	assert.ErrorIs(t, err, organisation.ErrNotFound)

	shut := contract.NewVisit{UnitID: u.ID, Day: v.Day, Outcome: contract.OutcomeNoAccess, Note: new("gate locked"), People: []contract.VisitPerson{}, Coils: []contract.VisitCoil{}}
	r, err = h.Rooms.Fieldwork.SiteReport(h.Ctx, h.Viewer, h.Submit(shut).ID)
	require.NoError(t, err)
	assert.Equal(t, "A-1 could not be reached", r.Title)
	assert.Equal(t, []string{"What stood in the way: gate locked."}, r.Left)
}

// What is done elsewhere in the same moment is not lost: a link's visit and an ended link exclude one another.
func TestLinksEnd(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "display_cooler", "2025-06-01")
	made, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, h.Manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindContractor, Name: "Contractor", Days: 2, UnitID: &u.ID})
	require.NoError(t, err)
	_, err = h.Rooms.Fieldwork.GuestPage(h.Ctx, made.Token)
	require.NoError(t, err)
	_, err = h.Rooms.Fieldwork.GuestTick(h.Ctx, made.Token, contract.GuestTick{TaskID: u.Companions[0].ID})
	assert.ErrorIs(t, err, organisation.ErrNotFound, "a contractor ticks nothing")
	h.Now = h.Now.AddDate(0, 0, 2)
	_, err = h.Rooms.Fieldwork.GuestPage(h.Ctx, made.Token)
	assert.ErrorIs(t, err, organisation.ErrNotFound, "expired")
	links, err := h.Rooms.Fieldwork.GuestLinks(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, links, 1)
	assert.Equal(t, contract.GuestLinkStateExpired, links[0].State)
	for pointer, in := range map[string]contract.NewGuestLink{
		"/name": {Kind: contract.NewGuestLinkKindSiteStaff, Name: " ", Days: 1}, "/site_id": {Kind: contract.NewGuestLinkKindSiteStaff, Name: "x", Days: 1},
		"/unit_id": {Kind: contract.NewGuestLinkKindContractor, Name: "x", Days: 1},
	} {
		_, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, h.Manager, in)
		assert.Equal(t, pointer, roomstest.FieldsOf(t, err)[0].Path)
	}
	people, err := h.Rooms.Organisation.People(h.Ctx, h.Manager)
	require.NoError(t, err)
	names := []string{}
	for _, p := range people {
		names = append(names, p.Name)
	}
	assert.Contains(t, names, "Contractor", "the contractor's work can be recorded")
}
