package workplan

import (
	"nextround/core/method"
	"nextround/core/soil"
)

// step is a pass before its amounts are worked out.
type step struct {
	code    string
	cleaner int // index, -1 for none
	where   string
}

func (s step) dry() bool { return s.cleaner < 0 && slotOf(s.code) == drySlot }

// draft is a plan before its amounts are worked out.
type draft struct {
	steps   []step
	over    []string
	left    soil.State
	share   float64
	minutes float64
	people  int
	cost    float64
	duty    method.Duty
	rank    [5]int // what is weighed before money: see rank
	enough  bool
	daily   float64
	wet     bool
	// kind tells plans apart: how it is loosened where nothing is washed, air, and what it is washed with.
	kind [6]uint16
}

// grammar holds what may stand in each place of a plan.
type grammar struct {
	dry, air [][]step // sequences, in place or taken out
	wet      []step
}

// Plans are lists of passes by this grammar, at least one of them:
//
//	[debris by hand] [vacuum | brush | both] [air] [pre-rinse] [cleaner, dwell, rinse] [the cleaner again] [outer rinse | debris]
//
// Each may be left out; "taken out" holds from a pass on. each calls do for every plan in which no rule speaks against a pass.
func (f *facts) each(do func([]step, []string)) {
	allowed := func(s step) bool { return f.verdict(s).rule == "" }
	g := f.slots(allowed)
	emit := func(steps []step) {
		var over []string
		for _, s := range steps {
			for _, o := range f.verdict(s).over {
				over = appendOnce(over, o)
			}
		}
		do(steps, over)
	}
	heads := [][]step{nil}
	if debris := (step{Debris, -1, InPlace}); f.hasDebris() {
		heads = append(heads, []step{debris})
	}
	for _, head := range heads {
		for _, dry := range g.dry {
			for _, air := range g.air {
				front := join(head, dry, air)
				if !ordered(front) {
					continue
				}
				if len(dry)+len(air) > 0 {
					emit(front)
				}
				f.wet(front, g.wet, allowed, emit)
			}
		}
	}
}

// wet adds the wet half of the grammar to what goes before it.
func (f *facts) wet(front []step, wet []step, allowed func(step) bool, emit func([]step)) {
	for _, w := range wet {
		rinses := [][]step{nil}
		if pre := (step{PreRinse, -1, w.where}); w.where == TakenOut || f.Place.Outdoors() {
			if allowed(pre) && f.Cleaners[w.cleaner].Duty > method.NoDuty {
				rinses = append(rinses, []step{pre})
			}
		}
		for _, pre := range rinses {
			base := join(front, pre, []step{w})
			if !ordered(base) {
				continue
			}
			for _, end := range f.ends(w, allowed) {
				emit(join(base, end))
				if f.Cleaners[w.cleaner].Duty > method.NoDuty && f.worst >= soil.Blanket { // again only on heavy soil
					emit(join(base, []step{w}, end))
				}
			}
		}
	}
}

// ends are what may follow the wet work: nothing, a light outer rinse, debris taken out last.
func (f *facts) ends(w step, allowed func(step) bool) [][]step {
	out := [][]step{nil}
	if outer := (step{Rinse, -1, w.where}); f.answer["direction"] == "both" && method.TechniqueOf(w.code).Direction == soil.Against && allowed(outer) {
		out = append(out, []step{outer})
	}
	if f.hasDebris() && f.answer["base_debris"] == "end" {
		out = append(out, []step{{Debris, -1, InPlace}})
	}
	return out
}

// hasDebris reports whether a base or trough under the sky holds something to take out by hand.
func (f *facts) hasDebris() bool { return f.open() && f.Work == DeepWork }

func (f *facts) slots(allowed func(step) bool) grammar {
	g := grammar{dry: [][]step{nil}, air: [][]step{nil}}
	for _, where := range []string{InPlace, TakenOut} {
		for _, m := range f.Methods {
			switch s := (step{m.Code, -1, where}); slotOf(m.Code) {
			case drySlot:
				if allowed(s) {
					g.dry = append(g.dry, []step{s})
				}
			case airSlot:
				if allowed(s) {
					g.air = append(g.air, []step{s})
				}
			case wetSlot:
				for i := range f.Cleaners {
					w := step{m.Code, i, where}
					if method.TechniqueOf(m.Code).Takes(f.Cleaners[i].Form) && allowed(w) {
						g.wet = append(g.wet, w)
					}
				}
			}
		}
		brush, vacuum := step{"soft_brush", -1, where}, step{"vacuum_narrow", -1, where}
		if f.knows("soft_brush") && f.knows("vacuum_narrow") && allowed(brush) && allowed(vacuum) {
			if f.answer["brush_order"] == "brush_first" {
				g.dry = append(g.dry, []step{brush, vacuum})
			} else {
				g.dry = append(g.dry, []step{vacuum, brush})
			}
		}
	}
	return g
}

func (f *facts) knows(code string) bool {
	for _, m := range f.Methods {
		if m.Code == code {
			return true
		}
	}
	return false
}

// ordered reports whether what is taken out stays out.
func ordered(steps []step) bool {
	out := false
	for _, s := range steps {
		if out && s.where == InPlace {
			return false
		}
		out = out || s.where == TakenOut
	}
	return true
}

func join(parts ...[]step) []step {
	var out []step
	for _, p := range parts {
		out = append(out, p...)
	}
	return out
}

func appendOnce(list []string, s string) []string {
	for _, x := range list {
		if x == s {
			return list
		}
	}
	return append(list, s)
}
