package heat

import (
	"math"
	"strconv"

	"gonum.org/v1/gonum/mathext"

	"nextround/core/invalid"
)

// Exposure is some time a unit ran at a rise and the call-outs in it.
type Exposure struct {
	Years    float64 `json:"years"`
	RiseK    float64 `json:"rise_k"`
	CallOuts int     `json:"call_outs"`
}

// EnoughCallOuts is from how many call-outs on the start values are refitted (assumption).
const EnoughCallOuts = 30

// CallOutFit is how often units are called out, by rise.
type CallOutFit struct {
	// CallsYear h₀ and Slope k of the rate h₀ e^(kΔT).
	CallsYear float64 `json:"calls_year"`
	Slope     float64 `json:"slope"`
	CallOuts  int     `json:"call_outs"`
	// Own is false while there are too few, and the start values stand.
	Own bool `json:"own"`
}

// FitCallOuts refits h₀ and k by Poisson regression, log(rate) = log h₀ + kΔT, k ≥ 0, by Newton's method on the
// likelihood (McCullagh & Nelder, Generalized Linear Models, 1989). Below 30 call-outs the start values stand.
func FitCallOuts(all []Exposure) (CallOutFit, error) {
	var bad invalid.Error
	out := CallOutFit{CallsYear: StartCallsYear, Slope: StartCallsSlope}
	years := 0.0
	for i, x := range all {
		at := "exposures[" + strconv.Itoa(i) + "]."
		if !(x.Years > 0 && x.Years <= 1e6) {
			bad.Addf(at+"years", "must be above 0")
		}
		if !(x.RiseK >= 0 && x.RiseK <= 100) {
			bad.Addf(at+"rise_k", "must be between 0 and 100 K")
		}
		if x.CallOuts < 0 {
			bad.Addf(at+"call_outs", "must be 0 or more")
		}
		out.CallOuts += x.CallOuts
		years += x.Years
	}
	if err := bad.Err(); err != nil || out.CallOuts < EnoughCallOuts {
		return out, err
	}
	out.Own = true
	a, k := math.Log(float64(out.CallOuts)/years), 0.0
	for range 100 {
		var ga, gk, haa, hak, hkk float64
		for _, x := range all {
			t := math.Min(mostCallRise, x.RiseK)
			mu := x.Years * math.Exp(a+k*t)
			d := float64(x.CallOuts) - mu
			ga, gk = ga+d, gk+d*t
			haa, hak, hkk = haa+mu, hak+mu*t, hkk+mu*t*t
		}
		det := haa*hkk - hak*hak
		if det < 1e-12 {
			break
		}
		da, dk := (hkk*ga-hak*gk)/det, (haa*gk-hak*ga)/det
		a, k = a+math.Max(-1, math.Min(1, da)), math.Max(-.5, math.Min(mostSlope, k+math.Max(-.1, math.Min(.1, dk))))
		if math.Abs(da)+math.Abs(dk) < 1e-12 {
			break
		}
	}
	if k <= 0 {
		a, k = math.Log(float64(out.CallOuts)/years), 0
	}
	out.CallsYear, out.Slope = math.Exp(a), k
	return out, nil
}

// CallShape is shape and rate of the gamma distribution that the factor on call-outs is taken to come from beforehand: mean 1, 10 to 90 % from
// .27 to 1.94 (assumption).
const CallShape = 2.0

// CallLog is what complete logs say of call-outs: how many were laid to the coil, and how many the start values expected in the
// same time, at the soil that was thought to be there.
type CallLog struct {
	Seen     int     `json:"seen"`
	Expected float64 `json:"expected"`
}

// Factor is a multiple of a start value, learned.
type Factor struct {
	Mean float64 `json:"mean"`
	P10  float64 `json:"p10"`
	P90  float64 `json:"p90"`
	// Assumed is the share of it that still is the start value's, from 1, where nothing was seen, down to 0.
	Assumed float64 `json:"assumed_share"`
}

// CallFactor is the multiple m of the start values at which call-outs really come. With m ~ Gamma(2, 2) beforehand and a number of
// call-outs seen that is Poisson about m times those expected,
//
//	m ~ Gamma(2 + seen, 2 + expected), mean (2 + seen)/(2 + expected)
//
// (conjugate pair: Gelman and others, Bayesian Data Analysis, 3rd edition, 2.6; the 2 is an assumption). The error is an invalid.Error.
func CallFactor(log CallLog) (Factor, error) {
	var bad invalid.Error
	if log.Seen < 0 {
		bad.Addf("seen", "must be 0 or more")
	}
	if !(log.Expected >= 0 && log.Expected <= 1e6) {
		bad.Addf("expected", "must be between 0 and 1,000,000")
	}
	if err := bad.Err(); err != nil {
		return Factor{}, err
	}
	shape, rate := CallShape+float64(log.Seen), CallShape+log.Expected
	at := func(p float64) float64 { return mathext.GammaIncRegInv(shape, p) / rate }
	return Factor{Mean: shape / rate, P10: at(.1), P90: at(.9), Assumed: CallShape / rate}, nil
}
