package workplan

import (
	"math"
	"slices"

	"nextround/core/method"
	"nextround/core/soil"
)

const (
	// moveMinutes is what carrying out and back takes, for two (assumption).
	moveMinutes = 30.0
	movePeople  = 2
	// chores is how much of a dwell is filled with other work: blades, pan, flushing the sprayer (assumption).
	chores = 5.0
	// leftStep is how finely plans that are not enough are told apart by what they leave (assumption).
	leftStep = .05
	// canPerArea is litres of an aerosol per m² and slab at a coat; a can holds canL where the cleaner does not say (assumption).
	canPerArea = .5
	canL       = .5
)

func pow15(x float64) float64 { return x * math.Sqrt(x) }

// judge works out what a plan comes to.
func (f *facts) judge(steps []step, over []string) draft {
	d := draft{steps: steps, over: over, left: f.state, people: 1}
	opening := openingDeep
	if f.Work == LightWork {
		opening = openingLight
	}
	d.minutes = opening * f.Coil.DeepMinutes
	material := 0.0
	var dry [6]uint16
	n, m := 0, 0
	for _, s := range steps {
		if s.cleaner >= 0 {
			d.duty = max(d.duty, f.Cleaners[s.cleaner].Duty)
		}
		e := f.effect(s)
		d.left = d.left.Clean(e.removal)
		d.minutes += e.minutes
		material += e.material
		d.rank[3] += e.unfit
		switch {
		case e.slot == airSlot || s.cleaner >= 0:
			d.kind[n], dry[m] = e.id, e.id
			n, m = n+1, m+1
			d.wet = d.wet || s.cleaner >= 0
		case e.slot == drySlot:
			dry[m] = e.id
			m++
		}
		if s.where == TakenOut {
			d.people = movePeople
		}
	}
	if !d.wet {
		d.kind = dry
	}
	if d.people > 1 {
		d.minutes += moveMinutes
	}
	d.share = soil.Share(d.left.Total())
	d.cost = d.minutes/60*float64(d.people)*f.Prices.LabourHour + material
	d.enough = d.share <= f.aim && f.complete(d)
	f.setRank(&d)
	d.daily = f.daily(d)
	return d
}

// effect is what a step does, worked out once.
func (f *facts) effect(s step) effect {
	if e, ok := f.works[s]; ok {
		return e
	}
	var c *method.Cleaner
	if s.cleaner >= 0 {
		c = &f.Cleaners[s.cleaner]
	}
	e := effect{removal: f.removal(s.code, c, s.where), minutes: f.minutesOf(s, c), material: f.materialOf(s, c), unfit: f.unfit(s), slot: slotOf(s.code), id: uint16(len(f.works) + 1)} //nolint:gosec // a few hundred
	f.works[s] = e
	return e
}

func (f *facts) minutesOf(s step, c *method.Cleaner) float64 {
	t := method.TechniqueOf(s.code)
	out := passOf(s.code).minutes * f.Coil.DeepMinutes
	if t.ManySlabs {
		out += t.ExtraMinutes
	}
	if c != nil {
		out += math.Max(0, float64(c.DwellMinS)/60-chores)
	}
	return out
}

// materialOf is the money of cleaner and water.
func (f *facts) materialOf(s step, c *method.Cleaner) float64 {
	a := f.amounts(s, c)
	money := (a.rinse + a.mix) / 1000 * f.Prices.WaterM3
	if c != nil {
		money += a.cleaner * f.price[c.Code]
	}
	return money
}

type amounts struct {
	mix, cleaner, rinse float64
	parts               *float64
	cans                int
	rinsed              bool
}

func (f *facts) amounts(s step, c *method.Cleaner) (a amounts) {
	t := method.TechniqueOf(s.code)
	area := f.face * float64(f.Coil.Slabs)
	switch {
	case s.code == PreRinse || s.code == Rinse:
		a.rinse = math.Round(15 * area)
		return a
	case c == nil:
		return a
	}
	a.rinse = math.Round(t.RinseL * area)
	a.rinsed = true
	if c.Form == method.Plain {
		return a
	}
	a.mix = method.MixFor(f.face, f.Coil.Slabs, f.Found.Grade, f.Coil.DoseFactor)
	if c.Form == method.Aerosol {
		can := c.PackL
		if !(can > 0) {
			can = canL
		}
		a.mix *= canPerArea / method.MixPerArea
		a.cans = int(math.Ceil(a.mix/can - 1e-9))
		a.cleaner, a.mix = float64(a.cans)*can, 0
	} else {
		a.cleaner = a.mix
		if p := f.parts(c); p != nil {
			a.parts = p
			a.cleaner = a.mix / (1 + *p)
		}
	}
	a.rinsed = c.Rinse
	switch f.answer["no_rinse"] {
	case "always":
		a.rinsed = true
	case "by_label":
		a.rinsed = a.rinsed || f.Found.Grade >= soil.Felt
	}
	if f.Coil.PlugIn {
		a.rinsed = false // wiped and caught, never rinsed
	}
	if !a.rinsed {
		a.rinse = 0
	}
	return a
}

// parts of water for a concentrate by the organisation's school of strength.
func (f *facts) parts(c *method.Cleaner) *float64 {
	if c.Form != method.Concentrate || c.PartsTo <= 0 {
		return nil
	}
	p := c.PartsTo
	switch f.answer["strength"] {
	case "fixed":
		p = (c.PartsFrom + c.PartsTo) / 2
	case "by_soil":
		p = c.PartsTo - (c.PartsTo-c.PartsFrom)*float64(f.Found.Grade)/float64(soil.Blocked)
	}
	p = math.Round(p*2) / 2
	return &p
}

// setPrices gives every cleaner a price: one without takes the dearest like cleaner's, so that it is never free.
func (f *facts) setPrices() {
	f.price = map[string]float64{}
	for _, c := range f.Cleaners {
		switch {
		case c.Form == method.Plain:
		case c.PackL > 0 && c.PackPrice > 0:
			f.price[c.Code] = c.PackPrice / c.PackL
		default:
			f.price[c.Code] = f.likePrice(c)
			f.assume(true, "price of "+c.Code)
		}
	}
}

func (f *facts) likePrice(c method.Cleaner) float64 {
	dearest := 0.0
	for _, list := range [][]method.Cleaner{f.Cleaners, method.StandardCleaners} {
		for _, x := range list {
			if x.Form == c.Form && x.PackL > 0 && x.PackPrice > 0 {
				dearest = max(dearest, x.PackPrice/x.PackL)
			}
		}
		if dearest > 0 {
			break
		}
	}
	return dearest
}

// complete reports whether a plan ends where the organisation says a clean ends. What is washed is washed with a cleaner that its soil
// asks for; a deep clean under the sky, or of what was carried there to be washed, is rinsed until the run-off is clear, unless light
// through alone is the rule.
func (f *facts) complete(d draft) bool {
	if f.Work == LightWork || f.Found.Grade <= soil.Bare {
		return true
	}
	if d.wet {
		return d.duty >= f.need
	}
	washed := f.open() || (d.people > 1 && !f.Coil.PlugIn && f.Found.Grade >= soil.Coat)
	return !washed || f.answer["rinse_end"] == "light"
}

// daily is what a plan costs a day at the interval that brings its coil to the limit, where a rate is known.
func (f *facts) daily(d draft) float64 {
	if f.Rate <= 0 {
		return 0
	}
	return d.cost / f.every(d)
}

func (f *facts) every(d draft) float64 {
	return math.Max(1, (soil.Load(f.limit)-d.left.Total())/f.Rate)
}

// ranks are what is weighed before money, the first first; 0 is best.
//
//	0  taken out without a reason, or in another order than the rules of the house ask for
//	1  not enough
//	2  by what is left, where it is not enough
//	3  a cleaner or a method for other places
//	4  carried out where something in place is enough
func (f *facts) setRank(d *draft) {
	r := &d.rank
	if f.unasked(*d) {
		r[0]++
	}
	if !f.inOrder(d.steps) {
		r[0]++
	}
	if !d.enough {
		r[1] = 1
		r[2] = int(d.share / leftStep)
	}
	if d.people > 1 && f.Coil.PlugIn && f.answer["in_place"] != "take_out" {
		r[4] = 1
	}
}

// slides reports whether the coil is one that is slid out to be cleaned: both its faces are reached only outdoors.
func (f *facts) slides() bool {
	return f.Coil.Movable && !f.Coil.PlugIn && !f.Place.Outdoors() && f.Work == DeepWork && f.answer["in_place"] != "in_place"
}

// unasked reports whether a plan leaves in place what is slid out, or carries a plug-in unit out with no reason to: food or glasses near, layers, or a core seen to need it.
func (f *facts) unasked(d draft) bool {
	if f.slides() && d.people == 1 {
		return true
	}
	if d.people == 1 || !f.Coil.PlugIn || f.answer["in_place"] == "take_out" {
		return false
	}
	core := f.Found.CoreGrade != nil && *f.Found.CoreGrade >= soil.Coat
	return !f.Place.NearFood && !f.layered() && !core
}

// unfit counts how far a pass's cleaner is from what is made for here.
func (f *facts) unfit(s step) int {
	if s.cleaner < 0 {
		if f.Work == LightWork && s.dry() && f.hosedDown() {
			return 1 // behind its guards a coil is rinsed, not brushed
		}
		return 0
	}
	c, t := f.Cleaners[s.cleaner], method.TechniqueOf(s.code)
	n := 0
	if f.strict {
		if t.Hose {
			n++
		}
		if c.Duty > method.LightDuty {
			n++
		}
	} else if f.open() && c.Duty > method.NoDuty && c.Indoors {
		n++
	}
	biofilm := f.kind.Code == "biofilm"
	switch {
	case c.Disinfects && !biofilm:
		n += 2
	case biofilm && !c.Disinfects && c.Duty > method.NoDuty && f.indoorCoil():
		n++
	}
	if !f.open() && s.where == InPlace && c.Form == method.Concentrate && c.Rinse {
		n++
	}
	if f.indoorCoil() && c.Duty > method.LightDuty {
		n += 2 // indoor coils are light duty only
	}
	if s.code == "tank_sprayer" && s.where == InPlace && f.indoorCoil() && f.Place.Occupied {
		n++ // over people's heads a bag hangs first
	}
	if c.Form == method.Aerosol && !f.Coil.PlugIn {
		n++ // cans are for what nothing else reaches
		if !c.Foams {
			n++
		}
	}
	return n
}

// hosedDown reports whether a light clean is the closed hose-down: a coil under the sky with water at hand that nobody opens.
func (f *facts) hosedDown() bool {
	if !f.open() || f.answer["panels"] == "always" {
		return false
	}
	for i, c := range f.Cleaners {
		if c.Form == method.Plain && f.knows("closed_hose_down") && f.verdict(step{"closed_hose_down", i, InPlace}).rule == "" {
			return true
		}
	}
	return false
}

// inOrder reports whether a plan's order is the one the rules of the house ask for.
func (f *facts) inOrder(steps []step) bool {
	at := func(code string) int {
		return slices.IndexFunc(steps, func(s step) bool { return s.code == code })
	}
	dry := slices.IndexFunc(steps, step.dry)
	wet := slices.IndexFunc(steps, func(s step) bool { return s.cleaner >= 0 })
	if wet >= 0 && f.Coil.PlugIn && f.kind.Family == soil.DustLike && f.Coil.Construction == method.TubeGrid {
		return false // dry soil on an open grid is not wetted
	}
	air := slices.IndexFunc(steps, func(s step) bool { return slotOf(s.code) == airSlot })
	if wet < 0 {
		return f.dryInOrder(steps)
	}
	rule := f.answer["dry_first"]
	soiled := f.Found.Grade >= soil.Coat && f.Work == DeepWork
	dusty := f.kind.Family != soil.GreaseLike && soiled
	contained := (steps[wet].code == "bagged_wash" || steps[wet].code == "wall_washer") && f.Found.Grade < soil.Blanket
	free := func(code, where string) bool { return f.verdict(step{code, -1, where}).rule == "" }
	pick := loose(f.kind) || f.kind.Code == "mud"
	if f.hasDebris() && soiled {
		if first := f.answer["base_debris"] == "before"; first != (at(Debris) == 0) || (!first && at(Debris) != len(steps)-1) {
			return false
		}
	}
	preFree := free(PreRinse, steps[wet].where) && (f.Place.Outdoors() || steps[wet].where == TakenOut) && f.Cleaners[steps[wet].cleaner].Duty > method.NoDuty
	outer := f.answer["direction"] == "both" && method.TechniqueOf(steps[wet].code).Direction == soil.Against && free(Rinse, steps[wet].where)
	if outer && at(Rinse) < 0 {
		return false
	}
	if f.parted() && !method.TechniqueOf(steps[wet].code).ManySlabs {
		return false
	}
	switch rule {
	case "dry":
		if dusty && !pick && !contained && !f.loosened(steps) && f.anyDry() {
			return false
		}
		if pick && soiled && preFree && at(PreRinse) < 0 {
			return false
		}
		if f.kind.Code == "sand" && soiled && air < 0 && f.anyAir() {
			return false
		}
	case "pre_rinse":
		return (at(PreRinse) >= 0) == (preFree && soiled) && dry < 0 && air < 0
	case "chemistry":
		return at(PreRinse) < 0 && dry < 0 && air < 0
	}
	return dry < 0 || f.dryInOrder(steps)
}

// parted reports whether slabs are to be parted: the core was seen to be packed, and they can be.
func (f *facts) parted() bool {
	seen := f.Found.CoreGrade != nil && *f.Found.CoreGrade >= soil.Blanket
	return seen && f.Work == DeepWork && f.answer["slabs"] == "by_core" && f.canPart
}

// loosened reports whether dry soil was loosened before it is wetted: under the sky by a brush, sand by brush and vacuum, under a roof by
// what takes it away.
func (f *facts) loosened(steps []step) bool {
	brush, vacuum := false, false
	for _, s := range steps {
		both := s.code == "brush_vacuum" || s.code == "long_brush"
		brush = brush || both || s.code == "soft_brush"
		vacuum = vacuum || both || s.code == "vacuum_narrow"
	}
	switch {
	case f.kind.Code == "sand" && f.canDry("vacuum_narrow"):
		return brush && vacuum
	case f.open():
		return brush || !f.canDry("soft_brush") && !f.canDry("long_brush")
	}
	return vacuum || !f.canDry("vacuum_narrow")
}

// dryInOrder holds dry work to the order of brush and vacuum: dust that is brushed loose under a roof is caught, and a deep clean
// brushes and takes away what comes loose.
func (f *facts) dryInOrder(steps []step) bool {
	brush, vacuum, both := false, false, false
	for _, s := range steps {
		brush = brush || s.code == "soft_brush"
		vacuum = vacuum || s.code == "vacuum_narrow"
		both = both || s.code == "brush_vacuum" || s.code == "long_brush"
	}
	order := f.answer["brush_order"]
	if brush && vacuum && order == "both" && f.Coil.Construction != method.TubeGrid && f.canDry("brush_vacuum") {
		return false
	}
	if both && order != "both" && f.canDry("soft_brush") && f.canDry("vacuum_narrow") {
		return false
	}
	if f.open() {
		return f.Work == LightWork || f.hasWet(steps) || f.loosened(steps)
	}
	if brush && !vacuum && !both && (f.canDry("vacuum_narrow") || f.canDry("brush_vacuum")) {
		return false
	}
	wet := slices.ContainsFunc(steps, func(s step) bool { return s.cleaner >= 0 })
	return f.Work == LightWork && !f.Coil.PlugIn || wet || brush && vacuum || both || !f.canDry("brush_vacuum") && !f.canDry("long_brush")
}

func (f *facts) canDry(code string) bool {
	if !f.knows(code) {
		return false
	}
	return f.verdict(step{code, -1, InPlace}).rule == ""
}

func (f *facts) anyDry() bool {
	return slices.ContainsFunc(f.Methods, func(m soil.Method) bool { return slotOf(m.Code) == drySlot && f.canDry(m.Code) })
}

func (f *facts) anyAir() bool {
	return slices.ContainsFunc(f.Methods, func(m soil.Method) bool { return slotOf(m.Code) == airSlot && f.canDry(m.Code) })
}

// before orders plans: what is asked for and in order first, then what is enough, then what leaves least where nothing is, then what is
// made for here, then the mildest cleaner unless strength is fixed, then money (a day, where a rate is known), then time.
func (f *facts) before(x, y draft) int {
	for i := range x.rank {
		if x.rank[i] != y.rank[i] {
			return x.rank[i] - y.rank[i]
		}
	}
	if x.enough && f.answer["strength"] != "fixed" && x.duty != y.duty && f.Rate <= 0 {
		return int(x.duty - y.duty)
	}
	for _, pair := range [][2]float64{{x.daily, y.daily}, {x.cost, y.cost}, {x.minutes, y.minutes}, {float64(len(x.steps)), float64(len(y.steps))}, {x.share, y.share}} {
		if math.Abs(pair[0]-pair[1]) > 1e-9 {
			if pair[0] < pair[1] {
				return -1
			}
			return 1
		}
	}
	return 0
}
