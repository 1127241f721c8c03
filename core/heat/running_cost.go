package heat

import (
	"math"

	"nextround/core/invalid"
	"nextround/core/root"
	"nextround/core/soil"
)

// Side of the cycle a coil is on.
type Side string

// The sides, and the coil that chilled or hot water runs through: no compressor hangs on it here.
const (
	Condenser  Side = "condenser"
	Evaporator Side = "evaporator"
	WaterCoil  Side = "water"
)

// Start values for what soil costs (assumption).
const (
	StartCallsYear   = .15 // h₀
	StartCallsSlope  = .14 // k, per K
	StartRunning     = .5  // share of the day the compressor runs with a clean coil
	mostCallRise     = 40.0
	MostCallsYear    = 12.0
	priceOfADayOver  = .5
	tableStep        = .01
	tablePoints      = int(mostLoad/tableStep) + 1
	daysOfAYear      = 365.0
	mostMoney        = 1e9
	mostSlope        = 1.0
	mostTemperatureK = 60.0
)

// LeastFactor is the least that a house's own records may make of call-outs and rise: further off it is the records that are wrong (assumption).
const LeastFactor = .01

// MostFactor is the most (assumption).
const MostFactor = 20.0

// DefaultOverPrice is what the organisation pays to avoid a day over its limit where nothing else is set (assumption).
const DefaultOverPrice = priceOfADayOver

// Economics is what a coil's soil costs: its energy and its call-outs.
type Economics struct {
	Side Side `json:"side"`
	Fan  Fan  `json:"fan"`
	// CleanK is the temperature difference between refrigerant and air with a clean coil, K.
	CleanK float64 `json:"clean_k"`
	// EnergyDay is what the clean unit uses in a day, in money.
	EnergyDay float64 `json:"energy_day"`
	// HoursShare is the share of hours in which soil shows: those above the head-pressure control's ambient. 0 means 1.
	HoursShare float64 `json:"hours_share,omitempty"`
	// FullLoadShare is the share of those hours in which a compressor of variable speed runs at full load; at less it has coil to
	// spare, and soil shows little. 0 means 1, a fixed speed.
	FullLoadShare float64 `json:"full_load_share,omitempty"`
	// FanDay is what the fan uses in a day with a clean coil, in money; it matters where its flow is held.
	FanDay float64 `json:"fan_day,omitempty"`
	// RunningShare is the share of the day the compressor runs with a clean coil; it cannot run more than all day, so
	// that the factor on energy never passes its inverse. 0 means StartRunning.
	RunningShare float64 `json:"running_share,omitempty"`
	// CallCost is a call-out with everything lost by it; 0 leaves call-outs out.
	CallCost float64 `json:"call_cost"`
	// CallsYear h₀, left out StartCallsYear; 0 means that soil causes none. CallsSlope k; 0 means StartCallsSlope.
	CallsYear  *float64 `json:"calls_year,omitempty"`
	CallsSlope float64  `json:"calls_slope,omitempty"`
	// CallsFactor m multiplies the call-outs, CallFactor; 0 means 1. RiseFactor γ multiplies the rise, RiseFactor; 0 means 1.
	CallsFactor float64 `json:"calls_factor,omitempty"`
	RiseFactor  float64 `json:"rise_factor,omitempty"`
	// ReplaceCost is what a new unit costs: call-outs a year never come to more. 0 is no bound.
	ReplaceCost float64 `json:"replace_cost,omitempty"`
	// OtherShare is the share of the same airflow that wheel and filter take, in [0, 1): see OtherShare. 0 leaves them out.
	OtherShare float64 `json:"other_share,omitempty"`
}

const (
	// A wheel or a filter that is blocked to a share takes this much of it from the airflow (assumption: a wheel's blades carry less
	// the more they are filled; a filter has more area than it needs).
	wheelWeight  = .8
	filterWeight = .5
)

// OtherShare is what wheel and filter, blocked to a share in [0, 1], take together from the airflow of an air coil:
//
//	1 − (1 − 0.8 wheel)(1 − 0.5 filter)
//
// (assumption for the weights). Shares outside [0, 1] are cut to it.
func OtherShare(wheel, filter float64) float64 {
	cut := func(x float64) float64 { return math.Max(0, math.Min(1, x)) }
	return 1 - (1-wheelWeight*cut(wheel))*(1-filterWeight*cut(filter))
}

// Check lists every field that cannot be used.
func (e Economics) Check() error {
	var bad invalid.Error
	if e.Side != Condenser && e.Side != Evaporator && e.Side != WaterCoil {
		bad.Addf("side", "must be condenser, evaporator or water, not %q", e.Side)
	}
	if !(e.Fan.CoilShare > 0 && e.Fan.CoilShare <= 1) {
		bad.Addf("fan.coil_share", "must be above 0 and at most 1")
	}
	if !(e.Fan.Steepness >= 0 && e.Fan.Steepness <= 10) {
		bad.Addf("fan.steepness", "must be between 0 and 10")
	}
	if d := e.Fan.Drive; d != "" && d != FixedSpeed && d != HeldFlow {
		bad.Addf("fan.drive", "must be fixed or held_flow, not %q", d)
	}
	if !(e.CleanK > 0 && e.CleanK <= mostTemperatureK) {
		bad.Addf("clean_k", "must be above 0 and at most 60 K")
	}
	if !(e.OtherShare >= 0 && e.OtherShare < 1) {
		bad.Addf("other_share", "must be at least 0 and below 1")
	}
	for name, v := range map[string]float64{"hours_share": e.HoursShare, "full_load_share": e.FullLoadShare, "running_share": e.RunningShare} {
		if !(v >= 0 && v <= 1) {
			bad.Addf(name, "must be between 0 and 1")
		}
	}
	for name, v := range map[string]float64{"energy_day": e.EnergyDay, "fan_day": e.FanDay, "call_cost": e.CallCost, "replace_cost": e.ReplaceCost} {
		if !(v >= 0 && v <= mostMoney) {
			bad.Addf(name, "must be 0 or more")
		}
	}
	if h := e.CallsYear; h != nil && !(*h >= 0 && *h <= MostCallsYear) {
		bad.Addf("calls_year", "must be between 0 and 12")
	}
	for name, v := range map[string]float64{"calls_factor": e.CallsFactor, "rise_factor": e.RiseFactor} {
		if v != 0 && !(v >= LeastFactor && v <= MostFactor) {
			bad.Addf(name, "must be between 0.01 and 20, or left out for 1")
		}
	}
	if !(e.CallsSlope >= 0 && e.CallsSlope <= mostSlope) {
		bad.Addf("calls_slope", "must be between 0 and 1 per K")
	}
	return bad.Err()
}

// withDefaults fills in what was left out.
func (e Economics) withDefaults() Economics {
	for p, v := range map[*float64]float64{
		&e.HoursShare: 1, &e.FullLoadShare: 1, &e.RunningShare: StartRunning, &e.CallsSlope: StartCallsSlope, &e.CallsFactor: 1, &e.RiseFactor: 1,
	} {
		if *p == 0 {
			*p = v
		}
	}
	if e.CallsYear == nil {
		start := StartCallsYear
		e.CallsYear = &start
	}
	return e
}

// RunningCost is what a soil load costs.
type RunningCost struct {
	// Airflow is the share of the clean flow left; a lower bound on what is lost where soil is patchy.
	Airflow float64 `json:"airflow_share"`
	// RiseK is condensing over, or evaporating under, that of the clean coil.
	RiseK float64 `json:"rise_k"`
	// Factor on the energy for the same cooling.
	Factor float64 `json:"energy_factor"`
	// FanPower is the factor on what the fan takes; 1 where its flow falls.
	FanPower float64 `json:"fan_power_factor"`
	// Capacity is the share of the clean coil's cooling or heating that is left at full load.
	Capacity float64 `json:"capacity_share"`
	// EnergyDay and CallsDay are money a day more than with a clean coil; CallsYear is call-outs a year more.
	EnergyDay float64 `json:"energy_day"`
	CallsDay  float64 `json:"calls_day"`
	CallsYear float64 `json:"calls_year"`
	// Bounded says that call-outs would cost more than a new unit, and count as that.
	Bounded bool `json:"bounded,omitempty"`
	// Icing says that an evaporator would ice over rather than run.
	Icing bool `json:"icing,omitempty"`
}

// Day is both together.
func (c RunningCost) Day() float64 { return c.EnergyDay + c.CallsDay }

// At is what a load costs:
//
//	energy a day more = clean energy × share of hours × (factor − 1) + the fan's × (its factor − 1)
//	call-outs a year more = m × min(12, h₀ (e^(k ΔT) − 1)), ΔT to 40 K
//	money for them a year = call-outs × cost of one, at most a new unit
//
// where ΔT is γ times the rise at the airflow that is left, and the share of hours that above the head-pressure control's ambient, of a
// compressor of variable speed at full load. A water coil has no compressor of its own: its factor is 1. What wheel and filter take of
// the airflow comes on top: blocked = 1 − (1 − coil)(1 − other). It is held against the clean unit.
//
// (assumption for h₀ and k; refitted from an organisation's own call-outs, FitCallOuts). The load is cut to [0, 3].
func (e Economics) At(load float64) RunningCost {
	e = e.withDefaults()
	blocked := soil.Share(math.Max(0, math.Min(mostLoad, load)))
	blocked = 1 - (1-blocked)*(1-e.OtherShare)
	out := RunningCost{Airflow: e.Fan.Airflow(blocked), Factor: 1, FanPower: e.Fan.Power(blocked)}
	out.RiseK = e.RiseFactor * rise(e.CleanK, out.Airflow)
	out.Capacity = capacity(e.Side, out.RiseK, out.Airflow)
	switch e.Side {
	case Evaporator:
		out.Factor, out.Icing = EvaporatorEnergy(out.RiseK), out.RiseK > mostEvaporatorDrop
	case Condenser:
		out.Factor = CondenserEnergy(out.RiseK)
	case WaterCoil:
	}
	out.Factor = math.Max(1, math.Min(out.Factor, 1/e.RunningShare))
	out.EnergyDay = e.EnergyDay*e.HoursShare*e.FullLoadShare*(out.Factor-1) + e.FanDay*(out.FanPower-1)
	out.CallsYear = e.CallsFactor * math.Min(MostCallsYear, *e.CallsYear*math.Expm1(e.CallsSlope*math.Min(mostCallRise, out.RiseK)))
	year := out.CallsYear * e.CallCost
	if out.Bounded = e.ReplaceCost > 0 && year > e.ReplaceCost; out.Bounded {
		year = e.ReplaceCost
	}
	out.CallsDay = year / daysOfAYear
	return out
}

// CostTable is the money a day by load, tabulated so that it can be asked often.
type CostTable [tablePoints]float64

// Table tabulates e in steps of 0.01 load.
func (e Economics) Table() *CostTable {
	var t CostTable
	for i := range t {
		t[i] = e.At(float64(i) * tableStep).Day()
	}
	return &t
}

// Tables tabulates energy and call-outs apart, in steps of 0.01 load.
func (e Economics) Tables() (energy, calls *CostTable) {
	energy, calls = new(CostTable), new(CostTable)
	for i := range energy {
		c := e.At(float64(i) * tableStep)
		energy[i], calls[i] = c.EnergyDay, c.CallsDay
	}
	return energy, calls
}

// Summed is the integral of the table from load 0 to each of its points, for CostTable.Upto.
func (t *CostTable) Summed() *CostTable {
	var out CostTable
	for i := 1; i < tablePoints; i++ {
		out[i] = out[i-1] + tableStep*(t[i-1]+t[i])/2
	}
	return &out
}

// Upto is the integral of a table from load 0 to a load, exact for its broken line; sum is its Summed.
func (t *CostTable) Upto(sum *CostTable, load float64) float64 {
	at := load / tableStep
	if !(at > 0) {
		return load * t[0]
	}
	if at >= float64(tablePoints-1) {
		return sum[tablePoints-1] + (load-mostLoad)*t[tablePoints-1]
	}
	i := int(at)
	part := at - float64(i)
	return sum[i] + tableStep*part*(t[i]+(t[i+1]-t[i])*part/2)
}

// Day is the money a day at a load, linear between the points, constant from load 3 on.
func (t *CostTable) Day(load float64) float64 {
	at := load / tableStep
	if !(at > 0) {
		return t[0]
	}
	if at >= float64(tablePoints-1) {
		return t[tablePoints-1]
	}
	i := int(at)
	return t[i] + (t[i+1]-t[i])*(at-float64(i))
}

// LoadFromRise inverts the rise: the soil load at which the coil would run this much further from the air than clean. It
// is 0 for no rise, and ok is false beyond load 3.
func (e Economics) LoadFromRise(k float64) (load float64, ok bool) {
	e = e.withDefaults()
	at := func(l float64) float64 { return e.RiseFactor * rise(e.CleanK, e.Fan.Airflow(soil.Share(l))) }
	switch {
	case !(k > 0):
		return 0, !math.IsNaN(k)
	case k > at(mostLoad):
		return mostLoad, false
	}
	_, load = root.Halve(0, mostLoad, 60, func(l float64) bool { return at(l) >= k })
	return load, true
}
