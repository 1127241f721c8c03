package workplan

import (
	"nextround/core/method"
	"nextround/core/soil"
)

// Case is a row of the table of plans.
type Case struct {
	Place        NamedPlace
	Construction method.Construction
	Soil         soil.Kind
	Grade        soil.Grade
	Advice       Advice
}

// NamedPlace is a kind of place with the coil that is usual there.
type NamedPlace struct {
	Name  string
	Place method.Place
	Coil  method.Coil
}

// Places of the table.
var Places = []NamedPlace{
	{"outdoors, with water", method.Place{Setting: method.Outdoor, Water: true}, method.Coil{Role: "condenser", CapacityKw: 10, DeepMinutes: 50}},
	{"roof without water", method.Place{Setting: method.Roof}, method.Coil{Role: "condenser", CapacityKw: 28, DeepMinutes: 75}},
	{"outdoors in frost", method.Place{Setting: method.Outdoor, Water: true, LowC: low(1)}, method.Coil{Role: "condenser", CapacityKw: 10, DeepMinutes: 50}},
	{"plant room", method.Place{Setting: method.PlantRoom, Water: true, Drain: true}, method.Coil{Role: "evaporator", CapacityKw: 14, DeepMinutes: 80}},
	{"room in use", method.Place{Setting: method.Indoor, Occupied: true}, method.Coil{Role: "evaporator", CapacityKw: 7, DeepMinutes: 70}},
	{"cold room with food", method.Place{Setting: method.Indoor, NearFood: true, Water: true, Drain: true}, method.Coil{Role: "evaporator", CapacityKw: 6, DeepMinutes: 55}},
	{"through a wall, slid out", method.Place{Setting: method.Indoor, Occupied: true, Water: true}, method.Coil{Role: "outdoor", Movable: true, CapacityKw: 4, DeepMinutes: 60}},
	{"plug-in cooler, room in use", method.Place{Setting: method.Indoor, Occupied: true}, method.Coil{Role: "condenser", PlugIn: true, Movable: true, CapacityKw: 1, DeepMinutes: 30}},
	{"plug-in cooler against a wall, food near", method.Place{Setting: method.Indoor, NearFood: true, Occupied: true, WallBacked: true}, method.Coil{Role: "condenser", PlugIn: true, Movable: true, CapacityKw: 1, DeepMinutes: 30}},
}

func low(c float64) *float64 { return &c }

// Constructions of the table.
var Constructions = []method.Construction{method.TubeFin, method.Microchannel, method.TubeGrid, method.Rolled}

// TableGrades are the grades found in the table.
var TableGrades = []soil.Grade{soil.Coat, soil.Felt, soil.Blanket}

// eachInput gives every case of the table of places, constructions, soils and grades with what goes into its advice.
func eachInput(do func(Case, Input) error) error {
	for _, place := range Places {
		for _, construction := range Constructions {
			coil := place.Coil
			coil.Construction = construction
			for _, kind := range soil.Kinds {
				for _, grade := range TableGrades {
					in := Input{
						Coil: coil, Place: place.Place, Found: method.Found{Kind: kind.Code, Grade: grade, Through: true}, Work: DeepWork,
						Prices: method.Prices{LabourHour: tableHour},
					}
					if err := do(Case{Place: place, Construction: construction, Soil: kind, Grade: grade}, in); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

// EachCase works the whole table out with the standard rules, one case after another.
func EachCase(do func(Case)) error {
	return eachInput(func(c Case, in Input) (err error) {
		if c.Advice, err = Advise(in); err == nil {
			do(c)
		}
		return err
	})
}

// tableHour is an hour's money in the table (assumption).
const tableHour = 48
