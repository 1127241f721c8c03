package method

import (
	"nextround/core/soil"
)

// CleanerVerdict is what comes of one cleaner at one coil: the best way to use it, or the rules against it.
type CleanerVerdict struct {
	// Option is the best way to use it; absent where none is left.
	Option *Option
	Bans   []Ban
}

// VerdictOn picks out of an advice what concerns one cleaner. Either an option or at least one ban is given.
func VerdictOn(a Advice, c Cleaner) CleanerVerdict {
	for i := range a.Options {
		if a.Options[i].Cleaner == c.Code {
			return CleanerVerdict{Option: &a.Options[i]}
		}
	}
	out := CleanerVerdict{}
	seen := map[string]bool{}
	add := func(b Ban) {
		if !seen[b.Code] {
			seen[b.Code] = true
			out.Bans = append(out.Bans, b)
		}
	}
	for _, r := range a.RuledOut {
		if r.Cleaner == c.Code {
			add(r.Ban)
		}
	}
	if len(out.Bans) > 0 {
		return out
	}
	for _, r := range a.RuledOut {
		if r.Method != "" && TechniqueOf(r.Method).takes(c.Form) {
			add(r.Ban)
		}
	}
	return out
}

// Case is a combination of the table of cleaners.
type Case struct {
	Cleaner      Cleaner
	Construction Construction
	Place        NamedPlace
	Soil         soil.Kind
}

// NamedPlace is a kind of place with the coil that is usual there.
type NamedPlace struct {
	Name  string
	Place Place
	Coil  Coil
}

// Places of the table.
var Places = []NamedPlace{
	{"outdoors, with water", Place{Setting: Outdoor, Water: true}, Coil{Role: "condenser", CapacityKw: 10, DeepMinutes: 50}},
	{"roof without water", Place{Setting: Roof}, Coil{Role: "condenser", CapacityKw: 28, DeepMinutes: 75}},
	{"outdoors in frost", Place{Setting: Outdoor, Water: true, LowC: low(1)}, Coil{Role: "condenser", CapacityKw: 10, DeepMinutes: 50}},
	{"plant room", Place{Setting: PlantRoom, Water: true, Drain: true}, Coil{Role: "evaporator", CapacityKw: 14, DeepMinutes: 80}},
	{"room in use", Place{Setting: Indoor, Occupied: true}, Coil{Role: "evaporator", CapacityKw: 7, DeepMinutes: 70}},
	{"cold room with food", Place{Setting: Indoor, NearFood: true, Water: true, Drain: true}, Coil{Role: "evaporator", CapacityKw: 6, DeepMinutes: 55}},
	{"plug-in cooler against a wall, food near", Place{Setting: Indoor, NearFood: true, Occupied: true, WallBacked: true}, Coil{Role: "condenser", PlugIn: true, Movable: true, CapacityKw: 1, DeepMinutes: 30}},
}

func low(c float64) *float64 { return &c }

// Constructions of the table.
var Constructions = []Construction{TubeFin, Microchannel, TubeGrid, Rolled}

// tableGrade is the grade found in the table: a felt, so that there is something to do.
const tableGrade = soil.Felt

// EachCase works the whole table of cleaners, constructions, places and soils out, one case after another.
func EachCase(do func(Case, CleanerVerdict)) error {
	for _, place := range Places {
		for _, construction := range Constructions {
			coil := place.Coil
			coil.Construction = construction
			for _, kind := range soil.Kinds {
				advice, err := Advise(AdviceInput{
					Coil: coil, Place: place.Place, Found: Found{Kind: kind.Code, Grade: tableGrade}, Work: DeepWork,
				})
				if err != nil {
					return err
				}
				for _, c := range StandardCleaners {
					do(Case{c, construction, place, kind}, VerdictOn(advice, c))
				}
			}
		}
	}
	return nil
}
