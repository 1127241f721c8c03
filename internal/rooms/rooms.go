// Package rooms puts the rooms of the organisation together over one database: who is built on whom, and who is told what.
// It never holds a use case of its own.
package rooms

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"time"

	"github.com/riverqueue/river"

	"nextround/internal/evidence"
	"nextround/internal/fieldwork"
	"nextround/internal/importing"
	"nextround/internal/instrument"
	"nextround/internal/learning"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/planning"
	"nextround/internal/post"
	"nextround/internal/queue"
	"nextround/internal/register"
	"nextround/internal/store"
	"nextround/internal/weather"
)

// Rooms are all use cases over one database.
type Rooms struct {
	*organisation.Base
	Organisation *organisation.Service
	Outbox       *outbox.Service
	Learning     *learning.Service
	Register     *register.Service
	Fieldwork    *fieldwork.Service
	Planning     *planning.Service
	Importing    *importing.Service
	Evidence     *evidence.Service
}

// Options for New.
type Options struct {
	// Now gives the time; defaults to the system clock.
	Now func() time.Time
	// ClockPinned says that Now stands still.
	ClockPinned bool
	// Hash is the cost of passwords; defaults to organisation.DefaultHashCost.
	Hash organisation.HashCost
	// SessionIdle is after how long without a request a session ends; defaults to eight hours.
	SessionIdle time.Duration
	// ReadOnly serves a database that is only read, such as a standby.
	ReadOnly bool
	// KnownPassword is one that everybody can read in this program: it is refused where the server is reached from elsewhere.
	KnownPassword string
	// Gauges, Forecasts and Mailer are nil where none is connected.
	Gauges    instrument.GaugeSets
	Forecasts weather.Forecasts
	Mailer    post.Mailer
}

// New builds the rooms.
func New(st *store.Store, o Options) *Rooms {
	r := &Rooms{Base: organisation.NewBase(st, o.Now, o.ClockPinned)}
	r.Learning = learning.New(r.Base)
	r.Organisation = organisation.New(r.Base, organisation.Access{Hash: o.Hash, Idle: o.SessionIdle, KnownPassword: o.KnownPassword, ReadOnly: o.ReadOnly}, r.Learning)
	r.Outbox = outbox.New(r.Base, o.Mailer)
	r.Register = register.New(r.Base, r.Learning)
	r.Fieldwork = fieldwork.New(r.Base, r.Organisation, r.Outbox, r.Learning, r.Learning, o.Gauges, o.Forecasts)
	r.Planning = planning.New(r.Base, r.Organisation, r.Outbox, o.Forecasts)
	r.Evidence = evidence.New(r.Base, r.Learning)
	r.Importing = importing.New(r.Base, r.Organisation, map[string]importing.Taker{
		"register":  r.Register.RegisterFiles(),
		"visits":    r.Fieldwork.VisitFiles(),
		"call_outs": r.Evidence.CallOutFiles(),
	})
	return r
}

// StartQueue works on what is queued in the background until Close: parts of runs, mails, and what goes out each week.
// Servers that share a database share the queue.
func (r *Rooms) StartQueue(ctx context.Context) error {
	workers := river.NewWorkers()
	r.Learning.AddWorkers(workers)
	r.Outbox.AddWorkers(workers)
	r.Planning.AddWorkers(workers)
	r.Importing.AddWorkers(workers)
	stop, err := queue.Start(ctx, r.Store, workers, planning.Regular())
	if err != nil {
		return err
	}
	r.InBackground(func(life context.Context) {
		<-life.Done()
		if err := stop(context.WithoutCancel(ctx)); err != nil {
			slog.ErrorContext(ctx, "stopping the queue", "error", err)
		}
	})
	r.InBackground(r.sealAudit)
	r.InBackground(r.takeUpLost)
	return r.Outbox.QueueWaiting(ctx)
}

// sealEvery is how often what was written into the audit trail is sealed.
const sealEvery = 20 * time.Second

// sealAudit seals what was written into the audit trail, now and then, until the service closes.
func (r *Rooms) sealAudit(ctx context.Context) {
	organisation.Every(ctx, sealEvery, func() {
		orgs, err := r.Store.OrganisationIDs(ctx)
		for _, org := range orgs {
			if err == nil {
				_, err = r.Store.SealAudit(ctx, org)
			}
		}
		if err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "sealing the audit trail", "error", err)
		}
	})
}

// lookForLost is how often it is looked for imports and plans whose server was lost.
const lookForLost = 5 * time.Second

// takeUpLost puts imports and plans whose server was lost back into the queue, until the service closes.
func (r *Rooms) takeUpLost(ctx context.Context) {
	organisation.Every(ctx, lookForLost, func() {
		if err := errors.Join(r.Importing.TakeUpLost(ctx), r.Planning.TakeUpLost(ctx)); err != nil && ctx.Err() == nil {
			slog.ErrorContext(ctx, "looking for imports and plans whose server was lost", "error", err)
		}
	})
}

// Export writes the register, the visits or the call-outs as a file that the import reads back.
func (r *Rooms) Export(ctx context.Context, a organisation.Actor, kind, format string, w io.Writer) error {
	switch kind {
	case "visits":
		return r.Fieldwork.ExportVisits(ctx, a, format, w)
	case "call_outs":
		return r.Evidence.ExportCallOuts(ctx, a, format, w)
	}
	return r.Register.ExportRegister(ctx, a, format, w)
}

// ImportTemplate is a file of a kind with our columns and example rows.
func (r *Rooms) ImportTemplate(kind, format string, w io.Writer) error {
	switch kind {
	case "visits":
		return r.Fieldwork.VisitTemplate(format, w)
	case "call_outs":
		return r.Evidence.CallOutTemplate(format, w)
	}
	return r.Register.RegisterTemplate(format, w)
}
