package outbox_test

import (
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/rooms"
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
	require.NoError(t, deliver(h, first.ID))
	require.NoError(t, deliver(h, first.ID), "one that was sent is done")
	require.Len(t, o.Sent, 1, "once")
	assert.Equal(t, "desk@hall.example", o.Sent[0].To)
	assert.Contains(t, o.Sent[0].Text, "A-1 was cleaned")
	assert.Equal(t, "%PDF", string(o.Sent[0].File[:4]))
	o.Err = roomstest.ErrOutside
	gone, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "gone@hall.example")
	require.NoError(t, err)
	for range 14 {
		require.ErrorContains(t, deliver(h, gone.ID), "the line is dead", "the queue tries again")
	}
	require.NoError(t, deliver(h, gone.ID), "the sixteenth was the last, a day and more after the first")
	require.NoError(t, deliver(h, gone.ID))
	mails, err := h.Rooms.Outbox.Mails(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, mails, 2)
	assert.Equal(t, contract.MailStatusFailed, mails[0].Status)
	assert.Equal(t, 16, mails[0].Tries)
	assert.Equal(t, contract.MailStatusSent, mails[1].Status)
	assert.NotNil(t, mails[1].SentAt)
	_, err = h.Rooms.Outbox.Mails(h.Ctx, h.Technician)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// A mail whose server died while it was handing it over may have been sent: it is told so, and not sent a second time.
func TestAMailInHandIsNotSentTwice(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	o.Err = roomstest.ErrOutside
	m, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "desk@hall.example")
	require.NoError(t, err)
	o.Err = nil
	claimed := func(ago time.Duration) {
		require.NoError(t, h.Store.DB.Exec("UPDATE mail_out SET status = 'sending', claimed_at = ? WHERE id = ?", h.Now.Add(-ago), m.ID).Error)
	}
	claimed(time.Minute)
	require.Error(t, deliver(h, m.ID), "another server has it in hand")
	claimed(6 * time.Minute)
	require.NoError(t, deliver(h, m.ID))
	list, err := h.Rooms.Outbox.Mails(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, contract.MailStatusUnknown, list[0].Status)
	assert.Empty(t, o.Sent)
}

// deliver does the queue's work on a mail.
func deliver(h *roomstest.House, id uuid.UUID) error {
	return h.Rooms.Outbox.Work(h.Ctx, outbox.Delivery{Org: h.Manager.Org.ID, Mail: id})
}

// A mail kept by one server is sent by the queue, once, though two servers work on it; what is put down twice is one piece of work.
func TestTwoServersSendAMailOnce(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	o.Err = roomstest.ErrOutside
	const mails = 5
	for range mails {
		_, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "desk@hall.example")
		require.NoError(t, err)
	}
	o.Err = nil
	var servers []*rooms.Rooms
	for range 2 {
		s := rooms.New(h.Store, rooms.Options{Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}, Mailer: o})
		servers = append(servers, s)
	}
	queued := func() (n int64) {
		require.NoError(t, h.Store.DB.Raw("SELECT count(*) FROM river.river_job WHERE kind = 'mail'").Scan(&n).Error)
		return n
	}
	assert.EqualValues(t, mails, queued())
	require.NoError(t, servers[0].Outbox.QueueWaiting(h.Ctx))
	assert.EqualValues(t, mails, queued(), "each is in the queue once")
	require.NoError(t, h.Store.DB.Exec("UPDATE river.river_job SET scheduled_at = now(), state = 'available' WHERE kind = 'mail'").Error)
	for _, s := range servers {
		require.NoError(t, s.StartQueue(h.Ctx))
		defer s.Close()
	}
	require.Eventually(t, func() bool {
		list, err := h.Rooms.Outbox.Mails(h.Ctx, h.Manager)
		return err == nil && !slices.ContainsFunc(list, func(m contract.Mail) bool { return m.Status != contract.MailStatusSent })
	}, 2*time.Minute, 50*time.Millisecond)
	ids := map[string]bool{}
	for _, m := range o.Taken() {
		ids[m.ID] = true
	}
	assert.Len(t, o.Taken(), mails)
	assert.Len(t, ids, mails, "each has a number of its own")
}
