package learning

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/queue"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// The steps of a run that recalculates everything: what methods take away, and what the log of call-outs and readings say of each class's
// money; what each side says of its own rate with that; then what follows from all of them together.
const (
	stepRecords   = "records"
	stepLearning  = "learning"
	stepProposing = "proposing"
	stepDone      = "done"

	runQueued    = "queued"
	runRunning   = "running"
	runDone      = "done"
	runCancelled = "cancelled"
	runFailed    = "failed"
)

const runsShown = 10

// Part is one part of a run: the units after one. The run itself knows how far it is, so that a part that comes twice
// does its work once.
type Part struct {
	Org   uuid.UUID `json:"org"`
	Run   uuid.UUID `json:"run"`
	Step  string    `json:"step"`
	After uuid.UUID `json:"after"`
}

// Kind names the work in the queue.
func (Part) Kind() string { return "estimation_part" }

type partWorker struct {
	river.WorkerDefaults[Part]
	s *Service
}

// Work does one part of a run.
func (w *partWorker) Work(ctx context.Context, job *river.Job[Part]) error {
	err := w.s.WorkPart(ctx, job.Args)
	if err != nil && job.Attempt >= job.MaxAttempts {
		return errors.Join(err, w.s.failRun(ctx, job.Args, err))
	}
	return err
}

// AddWorkers says how the parts of runs are done.
func (s *Service) AddWorkers(w *river.Workers) { river.AddWorker(w, &partWorker{s: s}) }

// StartEstimation recalculates everything in the background; where a run is under way, that one is given.
func (s *Service) StartEstimation(ctx context.Context, a organisation.Actor) (contract.EstimationRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.EstimationRun{}, err
	}
	var row store.EstimationRun
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		var err error
		row, err = s.beginEstimation(ctx, t, a.AccountID)
		return err
	})
	if errors.Is(err, store.ErrDuplicate) {
		return s.StartEstimation(ctx, a) // somebody else was first
	}
	if err != nil {
		return contract.EstimationRun{}, err
	}
	return s.estimationView(s.Tenant(ctx, a), row)
}

// beginEstimation puts a run down, by somebody or, for nobody, by the night; where one is under way it is given.
func (s *Service) beginEstimation(ctx context.Context, t store.Tenant, by uuid.UUID) (store.EstimationRun, error) {
	under, err := t.EstimationUnderWay()
	if err != nil || under != nil {
		return optional.Value(under), err
	}
	total, err := t.CountUnits()
	if err != nil {
		return store.EstimationRun{}, err
	}
	row := store.EstimationRun{
		OrganisationID: t.Org, ID: store.NewID(), At: s.Stamp(), Status: runQueued, Step: stepRecords, Total: total, AliveAt: s.Stamp(),
	}
	if by != uuid.Nil {
		row.AccountID = &by
	}
	if err := store.Insert(t, row); err != nil {
		return row, err
	}
	if err := queue.Put(ctx, t, Part{t.Org, row.ID, stepRecords, uuid.Nil}, nil); err != nil {
		return row, err
	}
	return row, t.Record(row.At, by, "estimation", row.ID, "everything recalculated", organisation.AuditDetail{Note: wording.Count(total, "unit")})
}

// Estimations are the newest runs.
func (s *Service) Estimations(ctx context.Context, a organisation.Actor) ([]contract.EstimationRun, error) {
	out := []contract.EstimationRun{}
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.EstimationRun](t, "at DESC, id")
	if err != nil {
		return out, err
	}
	for _, row := range rows[:min(runsShown, len(rows))] {
		v, err := s.estimationView(t, row)
		if err != nil {
			return out, err
		}
		out = append(out, v)
	}
	return out, nil
}

// Estimation is one run.
func (s *Service) Estimation(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.EstimationRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.EstimationRun{}, err
	}
	t := s.Tenant(ctx, a)
	row, err := store.Get[store.EstimationRun](t, id)
	if err != nil {
		return contract.EstimationRun{}, err
	}
	return s.estimationView(t, row)
}

// CancelEstimation asks a run to stop after the part that is under way; what it has worked out stays.
func (s *Service) CancelEstimation(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.EstimationRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.EstimationRun{}, err
	}
	if _, err := store.Get[store.EstimationRun](s.Tenant(ctx, a), id); err != nil {
		return contract.EstimationRun{}, err
	}
	if err := s.Tenant(ctx, a).AskToCancel(id); err != nil {
		return contract.EstimationRun{}, err
	}
	return s.Estimation(ctx, a, id)
}

func (s *Service) estimationView(t store.Tenant, row store.EstimationRun) (contract.EstimationRun, error) {
	names, err := s.Names(t)
	return contract.EstimationRun{
		ID: row.ID, At: row.At, Status: contract.EstimationRunStatus(row.Status), Step: contract.EstimationRunStep(row.Step),
		Done: row.Done, Total: row.Total, Note: row.Note, By: names.Of(row.AccountID),
	}, err
}

// WorkPart does one part of a run, once however often it comes: its units, how far the run is and the next part, all in one transaction.
func (s *Service) WorkPart(ctx context.Context, p Part) error {
	return s.Store.For(ctx, p.Org).InTransaction(func(t store.Tenant) error {
		run, err := t.LockEstimationRun(p.Run)
		if errors.Is(err, store.ErrNotFound) {
			return nil // the organisation is gone
		}
		if err != nil {
			return err
		}
		if run.Step != p.Step || run.After != p.After || (run.Status != runQueued && run.Status != runRunning) {
			return nil // this part was done before
		}
		run.Status, run.AliveAt = runRunning, s.Stamp()
		if run.CancelWanted {
			run.Status, run.Note = runCancelled, "stopped when asked; what was worked out so far stays"
			return t.SaveEstimationRun(run)
		}
		if p.Step == stepRecords && p.After == uuid.Nil {
			if err := s.learnRemovals(t); err != nil {
				return err
			}
		}
		ids, err := s.unitsOf(t, p)
		if err != nil {
			return err
		}
		switch {
		case len(ids) > 0:
			if err := s.workUnits(t, p.Step, ids); err != nil {
				return err
			}
			run.After = ids[len(ids)-1]
			run.Done += len(ids)
		case p.Step == stepRecords:
			if err := s.learnClasses(t); err != nil {
				return err
			}
			run.Step, run.After, run.Done = stepLearning, uuid.Nil, 0
		case p.Step == stepLearning:
			run.Step, run.After, run.Done = stepProposing, uuid.Nil, 0
		default:
			run.Step, run.Status, run.Done = stepDone, runDone, run.Total
			return t.SaveEstimationRun(run)
		}
		if err := t.SaveEstimationRun(run); err != nil {
			return err
		}
		return queue.Put(ctx, t, Part{p.Org, p.Run, run.Step, run.After}, nil)
	})
}

// unitsOf are the units a part works on: none where there are no records to read.
func (s *Service) unitsOf(t store.Tenant, p Part) ([]uuid.UUID, error) {
	if p.Step == stepRecords {
		if any, err := t.AnyRecords(); err != nil || !any {
			return nil, err
		}
	}
	return t.UnitIDs(p.After, load.Batch)
}

func (s *Service) workUnits(t store.Tenant, step string, ids []uuid.UUID) error {
	if _, err := t.LockUnits(ids); err != nil {
		return err
	}
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return err
	}
	if step == stepRecords {
		c = c.WithoutEarned() // so that the same records always teach the same
	}
	r, err := load.With(t, c, ids, true)
	if err != nil {
		return err
	}
	if step == stepProposing {
		_, err = s.refreshLines(t, r)
		return err
	}
	return s.learnUnits(t, r)
}

// learnUnits learns what the sides of some units say of their own rates, and keeps it for their peers.
func (s *Service) learnUnits(t store.Tenant, r *dossier.Facts) error {
	r.Peers = dossier.Peers{} // by themselves
	var rows []store.RateEstimate
	for _, u := range r.Rows.Units {
		d := r.Placed(u, s.Now())
		for _, c := range r.Coils[u.ID] {
			for _, surface := range r.Surfaces[c.ID] {
				side, err := r.Side(d, c, surface)
				if err != nil {
					return fmt.Errorf("%s, %s: %w", u.Tag, surface.Name, err)
				}
				rows = append(rows, dossier.EstimateRow(t.Org, d, c, side, s.Stamp()))
			}
		}
	}
	return t.PutRateEstimates(rows)
}

// learnRemovals blends what methods were taken to remove with what was found and left.
func (s *Service) learnRemovals(t store.Tenant) error {
	counts, err := t.Pairs()
	if err != nil {
		return err
	}
	start, err := store.All[store.MethodRemoval](t, "method_id, family")
	if err != nil {
		return err
	}
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return err
	}
	core := familyPenetration(c.Soils)
	pairs := map[organisation.RemovalKey][]learn.Pair{}
	for _, n := range counts {
		key := organisation.RemovalKey{Method: n.MethodID, Family: n.Family}
		for range n.N {
			pairs[key] = append(pairs[key], learn.Pair{Found: soil.Grade(n.Found), Left: soil.Grade(n.Left), Seen: soil.Seen(n.Seen), CoreShare: core[n.Family]})
		}
	}
	var rows []store.RemovalEstimate
	for _, r := range start {
		mine := pairs[organisation.RemovalKey{Method: r.MethodID, Family: r.Family}]
		if len(mine) == 0 {
			continue
		}
		l, err := learn.Blend(soil.Removal{Face: r.FaceShare, Core: r.CoreShare}, mine)
		if err != nil {
			return err
		}
		rows = append(rows, store.RemovalEstimate{
			OrganisationID: t.Org, MethodID: r.MethodID, Family: r.Family, FaceShare: l.Face, CoreShare: l.Core, FacePairs: l.FacePairs,
			CorePairs: l.CorePairs, ModelVersion: organisation.ModelVersion, ComputedAt: s.Stamp(),
		})
	}
	if err := t.PutRemovalEstimates(rows); err != nil {
		return err
	}
	return s.learnPlans(t, c, core)
}

// learnPlans blends what plans of several passes were taken to remove, pass by pass, with what was found and left.
func (s *Service) learnPlans(t store.Tenant, c organisation.Catalogue, core map[string]float64) error {
	counts, err := t.PlanPairs()
	if err != nil {
		return err
	}
	code := store.Index(c.Methods, func(m store.Method) string { return m.Code })
	type key struct{ plan, family string }
	pairs, order := map[key][]learn.Pair{}, []key{}
	for _, n := range counts {
		k := key{n.Plan, n.Family}
		if pairs[k] == nil {
			order = append(order, k)
		}
		for range n.N {
			pairs[k] = append(pairs[k], learn.Pair{Found: soil.Grade(n.Found), Left: soil.Grade(n.Left), Seen: soil.Seen(n.Seen), CoreShare: core[n.Family]})
		}
	}
	rows := []store.PlanEstimate{}
	for _, k := range order {
		start := soil.Removal{}
		for _, m := range strings.Split(k.plan, "+") {
			start = start.Then(c.Removal[code[m].ID].Removal(soil.Family(k.family), soil.Against))
		}
		l, err := learn.Blend(soil.Removal{Face: start.Face, Core: start.Core}, pairs[k])
		if err != nil {
			return err
		}
		rows = append(rows, store.PlanEstimate{
			OrganisationID: t.Org, Plan: k.plan, Family: k.family, FaceShare: l.Face, CoreShare: l.Core, FacePairs: l.FacePairs, CorePairs: l.CorePairs,
			ModelVersion: organisation.ModelVersion, ComputedAt: s.Stamp(),
		})
	}
	return t.PutPlanEstimates(rows)
}

// familyPenetration is the share of a family's soil that is taken to lie in the core: the mean over its kinds.
func familyPenetration(kinds []store.SoilKind) map[string]float64 {
	sum, n := map[string]float64{}, map[string]float64{}
	for _, k := range kinds {
		sum[k.Family] += k.Penetration
		n[k.Family]++
	}
	for f := range sum {
		sum[f] /= n[f]
	}
	return sum
}

// failRun notes that a run cannot go on.
func (s *Service) failRun(ctx context.Context, p Part, why error) error {
	return s.Store.For(ctx, p.Org).InTransaction(func(t store.Tenant) error {
		run, err := t.LockEstimationRun(p.Run)
		if err != nil {
			return err
		}
		run.Status, run.Note, run.AliveAt = runFailed, "could not go on after several attempts", s.Stamp()
		slog.ErrorContext(ctx, "recalculating everything", "run", p.Run, "error", why)
		return t.SaveEstimationRun(run)
	})
}
