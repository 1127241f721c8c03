// Package heat turns soil into airflow, temperatures and energy factors, pressures into saturation temperatures, and
// judges readings. SI throughout: kPa absolute, °C, K, Ω, V, A.
package heat

import (
	"fmt"
	"math"

	"nextround/core/invalid"
	"nextround/core/root"
)

const zeroCelsius = 273.15

// StandardPressure is the pressure of the standard atmosphere at sea level, in kPa.
const StandardPressure = 101.325

// AirPressure is the pressure of the standard atmosphere at a height in metres:
//
//	p = 101.325 (1 − 2.25577e-5 h)^5.25588 kPa
//
// (ICAO standard atmosphere, from memory). Heights outside −500 to 11,000 m are taken at that end.
func AirPressure(height float64) float64 {
	h := math.Max(-500, math.Min(11000, height))
	return StandardPressure * math.Pow(1-2.25577e-5*h, 5.25588)
}

// Saturation is what a pressure says about a refrigerant.
type Saturation struct {
	BubbleC float64 `json:"bubble_c"`
	DewC    float64 `json:"dew_c"`
	// MidC is the middle of bubble and dew, used for condensing over ambient.
	MidC float64 `json:"mid_c"`
}

// ErrRange says why a pressure cannot be judged.
type ErrRange struct{ Reason string }

// Error is the reason.
func (e ErrRange) Error() string { return e.Reason }

// SaturationAt is the saturation of an absolute pressure in kPa. It returns ErrRange where the pressure is not one of
// two phases: above the critical point, or below the lowest the equation holds for.
func (r Refrigerant) SaturationAt(kpa float64) (Saturation, error) {
	if len(r.Table) > 0 {
		b, okB := r.tableTemperature(kpa, func(p TablePoint) float64 { return p.BubbleKpa })
		d, okD := r.tableTemperature(kpa, func(p TablePoint) float64 { return p.DewKpa })
		if !okB || !okD {
			return Saturation{}, ErrRange{fmt.Sprintf("%.0f kPa is outside the imported table of %s", kpa, r.Code)}
		}
		return Saturation{b, d, (b + d) / 2}, nil
	}
	switch {
	case math.IsNaN(kpa):
		return Saturation{}, ErrRange{"the pressure is no number"}
	case kpa >= r.Pc:
		return Saturation{}, ErrRange{fmt.Sprintf("%.0f kPa is above the critical point of %s (%.0f kPa): it does not condense there", kpa, r.Code, r.Pc)}
	case kpa < r.Least:
		return Saturation{}, ErrRange{fmt.Sprintf("%.1f kPa is below what %s can have in a running machine", kpa, r.Code)}
	}
	s := Saturation{BubbleC: r.solve(r.Bubble, kpa), DewC: r.solve(r.Dew, kpa)}
	s.MidC = (s.BubbleC + s.DewC) / 2
	return s, nil
}

// solve finds the temperature of a line at a pressure by halving; the lines rise all the way.
func (r Refrigerant) solve(l Line, kpa float64) float64 {
	_, at := root.Halve(100, r.Tc, 80, func(t float64) bool { return r.pressure(l, t) >= kpa })
	return at - zeroCelsius
}

// PressureAt gives the bubble and dew pressures, kPa absolute, at a temperature in °C below the critical point.
func (r Refrigerant) PressureAt(celsius float64) (bubble, dew float64) {
	t := celsius + zeroCelsius
	return r.pressure(r.Bubble, t), r.pressure(r.Dew, t)
}

// SaturationInput is a gauge or absolute pressure of a refrigerant.
type SaturationInput struct {
	Refrigerant string `json:"refrigerant"`
	// GaugeKpa is over the air's pressure, AbsoluteKpa is not; one of them is given.
	GaugeKpa    *float64 `json:"gauge_kpa,omitempty"`
	AbsoluteKpa *float64 `json:"absolute_kpa,omitempty"`
	// HeightM is the height of the place above the sea, 0 when unknown.
	HeightM float64 `json:"height_m,omitempty"`
	// Table takes the place of the built-in equations; bubble and dew in kPa absolute.
	Table []TablePoint `json:"table,omitempty"`
}

// SaturationResult is what the pressure says, and what that rests on.
type SaturationResult struct {
	Refrigerant string  `json:"refrigerant"`
	AbsoluteKpa float64 `json:"absolute_kpa"`
	Saturation
	Source string `json:"source"`
}

// Saturate answers for one pressure.
func Saturate(in SaturationInput) (SaturationResult, error) {
	var bad invalid.Error
	r, err := resolve(in.Refrigerant, in.Table)
	if err != nil {
		bad.Addf("refrigerant", "%s", err)
	}
	p := 0.0
	switch {
	case (in.GaugeKpa == nil) == (in.AbsoluteKpa == nil):
		bad.Addf("gauge_kpa", "give either the gauge or the absolute pressure")
	case in.GaugeKpa != nil:
		p = *in.GaugeKpa + AirPressure(in.HeightM)
	default:
		p = *in.AbsoluteKpa
	}
	if len(bad) > 0 {
		return SaturationResult{}, bad
	}
	s, err := r.SaturationAt(p)
	if err != nil {
		bad.Addf("gauge_kpa", "%s", err)
		return SaturationResult{}, bad
	}
	return SaturationResult{Refrigerant: r.Code, AbsoluteKpa: p, Saturation: s, Source: r.Source}, nil
}

// resolve finds the refrigerant, or makes one of an imported table.
func resolve(code string, table []TablePoint) (Refrigerant, error) {
	r, ok := RefrigerantByCode(code)
	if len(table) == 0 {
		if !ok {
			return r, fmt.Errorf("%q is not known; import a table for it", code)
		}
		return r, nil
	}
	if !ok {
		r = Refrigerant{Code: code}
	}
	r.Table, r.Source = table, "imported table"
	return r, CheckTable(table)
}

// CheckTable says what is wrong with an imported table: it needs two rows or more that rise.
func CheckTable(table []TablePoint) error {
	if len(table) < 2 {
		return fmt.Errorf("a saturation table needs two rows or more")
	}
	for i, p := range table {
		switch {
		case p.BubbleKpa <= 0 || p.DewKpa <= 0 || p.DewKpa > p.BubbleKpa*1.0001:
			return fmt.Errorf("row %d of the table: the bubble pressure is the higher of the two, and both are above 0 kPa", i+1)
		case i > 0 && (p.Celsius <= table[i-1].Celsius || p.BubbleKpa <= table[i-1].BubbleKpa || p.DewKpa <= table[i-1].DewKpa):
			return fmt.Errorf("row %d of the table does not rise over the row before", i+1)
		}
	}
	return nil
}
