package demo

import (
	"context"
	"time"

	"nextround/internal/organisation"
	"nextround/internal/rooms"
	"nextround/internal/standin"
	"nextround/internal/store"
)

// Weather is the simulated weather of the demonstration, the same that its stand-ins give.
var Weather = standin.Weather{Seed: 4}

// Fill makes the sample data in a migrated, empty database, with passwords that are cheap to check: for tests, which
// sign in often and guard nothing.
func Fill(url string) error {
	ctx := context.Background()
	st, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer st.Close()
	svc := rooms.New(st, rooms.Options{
		Now: func() time.Time { return Clock }, ClockPinned: true, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64},
		Forecasts: Weather,
	})
	defer svc.Close()
	return Load(ctx, svc)
}
