// Package load reads the facts of units from the database for dossier.
// It reads with a fixed number of statements however many units there are, and only what the tenant may see.
// It decides nothing and writes nothing.
package load

import (
	"github.com/google/uuid"

	"nextround/core/learn"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Batch is how many units are worked on at once where all of them are.
const Batch = 500

// Units reads what is known of the named units, or of all when units is nil.
func Units(t store.Tenant, units []uuid.UUID) (*dossier.Facts, error) {
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return nil, err
	}
	return With(t, c, units, false)
}

// With is loadRegister with catalogues read before; bulk leaves out what only one unit's screen shows.
func With(t store.Tenant, c organisation.Catalogue, units []uuid.UUID, bulk bool) (*dossier.Facts, error) {
	f, err := t.LoadFacts(units)
	if err != nil {
		return nil, err
	}
	if err := t.LoadPlaces(&f, units == nil); err != nil {
		return nil, err
	}
	if err := Peers(t, &f); err != nil {
		return nil, err
	}
	return dossier.New(c, f, bulk), nil
}

// Peers adds the peer groups of the classes of the units at hand.
func Peers(t store.Tenant, f *store.Facts) (err error) {
	f.Groups, err = t.RateGroups(store.Keys(f.Units, func(u store.Unit) uuid.UUID { return u.ClassID }), learn.UnitVariance)
	return err
}

// EachBatch loads the units that may be seen, a batch at a time, in the order of their ids.
func EachBatch(t store.Tenant, do func(*dossier.Facts) error) error {
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return err
	}
	after := uuid.Nil
	for {
		units, err := t.UnitIDs(after, Batch)
		if err != nil || len(units) == 0 {
			return err
		}
		after = units[len(units)-1]
		r, err := With(t, c, units, false)
		if err != nil {
			return err
		}
		if err := do(r); err != nil {
			return err
		}
	}
}
