// Package app runs the whole application in this process, for tests that drive it through a browser.
package app

import (
	"context"
	"fmt"
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

// Start serves a migrated database with the demonstration's clock; with sample it holds the sample data.
func Start(ctx context.Context, database string, sample bool) (*App, error) {
	st, err := store.Open(ctx, database)
	if err != nil {
		return nil, err
	}
	// Passwords are cheap here: tests sign in often and guard nothing.
	svc := service.New(st, service.Options{
		Now: func() time.Time { return demo.Clock }, ClockPinned: true, Hash: service.HashCost{Passes: 1, MemoryKiB: 64},
	})
	if sample {
		if err := demo.Load(ctx, svc); err != nil {
			st.Close()
			return nil, fmt.Errorf("making the sample data: %w", err)
		}
	}
	server, err := api.NewServer(svc, st, api.Options{Pages: web.Files(), Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		st.Close()
		return nil, err
	}
	h := httptest.NewServer(server)
	return &App{URL: h.URL, Service: svc, Store: st, close: func() {
		h.Close()
		server.Close()
		st.Close()
	}}, nil
}

// Close stops the server.
func (a *App) Close() { a.close() }
