// Package weather asks a forecast service over HTTP: open JSON, described in docs/devices.md. A real service can take the
// place of the simulated one by its address.
package weather

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"nextround/core/calendar"
)

// Day is the weather of a day at a place.
type Day struct {
	Day    calendar.Day `json:"day"`
	LowC   float64      `json:"low_c"`
	HighC  float64      `json:"high_c"`
	RainMM float64      `json:"rain_mm"`
}

// Forecast of some days, and who made it.
type Forecast struct {
	Source string `json:"source"`
	Days   []Day  `json:"days"`
}

// ErrNoAnswer means that no forecast could be had.
var ErrNoAnswer = errors.New("the forecast service does not answer")

// Service is a forecast service at an address.
type Service struct {
	Address string
	HTTP    *http.Client
}

const (
	answerWithin = 2 * time.Second
	mostBytes    = 1 << 20
)

// direct follows no redirect: an answer from elsewhere is none of the forecast service's.
var direct = &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

// Forecast asks for days from a day on, at a place.
func (s Service) Forecast(ctx context.Context, lat, lon float64, from calendar.Day, days int) (Forecast, error) {
	var out Forecast
	ctx, stop := context.WithTimeout(ctx, answerWithin)
	defer stop()
	at := fmt.Sprintf("%s/v1/forecast?lat=%.4f&lon=%.4f&from=%s&days=%d", s.Address, lat, lon, from, days)
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return out, fmt.Errorf("the forecast service's address: %w", err)
	}
	client := s.HTTP
	if client == nil {
		client = direct
	}
	res, err := client.Do(req)
	if err != nil {
		return out, errors.Join(ErrNoAnswer, err)
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode != http.StatusOK {
		return out, fmt.Errorf("%w (it said %s)", ErrNoAnswer, res.Status)
	}
	if err := json.NewDecoder(io.LimitReader(res.Body, mostBytes)).Decode(&out); err != nil {
		return out, errors.Join(ErrNoAnswer, err)
	}
	return out, nil
}
