// Package workplan puts together how a coil is cleaned: an ordered list of passes, each a method with what it takes, so that every
// hard rule holds in every pass; and ranks the plans there are. Litres, seconds, minutes, m², °C; shares are 0 to 1; money is the
// organisation's.
package workplan

import (
	"math"
	"slices"
	"strings"

	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/soil"
)

// The works that advice is given for.
const (
	LightWork = "light"
	DeepWork  = "deep"
)

// Input is all that advice rests on.
type Input struct {
	Coil  method.Coil  `json:"coil"`
	Place method.Place `json:"place"`
	Found method.Found `json:"found"`
	// Work is light or deep.
	Work  string       `json:"work"`
	Rules method.Rules `json:"rules,omitempty"`
	// LimitShare is the blocked share the organisation allows; 0 takes 0.30.
	LimitShare float64          `json:"limit_share,omitempty"`
	Cleaners   []method.Cleaner `json:"cleaners,omitempty"`
	Methods    []soil.Method    `json:"methods,omitempty"`
	Kinds      []soil.Kind      `json:"kinds,omitempty"`
	Prices     method.Prices    `json:"prices,omitempty"`
	// Overrides are soft bans the technician has set aside, by code.
	Overrides []string `json:"overrides,omitempty"`
	// Kit is what the crew carries, by the codes of Tools or in words that hold them; absent where it is not known, and then
	// everything is taken to be there.
	Kit []string `json:"kit,omitempty"`
	// Rate is the soil that comes onto the coil, as load a day; with it plans are ranked by what they cost a day.
	Rate float64 `json:"rate,omitempty"`
}

const (
	frostC       = 4.0
	defaultLimit = .30
	perfectShare = .05
	usualMinutes = 45.0
	// enoughOf is how far below the limit a clean is to leave a coil (assumption): half of it, or its next soil is
	// there at once.
	enoughOf = .5
	// betterOf is what "much better" leaves of what was found (assumption).
	betterOf = .35
	// layerShare is the least share of soil between the layers of a coil of several (assumption).
	layerShare = .30
)

// facts are an input that was checked, with what follows from it.
type facts struct {
	Input
	kind    soil.Kind
	state   soil.State
	aim     float64
	limit   float64
	leave   bool
	assumed []string
	face    float64
	need    method.Duty
	// worst of face and core, as far as the core was seen.
	worst soil.Grade
	// canPart says that some lawful way parts the slabs.
	canPart bool
	tools   map[string]bool // nil where it is not known what is there
	aside   map[string]bool
	// strict says that the coil may be of microchannel, for all that is known.
	strict bool
	price  map[string]float64 // of a litre of cleaner
	answer map[string]string
	rules  map[step]verdict
	works  map[step]effect
}

// verdict is what the rules say of a step; effect what the step does. Each is worked out once.
type verdict struct {
	rule string
	over []string
}

type effect struct {
	removal           soil.Removal
	minutes, material float64
	unfit             int
	slot              slot
	id                uint16
}

func (in Input) facts() (*facts, error) {
	f := &facts{Input: in, assumed: []string{}, answer: map[string]string{}, rules: map[step]verdict{}, works: map[step]effect{}}
	if len(f.Methods) == 0 {
		f.Methods = soil.Methods
	}
	if len(f.Cleaners) == 0 {
		f.Cleaners = method.StandardCleaners
	}
	if len(f.Kinds) == 0 {
		f.Kinds = soil.Kinds
	}
	if err := f.check(); err != nil {
		return nil, err
	}
	for _, q := range method.Questions {
		f.answer[q.Code] = f.Rules.Answer(q.Code)
	}
	f.Coil.Slabs = max(f.Coil.Slabs, 1)
	face, assumed := method.Face(f.Coil.FaceM2, f.Coil.CapacityKw)
	f.assume(assumed, "face_area")
	f.face = face
	f.assume(f.Coil.DeepMinutes <= 0, "deep_minutes")
	if f.Coil.DeepMinutes <= 0 {
		f.Coil.DeepMinutes = usualMinutes
	}
	f.find()
	f.limit = f.LimitShare
	if !(f.limit > 0 && f.limit < 1) {
		f.limit = defaultLimit
	}
	f.setAim()
	f.aside = map[string]bool{}
	for _, o := range f.Overrides {
		if b, ok := method.BanByCode(o); ok && !b.Hard {
			f.aside[o] = true
		}
	}
	if f.Kit != nil {
		f.tools = toolsIn(f.Kit)
	}
	f.setPrices()
	f.canPart = f.slabsPart()
	return f, nil
}

// slabsPart reports whether a lawful pass parts the slabs.
func (f *facts) slabsPart() bool {
	for _, m := range f.Methods {
		t := method.TechniqueOf(m.Code)
		for i, c := range f.Cleaners {
			if t.ManySlabs && t.Takes(c.Form) && f.verdict(step{m.Code, i, InPlace}).rule == "" {
				return true
			}
		}
	}
	return false
}

func (f *facts) assume(when bool, what string) {
	if when {
		f.assumed = append(f.assumed, what)
	}
}

func (f *facts) check() error {
	var bad invalid.Error
	at := slices.IndexFunc(f.Kinds, func(k soil.Kind) bool { return k.Code == f.Found.Kind })
	if at < 0 {
		bad.Addf("found.kind", "%q is not a kind of soil", f.Found.Kind)
	} else {
		f.kind = f.Kinds[at]
	}
	if !f.Found.Grade.Valid() {
		bad.Addf("found.grade", "must be a grade from 0 to 5")
	}
	if f.Found.CoreGrade != nil && !f.Found.CoreGrade.Valid() {
		bad.Addf("found.core_grade", "must be a grade from 0 to 5")
	}
	if f.Work != LightWork && f.Work != DeepWork {
		bad.Addf("work", "must be light or deep")
	}
	// What is not known is judged with the stricter half of the rules.
	switch f.Place.Setting {
	case method.Outdoor, method.Roof, method.PlantRoom, method.Indoor:
	case "", method.UnstatedSetting:
		f.Place.Setting = method.Indoor
		f.assume(true, "setting")
	default:
		bad.Addf("place.setting", "must be outdoor, roof, plant_room or indoor")
	}
	switch f.Coil.Construction {
	case method.TubeFin, method.TubeGrid, method.Rolled:
	case method.Microchannel:
		f.strict = true
	case "", method.Unstated:
		f.Coil.Construction, f.strict = method.Unstated, true
		f.assume(true, "construction")
	default:
		bad.Addf("coil.construction", "must be tube_fin, microchannel, tube_grid or rolled")
	}
	switch f.Coil.Role {
	case "condenser", "evaporator", "outdoor", "back":
	case "":
		f.assume(true, "role")
	default:
		bad.Addf("coil.role", "must be condenser, evaporator, outdoor or back")
	}
	if f.Coil.FlammableUnknown && !f.Coil.Flammable {
		f.Coil.Flammable = true
	}
	f.assume(f.Coil.FlammableUnknown, "flammability")
	if f.Place.WaterUnknown {
		f.Place.Water = false
	}
	f.assume(f.Place.WaterUnknown, "water")
	if f.Coil.Slabs < 0 || f.Coil.Slabs > 6 {
		bad.Addf("coil.slabs", "must be between 1 and 6")
	}
	if f.Rate < 0 || math.IsNaN(f.Rate) || f.Rate > 1 {
		bad.Addf("rate", "must be a load a day between 0 and 1")
	}
	for q, c := range f.Rules {
		if known, ok := method.QuestionByCode(q); !ok || !known.Has(c) {
			bad.Addf("rules."+q, "%q is not an answer to it", c)
		}
	}
	return bad.Err()
}

// find is the state that what was found says of face and core.
func (f *facts) find() {
	f.state = soil.State{Face: f.Found.Grade.MiddleLoad()}
	pen := f.kind.Penetration
	if f.layered() {
		pen = math.Max(pen, layerShare)
	}
	switch {
	case f.Found.CoreGrade != nil:
		f.state.Core = f.Found.CoreGrade.MiddleLoad()
	case f.Found.Through:
		f.state.Core = f.state.Face * pen
		f.state.Face -= f.state.Core
	case pen < 1:
		f.state.Core = f.state.Face * pen / (1 - pen)
		f.assume(true, "core")
	}
	f.worst = f.Found.Grade
	if f.Found.CoreGrade != nil {
		f.worst = max(f.worst, *f.Found.CoreGrade)
	}
	f.need = needed(f.kind, f.worst)
	switch {
	case f.unexplained():
		f.need = method.NoDuty
	case f.open() && f.worst >= soil.Coat:
		f.need = max(f.need, method.LightDuty)
	case f.indoorCoil() || f.Coil.PlugIn:
		f.need = min(f.need, method.LightDuty) // indoor coils: light duty only
	}
}

func (f *facts) setAim() {
	now := soil.Share(f.state.Total())
	switch f.answer["how_clean"] {
	case "perfect":
		f.aim = perfectShare
	case "better":
		f.aim = math.Max(perfectShare, betterOf*now)
	default:
		f.aim = enoughOf * f.limit
	}
	air := !f.Place.Outdoors() && !f.Coil.PlugIn && f.Coil.Role != "condenser"
	f.leave = f.Found.Grade == soil.Bare || (air && f.Found.Grade <= soil.Film && now <= f.limit && f.answer["coating_indoors"] == "leave")
}

// needed is the duty a soil asks for (common practice, no source: light, medium, heavy and extra heavy outdoors).
func needed(k soil.Kind, g soil.Grade) method.Duty {
	switch {
	case k.Family == soil.DustLike && g <= soil.Coat:
		return method.NoDuty
	case k.Family == soil.DustLike, g <= soil.Film, k.Code == "biofilm":
		return method.LightDuty
	case g <= soil.Felt:
		return method.MediumDuty
	}
	return method.HeavyDuty
}

// unexplained residue is looked at and compared, not treated: nobody knows yet what a cleaner would do to it.
func (f *facts) unexplained() bool { return f.kind.Code == "residue" }

// layered coils have insides that no brush from the face reaches.
func (f *facts) layered() bool { return f.Coil.Construction == method.Rolled || f.Coil.Slabs > 1 }

// indoorCoil reports whether the coil carries a room's air or goods' cold, wherever its cabinet stands.
func (f *facts) indoorCoil() bool { return f.Coil.Role == "evaporator" || f.Coil.Role == "back" }

// open reports whether it is a coil under the sky that gives off its heat there: what outdoor cleaners and hoses are for.
func (f *facts) open() bool { return f.Place.Outdoors() && !f.indoorCoil() && !f.Coil.PlugIn }

func (f *facts) frost() bool { return f.Place.LowC != nil && *f.Place.LowC < frostC }

// Tools are what passes take beside hands, rags and a bucket.
var Tools = []string{"brush", "long_brush", "vacuum", "air", "blower", "hose", "foamer", "tank_sprayer", "aerosol", "bag", "washer", "jug", "comb", "ladder"}

// KnowsKit reports whether a kit says what there is to clean with: one that names a ladder alone does not, and leaves everything open.
func KnowsKit(kit []string) bool {
	tools := toolsIn(kit)
	delete(tools, "ladder")
	return len(tools) > 0
}

// toolsIn reads a kit: codes, or words that hold them.
func toolsIn(kit []string) map[string]bool {
	out := map[string]bool{}
	for _, item := range kit {
		k := strings.ReplaceAll(strings.ToLower(item), " ", "_")
		k = strings.ReplaceAll(k, "foaming_aerosol", "aerosol") // a can that foams is no foamer
		for word, tools := range map[string][]string{
			"brush": {"brush"}, "vacuum": {"vacuum"}, "air": {"air"}, "blower": {"blower"}, "hose": {"hose"}, "foam": {"foamer", "jug"}, "jug": {"jug"}, "measuring": {"jug"},
			"tank": {"tank_sprayer", "jug"}, "pump": {"tank_sprayer", "jug"}, "aerosol": {"aerosol"}, "can": {"aerosol"}, "bag": {"bag"}, "washer": {"washer"},
			"long": {"long_brush", "brush"}, "bendable": {"long_brush", "brush"}, "comb": {"comb"}, "ladder": {"ladder"},
		} {
			if hasWord(k, word) {
				for _, t := range tools {
					out[t] = true
				}
			}
		}
	}
	return out
}

// hasWord reports whether one of the words in a name begins so.
func hasWord(name, word string) bool {
	for _, w := range strings.FieldsFunc(name, func(r rune) bool { return r == '_' || r == '-' || r == ',' || r == '/' }) {
		if strings.HasPrefix(w, word) {
			return true
		}
	}
	return false
}
