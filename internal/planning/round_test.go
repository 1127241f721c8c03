package planning_test

import (
	"strings"
	"testing"
	"time"

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

// because is why a job is where it is.
func because(j contract.Job) string {
	out := ""
	for _, r := range j.Reasons {
		out += r.Text + " "
	}
	return out
}

// jobNamed finds a job on the plan, and its round.
func jobNamed(p contract.Plan, tag string, kind contract.JobKind) (contract.Job, contract.PlannedRound, bool) {
	for _, r := range p.Rounds {
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				if j.Tag == tag && j.Kind == kind {
					return j, r, true
				}
			}
		}
	}
	return contract.Job{}, contract.PlannedRound{}, false
}

func TestFromClocksToAPublishedRoundAndBack(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	n := h.Next()
	assert.False(t, n.HasPlan)
	assert.Nil(t, n.Round)
	h.Crew("Crew A", 240, 1, 2, 3, 5)
	im := h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("CU-1", "outdoor_condensing", "")

	p := h.Planned()
	require.NotNil(t, p.ID)
	assert.Equal(t, "2026-03-05", p.Start.String())
	light, on, ok := jobNamed(p, "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.Equal(t, "2026-03-06", on.Day.String(), "the crew does not work on Thursdays")
	assert.Contains(t, because(light), "past its due date")
	deep, _, ok := jobNamed(p, "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.True(t, deep.FirstLook)
	assert.Contains(t, because(deep), "50 min by the class")
	_, _, ok = jobNamed(p, "CU-1", contract.JobKindLight)
	assert.True(t, ok, "a month after the deep clean the light one comes round")
	assert.LessOrEqual(t, p.Sums.Cost.Total, p.Sums.GreedyCost.Total+1e-9)
	assert.LessOrEqual(t, p.Sums.Bound, p.Sums.Cost.Total)

	n = h.Next()
	require.NotNil(t, n.Round)
	assert.Equal(t, 2, *n.Coils)
	assert.Positive(t, n.WeekCost)
	assert.NotEmpty(t, n.Load)
	key := store.NewID()
	req := roomstest.Publication(n.Version, *n.Round)
	sent, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, key, req)
	require.NoError(t, err)
	again, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, key, req)
	require.NoError(t, err)
	assert.Equal(t, sent, again, "sent twice, published once")
	r, err := h.Rooms.Planning.Round(h.Ctx, h.Viewer, sent[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "The manager", r.PublishedBy)
	assert.NotEmpty(t, r.Cautions)
	assert.Contains(t, r.Deferral, "maker's manual")
	u := h.Look(im.ID)
	require.NotNil(t, roomstest.Task(u, contract.TaskKindLight).OnRound)

	// The sheet says later what it said then.
	h.Submit(h.Visit(im, "2026-03-04", contract.TaskKindLight, 1, 0, contract.FaceLook))
	kept, err := h.Rooms.Planning.Round(h.Ctx, h.Manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Stops, kept.Stops)
	assert.NotEqual(t, h.Look(im.ID).Coils[0].Sides[0].State, kept.Stops[0].Jobs[0].State, "the soil has changed since")
	assert.True(t, *h.Next().Stale, "and the plan says that it is out of date")

	problem, err := h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Len(t, problem.Fixed, 2, "what is out is tied down")
	back, err := h.Rooms.Planning.WithdrawRound(h.Ctx, h.Manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.RoundStatusWithdrawn, back.Status)
	problem, err = h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Empty(t, problem.Fixed, "and released with it")
	_, err = h.Rooms.Planning.WithdrawRound(h.Ctx, h.Manager, r.ID)
	assert.ErrorAs(t, err, &organisation.Conflict{})
	assert.Equal(t, "2026-03-06", h.Next().Round.Day.String(), "its work is due again")
	list, err := h.Rooms.Planning.Rounds(h.Ctx, h.Viewer)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Jobs)
}

func TestPublishingChecksTheVersionAndTheDay(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	_, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, store.NewID(), contract.Publication{Version: 1, Rounds: []contract.CrewDay{{}}})
	assert.ErrorContains(t, err, "plan the weeks first")
	h.Planned()
	n := h.Next()
	try := func(version int, crew uuid.UUID, day string) error {
		_, err := h.Rooms.Planning.PublishRounds(h.Ctx, h.Manager, store.NewID(), contract.Publication{Version: version, Rounds: []contract.CrewDay{{CrewID: crew, Day: calendar.MustParse(day)}}})
		return err
	}
	var conflict organisation.Conflict
	assert.ErrorAs(t, try(n.Version+1, n.Round.CrewID, n.Round.Day.String()), &conflict, "somebody else changed it meanwhile")
	assert.Contains(t, roomstest.Fields(t, try(n.Version, n.Round.CrewID, "2026-03-03")), "/rounds/0/day", "has passed")
	assert.Contains(t, roomstest.Fields(t, try(n.Version, n.Round.CrewID, "2026-03-08")), "/rounds/0/day", "nothing is planned that day")
	assert.Contains(t, roomstest.Fields(t, try(n.Version, uuid.New(), n.Round.Day.String())), "/rounds/0/day")
	require.NoError(t, try(n.Version, n.Round.CrewID, n.Round.Day.String()))
	assert.ErrorAs(t, try(h.Next().Version, n.Round.CrewID, n.Round.Day.String()), &conflict, "is out already")
	odd := uuid.New()
	_, err = h.Rooms.Planning.NextRound(h.Ctx, h.Manager, &odd, nil)
	assert.ErrorIs(t, err, organisation.ErrNotFound)
}

func TestWindowsBindTheTimesOfAStop(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) {
		c.Contact = new("porter")
		c.Windows = &[]contract.WindowCard{
			{Kind: "quiet", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "07:00", Ends: "10:00", Note: "rehearsal"},
			{Kind: "allowed", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "06:00", Ends: "13:00"},
		}
	})
	p := h.Planned()
	j, r, ok := jobNamed(p, "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.GreaterOrEqual(t, *j.Starts, "10:00", "noisy work keeps out of quiet hours")
	assert.LessOrEqual(t, *j.Ends, "12:50", "ten minutes to hand the place back")
	assert.Equal(t, "porter", r.Stops[0].Contact)
	require.Len(t, r.Stops[0].Windows, 2)
	assert.LessOrEqual(t, r.Stops[0].Latest, "12:30")
	assert.Contains(t, because(j), "at the latest")

	// On a holiday nobody gets in.
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) {
		c.Holidays = &[]contract.Holiday{{Day: r.Day, Name: "Fair"}}
	})
	_, later, ok := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.Greater(t, later.Day, r.Day)
}

func TestAWindowCanBeForOnePlacement(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	site := h.Sites()[0]
	place := site.Placements[0].Name
	h.SaveSite(site.ID, func(c *contract.SiteCard) {
		c.Windows = &[]contract.WindowCard{{Kind: "allowed", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "11:40", Ends: "13:10", Placement: &place}}
	})
	j, _, ok := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.GreaterOrEqual(t, *j.Starts, "11:40")
	record, err := h.Rooms.Register.Site(h.Ctx, h.Manager, site.ID)
	require.NoError(t, err)
	card := record.Card
	(*card.Windows)[0].Placement = new("Attic")
	_, err = h.Rooms.Register.SaveSite(h.Ctx, h.Manager, site.ID, contract.SiteChange{Version: record.Version, Card: card})
	assert.Contains(t, roomstest.Fields(t, err), "/card/windows/0/placement")
}

func TestWhatNoCrewCanDoIsLeftOutWithWhy(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	u := h.Unit("PU-1", "packaged_unit", "2024-01-20")
	card := h.Card(u.ID)
	card.Card.Access.People, card.Card.Access.Skill = 2, new("Roof edge")
	_, err := h.Rooms.Register.SaveUnitCard(h.Ctx, h.Manager, u.ID, contract.UnitChange{Version: card.Version, Card: card.Card})
	require.NoError(t, err)
	p := h.Planned()
	require.NotEmpty(t, p.LeftOut)
	assert.Contains(t, p.LeftOut[0].Text, "No crew brings what it takes: roof edge")
	crew := h.Crews()[0]
	crew.Card.Skills = &[]string{" Roof Edge "}
	crew, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	p = h.Planned()
	require.NotEmpty(t, p.LeftOut)
	assert.Contains(t, p.LeftOut[0].Text, "Takes 2 people")
	crew.Card.People = new(2)
	_, err = h.Rooms.Planning.SaveCrew(h.Ctx, h.Manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	_, _, ok := jobNamed(h.Planned(), "PU-1", contract.JobKindDeep)
	assert.True(t, ok)
}

func TestASickDayMovesTheLeastAndSaysWhat(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("IM-2", "ice_machine", "2026-02-20")
	h.Planned()
	n := h.Next()
	first := h.Publish(*n.Round)[0]
	crew := h.Crews()[0]
	got, err := h.Rooms.Planning.AddAbsence(h.Ctx, h.Manager, crew.ID, contract.NewAbsence{From: n.Round.Day, To: n.Round.Day, Reason: new("ill")})
	require.NoError(t, err)
	require.Len(t, got.Absences, 1)
	assert.True(t, *h.Next().Stale)

	p := h.Planned()
	require.NotEmpty(t, p.Changes)
	assert.Contains(t, p.Changes[0].Text, "From 5 Mar 2026 (Crew A) to")
	assert.Positive(t, p.Sums.ChangesCost)
	assert.Positive(t, p.Sums.Cost.Moved, "moving what was out has its price")
	var off contract.PlannedRound
	for _, r := range p.Rounds {
		if r.Status == contract.PlannedRoundStatusCalledOff {
			off = r
		}
	}
	assert.Equal(t, n.Round.Day, off.Day, "the round of the sick day is to be withdrawn")
	moved := h.Next().Round
	assert.Greater(t, moved.Day, n.Round.Day)
	sent := h.Publish(off, *moved)
	assert.Equal(t, contract.RoundSummaryStatusWithdrawn, sent[0].Status)
	assert.Equal(t, contract.RoundSummaryStatusPublished, sent[1].Status)
	back, err := h.Rooms.Planning.Round(h.Ctx, h.Manager, first.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.RoundStatusWithdrawn, back.Status)

	gone, err := h.Rooms.Planning.EndAbsence(h.Ctx, h.Manager, crew.ID, got.Absences[0].ID)
	require.NoError(t, err)
	assert.Empty(t, gone.Absences)
	p = h.Planned()
	assert.Zero(t, p.Sums.Cost.Moved, "what is out now stays")
	for _, bad := range []contract.NewAbsence{{From: n.Round.Day, To: n.Round.Day.Add(-1)}, {From: n.Round.Day, To: n.Round.Day, People: new(5)}} {
		_, err = h.Rooms.Planning.AddAbsence(h.Ctx, h.Manager, crew.ID, bad)
		assert.NotEmpty(t, roomstest.Fields(t, err))
	}
}

func TestNotchesAreMovedUnderTheVersionThatWasSeen(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	p := h.Planned()
	j, on, _ := jobNamed(p, "IM-1", contract.JobKindLight)
	to := on.Day.Add(4)
	moved, err := h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &to}}})
	require.NoError(t, err)
	_, now, _ := jobNamed(moved, "IM-1", contract.JobKindLight)
	assert.Equal(t, to, now.Day)
	assert.Equal(t, p.Version+1, moved.Version)
	assert.Greater(t, moved.Sums.Cost.Total, p.Sums.Cost.Total-1e-9)
	assert.Empty(t, h.Broken())
	_, err = h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &to}}})
	assert.ErrorContains(t, err, "somebody else changed the plan meanwhile")
	sunday := calendar.MustParse("2026-03-08")
	for key, want := range map[string]string{j.Key: "/moves/0/day", "task/x/0": "/moves/0/key"} {
		_, err = h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: moved.Version, Moves: []contract.PlanMove{{Key: key, Day: &sunday}}})
		assert.Contains(t, roomstest.Fields(t, err), want)
	}

	// What is tied down stays when the weeks are planned again.
	_, err = h.Rooms.Planning.LockPlan(h.Ctx, h.Manager, contract.PlanLock{Version: moved.Version, CrewID: now.CrewID, Day: to, Locked: true})
	require.NoError(t, err)
	_, again, _ := jobNamed(h.Planned(), "IM-1", contract.JobKindLight)
	assert.Equal(t, to, again.Day)
	assert.True(t, again.Locked)
	_, err = h.Rooms.Planning.LockPlan(h.Ctx, h.Manager, contract.PlanLock{Version: h.Next().Version, CrewID: now.CrewID, Day: sunday, Locked: true})
	assert.Contains(t, roomstest.Fields(t, err), "/day")
}

func TestAChangedRoundGoesOutAgainUnderItsName(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.Unit("IM-2", "ice_machine", "2026-01-21")
	h.Planned()
	n := h.Next()
	require.Len(t, n.Round.Stops[0].Jobs, 2)
	h.Publish(*n.Round)
	crew := h.Crews()[0]
	address, err := h.Rooms.Planning.MakeFeed(h.Ctx, h.Manager, crew.ID)
	require.NoError(t, err)
	token := address.Path[strings.LastIndex(address.Path, "/")+1:]
	feed := func() string {
		t.Helper()
		b, err := h.Rooms.Planning.Feed(h.Ctx, token)
		require.NoError(t, err)
		return string(b)
	}
	before := feed()
	assert.Contains(t, before, "SEQUENCE:1\r\n")
	assert.Contains(t, before, "STATUS:CONFIRMED")
	uid := before[strings.Index(before, "UID:"):]
	uid = uid[:strings.Index(uid, "\r\n")]

	later := n.Round.Day.Add(5)
	p, err := h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: h.Next().Version, Moves: []contract.PlanMove{{Key: n.Round.Stops[0].Jobs[1].Key, Day: &later}}})
	require.NoError(t, err)
	assert.Equal(t, contract.PlannedRoundStatusChanged, p.Rounds[0].Status)
	h.Publish(p.Rounds[0])
	after := feed()
	assert.Contains(t, after, "SEQUENCE:2\r\n")
	assert.Contains(t, after, uid, "the same name")
	assert.Equal(t, 1, strings.Count(after, "BEGIN:VEVENT"), "the earlier one is gone")
	rounds, err := h.Rooms.Planning.Rounds(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, rounds, 2)
	assert.Equal(t, contract.RoundSummaryStatusSuperseded, rounds[1].Status)
	assert.Equal(t, 2, rounds[1].Jobs, "what went out first can still be read")

	_, err = h.Rooms.Planning.WithdrawRound(h.Ctx, h.Manager, rounds[0].ID)
	require.NoError(t, err)
	cancelled := feed()
	assert.Contains(t, cancelled, "STATUS:CANCELLED")
	assert.Contains(t, cancelled, "SEQUENCE:3\r\n")
	assert.Contains(t, cancelled, uid)

	// A new address ends the old one; a closed calendar is closed.
	_, err = h.Rooms.Planning.MakeFeed(h.Ctx, h.Manager, crew.ID)
	require.NoError(t, err)
	_, err = h.Rooms.Planning.Feed(h.Ctx, token)
	assert.ErrorIs(t, err, store.ErrNotFound)
	closed, err := h.Rooms.Planning.EndFeed(h.Ctx, h.Manager, crew.ID)
	require.NoError(t, err)
	assert.False(t, closed.HasFeed)
}

func TestASymptomBecomesAJobAtOnce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2026-03-01")
	before := h.Planned()
	_, _, ok := jobNamed(before, "IM-1", contract.JobKindSymptom)
	assert.False(t, ok)
	_, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &u.ID})
	require.NoError(t, err)
	p := h.Planned()
	j, r, ok := jobNamed(p, "IM-1", contract.JobKindSymptom)
	require.True(t, ok)
	assert.Equal(t, "2026-03-05", r.Day.String())
	assert.GreaterOrEqual(t, *j.WeekCost, 450.0, "a call-out a week")
	assert.Contains(t, p.Changes[0].Text, "New: 5 Mar 2026")
}

func TestAPlanCanBeStoppedAndTwoCannotRun(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	none, err := h.Rooms.Planning.PlanRun(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, contract.PlanRunStatusNone, none.Status)
	_, err = h.Rooms.Planning.StartPlan(h.Ctx, h.Manager, contract.NewPlan{Seconds: new(600.0), Weeks: new(4)})
	require.NoError(t, err)
	_, err = h.Rooms.Planning.StartPlan(h.Ctx, h.Manager, contract.NewPlan{})
	assert.ErrorContains(t, err, "somebody is planning already")
	run, err := h.Rooms.Planning.StopPlan(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, "stopped before it began", run.Note, "no server had taken it up yet")

	// A server that stops hands it back to the next; told to stop by somebody, what was found by then is kept.
	first := h.Server()
	_, err = h.Rooms.Planning.StartPlan(h.Ctx, h.Manager, contract.NewPlan{Seconds: new(600.0), Weeks: new(4)})
	require.NoError(t, err)
	searching := func() bool {
		run, err := h.Rooms.Planning.PlanRun(h.Ctx, h.Manager)
		return err == nil && run.Share > 0
	}
	require.Eventually(t, searching, roomstest.WaitLong, roomstest.WaitStep)
	first.Close()
	run, err = h.Rooms.Planning.PlanRun(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, contract.PlanRunStatusRunning, run.Status)
	assert.Zero(t, run.Share)
	h.Server()
	require.Eventually(t, searching, roomstest.WaitLong, roomstest.WaitStep)
	_, err = h.Rooms.Planning.StopPlan(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, contract.PlanRunStatusDone, h.PlanEnds().Status)
	p, err := h.Rooms.Planning.Plan(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, 28, p.Days)
	assert.NotEmpty(t, p.Rounds, "what was found by then is kept")
}

func TestClocksThatChangeAreReallyElapsedTime(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 240, 0)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	h.SaveSite(h.Sites()[0].ID, func(c *contract.SiteCard) {
		c.Zone = "Europe/Oslo"
		c.Windows = &[]contract.WindowCard{{Kind: "open", Weekdays: []int{0}, Starts: "08:00", Ends: "12:00", From: new(calendar.MustParse("2026-03-29")), To: new(calendar.MustParse("2026-03-30"))}}
	})
	h.Planned()
	problem, err := h.Rooms.Planning.PlanProblem(h.Ctx, h.Manager)
	require.NoError(t, err)
	spans := problem.Hours[0].On(calendar.MustParse("2026-03-29"))
	require.NotEmpty(t, spans)
	assert.Equal(t, round.Span{From: 360, To: 600}, spans[0], "summer time began that night: eight there is six where the organisation's clock is")
}

// Who moves a clean or locks a round by hand leaves it on the record it concerns, with what was before and after.
func TestChangesOfThePlanByHandLeaveATrail(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.Unit("IM-1", "ice_machine", "2026-01-20")
	p := h.Planned()
	j, r, ok := jobNamed(p, "IM-1", contract.JobKindLight)
	require.True(t, ok)
	day := r.Day.Add(1)
	for day.Weekday() == time.Saturday || day.Weekday() == time.Sunday {
		day++
	}
	p, err := h.Rooms.Planning.MovePlan(h.Ctx, h.Manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &day}}})
	require.NoError(t, err)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "unit", j.UnitID)
	require.NoError(t, err)
	require.Equal(t, "moved in the plan by hand", trail[0].Action)
	assert.Contains(t, trail[0].Changes[0].Before, r.Day.String())
	assert.Contains(t, trail[0].Changes[0].After, day.String())
	p, err = h.Rooms.Planning.LockPlan(h.Ctx, h.Manager, contract.PlanLock{Version: p.Version, CrewID: r.CrewID, Day: day, Locked: true})
	require.NoError(t, err)
	_, err = h.SignIn("manager", "secret")
	require.NoError(t, err)
	assert.False(t, p.Stale, "what is done to the plan does not make it stale")
	p, err = h.Rooms.Planning.Plan(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.False(t, p.Stale, "nor does somebody who signs in")
	trail, err = h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "crew", r.CrewID)
	require.NoError(t, err)
	assert.Equal(t, contract.AuditChange{Path: "locked on " + day.String(), Before: "false", After: "true"}, trail[0].Changes[0])
}
