package organisation

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// NewOrganisation names an organisation to be made.
type NewOrganisation struct {
	Name, Zone, Currency, Units string
}

// CreateOrganisation makes an organisation and copies the default catalogues into it.
func (s *Service) CreateOrganisation(ctx context.Context, in NewOrganisation) (store.Organisation, error) {
	org := store.Organisation{
		ID: store.NewID(), Name: in.Name, Zone: in.Zone, Currency: in.Currency, Units: in.Units, CreatedAt: s.Stamp(),
	}
	if err := s.Store.CreateOrganisation(ctx, &org); err != nil {
		return org, fmt.Errorf("making the organisation: %w", err)
	}
	err := s.Store.For(ctx, org.ID).InTransaction(copyCatalogues)
	return org, err
}

// CreateMember adds a person who can sign in.
func (s *Service) CreateMember(ctx context.Context, org store.Organisation, name, login, password string, role contract.Role) (Actor, error) {
	hash, err := HashPassword(password, s.access.Hash)
	if err != nil {
		return Actor{}, err
	}
	m, err := s.Store.CreateMember(ctx, org.ID, name, login, hash, string(role), s.Stamp())
	if err != nil {
		return Actor{}, err
	}
	m.Organisation = org
	return actorOf(m), nil
}

func founded(evidence, source string) store.Founded {
	return store.Founded{Evidence: evidence, Source: source, DefaultVersion: defaults.Version, Version: 1}
}

const (
	commonPractice = "common_practice"
	assumption     = "assumption"
)

// insert is a write of rows that is yet to be made.
func insert[T any](t store.Tenant, rows []T) func() error {
	return func() error { return store.Insert(t, rows...) }
}

// copyCatalogues gives a new organisation the default catalogues.
func copyCatalogues(t store.Tenant) error {
	r := DefaultRows(t.Org)
	for _, write := range []func() error{
		insert(t, r.Classes), insert(t, r.Sides), insert(t, r.Tasks), insert(t, r.Minutes), insert(t, r.Soils), insert(t, r.Factors), insert(t, r.Methods),
		insert(t, r.Removals), insert(t, r.Cleaners), insert(t, r.Sprayers), insert(t, r.Rates), insert(t, r.Rules),
	} {
		if err := write(); err != nil {
			return fmt.Errorf("copying the default catalogues: %w", err)
		}
	}
	return nil
}

// limitQuestion is the house rule for the blocked share that is allowed.
const limitQuestion = "limit_share"

// riskQuestion is the house rule for the risk with which the limit may be passed.
const riskQuestion = "risk_share"

// overQuestion is the house rule for the share of days that a coil may be over the limit.
const overQuestion = "over_share"

// limitQuestions are those that have a share for an answer.
var limitQuestions = []string{limitQuestion, riskQuestion, overQuestion}

func defaultClasses(org uuid.UUID) (classes []store.EquipmentClass, sides []store.ClassSide, tasks []store.ClassTask, minutes []store.ClassMinutes) {
	for i, c := range defaults.Classes {
		row := store.EquipmentClass{
			OrganisationID: org, ID: store.NewID(), Code: c.Code, Name: c.Name, ReferenceDays: c.ReferenceDays,
			ReferenceFanShare: 1, DeepDays: c.DeepDays, MaxDays: c.MaxDays, LightMinutes: c.LightMinutes,
			DeepMinutes: c.DeepMinutes, UsualSoil: c.Soil, EnergyKwhDay: c.EnergyKwhDay, ReplaceCost: c.ReplaceCost, FilterShare: c.Filter, BypassShare: c.Bypass, Load: string(cmp.Or(c.Load, heat.EvenLoad)), People: c.People,
			PlugIn: c.Traits.PlugIn, HoldsGoods: c.Traits.HoldsGoods, Pan: c.Traits.Pan, Movable: c.Traits.Movable, BaseTrough: c.Traits.BaseTrough,
			Wheel: c.Traits.Wheel, OpensElectrics: c.Traits.OpensElectrics, UsualLight: c.Usual.Light, UsualLightOutdoors: c.Usual.LightOutdoors,
			UsualDeep: c.Usual.Deep, UsualDeepAir: c.Usual.DeepAir, Position: i, Founded: founded(string(c.Evidence), defaults.NoSource),
		}
		if row.Evidence == assumption {
			row.Source = defaults.Assumed
		}
		if c.LightDays > 0 {
			row.LightDays = new(c.LightDays)
		}
		classes = append(classes, row)
		for j, side := range c.Sides {
			sides = append(sides, store.ClassSide{
				OrganisationID: org, ClassID: row.ID, CoilRole: side.Role, Position: j, Name: side.Name, AreaShare: side.Area,
			})
		}
		for _, x := range c.Companions {
			tasks = append(tasks, store.ClassTask{OrganisationID: org, ClassID: row.ID, Kind: x.Kind, EveryDays: x.Days, Doer: x.Doer})
		}
		for _, kind := range slices.Sorted(maps.Keys(defaults.OtherMinutes)) {
			minutes = append(minutes, store.ClassMinutes{OrganisationID: org, ClassID: row.ID, Kind: kind, Minutes: defaults.OtherMinutes[kind]})
		}
	}
	return classes, sides, tasks, minutes
}

func defaultSoils(org uuid.UUID) (rows []store.SoilKind) {
	for i, k := range soil.Kinds {
		rows = append(rows, store.SoilKind{
			OrganisationID: org, ID: store.NewID(), Code: k.Code, Name: k.Name, Family: string(k.Family),
			Penetration: k.Penetration, MonthWeights: k.Months[:], Position: i, Founded: founded(assumption, defaults.Assumed),
		})
	}
	return rows
}

func defaultFactors(org uuid.UUID) (rows []store.FactorDef) {
	for i, f := range defaults.Factors {
		row := store.FactorDef{
			OrganisationID: org, ID: store.NewID(), Code: f.Code, Name: f.Name, Multiplier: f.Multiplier,
			Position: i, Founded: founded(commonPractice, defaults.NoSource),
		}
		if f.Soil != "" {
			row.SoilCode = new(f.Soil)
		}
		if k, ok := soil.KindByCode(f.Soil); ok && f.Seasonal {
			row.MonthWeights = k.Months[:]
		}
		rows = append(rows, row)
	}
	return rows
}

// defaultMethods are the methods that an organisation begins with, and what each is taken to remove.
func defaultMethods(org uuid.UUID) (rows []store.Method, removals []store.MethodRemoval) {
	for i, m := range soil.Methods {
		row := store.Method{
			OrganisationID: org, ID: store.NewID(), Code: m.Code, Name: m.Name, Driven: m.Driven, Wet: m.Wet,
			Position: i, Founded: founded(assumption, defaults.Assumed),
		}
		rows = append(rows, row)
		for _, x := range []struct {
			family soil.Family
			shares [2]float64
		}{{soil.DustLike, m.Dust}, {soil.GreaseLike, m.Grease}} {
			removals = append(removals, store.MethodRemoval{
				OrganisationID: org, MethodID: row.ID, Family: string(x.family), FaceShare: x.shares[0], CoreShare: x.shares[1],
			})
		}
	}
	return rows, removals
}

func defaultCleaners(org uuid.UUID) (rows []store.Cleaner) {
	for i, c := range method.StandardCleaners {
		row := store.Cleaner{
			OrganisationID: org, ID: store.NewID(), Code: c.Code, Name: c.Name, Form: string(c.Form), Caution: c.Caution,
			Rinse: c.Rinse, Microchannel: c.Microchannel, Indoors: c.Indoors, NearFood: c.NearFood, Protection: c.Protection,
			Duty: int(c.Duty), Flammable: c.Flammable, Foams: c.Foams, Disinfects: c.Disinfects, Position: i, Founded: founded(commonPractice, defaults.CleanerSource),
		}
		if c.PH > 0 {
			row.Ph = new(c.PH)
		}
		if c.PartsTo > 0 {
			row.WaterPartsFrom, row.WaterPartsTo = new(c.PartsFrom), new(c.PartsTo)
		}
		if c.PackPrice > 0 {
			row.PackL, row.PackPrice = new(c.PackL), new(c.PackPrice)
		}
		if c.DwellMaxS > 0 {
			row.DwellMinS, row.DwellMaxS = new(c.DwellMinS), new(c.DwellMaxS)
		}
		rows = append(rows, row)
	}
	return rows
}

func defaultSprayers(org uuid.UUID) (rows []store.SprayerSetting) {
	for i, x := range defaults.Sprayers {
		rows = append(rows, store.SprayerSetting{
			OrganisationID: org, ID: store.NewID(), Code: x.Code, Sprayer: x.Sprayer, Name: x.Setting, WaterParts: x.WaterParts,
			Position: i, Founded: founded(assumption, defaults.Assumed),
		})
		if x.TankL > 0 {
			rows[i].TankL = new(x.TankL)
		}
	}
	return rows
}

func defaultRates(org uuid.UUID) (rows []store.Rate) {
	for i, x := range defaults.Rates {
		rows = append(rows, store.Rate{
			OrganisationID: org, ID: store.NewID(), Code: x.Code, Name: x.Name, Unit: x.Unit, Amount: x.Amount,
			Position: i, Founded: founded(assumption, defaults.Assumed),
		})
	}
	return rows
}
