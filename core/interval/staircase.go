package interval

import (
	"math"

	"nextround/core/reason"
	"nextround/core/soil"
)

// Step multipliers of the staircase. The idea of automatic adjustment is that of ILAC-G24 / OIML D 10 (from
// memory); the steps and their sizes are our own (assumption).
const (
	StepUp         = 1.25
	StepDown       = 0.67
	StepDownDouble = 0.5
)

// Run is one interval that was really run on one coil side: from its last dated clean of this kind to the
// opened-up finding that ended it.
type Run struct {
	// Days really run; 0 when no dated clean came before the finding.
	Days int `json:"days"`
	// Grade found, opened up, before cleaning.
	Grade soil.Grade `json:"grade"`
	// CoreSeen is true when the look told something of the core.
	CoreSeen bool `json:"core_seen"`
}

// Side is a coil side with its runs, oldest first.
type Side struct {
	Name string `json:"name"`
	Runs []Run  `json:"runs"`
}

// staircaseSide is the step one side asks for, from the interval in force. The second result is false when
// the side has no finding at all.
//
// With g* the grade whose band holds the limit (upper edge counted):
//
//	two running ≤ g*−1    → 1.25 × days really run
//	a single one, or g*   → keep
//	g*+1                  → 0.67 × days really run
//	≥ g*+2                → 0.5 × days really run
//	no dated clean before → no step
//
// Keep is the interval in force (the days really run where none is). A step never goes against its finding:
// light soil does not shorten the interval in force, heavy soil does not lengthen it.
func staircaseSide(s Side, inForce int, limit float64) (float64, reason.Reason, bool) {
	if len(s.Runs) == 0 {
		return 0, reason.Reason{}, false
	}
	last := s.Runs[len(s.Runs)-1]
	star := soil.LimitGrade(limit)
	r := reason.Reason{
		Names: reason.Names{"side": s.Name, "found": last.Grade.String(), "limit_grade": star.String()},
		Numbers: reason.Numbers{
			"days_run": float64(last.Days), "grade": float64(last.Grade), "limit_share": limit, "in_force": float64(inForce),
		},
		Evidence: reason.Assumption,
	}
	days, force := float64(last.Days), float64(inForce)
	if inForce <= 0 {
		force = days
	}
	switch {
	case last.Days <= 0:
		r.Code, days = reason.StaircaseNoDatedClean, float64(inForce)
	case last.Grade >= star+2:
		r.Code, days = reason.StaircaseDownDouble, math.Min(force, StepDownDouble*days)
		r.Numbers["step"] = StepDownDouble
	case last.Grade == star+1:
		r.Code, days = reason.StaircaseDown, math.Min(force, StepDown*days)
		r.Numbers["step"] = StepDown
	case last.Grade == star:
		r.Code, days = reason.StaircaseKeepAtLimit, force
	case twoLight(s.Runs, star):
		r.Code, days = reason.StaircaseUp, math.Max(force, StepUp*days)
		r.Numbers["step"] = StepUp
	default:
		r.Code, days = reason.StaircaseKeepSingle, force
	}
	r.Numbers["days"] = days
	return days, r, true
}

// twoLight reports whether the last two runs, both after a dated clean, were found below the limit grade.
func twoLight(runs []Run, star soil.Grade) bool {
	if len(runs) < 2 {
		return false
	}
	for _, r := range runs[len(runs)-2:] {
		if r.Days <= 0 || r.Grade >= star {
			return false
		}
	}
	return true
}

// StaircaseDays is the staircase over all sides of a task: the shortest step any side asks for. It has no
// opinion (Days 0) until a side has a finding. inForce is the interval in force in days, limit the blocked
// share the organisation allows.
func StaircaseDays(sides []Side, inForce int, limit float64) Opinion {
	o := Opinion{School: Staircase}
	for _, s := range sides {
		days, r, ok := staircaseSide(s, inForce, limit)
		if !ok {
			continue
		}
		if len(o.Reasons) == 0 || days < o.Days {
			o.Days = days
			o.Reasons = append([]reason.Reason{r}, o.Reasons...)
		} else {
			o.Reasons = append(o.Reasons, r)
		}
	}
	return o
}
