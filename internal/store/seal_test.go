package store_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

// The audit trail is a chain: its rows can be neither changed nor removed, and whoever gets around that is found out.
func TestTheAuditTrailShowsWhatWasTamperedWith(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, err := store.Open(ctx, pgtest.New(t))
	require.NoError(t, err)
	defer st.Close()
	org := store.Organisation{ID: store.NewID(), Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric"}
	require.NoError(t, st.CreateOrganisation(ctx, &org))
	write := func(n int) {
		for i := range n {
			require.NoError(t, st.For(ctx, org.ID).Record(time.Date(2026, time.March, 4, 8, 0, i, 0, time.UTC), uuid.Nil, "unit", uuid.New(), "moved", map[string]int{"n": i}))
		}
	}
	state := func() store.AuditState {
		all, err := st.VerifyAudit(ctx)
		require.NoError(t, err)
		require.Len(t, all, 1)
		return all[0]
	}
	write(5)
	assert.EqualValues(t, 5, state().Waiting)
	n, err := st.SealAudit(ctx, org.ID)
	require.NoError(t, err)
	assert.Equal(t, 5, n)
	write(2)
	_, err = st.SealAudit(ctx, org.ID)
	require.NoError(t, err)
	whole := state()
	assert.Equal(t, [2]int64{7, 0}, [2]int64{whole.Sealed, whole.Waiting})
	assert.Empty(t, whole.Broken)

	require.ErrorContains(t, st.DB.Exec("DELETE FROM audit WHERE seal_no = 7").Error, "neither changed nor removed")
	require.ErrorContains(t, st.DB.Exec("UPDATE audit SET action = 'nothing' WHERE seal_no = 3").Error, "neither changed nor removed")
	around := func(statement string) {
		require.NoError(t, st.DB.Exec("ALTER TABLE audit DISABLE TRIGGER audit_is_kept; "+statement+"; ALTER TABLE audit ENABLE TRIGGER audit_is_kept").Error)
	}
	around("UPDATE audit SET detail = '{\"n\": 9}' WHERE seal_no = 3")
	assert.Contains(t, state().Broken, "row 3")
	around("UPDATE audit SET detail = '{\"n\": 2}' WHERE seal_no = 3")
	assert.Empty(t, state().Broken)
	around("DELETE FROM audit WHERE seal_no = 7")
	assert.Contains(t, state().Broken, "6 of 7")
	around("DELETE FROM audit WHERE seal_no = 2")
	assert.Contains(t, state().Broken, "row 2 is missing")
}
