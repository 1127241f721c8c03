package learning

import (
	"context"

	"github.com/google/uuid"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"nextround/internal/dossier/load"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// CatchingUp brings the lines of an organisation that were left behind in line: like units elsewhere, after a visit taught something.
type CatchingUp struct {
	Org uuid.UUID `json:"org"`
}

// Kind names the work in the queue.
func (CatchingUp) Kind() string { return "catching_up" }

// InsertOpts keeps it in the queue once.
func (CatchingUp) InsertOpts() river.InsertOpts {
	return river.InsertOpts{UniqueOpts: river.UniqueOpts{ByArgs: true, ByState: []rivertype.JobState{
		rivertype.JobStateAvailable, rivertype.JobStatePending, rivertype.JobStateRunning, rivertype.JobStateRetryable, rivertype.JobStateScheduled,
	}}}
}

type catchingUpWorker struct {
	river.WorkerDefaults[CatchingUp]
	s *Service
}

// Work does a batch at a time until none is behind. It goes no further: what the batch says to its peers was said before.
func (w *catchingUpWorker) Work(ctx context.Context, job *river.Job[CatchingUp]) error {
	for left := 1; left > 0; {
		err := w.s.Store.For(ctx, job.Args.Org).InTransaction(func(t store.Tenant) error {
			units, err := t.UnitsBehind(w.s.Now(), organisation.ModelVersion, load.Batch)
			if left = len(units); err != nil || left == 0 {
				return err
			}
			if _, err := t.LockUnits(units); err != nil {
				return err
			}
			c, err := organisation.LoadCatalogue(t)
			if err != nil {
				return err
			}
			return w.s.refreshPeers(t, c, units)
		})
		if err != nil {
			return err
		}
	}
	return nil
}
