package method_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
	"nextround/core/soil"
)

// More soil never asks for less mix, and a larger face never for less.
func TestMixGrowsWithFaceAndSoil(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		face, slabs := rapid.Float64Range(.01, 20).Draw(t, "face"), rapid.IntRange(1, 3).Draw(t, "slabs")
		g := soil.Grade(rapid.IntRange(0, 4).Draw(t, "grade"))
		assert.Less(t, method.MixFor(face, slabs, g, 1), method.MixFor(face, slabs, g+1, 1))
		assert.Less(t, method.MixFor(face, slabs, g, 1), method.MixFor(face*1.5, slabs, g, 1))
		assert.Less(t, method.MixFor(face, slabs, g, 1), method.MixFor(face, slabs+1, g, 1))
	})
}

// A mix read backwards from its cleaner or its water is the same mix.
func TestMixesComeBackTheSame(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		parts, mix := rapid.Float64Range(.1, 100).Draw(t, "parts"), rapid.Float64Range(.1, 500).Draw(t, "mix")
		a, err := method.Mix(method.MixInput{WaterParts: &parts, MixL: &mix})
		require.NoError(t, err)
		assert.InDelta(t, mix, a.CleanerL+a.WaterL, 1e-9*mix)
		for _, in := range []method.MixInput{{WaterParts: &parts, CleanerL: &a.CleanerL}, {Share: &a.Share, WaterL: &a.WaterL}} {
			b, err := method.Mix(in)
			require.NoError(t, err)
			assert.InDelta(t, a.MixL, b.MixL, 1e-6*a.MixL)
			assert.InDelta(t, a.OzPerGallonMix, b.OzPerGallonMix, 1e-6*a.OzPerGallonMix)
		}
		assert.Greater(t, a.OzPerGallonW, a.OzPerGallonMix, "per gallon of water is more than per gallon of mix")
	})
}

// A dose factor lies between 1 and what the doses say, and more doses of the same ratio move it further.
func TestDoseFactorShrinksTowardsOne(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		ratio, n := rapid.Float64Range(.2, 9).Draw(t, "ratio"), rapid.IntRange(1, 20).Draw(t, "n")
		used, planned := make([]float64, n), make([]float64, n)
		for i := range n {
			planned[i] = rapid.Float64Range(.1, 10).Draw(t, "planned")
			used[i] = ratio * planned[i]
		}
		f, counted := method.DoseFactor(used, planned)
		assert.Equal(t, n, counted)
		fewer, _ := method.DoseFactor(used[:n-1], planned[:n-1])
		if ratio > 1 {
			assert.Greater(t, f, 1.0)
			assert.LessOrEqual(t, f, ratio)
			assert.GreaterOrEqual(t, f, fewer)
		} else {
			assert.LessOrEqual(t, f, 1.0)
			assert.GreaterOrEqual(t, f, ratio)
			assert.LessOrEqual(t, f, fewer)
		}
	})
}

// UN GHS 3.2 takes pH 2 and below and 11.5 and above as corrosive (from memory); the bounds themselves belong to it.
func TestCorrosiveAtItsBounds(t *testing.T) {
	t.Parallel()
	for ph, want := range map[float64][2]bool{11.49: {false, false}, 11.5: {true, true}, 13: {true, true}, 7: {false, false}, 2.01: {false, false}, 2: {true, false}, 1: {true, false}} {
		c := method.Cleaner{PH: ph}
		assert.Equal(t, want[0], c.Corrosive(), "pH %g", ph)
		assert.Equal(t, want[1], c.StrongAlkaline(), "pH %g", ph)
	}
	assert.False(t, method.Cleaner{}.Corrosive(), "a pH that is not stated")
}

func TestQuestionsHoldTogether(t *testing.T) {
	t.Parallel()
	assert.Len(t, method.Questions, 35)
	for _, q := range method.Questions {
		assert.True(t, q.Has(q.Default), q.Code)
		assert.NotEmpty(t, q.Why, q.Code)
		for _, c := range q.Choices {
			assert.NotEmpty(t, c.Why, "%s %s", q.Code, c.Code)
		}
		assert.Equal(t, q.Default, method.Rules{}.Answer(q.Code))
	}
	for _, b := range method.Bans {
		assert.NotEqual(t, b.Hard, b.Question != "", "a soft ban belongs to a question: %s", b.Code)
		if b.Question != "" {
			_, ok := method.QuestionByCode(b.Question)
			assert.True(t, ok, b.Question)
		}
	}
	assert.Empty(t, method.Rules{}.Answer("colour"))
}
