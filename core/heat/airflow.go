package heat

import "math"

// Limits of the physics: beyond them a coil is no longer a coil.
const (
	mostLoad    = 3.0
	leastFlow   = .05
	mostBlocked = 0.950212931632136 // 1 − e^−3
)

// Air side of an ordinary coil: clean transfer units and the share of the resistance that lies on the air side
// (assumption).
const (
	cleanNTU     = 1.2
	airSideShare = .8
)

// Fan is how an air system answers a blocked coil.
type Fan struct {
	// CoilShare is the coil's share of the clean static pressure, in (0, 1].
	CoilShare float64 `json:"coil_share"`
	// Steepness is m in p = 1 + m(1 − φ²): 1.0 for a propeller, 0.3 for a forward-curved wheel (assumption).
	Steepness float64 `json:"steepness"`
	// Drive says what the fan does when the coil blocks; left out, FixedSpeed.
	Drive Drive `json:"drive,omitempty"`
}

// Drive is how a fan is driven.
type Drive string

// The two drives: one speed, so that the flow falls; or a controller that holds the flow by more speed.
const (
	FixedSpeed Drive = "fixed"
	HeldFlow   Drive = "held_flow"
)

// mostPressure is the multiple of the clean pressure up to which a controller can hold the flow (assumption).
const mostPressure = 2.0

// resistance R of the system with a blocked share, as a multiple of the clean one.
func (f Fan) resistance(blocked float64) float64 {
	b := math.Max(0, math.Min(mostBlocked, blocked))
	return 1 - f.CoilShare + f.CoilShare/((1-b)*(1-b))
}

// CondenserFan and DuctedFan are the usual ones (assumption).
var (
	CondenserFan = Fan{CoilShare: .6, Steepness: 1}
	DuctedFan    = Fan{CoilShare: .5, Steepness: .3}
)

// Airflow is the share φ of the clean airflow that a blocked share B leaves, for an even mat of soil; patchy soil takes
// at least as much:
//
//	R = (1−s) + s/(1−B)²,  φ = √((1+m)/(m+R))
//
// where the speed is fixed. A held flow stays at 1 up to twice the clean pressure, and is √(2/R) beyond. B is cut to [0, 0.95], φ to
// 0.05 or more.
func (f Fan) Airflow(blocked float64) float64 {
	r := f.resistance(blocked)
	if f.Drive == HeldFlow {
		return math.Max(leastFlow, math.Sqrt(math.Min(1, mostPressure/r)))
	}
	return math.Max(leastFlow, math.Sqrt((1+f.Steepness)/(f.Steepness+r)))
}

// Power is the multiple of its clean power that a fan takes where its flow is held: that of the pressure at the same flow (identity), R,
// and no more than 2, where the controller is at its end. At a fixed speed it is 1: what a fan takes then hangs on its kind, and
// differs by little.
func (f Fan) Power(blocked float64) float64 {
	if f.Drive != HeldFlow {
		return 1
	}
	return math.Min(mostPressure, f.resistance(blocked))
}

// effectiveness of an exchanger with one side at constant temperature, at the share φ of the airflow.
func effectiveness(flow float64) float64 {
	ua := 1 / (airSideShare*math.Pow(flow, -.5) + 1 - airSideShare)
	return 1 - math.Exp(-cleanNTU*ua/flow)
}

// rise is how much further the refrigerant is from the air than with a clean coil, in K.
func rise(clean, flow float64) float64 {
	return clean * (effectiveness(1)/(effectiveness(flow)*flow) - 1)
}

// Clean temperature differences between refrigerant and air, K (assumption).
const (
	CleanCondenser = 14.0
	CleanPlugIn    = 12.0
	CleanColdRoom  = 8.0
	CleanAirCooler = 18.0
	CleanWaterCoil = 8.0
)

// CondenserRise is how far a blocked share lifts the condensing temperature over that of the clean coil, in K:
//
//	ΔT = ΔT₀(ε₀/(εφ) − 1)
func CondenserRise(f Fan, clean, blocked float64) float64 { return rise(clean, f.Airflow(blocked)) }

// EvaporatorDrop is how far a blocked share lowers the evaporating temperature, in K.
func EvaporatorDrop(f Fan, clean, blocked float64) float64 { return rise(clean, f.Airflow(blocked)) }

// Beyond these a unit trips or ices over rather than runs, in K (assumption).
const (
	mostCondenserRise  = 16.0
	mostEvaporatorDrop = 15.0
)

// CondenserEnergy is the factor on the energy for the same cooling at a rise of ΔT kelvin, counted to 16 K:
//
//	(1.10 / 0.93)^(ΔT / 5.556)
//
// fixed by the worked example of US DOE/FEMP, "Continuous Commissioning Guidebook" (from memory): condensing at 105 in
// place of 95 °F takes 10 % more power for 7 % less cooling.
func CondenserEnergy(rise float64) float64 {
	return math.Pow(1.10/.93, math.Max(0, math.Min(mostCondenserRise, rise))/5.556)
}

// EvaporatorEnergy is the factor on the energy at a drop of ΔT kelvin, counted to 15 K, above which a coil ices:
//
//	0.97^−ΔT  (assumption)
func EvaporatorEnergy(drop float64) float64 {
	return math.Pow(.97, -math.Max(0, math.Min(mostEvaporatorDrop, drop)))
}

// Capacity left, as a share of that of the clean coil, at a rise or drop of ΔT kelvin: a condenser loses 7 % for each 5.556 K (the
// worked example of CondenserEnergy), an evaporator 3 % for each kelvin (assumption), a water coil what its air carries less.
func capacity(side Side, rise, flow float64) float64 {
	switch side {
	case Condenser:
		return math.Pow(.93, math.Max(0, math.Min(mostCondenserRise, rise))/5.556)
	case WaterCoil:
		return flow * effectiveness(flow) / effectiveness(1)
	}
	return math.Pow(.97, math.Max(0, math.Min(mostEvaporatorDrop, rise)))
}
