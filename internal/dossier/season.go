package dossier

import (
	"nextround/core/heat"
	"nextround/core/soil"
	"nextround/internal/optional"
)

// LoadMonths are the weights of the energy a unit uses by month: nil where it works all year round, or where nobody has said in what
// climate. A site's own twelve figures, of cooling, come before its climate; heating then is taken to be the reverse.
func (d Unit) LoadMonths() *soil.MonthWeights {
	load := heat.Load(optional.Or(d.Unit.Load, d.Class.Load))
	if load == heat.EvenLoad || load == "" {
		return nil
	}
	south := optional.Value(d.Site.Lat) < 0
	if len(d.Site.LoadMonths) == 12 {
		own := heat.Climate{}
		copy(own.Cooling[:], d.Site.LoadMonths)
		most := 0.0
		for _, v := range own.Cooling {
			most = max(most, v)
		}
		for m, v := range own.Cooling {
			own.Heating[m] = most - v
		}
		return new(own.Months(load, false)) // as they fall there
	}
	climate, known := heat.ClimateByCode(optional.Value(d.Site.Climate))
	if !known {
		return nil
	}
	return new(climate.Months(load, south))
}
