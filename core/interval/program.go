package interval

import (
	"cmp"
	"math"
	"slices"
	"sort"
	"strconv"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/soil"
)

// Plan is a work plan as a program takes it: what it costs and takes away.
type Plan struct {
	Code string  `json:"code"`
	Cost float64 `json:"cost"`
	soil.Removal
	// LeastDays and MostDays bound how often this plan may be done, such as a cap on its cleaner; 0 is no bound.
	LeastDays int `json:"least_days,omitempty"`
	MostDays  int `json:"most_days,omitempty"`
	// Barred plans are priced where they are in force, and never proposed.
	Barred bool `json:"barred,omitempty"`
}

// ProgramQuestion is a coil at known rates, and the plans that could keep it.
type ProgramQuestion struct {
	// Sides with their rates; limit_rate is not used.
	Sides     []LadderSide   `json:"sides"`
	FanShare  float64        `json:"fan_share"`
	Economics heat.Economics `json:"economics"`
	Plans     []Plan         `json:"plans"`
	// LoadMonths weigh the energy by the month the unit runs in, SoilMonths the soil by the month it comes in; brought to mean 1, left
	// out even.
	LoadMonths *soil.MonthWeights `json:"load_months,omitempty"`
	SoilMonths *soil.MonthWeights `json:"soil_months,omitempty"`
	// OverPrice v is the price of a day over the limit, 0 for pure money; Limit 0 means the default.
	OverPrice float64 `json:"price_day_over,omitempty"`
	Limit     float64 `json:"limit_share,omitempty"`
	// MostDays is the longest interval; 0 means two years.
	MostDays int `json:"most_days,omitempty"`
	// AnchorMonth is the month, 1 to 12, that one clean a year or every few years should fall into, from 120 days up; 0 is none.
	AnchorMonth int `json:"anchor_month,omitempty"`
}

// Program is a work plan with its interval and, where it has them, its dates.
type Program struct {
	Plan      string `json:"plan"`
	EveryDays int    `json:"every_days"`
	// CostDay is all of it in money a day: cleaning, energy, call-outs and the price of days over the limit.
	CostDay   float64 `json:"cost_day"`
	CleanDay  float64 `json:"clean_day"`
	EnergyDay float64 `json:"energy_day"`
	CallsDay  float64 `json:"calls_day"`
	OverDay   float64 `json:"over_day"`
	// OverShare is the share of days over the limit.
	OverShare float64 `json:"over_share"`
	// Days of the year on which it is done, 0 = 1 January; only where the dates are part of the choice.
	Days []int `json:"days,omitempty"`
}

// ProgramResult is the best program and the best with each plan, the cheapest first.
type ProgramResult struct {
	Best  Program   `json:"best"`
	Plans []Program `json:"plans"`
}

const (
	// datedFrom is from how long an interval on its dates in the year are part of the choice; below it a coil is cleaned all year
	// round, and every phase is as likely.
	datedFrom = 120
	// mostDated is how many dated cleans a year that leaves room for.
	mostDated   = 3
	usualYear   = int(year)
	neverLoad   = 50.0
	mostPlans   = 100
	sideParts   = 8
	coarsePairs = 5
	coarseThree = 15
	// roughly is how much coarser the grid is where a few truths stand for all.
	roughly = 3
)

// Check lists every field that cannot be used.
func (q ProgramQuestion) Check() error {
	var bad invalid.Error
	checkLadderSides(&bad, q.Sides)
	if !(q.FanShare > 0 && q.FanShare <= 1) {
		bad.Addf("fan_share", "must be above 0 and at most 1")
	}
	if len(q.Plans) == 0 || len(q.Plans) > mostPlans {
		bad.Addf("plans", "1 to %d are needed", mostPlans)
	}
	for i, p := range q.Plans {
		checkPlan(&bad, "plans["+strconv.Itoa(i)+"].", p)
	}
	for name, months := range map[string]*soil.MonthWeights{"load_months": q.LoadMonths, "soil_months": q.SoilMonths} {
		checkMonths(&bad, name, months)
	}
	if !(q.OverPrice >= 0) || math.IsInf(q.OverPrice, 1) {
		bad.Addf("price_day_over", "must be 0 or more")
	}
	if q.Limit != 0 && !(q.Limit > 0 && q.Limit < 1) {
		bad.Addf("limit_share", "must be between 0 and 1")
	}
	if q.MostDays < 0 || q.MostDays > mostDays {
		bad.Addf("most_days", "must be between 1 and %d", mostDays)
	}
	if q.AnchorMonth < 0 || q.AnchorMonth > 12 {
		bad.Addf("anchor_month", "must be a month from 1 to 12, or 0 for none")
	}
	bad = append(bad, below("economics.", q.Economics.Check())...)
	sort.Slice(bad, func(i, j int) bool { return bad[i].Path < bad[j].Path })
	return bad.Err()
}

func checkLadderSides(bad *invalid.Error, sides []LadderSide) {
	if len(sides) == 0 {
		bad.Addf("sides", "at least one is needed")
	}
	for i, s := range sides {
		at := "sides[" + strconv.Itoa(i) + "]."
		if !(s.Rate > 0) || math.IsInf(s.Rate, 1) {
			bad.Addf(at+"rate", "must be above 0")
		}
		if !(s.LimitRate >= 0) || math.IsInf(s.LimitRate, 1) {
			bad.Addf(at+"limit_rate", "must be above 0, or left out")
		}
		if !(s.Penetration >= 0 && s.Penetration <= 1) {
			bad.Addf(at+"penetration", "must be between 0 and 1")
		}
		if !(s.AreaShare >= 0 && s.AreaShare <= 1) {
			bad.Addf(at+"area_share", "must be between 0 and 1")
		}
	}
}

func checkPlan(bad *invalid.Error, at string, p Plan) {
	if p.Code == "" {
		bad.Addf(at+"code", "is needed")
	}
	if !(p.Cost > 0) || math.IsInf(p.Cost, 1) {
		bad.Addf(at+"cost", "must be above 0: a clean takes time and material")
	}
	for field, v := range map[string]float64{"face_share": p.Face, "core_share": p.Core, "packing": p.Packing} {
		if !(v >= 0 && v <= 1) {
			bad.Addf(at+field, "must be between 0 and 1")
		}
	}
	for field, v := range map[string]int{"least_days": p.LeastDays, "most_days": p.MostDays} {
		if v < 0 || v > mostDays {
			bad.Addf(at+field, "must be between 0 and %d", mostDays)
		}
	}
}

func checkMonths(bad *invalid.Error, name string, months *soil.MonthWeights) {
	if months == nil {
		return
	}
	sum := 0.0
	for m, w := range months {
		if !(w >= 0) || math.IsInf(w, 1) {
			bad.Addf(name+"["+strconv.Itoa(m)+"]", "must be 0 or more")
		}
		sum += w
	}
	if sum == 0 {
		bad.Addf(name, "at least one month must be above 0")
	}
}

// BestProgram chooses work plan and interval together. Cleaned every T days with a plan that costs K, takes rF and rC and packs q, a side
// settles, just after a clean, into
//
//	F* = λ(1−p)τ(1−rF) / (30 rF),  C* = [λpτ(1−rC)/30 + q rF (F* + λ(1−p)τ/30)] / rC
//
// and the program of least
//
//	[K + ∫₀ᵀ c(t) dt] / T,   c(t) = w(month) e(L) + h(L) + v (L over the limit)
//
// over all plans and whole days T up to MostDays is the best one. With months that are not even, from 120 days up the choice is 1 to 3
// cleans a year, or one in several years, and their dates on the circle of the year (of 365 days); below, the mean over all phases
// of T against the year counts. The error is an invalid.Error naming the fields.
func BestProgram(q ProgramQuestion) (ProgramResult, error) {
	if err := q.Check(); err != nil {
		return ProgramResult{}, err
	}
	if q.MostDays == 0 {
		q.MostDays = usualMostDays
	}
	w := newWorld(worldQuestion{economics: q.Economics, fanShare: q.FanShare, load: q.LoadMonths, soil: q.SoilMonths, overPrice: q.OverPrice, limit: q.Limit, anchor: q.AnchorMonth})
	w.sides(q.Sides)
	out := ProgramResult{Plans: make([]Program, 0, len(q.Plans))}
	for _, p := range q.Plans {
		if p.Barred {
			continue
		}
		best, found := w.best(p, q.MostDays, everyDay)
		if found {
			out.Plans = append(out.Plans, best)
		}
	}
	if len(out.Plans) == 0 {
		return out, invalid.Error{{Path: "plans", Reason: "none may be done within most_days"}}
	}
	slices.SortStableFunc(out.Plans, func(a, b Program) int { return cmp.Compare(a.CostDay, b.CostDay) })
	out.Best = out.Plans[0]
	return out, nil
}

// everyDay looks at each whole day as an interval.
func everyDay(least, most int) []int {
	out := make([]int, 0, most-least+1)
	for d := least; d <= most; d++ {
		out = append(out, d)
	}
	return out
}

// best program with a plan; false where its bounds leave none.
func (w *world) best(p Plan, most int, grid func(least, most int) []int) (Program, bool) {
	if p.MostDays > 0 {
		most = min(most, p.MostDays)
	}
	least := max(1, p.LeastDays)
	if least > most {
		return Program{}, false
	}
	best, found := Program{}, false
	take := func(x Program) {
		if !found || x.CostDay < best.CostDay-1e-12 {
			best, found = x, true
		}
	}
	undated := most
	if w.seasonal {
		undated = min(most, datedFrom-1)
	}
	if least <= undated {
		days := grid(least, undated)
		at, cost := 0, math.Inf(1)
		for _, d := range days {
			if c := w.every(p, d).CostDay; c < cost-1e-12 {
				at, cost = d, c
			}
		}
		if at > 0 {
			take(w.every(p, at))
		}
	}
	if w.seasonal {
		for years := 1; years*usualYear <= most; years++ {
			if years*usualYear >= least {
				take(w.dated(p, years, w.bestDay(p, years)))
			}
		}
		for n := 2; n <= mostDated; n++ {
			if days := w.bestDays(p, n, least, most); days != nil {
				take(w.dated(p, 1, days))
			}
		}
	}
	return best, found
}
