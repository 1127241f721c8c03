package standin_test

import (
	"context"
	"errors"
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/internal/instrument"
	"nextround/internal/post"
	"nextround/internal/standin"
	"nextround/internal/weather"
)

var clock = time.Date(2026, 3, 4, 9, 0, 0, 0, time.UTC)

func start(t *testing.T) *standin.Set {
	t.Helper()
	s, err := standin.Start(context.Background(), standin.Options{
		Seed: 5, Now: func() time.Time { return clock },
		Units: []standin.Unit{{Tag: "X-1", Refrigerant: "R-134a", BlockedShare: .7, CleanK: 12, EvaporatingC: -8, AmbientC: 24, RoomC: 4, Amps: 5, Volts: 230}},
	})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

func valueOf(r instrument.Reading, kind heat.Kind) *float64 {
	for _, p := range r.Probes {
		if p.Kind == string(kind) {
			return p.Value
		}
	}
	return nil
}

// readTwice asks until neither of two probes has dropped out.
func read(t *testing.T, g instrument.Gauges, moment string) instrument.Reading {
	t.Helper()
	for range 50 {
		r, err := g.Read(context.Background(), "X-1", moment)
		require.NoError(t, err)
		if valueOf(r, heat.HighPressure) != nil && valueOf(r, heat.LowPressure) != nil {
			return r
		}
	}
	t.Fatal("every try dropped out")
	return instrument.Reading{}
}

// What the set shows follows the soil that nobody was told, with the noise of its probes.
func TestGaugesFollowTheHiddenSoil(t *testing.T) {
	g := instrument.Gauges{Address: start(t).Gauges}
	saturation := func(kpa float64) float64 {
		s, err := heat.Saturate(heat.SaturationInput{Refrigerant: "R-134a", GaugeKpa: &kpa})
		require.NoError(t, err)
		return s.BubbleC
	}
	before, after := read(t, g, "before"), read(t, g, "after")
	rise := heat.CondenserRise(heat.CondenserFan, 12, .7)
	require.Greater(t, rise, 5.0)
	assert.InDelta(t, 24+12+rise, saturation(*valueOf(before, heat.HighPressure)), 1.5)
	assert.InDelta(t, 24+12, saturation(*valueOf(after, heat.HighPressure)), 1.5)
	assert.InDelta(t, *valueOf(before, heat.LowPressure), *valueOf(after, heat.LowPressure), 12)
	assert.True(t, before.At.Equal(clock))
	_, err := g.Read(context.Background(), "nobody", "before")
	assert.ErrorIs(t, err, instrument.ErrNoAnswer)
	_, err = instrument.Gauges{Address: "http://127.0.0.1:1"}.Read(context.Background(), "X-1", "before")
	assert.ErrorIs(t, err, instrument.ErrNoAnswer)
}

// Over many reads a probe drops out now and then, and never always.
func TestProbesDropOutNowAndThen(t *testing.T) {
	g := instrument.Gauges{Address: start(t).Gauges}
	faults, all := 0, 0
	for range 60 {
		r, err := g.Read(context.Background(), "X-1", "before")
		require.NoError(t, err)
		for _, p := range r.Probes {
			all++
			if p.Fault != "" {
				faults++
				assert.Nil(t, p.Value)
			}
		}
	}
	assert.Greater(t, faults, 0)
	assert.Less(t, faults, all/5)
}

func TestWeatherIsTheSameForTheSameDay(t *testing.T) {
	s := weather.Service{Address: start(t).Weather}
	march, err := s.Forecast(context.Background(), 61.5, 5.1, calendar.Of(clock), 5)
	require.NoError(t, err)
	require.Len(t, march.Days, 5)
	later, err := s.Forecast(context.Background(), 61.5, 5.1, calendar.Of(clock).Add(2), 1)
	require.NoError(t, err)
	assert.Equal(t, march.Days[2], later.Days[0])
	july, err := s.Forecast(context.Background(), 61.5, 5.1, calendar.Of(clock).Add(140), 5)
	require.NoError(t, err)
	assert.Greater(t, mean(july), mean(march)+5)
	for _, d := range march.Days {
		assert.Less(t, d.LowC, d.HighC)
	}
	_, err = s.Forecast(context.Background(), 200, 5, calendar.Of(clock), 5)
	assert.ErrorIs(t, err, weather.ErrNoAnswer)
}

func mean(f weather.Forecast) float64 {
	sum := 0.0
	for _, d := range f.Days {
		sum += (d.LowC + d.HighC) / 2
	}
	return sum / float64(len(f.Days))
}

func TestMailIsHandedOver(t *testing.T) {
	s := start(t)
	err := post.Server{Address: s.SMTP, From: "rounds@hallvik.example"}.Send(context.Background(), post.Mail{
		To: "desk@hallvik.example", Subject: "FA-IM-1 was cleaned – 4 March", Text: "Found: felted.", FileName: "report.pdf", File: []byte("%PDF-1.4"),
	})
	require.NoError(t, err)
	letters := s.Mailbox.Letters()
	require.Len(t, letters, 1)
	assert.Equal(t, []string{"desk@hallvik.example"}, letters[0].To)
	assert.Equal(t, "FA-IM-1 was cleaned – 4 March", letters[0].Subject)
	assert.Contains(t, letters[0].Content, "Found: felted.")
	assert.Contains(t, letters[0].Content, "report.pdf")
	res, err := http.Get(s.MailPage)
	require.NoError(t, err)
	page, err := io.ReadAll(res.Body)
	require.NoError(t, errors.Join(err, res.Body.Close()))
	assert.Contains(t, string(page), "FA-IM-1 was cleaned")
	assert.Error(t, post.Server{Address: "127.0.0.1:1", From: "rounds@hallvik.example"}.Send(context.Background(), post.Mail{To: "a@b.example", Subject: "x", Text: "x"}))
	assert.Error(t, post.Server{Address: s.SMTP, From: "nobody"}.Send(context.Background(), post.Mail{To: "a@b.example"}))
}
