package service_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// planned plans the coming weeks.
func (h *house) planned() contract.Plan {
	h.t.Helper()
	p, err := h.svc.MakePlan(h.ctx, h.manager, contract.NewPlan{Iterations: ptr(60)})
	require.NoError(h.t, err)
	require.Empty(h.t, h.broken(), "the checker finds nothing")
	return p
}

// broken holds the plan against its problem from the outside.
func (h *house) broken() []string {
	h.t.Helper()
	row, err := h.store.For(h.ctx, h.manager.Org.ID).CurrentPlan()
	require.NoError(h.t, err)
	var problem round.Problem
	var plan round.Plan
	require.NoError(h.t, row.Problem.Into(&problem))
	require.NoError(h.t, row.Result.Into(&plan))
	return round.Verify(problem, plan)
}

func (h *house) next() contract.NextRound {
	h.t.Helper()
	n, err := h.svc.NextRound(h.ctx, h.manager, nil, nil)
	require.NoError(h.t, err)
	return n
}

// publication of a round of the plan.
func publication(version int, rounds ...contract.PlannedRound) contract.Publication {
	out := contract.Publication{Version: version}
	for _, r := range rounds {
		out.Rounds = append(out.Rounds, contract.CrewDay{CrewID: r.CrewID, Day: r.Day})
	}
	return out
}

func (h *house) publish(rounds ...contract.PlannedRound) []contract.RoundSummary {
	h.t.Helper()
	out, err := h.svc.PublishRounds(h.ctx, h.manager, store.NewID(), publication(h.next().Version, rounds...))
	require.NoError(h.t, err)
	return out
}

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
	h := newHouse(t)
	n := h.next()
	assert.False(t, n.HasPlan)
	assert.Nil(t, n.Round)
	h.crew("Crew A", 240, 1, 2, 3, 5)
	im := h.unit("IM-1", "ice_machine", "2026-01-20")
	h.unit("CU-1", "outdoor_condensing", "")

	p := h.planned()
	require.NotNil(t, p.ID)
	assert.Equal(t, "2026-03-05", p.Start.String())
	light, on, ok := jobNamed(p, "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.Equal(t, "2026-03-06", on.Day.String(), "the crew does not work on Thursdays")
	assert.Contains(t, because(light), "past its day")
	deep, _, ok := jobNamed(p, "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.True(t, deep.FirstLook)
	assert.Contains(t, because(deep), "50 min by the class")
	_, _, ok = jobNamed(p, "CU-1", contract.JobKindLight)
	assert.True(t, ok, "a month after the deep clean the light one comes round")
	assert.LessOrEqual(t, p.Cost.Total, p.GreedyCost.Total+1e-9)
	assert.LessOrEqual(t, p.Bound, p.Cost.Total)

	n = h.next()
	require.NotNil(t, n.Round)
	assert.Equal(t, 2, *n.Coils)
	assert.Positive(t, n.WeekCost)
	assert.NotEmpty(t, n.Load)
	key := store.NewID()
	req := publication(n.Version, *n.Round)
	sent, err := h.svc.PublishRounds(h.ctx, h.manager, key, req)
	require.NoError(t, err)
	again, err := h.svc.PublishRounds(h.ctx, h.manager, key, req)
	require.NoError(t, err)
	assert.Equal(t, sent, again, "sent twice, published once")
	r, err := h.svc.Round(h.ctx, h.viewer, sent[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "The manager", r.PublishedBy)
	assert.NotEmpty(t, r.Cautions)
	assert.Contains(t, r.Deferral, "maker's manual")
	u := h.look(im.ID)
	require.NotNil(t, task(u, contract.TaskKindLight).OnRound)

	// The sheet says later what it said then.
	h.submit(h.visit(im, "2026-03-04", contract.TaskKindLight, 1, 0, contract.FaceLook))
	kept, err := h.svc.Round(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, r.Stops, kept.Stops)
	assert.NotEqual(t, h.look(im.ID).Coils[0].Sides[0].State, kept.Stops[0].Jobs[0].State, "the soil has changed since")
	assert.True(t, *h.next().Stale, "and the plan says that it is out of date")

	problem, err := h.svc.PlanProblem(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Len(t, problem.Fixed, 2, "what is out is tied down")
	back, err := h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.RoundStatusWithdrawn, back.Status)
	problem, err = h.svc.PlanProblem(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Empty(t, problem.Fixed, "and let go with it")
	_, err = h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	assert.ErrorAs(t, err, &service.Conflict{})
	assert.Equal(t, "2026-03-06", h.next().Round.Day.String(), "its work is due again")
	list, err := h.svc.Rounds(h.ctx, h.viewer)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 2, list[0].Jobs)
}

func TestPublishingChecksTheVersionAndTheDay(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	_, err := h.svc.PublishRounds(h.ctx, h.manager, store.NewID(), contract.Publication{Version: 1, Rounds: []contract.CrewDay{{}}})
	assert.ErrorContains(t, err, "plan the weeks first")
	h.planned()
	n := h.next()
	try := func(version int, crew uuid.UUID, day string) error {
		_, err := h.svc.PublishRounds(h.ctx, h.manager, store.NewID(), contract.Publication{Version: version, Rounds: []contract.CrewDay{{CrewID: crew, Day: calendar.MustParse(day)}}})
		return err
	}
	var conflict service.Conflict
	assert.ErrorAs(t, try(n.Version+1, n.Round.CrewID, n.Round.Day.String()), &conflict, "somebody else changed it meanwhile")
	assert.Contains(t, fields(t, try(n.Version, n.Round.CrewID, "2026-03-03")), "/rounds/0/day", "has passed")
	assert.Contains(t, fields(t, try(n.Version, n.Round.CrewID, "2026-03-08")), "/rounds/0/day", "nothing is planned that day")
	assert.Contains(t, fields(t, try(n.Version, uuid.New(), n.Round.Day.String())), "/rounds/0/day")
	require.NoError(t, try(n.Version, n.Round.CrewID, n.Round.Day.String()))
	assert.ErrorAs(t, try(h.next().Version, n.Round.CrewID, n.Round.Day.String()), &conflict, "is out already")
	odd := uuid.New()
	_, err = h.svc.NextRound(h.ctx, h.manager, &odd, nil)
	assert.ErrorIs(t, err, service.ErrNotFound)
}

func TestWindowsBindTheTimesOfAStop(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) {
		c.Contact = ptr("porter")
		c.Windows = &[]contract.WindowCard{
			{Kind: "quiet", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "07:00", Ends: "10:00", Note: "rehearsal"},
			{Kind: "allowed", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "06:00", Ends: "13:00"},
		}
	})
	p := h.planned()
	j, r, ok := jobNamed(p, "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.GreaterOrEqual(t, *j.Starts, "10:00", "noisy work keeps out of quiet hours")
	assert.LessOrEqual(t, *j.Ends, "12:50", "ten minutes to hand the place back")
	assert.Equal(t, "porter", r.Stops[0].Contact)
	require.Len(t, r.Stops[0].Windows, 2)
	assert.LessOrEqual(t, r.Stops[0].Latest, "12:30")
	assert.Contains(t, because(j), "at the latest")

	// On a holiday nobody gets in.
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) {
		c.Holidays = &[]contract.Holiday{{Day: r.Day, Name: "Fair"}}
	})
	_, later, ok := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.Greater(t, later.Day, r.Day)
}

func TestAWindowCanBeForOnePlacement(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	site := h.sites()[0]
	place := site.Placements[0].Name
	h.saveSite(site.ID, func(c *contract.SiteCard) {
		c.Windows = &[]contract.WindowCard{{Kind: "allowed", Weekdays: []int{1, 2, 3, 4, 5}, Starts: "11:40", Ends: "13:10", Placement: &place}}
	})
	j, _, ok := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.GreaterOrEqual(t, *j.Starts, "11:40")
	record, err := h.svc.Site(h.ctx, h.manager, site.ID)
	require.NoError(t, err)
	card := record.Card
	(*card.Windows)[0].Placement = ptr("Attic")
	_, err = h.svc.SaveSite(h.ctx, h.manager, site.ID, contract.SiteChange{Version: record.Version, Card: card})
	assert.Contains(t, fields(t, err), "/card/windows/0/placement")
}

func TestWhatNoCrewCanDoIsLeftOutWithWhy(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	u := h.unit("PU-1", "packaged_unit", "2024-01-20")
	card := h.card(u.ID)
	card.Card.Access.People, card.Card.Access.Skill = 2, ptr("Roof edge")
	_, err := h.svc.SaveUnitCard(h.ctx, h.manager, u.ID, contract.UnitChange{Version: card.Version, Card: card.Card})
	require.NoError(t, err)
	p := h.planned()
	require.NotEmpty(t, p.LeftOut)
	assert.Contains(t, p.LeftOut[0].Text, "No crew brings what it takes: roof edge")
	crew := h.crews()[0]
	crew.Card.Skills = &[]string{" Roof Edge "}
	_, err = h.svc.SaveCrew(h.ctx, h.manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	p = h.planned()
	require.NotEmpty(t, p.LeftOut)
	assert.Contains(t, p.LeftOut[0].Text, "Takes 2 people")
	crew.Card.People = ptr(2)
	_, err = h.svc.SaveCrew(h.ctx, h.manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	_, _, ok := jobNamed(h.planned(), "PU-1", contract.JobKindDeep)
	assert.True(t, ok)
}

func (h *house) crews() []contract.CrewRecord {
	h.t.Helper()
	all, err := h.svc.Crews(h.ctx, h.manager)
	require.NoError(h.t, err)
	return all
}

func TestASickDayMovesTheLeastAndSaysWhat(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.unit("IM-2", "ice_machine", "2026-02-20")
	h.planned()
	n := h.next()
	first := h.publish(*n.Round)[0]
	crew := h.crews()[0]
	got, err := h.svc.AddAbsence(h.ctx, h.manager, crew.ID, contract.NewAbsence{From: n.Round.Day, To: n.Round.Day, Reason: ptr("ill")})
	require.NoError(t, err)
	require.Len(t, got.Absences, 1)
	assert.True(t, *h.next().Stale)

	p := h.planned()
	require.NotEmpty(t, p.Changes)
	assert.Contains(t, p.Changes[0].Text, "From 5 Mar 2026 (Crew A) to")
	assert.Positive(t, p.ChangesCost)
	assert.Positive(t, p.Cost.Moved, "moving what was out has its price")
	var off contract.PlannedRound
	for _, r := range p.Rounds {
		if r.Status == contract.PlannedRoundStatusCalledOff {
			off = r
		}
	}
	assert.Equal(t, n.Round.Day, off.Day, "the round of the sick day is to be called off")
	moved := h.next().Round
	assert.Greater(t, moved.Day, n.Round.Day)
	sent := h.publish(off, *moved)
	assert.Equal(t, contract.RoundSummaryStatusWithdrawn, sent[0].Status)
	assert.Equal(t, contract.RoundSummaryStatusPublished, sent[1].Status)
	back, err := h.svc.Round(h.ctx, h.manager, first.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.RoundStatusWithdrawn, back.Status)

	gone, err := h.svc.EndAbsence(h.ctx, h.manager, crew.ID, got.Absences[0].ID)
	require.NoError(t, err)
	assert.Empty(t, gone.Absences)
	p = h.planned()
	assert.Zero(t, p.Cost.Moved, "what is out now stays")
	for _, bad := range []contract.NewAbsence{{From: n.Round.Day, To: n.Round.Day.Add(-1)}, {From: n.Round.Day, To: n.Round.Day, People: ptr(5)}} {
		_, err = h.svc.AddAbsence(h.ctx, h.manager, crew.ID, bad)
		assert.NotEmpty(t, fields(t, err))
	}
}

func TestNotchesAreMovedUnderTheVersionThatWasSeen(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	p := h.planned()
	j, on, _ := jobNamed(p, "IM-1", contract.JobKindLight)
	to := on.Day.Add(4)
	moved, err := h.svc.MovePlan(h.ctx, h.manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &to}}})
	require.NoError(t, err)
	_, now, _ := jobNamed(moved, "IM-1", contract.JobKindLight)
	assert.Equal(t, to, now.Day)
	assert.Equal(t, p.Version+1, moved.Version)
	assert.Greater(t, moved.Cost.Total, p.Cost.Total-1e-9)
	assert.Empty(t, h.broken())
	_, err = h.svc.MovePlan(h.ctx, h.manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &to}}})
	assert.ErrorContains(t, err, "somebody else changed the plan meanwhile")
	sunday := calendar.MustParse("2026-03-08")
	for key, want := range map[string]string{j.Key: "/moves/0/day", "task/x/0": "/moves/0/key"} {
		_, err = h.svc.MovePlan(h.ctx, h.manager, contract.PlanMoves{Version: moved.Version, Moves: []contract.PlanMove{{Key: key, Day: &sunday}}})
		assert.Contains(t, fields(t, err), want)
	}

	// What is tied down stays when the weeks are planned anew.
	_, err = h.svc.LockPlan(h.ctx, h.manager, contract.PlanLock{Version: moved.Version, CrewID: now.CrewID, Day: to, Locked: true})
	require.NoError(t, err)
	_, again, _ := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
	assert.Equal(t, to, again.Day)
	assert.True(t, again.Locked)
	_, err = h.svc.LockPlan(h.ctx, h.manager, contract.PlanLock{Version: h.next().Version, CrewID: now.CrewID, Day: sunday, Locked: true})
	assert.Contains(t, fields(t, err), "/day")
}

func TestAChangedRoundGoesOutAgainUnderItsName(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.unit("IM-2", "ice_machine", "2026-01-21")
	h.planned()
	n := h.next()
	require.Len(t, n.Round.Stops[0].Jobs, 2)
	h.publish(*n.Round)
	crew := h.crews()[0]
	address, err := h.svc.MakeFeed(h.ctx, h.manager, crew.ID)
	require.NoError(t, err)
	token := address.Path[strings.LastIndex(address.Path, "/")+1:]
	feed := func() string {
		t.Helper()
		b, err := h.svc.Feed(h.ctx, token)
		require.NoError(t, err)
		return string(b)
	}
	before := feed()
	assert.Contains(t, before, "SEQUENCE:1\r\n")
	assert.Contains(t, before, "STATUS:CONFIRMED")
	uid := before[strings.Index(before, "UID:"):]
	uid = uid[:strings.Index(uid, "\r\n")]

	later := n.Round.Day.Add(5)
	p, err := h.svc.MovePlan(h.ctx, h.manager, contract.PlanMoves{Version: h.next().Version, Moves: []contract.PlanMove{{Key: n.Round.Stops[0].Jobs[1].Key, Day: &later}}})
	require.NoError(t, err)
	assert.Equal(t, contract.PlannedRoundStatusChanged, p.Rounds[0].Status)
	h.publish(p.Rounds[0])
	after := feed()
	assert.Contains(t, after, "SEQUENCE:2\r\n")
	assert.Contains(t, after, uid, "the same name")
	assert.Equal(t, 1, strings.Count(after, "BEGIN:VEVENT"), "the earlier one is gone")
	rounds, err := h.svc.Rounds(h.ctx, h.manager)
	require.NoError(t, err)
	require.Len(t, rounds, 2)
	assert.Equal(t, contract.RoundSummaryStatusSuperseded, rounds[1].Status)
	assert.Equal(t, 2, rounds[1].Jobs, "what went out first can still be read")

	_, err = h.svc.WithdrawRound(h.ctx, h.manager, rounds[0].ID)
	require.NoError(t, err)
	cancelled := feed()
	assert.Contains(t, cancelled, "STATUS:CANCELLED")
	assert.Contains(t, cancelled, "SEQUENCE:3\r\n")
	assert.Contains(t, cancelled, uid)

	// A new address ends the old one; a closed calendar is closed.
	_, err = h.svc.MakeFeed(h.ctx, h.manager, crew.ID)
	require.NoError(t, err)
	_, err = h.svc.Feed(h.ctx, token)
	assert.ErrorIs(t, err, store.ErrNotFound)
	closed, err := h.svc.EndFeed(h.ctx, h.manager, crew.ID)
	require.NoError(t, err)
	assert.False(t, closed.HasFeed)
}

func TestASymptomBecomesAJobAtOnce(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2026-03-01")
	before := h.planned()
	_, _, ok := jobNamed(before, "IM-1", contract.JobKindSymptom)
	assert.False(t, ok)
	_, err := h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &u.ID})
	require.NoError(t, err)
	p := h.planned()
	j, r, ok := jobNamed(p, "IM-1", contract.JobKindSymptom)
	require.True(t, ok)
	assert.Equal(t, "2026-03-05", r.Day.String())
	assert.GreaterOrEqual(t, *j.WeekCost, 450.0, "a call-out a week")
	assert.Contains(t, p.Changes[0].Text, "New: 5 Mar 2026")
}

func TestAPlanCanBeStoppedAndTwoCannotRun(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	none, err := h.svc.PlanRun(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Equal(t, contract.PlanRunStatusNone, none.Status)
	_, err = h.svc.StartPlan(h.ctx, h.manager, contract.NewPlan{Seconds: ptr(600.0), Weeks: ptr(4)})
	require.NoError(t, err)
	_, err = h.svc.StartPlan(h.ctx, h.manager, contract.NewPlan{})
	assert.ErrorContains(t, err, "somebody is planning already")
	_, err = h.svc.StopPlan(h.ctx, h.manager)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		run, err := h.svc.PlanRun(h.ctx, h.manager)
		return err == nil && run.Status == contract.PlanRunStatusDone
	}, waitLong, waitStep)
	p, err := h.svc.Plan(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Equal(t, 28, p.Days)
	assert.NotEmpty(t, p.Rounds, "what was found by then is kept")
}

func TestClocksThatChangeAreReallyElapsedTime(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 240, 0)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) {
		c.Zone = "Europe/Oslo"
		c.Windows = &[]contract.WindowCard{{Kind: "open", Weekdays: []int{0}, Starts: "08:00", Ends: "12:00", From: ptr(calendar.MustParse("2026-03-29")), To: ptr(calendar.MustParse("2026-03-30"))}}
	})
	h.planned()
	problem, err := h.svc.PlanProblem(h.ctx, h.manager)
	require.NoError(t, err)
	spans := problem.Hours[0].On(calendar.MustParse("2026-03-29"))
	require.NotEmpty(t, spans)
	assert.Equal(t, round.Span{From: 360, To: 600}, spans[0], "summer time began that night: eight there is six where the house's clock is")
}

// stops plans the weeks and gives the stops of the next round.
func (h *house) stops() []contract.Stop {
	h.t.Helper()
	h.planned()
	if n := h.next(); n.Round != nil {
		return n.Round.Stops
	}
	return nil
}
