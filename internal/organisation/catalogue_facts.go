package organisation

import (
	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/store"
)

// MethodFacts is a method as the core takes it, with the shares learned here where there are any.
func (c Catalogue) MethodFacts(m store.Method) soil.Method {
	r := c.Removal[m.ID]
	return soil.Method{Code: m.Code, Name: m.Name, Dust: r.Dust, Grease: r.Grease, Driven: m.Driven, Wet: m.Wet}
}

// Prices are the prices that advice reckons with.
func (c Catalogue) Prices() method.Prices {
	out := method.Prices{}
	for _, r := range c.Rates {
		switch r.Code {
		case "labour":
			out.LabourHour = r.Amount
		case "water":
			out.WaterM3 = r.Amount
		}
	}
	return out
}

// Table is the organisation's own saturation table of a refrigerant, nil when it has none.
func (c Catalogue) Table(code string) []heat.TablePoint {
	for _, t := range c.Tables {
		if t.Code == code {
			var points []heat.TablePoint
			if t.Points.Into(&points) == nil {
				return points
			}
		}
	}
	return nil
}

// Price of the organisation by its code, 0 where there is none.
func (c Catalogue) Price(code string) float64 {
	for _, r := range c.Rates {
		if r.Code == code {
			return r.Amount
		}
	}
	return 0
}
