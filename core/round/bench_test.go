package round_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"nextround/core/round"
	"nextround/core/round/instance"
)

// BenchmarkFirstPlan is regret insertion alone.
func BenchmarkFirstPlan(b *testing.B) {
	for name, size := range map[string]instance.Size{"small": instance.Small, "town": instance.Town, "large": instance.Large} {
		p := instance.Portfolio(size)
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				plan, err := round.First(p)
				require.NoError(b, err)
				b.ReportMetric(plan.Cost.Total, "money")
			}
		})
	}
}

// BenchmarkGreedy is the plan by hand.
func BenchmarkGreedy(b *testing.B) {
	p := instance.Portfolio(instance.Town)
	for b.Loop() {
		plan, err := round.Greedy(p)
		require.NoError(b, err)
		b.ReportMetric(plan.Cost.Total, "money")
	}
}

// BenchmarkSearch is a hundred steps of one worker, and the money they saved.
func BenchmarkSearch(b *testing.B) {
	p := instance.Portfolio(instance.Town)
	first, err := round.First(p)
	require.NoError(b, err)
	for b.Loop() {
		plan, err := round.Improve(p, first.Sequences(), round.Search{Iterations: 100})
		require.NoError(b, err)
		b.ReportMetric(first.Cost.Total-plan.Cost.Total, "saved")
	}
}

// BenchmarkMove is a notch moved at a thousand jobs, the whole problem in the question.
func BenchmarkMove(b *testing.B) {
	p := instance.Portfolio(instance.Town)
	first, err := round.First(p)
	require.NoError(b, err)
	seqs := first.Sequences()
	day := seqs[len(seqs)/2].Day
	for b.Loop() {
		_, err := round.Move(round.MoveQuestion{Problem: p, Rounds: seqs, Job: seqs[0].Jobs[0], Day: &day})
		require.NoError(b, err)
	}
}
