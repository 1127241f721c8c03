package soil_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/soil"
)

func course() soil.CourseQuestion {
	return soil.CourseQuestion{From: calendar.MustParse("2026-03-02"), Days: 70, Rate: .3, Penetration: .3, FanShare: 1, Months: soil.Even}
}

func TestTheCourseIsTheSawToothOfTheModel(t *testing.T) {
	t.Parallel()
	q := course()
	q.Cleans = []soil.CourseClean{{Day: q.From.Add(35), Removal: soil.Removal{Face: .85, Core: .05}}}
	c, err := soil.CourseOf(q)
	require.NoError(t, err)
	require.Len(t, c.Weeks, 10)
	// After five weeks: λ·35/30 = .35, of it .245 on the face and .105 in the core.
	assert.InDelta(t, 1-math.Exp(-.35), c.Weeks[4], 1e-9)
	// Cleaned, then a week more: .245·.15 + .105·.95 + .3·7/30.
	assert.InDelta(t, 1-math.Exp(-(.245*.15+.105*.95+.07)), c.Weeks[5], 1e-9)
	assert.Equal(t, soil.GradeOf(c.Weeks[4]), c.Grades[4])
	assert.InDelta(t, c.Weeks[9], c.Worst, 1e-9, "the core was left, so that the second time is worse")
}

func TestCleaningSoonerNeverLeavesMoreAtTheWorst(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		q := course()
		q.Rate = rapid.Float64Range(.01, 2).Draw(t, "rate")
		q.Days = rapid.IntRange(1, 200).Draw(t, "days")
		bare, err := soil.CourseOf(q)
		require.NoError(t, err)
		q.Cleans = []soil.CourseClean{{Day: q.From.Add(rapid.IntRange(0, 150).Draw(t, "on")), Removal: soil.Removal{Face: .9, Core: .5}}}
		cleaned, err := soil.CourseOf(q)
		require.NoError(t, err)
		assert.LessOrEqual(t, cleaned.Worst, bare.Worst+1e-12)
		assert.Len(t, cleaned.Weeks, (q.Days+6)/7)
	})
}

func TestACourseChecksItsFields(t *testing.T) {
	t.Parallel()
	q := course()
	q.Days, q.Rate, q.Penetration, q.Face = 0, -1, 1.5, math.NaN()
	q.Cleans = []soil.CourseClean{{Day: q.From.Add(5)}, {Day: q.From}}
	_, err := soil.CourseOf(q)
	for _, f := range []string{"days", "rate", "penetration", "face", "cleans[1].day"} {
		assert.ErrorContains(t, err, f)
	}
}

func ExampleCourseOf() {
	q := course()
	c, _ := soil.CourseOf(q)
	fmt.Printf("%.2f after five weeks, %.2f after ten\n", c.Weeks[4], c.Weeks[9])
	// Output: 0.30 after five weeks, 0.50 after ten
}
