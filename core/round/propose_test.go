package round_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/round"
)

var day = round.Day{Date: calendar.MustParse("2026-03-05"), Minutes: 420, StopMinutes: 20}

func job(id, site string, late int, minutes float64) round.Job {
	return round.Job{ID: id, Site: site, Due: day.Date.Add(-late), Minutes: minutes}
}

func TestEarliestDueFirstWholeSitesWhileTheyFit(t *testing.T) {
	p, err := round.Propose([]round.Job{
		job("a", "hall", 2, 60), job("b", "canteen", 30, 90), job("c", "hall", 40, 60), job("d", "office", 10, 300), job("e", "museum", 5, 50),
	}, day)
	require.NoError(t, err)
	require.Len(t, p.Stops, 3)
	assert.Equal(t, []string{"c", "a"}, p.Stops[0].Jobs, "the hall holds the latest job; its own jobs by due day")
	assert.Equal(t, 140.0, p.Stops[0].Minutes)
	assert.Equal(t, "canteen", p.Stops[1].Site)
	assert.Equal(t, "museum", p.Stops[2].Site, "the office does not fit, the museum still does")
	assert.Equal(t, 320.0, p.Minutes)
	require.Len(t, p.LeftOut, 1)
	assert.Equal(t, "no_room_left", p.LeftOut[0].Reason.Code)
	assert.Equal(t, 170.0, p.LeftOut[0].Reason.Numbers["left"])
	assert.Equal(t, 40.0, p.Stops[0].Reasons[0].Numbers["days_late"])
}

func TestASiteTooLargeForAnyDayIsSplit(t *testing.T) {
	p, err := round.Propose([]round.Job{job("a", "hall", 9, 250), job("b", "hall", 8, 140), job("c", "hall", 7, 200)}, day)
	require.NoError(t, err)
	require.Len(t, p.Stops, 1)
	assert.Equal(t, []string{"a", "b"}, p.Stops[0].Jobs)
	assert.Equal(t, "part_of_site", p.Stops[0].Reasons[0].Code)
	assert.Equal(t, []string{"c"}, p.LeftOut[0].Jobs)
	assert.Equal(t, "site_too_large", p.LeftOut[0].Reason.Code)
}

func TestProposalLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 12).Draw(t, "jobs")
		jobs := make([]round.Job, n)
		for i := range jobs {
			jobs[i] = job(fmt.Sprint(i), rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "site"),
				rapid.IntRange(-5, 5).Draw(t, "late"), float64(rapid.IntRange(5, 200).Draw(t, "minutes")))
		}
		p, err := round.Propose(jobs, day)
		require.NoError(t, err)
		assert.LessOrEqual(t, p.Minutes, day.Minutes)
		placed := 0
		for _, s := range p.Stops {
			placed += len(s.Jobs)
		}
		for _, l := range p.LeftOut {
			placed += len(l.Jobs)
		}
		assert.Equal(t, n, placed, "every job is placed or said to be left out")

		shuffled := append([]round.Job{}, jobs...)
		r := rand.New(rand.NewPCG(1, uint64(n)))
		r.Shuffle(n, func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
		again, err := round.Propose(shuffled, day)
		require.NoError(t, err)
		assert.Equal(t, p, again, "the order of the jobs does not matter")
	})
}

func TestCheckNamesFields(t *testing.T) {
	_, err := round.Propose([]round.Job{{ID: "a"}}, round.Day{Minutes: -1, StopMinutes: -1})
	for _, f := range []string{"jobs[0].minutes", "day.minutes", "day.stop_minutes"} {
		assert.ErrorContains(t, err, f)
	}
}

func ExamplePropose() {
	d := calendar.MustParse("2026-03-05")
	p, _ := round.Propose([]round.Job{
		{ID: "condenser", Site: "hall", Due: d.Add(-3), Minutes: 50},
		{ID: "cassette", Site: "office", Due: d, Minutes: 40},
	}, round.Day{Date: d, Minutes: 80, StopMinutes: 20})
	fmt.Println(p.Stops[0].Site, p.Minutes, p.LeftOut[0].Reason.Code)
	// Output: hall 70 no_room_left
}
