package interval

import (
	"cmp"
	"math"
	"slices"
	"sort"
	"strconv"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/learn"
	"nextround/core/root"
	"nextround/core/soil"
)

// Truth is one thing that may be so of a coil, with how likely it is.
type Truth struct {
	Weight float64     `json:"weight"`
	Sides  []TruthSide `json:"sides"`
}

// TruthSide is a side in a truth: its rate λ in load per 30 exposure-days, the share that goes into the core, and the soil on it today.
type TruthSide struct {
	Rate        float64 `json:"rate"`
	Penetration float64 `json:"penetration"`
	soil.State
}

const (
	// truthBins is how many equally likely rates stand for each share that goes into the core.
	truthBins = 8
	// followed is how many cleans after the first are followed until the soil counts as settled.
	followed = 3
)

// Truths condense what was learned of a coil's sides into a few weighted truths. The scatter of a side from one interval to the next levels
// out over the time that is priced, and is left out. The sides share their fortune: the n-th truth of one goes with the n-th of the others. None without sides.
func Truths(sides [][]learn.Cell) []Truth {
	var out []Truth
	for _, cells := range sides {
		side, weights := condensed(cells)
		if out == nil {
			out = make([]Truth, len(side))
		}
		for k := range out {
			out[k].Weight += weights[k] / float64(len(sides))
			out[k].Sides = append(out[k].Sides, side[k])
		}
	}
	return out
}

// condensed are the cells of a side in bins: three shares that go into the core, times equally likely rates of each.
func condensed(cells []learn.Cell) ([]TruthSide, []float64) {
	groups := map[float64][]learn.Cell{}
	var shares []float64
	for _, c := range cells {
		if groups[c.Penetration] == nil {
			shares = append(shares, c.Penetration)
		}
		groups[c.Penetration] = append(groups[c.Penetration], c)
	}
	sort.Float64s(shares)
	const core = 3
	for len(shares) < core {
		shares = append(shares, shares[len(shares)-1]) // two that are held to the same bound
	}
	sides, weights := make([]TruthSide, 0, core*truthBins), make([]float64, 0, core*truthBins)
	for _, p := range shares[:core] {
		group := groups[p]
		same := 0
		for _, x := range shares[:core] {
			if x == p { //nolint:revive // the very same number
				same++
			}
		}
		total := 0.0
		for _, c := range group {
			total += c.Weight
		}
		sides = append(sides, binned(group, p)...)
		for range truthBins {
			weights = append(weights, total/truthBins/float64(same))
		}
	}
	return sides, weights
}

// binned are equally likely parts of the cells that share a penetration, by rate.
func binned(cells []learn.Cell, p float64) []TruthSide {
	face := func(c learn.Cell) float64 { return c.Face }
	core := func(c learn.Cell) float64 { return c.Core }
	if !slices.ContainsFunc(cells, func(c learn.Cell) bool { return c.Weight > 0 }) {
		cells = slices.Clone(cells) // ruled out: any of them stands for it, without weight
		for i := range cells {
			cells[i].Weight = 1
		}
	}
	rates, faces := Condense(cells, truthBins, face)
	_, cores := Condense(cells, truthBins, core)
	out := make([]TruthSide, truthBins)
	for i := range out {
		k := min(i, len(rates)-1)
		out[i] = TruthSide{Rate: rates[k], Penetration: p, State: soil.State{Face: faces[k], Core: cores[k]}}
	}
	return out
}

// Cycle is a way of keeping a coil: a plan every so many days, with a light plan in between, so many cleans in a cycle together.
type Cycle struct {
	Plan      string `json:"plan"`
	EveryDays int    `json:"every_days"`
	// Light is the plan done in between, LightEvery how often; empty where none is.
	Light      string `json:"light,omitempty"`
	LightEvery int    `json:"light_every_days,omitempty"`
}

// ChoiceQuestion is a coil on all that is believed of it, and the plans that could keep it.
type ChoiceQuestion struct {
	Truths []Truth `json:"truths"`
	// Areas of the sides; sides are parallel paths. Left out, equal.
	Areas      []float64          `json:"areas,omitempty"`
	FanShare   float64            `json:"fan_share"`
	Economics  heat.Economics     `json:"economics"`
	Plans      []Plan             `json:"plans"`
	LightPlans []Plan             `json:"light_plans,omitempty"`
	LoadMonths *soil.MonthWeights `json:"load_months,omitempty"`
	SoilMonths *soil.MonthWeights `json:"soil_months,omitempty"`
	OverPrice  float64            `json:"price_day_over,omitempty"`
	Limit      float64            `json:"limit_share,omitempty"`
	MostDays   int                `json:"most_days,omitempty"`
	// InForce is how it is kept now, by the codes of Plans and LightPlans; left out where nothing is set.
	InForce *Cycle `json:"in_force,omitempty"`
	// MostNow is the most days until the first clean, such as the day a cap runs out; 0 means none.
	MostNow int `json:"most_now_days,omitempty"`
	// HorizonDays is over how many days from today what a way of keeping the coil costs is counted, begun with a clean; 0 is for ever, once the
	// soil has settled. A brush that leaves the core takes years to settle.
	HorizonDays int `json:"horizon_days,omitempty"`
	// DayOfYear is today, 0 = 1 January; where months matter.
	DayOfYear int `json:"day_of_year,omitempty"`
	// AnchorMonth is the month, 1 to 12, that one clean a year or every few years should fall into, where the plan is done no more often
	// than every 120 days; 0 is none.
	AnchorMonth int `json:"anchor_month,omitempty"`
	// Looks are ways of finding out more before choosing, whose worth is told as by ValueOfLooking; left out, none is.
	Looks []LookWay `json:"looks,omitempty"`
}

// Kept is a way of keeping a coil with what it costs on all that is believed, in money a day.
type Kept struct {
	Program
	Light      string `json:"light,omitempty"`
	LightEvery int    `json:"light_every_days,omitempty"`
	// HalfShare is the share of belief in which it is more than half blocked at the end of an interval.
	HalfShare float64 `json:"half_blocked_share"`
}

// FirstClean is the next clean, which may be another plan than those that follow: it brings the coil down.
type FirstClean struct {
	Plan   string `json:"plan"`
	InDays int    `json:"in_days"`
	// BringsDown is true where it is another plan than the program's.
	BringsDown bool `json:"brings_down,omitempty"`
	// Money is what the first clean on this day with this plan saves against the program's own plan on the day it would be due.
	Saves float64 `json:"saves"`
}

// Choice is the best program on all that is believed, held against what is in force.
type Choice struct {
	Best  Kept       `json:"best"`
	First FirstClean `json:"first"`
	// InForce is what is in force, nil where nothing is.
	InForce *Kept `json:"in_force,omitempty"`
	// SavesDay is how much the best costs less a day than what is in force, SavesSD the standard deviation of that over what is believed,
	// BetterShare the share of belief in which it is cheaper at all.
	SavesDay    float64 `json:"saves_day"`
	SavesSD     float64 `json:"saves_sd"`
	BetterShare float64 `json:"better_share"`
	// Change is true where the best beats what is in force by more than its uncertainty.
	Change bool        `json:"change"`
	Table  []Kept      `json:"table"`
	Looks  []LookValue `json:"looks,omitempty"`
}

// surelyBetter is the share of belief in which a program has to be cheaper than what is in force to be proposed (assumption: one
// standard deviation of a normal belief, one-sided).
const surelyBetter = .84

// worthChanging is the share of the cost in force that it has to save at the least (as for the least cost: within 1 % nothing changes).
const worthChanging = .01

// Check lists every field that cannot be used.
func (q ChoiceQuestion) Check() error {
	var bad invalid.Error
	if len(q.Truths) == 0 {
		bad.Addf("truths", "at least one is needed")
	}
	total := 0.0
	for i, t := range q.Truths {
		at := "truths[" + strconv.Itoa(i) + "]."
		if total += t.Weight; !(t.Weight >= 0 && t.Weight <= 1) {
			bad.Addf(at+"weight", "must be between 0 and 1")
		}
		if len(t.Sides) == 0 || len(t.Sides) != len(q.Truths[0].Sides) {
			bad.Addf(at+"sides", "at least one is needed, as many in every truth")
		}
		for k, s := range t.Sides {
			if !(s.Rate > 0) || math.IsInf(s.Rate, 1) || !(s.Penetration >= 0 && s.Penetration <= 1) || !(s.Face >= 0 && s.Core >= 0) || math.IsInf(s.Total(), 1) {
				bad.Addf(at+"sides["+strconv.Itoa(k)+"]", "rate must be above 0, penetration between 0 and 1, soil 0 or more")
			}
		}
	}
	if len(q.Truths) > 0 && !(total > 0) {
		bad.Addf("truths", "one of them at least must have a weight above 0")
	}
	if n := len(q.Areas); n > 0 && len(q.Truths) > 0 && n != len(q.Truths[0].Sides) {
		bad.Addf("areas", "must be one to a side, or left out")
	}
	sides := []LadderSide{{Rate: 1}}
	plain := ProgramQuestion{
		Sides: sides, FanShare: q.FanShare, Economics: q.Economics, Plans: q.Plans, LoadMonths: q.LoadMonths, SoilMonths: q.SoilMonths,
		OverPrice: q.OverPrice, Limit: q.Limit, MostDays: q.MostDays, AnchorMonth: q.AnchorMonth,
	}
	bad = append(bad, below("", plain.Check())...)
	checkWays(&bad, "looks", q.Looks)
	for i, p := range q.LightPlans {
		checkPlan(&bad, "light_plans["+strconv.Itoa(i)+"].", p)
	}
	if q.DayOfYear < 0 || q.DayOfYear >= usualYear {
		bad.Addf("day_of_year", "must be between 0 and %d", usualYear-1)
	}
	if q.HorizonDays < 0 || q.HorizonDays > mostDays {
		bad.Addf("horizon_days", "must be between 0 and %d", mostDays)
	}
	if q.MostNow < 0 || q.MostNow > mostDays {
		bad.Addf("most_now_days", "must be between 0 and %d", mostDays)
	}
	if f := q.InForce; f != nil {
		if _, ok := planOf(q.Plans, f.Plan); !ok {
			bad.Addf("in_force.plan", "is not one of the plans")
		}
		if _, ok := planOf(q.LightPlans, f.Light); f.Light != "" && !ok {
			bad.Addf("in_force.light", "is not one of the light plans")
		}
		if f.EveryDays < 1 || f.EveryDays > mostDays {
			bad.Addf("in_force.every_days", "must be between 1 and %d", mostDays)
		}
		if f.LightEvery < 0 || (f.Light != "" && f.LightEvery < 1) {
			bad.Addf("in_force.light_every_days", "must be at least 1")
		}
	}
	sort.Slice(bad, func(i, j int) bool { return bad[i].Path < bad[j].Path })
	return bad.Err()
}

func planOf(plans []Plan, code string) (Plan, bool) {
	for _, p := range plans {
		if p.Code == code {
			return p, true
		}
	}
	return Plan{}, false
}

// Choose finds the program that costs least on average over all that is believed of a coil: which plan, how often, with which light clean
// in between if any, on which days of the year; and the first clean, which may be a deeper one and has its own day: the first on
// which waiting costs more than it saves,
//
//	min over plan b and day t of  ∫₀ᵗ c(now) ds + K_b − c* t + Σ (cost of the next cycles − as settled)
//
// What is in force is priced the same way. The best is proposed where it is cheaper in at least 84 % of belief and by at least 1 %, or where
// what is in force half-blocks the coil and the best does not; otherwise nothing is said to beat what is in force. No program leaves a coil more than half blocked at the end of its interval in
// more than 20 % of belief, where one with a plan can do otherwise. The error is an invalid.Error naming the fields.
func Choose(q ChoiceQuestion) (Choice, error) {
	if err := q.Check(); err != nil {
		return Choice{}, err
	}
	c := newChooser(q)
	out := Choice{Table: c.table()}
	if len(out.Table) == 0 {
		return Choice{}, invalid.Error{{Path: "plans", Reason: "none may be proposed within most_days"}}
	}
	out.Best = out.Table[0]
	if f := q.InForce; f != nil {
		force := c.inForce(*f)
		out.InForce = &force.Kept
		best := c.price(out.Best)
		for i, t := range c.w.truths {
			saves := force.by[i] - best.by[i]
			out.SavesDay += t.weight * saves
			out.SavesSD += t.weight * saves * saves
			if saves > 0 {
				out.BetterShare += t.weight
			}
		}
		out.SavesSD = math.Sqrt(math.Max(0, out.SavesSD-out.SavesDay*out.SavesDay))
		same := out.Best.Plan == f.Plan && out.Best.Light == f.Light && abs(out.Best.EveryDays-f.EveryDays) < Week
		// What half-blocks the coil is not kept where another way does not.
		blocks := force.HalfShare > worstRisk && out.Best.HalfShare <= worstRisk
		out.Change = !same && (blocks || out.BetterShare >= surelyBetter && out.SavesDay > worthChanging*force.CostDay)
	} else {
		out.Change = true
	}
	keep := out.Best
	if out.InForce != nil && !out.Change {
		keep = *out.InForce
	}
	out.First = c.first(keep)
	if len(q.Looks) > 0 {
		out.Looks = c.looks(q.Looks, out.Table)
	}
	return out, nil
}

// mostOverPrice is the highest price of a day over the limit that is tried to hold a share of days; priceHalvings is how often the
// search for the least that does is halved.
const mostOverPrice, priceHalvings = 200.0, 9

// ChooseWithin is Choose at the lowest price of a day over the limit at which the best program is over it on at most a share of days, the
// question's own price where that does already: the shadow price v of
//
//	min C + v·(days over − share)
//
// found by halving its logarithm, to 2 %. Where no price does, up to 200, held is false and the choice that of the highest. The error
// is an invalid.Error naming the fields.
func ChooseWithin(q ChoiceQuestion, share float64) (choice Choice, price float64, held bool, err error) {
	if !(share > 0 && share <= 1) {
		return Choice{}, 0, false, invalid.At("most_over_share", "must be above 0 and at most 1")
	}
	if err := q.Check(); err != nil {
		return Choice{}, 0, false, err
	}
	best := func(v float64) bool {
		at := q
		at.OverPrice = v
		table := newChooser(at).table()
		return len(table) > 0 && table[0].OverShare <= share
	}
	price, held = q.OverPrice, true
	if !best(price) {
		if held = best(mostOverPrice); held {
			// Prices matter by their size, not by their difference.
			_, at := root.Halve(math.Log(math.Max(.01, price)), math.Log(mostOverPrice), priceHalvings, func(at float64) bool { return best(math.Exp(at)) })
			price = math.Exp(at)
		} else {
			price = mostOverPrice
		}
	}
	q.OverPrice = price
	choice, err = Choose(q)
	return choice, price, held, err
}

// Price is what another way of keeping the coil comes to; the question must be one that Choose took.
func Price(q ChoiceQuestion, f Cycle) Kept { return newChooser(q).inForce(f).Kept }

// chooser is a question laid out.
type chooser struct {
	ChoiceQuestion
	w *world
	// even is the same without months.
	even *world
}

// priced is a way of keeping a coil with what it costs a day in each truth.
type priced struct {
	Kept
	by []float64
}

func newChooser(q ChoiceQuestion) chooser {
	if q.MostDays == 0 {
		q.MostDays = usualMostDays
	}
	c := chooser{ChoiceQuestion: q, w: newWorld(worldQuestion{
		economics: q.Economics, fanShare: q.FanShare, load: q.LoadMonths, soil: q.SoilMonths, overPrice: q.OverPrice, limit: q.Limit, anchor: q.AnchorMonth,
	})}
	total := 0.0
	for _, t := range q.Truths {
		total += t.Weight
	}
	whole := 0.0
	for _, a := range q.Areas {
		whole += a
	}
	for _, t := range q.Truths {
		s := settling{weight: t.Weight / total}
		for i, x := range t.Sides {
			area := 1 / float64(len(t.Sides))
			if whole > 0 {
				area = q.Areas[i] / whole
			}
			s.sides = append(s.sides, growing{area: area, face: x.Rate * (1 - x.Penetration) / 30, core: x.Rate * x.Penetration / 30})
			s.now = append(s.now, x.State)
		}
		c.w.truths = append(c.w.truths, s)
	}
	c.w.horizon = q.HorizonDays
	if len(c.w.truths) > mostLooked {
		c.w.few = middling(c.w.truths)
	}
	plain := *c.w
	plain.seasonal, plain.anchor = false, 0
	c.even = &plain
	return c
}

// mostLooked is at how many truths dates and ladders are looked for; what is found is priced on all.
const mostLooked = 5

// pooled is a truth with its sides taken as one, by their areas.
func (t settling) pooled(weight float64) settling {
	one, now := growing{area: 1}, soil.State{}
	for i, g := range t.sides {
		one.face, one.core = one.face+g.area*g.face, one.core+g.area*g.core
		now.Face, now.Core = now.Face+g.area*t.now[i].Face, now.Core+g.area*t.now[i].Core
	}
	return settling{weight, []growing{one}, []soil.State{now}}
}

// middling are a few truths that stand for all where something is looked for, equally likely: from the middle of each part of belief, by
// how fast the core fills, their sides as one. What is found is priced on all.
func middling(all []settling) []settling {
	core := func(t settling) (sum float64) {
		for _, g := range t.sides {
			sum += g.area * g.core
		}
		return sum
	}
	sorted := slices.Clone(all)
	slices.SortStableFunc(sorted, func(a, b settling) int { return cmp.Compare(core(a), core(b)) })
	out := make([]settling, 0, mostLooked)
	gone := 0.0
	for _, t := range sorted {
		gone += t.weight
		for len(out) < mostLooked && gone > (float64(len(out))+.5)/mostLooked-1e-9 {
			out = append(out, t.pooled(1./mostLooked))
		}
	}
	return out
}

// weeksAhead are intervals in whole weeks, each some per cent longer than the one before: how much one costs changes slowly.
func weeksAhead(least, most int) []int {
	var out []int
	for d := max(Week, (least+Week-1)/Week*Week); d <= most; d = max(d+Week, int(float64(d)*1.08)/Week*Week) {
		out = append(out, d)
	}
	if len(out) == 0 {
		out = []int{least}
	}
	return out
}

// table is the best program with each plan, the cheapest first; those that half-block the coil come last.
func (c chooser) table() []Kept {
	var out []Kept
	add := func(k Kept) { out = append(out, c.price(k).Kept) }
	plain, least := map[string]Program{}, math.Inf(1)
	restore := c.even.standFor(c.HorizonDays)
	for _, p := range c.Plans {
		if x, ok := c.even.best(p, c.MostDays, weeksAhead); ok && !p.Barred {
			plain[p.Code] = x
			least = math.Min(least, x.CostDay)
		}
	}
	restore()
	for _, p := range c.Plans {
		x, ok := plain[p.Code]
		if ok {
			if c.w.seasonal && x.CostDay <= worthDating*least {
				x = c.inSeason(p, x)
			}
			add(c.within(p, Kept{Program: x}))
		}
		for _, l := range c.LightPlans {
			if x, ok := c.bestLadder(p, l); ok && !p.Barred {
				add(x)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Kept) int {
		if ha, hb := a.HalfShare > worstRisk, b.HalfShare > worstRisk; ha != hb {
			if ha {
				return 1
			}
			return -1
		}
		return cmp.Compare(a.CostDay, b.CostDay)
	})
	return out
}

// inSeason turns the best interval with a plan in an even year into the best with its months: as many dated cleans a year, or a few more
// or less, or an undated interval about as long.
func (c chooser) inSeason(p Plan, plain Program) Program {
	defer c.w.standFor(0)()
	best, cost := plain, math.Inf(1)
	take := func(x Program) {
		if x.CostDay < cost {
			best, cost = x, x.CostDay
		}
	}
	most := c.MostDays
	if p.MostDays > 0 {
		most = min(most, p.MostDays)
	}
	least := max(1, p.LeastDays)
	for _, d := range []int{plain.EveryDays - Week, plain.EveryDays, plain.EveryDays + Week} {
		if d = max(d, Week); d < datedFrom && d >= least && d <= most {
			take(c.w.every(p, d))
		}
	}
	if plain.EveryDays < datedFrom-2*Week {
		return best
	}
	a := max(1, usualYear/plain.EveryDays)
	for n := a; n <= min(a+1, mostDated); n++ {
		if n == 1 {
			if usualYear >= least && usualYear <= most {
				take(c.w.dated(p, 1, c.w.bestDay(p, 1)))
			}
		} else if days := c.w.bestDays(p, n, least, most); days != nil {
			take(c.w.dated(p, 1, days))
		}
	}
	for years := 2; years*usualYear <= most && years <= plain.EveryDays/usualYear+1; years++ {
		take(c.w.dated(p, years, c.w.bestDay(p, years)))
	}
	return best
}

// worthDating is how many times the least cost of an even year a plan may cost for its dates to be looked for.
const worthDating = 1.3

// within shortens an undated interval until it is not half blocked at its end in more than the risk, where that can be done.
func (c chooser) within(p Plan, k Kept) Kept {
	if k.Days != nil || c.half(k) <= worstRisk {
		return k
	}
	for d := k.EveryDays - Week; d >= max(Week, p.LeastDays); d -= Week {
		if s := (Kept{Program: Program{Plan: p.Code, EveryDays: d}}); c.half(s) <= worstRisk {
			return s
		}
	}
	return k
}

// half is the share of belief in which the coil's worst side is more than half blocked at the end of an interval, once settled.
func (c chooser) half(k Kept) (share float64) {
	bound := soil.Load(worstBlocked)
	deep, _ := planOf(c.Plans, k.Plan)
	light, laddered := planOf(c.LightPlans, k.Light)
	days, n := k.EveryDays, 1
	if laddered && k.LightEvery > 0 {
		days, n = k.LightEvery, max(1, k.EveryDays/k.LightEvery)
	}
	tau := float64(days) * c.FanShare
	for _, t := range c.w.truths {
		for i, g := range t.sides {
			at := g.settledCycle(deep.Removal, light.Removal, tau, n)
			if c.HorizonDays > 0 {
				at = t.now[i].Clean(deep.Removal)
				for range max(1, c.HorizonDays/k.EveryDays) - 1 {
					at = g.cycled(at, deep.Removal, light.Removal, tau, n)
				}
			}
			if g.peak(at, light.Removal, tau, n) > bound {
				share += t.weight
				break
			}
		}
	}
	return share
}

// peak is the most soil on a side in a cycle of n cleans, the last of them deep.
func (g growing) peak(at soil.State, light soil.Removal, tau float64, n int) (most float64) {
	for k := 1; k <= n; k++ {
		at = g.after(at, tau)
		most = math.Max(most, at.Total())
		at = at.Clean(light)
	}
	return most
}

// settledCycle is the state just after the deep clean of an endless cycle of n cleans.
func (g growing) settledCycle(deep, light soil.Removal, tau float64, n int) soil.State {
	if n == 1 {
		return g.settled(deep, tau)
	}
	return fixedPoint(func(s soil.State) soil.State { return g.cycled(s, deep, light, tau, n) })
}

// cycled is a state after a cycle of n cleans, the last of them deep.
func (g growing) cycled(s soil.State, deep, light soil.Removal, tau float64, n int) soil.State {
	for range n - 1 {
		s = g.after(s, tau).Clean(light)
	}
	return g.after(s, tau).Clean(deep)
}

// ladders tried: light intervals in days, and how many cleans a cycle has together.
var (
	lightEvery = []int{7, 14, 28, 42, 56, 84}
	rungs      = []int{2, 3, 4, 6, 8, 12}
)

// bestLadder is the cheapest cycle of a plan with a light one in between, looked for at a few truths and priced on all.
func (c chooser) bestLadder(p, l Plan) (Kept, bool) {
	looked := c.w.few
	if looked == nil {
		looked = c.w.truths
	}
	// The cheapest of all, and of those that do not half-block the coil, which comes first.
	var best, holding Kept
	least, held := math.Inf(1), math.Inf(1)
	for _, a := range lightEvery {
		for _, n := range c.rungs(a) {
			d := a * n
			if d > c.MostDays || d < p.LeastDays || (p.MostDays > 0 && d > p.MostDays) || (l.MostDays > 0 && a > l.MostDays) {
				continue
			}
			cost := (p.Cost + float64(n-1)*l.Cost) / float64(d)
			for _, t := range looked {
				if cost >= held {
					break
				}
				m := c.w.cycle(t, p.Removal, l.Removal, a, n)
				cost += t.weight * (m.energy + m.calls + c.OverPrice*m.over) / float64(d)
			}
			k := Kept{Program: Program{Plan: p.Code, EveryDays: d}, Light: l.Code, LightEvery: a}
			if cost < least {
				best, least = k, cost
			}
			if cost < held && c.half(k) <= worstRisk {
				holding, held = k, cost
			}
		}
	}
	if !math.IsInf(held, 1) {
		return holding, true
	}
	return best, !math.IsInf(least, 1)
}

// rungs are how many cleans a ladder of a light clean every so many days may have; where a month is asked for, those from 120 days up bring
// the deep clean round in one year or two.
func (c chooser) rungs(a int) []int {
	if c.AnchorMonth == 0 {
		return rungs
	}
	var out []int
	for _, n := range rungs {
		if a*n < datedFrom {
			out = append(out, n)
		}
	}
	for years := 1; years <= 2; years++ {
		out = append(out, max(2, int(math.Round(float64(years*usualYear)/float64(a)))))
	}
	return out
}

// cycle is the money of one cycle of n cleans, a days apart, the last of them deep, once settled. Months are left out of it: light cleans
// go on all year round.
func (w *world) cycle(t settling, deep, light soil.Removal, a, n int) money {
	tau := float64(a) * w.fan
	var state [8]soil.State
	at := state[:0]
	one := func(at []soil.State) (sum money) {
		for k := 1; k <= n; k++ {
			sum.add(w.stretch(t, at, float64(a), w.fan, 1), 1)
			if k < n {
				t.step(at, tau, light)
			} else {
				t.step(at, tau, deep)
			}
		}
		return sum
	}
	if w.horizon > 0 {
		at = t.begun(at, deep)
		return overCycles(w.cycles(a*n), func() money { return one(at) }, func() {
			for i, g := range t.sides {
				at[i] = g.cycled(at[i], deep, light, tau, n)
			}
		})
	}
	for _, g := range t.sides {
		at = append(at, g.settledCycle(deep, light, tau, n))
	}
	sum := one(at)
	return sum
}

// price is what a way of keeping the coil costs in each truth, and on average.
func (c chooser) price(k Kept) priced {
	p, _ := planOf(c.Plans, k.Plan)
	l, laddered := planOf(c.LightPlans, k.Light)
	out := priced{Kept: k, by: make([]float64, len(c.w.truths))}
	var sum Program
	all := c.w.truths
	for i, t := range all {
		c.w.truths = []settling{{1, t.sides, t.now}}
		var x Program
		switch {
		case laddered && k.LightEvery > 0 && k.EveryDays > k.LightEvery:
			n := max(2, int(math.Round(float64(k.EveryDays)/float64(k.LightEvery))))
			m := c.w.cycle(t, p.Removal, l.Removal, k.LightEvery, n)
			days := float64(n * k.LightEvery)
			x = c.w.program(p, m, days, 1)
			light := float64(n-1) * l.Cost / days
			x.CleanDay += light
			x.CostDay += light
		case k.Days != nil:
			x = c.w.dated(p, max(1, k.EveryDays/usualYear), k.Days)
		default:
			x = c.w.every(p, k.EveryDays)
		}
		out.by[i] = x.CostDay
		sum.CostDay += t.weight * x.CostDay
		sum.CleanDay += t.weight * x.CleanDay
		sum.EnergyDay += t.weight * x.EnergyDay
		sum.CallsDay += t.weight * x.CallsDay
		sum.OverDay += t.weight * x.OverDay
		sum.OverShare += t.weight * x.OverShare
	}
	c.w.truths = all
	sum.Plan, sum.EveryDays, sum.Days = k.Plan, k.EveryDays, k.Days
	out.Program = sum
	out.HalfShare = c.half(k)
	return out
}

func (c chooser) inForce(f Cycle) priced {
	return c.price(Kept{Program: Program{Plan: f.Plan, EveryDays: f.EveryDays}, Light: f.Light, LightEvery: f.LightEvery})
}

// first is the next clean: which plan, and when.
func (c chooser) first(keep Kept) FirstClean {
	own, _ := planOf(c.Plans, keep.Plan)
	most := keep.EveryDays
	if c.MostNow > 0 {
		most = min(most, c.MostNow)
	}
	defer c.w.standFor(c.HorizonDays)()
	best := FirstClean{Plan: own.Code, InDays: most}
	least, usual := math.Inf(1), math.Inf(1)
	for _, b := range c.Plans {
		if b.Barred && b.Code != own.Code {
			continue
		}
		days := waits(most)
		if b.Code == own.Code {
			days = c.firstDays(keep, most)
		}
		for _, t := range days {
			cost := c.transition(keep, own, b, t)
			if b.Code == own.Code {
				usual = math.Min(usual, cost)
			}
			if b.Code != own.Code {
				cost += worthBringing * b.Cost // it has to pay for itself, not just to be as good
			}
			if cost < least-1e-9 {
				least = cost
				best = FirstClean{Plan: b.Code, InDays: t, BringsDown: b.Code != own.Code}
			}
		}
	}
	if best.BringsDown {
		best.Saves = usual - least
	}
	return best
}

// firstDays are the days until a first clean that a program's own plan is looked at for: now, and the program's days of the year or the middle
// of the month that is asked for; any where there is neither, or none in time.
func (c chooser) firstDays(keep Kept, most int) []int {
	days := keep.Days
	if days == nil && c.AnchorMonth > 0 && keep.EveryDays >= datedFrom {
		from, to := c.w.anchorDays()
		days = []int{(from + to) / 2}
	}
	out := []int{0}
	for _, d := range days {
		for t := ((d-c.DayOfYear)%usualYear + usualYear) % usualYear; t <= most; t += usualYear {
			out = append(out, t)
		}
	}
	if len(out) == 1 {
		return waits(most)
	}
	return out
}

// worthBringing is the share of its cost that a first clean with another plan has to save (assumption).
const worthBringing = .1

// waits are the days until a first clean that are looked at, today first.
func waits(most int) []int {
	out := []int{0}
	for d := Week; d < most; d += max(Week, d/4/Week*Week) {
		out = append(out, d)
	}
	if most > 0 {
		out = append(out, most)
	}
	return out
}

// transition is what a first clean with a plan after some days costs more than if the coil were settled already.
func (c chooser) transition(keep Kept, own, b Plan, days int) float64 {
	total := b.Cost - own.Cost
	for i, t := range c.w.truths {
		total += t.weight * c.unsettled(i, keep, own, b, days)
	}
	return total
}

// unsettled is what soil costs in a truth until a first clean and over the next intervals, beyond what a way of keeping the coil costs on
// average in soil and, until the first clean, in all.
func (c chooser) unsettled(i int, keep Kept, own, b Plan, days int) float64 {
	t := c.w.truths[i]
	settled := keep.EnergyDay + keep.CallsDay + keep.OverDay
	var state [8]soil.State
	at := append(state[:0], c.w.truths[i].now...)
	soils := func(from, n int) float64 {
		m := c.stretchFrom(t, at, from, n)
		for k, g := range t.sides {
			at[k] = g.after(at[k], c.grown(from, n))
		}
		return m.energy + m.calls + c.OverPrice*m.over
	}
	cost := 0.0
	if days > 0 {
		cost = soils(0, days) - (settled+keep.CleanDay)*float64(days)
	}
	removal := b.Removal
	for range followed {
		for k := range at {
			at[k] = at[k].Clean(removal)
		}
		cost += soils(days, keep.EveryDays) - settled*float64(keep.EveryDays)
		removal = own.Removal
	}
	return cost
}

// stretchFrom is the money of n days that begin some days from today.
func (c chooser) stretchFrom(t settling, at []soil.State, from, n int) money {
	if !c.w.seasonal {
		return c.w.stretch(t, at, float64(n), c.FanShare, 1)
	}
	return c.w.span(t, at, (c.DayOfYear+from)%usualYear, n)
}

func (c chooser) grown(from, n int) float64 {
	if !c.w.seasonal {
		return float64(n) * c.FanShare
	}
	return c.w.exposure((c.DayOfYear+from)%usualYear, n)
}
