package service_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/store"
	"nextround/internal/weather"
)

// Companions that come near a clean ride along; those far from any are jobs of their own, together with one another.
func TestCompanionsRideAlongWhereTheyAreNear(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("AH-1", "air_handler", "2025-03-15") // its deep clean is due in ten days
	p := h.planned()
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
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2026-01-20")
	before, _, ok := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	for _, day := range []string{"2025-11-01", "2025-12-01", "2026-01-20"} {
		v := h.visit(u, day, contract.TaskKindLight, 2, 0, contract.FaceLook)
		v.People[0].Minutes = 42
		h.submit(v)
	}
	after, _, ok := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
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
	_, err := h.saveCard(u.ID, func(c *contract.UnitCard) { c.Access.LadderM = ptr(2.4) })
	require.NoError(t, err)
	ladder, _, ok := jobNamed(h.planned(), "IM-1", contract.JobKindLight)
	require.True(t, ok)
	assert.InDelta(t, after.Minutes+10, ladder.Minutes, 1e-9)
	assert.Contains(t, strings.Join(ladder.Needs, ", "), "ladder 2.4 m")
}

// What the staff of a site do is theirs, but for the days they are away.
func TestStaffDoTheirGrillesButInHolidays(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("BC-1", "undercounter_cooler", "2026-02-20")
	p := h.planned()
	_, _, ok := jobNamed(p, "BC-1", contract.JobKindGrille)
	assert.False(t, ok)
	require.NotEmpty(t, p.StaffJobs)
	assert.Equal(t, "BC-1", p.StaffJobs[0].Tag)
	away := contract.HolidayAccessStaffAway
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) {
		c.Holidays = &[]contract.Holiday{}
		for d := range 10 {
			*c.Holidays = append(*c.Holidays, contract.Holiday{Day: calendar.MustParse("2026-03-05").Add(d), Name: "Break", Access: &away})
		}
	})
	j, r, ok := jobNamed(h.planned(), "BC-1", contract.JobKindGrille)
	require.True(t, ok)
	assert.Contains(t, because(j), "they are away: Break")
	assert.GreaterOrEqual(t, r.Day.String(), "2026-03-05", "crews get in all the same")
}

// A clock that is a contractor's waits for one.
func TestAContractorsClockWaitsForAContractor(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.unit("AH-1", "air_handler", "2025-12-20")
	_, err := h.saveCard(u.ID, func(c *contract.UnitCard) {
		for i := range c.Companions {
			if c.Companions[i].Kind == contract.CompanionKindInspect {
				c.Companions[i].Doer = contract.DoerContractor
			}
		}
	})
	require.NoError(t, err)
	p := h.planned()
	texts := ""
	for _, l := range p.LeftOut {
		texts += l.Text
	}
	assert.Contains(t, texts, "No crew brings what it takes: a contractor")
	kind := contract.CrewCardKindContractor
	_, err = h.svc.SaveCrew(h.ctx, h.manager, nil, contract.CrewCard{Name: "Others", Kind: &kind, Hours: []contract.CrewHours{{Weekday: 5, Starts: "08:00", Minutes: 240}}})
	require.NoError(t, err)
	_, r, ok := jobNamed(h.planned(), "AH-1", contract.JobKindInspect)
	require.True(t, ok)
	assert.Equal(t, "Others", r.Crew)
}

// A coil whose core nobody has looked through for long gets a look with light; what is watched is looked at again.
func TestLooksAreJobsOrRideAlong(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2025-12-20")
	h.submit(h.visit(u, "2026-02-20", contract.TaskKindDeep, 2, 0, contract.FaceLook))
	_, err := h.svc.AddWatchItem(h.ctx, h.manager, u.ID, contract.NewWatchItem{What: "greenish specks"})
	require.NoError(t, err)
	p := h.planned()
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
	h, o := connected(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("CU-1", "outdoor_condensing", "2024-12-01")
	site := h.sites()[0]
	h.saveSite(site.ID, func(c *contract.SiteCard) {
		c.Lat, c.Lon = ptr(60.0), ptr(5.0)
		for i := range *c.Placements {
			(*c.Placements)[i].Setting = contract.SettingOutdoor
		}
	})
	for d := range 6 {
		o.forecast.Days = append(o.forecast.Days, weather.Day{Day: calendar.MustParse("2026-03-05").Add(d), LowC: -2, HighC: 5})
	}
	j, r, ok := jobNamed(h.planned(), "CU-1", contract.JobKindDeep)
	require.True(t, ok)
	assert.Equal(t, "2026-03-11", r.Day.String(), "the first day that is not too cold")
	assert.Contains(t, because(j), "too cold for wet work outdoors")
	o.err = errOutside
	p := h.planned()
	require.NotEmpty(t, p.Notes)
	assert.Contains(t, strings.Join(p.Notes, " "), "No weather forecast could be had")
}

// The load of a round, and what the plan uses up against what is there, from the doses learned at each coil.
func TestLoadsAndPurchasesFollowTheDosesLearned(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.unit("CU-1", "outdoor_condensing", "2024-12-01")
	h.submit(h.wet(u, "2025-03-01", "medium_universal")) // took 1.2 L
	h.planned()
	n := h.next()
	var cleaner *contract.LoadLine
	for i, l := range n.Load {
		if l.Kind == contract.LoadLineKindCleaner {
			cleaner = &n.Load[i]
		}
	}
	require.NotNil(t, cleaner, "%+v", n.Load)
	assert.Equal(t, "Medium universal", cleaner.What)
	assert.InDelta(t, 1.2, cleaner.Amount, 1e-9, "what it took last time")
	buys, err := h.svc.Purchases(h.ctx, h.viewer)
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
	_, err = h.svc.AddStockMove(h.ctx, h.manager, contract.NewStockMove{CleanerID: h.cleaner("medium_universal"), Kind: contract.Bought, Litres: 50, Day: calendar.MustParse("2026-03-01")})
	require.NoError(t, err)
	buys, err = h.svc.Purchases(h.ctx, h.viewer)
	require.NoError(t, err)
	for _, b := range buys {
		assert.NotEqual(t, "Medium universal", b.What, "there is enough now")
	}
}

// Mails: a round to its crew with the sheets, the digest once a week, reminders once a week and site.
func TestMailsOfTheWeek(t *testing.T) {
	h, o := connected(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.unit("BC-1", "undercounter_cooler", "2026-02-20")
	h.planned()
	r := h.publish(*h.next().Round)[0]
	_, err := h.svc.MailRound(h.ctx, h.manager, r.ID, contract.MailTo{})
	assert.Contains(t, fields(t, err), "/to", "the crew has no address yet")
	crew := h.crews()[0]
	crew.Card.Mail = ptr("crew-a@hall.example")
	_, err = h.svc.SaveCrew(h.ctx, h.manager, &crew.ID, crew.Card)
	require.NoError(t, err)
	_, err = h.svc.MailRound(h.ctx, h.manager, r.ID, contract.MailTo{})
	require.NoError(t, err)
	require.Len(t, o.sent, 1)
	assert.Contains(t, o.sent[0].Text, "IM-1, light clean of the condenser")
	assert.Contains(t, o.sent[0].Text, "maker's manual")
	assert.Equal(t, "%PDF", string(o.sent[0].File[:4]))
	_, err = h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	_, err = h.svc.MailRound(h.ctx, h.manager, r.ID, contract.MailTo{To: ptr("other@hall.example")})
	require.NoError(t, err)
	assert.Contains(t, o.sent[1].Subject, "Called off: round of")
	pdf, err := h.svc.RoundSheets(h.ctx, h.viewer, r.ID)
	require.NoError(t, err)
	assert.Equal(t, "%PDF", string(pdf[:4]))

	// Nothing goes out by itself until an address was given.
	o.sent = nil
	require.NoError(t, h.svc.SendWeekly(h.ctx))
	assert.Empty(t, o.sent)
	_, err = h.svc.SendDigest(h.ctx, h.manager, contract.MailTo{})
	assert.Contains(t, fields(t, err), "/to")
	_, err = h.svc.SendDigest(h.ctx, h.manager, contract.MailTo{To: ptr("boss@hall.example")})
	require.NoError(t, err)
	require.Len(t, o.sent, 1)
	assert.Contains(t, o.sent[0].Text, "Rounds until")
	h.saveSite(h.sites()[0].ID, func(c *contract.SiteCard) { c.Mail = ptr("desk@hall.example") })
	o.sent = nil
	for range 3 {
		require.NoError(t, h.svc.SendWeekly(h.ctx))
	}
	require.Len(t, o.sent, 2, "the digest and the site's reminder, once")
	assert.Equal(t, []string{"boss@hall.example", "desk@hall.example"}, []string{o.sent[0].To, o.sent[1].To})
	assert.Contains(t, o.sent[1].Text, "BC-1: grille wipe, due")
	again, err := h.svc.SendReminders(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Empty(t, again, "this week's went out")
	h.now = h.now.Add(7 * 24 * time.Hour)
	require.NoError(t, h.svc.SendWeekly(h.ctx))
	assert.GreaterOrEqual(t, len(o.sent), 3, "the next week again")
}

// The plan as a table, and the forecast of soil with its notches in the order of its cleans.
func TestThePlanAsATableAndAsStrips(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 480, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2026-01-20")
	h.submit(h.visit(u, "2026-02-20", contract.TaskKindLight, 2, 0, contract.FaceLook))
	none, err := h.svc.PlanForecast(h.ctx, h.viewer)
	require.NoError(t, err)
	assert.Empty(t, none.Weeks)
	h.planned()
	f, err := h.svc.PlanForecast(h.ctx, h.viewer)
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
	require.NoError(t, h.svc.ExportPlan(h.ctx, h.viewer, "csv", &csv))
	assert.Contains(t, csv.String(), "IM-1,light clean")
	var xlsx strings.Builder
	require.NoError(t, h.svc.ExportPlan(h.ctx, h.viewer, "xlsx", &xlsx))
	assert.Equal(t, "PK", xlsx.String()[:2])
	_, err = h.svc.Feed(h.ctx, "no-such-token")
	assert.ErrorIs(t, err, store.ErrNotFound)
}
