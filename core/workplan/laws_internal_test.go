package workplan

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
)

// random is any job: what it is, where it stands, what was found, and which rules hold there.
func random(r *rand.Rand) Input {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	yes := func() bool { return r.IntN(2) == 0 }
	seldom := func() bool { return r.IntN(4) == 0 }
	in := Input{
		Coil: method.Coil{
			Construction: method.Construction(pick("", "tube_fin", "tube_fin", "microchannel", "tube_grid", "rolled")), Slabs: 1 + r.IntN(3),
			Role: pick("condenser", "condenser", "evaporator", "outdoor", "back", ""), PlugIn: seldom(), Movable: yes(), Flammable: yes(), FaceM2: .1 + r.Float64(),
			DeepMinutes: 20 + 60*r.Float64(),
		},
		Place: method.Place{
			Setting: method.Setting(pick("", "outdoor", "roof", "indoor", "plant_room")), NearFood: seldom(), Occupied: yes(), WallBacked: yes(), Water: yes(), Drain: yes(),
		},
		Found:  method.Found{Kind: soil.Kinds[r.IntN(len(soil.Kinds))].Code, Grade: soil.Grade(r.IntN(6)), Through: yes()},
		Work:   pick(DeepWork, DeepWork, LightWork),
		Rules:  method.Rules{},
		Prices: method.Prices{LabourHour: 40 * r.Float64(), WaterM3: 3},
	}
	if yes() {
		low := -5 + 20*r.Float64()
		in.Place.LowC = &low
	}
	if yes() {
		core := soil.Grade(r.IntN(6))
		in.Found.CoreGrade = &core
	}
	for range r.IntN(5) {
		q := method.Questions[r.IntN(len(method.Questions))]
		in.Rules[q.Code] = q.Choices[r.IntN(len(q.Choices))].Code
	}
	if r.IntN(4) == 0 {
		in.Kit = []string{pick("hose", "brush and vacuum"), pick("tank sprayer", "aerosol"), pick("ladder", "foamer", "air line")}
	}
	return in
}

// against is what never may be, told apart from the code that plans: the words of the trade once more.
func against(in Input, p Plan) string {
	indoors := in.Place.Setting != method.Outdoor && in.Place.Setting != method.Roof
	unsure := in.Coil.Construction == method.Microchannel || in.Coil.Construction == method.Unstated || in.Coil.Construction == ""
	cold := in.Place.LowC != nil && *in.Place.LowC < 4
	hoses := []string{"closed_hose_down", "hose_rinse", "pour_foam", "foam_rinse", "split_foam", "out_and_washed", PreRinse, Rinse}
	out := false
	for _, x := range p.Passes {
		c := method.Cleaner{}
		for _, k := range method.StandardCleaners {
			if k.Code == x.Cleaner {
				c = k
			}
		}
		wet := x.Cleaner != "" || x.Method == PreRinse || x.Method == Rinse
		if out && x.Where == InPlace && x.Method != Debris {
			return "back in place after it was taken out"
		}
		out = out || x.Where == TakenOut
		switch {
		case c.PH >= 11.5 && (indoors || unsure || in.Coil.PlugIn || in.Coil.Role == "evaporator" || in.Coil.Role == "back" || in.Coil.Role == ""):
			return "strong alkaline"
		case in.Coil.PlugIn && slices.Contains(hoses, x.Method), in.Coil.PlugIn && c.Foams, in.Coil.PlugIn && x.Method == "tank_sprayer":
			return "hose or foam on sealed refrigeration"
		case in.Coil.PlugIn && wet && in.Rules["plug_in_chemistry"] == "never":
			return "wet on plug-in refrigeration against the rule"
		case in.Coil.Flammable && (c.Flammable || x.Method == "leaf_blower"):
			return "ignition at a flammable refrigerant"
		case wet && cold && (!indoors || x.Where == TakenOut):
			return "wet in frost"
		case slices.Contains(hoses, x.Method) && !in.Place.Water:
			return "hose without water"
		case x.Where == TakenOut && !in.Coil.Movable:
			return "taken out what cannot be moved"
		case x.Where == InPlace && in.Place.NearFood && x.Cleaner != "" && !c.NearFood:
			return "near food"
		case x.Where == InPlace && indoors && x.Cleaner != "" && !c.Indoors:
			return "an outdoor cleaner indoors"
		case x.Where == InPlace && indoors && in.Place.WallBacked && (x.Method == "gentle_air" || x.Method == "leaf_blower"):
			return "air into a closed cabinet"
		case x.DwellMaxS < x.DwellMinS, x.WaterParts != nil && (*x.WaterParts < c.PartsFrom-.5 || *x.WaterParts > c.PartsTo+.5):
			return "strength or dwell out of the cleaner's range"
		}
	}
	return ""
}

// Every plan of 20,000 jobs keeps every rule that cannot be overridden; every job has a plan, or is told what to do then.
func TestNoPlanBreaksAHardRule(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(15, 4))
	plans := 0
	for range 20_000 {
		in := random(r)
		a, err := Advise(in)
		require.NoError(t, err)
		for _, p := range a.Plans {
			plans++
			require.Empty(t, against(in, p), "%+v: %+v", in, p.Passes)
			require.GreaterOrEqual(t, p.Cost, 0.0)
			require.NotEmpty(t, p.Passes)
		}
		if !a.Leave && (len(a.Plans) == 0 || !a.Plans[0].Enough) {
			require.NotEmpty(t, a.Then, "%+v", in)
		}
	}
	assert.Greater(t, plans, 100_000)
}

// The grammar gives the sequences that a plain search of all sequences of up to four passes finds lawful and well formed, and no other;
// brush and vacuum one after the other, the cleaner again and what follows a rinse are beside it.
func TestTheGrammarIsExhausted(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(7, 7))
	for range 30 {
		in := random(r)
		in.Work, in.Cleaners = DeepWork, method.StandardCleaners[:5]
		f, err := in.facts()
		require.NoError(t, err)
		found := map[string]bool{}
		f.each(func(steps []step, _ []string) {
			again := len(steps) > 1 && steps[len(steps)-1] == steps[len(steps)-2]
			last := steps[len(steps)-1].code
			pair := slices.ContainsFunc(steps, func(s step) bool { return s.code == "soft_brush" }) && slices.ContainsFunc(steps, func(s step) bool { return s.code == "vacuum_narrow" })
			if len(steps) <= 4 && !again && !pair && last != Rinse && (last != Debris || len(steps) == 1) {
				found[spell(f, steps)] = true
			}
		})
		want := map[string]bool{}
		f.every4(func(steps []step) { want[spell(f, steps)] = true })
		for k := range want {
			assert.True(t, found[k], "not found: %s", k)
		}
		for k := range found {
			assert.True(t, want[k], "not a sequence of the grammar: %s", k)
		}
	}
}

func spell(f *facts, steps []step) string {
	out := ""
	for _, s := range steps {
		out += s.code + "/" + s.where
		if s.cleaner >= 0 {
			out += "/" + f.Cleaners[s.cleaner].Code
		}
		out += " "
	}
	return out
}

// every4 searches all sequences of up to four passes by brute force.
func (f *facts) every4(do func([]step)) {
	var all []step
	codes := []string{Debris, PreRinse}
	for _, m := range f.Methods {
		if slotOf(m.Code) != noSlot {
			codes = append(codes, m.Code)
		}
	}
	for _, code := range codes {
		for _, where := range []string{InPlace, TakenOut} {
			if slotOf(code) != wetSlot {
				if rule, _ := f.ban(code, nil, where); rule == "" {
					all = append(all, step{code, -1, where})
				}
				continue
			}
			for i := range f.Cleaners {
				if rule, _ := f.ban(code, &f.Cleaners[i], where); rule == "" && method.TechniqueOf(code).Takes(f.Cleaners[i].Form) {
					all = append(all, step{code, i, where})
				}
			}
		}
	}
	// rank is the place in the grammar: it may only grow, and each place is filled once.
	rank := func(s step) int {
		switch {
		case s.code == Debris:
			return 0
		case s.code == PreRinse:
			return 3
		case s.cleaner >= 0:
			return 4
		case slotOf(s.code) == airSlot:
			return 2
		}
		return 1
	}
	var grow func(steps []step)
	grow = func(steps []step) {
		last := steps[len(steps)-1]
		pre := slices.IndexFunc(steps, func(s step) bool { return s.code == PreRinse })
		if r := rank(last); r != 0 && r != 3 {
			if pre < 0 || rank(last) == 4 && f.Cleaners[last.cleaner].Duty > method.NoDuty && steps[pre].where == last.where {
				do(steps)
			}
		}
		if len(steps) == 4 {
			return
		}
		for _, s := range all {
			if rank(s) > rank(last) && (last.where == InPlace || s.where == TakenOut) && (rank(last) != 3 || rank(s) == 4) {
				grow(append(slices.Clone(steps), s))
			}
		}
	}
	for _, s := range all {
		if s.code == Debris && (!f.hasDebris() || s.where == TakenOut) {
			continue
		}
		if s.code == PreRinse && s.where == InPlace && !f.Place.Outdoors() {
			continue
		}
		grow([]step{s})
	}
}

// One more lawful pass never leaves more soil.
func TestOneMorePassNeverLeavesMore(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(3, 1))
	for range 300 {
		in := random(r)
		f, err := in.facts()
		require.NoError(t, err)
		var wet step
		any := false
		f.each(func(steps []step, _ []string) {
			d := f.judge(steps, nil)
			for _, s := range steps {
				if s.cleaner >= 0 {
					wet, any = s, true
				}
			}
			if any {
				more := f.judge(append(slices.Clone(steps), wet), nil)
				require.LessOrEqual(t, more.share, d.share+1e-12)
			}
		})
	}
}

// A cleaner that becomes dearer never moves its plans up.
func TestADearerCleanerNeverRanksBetter(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(9, 2))
	for range 400 {
		in := random(r)
		in.Cleaners = slices.Clone(method.StandardCleaners)
		k := 1 + r.IntN(len(in.Cleaners)-1)
		before, err := Advise(in)
		require.NoError(t, err)
		in.Cleaners[k].PackPrice *= 3
		after, err := Advise(in)
		require.NoError(t, err)
		code := in.Cleaners[k].Code
		at := func(a Advice) int {
			return slices.IndexFunc(a.Plans, func(p Plan) bool {
				return slices.ContainsFunc(p.Passes, func(x Pass) bool { return x.Cleaner == code })
			})
		}
		if x, y := at(before), at(after); x >= 0 && y >= 0 {
			assert.GreaterOrEqual(t, y, x, "%s in %+v", code, in)
		} else {
			assert.False(t, x < 0 && y >= 0)
		}
	}
}

// A cleaner without a price is never free: it costs what the dearest like it does, and says so.
func TestACleanerWithoutAPriceIsNeverFree(t *testing.T) {
	t.Parallel()
	in := Input{
		Coil: method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", FaceM2: 1, DeepMinutes: 50}, Place: method.Place{Setting: method.Outdoor, Water: true},
		Found: method.Found{Kind: "grease", Grade: soil.Felt, Through: true}, Work: DeepWork, Cleaners: slices.Clone(method.StandardCleaners),
	}
	for i := range in.Cleaners {
		if in.Cleaners[i].Code == "medium_universal" {
			in.Cleaners[i].PackL, in.Cleaners[i].PackPrice = 0, 0
		}
	}
	a, err := Advise(in)
	require.NoError(t, err)
	for _, p := range a.Plans {
		if p.Passes[p.Main].Cleaner == "medium_universal" {
			assert.InDelta(t, p.CleanerL*55/5, p.Cost, 1e-9, "as the dearest concentrate, which is the non-acid solution")
			assert.Contains(t, p.Notes, "price_assumed")
		}
	}
	assert.Contains(t, a.Assumed, "price of medium_universal")
}

// A rule of the house that is set aside takes no plan away, and what it adds says so; a rule that cannot be set aside changes nothing.
func TestSettingARuleAsideTakesNothingAway(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(21, 5))
	for range 12 {
		in := random(r)
		plans := func(in Input) map[string][]string {
			f, err := in.facts()
			require.NoError(t, err)
			out := map[string][]string{}
			f.each(func(steps []step, over []string) { out[spell(f, steps)] = over })
			return out
		}
		before := plans(in)
		for _, b := range method.Bans {
			in.Overrides = []string{b.Code}
			after := plans(in)
			if b.Hard {
				require.Len(t, after, len(before), b.Code)
				continue
			}
			for k := range before {
				require.Contains(t, after, k, "went with %s", b.Code)
			}
			for k, over := range after {
				if _, known := before[k]; !known {
					require.Contains(t, over, b.Code)
				}
			}
		}
	}
}

func BenchmarkAdvise(b *testing.B) {
	in := Input{
		Coil: method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", FaceM2: 1, DeepMinutes: 50, Movable: true}, Place: method.Place{Setting: method.Outdoor, Water: true},
		Found: method.Found{Kind: "dust", Grade: soil.Felt, Through: true}, Work: DeepWork,
	}
	for b.Loop() {
		if _, err := Advise(in); err != nil {
			b.Fatal(err)
		}
	}
}
