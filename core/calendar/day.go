// Package calendar holds the civil day, the unit in which exposure is counted.
//
// A Day has no clock time and no zone: it is the local date at the site, so a day on which the clocks
// change is still one day.
package calendar

import (
	"encoding/json"
	"fmt"
	"reflect"
	"time"
)

// Layout is the only text form of a Day that is read or written (ISO 8601 calendar date).
const Layout = "2006-01-02"

// Day counts days since 1970-01-01, proleptic Gregorian. Differences are whole local days.
type Day int32

// Date returns the day with the given civil date. Out-of-range values are normalised as time.Date does.
func Date(year int, month time.Month, day int) Day {
	return Day(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400) //nolint:gosec // five million years
}

// Of returns the day shown by t's own clock, in t's own zone.
func Of(t time.Time) Day {
	y, m, d := t.Date()
	return Date(y, m, d)
}

// Parse reads a date of the form 2026-03-05.
func Parse(s string) (Day, error) {
	t, err := time.Parse(Layout, s)
	if err != nil {
		return 0, fmt.Errorf("%q is not a date of the form YYYY-MM-DD", s)
	}
	return Of(t), nil
}

// MustParse is Parse for dates written in code; it panics on a bad one.
func MustParse(s string) Day {
	d, err := Parse(s)
	if err != nil {
		panic(err)
	}
	return d
}

// Time returns midnight UTC of the day.
func (d Day) Time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// Month returns the month of the year.
func (d Day) Month() time.Month { return d.Time().Month() }

// OfYear is the day's place in a year of 365 days, 0 for 1 January; 29 February counts as the day before it.
func (d Day) OfYear() int {
	t := d.Time()
	n := t.YearDay() - 1
	if leap := time.Date(t.Year(), time.December, 31, 0, 0, 0, 0, time.UTC).YearDay() == 366; leap && n >= 59 {
		n--
	}
	return n
}

// Nearest is the day nearest to d that has a place in a year of 365 days, 0 for 1 January; the earlier of two as near.
func (d Day) Nearest(ofYear int) Day {
	distance := func(at Day) int { return max(at.Sub(d), d.Sub(at)) }
	year := d.Time().Year()
	best := d
	for y := year - 1; y <= year+1; y++ {
		at := Date(y, time.January, 1).Add(ofYear)
		if at.OfYear() != ofYear {
			at = at.Add(1) // 29 February stands before it
		}
		if y < year || distance(at) < distance(best) {
			best = at
		}
	}
	return best
}

// MonthEnd returns the month of the year and the first day of the next month.
func (d Day) MonthEnd() (time.Month, Day) {
	y, m, _ := d.Time().Date()
	return m, Date(y, m+1, 1)
}

// Weekday returns the day of the week.
func (d Day) Weekday() time.Weekday { return d.Time().Weekday() }

// Add returns the day n days later.
func (d Day) Add(n int) Day { return d + Day(n) } //nolint:gosec // five million years

// Sub returns the number of days from e to d, negative when e is later.
func (d Day) Sub(e Day) int { return int(d - e) }

// String returns the ISO form.
func (d Day) String() string { return d.Time().Format(Layout) }

// MarshalText writes the ISO form, so that a Day reads as a date in JSON.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads the ISO form.
func (d *Day) UnmarshalText(b []byte) error {
	v, err := Parse(string(b))
	if err != nil {
		return err
	}
	*d = v
	return nil
}

// Bind reads the ISO form of a parameter in an address.
func (d *Day) Bind(s string) error { return d.UnmarshalText([]byte(s)) }

// UnmarshalJSON reads the ISO form; its error lets the decoder name the field.
func (d *Day) UnmarshalJSON(b []byte) error {
	var text string
	if json.Unmarshal(b, &text) == nil && d.UnmarshalText([]byte(text)) == nil {
		return nil
	}
	return &json.UnmarshalTypeError{Value: string(b), Type: reflect.TypeFor[Day]()}
}
