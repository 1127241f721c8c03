package outbox

import (
	"context"
	"errors"
	"net/mail"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/post"
	"nextround/internal/queue"
	"nextround/internal/store"
)

// waits are how long a mail that was not taken waits before each next try: over a day in all, more rarely as it goes on.
var waits = []time.Duration{
	time.Minute, 2 * time.Minute, 5 * time.Minute, 10 * time.Minute, 20 * time.Minute, 30 * time.Minute,
	time.Hour, time.Hour, 2 * time.Hour, 2 * time.Hour, 3 * time.Hour, 3 * time.Hour, 4 * time.Hour, 4 * time.Hour, 4 * time.Hour,
}

// waitAfter is how long a mail waits after so many tries.
func waitAfter(tries int) time.Duration { return waits[min(max(tries, 1), len(waits))-1] }

// inHand is after how long a mail that was claimed and neither sent nor given back is taken for lost with its server.
const inHand = 5 * time.Minute

// newestMails is how many mails the list shows.
const newestMails = 100

// MailAddress is the bare address in what somebody typed.
func MailAddress(text string) (string, error) {
	a, err := mail.ParseAddress(strings.TrimSpace(text))
	if err != nil {
		return "", invalid.At("/to", "is not a mail address")
	}
	return a.Address, nil
}

// Delivery is the work of delivering a mail that was kept.
type Delivery struct {
	Org  uuid.UUID `json:"org"`
	Mail uuid.UUID `json:"mail"`
}

// Kind names the work in the queue.
func (Delivery) Kind() string { return "mail" }

// InsertOpts lets a mail be in the queue once. What is tried how often is kept with the mail, not with the work.
func (Delivery) InsertOpts() river.InsertOpts {
	return river.InsertOpts{Queue: queue.Mails, MaxAttempts: 3 * len(waits), UniqueOpts: river.UniqueOpts{ByArgs: true}}
}

type deliveryWorker struct {
	river.WorkerDefaults[Delivery]
	s *Service
}

// Work does the work of the queue.
func (w *deliveryWorker) Work(ctx context.Context, job *river.Job[Delivery]) error {
	return w.s.Work(ctx, job.Args)
}

// Work delivers a mail that waits; an error means that it waits on.
func (s *Service) Work(ctx context.Context, d Delivery) error {
	row, err := s.deliver(ctx, s.Store.For(ctx, d.Org), d.Mail)
	if err == nil && (row.Status == "waiting" || row.Status == "sending") {
		err = errors.New("not sent yet: " + row.Error)
	}
	return err
}

// NextRetry is when a mail is tried again.
func (w *deliveryWorker) NextRetry(j *river.Job[Delivery]) time.Time {
	return time.Now().Add(waitAfter(j.Attempt))
}

// AddWorkers says how mails are delivered.
func (s *Service) AddWorkers(w *river.Workers) { river.AddWorker(w, &deliveryWorker{s: s}) }

// Send keeps a mail, with whatever else belongs to it, and tries to deliver it at once. Failing to deliver is no error: the
// mail waits in the queue, and is tried again.
func (s *Service) Send(ctx context.Context, t store.Tenant, m store.MailOut, with func(store.Tenant) error) (contract.Mail, error) {
	m.OrganisationID, m.ID, m.Status = t.Org, store.NewID(), "waiting"
	err := t.InTransaction(func(t store.Tenant) error {
		if with != nil {
			if err := with(t); err != nil {
				return err
			}
		}
		if err := store.Insert(t, m); err != nil {
			return err
		}
		return queue.Put(ctx, t, Delivery{t.Org, m.ID}, &river.InsertOpts{ScheduledAt: time.Now().Add(waits[0])})
	})
	if err != nil {
		return contract.Mail{}, err
	}
	row, err := s.deliver(ctx, t, m.ID)
	return mailView(row), err
}

// deliver hands a waiting mail over and writes down what came of it. It is claimed first, so that of two servers one sends
// it. A mail whose server died while it was in hand may have been sent: it is told as unknown and not sent again by itself.
func (s *Service) deliver(ctx context.Context, t store.Tenant, id uuid.UUID) (store.MailOut, error) {
	row, mine, err := s.claim(t, id)
	if err != nil || !mine {
		return row, err
	}
	row.Status, row.ClaimedAt, row.Error = "waiting", nil, "no mail service is connected"
	if s.mailer != nil {
		row.Error = ""
		if err := s.mailer.Send(ctx, post.Mail{ID: row.ID.String(), To: row.Recipient, Subject: row.Subject, Text: row.Body, FileName: row.FileName, File: row.File}); err != nil {
			row.Error = err.Error()
		}
	}
	switch {
	case row.Error == "":
		row.Status, row.SentAt = "sent", new(s.Stamp())
	case row.Tries > len(waits):
		row.Status = "failed"
	}
	return row, store.Save(t, row.ID, &row)
}

// claim takes a mail in hand; false where it is not waiting.
func (s *Service) claim(t store.Tenant, id uuid.UUID) (row store.MailOut, mine bool, err error) {
	err = t.InTransaction(func(t store.Tenant) error {
		if row, err = t.LockMail(id); err != nil {
			return err
		}
		now := s.RealNow()
		switch {
		case row.Status == "sending" && row.ClaimedAt != nil && now.Sub(*row.ClaimedAt) > inHand:
			row.Status, row.Error = "unknown", "its server stopped while it was handed over; it may have been sent"
			return store.Save(t, row.ID, &row)
		case row.Status != "waiting":
			return nil
		}
		mine = true
		row.Tries++
		row.Status, row.ClaimedAt = "sending", &now
		return store.Save(t, row.ID, &row)
	})
	return row, mine, err
}

// QueueWaiting puts every mail that waits into the queue: those kept by an earlier version are in none.
func (s *Service) QueueWaiting(ctx context.Context) error {
	waiting, err := s.Store.WaitingMails(ctx)
	if err != nil {
		return err
	}
	for _, row := range waiting {
		err := s.Store.For(ctx, row.OrganisationID).InTransaction(func(t store.Tenant) error {
			return queue.Put(ctx, t, Delivery{t.Org, row.ID}, nil)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func mailView(r store.MailOut) contract.Mail {
	return contract.Mail{
		ID: r.ID, To: r.Recipient, Subject: r.Subject, Status: contract.MailStatus(r.Status), Tries: r.Tries, Error: r.Error, At: r.At,
		SentAt: r.SentAt, VisitID: r.VisitID,
	}
}

// Mails lists what was sent, or waits to be, the newest first.
func (s *Service) Mails(ctx context.Context, a organisation.Actor) ([]contract.Mail, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	rows, err := s.Tenant(ctx, a).NewestMails(newestMails)
	out := []contract.Mail{}
	for _, r := range rows {
		out = append(out, mailView(r))
	}
	return out, err
}
