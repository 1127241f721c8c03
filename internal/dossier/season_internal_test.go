package dossier

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/store"
)

// Refrigeration works all year round; the others by the climate of their site, or by its own twelve figures, which come first.
func TestMonthsOfLoad(t *testing.T) {
	t.Parallel()
	d := Unit{Class: store.EquipmentClass{Load: "cooling"}}
	assert.Nil(t, d.LoadMonths(), "nobody has said in what climate")
	coast := "cool_coast"
	d.Site.Climate = &coast
	north := d.LoadMonths()
	require.NotNil(t, north)
	assert.Greater(t, north[6], 10*north[3])
	lat := -34.0
	d.Site.Lat = &lat
	assert.InDelta(t, north[6], d.LoadMonths()[0], 1e-12, "turned south of the equator")
	d.Site.LoadMonths = []float64{5, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 5}
	assert.InDelta(t, 6, d.LoadMonths()[0], 1e-12, "its own figures are as they fall there")
	d.Class.Load = "both"
	assert.InDelta(t, 3, d.LoadMonths()[0], 1e-12)
	assert.InDelta(t, .6, d.LoadMonths()[5], 1e-12, "heats where it does not cool")
	d.Class.Load = "even"
	assert.Nil(t, d.LoadMonths())
}

// A clean with days of its own in the year is due on the one nearest to where its interval ends.
func TestDueOnDaysOfTheYear(t *testing.T) {
	t.Parallel()
	april, september := 119, 260
	for _, c := range [][2]string{{"2026-05-20", "2026-04-30"}, {"2026-08-01", "2026-09-18"}, {"2026-12-31", "2026-09-18"}, {"2026-01-20", "2026-04-30"}} {
		assert.Equal(t, c[1], onYearDays(calendar.MustParse(c[0]), []int{april, september}).String(), c[0])
	}
}
