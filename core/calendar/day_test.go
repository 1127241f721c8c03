package calendar_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
)

func TestDayCountsLocalDates(t *testing.T) {
	t.Parallel()
	d := calendar.MustParse("2026-03-28")
	assert.Equal(t, 2, calendar.MustParse("2026-03-30").Sub(d), "a night in which clocks change is still one day")
	assert.Equal(t, "2026-04-01", d.Add(4).String())
	assert.Equal(t, time.Saturday, d.Weekday())
	assert.Equal(t, time.March, d.Month())
	east := time.FixedZone("east", 5*3600)
	assert.Equal(t, "2026-03-29", calendar.Of(time.Date(2026, 3, 28, 22, 0, 0, 0, time.UTC).In(east)).String())
}

func TestDayInJSON(t *testing.T) {
	t.Parallel()
	var v struct{ On calendar.Day }
	require.NoError(t, json.Unmarshal([]byte(`{"On":"1969-12-31"}`), &v))
	assert.Equal(t, calendar.Day(-1), v.On)
	out, err := json.Marshal(v)
	require.NoError(t, err)
	assert.JSONEq(t, `{"On":"1969-12-31"}`, string(out))
	assert.Error(t, json.Unmarshal([]byte(`{"On":"31.12.1969"}`), &v))
	require.NoError(t, v.On.Bind("2026-03-08"))
	assert.Equal(t, "2026-03-08", v.On.String())
	assert.Error(t, v.On.Bind("8 March"))
	assert.Panics(t, func() { calendar.MustParse("soon") })
}

func TestDaysOfAYear(t *testing.T) {
	t.Parallel()
	for day, n := range map[string]int{"2026-01-01": 0, "2026-04-30": 119, "2026-12-31": 364, "2028-02-28": 58, "2028-02-29": 58, "2028-03-01": 59, "2028-12-31": 364} {
		assert.Equal(t, n, calendar.MustParse(day).OfYear(), day)
	}
	for _, c := range [][2]string{{"2026-05-10", "2026-04-30"}, {"2026-11-10", "2027-04-30"}, {"2026-04-30", "2026-04-30"}, {"2027-12-31", "2028-04-30"}} {
		assert.Equal(t, c[1], calendar.MustParse(c[0]).Nearest(119).String(), c[0])
	}
}
