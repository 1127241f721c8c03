package method

import (
	"math"
	"sort"
	"strconv"

	"nextround/core/invalid"
)

// DwellCoil is a coil to be sprayed, left to stand and rinsed; times in minutes.
type DwellCoil struct {
	Name   string  `json:"name"`
	SprayM float64 `json:"spray_m"`
	RinseM float64 `json:"rinse_m"`
	// MinM and MaxM bound the dwell, from the end of spraying to the start of rinsing.
	MinM float64 `json:"min_m"`
	MaxM float64 `json:"max_m"`
	// WetDownM is a first wet-down pass at the start of rinsing that still counts as dwell: strong alkaline works on
	// until it is off.
	WetDownM float64 `json:"wet_down_m,omitempty"`
}

// DwellInput is a batch for one person: coils in the order they are sprayed, unless any order will do.
type DwellInput struct {
	Coils    []DwellCoil `json:"coils"`
	AnyOrder bool        `json:"any_order,omitempty"`
	// Chores are done while coils stand where the waits are long enough, such as flushing the sprayer; in their order.
	Chores []Chore `json:"chores,omitempty"`
	// OpensInM is in how many minutes the place opens, CloseUpM what is left to do after the last rinse: from them follows
	// how long the start can wait.
	OpensInM *float64 `json:"opens_in_m,omitempty"`
	CloseUpM float64  `json:"close_up_m,omitempty"`
}

// Chore is something short that need not be done at a certain time.
type Chore struct {
	Name    string  `json:"name"`
	Minutes float64 `json:"minutes"`
}

// PlacedChore is when a chore is done; Inside says that a coil stands meanwhile, so that it costs no time.
type PlacedChore struct {
	Name   string  `json:"name"`
	StartM float64 `json:"start_m"`
	EndM   float64 `json:"end_m"`
	Inside bool    `json:"inside"`
}

// DwellStep is one stretch of the person's time.
type DwellStep struct {
	Coil   string  `json:"coil"`
	Do     string  `json:"do"` // spray, rinse or wait
	StartM float64 `json:"start_m"`
	EndM   float64 `json:"end_m"`
}

// DwellPlan is the shortest sequence that keeps every dwell in its window.
type DwellPlan struct {
	TotalM float64     `json:"total_m"`
	Steps  []DwellStep `json:"steps"`
	// DwellM is each coil's dwell, in the order of the input.
	DwellM []float64 `json:"dwell_m"`
	// TogetherM is the longest dwell when all are sprayed straight after one another and the first stands its
	// minimum; Spoiled says that this would pass a maximum.
	TogetherM float64 `json:"together_m"`
	Spoiled   bool    `json:"spoiled"`
	// Chores are placed into the waits, the rest after the last rinse.
	Chores []PlacedChore `json:"chores,omitempty"`
	// LatestStartM is how many minutes from now the spraying has to begin at the latest,
	//
	//	opens_in − close_up − total − chores outside
	//
	// so that all is closed up when the place opens; below zero it is too late.
	LatestStartM *float64 `json:"latest_start_m,omitempty"`
}

// mostCoils keeps the exact search small.
const mostCoils = 7

// Dwell finds the shortest sequence of spraying, rinsing and waiting for one person, first sprayed first rinsed, that
// keeps every dwell in its window. The search over interleavings is exact: for each, the earliest times that meet all
// differences are found by relaxation.
func Dwell(in DwellInput) (DwellPlan, error) {
	var bad invalid.Error
	if len(in.Coils) == 0 {
		bad.Addf("coils", "at least one coil is needed")
	}
	if len(in.Coils) > mostCoils {
		bad.Addf("coils", "at most %d coils in one batch", mostCoils)
	}
	for i, c := range in.Coils {
		at := func(f string) string { return "coils[" + strconv.Itoa(i) + "]." + f }
		for name, v := range map[string]float64{"spray_m": c.SprayM, "rinse_m": c.RinseM} {
			if !(v > 0 && v <= 240) {
				bad.Addf(at(name), "must be above 0 and at most 240 min")
			}
		}
		if !(c.MinM >= 0 && c.MaxM >= c.MinM && c.MaxM <= 240) {
			bad.Addf(at("max_m"), "the dwell's ends belong together, the shorter first, at most 240 min")
		}
		if !(c.WetDownM >= 0) || c.WetDownM > c.RinseM || c.WetDownM > c.MaxM {
			bad.Addf(at("wet_down_m"), "must fit in the rinsing and in the dwell")
		}
		if i >= mostCoils {
			break
		}
	}
	for i, c := range in.Chores {
		if !(c.Minutes > 0 && c.Minutes <= 240) {
			bad.Addf("chores["+strconv.Itoa(i)+"].minutes", "must be above 0 and at most 240 min")
		}
	}
	if !(in.CloseUpM >= 0 && in.CloseUpM <= 480) {
		bad.Addf("close_up_m", "must be between 0 and 480 min")
	}
	if err := bad.Err(); err != nil {
		return DwellPlan{}, err
	}
	search := dwellSearch{coils: in.Coils, best: math.Inf(1)}
	order := make([]int, len(in.Coils))
	for i := range order {
		order[i] = i
	}
	if in.AnyOrder {
		search.permute(order, 0)
	} else {
		search.interleave(order, nil, 0, 0)
	}
	out := search.plan()
	out.place(in)
	return out, nil
}

// place puts the chores into the waits, each into the first that still holds it, and says when all has to begin.
func (p *DwellPlan) place(in DwellInput) {
	free := map[int]float64{} // where the rest of a wait begins
	after := p.TotalM
	for _, c := range in.Chores {
		placed := PlacedChore{Name: c.Name, StartM: after, EndM: after + c.Minutes}
		for k, s := range p.Steps {
			from := math.Max(s.StartM, free[k])
			if s.Do == "wait" && s.EndM-from >= c.Minutes-1e-9 {
				placed = PlacedChore{Name: c.Name, StartM: from, EndM: from + c.Minutes, Inside: true}
				free[k] = placed.EndM
				break
			}
		}
		if !placed.Inside {
			after = placed.EndM
		}
		p.Chores = append(p.Chores, placed)
	}
	if in.OpensInM != nil {
		latest := *in.OpensInM - in.CloseUpM - after
		p.LatestStartM = &latest
	}
}

// operation k of the person's day: spraying or rinsing of a coil.
type operation struct {
	coil  int
	rinse bool
}

type dwellSearch struct {
	coils []DwellCoil
	best  float64
	ops   []operation
	at    []float64
}

func (s *dwellSearch) permute(order []int, k int) {
	if k == len(order) {
		s.interleave(order, nil, 0, 0)
		return
	}
	seen := map[DwellCoil]bool{}
	for i := k; i < len(order); i++ {
		like := s.coils[order[i]]
		like.Name = ""
		if seen[like] {
			continue // coils that are alike need one order only
		}
		seen[like] = true
		order[k], order[i] = order[i], order[k]
		s.permute(order, k+1)
		order[k], order[i] = order[i], order[k]
	}
}

// interleave tries every order of the operations in which sprays and rinses each keep the coils' order.
func (s *dwellSearch) interleave(order []int, ops []operation, sprayed, rinsed int) {
	if rinsed == len(order) {
		s.take(ops)
		return
	}
	if rinsed < sprayed {
		s.interleave(order, append(ops, operation{order[rinsed], true}), sprayed, rinsed+1)
	}
	if sprayed < len(order) {
		s.interleave(order, append(ops, operation{order[sprayed], false}), sprayed+1, rinsed)
	}
}

// take finds the earliest starts of an order of operations, if there are any:
//
//	start[k+1] ≥ start[k] + length[k]
//	min ≤ start[rinse] + wet-down − end[spray] ≤ max
//
// Raising starts to meet these settles within as many rounds as there are operations, or never.
func (s *dwellSearch) take(ops []operation) {
	n := len(ops)
	start := make([]float64, n)
	spray, rinse := map[int]int{}, map[int]int{}
	for k, o := range ops {
		if o.rinse {
			rinse[o.coil] = k
		} else {
			spray[o.coil] = k
		}
	}
	length := func(k int) float64 {
		c := s.coils[ops[k].coil]
		if ops[k].rinse {
			return c.RinseM
		}
		return c.SprayM
	}
	for round := 0; ; round++ {
		moved := false
		raise := func(k int, to float64) {
			if start[k] < to-1e-9 {
				start[k], moved = to, true
			}
		}
		for k := 1; k < n; k++ {
			raise(k, start[k-1]+length(k-1))
		}
		for i, c := range s.coils {
			end := start[spray[i]] + c.SprayM
			raise(rinse[i], end+c.MinM-c.WetDownM)
			raise(spray[i], start[rinse[i]]+c.WetDownM-c.MaxM-c.SprayM)
		}
		if !moved {
			break
		}
		if round > n+1 {
			return // the window cannot be met in this order
		}
	}
	if total := start[n-1] + length(n-1); total < s.best-1e-9 {
		s.best, s.ops, s.at = total, append([]operation{}, ops...), start
	}
}

func (s *dwellSearch) plan() DwellPlan {
	out := DwellPlan{TotalM: s.best, DwellM: make([]float64, len(s.coils)), Steps: []DwellStep{}}
	free := 0.0
	sprayEnd := map[int]float64{}
	for k, o := range s.ops {
		c := s.coils[o.coil]
		if s.at[k] > free+1e-9 {
			out.Steps = append(out.Steps, DwellStep{Coil: c.Name, Do: "wait", StartM: free, EndM: s.at[k]})
		}
		step := DwellStep{Coil: c.Name, Do: "spray", StartM: s.at[k], EndM: s.at[k] + c.SprayM}
		if o.rinse {
			step.Do, step.EndM = "rinse", s.at[k]+c.RinseM
			out.DwellM[o.coil] = s.at[k] + c.WetDownM - sprayEnd[o.coil]
		} else {
			sprayEnd[o.coil] = step.EndM
		}
		free = step.EndM
		out.Steps = append(out.Steps, step)
	}
	out.TogetherM, out.Spoiled = together(s.coils)
	return out
}

// together says how long the coils stand when all are sprayed first, then rinsed in turn.
func together(coils []DwellCoil) (longest float64, spoiled bool) {
	sprayed := 0.0
	ends := make([]float64, len(coils))
	for i, c := range coils {
		sprayed += c.SprayM
		ends[i] = sprayed
	}
	free := math.Max(sprayed, ends[0]+coils[0].MinM-coils[0].WetDownM)
	for i, c := range coils {
		begin := math.Max(free, ends[i]+c.MinM-c.WetDownM)
		dwell := begin + c.WetDownM - ends[i]
		longest = math.Max(longest, dwell)
		spoiled = spoiled || dwell > c.MaxM+1e-9
		free = begin + c.RinseM
	}
	return longest, spoiled
}

// LatestStart is the latest start, minutes after midnight, for work of given minutes and a walk-through before opening.
func LatestStart(opensM float64, workM []float64, walkM float64) float64 {
	sort.Float64s(workM)
	for _, w := range workM {
		opensM -= w
	}
	return opensM - walkM
}

// Cold holding by the FDA Food Code's time control: at or below 5 °C (41 °F), above it for at most 4 h (from memory).
const (
	coldHoldingC = 5.0
	aboveHours   = 4.0
)

// StandOff is how long a cooler may stand off, from isolation.
type StandOff struct {
	// HoldsM is when its goods are expected to reach 5 °C; take them out by then.
	HoldsM float64 `json:"holds_m"`
	// LastM is when what was left in has been above 5 °C for 4 h.
	LastM float64 `json:"last_m"`
}

// Off works a cooler's stand-off time from its goods' temperature, the room's, and its warming time constant in hours:
//
//	t = τ ln((room − goods)/(room − 5))
//
// (exponential warming; the constant is an assumption). A room at or below 5 °C holds for a day.
func Off(goodsC, roomC, hours float64) StandOff {
	const day = 24 * 60.0
	holds := 0.0
	switch {
	case roomC <= coldHoldingC:
		holds = day
	case goodsC < coldHoldingC:
		holds = math.Min(day, 60*hours*math.Log((roomC-goodsC)/(roomC-coldHoldingC)))
	}
	return StandOff{HoldsM: holds, LastM: holds + 60*aboveHours}
}
