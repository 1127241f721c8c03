package interval

import (
	"fmt"
	"math"

	"nextround/core/invalid"
	"nextround/core/reason"
)

// LongestStretch bounds a proposal to this multiple of the longest interval really run (assumption).
const LongestStretch = 1.5

// DefaultLimit is the blocked share the house allows when nothing else is set (assumption).
const DefaultLimit = 0.30

// Week is the grain of a proposal.
const Week = 7

// Task is what is known of one cleaning task of a coil.
type Task struct {
	// ClassDays is the class's interval for this kind of task, at least 1.
	ClassDays int `json:"class_days"`
	// ClassMaxDays is the longest the class allows, at least 1.
	ClassMaxDays int `json:"class_max_days"`
	// Factor is the combined site factor K, above 0.
	Factor float64 `json:"factor"`
	// InForceDays is the interval in force; 0 when none has been set.
	InForceDays int `json:"in_force_days"`
	// Limit is the blocked share the house allows, in (0, 1); 0 means DefaultLimit.
	Limit float64 `json:"limit_share"`
	Sides []Side  `json:"sides"`
}

// Result is both opinions and the one proposal.
type Result struct {
	Habit     Opinion `json:"habit"`
	Staircase Opinion `json:"staircase"`
	// School is the one the proposal follows.
	School School `json:"school"`
	// Days is the proposal in whole weeks, or the interval in force when nothing changes.
	Days int `json:"days"`
	// Change is true when the proposal differs from the interval in force by a week or more.
	Change bool `json:"change"`
	// Binding names the rail that set the number: class_max, longest_stretch, no_finding, one_finding,
	// core_unseen, one_week; empty when the school's own figure stands.
	Binding string          `json:"binding,omitempty"`
	Reasons []reason.Reason `json:"reasons"`
}

// Check lists every field of the task that cannot be used.
func (t Task) Check() error {
	var bad invalid.Error
	if t.ClassDays < 1 {
		bad.Addf("class_days", "must be at least 1 day")
	}
	if t.ClassMaxDays < 1 {
		bad.Addf("class_max_days", "must be at least 1 day")
	}
	if !(t.Factor > 0) || math.IsInf(t.Factor, 1) {
		bad.Addf("factor", "must be above 0")
	}
	if t.InForceDays < 0 {
		bad.Addf("in_force_days", "must be 0 or more")
	}
	if t.Limit != 0 && !(t.Limit > 0 && t.Limit < 1) {
		bad.Addf("limit_share", "must be between 0 and 1, for example 0.30")
	}
	for i, s := range t.Sides {
		for j, r := range s.Runs {
			at := fmt.Sprintf("sides[%d].runs[%d].", i, j)
			if r.Days < 0 {
				bad.Addf(at+"days", "must be 0 or more")
			}
			if !r.Grade.Valid() {
				bad.Addf(at+"grade", "must be a grade from 0 to 5, not %d", int(r.Grade))
			}
		}
	}
	return bad.Err()
}

// Propose sets the next interval of a task: the staircase once a side has a finding, else habit, then the
// guard rails in this order: class maximum, 1.5 × the longest interval really run, no lengthening without a
// second finding nor while the core of any side is unseen, whole weeks (rounded down, at least one). A
// difference of less than a week is no change. The error is an invalid.Error naming the fields.
func Propose(t Task) (Result, error) {
	if err := t.Check(); err != nil {
		return Result{}, err
	}
	if t.Limit == 0 {
		t.Limit = DefaultLimit
	}
	res := Result{
		Habit:     HabitDays(t.ClassDays, t.Factor),
		Staircase: StaircaseDays(t.Sides, t.InForceDays, t.Limit),
	}
	lead := res.Habit
	if len(res.Staircase.Reasons) > 0 && res.Staircase.Days > 0 {
		lead = res.Staircase
	}
	res.School = lead.School
	res.Reasons = append(res.Reasons, lead.Reasons...)
	days := res.rails(t, lead.Days)
	res.Days = wholeWeeks(days)
	if float64(res.Days) > days {
		res.bind("one_week", reason.Numbers{"days": Week})
	}
	res.Change = t.InForceDays == 0 || abs(res.Days-t.InForceDays) >= Week
	if !res.Change {
		res.Days = t.InForceDays
		res.Reasons = append(res.Reasons, reason.Reason{Code: "no_change", Numbers: reason.Numbers{"days": float64(res.Days)}})
	}
	return res, nil
}

func (res *Result) bind(code string, n reason.Numbers) {
	res.Binding = code
	res.Reasons = append(res.Reasons, reason.Reason{Code: "rail_" + code, Numbers: n})
}

// rails bounds the school's figure and records which rail bound it last.
func (res *Result) rails(t Task, days float64) float64 {
	if top := float64(t.ClassMaxDays); days > top {
		days = top
		res.bind("class_max", reason.Numbers{"days": top})
	}
	if longest := longestRun(t.Sides); longest > 0 && days > LongestStretch*float64(longest) {
		days = LongestStretch * float64(longest)
		res.bind("longest_stretch", reason.Numbers{"longest": float64(longest), "stretch": LongestStretch, "days": days})
	}
	if force := float64(t.InForceDays); force > 0 && days > force {
		if code := noLengthening(t.Sides); code != "" {
			days = force
			res.bind(code, reason.Numbers{"days": force})
		}
	}
	return days
}

// noLengthening names why a task may not be lengthened, or is empty when it may.
func noLengthening(sides []Side) string {
	fewest := -1
	for _, s := range sides {
		if len(s.Runs) == 0 {
			continue
		}
		if fewest < 0 || len(s.Runs) < fewest {
			fewest = len(s.Runs)
		}
	}
	switch fewest {
	case -1:
		return "no_finding"
	case 1:
		return "one_finding"
	}
	for _, s := range sides {
		if !coreSeen(s.Runs) {
			return "core_unseen"
		}
	}
	return ""
}

// coreSeen reports whether one of the last two runs of a side was looked at with light. A side without runs
// has not been seen.
func coreSeen(runs []Run) bool {
	for _, r := range runs[max(0, len(runs)-2):] {
		if r.CoreSeen {
			return true
		}
	}
	return false
}

func longestRun(sides []Side) int {
	longest := 0
	for _, s := range sides {
		for _, r := range s.Runs {
			longest = max(longest, r.Days)
		}
	}
	return longest
}

func wholeWeeks(days float64) int {
	return max(Week, int(math.Floor(days/Week+1e-9))*Week)
}

func abs(n int) int {
	if n < 0 {
		return -n
	}
	return n
}
