package planning_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// Only managers who see the whole organisation plan, move, lock, publish and open calendars.
func TestPlanningIsForTheManagerOfTheHouse(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Planned()
	r := h.Publish(*h.Next().Round)[0]
	crew := h.Crews()[0].ID
	limited := h.Manager
	limited.Sites = []uuid.UUID{h.Sites()[0].ID}
	for _, a := range []organisation.Actor{h.Technician, h.Viewer, limited} {
		for name, do := range map[string]func() error{
			"plan":  func() error { _, err := h.Rooms.Planning.MakePlan(h.Ctx, a, contract.NewPlan{}); return err },
			"start": func() error { _, err := h.Rooms.Planning.StartPlan(h.Ctx, a, contract.NewPlan{}); return err },
			"stop":  func() error { _, err := h.Rooms.Planning.StopPlan(h.Ctx, a); return err },
			"move":  func() error { _, err := h.Rooms.Planning.MovePlan(h.Ctx, a, contract.PlanMoves{}); return err },
			"lock":  func() error { _, err := h.Rooms.Planning.LockPlan(h.Ctx, a, contract.PlanLock{}); return err },
			"publish": func() error {
				_, err := h.Rooms.Planning.PublishRounds(h.Ctx, a, store.NewID(), contract.Publication{})
				return err
			},
			"withdraw": func() error { _, err := h.Rooms.Planning.WithdrawRound(h.Ctx, a, r.ID); return err },
			"mail":     func() error { _, err := h.Rooms.Planning.MailRound(h.Ctx, a, r.ID, contract.MailTo{}); return err },
			"digest":   func() error { _, err := h.Rooms.Planning.SendDigest(h.Ctx, a, contract.MailTo{}); return err },
			"remind":   func() error { _, err := h.Rooms.Planning.SendReminders(h.Ctx, a); return err },
			"absence":  func() error { _, err := h.Rooms.Planning.AddAbsence(h.Ctx, a, crew, contract.NewAbsence{}); return err },
			"feed":     func() error { _, err := h.Rooms.Planning.MakeFeed(h.Ctx, a, crew); return err },
			"no feed":  func() error { _, err := h.Rooms.Planning.EndFeed(h.Ctx, a, crew); return err },
		} {
			assert.ErrorIs(t, do(), organisation.ErrForbidden, "%s as %s", name, a.Role)
		}
	}
	// Everybody reads the plan.
	for _, a := range []organisation.Actor{h.Technician, h.Viewer} {
		p, err := h.Rooms.Planning.Plan(h.Ctx, a)
		require.NoError(t, err)
		assert.NotEmpty(t, p.Rounds)
		_, err = h.Rooms.Planning.PlanProblem(h.Ctx, a)
		require.ErrorIs(t, err, organisation.ErrForbidden, "what crews cost is for those who plan")
	}
}

// Crew cards are checked at their fields; words are kept in one spelling.
func TestCrewsSayWhatTheyBring(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	good := contract.CrewCard{Name: "Crew A", Hours: []contract.CrewHours{{Weekday: 1, Starts: "07:30", Minutes: 300}}, Skills: &[]string{" Roof Edge", "roof edge", ""}, Kit: &[]string{"Ladder"}}
	made, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, good)
	require.NoError(t, err)
	assert.Equal(t, []string{"roof edge"}, *made.Card.Skills)
	assert.Equal(t, []string{"ladder"}, *made.Card.Kit)
	assert.Equal(t, 1, *made.Card.People)
	odd := uuid.New()
	for field, change := range map[string]func(*contract.CrewCard){
		"/mail":         func(c *contract.CrewCard) { c.Mail = new("nobody") },
		"/base_site_id": func(c *contract.CrewCard) { c.BaseSiteID = &odd },
		"/name":         func(c *contract.CrewCard) { c.Name = "  " },
	} {
		card := good
		card.Name = "Crew B"
		change(&card)
		_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, card)
		assert.Contains(t, roomstest.Fields(t, err), field)
	}
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &odd, good)
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Planning.AddAbsence(h.Ctx, h.Manager, odd, contract.NewAbsence{From: roomstest.On("2026-03-05"), To: roomstest.On("2026-03-05")})
	assert.ErrorIs(t, err, store.ErrNotFound)
	got, err := h.Rooms.Planning.AddAbsence(h.Ctx, h.Manager, made.ID, contract.NewAbsence{From: roomstest.On("2026-03-05"), To: roomstest.On("2026-03-09")})
	require.NoError(t, err)
	assert.Equal(t, roomstest.On("2026-03-09"), *got.Absences[0].To, "the last day, not the one after")
	other, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, nil, contract.CrewCard{Name: "Crew C"})
	require.NoError(t, err)
	_, err = h.Rooms.Planning.EndAbsence(h.Ctx, h.Manager, other.ID, got.Absences[0].ID)
	assert.ErrorIs(t, err, organisation.ErrNotFound, "another crew's absence")
}

// Part of a crew away: it still works, but not where two are needed.
func TestHalfACrewDoesNoWorkForTwo(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1, 2, 3, 4, 5)
	crew := h.Crews()[0]
	crew.Card.People = new(2)
	_, err := h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	u := h.Unit("PU-1", "packaged_unit", "2025-01-20")
	im := h.Unit("IM-1", "ice_machine", "2026-01-20")
	_, err = h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &im.ID})
	require.NoError(t, err)
	_, err = h.SaveCard(u.ID, func(c *contract.UnitCard) { c.Access.People = 2 })
	require.NoError(t, err)
	_, err = h.Rooms.Planning.AddAbsence(h.Ctx, h.Manager, crew.ID, contract.NewAbsence{From: roomstest.On("2026-03-05"), To: roomstest.On("2026-03-13"), People: new(1)})
	require.NoError(t, err)
	p := h.Planned()
	_, r, ok := jobNamed(p, "PU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.GreaterOrEqual(t, r.Day.String(), "2026-03-16")
	_, early, ok := jobNamed(p, "IM-1", contract.JobKindSymptom)
	require.True(t, ok)
	assert.Equal(t, "2026-03-05", early.Day.String(), "what one can do goes on")
}

// Months add up to the plan: what is due by month, what is planned, what crews have.
func TestMonthsAddUp(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("CU-1", "outdoor_condensing", "2024-05-01")
	p := h.Planned()
	require.Len(t, p.Months, 4)
	assert.Equal(t, p.Start, p.Months[0].Month)
	planned, shift, due := 0.0, 0.0, 0.0
	for i, m := range p.Months {
		planned += m.PlannedMinutes
		shift += m.ShiftMinutes
		due += m.DueMinutes
		if i > 0 {
			assert.Greater(t, m.Month, p.Months[i-1].Month)
		}
	}
	work := 0.0
	for _, r := range p.Rounds {
		work += r.WorkMinutes
	}
	assert.InDelta(t, work, planned, 1e-6)
	weeks := 0.0
	for _, w := range p.Weeks {
		weeks += w.Shift
	}
	assert.InDelta(t, weeks, shift, 1e-6)
	problem, err := h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	all := 0.0
	for _, j := range problem.Jobs {
		all += j.Minutes
	}
	assert.InDelta(t, all, due, 1e-6)
}

// Two plans of the same facts, seed and steps are the same; another organisation sees neither.
func TestThePlanIsRepeatable(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("CU-1", "outdoor_condensing", "2024-05-01")
	a, b := h.Planned(), h.Planned()
	assert.Equal(t, a.Rounds, b.Rounds)
	assert.Equal(t, a.Sums.Cost, b.Sums.Cost)
	assert.Empty(t, b.Changes, "nothing moved")
	assert.Zero(t, b.Sums.ChangesCost)
	var plans, kept int64
	require.NoError(t, h.Store.DB.Raw("SELECT count(*), count(problem) FROM plan").Row().Scan(&plans, &kept))
	assert.Equal(t, [2]int64{2, 1}, [2]int64{plans, kept}, "what an earlier plan was made from is not kept")
}

// A deep clean covers the light one that would come shortly before; the light clock begins again with it.
func TestADeepCleanCoversTheLightOneBeforeIt(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2025-09-15") // deep due 16 March, light long due
	p := h.Planned()
	deep, _, ok := jobNamed(p, "IM-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.Equal(t, "2026-03-16", deep.Due.String())
	lights := []calendar.Day{}
	for _, r := range p.Rounds {
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				if j.Kind == contract.JobKindLight {
					lights = append(lights, j.Due)
				}
			}
		}
	}
	require.NotEmpty(t, lights)
	assert.Equal(t, "2026-04-15", lights[0].String(), "a month after the deep clean, not now")
	assert.Contains(t, because(deep), "covers the light one")
}

// Moving a job of a published round by hand leaves that round to be sent again, and takes nothing twice.
func TestAJobMovesBetweenPublishedRounds(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("IM-2", "ice_machine", "2026-01-21")
	h.Planned()
	n := h.Next()
	j := n.Round.Stops[0].Jobs[0]
	h.Publish(*n.Round)
	to := n.Round.Day.Add(4)
	p, err := h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: h.Next().Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &to}}})
	require.NoError(t, err)
	assert.Positive(t, p.Sums.Cost.Moved)
	var from, there contract.PlannedRound
	for _, r := range p.Rounds {
		switch r.Day {
		case n.Round.Day:
			from = r
		case to:
			there = r
		}
	}
	assert.Equal(t, contract.PlannedRoundStatusChanged, from.Status)
	sent := h.Publish(there, from)
	require.Len(t, sent, 2)
	u := h.Look(j.UnitID)
	assert.Equal(t, to, *roomstest.Task(u, contract.TaskKindLight).OnRound)
	p = h.Planned()
	assert.Zero(t, p.Sums.Cost.Moved)
	for _, r := range p.Rounds {
		if r.Day == to || r.Day == n.Round.Day {
			assert.Equal(t, contract.PlannedRoundStatusPublished, r.Status)
		}
	}
}

// Travel is by coordinates; a site without them is said.
func TestDrivingIsByCoordinates(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 400, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	far, err := h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{Name: "Far", Zone: "UTC", Lat: new(60.2), Lon: new(5.0)})
	require.NoError(t, err)
	p := h.Planned()
	assert.Contains(t, p.Notes[0], "1 site has no coordinates")
	h.SaveSite(h.Sites()[0].ID, func(*contract.SiteCard) {})
	for _, s := range h.Sites() {
		if s.ID != far.ID {
			h.SaveSite(s.ID, func(c *contract.SiteCard) { c.Lat, c.Lon = new(60.0), new(5.0) })
		}
	}
	crew := h.Crews()[0]
	crew.Card.BaseSiteID = &far.ID
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	p = h.Planned()
	problem, err := h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	want := round.GreatCircle(60.2, 5, 60, 5) * 1.3 / 35 * 60
	assert.InDelta(t, 2*want, p.Rounds[0].DrivingMinutes, 1e-6, "out and back")
	assert.Equal(t, 35.0, problem.Travel.SpeedKMH)
}

// A complaint disturbs little: what was planned stays where it is, unless all is planned from scratch.
func TestPlanningAgainDisturbsLittle(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 200, 1, 2, 3, 4, 5)
	var last contract.Unit
	for _, tag := range []string{"IM-1", "IM-2", "IM-3", "IM-4", "IM-5"} {
		last = h.Unit(tag, "ice_machine", "2026-01-20")
	}
	h.Planned()
	_, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &last.ID})
	require.NoError(t, err)
	p := h.Planned()
	require.NotEmpty(t, p.Changes)
	assert.Contains(t, p.Changes[0].Text, "New: 5 Mar 2026", "what is new comes first")
	assert.LessOrEqual(t, len(p.Changes), 6)
	fromScratch, err := h.Rooms.Planning.MakePlan(h.Ctx, h.Manager, contract.NewPlan{Iterations: new(200), FromScratch: new(true)})
	require.NoError(t, err)
	assert.LessOrEqual(t, fromScratch.Sums.Cost.Total, p.Sums.Cost.Total*1.2+1e-9)
	assert.Zero(t, p.Sums.Cost.Moved, "what it is worth not to disturb is no cost of the plan")
}
