package method

import (
	"math"
	"sort"

	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/soil"
)

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
	// Flammable refrigerant inside.
	Flammable bool `json:"flammable,omitempty"`
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

// The works that advice is given for.
const (
	LightWork = "light"
	DeepWork  = "deep"
)

// AdviceInput is all that advice rests on.
type AdviceInput struct {
	Coil  Coil  `json:"coil"`
	Place Place `json:"place"`
	Found Found `json:"found"`
	// Work is light or deep.
	Work  string `json:"work"`
	Rules Rules  `json:"rules,omitempty"`
	// LimitShare is the blocked share the organisation allows; 0 takes 0.30.
	LimitShare float64       `json:"limit_share,omitempty"`
	Cleaners   []Cleaner     `json:"cleaners,omitempty"`
	Methods    []soil.Method `json:"methods,omitempty"`
	Kinds      []soil.Kind   `json:"kinds,omitempty"`
	Prices     Prices        `json:"prices,omitempty"`
	// Overrides are soft bans the technician has set aside, by code.
	Overrides []string `json:"overrides,omitempty"`
}

// Option is one way of cleaning, with what is to be expected of it.
type Option struct {
	Method      string         `json:"method"`
	MethodName  string         `json:"method_name"`
	Cleaner     string         `json:"cleaner,omitempty"`
	CleanerName string         `json:"cleaner_name,omitempty"`
	Direction   soil.Direction `json:"direction"`
	// LeftShare is the blocked share expected after; LeftGrade its grade. Enough says that the organisation's rule is met.
	LeftShare float64    `json:"left_share"`
	LeftGrade soil.Grade `json:"left_grade"`
	Enough    bool       `json:"enough"`
	Minutes   float64    `json:"minutes"`
	Cost      float64    `json:"cost"`
	// WaterParts to one of cleaner; absent when nothing is mixed.
	WaterParts *float64 `json:"water_parts,omitempty"`
	MixL       float64  `json:"mix_l"`
	CleanerL   float64  `json:"cleaner_l"`
	RinseL     float64  `json:"rinse_l"`
	// WasteL is caught in Buckets of 10 L where it may not run off; Contain says how.
	WasteL     float64         `json:"waste_l"`
	Buckets    int             `json:"buckets,omitempty"`
	Contain    string          `json:"contain"`
	Dispose    string          `json:"dispose"`
	DwellMinS  int             `json:"dwell_min_s,omitempty"`
	DwellMaxS  int             `json:"dwell_max_s,omitempty"`
	Protection []string        `json:"protection"`
	Kit        []string        `json:"kit"`
	Notes      []string        `json:"notes"`
	Overridden []string        `json:"overridden,omitempty"`
	Reasons    []reason.Reason `json:"reasons"`
}

// RuledOut is something that is not offered, and the rule that did it.
type RuledOut struct {
	Method      string `json:"method,omitempty"`
	MethodName  string `json:"method_name,omitempty"`
	Cleaner     string `json:"cleaner,omitempty"`
	CleanerName string `json:"cleaner_name,omitempty"`
	Ban         Ban    `json:"ban"`
}

// Advice ranks what may be done and lists what may not.
type Advice struct {
	Options  []Option   `json:"options"`
	RuledOut []RuledOut `json:"ruled_out"`
	// Leave says that nothing need be done to the coil.
	Leave bool `json:"leave"`
	// AimShare is the blocked share that counts as clean enough.
	AimShare float64 `json:"aim_share"`
	// Assumed names what was not known and had to be assumed.
	Assumed []string `json:"assumed"`
}

const (
	bucketL      = 10.0
	frostC       = 4.0
	defaultLimit = .30
	perfectShare = .05
	usualMinutes = 45.0
	// enoughOf is how far below the limit a clean is to leave a coil (assumption): half of it, or its next soil is
	// there at once.
	enoughOf = .5
	// betterOf is what "much better" leaves of what was found (assumption).
	betterOf = .35
	// weaker is what is lost of a removal for each step a cleaner is too light for the soil (assumption).
	weaker = .15
)

// Advise ranks methods and cleaners for a coil as it was found, and lists everything ruled out with the rule that did
// it. Those that are enough come first, the mildest cleaner and the lowest cost before others; those that are not come
// after, by what they leave.
func Advise(in AdviceInput) (Advice, error) {
	a := adviser{AdviceInput: in}
	if err := a.prepare(); err != nil {
		return Advice{}, err
	}
	out := Advice{Options: []Option{}, RuledOut: []RuledOut{}, AimShare: a.aim, Assumed: a.assumed}
	for _, code := range []string{"pressure_washer", "slanted_spray", "fan_running"} {
		b, _ := BanByCode(code)
		out.RuledOut = append(out.RuledOut, RuledOut{Ban: b})
	}
	banned := map[string]bool{}
	for _, c := range a.Cleaners {
		if code := a.cleanerBan(c); code != "" {
			b, _ := BanByCode(code)
			banned[c.Code] = true
			out.RuledOut = append(out.RuledOut, RuledOut{Cleaner: c.Code, CleanerName: c.Name, Ban: b})
		}
	}
	for _, m := range a.Methods {
		over, code := a.methodBan(m)
		if code != "" {
			b, _ := BanByCode(code)
			out.RuledOut = append(out.RuledOut, RuledOut{Method: m.Code, MethodName: m.Name, Ban: b})
			continue
		}
		a.pair(m, over, banned, &out)
	}
	a.rank(out.Options)
	out.Leave = a.leave
	return out, nil
}

type adviser struct {
	AdviceInput
	kind     soil.Kind
	state    soil.State
	aim      float64
	leave    bool
	assumed  []string
	face     float64
	need     Duty
	setAside map[string]bool
}

func (a *adviser) prepare() error {
	var bad invalid.Error
	if len(a.Methods) == 0 {
		a.Methods = soil.Methods
	}
	if len(a.Cleaners) == 0 {
		a.Cleaners = StandardCleaners
	}
	if len(a.Kinds) == 0 {
		a.Kinds = soil.Kinds
	}
	ok := false
	for _, k := range a.Kinds {
		if k.Code == a.Found.Kind {
			a.kind, ok = k, true
		}
	}
	if !ok {
		bad.Addf("found.kind", "%q is not a kind of soil", a.Found.Kind)
	}
	if !a.Found.Grade.Valid() {
		bad.Addf("found.grade", "must be a grade from 0 to 5")
	}
	if a.Found.CoreGrade != nil && !a.Found.CoreGrade.Valid() {
		bad.Addf("found.core_grade", "must be a grade from 0 to 5")
	}
	if a.Work != LightWork && a.Work != DeepWork {
		bad.Addf("work", "must be light or deep")
	}
	switch a.Place.Setting {
	case Outdoor, Roof, PlantRoom, Indoor:
	case "", UnstatedSetting:
		// What is not known is judged with the stricter half of the rules.
		a.Place.Setting = Indoor
		a.assumed = append(a.assumed, "setting")
	default:
		bad.Addf("place.setting", "must be outdoor, roof, plant_room or indoor")
	}
	switch a.Coil.Construction {
	case TubeFin, Microchannel, TubeGrid, Rolled:
	case "", Unstated:
		a.Coil.Construction = Unstated
		a.assumed = append(a.assumed, "construction")
	default:
		bad.Addf("coil.construction", "must be tube_fin, microchannel, tube_grid or rolled")
	}
	if a.Coil.Slabs < 0 || a.Coil.Slabs > 6 {
		bad.Addf("coil.slabs", "must be between 1 and 6")
	}
	for q, c := range a.Rules {
		if known, ok := QuestionByCode(q); !ok || !known.Has(c) {
			bad.Addf("rules."+q, "%q is not an answer to it", c)
		}
	}
	if err := bad.Err(); err != nil {
		return err
	}
	a.Coil.Slabs = max(a.Coil.Slabs, 1)
	face, faceAssumed := Face(a.Coil.FaceM2, a.Coil.CapacityKw)
	if a.face = face; faceAssumed {
		a.assumed = append(a.assumed, "face_area")
	}
	if a.Coil.DeepMinutes <= 0 {
		a.Coil.DeepMinutes = usualMinutes
		a.assumed = append(a.assumed, "deep_minutes")
	}
	a.state = soil.State{Face: a.Found.Grade.MiddleLoad()}
	switch {
	case a.Found.CoreGrade != nil:
		a.state.Core = a.Found.CoreGrade.MiddleLoad()
	case a.Found.Through:
		a.state.Core = a.state.Face * a.kind.Penetration
		a.state.Face -= a.state.Core
	case a.kind.Penetration < 1:
		a.state.Core = a.state.Face * a.kind.Penetration / (1 - a.kind.Penetration)
		a.assumed = append(a.assumed, "core")
	}
	a.need = needed(a.kind, a.Found.Grade)
	limit := a.LimitShare
	if !(limit > 0 && limit < 1) {
		limit = defaultLimit
	}
	now := soil.Share(a.state.Total())
	switch a.Rules.Answer("how_clean") {
	case "perfect":
		a.aim = perfectShare
	case "better":
		a.aim = math.Max(perfectShare, betterOf*now)
	default:
		a.aim = enoughOf * limit
	}
	indoorAir := !a.Place.Outdoors() && !a.Coil.PlugIn && a.Coil.Role != "condenser"
	a.leave = a.Found.Grade == soil.Bare ||
		(indoorAir && a.Found.Grade <= soil.Film && now <= limit && a.Rules.Answer("coating_indoors") == "leave")
	a.setAside = map[string]bool{}
	for _, o := range a.Overrides {
		if b, ok := BanByCode(o); ok && !b.Hard {
			a.setAside[o] = true
		}
	}
	return nil
}

// needed is the duty a soil asks for (common practice, no source: light, medium, heavy and extra heavy outdoors).
func needed(k soil.Kind, g soil.Grade) Duty {
	switch {
	case k.Family == soil.DustLike && g <= soil.Coat:
		return NoDuty
	case k.Family == soil.DustLike, g <= soil.Film:
		return LightDuty
	case k.Code == "biofilm":
		return LightDuty
	case g <= soil.Felt:
		return MediumDuty
	}
	return HeavyDuty
}

// cleanerBan is the hard rule that keeps a cleaner off this coil wherever it is used in place.
func (a *adviser) cleanerBan(c Cleaner) string {
	micro := a.Coil.Construction == Microchannel
	switch {
	case c.Acid():
		return "acid"
	case micro && c.StrongAlkaline():
		return "alkaline_microchannel"
	case micro && !c.Microchannel:
		return "not_on_microchannel"
	case c.Flammable && a.Coil.Flammable:
		return "flammable_spray"
	}
	return ""
}

// placeBan is the rule that keeps a cleaner out of a place; the coil taken outdoors is not in it.
func (a *adviser) placeBan(c Cleaner, t Technique) string {
	if t.Elsewhere {
		return ""
	}
	indoors := !a.Place.Outdoors()
	switch {
	case indoors && c.StrongAlkaline():
		return "alkaline_indoors"
	case indoors && !c.Indoors:
		return "not_indoors"
	case a.Place.NearFood && !c.NearFood:
		return "near_food"
	}
	return ""
}

// methodBan is the rule that keeps a method off, and the soft ones set aside on the way.
func (a *adviser) methodBan(m soil.Method) (over []string, code string) {
	t := TechniqueOf(m.Code)
	outdoors := a.Place.Outdoors()
	frozen := a.Place.LowC != nil && *a.Place.LowC < frostC
	switch {
	case !t.suits(a.Coil.Construction) || !t.serves(a.Coil.Role):
		return nil, "unsuited"
	case (t.OutdoorsOnly && !outdoors) || (t.IndoorsOnly && outdoors):
		return nil, "wrong_place"
	case t.Elsewhere && !a.Coil.Movable:
		return nil, "fixed"
	case t.ManySlabs && a.Coil.Slabs < 2:
		return nil, "single_slab"
	case t.wet() && (outdoors || t.Elsewhere) && frozen:
		return nil, "frost"
	case t.Engine && a.Coil.Flammable:
		return nil, "ignition"
	case t.Hose && !a.Place.Water:
		return nil, "no_water"
	case t.Air && a.Place.WallBacked && !outdoors:
		return nil, "closed_cabinet"
	case a.Coil.PlugIn && t.wet() && !t.Elsewhere && !t.takes(Aerosol) && m.Code != "wet_rag":
		return nil, "open_electrics"
	}
	for _, soft := range a.softBans(t) {
		if !a.setAside[soft] {
			return nil, soft
		}
		over = append(over, soft)
	}
	return over, ""
}

func (a *adviser) softBans(t Technique) []string {
	var out []string
	add := func(when bool, code string) {
		if when {
			out = append(out, code)
		}
	}
	air := a.Rules.Answer("air")
	add(t.Air && air == "never", "air_never")
	add(t.Air && air == "against" && !a.Place.Outdoors() && a.Coil.PlugIn && a.Place.Occupied, "air_way_out")
	plugIn := a.Rules.Answer("plug_in_chemistry")
	layered := a.Coil.Construction == Rolled || a.Coil.Slabs > 1
	chemistry := a.Coil.PlugIn && t.takes(Aerosol)
	add(chemistry && plugIn == "never", "plug_in_dry")
	add(chemistry && plugIn == "layered_aerosol" && (!layered || a.Place.NearFood), "plug_in_layered")
	slabs := a.Rules.Answer("slabs")
	core := soil.GradeOf(soil.Share(a.state.Core))
	add(t.ManySlabs && slabs == "leave", "slabs_left")
	add(t.ManySlabs && slabs == "by_core" && core < soil.Coat, "core_clean")
	place := a.Rules.Answer("in_place")
	add(t.Elsewhere && place == "in_place", "stays_in_place")
	add(t.Elsewhere && place == "by_place" && !a.Place.NearFood && !layered && core < soil.Coat, "no_need_out")
	add(a.Work == LightWork && t.Opened && a.Rules.Answer("panels") == "deep", "light_closed")
	add(t.wet() && t.Hose && !t.Elsewhere && t.Direction == soil.Against && a.Rules.Answer("direction") == "outside", "outside_only")
	add(a.leave && t.wet() && a.Found.Grade > soil.Bare, "coating_left")
	return out
}

// pair offers a method with each cleaner it takes, and lists those it may not be used with.
func (a *adviser) pair(m soil.Method, over []string, banned map[string]bool, out *Advice) {
	t := TechniqueOf(m.Code)
	if !t.wet() {
		out.Options = append(out.Options, a.option(m, t, nil, over))
		return
	}
	for i := range a.Cleaners {
		c := &a.Cleaners[i]
		if banned[c.Code] {
			continue
		}
		var code string
		switch {
		case t.Head && c.Form == ReadyToUse:
			code = "mixing_head"
		case !t.takes(c.Form):
			continue // not what the method works with: nothing to say
		default:
			code = a.placeBan(*c, t)
		}
		if code != "" {
			b, _ := BanByCode(code)
			out.RuledOut = append(out.RuledOut, RuledOut{Method: m.Code, MethodName: m.Name, Cleaner: c.Code, CleanerName: c.Name, Ban: b})
			continue
		}
		out.Options = append(out.Options, a.option(m, t, c, over))
	}
}

// parts of water for a concentrate by the organisation's school of strength.
func (a *adviser) parts(c *Cleaner) *float64 {
	if c == nil || c.Form != Concentrate || c.PartsTo <= 0 {
		return nil
	}
	p := c.PartsTo
	switch a.Rules.Answer("strength") {
	case "fixed":
		p = (c.PartsFrom + c.PartsTo) / 2
	case "by_soil":
		p = c.PartsTo - (c.PartsTo-c.PartsFrom)*float64(a.Found.Grade)/float64(soil.Blocked)
	}
	p = math.Round(p*2) / 2
	return &p
}

func (a *adviser) option(m soil.Method, t Technique, c *Cleaner, over []string) Option {
	o := Option{
		Method: m.Code, MethodName: m.Name, Direction: t.Direction, Protection: []string{}, Kit: append([]string{}, t.Kit...), Notes: []string{},
		Overridden: over,
	}
	removal := m.Removal(a.kind.Family, t.Direction)
	short := 0
	if c != nil {
		o.Cleaner, o.CleanerName = c.Code, c.Name
		o.DwellMinS, o.DwellMaxS = c.DwellMinS, c.DwellMaxS
		short = max(0, int(a.need-c.Duty))
		f := math.Max(0, 1-weaker*float64(short))
		removal.Face, removal.Core = removal.Face*f, removal.Core*f
		a.amounts(&o, t, c)
		a.protect(&o, c)
	}
	after := a.state.Clean(removal)
	o.LeftShare = soil.Share(after.Total())
	o.LeftGrade = soil.GradeOf(o.LeftShare)
	o.Enough = o.LeftShare <= a.aim
	if short > 0 {
		o.Notes = append(o.Notes, "cleaner_light")
	}
	o.Minutes = math.Ceil(t.Minutes*a.Coil.DeepMinutes + t.ExtraMinutes + float64(c.dwell())/60)
	o.Cost = o.Minutes/60*a.Prices.LabourHour + (o.RinseL+o.MixL)/1000*a.Prices.WaterM3
	if c != nil && c.PackL > 0 {
		o.Cost += o.CleanerL / c.PackL * c.PackPrice
	}
	a.notes(&o, t, c)
	o.Reasons = []reason.Reason{
		{Code: reason.Removal, Numbers: reason.Numbers{"face": removal.Face, "core": removal.Core, "found": soil.Share(a.state.Total()), "left": o.LeftShare}, Evidence: reason.Assumption},
		{Code: reason.Time, Numbers: reason.Numbers{"share": t.Minutes, "class": a.Coil.DeepMinutes, "extra": t.ExtraMinutes}, Evidence: reason.Assumption},
	}
	return o
}

func (c *Cleaner) dwell() int {
	if c == nil {
		return 0
	}
	return c.DwellMinS
}

func (a *adviser) amounts(o *Option, t Technique, c *Cleaner) {
	slabs := float64(a.Coil.Slabs)
	o.RinseL = math.Round(t.RinseL * a.face * slabs)
	if c.Form == Plain {
		o.WasteL = o.RinseL
		return
	}
	o.MixL = MixFor(a.face, a.Coil.Slabs, a.Found.Grade, a.Coil.DoseFactor)
	o.CleanerL = o.MixL
	if p := a.parts(c); p != nil {
		o.WaterParts = p
		o.CleanerL = o.MixL / (1 + *p)
	}
	rinsed := c.Rinse
	switch a.Rules.Answer("no_rinse") {
	case "always":
		rinsed = true
	case "by_label":
		rinsed = rinsed || a.Found.Grade >= soil.Felt
	}
	if !rinsed {
		o.RinseL = 0
		o.Notes = append(o.Notes, "not_rinsed")
	}
	o.WasteL = o.RinseL + o.MixL
}

func (a *adviser) protect(o *Option, c *Cleaner) {
	if c.Protection != "" {
		o.Protection = append(o.Protection, c.Protection)
	}
	if a.Rules.Answer("gloves") == "always" && c.Protection == "" {
		o.Protection = append(o.Protection, "gloves, eyes")
	}
}

// notes says what belongs to the way: containment, disposal, consent, people.
func (a *adviser) notes(o *Option, t Technique, c *Cleaner) {
	note := func(when bool, code string) {
		if when {
			o.Notes = append(o.Notes, code)
		}
	}
	outdoors := a.Place.Outdoors()
	switch {
	case !t.wet():
		o.Contain, o.Dispose = "sheet", "dry_waste"
	case t.Elsewhere:
		o.Contain, o.Dispose = "out", "run_off"
	case outdoors && a.Place.Drain:
		o.Contain, o.Dispose = "run_off", "run_off"
	case outdoors:
		o.Contain, o.Dispose = "trough", "caught"
	case t.IndoorsOnly:
		o.Contain, o.Dispose = "bag", "caught"
	default:
		o.Contain, o.Dispose = "bucket", "caught"
	}
	if o.Dispose == "caught" && o.WasteL > 0 {
		o.Buckets = int(math.Ceil(o.WasteL / bucketL))
	}
	if c != nil && c.StrongAlkaline() {
		o.Dispose = "caught"
	}
	note(!outdoors && a.Rules.Answer("gloves") != "by_cleaner", "mask")
	note(!t.wet() && !outdoors, "dust_mask")
	note(t.ManySlabs, "slab_consent")
	note(t.Elsewhere, "two_people")
	note(t.wet() && outdoors && a.Place.LowC == nil, "check_frost")
	note(a.Coil.Flammable, "flammable")
	note(c != nil && c.Flammable, "aerosol_air")
	note(a.Place.NearFood, "clear_food")
	note(a.Place.Occupied, "tell_people")
	note(c != nil && c.StrongAlkaline(), "rinse_long")
	note(a.Coil.PlugIn && t.takes(Aerosol), "catch_drips")
	if a.Found.Grade >= soil.Blanket && t.wet() {
		note(true, "dry_first")
	}
}

func (a *adviser) rank(options []Option) {
	duty := map[string]Duty{}
	for _, c := range a.Cleaners {
		duty[c.Code] = c.Duty
	}
	mildest := a.Rules.Answer("strength") != "fixed"
	sort.SliceStable(options, func(i, k int) bool {
		x, y := options[i], options[k]
		switch {
		case x.Enough != y.Enough:
			return x.Enough
		case !x.Enough && math.Abs(x.LeftShare-y.LeftShare) > 1e-9:
			return x.LeftShare < y.LeftShare
		case x.Enough && mildest && duty[x.Cleaner] != duty[y.Cleaner]:
			return duty[x.Cleaner] < duty[y.Cleaner]
		case math.Abs(x.Cost-y.Cost) > 1e-9:
			return x.Cost < y.Cost
		case x.Minutes != y.Minutes:
			return x.Minutes < y.Minutes
		}
		return x.LeftShare < y.LeftShare
	})
}

// StandardCleaners are the classes of cleaner (dwell and uses: common practice, no source; pH, duty and mix:
// assumption; a product's data sheet comes first).
var StandardCleaners = []Cleaner{
	{Code: "water", Name: "Water", Form: Plain, PH: 7, Microchannel: true, Indoors: true, NearFood: true, Caution: "Keep it off electrics; catch the rinse."},
	{Code: "mild_detergent", Name: "Mild detergent", Form: Concentrate, PH: 8, Duty: LightDuty, PartsFrom: 20, PartsTo: 60, DwellMinS: 180, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, NearFood: true, Protection: glovesEyes, Caution: sheetFirst},
	{Code: "indoor_neutral", Name: "Indoor neutral, no rinse", Form: ReadyToUse, PH: 7, Duty: LightDuty, DwellMinS: 300, DwellMaxS: 600, Microchannel: true, Indoors: true, Protection: glovesEyes, Caution: "Use undiluted; never through a mixing head. " + sheetFirst},
	{Code: "foaming_disinfecting", Name: "Foaming, disinfecting", Form: ReadyToUse, PH: 8, Duty: LightDuty, DwellMinS: 60, DwellMaxS: 120, Rinse: true, Microchannel: true, Indoors: true, Protection: glovesEyes, Caution: "Keep off food and glasses. " + sheetFirst},
	{Code: "medium_universal", Name: "Medium universal", Form: Concentrate, PH: 10.5, Duty: MediumDuty, PartsFrom: 3, PartsTo: 10, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Protection: glovesEyes, Caution: sheetFirst},
	{Code: "heavy_alkaline", Name: "Heavy-duty alkaline, outdoor", Form: Concentrate, PH: 12.5, Duty: HeavyDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Protection: burnsGear, Caution: alkaline},
	{Code: "extra_heavy_alkaline", Name: "Extra-heavy alkaline, outdoor", Form: Concentrate, PH: 13.5, Duty: ExtraDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 300, DwellMaxS: 900, Rinse: true, Protection: burnsGear, Caution: alkaline},
	{Code: "non_acid", Name: "Non-acid solution", Form: Concentrate, PH: 10, Duty: MediumDuty, PartsFrom: 4, PartsTo: 10, DwellMinS: 180, DwellMaxS: 300, Rinse: true, Microchannel: true, Protection: glovesEyes, Caution: sheetFirst},
	{Code: "solvent_aerosol", Name: "Solvent aerosol", Form: Aerosol, Duty: MediumDuty, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, Flammable: true, Protection: glovesEyes, Caution: aerosolRule},
	{Code: "foaming_aerosol", Name: "Foaming aerosol", Form: Aerosol, PH: 9, Duty: LightDuty, DwellMinS: 300, DwellMaxS: 600, Rinse: true, Microchannel: true, Indoors: true, Flammable: true, Protection: glovesEyes, Caution: aerosolRule},
}

const (
	sheetFirst  = "Follow its data sheet."
	alkaline    = "Outdoor tube-and-fin coils only, never microchannel, never indoors. Burns: gloves, eyes, rinse skin at once. " + sheetFirst
	glovesEyes  = "gloves, eyes"
	burnsGear   = "chemical gloves, goggles, apron"
	aerosolRule = "No ignition source; ventilate. " + sheetFirst
)
