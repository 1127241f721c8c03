// Package app runs the whole application in this process, for tests that drive it through a browser.
package app

import (
	"context"
	"io"
	"log/slog"
	"net/http/httptest"
	"time"

	"nextround/core/heat"
	"nextround/internal/api"
	"nextround/internal/demo"
	"nextround/internal/instrument"
	"nextround/internal/organisation"
	"nextround/internal/post"
	"nextround/internal/rooms"
	"nextround/internal/standin"
	"nextround/internal/store"
	"nextround/internal/weather"
	"nextround/web"
)

// App is a running server.
type App struct {
	URL     string
	Service *rooms.Rooms
	Store   *store.Store
	Outside *standin.Set
	close   func()
}

// simulated starts the outside services, with a gauge set for every unit there is: half blocked, whatever the class.
func simulated(ctx context.Context, st *store.Store) (*standin.Set, error) {
	var units []standin.Unit
	rows := st.DB.WithContext(ctx).Raw("SELECT tag, refrigerant, coalesce(amps, 0) AS amps, coalesce(volts, 0) AS volts FROM unit")
	if err := rows.Scan(&units).Error; err != nil {
		return nil, err
	}
	for i := range units {
		units[i].BlockedShare, units[i].CleanK, units[i].EvaporatingC, units[i].AmbientC, units[i].RoomC = .55, heat.CleanPlugIn, -6, 20, 5
	}
	return standin.Start(ctx, standin.Options{Units: units, Seed: 4, Now: func() time.Time { return demo.Clock }})
}

// Start serves a migrated database with the demonstration's clock.
func Start(ctx context.Context, database string) (*App, error) {
	st, err := store.Open(ctx, database)
	if err != nil {
		return nil, err
	}
	// Passwords are cheap here: tests sign in often and guard nothing.
	outside, err := simulated(ctx, st)
	if err != nil {
		st.Close()
		return nil, err
	}
	svc := rooms.New(st, rooms.Options{
		Now: func() time.Time { return demo.Clock }, ClockPinned: true, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64},
		Gauges: instrument.Gauges{Address: outside.Gauges}, Forecasts: weather.Service{Address: outside.Weather},
		Mailer: post.Server{Address: outside.SMTP, From: "next-round@hallvik.example"},
	})
	if err := svc.StartQueue(ctx); err != nil {
		st.Close()
		return nil, err
	}
	h := httptest.NewUnstartedServer(nil)
	server, err := api.NewServer(svc, st, api.Options{Public: "http://" + h.Listener.Addr().String(), Pages: web.Files(), Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		st.Close()
		return nil, err
	}
	h.Config.Handler = server
	h.Start()
	return &App{URL: h.URL, Service: svc, Store: st, Outside: outside, close: func() {
		h.Close()
		_ = outside.Close()
		server.Close()
		svc.Close()
		st.Close()
	}}, nil
}

// Close stops the server.
func (a *App) Close() { a.close() }
