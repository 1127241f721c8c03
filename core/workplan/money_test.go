package workplan_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
)

// The money of a plan is labour by the hour and by head, water by the cubic metre and cleaner by the pack; plans stand in the order
// that Advise promises: enough first, then the mildest unless strength is fixed, then money.
func TestPlansArePricedAndRanked(t *testing.T) {
	t.Parallel()
	for _, s := range scenes {
		x := s.in
		a, err := workplan.Advise(x)
		require.NoError(t, err)
		for i, p := range a.Plans {
			material := 0.0
			for _, pass := range p.Passes {
				material += (pass.RinseL + pass.MixL) / 1000 * 3.5
				if k := slices.IndexFunc(method.StandardCleaners, func(c method.Cleaner) bool { return c.Code == pass.Cleaner }); k >= 0 {
					c := method.StandardCleaners[k]
					if c.PackL > 0 {
						material += pass.AmountL / c.PackL * c.PackPrice
					}
				}
			}
			assert.InDelta(t, p.Minutes/60*float64(p.People)*48+material, p.Cost, float64(p.People)*.8+1e-9, "%s: %s", s.name, words(p)) // minutes are told whole
			assert.Equal(t, p.Enough, p.Enough && p.LeftShare <= a.AimShare, "%s: %s", s.name, words(p))
			if i > 0 && p.Enough && p.People == 1 {
				assert.True(t, a.Plans[i-1].Enough, "%s: enough comes first, %s", s.name, words(p))
			}
		}
	}
}

// A cleaner one step too light for the soil says so and leaves more; one that is heavy enough does not. Only what its soil asks for is
// enough under the sky.
func TestACleanerTooLightSaysSo(t *testing.T) {
	t.Parallel()
	x := in(condenser, yard, "grease", soil.Felt) // asks for medium duty
	left := map[method.Duty]float64{}
	for duty := method.LightDuty; duty <= method.HeavyDuty; duty++ {
		k := method.StandardCleaners[slices.IndexFunc(method.StandardCleaners, func(c method.Cleaner) bool { return c.Code == "medium_universal" })]
		k.Duty = duty
		x.Cleaners = []method.Cleaner{k}
		a, err := workplan.Advise(x)
		require.NoError(t, err)
		at := slices.IndexFunc(a.Plans, func(p workplan.Plan) bool { return words(p) == "debris, foam_rinse with medium_universal" })
		require.GreaterOrEqual(t, at, 0)
		p := a.Plans[at]
		left[duty] = p.LeftShare
		assert.Equal(t, duty < method.MediumDuty, slices.Contains(p.Notes, "cleaner_light"), "duty %d", duty)
		assert.Equal(t, duty >= method.MediumDuty, p.Enough, "duty %d", duty)
	}
	assert.Greater(t, left[method.LightDuty], left[method.MediumDuty]+1e-6)
	assert.InDelta(t, left[method.MediumDuty], left[method.HeavyDuty], 1e-12)
}

// The weakest strength goes with the least soil; a blanket of what is not dust asks for heavy duty.
func TestStrengthAndDutyFollowTheSoil(t *testing.T) {
	t.Parallel()
	parts := func(g soil.Grade) float64 {
		a, err := workplan.Advise(in(condenser, yard, "dust", g))
		require.NoError(t, err)
		p := a.Plans[0]
		require.NotNil(t, p.Passes[p.Main].WaterParts)
		return *p.Passes[p.Main].WaterParts
	}
	assert.Greater(t, parts(soil.Coat), parts(soil.Felt))
	assert.Greater(t, parts(soil.Felt), parts(soil.Blanket))
	for g, want := range map[soil.Grade]string{soil.Felt: "medium_universal", soil.Blanket: "heavy_alkaline"} {
		a, err := workplan.Advise(in(condenser, yard, "grease", g))
		require.NoError(t, err)
		assert.Equal(t, want, a.Plans[0].Passes[a.Plans[0].Main].Cleaner)
	}
}

// Of two like cleaners the cheaper is proposed.
func TestTheCheaperOfTwoLikeCleanersComesFirst(t *testing.T) {
	t.Parallel()
	x := in(condenser, yard, "grease", soil.Felt)
	dear := method.StandardCleaners[slices.IndexFunc(method.StandardCleaners, func(c method.Cleaner) bool { return c.Code == "medium_universal" })]
	cheap := dear
	dear.Code, cheap.Code, dear.PackL, cheap.PackL, dear.PackPrice, cheap.PackPrice = "dear", "cheap", 5, 5, 60, 30
	first := func(list ...method.Cleaner) string {
		x.Cleaners = list
		a, err := workplan.Advise(x)
		require.NoError(t, err)
		return a.Plans[0].Passes[a.Plans[0].Main].Cleaner
	}
	assert.Equal(t, "cheap", first(dear, cheap))
	dear.PackL = 50 // ten times as much for the money
	assert.Equal(t, "dear", first(dear, cheap))
}

// Where nothing is enough, what leaves least comes first; with a rate, what costs least a day.
func TestARateRanksByTheDay(t *testing.T) {
	t.Parallel()
	x := in(plugIn, kitchen, "dust", soil.Blocked, core(soil.Blocked), fixed)
	a, err := workplan.Advise(x)
	require.NoError(t, err)
	for i := 1; i < len(a.Plans); i++ {
		assert.LessOrEqual(t, a.Plans[i-1].LeftShare, a.Plans[i].LeftShare+.05+1e-9)
	}
	y := in(condenser, yard, "dust", soil.Coat)
	y.Rate = .004
	a, err = workplan.Advise(y)
	require.NoError(t, err)
	for _, p := range a.Plans {
		assert.InDelta(t, p.Cost/p.CostDay, p.EveryDays, 1, "%s", words(p))
	}
}

// What cannot be used is named at its field.
func TestAdviceRefuses(t *testing.T) {
	t.Parallel()
	for why, change := range map[string]func(*workplan.Input){
		"found.kind: \"jam\" is not a kind of soil":        func(x *workplan.Input) { x.Found.Kind = "jam" },
		"found.grade: must be a grade from 0 to 5":         func(x *workplan.Input) { x.Found.Grade = 6 },
		"work: must be light or deep":                      func(x *workplan.Input) { x.Work = "" },
		"place.setting: must be outdoor, roof, plant_room": func(x *workplan.Input) { x.Place.Setting = "cave" },
		"coil.construction: must be tube_fin":              func(x *workplan.Input) { x.Coil.Construction = "mesh" },
		"coil.slabs: must be between 1 and 6":              func(x *workplan.Input) { x.Coil.Slabs = 7 },
		"coil.role: must be condenser":                     func(x *workplan.Input) { x.Coil.Role = "radiator" },
		"rules.air: \"perhaps\" is not an answer":          func(x *workplan.Input) { x.Rules = method.Rules{"air": "perhaps"} },
		"rate: must be a load a day between 0 and 1":       func(x *workplan.Input) { x.Rate = -1 },
	} {
		x := in(condenser, yard, "dust", soil.Felt)
		change(&x)
		_, err := workplan.Advise(x)
		assert.ErrorContains(t, err, why)
	}
}

// A grade seen with light through is of face and core together, so less is left than where it was seen on the face alone.
func TestLightThroughCountsFaceAndCoreOnce(t *testing.T) {
	t.Parallel()
	through, err := workplan.Advise(in(condenser, yard, "grease", soil.Felt))
	require.NoError(t, err)
	face, err := workplan.Advise(in(condenser, yard, "grease", soil.Felt, faceOnly))
	require.NoError(t, err)
	left := map[string]float64{}
	for _, p := range face.Plans {
		left[words(p)] = p.LeftShare
	}
	both := 0
	for _, p := range through.Plans {
		if l, there := left[words(p)]; there {
			both++
			assert.Less(t, p.LeftShare, l, words(p))
		}
	}
	assert.Positive(t, both)
	assert.NotContains(t, through.Assumed, "core")
	assert.Contains(t, face.Assumed, "core")
}

func ExampleAdvise() {
	out, _ := workplan.Advise(workplan.Input{
		Coil:  method.Coil{Construction: method.Microchannel, Slabs: 1, Role: "condenser", CapacityKw: 10},
		Place: method.Place{Setting: method.Outdoor, Water: true}, Found: method.Found{Kind: "dust", Grade: soil.Felt, Through: true}, Work: workplan.DeepWork,
	})
	for _, x := range out.Plans[0].Passes {
		fmt.Println(strings.TrimSpace(x.MethodName + " " + x.CleanerName))
	}
	for _, r := range out.RuledOut {
		if r.Method == "tank_sprayer" && r.Cleaner == "heavy_alkaline" {
			fmt.Println("not:", r.CleanerName, "-", r.Ban.Text)
		}
	}
	// Output:
	// Debris out by hand
	// Soft brush along the fins
	// Tank sprayer, low pressure Mild detergent
	// not: Heavy-duty alkaline, outdoor - Strong alkaline eats microchannel coils.
}
