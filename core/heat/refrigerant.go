package heat

import (
	"math"
	"sort"
	"strings"
)

// Line is one saturation line of a refrigerant as a vapour-pressure equation:
//
//	ln(p/pc) = (Tc/T) Σ nᵢ θ^tᵢ,  θ = 1 − T/Tc
//
// with p in kPa and T in K.
type Line struct {
	N, T []float64
}

// Refrigerant has a bubble line (the high side is read on it) and a dew line (the low side); they are the same for a
// pure fluid. Tc in K, Pc and Least in kPa; below Least the equation does not hold.
type Refrigerant struct {
	Code   string
	Tc, Pc float64
	// Least is the lowest pressure judged, in kPa absolute: the triple point's, or that of −80 °C.
	Least       float64
	Bubble, Dew Line
	// Flammable asks for no ignition source and for air (ISO 817 classes A2L and A3, from memory).
	Flammable bool
	// Source is the paper of the equation; the coefficients are from memory and held by the checks of the tests.
	Source string
	// Table takes the place of the equations where somebody brought one in; sorted by temperature.
	Table []TablePoint
}

// TablePoint is a row of an imported saturation table: °C and kPa absolute.
type TablePoint struct {
	Celsius   float64 `json:"c"`
	BubbleKpa float64 `json:"bubble_kpa"`
	DewKpa    float64 `json:"dew_kpa"`
}

func pure(n, t []float64) (Line, Line) { return Line{n, t}, Line{n, t} }

func fluid(code string, tc, pc, least float64, bubble, dew Line, flammable bool, source string) Refrigerant {
	return Refrigerant{Code: code, Tc: tc, Pc: pc, Least: least, Bubble: bubble, Dew: dew, Flammable: flammable, Source: source}
}

const lemmon2003 = "Lemmon, Int. J. Thermophys. 24 (2003) 991, pseudo-pure mixtures"

// Refrigerants are the built-in ones, by code.
var Refrigerants = builtIn()

func builtIn() []Refrigerant {
	r22b, r22d := pure([]float64{-7.0780, 1.7211, -1.6379, -3.7952, .86937}, []float64{1, 1.5, 2.2, 4.8, 6.2})
	r32b, r32d := pure([]float64{-7.4883, 1.9697, -1.7496, -4.0224, 1.5209}, []float64{1, 1.5, 2.2, 4.8, 6.2})
	r134b, r134d := pure([]float64{-7.686556, 2.311791, -2.039554, -3.583758}, []float64{1, 1.5, 2, 4})
	r290b, r290d := pure([]float64{-6.7722, 1.6938, -1.3341, -3.1876, .94937}, []float64{1, 1.5, 2.2, 4.8, 6.2})
	r600b, r600d := pure([]float64{-6.85093103, 1.36543198, -1.32542691, -2.56190994}, []float64{1, 1.5, 2.5, 4.5})
	r744b, r744d := pure([]float64{-7.0602087, 1.9391218, -1.6463597, -3.2995634}, []float64{1, 1.5, 2, 4})
	return []Refrigerant{
		fluid("R-22", 369.295, 4990, 10, r22b, r22d, false, "Kamei, Beyerlein, Jacobsen, Int. J. Thermophys. 16 (1995) 1155"),
		fluid("R-32", 351.255, 5782, 18, r32b, r32d, true, "Tillner-Roth, Yokozeki, J. Phys. Chem. Ref. Data 26 (1997) 1273"),
		fluid("R-134a", 374.18, 4056.29, 3.6, r134b, r134d, false, "Tillner-Roth, Baehr, J. Phys. Chem. Ref. Data 23 (1994) 657"),
		fluid("R-290", 369.89, 4251.2, 12, r290b, r290d, true, "Lemmon, McLinden, Wagner, J. Chem. Eng. Data 54 (2009) 3141"),
		fluid("R-404A", 345.27, 3734.8, 15,
			Line{[]float64{.061067, -6.5646, -3.6162, -3.9771}, []float64{.54, .965, 3.7, 9}},
			Line{[]float64{-.00026863, -6.5757, -4.1802, -7.9102}, []float64{.1, .972, 3.8, 9}}, false, lemmon2003),
		fluid("R-407C", 359.345, 4631.7, 13,
			Line{[]float64{.48722, -6.6959, -1.4165, -2.5109}, []float64{.54, .925, 2.7, 4.7}},
			Line{[]float64{-.086077, -6.6364, -2.4648, -3.4776}, []float64{.4, .965, 3.1, 5}}, false, lemmon2003),
		fluid("R-410A", 344.494, 4901.2, 18,
			Line{[]float64{-7.2818, 2.5093, -3.2695, -2.8022}, []float64{1, 1.8, 2.4, 4.9}},
			Line{[]float64{-7.4411, 1.9883, -2.4925, -3.2633}, []float64{1, 1.6, 2.4, 5}}, false, lemmon2003),
		fluid("R-507A", 343.765, 3704.9, 16,
			Line{[]float64{-7.4853, 2.0115, -2.0141, -3.7763}, []float64{1, 1.5, 2.2, 4.6}},
			Line{[]float64{-7.5459, 2.3380, -2.2370, -4.1535}, []float64{1, 1.5, 2.1, 4.7}}, false, lemmon2003),
		fluid("R-600a", 407.81, 3629, 3, r600b, r600d, true, "Bücker, Wagner, J. Phys. Chem. Ref. Data 35 (2006) 929"),
		fluid("R-744", 304.1282, 7377.3, 518, r744b, r744d, false, "Span, Wagner, J. Phys. Chem. Ref. Data 25 (1996) 1509"),
	}
}

// RefrigerantByCode finds a refrigerant however its code is spelt: R-410A, R410a, 410A.
func RefrigerantByCode(code string) (Refrigerant, bool) {
	want := plainCode(code)
	for _, r := range Refrigerants {
		if plainCode(r.Code) == want {
			return r, true
		}
	}
	return Refrigerant{}, false
}

func plainCode(code string) string {
	keep := func(r rune) rune {
		if r == '-' || r == ' ' || r == '(' || r == ')' {
			return -1
		}
		return r
	}
	return strings.TrimPrefix(strings.Map(keep, strings.ToUpper(code)), "R")
}

// pressure of a line at T kelvin, in kPa.
func (r Refrigerant) pressure(l Line, t float64) float64 {
	theta := 1 - t/r.Tc
	if theta <= 0 {
		return r.Pc
	}
	sum := 0.0
	for i := range l.N {
		sum += l.N[i] * math.Pow(theta, l.T[i])
	}
	return r.Pc * math.Exp(r.Tc/t*sum)
}

// table gives the pressures of an imported table, between its points straight in ln p over 1/T, and its ends.
func (r Refrigerant) tableTemperature(p float64, of func(TablePoint) float64) (float64, bool) {
	n := len(r.Table)
	if p < of(r.Table[0]) || p > of(r.Table[n-1]) {
		return 0, false
	}
	i := sort.Search(n, func(i int) bool { return of(r.Table[i]) >= p })
	if i == 0 {
		return r.Table[0].Celsius, true
	}
	a, b := r.Table[i-1], r.Table[i]
	share := (math.Log(p) - math.Log(of(a))) / (math.Log(of(b)) - math.Log(of(a)))
	ia, ib := 1/(a.Celsius+zeroCelsius), 1/(b.Celsius+zeroCelsius)
	return 1/(ia+share*(ib-ia)) - zeroCelsius, true
}
