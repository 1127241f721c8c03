package learning

import (
	"context"
	"log/slog"
	"math"

	"github.com/google/uuid"

	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Refresh brings what is derived of some units in line with what is known now: their open proposals and their lines
// in the portfolio.
func (s *Service) Refresh(t store.Tenant, units []uuid.UUID) error {
	return s.RefreshTelling(t, units, nil)
}

// RefreshTelling is Refresh that tells how many units are done.
func (s *Service) RefreshTelling(t store.Tenant, units []uuid.UUID, tell func(done int) error) error {
	if len(units) == 0 {
		return nil
	}
	// What a change touches may stand where its author may not look.
	t.Sites = nil
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return err
	}
	var moved []uuid.UUID
	taught := false
	for from := 0; from < len(units); from += load.Batch {
		if tell != nil {
			if err := tell(from); err != nil {
				return err
			}
		}
		part := units[from:min(from+load.Batch, len(units))]
		// Two that work the same units out do it one after the other.
		if _, err := t.LockUnits(part); err != nil {
			return err
		}
		r, err := load.With(t, c, part, true)
		if err != nil {
			return err
		}
		changed, said, err := s.refreshBatch(t, r)
		if err != nil {
			return err
		}
		moved, taught = append(moved, changed...), taught || said
	}
	if taught && len(units) > 1 {
		// Those that came first were worked out before the last had taught anything.
		for from := 0; from < len(units); from += load.Batch {
			if err := s.refreshPeers(t, c, units[from:min(from+load.Batch, len(units))]); err != nil {
				return err
			}
		}
	}
	if len(moved) == 0 || len(units) > peersTouched {
		return nil
	}
	// What was learned here, the other sides of the same units and the peers at the same site take up at once; those
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

// peersTouched is how many peers a visit recalculates at once.
const peersTouched = 200

// refreshPeers brings in line what rests on what peers say; it goes no further.
func (s *Service) refreshPeers(t store.Tenant, c organisation.Catalogue, units []uuid.UUID) error {
	r, err := load.With(t, c, units, true)
	if err != nil {
		return err
	}
	_, _, err = s.refreshBatch(t, r)
	return err
}

// derived is what is worked out of a batch of units.
type derived struct {
	stale []uuid.UUID
	fresh []store.Proposal
	lines []store.CoilLine
	rates []store.RateEstimate
	// moved are the units whose peers learned something new.
	moved []uuid.UUID
	// taught says that some side tells something else than before, however little.
	taught bool
	// figures are open proposals that stand, with what they come to now.
	figures []store.Proposal
}

// refreshBatch works units out and writes what came of it: those whose peers learned something, and whether anything was taught at all.
func (s *Service) refreshBatch(t store.Tenant, r *dossier.Facts) (moved []uuid.UUID, taught bool, err error) {
	out, err := s.refreshLines(t, r)
	if err != nil {
		return out.moved, out.taught, err
	}
	return out.moved, out.taught, t.PutRateEstimates(out.rates)
}

// refreshLines is refreshBatch that leaves what the sides told their peers before, so that all units of a run rest on the same.
func (s *Service) refreshLines(t store.Tenant, r *dossier.Facts) (out derived, err error) {
	tasks := make([]uuid.UUID, len(r.Rows.Tasks))
	for i, x := range r.Rows.Tasks {
		tasks[i] = x.ID
	}
	decided, err := t.DecidedEvidence(tasks)
	if err != nil {
		return out, err
	}
	if out, err = s.derive(t.Context(), t.Org, r, decided); err != nil {
		return out, err
	}
	if err := t.CloseProposals(out.stale, "superseded", s.Stamp()); err != nil {
		return out, err
	}
	if err := store.Insert(t, out.fresh...); err != nil {
		return out, err
	}
	if err := t.PutProposalFigures(out.figures); err != nil {
		return out, err
	}
	return out, t.PutCoilLines(out.lines)
}

// derive works out what the units of a register come to.
func (s *Service) derive(ctx context.Context, org uuid.UUID, r *dossier.Facts, decided map[store.Evidence]bool) (out derived, err error) {
	err = r.InTurn(r.Rows.Units, s.Now(), func(d dossier.Unit) error {
		if err := context.Cause(ctx); err != nil {
			return err // called off meanwhile
		}
		told := false
		for i := range d.Coils {
			for _, side := range d.Coils[i].Sides {
				row := dossier.EstimateRow(org, d, d.Coils[i].Coil, side, s.Stamp())
				told = told || r.Peers.Moved(row)
				out.taught = out.taught || r.Peers.Taught(row)
				out.rates = append(out.rates, row)
			}
			for k := range d.Coils[i].Tasks {
				s.reconsider(org, d, &d.Coils[i].Tasks[k], decided, &out)
			}
			out.lines = append(out.lines, s.coilLine(org, d, d.Coils[i]))
		}
		if told {
			out.moved = append(out.moved, d.Unit.ID)
		}
		return nil
	})
	return out, err
}

// reconsider brings the open proposal of a task in line. One whose evidence changed is superseded, never swapped
// silently; one that was decided on the same evidence is not made again.
func (s *Service) reconsider(org uuid.UUID, d dossier.Unit, task *dossier.Task, decided map[store.Evidence]bool, out *derived) {
	want := task.Result.Change && d.Unit.Status == dossier.InService && !decided[store.Evidence{TaskID: task.ID, Hash: task.Evidence}]
	same := task.Open != nil && task.Open.InputsHash == task.Evidence &&
		task.Open.Days == task.Result.Days && task.Open.FromDays == task.EveryDays && proposes(*task.Open, *task)
	if want && same {
		row := s.proposalRow(org, d, *task)
		row.ID, row.ComputedAt = task.Open.ID, task.Open.ComputedAt
		if figuresDiffer(*task.Open, row) {
			out.figures = append(out.figures, row)
		}
		task.Open = &row
		return
	}
	if task.Open != nil {
		out.stale = append(out.stale, task.ID)
		task.Open = nil
	}
	if want {
		row := s.proposalRow(org, d, *task)
		out.fresh = append(out.fresh, row)
		task.Open = &row
	}
}

// figuresDiffer reports whether what a proposal comes to has moved by more than anybody could see.
func figuresDiffer(was, is store.Proposal) bool {
	const cent = .01
	if was.SavesYear == nil || is.SavesYear == nil {
		return was.SavesYear != is.SavesYear
	}
	return math.Abs(*was.SavesYear-*is.SavesYear) >= cent
}

func (s *Service) coilLine(org uuid.UUID, d dossier.Unit, c dossier.Coil) store.CoilLine {
	line := d.CoilLine(c, nil)
	row := store.CoilLine{
		OrganisationID: org, CoilID: c.ID, UnitID: d.Unit.ID, SiteID: d.Site.ID, PlacementID: d.Placement.ID, ClassID: d.Class.ID,
		SiteName: d.Site.Name, ClassName: d.Class.Name, Tag: d.Unit.Tag, Status: d.Unit.Status, Role: c.Role, Blocked: -1, Line: store.ToJSON(line),
		AsOf: store.Date(d.Today), ModelVersion: organisation.ModelVersion, ComputedAt: s.Stamp(),
	}
	row.InputsHash = organisation.HashOf(line)
	if c.Worst >= 0 {
		row.Blocked = c.Sides[c.Worst].Trace.Now.Blocked()
		row.Rate = c.Sides[c.Worst].Rate.Rate.P50
	}
	if look := lookOf(c); look != nil && d.Unit.Status == dossier.InService {
		row.LookNet, row.Look = look.NetRiding, store.ToJSON(look)
	}
	if hours := hoursOf(d, c); hours != nil {
		row.Hours = store.ToJSON(hours)
	}
	first := true
	for _, t := range c.Tasks {
		if t.Paused {
			continue
		}
		if due := store.Date(t.Due.Day); first || due < row.Due {
			row.Due, first = due, false
		}
		row.Proposed = row.Proposed || t.Open != nil
		row.WaitWeek = max(row.WaitWeek, t.Wait)
	}
	return row
}

// RefreshAll brings every organisation's derived rows in line with the day, a batch at a time: soil goes on growing
// and site factors begin and end.
func (s *Service) RefreshAll(ctx context.Context) error {
	orgs, err := s.Store.OrganisationIDs(ctx)
	if err != nil {
		return err
	}
	for _, org := range orgs {
		for left := 1; left > 0; {
			if err := ctx.Err(); err != nil {
				return err
			}
			err := s.Store.For(ctx, org).InTransaction(func(t store.Tenant) error {
				units, err := t.UnitsBehind(s.Now(), organisation.ModelVersion, load.Batch)
				if left = len(units); err != nil {
					return err
				}
				return s.Refresh(t, units)
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// DeriveNew works out what is derived of units that were stored just before, from the rows at hand: they have no visits,
// answers or lines yet, so that little needs to be read back.
func (s *Service) DeriveNew(t store.Tenant, c organisation.Catalogue, f store.Facts) error {
	if err := t.LoadFactors(&f); err != nil {
		return err
	}
	if err := load.Peers(t, &f); err != nil {
		return err
	}
	out, err := s.derive(t.Context(), t.Org, dossier.New(c, f, true), nil)
	if err != nil {
		return err
	}
	if err := store.Insert(t, out.fresh...); err != nil {
		return err
	}
	if err := store.Insert(t, out.lines...); err != nil {
		return err
	}
	return store.Insert(t, out.rates...)
}

// Rebuild recalculates everything derived and writes it over what is there, so that the portfolio is never empty meanwhile.
func (s *Service) Rebuild(ctx context.Context) (units int, err error) {
	orgs, err := s.Store.OrganisationIDs(ctx)
	if err != nil {
		return 0, err
	}
	for _, org := range orgs {
		n, err := s.rebuild(ctx, org)
		if units += n; err != nil {
			return units, err
		}
	}
	return units, nil
}

// RebuildOne recalculates everything derived of one organisation.
func (s *Service) RebuildOne(ctx context.Context, org uuid.UUID) error {
	_, err := s.rebuild(ctx, org)
	return err
}

func (s *Service) rebuild(ctx context.Context, org uuid.UUID) (units int, err error) {
	t := s.Store.For(ctx, org)
	if err := t.InTransaction(s.learnRemovals); err != nil {
		return 0, err
	}
	work := func(step string) (int, error) {
		return everyUnit(t, func(t store.Tenant, ids []uuid.UUID) error { return s.workUnits(t, step, ids) })
	}
	any, err := t.AnyRecords()
	if err == nil && any {
		_, err = work(stepRecords)
	}
	if err == nil {
		err = t.InTransaction(s.learnClasses)
	}
	if err == nil {
		_, err = work(stepLearning)
	}
	if err != nil {
		return 0, err
	}
	return work(stepProposing)
}

// everyUnit goes over all units, a batch and a transaction at a time.
func everyUnit(t store.Tenant, do func(store.Tenant, []uuid.UUID) error) (n int, err error) {
	for after := uuid.Nil; ; {
		ids, err := t.UnitIDs(after, load.Batch)
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

// CatchUp brings everything in line with the day in the background.
func (s *Service) CatchUp() {
	s.InBackground(func(ctx context.Context) {
		if err := s.RefreshAll(ctx); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "bringing the portfolio up to date", "error", err)
		}
	})
}
