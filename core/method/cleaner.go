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
	Flammable bool `json:"flammable,omitempty"`
	// Foams on the coil; Disinfects is what it is for.
	Foams      bool    `json:"foams,omitempty"`
	Disinfects bool    `json:"disinfects,omitempty"`
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

// StandardCleaners are the classes of cleaner (dwell and uses: common practice, no source; pH, duty and mix:
// assumption; packs and prices: assumption, in whatever money the organisation counts; a product's data sheet comes first).
var StandardCleaners = []Cleaner{
	{Code: "water", Name: "Water", Form: Plain, PH: 7, Microchannel: true, Indoors: true, NearFood: true, Caution: "Keep it off electrics; catch the rinse."},
	{Code: "mild_detergent", Name: "Mild detergent", Form: Concentrate, PH: 8, Duty: LightDuty, PartsFrom: 20, PartsTo: 60, DwellMinS: 180, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, NearFood: true, Protection: glovesEyes, Caution: sheetFirst, PackL: 5, PackPrice: 12},
	{Code: "indoor_neutral", Name: "Indoor neutral, no rinse", Form: ReadyToUse, PH: 7, Duty: LightDuty, DwellMinS: 300, DwellMaxS: 600, Microchannel: true, Indoors: true, Protection: glovesEyes, Caution: "Use undiluted; never through a mixing head. " + sheetFirst, PackL: 5, PackPrice: 30},
	{Code: "foaming_disinfecting", Name: "Foaming, disinfecting", Form: ReadyToUse, PH: 8, Duty: LightDuty, DwellMinS: 60, DwellMaxS: 120, Rinse: true, Microchannel: true, Indoors: true, Protection: glovesEyes, Caution: "Keep off food and glasses. " + sheetFirst, PackL: 5, PackPrice: 48, Foams: true, Disinfects: true},
	{Code: "medium_universal", Name: "Medium universal", Form: Concentrate, PH: 10.5, Duty: MediumDuty, PartsFrom: 3, PartsTo: 10, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Protection: glovesEyes, Caution: sheetFirst, PackL: 5, PackPrice: 28, Foams: true},
	{Code: "heavy_alkaline", Name: "Heavy-duty alkaline, outdoor", Form: Concentrate, PH: 12.5, Duty: HeavyDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Protection: burnsGear, Caution: alkaline, PackL: 5, PackPrice: 34, Foams: true},
	{Code: "extra_heavy_alkaline", Name: "Extra-heavy alkaline, outdoor", Form: Concentrate, PH: 13.5, Duty: ExtraDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 300, DwellMaxS: 900, Rinse: true, Protection: burnsGear, Caution: alkaline, PackL: 5, PackPrice: 42, Foams: true},
	{Code: "non_acid", Name: "Non-acid solution", Form: Concentrate, PH: 10, Duty: MediumDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 180, DwellMaxS: 300, Rinse: true, Microchannel: true, Protection: glovesEyes, Caution: sheetFirst, PackL: 5, PackPrice: 55},
	{Code: "solvent_aerosol", Name: "Solvent aerosol", Form: Aerosol, Duty: MediumDuty, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, Flammable: true, Protection: glovesEyes, Caution: aerosolRule, PackL: 0.5, PackPrice: 14},
	{Code: "foaming_aerosol", Name: "Foaming aerosol", Form: Aerosol, PH: 9, Duty: LightDuty, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, Flammable: true, Protection: glovesEyes, Caution: aerosolRule, PackL: 0.5, PackPrice: 11, Foams: true},
}

const (
	sheetFirst  = "Follow its data sheet."
	alkaline    = "Outdoor tube-and-fin coils only, never microchannel, never indoors. Burns: gloves, eyes, rinse skin at once. " + sheetFirst
	glovesEyes  = "gloves, eyes"
	burnsGear   = "chemical gloves, goggles, apron"
	aerosolRule = "No ignition source; ventilate. " + sheetFirst
)
