package method_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
	"nextround/core/soil"
)

func advise(t require.TestingT, in method.AdviceInput) method.Advice {
	out, err := method.Advise(in)
	require.NoError(t, err)
	return out
}

// yard is an outdoor condensing unit that wants a deep clean.
func yard() method.AdviceInput {
	return method.AdviceInput{
		Coil:  method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", CapacityKw: 9.5, DeepMinutes: 50},
		Place: method.Place{Setting: "outdoor", Water: true, Drain: true}, Found: method.Found{Kind: "leaf_grass", Grade: soil.Felt}, Work: "deep",
		Prices: method.Prices{LabourHour: 48, WaterM3: 3.5},
	}
}

func ruledBy(a method.Advice, method, cleaner string) string {
	for _, r := range a.RuledOut {
		if r.Method == method && r.Cleaner == cleaner {
			return r.Ban.Code
		}
	}
	return ""
}

func offers(a method.Advice, method, cleaner string) bool {
	for _, o := range a.Options {
		if (method == "" || o.Method == method) && (cleaner == "" || o.Cleaner == cleaner) {
			return true
		}
	}
	return false
}

// The rules of the trade (common practice, no source; the pH bounds of UN GHS 3.2 are from memory).
func TestHardRules(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name, method, cleaner, ban string
		change                     func(*method.AdviceInput)
	}{
		{"strong alkaline on microchannel", "", "heavy_alkaline", "alkaline_microchannel", func(in *method.AdviceInput) { in.Coil.Construction = method.Microchannel }},
		{"strong alkaline indoors", "tank_sprayer", "extra_heavy_alkaline", "alkaline_indoors", func(in *method.AdviceInput) { in.Place.Setting = "plant_room" }},
		{"acid", "", "acid", "acid", func(in *method.AdviceInput) {
			in.Cleaners = []method.Cleaner{{Code: "acid", Form: method.Concentrate, PH: 2, PartsFrom: 4, PartsTo: 10}}
		}},
		{"blowing into a closed cabinet", "gentle_air", "", "closed_cabinet", func(in *method.AdviceInput) {
			in.Place = method.Place{Setting: "indoor", WallBacked: true}
			in.Coil.PlugIn = true
		}},
		{"ready to use through a mixing head", "foam_rinse", "indoor_neutral", "mixing_head", func(*method.AdviceInput) {}},
		{"wet work in frost", "foam_rinse", "", "frost", func(in *method.AdviceInput) { in.Place.LowC = ptr(3.9) }},
		{"sparks at a flammable refrigerant", "leaf_blower", "", "ignition", func(in *method.AdviceInput) { in.Coil.Flammable = true }},
		{"flammable spray at a flammable refrigerant", "", "solvent_aerosol", "flammable_spray", func(in *method.AdviceInput) { in.Coil.Flammable = true }},
		{"not near food", "tank_sprayer", "indoor_neutral", "near_food", func(in *method.AdviceInput) { in.Place = method.Place{Setting: "indoor", NearFood: true} }},
		{"no water", "foam_rinse", "", "no_water", func(in *method.AdviceInput) { in.Place.Water = false }},
		{"one slab", "split_foam", "", "single_slab", func(*method.AdviceInput) {}},
		{"cannot be carried out", "out_and_washed", "", "fixed", func(*method.AdviceInput) {}},
	} {
		in := yard()
		c.change(&in)
		got := advise(t, in)
		assert.Equal(t, c.ban, ruledBy(got, c.method, c.cleaner), c.name)
		if c.method == "" {
			assert.False(t, offers(got, "", c.cleaner), c.name)
		} else {
			assert.False(t, offers(got, c.method, c.cleaner), c.name)
		}
		b, ok := method.BanByCode(c.ban)
		assert.True(t, ok && b.Hard, c.ban)
		in.Overrides = []string{c.ban}
		assert.Equal(t, c.ban, ruledBy(advise(t, in), c.method, c.cleaner), "a hard rule is not set aside: %s", c.name)
	}
	for _, code := range []string{"pressure_washer", "slanted_spray", "fan_running"} {
		found := false
		for _, r := range advise(t, yard()).RuledOut {
			found = found || r.Ban.Code == code
		}
		assert.True(t, found, "%s is always named", code)
	}
	in := yard()
	in.Place.LowC = ptr(4.0)
	assert.True(t, offers(advise(t, in), "foam_rinse", ""), "at 4 °C wet work may go on")
}

func TestHouseRulesRuleOutAndCanBeSetAside(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name, method, ban string
		rules             method.Rules
		change            func(*method.AdviceInput)
	}{
		{"no air", "gentle_air", "air_never", method.Rules{"air": "never"}, func(*method.AdviceInput) {}},
		{"slabs stay", "split_foam", "slabs_left", method.Rules{"slabs": "leave"}, func(in *method.AdviceInput) { in.Coil.Slabs = 2 }},
		{"a clean core", "split_foam", "core_clean", nil, func(in *method.AdviceInput) { in.Coil.Slabs, in.Found.CoreGrade = 2, ptr(soil.Film) }},
		{"stays in place", "out_and_washed", "stays_in_place", method.Rules{"in_place": "in_place"}, func(in *method.AdviceInput) { in.Coil.Movable = true }},
		{"light and closed", "foam_rinse", "light_closed", nil, func(in *method.AdviceInput) { in.Work = "light" }},
		{"from outside", "hose_rinse", "outside_only", method.Rules{"direction": "outside"}, func(*method.AdviceInput) {}},
		{"plug-in stays dry", "aerosol_rinse", "plug_in_dry", method.Rules{"plug_in_chemistry": "never"}, func(in *method.AdviceInput) {
			in.Coil.PlugIn, in.Place = true, method.Place{Setting: "indoor"}
		}},
	} {
		in := yard()
		in.Rules = c.rules
		c.change(&in)
		assert.Equal(t, c.ban, ruledBy(advise(t, in), c.method, ""), c.name)
		in.Overrides = []string{c.ban}
		got := advise(t, in)
		require.True(t, offers(got, c.method, ""), c.name)
		for _, o := range got.Options {
			if o.Method == c.method {
				assert.Contains(t, o.Overridden, c.ban)
			}
		}
	}
}

func TestAdviceInTheYard(t *testing.T) {
	t.Parallel()
	got := advise(t, yard())
	best := got.Options[0]
	assert.True(t, best.Enough)
	assert.LessOrEqual(t, best.LeftShare, got.AimShare)
	assert.Positive(t, best.Cost)
	for _, o := range got.Options {
		if o.Cleaner != "" {
			assert.Contains(t, o.Notes, "check_frost", "no forecast was given: %s", o.Method)
		}
	}
	assert.Equal(t, []string{"face_area", "core"}, got.Assumed)
	heavy := yard()
	heavy.Found = method.Found{Kind: "grease", Grade: soil.Blanket}
	first := advise(t, heavy).Options[0]
	assert.Equal(t, "heavy_alkaline", first.Cleaner, "a blanket of grease outdoors asks for heavy duty, and no more than that")
	assert.Contains(t, first.Notes, "rinse_long")
	assert.Equal(t, "caught", first.Dispose)
}

func TestAdviceIndoors(t *testing.T) {
	t.Parallel()
	in := method.AdviceInput{
		Coil: method.Coil{Construction: method.TubeFin, Role: "evaporator", CapacityKw: 7}, Place: method.Place{Setting: "indoor", Occupied: true},
		Found: method.Found{Kind: "dust", Grade: soil.Film, CoreGrade: ptr(soil.Bare)}, Work: "deep",
	}
	got := advise(t, in)
	assert.True(t, got.Leave, "a slight coat is left")
	in.Rules = method.Rules{"coating_indoors": "clean"}
	assert.False(t, advise(t, in).Leave)
	in.Found = method.Found{Kind: "biofilm", Grade: soil.Felt}
	got = advise(t, in)
	best := got.Options[0]
	assert.Equal(t, "bag", best.Contain)
	assert.Equal(t, "caught", best.Dispose)
	assert.Positive(t, best.Buckets)
	for _, o := range got.Options {
		assert.NotContains(t, []string{"heavy_alkaline", "medium_universal", "extra_heavy_alkaline"}, o.Cleaner)
	}
}

func TestStrengthSchools(t *testing.T) {
	t.Parallel()
	parts := func(school string, g soil.Grade) float64 {
		in := yard()
		in.Rules, in.Found.Grade = method.Rules{"strength": school}, g
		for _, o := range advise(t, in).Options {
			if o.Cleaner == "medium_universal" && o.WaterParts != nil {
				return *o.WaterParts
			}
		}
		return 0
	}
	assert.Less(t, parts("by_soil", soil.Blanket), parts("by_soil", soil.Coat), "more soil, less water")
	assert.InDelta(t, parts("fixed", soil.Coat), parts("fixed", soil.Blanket), 1e-9)
	assert.InDelta(t, 10, parts("weakest", soil.Blocked), 1e-9)
}

// Every cleaner, construction, place and soil has a recommendation or a named ban.
func TestEveryCaseHasAnAnswer(t *testing.T) {
	t.Parallel()
	n := 0
	require.NoError(t, method.EachCase(func(c method.Case, v method.CleanerVerdict) {
		n++
		where := fmt.Sprintf("%s, %s, %s, %s", c.Cleaner.Code, c.Construction, c.Place.Name, c.Soil.Code)
		assert.True(t, v.Option != nil || len(v.Bans) > 0, where)
		if v.Option == nil {
			return
		}
		if c.Cleaner.StrongAlkaline() {
			assert.NotEqual(t, method.Microchannel, c.Construction, where)
			assert.True(t, c.Place.Place.Outdoors() || method.TechniqueOf(v.Option.Method).Elsewhere, where)
		}
		if c.Place.Place.LowC != nil {
			t.Errorf("wet work in frost: %s", where)
		}
	}))
	assert.Equal(t, len(method.StandardCleaners)*len(method.Constructions)*len(method.Places)*len(soil.Kinds), n)
}

func TestAdviceLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		in := method.AdviceInput{
			Coil: method.Coil{
				Construction: rapid.SampledFrom(append(method.Constructions, method.Unstated)).Draw(t, "construction"), Slabs: rapid.IntRange(1, 3).Draw(t, "slabs"),
				Role: rapid.SampledFrom([]string{"condenser", "evaporator", "back", "outdoor"}).Draw(t, "role"), PlugIn: rapid.Bool().Draw(t, "plug"),
				Flammable: rapid.Bool().Draw(t, "flammable"), Movable: rapid.Bool().Draw(t, "movable"), FaceM2: rapid.Float64Range(0, 3).Draw(t, "m2"),
			},
			Place: method.Place{
				Setting: rapid.SampledFrom([]method.Setting{"outdoor", "roof", "plant_room", "indoor", ""}).Draw(t, "setting"), NearFood: rapid.Bool().Draw(t, "food"),
				Water: rapid.Bool().Draw(t, "water"), WallBacked: rapid.Bool().Draw(t, "wall"), Occupied: rapid.Bool().Draw(t, "occupied"),
			},
			Found: method.Found{Kind: rapid.SampledFrom(soil.Kinds).Draw(t, "kind").Code, Grade: soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade"))},
			Work:  rapid.SampledFrom([]string{"light", "deep"}).Draw(t, "work"), Rules: method.Rules{}, Prices: method.Prices{LabourHour: 50},
		}
		for _, q := range method.Questions {
			in.Rules[q.Code] = rapid.SampledFrom(q.Choices).Draw(t, q.Code).Code
		}
		got := advise(t, in)
		assert.NotEmpty(t, got.RuledOut)
		for i, o := range got.Options {
			assert.True(t, o.LeftShare >= 0 && o.LeftShare < 1 && o.Minutes > 0 && o.Cost >= 0 && o.MixL >= o.CleanerL-1e-9, "%+v", o)
			assert.Empty(t, ruledBy(got, o.Method, ""), "what is offered is not ruled out")
			assert.NotEmpty(t, o.Contain)
			if i > 0 {
				assert.False(t, o.Enough && !got.Options[i-1].Enough, "what is enough comes first")
			}
			if o.DwellMaxS > 0 && o.Cleaner != "" {
				assert.GreaterOrEqual(t, o.DwellMaxS, o.DwellMinS)
			}
		}
	})
}

func TestAdviceRefuses(t *testing.T) {
	t.Parallel()
	for why, change := range map[string]func(*method.AdviceInput){
		"not a kind of soil":   func(in *method.AdviceInput) { in.Found.Kind = "jam" },
		"from 0 to 5":          func(in *method.AdviceInput) { in.Found.Grade = 6 },
		"light or deep":        func(in *method.AdviceInput) { in.Work = "" },
		"plant_room or indoor": func(in *method.AdviceInput) { in.Place.Setting = "cave" },
		"tube_grid or rolled":  func(in *method.AdviceInput) { in.Coil.Construction = "mesh" },
		"between 1 and 6":      func(in *method.AdviceInput) { in.Coil.Slabs = 7 },
		"not an answer":        func(in *method.AdviceInput) { in.Rules = method.Rules{"air": "perhaps"} },
	} {
		in := yard()
		change(&in)
		_, err := method.Advise(in)
		assert.ErrorContains(t, err, why)
	}
}

func TestQuestionsHoldTogether(t *testing.T) {
	t.Parallel()
	assert.Len(t, method.Questions, 27)
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

func ExampleAdvise() {
	out, _ := method.Advise(method.AdviceInput{
		Coil:  method.Coil{Construction: method.Microchannel, Slabs: 1, Role: "condenser", CapacityKw: 10},
		Place: method.Place{Setting: "outdoor", Water: true}, Found: method.Found{Kind: "grease", Grade: soil.Felt}, Work: "deep",
	})
	fmt.Println(out.Options[0].MethodName, "/", out.Options[0].CleanerName)
	for _, r := range out.RuledOut {
		if r.Cleaner == "heavy_alkaline" {
			fmt.Println("not:", r.CleanerName, "-", r.Ban.Text)
		}
	}
	// Output:
	// Foam and rinse / Non-acid solution
	// not: Heavy-duty alkaline, outdoor - Strong alkaline eats microchannel coils.
}

// A grade seen with light through is of face and core together, so less is expected to be left than when the same grade
// was seen on the face alone, over a core that adds to it.
func TestLightThroughCountsFaceAndCoreOnce(t *testing.T) {
	t.Parallel()
	in := method.AdviceInput{
		Coil: method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", FaceM2: 1, DeepMinutes: 40}, Place: method.Place{Setting: "outdoor", Water: true},
		Found: method.Found{Kind: "grease", Grade: soil.Felt}, Work: "deep",
	}
	face, err := method.Advise(in)
	require.NoError(t, err)
	in.Found.Through = true
	through, err := method.Advise(in)
	require.NoError(t, err)
	left := map[[2]string]float64{}
	for _, o := range face.Options {
		left[[2]string{o.Method, o.Cleaner}] = o.LeftShare
	}
	require.NotEmpty(t, through.Options)
	for _, o := range through.Options {
		assert.Less(t, o.LeftShare, left[[2]string{o.Method, o.Cleaner}], o.Method)
		assert.LessOrEqual(t, int(o.LeftGrade), int(soil.Felt), "no way of cleaning leaves more than was found")
	}
	assert.NotContains(t, through.Assumed, "core")
}
