// Package queue keeps work in the database until one of the servers that share it has done it.
// A room says what its work is and how it is done; here it is put down, with the transaction it belongs to, and worked on.
// It never knows what the work means.
package queue

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"nextround/internal/store"
)

// The queues: long work never keeps mails waiting.
const (
	Long    = river.QueueDefault
	Mails   = "mails"
	Imports = "imports"
	Plans   = "plans"
)

// Longest is how long an import or a plan may take. They tell of themselves while they are at work and are taken up by another
// server as soon as they fall silent; this only clears what was left of them in the queue.
const Longest = 3 * time.Hour

// A piece of other work may take a minute; what a server that died was doing is taken up by another soon after.
const (
	mostTime    = time.Minute
	rescueAfter = 90 * time.Second
)

// Put puts work down with the transaction. Work of the same arguments that is already waiting, under way or lately done is not put down twice
// where the work asks for that.
func Put(ctx context.Context, t store.Tenant, args river.JobArgs, o *river.InsertOpts) error {
	tx, ok := t.Transaction()
	if !ok {
		return errors.New("work is put into the queue within a transaction")
	}
	client, err := river.NewClient[*sql.Tx](riverdatabasesql.New(nil), &river.Config{Schema: store.QueueSchema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("reaching the queue: %w", err)
	}
	_, err = client.InsertTx(ctx, tx, args, o)
	return err
}

// Start works on what is queued until stop is called. Work named in regular is put down once in every span of time, by
// whichever server leads.
func Start(ctx context.Context, st *store.Store, workers *river.Workers, regular ...*river.PeriodicJob) (stop func(context.Context) error, err error) {
	client, err := river.NewClient[pgx.Tx](riverpgxv5.New(st.Pool), &river.Config{
		Schema: store.QueueSchema, Workers: workers, PeriodicJobs: regular,
		Queues:   map[string]river.QueueConfig{Long: {MaxWorkers: 1}, Mails: {MaxWorkers: 1}, Imports: {MaxWorkers: 1}, Plans: {MaxWorkers: 2}},
		PollOnly: st.Pooled, JobTimeout: mostTime, RescueStuckJobsAfter: rescueAfter, FetchPollInterval: time.Second, Logger: slog.New(slog.DiscardHandler),
	})
	if err != nil {
		return nil, fmt.Errorf("making the queue: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		return nil, fmt.Errorf("starting the queue: %w", err)
	}
	return func(ctx context.Context) error {
		ctx, cancel := context.WithTimeout(ctx, mostTime)
		defer cancel()
		return client.StopAndCancel(ctx)
	}, nil
}
