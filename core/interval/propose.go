package interval

import (
	"fmt"
	"math"
	"strings"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/soil"
)

// LongestStretch bounds a proposal to this multiple of the longest interval really run (assumption).
const LongestStretch = 1.5

// DefaultLimit is the blocked share the organisation allows when nothing else is set (assumption).
const DefaultLimit = 0.30

// Week is the grain of a proposal.
const Week = 7

// Bounds of a combined site factor.
const (
	leastFactor = .01
	mostFactor  = 100.0
)

// Lead says what leads the proposal once there is enough evidence: the organisation's rule.
type Lead string

// The rules.
const (
	// LeadCost follows the least cost, days over the limit priced.
	LeadCost Lead = "cost"
	// LeadLimit follows the limit; the least cost may only shorten it.
	LeadLimit Lead = "limit"
	// LeadFound follows the staircase, LeadHabit the class.
	LeadFound Lead = "found"
	LeadHabit Lead = "habit"
)

// CapKind is what a hard cap comes from.
type CapKind string

// The four kinds.
const (
	Contract  CapKind = "contract"
	Maker     CapKind = "maker"
	Hygiene   CapKind = "hygiene"
	Chemistry CapKind = "chemistry"
)

// Cap is a bound that binds every school: at most so many days, or, for chemistry, no more than so many cleans a year.
type Cap struct {
	Kind CapKind `json:"kind"`
	// MostDays between two cleans; for all but chemistry.
	MostDays int `json:"most_days,omitempty"`
	// TimesAYear a strong alkaline cleaner may be used; for chemistry.
	TimesAYear float64 `json:"times_a_year,omitempty"`
	Note       string  `json:"note,omitempty"`
}

// Task is what is known of one cleaning task of a coil.
type Task struct {
	// ClassDays is the class's interval for this kind of task, at least 1.
	ClassDays int `json:"class_days"`
	// ClassMaxDays is the longest the class allows, at least 1.
	ClassMaxDays int `json:"class_max_days"`
	// Factor is the combined site factor K, 0.01 to 100.
	Factor float64 `json:"factor"`
	// InForceDays is the interval in force; 0 when none has been set.
	InForceDays int `json:"in_force_days"`
	// Limit is the blocked share the organisation allows, in (0, 1); 0 means DefaultLimit.
	Limit float64 `json:"limit_share"`
	Sides []Side  `json:"sides"`
	// Leads is the organisation's rule; left out, LeadCost.
	Leads Lead  `json:"leads,omitempty"`
	Caps  []Cap `json:"caps,omitempty"`
	// AnchorMonth is the month an outdoor deep clean should fall in, 0 for none; Last the last clean it counts from.
	AnchorMonth int           `json:"anchor_month,omitempty"`
	Last        *calendar.Day `json:"last,omitempty"`
	// Light marks the light one of a coil's tasks.
	Light bool `json:"light,omitempty"`
	// OverNow is the probability that the coil is over the limit today, as it stands.
	OverNow float64 `json:"over_now,omitempty"`
	// CoreSeen overrides what the runs say: the core was seen with light at one of the last two looks.
	CoreSeen *bool `json:"core_seen,omitempty"`
	// Chosen is the interval that Choose found for the plan in force, half-blocked bound and all, which then stands for the least cost's own; 0
	// where nothing was chosen.
	Chosen int `json:"chosen_days,omitempty"`
	// Outlook is what lies ahead after the next clean, nil where nothing is learned; its limit is the task's.
	Outlook *Outlook `json:"outlook,omitempty"`
}

// Result is the four opinions and the one proposal.
type Result struct {
	Habit     Opinion `json:"habit"`
	Staircase Opinion `json:"staircase"`
	Limit     Opinion `json:"limit"`
	Cost      Opinion `json:"cost"`
	// Best is the least cost with the range that costs within 1 %.
	Best *Best `json:"best,omitempty"`
	// InForce and Proposed are what the interval in force and the proposed one cost and risk.
	InForce  *Account `json:"in_force,omitempty"`
	Proposed *Account `json:"proposed,omitempty"`
	// School is the one the proposal follows.
	School School `json:"school"`
	// Days is the proposal in whole weeks, or the interval in force when nothing changes.
	Days int `json:"days"`
	// Change is true when the proposal differs from the interval in force by a week or more.
	Change bool `json:"change"`
	// Binding names what set the number last: cap, caps_contradict, class_max, half_blocked, longest_stretch, no_finding,
	// one_finding, core_unseen, found_over, season_anchor, one_week; empty when the school's own figure stands.
	Binding string          `json:"binding,omitempty"`
	Reasons []reason.Reason `json:"reasons"`
	// Advice is what no interval can mend: deep_clean_now, change_method.
	Advice []reason.Reason `json:"advice"`
	// Curve is what other intervals would cost, with the plan in force; nil without an outlook. Too long to print.
	Curve []CurvePoint `json:"-"`
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
	if !(t.Factor >= leastFactor && t.Factor <= mostFactor) {
		bad.Addf("factor", "must be between %g and %g", leastFactor, mostFactor)
	}
	if t.InForceDays < 0 {
		bad.Addf("in_force_days", "must be 0 or more")
	}
	if t.Chosen < 0 || t.Chosen > mostDays {
		bad.Addf("chosen_days", "must be between 1 and %d, or 0 for none", mostDays)
	}
	if t.Limit != 0 && !(t.Limit > 0 && t.Limit < 1) {
		bad.Addf("limit_share", "must be between 0 and 1, for example 0.30")
	}
	switch t.Leads {
	case "", LeadCost, LeadLimit, LeadFound, LeadHabit:
	default:
		bad.Addf("leads", "must be cost, limit, found or habit, not %q", t.Leads)
	}
	if t.AnchorMonth < 0 || t.AnchorMonth > 12 {
		bad.Addf("anchor_month", "must be a month from 1 to 12, or 0 for none")
	}
	if !(t.OverNow >= 0 && t.OverNow <= 1) {
		bad.Addf("over_now", "must be between 0 and 1")
	}
	for i, c := range t.Caps {
		at := fmt.Sprintf("caps[%d].", i)
		switch c.Kind {
		case Contract, Maker, Hygiene:
			if c.MostDays < 1 {
				bad.Addf(at+"most_days", "must be at least 1 day")
			}
		case Chemistry:
			if !(c.TimesAYear > 0) || math.IsInf(c.TimesAYear, 1) {
				bad.Addf(at+"times_a_year", "must be above 0")
			}
		default:
			bad.Addf(at+"kind", "must be contract, maker, hygiene or chemistry, not %q", c.Kind)
		}
	}
	if t.Outlook != nil {
		bad = append(bad, below("outlook.", t.Outlook.Check())...)
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

// Propose sets the next interval of a task. What leads depends on what was found: nothing, habit; once, the staircase; more
// often, the organisation's rule (least cost, or the limit which the least cost may shorten). Three things then act, in this
// order:
//
//  1. Rails: what lengthens is held to 1.5 × the longest interval really run, and to the interval in force without a second
//     finding, while the core of a side is unseen, or after a finding over the limit's grade, when the staircase's step down
//     counts at the most, nor where the usual clean leaves it over the limit. A rail only stops lengthening, it never shortens.
//  2. The season's anchor and whole weeks, rounded down, at least one. Less than a week's difference is no change.
//  3. Bounds, which nothing undoes, in whatever order they are given: the half-blocked bound of the least cost, the class
//     maximum and the hard caps. Where a cap on chemistry keeps cleans further apart than another bound allows, the
//     contradiction is named and the shorter bound holds.
//
// The error is an invalid.Error naming the fields.
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
		Limit:     Opinion{School: Limit, Reasons: []reason.Reason{}},
		Cost:      Opinion{School: Cost, Reasons: []reason.Reason{}},
		Reasons:   []reason.Reason{}, Advice: []reason.Reason{},
	}
	var ahead *Ahead
	if t.Outlook != nil {
		o := *t.Outlook
		o.Limit = t.Limit
		o = o.withDefaults()
		o.MostDays = min(o.MostDays, max(t.ClassMaxDays, 2*t.InForceDays))
		ahead = look(o, o.Economics.Table())
		res.schools(t, ahead)
	}
	lead := res.lead(t)
	res.School = lead.School
	res.Reasons = append(res.Reasons, lead.Reasons...)
	force := float64(t.InForceDays)
	if lead.School == Cost && t.Chosen > 0 {
		lead.Days = float64(t.Chosen)
		code := reason.ProgramInterval
		if lead.Days == force {
			code = reason.NothingBeats
		}
		res.Reasons = append(res.Reasons, reason.Reason{Code: code, Numbers: reason.Numbers{"days": lead.Days}})
	} else if lead.School == Cost && res.near(force) && lead.Days != force {
		// What is in force costs at most 1 % more than the least: not worth a change.
		lead.Days = force
		res.Reasons = append(res.Reasons, reason.Reason{Code: reason.NearLeastCost, Numbers: reason.Numbers{"days": force}})
	}
	days := lead.Days
	if ahead != nil && t.Chosen == 0 && ahead.Over(0) > ahead.Risk && (lead.School == Cost || lead.School == Limit) {
		// The usual clean leaves it over the limit: another plan is what it needs, and a longer interval cannot be right.
		if force > 0 {
			days = math.Min(days, force)
		}
		res.bind(reason.StartPastLimit, reason.Numbers{"days": days, "limit_share": ahead.Limit})
	}
	days = res.rails(t, days)
	days = res.anchor(t, days)
	res.Days = wholeWeeks(days)
	if float64(res.Days) > days {
		res.bind(reason.RailOneWeek, reason.Numbers{"days": Week})
	}
	res.bounds(t)
	res.Change = res.Days != t.InForceDays
	if !res.Change {
		res.Reasons = append(res.Reasons, reason.Reason{Code: reason.NoChange, Numbers: reason.Numbers{"days": float64(res.Days)}})
	}
	if ahead != nil {
		res.account(t, ahead)
	}
	return res, nil
}

// findings is how many findings of one side taught something; the runs where nothing is learned.
func (t Task) findings() int {
	most := 0
	if t.Outlook != nil {
		for _, s := range t.Outlook.Sides {
			most = max(most, s.Findings)
		}
		return most
	}
	for _, s := range t.Sides {
		most = max(most, len(s.Runs))
	}
	return most
}

// schools works out the limit and the least cost.
func (res *Result) schools(t Task, a *Ahead) {
	evidence := t.findings() > 0
	for _, s := range a.Sides {
		evidence = evidence || s.Peers
	}
	best := a.Cheapest()
	res.Best = &best
	res.Curve = a.curve()
	if evidence {
		res.Limit.Days = a.longest(a.Limit, a.Risk)
		code := reason.Limit
		if res.Limit.Days == 0 {
			code = reason.LimitPast
		} else if res.Limit.Days >= float64(a.MostDays) {
			code = reason.LimitNotReached
		}
		res.Limit.Reasons = append(res.Limit.Reasons, reason.Reason{
			Code: code, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"days": res.Limit.Days, "limit_share": a.Limit, "risk": a.Risk, "start_over": a.Over(0)},
		})
	} else {
		res.Limit.Days = res.Habit.Days
		res.Limit.Reasons = append(res.Limit.Reasons, reason.Reason{Code: reason.LimitNoEvidence, Numbers: reason.Numbers{"days": res.Habit.Days}})
	}
	res.Cost.Days = best.Days
	code := reason.Cost
	switch {
	case best.Unbounded:
		code = reason.CostUnbounded
	case best.Worst:
		code = reason.CostHalfBlocked
	}
	res.Cost.Reasons = append(res.Cost.Reasons, reason.Reason{
		Code: code, Evidence: reason.Assumption,
		Numbers: reason.Numbers{
			"days": best.Days, "from": best.From, "to": best.To, "total_day": best.TotalDay, "clean_day": best.CleanDay,
			"soil_day": best.SoilDay, "over_day": best.OverDay, "clean": a.CleanCost, "over_price": *a.OverPrice,
		},
	})
}

// lead is the opinion the proposal follows.
func (res *Result) lead(t Task) Opinion {
	stepped := len(res.Staircase.Reasons) > 0 && res.Staircase.Days > 0
	switch n := t.findings(); {
	case t.Leads == LeadHabit:
		return res.Habit
	case t.Leads == LeadFound && stepped:
		return res.Staircase
	case t.Outlook != nil && n >= enoughFindings && t.Leads == LeadLimit:
		if res.Limit.Days > 0 && res.Limit.Days <= res.Cost.Days {
			return res.Limit
		}
		return res.Cost
	case t.Outlook != nil && n >= enoughFindings:
		return res.Cost
	case stepped:
		return res.Staircase
	}
	return res.Habit
}

// enoughFindings is from how many on a learned rate leads.
const enoughFindings = 2

// account says what the figures come to and what no interval can mend.
func (res *Result) account(t Task, a *Ahead) {
	proposed := a.Account(float64(res.Days))
	res.Proposed = &proposed
	if t.InForceDays > 0 {
		force := a.Account(float64(t.InForceDays))
		res.InForce = &force
	}
	if t.OverNow > a.Risk {
		code := reason.DeepCleanNow
		if !t.Light {
			code = reason.CleanNow
		}
		res.Advice = append(res.Advice, reason.Reason{Code: code, Evidence: reason.Assumption, Numbers: reason.Numbers{"probability": t.OverNow, "limit_share": a.Limit}})
	}
	if over := a.Over(0); over > a.Risk {
		res.Advice = append(res.Advice, reason.Reason{Code: reason.ChangeMethod, Evidence: reason.Assumption, Numbers: reason.Numbers{"probability": over, "limit_share": a.Limit}})
	}
}

func (res *Result) bind(code reason.Code, n reason.Numbers) {
	res.Binding = strings.TrimPrefix(string(code), "rail_")
	res.Reasons = append(res.Reasons, reason.Reason{Code: code, Numbers: n})
}

// near reports whether an interval costs at most 1 % more than the least, and is within the half-blocked bound.
func (res *Result) near(days float64) bool {
	b := res.Best
	return b != nil && days >= b.From && days <= b.To && (b.HalfBlocked == 0 || days <= b.HalfBlocked)
}

// rails keeps the school's figure from lengthening where it may not, and records which rail did so last.
func (res *Result) rails(t Task, days float64) float64 {
	force := float64(t.InForceDays)
	if longest := longestRun(t.Sides); longest > 0 {
		if top := math.Max(force, LongestStretch*float64(longest)); days > top {
			days = top
			res.bind(reason.RailLongestStretch, reason.Numbers{"longest": float64(longest), "stretch": LongestStretch, "days": days})
		}
	}
	if star := soil.LimitGrade(t.Limit); lastFound(t.Sides) > star {
		// Whatever a rate learned over years says: the newest finding was over the limit.
		top := math.Inf(1)
		if res.Staircase.Days > 0 {
			top = res.Staircase.Days
		}
		if force > 0 {
			top = math.Min(top, force)
		}
		if days > top {
			days = top
			res.bind(reason.RailFoundOver, reason.Numbers{"days": top, "grade": float64(lastFound(t.Sides)), "limit_grade": float64(star)})
		}
	}
	if force > 0 && days > force {
		if code := t.noLengthening(); code != "" {
			days = force
			res.bind(code, reason.Numbers{"days": force})
		}
	}
	return days
}

// lastFound is the heaviest of the sides' newest findings, -1 without any.
func lastFound(sides []Side) soil.Grade {
	worst := soil.Grade(-1)
	for _, s := range sides {
		if n := len(s.Runs); n > 0 {
			worst = max(worst, s.Runs[n-1].Grade)
		}
	}
	return worst
}

// bounds bind last, so that nothing above can undo them, and do not depend on the order they are given in.
func (res *Result) bounds(t Task) {
	most, least := math.Inf(1), 0.0
	bind := func() {}
	within := func(days float64, by func()) {
		if days < most {
			most, bind = days, by
		}
	}
	if res.Best != nil && res.Best.HalfBlocked > 0 && t.Chosen == 0 && (res.School == Cost || res.School == Limit) {
		within(math.Max(Week, res.Best.HalfBlocked), func() {
			res.bind(reason.RailHalfBlocked, reason.Numbers{"days": res.Best.HalfBlocked, "share": worstBlocked, "risk": worstRisk})
		})
	}
	within(float64(t.ClassMaxDays), func() { res.bind(reason.RailClassMax, reason.Numbers{"days": float64(t.ClassMaxDays)}) })
	var chemistry Cap
	for _, c := range t.Caps {
		if c.Kind != Chemistry {
			within(float64(c.MostDays), func() { res.capped(c, float64(c.MostDays)) })
		} else if apart := year / c.TimesAYear; apart > least && !t.Light {
			// It says how often a strong cleaner may be used, and holds nothing else up.
			least, chemistry = apart, c
		}
	}
	contradicts := least > most
	hold := least
	if contradicts {
		hold = 0
	}
	days, force := float64(res.Days), float64(t.InForceDays)
	if days > most {
		res.Days = weeksWithin(most)
	}
	if float64(res.Days) < hold {
		if res.Days = int(math.Ceil(hold/Week-1e-9)) * Week; float64(res.Days) > most {
			res.Days = int(most)
		}
	}
	if force > 0 && force <= most && force >= hold && abs(res.Days-t.InForceDays) < Week {
		// Less than a week's difference is no change, neither from what is proposed nor from a bound on it.
		res.Days = t.InForceDays
	}
	switch {
	case contradicts:
		bind()
		res.Binding = "caps_contradict"
		res.Reasons = append(res.Reasons, reason.Reason{
			Code: reason.CapsContradict, Numbers: reason.Numbers{"least": least, "most": most, "times": chemistry.TimesAYear, "days": float64(res.Days)},
		})
	case days > most, force > most && force-days < Week:
		bind()
	case days < hold:
		res.capped(chemistry, least)
	}
}

// weeksWithin is a bound in whole weeks, or the bound itself where it is less than one.
func weeksWithin(most float64) int {
	if most < Week {
		return max(1, int(most))
	}
	return wholeWeeks(most)
}

var capCodes = map[CapKind]reason.Code{
	Contract: reason.RailCapContract, Maker: reason.RailCapMaker, Hygiene: reason.RailCapHygiene, Chemistry: reason.RailCapChemistry,
}

func (res *Result) capped(c Cap, days float64) {
	res.Binding = "cap"
	res.Reasons = append(res.Reasons, reason.Reason{
		Code: capCodes[c.Kind], Numbers: reason.Numbers{"days": days, "times": c.TimesAYear}, Names: reason.Names{"note": c.Note},
	})
}

// Bounds of the season's anchor (assumption): only an interval of half a year or more is anchored, and by a quarter of it
// at most.
const (
	anchoredFrom = 180
	anchoredBy   = .25
)

// anchor brings the due day back into the month before the season, when it is near.
func (res *Result) anchor(t Task, days float64) float64 {
	if t.AnchorMonth == 0 || t.Last == nil || days < anchoredFrom {
		return days
	}
	due := t.Last.Add(int(days))
	for back := 0; float64(back) <= anchoredBy*days; back++ {
		if int(due.Add(-back).Month()) == t.AnchorMonth {
			if back > 0 {
				days = math.Floor(days) - float64(back)
				res.bind(reason.RailSeasonAnchor, reason.Numbers{"days": days, "month": float64(t.AnchorMonth)})
			}
			return days
		}
	}
	return days
}

// noLengthening names why a task may not be lengthened, or is empty when it may.
func (t Task) noLengthening() reason.Code {
	if t.Outlook != nil {
		switch n := t.findings(); {
		case n == 0:
			return reason.RailNoFinding
		case n == 1:
			return reason.RailOneFinding
		case t.CoreSeen != nil && !*t.CoreSeen:
			return reason.RailCoreUnseen
		case t.CoreSeen != nil:
			return ""
		}
	}
	sides := t.Sides
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
		return reason.RailNoFinding
	case 1:
		return reason.RailOneFinding
	}
	for _, s := range sides {
		if !coreSeen(s.Runs) {
			return reason.RailCoreUnseen
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

// LongestRun is the longest interval that was really run, 0 where none was.
func (t Task) LongestRun() int { return longestRun(t.Sides) }

// Habit is the interval by habit, in days.
func (t Task) Habit() float64 { return HabitDays(t.ClassDays, t.Factor).Days }

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

func abs(n int) int { return max(n, -n) }
