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
