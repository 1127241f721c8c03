package learn_test

import (
	"testing"

	"nextround/core/learn"
	"nextround/core/soil"
)

// One side with twenty visits.
func BenchmarkLearnTwentyVisits(b *testing.B) {
	var visits []soil.Visit
	for i := 1; i <= 20; i++ {
		v := found(60*i, soil.Grade(1+i%3), soil.FaceLook)
		if i%4 == 0 {
			v.Found.Seen = soil.LightThrough
		}
		v.Cleans = []soil.Removal{{Face: .85, Core: .05}}
		v.Left = &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook}
		visits = append(visits, v)
	}
	h := side(.12, .3, 1230, visits...)
	for b.Loop() {
		if _, err := learn.Learn(learn.Question{History: h}); err != nil {
			b.Fatal(err)
		}
	}
}
