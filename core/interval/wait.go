package interval

import (
	"math"

	"nextround/core/invalid"
)

// WaitQuestion asks what it costs to leave a coil for some days more.
type WaitQuestion struct {
	// Now is the outlook of the coil as it stands: the starts are the loads today.
	Now Outlook `json:"now"`
	// Average is the money a day of the interval that is cheapest once it is clean (Best.TotalDay): what every day costs
	// anyway.
	Average float64 `json:"average_day"`
	// DueIn is the number of days until it is due; negative when late. Until then waiting costs nothing.
	DueIn float64 `json:"due_in_days"`
	// Days to wait from the due day, or from today when it is late.
	Days float64 `json:"days"`
	// CapIn is the number of days until a hard cap is passed, left out where there is none; CapPenalty its price.
	CapIn      *float64 `json:"cap_in_days,omitempty"`
	CapPenalty float64  `json:"cap_penalty,omitempty"`
}

// Wait is the price of waiting.
type Wait struct {
	Money float64 `json:"money"`
	// ByCap is the part of it that is the penalty of a cap.
	ByCap float64 `json:"by_cap"`
	// Over is the probability of being over the limit at the end.
	Over float64 `json:"over_probability"`
}

// PriceOfWaiting is
//
//	J(d) = ∫ max(0, c(t) − c*) dt from the due day on,  c = energy + call-outs + v P(B > limit)
//
// with c* the average of the cheapest interval; a hard cap that is missed adds its penalty once. It never falls with d.
// The error is an invalid.Error naming the fields.
func PriceOfWaiting(q WaitQuestion) (Wait, error) {
	var bad invalid.Error
	if !(q.Days >= 0 && q.Days <= mostDays) {
		bad.Addf("days", "must be between 0 and %d", mostDays)
	}
	if !(q.Average >= 0) || math.IsInf(q.Average, 1) {
		bad.Addf("average_day", "must be 0 or more")
	}
	if !(math.Abs(q.DueIn) <= mostDays) {
		bad.Addf("due_in_days", "must be within ten years")
	}
	if !(q.CapPenalty >= 0) || math.IsInf(q.CapPenalty, 1) {
		bad.Addf("cap_penalty", "must be 0 or more")
	}
	if err := q.Now.Check(); err != nil {
		bad = append(bad, below("now.", err)...)
	}
	if err := bad.Err(); err != nil {
		return Wait{}, err
	}
	from := math.Max(0, q.DueIn)
	o := q.Now.withDefaults()
	o.MostDays = max(1, min(mostDays, int(math.Ceil(from+q.Days))))
	a := look(o, o.Economics.Table())
	return a.wait(from, q), nil
}

// WaitingWeeks is PriceOfWaiting after each of so many weeks, worked out together. Days of the question is not used.
func WaitingWeeks(q WaitQuestion, weeks int) ([]float64, error) {
	q.Days = float64(7 * weeks)
	if _, err := PriceOfWaiting(WaitQuestion{Now: q.Now, Average: q.Average, DueIn: q.DueIn, CapIn: q.CapIn, CapPenalty: q.CapPenalty}); err != nil {
		return nil, err
	}
	from := math.Max(0, q.DueIn)
	o := q.Now.withDefaults()
	o.MostDays = max(1, min(mostDays, int(math.Ceil(from+q.Days))))
	a := look(o, o.Economics.Table())
	out := make([]float64, weeks)
	for w := range out {
		q.Days = float64(7 * (w + 1))
		out[w] = a.wait(from, q).Money
	}
	return out, nil
}

func (a *Ahead) wait(from float64, q WaitQuestion) Wait {
	out := Wait{Over: a.Over(from + q.Days)}
	const parts = 64
	width := q.Days / parts
	for n := range parts {
		out.Money += width * math.Max(0, a.spending(from+width*(float64(n)+.5))-q.Average)
	}
	if q.CapIn != nil && from+q.Days > *q.CapIn {
		out.ByCap = q.CapPenalty
		out.Money += q.CapPenalty
	}
	return out
}

// PriceOfEarly is what a clean costs that comes some days early: the share of the interval not used up.
//
//	clean × early / interval
//
// A clean that is not early costs nothing of the kind.
func PriceOfEarly(clean float64, early, interval int) float64 {
	if early <= 0 || interval <= 0 {
		return 0
	}
	return clean * math.Min(1, float64(early)/float64(interval))
}
