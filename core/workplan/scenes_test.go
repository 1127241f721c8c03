package workplan_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
)

// prices as the sample has them.
var prices = method.Prices{LabourHour: 48, WaterM3: 3.5}

// in puts an input together.
func in(coil method.Coil, place method.Place, kind string, g soil.Grade, change ...func(*workplan.Input)) workplan.Input {
	x := workplan.Input{Coil: coil, Place: place, Found: method.Found{Kind: kind, Grade: g, Through: true}, Work: workplan.DeepWork, Prices: prices, Rules: method.Rules{}}
	if x.Coil.Slabs == 0 {
		x.Coil.Slabs = 1
	}
	for _, c := range change {
		c(&x)
	}
	return x
}

func kit(items ...string) func(*workplan.Input) { return func(x *workplan.Input) { x.Kit = items } }
func core(g soil.Grade) func(*workplan.Input) {
	return func(x *workplan.Input) { x.Found.CoreGrade = &g }
}
func faceOnly(x *workplan.Input) { x.Found.Through = false }
func frost(x *workplan.Input)    { low := 1.0; x.Place.LowC = &low }
func fixed(x *workplan.Input)    { x.Coil.Movable = false }
func burns(x *workplan.Input)    { x.Coil.Flammable = true }

// words are a plan's passes as one line.
func words(p workplan.Plan) string {
	var out []string
	for _, x := range p.Passes {
		s := x.Method
		if x.Cleaner != "" {
			s += " with " + x.Cleaner
		}
		if x.Where == workplan.TakenOut {
			s += " out"
		}
		out = append(out, s)
	}
	return strings.Join(out, ", ")
}

var (
	plugIn     = method.Coil{Construction: method.TubeFin, Role: "condenser", PlugIn: true, Movable: true, FaceM2: .15, DeepMinutes: 30}
	rolled     = method.Coil{Construction: method.Rolled, Slabs: 3, Role: "condenser", PlugIn: true, Movable: true, FaceM2: .1, DeepMinutes: 40}
	grid       = method.Coil{Construction: method.TubeGrid, Role: "condenser", PlugIn: true, Movable: true, FaceM2: .4, DeepMinutes: 40}
	indoor     = method.Coil{Construction: method.TubeFin, Role: "evaporator", FaceM2: .4, DeepMinutes: 70}
	condenser  = method.Coil{Construction: method.TubeFin, Role: "condenser", FaceM2: 1.2, DeepMinutes: 50}
	heatPump   = method.Coil{Construction: method.TubeFin, Role: "outdoor", FaceM2: 1.5, DeepMinutes: 60}
	slidOut    = method.Coil{Construction: method.TubeFin, Role: "outdoor", Movable: true, FaceM2: .4, DeepMinutes: 60}
	kitchen    = method.Place{Setting: method.Indoor, NearFood: true, Occupied: true, WallBacked: true}
	shop       = method.Place{Setting: method.Indoor, Occupied: true, WallBacked: true}
	room       = method.Place{Setting: method.Indoor, Occupied: true}
	yard       = method.Place{Setting: method.Outdoor, Water: true, Drain: true}
	roof       = method.Place{Setting: method.Roof}
	wallUnit   = method.Coil{Construction: method.TubeFin, Role: "back", FaceM2: .3, DeepMinutes: 80}
	microCoil  = method.Coil{Construction: method.Microchannel, Role: "condenser", FaceM2: 1, DeepMinutes: 50}
	roofHeater = heatPump
)

// scene is a job of the trade in words: what the first plan must hold, in this order, and what it must not.
type scene struct {
	name   string
	in     workplan.Input
	holds  []string
	never  []string
	enough string // "yes", "no" or not asked
	then   string
}

var dryOnly = []string{" with "}

var scenes = []scene{
	{
		"bar cooler, built in, R-600a, thick core, food and glasses near, wall behind, face and core felt",
		in(plugIn, kitchen, "dust", soil.Felt, core(soil.Felt), burns),
		[]string{"brush", "gentle_air out"},
		dryOnly, "", "",
	},
	{"the same, cannot be moved", in(plugIn, kitchen, "dust", soil.Felt, core(soil.Felt), burns, fixed), []string{"brush"}, []string{" with ", "air", "blower"}, "no", workplan.ThenMove},
	{"cabinet fridge, coil under the front, lint coat", in(plugIn, room, "lint", soil.Coat), []string{"vacuum"}, dryOnly, "yes", ""},
	{"rolled coil of three layers, lint blanket, R-134a, no food near", in(rolled, room, "lint", soil.Blanket), []string{"long_brush", "aerosol_rinse with solvent_aerosol"}, []string{"hose", "out"}, "", ""},
	{"the same with R-600a", in(rolled, room, "lint", soil.Blanket, burns), []string{"long_brush", "gentle_air out"}, dryOnly, "", ""},
	{"wall unit in a busy room, biofilm felt on the back coil", in(wallUnit, room, "biofilm", soil.Felt), []string{"wall_washer with foaming_disinfecting"}, []string{"medium", "alkaline", "hose"}, "yes", ""},
	{"ceiling room cooler, dust coat", in(indoor, room, "dust", soil.Coat), []string{"brush_vacuum"}, dryOnly, "yes", ""},
	{"cassette, dust felt, occupied room", in(indoor, room, "dust", soil.Felt), []string{"bagged_wash with indoor_neutral"}, []string{"hose", "alkaline"}, "yes", ""},
	{"packaged unit, condenser, leaf and dust felt, water at hand", in(condenser, yard, "leaf_grass", soil.Felt), []string{"debris", "pre_rinse", "foam_rinse with medium_universal"}, []string{"indoor", "disinfecting"}, "yes", ""},
	{"its evaporator, coat of dust", in(indoor, yard, "dust", soil.Coat), []string{"vacuum"}, []string{"alkaline", "hose"}, "yes", ""},
	{"its evaporator, film of dust", in(indoor, yard, "dust", soil.Film), []string{"vacuum"}, []string{"alkaline", "hose"}, "yes", ""},
	{"belly grid, lint blanket", in(grid, room, "lint", soil.Blanket), []string{"vacuum_narrow", "soft_brush"}, dryOnly, "", ""},
	{"split outdoors, grass blanket, hose and cans only", in(condenser, yard, "leaf_grass", soil.Blanket, kit("hose", "aerosol")), []string{"pre_rinse", "aerosol_rinse with foaming_aerosol"}, []string{"brush", "tank"}, "yes", ""},
	{"heat pump, dust felt, panels screened", in(heatPump, yard, "dust", soil.Felt), []string{"debris", "brush", "foam_rinse with medium_universal"}, []string{"extra_heavy"}, "yes", ""},
	{"the same on a roof without water", in(roofHeater, roof, "dust", soil.Felt), []string{"brush", "tank_sprayer with medium_universal"}, []string{"hose", "foam_rinse"}, "yes", ""},
	{"display cooler on a wall, dust felt", in(plugIn, shop, "dust", soil.Felt), []string{"brush"}, []string{"air", " with ", "out"}, "", ""},
	{"the same, blocked", in(plugIn, shop, "dust", soil.Blocked, faceOnly), []string{"brush"}, []string{"air", " with ", "out"}, "no", workplan.ThenLook},
	{"split, sand coat, open at nine", in(condenser, yard, "sand", soil.Coat), []string{"brush", "leaf_blower", "foam_rinse with medium_universal"}, []string{"alkaline"}, "yes", ""},
	{"through-wall unit, dust felt", in(slidOut, method.Place{Setting: method.Indoor, Occupied: true, Water: true}, "dust", soil.Felt), []string{"vacuum", "with mild_detergent out"}, []string{"alkaline", "foam_rinse"}, "yes", ""},
	{"split behind hail guards, leaf and mud blanket", in(condenser, yard, "mud", soil.Blanket), []string{"debris", "pre_rinse", "foam_rinse with heavy_alkaline"}, []string{"extra_heavy"}, "yes", ""},
	{"microchannel condenser, dust felt", in(microCoil, yard, "dust", soil.Felt), []string{"brush", "mild_detergent"}, []string{"alkaline", "foam_rinse"}, "yes", ""},
}

// The scenes of the trade: what a practitioner would do first, and what never (common practice, no source).
func TestScenesOfTheTrade(t *testing.T) {
	t.Parallel()
	for _, s := range append(slices.Clone(scenes), moreScenes...) {
		t.Run(s.name, func(t *testing.T) {
			t.Parallel()
			a, err := workplan.Advise(s.in)
			require.NoError(t, err)
			require.NotEmpty(t, a.Plans)
			if os.Getenv("NEXTROUND_SCENES") != "" {
				for _, p := range a.Plans[:min(4, len(a.Plans))] {
					fmt.Printf("%-60s %5.1f%% enough %v %3.0f min %d p %6.2f  %s\n", s.name[:min(60, len(s.name))], 100*p.LeftShare, p.Enough, p.Minutes, p.People, p.Cost, words(p))
				}
			}
			first := words(a.Plans[0])
			rest := first
			for _, want := range s.holds {
				at := strings.Index(rest, want)
				if !assert.GreaterOrEqual(t, at, 0, "%q is not in it, or not in its place: %s", want, first) {
					break
				}
				rest = rest[at+len(want):]
			}
			for _, no := range s.never {
				assert.NotContains(t, first, no)
			}
			if s.enough != "" {
				assert.Equal(t, s.enough == "yes", a.Plans[0].Enough, "leaves %.2f of %.2f: %s", a.Plans[0].LeftShare, a.AimShare, first)
			}
			if s.then != "" {
				assert.True(t, slices.Contains(a.Then, s.then), "%v", a.Then)
			}
		})
	}
}
