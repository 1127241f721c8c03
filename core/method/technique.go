package method

import "nextround/core/soil"

// Technique is what the choice of a method turns on, beside what it removes.
type Technique struct {
	// Air is driven through the coil; Engine makes sparks.
	Air, Engine bool
	// Hose needs running water; Head mixes concentrate on the way.
	Hose, Head bool
	// Forms of cleaner it takes; none for dry work.
	Forms []Form
	// RinseL is water for rinsing, litres per m² and slab (assumption).
	RinseL float64
	// Kit to bring.
	Kit []string
	// OutdoorsOnly and IndoorsOnly say where it is done.
	OutdoorsOnly, IndoorsOnly bool
	// Constructions it suits; empty means all. Roles likewise.
	Constructions []Construction
	Roles         []string
	// ManySlabs needs two slabs or more; Opened needs guards and panels off.
	ManySlabs, Opened bool
	// Extra minutes that the class's own do not hold.
	ExtraMinutes float64
	Direction    soil.Direction
}

// Construction of a coil.
type Construction string

// The constructions; Unstated is judged as tube and fin, and said so.
const (
	Unstated     Construction = "unstated"
	TubeFin      Construction = "tube_fin"
	Microchannel Construction = "microchannel"
	TubeGrid     Construction = "tube_grid"
	Rolled       Construction = "rolled"
)

var finned = []Construction{Unstated, TubeFin, Microchannel, Rolled}

// techniques by method code (common practice, no source; figures are assumptions).
var techniques = map[string]Technique{
	"debris":           {Kit: []string{"bucket"}, Direction: soil.AlongFins},
	"pre_rinse":        {Hose: true, Forms: []Form{Plain}, RinseL: 15, Kit: []string{"hose"}, Direction: soil.Against},
	"rinse":            {Hose: true, Forms: []Form{Plain}, RinseL: 15, Kit: []string{"hose"}, Direction: soil.DownwardClosed},
	"wet_rag":          {Forms: []Form{Plain, Concentrate}, RinseL: 1, Kit: []string{"rags", "bucket"}, Constructions: []Construction{TubeGrid}, Direction: soil.AlongFins},
	"soft_brush":       {Constructions: []Construction{Unstated, TubeFin, Microchannel, TubeGrid}, Kit: []string{"soft brush", "dust mask"}, Direction: soil.AlongFins},
	"vacuum_narrow":    {Kit: []string{"vacuum", "narrow tool", "dust mask"}, Direction: soil.AlongFins},
	"brush_vacuum":     {Constructions: []Construction{Unstated, TubeFin, Microchannel, TubeGrid}, Kit: []string{"soft brush", "vacuum", "dust mask"}, Direction: soil.AlongFins},
	"long_brush":       {Kit: []string{"long bendable brush", "vacuum", "dust mask"}, Constructions: []Construction{Unstated, TubeFin, TubeGrid, Rolled}, Direction: soil.AlongFins},
	"closed_hose_down": {Roles: []string{"condenser", "outdoor"}, Hose: true, Forms: []Form{Plain}, RinseL: 40, Kit: []string{"hose"}, OutdoorsOnly: true, Constructions: finned, Direction: soil.DownwardClosed},
	"hose_rinse":       {Roles: []string{"condenser", "outdoor"}, Hose: true, Forms: []Form{Plain}, RinseL: 60, Kit: []string{"hose", "bucket"}, OutdoorsOnly: true, Constructions: finned, Opened: true, Direction: soil.Against},
	"gentle_air":       {Air: true, Kit: []string{"air line or can", "vacuum at the far side", "eye protection", "dust mask"}, Opened: true, Direction: soil.Against},
	"leaf_blower":      {Roles: []string{"condenser", "outdoor"}, Air: true, Engine: true, Kit: []string{"leaf blower", "eye protection", "dust mask"}, OutdoorsOnly: true, Opened: true, Direction: soil.Against},
	"aerosol_rinse":    {Roles: []string{"condenser", "outdoor", "evaporator"}, Forms: []Form{Aerosol}, RinseL: 8, Kit: []string{"spray bottle of water", "absorbent"}, Constructions: finned, Direction: soil.Against},
	"tank_sprayer":     {Roles: []string{"condenser", "outdoor", "evaporator"}, Forms: []Form{Plain, ReadyToUse, Concentrate}, RinseL: 12, Kit: []string{"low-pressure tank sprayer, 15° nozzle", "wet vacuum"}, Constructions: finned, Opened: true, Direction: soil.Against},
	"pour_foam":        {Roles: []string{"condenser", "outdoor"}, Forms: []Form{Concentrate}, RinseL: 40, Hose: true, Kit: []string{"measuring jug", "hose"}, OutdoorsOnly: true, Constructions: finned, Opened: true, Direction: soil.Against},
	"foam_rinse":       {Roles: []string{"condenser", "outdoor"}, Hose: true, Head: true, Forms: []Form{Concentrate, ReadyToUse}, RinseL: 50, Kit: []string{"foaming sprayer", "hose"}, Constructions: finned, OutdoorsOnly: true, Opened: true, Direction: soil.Against},
	"split_foam":       {Roles: []string{"condenser", "outdoor"}, Hose: true, Head: true, Forms: []Form{Concentrate, ReadyToUse}, RinseL: 60, Kit: []string{"foaming sprayer", "hose", "slab spreader"}, Constructions: []Construction{Unstated, TubeFin}, OutdoorsOnly: true, Opened: true, ManySlabs: true, ExtraMinutes: 30, Direction: soil.Against},
	"bagged_wash":      {Forms: []Form{Plain, ReadyToUse, Concentrate}, RinseL: 12, Kit: []string{"draw-string bag and funnel", "bucket", "low-pressure tank sprayer"}, IndoorsOnly: true, Roles: []string{"evaporator"}, Constructions: finned, Direction: soil.Against},
	"wall_washer":      {Forms: []Form{Plain, ReadyToUse}, RinseL: 15, Kit: []string{"wall-unit washer", "bag", "bucket"}, IndoorsOnly: true, Roles: []string{"back", "evaporator"}, Constructions: finned, Direction: soil.Against},
	"out_and_washed":   {Forms: []Form{Plain, ReadyToUse, Concentrate}, RinseL: 60, Hose: true, Kit: []string{"two people", "hose", "stand"}, Constructions: []Construction{Unstated, TubeFin, Microchannel, Rolled, TubeGrid}, Opened: true, ExtraMinutes: 30, Direction: soil.Against},
}

// TechniqueOf gives a method's technique; an unknown method is taken as careful dry work.
func TechniqueOf(code string) Technique {
	if t, ok := techniques[code]; ok {
		return t
	}
	return Technique{Direction: soil.AlongFins}
}

// Takes reports whether the method works with a form of cleaner.
func (t Technique) Takes(f Form) bool {
	for _, x := range t.Forms {
		if x == f {
			return true
		}
	}
	return false
}

// Wet reports whether anything wet goes onto the coil.
func (t Technique) Wet() bool { return len(t.Forms) > 0 }

// Suits reports whether the method is for coils so built.
func (t Technique) Suits(c Construction) bool {
	if len(t.Constructions) == 0 {
		return true
	}
	for _, x := range t.Constructions {
		if x == c {
			return true
		}
	}
	return false
}

// Serves reports whether the method is for a coil of a role; one that is not stated may be any.
func (t Technique) Serves(role string) bool {
	if len(t.Roles) == 0 || role == "" {
		return true
	}
	for _, x := range t.Roles {
		if x == role {
			return true
		}
	}
	return false
}
