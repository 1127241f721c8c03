package queue_test

import (
	"context"
	"errors"
	"sync/atomic"
	"testing"
	"time"

	"github.com/riverqueue/river"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg/pgtest"
	"nextround/internal/queue"
	"nextround/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// errand is work for the tests.
type errand struct {
	Name string `json:"name"`
}

func (errand) Kind() string { return "errand" }

func (errand) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queue.Mails, UniqueOpts: river.UniqueOpts{ByArgs: true}}
}

type runner struct {
	river.WorkerDefaults[errand]
	done *atomic.Int64
}

func (r *runner) Work(context.Context, *river.Job[errand]) error {
	r.done.Add(1)
	return nil
}

// Work goes in with the transaction it belongs to: rolled back it was never there; put down twice it is done once, by whichever
// of two servers comes first.
func TestWorkIsDoneOnceAndOnlyIfItsTransactionHolds(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	tenant := st.For(t.Context(), store.NewID())
	assert.ErrorContains(t, queue.Put(t.Context(), tenant, errand{"none"}, nil), "within a transaction")

	second := errors.New("changed its mind")
	err = tenant.InTransaction(func(t2 store.Tenant) error {
		require.NoError(t, queue.Put(t.Context(), t2, errand{"rolled back"}, nil))
		return second
	})
	require.ErrorIs(t, err, second)
	for _, name := range []string{"a", "b", "a", "b", "a"} {
		require.NoError(t, tenant.InTransaction(func(t2 store.Tenant) error { return queue.Put(t.Context(), t2, errand{name}, nil) }))
	}
	count := func(where string) (n int64) {
		require.NoError(t, st.DB.Table("river.river_job").Where(where).Count(&n).Error)
		return n
	}
	assert.EqualValues(t, 2, count("kind = 'errand'"))

	var done atomic.Int64
	for range 2 {
		workers := river.NewWorkers()
		river.AddWorker(workers, &runner{done: &done})
		stop, err := queue.Start(t.Context(), st, workers)
		require.NoError(t, err)
		defer func() { assert.NoError(t, stop(context.Background())) }()
	}
	require.Eventually(t, func() bool { return count("state = 'completed'") == 2 }, 2*time.Minute, 50*time.Millisecond)
	assert.EqualValues(t, 2, done.Load())
	require.NoError(t, tenant.InTransaction(func(t2 store.Tenant) error { return queue.Put(t.Context(), t2, errand{"a"}, nil) }))
	assert.EqualValues(t, 2, count("kind = 'errand'"), "what was lately done is not done again")
}
