package learn

import (
	"math"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/reason"
)

// saysNothing is the variance from which on findings are taken to say nothing of the rate.
const saysNothing = 20.0

// dividedOut is what the findings alone say: the belief after them with the belief before divided out.
//
//	1/v = 1/s² − 1/s₀²,  y = v (m/s² − m₀/s₀²)
//
// It is nil when they say (almost) nothing.
func dividedOut(after, before Normal) *Normal {
	if after.Variance <= 0 {
		after.Variance = 1e-6
	}
	precision := 1/after.Variance - 1/before.Variance
	if precision <= 1/saysNothing {
		return nil
	}
	return &Normal{(after.Mean/after.Variance - before.Mean/before.Variance) / precision, 1 / precision}
}

// Group is a peer group summed up, so that one member can be left out without looking at the others again.
type Group struct {
	// Members that count: with at least one finding of grade 1 to 4.
	Members int `json:"members"`
	// Weight is Σ 1/(v + 0.18), Weighted the same with y.
	Weight   float64 `json:"weight"`
	Weighted float64 `json:"weighted"`
}

// Add takes a member's own estimate in.
func (g Group) Add(own Normal) Group {
	w := 1 / (own.Variance + UnitVariance)
	return Group{g.Members + 1, g.Weight + w, g.Weighted + w*own.Mean}
}

// Without leaves a member out that was added before.
func (g Group) Without(own Normal) Group {
	w := 1 / (own.Variance + UnitVariance)
	out := Group{g.Members - 1, g.Weight - w, g.Weighted - w*own.Mean}
	if out.Members <= 0 || out.Weight <= 0 {
		return Group{}
	}
	return out
}

// Mean is the belief on what the group has in common: the inverse-variance mean of its members and of the trade's 0
// with variance 0.18.
//
//	precision = 1/0.18 + Σ 1/(vᵢ + 0.18),  mean = Σ yᵢ/(vᵢ + 0.18) / precision
func (g Group) Mean() Normal {
	precision := 1/GroupVariance + g.Weight
	return Normal{g.Weighted / precision, 1 / precision}
}

// Prior is the belief on a member before its own findings: the group's mean with the unit variance added.
func (g Group) Prior() Normal {
	m := g.Mean()
	return Normal{m.Mean, m.Variance + UnitVariance}
}

// Pool is a group of members' own estimates.
type Pool struct {
	Members []Normal `json:"members"`
}

// Pooled is what a group says of each member, the member left out, and how alike the group is.
type Pooled struct {
	// Mean of the whole group and its prior for a newcomer.
	Mean     Normal `json:"mean"`
	Newcomer Normal `json:"newcomer"`
	// Priors of the members, in their order.
	Priors []Normal `json:"priors"`
	// TauSquared is DerSimonian and Laird's variance between members, capped at 0.36, as a sign of how alike they are;
	// the unit variance itself stays at 0.18.
	TauSquared float64         `json:"tau_squared"`
	Reasons    []reason.Reason `json:"reasons"`
}

// PoolMembers works a group out. The error is an invalid.Error naming the fields.
func PoolMembers(p Pool) (Pooled, error) {
	var bad invalid.Error
	for i, m := range p.Members {
		at := "members[" + strconv.Itoa(i) + "]."
		if math.IsNaN(m.Mean) || math.Abs(m.Mean) > 50 {
			bad.Addf(at+"mean", "must be a logarithm between -50 and 50")
		}
		if !(m.Variance > 0) || math.IsInf(m.Variance, 1) {
			bad.Addf(at+"variance", "must be above 0")
		}
	}
	if err := bad.Err(); err != nil {
		return Pooled{}, err
	}
	var g Group
	for _, m := range p.Members {
		g = g.Add(m)
	}
	out := Pooled{Mean: g.Mean(), Newcomer: g.Prior(), Priors: make([]Normal, len(p.Members))}
	for i, m := range p.Members {
		out.Priors[i] = g.Without(m).Prior()
	}
	out.TauSquared = math.Min(TradeVariance, DerSimonianLaird(p.Members).TauSquared)
	out.Reasons = []reason.Reason{PeerReason(g, out.Mean)}
	return out, nil
}

// PeerReason says how much of a prior came from peers and how much from the trade.
func PeerReason(g Group, m Normal) reason.Reason {
	return reason.Reason{
		Code: reason.Peers, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"members": float64(g.Members), "times": math.Exp(m.Mean), "share": g.Weight / (g.Weight + 1/GroupVariance)},
	}
}

// RandomEffects is a random-effects summary of estimates with known variances.
type RandomEffects struct {
	// TauSquared is the variance between, Mean and SE the pooled estimate, Q Cochran's heterogeneity.
	TauSquared float64 `json:"tau_squared"`
	Mean       float64 `json:"mean"`
	SE         float64 `json:"se"`
	Q          float64 `json:"q"`
}

// DerSimonianLaird pools estimates yᵢ with variances vᵢ, wᵢ = 1/vᵢ:
//
//	τ² = max(0, (Q − (k−1)) / (Σw − Σw²/Σw)),  Q = Σ wᵢ (yᵢ − ȳ)²
//
// Source: DerSimonian and Laird, "Meta-analysis in clinical trials", Controlled Clinical Trials 7 (1986) 177–188.
// Fewer than two estimates give τ² = 0; none gives a zero result.
func DerSimonianLaird(all []Normal) RandomEffects {
	if len(all) == 0 {
		return RandomEffects{}
	}
	var sw, sww, swy float64
	for _, m := range all {
		w := 1 / m.Variance
		sw, sww, swy = sw+w, sww+w*w, swy+w*m.Mean
	}
	var out RandomEffects
	for _, m := range all {
		out.Q += (m.Mean - swy/sw) * (m.Mean - swy/sw) / m.Variance
	}
	if c := sw - sww/sw; c > 0 {
		out.TauSquared = math.Max(0, (out.Q-float64(len(all)-1))/c)
	}
	var tw, twy float64
	for _, m := range all {
		w := 1 / (m.Variance + out.TauSquared)
		tw, twy = tw+w, twy+w*m.Mean
	}
	out.Mean, out.SE = twy/tw, math.Sqrt(1/tw)
	return out
}
