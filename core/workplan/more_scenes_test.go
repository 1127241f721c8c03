package workplan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
)

func light(x *workplan.Input)   { x.Work = workplan.LightWork }
func roomy(x *workplan.Input)   { x.Place.WallBacked = false }
func noFood(x *workplan.Input)  { x.Place.NearFood = false }
func noWater(x *workplan.Input) { x.Place.Water = false }
func slabs(n int) func(*workplan.Input) {
	return func(x *workplan.Input) { x.Coil.Slabs = n }
}

func rule(question, answer string) func(*workplan.Input) {
	return func(x *workplan.Input) { x.Rules = method.Rules{question: answer} }
}

func rules(r method.Rules) func(*workplan.Input) {
	return func(x *workplan.Input) { x.Rules = r }
}

var (
	plantRoom = method.Place{Setting: method.PlantRoom, Water: true, Drain: true}
	coldRoom  = method.Place{Setting: method.Indoor, NearFood: true, Water: true, Drain: true}
	wetRoof   = method.Place{Setting: method.Roof, Water: true, Drain: true}
)

// moreScenes (common practice, no source) go along the axes: construction, plug-in, flammable, place, water, soil, grade, rules, kit.
var moreScenes = []scene{
	{"ice machine by the bar, dust felt", in(plugIn, kitchen, "dust", soil.Felt, fixed), []string{"brush"}, []string{" with ", "air", "out"}, "no", "make_movable"},
	{"ice machine in a fish hall, salt felt", in(plugIn, kitchen, "salt", soil.Felt, fixed), []string{"brush"}, []string{" with ", "air", "out"}, "no", ""},
	{"kitchen reach-in, grease coat, food near", in(plugIn, kitchen, "grease", soil.Coat), []string{"brush", "out"}, []string{" with "}, "yes", ""},
	{"kitchen reach-in, grease blanket, food near", in(plugIn, kitchen, "grease", soil.Blanket), []string{"brush"}, []string{" with ", "hose"}, "no", "look_inside"},
	{"store-room freezer, rolled coil, grease felt, no food near", in(rolled, method.Place{Setting: method.Indoor}, "grease", soil.Felt), []string{"aerosol_rinse with solvent_aerosol"}, []string{"hose", "alkaline", "foam"}, "yes", ""},
	{"tube grid on the back of a fridge, dust film", in(grid, room, "dust", soil.Film), []string{"brush_vacuum"}, []string{" with ", "out"}, "yes", ""},
	{"tube grid on the back, grease coat", in(grid, kitchen, "grease", soil.Coat), []string{"brush_vacuum"}, []string{"alkaline", "hose", "aerosol"}, "yes", ""},
	{"display cooler, dust film, light clean", in(plugIn, shop, "dust", soil.Film, light), []string{"brush_vacuum"}, []string{" with ", "out", "air"}, "yes", ""},
	{"display cooler, room behind, dust felt", in(plugIn, shop, "dust", soil.Felt, roomy), []string{"brush_vacuum"}, []string{" with ", "out"}, "", "take_out"},
	{"display cooler, microchannel, dust coat", in(plugIn, shop, "dust", soil.Coat, func(x *workplan.Input) { x.Coil.Construction = method.Microchannel }), []string{"brush_vacuum"}, []string{" with "}, "yes", ""},
	{"display cooler in a garden, plug-in, dust felt", in(plugIn, yard, "dust", soil.Felt), []string{"brush_vacuum", "gentle_air"}, []string{" with ", "hose", "blower"}, "yes", ""},
	{"split outdoors, leaf film, light clean, closed", in(condenser, yard, "leaf_grass", soil.Film, light), []string{"closed_hose_down with water"}, []string{"brush", "alkaline"}, "yes", ""},
	{"split outdoors, seed fluff blanket", in(condenser, yard, "seed_fluff", soil.Blanket), []string{"debris", "pre_rinse", "foam_rinse with medium_universal"}, []string{"alkaline", "indoor"}, "yes", ""},
	{"split outdoors, dust coat, no water", in(condenser, yard, "dust", soil.Coat, noWater), []string{"debris", "soft_brush", "tank_sprayer with medium_universal"}, []string{"hose", "foam_rinse", "pre_rinse"}, "yes", ""},
	{"split outdoors, salt coat", in(condenser, yard, "salt", soil.Coat), []string{"debris", "soft_brush", "foam_rinse with medium_universal"}, []string{"alkaline", "indoor"}, "yes", ""},
	{"split outdoors, grease felt behind a kitchen", in(condenser, yard, "grease", soil.Felt), []string{"debris", "foam_rinse with medium_universal"}, []string{"extra_heavy", "brush"}, "yes", ""},
	{"split outdoors, grease blocked", in(condenser, yard, "grease", soil.Blocked), []string{"debris", "foam_rinse with heavy_alkaline"}, []string{"indoor", "extra_heavy"}, "yes", ""},
	{"two slabs, mud felt, core blocked", in(condenser, yard, "mud", soil.Felt, slabs(2), core(soil.Blocked)), []string{"debris", "pre_rinse", "split_foam with heavy_alkaline"}, []string{"extra_heavy"}, "yes", ""},
	{"two slabs, dust film, core blanket", in(condenser, yard, "dust", soil.Film, slabs(2), core(soil.Blanket)), []string{"split_foam with medium_universal"}, []string{"alkaline"}, "yes", ""},
	{"split outdoors in frost, leaf felt", in(condenser, yard, "leaf_grass", soil.Felt, frost), []string{"debris", "brush_vacuum", "air"}, []string{" with ", "pre_rinse"}, "no", "when_warmer"},
	{"microchannel, leaf blanket", in(microCoil, yard, "leaf_grass", soil.Blanket), []string{"debris", "pre_rinse", "tank_sprayer with mild_detergent"}, []string{"alkaline", "foam_rinse", "brush"}, "yes", ""},
	{"microchannel, grease felt", in(microCoil, yard, "grease", soil.Felt), []string{"debris", "tank_sprayer with medium_universal"}, []string{"alkaline", "foam_rinse"}, "yes", ""},
	{"microchannel on a roof without water, dust felt", in(microCoil, roof, "dust", soil.Felt), []string{"soft_brush", "tank_sprayer with mild_detergent"}, []string{"alkaline", "hose"}, "yes", ""},
	{"construction not known, outdoors, dust blanket", in(method.Coil{Role: "condenser", FaceM2: 1}, yard, "dust", soil.Blanket), []string{"debris", "soft_brush", "tank_sprayer with mild_detergent"}, []string{"alkaline", "foam_rinse"}, "yes", "ask_facts"},
	{"heat pump of R-32, dust blanket, water", in(heatPump, yard, "dust", soil.Blanket, burns), []string{"debris", "soft_brush", "foam_rinse with medium_universal"}, []string{"blower", "aerosol"}, "yes", ""},
	{"heat pump of R-290, hose and cans only, leaf felt", in(heatPump, yard, "leaf_grass", soil.Felt, burns, kit("hose", "cans")), []string{"debris", "hose_rinse with water"}, []string{"aerosol", "blower"}, "no", "bring_kit"},
	{"remote condenser in a plant room, dust blanket", in(condenser, plantRoom, "dust", soil.Blanket), []string{"brush", "gentle_air"}, []string{"alkaline", "blower"}, "yes", ""},
	{"remote condenser in a plant room without water, sand felt", in(condenser, plantRoom, "sand", soil.Felt, noWater), []string{"brush_vacuum", "gentle_air"}, []string{"hose", "alkaline"}, "yes", ""},
	{"remote condenser on a roof, insects felt", in(condenser, wetRoof, "insects", soil.Felt), []string{"debris", "pre_rinse", "foam_rinse with medium_universal"}, []string{"alkaline", "indoor"}, "yes", ""},
	{"cold room, biofilm coat, food", in(indoor, coldRoom, "biofilm", soil.Coat), []string{"mild_detergent"}, []string{"alkaline", "foaming_disinfecting", "hose"}, "yes", ""},
	{"cold room, dust blanket, no water", in(indoor, coldRoom, "dust", soil.Blanket, noWater), []string{"vacuum_narrow", "with mild_detergent"}, []string{"alkaline", "hose", "disinfecting"}, "yes", ""},
	{"air handler, dust film", in(indoor, plantRoom, "dust", soil.Film), []string{"brush_vacuum"}, []string{" with "}, "yes", ""},
	{"air handler, dust blanket", in(indoor, plantRoom, "dust", soil.Blanket), []string{"vacuum_narrow", "with indoor_neutral"}, []string{"alkaline", "hose"}, "yes", ""},
	{"cassette, biofilm felt, occupied", in(indoor, room, "biofilm", soil.Felt), []string{"bagged_wash with foaming_disinfecting"}, []string{"alkaline", "hose", "tank"}, "yes", ""},
	{"wall unit, dust coat", in(wallUnit, room, "dust", soil.Coat), []string{"brush_vacuum"}, []string{"alkaline", "hose"}, "yes", ""},
	{"through-wall, lint blanket, no water", in(slidOut, room, "lint", soil.Blanket), []string{"vacuum_narrow", "tank_sprayer with mild_detergent out"}, []string{"alkaline", "foam"}, "yes", ""},
	{"residue nobody can explain, condenser, film", in(condenser, yard, "residue", soil.Film), []string{"with water"}, []string{"alkaline", "foam", "medium", "detergent"}, "yes", "watch"},
	{"rule air never: bar cooler, R-600a, food near", in(plugIn, kitchen, "dust", soil.Felt, core(soil.Felt), burns, rule("air", "never")), []string{"long_brush out"}, []string{"air", " with "}, "no", ""},
	{"rule plug-in never: rolled coil, lint blanket", in(rolled, room, "lint", soil.Blanket, rule("plug_in_chemistry", "never")), []string{"long_brush", "gentle_air out"}, []string{" with "}, "yes", ""},
	{"rule plug-in allowed: reach-in, grease felt, no food", in(plugIn, room, "grease", soil.Felt, noFood, rule("plug_in_chemistry", "allowed")), []string{"aerosol_rinse with solvent_aerosol"}, []string{"hose", "alkaline", "foam"}, "", ""},
	{"rule outside, closed: heat pump, dust felt", in(heatPump, yard, "dust", soil.Felt, rule("direction", "outside")), []string{"debris", "brush", "tank_sprayer with medium_universal"}, []string{"hose_rinse", "foam_rinse"}, "yes", ""},
	{"rule straight to the cleaner, heat pump, leaf felt", in(heatPump, yard, "leaf_grass", soil.Felt, rule("dry_first", "chemistry")), []string{"debris", "foam_rinse with medium_universal"}, []string{"pre_rinse", "brush"}, "yes", ""},
	{"rules of a strict house: everything clean, slabs parted", in(condenser, yard, "dust", soil.Felt, slabs(2), rules(method.Rules{"how_clean": "perfect", "slabs": "always"})), []string{"debris", "brush", "split_foam"}, []string{"indoor", "extra_heavy"}, "yes", ""},
	{"kit: brush only, heat pump, dust felt", in(heatPump, yard, "dust", soil.Felt, kit("soft brush")), []string{"soft_brush"}, []string{"vacuum", " with "}, "no", "bring_kit"},
}

// A kit in which nothing is for this coil leaves no plan, and says what to bring.
func TestNothingInTheKit(t *testing.T) {
	t.Parallel()
	a, err := workplan.Advise(in(plugIn, shop, "dust", soil.Felt, kit("bucket")))
	require.NoError(t, err)
	assert.Empty(t, a.Plans)
	assert.Contains(t, a.Then, workplan.ThenKit)
}

// What is bare is left and looked at again.
func TestBareIsLeft(t *testing.T) {
	t.Parallel()
	a, err := workplan.Advise(in(condenser, yard, "dust", soil.Bare))
	require.NoError(t, err)
	assert.True(t, a.Leave)
}

// What nobody has said is judged the stricter way, said, and asked where it rules something out.
func TestWhatIsUnknownIsSaid(t *testing.T) {
	t.Parallel()
	x := in(rolled, room, "lint", soil.Blanket)
	x.Coil.FlammableUnknown = true
	a, err := workplan.Advise(x)
	require.NoError(t, err)
	assert.Contains(t, a.Assumed, "flammability")
	for _, p := range a.Plans {
		assert.NotContains(t, words(p), "aerosol", "its refrigerant may burn")
	}
	y := in(condenser, yard, "leaf_grass", soil.Blanket, kit("hose", "foaming sprayer"))
	y.Place.WaterUnknown = true
	a, err = workplan.Advise(y)
	require.NoError(t, err)
	assert.Contains(t, a.Assumed, "water")
	assert.Contains(t, a.Then, workplan.ThenAsk)
	for _, p := range a.Plans {
		assert.NotContains(t, words(p), "hose")
	}
}

// A kit that names a ladder alone says nothing of what there is to clean with.
func TestKnowsKit(t *testing.T) {
	t.Parallel()
	assert.False(t, workplan.KnowsKit(nil))
	assert.False(t, workplan.KnowsKit([]string{"ladder", "first aid box"}))
	assert.True(t, workplan.KnowsKit([]string{"ladder", "brush and vacuum"}))
}
