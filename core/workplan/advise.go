package workplan

import (
	"math"
	"slices"
	"sort"

	"nextround/core/method"
	"nextround/core/reason"
	"nextround/core/soil"
)

// Plan is one way to do the whole job, with what is to be expected of it.
type Plan struct {
	Passes []Pass `json:"passes"`
	// Main is the place of the pass that mix, dwell and dose are of.
	Main int `json:"main"`
	// LeftShare is the blocked share expected after; LeftGrade its grade. Enough says that the organisation's rule is met.
	LeftShare float64    `json:"left_share"`
	LeftGrade soil.Grade `json:"left_grade"`
	Enough    bool       `json:"enough"`
	Minutes   float64    `json:"minutes"`
	People    int        `json:"people"`
	Cost      float64    `json:"cost"`
	// EveryDays and CostDay are the interval that brings the coil to the limit, and what the plan costs a day at it; only with a rate.
	EveryDays float64 `json:"every_days,omitempty"`
	CostDay   float64 `json:"cost_day,omitempty"`
	// MixL, CleanerL, RinseL and WasteL are of all passes; Cans of aerosol; Buckets of 10 L where it may not run off.
	MixL     float64 `json:"mix_l"`
	CleanerL float64 `json:"cleaner_l"`
	Cans     int     `json:"cans,omitempty"`
	RinseL   float64 `json:"rinse_l"`
	WasteL   float64 `json:"waste_l"`
	Buckets  int     `json:"buckets,omitempty"`
	// Carried says that the water has to be brought.
	Carried    bool            `json:"carried,omitempty"`
	Contain    string          `json:"contain"`
	Dispose    string          `json:"dispose"`
	Protection []string        `json:"protection"`
	Kit        []string        `json:"kit"`
	Notes      []string        `json:"notes"`
	Overridden []string        `json:"overridden,omitempty"`
	Reasons    []reason.Reason `json:"reasons"`
	// Fits is false where the rules of the organisation ask for another order or place, or the coil for another kind of cleaner.
	Fits bool `json:"-"`
}

// mainOf is the place of the pass that a plan is named after, and that mix, dwell and dose are of: its last cleaner, else air, else the
// last that loosens.
func mainOf(passes []Pass) int {
	best, rank := 0, -1
	for i, x := range passes {
		r := 0
		switch {
		case x.Cleaner != "":
			r = 3
		case slotOf(x.Method) == airSlot:
			r = 2
		case slotOf(x.Method) == drySlot:
			r = 1
		}
		if r >= rank {
			best, rank = i, r
		}
	}
	return best
}

// RuledOut is a way that is not offered, and the rule that did it.
type RuledOut struct {
	Method      string     `json:"method,omitempty"`
	MethodName  string     `json:"method_name,omitempty"`
	Cleaner     string     `json:"cleaner,omitempty"`
	CleanerName string     `json:"cleaner_name,omitempty"`
	Where       string     `json:"where,omitempty"`
	Ban         method.Ban `json:"ban"`
}

// What to do where no plan is enough, or none is allowed.
const (
	ThenWarmer   = "when_warmer"   // wet work waits for 4 °C
	ThenLook     = "look_inside"   // look with light through, then decide about taking it out
	ThenTakeOut  = "take_out"      // carry it out with two
	ThenWater    = "bring_water"   // a hose or a tank sprayer
	ThenKit      = "bring_kit"     // what the crew does not carry
	ThenAsk      = "ask_facts"     // what is not known here rules the rest out
	ThenMove     = "make_movable"  // the core is not reached where it stands
	ThenAgain    = "again_soon"    // a second clean takes what is left
	ThenDeep     = "deep_clean"    // a light clean is not enough here
	ThenWatch    = "watch"         // photograph it, compare at the next visit
	ThenNoMethod = "no_way_by_law" // hard rules leave nothing
)

// Advice ranks what may be done and lists what may not.
type Advice struct {
	Plans    []Plan     `json:"plans"`
	RuledOut []RuledOut `json:"ruled_out"`
	// Leave says that nothing need be done to the coil.
	Leave bool `json:"leave"`
	// AimShare is the blocked share that counts as clean enough.
	AimShare float64 `json:"aim_share"`
	// Assumed names what was not known and had to be assumed.
	Assumed []string `json:"assumed"`
	// Then is what to do where the best plan is not enough or there is none, by code.
	Then []string `json:"then"`
}

// mostPlans is how many plans are told, each of another kind.
const mostPlans = 12

// Advise puts together every lawful plan for a coil as it was found, and gives the best of each kind, the best first, with everything
// that is ruled out and by which rule.
func Advise(in Input) (Advice, error) {
	f, err := in.facts()
	if err != nil {
		return Advice{}, err
	}
	out := Advice{Plans: []Plan{}, RuledOut: f.ruledOut(), Leave: f.leave, AimShare: f.aim, Assumed: f.assumed, Then: []string{}}
	best := map[[6]uint16]draft{}
	f.each(func(steps []step, over []string) {
		d := f.judge(steps, over)
		if b, there := best[d.kind]; !there || f.before(d, b) < 0 {
			best[d.kind] = d
		}
	})
	keys := make([][6]uint16, 0, len(best))
	for k := range best {
		keys = append(keys, k)
	}
	sort.Slice(keys, func(i, k int) bool {
		if c := f.before(best[keys[i]], best[keys[k]]); c != 0 {
			return c < 0
		}
		return slices.Compare(keys[i][:], keys[k][:]) < 0
	})
	for _, k := range keys[:min(len(keys), mostPlans)] {
		out.Plans = append(out.Plans, f.plan(best[k]))
	}
	out.Then = f.then(out)
	return out, nil
}

func (f *facts) hasWet(steps []step) bool {
	return slices.ContainsFunc(steps, func(s step) bool { return s.cleaner >= 0 })
}

// ruledOut lists what no plan may hold: what is never done, cleaners, methods, and both together.
func (f *facts) ruledOut() []RuledOut {
	var out []RuledOut
	for _, code := range []string{"pressure_washer", "slanted_spray", "fan_running"} {
		b, _ := method.BanByCode(code)
		out = append(out, RuledOut{Ban: b})
	}
	note := func(x RuledOut, rule string) {
		x.Ban, _ = method.BanByCode(rule)
		out = append(out, x)
	}
	for _, m := range f.Methods {
		places := []string{InPlace}
		switch {
		case m.Code == "out_and_washed":
			places = []string{TakenOut}
		case f.Coil.Movable:
			places = append(places, TakenOut)
		}
		for _, where := range places {
			x := RuledOut{Method: m.Code, MethodName: m.Name, Where: where}
			if rule, _ := f.ban(m.Code, nil, where); rule != "" {
				note(x, rule)
				continue
			}
			t := method.TechniqueOf(m.Code)
			for i := range f.Cleaners {
				c := &f.Cleaners[i]
				if !t.Takes(c.Form) {
					continue
				}
				if rule, _ := f.ban(m.Code, c, where); rule != "" {
					x.Cleaner, x.CleanerName = c.Code, c.Name
					note(x, rule)
				}
			}
		}
	}
	return append(out, f.cleanersOut(out)...)
}

// cleanersOut lists cleaners that no method may be used with here.
func (f *facts) cleanersOut(listed []RuledOut) []RuledOut {
	var out []RuledOut
	for _, c := range f.Cleaners {
		rules := map[string]bool{}
		for _, x := range listed {
			if x.Cleaner == c.Code {
				rules[x.Ban.Code] = true
			}
		}
		usable := false
		for _, m := range f.Methods {
			for _, where := range []string{InPlace, TakenOut} {
				rule, _ := f.ban(m.Code, &c, where)
				usable = usable || (rule == "" && method.TechniqueOf(m.Code).Takes(c.Form))
			}
		}
		if rule := f.cleanerBan(c, "", InPlace); !usable && rule != "" && !rules[rule] {
			b, _ := method.BanByCode(rule)
			out = append(out, RuledOut{Cleaner: c.Code, CleanerName: c.Name, Ban: b})
		}
	}
	return out
}

// plan works a draft out in full.
func (f *facts) plan(d draft) Plan {
	p := Plan{
		Passes: []Pass{}, LeftShare: d.share, LeftGrade: soil.GradeOf(d.share), Enough: d.enough, Minutes: math.Ceil(d.minutes), People: d.people, Cost: d.cost,
		CostDay: d.daily, Fits: d.rank[0] == 0 && d.rank[3] == 0, Protection: []string{}, Kit: []string{}, Notes: []string{}, Overridden: d.over,
	}
	if f.Rate > 0 {
		p.EveryDays = math.Floor(f.every(d))
	}
	for _, s := range d.steps {
		x := f.pass(s)
		p.Passes = append(p.Passes, x)
		p.MixL += x.MixL
		p.CleanerL += x.AmountL
		p.Cans += x.Cans
		p.RinseL += x.RinseL
		t := method.TechniqueOf(s.code)
		for _, k := range t.Kit {
			p.Kit = appendOnce(p.Kit, k)
		}
		if s.cleaner >= 0 {
			if c := f.Cleaners[s.cleaner]; c.Protection != "" {
				p.Protection = appendOnce(p.Protection, c.Protection)
			}
		}
		p.Carried = p.Carried || (s.cleaner >= 0 && !t.Hose && !f.Place.Water && f.Cleaners[s.cleaner].Form != method.Aerosol)
	}
	p.Main = mainOf(p.Passes)
	p.WasteL = p.RinseL + p.MixL
	f.surround(&p, d)
	p.Reasons = []reason.Reason{
		{Code: reason.Removal, Numbers: reason.Numbers{
			"face": taken(f.state.Face, d.left.Face), "core": taken(f.state.Core, d.left.Core), "found": soil.Share(f.state.Total()), "left": d.share,
		}, Evidence: reason.Assumption},
		{Code: reason.Time, Numbers: reason.Numbers{"share": p.Minutes / f.Coil.DeepMinutes, "class": f.Coil.DeepMinutes, "extra": p.Minutes - f.Coil.DeepMinutes}, Evidence: reason.Assumption},
	}
	return p
}

func taken(before, after float64) float64 {
	if before <= 0 {
		return 0
	}
	return max(0, 1-after/before)
}

func (f *facts) pass(s step) Pass {
	t := method.TechniqueOf(s.code)
	var c *method.Cleaner
	if s.cleaner >= 0 {
		c = &f.Cleaners[s.cleaner]
	}
	r := f.removal(s.code, c, s.where)
	x := Pass{
		Method: s.code, MethodName: f.nameOf(s.code), Where: s.where, Direction: t.Direction, People: 1, Minutes: math.Round(f.minutesOf(s, c)*10) / 10,
		FaceShare: r.Face, CoreShare: r.Core, Packing: r.Packing, StopWhen: f.stopWhen(s, c),
	}
	if s.where == TakenOut {
		x.People = movePeople
	}
	a := f.amounts(s, c)
	x.RinseL = a.rinse
	if c != nil {
		x.Cleaner, x.CleanerName = c.Code, c.Name
		x.WaterParts, x.MixL, x.AmountL, x.Cans = a.parts, a.mix, a.cleaner, a.cans
		x.DwellMinS, x.DwellMaxS = c.DwellMinS, c.DwellMaxS
		x.Side = f.answer["chemistry_side"]
	}
	if t.Hose || s.code == PreRinse || s.code == Rinse || slices.Contains(passOf(s.code).tools, "tank_sprayer") {
		x.Tip = f.answer["pressure"]
	}
	return x
}

func (f *facts) nameOf(code string) string {
	for _, m := range f.Methods {
		if m.Code == code {
			return m.Name
		}
	}
	return passOf(code).name
}

// stopWhen is a pass's end-point: what is seen, by the rules of the house.
func (f *facts) stopWhen(s step, c *method.Cleaner) string {
	switch {
	case s.code == Debris:
		return "base_empty"
	case s.code == PreRinse:
		return "runs_off"
	case s.code == Rinse:
		return "clear"
	case slotOf(s.code) == airSlot:
		return "nothing_blows_out"
	case c == nil:
		return "nothing_comes_loose"
	case s.code == "wet_rag":
		return "rag_stays_clean"
	case f.Coil.PlugIn:
		return "light_through"
	case c.Foams && f.answer["dwell"] != "clock":
		return "foam_white_then_" + f.answer["rinse_end"]
	case c.Form != method.Plain && f.answer["dwell"] == "foam":
		return "nothing_lifts_then_" + f.answer["rinse_end"]
	case c.Form != method.Plain:
		return "clock_then_" + f.answer["rinse_end"]
	}
	return f.answer["rinse_end"]
}

const bucketL = 10.0

// surround says what belongs to a plan beside its passes: containment, disposal, protection, consent, people.
func (f *facts) surround(p *Plan, d draft) {
	note := func(when bool, code string) {
		if when {
			p.Notes = appendOnce(p.Notes, code)
		}
	}
	outdoors := f.Place.Outdoors()
	out, wet, dry := d.people > 1, f.hasWet(d.steps), false
	var strong, aerosol, burns, bag, parted bool
	for _, s := range d.steps {
		dry = dry || s.dry() || slotOf(s.code) == airSlot
		parted = parted || method.TechniqueOf(s.code).ManySlabs
		bag = bag || slices.Contains(passOf(s.code).tools, "bag")
		if s.cleaner >= 0 {
			c := f.Cleaners[s.cleaner]
			strong, aerosol, burns = strong || c.StrongAlkaline(), aerosol || c.Form == method.Aerosol, burns || c.Flammable
			note(f.need > c.Duty, "cleaner_light")
			note(f.price[c.Code] > 0 && !(c.PackPrice > 0), "price_assumed")
			note(c.Form != method.Plain && !f.amounts(s, &c).rinsed && !f.Coil.PlugIn, "not_rinsed")
		}
	}
	switch {
	case !wet:
		p.Contain, p.Dispose = "sheet", "dry_waste"
	case f.Coil.PlugIn:
		p.Contain, p.Dispose = "absorb", "dry_waste"
	case out:
		p.Contain, p.Dispose = "out", "run_off"
	case outdoors && f.Place.Drain:
		p.Contain, p.Dispose = "run_off", "run_off"
	case outdoors:
		p.Contain, p.Dispose = "trough", "caught"
	case bag:
		p.Contain, p.Dispose = "bag", "caught"
	default:
		p.Contain, p.Dispose = "bucket", "caught"
	}
	if strong {
		p.Dispose = "caught"
	}
	if p.Dispose == "caught" && p.WasteL > 0 {
		p.Buckets = int(math.Ceil(p.WasteL / bucketL))
	}
	gloves := f.answer["gloves"]
	if gloves == "always" && len(p.Protection) == 0 {
		p.Protection = append(p.Protection, "gloves, eyes")
	}
	blown := slices.ContainsFunc(d.steps, func(s step) bool { return slotOf(s.code) == airSlot })
	if dry && (!outdoors || gloves == "always" || (gloves == "by_cleaner" && blown)) {
		p.Protection = appendOnce(p.Protection, "dust mask")
	}
	note(parted, "slab_consent")
	note(out, "two_people")
	note(wet && outdoors && f.Place.LowC == nil, "check_frost")
	note(f.Coil.Flammable, "flammable")
	note(aerosol && burns, "aerosol_air")
	note(f.Place.NearFood, "clear_food")
	note(f.Place.Occupied, "tell_people")
	note(strong, "rinse_long")
	note(f.Coil.PlugIn && aerosol, "catch_drips")
	note(p.Carried, "bring_water")
	note(!d.enough && soil.GradeOf(soil.Share(d.left.Core)) >= soil.Coat, "core_not_reached")
}

// then is what to do where the first plan is not enough, or where there is none.
func (f *facts) then(a Advice) []string {
	out := []string{}
	add := func(when bool, code string) {
		if when {
			out = appendOnce(out, code)
		}
	}
	unknown := slices.ContainsFunc(f.assumed, func(what string) bool { return what == "construction" || what == "role" || what == "setting" })
	add(f.unexplained(), ThenWatch)
	if a.Leave || len(a.Plans) > 0 && a.Plans[0].Enough {
		add(unknown && !a.Leave, ThenAsk)
		return out
	}
	ruled := map[string]bool{}
	for _, x := range a.RuledOut {
		ruled[x.Ban.Code] = true
	}
	add(f.frost() && ruled["frost"], ThenWarmer)
	add(f.Work == LightWork, ThenDeep)
	add(f.Found.CoreGrade == nil && f.Coil.PlugIn, ThenLook)
	add(f.Coil.Movable && f.Coil.PlugIn && (len(a.Plans) == 0 || a.Plans[0].People == 1), ThenTakeOut)
	add(!f.Coil.Movable && f.Coil.PlugIn, ThenMove)
	add(ruled["no_water"] && !f.Place.WaterUnknown, ThenWater)
	add(ruled["no_water"] && f.Place.WaterUnknown, ThenAsk)
	add(ruled["kit"], ThenKit)
	add(unknown, ThenAsk)
	add(len(out) == 0 && len(a.Plans) == 0, ThenNoMethod)
	add(len(out) == 0 && f.Found.CoreGrade == nil && !f.Found.Through, ThenLook)
	add(len(out) == 0, ThenAgain)
	return out
}
