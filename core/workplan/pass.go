package workplan

import (
	"slices"

	"nextround/core/method"
	"nextround/core/soil"
)

// Passes that belong to another.
const (
	Debris   = "debris"    // out of base and trough by hand
	PreRinse = "pre_rinse" // wets and carries off what is loose before a cleaner
	Rinse    = "rinse"     // a light outer pass after the rinse from inside
)

// Where a pass is done.
const (
	InPlace  = "in_place"
	TakenOut = "taken_out"
)

// Pass is one step of a plan.
type Pass struct {
	Method      string         `json:"method"`
	MethodName  string         `json:"method_name"`
	Cleaner     string         `json:"cleaner,omitempty"`
	CleanerName string         `json:"cleaner_name,omitempty"`
	Where       string         `json:"where"`
	Direction   soil.Direction `json:"direction"`
	// Side the cleaner goes on first: inside, outside or both.
	Side string `json:"side,omitempty"`
	Tip  string `json:"tip,omitempty"`
	// WaterParts to one of cleaner; absent when nothing is mixed.
	WaterParts *float64 `json:"water_parts,omitempty"`
	// AmountL is of cleaner as it is in the bottle; MixL with its water. Aerosols are counted in Cans.
	AmountL   float64 `json:"amount_l,omitempty"`
	MixL      float64 `json:"mix_l,omitempty"`
	Cans      int     `json:"cans,omitempty"`
	RinseL    float64 `json:"rinse_l,omitempty"`
	DwellMinS int     `json:"dwell_min_s,omitempty"`
	DwellMaxS int     `json:"dwell_max_s,omitempty"`
	Minutes   float64 `json:"minutes"`
	People    int     `json:"people"`
	// FaceShare and CoreShare are what the pass takes of what there is; Packing is what it drives from the face into the core.
	FaceShare float64 `json:"face_share"`
	CoreShare float64 `json:"core_share"`
	Packing   float64 `json:"packing,omitempty"`
	// StopWhen says when the pass is done, by code.
	StopWhen string `json:"stop_when"`
}

// pass is what the grammar knows of a method as a pass (common practice, no source; figures are assumptions).
type pass struct {
	// minutes as a share of the class's deep clean, beyond opening and closing.
	minutes float64
	tools   []string
	name    string // of what an organisation's own list of methods may not hold
}

// opening is the share of a deep clean's minutes for gates, opening, closing and looking; of a light one's less (assumption).
const (
	openingDeep  = .35
	openingLight = .15
)

var passes = map[string]pass{
	Debris:             {minutes: .06, name: "Debris out by hand"},
	PreRinse:           {minutes: .08, tools: []string{"hose"}, name: "Pre-rinse"},
	Rinse:              {minutes: .06, tools: []string{"hose"}, name: "Light outer rinse"},
	"wet_rag":          {minutes: .25},
	"soft_brush":       {minutes: .12, tools: []string{"brush"}},
	"vacuum_narrow":    {minutes: .12, tools: []string{"vacuum"}},
	"brush_vacuum":     {minutes: .20, tools: []string{"brush", "vacuum"}},
	"long_brush":       {minutes: .28, tools: []string{"long_brush", "vacuum"}},
	"closed_hose_down": {minutes: .20, tools: []string{"hose"}},
	"hose_rinse":       {minutes: .35, tools: []string{"hose"}},
	"gentle_air":       {minutes: .25, tools: []string{"air"}},
	"leaf_blower":      {minutes: .12, tools: []string{"blower"}},
	"aerosol_rinse":    {minutes: .40, tools: []string{"aerosol"}},
	"tank_sprayer":     {minutes: .60, tools: []string{"tank_sprayer"}},
	"pour_foam":        {minutes: .55, tools: []string{"hose", "jug"}},
	"foam_rinse":       {minutes: .50, tools: []string{"foamer", "hose"}},
	"split_foam":       {minutes: 1.1, tools: []string{"foamer", "hose"}},
	"bagged_wash":      {minutes: .65, tools: []string{"bag", "tank_sprayer"}},
	"wall_washer":      {minutes: .75, tools: []string{"washer", "bag"}},
	"out_and_washed":   {minutes: .60, tools: []string{"hose"}},
}

// passOf is what is known of a method as a pass; an organisation's own method is careful dry work.
func passOf(code string) pass {
	if p, ok := passes[code]; ok {
		return p
	}
	return pass{minutes: .5}
}

// The places of the grammar a method can take.
type slot int

const (
	noSlot slot = iota
	drySlot
	airSlot
	wetSlot
)

func slotOf(code string) slot {
	t := method.TechniqueOf(code)
	switch {
	case code == Debris || code == PreRinse || code == Rinse:
		return noSlot
	case t.Air:
		return airSlot
	case t.Wet():
		return wetSlot
	}
	return drySlot
}

// removal is what a pass takes from this soil. Taken out, dry work reaches both faces: what one pass leaves of the core the other
// meets as well (assumption: half as much again).
func (f *facts) removal(code string, c *method.Cleaner, where string) soil.Removal {
	var r soil.Removal
	direction := method.TechniqueOf(code).Direction
	for _, list := range [][]soil.Method{f.Methods, soil.Methods} {
		if i := slices.IndexFunc(list, func(m soil.Method) bool { return m.Code == code }); i >= 0 {
			r = list[i].Removal(f.kind.Family, direction)
			break
		}
	}
	if code == Debris && loose(f.kind) {
		r.Face = max(r.Face, looseDebris)
	}
	if c != nil {
		if short := int(f.need - c.Duty); short > 0 {
			k := max(0, 1-weaker*float64(short))
			r.Face, r.Core = r.Face*k, r.Core*k
		}
	}
	if where == TakenOut && slotOf(code) != wetSlot {
		r.Core = 1 - pow15(1-r.Core)
	}
	return r
}

const (
	// weaker is what is lost of a removal for each step a cleaner is too light for the soil (assumption).
	weaker = .15
	// looseDebris is what hands take of leaves, fluff and webs (assumption).
	looseDebris = .45
)

// loose soils are picked off by hand first.
func loose(k soil.Kind) bool {
	switch k.Code {
	case "leaf_grass", "seed_fluff", "insects":
		return true
	}
	return false
}
