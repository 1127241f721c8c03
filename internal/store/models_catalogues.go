package store

import (
	"time"

	"github.com/google/uuid"
)

// Founded says how well a catalogue row is founded.
type Founded struct {
	Evidence       string
	Source         string
	FromMemory     bool
	DefaultVersion int
	// Version counts the changes the organisation made.
	Version int
}

// EquipmentClass is a class of equipment with its default clocks.
type EquipmentClass struct {
	OrganisationID    uuid.UUID
	ID                uuid.UUID
	Code              string
	Name              string
	ReferenceDays     float64
	ReferenceFanShare float64
	LightDays         *int
	DeepDays          int
	MaxDays           int
	LightMinutes      int
	DeepMinutes       int
	UsualSoil         string
	// EnergyKwhDay is what a clean unit of the class is taken to use where nothing is entered; OverPrice the price of a day
	// over the limit, nil where the organisation's stands.
	EnergyKwhDay float64
	// Load says in which months it works (heat.Load).
	Load      string
	OverPrice *float64
	// AnchorMonth is the month its deep cleans should fall into, 0 none; nil where the rule of the house decides.
	AnchorMonth *int
	// ReplaceCost is what a new unit costs where none is entered; FilterShare what its usual filter holds back, of what goes through
	// it, and BypassShare what goes past.
	ReplaceCost              float64
	FilterShare, BypassShare float64
	// Traits: the compressor is beside the coil and a plug on the lead; goods warm while it is off; it has standing water, a base
	// that gathers debris, a blower wheel; it can be carried out; a deep clean opens electrical covers.
	PlugIn         bool
	HoldsGoods     bool
	Pan            bool
	Movable        bool
	BaseTrough     bool
	Wheel          bool
	OpensElectrics bool
	// People a deep clean takes where the unit's access says nothing.
	People int
	// How it is taken to be cleaned where it never was, as codes of methods; Air is for the coil in the room's air.
	UsualLight, UsualLightOutdoors string
	UsualDeep, UsualDeepAir        string
	Position                       int
	Founded                        `gorm:"embedded"`
}

// ClassSide is a side that coils of a class get by default.
type ClassSide struct {
	OrganisationID uuid.UUID
	ClassID        uuid.UUID
	CoilRole       string
	Position       int
	Name           string
	AreaShare      float64
}

// SoilKind is a kind of soil.
type SoilKind struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Family         string
	Penetration    float64
	MonthWeights   Array[float64]
	Position       int
	Founded        `gorm:"embedded"`
}

// FactorDef is something at a site that makes coils soil faster.
type FactorDef struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Multiplier     float64
	MonthWeights   Array[float64]
	SoilCode       *string
	Position       int
	Founded        `gorm:"embedded"`
}

// Method is a way of cleaning.
type Method struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Driven         bool
	Wet            bool
	Position       int
	Founded        `gorm:"embedded"`
}

// MethodRemoval is what a method takes away from soil of a family.
type MethodRemoval struct {
	OrganisationID uuid.UUID
	MethodID       uuid.UUID
	Family         string
	FaceShare      float64
	CoreShare      float64
}

// Cleaner is a class of cleaner.
type Cleaner struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Form           string
	Caution        string
	Ph             *float64
	PackL          *float64
	PackPrice      *float64
	WaterPartsFrom *float64
	WaterPartsTo   *float64
	DwellMinS      *int
	DwellMaxS      *int
	Rinse          bool
	Microchannel   bool
	Indoors        bool
	NearFood       bool
	Protection     string
	Duty           int
	Flammable      bool
	Foams          bool
	Disinfects     bool
	Position       int
	Founded        `gorm:"embedded"`
}

// SprayerSetting is what a setting of a mixing sprayer makes.
type SprayerSetting struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Sprayer        string
	Name           string
	WaterParts     float64
	TankL          *float64
	Position       int
	Founded        `gorm:"embedded"`
}

// Rate is a price of the organisation.
type Rate struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Code           string
	Name           string
	Unit           string
	Amount         float64
	Position       int
	Founded        `gorm:"embedded"`
}

// ClassMinutes is how long what is no clean takes at units of a class.
type ClassMinutes struct {
	OrganisationID uuid.UUID
	ClassID        uuid.UUID
	Kind           string
	Minutes        int
}

// TableName is that of the schema.
func (ClassMinutes) TableName() string { return "class_minutes" }

// CatalogueAnswer is what an organisation said of a new default.
type CatalogueAnswer struct {
	OrganisationID uuid.UUID
	Catalogue      string
	Code           string
	Answer         string
	AccountID      *uuid.UUID
	At             time.Time
}

// TableName is that of the schema.
func (CatalogueAnswer) TableName() string { return "catalogue_answer" }

// ClassTask is a companion task that units of a class get.
type ClassTask struct {
	OrganisationID uuid.UUID
	ClassID        uuid.UUID
	Kind           string
	EveryDays      int
	Doer           string
}

// HouseRule is an organisation's answer to a question of practice.
type HouseRule struct {
	OrganisationID uuid.UUID
	ID             uuid.UUID
	Question       string
	Choice         JSON
	Reason         string
	Valid          DateRange
	// SiteID or UnitID narrow the answer to one site or unit.
	SiteID    *uuid.UUID
	UnitID    *uuid.UUID
	AccountID *uuid.UUID
	At        *time.Time
	// Revision counts the changes the organisation made.
	Revision int `gorm:"default:1"`
	// Share is the choice as a figure, and Founded what it rests on; neither is a column.
	Share   float64 `gorm:"-"`
	Founded Founded `gorm:"-"`
}

// TableName names the table.
func (EquipmentClass) TableName() string { return "equipment_class" }

// TableName names the table.
func (ClassSide) TableName() string { return "class_side" }

// TableName names the table.
func (SoilKind) TableName() string { return "soil_kind" }

// TableName names the table.
func (FactorDef) TableName() string { return "factor_def" }

// TableName names the table.
func (Method) TableName() string { return "method" }

// TableName names the table.
func (MethodRemoval) TableName() string { return "method_removal" }

// TableName names the table.
func (Cleaner) TableName() string { return "cleaner" }

// TableName names the table.
func (SprayerSetting) TableName() string { return "sprayer_setting" }

// TableName names the table.
func (Rate) TableName() string { return "rate" }

// TableName names the table.
func (ClassTask) TableName() string { return "class_task" }

// TableName names the table.
func (HouseRule) TableName() string { return "house_rule" }
