package planning

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"nextround/core/calendar"
	"nextround/internal/queue"
	"nextround/internal/store"
)

// The week's mails go out on Mondays from this hour on, by the organisation's clock.
const weekHour = 6

// Look is the regular work of looking whose week has begun.
type Look struct{}

// Kind names the work in the queue.
func (Look) Kind() string { return "look_for_weeks" }

// Week is the work of sending an organisation's mails of a week.
type Week struct {
	Org    uuid.UUID    `json:"org"`
	Monday calendar.Day `json:"monday"`
}

// Kind names the work in the queue.
func (Week) Kind() string { return "week" }

// InsertOpts lets a week be in the queue once.
func (Week) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queue.Mails, UniqueOpts: river.UniqueOpts{ByArgs: true}}
}

// lookEvery is how often it is looked whose week has begun.
const lookEvery = time.Minute

// Regular is the planner's regular work.
func Regular() *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(lookEvery), func() (river.JobArgs, *river.InsertOpts) {
		return Look{}, &river.InsertOpts{Queue: queue.Mails, UniqueOpts: river.UniqueOpts{ByPeriod: lookEvery}}
	}, nil)
}

type lookWorker struct {
	river.WorkerDefaults[Look]
	s *Service
}

// Work puts the weeks that have begun into the queue.
func (w *lookWorker) Work(ctx context.Context, _ *river.Job[Look]) error {
	weeks, err := w.s.DueWeeks(ctx)
	if err != nil {
		return err
	}
	for _, week := range weeks {
		err := w.s.Store.For(ctx, week.Org).InTransaction(func(t store.Tenant) error { return queue.Put(ctx, t, week, nil) })
		if err != nil {
			return err
		}
	}
	return nil
}

type weekWorker struct {
	river.WorkerDefaults[Week]
	s *Service
}

// Work sends a week's mails.
func (w *weekWorker) Work(ctx context.Context, job *river.Job[Week]) error {
	return w.s.SendWeek(ctx, job.Args)
}

// AddWorkers says how plans are made and how the week's mails go out.
func (s *Service) AddWorkers(w *river.Workers) {
	river.AddWorker(w, &lookWorker{s: s})
	river.AddWorker(w, &weekWorker{s: s})
	river.AddWorker(w, &makingWorker{s: s})
}

// DueWeeks are the organisations whose week has begun and whose digest has not gone out.
func (s *Service) DueWeeks(ctx context.Context) ([]Week, error) {
	ids, err := s.Store.OrganisationIDs(ctx)
	if err != nil {
		return nil, err
	}
	var out []Week
	for _, id := range ids {
		org, err := s.Store.Organisation(ctx, id)
		if err != nil {
			return nil, err
		}
		if org.DigestMail == "" {
			continue
		}
		zone, err := time.LoadLocation(org.Zone)
		if err != nil {
			return nil, err
		}
		now := s.Now().In(zone)
		monday := mondayOf(calendar.Of(now))
		if now.Before(timeOn(monday, fmt.Sprintf("%02d:00", weekHour), zone)) {
			continue
		}
		gone, err := s.Store.For(ctx, id).WasSent("digest", monday.String())
		if err != nil {
			return nil, err
		}
		if !gone {
			out = append(out, Week{id, monday})
		}
	}
	return out, nil
}

// SendWeek sends an organisation's reminders and digest of a week. What has gone out already, before a fault say, does not go out again; the
// digest is last, so that the week counts as sent when all of it is.
func (s *Service) SendWeek(ctx context.Context, w Week) error {
	org, err := s.Store.Organisation(ctx, w.Org)
	if err != nil || org.DigestMail == "" {
		return err
	}
	a, err := s.managerOfAll(ctx, w.Org)
	if err != nil {
		return err
	}
	if _, err := s.SendReminders(ctx, a); err != nil {
		return err
	}
	_, err = s.sendDigest(ctx, a, org.DigestMail, store.NoticeSent{Kind: "digest", Key: w.Monday.String()})
	if errors.Is(err, store.ErrDuplicate) {
		return nil
	}
	return err
}
