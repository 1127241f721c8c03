package service

import (
	"context"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// catalogue is an organisation's catalogues, indexed.
type catalogue struct {
	classes    []store.EquipmentClass
	classByID  map[uuid.UUID]store.EquipmentClass
	sides      map[uuid.UUID][]store.ClassSide // by class
	classTasks map[uuid.UUID][]store.ClassTask
	named      map[string]store.EquipmentClass // by code and name, in lower case
	soils      []store.SoilKind
	soilByID   map[uuid.UUID]store.SoilKind
	soilCode   map[string]store.SoilKind
	factors    []store.FactorDef
	factor     map[uuid.UUID]store.FactorDef
	methods    []store.Method
	method     map[uuid.UUID]store.Method
	removal    map[uuid.UUID]soil.Method // the core's view of each method
	cleaners   []store.Cleaner
	cleaner    map[uuid.UUID]store.Cleaner
	people     []store.Person
	crews      []store.Crew
	sprayers   []store.SprayerSetting
	rates      []store.Rate
	limit      float64
	risk       float64               // the limit may be passed with
	graders    map[uuid.UUID]float64 // scatter of those who practised enough
	learned    map[removalKey]store.RemovalEstimate
	// answers to questions of practice that are in force; procedures are the newest template of each class.
	answers    []store.HouseRule
	procedures map[uuid.UUID]store.ProcedureVersion
	tables     []store.RefrigerantTable
}

func loadCatalogue(t store.Tenant) (catalogue, error) {
	var c catalogue
	var sides []store.ClassSide
	var tasks []store.ClassTask
	var removals []store.MethodRemoval
	var rules []store.HouseRule
	var procedures []store.ProcedureVersion
	var graders []store.Grader
	var learned []store.RemovalEstimate
	for _, err := range []error{
		into(&c.classes, t, "position"), into(&sides, t, "position"), into(&tasks, t, "class_id, kind"), into(&c.soils, t, "position"),
		into(&c.factors, t, "position"), into(&c.methods, t, "position"), into(&removals, t, "method_id"),
		into(&c.cleaners, t, "position"), into(&rules, t, "question"), into(&c.people, t, "name"), into(&c.crews, t, "name"),
		into(&c.sprayers, t, "position"), into(&c.rates, t, "position"), into(&procedures, t, "version"), into(&c.tables, t, "code"),
		into(&graders, t, "person_id"), into(&learned, t, "method_id, family"),
	} {
		if err != nil {
			return c, fmt.Errorf("reading the catalogues: %w", err)
		}
	}
	c.classByID = store.Index(c.classes, func(r store.EquipmentClass) uuid.UUID { return r.ID })
	c.named = map[string]store.EquipmentClass{}
	for _, k := range c.classes {
		c.named[strings.ToLower(k.Code)], c.named[strings.ToLower(k.Name)] = k, k
	}
	c.classTasks = store.By(tasks, func(r store.ClassTask) uuid.UUID { return r.ClassID })
	c.sides = store.By(sides, func(r store.ClassSide) uuid.UUID { return r.ClassID })
	c.soilByID = store.Index(c.soils, func(r store.SoilKind) uuid.UUID { return r.ID })
	c.soilCode = store.Index(c.soils, func(r store.SoilKind) string { return r.Code })
	c.factor = store.Index(c.factors, func(r store.FactorDef) uuid.UUID { return r.ID })
	c.method = store.Index(c.methods, func(r store.Method) uuid.UUID { return r.ID })
	c.cleaner = store.Index(c.cleaners, func(r store.Cleaner) uuid.UUID { return r.ID })
	var err error
	if c.graders, err = graderSigmas(graders); err != nil {
		return c, fmt.Errorf("reading the graders: %w", err)
	}
	c.learned = store.Index(learned, func(r store.RemovalEstimate) removalKey { return removalKey{r.MethodID, r.Family} })
	c.removal = map[uuid.UUID]soil.Method{}
	for _, r := range removals {
		m := c.removal[r.MethodID]
		m.Driven = c.method[r.MethodID].Driven
		shares := [2]float64{r.FaceShare, r.CoreShare}
		if own, ok := c.learned[removalKey{r.MethodID, r.Family}]; ok {
			shares = [2]float64{own.FaceShare, own.CoreShare}
		}
		if soil.Family(r.Family) == soil.GreaseLike {
			m.Grease = shares
		} else {
			m.Dust = shares
		}
		c.removal[r.MethodID] = m
	}
	c.limit, c.risk = defaults.LimitShare, defaults.RiskShare
	shares := map[string]*float64{limitQuestion: &c.limit, riskQuestion: &c.risk}
	for _, r := range rules {
		if r.Valid.To != nil {
			continue
		}
		share, ok := shares[r.Question]
		switch {
		case !ok:
			c.answers = append(c.answers, r)
		case r.SiteID == nil && r.UnitID == nil:
			if err := r.Choice.Into(share); err != nil {
				return c, fmt.Errorf("reading the house limit: %w", err)
			}
		}
	}
	// Later versions come later and stay.
	c.procedures = store.Index(procedures, func(p store.ProcedureVersion) uuid.UUID { return p.ClassID })
	return c, nil
}

// removalKey is a method on soil of a family.
type removalKey struct {
	method uuid.UUID
	family string
}

func into[T any](rows *[]T, t store.Tenant, order string) (err error) {
	*rows, err = store.All[T](t, order)
	return err
}

// class finds an equipment class by code or name, without regard to case.
func (c catalogue) class(text string) (store.EquipmentClass, bool) {
	k, ok := c.named[strings.ToLower(strings.TrimSpace(text))]
	return k, ok
}

// roles lists the coil roles a class has sides for, in the order of its sides.
func (c catalogue) roles(class uuid.UUID) []contract.CoilRole {
	var roles []contract.CoilRole
	seen := map[string]bool{}
	for _, s := range c.sides[class] {
		if !seen[s.CoilRole] {
			seen[s.CoilRole] = true
			roles = append(roles, contract.CoilRole(s.CoilRole))
		}
	}
	return roles
}

// Catalogue is everything the forms offer.
func (s *Service) Catalogue(ctx context.Context, a Actor) (contract.Catalogue, error) {
	c, err := loadCatalogue(s.tenant(ctx, a))
	if err != nil {
		return contract.Catalogue{}, err
	}
	return c.view(), nil
}

func (c catalogue) view() contract.Catalogue {
	out := contract.Catalogue{
		Classes: []contract.ClassChoice{}, Soils: []contract.Choice{}, Methods: []contract.MethodChoice{},
		Cleaners: []contract.CleanerChoice{}, Factors: []contract.FactorChoice{}, People: []contract.Choice{},
		Crews: []contract.Choice{}, LimitShare: c.limit, Cautions: defaults.Cautions, Deferral: defaults.Deferral,
	}
	for _, k := range c.classes {
		out.Classes = append(out.Classes, contract.ClassChoice{
			ID: k.ID, Code: k.Code, Name: k.Name, LightDays: k.LightDays, DeepDays: k.DeepDays, MaxDays: k.MaxDays,
			LightMinutes: k.LightMinutes, DeepMinutes: k.DeepMinutes, CoilRoles: c.roles(k.ID),
			Evidence: ptr(contract.Evidence(k.Evidence)), Source: &k.Source,
		})
	}
	for _, k := range c.soils {
		out.Soils = append(out.Soils, contract.Choice{ID: k.ID, Code: k.Code, Name: k.Name, Evidence: ptr(contract.Evidence(k.Evidence)), Source: &k.Source})
	}
	for _, m := range c.methods {
		out.Methods = append(out.Methods, contract.MethodChoice{
			ID: m.ID, Code: m.Code, Name: m.Name, Driven: m.Driven, Wet: m.Wet, Evidence: ptr(contract.Evidence(m.Evidence)), Source: &m.Source,
		})
	}
	for _, k := range c.cleaners {
		out.Cleaners = append(out.Cleaners, contract.CleanerChoice{
			ID: k.ID, Code: k.Code, Name: k.Name, Form: contract.CleanerChoiceForm(k.Form), Caution: k.Caution,
			Evidence: ptr(contract.Evidence(k.Evidence)), Source: &k.Source,
		})
	}
	for _, f := range c.factors {
		out.Factors = append(out.Factors, contract.FactorChoice{
			ID: f.ID, Code: f.Code, Name: f.Name, Multiplier: f.Multiplier, Evidence: ptr(contract.Evidence(f.Evidence)), Source: &f.Source,
		})
	}
	for _, p := range c.people {
		out.People = append(out.People, contract.Choice{ID: p.ID, Code: p.Name, Name: p.Name})
	}
	for _, w := range c.crews {
		out.Crews = append(out.Crews, contract.Choice{ID: w.ID, Code: w.Name, Name: w.Name})
	}
	for g := soil.Bare; g <= soil.Blocked; g++ {
		lo, hi := g.Band()
		out.Grades = append(out.Grades, contract.GradeStep{Grade: int(g), Name: g.String(), FromShare: lo, ToShare: hi})
	}
	return out
}
