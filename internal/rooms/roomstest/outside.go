package roomstest

import (
	"context"
	"errors"
	"slices"
	"sync"
	"testing"
	"time"

	"nextround/core/calendar"
	"nextround/internal/instrument"
	"nextround/internal/organisation"
	"nextround/internal/post"
	"nextround/internal/rooms"
	"nextround/internal/weather"
)

// outside stands in for every device and service; what it gives can be changed on the way.
type outside struct {
	Reading instrument.Reading
	Weather weather.Forecast
	Err     error
	// Panics is what the weather service does to whoever asks it, when set: a fault of ours that nobody foresaw.
	Panics string
	Sent   []post.Mail
	Asked  []calendar.Day
	mu     sync.Mutex
}

func (o *outside) Read(context.Context, string, string) (instrument.Reading, error) {
	return o.Reading, o.Err
}

func (o *outside) Forecast(_ context.Context, _, _ float64, from calendar.Day, _ int) (weather.Forecast, error) {
	if o.Panics != "" {
		panic(o.Panics)
	}
	o.Asked = append(o.Asked, from)
	return o.Weather, o.Err
}

func (o *outside) Send(_ context.Context, m post.Mail) error {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.Err == nil {
		o.Sent = append(o.Sent, m)
	}
	return o.Err
}

// Taken are the mails handed over so far.
func (o *outside) Taken() []post.Mail {
	o.mu.Lock()
	defer o.mu.Unlock()
	return slices.Clone(o.Sent)
}

// Connected is an organisation with all of it connected.
func Connected(t *testing.T) (*House, *outside) {
	t.Helper()
	h, o := New(t), &outside{}
	h.Rooms = rooms.New(h.Store, rooms.Options{
		Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}, Gauges: o, Forecasts: o, Mailer: o,
	})
	t.Cleanup(h.Rooms.Close)
	return h, o
}

// ErrOutside is what devices and services answer when they fail.
var ErrOutside = errors.New("the line is dead")
