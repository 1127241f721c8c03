package interval_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/interval"
)

// linear is a coil whose soil costs more by the same each day: C(T) = K/T + aT/2, best at √(2K/a).
func linear(clean, slope, hours, every float64) interval.HoursCoil {
	c := interval.HoursCoil{Name: "x", CleanHours: hours, EveryDays: every}
	for days := 1.0; days <= 2000; days = math.Max(days+1, math.Floor(days*1.005)) {
		c.Curve = append(c.Curve, interval.CurvePoint{Days: days, CostDay: clean/days + slope*days/2})
	}
	return c
}

// With K + μh in place of K the interval is √(2(K + μh)/a): two coils, and hours that make the price 40.
func TestAnHourHasThePriceOfTheFormula(t *testing.T) {
	t.Parallel()
	const price = 40.0
	coils := []interval.HoursCoil{linear(60, .01, 1, 100), linear(120, .004, 2.5, 200)}
	hours := 365 * (1/math.Sqrt(2*(60+price)/.01) + 2.5/math.Sqrt(2*(120+price*2.5)/.004))
	a, err := interval.PriceOfHours(interval.HoursQuestion{Coils: coils, HoursYear: hours})
	require.NoError(t, err)
	assert.InDelta(t, price, a.HourPrice, 1)
	assert.InDelta(t, 365*(1./100+2.5/200), a.InForceYear, 1e-9)
	assert.InDelta(t, math.Sqrt(2*(60+price)/.01), a.Days[0], 2)
	assert.InDelta(t, math.Sqrt(2*(120+price*2.5)/.004), a.Days[1], 3)
	enough, err := interval.PriceOfHours(interval.HoursQuestion{Coils: coils, HoursYear: 1000})
	require.NoError(t, err)
	assert.Zero(t, enough.HourPrice)
	assert.InDelta(t, 365*(1/math.Sqrt(2*60/.01)+2.5/math.Sqrt(2*120/.004)), enough.BestYear, .05)
}

// More hours never make an hour dearer, and never cost more; at the hours in force the best intervals cost no more than those in force.
func TestMoreHoursNeverCostMore(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		var coils []interval.HoursCoil
		for range rapid.IntRange(1, 6).Draw(t, "coils") {
			coils = append(coils, linear(rapid.Float64Range(10, 300).Draw(t, "clean"), rapid.Float64Range(.001, .05).Draw(t, "slope"),
				rapid.Float64Range(.2, 4).Draw(t, "hours"), math.Round(rapid.Float64Range(14, 700).Draw(t, "every"))))
		}
		few := rapid.Float64Range(.5, 50).Draw(t, "few")
		less, err := interval.PriceOfHours(interval.HoursQuestion{Coils: coils, HoursYear: few})
		require.NoError(t, err)
		more, err := interval.PriceOfHours(interval.HoursQuestion{Coils: coils, HoursYear: 1.5 * few})
		require.NoError(t, err)
		assert.LessOrEqual(t, more.HourPrice, less.HourPrice+1e-9)
		assert.GreaterOrEqual(t, more.SavesYear, less.SavesYear-1e-9)
		// The curves know some intervals only; those in force may lie between two of them.
		now, err := interval.PriceOfHours(interval.HoursQuestion{Coils: coils})
		require.NoError(t, err)
		assert.GreaterOrEqual(t, now.SavesYear, -.02*365*5)
	})
}

func TestAnHoursQuestionIsChecked(t *testing.T) {
	t.Parallel()
	_, err := interval.PriceOfHours(interval.HoursQuestion{HoursYear: -1, Coils: []interval.HoursCoil{{Curve: []interval.CurvePoint{{Days: 9}, {Days: 8}}}, {}}})
	for _, field := range []string{"hours_year", "coils[0].clean_hours", "coils[0].every_days", "coils[0].curve[1]", "coils[1].curve"} {
		assert.ErrorContains(t, err, field)
	}
}

func ExamplePriceOfHours() {
	a, _ := interval.PriceOfHours(interval.HoursQuestion{Coils: []interval.HoursCoil{{
		Name: "bar cooler", CleanHours: .5, EveryDays: 182,
		Curve: []interval.CurvePoint{{Days: 30, CostDay: 1.2}, {Days: 60, CostDay: .9}, {Days: 91, CostDay: 1.0}, {Days: 182, CostDay: 1.6}},
	}}})
	fmt.Printf("%.1f h a year in force, %.1f h at the least cost; an hour more brings up to %.0f\n", a.InForceYear, a.BestYear, a.HourPrice)
	// Output: 1.0 h a year in force, 3.0 h at the least cost; an hour more brings up to 218
}
