package service

import (
	"context"
	"errors"
	"math"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// paceDays is how far back the pace of use looks; newestMoves how many movements the book shows.
const (
	paceDays    = 90
	newestMoves = 60
)

// Stock is the stock book: what is there of each cleaner, how fast it goes, and when to order.
func (s *Service) Stock(ctx context.Context, a Actor) (contract.StockBook, error) {
	return s.stock(s.tenant(ctx, a), s.today(a.Org.Zone))
}

func (s *Service) stock(t store.Tenant, today calendar.Day) (contract.StockBook, error) {
	out := contract.StockBook{Lines: []contract.StockLine{}, Moves: []contract.StockMove{}}
	c, err := loadCatalogue(t)
	if err != nil {
		return out, err
	}
	moves, err := store.All[store.StockMove](t, "day, at, id")
	if err != nil {
		return out, err
	}
	items, err := store.All[store.StockItem](t, "cleaner_id")
	if err != nil {
		return out, err
	}
	names, err := s.accountNames(t)
	if err != nil {
		return out, err
	}
	item := store.Index(items, func(x store.StockItem) uuid.UUID { return x.CleanerID })
	of := store.By(moves, func(x store.StockMove) uuid.UUID { return x.CleanerID })
	for _, k := range c.cleaners {
		if k.Form == string(method.Plain) {
			continue
		}
		out.Lines = append(out.Lines, stockLine(k, item[k.ID], of[k.ID], today))
	}
	for i := len(moves) - 1; i >= 0 && len(out.Moves) < newestMoves; i-- {
		m := moves[i]
		out.Moves = append(out.Moves, contract.StockMove{
			Day: m.Day.Day(), Cleaner: c.cleaner[m.CleanerID].Name, Kind: m.Kind, Litres: m.Litres, Note: m.Note, By: names.of(m.AccountID), VisitID: m.VisitID,
		})
	}
	return out, nil
}

func stockLine(k store.Cleaner, item store.StockItem, moves []store.StockMove, today calendar.Day) contract.StockLine {
	line := contract.StockLine{
		CleanerID: k.ID, Cleaner: k.Name, ReorderAtL: item.ReorderAtL, LeadDays: item.LeadDays, Version: item.Version,
	}
	if item.Version == 0 {
		line.LeadDays = 7
	}
	if k.PackL != nil && k.PackPrice != nil && *k.PackL > 0 {
		line.PricePerL = ptr(*k.PackPrice / *k.PackL)
	}
	for _, m := range moves {
		recent := today.Sub(m.Day.Day()) < paceDays
		switch m.Kind {
		case "bought":
			line.OnHandL += m.Litres
		case "returned":
			line.OnHandL += m.Litres
			if recent {
				line.Drawn90L -= m.Litres
			}
		case "drawn":
			line.OnHandL -= m.Litres
			if recent {
				line.Drawn90L += m.Litres
			}
		case "counted":
			line.OnHandL = m.Litres // what was counted is what is there
		case "opened":
			line.Opened++
		}
	}
	if line.Drawn90L > 0 {
		days := math.Floor((line.OnHandL-line.ReorderAtL)/(line.Drawn90L/paceDays)) - float64(line.LeadDays)
		line.ReorderOn = ptr(today.Add(int(math.Max(0, math.Min(days, 3650)))))
	}
	return line
}

// AddStockMove writes a movement into the stock book.
func (s *Service) AddStockMove(ctx context.Context, a Actor, in contract.NewStockMove) (contract.StockBook, error) {
	var out contract.StockBook
	if err := a.only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	today := s.today(a.Org.Zone)
	switch {
	case in.Day > today:
		return out, field("/day", "is in the future")
	case in.Litres <= 0 && in.Kind != contract.Counted:
		return out, field("/litres", "must be above 0 L")
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if _, err := store.Get[store.Cleaner](t, in.CleanerID); err != nil {
			return field("/cleaner_id", "is not a cleaner of the house")
		}
		row := store.StockMove{
			OrganisationID: t.Org, ID: store.NewID(), CleanerID: in.CleanerID, Kind: string(in.Kind), Litres: in.Litres, Day: store.Date(in.Day),
			Note: trim(in.Note), AccountID: &a.AccountID, At: s.stamp(),
		}
		if err := store.Insert(t, row); err != nil {
			return err
		}
		var err error
		out, err = s.stock(t, today)
		return err
	})
	return out, err
}

// SaveStockItem sets when a cleaner is bought again.
func (s *Service) SaveStockItem(ctx context.Context, a Actor, cleaner uuid.UUID, in contract.StockItemChange) (contract.StockBook, error) {
	var out contract.StockBook
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		k, err := store.Get[store.Cleaner](t, cleaner)
		if err != nil {
			return err
		}
		row := store.StockItem{OrganisationID: t.Org, CleanerID: cleaner, ReorderAtL: in.ReorderAtL, LeadDays: in.LeadDays, Version: in.Version + 1}
		if err := t.SaveStockItem(row, in.Version); err != nil {
			if errors.Is(err, store.ErrStale) {
				return Conflict{"somebody else changed this meanwhile; look again"}
			}
			return err
		}
		if err := t.Record(s.stamp(), a.AccountID, "rule", cleaner, "reorder level", auditDetail{Note: k.Name}); err != nil {
			return err
		}
		out, err = s.stock(t, s.today(a.Org.Zone))
		return err
	})
	return out, err
}

// Doses are the cleaner used against what was planned, by crew, cleaner and unit, in volume and money. Where no plan was
// kept it is worked out anew from the coil, its soil and the mix.
func (s *Service) Doses(ctx context.Context, a Actor) (contract.Doses, error) {
	t := s.tenant(ctx, a)
	out := contract.Doses{PerKw: map[string]float64{}}
	r, err := loadRegister(t, nil)
	if err != nil {
		return out, err
	}
	var byCrew, byCleaner, byUnit []method.Dose
	person := store.Index(r.people, func(p store.Person) uuid.UUID { return p.ID })
	for _, u := range r.facts.Units {
		coils := store.Index(r.coils[u.ID], func(c store.Coil) uuid.UUID { return c.ID })
		for _, v := range r.visits[u.ID] {
			names := []string{}
			for _, p := range r.visitPeople[v.ID] {
				names = append(names, person[p.PersonID].Name)
			}
			for _, x := range r.treatments[v.ID] {
				if x.AmountL == nil || x.CleanerID == nil {
					continue
				}
				k := r.cleaner[*x.CleanerID]
				dose := method.Dose{UsedL: *x.AmountL, PlannedL: r.planned(u, coils[x.CoilID], v, x)}
				if k.PackL != nil && k.PackPrice != nil && *k.PackL > 0 {
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
	for _, u := range r.facts.Units {
		capacity[u.Tag] = value(u.CapacityKw)
	}
	for _, v := range method.Variances(byUnit) {
		if capacity[v.Group] > 0 {
			out.PerKw[v.Group] = v.UsedL / float64(v.Times) / capacity[v.Group]
		}
	}
	out.ByCrew, out.ByCleaner, out.ByUnit = method.Variances(byCrew), method.Variances(byCleaner), method.Variances(byUnit)
	return out, nil
}

// planned is the cleaner a treatment should have taken: as planned then, else for its coil, soil and mix.
func (r *register) planned(u store.Unit, c store.Coil, v store.Visit, x store.Treatment) float64 {
	if x.PlannedL != nil {
		return *x.PlannedL
	}
	area, worst, share := 0.0, soil.Coat, 0.0
	for _, side := range r.surfaces[c.ID] {
		if !r.treated[x.ID][side.ID] {
			continue
		}
		share += side.AreaShare
		area += value(side.AreaM2)
		for _, f := range r.findings[[2]uuid.UUID{v.ID, side.ID}] {
			if f.Phase == phaseOpenedUp && soil.Grade(f.Grade) > worst {
				worst = soil.Grade(f.Grade)
			}
		}
	}
	face, assumed := method.Face(area, value(u.CapacityKw))
	if assumed {
		face *= share
	}
	return method.MixFor(face, c.Slabs, worst, 1) / (1 + value(x.WaterParts))
}
