package interval_test

import (
	"testing"

	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/soil"
)

func twentyVisits() soil.History {
	var visits []soil.Visit
	for i := 1; i <= 20; i++ {
		v := soil.Visit{
			Day: began.Add(60 * i), Found: &soil.Finding{Grade: soil.Grade(1 + i%3), Seen: soil.FaceLook},
			Cleans: []soil.Removal{{Face: .85, Core: .05}}, Left: &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook},
		}
		if i%4 == 0 {
			v.Found.Seen = soil.LightThrough
		}
		visits = append(visits, v)
	}
	return history(.12, .3, 1230, visits...)
}

// One unit, twenty visits: the rate learned and the four schools.
func BenchmarkLearnAndPropose(b *testing.B) {
	h := twentyVisits()
	for b.Loop() {
		learnAndPropose(b, h)
	}
}

// The same with the ladder.
func BenchmarkLearnProposeAndClimb(b *testing.B) {
	h := twentyVisits()
	for b.Loop() {
		learnAndPropose(b, h)
		if _, err := interval.Climb(ladderExample()); err != nil {
			b.Fatal(err)
		}
	}
}

func learnAndPropose(b *testing.B, h soil.History) {
	r, err := learn.Learn(learn.Question{History: h})
	if err != nil {
		b.Fatal(err)
	}
	o := example()
	o.Scatter, o.OverPrice = nil, nil
	o.Sides[0].Rates, o.Sides[0].Starts = interval.Condense(r.Cells, interval.Bins, clean)
	o.Sides[0].Findings = r.Counted
	task := interval.Task{ClassDays: 365, ClassMaxDays: 730, Factor: 1, InForceDays: 182, Outlook: &o}
	if _, err := interval.Propose(task); err != nil {
		b.Fatal(err)
	}
}
