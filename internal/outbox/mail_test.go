package outbox_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

// A mail that cannot be handed over is kept and tried again, five times in all; none is sent twice.
func TestMailsAreTriedAgain(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	_, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "nobody")
	assert.Equal(t, "/to", roomstest.FieldsOf(t, err)[0].Path)
	o.Err = roomstest.ErrOutside
	first, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "Desk <desk@hall.example>")
	require.NoError(t, err)
	assert.Equal(t, contract.MailStatusWaiting, first.Status)
	assert.Contains(t, first.Error, "the line is dead")
	o.Err = nil
	require.NoError(t, h.Rooms.Outbox.SendWaiting(h.Ctx))
	require.NoError(t, h.Rooms.Outbox.SendWaiting(h.Ctx))
	require.Len(t, o.Sent, 1, "once")
	assert.Equal(t, "desk@hall.example", o.Sent[0].To)
	assert.Contains(t, o.Sent[0].Text, "A-1 was cleaned")
	assert.Equal(t, "%PDF", string(o.Sent[0].File[:4]))
	o.Err = roomstest.ErrOutside
	_, err = h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "gone@hall.example")
	require.NoError(t, err)
	for range 6 {
		require.NoError(t, h.Rooms.Outbox.SendWaiting(h.Ctx))
	}
	mails, err := h.Rooms.Outbox.Mails(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, mails, 2)
	assert.Equal(t, contract.MailStatusFailed, mails[0].Status)
	assert.Equal(t, 5, mails[0].Tries)
	assert.Equal(t, contract.MailStatusSent, mails[1].Status)
	assert.NotNil(t, mails[1].SentAt)
	_, err = h.Rooms.Outbox.Mails(h.Ctx, h.Technician)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}
