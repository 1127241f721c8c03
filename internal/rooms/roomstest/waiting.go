package roomstest

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// AtOnce runs n callers at the same moment and counts who got through; the others must have met a conflict.
func AtOnce(t *testing.T, n int, do func() error) int {
	t.Helper()
	var group sync.WaitGroup
	var lock sync.Mutex
	through := 0
	start := make(chan struct{})
	for range n {
		group.Go(func() {
			<-start
			err := do()
			lock.Lock()
			defer lock.Unlock()
			var conflict organisation.Conflict
			if err == nil {
				through++
			} else {
				assert.True(t, errors.As(err, &conflict) || errors.Is(err, store.ErrStale) || errors.Is(err, store.ErrDuplicate), "%v", err)
			}
		})
	}
	close(start)
	group.Wait()
	return through
}

// Server is one more server over the organisation's database, which works on what is queued until it is closed or the test ends.
func (h *House) Server() *rooms.Rooms {
	s := rooms.New(h.Store, rooms.Options{Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
	require.NoError(h.t, s.StartQueue(context.WithoutCancel(h.Ctx)))
	h.t.Cleanup(s.Close)
	return s
}

// ImportEnds waits until an import is over.
func (h *House) ImportEnds(id uuid.UUID) (run contract.ImportRun) {
	require.Eventually(h.t, func() bool {
		var err error
		run, err = h.Rooms.Importing.ImportRun(h.Ctx, h.Manager, id)
		return err == nil && run.Status != contract.ImportRunStatusRunning
	}, WaitLong, WaitStep)
	return run
}

// ImportBegins waits until a server has taken an import up.
func (h *House) ImportBegins(id uuid.UUID) {
	require.Eventually(h.t, func() bool {
		run, err := h.Rooms.Importing.ImportRun(h.Ctx, h.Manager, id)
		return err == nil && run.Step != store.StepWaiting
	}, WaitLong, WaitStep)
}

// PlanEnds waits until the newest plan is made, or failed.
func (h *House) PlanEnds() (run contract.PlanRun) {
	require.Eventually(h.t, func() bool {
		var err error
		run, err = h.Rooms.Planning.PlanRun(h.Ctx, h.Manager)
		return err == nil && run.Status != contract.PlanRunStatusRunning
	}, WaitLong, WaitStep)
	return run
}

// RunEnds waits until a run is over.
func (h *House) RunEnds(id uuid.UUID) (run contract.EstimationRun) {
	require.Eventually(h.t, func() bool {
		var err error
		run, err = h.Rooms.Learning.Estimation(h.Ctx, h.Manager, id)
		return err == nil && run.Status != contract.EstimationRunStatusQueued && run.Status != contract.EstimationRunStatusRunning
	}, WaitLong, WaitStep)
	return run
}

// How long something in the background is waited for, and how often it is looked at.
const (
	WaitLong = 5 * time.Minute
	WaitStep = 20 * time.Millisecond
)
