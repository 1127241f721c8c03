// Package method chooses how a coil is cleaned: cleaners and methods, what is ruled out and by which rule, mix, dose and
// the order of spraying and rinsing. Litres, seconds, square metres, °C.
package method

// Form is how a cleaner comes.
type Form string

// The forms.
const (
	Plain       Form = "none" // water
	Concentrate Form = "concentrate"
	ReadyToUse  Form = "ready_to_use"
	Aerosol     Form = "aerosol"
)

// Duty is how heavy a soil a cleaner is made for.
type Duty int

// The duties; each is enough for the soils of the ones before it.
const (
	NoDuty Duty = iota // water
	LightDuty
	MediumDuty
	HeavyDuty
	ExtraDuty
)

// Cleaner is a class of cleaner, or a product by its data sheet.
type Cleaner struct {
	Code string `json:"code"`
	Name string `json:"name"`
	Form Form   `json:"form"`
	// PH is 0 when unknown.
	PH   float64 `json:"ph,omitempty"`
	Duty Duty    `json:"duty"`
	// PartsFrom and PartsTo are water to one part of concentrate, the strong end first.
	PartsFrom float64 `json:"parts_from,omitempty"`
	PartsTo   float64 `json:"parts_to,omitempty"`
	DwellMinS int     `json:"dwell_min_s,omitempty"`
	DwellMaxS int     `json:"dwell_max_s,omitempty"`
	// Rinse is true where the label asks for rinsing.
	Rinse        bool `json:"rinse,omitempty"`
	Microchannel bool `json:"microchannel,omitempty"`
	Indoors      bool `json:"indoors,omitempty"`
	NearFood     bool `json:"near_food,omitempty"`
	// Flammable propellant or solvent.
	Flammable  bool    `json:"flammable,omitempty"`
	Protection string  `json:"protection,omitempty"`
	Caution    string  `json:"caution,omitempty"`
	PackL      float64 `json:"pack_l,omitempty"`
	PackPrice  float64 `json:"pack_price,omitempty"`
}

// What UN GHS 3.2 takes as corrosive without further tests (from memory), and where a cleaner counts as an acid, which
// is not used on coils (common practice, no source).
const (
	CorrosiveFrom = 11.5
	CorrosiveTo   = 2.0
	AcidBelow     = 6.0
)

// Corrosive reports whether the pH alone makes it so.
func (c Cleaner) Corrosive() bool { return c.PH != 0 && (c.PH >= CorrosiveFrom || c.PH <= CorrosiveTo) }

// StrongAlkaline cleaners keep corroding until they are rinsed off.
func (c Cleaner) StrongAlkaline() bool { return c.PH >= CorrosiveFrom }

// Acid cleaners are not used.
func (c Cleaner) Acid() bool { return c.PH != 0 && c.PH < AcidBelow }
