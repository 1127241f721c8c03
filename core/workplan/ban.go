package workplan

import (
	"nextround/core/method"
	"nextround/core/soil"
)

// verdict is ban, worked out once for each step.
func (f *facts) verdict(s step) verdict {
	if v, ok := f.rules[s]; ok {
		return v
	}
	var c *method.Cleaner
	if s.cleaner >= 0 {
		c = &f.Cleaners[s.cleaner]
	}
	var v verdict
	v.rule, v.over = f.ban(s.code, c, s.where)
	f.rules[s] = v
	return v
}

// ban is the rule that keeps a method, with a cleaner or without, off this coil at a place; empty where none does. Rules of the house
// that were set aside are returned in over.
func (f *facts) ban(code string, c *method.Cleaner, where string) (rule string, over []string) {
	if b := f.methodBan(code, where); b != "" {
		return b, nil
	}
	if c != nil {
		if b := f.cleanerBan(*c, code, where); b != "" {
			return b, nil
		}
	}
	for _, soft := range f.softBans(code, c, where) {
		if !f.aside[soft] {
			return soft, nil
		}
		over = append(over, soft)
	}
	return "", over
}

// methodBan is the hard rule that keeps a method off.
func (f *facts) methodBan(code, where string) string {
	if code == Debris {
		if where == TakenOut {
			return "wrong_place"
		}
		return ""
	}
	t := method.TechniqueOf(code)
	outdoors := f.Place.Outdoors()
	out := where == TakenOut
	wet := t.Wet()
	switch {
	case out && !f.Coil.Movable:
		return "fixed"
	case code == "out_and_washed" && !out:
		return "wrong_place"
	case !t.Suits(f.Coil.Construction) || !t.Serves(f.Coil.Role), code == "leaf_blower" && f.Coil.PlugIn:
		return "unsuited"
	case f.Coil.PlugIn && wet && !plugInWet(code):
		return "sealed_plug_in"
	case (t.OutdoorsOnly && !outdoors && (t.Engine || !f.drained()) && (!out || t.Wet())) || (t.IndoorsOnly && (outdoors || out)):
		return "wrong_place"
	case t.ManySlabs && f.Coil.Slabs < 2:
		return "single_slab"
	case wet && (outdoors || out) && f.frost():
		return "frost"
	case t.Engine && f.Coil.Flammable:
		return "ignition"
	case t.Hose && !f.Place.Water:
		return "no_water"
	case (code == PreRinse || code == Rinse) && !outdoors && !out:
		return "wrong_place"
	case t.Air && !out && f.Place.WallBacked && !outdoors:
		return "closed_cabinet"
	case t.Air && !out && f.indoorCoil():
		return "air_into_room"
	}
	if !f.has(code) {
		return "kit"
	}
	return ""
}

// drained reports whether it is a plant room where a hose may be used: nobody about, and a drain in the floor.
func (f *facts) drained() bool {
	return f.Place.Setting == method.PlantRoom && f.Place.Drain && !f.Place.Occupied
}

// plugInWet are the wet ways that may be near sealed refrigeration: a rag, and an aerosol on the coil itself.
func plugInWet(code string) bool { return code == "wet_rag" || code == "aerosol_rinse" }

func (f *facts) has(code string) bool {
	if f.tools == nil {
		return true
	}
	for _, t := range passOf(code).tools {
		if !f.tools[t] {
			return false
		}
	}
	return true
}

// cleanerBan is the hard rule that keeps a cleaner off. Taking the coil out escapes only what the room is the reason of.
func (f *facts) cleanerBan(c method.Cleaner, code, where string) string {
	t := method.TechniqueOf(code)
	indoors := !f.Place.Outdoors()
	switch {
	case c.Acid():
		return "acid"
	case f.strict && c.StrongAlkaline():
		return "alkaline_microchannel"
	case f.strict && !c.Microchannel:
		return "not_on_microchannel"
	case c.StrongAlkaline() && (indoors || f.Coil.PlugIn):
		return "alkaline_indoors"
	case c.StrongAlkaline() && (!f.open() || f.Coil.Role == ""):
		return "alkaline_indoor_coil"
	case c.StrongAlkaline() && f.Coil.Construction != method.TubeFin:
		return "alkaline_construction"
	case c.Flammable && f.Coil.Flammable:
		return "flammable_spray"
	case f.Coil.PlugIn && c.Foams:
		return "sealed_plug_in"
	case t.Head && c.Form == method.ReadyToUse:
		return "mixing_head"
	case indoors && where == InPlace && !c.Indoors:
		return "not_indoors"
	case !indoors && f.indoorCoil() && !c.Indoors:
		return "indoor_coil"
	case f.Place.NearFood && where == InPlace && !c.NearFood:
		return "near_food"
	}
	return ""
}

// softBans are rules of the house.
func (f *facts) softBans(code string, c *method.Cleaner, where string) (out []string) {
	add := func(when bool, code string) {
		if when {
			out = append(out, code)
		}
	}
	t := method.TechniqueOf(code)
	wet := t.Wet()
	air := f.answer["air"]
	add(t.Air && air == "never", "air_never")
	add(t.Air && air == "against" && where == InPlace && !f.Place.Outdoors() && (f.Coil.PlugIn || f.Place.Occupied || f.Place.Setting != method.PlantRoom), "air_way_out")
	plugIn := f.answer["plug_in_chemistry"]
	add(f.Coil.PlugIn && wet && plugIn == "never", "plug_in_dry")
	add(f.Coil.PlugIn && c != nil && c.Form == method.Aerosol && plugIn == "layered_aerosol" && (!f.layered() || f.Place.NearFood), "plug_in_layered")
	slabs := f.answer["slabs"]
	add(t.ManySlabs && slabs == "leave", "slabs_left")
	add(t.ManySlabs && slabs == "by_core" && soil.GradeOf(soil.Share(f.state.Core)) < soil.Coat, "core_clean")
	add(wet && !t.ManySlabs && slabs == "always" && f.Coil.Slabs > 1 && !f.Coil.PlugIn && code != PreRinse && code != Rinse, "slabs_parted")
	add(where == TakenOut && f.answer["in_place"] == "in_place", "stays_in_place")
	panels := f.answer["panels"]
	add(f.Work == LightWork && (t.Opened || where == TakenOut) && panels != "always", "light_closed")
	add(f.Work == DeepWork && code == "closed_hose_down" && panels != "closed_only", "deep_opened")
	add(t.Hose && where == InPlace && t.Direction == soil.Against && f.answer["direction"] == "outside", "outside_only")
	add(f.leave && wet && f.Found.Grade > soil.Bare, "coating_left")
	return out
}

// Use is a way somebody cleaned, or means to.
type Use struct {
	Method, Cleaner, Where string
}

// BanOn is the rule that speaks against one way of cleaning, whoever thought of it; nil where none does. A method or a cleaner that
// is not known here is the organisation's own, and is held to what is known of it.
func BanOn(in Input, u Use) (*method.Ban, error) {
	f, err := in.facts()
	if err != nil {
		return nil, err
	}
	var c *method.Cleaner
	for i := range f.Cleaners {
		if f.Cleaners[i].Code == u.Cleaner {
			c = &f.Cleaners[i]
		}
	}
	if u.Where == "" {
		u.Where = InPlace
		if u.Method == "out_and_washed" {
			u.Where = TakenOut
		}
	}
	if c != nil && !method.TechniqueOf(u.Method).Takes(c.Form) {
		b, _ := method.BanByCode("cleaner_form")
		return &b, nil
	}
	rule, _ := f.ban(u.Method, c, u.Where)
	if rule == "" {
		return nil, nil //nolint:nilnil // no rule speaks against it
	}
	b, _ := method.BanByCode(rule)
	return &b, nil
}
