package organisation

import (
	"context"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// offer is a default of this release: how it is shown, and how it enters the catalogues.
type offer struct {
	contract.NewDefault
	add func(t store.Tenant, position int) error
}

// offers are all catalogue rows of this release.
func offers(org uuid.UUID) []offer {
	var out []offer
	put := func(catalogue contract.NewDefaultCatalogue, code, name, note string, add func(store.Tenant, int) error) {
		out = append(out, offer{contract.NewDefault{Catalogue: catalogue, Code: code, Name: name, Note: note}, add})
	}
	for _, row := range defaultSoils(org) {
		put("soils", row.Code, row.Name, row.Source, func(t store.Tenant, at int) error {
			row.Position = at
			return store.Insert(t, row)
		})
	}
	classes, sides, tasks, minutes := defaultClasses(org)
	for _, row := range classes {
		mine := func(class uuid.UUID) bool { return class == row.ID }
		note := fmt.Sprintf("deep clean every %d d, %d min; %s", row.DeepDays, row.DeepMinutes, row.Source)
		put("classes", row.Code, row.Name, note, func(t store.Tenant, at int) error {
			row.Position = at
			if err := store.Insert(t, row); err != nil {
				return err
			}
			if err := store.Insert(t, only(sides, func(x store.ClassSide) bool { return mine(x.ClassID) })...); err != nil {
				return err
			}
			if err := store.Insert(t, only(tasks, func(x store.ClassTask) bool { return mine(x.ClassID) })...); err != nil {
				return err
			}
			return store.Insert(t, only(minutes, func(x store.ClassMinutes) bool { return mine(x.ClassID) })...)
		})
	}
	for _, row := range defaultFactors(org) {
		put("factors", row.Code, row.Name, fmt.Sprintf("soils %g times as fast; %s", row.Multiplier, row.Source), func(t store.Tenant, at int) error {
			row.Position = at
			return store.Insert(t, row)
		})
	}
	methods, removals := defaultMethods(org)
	for _, row := range methods {
		put("methods", row.Code, row.Name, row.Source, func(t store.Tenant, at int) error {
			row.Position = at
			if err := store.Insert(t, row); err != nil {
				return err
			}
			return store.Insert(t, only(removals, func(x store.MethodRemoval) bool { return x.MethodID == row.ID })...)
		})
	}
	for _, row := range defaultCleaners(org) {
		put("cleaners", row.Code, row.Name, row.Source, func(t store.Tenant, at int) error {
			row.Position = at
			return store.Insert(t, row)
		})
	}
	return out
}

func only[T any](rows []T, keep func(T) bool) []T {
	return slices.DeleteFunc(slices.Clone(rows), func(x T) bool { return !keep(x) })
}

// waiting are the offers that the organisation neither has nor has answered, with how many rows each catalogue has.
func waiting(t store.Tenant) ([]offer, map[contract.NewDefaultCatalogue]int, error) {
	c, err := LoadCatalogue(t)
	if err != nil {
		return nil, nil, err
	}
	answers, err := store.All[store.CatalogueAnswer](t, "catalogue, code")
	if err != nil {
		return nil, nil, err
	}
	known := map[string]bool{}
	for _, a := range answers {
		known[a.Catalogue+"/"+a.Code] = true
	}
	rows := map[contract.NewDefaultCatalogue]int{
		"classes": len(c.Classes), "soils": len(c.Soils), "factors": len(c.factors), "methods": len(c.Methods), "cleaners": len(c.Cleaners),
	}
	for _, x := range c.Classes {
		known["classes/"+x.Code] = true
	}
	for _, x := range c.Soils {
		known["soils/"+x.Code] = true
	}
	for _, x := range c.factors {
		known["factors/"+x.Code] = true
	}
	for _, x := range c.Methods {
		known["methods/"+x.Code] = true
	}
	for _, x := range c.Cleaners {
		known["cleaners/"+x.Code] = true
	}
	return only(offers(t.Org), func(o offer) bool { return !known[string(o.Catalogue)+"/"+o.Code] }), rows, nil
}

func shown(list []offer) []contract.NewDefault {
	out := []contract.NewDefault{}
	for _, o := range list {
		out = append(out, o.NewDefault)
	}
	return out
}

// NewDefaults lists what this release brings that the organisation does not have yet and has not refused.
func (s *Service) NewDefaults(ctx context.Context, a Actor) ([]contract.NewDefault, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	list, _, err := waiting(s.Tenant(ctx, a))
	return shown(list), err
}

// AnswerNewDefault accepts a new default into the catalogues or refuses it for good, and lists what still waits.
func (s *Service) AnswerNewDefault(ctx context.Context, a Actor, in contract.NewDefaultAnswer) ([]contract.NewDefault, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	var left []contract.NewDefault
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		list, rows, err := waiting(t)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(list, func(o offer) bool { return o.Catalogue == in.Catalogue && o.Code == in.Code })
		if at < 0 {
			return invalid.At("/code", "does not wait for an answer")
		}
		answer := store.CatalogueAnswer{
			OrganisationID: t.Org, Catalogue: string(in.Catalogue), Code: in.Code, Answer: "refused", AccountID: &a.AccountID, At: s.Stamp(),
		}
		if in.Accept {
			answer.Answer = "accepted"
			if err := list[at].add(t, rows[in.Catalogue]); err != nil {
				return err
			}
		}
		if err := store.Insert(t, answer); err != nil {
			return err
		}
		left = shown(slices.Delete(list, at, at+1))
		return t.Record(s.Stamp(), a.AccountID, "rule", t.Org, "new default "+answer.Answer, AuditDetail{Note: in.Code})
	})
	return left, err
}
