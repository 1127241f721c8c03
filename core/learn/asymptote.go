package learn

import (
	"errors"
	"math"
)

// Point is a load found some days after a clean.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Asymptote is growth that levels off, y = B1 (1 − e^(−B2 x)).
type Asymptote struct {
	B1 float64 `json:"b1"`
	B2 float64 `json:"b2"`
	// SumOfSquares left over, and the standard errors of both.
	SumOfSquares float64 `json:"sum_of_squares"`
	SE1          float64 `json:"se1"`
	SE2          float64 `json:"se2"`
}

// ErrNoFit means that no curve of the shape fits the points.
var ErrNoFit = errors.New("no such curve fits these points")

// FitAsymptote fits the growth of Kern and Seaton, deposits that are carried off the more the thicker they are:
//
//	y = b₁ (1 − e^(−b₂ x))
//
// by least squares (Levenberg and Marquardt, from three starts). Source of the law: Kern and Seaton, British Chemical
// Engineering 4 (1959) 258–262. At least three points with two different x above 0 are needed, else ErrNoFit.
func FitAsymptote(points []Point) (Asymptote, error) {
	most, top := 0.0, 0.0
	different := map[float64]bool{}
	for _, p := range points {
		if math.IsNaN(p.X+p.Y) || math.IsInf(p.X+p.Y, 0) {
			return Asymptote{}, ErrNoFit
		}
		if p.X > 0 {
			different[p.X] = true
		}
		most, top = math.Max(most, p.X), math.Max(top, p.Y)
	}
	if len(points) < 3 || len(different) < 2 || top <= 0 {
		return Asymptote{}, ErrNoFit
	}
	best := Asymptote{SumOfSquares: math.Inf(1)}
	for _, bend := range []float64{.3, 1, 3} {
		if a := descend(points, top/-math.Expm1(-bend), bend/most); a.SumOfSquares < best.SumOfSquares {
			best = a
		}
	}
	if math.IsInf(best.SumOfSquares, 1) || best.B1 <= 0 || best.B2 <= 0 {
		return Asymptote{}, ErrNoFit
	}
	return best, nil
}

// normal equations of the fit at b1, b2.
func equations(points []Point, b1, b2 float64) (a11, a12, a22, g1, g2, sum float64) {
	for _, p := range points {
		e := math.Exp(-b2 * p.X)
		d1, d2 := 1-e, b1*p.X*e
		r := p.Y - b1*(1-e)
		a11, a12, a22 = a11+d1*d1, a12+d1*d2, a22+d2*d2
		g1, g2 = g1+d1*r, g2+d2*r
		sum += r * r
	}
	return a11, a12, a22, g1, g2, sum
}

func descend(points []Point, b1, b2 float64) Asymptote {
	damping := 1e-3
	a11, a12, a22, g1, g2, sum := equations(points, b1, b2)
	for range 500 {
		m11, m22 := a11*(1+damping), a22*(1+damping)
		det := m11*m22 - a12*a12
		if det == 0 || math.IsNaN(det) {
			break
		}
		d1, d2 := (m22*g1-a12*g2)/det, (m11*g2-a12*g1)/det
		n11, n12, n22, h1, h2, next := equations(points, b1+d1, b2+d2)
		if next <= sum && !math.IsNaN(next) {
			done := math.Abs(d1) <= 1e-13*math.Abs(b1) && math.Abs(d2) <= 1e-13*math.Abs(b2)
			b1, b2, a11, a12, a22, g1, g2, sum = b1+d1, b2+d2, n11, n12, n22, h1, h2, next
			damping /= 10
			if done {
				break
			}
		} else if damping *= 10; damping > 1e15 {
			break
		}
	}
	out := Asymptote{B1: b1, B2: b2, SumOfSquares: sum}
	if det := a11*a22 - a12*a12; det > 0 && len(points) > 2 {
		s2 := sum / float64(len(points)-2)
		out.SE1, out.SE2 = math.Sqrt(s2*a22/det), math.Sqrt(s2*a11/det)
	}
	return out
}
