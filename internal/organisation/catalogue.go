package organisation

import (
	"context"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// Catalogue is an organisation's catalogues, indexed.
type Catalogue struct {
	Classes    []store.EquipmentClass
	ClassByID  map[uuid.UUID]store.EquipmentClass
	Sides      map[uuid.UUID][]store.ClassSide // by class
	ClassTasks map[uuid.UUID][]store.ClassTask
	minutes    map[uuid.UUID]map[string]int    // by class and kind of job
	named      map[string]store.EquipmentClass // by code and name, in lower case
	Soils      []store.SoilKind
	SoilByID   map[uuid.UUID]store.SoilKind
	SoilCode   map[string]store.SoilKind
	factors    []store.FactorDef
	Factor     map[uuid.UUID]store.FactorDef
	Methods    []store.Method
	Method     map[uuid.UUID]store.Method
	Removal    map[uuid.UUID]soil.Method // the core's view of each method
	Cleaners   []store.Cleaner
	Cleaner    map[uuid.UUID]store.Cleaner
	People     []store.Person
	crews      []store.Crew
	Sprayers   []store.SprayerSetting
	Rates      []store.Rate
	Limit      float64
	Risk       float64               // the limit may be passed with
	OverShare  float64               // of days that a coil may be over the limit; 1 is no bound
	Graders    map[uuid.UUID]float64 // scatter of those who practised enough
	learned    map[RemovalKey]store.RemovalEstimate
	plans      map[[2]string]store.PlanEstimate // by plan and family
	earned     map[uuid.UUID]Earned
	// answers to questions of practice that are in force; procedures are the newest template of each class.
	answers    []store.HouseRule
	procedures map[uuid.UUID]store.ProcedureVersion
	Tables     []store.RefrigerantTable
}

// CatalogueRows are the rows that catalogues are made of, each in its own order.
type CatalogueRows struct {
	Classes    []store.EquipmentClass
	Sides      []store.ClassSide
	Tasks      []store.ClassTask
	Minutes    []store.ClassMinutes
	Soils      []store.SoilKind
	Factors    []store.FactorDef
	Methods    []store.Method
	Removals   []store.MethodRemoval
	Cleaners   []store.Cleaner
	Rules      []store.HouseRule
	People     []store.Person
	Crews      []store.Crew
	Sprayers   []store.SprayerSetting
	Rates      []store.Rate
	Procedures []store.ProcedureVersion
	Tables     []store.RefrigerantTable
	Graders    []store.Grader
	Learned    []store.RemovalEstimate
	Plans      []store.PlanEstimate
	Earned     []store.ClassEvidence
}

// DefaultRows are the rows a new organisation begins with.
func DefaultRows(org uuid.UUID) CatalogueRows {
	r := CatalogueRows{
		Soils: defaultSoils(org), Factors: defaultFactors(org), Cleaners: defaultCleaners(org), Sprayers: defaultSprayers(org), Rates: defaultRates(org),
		Rules: []store.HouseRule{
			{OrganisationID: org, ID: store.NewID(), Question: limitQuestion, Choice: store.ToJSON(defaults.LimitShare), Reason: defaults.LimitReason},
			{OrganisationID: org, ID: store.NewID(), Question: riskQuestion, Choice: store.ToJSON(defaults.RiskShare), Reason: defaults.RiskReason},
			{OrganisationID: org, ID: store.NewID(), Question: overQuestion, Choice: store.ToJSON(defaults.OverShare), Reason: defaults.OverReason},
		},
	}
	r.Classes, r.Sides, r.Tasks, r.Minutes = defaultClasses(org)
	r.Methods, r.Removals = defaultMethods(org)
	return r
}

// PlanRemoval is what a plan of several passes was learned to take of a family of soil; false where it is not known as a whole.
func (c Catalogue) PlanRemoval(passes []string, family soil.Family) (soil.Removal, bool) {
	own, ok := c.plans[[2]string{strings.Join(passes, "+"), string(family)}]
	return soil.Removal{Face: own.FaceShare, Core: own.CoreShare}, ok && len(passes) > 1
}

// Earned is what the organisation's own records say of the money of a class.
type Earned struct {
	store.ClassEvidence
	// Calls is the factor on call-outs, Rise that on the rise of the condensing temperature, nil without any pair of readings.
	Calls heat.Factor
	Rise  *heat.Factor
}

func earnedOf(rows []store.ClassEvidence) (map[uuid.UUID]Earned, error) {
	out := map[uuid.UUID]Earned{}
	for _, row := range rows {
		e := Earned{ClassEvidence: row}
		var err error
		if e.Calls, err = heat.CallFactor(heat.CallLog{Seen: row.CallsSeen, Expected: row.CallsExpected}); err != nil {
			return nil, fmt.Errorf("reading what was learned of classes: %w", err)
		}
		if row.RisePairs > 0 {
			e.Rise = new(heat.Factor)
			if err := row.Rise.Into(e.Rise); err != nil {
				return nil, fmt.Errorf("reading what was learned of classes: %w", err)
			}
		}
		out[row.ClassID] = e
	}
	return out, nil
}

// Earned is what the organisation's own records say of the money of a class: false where there are none yet.
func (c Catalogue) Earned(class uuid.UUID) (Earned, bool) {
	e, ok := c.earned[class]
	return e, ok
}

// WithoutEarned is the catalogue with nothing learned of money, as before anything was.
func (c Catalogue) WithoutEarned() Catalogue {
	c.earned = nil
	return c
}

// Crews are the organisation's, by name.
func (c Catalogue) Crews() []store.Crew { return c.crews }

// LoadCatalogue reads the catalogues of the organisation.
func LoadCatalogue(t store.Tenant) (Catalogue, error) {
	var r CatalogueRows
	for _, read := range []func() error{
		into(&r.Classes, t, "position"), into(&r.Sides, t, "position"), into(&r.Tasks, t, "class_id, kind"), into(&r.Minutes, t, "class_id, kind"),
		into(&r.Soils, t, "position"), into(&r.Factors, t, "position"), into(&r.Methods, t, "position"), into(&r.Removals, t, "method_id"),
		into(&r.Cleaners, t, "position"), into(&r.Rules, t, "question"), into(&r.People, t, "name"), into(&r.Crews, t, "name"),
		into(&r.Sprayers, t, "position"), into(&r.Rates, t, "position"), into(&r.Procedures, t, "version"), into(&r.Tables, t, "code"),
		into(&r.Graders, t, "person_id"), into(&r.Learned, t, "method_id, family"), into(&r.Plans, t, "plan, family"),
		into(&r.Earned, t, "class_id"),
	} {
		if err := read(); err != nil {
			return Catalogue{}, fmt.Errorf("reading the catalogues: %w", err)
		}
	}
	return NewCatalogue(r)
}

// NewCatalogue indexes rows.
func NewCatalogue(r CatalogueRows) (Catalogue, error) {
	c := Catalogue{
		Classes: r.Classes, Soils: r.Soils, factors: r.Factors, Methods: r.Methods, Cleaners: r.Cleaners, People: r.People, crews: r.Crews,
		Sprayers: r.Sprayers, Rates: r.Rates, Tables: r.Tables,
	}
	c.ClassByID = store.Index(c.Classes, func(r store.EquipmentClass) uuid.UUID { return r.ID })
	c.named = map[string]store.EquipmentClass{}
	for _, k := range c.Classes {
		c.named[strings.ToLower(k.Code)], c.named[strings.ToLower(k.Name)] = k, k
	}
	c.ClassTasks = store.By(r.Tasks, func(r store.ClassTask) uuid.UUID { return r.ClassID })
	c.minutes = map[uuid.UUID]map[string]int{}
	for _, m := range r.Minutes {
		if c.minutes[m.ClassID] == nil {
			c.minutes[m.ClassID] = map[string]int{}
		}
		c.minutes[m.ClassID][m.Kind] = m.Minutes
	}
	c.Sides = store.By(r.Sides, func(r store.ClassSide) uuid.UUID { return r.ClassID })
	c.SoilByID = store.Index(c.Soils, func(r store.SoilKind) uuid.UUID { return r.ID })
	c.SoilCode = store.Index(c.Soils, func(r store.SoilKind) string { return r.Code })
	c.Factor = store.Index(c.factors, func(r store.FactorDef) uuid.UUID { return r.ID })
	c.Method = store.Index(c.Methods, func(r store.Method) uuid.UUID { return r.ID })
	c.Cleaner = store.Index(c.Cleaners, func(r store.Cleaner) uuid.UUID { return r.ID })
	var err error
	if c.Graders, err = graderSigmas(r.Graders); err != nil {
		return c, fmt.Errorf("reading the graders: %w", err)
	}
	c.learned = store.Index(r.Learned, func(r store.RemovalEstimate) RemovalKey { return RemovalKey{r.MethodID, r.Family} })
	c.plans = store.Index(r.Plans, func(r store.PlanEstimate) [2]string { return [2]string{r.Plan, r.Family} })
	if c.earned, err = earnedOf(r.Earned); err != nil {
		return c, err
	}
	c.Removal = map[uuid.UUID]soil.Method{}
	for _, r := range r.Removals {
		m := c.Removal[r.MethodID]
		m.Driven = c.Method[r.MethodID].Driven
		shares := [2]float64{r.FaceShare, r.CoreShare}
		if own, ok := c.learned[RemovalKey{r.MethodID, r.Family}]; ok {
			shares = [2]float64{own.FaceShare, own.CoreShare}
		}
		if soil.Family(r.Family) == soil.GreaseLike {
			m.Grease = shares
		} else {
			m.Dust = shares
		}
		c.Removal[r.MethodID] = m
	}
	c.Limit, c.Risk, c.OverShare = defaults.LimitShare, defaults.RiskShare, defaults.OverShare
	shares := map[string]*float64{limitQuestion: &c.Limit, riskQuestion: &c.Risk, overQuestion: &c.OverShare}
	for _, r := range r.Rules {
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
	c.procedures = store.Index(r.Procedures, func(p store.ProcedureVersion) uuid.UUID { return p.ClassID })
	return c, nil
}

// RemovalKey is a method on soil of a family.
type RemovalKey struct {
	Method uuid.UUID
	Family string
}

// into is a reading of rows that is yet to be made.
func into[T any](rows *[]T, t store.Tenant, order string) func() error {
	return func() (err error) {
		*rows, err = store.All[T](t, order)
		return err
	}
}

// Class finds an equipment class by code or name, without regard to case.
func (c Catalogue) Class(text string) (store.EquipmentClass, bool) {
	k, ok := c.named[strings.ToLower(strings.TrimSpace(text))]
	return k, ok
}

// MinutesOf is how long a kind of job that is no clean takes at a unit of a class.
func (c Catalogue) MinutesOf(class uuid.UUID, kind string) int { return c.minutes[class][kind] }

// Roles lists the coil roles a class has sides for, in the order of its sides.
func (c Catalogue) Roles(class uuid.UUID) []contract.CoilRole {
	var roles []contract.CoilRole
	seen := map[string]bool{}
	for _, s := range c.Sides[class] {
		if !seen[s.CoilRole] {
			seen[s.CoilRole] = true
			roles = append(roles, contract.CoilRole(s.CoilRole))
		}
	}
	return roles
}

// Catalogue is everything the forms offer.
func (s *Service) Catalogue(ctx context.Context, a Actor) (contract.Catalogue, error) {
	t := s.Tenant(ctx, a)
	c, err := LoadCatalogue(t)
	if err != nil {
		return contract.Catalogue{}, err
	}
	if t.Sites != nil { // all of them are read already
		if c.People, err = t.PeopleSeen(); err != nil {
			return contract.Catalogue{}, err
		}
	}
	return c.View(), nil
}

// View is what the forms offer.
func (c Catalogue) View() contract.Catalogue {
	out := contract.Catalogue{
		Classes: []contract.ClassChoice{}, Soils: []contract.Choice{}, Methods: []contract.MethodChoice{},
		Cleaners: []contract.CleanerChoice{}, Factors: []contract.FactorChoice{}, People: []contract.Choice{},
		Crews: []contract.Choice{}, LimitShare: c.Limit, Cautions: defaults.Cautions, Deferral: defaults.Deferral,
	}
	for _, k := range c.Classes {
		out.Classes = append(out.Classes, contract.ClassChoice{
			ID: k.ID, Code: k.Code, Name: k.Name, LightDays: k.LightDays, DeepDays: k.DeepDays, MaxDays: k.MaxDays,
			LightMinutes: k.LightMinutes, DeepMinutes: k.DeepMinutes, CoilRoles: c.Roles(k.ID),
			Evidence: new(contract.Evidence(k.Evidence)), Source: &k.Source,
		})
	}
	for _, k := range c.Soils {
		out.Soils = append(out.Soils, contract.Choice{ID: k.ID, Code: k.Code, Name: k.Name, Evidence: new(contract.Evidence(k.Evidence)), Source: &k.Source})
	}
	for _, m := range c.Methods {
		out.Methods = append(out.Methods, contract.MethodChoice{
			ID: m.ID, Code: m.Code, Name: m.Name, Driven: m.Driven, Wet: m.Wet, Evidence: new(contract.Evidence(m.Evidence)), Source: &m.Source,
		})
	}
	for _, k := range c.Cleaners {
		out.Cleaners = append(out.Cleaners, contract.CleanerChoice{
			ID: k.ID, Code: k.Code, Name: k.Name, Form: contract.CleanerChoiceForm(k.Form), Caution: k.Caution,
			Evidence: new(contract.Evidence(k.Evidence)), Source: &k.Source,
		})
	}
	for _, f := range c.factors {
		out.Factors = append(out.Factors, contract.FactorChoice{
			ID: f.ID, Code: f.Code, Name: f.Name, Multiplier: f.Multiplier, Evidence: new(contract.Evidence(f.Evidence)), Source: &f.Source,
		})
	}
	for _, p := range c.People {
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
