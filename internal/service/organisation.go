package service

import (
	"context"
	"fmt"

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
		ID: store.NewID(), Name: in.Name, Zone: in.Zone, Currency: in.Currency, Units: in.Units, CreatedAt: s.stamp(),
	}
	if err := s.store.CreateOrganisation(ctx, &org); err != nil {
		return org, fmt.Errorf("making the organisation: %w", err)
	}
	err := s.store.For(ctx, org.ID).InTransaction(copyCatalogues)
	return org, err
}

// CreateMember adds a person who can sign in.
func (s *Service) CreateMember(ctx context.Context, org store.Organisation, name, login, password string, role contract.Role) (Actor, error) {
	hash, err := HashPassword(password, s.hash)
	if err != nil {
		return Actor{}, err
	}
	m, err := s.store.CreateMember(ctx, org.ID, name, login, hash, string(role), s.stamp())
	if err != nil {
		return Actor{}, err
	}
	m.Organisation = org
	return actorOf(m), nil
}

func founded(evidence, source string) store.Founded {
	return store.Founded{Evidence: evidence, Source: source, DefaultVersion: defaults.Version}
}

const (
	commonPractice = "common_practice"
	assumption     = "assumption"
)

func copyCatalogues(t store.Tenant) error {
	for _, step := range []func(store.Tenant) error{copyClasses, copySoils, copyFactors, copyMethods, copyCleaners, copyRules} {
		if err := step(t); err != nil {
			return fmt.Errorf("copying the default catalogues: %w", err)
		}
	}
	return nil
}

func copyClasses(t store.Tenant) error {
	var classes []store.EquipmentClass
	var sides []store.ClassSide
	for i, c := range defaults.Classes {
		row := store.EquipmentClass{
			OrganisationID: t.Org, ID: store.NewID(), Code: c.Code, Name: c.Name, ReferenceDays: c.ReferenceDays,
			ReferenceFanShare: 1, DeepDays: c.DeepDays, MaxDays: c.MaxDays, LightMinutes: c.LightMinutes,
			DeepMinutes: c.DeepMinutes, UsualSoil: c.Soil, Position: i, Founded: founded(string(c.Evidence), defaults.NoSource),
		}
		if row.Evidence == assumption {
			row.Source = defaults.Assumed
		}
		if c.LightDays > 0 {
			row.LightDays = ptr(c.LightDays)
		}
		classes = append(classes, row)
		for j, side := range c.Sides {
			sides = append(sides, store.ClassSide{
				OrganisationID: t.Org, ClassID: row.ID, CoilRole: side.Role, Position: j, Name: side.Name, AreaShare: side.Area,
			})
		}
	}
	if err := store.Insert(t, classes...); err != nil {
		return err
	}
	return store.Insert(t, sides...)
}

func copySoils(t store.Tenant) error {
	var rows []store.SoilKind
	for i, k := range soil.Kinds {
		rows = append(rows, store.SoilKind{
			OrganisationID: t.Org, ID: store.NewID(), Code: k.Code, Name: k.Name, Family: string(k.Family),
			Penetration: k.Penetration, MonthWeights: k.Months[:], Position: i, Founded: founded(assumption, defaults.Assumed),
		})
	}
	return store.Insert(t, rows...)
}

func copyFactors(t store.Tenant) error {
	var rows []store.FactorDef
	for i, f := range defaults.Factors {
		row := store.FactorDef{
			OrganisationID: t.Org, ID: store.NewID(), Code: f.Code, Name: f.Name, Multiplier: f.Multiplier,
			Position: i, Founded: founded(commonPractice, defaults.NoSource),
		}
		if f.Soil != "" {
			row.SoilCode = ptr(f.Soil)
		}
		if k, ok := soil.KindByCode(f.Soil); ok && f.Seasonal {
			row.MonthWeights = k.Months[:]
		}
		rows = append(rows, row)
	}
	return store.Insert(t, rows...)
}

func copyMethods(t store.Tenant) error {
	var rows []store.Method
	var removals []store.MethodRemoval
	for i, m := range soil.Methods {
		row := store.Method{
			OrganisationID: t.Org, ID: store.NewID(), Code: m.Code, Name: m.Name, Driven: m.Driven, Wet: m.Wet,
			Position: i, Founded: founded(assumption, defaults.Assumed),
		}
		rows = append(rows, row)
		for family, shares := range map[soil.Family][2]float64{soil.DustLike: m.Dust, soil.GreaseLike: m.Grease} {
			removals = append(removals, store.MethodRemoval{
				OrganisationID: t.Org, MethodID: row.ID, Family: string(family), FaceShare: shares[0], CoreShare: shares[1],
			})
		}
	}
	if err := store.Insert(t, rows...); err != nil {
		return err
	}
	return store.Insert(t, removals...)
}

func copyCleaners(t store.Tenant) error {
	var rows []store.Cleaner
	for i, c := range defaults.Cleaners {
		rows = append(rows, store.Cleaner{
			OrganisationID: t.Org, ID: store.NewID(), Code: c.Code, Name: c.Name, Form: c.Form, Caution: c.Caution,
			Position: i, Founded: founded(commonPractice, defaults.NoSource),
		})
	}
	return store.Insert(t, rows...)
}

// limitQuestion is the house rule for the blocked share that is allowed.
const limitQuestion = "limit_share"

func copyRules(t store.Tenant) error {
	return store.Insert(t, store.HouseRule{
		OrganisationID: t.Org, ID: store.NewID(), Question: limitQuestion, Choice: store.ToJSON(defaults.LimitShare),
		Reason: "a coil cut by more than this is taken as due", Valid: store.DateRange{},
	})
}
