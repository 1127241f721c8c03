package heat

import (
	"fmt"
	"math"

	"nextround/core/invalid"
	"nextround/core/reason"
)

// Verdict is what a reading comes to.
type Verdict string

// The verdicts. A reading without the context that makes it judgeable cannot be judged; one that has no limit of its own is kept
// as context of others.
const (
	Pass        Verdict = "pass"
	Borderline  Verdict = "borderline"
	Fail        Verdict = "fail"
	CannotJudge Verdict = "cannot_judge"
	NoVerdict   Verdict = "no_verdict"
)

// Kind is what was measured.
type Kind string

// Kinds of reading with their unit.
const (
	Capacitor     Kind = "capacitor_uf"       // µF, discharged and taken off, or under load by licensed people
	ContactorCoil Kind = "contactor_coil_ohm" // Ω of a 24 V coil
	ContactorMain Kind = "contactor_main_ohm" // Ω of a mains-voltage coil
	IsolationVolt Kind = "isolation_v"        // V that must be gone
	SupplyVolt    Kind = "supply_v"           // V
	MotorAmps     Kind = "motor_a"            // A
	HighPressure  Kind = "high_pressure_kpa"  // kPa gauge
	LowPressure   Kind = "low_pressure_kpa"   // kPa gauge
	LiquidLine    Kind = "liquid_line_c"      // °C
	AirOnCoil     Kind = "air_on_c"           // °C
	AirOffCoil    Kind = "air_off_c"          // °C
	Superheat     Kind = "superheat_k"        // K, by licensed people
	Subcooling    Kind = "subcooling_k"       // K, by licensed people
	Ambient       Kind = "ambient_c"          // °C
	FoodProbe     Kind = "food_c"             // °C, a probe's own water or the goods
	FrozenGoods   Kind = "frozen_c"           // °C of frozen goods
	CoilPressure  Kind = "coil_pressure_pa"   // Pa across the coil
	FanCurrent    Kind = "fan_a"              // A
	Humidity      Kind = "relative_humidity"  // share
)

// KindFacts describe a kind of reading.
type KindFacts struct {
	Kind Kind   `json:"kind"`
	Name string `json:"name"`
	Unit string `json:"unit"`
	// Lo and Hi bound what a working instrument can show; outside is a slip.
	Lo float64 `json:"lo"`
	Hi float64 `json:"hi"`
	// Needs names the context without which it cannot be judged.
	Needs []string `json:"needs,omitempty"`
	// Licensed readings are taken by people licensed for refrigerant or live work.
	Licensed bool `json:"licensed"`
}

// Kinds of reading in the order of the pick list.
var Kinds = []KindFacts{
	{HighPressure, "High side pressure", "kPa gauge", -101, 14000, []string{"refrigerant", "ambient_c"}, true},
	{LowPressure, "Low side pressure", "kPa gauge", -101, 8000, []string{"refrigerant"}, true},
	{LiquidLine, "Liquid line", "°C", -60, 120, []string{"ambient_c"}, false},
	{Superheat, "Superheat", "K", -5, 60, nil, true},
	{Subcooling, "Subcooling", "K", -5, 60, nil, true},
	{MotorAmps, "Compressor current", "A", 0, 1000, []string{"nameplate"}, true},
	{FanCurrent, "Fan current", "A", 0, 200, []string{"nameplate"}, true},
	{SupplyVolt, "Supply", "V", 0, 1000, []string{"nameplate"}, true},
	{Capacitor, "Capacitor", "µF", 0, 500, []string{"nameplate"}, false},
	{ContactorCoil, "Contactor coil, 24 V", "Ω", 0, 10000, nil, false},
	{ContactorMain, "Contactor coil, mains voltage", "Ω", 0, 100000, nil, false},
	{IsolationVolt, "Voltage after isolation", "V", 0, 1000, nil, false},
	{AirOnCoil, "Air on to the coil", "°C", -50, 70, nil, false},
	{AirOffCoil, "Air off the coil", "°C", -50, 90, nil, false},
	{Ambient, "Ambient", "°C", -50, 60, nil, false},
	{FoodProbe, "Food or probe water", "°C", -50, 60, nil, false},
	{FrozenGoods, "Frozen goods", "°C", -60, 60, nil, false},
	{CoilPressure, "Pressure across the coil", "Pa", 0, 2000, nil, false},
	{Humidity, "Relative humidity", "share", 0, 1, nil, false},
}

// FactsOf finds a kind.
func FactsOf(k Kind) (KindFacts, bool) {
	for _, f := range Kinds {
		if f.Kind == k {
			return f, true
		}
	}
	return KindFacts{}, false
}

// Context is what makes a reading judgeable; what is not known is left out.
type Context struct {
	AmbientC    *float64 `json:"ambient_c,omitempty"`
	Refrigerant string   `json:"refrigerant,omitempty"`
	HeightM     float64  `json:"height_m,omitempty"`
	// Nameplate is the value the nameplate or the part gives, in the reading's unit.
	Nameplate *float64 `json:"nameplate,omitempty"`
	// PlugIn marks small self-contained refrigeration: its condenser runs closer to ambient.
	PlugIn bool `json:"plug_in,omitempty"`
	// Evaporating is the air the coil cools, for the low side.
	AirOnC *float64 `json:"air_on_c,omitempty"`
	// HeadControl says that fans cycle or a valve holds the head pressure: then the high side says nothing of soil.
	HeadControl bool `json:"head_control,omitempty"`
	// AirCooled is true unless the condenser is cooled by water.
	WaterCooled bool         `json:"water_cooled,omitempty"`
	Table       []TablePoint `json:"table,omitempty"`
}

// Reading is one value with its context.
type Reading struct {
	Kind    Kind    `json:"kind"`
	Value   float64 `json:"value"`
	Context Context `json:"context"`
}

// Judgement of a reading.
type Judgement struct {
	Verdict Verdict `json:"verdict"`
	// Lo and Hi are the limits it was held against, in the reading's unit; absent where there is none.
	Lo *float64 `json:"lo,omitempty"`
	Hi *float64 `json:"hi,omitempty"`
	// SaturationC is the saturation temperature of a pressure; OverAmbientK what it lies over ambient.
	SaturationC  *float64 `json:"saturation_c,omitempty"`
	OverAmbientK *float64 `json:"over_ambient_k,omitempty"`
	// CauseNeeded asks for what is behind a reading out of limits.
	CauseNeeded bool `json:"cause_needed"`
	// Missing names the context that is wanted.
	Missing []string        `json:"missing,omitempty"`
	Reasons []reason.Reason `json:"reasons"`
}

// Limits of the usual checks (common practice, no source) but for the capacitor's, which is the usual marking.
const (
	capacitorShare = .06
	contactorLo    = 13.0
	contactorHi    = 19.0
	voltShare      = .10
	// borderShare of a limit's width counts as borderline, inside it.
	borderShare = .15
	// coldHolding is the FDA Food Code's cold holding of food, 41 °F (from memory).
	coldHolding = 5.0
	// frozenHolding is what frozen goods are held at or below (Codex code of practice for quick frozen foods, from memory).
	frozenHolding = -18.0
)

// Judge holds a reading against its limit at once. Errors are values no instrument can show.
func Judge(r Reading) (Judgement, error) {
	var bad invalid.Error
	f, ok := FactsOf(r.Kind)
	switch {
	case !ok:
		bad.Addf("kind", "%q is not a kind of reading", r.Kind)
	case math.IsNaN(r.Value) || r.Value < f.Lo || r.Value > f.Hi:
		bad.Addf("value", "%s must be between %g and %g %s", f.Name, f.Lo, f.Hi, f.Unit)
	}
	if len(bad) > 0 {
		return Judgement{}, bad
	}
	out := Judgement{Reasons: []reason.Reason{}}
	for _, need := range f.Needs {
		if !r.Context.has(need) {
			out.Missing = append(out.Missing, need)
		}
	}
	if len(out.Missing) > 0 {
		return out.undecided(reason.ContextMissing, nil), nil
	}
	switch r.Kind {
	case HighPressure, LowPressure:
		return judgePressure(r, out)
	case Capacitor:
		n := *r.Context.Nameplate
		return out.within(r.Value, n*(1-capacitorShare), n*(1+capacitorShare), reason.CapacitorMarking, reason.CommonPractice), nil
	case ContactorCoil:
		return out.within(r.Value, contactorLo, contactorHi, reason.ContactorCoil, reason.CommonPractice), nil
	case SupplyVolt:
		n := *r.Context.Nameplate
		return out.within(r.Value, n*(1-voltShare), n*(1+voltShare), reason.NameplateVolts, reason.CommonPractice), nil
	case MotorAmps, FanCurrent:
		return out.atMost(r.Value, *r.Context.Nameplate, reason.NameplateAmps, reason.CommonPractice), nil
	case IsolationVolt:
		out.Lo, out.Hi = new(float64), new(float64)
		out.Verdict = Pass
		if r.Value > deadBand {
			out.Verdict, out.CauseNeeded = Fail, true
		}
		return out.because(reason.Isolation, reason.CommonPractice, reason.Numbers{"volts": r.Value}), nil
	case FoodProbe:
		return out.atMost(r.Value, coldHolding, reason.ColdHolding, reason.Published), nil
	case FrozenGoods:
		return out.atMost(r.Value, frozenHolding, reason.FrozenHolding, reason.Published), nil
	case LiquidLine:
		if !r.Context.WaterCooled && r.Value < *r.Context.AmbientC-1 {
			return out.undecided(reason.LiquidBelowAmbient, reason.Numbers{"ambient": *r.Context.AmbientC, "value": r.Value}), nil
		}
	case AirOnCoil, AirOffCoil, Ambient, Superheat, Subcooling, CoilPressure, Humidity, ContactorMain:
	}
	out.Verdict = NoVerdict
	return out.because(reason.NoLimit, reason.CommonPractice, nil), nil
}

// deadBand is what a meter may show of nothing, in V (assumption).
const deadBand = .5

func (c Context) has(need string) bool {
	switch need {
	case "refrigerant":
		return c.Refrigerant != "" || len(c.Table) > 0
	case "ambient_c":
		return c.AmbientC != nil
	case "nameplate":
		return c.Nameplate != nil && *c.Nameplate > 0
	}
	return true
}

func (j Judgement) because(code reason.Code, e reason.Evidence, n reason.Numbers) Judgement {
	j.Reasons = append(j.Reasons, reason.Reason{Code: code, Numbers: n, Evidence: e})
	return j
}

func (j Judgement) undecided(code reason.Code, n reason.Numbers) Judgement {
	j.Verdict = CannotJudge
	return j.because(code, reason.CommonPractice, n)
}

// within judges a value against two limits: borderline in the outer share of what passes.
func (j Judgement) within(v, lo, hi float64, code reason.Code, e reason.Evidence) Judgement {
	j.Lo, j.Hi = &lo, &hi
	edge := borderShare * (hi - lo) / 2
	switch {
	case v < lo || v > hi:
		j.Verdict, j.CauseNeeded = Fail, true
	case v < lo+edge || v > hi-edge:
		j.Verdict = Borderline
	default:
		j.Verdict = Pass
	}
	return j.because(code, e, reason.Numbers{"lo": lo, "hi": hi, "value": v})
}

// atMost judges a value against an upper limit: borderline within a twentieth of it.
func (j Judgement) atMost(v, hi float64, code reason.Code, e reason.Evidence) Judgement {
	j.Hi = &hi
	switch {
	case v > hi:
		j.Verdict, j.CauseNeeded = Fail, true
	case hi > 0 && v > .95*hi:
		j.Verdict = Borderline
	default:
		j.Verdict = Pass
	}
	return j.because(code, e, reason.Numbers{"hi": hi, "value": v})
}

// Condensing over ambient: up to 1.3 times the clean coil's difference passes, up to 1.6 times is borderline; under half
// of it the reading cannot belong to a running air-cooled coil (assumption).
const (
	passTimes, borderTimes, leastTimes = 1.3, 1.6, .35
)

func judgePressure(r Reading, out Judgement) (Judgement, error) {
	f, err := resolve(r.Context.Refrigerant, r.Context.Table)
	if err != nil {
		return Judgement{}, invalid.Error{{Path: "context.refrigerant", Reason: err.Error()}}
	}
	s, impossible := f.SaturationAt(r.Value + AirPressure(r.Context.HeightM))
	if impossible != nil {
		out = out.undecided(reason.PressureImpossible, reason.Numbers{"value": r.Value})
		out.Reasons[len(out.Reasons)-1].Names = reason.Names{"why": impossible.Error()}
		return out, nil //nolint:nilerr // what cannot be is a verdict, not a wrong input
	}
	if r.Kind == LowPressure {
		out.SaturationC = &s.DewC
		if r.Context.AirOnC == nil {
			out.Missing = []string{"air_on_c"}
			return out.undecided(reason.ContextMissing, nil), nil
		}
		// How far the coil lies under the air it cools: 4 to 22 K is usual for one that runs (assumption).
		under := *r.Context.AirOnC - s.DewC
		j := out.within(under, 4, 22, reason.EvaporatingUnderAir, reason.Assumption)
		j.Lo, j.Hi = nil, nil
		return j, nil
	}
	out.SaturationC = &s.MidC
	over := s.MidC - *r.Context.AmbientC
	out.OverAmbientK = &over
	if r.Context.HeadControl {
		return out.undecided(reason.HeadControl, reason.Numbers{"over": over}), nil
	}
	clean := CleanCondenser
	if r.Context.PlugIn {
		clean = CleanPlugIn
	}
	n := reason.Numbers{"over": over, "clean": clean, "pass": passTimes * clean, "border": borderTimes * clean, "saturation": s.MidC}
	switch {
	case over < leastTimes*clean:
		return out.undecided(reason.CondensingTooCool, n), nil
	case over <= passTimes*clean:
		out.Verdict = Pass
	case over <= borderTimes*clean:
		out.Verdict = Borderline
	default:
		out.Verdict, out.CauseNeeded = Fail, true
	}
	return out.because(reason.CondensingOverAmbient, reason.Assumption, n), nil
}

// String names the verdict in words.
func (v Verdict) String() string {
	if v == CannotJudge {
		return "cannot judge"
	}
	return string(v)
}

// pairOf says in words why two runs cannot be compared; see Proof.
func pairOf(what string, apart, most float64) string {
	return fmt.Sprintf("%s apart by %.1f, at most %.0f", what, apart, most)
}
