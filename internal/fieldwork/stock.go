package fieldwork

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Stock is the stock book: what is there of each cleaner, how fast it goes, and when to order.
func (s *Service) Stock(ctx context.Context, a organisation.Actor) (contract.StockBook, error) {
	return s.stockFor(s.Tenant(ctx, a), a)
}

// stockFor is the stock book as somebody may see it.
func (s *Service) stockFor(t store.Tenant, a organisation.Actor) (contract.StockBook, error) {
	out, err := s.stock(t, s.Today(a.Org.Zone))
	if err != nil {
		return out, err
	}
	if a.Sites != nil {
		if out.Moves, err = s.movesSeen(t, out.Moves); err != nil {
			return out, err
		}
	}
	// Prices are for managers; who drew what is not told to those who only look.
	for i := range out.Lines {
		if a.Role != contract.RoleManager {
			out.Lines[i].PricePerL = nil
		}
	}
	for i := range out.Moves {
		if a.Role == contract.RoleViewer {
			out.Moves[i].By, out.Moves[i].Note = "", ""
		}
	}
	return out, nil
}

// movesSeen leaves out what visits at other sites drew.
func (s *Service) movesSeen(t store.Tenant, moves []contract.StockMove) ([]contract.StockMove, error) {
	ids := []uuid.UUID{}
	for _, m := range moves {
		if m.VisitID != nil {
			ids = append(ids, *m.VisitID)
		}
	}
	seen, err := t.VisitsSeen(ids)
	return slices.DeleteFunc(moves, func(m contract.StockMove) bool { return m.VisitID != nil && !seen[*m.VisitID] }), err
}

func (s *Service) stock(t store.Tenant, today calendar.Day) (contract.StockBook, error) {
	out := contract.StockBook{Moves: []contract.StockMove{}}
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return out, err
	}
	moves, err := t.StockMoves()
	if err != nil {
		return out, err
	}
	if out.Lines, err = load.Stock(t, c, moves, today); err != nil {
		return out, err
	}
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	for i := len(moves) - 1; i >= 0 && len(out.Moves) < dossier.NewestMoves; i-- {
		m := moves[i]
		out.Moves = append(out.Moves, contract.StockMove{
			Day: m.Day.Day(), Cleaner: c.Cleaner[m.CleanerID].Name, Kind: m.Kind, Litres: m.Litres, Note: m.Note, By: names.Of(m.AccountID), VisitID: m.VisitID,
		})
	}
	return out, nil
}

// AddStockMove writes a movement into the stock book.
func (s *Service) AddStockMove(ctx context.Context, a organisation.Actor, in contract.NewStockMove) (contract.StockBook, error) {
	var out contract.StockBook
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	today := s.Today(a.Org.Zone)
	switch {
	case in.Day > today:
		return out, invalid.At("/day", "is in the future")
	case in.Litres <= 0 && in.Kind != contract.NewStockMoveKindCounted:
		return out, invalid.At("/litres", "must be above 0 L")
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if _, err := store.Get[store.Cleaner](t, in.CleanerID); err != nil {
			return invalid.At("/cleaner_id", "is not one of your cleaners")
		}
		row := store.StockMove{
			OrganisationID: t.Org, ID: store.NewID(), CleanerID: in.CleanerID, Kind: string(in.Kind), Litres: in.Litres, Day: store.Date(in.Day),
			Note: optional.Trim(in.Note), AccountID: &a.AccountID, At: s.Stamp(),
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		note := fmt.Sprintf("%s %g L on %s", in.Kind, in.Litres, in.Day)
		if err := t.Record(s.Stamp(), a.AccountID, "cleaner", in.CleanerID, "stock booked", organisation.AuditDetail{Note: note}); err != nil {
			return err
		}
		var err error
		out, err = s.stockFor(t, a)
		return err
	})
	return out, err
}

// SaveStockItem sets when a cleaner is bought again.
func (s *Service) SaveStockItem(ctx context.Context, a organisation.Actor, cleaner uuid.UUID, in contract.StockItemChange) (contract.StockBook, error) {
	var out contract.StockBook
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		k, err := store.Get[store.Cleaner](t, cleaner)
		if err != nil {
			return err
		}
		items, err := store.Where[store.StockItem](t, "cleaner_id", []uuid.UUID{cleaner}, "cleaner_id")
		if err != nil {
			return err
		}
		var before contract.StockItemChange
		for _, x := range items {
			before.ReorderAtL, before.LeadDays = x.ReorderAtL, x.LeadDays
		}
		row := store.StockItem{OrganisationID: t.Org, CleanerID: cleaner, ReorderAtL: in.ReorderAtL, LeadDays: in.LeadDays, Version: in.Version + 1}
		if err := t.SaveStockItem(row, in.Version); err != nil {
			if errors.Is(err, store.ErrStale) {
				return organisation.Conflict{Reason: "somebody else changed this meanwhile; reload and try again"}
			}
			return err
		}
		if err := t.Record(s.Stamp(), a.AccountID, "rule", cleaner, "reorder level", organisation.AuditDetail{
			Note: k.Name, Changes: organisation.Differences(before, contract.StockItemChange{ReorderAtL: in.ReorderAtL, LeadDays: in.LeadDays}),
		}); err != nil {
			return err
		}
		out, err = s.stockFor(t, a)
		return err
	})
	return out, err
}

// Doses are the cleaner used against what was planned, by crew, cleaner and unit, in volume and money. Where no plan was
// kept it is recalculated from the coil, its soil and the mix.
func (s *Service) Doses(ctx context.Context, a organisation.Actor) (contract.Doses, error) {
	t := s.Tenant(ctx, a)
	out := contract.Doses{PerKw: map[string]float64{}}
	r, err := load.Units(t, nil)
	if err != nil {
		return out, err
	}
	var byCrew, byCleaner, byUnit []method.Dose
	person := store.Index(r.People, func(p store.Person) uuid.UUID { return p.ID })
	for _, u := range r.Rows.Units {
		coils := store.Index(r.Coils[u.ID], func(c store.Coil) uuid.UUID { return c.ID })
		for _, v := range r.Visits[u.ID] {
			names := []string{}
			for _, p := range r.VisitPeople[v.ID] {
				names = append(names, person[p.PersonID].Name)
			}
			for _, x := range r.Treatments[v.ID] {
				if x.AmountL == nil || x.CleanerID == nil {
					continue
				}
				k := r.Cleaner[*x.CleanerID]
				dose := method.Dose{UsedL: *x.AmountL, PlannedL: plannedLitres(r, u, coils[x.CoilID], v, x)}
				if a.Role == contract.RoleManager && k.PackL != nil && k.PackPrice != nil && *k.PackL > 0 {
					dose.PriceL = *k.PackPrice / *k.PackL
				}
				out.Recorded++
				if x.PlannedL != nil {
					out.Planned++
				}
				add := func(list *[]method.Dose, group string) {
					dose.Group = group
					*list = append(*list, dose)
				}
				add(&byCrew, strings.Join(names, ", "))
				add(&byCleaner, k.Name)
				add(&byUnit, u.Tag)
			}
		}
	}
	capacity := map[string]float64{}
	for _, u := range r.Rows.Units {
		capacity[u.Tag] = optional.Value(u.CapacityKw)
	}
	for _, v := range method.Variances(byUnit) {
		if capacity[v.Group] > 0 {
			out.PerKw[v.Group] = v.UsedL / float64(v.Times) / capacity[v.Group]
		}
	}
	if a.Role == contract.RoleViewer {
		byCrew = nil // nothing about named people for those who only look
	}
	out.ByCrew, out.ByCleaner, out.ByUnit = method.Variances(byCrew), method.Variances(byCleaner), method.Variances(byUnit)
	return out, nil
}

// plannedLitres is the cleaner a treatment should have taken: as planned then, else for its coil, soil and mix.
func plannedLitres(r *dossier.Facts, u store.Unit, c store.Coil, v store.Visit, x store.Treatment) float64 {
	if x.PlannedL != nil {
		return *x.PlannedL
	}
	area, worst, share := 0.0, soil.Coat, 0.0
	for _, side := range r.Surfaces[c.ID] {
		if !r.Treated[x.ID][side.ID] {
			continue
		}
		share += side.AreaShare
		area += optional.Value(side.AreaM2)
		for _, f := range r.Findings[[2]uuid.UUID{v.ID, side.ID}] {
			if f.Phase == dossier.PhaseOpenedUp && soil.Grade(f.Grade) > worst {
				worst = soil.Grade(f.Grade)
			}
		}
	}
	face, assumed := method.Face(area, optional.Value(u.CapacityKw))
	if assumed {
		face *= share
	}
	return method.MixFor(face, c.Slabs, worst, 1) / (1 + optional.Value(x.WaterParts))
}
