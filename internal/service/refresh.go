package service

import (
	"context"
	"errors"
	"log/slog"

	"github.com/google/uuid"

	"nextround/internal/store"
)

// refresh brings what is derived of some units in line with what is known now: their open proposals and their lines
// in the portfolio.
func (s *Service) refresh(t store.Tenant, units []uuid.UUID) error {
	return s.refreshTelling(t, units, nil)
}

func (s *Service) refreshTelling(t store.Tenant, units []uuid.UUID, tell func(done int) error) error {
	if len(units) == 0 {
		return nil
	}
	// What a change touches may stand where its author may not look.
	t.Sites = nil
	c, err := loadCatalogue(t)
	if err != nil {
		return err
	}
	var moved []uuid.UUID
	for from := 0; from < len(units); from += batch {
		if tell != nil {
			if err := tell(from); err != nil {
				return err
			}
		}
		part := units[from:min(from+batch, len(units))]
		// Two that work the same units out do it one after the other.
		if _, err := t.LockUnits(part); err != nil {
			return err
		}
		r, err := loadRegisterWith(t, c, part)
		if err != nil {
			return err
		}
		r.bulk = true
		heard, err := s.refreshBatch(t, r)
		if err != nil {
			return err
		}
		moved = append(moved, heard...)
	}
	if len(moved) == 0 || len(units) > peersTouched {
		return nil // those of a large change are all worked out anyway
	}
	// What was learned here, the other sides of the same units and the peers at the same site hear of at once; those
	// elsewhere with the day.
	near, err := t.PeersAt(moved)
	if err != nil {
		return err
	}
	free, err := t.LockFreeUnits(append(moved, near[:min(len(near), peersTouched)]...))
	if err != nil {
		return err
	}
	return s.refreshPeers(t, c, free)
}

// peersTouched is how many peers a visit works out anew at once.
const peersTouched = 200

// refreshPeers brings in line what rests on what peers say; it goes no further.
func (s *Service) refreshPeers(t store.Tenant, c catalogue, units []uuid.UUID) error {
	r, err := loadRegisterWith(t, c, units)
	if err != nil {
		return err
	}
	r.bulk = true
	_, err = s.refreshBatch(t, r)
	return err
}

// derived is what is worked out of a batch of units.
type derived struct {
	stale []uuid.UUID
	fresh []store.Proposal
	lines []store.CoilLine
	rates []store.RateEstimate
	// moved are the units whose peers hear something new.
	moved []uuid.UUID
}

func (s *Service) refreshBatch(t store.Tenant, r *register) (moved []uuid.UUID, err error) {
	tasks := make([]uuid.UUID, len(r.facts.Tasks))
	for i, x := range r.facts.Tasks {
		tasks[i] = x.ID
	}
	decided, err := t.DecidedEvidence(tasks)
	if err != nil {
		return nil, err
	}
	out, err := s.derive(t.Org, r, decided)
	if err != nil {
		return nil, err
	}
	return out.moved, errors.Join(
		t.CloseProposals(out.stale, "superseded", s.stamp()), store.Insert(t, out.fresh...), t.PutCoilLines(out.lines), t.PutRateEstimates(out.rates),
	)
}

// derive works out what the units of a register come to.
func (s *Service) derive(org uuid.UUID, r *register, decided map[store.Evidence]bool) (out derived, err error) {
	for _, u := range r.facts.Units {
		d, err := s.dossier(r, u)
		if err != nil {
			return out, err
		}
		heard := false
		for i := range d.coils {
			for _, side := range d.coils[i].sides {
				row := s.estimateRow(org, d, d.coils[i], side)
				heard = heard || r.peers.moved(row)
				out.rates = append(out.rates, row)
			}
			for k := range d.coils[i].tasks {
				s.reconsider(org, d, &d.coils[i].tasks[k], decided, &out)
			}
			out.lines = append(out.lines, s.coilLine(org, d, d.coils[i]))
		}
		if heard {
			out.moved = append(out.moved, u.ID)
		}
	}
	return out, nil
}

// reconsider brings the open proposal of a task in line. One whose evidence changed is superseded, never swapped
// silently; one that was decided on the same evidence is not made again.
func (s *Service) reconsider(org uuid.UUID, d dossier, task *taskDossier, decided map[store.Evidence]bool, out *derived) {
	want := task.result.Change && d.unit.Status == inService && !decided[store.Evidence{TaskID: task.ID, Hash: task.evidence}]
	same := task.open != nil && task.open.InputsHash == task.evidence &&
		task.open.Days == task.result.Days && task.open.FromDays == task.EveryDays
	if want && same {
		return
	}
	if task.open != nil {
		out.stale = append(out.stale, task.ID)
		task.open = nil
	}
	if want {
		row := s.proposalRow(org, *task)
		out.fresh = append(out.fresh, row)
		task.open = &row
	}
}

func (s *Service) coilLine(org uuid.UUID, d dossier, c coilDossier) store.CoilLine {
	line := d.coilLine(c, nil)
	row := store.CoilLine{
		OrganisationID: org, CoilID: c.ID, UnitID: d.unit.ID, SiteID: d.site.ID, PlacementID: d.placement.ID, ClassID: d.class.ID,
		SiteName: d.site.Name, ClassName: d.class.Name, Tag: d.unit.Tag, Status: d.unit.Status, Role: c.Role, Blocked: -1, Line: store.ToJSON(line),
		AsOf: store.Date(d.today), ModelVersion: ModelVersion, ComputedAt: s.stamp(),
	}
	row.InputsHash = hashOf(line)
	if c.worst >= 0 {
		row.Blocked = c.sides[c.worst].trace.Now.Blocked()
		row.Rate = c.sides[c.worst].rate.Rate.P50
	}
	for i, t := range c.tasks {
		if due := store.Date(t.due.Day); i == 0 || due < row.Due {
			row.Due = due
		}
		row.Proposed = row.Proposed || t.open != nil
		row.WaitWeek = max(row.WaitWeek, t.wait)
	}
	return row
}

// RefreshAll brings every organisation's derived rows in line with the day, a batch at a time: soil goes on growing
// and site factors begin and end.
func (s *Service) RefreshAll(ctx context.Context) error {
	orgs, err := s.store.OrganisationIDs(ctx)
	if err != nil {
		return err
	}
	for _, org := range orgs {
		if err := s.store.For(ctx, org).InTransaction(addNewMethods); err != nil {
			return err
		}
		for left := 1; left > 0; {
			if err := ctx.Err(); err != nil {
				return err
			}
			err := s.store.For(ctx, org).InTransaction(func(t store.Tenant) error {
				units, err := t.UnitsBehind(s.now(), ModelVersion, batch)
				if left = len(units); err != nil {
					return err
				}
				return s.refresh(t, units)
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// addNewMethods gives an organisation the methods that a newer version of the program brings. What the house has is
// left as it is.
func addNewMethods(t store.Tenant) error {
	there, err := store.All[store.Method](t, "position")
	if err != nil {
		return err
	}
	known := store.Index(there, func(m store.Method) string { return m.Code })
	all, removals := defaultMethods(t.Org)
	var rows []store.Method
	fresh := map[uuid.UUID]bool{}
	for _, m := range all {
		if _, ok := known[m.Code]; !ok {
			m.Position = len(there) + len(rows)
			rows, fresh[m.ID] = append(rows, m), true
		}
	}
	var shares []store.MethodRemoval
	for _, r := range removals {
		if fresh[r.MethodID] {
			shares = append(shares, r)
		}
	}
	return errors.Join(store.Insert(t, rows...), store.Insert(t, shares...))
}

// newcomers works out what is derived of units that have just been taken in, from the rows at hand: they have no
// visits, answers or lines yet, so that nothing needs to be read back.
type newcomers struct {
	in *intake
	r  *register
}

func (s *Service) newcomers(in *intake) (newcomers, error) {
	n := newcomers{in: in, r: &register{catalogue: in.catalogue}}
	factors, err := store.All[store.SiteFactor](in.Tenant, factorOrder)
	if err != nil {
		return n, err
	}
	n.r.placeFactors(factors)
	n.r.sites, n.r.placements = map[uuid.UUID]store.Site{}, map[uuid.UUID]store.Placement{}
	for _, site := range in.sites {
		n.r.sites[site.ID] = site
	}
	for _, p := range in.placements {
		n.r.placements[p.ID] = p
	}
	return n, nil
}

// derive stores the proposals and portfolio lines of units that were stored just before.
func (n newcomers) derive(s *Service, rows intakeRows) error {
	r := &register{catalogue: n.r.catalogue, sites: n.r.sites, placements: n.r.placements, factorsAt: n.r.factorsAt}
	r.facts = store.Facts{
		Units: rows.units, Stays: rows.stays, Coils: rows.coils, Surfaces: rows.surfaces, TaskSurfaces: rows.taskSurfaces,
	}
	for _, t := range rows.tasks {
		if t.CoilID != nil {
			r.facts.Tasks = append(r.facts.Tasks, t)
		}
	}
	r.index()
	if err := r.loadPeers(n.in.Tenant); err != nil {
		return err
	}
	r.bulk = true
	out, err := s.derive(n.in.Org, r, nil)
	if err != nil {
		return err
	}
	return errors.Join(store.Insert(n.in.Tenant, out.fresh...), store.Insert(n.in.Tenant, out.lines...), store.Insert(n.in.Tenant, out.rates...))
}

// Rebuild drops everything derived that nobody has answered and works it out anew.
func (s *Service) Rebuild(ctx context.Context) (units int, err error) {
	orgs, err := s.store.OrganisationIDs(ctx)
	if err != nil {
		return 0, err
	}
	for _, org := range orgs {
		t := s.store.For(ctx, org)
		if err := t.DropDerived(); err != nil {
			return units, err
		}
		if err := t.InTransaction(s.learnRemovals); err != nil {
			return units, err
		}
		// First what each side says of itself, then what follows from all of them.
		for _, step := range []string{stepLearning, stepProposing} {
			n, err := everyUnit(t, func(t store.Tenant, ids []uuid.UUID) error { return s.workUnits(t, step, ids) })
			if err != nil {
				return units, err
			}
			if step == stepProposing {
				units += n
			}
		}
	}
	return units, nil
}

// everyUnit goes over all units, a batch and a transaction at a time.
func everyUnit(t store.Tenant, do func(store.Tenant, []uuid.UUID) error) (n int, err error) {
	for after := uuid.Nil; ; {
		ids, err := t.UnitIDs(after, batch)
		if err != nil || len(ids) == 0 {
			return n, err
		}
		after = ids[len(ids)-1]
		n += len(ids)
		if err := t.InTransaction(func(t store.Tenant) error { return do(t, ids) }); err != nil {
			return n, err
		}
	}
}

// catchUp is RefreshAll in the background.
func (s *Service) catchUp() {
	if err := s.RefreshAll(s.life); err != nil && s.life.Err() == nil {
		slog.ErrorContext(s.life, "bringing the portfolio up to date", "error", err)
	}
}
