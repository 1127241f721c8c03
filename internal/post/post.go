// Package post hands mails to an SMTP server.
package post

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"time"

	"github.com/wneessen/go-mail"
)

// Mail is a mail with at most one file.
type Mail struct {
	To, Subject, Text string
	FileName          string
	File              []byte
}

// Server is where mails are handed over. Without User it asks for no sign-in; TLS is used where the server offers it,
// and demanded where there is a password to keep.
type Server struct {
	// Address is host:port.
	Address        string
	From           string
	User, Password string
}

const handOver = 10 * time.Second

// Send hands a mail over.
func (s Server) Send(ctx context.Context, m Mail) error {
	msg := mail.NewMsg()
	if err := errors.Join(msg.From(s.From), msg.To(m.To)); err != nil {
		return fmt.Errorf("the mail's addresses: %w", err)
	}
	msg.Subject(m.Subject)
	msg.SetBodyString(mail.TypeTextPlain, m.Text)
	if len(m.File) > 0 {
		if err := msg.AttachReader(m.FileName, bytes.NewReader(m.File)); err != nil {
			return fmt.Errorf("the mail's file: %w", err)
		}
	}
	host, portText, err := net.SplitHostPort(s.Address)
	if err != nil {
		return fmt.Errorf("the mail server's address: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return fmt.Errorf("the mail server's port: %w", err)
	}
	options := []mail.Option{mail.WithPort(port), mail.WithTimeout(handOver), mail.WithTLSPortPolicy(mail.TLSOpportunistic), mail.WithPort(port)}
	if s.User != "" {
		options = append(options, mail.WithTLSPolicy(mail.TLSMandatory), mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(s.User), mail.WithPassword(s.Password))
	}
	client, err := mail.NewClient(host, options...)
	if err != nil {
		return fmt.Errorf("the mail server: %w", err)
	}
	if err := client.DialAndSendWithContext(ctx, msg); err != nil {
		return fmt.Errorf("handing the mail over: %w", err)
	}
	return nil
}
