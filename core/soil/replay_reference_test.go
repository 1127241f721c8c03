package soil_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/soil"
)

// walk is the replay written down a second time, naively: one day at a time, straight from the formulas.
func walk(h soil.History) (face, core float64, known bool) {
	day := h.Start.Day
	known = h.Start.Quality != soil.StartUnknown
	next := 0
	if !known {
		if len(h.Visits) == 0 {
			return 0, 0, false
		}
		day = h.Visits[0].Day
	}
	look := func(f *soil.Finding, p float64) {
		if f == nil {
			return
		}
		lo, hi := f.Grade.LoadBand()
		switch {
		case !known:
			known = true
			b1, b2 := f.Grade.Band()
			mid := -math.Log(1 - (b1+b2)/2)
			if f.Seen == soil.LightThrough {
				face, core = mid*(1-p), mid*p
				return
			}
			face, core = mid, mid*p/(1-p)
			if f.Seen == soil.WipedMoreBelow {
				core = math.Max(core, -math.Log(.95))
			}
		case f.Seen == soil.LightThrough:
			if total := face + core; total > hi {
				face, core = face*hi/total, core*hi/total
			} else if total < lo {
				core += lo - total
			}
		default:
			face = math.Min(math.Max(face, lo), hi)
			if f.Seen == soil.WipedMoreBelow {
				core = math.Max(core, -math.Log(.95))
			}
		}
	}
	for ; day <= h.Until; day++ {
		c := h.Conditions[0]
		for _, x := range h.Conditions {
			if x.From <= day {
				c = x
			}
		}
		for next < len(h.Visits) && h.Visits[next].Day == day {
			v := h.Visits[next]
			look(v.Found, c.Penetration)
			if known {
				for _, r := range v.Cleans {
					gone := r.Face * face
					face -= gone
					core = core*(1-r.Core) + r.Packing*gone
				}
			}
			look(v.Left, c.Penetration)
			next++
		}
		if day < h.Until && known {
			mean := 0.0
			for _, w := range c.Months {
				mean += w / 12
			}
			grown := c.Rate / 30 * c.FanShare * c.Months[day.Month()-1] / mean
			face += grown * (1 - c.Penetration)
			core += grown * c.Penetration
		}
	}
	return face, core, known
}

func drawHistory(t *rapid.T) soil.History {
	h := soil.History{
		Start: soil.Start{Quality: rapid.SampledFrom([]soil.StartQuality{soil.StartExact, soil.StartAbout, soil.StartUnknown}).Draw(t, "start"), Day: newYear},
		Until: newYear.Add(rapid.IntRange(200, 500).Draw(t, "until")),
	}
	day := newYear
	for range rapid.IntRange(1, 3).Draw(t, "conditions") {
		c := soil.Condition{
			From: day, Rate: rapid.Float64Range(0, .8).Draw(t, "rate"), Penetration: rapid.Float64Range(0, .9).Draw(t, "penetration"),
			FanShare: rapid.Float64Range(0, 1).Draw(t, "fan"),
		}
		for m := range c.Months {
			c.Months[m] = rapid.Float64Range(.1, 3).Draw(t, "month")
		}
		h.Conditions = append(h.Conditions, c)
		day = day.Add(rapid.IntRange(1, 120).Draw(t, "apart"))
	}
	day = newYear
	for range rapid.IntRange(0, 5).Draw(t, "visits") {
		day = day.Add(rapid.IntRange(0, 60).Draw(t, "after"))
		if day > h.Until {
			break
		}
		v := soil.Visit{Day: day}
		if rapid.Bool().Draw(t, "looked") {
			f := drawFinding(t)
			v.Found = &f
		}
		for range rapid.IntRange(0, 2).Draw(t, "cleans") {
			m := rapid.SampledFrom(soil.Methods).Draw(t, "method")
			family := rapid.SampledFrom([]soil.Family{soil.DustLike, soil.GreaseLike, soil.Mixed}).Draw(t, "family")
			direction := rapid.SampledFrom([]soil.Direction{soil.Against, soil.With, soil.AlongFins, soil.DownwardClosed}).Draw(t, "direction")
			v.Cleans = append(v.Cleans, m.Removal(family, direction))
		}
		if rapid.Bool().Draw(t, "looked after") {
			f := drawFinding(t)
			v.Left = &f
		}
		h.Visits = append(h.Visits, v)
	}
	return h
}

func TestReplayAgreesWithADayByDayWalk(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		h := drawHistory(t)
		trace, err := soil.Replay(h)
		require.NoError(t, err)
		face, core, known := walk(h)
		require.Equal(t, known, trace.Known)
		if known {
			assert.InDelta(t, face, trace.Now.Face, 1e-6)
			assert.InDelta(t, core, trace.Now.Core, 1e-6)
		}
	})
}

// However finely the curve is sampled, the state is the same.
func TestSamplingDoesNotChangeTheState(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		h := drawHistory(t)
		h.SampleDays = 1
		fine, err := soil.Replay(h)
		require.NoError(t, err)
		h.SampleDays = 1000
		coarse, err := soil.Replay(h)
		require.NoError(t, err)
		assert.InDelta(t, fine.Now.Face, coarse.Now.Face, 1e-9)
		assert.InDelta(t, fine.Now.Core, coarse.Now.Core, 1e-9)
		assert.GreaterOrEqual(t, len(fine.Points), len(coarse.Points))
	})
}

// A curve's points stand in time order, and every share they show is one.
func TestPointsAreOrdered(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		trace, err := soil.Replay(drawHistory(t))
		require.NoError(t, err)
		for i, p := range trace.Points {
			assert.GreaterOrEqual(t, p.Blocked, 0.0)
			assert.Less(t, p.Blocked, 1.0)
			if i > 0 {
				assert.GreaterOrEqual(t, p.Day, trace.Points[i-1].Day)
			}
		}
	})
}

func BenchmarkReplayThreeYears(b *testing.B) {
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: newYear},
		Conditions: []soil.Condition{{From: newYear, Rate: .1, Penetration: .3, FanShare: 1, Months: soil.GrowingSeason}},
		Until:      newYear.Add(1095),
	}
	for day := newYear.Add(30); day < h.Until; day += calendar.Day(30) {
		h.Visits = append(h.Visits, soil.Visit{Day: day, Found: &soil.Finding{Grade: soil.Coat, Seen: soil.FaceLook}, Cleans: []soil.Removal{{Face: .85, Core: .05}}})
	}
	for b.Loop() {
		if _, err := soil.Replay(h); err != nil {
			b.Fatal(err)
		}
	}
}
