package proof

import (
	"math"
	"math/rand/v2"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/soil"
	"nextround/internal/defaults"
)

// begun is the day every portfolio begins, clean.
var begun = calendar.MustParse("2026-01-01")

// unit is one coil: what is entered of it, and what is true.
type unit struct {
	kind    Kind
	class   defaults.Class
	site    int
	factor  float64 // entered
	assumed float64 // rate by class and entered factor
	soil    soil.Kind
	removal [2]soil.Removal // as believed: light, main
	table   *heat.CostTable

	rate        float64 // true, load per 30 days
	penetration float64
	truly       [2]soil.Removal
	driftOn     calendar.Day
	driftTimes  float64
	months      soil.MonthWeights
}

// world is a portfolio drawn from a scenario and a seed.
type world struct {
	Scenario
	seed  uint64
	units []unit
}

// stream is the randomness of one purpose, the same for every way of setting intervals.
func (w world) stream(purpose, of uint64) *rand.Rand {
	return rand.New(rand.NewPCG(w.seed<<20|purpose, of)) //nolint:gosec // a simulation
}

// Purposes of randomness.
const (
	drawing = iota
	living
	rehearsal
)

func draw(s Scenario, seed uint64) world {
	w := world{Scenario: s, seed: seed}
	rng := w.stream(drawing, 0)
	t := s.Truth
	for site := range s.Sites {
		common := t.SiteSD * rng.NormFloat64()
		factor := s.Factors[site%len(s.Factors)]
		for n := range s.PerSite {
			k := s.Kinds[(site+n)%len(s.Kinds)]
			class, _ := classOf(k.Class)
			kind, _ := soil.KindByCode(k.Soil)
			u := unit{kind: k, class: class, site: site, factor: factor, soil: kind, table: k.economics().Table(), driftTimes: 1, months: soil.Even}
			trueFactor := factor
			if rng.Float64() < t.WrongFactorShare {
				if u.factor = 1; trueFactor == 1 {
					u.factor = s.Factors[rng.IntN(len(s.Factors))]
				}
			}
			if t.Months != "" {
				m, _ := soil.KindByCode(t.Months)
				u.months = m.Months
			}
			u.assumed = soil.StartRate(class.ReferenceDays, 1, u.factor)
			u.rate = soil.StartRate(class.ReferenceDays, 1, trueFactor) * t.RateTimes * math.Exp(common+t.UnitSD*rng.NormFloat64())
			u.penetration = math.Min(.95, kind.Penetration*t.PenetrationTimes)
			for i, code := range []string{k.Light, k.Method} {
				m, _ := soil.MethodByCode(code)
				u.removal[i] = m.Removal(kind.Family, soil.Against)
				u.truly[i] = u.removal[i]
				u.truly[i].Face = math.Min(1, u.truly[i].Face*t.FaceTimes)
				u.truly[i].Core = math.Min(1, u.truly[i].Core*t.CoreTimes)
			}
			if rng.Float64() < t.DriftShare {
				u.driftOn, u.driftTimes = begun.Add(365+rng.IntN(365*max(1, s.Years-3))), t.DriftTimes
			}
			w.units = append(w.units, u)
		}
	}
	return w
}

// life is one coil living day by day.
type life struct {
	*world
	*unit
	rng   *rand.Rand
	day   calendar.Day
	state soil.State
	eta   float64
	Costs
}

// Costs of some coils over all years.
type Costs struct {
	Cleaning float64 `json:"cleaning"`
	Soil     float64 `json:"energy_and_call_outs"`
	Over     float64 `json:"over_limit"`
	Cleans   int     `json:"cleans"`
	OverDays float64 `json:"days_over_limit"`
}

// Total is all of them.
func (c Costs) Total() float64 { return c.Cleaning + c.Soil + c.Over }

func (c Costs) plus(d Costs) Costs {
	return Costs{c.Cleaning + d.Cleaning, c.Soil + d.Soil, c.Over + d.Over, c.Cleans + d.Cleans, c.OverDays + d.OverDays}
}

func (w *world) live(u *unit, purpose, of uint64) *life {
	l := &life{world: w, unit: u, rng: w.stream(purpose, of), day: begun}
	l.eta = l.Truth.ProcessSD * l.rng.NormFloat64()
	return l
}

func (l *life) end() calendar.Day { return begun.Add(365 * l.Years) }

// until grows soil day by day and pays for it.
func (l *life) until(day calendar.Day) {
	times := math.Exp(l.eta)
	limit := soil.Load(l.Limit)
	for day = min(day, l.end()); l.day < day; l.day++ {
		rate := l.rate * times
		if l.driftTimes != 1 && l.day >= l.driftOn {
			rate *= l.driftTimes
		}
		tau := l.months[l.day.Month()-1]
		if at := l.Truth.LevelsOffAt; at > 0 {
			tau *= math.Max(0, 1-l.state.Total()/at)
		}
		l.state = l.state.Deposit(rate, l.penetration, tau)
		load := l.state.Total()
		l.Soil += l.table.Day(load)
		if load > limit {
			l.Over += l.OverPrice
			l.OverDays++
		}
	}
}

// look is what somebody sees of the coil.
func (l *life) look(light bool) soil.Finding {
	f := soil.Finding{Seen: soil.FaceLook}
	load := l.state.Face
	if light {
		f.Seen, load = soil.LightThrough, l.state.Total()
	}
	load *= math.Exp(l.Truth.GraderOffset + l.Truth.GraderSD*l.rng.NormFloat64())
	f.Grade = soil.GradeOf(soil.Share(load))
	if l.rng.Float64() < l.Truth.SlipShare {
		f.Grade = soil.Grade(l.rng.IntN(6))
	}
	return f
}

// The two cleans.
const (
	light = iota
	deep
)

// clean looks, cleans and looks again.
func (l *life) clean(which int, byLight bool) soil.Visit {
	v := soil.Visit{Day: l.day, Cleans: []soil.Removal{l.removal[which]}}
	found := l.look(byLight)
	l.state = l.state.Clean(l.truly[which])
	left := l.look(byLight)
	left.Grade = min(left.Grade, found.Grade)
	v.Found, v.Left = &found, &left
	l.Cleans++
	l.Cleaning += l.kind.Cost
	if which == light {
		l.Cleaning += l.kind.LightCost - l.kind.Cost
	}
	l.eta = l.Truth.ProcessSD * l.rng.NormFloat64()
	return v
}

// madeUp is how long a visit that did not happen takes to be made up.
const madeUp = 28

// comes is the day a crew really comes for a clean due after some days.
func (l *life) comes(every int) calendar.Day {
	late := int(math.Round(float64(every) * l.Truth.LateSD * math.Abs(l.rng.NormFloat64())))
	if l.rng.Float64() < l.Truth.MissedShare {
		late += madeUp
	}
	return l.day.Add(max(1, every+late))
}
