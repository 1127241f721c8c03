package interval

import (
	"math"
	"slices"
	"sort"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/learn"
	"nextround/core/normal"
	"nextround/core/soil"
)

// LookKind is a way of finding out more of a coil.
type LookKind string

// The ways.
const (
	// LookLight is a look with light through: it shows face and core together.
	LookLight LookKind = "light"
	// LookFinding is a first dated finding, opened up: it shows the face.
	LookFinding LookKind = "finding"
	// LookReadings are readings before and after a clean: they show all soil, roughly.
	LookReadings LookKind = "readings"
)

// LookWay is a way of finding out, and what it costs: where a crew is at the unit anyway, and with a trip of its own.
type LookWay struct {
	Kind       LookKind `json:"kind"`
	CostRiding float64  `json:"cost_riding,omitempty"`
	CostAlone  float64  `json:"cost_alone,omitempty"`
}

// LookQuestion is a coil as for Choose, and the ways there are of finding out more.
type LookQuestion struct {
	ChoiceQuestion
	// Ways left out are all three, free.
	Ways []LookWay `json:"ways,omitempty"`
}

// LookAnswer is one answer a look may give, and what would be chosen then.
type LookAnswer struct {
	Grade       soil.Grade `json:"grade"`
	Probability float64    `json:"probability"`
	Plan        string     `json:"plan"`
	EveryDays   int        `json:"every_days"`
	First       FirstClean `json:"first"`
}

// LookValue is what a way of finding out is worth, in money over the coming year.
type LookValue struct {
	Kind LookKind `json:"kind"`
	// Now is the cost of the best that can be chosen now, After what is to be expected of it when it is chosen after the answer; Saves is
	// the difference, before the cost of looking. It is 0 where no answer would change what is chosen.
	Now   float64 `json:"now_year"`
	After float64 `json:"after_year"`
	Saves float64 `json:"saves_year"`
	// NetRiding and NetAlone are less the cost of looking.
	NetRiding float64      `json:"net_riding"`
	NetAlone  float64      `json:"net_alone"`
	Answers   []LookAnswer `json:"answers"`
}

// LookResult ranks the ways, the one that is worth most riding along first.
type LookResult struct {
	Looks []LookValue `json:"looks"`
}

// factors by which the intervals of the best programs are varied for the choice after an answer.
var variedBy = []float64{.5, .7, 1.4, 2}

// Check lists every field that cannot be used.
func (q LookQuestion) Check() error {
	bad := below("", q.ChoiceQuestion.Check())
	checkWays(&bad, "ways", q.Ways)
	return bad.Err()
}

func checkWays(bad *invalid.Error, at string, ways []LookWay) {
	for i, w := range ways {
		at := at + "[" + strconv.Itoa(i) + "]."
		if !slices.Contains([]LookKind{LookLight, LookFinding, LookReadings}, w.Kind) {
			bad.Addf(at+"kind", "must be light, finding or readings, not %q", w.Kind)
		}
		if !(w.CostRiding >= 0) || math.IsInf(w.CostRiding, 1) {
			bad.Addf(at+"cost_riding", "must be 0 or more")
		}
		if !(w.CostAlone >= 0) || math.IsInf(w.CostAlone, 1) {
			bad.Addf(at+"cost_alone", "must be 0 or more")
		}
	}
}

// ValueOfLooking is what it is worth to know more before choosing (expected value of sample information: Raiffa and Schlaifer, Applied
// Statistical Decision Theory, 1961, from memory):
//
//	V = min over d of E[cost(d)] − Σ over answers a of P(a) · min over d of E[cost(d) | a]
//
// over what is believed of state, rate and penetration, in the money of the coming year. d is a program, the best with each plan or one
// around it, at what it costs settled; and a first clean with any plan, now or later, at what it costs more than the best program known
// now would, settled. Looks answer with a grade as in learn.Learn. V is never negative, and 0 where every answer leads to the same choice. The error is an invalid.Error naming the fields.
func ValueOfLooking(q LookQuestion) (LookResult, error) {
	if err := q.Check(); err != nil {
		return LookResult{}, err
	}
	if len(q.Ways) == 0 {
		q.Ways = []LookWay{{Kind: LookLight}, {Kind: LookFinding}, {Kind: LookReadings}}
	}
	c := newChooser(q.ChoiceQuestion)
	table := c.table()
	if len(table) == 0 {
		return LookResult{}, invalid.Error{{Path: "plans", Reason: "none may be proposed within most_days"}}
	}
	return LookResult{c.looks(q.Ways, table)}, nil
}

// looks are what ways of finding out are worth, where the best with each plan is known.
func (c chooser) looks(ways []LookWay, table []Kept) []LookValue {
	programs := c.programs(table)
	firsts := c.firsts(programs[0].keep)
	weights := make([]float64, len(c.w.truths))
	for i, t := range c.w.truths {
		weights[i] = t.weight
	}
	choose := func(weights []float64) (program, first decision, cost float64) {
		i, a := cheapest(programs, weights)
		k, b := cheapest(firsts, weights)
		return programs[i], firsts[k], a + b
	}
	_, _, now := choose(weights)
	out := make([]LookValue, 0, len(ways))
	for _, way := range ways {
		v := LookValue{Kind: way.Kind, Now: now, Answers: []LookAnswer{}}
		for g := soil.Bare; g <= soil.Blocked; g++ {
			given := make([]float64, len(weights))
			p := 0.0
			for i, w := range weights {
				given[i] = w * c.says(way.Kind, i, g)
				p += given[i]
			}
			if p <= 0 {
				continue
			}
			program, first, cost := choose(given)
			v.After += cost
			v.Answers = append(v.Answers, LookAnswer{Grade: g, Probability: p, Plan: program.keep.Plan, EveryDays: program.keep.EveryDays, First: first.first})
		}
		if v.Saves = v.Now - v.After; v.Saves < 1e-9*(1+math.Abs(v.Now)) {
			v.Saves, v.After = 0, v.Now
		}
		v.NetRiding, v.NetAlone = v.Saves-way.CostRiding, v.Saves-way.CostAlone
		out = append(out, v)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].NetRiding > out[j].NetRiding })
	return out
}

// decision is a program or a first clean, and what it costs over a year in each truth.
type decision struct {
	keep  Kept
	first FirstClean
	by    []float64
}

// cheapest is the decision of least weighted cost.
func cheapest(all []decision, weights []float64) (best int, least float64) {
	least = math.Inf(1)
	for k, d := range all {
		cost := 0.0
		for i, w := range weights {
			cost += w * d.by[i]
		}
		if cost < least {
			best, least = k, cost
		}
	}
	return best, least
}

// programs are those worth weighing, the best known now first.
func (c chooser) programs(table []Kept) []decision {
	var out []decision
	seen := map[string]bool{}
	add := func(k Kept) {
		name := k.Plan + "+" + k.Light + "/" + strconv.Itoa(k.EveryDays) + "/" + strconv.Itoa(k.LightEvery)
		own, _ := planOf(c.Plans, k.Plan)
		if seen[name] || k.EveryDays > c.MostDays || k.EveryDays < own.LeastDays || (own.MostDays > 0 && k.EveryDays > own.MostDays) {
			return
		}
		seen[name] = true
		x := c.price(k)
		for i := range x.by {
			x.by[i] *= year
		}
		out = append(out, decision{keep: x.Kept, by: x.by})
	}
	for _, k := range table {
		add(k)
	}
	for _, k := range table {
		if k.Days != nil {
			continue
		}
		for _, by := range variedBy {
			v := k
			v.EveryDays = max(Week, int(float64(k.EveryDays)*by)/Week*Week)
			if k.LightEvery > 0 {
				v.EveryDays = max(2, v.EveryDays/k.LightEvery) * k.LightEvery
			}
			add(v)
		}
	}
	return out
}

// firsts are the first cleans before a program: each plan, now or in a while.
func (c chooser) firsts(k Kept) (out []decision) {
	own, _ := planOf(c.Plans, k.Plan)
	most := k.EveryDays
	if c.MostNow > 0 {
		most = min(most, c.MostNow)
	}
	for _, b := range c.Plans {
		if b.Barred && b.Code != own.Code {
			continue
		}
		for _, days := range waits(most) {
			d := decision{first: FirstClean{Plan: b.Code, InDays: days, BringsDown: b.Code != own.Code}, by: make([]float64, len(c.w.truths))}
			for i := range d.by {
				d.by[i] = b.Cost - own.Cost + c.unsettled(i, k, own, b, days)
			}
			out = append(out, d)
		}
	}
	return out
}

// says is the probability that a look gives a grade in a truth, by the worst side.
func (c chooser) says(kind LookKind, i int, g soil.Grade) float64 {
	seen := 0.0
	for _, s := range c.w.truths[i].now {
		x := s.Total()
		if kind == LookFinding {
			x = s.Face
		}
		seen = math.Max(seen, x)
	}
	scatter := learn.GraderSigma
	if kind == LookReadings {
		scatter = learn.ReadingSigma
	}
	sigma := math.Hypot(learn.ProcessSigma, scatter)
	lo, hi := g.LoadBand()
	at := math.Log(math.Max(seen, 1e-6))
	upper, lower := 1.0, 0.0
	if !math.IsInf(hi, 1) {
		upper = normal.CDF((math.Log(hi) - at) / sigma)
	}
	if lo > 0 {
		lower = normal.CDF((math.Log(lo) - at) / sigma)
	}
	return (1-learn.Slip)*(upper-lower) + learn.Slip/6
}
