package learning_test

import (
	"context"
	"math"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/learning"
	"nextround/internal/organisation"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A unit that soils more slowly than assumed: its rate is its own, the proposal that of least cost, with the money it saves.
func TestAUnitsOwnRateLeadsItsInterval(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	u = h.Look(u.ID)
	side := u.Coils[0].Sides[0]
	assert.Equal(t, contract.RateOwn, side.RateFrom)
	assert.Equal(t, 6, side.Findings)
	assert.Less(t, side.RatePer30Days, .5*side.AssumedRate)
	assert.Less(t, side.RateLow, side.RatePer30Days)
	assert.Greater(t, side.RateHigh, side.RatePer30Days)
	deep := roomstest.Task(u, contract.TaskKindDeep)
	assert.Equal(t, contract.SchoolCost, deep.Proposal.School)
	assert.Greater(t, deep.Proposal.Limit.Days, 91.0, "of the usual clean alone")
	assert.Positive(t, *deep.Proposal.SavesYear)
	program := deep.Proposal.Program
	require.NotNil(t, program)
	assert.True(t, program.Leads, "a quicker way keeps it cleaner for less")
	assert.Equal(t, deep.Proposal.Days, program.Best.EveryDays)
	assert.InDelta(t, *deep.Proposal.SavesYear, program.SavesYear, 1e-6, "one figure")
	assert.InDelta(t, program.SavesYear, yearOf(*program.InForce)-yearOf(program.Best), 1e-6)
	assert.Greater(t, program.BetterShare, .84)
	assert.Less(t, deep.Proposal.Proposed.TotalDay, deep.Proposal.InForce.TotalDay)
	require.NotNil(t, deep.Bench)
	assert.Len(t, deep.Bench.After.Sides, 1)
	assert.NotEmpty(t, u.Coils[0].Money)
}

// What one side tells, a like side without findings takes up at once, and says from whom.
func TestPeersAtTheSiteLearnAtOnce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	told, peer := h.Unit("UC-1", "undercounter_cooler", "2024-06-01"), h.Unit("UC-2", "undercounter_cooler", "2025-12-01")
	other := h.Unit("IM-1", "ice_machine", "2025-12-01")
	before := h.Look(peer.ID).Coils[0].Sides[0]
	assert.Equal(t, contract.RateAssumed, before.RateFrom)
	stale := h.PortfolioLine("UC-2")
	h.Visits(told, "2024-09-01", 91, 3, 1, contract.LightThrough)
	after := h.Look(peer.ID).Coils[0].Sides[0]
	assert.Equal(t, contract.RatePeers, after.RateFrom)
	assert.Less(t, after.RatePer30Days, .8*before.RatePer30Days)
	assert.Equal(t, reason.PeersOnly, after.Reasons[0].Code)
	assert.Less(t, *h.PortfolioLine("UC-2").Coil.RatePer30Days, .8**stale.Coil.RatePer30Days, "its line in the portfolio too")
	assert.Equal(t, contract.RateAssumed, h.Look(other.ID).Coils[0].Sides[0].RateFrom, "another class learns nothing from it")
	neighbours := h.Look(peer.ID).Coils[0].Neighbours
	require.Len(t, neighbours, 1)
	assert.Equal(t, "UC-1", neighbours[0].Tag)
	assert.True(t, neighbours[0].SameSite)
}

// A core nobody sees is said to be likely, with its range, and asks for a look with light; seen, it is known.
func TestACoreNobodySawAsksForLight(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("DC-1", "display_cooler", "2025-01-01")
	h.Visits(u, "2025-02-15", 45, 6, 2, contract.FaceLook)
	side := h.Look(u.ID).Coils[0].Sides[0]
	assert.True(t, side.LookWithLight)
	assert.Less(t, *side.State.CoreLowShare, *side.State.CoreShare)
	assert.Greater(t, *side.State.CoreHighShare, *side.State.CoreShare)
	deep := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	assert.LessOrEqual(t, deep.Proposal.Days, deep.EveryDays, "no lengthening meanwhile")
	h.Submit(h.Visit(u, "2026-02-20", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	assert.False(t, h.Look(u.ID).Coils[0].Sides[0].LookWithLight)
}

// Hard caps bind, and go again.
func TestCapsBindUntilTheyAreTakenOff(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	deep := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	most := 40
	c, err := h.Rooms.Learning.AddCap(h.Ctx, h.Manager, deep.TaskID, contract.NewCap{Kind: contract.Hygiene, MostDays: &most, Note: text("kitchen code")})
	require.NoError(t, err)
	capped := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	assert.Equal(t, 35, capped.Proposal.Days)
	assert.Equal(t, "cap", capped.Proposal.Binding)
	require.Len(t, *capped.Caps, 1)
	require.NoError(t, h.Rooms.Learning.RemoveCap(h.Ctx, h.Manager, c.ID))
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "unit", u.ID)
	require.NoError(t, err)
	assert.Equal(t, "cap removed", trail[0].Action)
	assert.Contains(t, trail[0].Changes, contract.AuditChange{Path: "note", Before: "kitchen code"})
	assert.Contains(t, trail[1].Changes, contract.AuditChange{Path: "note", After: "kitchen code"})
	assert.Greater(t, roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal.Days, 40)
	_, err = h.Rooms.Learning.AddCap(h.Ctx, h.Manager, deep.TaskID, contract.NewCap{Kind: contract.Chemistry})
	assert.Contains(t, roomstest.Fields(t, err), "/times_a_year")
	_, err = h.Rooms.Learning.AddCap(h.Ctx, h.Manager, deep.TaskID, contract.NewCap{Kind: contract.Maker})
	assert.Contains(t, roomstest.Fields(t, err), "/most_days")
	_, err = h.Rooms.Learning.AddCap(h.Ctx, h.Technician, deep.TaskID, contract.NewCap{Kind: contract.Maker, MostDays: &most})
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	assert.ErrorIs(t, h.Rooms.Learning.RemoveCap(h.Ctx, h.Manager, c.ID), organisation.ErrNotFound)
}

func text(s string) *string { return &s }

// A program without a light clean ends the light clean; an interval of the manager's own begins it again.
func TestALightCleanEndsWithTheProgram(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2024-06-01")
	light := roomstest.Task(h.Look(u.ID), contract.TaskKindLight)
	require.Nil(t, light.Ended)
	row, err := store.Get[store.Task](h.Store.For(h.Ctx, h.Manager.Org.ID), light.TaskID)
	require.NoError(t, err)
	require.NoError(t, h.Store.For(h.Ctx, h.Manager.Org.ID).SetLightTask(row, row.EveryDays, true))
	ended := roomstest.Task(h.Look(u.ID), contract.TaskKindLight)
	require.NotNil(t, ended.Ended)
	assert.Nil(t, ended.Proposal.ID)
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, light.TaskID, contract.OwnInterval{Days: 21, Reason: "staff can do it"})
	require.NoError(t, err)
	again := roomstest.Task(h.Look(u.ID), contract.TaskKindLight)
	assert.Nil(t, again.Ended)
	assert.Equal(t, 21, again.EveryDays)
}

// yearOf is all that a way of keeping a coil costs a year, the price of days over the limit counted.
func yearOf(k contract.KeptCost) float64 {
	return k.CleaningYear + k.EnergyYear + k.CallsYear + k.OverPriceYear
}

// Accepting a program sets plan, interval and the day of the first clean, which holds until it is done.
func TestAProgramIsAcceptedAsAWhole(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	before := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	require.True(t, before.Proposal.Program.Leads)
	want := before.Proposal.Program.Best
	_, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, *before.Proposal.ID, contract.Decision{Accept: true})
	require.NoError(t, err)
	after := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	assert.Equal(t, want.EveryDays, after.EveryDays)
	assert.Equal(t, before.Proposal.Program.First.Day, after.Due, "the first clean has its day")
	inForce := after.Proposal.Program.InForce
	require.NotNil(t, inForce)
	assert.Equal(t, want.Plan.Passes, inForce.Plan.Passes, "the plan is in force")
	assert.InDelta(t, yearOf(want), yearOf(*inForce), 1, "at what it was said to cost")
	assert.Nil(t, after.Proposal.ID, "nothing beats it")
	assert.False(t, after.Proposal.Program.Change)
}

// Many proposals at once: a preview changes nothing; accepting changes all; what was superseded meanwhile is left alone.
func TestManyProposalsAtOnce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	first, second := h.Unit("UC-1", "undercounter_cooler", "2024-06-01"), h.Unit("UC-2", "undercounter_cooler", "2024-06-01")
	for _, u := range []contract.Unit{first, second} {
		h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	}
	a, b := roomstest.Task(h.Look(first.ID), contract.TaskKindDeep), roomstest.Task(h.Look(second.ID), contract.TaskKindDeep)
	require.NotNil(t, a.Proposal.ID)
	require.NotNil(t, b.Proposal.ID)
	ask := contract.Acceptance{ProposalIds: []uuid.UUID{*a.Proposal.ID, *b.Proposal.ID}, Preview: true}
	shown, err := h.Rooms.Learning.AcceptProposals(h.Ctx, h.Manager, ask)
	require.NoError(t, err)
	require.Len(t, shown.Lines, 2)
	assert.Zero(t, shown.Accepted)
	assert.Less(t, shown.HoursYearAfter, shown.HoursYearBefore)
	assert.InEpsilon(t, *a.Proposal.SavesYear+*b.Proposal.SavesYear, shown.SavesYear, .05, "as proposed, before the second told the first more")
	assert.Equal(t, a.Proposal.Program.First.Day, shown.Lines[0].DueAfter)
	assert.Equal(t, a.Proposal.Program.Best.Plan.Passes, shown.Lines[0].Plan.Passes)
	assert.Equal(t, a.EveryDays, roomstest.Task(h.Look(first.ID), contract.TaskKindDeep).EveryDays, "a preview changes nothing")

	// Newer evidence comes in for the second.
	h.Submit(h.Visit(second, "2026-03-02", contract.TaskKindDeep, 4, 0, contract.LightThrough))
	ask.Preview = false
	done, err := h.Rooms.Learning.AcceptProposals(h.Ctx, h.Manager, ask)
	require.NoError(t, err)
	assert.Equal(t, 1, done.Accepted)
	assert.Equal(t, 1, done.Superseded)
	after := roomstest.Task(h.Look(first.ID), contract.TaskKindDeep)
	assert.Equal(t, a.Proposal.Days, after.EveryDays)
	assert.Equal(t, contract.SchoolCost, after.Changes[0].School)
	assert.Equal(t, b.EveryDays, roomstest.Task(h.Look(second.ID), contract.TaskKindDeep).EveryDays)
	_, err = h.Rooms.Learning.AcceptProposals(h.Ctx, h.Manager, contract.Acceptance{ProposalIds: []uuid.UUID{uuid.New()}})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Learning.AcceptProposals(h.Ctx, h.Technician, ask)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// The organisation's rule decides what leads; the price of a day over the limit may differ by site.
func TestWhatTheHouseWantsLeads(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 2, contract.LightThrough)
	byCost := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal
	_, err := h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "interval", contract.PracticeChange{Choice: text("limit"), Reason: "the kitchen must never stop"})
	require.NoError(t, err)
	byLimit := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal
	assert.Equal(t, contract.SchoolCost, byCost.School)
	assert.LessOrEqual(t, float64(byLimit.Days), byCost.Cost.Days, "of the same way of cleaning")
	_, err = h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "interval", contract.PracticeChange{Choice: text("habit"), Reason: "as ever"})
	require.NoError(t, err)
	assert.Equal(t, contract.SchoolHabit, roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal.School)
	_, err = h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "interval", contract.PracticeChange{Choice: text("cost"), Reason: "back"})
	require.NoError(t, err)
	site, err := h.Rooms.Register.Site(h.Ctx, h.Manager, u.SiteID)
	require.NoError(t, err)
	card := site.Card
	dear := 50.0
	card.OverPrice = &dear
	_, err = h.Rooms.Register.SaveSite(h.Ctx, h.Manager, u.SiteID, contract.SiteChange{Version: site.Version, Card: card})
	require.NoError(t, err)
	assert.Less(t, roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal.Cost.Days, byCost.Cost.Days, "a dear day over the limit shortens")
}

// What a method takes away is learned from what was found and left.
func TestRemovalIsTheHousesOwn(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-01-01")
	at := roomstest.On("2024-02-01")
	for range 10 {
		v := h.Visit(u, at.String(), contract.TaskKindDeep, 3, 2, contract.FaceLook)
		v.Coils[0].Sides[0].SoilIds = &[]uuid.UUID{h.Soil("dust")}
		h.Submit(v)
		at = at.Add(60)
	}
	_, err := h.Rooms.Learning.Rebuild(h.Ctx)
	require.NoError(t, err)
	var row store.RemovalEstimate
	require.NoError(t, h.Store.DB.Where("family = 'dust_like'").Take(&row).Error)
	assert.Equal(t, 10, row.FacePairs)
	own := 1 - soil.Coat.MiddleLoad()/soil.Felt.MiddleLoad()
	m, ok := soil.MethodByCode("brush_vacuum")
	require.True(t, ok)
	assert.InDelta(t, (learn.RemovalWeight*m.Dust[0]+10*own)/(learn.RemovalWeight+10), row.FaceShare, 1e-9)
}

// Everything recalculated comes to what was there, and twice to the same.
func TestRebuildComesToTheSame(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	for _, tag := range []string{"UC-1", "UC-2", "UC-3"} {
		h.Visits(h.Unit(tag, "undercounter_cooler", "2024-06-01"), "2024-09-01", 91, 4, 1, contract.LightThrough)
	}
	rates := func() map[string]float64 {
		out := map[string]float64{}
		for _, r := range h.Portfolio(h.Viewer) {
			out[r.Tag] = *r.Coil.RatePer30Days
		}
		return out
	}
	incremental := rates()
	_, err := h.Rooms.Learning.Rebuild(h.Ctx)
	require.NoError(t, err)
	once := rates()
	_, err = h.Rooms.Learning.Rebuild(h.Ctx)
	require.NoError(t, err)
	for tag, v := range rates() {
		assert.InDelta(t, once[tag], v, 1e-12)
		assert.InEpsilon(t, incremental[tag], v, .08, "visit by visit it came to nearly the same: removals are learned again at a rebuild only")
	}
}

// Two servers share a run: it ends once, every unit is counted once, and what it comes to is what a rebuild comes to.
func TestTwoServersShareARun(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	for _, tag := range []string{"UC-1", "UC-2", "UC-3", "UC-4"} {
		h.Visits(h.Unit(tag, "undercounter_cooler", "2024-06-01"), "2024-09-01", 91, 2, 1, contract.LightThrough)
	}
	var servers []*rooms.Rooms
	for range 2 {
		s := rooms.New(h.Store, rooms.Options{Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
		require.NoError(t, s.StartQueue(h.Ctx))
		servers = append(servers, s)
	}
	defer func() {
		for _, s := range servers {
			s.Close()
		}
	}()
	var runs [2]contract.EstimationRun
	var wait sync.WaitGroup
	for i, s := range servers {
		wait.Go(func() {
			run, err := s.Learning.StartEstimation(h.Ctx, h.Manager)
			assert.NoError(t, err)
			runs[i] = run
		})
	}
	wait.Wait()
	assert.Equal(t, runs[0].ID, runs[1].ID, "asked for twice at once, it is one run")
	done := h.RunEnds(runs[0].ID)
	assert.Equal(t, contract.EstimationRunStatusDone, done.Status)
	assert.Equal(t, 4, done.Total)
	assert.Equal(t, 4, done.Done)
	all, err := h.Rooms.Learning.Estimations(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Len(t, all, 1)
	_, err = h.Rooms.Learning.StartEstimation(h.Ctx, h.Technician)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// A run that is stopped stops; one whose server died half way is taken up where it was by another; a part that comes a
// second time does nothing.
func TestARunStopsAndGoesOn(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Unit("UC-2", "undercounter_cooler", "2024-06-01")
	run, err := h.Rooms.Learning.StartEstimation(h.Ctx, h.Manager)
	require.NoError(t, err)
	_, err = h.Rooms.Learning.CancelEstimation(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	part := learning.Part{Org: h.Manager.Org.ID, Run: run.ID, Step: "records"}
	require.NoError(t, h.Rooms.Learning.WorkPart(h.Ctx, part))
	stopped, err := h.Rooms.Learning.Estimation(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.EstimationRunStatusCancelled, stopped.Status)

	run, err = h.Rooms.Learning.StartEstimation(h.Ctx, h.Manager)
	require.NoError(t, err)
	part.Run = run.ID
	require.NoError(t, h.Rooms.Learning.WorkPart(h.Ctx, part), "there are no records to read")
	part.Step = "learning"
	require.NoError(t, h.Rooms.Learning.WorkPart(h.Ctx, part))
	half, err := h.Rooms.Learning.Estimation(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, half.Done)
	require.NoError(t, h.Rooms.Learning.WorkPart(h.Ctx, part), "the same part again")
	again, err := h.Rooms.Learning.Estimation(h.Ctx, h.Manager, run.ID)
	require.NoError(t, err)
	assert.Equal(t, half, again, "its effects come once")

	// Another server takes the rest up from the queue.
	s := rooms.New(h.Store, rooms.Options{Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
	require.NoError(t, s.StartQueue(context.WithoutCancel(h.Ctx)))
	defer s.Close()
	assert.Equal(t, contract.EstimationRunStatusDone, h.RunEnds(run.ID).Status)
}

// More soil where the price of waiting is higher: the dearest wait leads the list.
func TestThePortfolioSortsByThePriceOfWaiting(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	slow, fast := h.Unit("UC-1", "undercounter_cooler", "2024-06-01"), h.Unit("UC-2", "undercounter_cooler", "2024-06-01")
	h.Visits(slow, "2024-09-01", 91, 5, 0, contract.LightThrough)
	h.Visits(fast, "2024-09-01", 91, 5, 4, contract.LightThrough)
	for _, sort := range []string{"wait", "rate"} {
		page, err := h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, register.PortfolioQuery{Sort: sort, Limit: 1})
		require.NoError(t, err)
		assert.Equal(t, "UC-2", page.Rows[0].Tag, sort)
		require.NotNil(t, page.Next)
		page, err = h.Rooms.Register.Portfolio(h.Ctx, h.Viewer, register.PortfolioQuery{Sort: sort, Limit: 1, After: *page.Next})
		require.NoError(t, err)
		assert.Equal(t, "UC-1", page.Rows[0].Tag, sort)
	}
	line := h.PortfolioLine("UC-2").Coil.Tasks[0]
	require.NotNil(t, line.WaitWeek)
	assert.Greater(t, *line.WaitWeek, *h.PortfolioLine("UC-1").Coil.Tasks[0].WaitWeek)
	assert.False(t, math.IsNaN(*line.WaitWeek))
}

// A visit teaches its own unit and the peers at its site at once; what it says to others is taken up at night, once, and from
// then on every line is what a rebuild gives.
func TestAfterTheNightEveryLineIsWhatARebuildGives(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Take("register", roomstest.Header+"Barn,Loft,B-1,Under-counter cooler,condenser,2024-06-01\nBarn,Loft,B-2,Under-counter cooler,condenser,2024-06-01\n", false)
	for _, tag := range []string{"UC-1", "UC-2", "UC-3"} {
		h.Visits(h.Unit(tag, "undercounter_cooler", "2024-06-01"), "2024-09-01", 91, 3, 1, contract.LightThrough)
	}
	require.NoError(t, h.Rooms.StartQueue(h.Ctx))
	lines := func() map[string]store.CoilLine {
		var rows []store.CoilLine
		require.NoError(t, h.Store.DB.Find(&rows).Error)
		return store.Index(rows, func(l store.CoilLine) string { return l.Tag })
	}
	runs := func() []contract.EstimationRun {
		all, err := h.Rooms.Learning.Estimations(h.Ctx, h.Manager)
		require.NoError(t, err)
		return all
	}
	h.Now = time.Date(2026, time.March, 5, 1, 59, 0, 0, time.UTC)
	require.NoError(t, h.Rooms.Learning.Nightly(h.Ctx))
	require.Empty(t, runs(), "not before the night")
	h.Now = h.Now.Add(2 * time.Minute)
	for range 2 {
		require.NoError(t, h.Rooms.Learning.Nightly(h.Ctx))
	}
	require.Len(t, runs(), 1, "once a night")
	assert.Equal(t, contract.EstimationRunStatusDone, h.RunEnds(runs()[0].ID).Status)
	night := lines()
	_, err := h.Rooms.Learning.Rebuild(h.Ctx)
	require.NoError(t, err)
	rebuilt := lines()
	require.Len(t, rebuilt, 5)
	for tag, r := range rebuilt {
		n := night[tag]
		assert.InDelta(t, r.Blocked, n.Blocked, 1e-9, tag)
		assert.InDelta(t, r.Rate, n.Rate, 1e-9, tag)
		assert.InDelta(t, r.WaitWeek, n.WaitWeek, 1e-9, tag)
		assert.Equal(t, [2]any{r.Due, r.Proposed}, [2]any{n.Due, n.Proposed}, tag)
	}
	h.Now = h.Now.Add(24 * time.Hour)
	require.NoError(t, h.Rooms.Learning.Nightly(h.Ctx))
	assert.Len(t, runs(), 1, "nothing came in since")
}

// The hours in force are what the intervals take, people counted; the fewer there are, the more one more would bring.
func TestAnHourMoreHasItsPrice(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	none, err := h.Rooms.Learning.HourPrice(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Empty(t, none.Rows, "nothing is known yet")
	hours := 0.0
	for _, tag := range []string{"UC-1", "UC-2"} {
		u := h.Unit(tag, "undercounter_cooler", "2024-06-01")
		h.Visits(u, "2024-08-01", 60, 8, 2, contract.LightThrough)
		task := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
		hours += 365 / float64(task.EveryDays) * .5
	}
	p, err := h.Rooms.Learning.HourPrice(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, 2, p.Coils)
	assert.InDelta(t, hours, p.InForceYear, 1e-6, "half an hour each")
	require.Len(t, p.Rows, 5)
	for i, r := range p.Rows[1:] {
		assert.LessOrEqual(t, r.HourPrice, p.Rows[i].HourPrice)
		assert.GreaterOrEqual(t, r.SavesYear, p.Rows[i].SavesYear-1e-9)
	}
	assert.Positive(t, p.Rows[0].HourPrice)
	_, err = h.Rooms.Learning.HourPrice(h.Ctx, h.Technician)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// What changed since the proposal before is told: the finding, the rate that follows, the interval in force.
func TestAProposalTellsWhatChangedSince(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	first := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal
	require.NotNil(t, first.ID)
	assert.Nil(t, first.Since, "nobody had seen one before")
	h.Now = h.Now.AddDate(0, 0, 2)
	h.Submit(h.Visit(u, "2026-03-06", contract.TaskKindDeep, 4, 0, contract.LightThrough))
	since := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep).Proposal.Since
	require.NotNil(t, since)
	assert.Equal(t, first.Days, since.Days)
	assert.Equal(t, contract.ProposalSinceAnswerSuperseded, since.Answer)
	said := map[string]bool{}
	for _, r := range since.Changes {
		said[string(r.Code)] = true
	}
	assert.True(t, said["since_finding"], "%v", since.Changes)
	assert.False(t, said["since_limit"])
}
