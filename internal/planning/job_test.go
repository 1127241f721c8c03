package planning_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
	"nextround/internal/weather"
)

// Companions that come near a clean ride along; those far from any are jobs of their own, together with one another.
func TestCompanionsRideAlongWhereTheyAreNear(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("AH-1", "air_handler", "2025-03-15") // its deep clean is due in ten days
	p := h.Planned()
	deep, _, ok := jobNamed(p, "AH-1", contract.JobKindDeep)
	require.True(t, ok)
	kinds := []contract.JobKind{}
	for _, r := range deep.Riders {
		kinds = append(kinds, r.Kind)
		assert.Contains(t, r.Text, "rides along, within")
	}
	assert.Contains(t, kinds, contract.JobKindFilter, "the filters are due now, within a fortnight of it")
	filter, _, ok := jobNamed(p, "AH-1", contract.JobKindFilter)
	require.True(t, ok, "and come round again every thirty days by themselves")
	assert.Contains(t, because(filter), "no clean of the unit comes within")
}

// What a clean takes is learned from the visits to units of the class, and grows with what is in the way.
func TestMinutesAreLearnedAndGrowWithWhatIsInTheWay(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2026-01-20")
	before, _, ok := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	for _, day := range []string{"2025-11-01", "2025-12-01", "2026-01-20"} {
		v := h.Visit(u, day, contract.TaskKindLight, 2, 0, contract.FaceLook)
		v.People[0].Minutes = 42
		h.Submit(v)
	}
	after, _, ok := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	ride := func(j contract.Job) (m float64) {
		for _, r := range j.Riders {
			m += r.Minutes
		}
		return m
	}
	base := before.Minutes - ride(before)
	assert.InDelta(t, (3*base+3*42)/6, after.Minutes-ride(after), .51, "three visits weigh as much as the class's figure")
	assert.Contains(t, because(after), "by 3 visits to such units")
	_, err := h.SaveCard(u.ID, func(c *contract.UnitCard) { c.Access.LadderM = new(2.4) })
	require.NoError(t, err)
	ladder, _, ok := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.InDelta(t, after.Minutes+10, ladder.Minutes, 1e-9)
	assert.Contains(t, strings.Join(ladder.Needs, ", "), "ladder 2.4 m")
}

// Guards, or eight fixings and more, make a deep clean longer; a through-wall unit takes two people for it, as its class says.
func TestWhatIsInTheWayMakesADeepCleanLonger(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	crew := h.Crews()[0]
	crew.Card.People = new(2)
	_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	tw := h.Unit("TW-1", "through_wall", "2025-01-20")
	deep := func() contract.Job {
		j, _, ok := jobNamed(h.Planned(), "TW-1", contract.JobKindDeep)
		require.True(t, ok)
		return j
	}
	plain := deep()
	assert.Equal(t, 2, plain.People)
	for _, x := range []struct{ guards, fixings, extra int }{{0, 7, 0}, {0, 8, 10}, {1, 0, 10}, {2, 20, 10}} {
		_, err := h.SaveCard(tw.ID, func(c *contract.UnitCard) {
			c.Access.People, c.Access.Guards, c.Access.Fixings = 1, &x.guards, &x.fixings
		})
		require.NoError(t, err)
		j := deep()
		assert.InDelta(t, plain.Minutes+float64(x.extra), j.Minutes, 1e-9, "%d guards, %d fixings", x.guards, x.fixings)
		assert.Equal(t, 1, j.People, "what the unit's access says comes before its class")
	}
}

// Water is what the placement says, then the site; where nobody has said, the crew asks and nothing is presumed.
func TestWaterIsCarriedWhereThereIsNone(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-01-20")
	set := func(site, place contract.YesNo) contract.Plan {
		h.SaveSite(u.SiteID, func(c *contract.SiteCard) {
			c.Water = &site
			(*c.Placements)[0].Water = &place
		})
		return h.Planned()
	}
	deep, _, ok := jobNamed(set(contract.YesNoUnknown, contract.YesNoUnknown), "CU-1", contract.JobKindDeep)
	require.True(t, ok, "nobody has said: it is planned, and the crew asks")
	assert.Contains(t, strings.Join(deep.Needs, "; "), "ask the site whether there is running water")
	assert.Nil(t, deep.WaterL)
	deep, _, ok = jobNamed(set(contract.YesNoYes, contract.YesNoUnknown), "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.NotContains(t, strings.Join(deep.Needs, "; "), "water")
	p := set(contract.YesNoYes, contract.YesNoNo)
	_, _, ok = jobNamed(p, "CU-1", contract.JobKindDeep)
	require.False(t, ok, "no crew has a tank")
	require.NotEmpty(t, p.LeftOut)
	assert.Equal(t, "No crew brings what it takes: water.", p.LeftOut[0].Text)
	crew := h.Crews()[0]
	crew.Card.TankL = new(40.0)
	_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	deep, _, ok = jobNamed(h.Planned(), "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.InDelta(t, 20, *deep.WaterL, 1e-9)
	problem, err := h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.True(t, problem.Places[0].Water, "the tank is filled where the site has a tap")
	_, err = h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{
		Name: "Barn", Zone: "UTC", Water: new(contract.YesNoNo), Placements: &[]contract.PlacementCard{{Name: "Loft", Setting: "indoor", Water: new(contract.YesNoYes)}},
	})
	require.NoError(t, err)
	set(contract.YesNoNo, contract.YesNoNo)
	problem, err = h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	for _, place := range problem.Places {
		assert.Equal(t, place.ID != u.SiteID.String() && len(problem.Places) > 1, place.Water, "a tap elsewhere is not here")
	}
}

// What the staff of a site do is theirs, but for the days they are away.
func TestStaffDoTheirGrillesButInHolidays(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("BC-1", "undercounter_cooler", "2026-02-20")
	p := h.Planned()
	_, _, ok := jobNamed(p, "BC-1", contract.JobKindGrille)
	assert.False(t, ok)
	require.NotEmpty(t, p.StaffJobs)
	assert.Equal(t, "BC-1", p.StaffJobs[0].Tag)
	away := contract.HolidayAccessStaffAway
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) {
		c.Holidays = &[]contract.Holiday{}
		for d := range 10 {
			*c.Holidays = append(*c.Holidays, contract.Holiday{Day: calendar.MustParse("2026-03-05").Add(d), Name: "Break", Access: &away})
		}
	})
	j, r, ok := jobNamed(h.Planned(), "BC-1", contract.JobKindGrille)
	require.True(t, ok)
	assert.Contains(t, because(j), "they are away: Break")
	assert.GreaterOrEqual(t, r.Day.String(), "2026-03-05", "crews get in all the same")
}

// A clock that is a contractor's waits for one.
func TestAContractorsClockWaitsForAContractor(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("AH-1", "air_handler", "2025-12-20")
	_, err := h.SaveCard(u.ID, func(c *contract.UnitCard) {
		for i := range c.Companions {
			if c.Companions[i].Kind == contract.CompanionKindInspect {
				c.Companions[i].Doer = contract.DoerContractor
			}
		}
	})
	require.NoError(t, err)
	p := h.Planned()
	texts := ""
	for _, l := range p.LeftOut {
		texts += l.Text
	}
	assert.Contains(t, texts, "No crew brings what it takes: a contractor")
	kind := contract.CrewCardKindContractor
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, contract.CrewCard{Name: "Others", Kind: &kind, Hours: []contract.CrewHours{{Weekday: 5, Starts: "08:00", Minutes: 240}}})
	require.NoError(t, err)
	_, r, ok := jobNamed(h.Planned(), "AH-1", contract.JobKindInspect)
	require.True(t, ok)
	assert.Equal(t, "Others", r.Crew)
}

// A coil whose core nobody has looked through for long gets a look with light; what is watched is looked at again.
func TestLooksAreJobsOrRideAlong(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2025-12-20")
	h.Submit(h.Visit(u, "2026-02-20", contract.TaskKindDeep, 2, 0, contract.FaceLook))
	_, err := h.Rooms.Fieldwork.AddWatchItem(h.Ctx, h.Manager, u.ID, contract.NewWatchItem{What: "greenish specks"})
	require.NoError(t, err)
	p := h.Planned()
	all := map[contract.JobKind]bool{}
	for _, r := range p.Rounds {
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				all[j.Kind] = true
				for _, x := range j.Riders {
					all[x.Kind] = true
				}
			}
		}
	}
	assert.True(t, all[contract.JobKindLook], "nobody has looked through the core")
	assert.True(t, all[contract.JobKindRecheck])
}

// Wet work outdoors waits for days above 4 °C as far as the forecast goes.
func TestWetWorkOutdoorsWaitsForWarmth(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("CU-1", "outdoor_condensing", "2024-12-01")
	site := h.Sites()[0]
	h.SaveSite(site.ID, func(c *contract.SiteCard) {
		c.Lat, c.Lon = new(60.0), new(5.0)
		for i := range *c.Placements {
			(*c.Placements)[i].Setting = contract.SettingOutdoor
		}
	})
	for d := range 6 {
		o.Weather.Days = append(o.Weather.Days, weather.Day{Day: calendar.MustParse("2026-03-05").Add(d), LowC: -2, HighC: 5})
	}
	j, r, ok := jobNamed(h.Planned(), "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.Equal(t, "2026-03-11", r.Day.String(), "the first day that is not too cold")
	assert.Contains(t, because(j), "too cold for wet work outdoors")
	o.Err = roomstest.ErrOutside
	p := h.Planned()
	require.NotEmpty(t, p.Notes)
	assert.Contains(t, strings.Join(p.Notes, " "), "No weather forecast could be had")
}

// A panic while the weeks are planned ends that run as failed, with its reason; the plan before stays, and the next run works.
func TestAPanicEndsItsRunOnly(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("CU-1", "outdoor_condensing", "2024-12-01")
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) {
		c.Lat, c.Lon = new(60.0), new(5.0)
		(*c.Placements)[0].Setting = contract.SettingOutdoor
	})
	before := h.Planned()
	o.Panics = "a hole in the data"
	require.NoError(t, h.Rooms.StartQueue(context.WithoutCancel(h.Ctx)))
	_, err := h.Rooms.Planning.StartPlan(h.Ctx, h.Manager, contract.NewPlan{Iterations: new(10)})
	require.NoError(t, err)
	run := h.PlanEnds()
	assert.Equal(t, contract.PlanRunStatusFailed, run.Status)
	assert.Contains(t, run.Note, "a hole in the data")
	after, err := h.Rooms.Planning.Plan(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, before.ID, after.ID)
	o.Panics = ""
	assert.NotEqual(t, before.ID, h.Planned().ID)
}

// The load of a round, and what the plan uses up against what is there, from the doses learned at each coil.
func TestLoadsAndPurchasesFollowTheDosesLearned(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("CU-1", "outdoor_condensing", "2024-12-01")
	h.Submit(h.Wet(u, "2025-03-01", "medium_universal")) // took 1.2 L
	h.Planned()
	n := h.Next()
	var cleaner *contract.LoadLine
	for i, l := range n.Load {
		if l.Kind == contract.LoadLineKindCleaner {
			cleaner = &n.Load[i]
		}
	}
	require.NotNil(t, cleaner, "%+v", n.Load)
	carried := map[string]float64{}
	for _, l := range n.Load {
		carried[l.What] = l.Amount
	}
	for _, what := range []string{"foaming sprayer", "hose", "fin comb", "cable ties"} {
		assert.InDelta(t, 1, carried[what], 1e-9, "%s is what its passes are done with: %v", what, carried)
	}
	assert.NotContains(t, carried, "dust mask", "nothing is brushed")
	assert.NotContains(t, carried, "long bendable brush")
	assert.Equal(t, "Medium universal", cleaner.What)
	assert.InDelta(t, 1.2, cleaner.Amount, 1e-9, "what it took last time")
	buys, err := h.Rooms.Planning.Purchases(h.Ctx, h.Viewer)
	require.NoError(t, err)
	var buy *contract.Purchase
	for i, b := range buys {
		if b.What == "Medium universal" {
			buy = &buys[i]
		}
	}
	require.NotNil(t, buy, "nothing of it is there")
	assert.GreaterOrEqual(t, buy.Buy, buy.Needed-buy.OnHand, "whole packs")
	assert.Equal(t, n.Round.Day, buy.NeededBy)
	require.NotNil(t, buy.OrderBy)
	assert.Equal(t, buy.NeededBy.Add(-7), *buy.OrderBy)
	_, err = h.Rooms.Fieldwork.AddStockMove(h.Ctx, h.Manager, contract.NewStockMove{CleanerID: h.Cleaner("medium_universal"), Kind: contract.NewStockMoveKindBought, Litres: 50, Day: calendar.MustParse("2026-03-01")})
	require.NoError(t, err)
	buys, err = h.Rooms.Planning.Purchases(h.Ctx, h.Viewer)
	require.NoError(t, err)
	for _, b := range buys {
		assert.NotEqual(t, "Medium universal", b.What, "there is enough now")
	}
}

// Mails: a round to its crew with the sheets, the digest once a week, reminders once a week and site.
func TestMailsOfTheWeek(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("BC-1", "undercounter_cooler", "2026-02-20")
	h.Planned()
	r := h.Publish(*h.Next().Round)[0]
	_, err := h.Rooms.Planning.MailRound(h.Ctx, h.Manager, r.ID, contract.MailTo{})
	assert.Contains(t, roomstest.Fields(t, err), "/to", "the crew has no address yet")
	crew := h.Crews()[0]
	crew.Card.Mail = new("crew-a@hall.example")
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	_, err = h.Rooms.Planning.MailRound(h.Ctx, h.Manager, r.ID, contract.MailTo{})
	require.NoError(t, err)
	require.Len(t, o.Sent, 1)
	assert.Contains(t, o.Sent[0].Text, "IM-1, light clean of the condenser")
	assert.Contains(t, o.Sent[0].Text, "maker's manual")
	assert.Equal(t, "%PDF", string(o.Sent[0].File[:4]))
	_, err = h.Rooms.Planning.WithdrawRound(h.Ctx, h.Manager, r.ID)
	require.NoError(t, err)
	_, err = h.Rooms.Planning.MailRound(h.Ctx, h.Manager, r.ID, contract.MailTo{To: new("other@hall.example")})
	require.NoError(t, err)
	assert.Contains(t, o.Sent[1].Subject, "Withdrawn: round of")
	pdf, err := h.Rooms.Planning.RoundSheets(h.Ctx, h.Viewer, r.ID)
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(pdf[:4]))

	// Nothing goes out by itself until an address was given. A week that comes twice from the queue goes out once.
	weekly := func() {
		weeks, err := h.Rooms.Planning.DueWeeks(h.Ctx)
		require.NoError(t, err)
		for _, week := range append(weeks, weeks...) {
			require.NoError(t, h.Rooms.Planning.SendWeek(h.Ctx, week))
		}
	}
	o.Sent = nil
	weekly()
	assert.Empty(t, o.Sent)
	_, err = h.Rooms.Planning.SendDigest(h.Ctx, h.Manager, contract.MailTo{})
	assert.Contains(t, roomstest.Fields(t, err), "/to")
	_, err = h.Rooms.Planning.SendDigest(h.Ctx, h.Manager, contract.MailTo{To: new("boss@hall.example")})
	require.NoError(t, err)
	require.Len(t, o.Sent, 1)
	assert.Contains(t, o.Sent[0].Text, "Rounds until")
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) { c.Mail = new("desk@hall.example") })
	o.Sent = nil
	for range 3 {
		weekly()
	}
	require.Len(t, o.Sent, 2, "the digest and the site's reminder, once")
	assert.Equal(t, []string{"desk@hall.example", "boss@hall.example"}, []string{o.Sent[0].To, o.Sent[1].To})
	assert.Contains(t, o.Sent[0].Text, "BC-1: grille wipe, due")
	again, err := h.Rooms.Planning.SendReminders(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Empty(t, again, "this week's went out")
	sent := len(o.Sent)
	h.Now = time.Date(2026, time.March, 9, 5, 59, 0, 0, time.UTC)
	weekly()
	assert.Len(t, o.Sent, sent, "not before six on Monday")
	h.Now = h.Now.Add(time.Minute)
	weekly()
	assert.Greater(t, len(o.Sent), sent, "the next week again")
}

// The plan as a table, and the forecast of soil with its notches in the order of its cleans.
func TestThePlanAsATableAndAsStrips(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Submit(h.Visit(u, "2026-02-20", contract.TaskKindLight, 2, 0, contract.FaceLook))
	none, err := h.Rooms.Planning.PlanForecast(h.Ctx, h.Viewer)
	require.NoError(t, err)
	assert.Empty(t, none.Weeks)
	h.Planned()
	f, err := h.Rooms.Planning.PlanForecast(h.Ctx, h.Viewer)
	require.NoError(t, err)
	assert.Len(t, f.Weeks, 13)
	require.Len(t, f.Sites, 1)
	coil := f.Sites[0].Coils[0]
	require.True(t, coil.Known)
	require.NotEmpty(t, coil.Notches)
	require.Len(t, coil.Course.Cleans, len(coil.Notches))
	for i, n := range coil.Notches {
		assert.Equal(t, n.Day, coil.Course.Cleans[i].Day)
	}
	assert.Len(t, coil.Grades, 13)
	assert.Equal(t, coil.Grades, f.Sites[0].Grades, "the only coil is the worst")
	var csv strings.Builder
	require.NoError(t, h.Rooms.Planning.ExportPlan(h.Ctx, h.Viewer, "csv", &csv))
	assert.Contains(t, csv.String(), "IM-1,light clean")
	var xlsx strings.Builder
	require.NoError(t, h.Rooms.Planning.ExportPlan(h.Ctx, h.Viewer, "xlsx", &xlsx))
	assert.Equal(t, "PK", xlsx.String()[:2])
	_, err = h.Rooms.Planning.Feed(h.Ctx, "no-such-token")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A wheel that was found over the limit and left comes back as work of its own; one that was washed does not, nor what has a clock.
func TestAFouledWheelIsPlanned(t *testing.T) {
	t.Parallel()
	for left, want := range map[int]bool{-1: true, 0: false} {
		h := roomstest.New(t)
		h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
		u := h.Unit("CA-1", "cassette", "2025-12-01")
		v := h.Visit(u, "2026-02-10", contract.TaskKindDeep, 2, 0, contract.LightThrough)
		wheel := contract.PartLook{Part: contract.UnitPartWheel, Grade: 4}
		if left >= 0 {
			wheel.Left = &left
		}
		v.Surfaces = &[]contract.PartLook{wheel, {Part: contract.UnitPartFilter, Grade: 5}}
		h.Submit(v)
		h.Planned()
		found := false
		for _, stop := range h.Stops() {
			for _, j := range stop.Jobs {
				for _, r := range j.Reasons {
					found = found || strings.HasPrefix(r.Text, "Blower wheel: probably")
					assert.NotContains(t, r.Text, "Filter: probably", "it has a clock of its own")
				}
			}
		}
		assert.Equal(t, want, found || rides(h, contract.JobKindRecheck), "left %d", left)
	}
}

// rides reports whether a kind of work rides along with another.
func rides(h *roomstest.House, kind contract.JobKind) bool {
	for _, stop := range h.Stops() {
		for _, j := range stop.Jobs {
			for _, r := range j.Riders {
				if r.Kind == kind {
					return true
				}
			}
		}
	}
	return false
}

// What was accepted is what the crew reads and loads: the plan's passes, and its cleaner.
func TestAJobNamesTheAcceptedPlan(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.Unit("UC-1", "undercounter_cooler", "2024-06-01")
	h.Visits(u, "2024-09-01", 91, 6, 1, contract.LightThrough)
	task := roomstest.Task(h.Look(u.ID), contract.TaskKindDeep)
	require.True(t, task.Proposal.Program.Leads)
	next := task.Proposal.Program.First.Plan
	_, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, *task.Proposal.ID, contract.Decision{Accept: true})
	require.NoError(t, err)
	plan := h.Planned()
	said := ""
	for _, r := range plan.Rounds {
		for _, s := range r.Stops {
			for _, j := range s.Jobs {
				for _, why := range j.Reasons {
					if why.Code == reason.JobPlan && said == "" {
						said = why.Text
					}
				}
			}
		}
	}
	for _, pass := range next.Passes {
		assert.Contains(t, said, strings.ToLower(pass.Name))
		if pass.CleanerName != nil {
			assert.Contains(t, said, strings.ToLower(*pass.CleanerName))
		}
	}
}
