package teach

import (
	"math"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/soil"
)

// Score is one face that was graded: what it was and what was said.
type Score struct {
	Share float64    `json:"share"`
	Said  soil.Grade `json:"said"`
}

// Grader is how somebody sees, with the uncertainty of that. Offset is on ln load: +0.2 sees a fifth more soil than
// there is; Sigma is the scatter.
type Grader struct {
	N        int     `json:"n"`
	Offset   float64 `json:"offset"`
	OffsetSD float64 `json:"offset_sd"`
	Sigma    float64 `json:"sigma"`
	SigmaSD  float64 `json:"sigma_sd"`
	// Exact is the share graded as drawn.
	Exact float64 `json:"exact"`
	// Enough is true from twelve faces on: before, the start value is the better guess.
	Enough bool `json:"enough"`
}

// Start value of a grader's scatter on ln load (assumption), and the spread of both priors.
const (
	StartSigma   = .245
	offsetSpread = .4
	sigmaSpread  = .6
	enoughFaces  = 12
	slip         = .02
)

// Grid of the estimate.
const (
	offsetSteps, offsetEnd = 81, 1.2
	sigmaSteps             = 40
	sigmaLeast, sigmaMost  = .05, 1.2
)

// Estimate finds a grader's offset and scatter from graded faces: a grid over both with
//
//	P(said) = (1 − 0.02) [Φ((ln hi − ln L − o)/σ) − Φ((ln lo − ln L − o)/σ)] + 0.02/6
//
// o ~ N(0, 0.4²), ln σ ~ N(ln 0.245, 0.6²) before any face. A bare face says little, as ln load has no end below; loads
// under 0.001 count as that.
func Estimate(scores []Score) (Grader, error) {
	var bad invalid.Error
	for i, s := range scores {
		if !s.Said.Valid() {
			bad.Addf("scores["+strconv.Itoa(i)+"].said", "must be a grade from 0 to 5")
		}
		if !(s.Share >= 0 && s.Share < 1) {
			bad.Addf("scores["+strconv.Itoa(i)+"].share", "must be from 0 to below 1")
		}
	}
	if err := bad.Err(); err != nil {
		return Grader{}, err
	}
	out := Grader{N: len(scores), Enough: len(scores) >= enoughFaces}
	logs := make([]float64, len(scores))
	for i, s := range scores {
		logs[i] = math.Log(math.Max(soil.Load(s.Share), .001))
		if soil.GradeOf(s.Share) == s.Said {
			out.Exact += 1 / float64(len(scores))
		}
	}
	type point struct{ o, s, ll float64 }
	points := make([]point, 0, offsetSteps*sigmaSteps)
	best := math.Inf(-1)
	for i := range offsetSteps {
		o := -offsetEnd + 2*offsetEnd*float64(i)/(offsetSteps-1)
		for k := range sigmaSteps {
			s := sigmaLeast * math.Pow(sigmaMost/sigmaLeast, float64(k)/(sigmaSteps-1))
			zo, zs := o/offsetSpread, math.Log(s/StartSigma)/sigmaSpread
			ll := -(zo*zo + zs*zs) / 2
			for n, x := range scores {
				ll += math.Log(likelihood(logs[n]+o, s, x.Said))
			}
			points = append(points, point{o, s, ll})
			best = math.Max(best, ll)
		}
	}
	var sum, so, soo, ss, sss float64
	for _, p := range points {
		w := math.Exp(p.ll - best)
		sum += w
		so += w * p.o
		soo += w * p.o * p.o
		ss += w * p.s
		sss += w * p.s * p.s
	}
	out.Offset, out.Sigma = so/sum, ss/sum
	out.OffsetSD = math.Sqrt(math.Max(0, soo/sum-out.Offset*out.Offset))
	out.SigmaSD = math.Sqrt(math.Max(0, sss/sum-out.Sigma*out.Sigma))
	return out, nil
}

func likelihood(mean, sigma float64, said soil.Grade) float64 {
	lo, hi := said.LoadBand()
	phi := func(load float64) float64 {
		switch {
		case load <= 0:
			return 0
		case math.IsInf(load, 1):
			return 1
		}
		return .5 * math.Erfc(-(math.Log(load)-mean)/sigma/math.Sqrt2)
	}
	return (1-slip)*(phi(hi)-phi(lo)) + slip/6
}
