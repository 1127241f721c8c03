package standin

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"
)

// Addresses are where the stand-ins are to be found.
type Addresses struct {
	// Gauges, Weather and MailPage are http addresses; SMTP is host:port.
	Gauges, Weather, MailPage, SMTP string
}

// Options for Start; an empty address takes a free port on loopback.
type Options struct {
	Units                           []Unit
	Seed                            uint64
	Now                             func() time.Time
	Gauges, Weather, MailPage, SMTP string
}

// Set is a running set of stand-ins.
type Set struct {
	Addresses
	Mailbox *Mailbox
	close   []func() error
}

// Start runs all stand-ins until Close.
func Start(ctx context.Context, o Options) (*Set, error) {
	if o.Now == nil {
		o.Now = time.Now
	}
	s := &Set{Mailbox: NewMailbox(o.Now)}
	for _, x := range []struct {
		at      string
		handler http.Handler
		address *string
	}{
		{o.Gauges, NewGauges(o.Units, o.Seed, o.Now), &s.Gauges}, {o.Weather, Weather{o.Seed}, &s.Weather}, {o.MailPage, s.Mailbox, &s.MailPage},
	} {
		l, err := listen(ctx, x.at)
		if err != nil {
			return nil, errors.Join(err, s.Close())
		}
		server := &http.Server{Handler: x.handler, ReadHeaderTimeout: 5 * time.Second}
		s.close = append(s.close, server.Close)
		*x.address = "http://" + l.Addr().String()
		go func() { _ = server.Serve(l) }()
	}
	l, err := listen(ctx, o.SMTP)
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	s.SMTP = l.Addr().String()
	s.close = append(s.close, l.Close)
	go func() { _ = s.Mailbox.ServeSMTP(l) }()
	return s, nil
}

func listen(ctx context.Context, at string) (net.Listener, error) {
	if at == "" {
		at = "127.0.0.1:0"
	}
	var lc net.ListenConfig
	l, err := lc.Listen(ctx, "tcp", at)
	if err != nil {
		return nil, fmt.Errorf("a simulated service at %s: %w", at, err)
	}
	return l, nil
}

// Close stops them.
func (s *Set) Close() error {
	var all []error
	for _, f := range s.close {
		all = append(all, f())
	}
	s.close = nil
	return errors.Join(all...)
}
