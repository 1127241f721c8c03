// Package interval turns what was found into the next interval of a cleaning task, with the arithmetic shown.
//
// Four schools are worked out side by side: habit (the class interval shortened by the site factors), the staircase (a
// step up or down from the days really run), the limit (the longest time that keeps the risk of passing it small) and
// the least cost. One of them leads the one proposal; caps and guard rails then bound it.
package interval

import (
	"nextround/core/reason"
)

// School names the way an interval was set.
type School string

// The schools, and the manager's own choice.
const (
	Habit     School = "habit"
	Staircase School = "staircase"
	Limit     School = "limit"
	Cost      School = "cost"
	Own       School = "own"
)

// Opinion is what one school says.
type Opinion struct {
	School School `json:"school"`
	// Days is the interval the school asks for, before guard rails; 0 when it has none.
	Days    float64         `json:"days"`
	Reasons []reason.Reason `json:"reasons"`
}

// HabitDays is the interval by habit:
//
//	T = class interval / K
//
// classDays is the class's interval for the task, k the combined site factor (soil.CombineFactors), at
// least 1e-9 (common practice for the class intervals, no source).
func HabitDays(classDays int, k float64) Opinion {
	o := Opinion{School: Habit}
	if classDays <= 0 || k < 1e-9 {
		return o
	}
	o.Days = float64(classDays) / k
	o.Reasons = []reason.Reason{{
		Code:     reason.Habit,
		Numbers:  reason.Numbers{"class_days": float64(classDays), "factor": k, "days": o.Days},
		Evidence: reason.CommonPractice,
	}}
	return o
}
