package standin

import (
	"errors"
	"html/template"
	"io"
	"mime"
	"net"
	"net/http"
	"net/mail"
	"slices"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Letter is a mail that was handed over.
type Letter struct {
	From    string
	To      []string
	Subject string
	At      time.Time
	Content string
}

// Mailbox is a mail server that delivers nothing: a page shows what was handed over.
type Mailbox struct {
	mu      sync.Mutex
	letters []Letter
	now     func() time.Time
}

// NewMailbox makes an empty one.
func NewMailbox(now func() time.Time) *Mailbox { return &Mailbox{now: now} }

// Most that is kept, and the largest mail.
const (
	mostLetters = 200
	mostLetter  = 20 << 20
)

// Letters are the mails so far, the newest first.
func (m *Mailbox) Letters() []Letter {
	m.mu.Lock()
	defer m.mu.Unlock()
	out := slices.Clone(m.letters)
	slices.Reverse(out)
	return out
}

// ServeSMTP takes mails in until the listener closes.
func (m *Mailbox) ServeSMTP(l net.Listener) error {
	s := smtp.NewServer(m)
	s.Domain, s.MaxMessageBytes, s.MaxRecipients = "localhost", mostLetter, 20
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	err := s.Serve(l)
	if errors.Is(err, net.ErrClosed) {
		return nil
	}
	return err
}

// NewSession begins a conversation.
func (m *Mailbox) NewSession(*smtp.Conn) (smtp.Session, error) { return &talk{box: m}, nil }

type talk struct {
	box *Mailbox
	l   Letter
}

func (t *talk) Reset()        { t.l = Letter{} }
func (t *talk) Logout() error { return nil }

func (t *talk) Mail(from string, _ *smtp.MailOptions) error {
	t.l = Letter{From: from}
	return nil
}

func (t *talk) Rcpt(to string, _ *smtp.RcptOptions) error {
	t.l.To = append(t.l.To, to)
	return nil
}

func (t *talk) Data(r io.Reader) error {
	msg, err := mail.ReadMessage(r)
	if err != nil {
		return &smtp.SMTPError{Code: 554, Message: "this is not a mail"}
	}
	if t.l.Subject, err = new(mime.WordDecoder).DecodeHeader(msg.Header.Get("Subject")); err != nil {
		t.l.Subject = msg.Header.Get("Subject")
	}
	body, err := io.ReadAll(msg.Body)
	if err != nil {
		return err
	}
	t.box.mu.Lock()
	defer t.box.mu.Unlock()
	t.l.At, t.l.Content = t.box.now(), string(body)
	t.box.letters = append(t.box.letters, t.l)
	t.box.letters = t.box.letters[max(0, len(t.box.letters)-mostLetters):]
	return nil
}

var page = template.Must(template.New("mailbox").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Simulated mail</title>
<style>body{font:16px/1.5 system-ui;margin:2rem;max-width:60rem}pre{white-space:pre-wrap;border-left:2px solid #bbb;padding-left:1rem;max-height:20rem;overflow:auto}</style>
<h1>Simulated mail</h1><p>Nothing is delivered. {{len .}} handed over, the newest first.</p>
{{range .}}<section><h2>{{.Subject}}</h2><p>To {{range .To}}{{.}} {{end}}from {{.From}}, {{.At.Format "2 January 2006 15:04"}}</p><pre>{{.Content}}</pre></section>{{end}}</html>`))

// ServeHTTP shows the page.
func (m *Mailbox) ServeHTTP(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
	_ = page.Execute(w, m.Letters())
}
