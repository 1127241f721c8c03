// Package post hands mails to an SMTP server.
package post

import (
	"bytes"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/wneessen/go-mail"
)

// Mail is a mail with at most one file.
type Mail struct {
	// ID stays the same when a mail is sent a second time, so that the servers on its way can tell.
	ID                string
	To, Subject, Text string
	FileName          string
	File              []byte
}

// Server is where mails are handed over. Without User it asks for no sign-in; TLS is used where the server offers it
// (STARTTLS), and demanded where there is a password to keep. On port 465, and at an address that begins with smtps://, the line is
// encrypted from the first byte.
type Server struct {
	// Address is host:port or smtps://host:port.
	Address        string
	From           string
	User, Password string
	// TLS is nil for the machine's own list of trusted issuers.
	TLS *tls.Config
}

const (
	implicitScheme = "smtps://"
	implicitPort   = 465
)

const handOver = 10 * time.Second

// Send hands a mail over.
func (s Server) Send(ctx context.Context, m Mail) error {
	msg := mail.NewMsg()
	if err := errors.Join(msg.From(s.From), msg.To(m.To)); err != nil {
		return fmt.Errorf("the mail's addresses: %w", err)
	}
	if m.ID != "" {
		msg.SetMessageIDWithValue(m.ID + "@next-round")
	}
	msg.Subject(m.Subject)
	msg.SetBodyString(mail.TypeTextPlain, m.Text)
	if len(m.File) > 0 {
		if err := msg.AttachReader(m.FileName, bytes.NewReader(m.File)); err != nil {
			return fmt.Errorf("the mail's file: %w", err)
		}
	}
	client, err := s.client()
	if err != nil {
		return err
	}
	if err := client.DialAndSendWithContext(ctx, msg); err != nil {
		return fmt.Errorf("handing the mail over: %w", err)
	}
	return nil
}

func (s Server) client() (*mail.Client, error) {
	address, implicit := strings.CutPrefix(s.Address, implicitScheme)
	host, portText, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("the mail server's address: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return nil, fmt.Errorf("the mail server's port: %w", err)
	}
	policy := mail.TLSOpportunistic
	if s.User != "" {
		policy = mail.TLSMandatory
	}
	options := []mail.Option{mail.WithTimeout(handOver), mail.WithTLSPolicy(policy), mail.WithPort(port)}
	if implicit || port == implicitPort {
		options = append(options, mail.WithSSL())
	}
	if s.User != "" {
		options = append(options, mail.WithSMTPAuth(mail.SMTPAuthAutoDiscover), mail.WithUsername(s.User), mail.WithPassword(s.Password))
	}
	if s.TLS != nil {
		options = append(options, mail.WithTLSConfig(s.TLS))
	}
	client, err := mail.NewClient(host, options...)
	if err != nil {
		return nil, fmt.Errorf("the mail server: %w", err)
	}
	return client, nil
}
