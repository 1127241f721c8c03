package service

import (
	"context"
	"net/mail"
	"strings"

	"nextround/internal/contract"
	"nextround/internal/post"
	"nextround/internal/store"
)

// Mailer hands a mail to whoever delivers it.
type Mailer interface {
	Send(ctx context.Context, m post.Mail) error
}

// mostTries is how often a mail is tried before it counts as failed.
const mostTries = 5

// newestMails is how many mails the list shows.
const newestMails = 100

func mailAddress(text string) (string, error) {
	a, err := mail.ParseAddress(strings.TrimSpace(text))
	if err != nil {
		return "", field("/to", "is not a mail address")
	}
	return a.Address, nil
}

// deliver tries to send a mail that was kept, and writes down what came of it. Failing to deliver is no error: the mail
// waits, and is tried again.
func (s *Service) deliver(ctx context.Context, t store.Tenant, row store.MailOut) (contract.Mail, error) {
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
		row.Status, row.SentAt = "sent", ptr(s.stamp())
	case row.Tries >= mostTries:
		row.Status = "failed"
	}
	return mailView(row), store.Save(t, row.ID, &row)
}

// SendWaiting tries again what could not be delivered, for every organisation; it is called from time to time.
func (s *Service) SendWaiting(ctx context.Context) error {
	waiting, err := s.store.WaitingMails(ctx)
	if err != nil {
		return err
	}
	for _, row := range waiting {
		if _, err := s.deliver(ctx, s.store.For(ctx, row.OrganisationID), row); err != nil {
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
func (s *Service) Mails(ctx context.Context, a Actor) ([]contract.Mail, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	rows, err := s.tenant(ctx, a).NewestMails(newestMails)
	out := []contract.Mail{}
	for _, r := range rows {
		out = append(out, mailView(r))
	}
	return out, err
}
