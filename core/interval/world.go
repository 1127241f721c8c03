package interval

import (
	"math"
	"slices"

	"nextround/core/heat"
	"nextround/core/soil"
)

// world is what is believed of a coil, as weighted truths, with what its soil costs: it is asked what a plan done every so many days,
// or on days of the year, comes to once the soil has settled.
type world struct {
	energy, calls, energySum, callsSum *heat.CostTable
	truths                             []settling
	limit, overPrice                   float64 // limit as a load
	seasonal                           bool
	anchor                             int // month that a clean should fall into, from 1; 0 is none
	// load and exposed are w and the exposure, up to each day of two years of 365 days; change holds the first days of months.
	load, exposed []float64
	fan           float64
	change        []int
	// few are truths that stand for all where dates are looked for, which takes long; nil where all do.
	few []settling
	// horizon is over how many days from today a way of keeping a coil is priced, begun with a clean; 0 is for ever, once settled.
	horizon int
}

type worldQuestion struct {
	economics        heat.Economics
	fanShare         float64
	load, soil       *soil.MonthWeights
	overPrice, limit float64
	anchor           int
}

// settling is one truth: its weight, the growth of face and core a day of exposure on each side, and the soil on each today.
type settling struct {
	weight float64
	sides  []growing
	now    []soil.State
}

type growing struct{ area, face, core float64 }

var monthDays = [12]int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}

func even(m *soil.MonthWeights) bool {
	return m == nil || slices.Max(m[:])-slices.Min(m[:]) < 1e-12
}

func newWorld(q worldQuestion) *world {
	if q.limit == 0 {
		q.limit = DefaultLimit
	}
	w := &world{limit: soil.Load(q.limit), overPrice: q.overPrice, fan: q.fanShare, anchor: q.anchor, seasonal: !even(q.load) || !even(q.soil) || q.anchor > 0}
	w.energy, w.calls = q.economics.Tables()
	w.energySum, w.callsSum = w.energy.Summed(), w.calls.Summed()
	if !w.seasonal {
		return w
	}
	load, come := overTheYear(q.load), overTheYear(q.soil)
	w.exposed = append(w.exposed, 0)
	for range 2 {
		for m, days := range monthDays {
			w.change = append(w.change, len(w.load))
			for range days {
				w.load = append(w.load, load[m])
				w.exposed = append(w.exposed, w.exposed[len(w.exposed)-1]+come[m]*q.fanShare)
			}
		}
	}
	w.change = append(w.change, len(w.load))
	return w
}

// overTheYear are month weights brought to mean 1 over the days of a year, so that a year has the exposure of a year.
func overTheYear(m *soil.MonthWeights) soil.MonthWeights {
	if m == nil {
		return soil.Even
	}
	sum, out := 0.0, *m
	for i, w := range out {
		sum += w * float64(monthDays[i])
	}
	for i := range out {
		out[i] *= year / sum
	}
	return out
}

// sides of a coil at known rates: one truth.
func (w *world) sides(sides []LadderSide) {
	t := settling{weight: 1}
	whole := 0.0
	for _, s := range sides {
		whole += s.AreaShare
	}
	for _, s := range sides {
		area := 1 / float64(len(sides))
		if whole > 0 {
			area = s.AreaShare / whole
		}
		t.sides = append(t.sides, growing{area: area, face: s.Rate * (1 - s.Penetration) / 30, core: s.Rate * s.Penetration / 30})
	}
	w.truths = append(w.truths, t)
}

// money is what some days cost, in each kind, and the days over the limit.
type money struct{ energy, calls, over float64 }

func (m *money) add(x money, weight float64) {
	m.energy += weight * x.energy
	m.calls += weight * x.calls
	m.over += weight * x.over
}

// program is what a plan costs a day when so much was spent on average over a cycle of some days with some cleans.
func (w *world) program(p Plan, m money, days, cleans float64) Program {
	out := Program{
		Plan: p.Code, CleanDay: p.Cost * cleans / days, EnergyDay: m.energy / days, CallsDay: m.calls / days, OverShare: m.over / days,
	}
	out.OverDay = w.overPrice * out.OverShare
	out.CostDay = out.CleanDay + out.EnergyDay + out.CallsDay + out.OverDay
	return out
}

// every is a plan done every so many days all year round.
func (w *world) every(p Plan, days int) Program {
	var sum money
	cleans := 1
	var state [8]soil.State
	for _, t := range w.truths {
		at := state[:0]
		if !w.seasonal {
			tau := float64(days) * w.fan
			if w.horizon > 0 {
				at = t.begun(at, p.Removal)
				pass := func() { t.step(at, tau, p.Removal) }
				sum.add(overCycles(w.cycles(days), func() money {
					defer pass()
					return w.stretch(t, at, float64(days), w.fan, 1)
				}, pass), t.weight)
				continue
			}
			for _, g := range t.sides {
				at = append(at, g.settled(p.Removal, tau))
			}
			sum.add(w.stretch(t, at, float64(days), w.fan, 1), t.weight)
			continue
		}
		// Against the year every phase comes up once in as many cleans as the two lengths need to meet again.
		if w.few != nil {
			cleans = fewPhases
			sum.add(w.somePhases(t, p.Removal, days), t.weight)
			continue
		}
		cleans = usualYear / gcd(days, usualYear)
		sum.add(w.phases(t, p.Removal, days, cleans), t.weight)
	}
	out := w.program(p, sum, float64(days*cleans), float64(cleans))
	out.EveryDays = days
	return out
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// step lets the soil of a truth grow over an exposure, and be cleaned.
func (t settling) step(at []soil.State, tau float64, r soil.Removal) {
	for i, g := range t.sides {
		at[i] = g.after(at[i], tau).Clean(r)
	}
}

// begun is the state of a truth just after a clean today, put at the end of a list.
func (t settling) begun(at []soil.State, r soil.Removal) []soil.State {
	for _, s := range t.now {
		at = append(at, s.Clean(r))
	}
	return at
}

// overCycles is the money of a cycle on average over n of them, one after the other: the first, the middle and the last are priced
// (Simpson's rule: the soil settles smoothly), the others only passed.
func overCycles(n int, priced func() money, passed func()) (sum money) {
	for k := range n {
		switch {
		case n < 3:
			sum.add(priced(), 1/float64(n))
		case k == 0, k == n-1:
			sum.add(priced(), 1./6)
		case k == n/2:
			sum.add(priced(), 4./6)
		default:
			passed()
		}
	}
	return sum
}

// cycles is how many cycles of some days the horizon has.
func (w *world) cycles(days int) int { return max(1, (w.horizon+days/2)/days) }

// settled is the state just after a clean once every exposure τ is followed by one.
func (g growing) settled(r soil.Removal, tau float64) soil.State {
	face, core := g.face*tau, g.core*tau
	var s soil.State
	if r.Face > 0 {
		s.Face = face * (1 - r.Face) / r.Face
	} else if face > 0 {
		s.Face = neverLoad
	}
	packed := r.Packing * r.Face * (s.Face + face)
	if r.Core > 0 {
		s.Core = (core*(1-r.Core) + packed) / r.Core
	} else if core+packed > 0 {
		s.Core = neverLoad
	}
	return soil.State{Face: math.Min(neverLoad, s.Face), Core: math.Min(neverLoad, s.Core)}
}

// phases is the money of so many intervals of some days, one after the other from the first day of a year, once settled.
func (w *world) phases(t settling, r soil.Removal, days, cleans int) money {
	at := make([]soil.State, len(t.sides))
	for i, g := range t.sides {
		at[i] = fixedPoint(func(s soil.State) soil.State {
			for k := range cleans {
				s = g.after(s, w.exposure(k*days%usualYear, days)).Clean(r)
			}
			return s
		})
	}
	var sum money
	for k := range cleans {
		day := k * days % usualYear
		sum.add(w.span(t, at, day, days), 1)
		t.step(at, w.exposure(day, days), r)
	}
	return sum
}

// fewPhases is how many phases of an interval against the year stand for all where that is near enough, and warmed how many intervals
// before are followed to know the soil it begins with.
const (
	fewPhases = 6
	warmed    = 2
)

// somePhases is the money of intervals that begin on a few days spread over the year.
func (w *world) somePhases(t settling, r soil.Removal, days int) money {
	var sum money
	var state [8]soil.State
	for k := range fewPhases {
		day := k * usualYear / fewPhases
		at := state[:0]
		for i, g := range t.sides {
			s := g.settled(r, float64(days)*w.fan)
			if w.horizon > 0 {
				// As it is half-way through the horizon.
				s = t.now[i].Clean(r)
				for range w.cycles(days) / 2 {
					s = g.after(s, float64(days)*w.fan).Clean(r)
				}
			}
			for back := warmed; back > 0; back-- {
				from := ((day-back*days)%usualYear + usualYear) % usualYear
				s = g.after(s, w.exposure(from, days)).Clean(r)
			}
			at = append(at, s)
		}
		sum.add(w.span(t, at, day, days), 1)
	}
	return sum
}

// after is a state after an exposure.
func (g growing) after(s soil.State, tau float64) soil.State {
	return soil.State{Face: s.Face + g.face*tau, Core: s.Core + g.core*tau}
}

// exposure of some days from a day of the year on.
func (w *world) exposure(from, days int) float64 {
	whole := days / usualYear
	rest := days % usualYear
	return float64(whole)*w.exposed[usualYear] + w.exposed[from+rest] - w.exposed[from]
}

// span is the money of some days from a day of the year on, months and all. Soil starts at a state of each side.
func (w *world) span(t settling, at []soil.State, from, days int) (sum money) {
	var now [8]soil.State
	state := append(now[:0], at...)
	day := from
	for left := days; left > 0; {
		next := w.change[monthAfter(day)]
		n := min(left, next-day)
		come := w.exposed[day+1] - w.exposed[day]
		sum.add(w.stretch(t, state, float64(n), come, w.load[day]), 1)
		for i, g := range t.sides {
			state[i].Face += g.face * come * float64(n)
			state[i].Core += g.core * come * float64(n)
		}
		left -= n
		if day += n; day >= usualYear {
			day -= usualYear
		}
	}
	return sum
}

// monthAfter is the place of the first month to begin after a day of the year.
func monthAfter(day int) int {
	m, end := 0, 0
	for ; m < 12; m++ {
		if end += monthDays[m]; day < end {
			return m + 1
		}
	}
	return 12
}

// stretch is the money of some days on which so much exposure comes each and the load on the unit weighs the same.
func (w *world) stretch(t settling, at []soil.State, days, come, weight float64) money {
	if len(t.sides) > 1 {
		return w.several(t, at, days, come, weight)
	}
	from := at[0].Total()
	grow := (t.sides[0].face + t.sides[0].core) * come
	to := from + grow*days
	out := money{over: daysOver(from, grow, days, w.limit)}
	if grow*days < 1e-9 {
		out.energy, out.calls = days*weight*w.energy.Day(from), days*w.calls.Day(from)
		return out
	}
	out.energy = weight * (w.energy.Upto(w.energySum, to) - w.energy.Upto(w.energySum, from)) / grow
	out.calls = (w.calls.Upto(w.callsSum, to) - w.calls.Upto(w.callsSum, from)) / grow
	return out
}

// daysOver is how many of some days a load that grows is over a limit.
func daysOver(from, grow, days, limit float64) float64 {
	switch {
	case from > limit:
		return days
	case from+grow*days <= limit:
		return 0
	}
	return days - (limit-from)/grow
}

// several is stretch for a coil of several sides, parallel paths for the air, by Simpson's rule; the worst side is over the limit first.
func (w *world) several(t settling, at []soil.State, days, come, weight float64) money {
	var out money
	for i, g := range t.sides {
		out.over = math.Max(out.over, daysOver(at[i].Total(), (g.face+g.core)*come, days, w.limit))
	}
	parts := sideParts
	switch {
	case days <= 31:
		parts = 2
	case days <= 92:
		parts = 4
	}
	for n := 0; n <= parts; n++ {
		part := 2.0
		switch {
		case n == 0 || n == parts:
			part = 1
		case n%2 == 1:
			part = 4
		}
		gone := days * float64(n) / float64(parts) * come
		free := 0.0
		for i, g := range t.sides {
			free += g.area * freeShare(at[i].Total()+(g.face+g.core)*gone)
		}
		load := loadOfFree(free)
		out.energy += part * w.energy.Day(load)
		out.calls += part * w.calls.Day(load)
	}
	out.energy *= weight * days / float64(3*parts)
	out.calls *= days / float64(3*parts)
	return out
}

// The free share e^(−L) of a load and its inverse, tabulated; linear between the points, good to 1e-5.
const (
	freeStep  = 1. / 256
	mostFree  = 16
	freeParts = 4096
)

var freeOf, loadOf = func() (free [mostFree/freeStep + 2]float64, load [freeParts + 2]float64) {
	for i := range free {
		free[i] = math.Exp(-float64(i) * freeStep)
	}
	for i := range load {
		load[i] = math.Min(mostFree, -math.Log(math.Max(1e-7, float64(i)/freeParts)))
	}
	return free, load
}()

func freeShare(load float64) float64 {
	at := load / freeStep
	if at >= mostFree/freeStep {
		return 0
	}
	i := int(at)
	return freeOf[i] + (freeOf[i+1]-freeOf[i])*(at-float64(i))
}

func loadOfFree(free float64) float64 {
	at := free * freeParts
	i := int(at)
	return loadOf[i] + (loadOf[i+1]-loadOf[i])*(at-float64(i))
}

// dated is a plan done on days of the year: each of them every year, or one of them every so many years.
func (w *world) dated(p Plan, years int, days []int) Program {
	period := years * usualYear
	var sum money
	for _, t := range w.truths {
		at := make([]soil.State, len(t.sides))
		for i, g := range t.sides {
			at[i] = fixedPoint(func(s soil.State) soil.State {
				for k := range days {
					s = g.after(s, w.exposure(days[k], gap(days, k, period))).Clean(p.Removal)
				}
				return s
			})
		}
		rounds := 1
		if w.horizon > 0 {
			rounds = max(1, w.horizon/period)
			at = t.begun(at[:0], p.Removal)
		}
		for range rounds {
			for k := range days {
				n := gap(days, k, period)
				sum.add(w.span(t, at, days[k], n), t.weight/float64(rounds))
				t.step(at, w.exposure(days[k], n), p.Removal)
			}
		}
	}
	out := w.program(p, sum, float64(period), float64(len(days)))
	out.EveryDays = int(math.Round(float64(period) / float64(len(days))))
	out.Days = days
	return out
}

// gap is the number of days from the k-th of some days of the year to the next, within a period.
func gap(days []int, k, period int) int {
	if k+1 < len(days) {
		return days[k+1] - days[k]
	}
	return days[0] + period - days[k]
}

// anchored reports whether one of some days of the year falls into the month that is asked for; any where none is.
func (w *world) anchored(days []int) bool {
	if w.anchor == 0 {
		return true
	}
	from, to := w.anchorDays()
	return slices.ContainsFunc(days, func(d int) bool { return d >= from && d < to })
}

// anchorDays are the days of the month that is asked for, from one up to another; all of the year where none is.
func (w *world) anchorDays() (from, to int) {
	if w.anchor == 0 {
		return 0, usualYear
	}
	for m := range w.anchor - 1 {
		from += monthDays[m]
	}
	return from, from + monthDays[w.anchor-1]
}

// bestDay is the day of the year to do a plan on once in so many years.
func (w *world) bestDay(p Plan, years int) []int {
	defer w.standFor(0)()
	step := 1
	if w.few != nil {
		step = Week
	}
	from, to := w.anchorDays()
	best, least := (from+to)/2, math.Inf(1)
	if w.anchor > 0 {
		least = w.dated(p, years, []int{best}).CostDay // the middle of the month, where no other day is better
	}
	for d := from; d < to; d += step {
		if c := w.dated(p, years, []int{d}).CostDay; c < least-1e-12 {
			best, least = d, c
		}
	}
	return []int{best}
}

// standFor lets a few truths stand for all until what it gives is called, over a horizon.
func (w *world) standFor(days int) (restore func()) {
	all, horizon := w.truths, w.horizon
	if w.few != nil {
		w.truths, w.horizon = w.few, days
	}
	return func() { w.truths, w.horizon = all, horizon }
}

// bestDays are the n days of the year to do a plan on, none further apart than most nor nearer than least: a coarse search of all of them,
// then each moved a day at a time while that helps. nil where there are none.
func (w *world) bestDays(p Plan, n, least, most int) []int {
	if n*least > usualYear || n*most < usualYear {
		return nil
	}
	defer w.standFor(0)()
	step := coarsePairs
	if n > 2 {
		step = coarseThree
	}
	if w.few != nil {
		step *= roughly
	}
	allowed := func(days []int) bool {
		if !w.anchored(days) {
			return false
		}
		for k := range days {
			if g := gap(days, k, usualYear); g < max(least, 1) || g > most {
				return false
			}
		}
		return true
	}
	var best []int
	cost := math.Inf(1)
	var try func(days []int) bool
	try = func(days []int) bool {
		if !allowed(days) {
			return false
		}
		c := w.dated(p, 1, days).CostDay
		if c < cost-1e-12 {
			best, cost = slices.Clone(days), c
			return true
		}
		return false
	}
	days := make([]int, n)
	var choose func(k, from int)
	choose = func(k, from int) {
		if k == n {
			try(days)
			return
		}
		for d := from; d < usualYear; d += step {
			days[k] = d
			choose(k+1, d+step)
		}
	}
	if w.anchor == 0 {
		choose(0, 0)
	} else {
		// One of them in the middle of the month, the others round the year from there.
		from, to := w.anchorDays()
		mid := (from + to) / 2
		turned := try
		try = func(days []int) bool {
			at := make([]int, len(days))
			for k, d := range days {
				at[k] = (d + mid) % usualYear
			}
			slices.Sort(at)
			return turned(at)
		}
		choose(1, step)
		try = turned
	}
	for width := step; width >= 1 && best != nil; {
		moved := false
		for k := range n {
			for _, by := range []int{-width, width} {
				moved = try(around(best, k, by)) || moved
			}
		}
		if !moved {
			width /= 2
		}
	}
	return best
}

// around moves one of some days of the year, keeping them in order.
func around(days []int, k, by int) []int {
	out := slices.Clone(days)
	out[k] = ((out[k]+by)%usualYear + usualYear) % usualYear
	slices.Sort(out)
	return out
}
