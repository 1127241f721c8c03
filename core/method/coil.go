package method

import "nextround/core/soil"

// Coil is what the choice of a method turns on.
type Coil struct {
	Construction Construction `json:"construction"`
	Slabs        int          `json:"slabs"`
	Role         string       `json:"role,omitempty"`
	FaceM2       float64      `json:"face_m2,omitempty"`
	CapacityKw   float64      `json:"capacity_kw,omitempty"`
	// PlugIn marks self-contained refrigeration with its compressor beside the coil.
	PlugIn bool `json:"plug_in,omitempty"`
	// Movable is true where the coil, or the unit with it, can be carried out.
	Movable bool `json:"movable,omitempty"`
	// DeepMinutes is what a deep clean of the class takes on site.
	DeepMinutes float64 `json:"deep_minutes,omitempty"`
	// Flammable refrigerant inside; where nobody knows, it is taken to burn, and said so.
	Flammable        bool `json:"flammable,omitempty"`
	FlammableUnknown bool `json:"flammable_unknown,omitempty"`
	// DoseFactor is the unit's own; 0 counts as 1.
	DoseFactor float64 `json:"dose_factor,omitempty"`
}

// Setting is what a placement is.
type Setting string

// The settings.
const (
	UnstatedSetting Setting = "unstated"
	Indoor          Setting = "indoor"
	Outdoor         Setting = "outdoor"
	Roof            Setting = "roof"
	PlantRoom       Setting = "plant_room"
)

// Place is where the coil stands.
type Place struct {
	Setting    Setting `json:"setting"`
	NearFood   bool    `json:"near_food,omitempty"`
	Occupied   bool    `json:"occupied,omitempty"`
	WallBacked bool    `json:"wall_backed,omitempty"`
	// Water is true where a hose can be run; Drain where rinse water may go down one.
	Water bool `json:"water,omitempty"`
	Drain bool `json:"drain,omitempty"`
	// WaterUnknown says that nobody has said whether there is water: it is taken that there is none, and asked.
	WaterUnknown bool `json:"water_unknown,omitempty"`
	// LowC is the lowest temperature expected during the work; absent when unknown.
	LowC *float64 `json:"low_c,omitempty"`
}

// Outdoors reports whether the place is under the sky.
func (p Place) Outdoors() bool { return p.Setting == Outdoor || p.Setting == Roof }

// Found is the soil found.
type Found struct {
	Kind  string     `json:"kind"`
	Grade soil.Grade `json:"grade"`
	// Through says that the grade was seen with light through, or by wiping: it is of face and core together.
	Through bool `json:"through,omitempty"`
	// CoreGrade is what is thought or seen of the core; absent when unknown.
	CoreGrade *soil.Grade `json:"core_grade,omitempty"`
}

// Prices of the organisation, in its currency.
type Prices struct {
	LabourHour float64 `json:"labour_hour,omitempty"`
	WaterM3    float64 `json:"water_m3,omitempty"`
}
