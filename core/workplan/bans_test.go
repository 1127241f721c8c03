package workplan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
)

// outdoorCoil is an ordinary condenser outdoors with water at hand, found felted with grease.
func outdoorCoil() workplan.Input {
	return workplan.Input{
		Coil:  method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", FaceM2: 1, DeepMinutes: 50},
		Place: method.Place{Setting: "outdoor", Water: true, Drain: true},
		Found: method.Found{Kind: "grease", Grade: soil.Felt, Through: true}, Work: "deep", Rules: method.Rules{},
	}
}

func plugInCoil(in *workplan.Input) {
	in.Coil.PlugIn, in.Coil.Movable = true, true
	in.Place = method.Place{Setting: "indoor", Occupied: true}
}

// met is a rule of the list with a case in which it speaks, and a word for what it speaks against.
type met struct {
	ban, against string
	change       func(*workplan.Input)
}

var rulesMet = []met{
	{"pressure_washer", "", func(*workplan.Input) {}},
	{"slanted_spray", "", func(*workplan.Input) {}},
	{"fan_running", "", func(*workplan.Input) {}},
	{"alkaline_microchannel", "heavy_alkaline", func(in *workplan.Input) { in.Coil.Construction = method.Microchannel }},
	{"not_on_microchannel", "", func(in *workplan.Input) {
		in.Coil.Construction = method.Microchannel
		in.Cleaners = []method.Cleaner{{Code: "x", Name: "X", Form: method.Concentrate, PH: 9, Duty: method.HeavyDuty, PartsFrom: 4, PartsTo: 10}}
	}},
	{"alkaline_indoors", "heavy_alkaline", func(in *workplan.Input) { in.Place.Setting, in.Coil.Role = "plant_room", "evaporator" }},
	{"not_indoors", "medium_universal", func(in *workplan.Input) { in.Place.Setting, in.Coil.Role = "plant_room", "condenser" }},
	{"acid", "acid", func(in *workplan.Input) {
		in.Cleaners = []method.Cleaner{{Code: "acid", Name: "Acid", Form: method.Concentrate, PH: 2.5, Duty: method.HeavyDuty, PartsFrom: 4, PartsTo: 10, Indoors: true}}
	}},
	{"near_food", "", func(in *workplan.Input) {
		in.Place = method.Place{Setting: "plant_room", Water: true, Drain: true, NearFood: true}
		in.Coil.Role = "evaporator"
		in.Cleaners = []method.Cleaner{{Code: "x", Name: "X", Form: method.ReadyToUse, PH: 7, Duty: method.HeavyDuty, Indoors: true}}
	}},
	{"closed_cabinet", "gentle_air", func(in *workplan.Input) { plugInCoil(in); in.Place.WallBacked = true }},
	{"mixing_head", "indoor_neutral", func(*workplan.Input) {}},
	{"frost", "foam_rinse", func(in *workplan.Input) { low := 1.0; in.Place.LowC = &low }},
	{"ignition", "leaf_blower", func(in *workplan.Input) { in.Coil.Flammable = true }},
	{"flammable_spray", "solvent_aerosol", func(in *workplan.Input) { in.Coil.Flammable = true }},
	{"unsuited", "", func(in *workplan.Input) { in.Coil.Construction = method.TubeGrid }},
	{"wrong_place", "leaf_blower", func(in *workplan.Input) { in.Place.Setting = "indoor" }},
	{"no_water", "hose_rinse", func(in *workplan.Input) { in.Place.Water = false }},
	{"fixed", "out_and_washed", func(*workplan.Input) {}},
	{"single_slab", "split_foam", func(*workplan.Input) {}},
	{"sealed_plug_in", "tank_sprayer", plugInCoil},
	{"alkaline_indoor_coil", "heavy_alkaline", func(in *workplan.Input) { in.Coil.Role = "evaporator" }},
	{"alkaline_construction", "heavy_alkaline", func(in *workplan.Input) { in.Coil.Construction = method.Rolled }},
	{"indoor_coil", "medium_universal", func(in *workplan.Input) { in.Coil.Role = "evaporator" }},
	{"air_into_room", "gentle_air", func(in *workplan.Input) { in.Coil.Role, in.Place.Setting = "evaporator", "plant_room" }},
	{"kit", "foam_rinse", func(in *workplan.Input) { in.Kit = []string{"hose"} }},
	{"slabs_parted", "foam_rinse", func(in *workplan.Input) { in.Coil.Slabs, in.Rules["slabs"] = 2, "always" }},
	{"deep_opened", "closed_hose_down", func(*workplan.Input) {}},
	{"air_never", "gentle_air", func(in *workplan.Input) { in.Rules["air"] = "never" }},
	{"air_way_out", "gentle_air", plugInCoil},
	{"plug_in_dry", "aerosol_rinse", func(in *workplan.Input) { plugInCoil(in); in.Rules["plug_in_chemistry"] = "never" }},
	{"plug_in_layered", "aerosol_rinse", plugInCoil},
	{"slabs_left", "split_foam", func(in *workplan.Input) { in.Coil.Slabs, in.Rules["slabs"] = 2, "leave" }},
	{"core_clean", "split_foam", func(in *workplan.Input) {
		in.Coil.Slabs, in.Found = 2, method.Found{Kind: "lint", Grade: soil.Coat, Through: true}
	}},
	{"stays_in_place", "out_and_washed", func(in *workplan.Input) { in.Coil.Movable, in.Rules["in_place"] = true, "in_place" }},
	{"light_closed", "", func(in *workplan.Input) { in.Work = "light" }},
	{"coating_left", "", func(in *workplan.Input) {
		in.Coil.Role, in.Place = "evaporator", method.Place{Setting: "indoor", Water: true, Drain: true}
		in.Found = method.Found{Kind: "dust", Grade: soil.Film, Through: true}
	}},
	{"outside_only", "hose_rinse", func(in *workplan.Input) { in.Rules["direction"] = "outside" }},
}

// Every rule of the list is met in some case, against what it is there for; a rule that never speaks would be dead.
func TestEveryRuleSpeaks(t *testing.T) {
	t.Parallel()
	covered := map[string]bool{"cleaner_form": true} // what a method does not take is left out without a word
	for _, m := range rulesMet {
		t.Run(m.ban, func(t *testing.T) {
			in := outdoorCoil()
			m.change(&in)
			advice, err := workplan.Advise(in)
			require.NoError(t, err)
			spoke := false
			for _, r := range advice.RuledOut {
				spoke = spoke || (r.Ban.Code == m.ban && (m.against == "" || r.Method == m.against || r.Cleaner == m.against))
			}
			assert.True(t, spoke, "%s does not speak against %s", m.ban, m.against)
		})
		covered[m.ban] = true
	}
	for _, b := range method.Bans {
		assert.True(t, covered[b.Code], "%s: no case is known in which it speaks", b.Code)
		assert.NotEmpty(t, b.Text)
		if b.Question != "" {
			_, known := method.QuestionByCode(b.Question)
			assert.True(t, known, "%s belongs to a question of practice", b.Code)
			assert.False(t, b.Hard, "%s: what belongs to a question can be set aside", b.Code)
		}
	}
}

// Each question has its standard answer among its schools, each school its reason, and no two share a code.
func TestQuestionsAreWhole(t *testing.T) {
	t.Parallel()
	seen := map[string]bool{}
	for _, q := range method.Questions {
		assert.False(t, seen[q.Code], q.Code)
		seen[q.Code] = true
		assert.True(t, q.Has(q.Default), q.Code)
		assert.NotEmpty(t, q.Text)
		assert.NotEmpty(t, q.Why, q.Code)
		assert.GreaterOrEqual(t, len(q.Choices), 2, q.Code)
		schools := map[string]bool{}
		for _, c := range q.Choices {
			assert.False(t, schools[c.Code], "%s, %s", q.Code, c.Code)
			schools[c.Code] = true
			assert.NotEmpty(t, c.Text)
			assert.NotEmpty(t, c.Why, "%s, %s: each school has its reason", q.Code, c.Code)
		}
		assert.Equal(t, q.Default, method.Rules{}.Answer(q.Code))
	}
	assert.Len(t, method.Questions, 35)
	assert.Empty(t, method.Rules{}.Answer("poetry"))
}
