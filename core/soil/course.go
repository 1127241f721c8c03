package soil

import (
	"strconv"

	"nextround/core/calendar"
	"nextround/core/invalid"
)

// Bounds of a course.
const mostCourseDays = 400

// CourseQuestion asks how the soil of a coil side goes on under planned cleans.
type CourseQuestion struct {
	From calendar.Day `json:"from"`
	Days int          `json:"days"` // 1 to 400
	// Face and Core are the loads at the start.
	Face float64 `json:"face"`
	Core float64 `json:"core"`
	// Rate λ in load per 30 exposure-days, Penetration the share that goes into the core.
	Rate        float64       `json:"rate"`
	Penetration float64       `json:"penetration"`
	FanShare    float64       `json:"fan_share"`
	Months      MonthWeights  `json:"month_weights"`
	Cleans      []CourseClean `json:"cleans"` // by day
}

// CourseClean is a planned clean.
type CourseClean struct {
	Day     calendar.Day `json:"day"`
	Removal Removal      `json:"removal"`
}

// Course is the blocked share at the end of each week, and the worst of it within.
type Course struct {
	Weeks []float64 `json:"weeks"`
	// Grades are the same on the soiling scale.
	Grades []Grade `json:"grades"`
	Worst  float64 `json:"worst_share"`
}

// CourseOf lets a side soil day by day, cleaned in the morning of each planned day:
//
//	F += λ(1−p)τ/30,  C += λpτ/30
//
// with τ the day's month weight times the fan share. The error is an invalid.Error naming the fields.
func CourseOf(q CourseQuestion) (Course, error) {
	var bad invalid.Error
	if q.Days < 1 || q.Days > mostCourseDays {
		bad.Addf("days", "must be between 1 and %d", mostCourseDays)
	}
	for _, f := range []struct {
		name  string
		value float64
		most  float64
	}{{"face", q.Face, 100}, {"core", q.Core, 100}, {"rate", q.Rate, 100}, {"penetration", q.Penetration, 1}, {"fan_share", q.FanShare, 1}} {
		if !(f.value >= 0 && f.value <= f.most) {
			bad.Addf(f.name, "must be between 0 and %g", f.most)
		}
	}
	for i := range q.Cleans {
		if i > 0 && q.Cleans[i].Day < q.Cleans[i-1].Day {
			bad.Addf("cleans["+strconv.Itoa(i)+"].day", "must not be before the one above it")
		}
	}
	if err := bad.Err(); err != nil {
		return Course{}, err
	}
	months := q.Months.Normalised()
	state := State{Face: q.Face, Core: q.Core}
	out := Course{Weeks: []float64{}, Grades: []Grade{}}
	next := 0
	for d := range q.Days {
		day := q.From.Add(d)
		for ; next < len(q.Cleans) && q.Cleans[next].Day <= day; next++ {
			state = state.Clean(q.Cleans[next].Removal)
		}
		grown := q.Rate * months[day.Month()-1] * q.FanShare / 30
		state.Face += grown * (1 - q.Penetration)
		state.Core += grown * q.Penetration
		out.Worst = max(out.Worst, state.Blocked())
		if d%7 == 6 || d == q.Days-1 {
			out.Weeks, out.Grades = append(out.Weeks, state.Blocked()), append(out.Grades, state.Grade())
		}
	}
	return out, nil
}
