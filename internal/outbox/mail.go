package outbox

import (
	"context"
	"net/mail"
	"strings"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/post"
	"nextround/internal/store"
)

// mostTries is how often a mail is tried before it counts as failed.
const mostTries = 5

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

// Deliver tries to send a mail that was kept, and writes down what came of it. Failing to deliver is no error: the mail
// waits, and is tried again.
func (s *Service) Deliver(ctx context.Context, t store.Tenant, row store.MailOut) (contract.Mail, error) {
	row.Tries++
	row.Error = "no mail service is connected"
	if s.mailer != nil {
		row.Error = ""
		if err := s.mailer.Send(ctx, post.Mail{To: row.Recipient, Subject: row.Subject, Text: row.Body, FileName: row.FileName, File: row.File}); err != nil {
			row.Error = err.Error()
		}
	}
	switch {
	case row.Error == "":
		row.Status, row.SentAt = "sent", new(s.Stamp())
	case row.Tries >= mostTries:
		row.Status = "failed"
	}
	return mailView(row), store.Save(t, row.ID, &row)
}

// SendWaiting tries again what could not be delivered, for every organisation; it is called from time to time.
func (s *Service) SendWaiting(ctx context.Context) error {
	waiting, err := s.Store.WaitingMails(ctx)
	if err != nil {
		return err
	}
	for _, row := range waiting {
		if _, err := s.Deliver(ctx, s.Store.For(ctx, row.OrganisationID), row); err != nil {
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
