package dossier_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

var now = time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)

// bench holds one unit's facts as rows, to be changed and assembled; there is no database behind it.
type bench struct {
	t    *testing.T
	cat  organisation.CatalogueRows
	rows store.Facts
}

// newBench is a unit of a class with one coil of the role, one side and a deep task, cleaned on the first of January.
func newBench(t *testing.T, class, role string) *bench {
	t.Helper()
	org := uuid.New()
	b := &bench{t: t, cat: organisation.DefaultRows(org)}
	site := store.Site{OrganisationID: org, ID: uuid.New(), Name: "Hall", Zone: "UTC", Water: "unknown"}
	place := store.Placement{OrganisationID: org, ID: uuid.New(), SiteID: site.ID, Name: "Yard", Setting: "outdoor", Water: "unknown", Drain: "unknown"}
	unit := store.Unit{OrganisationID: org, ID: uuid.New(), Tag: "U-1", ClassID: b.class(class).ID, PlacementID: place.ID, Status: "in_service", Flammable: "unknown"}
	began := store.Date(calendar.MustParse("2026-01-01"))
	coil := store.Coil{OrganisationID: org, ID: uuid.New(), UnitID: unit.ID, Role: role, StartQuality: "exact", StartDay: &began, Slabs: 1, Construction: "tube_fin"}
	side := store.Surface{OrganisationID: org, ID: uuid.New(), CoilID: &coil.ID, Kind: "side", Name: "front", AreaShare: 1, Reachable: true}
	task := store.Task{OrganisationID: org, ID: uuid.New(), UnitID: unit.ID, CoilID: &coil.ID, Kind: "deep", EveryDays: 100, Doer: "technician", LastQuality: "unknown"}
	b.rows = store.Facts{
		Units: []store.Unit{unit}, Stays: []store.UnitStay{{OrganisationID: org, ID: uuid.New(), UnitID: unit.ID, PlacementID: place.ID}},
		Coils: []store.Coil{coil}, Surfaces: []store.Surface{side}, Tasks: []store.Task{task},
		TaskSurfaces: []store.TaskSurface{{OrganisationID: org, TaskID: task.ID, SurfaceID: side.ID, LastDay: &began, LastQuality: "exact"}},
		Sites:        []store.Site{site}, Placements: []store.Placement{place},
	}
	return b
}

func (b *bench) class(code string) *store.EquipmentClass {
	for i := range b.cat.Classes {
		if b.cat.Classes[i].Code == code {
			return &b.cat.Classes[i]
		}
	}
	b.t.Fatalf("no class %s", code)
	return nil
}

func (b *bench) method(code string) store.Method {
	for _, m := range b.cat.Methods {
		if m.Code == code {
			return m
		}
	}
	b.t.Fatalf("no method %s", code)
	return store.Method{}
}

// unit assembles what is there now.
func (b *bench) unit() (*dossier.Facts, dossier.Unit) {
	b.t.Helper()
	c, err := organisation.NewCatalogue(b.cat)
	require.NoError(b.t, err)
	r := dossier.New(c, b.rows, false)
	d, err := r.Unit(r.Rows.Units[0], now)
	require.NoError(b.t, err)
	return r, d
}

func (b *bench) advice() (in struct {
	plugIn, movable, flammable, water, drain bool
},
) {
	r, d := b.unit()
	a := r.AdviceInput(d, d.Coils[0])
	in.plugIn, in.movable, in.flammable, in.water, in.drain = a.Coil.PlugIn, a.Coil.Movable, a.Coil.Flammable, a.Place.Water, a.Place.Drain
	return in
}

func TestAUnitIsAssembledFromRows(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	_, d := b.unit()
	assert.Equal(t, "Hall", d.Site.Name)
	require.Len(t, d.Coils, 1)
	assert.Equal(t, "2026-04-11", d.Coils[0].Tasks[0].Due.Day.String(), "a hundred days after the first of January")
	assert.True(t, d.Coils[0].Sides[0].State().Known)
	assert.Positive(t, d.Coils[0].Blocked)
	b.rows.Tasks[0].ForwardTo = new(store.Date(calendar.MustParse("2026-03-10")))
	_, d = b.unit()
	assert.Equal(t, "2026-03-10", d.Coils[0].Tasks[0].Due.Day.String(), "brought forward by hand")
}

// What nobody has said is never presumed: unknown burns, and unknown water and drains are not there.
func TestUnknownFactsAreOnTheSafeSide(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	for flammable, burns := range map[string]bool{"unknown": true, "yes": true, "no": false} {
		b.rows.Units[0].Flammable = flammable
		assert.Equal(t, burns, b.advice().flammable, flammable)
		r, d := b.unit()
		assert.Equal(t, burns, r.StandingTags(d, false)["flammable"], flammable)
	}
	for _, x := range []struct {
		place, site string
		water       bool
	}{{"unknown", "unknown", false}, {"unknown", "yes", true}, {"unknown", "no", false}, {"yes", "no", true}, {"no", "yes", false}} {
		b.rows.Placements[0].Water, b.rows.Sites[0].Water = x.place, x.site
		assert.Equal(t, x.water, b.advice().water, "placement %s, site %s", x.place, x.site)
	}
	for drain, there := range map[string]bool{"unknown": false, "yes": true, "no": false} {
		b.rows.Placements[0].Drain = drain
		assert.Equal(t, there, b.advice().drain, drain)
	}
}

// Traits are the class's columns: a class of the organisation's own that says so is treated so.
func TestTraitsAreTheClasses(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	in := b.advice()
	assert.False(t, in.plugIn || in.movable)
	class := b.class("outdoor_condensing")
	class.Code, class.PlugIn, class.Movable, class.Pan, class.HoldsGoods, class.Wheel = "our_own", true, true, true, true, true
	in = b.advice()
	assert.True(t, in.plugIn && in.movable)
	r, d := b.unit()
	tags := r.StandingTags(d, true)
	for _, tag := range []string{"plug_in", "pan", "cooled_goods", "wheel", "watched", "outdoors", "base_trough", "opens_electrics"} {
		assert.True(t, tags[tag], tag)
	}
	assert.InDelta(t, heat.CleanPlugIn, r.Economics(d, d.Coils[0].Coil).CleanK, 1e-9)
}

// The people of a deep clean: as the unit's access says, else as its class does; a light one takes one.
func TestPeopleForAClean(t *testing.T) {
	t.Parallel()
	b := newBench(t, "through_wall", "condenser")
	r, d := b.unit()
	assert.Equal(t, []int{2, 1}, []int{r.PeopleFor(d, "deep"), r.PeopleFor(d, "light")})
	from := calendar.MustParse("2025-01-01")
	b.rows.Access = []store.UnitAccess{{UnitID: d.Unit.ID, People: 3, Valid: store.DateRange{From: &from}}}
	r, d = b.unit()
	assert.Equal(t, []int{3, 3}, []int{r.PeopleFor(d, "deep"), r.PeopleFor(d, "light")})
}

// A clean costs its minutes at the labour rate, times the people, and the cleaner used by its pack.
func TestWhatACleanCosts(t *testing.T) {
	t.Parallel()
	b := newBench(t, "through_wall", "condenser")
	b.class("through_wall").DeepMinutes = 45
	_, d := b.unit()
	assert.InDelta(t, 45./60*48*2, d.Coils[0].Work("deep").Cost, 1e-9, "two people at 48 an hour")
	assert.Equal(t, "foam_rinse", d.Coils[0].Work("deep").Method.Code, "as its class is usually cleaned")

	k := &b.cat.Cleaners[0]
	k.PackL, k.PackPrice = new(5.0), new(40.0)
	visit := store.Visit{OrganisationID: d.Unit.OrganisationID, ID: uuid.New(), UnitID: d.Unit.ID, Day: store.Date(calendar.MustParse("2026-02-01")), Status: "submitted"}
	treatment := store.Treatment{
		OrganisationID: visit.OrganisationID, ID: uuid.New(), VisitID: visit.ID, CoilID: d.Coils[0].ID, Work: "deep", MethodID: b.method("tank_sprayer").ID,
		Direction: "against_airflow", CleanerID: &k.ID, AmountL: new(.5),
	}
	b.rows.Visits, b.rows.Treatments = []store.Visit{visit}, []store.Treatment{treatment}
	_, d = b.unit()
	work := d.Coils[0].Work("deep")
	assert.Equal(t, "tank_sprayer", work.Method.Code, "as it was last done")
	assert.InDelta(t, 45./60*48*2+.5/5*40, work.Cost, 1e-9)
}

// The price of a day over the limit: the site's, else the class's, else the organisation's.
func TestThePriceOfADayOverTheLimit(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	over := func() float64 {
		r, d := b.unit()
		return r.OverPrice(d)
	}
	assert.InDelta(t, .5, over(), 1e-9)
	b.class("outdoor_condensing").OverPrice = new(2.0)
	assert.InDelta(t, 2, over(), 1e-9)
	b.rows.Sites[0].OverPrice = new(7.0)
	assert.InDelta(t, 7, over(), 1e-9)
}

// A call-out costs the organisation's figure and what a failure of this unit costs on top; energy is the entered one first.
func TestWhatSoilCostsAtAUnit(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	r, d := b.unit()
	e := r.Economics(d, d.Coils[0].Coil)
	assert.InDelta(t, 450, e.CallCost, 1e-9)
	assert.InDelta(t, 22*.18, e.EnergyDay, 1e-9)
	b.rows.Units[0].ConsequenceCost, b.rows.Units[0].EnergyKwhDay = new(1200.0), new(50.0)
	r, d = b.unit()
	e = r.Economics(d, d.Coils[0].Coil)
	assert.InDelta(t, 1650, e.CallCost, 1e-9)
	assert.InDelta(t, 50*.18, e.EnergyDay, 1e-9)
}

// Plans are lawful, priced, and named by their passes; the one in force is among them, or barred from being proposed.
func TestTheProgramKnowsWhatIsInForce(t *testing.T) {
	t.Parallel()
	b := newBench(t, "outdoor_condensing", "condenser")
	_, d := b.unit()
	for _, task := range d.Coils[0].Tasks {
		if task.Kind != "deep" || !task.Program.Known {
			continue
		}
		p := task.Program
		require.NotNil(t, p.InForce)
		assert.Equal(t, p.InForcePlan.Code, p.InForce.Plan)
		for _, k := range p.Table {
			assert.Positive(t, p.Plans[k.Plan].Cost)
			assert.NotContains(t, k.Plan, "usual:", "what nobody would advise is never proposed")
		}
		return
	}
	t.Fatal("no program")
}

// Stock is what was bought and counted, less what was drawn, plus what came back.
func TestStockOnHand(t *testing.T) {
	t.Parallel()
	cat := organisation.DefaultRows(uuid.New())
	c, err := organisation.NewCatalogue(cat)
	require.NoError(t, err)
	k := cat.Cleaners[len(cat.Cleaners)-1]
	move := func(day, kind string, l float64) store.StockMove {
		return store.StockMove{CleanerID: k.ID, Day: store.Date(calendar.MustParse(day)), Kind: kind, Litres: l}
	}
	lines := dossier.StockLines(c, nil, []store.StockMove{
		move("2026-01-02", "bought", 10), move("2026-02-01", "drawn", 3), move("2026-02-01", "returned", 1), move("2026-02-20", "drawn", 2),
	}, calendar.MustParse("2026-03-04"))
	var line contract.StockLine
	for _, l := range lines {
		if l.CleanerID == k.ID {
			line = l
		}
	}
	assert.InDelta(t, 6, line.OnHandL, 1e-9)
	assert.InDelta(t, 4, line.Drawn90L, 1e-9)
}

// An outdoor deep clean is drawn into spring where the organisation asks for it; refrigeration, which runs all year, is not.
func TestTheSeasonOfOutdoorDeepCleans(t *testing.T) {
	t.Parallel()
	due := func(class, answer, kind string, lat float64) int {
		b := newBench(t, class, "condenser")
		last := store.Date(calendar.MustParse("2025-06-15"))
		b.rows.Sites[0].Lat = &lat
		b.rows.Tasks[0].EveryDays, b.rows.Tasks[0].Kind = 365, kind
		b.rows.TaskSurfaces[0].LastDay, b.rows.Coils[0].StartDay = &last, &last
		b.cat.Rules = append(b.cat.Rules, store.HouseRule{Question: "season", Choice: store.ToJSON(answer)})
		_, d := b.unit()
		return d.Coils[0].Tasks[0].Result.Days
	}
	assert.Less(t, due("outdoor_condensing", "before_load", "deep", 58), due("outdoor_condensing", "any", "deep", 58))
	assert.Equal(t, due("outdoor_condensing", "any", "deep", -30), due("outdoor_condensing", "before_load", "deep", -30), "June is far from October")
	assert.Equal(t, due("remote_condenser", "any", "deep", 58), due("remote_condenser", "before_load", "deep", 58))
	assert.Equal(t, due("outdoor_condensing", "any", "light", 58), due("outdoor_condensing", "before_load", "light", 58))
}

// Where technicians do all of it, what site staff do elsewhere is theirs; nothing else changes hands.
func TestWhoDoesLightTasks(t *testing.T) {
	t.Parallel()
	for answer, want := range map[string]string{"split": "site_staff", "all_technician": "technician"} {
		b := newBench(t, "display_cooler", "condenser")
		unit := b.rows.Units[0]
		b.rows.Companions = []store.Task{
			{OrganisationID: unit.OrganisationID, ID: uuid.New(), UnitID: unit.ID, Kind: "grille", EveryDays: 30, Doer: "site_staff", LastQuality: "unknown"},
			{OrganisationID: unit.OrganisationID, ID: uuid.New(), UnitID: unit.ID, Kind: "inspect", EveryDays: 30, Doer: "contractor", LastQuality: "unknown"},
			{OrganisationID: unit.OrganisationID, ID: uuid.New(), UnitID: unit.ID, Kind: "tablet", EveryDays: 91, Doer: "technician", LastQuality: "unknown"},
		}
		pan := map[string]string{"split": "tablets", "all_technician": "cleaner"}[answer]
		b.cat.Rules = append(b.cat.Rules, store.HouseRule{Question: "who", Choice: store.ToJSON(answer)}, store.HouseRule{Question: "pan", Choice: store.ToJSON(pan)})
		r, d := b.unit()
		assert.Equal(t, want, string(r.Companion(d, r.Companions[unit.ID][0]).Doer))
		assert.Equal(t, "contractor", r.Companions[unit.ID][1].Doer)
		assert.Equal(t, pan != "tablets", r.Companion(d, r.Companions[unit.ID][2]).Paused, "no tablets, no clock of theirs")
		assert.True(t, r.StandingTags(d, false)["grille"])
	}
}
