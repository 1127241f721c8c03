package learn

import (
	"math"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/soil"
)

// RemovalWeight is how many pairs the start values weigh (assumption).
const RemovalWeight = 10

// Pair is what was found opened up before a clean and what it left, seen the same way.
type Pair struct {
	Found soil.Grade `json:"found"`
	Left  soil.Grade `json:"left"`
	Seen  soil.Seen  `json:"seen"`
	// CoreShare is the share of the load that was likely in the core before the clean; used by light through only.
	CoreShare float64 `json:"core_share,omitempty"`
}

// Learned is a removal with how much of it is an organisation's own.
type Learned struct {
	soil.Removal
	FacePairs int `json:"face_pairs"`
	CorePairs int `json:"core_pairs"`
}

// leastCore is the share of the load in the core from which a pair seen with light tells of the core's removal.
const leastCore = .2

// Blend blends the start values of a method with an organisation's own pairs of found and left:
//
//	r = (10 · start + n · own) / (10 + n)
//
// own is the mean of 1 − left/found over the pairs, each at the middle load of its grade; a pair found Bare tells
// nothing. A look at the face tells of the face. Light through tells of the core where at least a fifth of the load was
// there: what went beyond the face's share, own = (gone − rF (1−c)) / c, cut to [0, 1] (assumption).
func Blend(start soil.Removal, pairs []Pair) (Learned, error) {
	var bad invalid.Error
	for i, p := range pairs {
		at := "pairs[" + strconv.Itoa(i) + "]."
		if !p.Found.Valid() {
			bad.Addf(at+"found", "must be a grade from 0 to 5")
		}
		if !p.Left.Valid() {
			bad.Addf(at+"left", "must be a grade from 0 to 5")
		}
		if !(p.CoreShare >= 0 && p.CoreShare <= 1) {
			bad.Addf(at+"core_share", "must be between 0 and 1")
		}
	}
	if err := bad.Err(); err != nil {
		return Learned{}, err
	}
	out := Learned{Removal: start}
	gone := func(p Pair) float64 {
		return math.Max(0, 1-p.Left.MiddleLoad()/p.Found.MiddleLoad())
	}
	sum := 0.0
	for _, p := range pairs {
		if p.Found > soil.Bare && p.Seen != soil.LightThrough {
			sum += gone(p)
			out.FacePairs++
		}
	}
	out.Face = (RemovalWeight*start.Face + sum) / (RemovalWeight + float64(out.FacePairs))
	sum = 0
	for _, p := range pairs {
		if p.Found > soil.Bare && p.Seen == soil.LightThrough && p.CoreShare >= leastCore {
			sum += math.Max(0, math.Min(1, (gone(p)-out.Face*(1-p.CoreShare))/p.CoreShare))
			out.CorePairs++
		}
	}
	out.Core = (RemovalWeight*start.Core + sum) / (RemovalWeight + float64(out.CorePairs))
	return out, nil
}
