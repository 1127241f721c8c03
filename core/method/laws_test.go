package method_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
	"nextround/core/soil"
)

// anyInput is a coil, place and soil as they may come.
func anyInput(t *rapid.T) method.AdviceInput {
	in := method.AdviceInput{
		Coil: method.Coil{
			Construction: rapid.SampledFrom([]method.Construction{method.TubeFin, method.Microchannel, method.TubeGrid, method.Rolled, method.Unstated}).Draw(t, "construction"),
			Slabs:        rapid.IntRange(1, 3).Draw(t, "slabs"), Role: rapid.SampledFrom([]string{"condenser", "evaporator", "outdoor", "back"}).Draw(t, "role"),
			FaceM2: rapid.Float64Range(.05, 8).Draw(t, "face"), PlugIn: rapid.Bool().Draw(t, "plug-in"), Movable: rapid.Bool().Draw(t, "movable"),
			Flammable: rapid.Bool().Draw(t, "flammable"), DeepMinutes: rapid.Float64Range(10, 120).Draw(t, "minutes"),
		},
		Place: method.Place{
			Setting: rapid.SampledFrom([]method.Setting{"outdoor", "roof", "plant_room", "indoor", "unstated"}).Draw(t, "setting"), NearFood: rapid.Bool().Draw(t, "food"),
			Occupied: rapid.Bool().Draw(t, "occupied"), WallBacked: rapid.Bool().Draw(t, "wall"), Water: rapid.Bool().Draw(t, "water"),
		},
		Found: method.Found{
			Kind: soil.Kinds[rapid.IntRange(0, len(soil.Kinds)-1).Draw(t, "kind")].Code, Grade: soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade")),
			Through: rapid.Bool().Draw(t, "through"),
		},
		Work:  rapid.SampledFrom([]string{"light", "deep"}).Draw(t, "work"),
		Rules: method.Rules{},
	}
	if rapid.Bool().Draw(t, "cold known") {
		low := rapid.Float64Range(-20, 30).Draw(t, "low")
		in.Place.LowC = &low
	}
	for _, q := range method.Questions {
		if rapid.Bool().Draw(t, "answers "+q.Code) {
			in.Rules[q.Code] = q.Choices[rapid.IntRange(0, len(q.Choices)-1).Draw(t, q.Code)].Code
		}
	}
	return in
}

// Whatever comes, nothing that a hard rule forbids is offered, and what is offered is sound.
func TestAdviceNeverOffersWhatIsForbidden(t *testing.T) {
	t.Parallel()
	cleaner := map[string]method.Cleaner{}
	for _, c := range method.StandardCleaners {
		cleaner[c.Code] = c
	}
	rapid.Check(t, func(t *rapid.T) {
		in := anyInput(t)
		advice, err := method.Advise(in)
		require.NoError(t, err)
		outdoors := in.Place.Setting == "outdoor" || in.Place.Setting == "roof"
		for _, o := range advice.Options {
			technique := method.TechniqueOf(o.Method)
			c := cleaner[o.Cleaner]
			if o.Cleaner != "" {
				assert.False(t, c.Acid(), "acid")
				assert.False(t, in.Coil.Construction == method.Microchannel && c.StrongAlkaline(), "strong alkaline on microchannel")
				assert.False(t, !outdoors && !technique.Elsewhere && c.StrongAlkaline(), "strong alkaline indoors")
				assert.False(t, technique.Head && c.Form == method.ReadyToUse, "ready to use through a mixing head")
				assert.False(t, in.Coil.Flammable && c.Flammable, "a flammable spray at a flammable refrigerant")
				assert.False(t, in.Place.NearFood && !technique.Elsewhere && !c.NearFood, "not near food")
				if in.Place.LowC != nil && *in.Place.LowC < 4 {
					assert.False(t, outdoors || technique.Elsewhere, "wet work outdoors in frost")
				}
				assert.InDelta(t, o.MixL, o.CleanerL*(1+valueOf(o.WaterParts)), 1e-6*o.MixL+1e-9, "cleaner and water make the mix")
			}
			assert.False(t, technique.Hose && !in.Place.Water, "a hose without water")
			assert.False(t, technique.Elsewhere && !in.Coil.Movable, "what cannot be carried out")
			assert.GreaterOrEqual(t, o.LeftShare, 0.0)
			assert.LessOrEqual(t, o.LeftShare, 1.0)
			assert.Equal(t, soil.GradeOf(o.LeftShare), o.LeftGrade)
			assert.Equal(t, o.LeftShare <= advice.AimShare+1e-12, o.Enough)
			assert.Positive(t, o.Minutes)
			assert.GreaterOrEqual(t, o.Cost, 0.0)
			assert.Empty(t, o.Overridden, "nothing was set aside")
		}
		for i := 1; i < len(advice.Options); i++ {
			assert.False(t, advice.Options[i].Enough && !advice.Options[i-1].Enough, "what is enough comes first")
		}
	})
}

// Setting a soft rule aside only ever adds ways, and each says that it did; a hard one changes nothing.
func TestOnlySoftRulesCanBeSetAside(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		in := anyInput(t)
		before, err := method.Advise(in)
		require.NoError(t, err)
		ban := method.Bans[rapid.IntRange(0, len(method.Bans)-1).Draw(t, "ban")]
		in.Overrides = []string{ban.Code}
		after, err := method.Advise(in)
		require.NoError(t, err)
		if ban.Hard {
			assert.Equal(t, before.Options, after.Options, ban.Code)
			return
		}
		have := map[[2]string]bool{}
		for _, o := range after.Options {
			have[[2]string{o.Method, o.Cleaner}] = true
		}
		known := map[[2]string]bool{}
		for _, o := range before.Options {
			key := [2]string{o.Method, o.Cleaner}
			known[key] = true
			assert.True(t, have[key], "%v went away", key)
		}
		for _, o := range after.Options {
			if !known[[2]string{o.Method, o.Cleaner}] {
				assert.Contains(t, o.Overridden, ban.Code)
			}
		}
	})
}

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

func valueOf(p *float64) float64 {
	if p == nil {
		return 0
	}
	return *p
}
