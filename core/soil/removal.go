package soil

// Direction is how air or water went through or along the coil.
type Direction string

// The four directions a treatment can have.
const (
	Against        Direction = "against_airflow"
	With           Direction = "with_airflow"
	AlongFins      Direction = "along_fins"
	DownwardClosed Direction = "downward_closed"
)

// Valid reports whether d is one of the four.
func (d Direction) Valid() bool {
	return d == Against || d == With || d == AlongFins || d == DownwardClosed
}

// PackingWith is the share of the loosened face soil that air or water driven with the airflow pushes into
// the core (assumption).
const PackingWith = 0.3

// Removal is what one treatment takes away: the shares of face and core soil, and the share of the loosened
// face soil that is packed into the core. All in [0, 1].
type Removal struct {
	Face    float64 `json:"face_share"`
	Core    float64 `json:"core_share"`
	Packing float64 `json:"packing"`
}

// Clean applies a removal:
//
//	gone = rF·F;  F −= gone;  C = C(1−rC) + q·gone
//
// It never raises F + C; with packing 0 it raises neither.
func (s State) Clean(r Removal) State {
	gone := r.Face * s.Face
	s.Face -= gone
	s.Core = s.Core*(1-r.Core) + r.Packing*gone
	return s
}

// Then is a removal followed by another, on what the first left:
//
//	rF = 1 − (1−rF₁)(1−rF₂);  rC likewise;  q is the larger of both
func (r Removal) Then(next Removal) Removal {
	return Removal{Face: 1 - (1-r.Face)*(1-next.Face), Core: 1 - (1-r.Core)*(1-next.Core), Packing: max(r.Packing, next.Packing)}
}

// Method is a way of cleaning with its removal on dust-like and grease-like soil (assumption: blended with
// an organisation's own found and left pairs as they come in).
type Method struct {
	Code   string     `json:"code"`
	Name   string     `json:"name"`
	Dust   [2]float64 `json:"dust_like"`   // rF, rC
	Grease [2]float64 `json:"grease_like"` // rF, rC
	// Driven is true where air or water is driven through the coil, so that the direction matters.
	Driven bool `json:"driven"`
	// Wet is true where water or a cleaner is used.
	Wet bool `json:"wet"`
}

// Methods are the start values, in the order of the pick list.
var Methods = []Method{
	{"wet_rag", "Wet rag", [2]float64{.70, .02}, [2]float64{.40, .01}, false, true},
	{"soft_brush", "Soft brush along the fins", [2]float64{.70, .03}, [2]float64{.30, .01}, false, false},
	{"vacuum_narrow", "Vacuum, narrow tool", [2]float64{.65, .08}, [2]float64{.15, .01}, false, false},
	{"brush_vacuum", "Brush and vacuum", [2]float64{.85, .05}, [2]float64{.40, .02}, false, false},
	{"long_brush", "Long bendable brush", [2]float64{.80, .20}, [2]float64{.35, .05}, false, false},
	{"closed_hose_down", "Closed hose-down", [2]float64{.60, .10}, [2]float64{.20, .02}, true, true},
	{"hose_rinse", "Hose rinse, inside out", [2]float64{.80, .45}, [2]float64{.30, .10}, true, true},
	{"gentle_air", "Gentle air through the core", [2]float64{.70, .50}, [2]float64{.20, .10}, true, false},
	{"leaf_blower", "Leaf blower", [2]float64{.65, .35}, [2]float64{.15, .05}, true, false},
	{"aerosol_rinse", "Aerosol and rinse", [2]float64{.85, .50}, [2]float64{.75, .45}, true, true},
	{"tank_sprayer", "Tank sprayer, low pressure", [2]float64{.90, .65}, [2]float64{.85, .60}, true, true},
	{"pour_foam", "Poured foam and rinse", [2]float64{.93, .72}, [2]float64{.90, .68}, true, true},
	{"bagged_wash", "Bagged wash", [2]float64{.92, .70}, [2]float64{.88, .65}, true, true},
	{"wall_washer", "Wall-unit washer", [2]float64{.90, .70}, [2]float64{.86, .64}, true, true},
	{"foam_rinse", "Foam and rinse", [2]float64{.95, .80}, [2]float64{.93, .75}, true, true},
	{"split_foam", "Slabs split, foam and rinse", [2]float64{.96, .92}, [2]float64{.94, .90}, true, true},
	{"out_and_washed", "Taken out and washed", [2]float64{.97, .90}, [2]float64{.94, .85}, false, true},
	{"debris", "Debris out by hand", [2]float64{.20, 0}, [2]float64{.10, 0}, false, false},
	{"pre_rinse", "Pre-rinse", [2]float64{.30, .05}, [2]float64{.10, 0}, true, true},
	{"rinse", "Light outer rinse", [2]float64{.10, .02}, [2]float64{.05, 0}, true, true},
}

// MethodByCode finds a start method.
func MethodByCode(code string) (Method, bool) {
	for _, m := range Methods {
		if m.Code == code {
			return m, true
		}
	}
	return Method{}, false
}

// Removal is what the method takes away from soil of a family when worked in a direction. Mixed soil takes
// the mean of the two families. Only a driven method worked with the airflow packs the core.
func (m Method) Removal(f Family, d Direction) Removal {
	pair := m.Dust
	switch f {
	case GreaseLike:
		pair = m.Grease
	case Mixed:
		pair = [2]float64{(m.Dust[0] + m.Grease[0]) / 2, (m.Dust[1] + m.Grease[1]) / 2}
	}
	r := Removal{Face: pair[0], Core: pair[1]}
	if m.Driven && d == With {
		r.Packing = PackingWith
	}
	return r
}
