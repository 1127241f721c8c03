package demo

import (
	"context"
	"time"

	"nextround/internal/service"
	"nextround/internal/standin"
	"nextround/internal/store"
)

// weatherSeed is the simulated weather's, the same that the stand-ins are started with.
const weatherSeed = 4

// Fill makes the sample data in a migrated, empty database, with passwords that are cheap to check: for tests, which
// sign in often and guard nothing.
func Fill(url string) error {
	ctx := context.Background()
	st, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer st.Close()
	svc := service.New(st, service.Options{
		Now: func() time.Time { return Clock }, ClockPinned: true, Hash: service.HashCost{Passes: 1, MemoryKiB: 64},
		Forecasts: standin.Weather{Seed: weatherSeed},
	})
	defer svc.Close()
	return Load(ctx, svc)
}
