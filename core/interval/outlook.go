package interval

import (
	"math"
	"sort"
	"strconv"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/learn"
	"nextround/core/normal"
	"nextround/core/root"
	"nextround/core/soil"
)

// Defaults of an outlook (assumption).
const (
	DefaultRisk = .20
	// Scatter is the spread of a side's own soiling from one interval to the next, on ln load.
	Scatter = learn.ProcessSigma
	// Bins is how many equally likely rates a belief is condensed into.
	Bins = 40
	// worstBlocked and worstRisk bound the least cost however cheap the soil is.
	worstBlocked = .50
	worstRisk    = .20
	mostDays     = 3650
	year         = 365.0
)

// Belief is what is believed of one side: equally likely rates, and the load each leaves behind after a clean.
type Belief struct {
	Name string `json:"name"`
	// AreaShare of the coil's face; sides are parallel paths. 0 means an equal share.
	AreaShare float64 `json:"area_share,omitempty"`
	// Rates λ in load per 30 exposure-days, in rising order; each is as likely as the others.
	Rates []float64 `json:"rates"`
	// Starts are the loads after the clean, one to a rate; left out, 0.
	Starts []float64 `json:"starts,omitempty"`
	// Findings that taught the rate, and whether peers did where there are none.
	Findings int  `json:"findings"`
	Peers    bool `json:"peers,omitempty"`
}

// Condense turns the cells of a learned rate into equally likely rates with the load they lead to; start gives the load of
// a cell after the clean.
func Condense(cells []learn.Cell, bins int, start func(learn.Cell) float64) (rates, starts []float64) {
	return CondenseBy(cells, bins, func(c learn.Cell) float64 { return c.Rate }, start)
}

// CondenseBy is Condense of another rate than that of the whole load, such as the core's λp: rate gives that of a cell, above 0, so
// that the spread of the share that goes into the core is carried on.
func CondenseBy(cells []learn.Cell, bins int, rate, start func(learn.Cell) float64) (rates, starts []float64) {
	sorted := append([]learn.Cell{}, cells...)
	sort.SliceStable(sorted, func(i, j int) bool { return rate(sorted[i]) < rate(sorted[j]) })
	total := 0.0
	for _, c := range sorted {
		total += c.Weight
	}
	each := total / float64(bins)
	rates, starts = make([]float64, 0, bins), make([]float64, 0, bins)
	filled, logs, loads := 0.0, 0.0, 0.0
	for _, c := range sorted {
		for weight := c.Weight; weight > 0; {
			take := math.Min(weight, each-filled)
			logs += take * math.Log(rate(c))
			loads += take * start(c)
			weight -= take
			if filled += take; filled >= each*(1-1e-9) && len(rates) < bins {
				rates, starts = append(rates, math.Exp(logs/filled)), append(starts, loads/filled)
				filled, logs, loads = 0, 0, 0
			} else if take <= 0 {
				break
			}
		}
	}
	if filled > each/2 && len(rates) < bins {
		rates, starts = append(rates, math.Exp(logs/filled)), append(starts, loads/filled)
	}
	return rates, starts
}

// Outlook is what lies ahead of a coil after its next clean, and what it costs.
type Outlook struct {
	Sides []Belief `json:"sides"`
	// From is the day of the clean; left out, the months do not matter.
	From     *calendar.Day     `json:"from,omitempty"`
	Months   soil.MonthWeights `json:"month_weights"`
	FanShare float64           `json:"fan_share"`
	// LoadMonths weigh the energy by the month the unit works in, mean 1; left out even. They need From.
	LoadMonths *soil.MonthWeights `json:"load_months,omitempty"`
	// Limit is the blocked share the organisation allows, Risk the probability it may be passed with; 0 means the defaults.
	Limit float64 `json:"limit_share,omitempty"`
	Risk  float64 `json:"risk_share,omitempty"`
	// Scatter σ of η, left out the usual; 0 where the rate is exactly known.
	Scatter *float64 `json:"scatter,omitempty"`
	// Economics of the soil; CleanCost of one clean on site, travel apart.
	Economics heat.Economics `json:"economics"`
	CleanCost float64        `json:"clean_cost"`
	// OverPrice v is what the organisation pays to avoid a day over its limit; left out, heat.DefaultOverPrice.
	OverPrice *float64 `json:"over_price,omitempty"`
	// MostDays bounds the search; 0 means ten years.
	MostDays int `json:"most_days,omitempty"`
}

// Check lists every field that cannot be used.
func (o Outlook) Check() error {
	var bad invalid.Error
	if len(o.Sides) == 0 {
		bad.Addf("sides", "at least one is needed")
	}
	for i, s := range o.Sides {
		at := "sides[" + strconv.Itoa(i) + "]."
		if len(s.Rates) == 0 {
			bad.Addf(at+"rates", "at least one is needed")
		}
		if len(s.Starts) != 0 && len(s.Starts) != len(s.Rates) {
			bad.Addf(at+"starts", "must be one to a rate, or left out")
		}
		for k, r := range s.Rates {
			if !(r > 0) || math.IsInf(r, 1) {
				bad.Addf(at+"rates["+strconv.Itoa(k)+"]", "must be above 0")
			}
			if k < len(s.Starts) && (!(s.Starts[k] >= 0) || math.IsInf(s.Starts[k], 1)) {
				bad.Addf(at+"starts["+strconv.Itoa(k)+"]", "must be 0 or more")
			}
		}
		if !(s.AreaShare >= 0 && s.AreaShare <= 1) {
			bad.Addf(at+"area_share", "must be between 0 and 1")
		}
		if s.Findings < 0 {
			bad.Addf(at+"findings", "must be 0 or more")
		}
	}
	shares := map[string]float64{"limit_share": o.Limit, "risk_share": o.Risk}
	for name, v := range shares {
		if v != 0 && !(v > 0 && v < 1) {
			bad.Addf(name, "must be between 0 and 1")
		}
	}
	if !(o.FanShare > 0 && o.FanShare <= 1) {
		bad.Addf("fan_share", "must be above 0 and at most 1")
	}
	for m, w := range o.Months {
		if !(w >= 0) || math.IsInf(w, 1) {
			bad.Addf("month_weights["+strconv.Itoa(m)+"]", "must be 0 or more")
		}
	}
	checkMonths(&bad, "load_months", o.LoadMonths)
	if o.Scatter != nil && !(*o.Scatter >= 0 && *o.Scatter <= 2) {
		bad.Addf("scatter", "must be between 0 and 2")
	}
	if !(o.CleanCost > 0) || math.IsInf(o.CleanCost, 1) {
		bad.Addf("clean_cost", "must be above 0: a clean takes time and material")
	}
	if o.OverPrice != nil && (!(*o.OverPrice >= 0) || math.IsInf(*o.OverPrice, 1)) {
		bad.Addf("over_price", "must be 0 or more")
	}
	if o.MostDays < 0 || o.MostDays > mostDays {
		bad.Addf("most_days", "must be between 1 and %d, or 0 for no bound", mostDays)
	}
	bad = append(bad, below("economics.", o.Economics.Check())...)
	sort.Slice(bad, func(i, j int) bool { return bad[i].Path < bad[j].Path })
	return bad.Err()
}

// below moves the fields of an error under a path.
func below(path string, err error) invalid.Error {
	fields, _ := err.(invalid.Error) //nolint:errorlint // Check returns nothing else
	out := make(invalid.Error, len(fields))
	for i, f := range fields {
		out[i] = invalid.Field{Path: path + f.Path, Reason: f.Reason}
	}
	return out
}

func (o Outlook) withDefaults() Outlook {
	if o.Limit == 0 {
		o.Limit = DefaultLimit
	}
	if o.Risk == 0 {
		o.Risk = DefaultRisk
	}
	if o.Scatter == nil {
		o.Scatter = ptr(Scatter)
	}
	if o.OverPrice == nil {
		o.OverPrice = ptr(heat.DefaultOverPrice)
	}
	if o.MostDays == 0 {
		o.MostDays = mostDays
	}
	o.Months = o.Months.Normalised()
	whole := 0.0
	for _, s := range o.Sides {
		whole += s.AreaShare
	}
	o.Sides = append([]Belief{}, o.Sides...)
	for i := range o.Sides {
		if whole > 0 {
			o.Sides[i].AreaShare /= whole
		} else {
			o.Sides[i].AreaShare = 1 / float64(len(o.Sides))
		}
	}
	return o
}

func ptr[T any](v T) *T { return &v }

// truth is one possible world: rate and start of every side. Sides of one coil share their fortune: the n-th of the
// equally likely rates of one goes with the n-th of the others.
type truth struct {
	rate, start []float64
}

// Ahead is an outlook worked out: what soil and money will be on each day after the clean.
type Ahead struct {
	Outlook
	table *heat.CostTable
	// energy, calls and weights take its place where the load has its months.
	energy, calls *heat.CostTable
	weights       soil.MonthWeights
	truths        []truth
	// spread are the multiples of the growth at the points of its scatter.
	spread [len(scatterPoints)]float64
	// days and, at each, exposure, money a day expected, and the probability of being over the limit.
	days, exposure, money, over []float64
	// paid and overDays up to each day.
	paid, overDays []float64
}

// Gauss–Hermite points of a standard normal, exact to the ninth power.
var (
	scatterPoints  = [5]float64{-2.8569700138728, -1.3556261799743, 0, 1.3556261799743, 2.8569700138728}
	scatterWeights = [5]float64{.0112574113277, .2220759220056, .5333333333333, .2220759220056, .0112574113277}
)

// Look works an outlook out. The error is an invalid.Error naming the fields.
func Look(o Outlook) (*Ahead, error) {
	if err := o.Check(); err != nil {
		return nil, err
	}
	return look(o.withDefaults(), o.Economics.Table()), nil
}

func look(o Outlook, table *heat.CostTable) *Ahead {
	a := &Ahead{Outlook: o, table: table}
	if o.From != nil && !even(o.LoadMonths) {
		a.energy, a.calls = o.Economics.Tables()
		a.weights = overTheYear(o.LoadMonths)
	}
	for i, z := range scatterPoints {
		a.spread[i] = math.Exp(*o.Scatter * z)
	}
	bins := 0
	for _, s := range o.Sides {
		bins = max(bins, len(s.Rates))
	}
	for q := range bins {
		t := truth{make([]float64, len(o.Sides)), make([]float64, len(o.Sides))}
		for i, s := range o.Sides {
			k := q * len(s.Rates) / bins
			t.rate[i] = s.Rates[k]
			if len(s.Starts) > 0 {
				t.start[i] = s.Starts[k]
			}
		}
		a.truths = append(a.truths, t)
	}
	a.layOut()
	return a
}

// Spacing of the days that are worked out: one day at first, then a share of the time gone by.
const spacing = .04

func (a *Ahead) layOut() {
	limit := soil.Load(a.Limit)
	day, tau := 0, 0.0
	for {
		money, over := a.expect(day, tau, limit)
		if n := len(a.days); n > 0 {
			width := float64(day) - a.days[n-1]
			a.paid = append(a.paid, a.paid[n-1]+width*(money+a.money[n-1])/2)
			a.overDays = append(a.overDays, a.overDays[n-1]+width*(over+a.over[n-1])/2)
		} else {
			a.paid, a.overDays = []float64{0}, []float64{0}
		}
		a.days, a.exposure = append(a.days, float64(day)), append(a.exposure, tau)
		a.money, a.over = append(a.money, money), append(a.over, over)
		if day >= a.MostDays {
			return
		}
		next := min(a.MostDays, day+max(1, int(spacing*float64(day))))
		tau += a.exposed(day, next)
		day = next
	}
}

// exposed is the exposure between two days after the clean.
func (a *Ahead) exposed(from, to int) float64 {
	if a.From == nil {
		return float64(to-from) * a.FanShare
	}
	return soil.Exposure(a.From.Add(from), a.From.Add(to), a.Months, a.FanShare)
}

// expect is the money a day and the probability of being over a load, some days ahead, at an exposure.
func (a *Ahead) expect(day int, tau, limit float64) (money, over float64) {
	costs := a.table.Day
	if a.energy != nil {
		weight := a.weights[a.From.Add(day).Month()-1]
		costs = func(load float64) float64 { return weight*a.energy.Day(load) + a.calls.Day(load) }
	}
	for _, t := range a.truths {
		over += a.passed(t, tau, limit)
		if *a.Scatter == 0 || tau == 0 {
			money += costs(a.load(t, tau))
			continue
		}
		for i, times := range a.spread {
			money += scatterWeights[i] * costs(a.load(t, tau*times))
		}
	}
	n := float64(len(a.truths))
	return money / n, over / n
}

// load of the whole coil: the load of its mean blocked share.
func (a *Ahead) load(t truth, tau float64) float64 {
	if len(t.rate) == 1 {
		return t.start[0] + t.rate[0]*tau/30
	}
	blocked := 0.0
	for i, s := range a.Sides {
		blocked += s.AreaShare * soil.Share(t.start[i]+t.rate[i]*tau/30)
	}
	return soil.Load(blocked)
}

// passed is the probability that the worst side of a truth is over a load.
func (a *Ahead) passed(t truth, tau, limit float64) float64 {
	least := math.Inf(1) // multiple of the growth at which the first side passes
	for i, rate := range t.rate {
		room := limit - t.start[i]
		if room <= 0 {
			return 1
		}
		least = math.Min(least, room/(rate*tau/30)) // +Inf without growth
	}
	if *a.Scatter == 0 {
		if least < 1 {
			return 1
		}
		return 0
	}
	return normal.CDF(-math.Log(least) / *a.Scatter)
}

// at finds the place of a day between those worked out.
func (a *Ahead) at(day float64) (i int, part float64) {
	i = sort.SearchFloat64s(a.days, day)
	switch {
	case i == 0:
		return 0, 0
	case i >= len(a.days):
		return len(a.days) - 2, 1
	}
	return i - 1, (day - a.days[i-1]) / (a.days[i] - a.days[i-1])
}

func along(v []float64, i int, part float64) float64 {
	if part == 0 || i+1 >= len(v) {
		return v[i]
	}
	return v[i] + (v[i+1]-v[i])*part
}

// Money is the running cost a day expected some days after the clean, without the price of being over the limit.
func (a *Ahead) Money(day float64) float64 { i, p := a.at(day); return along(a.money, i, p) }

// Over is the probability of being over the limit some days after the clean.
func (a *Ahead) Over(day float64) float64 { i, p := a.at(day); return along(a.over, i, p) }

// rate of spending on a day, the price of being over the limit counted.
func (a *Ahead) spending(day float64) float64 { return a.Money(day) + *a.OverPrice*a.Over(day) }

// integral up to a day, exact for the broken line between the days worked out.
func (a *Ahead) integral(total, height []float64, day float64) float64 {
	i, part := a.at(day)
	if part == 0 {
		return total[i]
	}
	if i+1 >= len(a.days) {
		return total[i]
	}
	width := (a.days[i+1] - a.days[i]) * part
	return total[i] + width*(height[i]+along(height, i, part))/2
}

// Account is what an interval costs and risks, on average.
type Account struct {
	Days float64 `json:"days"`
	// Each in money a day: cleaning, energy and call-outs together, the price of days over the limit, and all.
	CleanDay float64 `json:"clean_day"`
	SoilDay  float64 `json:"soil_day"`
	OverDay  float64 `json:"over_day"`
	TotalDay float64 `json:"total_day"`
	// OverDaysYear is the days a year over the limit, OverAtEnd the probability of being over it at the next clean.
	OverDaysYear float64 `json:"over_days_year"`
	OverAtEnd    float64 `json:"over_at_end"`
}

// Account of an interval of some days, at least 1.
func (a *Ahead) Account(days float64) Account {
	days = math.Max(1, math.Min(days, float64(a.MostDays)))
	out := Account{
		Days: days, CleanDay: a.CleanCost / days, SoilDay: a.integral(a.paid, a.money, days) / days,
		OverAtEnd: a.Over(days),
	}
	over := a.integral(a.overDays, a.over, days) / days
	out.OverDay, out.OverDaysYear = *a.OverPrice*over, over*year
	out.TotalDay = out.CleanDay + out.SoilDay + out.OverDay
	return out
}

// longest is the longest time up to which the probability of being over a blocked share stays within a risk: whole and
// part days, at most MostDays, 0 when it is passed at once.
func (a *Ahead) longest(blocked, risk float64) float64 {
	load := soil.Load(blocked)
	probability := func(tau float64) float64 {
		p := 0.0
		for _, t := range a.truths {
			p += a.passed(t, tau, load)
		}
		return p / float64(len(a.truths))
	}
	if probability(0) > risk {
		return 0
	}
	last := len(a.days) - 1
	i := sort.Search(last, func(i int) bool { return probability(a.exposure[i+1]) > risk })
	if i == last {
		return a.days[last]
	}
	within, _ := root.Halve(0, 1, 20, func(part float64) bool { return probability(along(a.exposure, i, part)) > risk })
	return a.days[i] + within*(a.days[i+1]-a.days[i])
}

// Best is the interval of least cost.
type Best struct {
	Account
	// From and To are the intervals within which it costs at most 1 % more.
	From float64 `json:"from_days"`
	To   float64 `json:"to_days"`
	// Unbounded is true where the cost still falls at the longest interval that was looked at.
	Unbounded bool `json:"unbounded"`
	// Worst is true where not the money but the bound on being half blocked set the interval.
	Worst bool `json:"worst"`
	// HalfBlocked is that bound: the most days after which it is half blocked with a probability of at most 20 %, at least 1.
	// 0 where the clean leaves it beyond that already, so that no interval holds it, or where it is never reached.
	HalfBlocked float64 `json:"half_blocked_days,omitempty"`
}

// Cheapest is the interval that minimises
//
//	[clean + ∫₀ᵀ c dt] / T,   c = energy + call-outs + v P(B > limit)
//
// in whole days, the energy weighed by the months of its load; at the optimum c(T) is the average (renewal reward: Ross, Introduction to Probability Models, from
// memory). It never goes beyond P(B > 50 %) = 20 %, a day at the least; where the clean leaves it beyond that already no interval
// holds the bound, and only the money counts. The range within 1 % is money alone.
func (a *Ahead) Cheapest() Best {
	most, half := float64(a.MostDays), 0.0
	if bound := a.longest(worstBlocked, worstRisk); bound > 0 && bound < most {
		half = math.Max(1, math.Floor(bound))
		most = half
	}
	cost := func(d float64) float64 {
		return (a.CleanCost + a.integral(a.paid, a.money, d) + *a.OverPrice*a.integral(a.overDays, a.over, d)) / d
	}
	best, least := 1.0, math.Inf(1)
	for i := 0; i+1 < len(a.days) && a.days[i] < most; i++ {
		low := a.money[i] + *a.OverPrice*a.over[i]
		slope := (a.money[i+1] + *a.OverPrice*a.over[i+1] - low) / (a.days[i+1] - a.days[i])
		paid := a.CleanCost + a.paid[i] + *a.OverPrice*a.overDays[i]
		for w := 1.0; w <= a.days[i+1]-a.days[i] && a.days[i]+w <= most; w++ {
			if c := (paid + w*(low+slope*w/2)) / (a.days[i] + w); c < least {
				best, least = a.days[i]+w, c
			}
		}
	}
	out := Best{Account: a.Account(best), From: best, To: best, HalfBlocked: half}
	for out.From > 1 && cost(out.From-1) <= 1.01*least {
		out.From--
	}
	for out.To < float64(a.MostDays) && cost(out.To+1) <= 1.01*least {
		out.To++
	}
	if best == most {
		out.Worst = half > 0
		out.Unbounded = !out.Worst
	}
	return out
}

// ShareRange is the range of a blocked share some days ahead.
type ShareRange struct {
	Day float64 `json:"day"`
	P10 float64 `json:"p10"`
	P50 float64 `json:"p50"`
	P90 float64 `json:"p90"`
}

// Fan is the blocked share of the coil's worst side at the days asked for: 10, 50 and 90 % points over rate and scatter.
func (a *Ahead) Fan(days []float64) []ShareRange {
	out := make([]ShareRange, len(days))
	const points = 9
	for i, d := range days {
		k, part := a.at(d)
		tau := along(a.exposure, k, part)
		loads := make([]float64, 0, points*len(a.truths))
		for _, t := range a.truths {
			for n := range points {
				eta := *a.Scatter * normal.Quantile((float64(n)+.5)/points)
				worst := 0.0
				for s, rate := range t.rate {
					worst = math.Max(worst, t.start[s]+rate*tau/30*math.Exp(eta))
				}
				loads = append(loads, worst)
			}
		}
		sort.Float64s(loads)
		at := func(p float64) float64 { return soil.Share(loads[int(p*float64(len(loads)-1)+.5)]) }
		out[i] = ShareRange{d, at(.1), at(.5), at(.9)}
	}
	return out
}
