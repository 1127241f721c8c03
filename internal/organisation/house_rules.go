package organisation

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// houseTable is one catalogue of the house rules screen.
type houseTable interface {
	// named gives its key and whether a change bears on soil, clocks or proposals.
	named() (key string, moves bool)
	view(t store.Tenant) (contract.HouseTable, error)
	// save writes a row's values; nil values put the default back.
	save(s *Service, t store.Tenant, a Actor, id uuid.UUID, version int, values map[string]any) (contract.HouseRow, error)
}

// rulesColumn is one editable field: at gives a pointer to it in a row.
type rulesColumn[T any] struct {
	contract.HouseColumn
	at func(*T) any
}

// rulesTable is a catalogue whose rows are of type T.
type rulesTable[T any] struct {
	key, title, note string
	columns          []rulesColumn[T]
	rows             func(store.Tenant) ([]T, error)
	// about gives the row's id, code, name and founding.
	about    func(*T) (uuid.UUID, string, string, *store.Founded)
	defaults func() []T
	write    func(store.Tenant, *T, int) error
	// check looks at the row as a whole.
	check func(*T, *invalid.Error)
	// moves is true where a change bears on soil, clocks or proposals.
	moves bool
}

func column(key, label, kind, unit string, lo, hi float64) contract.HouseColumn {
	c := contract.HouseColumn{Key: key, Label: label, Kind: contract.HouseColumnKind(kind), Unit: unit, Choices: []string{}}
	if hi > lo {
		c.Min, c.Max = &lo, &hi
	}
	return c
}

func choiceColumn(key, label string, of ...string) contract.HouseColumn {
	return contract.HouseColumn{Key: key, Label: label, Kind: "choice", Choices: of}
}

// read gives a field's value for the screen.
func read(p any) any {
	switch x := p.(type) {
	case *float64:
		return *x
	case **float64:
		if *x == nil {
			return nil
		}
		return **x
	case *int:
		return *x
	case **int:
		if *x == nil {
			return nil
		}
		return **x
	case *string:
		return *x
	case *bool:
		return *x
	case *store.Array[float64]:
		if *x == nil {
			return nil
		}
		return []float64(*x)
	}
	return nil
}

// put checks a value of the screen against its column and writes it into the field; the reason when it does not fit.
func put(c contract.HouseColumn, p, v any) string {
	number := func() (float64, string) {
		n, ok := v.(float64)
		switch {
		case !ok:
			return 0, "must be a number"
		case c.Kind == "integer" && n != math.Trunc(n):
			return 0, "must be a whole number"
		case c.Max != nil && !(n >= *c.Min && n <= *c.Max):
			return 0, strings.TrimSpace(fmt.Sprintf("must be between %g and %g %s", *c.Min, *c.Max, c.Unit))
		}
		return n, ""
	}
	switch x := p.(type) {
	case *float64:
		n, why := number()
		if why == "" {
			*x = n
		}
		return why
	case **float64:
		if v == nil {
			*x = nil
			return ""
		}
		n, why := number()
		if why == "" {
			*x = &n
		}
		return why
	case *int:
		n, why := number()
		if why == "" {
			*x = int(n)
		}
		return why
	case **int:
		if v == nil {
			*x = nil
			return ""
		}
		n, why := number()
		if why == "" {
			*x = new(int(n))
		}
		return why
	case *string:
		text, ok := v.(string)
		if !ok || len(text) > 600 {
			return "must be a text of at most 600 characters"
		}
		if c.Kind == "choice" && !contains(c.Choices, text) {
			return "must be one of " + strings.Join(c.Choices, ", ")
		}
		if *x = strings.TrimSpace(text); *x == "" && c.Key == "name" {
			return "is empty"
		}
	case *bool:
		b, ok := v.(bool)
		if !ok {
			return "must be yes or no"
		}
		*x = b
	case *store.Array[float64]:
		return putMonths(x, v)
	}
	return ""
}

func contains(list []string, text string) bool {
	for _, x := range list {
		if x == text {
			return true
		}
	}
	return false
}

// putMonths takes twelve weights and brings their mean to 1.
func putMonths(into *store.Array[float64], v any) string {
	if v == nil {
		*into = nil
		return ""
	}
	list, ok := v.([]any)
	if !ok || len(list) != 12 {
		return "must be twelve numbers, one for each month"
	}
	var months soil.MonthWeights
	sum := 0.0
	for i, x := range list {
		n, ok := x.(float64)
		if !ok || n < 0 || n > 100 {
			return "must be twelve numbers of 0 or more"
		}
		months[i] = n
		sum += n
	}
	if sum == 0 {
		return "at least one month must count"
	}
	*into = make(store.Array[float64], 12)
	for i := range months {
		(*into)[i] = months[i] * 12 / sum
	}
	return ""
}

func (h rulesTable[T]) values(row *T) contract.HouseValues {
	out := contract.HouseValues{}
	for _, c := range h.columns {
		out[c.Key] = read(c.at(row))
	}
	return out
}

func (h rulesTable[T]) row(row *T, standard map[string]*T) contract.HouseRow {
	id, code, name, f := h.about(row)
	out := contract.HouseRow{
		ID: id, Name: name, Version: f.Version, Values: h.values(row), Changed: []string{}, Evidence: contract.Evidence(f.Evidence),
		Source: f.Source, FromMemory: f.FromMemory,
	}
	if d, ok := standard[code]; ok {
		were := h.values(d)
		out.Defaults = &were
		for _, c := range h.columns {
			if HashOf(out.Values[c.Key]) != HashOf(were[c.Key]) {
				out.Changed = append(out.Changed, c.Key)
			}
		}
	}
	out.Restorable = len(out.Changed) > 0
	return out
}

func (h rulesTable[T]) standard() map[string]*T {
	out := map[string]*T{}
	rows := h.defaults()
	for i := range rows {
		_, code, _, _ := h.about(&rows[i])
		out[code] = &rows[i]
	}
	return out
}

func (h rulesTable[T]) view(t store.Tenant) (contract.HouseTable, error) {
	out := contract.HouseTable{Key: h.key, Title: h.title, Note: h.note, Columns: []contract.HouseColumn{}, Rows: []contract.HouseRow{}}
	for _, c := range h.columns {
		out.Columns = append(out.Columns, c.HouseColumn)
	}
	rows, err := h.rows(t)
	standard := h.standard()
	for i := range rows {
		out.Rows = append(out.Rows, h.row(&rows[i], standard))
	}
	return out, err
}

func (h rulesTable[T]) save(s *Service, t store.Tenant, a Actor, id uuid.UUID, version int, values map[string]any) (contract.HouseRow, error) {
	rows, err := h.rows(t)
	if err != nil {
		return contract.HouseRow{}, err
	}
	standard := h.standard()
	for i := range rows {
		row := &rows[i]
		key, code, _, f := h.about(row)
		if key != id {
			continue
		}
		before := h.values(row)
		action := "changed"
		if values == nil {
			d, ok := standard[code]
			if !ok {
				return contract.HouseRow{}, Conflict{Reason: "this row is your own; it has no default"}
			}
			action, version = "default put back", f.Version
			for _, c := range h.columns {
				copyField(c.at(row), c.at(d))
			}
		} else if f.Version != version {
			return contract.HouseRow{}, Stale{Current: h.row(row, standard)}
		} else if err := h.take(row, values); err != nil {
			return contract.HouseRow{}, err
		}
		f.Version++
		if err := h.write(t, row, version); err != nil {
			return contract.HouseRow{}, err
		}
		return h.row(row, standard), RecordChange(t, s.Stamp(), a, "rule", id, h.key+": "+action, before, h.values(row))
	}
	return contract.HouseRow{}, ErrNotFound
}

// take writes the values into a row and lists what does not fit.
func (h rulesTable[T]) take(row *T, values map[string]any) error {
	var bad invalid.Error
	known := map[string]bool{}
	for _, c := range h.columns {
		known[c.Key] = true
		v, given := values[c.Key]
		if !given {
			continue
		}
		if why := put(c.HouseColumn, c.at(row), v); why != "" {
			bad.Addf("/values/"+c.Key, "%s", why)
		}
	}
	for key := range values {
		if !known[key] {
			bad.Addf("/values/"+key, "is not a field of this table")
		}
	}
	if h.check != nil && len(bad) == 0 {
		h.check(row, &bad)
	}
	return bad.Err()
}

func copyField(into, from any) {
	switch x := into.(type) {
	case *float64:
		*x = *from.(*float64)
	case **float64:
		*x = *from.(**float64)
	case *int:
		*x = *from.(*int)
	case **int:
		*x = *from.(**int)
	case *string:
		*x = *from.(*string)
	case *bool:
		*x = *from.(*bool)
	case *store.Array[float64]:
		*x = *from.(*store.Array[float64])
	}
}

// methodWithRemoval is a method with what it takes away.
type methodWithRemoval struct {
	store.Method
	dust, grease store.MethodRemoval
}

func all[T any](t store.Tenant) ([]T, error) { return store.All[T](t, "position") }

var days1 = func(key, label string, max float64) contract.HouseColumn {
	return column(key, label, "integer", "d", 1, max)
}

// houseTables are the catalogues in the order of the screen.
var houseTables = []houseTable{
	rulesTable[store.HouseRule]{
		key: "limits", title: "Limits", note: "The blocked share that is allowed, the risk with which it may be passed before the next clean, and on how many of all days; 1 is no bound.", moves: true,
		columns: []rulesColumn[store.HouseRule]{
			{column("share", "Share", "number", "share", .01, 1), func(r *store.HouseRule) any { return &r.Share }},
			{column("reason", "Why", "text", "", 0, 0), func(r *store.HouseRule) any { return &r.Reason }},
		},
		rows: limitRules,
		about: func(r *store.HouseRule) (uuid.UUID, string, string, *store.Founded) {
			name := map[string]string{
				limitQuestion: "House limit, blocked share allowed", riskQuestion: "Risk of passing it", overQuestion: "Days over it, at most",
			}[r.Question]
			return r.ID, r.Question, name, &r.Founded
		},
		defaults: func() []store.HouseRule {
			return []store.HouseRule{
				{Question: limitQuestion, Share: defaults.LimitShare, Reason: defaults.LimitReason},
				{Question: riskQuestion, Share: defaults.RiskShare, Reason: defaults.RiskReason},
				{Question: overQuestion, Share: defaults.OverShare, Reason: defaults.OverReason},
			}
		},
		check: func(r *store.HouseRule, bad *invalid.Error) {
			if r.Question != overQuestion && (r.Share < .05 || r.Share > .9) {
				bad.Addf("/values/share", "must be between 0.05 and 0.9 share")
			}
		},
		write: func(t store.Tenant, r *store.HouseRule, read int) error {
			r.Choice, r.Revision = store.ToJSON(r.Share), r.Founded.Version
			return t.SaveHouseRule(*r, read)
		},
	},
	rulesTable[store.EquipmentClass]{
		key: "classes", title: "Equipment classes", note: "Start rate, intervals and time on site of each class.", moves: true,
		columns: []rulesColumn[store.EquipmentClass]{
			{column("name", "Name", "text", "", 0, 0), func(r *store.EquipmentClass) any { return &r.Name }},
			{column("reference_days", "30 % blocked after, if never cleaned", "number", "d", 5, 3650), func(r *store.EquipmentClass) any { return &r.ReferenceDays }},
			{column("reference_fan_share", "Share of the day air moves", "number", "share", .01, 1), func(r *store.EquipmentClass) any { return &r.ReferenceFanShare }},
			{days1("light_days", "Light clean every", 3650), func(r *store.EquipmentClass) any { return &r.LightDays }},
			{days1("deep_days", "Deep clean every", 3650), func(r *store.EquipmentClass) any { return &r.DeepDays }},
			{days1("max_days", "Never longer than", 3650), func(r *store.EquipmentClass) any { return &r.MaxDays }},
			{column("light_minutes", "Light clean takes", "integer", "min", 1, 1440), func(r *store.EquipmentClass) any { return &r.LightMinutes }},
			{column("deep_minutes", "Deep clean takes", "integer", "min", 1, 1440), func(r *store.EquipmentClass) any { return &r.DeepMinutes }},
			{column("energy_kwh_day", "A clean unit uses", "number", "kWh/d", 0, 1e5), func(r *store.EquipmentClass) any { return &r.EnergyKwhDay }},
			{column("replace_cost", "A new unit, put in", "number", "money", 1, 1e8), func(r *store.EquipmentClass) any { return &r.ReplaceCost }},
			{column("filter_share", "Its filter holds back", "number", "share", 0, 1), func(r *store.EquipmentClass) any { return &r.FilterShare }},
			{column("bypass_share", "Air past the filter", "number", "share", 0, 1), func(r *store.EquipmentClass) any { return &r.BypassShare }},
			{column("over_price", "A day over the limit", "number", "money", 0, 1e6), func(r *store.EquipmentClass) any { return &r.OverPrice }},
			{choiceColumn("load", "Works", string(heat.EvenLoad), string(heat.CoolingLoad), string(heat.HeatingLoad), string(heat.BothLoad)), func(r *store.EquipmentClass) any { return &r.Load }},
			{column("anchor_month", "Deep clean best in month, 0 none", "integer", "", 0, 12), func(r *store.EquipmentClass) any { return &r.AnchorMonth }},
			{choiceColumn("usual_soil", "Usual soil", soilCodes()...), func(r *store.EquipmentClass) any { return &r.UsualSoil }},
			{column("people", "People for a deep clean", "integer", "", 1, 6), func(r *store.EquipmentClass) any { return &r.People }},
			{column("plug_in", "Plug-in, compressor beside the coil", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.PlugIn }},
			{column("holds_goods", "Goods warm while it is off", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.HoldsGoods }},
			{column("pan", "Water stands under the coil", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.Pan }},
			{column("movable", "Can be carried out", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.Movable }},
			{column("base_trough", "Debris gathers in its base", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.BaseTrough }},
			{column("wheel", "Blower wheel behind the coil", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.Wheel }},
			{column("opens_electrics", "A deep clean opens electrical covers", "flag", "", 0, 0), func(r *store.EquipmentClass) any { return &r.OpensElectrics }},
			{choiceColumn("usual_light", "Usual light clean", methodCodes()...), func(r *store.EquipmentClass) any { return &r.UsualLight }},
			{choiceColumn("usual_light_outdoors", "Usual light clean outdoors", methodCodes()...), func(r *store.EquipmentClass) any { return &r.UsualLightOutdoors }},
			{choiceColumn("usual_deep", "Usual deep clean", methodCodes()...), func(r *store.EquipmentClass) any { return &r.UsualDeep }},
			{choiceColumn("usual_deep_air", "Usual deep clean of an evaporator", methodCodes()...), func(r *store.EquipmentClass) any { return &r.UsualDeepAir }},
		},
		rows: all[store.EquipmentClass],
		about: func(r *store.EquipmentClass) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []store.EquipmentClass {
			rows, _, _, _ := defaultClasses(uuid.Nil)
			return rows
		},
		write: func(t store.Tenant, r *store.EquipmentClass, read int) error {
			return store.SaveVersion(t, r.ID, read, r)
		},
		check: func(r *store.EquipmentClass, bad *invalid.Error) {
			if r.MaxDays < r.DeepDays {
				bad.Addf("/values/max_days", "must not be shorter than the deep clean's %d d", r.DeepDays)
			}
			if r.LightDays != nil && *r.LightDays >= r.DeepDays {
				bad.Addf("/values/light_days", "must be shorter than the deep clean's %d d", r.DeepDays)
			}
		},
	},
	rulesTable[store.FactorDef]{
		key: "factors", title: "Site factors", note: "What makes coils soil faster, and by how much.", moves: true,
		columns: []rulesColumn[store.FactorDef]{
			{column("name", "Name", "text", "", 0, 0), func(r *store.FactorDef) any { return &r.Name }},
			{column("multiplier", "Times as fast", "number", "×", .1, 8), func(r *store.FactorDef) any { return &r.Multiplier }},
			{column("month_weights", "Months, January first (none: the soil's own)", "months", "", 0, 0), func(r *store.FactorDef) any { return &r.MonthWeights }},
		},
		rows: all[store.FactorDef],
		about: func(r *store.FactorDef) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []store.FactorDef {
			return defaultFactors(uuid.Nil)
		},
		write: func(t store.Tenant, r *store.FactorDef, read int) error { return store.SaveVersion(t, r.ID, read, r) },
	},
	rulesTable[store.SoilKind]{
		key: "soils", title: "Soils", note: "How much of a soil goes into the core, and in which months it comes.", moves: true,
		columns: []rulesColumn[store.SoilKind]{
			{column("name", "Name", "text", "", 0, 0), func(r *store.SoilKind) any { return &r.Name }},
			{choiceColumn("family", "Behaves like", "dust_like", "grease_like", "mixed"), func(r *store.SoilKind) any { return &r.Family }},
			{column("penetration", "Goes into the core", "number", "share", 0, 1), func(r *store.SoilKind) any { return &r.Penetration }},
			{column("month_weights", "Months, January first", "months", "", 0, 0), func(r *store.SoilKind) any { return &r.MonthWeights }},
		},
		rows: all[store.SoilKind],
		about: func(r *store.SoilKind) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []store.SoilKind {
			return defaultSoils(uuid.Nil)
		},
		write: func(t store.Tenant, r *store.SoilKind, read int) error { return store.SaveVersion(t, r.ID, read, r) },
		check: func(r *store.SoilKind, bad *invalid.Error) {
			if r.MonthWeights == nil {
				bad.Addf("/values/month_weights", "are needed")
			}
		},
	},
	rulesTable[methodWithRemoval]{
		key: "methods", title: "Methods and what they take away", note: "Share of the face and of the core soil that a clean removes.", moves: true,
		columns: []rulesColumn[methodWithRemoval]{
			{column("name", "Name", "text", "", 0, 0), func(r *methodWithRemoval) any { return &r.Name }},
			{column("dust_face", "Dust-like, face", "number", "share", 0, 1), func(r *methodWithRemoval) any { return &r.dust.FaceShare }},
			{column("dust_core", "Dust-like, core", "number", "share", 0, 1), func(r *methodWithRemoval) any { return &r.dust.CoreShare }},
			{column("grease_face", "Grease-like, face", "number", "share", 0, 1), func(r *methodWithRemoval) any { return &r.grease.FaceShare }},
			{column("grease_core", "Grease-like, core", "number", "share", 0, 1), func(r *methodWithRemoval) any { return &r.grease.CoreShare }},
		},
		rows: methodsWithRemoval,
		about: func(r *methodWithRemoval) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []methodWithRemoval {
			methods, removals := defaultMethods(uuid.Nil)
			return withRemoval(methods, removals)
		},
		write: func(t store.Tenant, r *methodWithRemoval, read int) error {
			if err := store.SaveVersion(t, r.ID, read, &r.Method); err != nil {
				return err
			}
			if err := t.SaveRemoval(r.dust); err != nil {
				return err
			}
			return t.SaveRemoval(r.grease)
		},
	},
	rulesTable[store.Cleaner]{
		key: "cleaners", title: "Cleaners", note: "Classes of cleaner. The data sheet of what you really buy comes first; put its figures here.", moves: true,
		columns: []rulesColumn[store.Cleaner]{
			{column("name", "Name", "text", "", 0, 0), func(r *store.Cleaner) any { return &r.Name }},
			{choiceColumn("form", "Form", "none", "concentrate", "ready_to_use", "aerosol"), func(r *store.Cleaner) any { return &r.Form }},
			{column("ph", "pH", "number", "", 0, 14), func(r *store.Cleaner) any { return &r.Ph }},
			{column("duty", "Duty: 0 water, 1 light, 2 medium, 3 heavy, 4 extra heavy", "integer", "", 0, 4), func(r *store.Cleaner) any { return &r.Duty }},
			{column("flammable", "Flammable", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Flammable }},
			{column("foams", "Foams on the coil", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Foams }},
			{column("disinfects", "Disinfects", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Disinfects }},
			{column("water_parts_from", "Water to one part, from", "number", "parts", 0, 1000), func(r *store.Cleaner) any { return &r.WaterPartsFrom }},
			{column("water_parts_to", "Water to one part, to", "number", "parts", 0, 1000), func(r *store.Cleaner) any { return &r.WaterPartsTo }},
			{column("dwell_min_s", "Stands at least", "integer", "s", 0, 7200), func(r *store.Cleaner) any { return &r.DwellMinS }},
			{column("dwell_max_s", "Stands at most", "integer", "s", 0, 7200), func(r *store.Cleaner) any { return &r.DwellMaxS }},
			{column("pack_l", "Pack", "number", "L", .01, 1000), func(r *store.Cleaner) any { return &r.PackL }},
			{column("pack_price", "Price of a pack", "number", "money", 0, 100000), func(r *store.Cleaner) any { return &r.PackPrice }},
			{column("rinse", "Must be rinsed", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Rinse }},
			{column("microchannel", "May touch microchannel", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Microchannel }},
			{column("indoors", "May be used indoors", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.Indoors }},
			{column("near_food", "May be used near food", "flag", "", 0, 0), func(r *store.Cleaner) any { return &r.NearFood }},
			{column("protection", "Protective equipment", "text", "", 0, 0), func(r *store.Cleaner) any { return &r.Protection }},
			{column("caution", "Caution", "text", "", 0, 0), func(r *store.Cleaner) any { return &r.Caution }},
		},
		rows: all[store.Cleaner],
		about: func(r *store.Cleaner) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []store.Cleaner {
			return defaultCleaners(uuid.Nil)
		},
		write: func(t store.Tenant, r *store.Cleaner, read int) error { return store.SaveVersion(t, r.ID, read, r) },
		check: checkCleanerRow,
	},
	rulesTable[store.SprayerSetting]{
		key: "sprayers", title: "Sprayers", note: "What a setting mixes. The same letter is another strength on another sprayer: put your own here.",
		columns: []rulesColumn[store.SprayerSetting]{
			{column("sprayer", "Sprayer", "text", "", 0, 0), func(r *store.SprayerSetting) any { return &r.Sprayer }},
			{column("name", "Setting", "text", "", 0, 0), func(r *store.SprayerSetting) any { return &r.Name }},
			{column("water_parts", "Water to one part of cleaner", "number", "parts", 0, 1000), func(r *store.SprayerSetting) any { return &r.WaterParts }},
			{column("tank_l", "Holds", "number", "L", .1, 1000), func(r *store.SprayerSetting) any { return &r.TankL }},
		},
		rows: all[store.SprayerSetting],
		about: func(r *store.SprayerSetting) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Sprayer + " " + r.Name, &r.Founded
		},
		defaults: func() []store.SprayerSetting { return defaultSprayers(uuid.Nil) },
		write: func(t store.Tenant, r *store.SprayerSetting, read int) error {
			return store.SaveVersion(t, r.ID, read, r)
		},
	},
	rulesTable[store.Rate]{
		key: ratesTable, title: "Rates", note: "Prices in the organisation's currency: they cost the advice, the soil and the intervals. What a day over the limit is worth may differ by class and site.", moves: true,
		columns: []rulesColumn[store.Rate]{
			{column("amount", "Amount", "number", "", 0, 1e6), func(r *store.Rate) any { return &r.Amount }},
			{column("unit", "Per", "text", "", 0, 0), func(r *store.Rate) any { return &r.Unit }},
		},
		rows: all[store.Rate],
		about: func(r *store.Rate) (uuid.UUID, string, string, *store.Founded) {
			return r.ID, r.Code, r.Name, &r.Founded
		},
		defaults: func() []store.Rate {
			return defaultRates(uuid.Nil)
		},
		write: func(t store.Tenant, r *store.Rate, read int) error { return store.SaveVersion(t, r.ID, read, r) },
	},
}

func checkCleanerRow(r *store.Cleaner, bad *invalid.Error) {
	if (r.WaterPartsFrom == nil) != (r.WaterPartsTo == nil) || (r.WaterPartsFrom != nil && *r.WaterPartsTo < *r.WaterPartsFrom) {
		bad.Addf("/values/water_parts_to", "both ends belong together, the smaller first")
	}
	if (r.DwellMinS == nil) != (r.DwellMaxS == nil) || (r.DwellMinS != nil && *r.DwellMaxS < *r.DwellMinS) {
		bad.Addf("/values/dwell_max_s", "both ends belong together, the shorter first")
	}
	if r.Ph == nil {
		return
	}
	if *r.Ph < method.AcidBelow {
		bad.Addf("/values/ph", "acid is not used on coils")
	}
	if *r.Ph >= method.CorrosiveFrom && (r.Microchannel || r.Indoors || r.NearFood) {
		bad.Addf("/values/ph", "at pH %g and above it is corrosive: not on microchannel, not indoors, not near food", method.CorrosiveFrom)
	}
}

func methodCodes() []string {
	codes := make([]string, len(soil.Methods))
	for i, m := range soil.Methods {
		codes[i] = m.Code
	}
	return codes
}

func soilCodes() []string {
	out := make([]string, len(soil.Kinds))
	for i, k := range soil.Kinds {
		out[i] = k.Code
	}
	return out
}

func limitRules(t store.Tenant) ([]store.HouseRule, error) {
	rows, err := store.All[store.HouseRule](t, "question")
	var out []store.HouseRule
	for _, r := range rows {
		if !slices.Contains(limitQuestions, r.Question) || r.Valid.To != nil {
			continue
		}
		if err := r.Choice.Into(&r.Share); err != nil {
			return nil, err
		}
		r.Founded = founded(assumption, defaults.Assumed)
		r.Founded.Version = r.Revision
		out = append(out, r)
	}
	return out, err
}

func methodsWithRemoval(t store.Tenant) ([]methodWithRemoval, error) {
	methods, err := all[store.Method](t)
	if err != nil {
		return nil, err
	}
	removals, err := store.All[store.MethodRemoval](t, "method_id, family")
	return withRemoval(methods, removals), err
}

func withRemoval(methods []store.Method, removals []store.MethodRemoval) []methodWithRemoval {
	out := make([]methodWithRemoval, len(methods))
	for i, m := range methods {
		out[i].Method = m
		for _, r := range removals {
			switch {
			case r.MethodID != m.ID:
			case soil.Family(r.Family) == soil.GreaseLike:
				out[i].grease = r
			default:
				out[i].dust = r
			}
		}
	}
	return out
}

// HouseRules are the catalogues of the organisation, each default with what it rests on.
func (s *Service) HouseRules(ctx context.Context, a Actor) (contract.HouseRules, error) {
	out := contract.HouseRules{Tables: []contract.HouseTable{}}
	for _, h := range houseTables {
		v, err := h.view(s.Tenant(ctx, a))
		if err != nil {
			return out, err
		}
		if a.Role != contract.RoleManager {
			if v.Key == ratesTable {
				continue
			}
			withoutMoney(&v)
		}
		out.Tables = append(out.Tables, v)
	}
	return out, nil
}

// ratesTable is the table of what things cost.
const ratesTable = "rates"

// withoutMoney leaves the columns of prices out: they are for managers.
func withoutMoney(v *contract.HouseTable) {
	v.Columns = slices.DeleteFunc(v.Columns, func(c contract.HouseColumn) bool {
		if c.Unit != "money" {
			return false
		}
		for i := range v.Rows {
			delete(v.Rows[i].Values, c.Key)
			if v.Rows[i].Defaults != nil {
				delete(*v.Rows[i].Defaults, c.Key)
			}
		}
		return true
	})
}

// SaveHouseRule changes a row of the organisation's catalogues; nil values put the default back. What rests on it is recalculated
// in the background.
func (s *Service) SaveHouseRule(ctx context.Context, a Actor, table string, id uuid.UUID, version int, values map[string]any) (contract.HouseRow, error) {
	var out contract.HouseRow
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	for _, h := range houseTables {
		key, moves := h.named()
		if key != table {
			continue
		}
		err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) (err error) {
			if out, err = h.save(s, t, a, id, version, values); err != nil || !moves {
				return err
			}
			return t.AgeCoilLines()
		})
		if err == nil && moves {
			s.catcher.CatchUp()
		}
		return out, err
	}
	return out, ErrNotFound
}

func (h rulesTable[T]) named() (string, bool) { return h.key, h.moves }
