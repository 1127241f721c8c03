package importing

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

// Taking is the work of taking in the file of a run. Attempt says which of its attempts this is: work of an earlier one does nothing.
type Taking struct {
	Org     uuid.UUID `json:"org"`
	Run     uuid.UUID `json:"run"`
	Attempt int       `json:"attempt"`
}

// Kind names the work in the queue.
func (Taking) Kind() string { return "import" }

// InsertOpts keeps imports from waiting for anything else.
func (Taking) InsertOpts() river.InsertOpts { return river.InsertOpts{Queue: queue.Imports} }

type takingWorker struct {
	river.WorkerDefaults[Taking]
	s *Service
}

// Timeout is how long an import may take.
func (w *takingWorker) Timeout(*river.Job[Taking]) time.Duration { return queue.Longest }

// Work does the work of the queue.
func (w *takingWorker) Work(ctx context.Context, job *river.Job[Taking]) error {
	return w.s.takeUp(ctx, job.Args)
}

// AddWorkers says how this room's work is done.
func (s *Service) AddWorkers(w *river.Workers) { river.AddWorker(w, &takingWorker{s: s}) }

// takeUp works on a run that waits. How it ended stands in the run; only where that cannot be kept is the work tried again.
func (s *Service) takeUp(ctx context.Context, w Taking) error {
	t := s.Store.For(ctx, w.Org)
	claimed, err := t.ClaimImport(w.Run, w.Attempt, stepReading)
	if err != nil || !claimed {
		return err
	}
	j, err := s.resume(ctx, t, w)
	if err != nil {
		slog.ErrorContext(ctx, "an import could not be taken up", "run", w.Run, "error", err)
		return s.giveBack(context.WithoutCancel(ctx), store.Lost{OrganisationID: w.Org, ID: w.Run, Attempt: w.Attempt})
	}
	j.work(ctx)
	return nil
}

// resume reads a run as it was asked for, by whom it was.
func (s *Service) resume(ctx context.Context, t store.Tenant, w Taking) (*Job, error) {
	run, err := store.Get[store.ImportRun](t, w.Run)
	if err != nil {
		return nil, err
	}
	file, err := t.ImportFileOf(w.Run)
	if err != nil {
		return nil, err
	}
	a, err := s.people.Actor(ctx, run.AccountID)
	if err != nil {
		return nil, err
	}
	var asked storedReport
	if err := run.Report.Into(&asked); err != nil {
		return nil, err
	}
	j, err := s.jobOf(ctx, a, Request{Kind: run.Kind, FileName: run.FileName, File: file, DryRun: asked.DryRun})
	if err != nil {
		return nil, err
	}
	j.run, j.at.step = run, run.Step
	return j, nil
}

// TakeUpLost lets runs wait again whose server has been silent for too long.
func (s *Service) TakeUpLost(ctx context.Context) error {
	lost, err := s.Store.LostImports(ctx, silentAfter)
	for _, l := range lost {
		err = errors.Join(err, s.giveBack(ctx, l))
	}
	return err
}

// giveBack lets a run wait again, for whichever server takes it up next.
func (s *Service) giveBack(ctx context.Context, l store.Lost) error {
	return s.Store.For(ctx, l.OrganisationID).InTransaction(func(t store.Tenant) error {
		next, err := t.ReturnImport(l.ID, l.Attempt)
		if err != nil || next == 0 {
			return err
		}
		return queue.Put(ctx, t, Taking{l.OrganisationID, l.ID, next}, nil)
	})
}
