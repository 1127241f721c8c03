package planning

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"nextround/internal/queue"
	"nextround/internal/store"
)

// Making is the work of making a plan. Attempt says which of the run's attempts this is: work of an earlier one does nothing.
type Making struct {
	Org     uuid.UUID `json:"org"`
	Run     uuid.UUID `json:"run"`
	Attempt int       `json:"attempt"`
}

// Kind names the work in the queue.
func (Making) Kind() string { return "plan" }

// InsertOpts keeps plans from waiting for anything else.
func (Making) InsertOpts() river.InsertOpts { return river.InsertOpts{Queue: queue.Plans} }

type makingWorker struct {
	river.WorkerDefaults[Making]
	s *Service
}

// Timeout is how long a plan may take.
func (w *makingWorker) Timeout(*river.Job[Making]) time.Duration { return queue.Longest }

// Work does the work of the queue.
func (w *makingWorker) Work(ctx context.Context, job *river.Job[Making]) error {
	return w.s.takeUp(ctx, job.Args)
}

// takeUp works on a run that waits. How it ended stands in the run; only where that cannot be kept is the work tried again.
func (s *Service) takeUp(ctx context.Context, w Making) error {
	t := s.Store.For(context.WithoutCancel(ctx), w.Org)
	claimed, err := t.ClaimPlan(w.Run, w.Attempt)
	if err != nil || !claimed {
		return err
	}
	r := &planRun{s: s, t: t}
	r.row, err = store.Get[store.Plan](t, w.Run)
	if err == nil {
		err = r.row.Asked.Into(&r.in)
	}
	if err == nil && r.row.AccountID != nil {
		r.a, err = s.organisation.Actor(ctx, *r.row.AccountID)
	}
	if err != nil {
		slog.ErrorContext(ctx, "a plan could not be taken up", "plan", w.Run, "error", err)
		return s.giveBack(context.WithoutCancel(ctx), store.Lost{OrganisationID: w.Org, ID: w.Run, Attempt: w.Attempt})
	}
	r.work(ctx)
	return nil
}

// TakeUpLost lets runs wait again whose server has been silent for too long.
func (s *Service) TakeUpLost(ctx context.Context) error {
	lost, err := s.Store.LostPlans(ctx, planSilent)
	for _, l := range lost {
		err = errors.Join(err, s.giveBack(ctx, l))
	}
	return err
}

// giveBack lets a run wait again, for whichever server takes it up next.
func (s *Service) giveBack(ctx context.Context, l store.Lost) error {
	return s.Store.For(ctx, l.OrganisationID).InTransaction(func(t store.Tenant) error {
		next, err := t.ReturnPlan(l.ID, l.Attempt)
		if err != nil || next == 0 {
			return err
		}
		return queue.Put(ctx, t, Making{l.OrganisationID, l.ID, next}, nil)
	})
}
