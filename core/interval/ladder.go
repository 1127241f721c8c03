package interval

import (
	"math"
	"sort"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/soil"
)

// MostRungs is the most cleans of a ladder's cycle (assumption).
const MostRungs = 13

// Rung is one of the two cleans of a ladder: what it costs and takes away.
type Rung struct {
	Cost float64 `json:"cost"`
	soil.Removal
}

// LadderSide is one side at one rate.
type LadderSide struct {
	Name        string  `json:"name,omitempty"`
	AreaShare   float64 `json:"area_share,omitempty"`
	Rate        float64 `json:"rate"`
	Penetration float64 `json:"penetration"`
	// LimitRate is the rate at the (1 − risk) quantile of λe^η, by which the limit is judged; 0 means Rate.
	LimitRate float64 `json:"limit_rate,omitempty"`
}

// LadderQuestion is a coil and the two cleans that could keep it.
type LadderQuestion struct {
	Sides     []LadderSide   `json:"sides"`
	FanShare  float64        `json:"fan_share"`
	Economics heat.Economics `json:"economics"`
	Light     Rung           `json:"light"`
	Deep      Rung           `json:"deep"`
	// Limit is the blocked share the organisation allows; 0 means the default.
	Limit float64 `json:"limit_share,omitempty"`
	// OverPrice v is the price of a day over the limit at Rate; 0 is pure money.
	OverPrice float64 `json:"over_price,omitempty"`
	// MostDays is the longest interval, MostDeepDays the longest between two deep cleans; 0 means two years, and five.
	MostDays     int `json:"most_days,omitempty"`
	MostDeepDays int `json:"most_deep_days,omitempty"`
}

// Ladder is a cycle of Rungs cleans, EveryDays apart, of which the last is deep and the others light.
type Ladder struct {
	EveryDays int     `json:"every_days"`
	Rungs     int     `json:"rungs"`
	TotalDay  float64 `json:"total_day"`
	CleanDay  float64 `json:"clean_day"`
	SoilDay   float64 `json:"soil_day"`
	OverDay   float64 `json:"over_day"`
	// MostBlocked is the largest blocked share of the cycle on the worst side, at the limit's rate.
	MostBlocked float64 `json:"most_blocked_share"`
	Holds       bool    `json:"holds_limit"`
}

// LadderResult is the best ladders.
type LadderResult struct {
	// Cheapest of all; DeepOnly the cheapest without light cleans; WithinLimit the cheapest that holds the limit, nil when
	// none does.
	Cheapest    Ladder  `json:"cheapest"`
	DeepOnly    Ladder  `json:"deep_only"`
	WithinLimit *Ladder `json:"within_limit,omitempty"`
	// Saved is the share of the cost of deep cleans alone that the cheapest saves.
	Saved float64 `json:"saved_share"`
	// LightHolds is false where light cleans alone hold the limit at no interval of a week or more.
	LightHolds bool `json:"light_holds"`
	// Table is the cheapest ladder for each number of rungs.
	Table []Ladder `json:"table"`
}

// Check lists every field that cannot be used.
func (q LadderQuestion) Check() error {
	var bad invalid.Error
	checkLadderSides(&bad, q.Sides)
	for name, r := range map[string]Rung{"light.": q.Light, "deep.": q.Deep} {
		if !(r.Cost > 0) || math.IsInf(r.Cost, 1) {
			bad.Addf(name+"cost", "must be above 0")
		}
		for field, v := range map[string]float64{"face_share": r.Face, "core_share": r.Core, "packing": r.Packing} {
			if !(v >= 0 && v <= 1) {
				bad.Addf(name+field, "must be between 0 and 1")
			}
		}
	}
	if !(q.FanShare > 0 && q.FanShare <= 1) {
		bad.Addf("fan_share", "must be above 0 and at most 1")
	}
	if q.Limit != 0 && !(q.Limit > 0 && q.Limit < 1) {
		bad.Addf("limit_share", "must be between 0 and 1")
	}
	if !(q.OverPrice >= 0) || math.IsInf(q.OverPrice, 1) {
		bad.Addf("over_price", "must be 0 or more")
	}
	if q.MostDays < 0 || q.MostDays > mostDays {
		bad.Addf("most_days", "must be between 1 and %d", mostDays)
	}
	if q.MostDeepDays < 0 || q.MostDeepDays > 2*mostDays {
		bad.Addf("most_deep_days", "must be between 1 and %d", 2*mostDays)
	}
	bad = append(bad, below("economics.", q.Economics.Check())...)
	sort.Slice(bad, func(i, j int) bool { return bad[i].Path < bad[j].Path })
	return bad.Err()
}

const (
	usualMostDays     = 730
	usualMostDeepDays = 1825
	// simpson is the number of parts an interval's cost is summed up in.
	simpson = 8
)

// Climb finds the cheapest cycle of n − 1 light cleans and one deep, every a whole weeks (no light one at the deep visit).
// Each is judged in the steady state that it settles into, found as the fixed point of one cycle of soil.State.Deposit and
// Clean: its cost at Rate, its largest soil at LimitRate. Seasons level out over a cycle. The error is an invalid.Error
// naming the fields.
func Climb(q LadderQuestion) (LadderResult, error) {
	if err := q.Check(); err != nil {
		return LadderResult{}, err
	}
	if q.Limit == 0 {
		q.Limit = DefaultLimit
	}
	if q.MostDays == 0 {
		q.MostDays = usualMostDays
	}
	if q.MostDeepDays == 0 {
		q.MostDeepDays = max(usualMostDeepDays, q.MostDays)
	}
	whole := 0.0
	for _, s := range q.Sides {
		whole += s.AreaShare
	}
	sides := append([]LadderSide{}, q.Sides...)
	for i := range sides {
		if whole > 0 {
			sides[i].AreaShare /= whole
		} else {
			sides[i].AreaShare = 1 / float64(len(sides))
		}
		if sides[i].LimitRate == 0 {
			sides[i].LimitRate = sides[i].Rate
		}
	}
	q.Sides = sides
	table := q.Economics.Table()
	out := LadderResult{Table: []Ladder{}}
	for n := 1; n <= MostRungs; n++ {
		var best *Ladder
		for days := Week; days <= q.MostDays && (n*days <= q.MostDeepDays || n == 1); days += Week {
			l := q.ladder(table, days, n)
			if best == nil || l.TotalDay < best.TotalDay {
				best = &l
			}
			if l.Holds && (out.WithinLimit == nil || l.TotalDay < out.WithinLimit.TotalDay) {
				within := l
				out.WithinLimit = &within
			}
		}
		if best == nil {
			continue
		}
		out.Table = append(out.Table, *best)
		if n == 1 {
			out.DeepOnly, out.Cheapest = *best, *best
		} else if best.TotalDay < out.Cheapest.TotalDay {
			out.Cheapest = *best
		}
	}
	out.Saved = 1 - out.Cheapest.TotalDay/out.DeepOnly.TotalDay
	out.LightHolds = q.lightHolds()
	return out, nil
}

// steady is the state of a side right after the deep clean of an endless cycle. One cycle is linear in the state, so that
// its fixed point is found from three runs of it.
func (q LadderQuestion) steady(s LadderSide, rate float64, days, rungs int) soil.State {
	tau := float64(days) * q.FanShare
	cycle := func(at soil.State) soil.State {
		for k := 1; k <= rungs; k++ {
			at = at.Deposit(rate, s.Penetration, tau)
			if k == rungs {
				at = at.Clean(q.Deep.Removal)
			} else {
				at = at.Clean(q.Light.Removal)
			}
		}
		return at
	}
	return fixedPoint(cycle)
}

// fixedPoint of a linear map of states; a state that never settles ends at a load far beyond blocked.
func fixedPoint(f func(soil.State) soil.State) soil.State {
	zero, one, two := f(soil.State{}), f(soil.State{Face: 1}), f(soil.State{Core: 1})
	a, b := one.Face-zero.Face, two.Face-zero.Face
	c, d := one.Core-zero.Core, two.Core-zero.Core
	det := (1-a)*(1-d) - b*c
	if det < 1e-9 {
		return soil.State{Face: neverLoad, Core: neverLoad}
	}
	return soil.State{
		Face: math.Min(neverLoad, ((1-d)*zero.Face+b*zero.Core)/det),
		Core: math.Min(neverLoad, ((1-a)*zero.Core+c*zero.Face)/det),
	}
}

func (q LadderQuestion) ladder(table *heat.CostTable, days, rungs int) Ladder {
	out := Ladder{EveryDays: days, Rungs: rungs}
	cycle := float64(days * rungs)
	out.CleanDay = (q.Deep.Cost + float64(rungs-1)*q.Light.Cost) / cycle
	now := make([]soil.State, len(q.Sides))
	worst := make([]soil.State, len(q.Sides))
	for i, s := range q.Sides {
		now[i] = q.steady(s, s.Rate, days, rungs)
		worst[i] = q.steady(s, s.LimitRate, days, rungs)
	}
	most := 0.0
	for k := 1; k <= rungs; k++ {
		out.SoilDay += q.segment(table, now, days)
		out.OverDay += q.OverPrice * q.overDays(now, days)
		removal := q.Light.Removal
		if k == rungs {
			removal = q.Deep.Removal
		}
		for i, s := range q.Sides {
			now[i] = now[i].Deposit(s.Rate, s.Penetration, float64(days)*q.FanShare).Clean(removal)
			worst[i] = worst[i].Deposit(s.LimitRate, s.Penetration, float64(days)*q.FanShare)
			most = math.Max(most, worst[i].Total())
			worst[i] = worst[i].Clean(removal)
		}
	}
	out.SoilDay /= cycle
	out.OverDay /= cycle
	out.TotalDay = out.CleanDay + out.SoilDay + out.OverDay
	out.MostBlocked = soil.Share(most)
	out.Holds = most <= soil.Load(q.Limit)
	return out
}

// segment is the money of the days from one clean to the next.
func (q LadderQuestion) segment(table *heat.CostTable, from []soil.State, days int) float64 {
	sum := 0.0
	for n := 0; n <= simpson; n++ {
		weight := 2.0
		switch {
		case n == 0 || n == simpson:
			weight = 1
		case n%2 == 1:
			weight = 4
		}
		tau := float64(days) * q.FanShare * float64(n) / simpson
		var load float64
		if len(from) == 1 {
			load = from[0].Total() + q.Sides[0].Rate*tau/30
		} else {
			blocked := 0.0
			for i, s := range q.Sides {
				blocked += s.AreaShare * soil.Share(from[i].Total()+s.Rate*tau/30)
			}
			load = soil.Load(blocked)
		}
		sum += weight * table.Day(load)
	}
	return sum * float64(days) / (3 * simpson)
}

// overDays is the part of the days between two cleans on which the worst side is over the limit.
func (q LadderQuestion) overDays(from []soil.State, days int) float64 {
	most := 0.0
	for i, s := range q.Sides {
		reached := (soil.Load(q.Limit) - from[i].Total()) * 30 / (s.Rate * q.FanShare)
		most = math.Max(most, float64(days)-math.Max(0, reached))
	}
	return math.Min(most, float64(days))
}

// lightHolds reports whether light cleans alone, week by week, would hold the limit for ever.
func (q LadderQuestion) lightHolds() bool {
	for _, s := range q.Sides {
		tau := Week * q.FanShare
		at := fixedPoint(func(x soil.State) soil.State {
			return x.Deposit(s.LimitRate, s.Penetration, tau).Clean(q.Light.Removal)
		})
		if at.Deposit(s.LimitRate, s.Penetration, tau).Total() > soil.Load(q.Limit) {
			return false
		}
	}
	return true
}
