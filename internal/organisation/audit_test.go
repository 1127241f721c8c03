package organisation_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

// Every change made by hand leaves one audit row with who and when.
func TestChangesLeaveATrail(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 120, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	_, err := h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, contract.NewSiteFactor{
		FactorID: h.Cat.Factors[0].ID, Scope: contract.FactorScopeUnit, ScopeID: u.ID, From: calendar.MustParse("2026-01-01"),
	})
	require.NoError(t, err)
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, roomstest.Task(u, contract.TaskKindLight).TaskID, contract.OwnInterval{Days: 20, Reason: "fair"})
	require.NoError(t, err)
	h.Planned()
	r := h.Publish(*h.Next().Round)[0]
	_, err = h.Rooms.Planning.WithdrawRound(h.Ctx, h.Manager, r.ID)
	require.NoError(t, err)
	var trail []string
	require.NoError(t, h.Store.DB.Raw("SELECT entity || ' ' || action FROM audit ORDER BY id").Scan(&trail).Error)
	assert.Equal(t, []string{
		"crew added", "unit added", "unit factor added", "visit submitted", "unit interval set", "plan made", "round published", "plan published", "round withdrawn", "plan round withdrawn",
	}, trail)
	var byTechnician int64
	require.NoError(t, h.Store.DB.Raw("SELECT count(*) FROM audit WHERE account_id = ?", h.Technician.AccountID).Scan(&byTechnician).Error)
	assert.Equal(t, int64(1), byTechnician)
}
