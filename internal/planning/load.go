package planning

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/method"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// What is worn or used up on a round beside cleaners (assumption): a pair of gloves for each wet clean, a mask for each stop
// with work indoors, a set of batteries for the torch and meters for so many jobs, a wash bag for so many cassettes.
const (
	jobsPerBatterySet = 20.0
	washesPerBag      = 10.0
	tabletsEach       = 2.0
)

// loadBook is what loads are worked out from.
type loadBook struct {
	r     *dossier.Facts
	works map[uuid.UUID]coilWorks
	units map[uuid.UUID]dossier.Unit
}

// coilWorks are a coil's two cleans as they were accepted to be done, else as they were done last.
type coilWorks struct{ light, deep dossier.Work }

// newLoadBook reads the units of some jobs.
func (s *Service) newLoadBook(t store.Tenant, units []uuid.UUID) (*loadBook, error) {
	r, err := load.Units(t, append([]uuid.UUID{}, units...))
	if err != nil {
		return nil, err
	}
	b := &loadBook{r: r, works: map[uuid.UUID]coilWorks{}, units: map[uuid.UUID]dossier.Unit{}}
	for _, u := range r.Rows.Units {
		d := r.Placed(u, s.Now())
		b.units[u.ID] = d
		for _, c := range r.Coils[u.ID] {
			light, deep := r.Works(d, c, soil.Mixed)
			b.works[c.ID] = coilWorks{light, deep}
		}
	}
	return b, nil
}

// use is something used up or carried.
type use struct {
	kind, what, unit string
	cleaner          *uuid.UUID
	amount           float64
}

// uses of a job.
func (b *loadBook) uses(j contract.Job) (out []use) {
	kinds := []contract.JobKind{j.Kind}
	for _, r := range j.Riders {
		kinds = append(kinds, r.Kind)
	}
	for _, k := range kinds {
		switch k {
		case contract.JobKindLight, contract.JobKindDeep:
			if j.CoilID == nil || k != j.Kind {
				continue
			}
			w := b.works[*j.CoilID].deep
			if k == contract.JobKindLight {
				w = b.works[*j.CoilID].light
			}
			out = append(out, b.worn(j, w)...)
			for _, what := range b.kit(j, w) {
				out = append(out, use{"kit", what, "pieces", nil, 1})
			}
			if b.units[j.UnitID].Class.Code == "cassette" {
				out = append(out, use{"bag", "wash bag", "pieces", nil, 1 / washesPerBag})
			}
		case contract.JobKindFilter:
			for _, p := range b.r.Rows.Parts {
				if p.UnitID == j.UnitID && p.Kind == "filter" {
					out = append(out, use{"part", "filter " + p.Specification, "pieces", nil, float64(p.Quantity)})
				}
			}
		case contract.JobKindTablet:
			out = append(out, use{"tablet", "pan tablet", "pieces", nil, tabletsEach})
		}
	}
	return append(out, use{"battery", "set of batteries", "pieces", nil, 1 / jobsPerBatterySet})
}

// worn is what a clean uses up: its cleaner, gloves and goggles by the cleaner's data, a mask where dust is raised under a roof.
func (b *loadBook) worn(j contract.Job, w dossier.Work) (out []use) {
	always := b.r.Practice(b.units[j.UnitID].Site.ID, j.UnitID)["gloves"] == "always"
	wet := w.Cleaner != nil && w.Litres > 0
	if wet {
		out = append(out, use{"cleaner", w.Cleaner.Name, "l", &w.Cleaner.ID, w.Litres})
		if k := dossier.CleanerFacts(*w.Cleaner); k.Corrosive() || k.Form == method.Aerosol {
			out = append(out, use{"kit", "goggles", "pieces", nil, 1})
		}
	}
	if wet || always {
		out = append(out, use{"protection", "pair of gloves", "pieces", nil, 1})
	}
	dust := slices.ContainsFunc(w.Passes, func(code string) bool { return !method.TechniqueOf(code).Wet() })
	if dust && (always || !b.units[j.UnitID].Outdoors()) {
		out = append(out, use{"protection", "dust mask", "pieces", nil, 1})
	}
	return out
}

// kit is what the passes of a clean are done with; a deep clean brings fin comb and cable ties, and outdoors a spray against nests.
func (b *loadBook) kit(j contract.Job, w dossier.Work) (out []string) {
	add := func(what string) {
		if !slices.Contains(out, what) {
			out = append(out, what)
		}
	}
	for _, code := range w.Passes {
		for _, what := range method.TechniqueOf(code).Kit {
			if what != "dust mask" && what != "two people" {
				add(what)
			}
		}
	}
	if j.Kind == contract.JobKindDeep {
		add("fin comb")
		add("cable ties")
		if b.units[j.UnitID].Outdoors() {
			add("spray against nests")
		}
	}
	return out
}

// loadOrder is the order of a load list.
var loadOrder = []string{"cleaner", "part", "tablet", "water", "kit", "protection", "bag", "battery"}

// loadList is what a round takes along.
func (s *Service) loadList(t store.Tenant, stops []contract.Stop) ([]contract.LoadLine, error) {
	b, err := s.newLoadBook(t, unitsOf(stops))
	if err != nil {
		return nil, err
	}
	return b.list(stops), nil
}

func unitsOf(stops []contract.Stop) (units []uuid.UUID) {
	for _, stop := range stops {
		units = append(units, store.Keys(stop.Jobs, func(j contract.Job) uuid.UUID { return j.UnitID })...)
	}
	return units
}

// list is what some stops take along.
func (b *loadBook) list(stops []contract.Stop) []contract.LoadLine {
	var all []use
	ladders := []float64{}
	for _, stop := range stops {
		for _, j := range stop.Jobs {
			all = append(all, b.uses(j)...)
			if litres := optional.Value(j.WaterL); litres > 0 {
				all = append(all, use{"water", "water", "l", nil, litres})
			}
			if m := optional.Value(j.LadderM); m > 0 && !slices.Contains(ladders, m) {
				ladders = append(ladders, m)
			}
		}
	}
	slices.Sort(ladders)
	for _, m := range ladders {
		all = append(all, use{"kit", ladderWords(m), "pieces", nil, 1})
	}
	out := []contract.LoadLine{}
	for _, u := range summed(all) {
		amount := u.amount
		if u.unit == "pieces" {
			amount = math.Ceil(amount - 1e-9)
		} else {
			amount = math.Ceil(amount*10-1e-9) / 10
		}
		line := contract.LoadLine{Kind: contract.LoadLineKind(u.kind), What: u.what, Amount: amount, Unit: contract.LoadLineUnit(u.unit), CleanerID: u.cleaner}
		switch {
		case u.unit == "l":
			line.Text = fmt.Sprintf("%s %.1f L", u.what, amount)
		case u.kind == "kit": // one of each serves the whole round
			line.Amount, line.Text = 1, u.what
		default:
			line.Text = fmt.Sprintf("%.0f × %s", amount, u.what)
		}
		out = append(out, line)
	}
	return out
}

// summed adds up what is the same, in the order of a load list.
func summed(all []use) []use {
	out := []use{}
	at := map[string]int{}
	for _, u := range all {
		i, ok := at[u.kind+u.what]
		if !ok {
			i = len(out)
			at[u.kind+u.what] = i
			out = append(out, use{u.kind, u.what, u.unit, u.cleaner, 0})
		}
		out[i].amount += u.amount
	}
	rank := map[string]int{}
	for i, k := range loadOrder {
		rank[k] = i
	}
	sort.SliceStable(out, func(i, j int) bool {
		if rank[out[i].kind] != rank[out[j].kind] {
			return rank[out[i].kind] < rank[out[j].kind]
		}
		return out[i].what < out[j].what
	})
	return out
}

// Purchases are what the plan uses up against what is there, and the day it runs out.
func (s *Service) Purchases(ctx context.Context, a organisation.Actor) ([]contract.Purchase, error) {
	t := s.Tenant(ctx, a)
	if a.Sites != nil {
		return []contract.Purchase{}, nil // they are of the whole plan
	}
	row, err := t.CurrentPlan()
	if errors.Is(err, store.ErrNotFound) {
		return []contract.Purchase{}, nil
	}
	if err != nil {
		return nil, err
	}
	p, err := openPlan(row)
	if err != nil {
		return nil, err
	}
	b, err := s.newLoadBook(t, store.Keys(p.facts.Jobs, func(j contract.Job) uuid.UUID { return j.UnitID }))
	if err != nil {
		return nil, err
	}
	moves, err := t.StockMoves()
	if err != nil {
		return nil, err
	}
	stock, err := load.Stock(t, b.r.Catalogue, moves, s.Today(a.Org.Zone))
	if err != nil {
		return nil, err
	}
	lines := store.Index(stock, func(l contract.StockLine) uuid.UUID { return l.CleanerID })
	type need struct {
		use
		byDay []dayUse
	}
	needs := []*need{}
	at := map[string]*need{}
	for _, r := range p.result.Rounds {
		for _, u := range p.usesOf(b, r) {
			n := at[u.kind+u.what]
			if n == nil {
				n = &need{use: use{u.kind, u.what, u.unit, u.cleaner, 0}}
				at[u.kind+u.what] = n
				needs = append(needs, n)
			}
			n.amount += u.amount
			n.byDay = append(n.byDay, dayUse{r.Day, n.amount})
		}
	}
	out := []contract.Purchase{}
	for _, n := range needs {
		buy := contract.Purchase{Kind: contract.PurchaseKind(n.kind), What: n.what, Unit: contract.PurchaseUnit(n.unit), Needed: n.amount}
		lead := 0
		if n.cleaner != nil {
			l := lines[*n.cleaner]
			buy.OnHand, lead = math.Max(0, l.OnHandL), l.LeadDays
			if short := n.amount - buy.OnHand; short > 0 {
				buy.Buy = short
				if k := b.r.Cleaner[*n.cleaner]; optional.Value(k.PackL) > 0 {
					packs := math.Ceil(short / *k.PackL)
					buy.Buy = packs * *k.PackL
					buy.Cost = new(packs * optional.Value(k.PackPrice))
				}
			}
		} else {
			buy.Needed = math.Ceil(n.amount - 1e-9)
			buy.Buy = buy.Needed
		}
		if buy.Buy <= 0 {
			continue
		}
		buy.NeededBy = n.byDay[len(n.byDay)-1].day
		for _, d := range n.byDay {
			if d.amount > buy.OnHand {
				buy.NeededBy = d.day
				break
			}
		}
		if lead > 0 {
			buy.OrderBy = new(buy.NeededBy.Add(-lead))
		}
		buy.Text = purchaseText(buy)
		out = append(out, buy)
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].NeededBy < out[j].NeededBy })
	return out, nil
}

func purchaseText(b contract.Purchase) string {
	if b.Unit == contract.PurchaseUnitL {
		return fmt.Sprintf("%s: %.1f L planned, %.1f L there; buy %.1f L", b.What, b.Needed, b.OnHand, b.Buy)
	}
	return fmt.Sprintf("%.0f × %s", b.Buy, b.What)
}

// dayUse is how much was used up by a day.
type dayUse struct {
	day    calendar.Day
	amount float64
}

// usesOf is what a round of the plan uses up; what is only carried is left out.
func (p *readPlan) usesOf(b *loadBook, r round.Round) (out []use) {
	for _, stop := range r.Stops {
		for _, t := range stop.Jobs {
			out = append(out, b.uses(p.job[t.Job])...)
		}
	}
	return slices.DeleteFunc(out, func(u use) bool { return u.kind == "kit" })
}
