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

// mostTries is how often a mail is tried before it counts as failed.
const mostTries = 5

// retryAfter is how long a mail waits that was not taken.
const retryAfter = time.Minute

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
	return river.InsertOpts{Queue: queue.Mails, MaxAttempts: 2 * mostTries, UniqueOpts: river.UniqueOpts{ByArgs: true}}
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
	if err == nil && row.Status == "waiting" {
		err = errors.New(row.Error)
	}
	return err
}

// NextRetry is when a mail is tried again.
func (w *deliveryWorker) NextRetry(*river.Job[Delivery]) time.Time { return time.Now().Add(retryAfter) }

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
		return queue.Put(ctx, t, Delivery{t.Org, m.ID}, &river.InsertOpts{ScheduledAt: time.Now().Add(retryAfter)})
	})
	if err != nil {
		return contract.Mail{}, err
	}
	row, err := s.deliver(ctx, t, m.ID)
	return mailView(row), err
}

// deliver hands a waiting mail over and writes down what came of it. The mail is held meanwhile: of two servers that are
// at it the second finds it sent. A server that dies between handing over and writing down sends it again, under the same number.
func (s *Service) deliver(ctx context.Context, t store.Tenant, id uuid.UUID) (store.MailOut, error) {
	var row store.MailOut
	err := t.InTransaction(func(t store.Tenant) error {
		var err error
		if row, err = t.LockMail(id); err != nil || row.Status != "waiting" {
			return err
		}
		row.Tries++
		row.Error = "no mail service is connected"
		if s.mailer != nil {
			row.Error = ""
			if err := s.mailer.Send(ctx, post.Mail{ID: row.ID.String(), To: row.Recipient, Subject: row.Subject, Text: row.Body, FileName: row.FileName, File: row.File}); err != nil {
				row.Error = err.Error()
			}
		}
		switch {
		case row.Error == "":
			row.Status, row.SentAt = "sent", new(s.Stamp())
		case row.Tries >= mostTries:
			row.Status = "failed"
		}
		return store.Save(t, row.ID, &row)
	})
	return row, err
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
