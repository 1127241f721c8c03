package heat

import "nextround/core/soil"

// Load says in which months a unit works.
type Load string

// The loads.
const (
	// EvenLoad is refrigeration: it works all year round.
	EvenLoad Load = "even"
	// CoolingLoad is air conditioning, HeatingLoad a heat pump that only heats, BothLoad one that does both.
	CoolingLoad Load = "cooling"
	HeatingLoad Load = "heating"
	BothLoad    Load = "both"
)

// Climate is a kind of year: how the cooling and the heating that a building asks for are spread over its months, January first, in
// shares of any size.
type Climate struct {
	Code    string
	Name    string
	Cooling soil.MonthWeights
	Heating soil.MonthWeights
}

// Climates are twelve kinds of year on the northern half of the globe; south of the equator they are turned by half a year. The spread
// is in the manner of degree-days to 18 °C (assumption: no station's figures; a site's own twelve figures come first).
var Climates = []Climate{
	{"cool_coast", "Cool coast", soil.MonthWeights{0, 0, 0, 1, 5, 15, 27, 27, 18, 6, 1, 0}, soil.MonthWeights{15, 14, 13, 10, 7, 3, 1, 1, 4, 8, 11, 13}},
	{"mild_coast", "Mild coast", soil.MonthWeights{0, 0, 1, 3, 8, 17, 24, 24, 15, 6, 2, 0}, soil.MonthWeights{17, 15, 13, 10, 5, 2, 0, 0, 2, 7, 13, 16}},
	{"cold_inland", "Cold inland", soil.MonthWeights{0, 0, 0, 1, 8, 24, 34, 26, 7, 0, 0, 0}, soil.MonthWeights{17, 14, 13, 9, 5, 1, 0, 1, 4, 9, 12, 15}},
	{"temperate_inland", "Temperate inland", soil.MonthWeights{0, 0, 1, 4, 10, 20, 26, 23, 12, 4, 0, 0}, soil.MonthWeights{18, 15, 13, 8, 4, 1, 0, 0, 2, 8, 14, 17}},
	{"hot_summer", "Hot summers, cold winters", soil.MonthWeights{0, 0, 1, 4, 11, 20, 25, 22, 13, 4, 0, 0}, soil.MonthWeights{21, 17, 13, 6, 2, 0, 0, 0, 1, 7, 14, 19}},
	{"mediterranean", "Mediterranean", soil.MonthWeights{0, 0, 1, 3, 8, 16, 24, 24, 15, 7, 2, 0}, soil.MonthWeights{22, 19, 15, 9, 2, 0, 0, 0, 0, 3, 11, 19}},
	{"warm_humid", "Warm and humid", soil.MonthWeights{2, 2, 4, 7, 11, 14, 16, 15, 12, 9, 5, 3}, soil.MonthWeights{32, 24, 12, 2, 0, 0, 0, 0, 0, 1, 8, 21}},
	{"hot_dry", "Hot and dry", soil.MonthWeights{1, 2, 4, 7, 11, 15, 17, 16, 13, 8, 4, 2}, soil.MonthWeights{31, 22, 11, 3, 0, 0, 0, 0, 0, 1, 9, 23}},
	{"tropical_wet", "Tropical, wet all year", soil.MonthWeights{8, 8, 9, 9, 9, 8, 8, 8, 8, 8, 8, 9}, soil.MonthWeights{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}},
	{"tropical_dry", "Tropical, with a dry season", soil.MonthWeights{6, 7, 10, 11, 11, 9, 8, 8, 8, 8, 7, 7}, soil.MonthWeights{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}},
	{"highland", "Highland", soil.MonthWeights{0, 0, 2, 6, 14, 21, 23, 19, 11, 4, 0, 0}, soil.MonthWeights{16, 14, 12, 9, 6, 2, 1, 1, 4, 9, 12, 14}},
	{"subpolar", "Subpolar", soil.MonthWeights{0, 0, 0, 0, 3, 22, 42, 29, 4, 0, 0, 0}, soil.MonthWeights{14, 12, 12, 9, 6, 3, 2, 3, 6, 9, 11, 13}},
}

// ClimateByCode finds a climate.
func ClimateByCode(code string) (Climate, bool) {
	for _, c := range Climates {
		if c.Code == code {
			return c, true
		}
	}
	return Climate{}, false
}

// Months are the weights w of the energy a unit of a load uses by month, mean 1: even for refrigeration, by the climate's cooling or
// heating for the others, for both by the two in equal parts. South of the equator they are turned by half a year.
func (c Climate) Months(l Load, south bool) soil.MonthWeights {
	var out soil.MonthWeights
	switch l {
	case CoolingLoad:
		out = c.Cooling.Normalised()
	case HeatingLoad:
		out = c.Heating.Normalised()
	case BothLoad:
		cooling, heating := c.Cooling.Normalised(), c.Heating.Normalised()
		for m := range out {
			out[m] = (cooling[m] + heating[m]) / 2
		}
	default:
		return soil.Even
	}
	if south {
		out = out.Mirrored()
	}
	return out
}
