// Package app runs the whole application in this process, for tests that drive it through a browser.
package app

import (
	"context"
	"io"
	"log/slog"
	"net/http/httptest"
	"time"

	"nextround/internal/api"
	"nextround/internal/demo"
	"nextround/internal/service"
	"nextround/internal/store"
	"nextround/web"
)

// App is a running server.
type App struct {
	URL     string
	Service *service.Service
	Store   *store.Store
	close   func()
}

// Start serves a migrated database with the demonstration's clock.
func Start(ctx context.Context, database string) (*App, error) {
	st, err := store.Open(ctx, database)
	if err != nil {
		return nil, err
	}
	// Passwords are cheap here: tests sign in often and guard nothing.
	svc := service.New(st, service.Options{
		Now: func() time.Time { return demo.Clock }, ClockPinned: true, Hash: service.HashCost{Passes: 1, MemoryKiB: 64},
	})
	server, err := api.NewServer(svc, st, api.Options{Pages: web.Files(), Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		st.Close()
		return nil, err
	}
	h := httptest.NewServer(server)
	return &App{URL: h.URL, Service: svc, Store: st, close: func() {
		h.Close()
		server.Close()
		svc.Close()
		st.Close()
	}}, nil
}

// Close stops the server.
func (a *App) Close() { a.close() }
