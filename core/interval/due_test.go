package interval_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/interval"
)

// Whatever the clocks: the day is the smallest one any side asks for, and the side named is one that asks for it.
func TestDueLaws(t *testing.T) {
	t.Parallel()
	today := calendar.MustParse("2026-03-04")
	rapid.Check(t, func(t *rapid.T) {
		every := rapid.IntRange(1, 2000).Draw(t, "every")
		clocks := make([]interval.Clock, rapid.IntRange(1, 6).Draw(t, "clocks"))
		asks := map[string]calendar.Day{}
		for i := range clocks {
			clocks[i].Side = fmt.Sprintf("side %d", i)
			clocks[i].Quality = rapid.SampledFrom([]interval.LastClean{interval.Exact, interval.About, interval.Never, interval.Unknown}).Draw(t, "quality")
			asks[clocks[i].Side] = today
			if clocks[i].Quality == interval.Exact || clocks[i].Quality == interval.About {
				last := today.Add(-rapid.IntRange(0, 3000).Draw(t, "ago"))
				clocks[i].Last = &last
				asks[clocks[i].Side] = last.Add(every)
			}
		}
		due, ok := interval.NextDue(clocks, every, today)
		assert.True(t, ok)
		for side, day := range asks {
			assert.LessOrEqual(t, due.Day, day, side)
		}
		assert.Equal(t, asks[due.Side], due.Day)
		longer, _ := interval.NextDue(clocks, every+1, today)
		assert.GreaterOrEqual(t, longer.Day, due.Day)
		if due.FirstLook {
			assert.Equal(t, today, due.Day)
		}
	})
	for _, q := range []interval.LastClean{"", "sometimes", "EXACT"} {
		assert.False(t, q.Valid(), q)
	}
}
