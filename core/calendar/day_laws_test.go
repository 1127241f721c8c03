package calendar_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
)

// Weekdays and leap days of the Gregorian calendar (ISO 8601-1:2019, 4.2.1: its reference is 20 May 1875, the day the
// Metre Convention was signed, a Thursday; 1 January 2000 was a Saturday; 1900 had no leap day, 2000 had one).
func TestDaysOfThePublishedCalendar(t *testing.T) {
	t.Parallel()
	for day, weekday := range map[string]time.Weekday{
		"1875-05-20": time.Thursday, "1970-01-01": time.Thursday, "2000-01-01": time.Saturday, "2000-02-29": time.Tuesday, "2100-03-01": time.Monday,
	} {
		assert.Equal(t, weekday, calendar.MustParse(day).Weekday(), day)
	}
	assert.Equal(t, 1, calendar.MustParse("1900-03-01").Sub(calendar.MustParse("1900-02-28")))
	assert.Equal(t, 2, calendar.MustParse("2000-03-01").Sub(calendar.MustParse("2000-02-28")))
	assert.Equal(t, 146097, calendar.MustParse("2400-01-01").Sub(calendar.MustParse("2000-01-01")), "the cycle of 400 years")
	assert.Equal(t, calendar.Day(0), calendar.MustParse("1970-01-01"))
	for _, no := range []string{"1900-02-29", "2026-13-01", "2026-04-31", "2026-4-3", "2026-04-03T00:00:00Z", " 2026-04-03", ""} {
		_, err := calendar.Parse(no)
		assert.Error(t, err, no)
	}
}

func days() *rapid.Generator[calendar.Day] {
	return rapid.Map(rapid.Int32Range(-700_000, 2_900_000), func(n int32) calendar.Day { return calendar.Day(n) })
}

func TestDayLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		d, n, m := days().Draw(t, "d"), rapid.IntRange(-40_000, 40_000).Draw(t, "n"), rapid.IntRange(-40_000, 40_000).Draw(t, "m")
		assert.Equal(t, n, d.Add(n).Sub(d))
		assert.Equal(t, d.Add(n+m), d.Add(n).Add(m))
		assert.Equal(t, d.Add(7).Weekday(), d.Weekday())
		assert.Equal(t, (d.Weekday()+1)%7, d.Add(1).Weekday())
		back, err := calendar.Parse(d.String())
		require.NoError(t, err)
		assert.Equal(t, d, back)
		y, month, dom := d.Time().Date()
		assert.Equal(t, d, calendar.Date(y, month, dom))
		assert.Equal(t, month, d.Month())
		// Every moment of the day, on whatever clock, is that day.
		zone := time.FixedZone("somewhere", rapid.IntRange(-12*3600, 14*3600).Draw(t, "offset"))
		second := rapid.IntRange(0, 86399).Draw(t, "second")
		assert.Equal(t, d, calendar.Of(time.Date(y, month, dom, 0, 0, second, 0, zone)))
	})
}
