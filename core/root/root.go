// Package root finds where something turns, by halving.
package root

// Halve narrows [lo, hi] down to where past turns from false, at lo, to true, at hi, in so many halvings: the interval it returns is
// (hi − lo)/2ⁿ wide, with past false at its lower and true at its upper end. past must turn once between them; where it
// is true or false all the way the interval shrinks to lo or to hi.
func Halve(lo, hi float64, halvings int, past func(float64) bool) (before, after float64) {
	for range halvings {
		if mid := lo + (hi-lo)/2; past(mid) {
			hi = mid
		} else {
			lo = mid
		}
	}
	return lo, hi
}
