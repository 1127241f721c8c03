package service_test

import (
	"errors"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// at runs n callers at the same moment and counts who got through; the others must have met a conflict.
func at(t *testing.T, n int, do func() error) int {
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
			var conflict service.Conflict
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

func TestOneOfManyPublishesTheDay(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 120, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	h.planned()
	n := h.next()
	assert.Equal(t, 1, at(t, 6, func() error {
		_, err := h.svc.PublishRounds(h.ctx, h.manager, store.NewID(), publication(n.Version, *n.Round))
		return err
	}))
	rounds, err := h.svc.Rounds(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Len(t, rounds, 1)
}

// Two managers at once: whoever comes second is told, and nothing of theirs is stored.
func TestOneOfManyMovesANotch(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 120, 1, 2, 3, 4, 5)
	h.unit("IM-1", "ice_machine", "2026-01-20")
	p := h.planned()
	j, r, _ := jobNamed(p, "IM-1", contract.JobKindLight)
	day := r.Day.Add(5)
	assert.Equal(t, 1, at(t, 5, func() error {
		_, err := h.svc.MovePlan(h.ctx, h.manager, contract.PlanMoves{Version: p.Version, Moves: []contract.PlanMove{{Key: j.Key, Day: &day}}})
		return err
	}))
	assert.Equal(t, p.Version+1, h.next().Version)
}

func TestOneOfManyAnswersAProposal(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	h.submit(h.visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	id := *task(h.look(u.ID), contract.TaskKindLight).Proposal.ID
	assert.Equal(t, 1, at(t, 6, func() error {
		_, err := h.svc.DecideProposal(h.ctx, h.manager, id, contract.Decision{Accept: true})
		return err
	}))
	assert.Len(t, task(h.look(u.ID), contract.TaskKindLight).Changes, 1)
}

func TestVisitsSentAtOnceAreAllStoredOnce(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	v := h.visit(u, "2026-03-01", contract.TaskKindLight, 2, 0, contract.FaceLook)
	same := store.NewID()
	assert.Equal(t, 6, at(t, 6, func() error {
		_, err := h.svc.SubmitVisit(h.ctx, h.technician, same, v)
		return err
	}), "all senders of one visit are told that it is stored")
	assert.Len(t, h.look(u.ID).Visits, 1)
	assert.Equal(t, 6, at(t, 6, func() error {
		_, err := h.svc.SubmitVisit(h.ctx, h.technician, store.NewID(), v)
		return err
	}))
	u = h.look(u.ID)
	assert.Len(t, u.Visits, 7)
	var open int64
	require.NoError(t, h.store.DB.Raw("SELECT count(*) FROM proposal WHERE status = 'open' GROUP BY task_id ORDER BY 1 DESC LIMIT 1").Scan(&open).Error)
	assert.LessOrEqual(t, open, int64(1), "one open proposal a task")
}

func TestHistoryIsTakenInWholeOrNotAtAll(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	good := h.visit(u, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook)
	bad := h.visit(u, "2026-02-20", contract.TaskKindLight, 9, 0, contract.FaceLook)
	err := h.svc.LoadHistory(h.ctx, h.manager, []contract.NewVisit{good, bad})
	assert.ErrorContains(t, err, "/1/found")
	assert.Empty(t, h.look(u.ID).Visits)
	assert.ErrorIs(t, h.svc.LoadHistory(h.ctx, h.technician, nil), service.ErrForbidden)
	bad.Coils[0].Sides[0].Found.Grade = 3
	require.NoError(t, h.svc.LoadHistory(h.ctx, h.manager, []contract.NewVisit{good, bad}))
	u = h.look(u.ID)
	assert.Len(t, u.Visits, 2)
	assert.Equal(t, "2026-03-22", task(u, contract.TaskKindLight).Due.String())
	assert.Equal(t, contract.RateOwn, *h.portfolioLine("IM-1").Coil.RateFrom, "what follows is worked out at the end")
}

// Every change made by hand leaves one audit row with who and when.
func TestChangesLeaveATrail(t *testing.T) {
	h := newHouse(t)
	h.crew("Crew A", 120, 1, 2, 3, 4, 5)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	_, err := h.svc.AddSiteFactor(h.ctx, h.manager, contract.NewSiteFactor{
		FactorID: h.cat.Factors[0].ID, Scope: contract.FactorScopeUnit, ScopeID: u.ID, From: calendar.MustParse("2026-01-01"),
	})
	require.NoError(t, err)
	h.submit(h.visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	_, err = h.svc.SetInterval(h.ctx, h.manager, task(u, contract.TaskKindLight).TaskID, contract.OwnInterval{Days: 20, Reason: "fair"})
	require.NoError(t, err)
	h.planned()
	r := h.publish(*h.next().Round)[0]
	_, err = h.svc.WithdrawRound(h.ctx, h.manager, r.ID)
	require.NoError(t, err)
	var trail []string
	require.NoError(t, h.store.DB.Raw("SELECT entity || ' ' || action FROM audit ORDER BY id").Scan(&trail).Error)
	assert.Equal(t, []string{
		"crew added", "unit added", "unit factor added", "visit submitted", "unit interval set", "plan made", "round published", "plan published", "round withdrawn", "plan round withdrawn",
	}, trail)
	var byTechnician int64
	require.NoError(t, h.store.DB.Raw("SELECT count(*) FROM audit WHERE account_id = ?", h.technician.AccountID).Scan(&byTechnician).Error)
	assert.Equal(t, int64(1), byTechnician)
}
