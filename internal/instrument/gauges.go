// Package instrument reads gauge sets over HTTP: open JSON, described in docs/devices.md. Any instrument, or a bridge to
// one, that answers the same way can take the place of the simulated set.
package instrument

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"time"
)

// Probe is one sensor of a gauge set.
type Probe struct {
	Name string `json:"name"`
	// Kind is the kind of reading, such as high_pressure_kpa; the value is in the unit that the kind ends with.
	Kind string `json:"kind"`
	// BatteryShare is what is left in the battery, 0 to 1.
	BatteryShare float64 `json:"battery_share"`
	// Value is absent when the probe gives none; Fault says why.
	Value *float64 `json:"value,omitempty"`
	Fault string   `json:"fault,omitempty"`
}

// Reading is what a gauge set shows at one moment.
type Reading struct {
	Instrument string    `json:"instrument"`
	At         time.Time `json:"at"`
	Probes     []Probe   `json:"probes"`
}

// ErrNoAnswer means that the gauge set did not answer in time; read by hand instead.
var ErrNoAnswer = errors.New("the gauge set does not answer; type the readings")

// Gauges reads gauge sets at an address.
type Gauges struct {
	Address string
	HTTP    *http.Client
}

const (
	answerWithin = 3 * time.Second
	mostBytes    = 1 << 20
)

// direct follows no redirect: an answer from elsewhere is none of the gauge set's.
var direct = &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

// Read asks the set that stands at a unit what it shows, before or after the work.
func (g Gauges) Read(ctx context.Context, tag, phase string) (Reading, error) {
	var out Reading
	ctx, stop := context.WithTimeout(ctx, answerWithin)
	defer stop()
	at := g.Address + "/v1/units/" + url.PathEscape(tag) + "/probes?moment=" + url.QueryEscape(phase)
	return out, get(ctx, g.HTTP, at, &out)
}

func get(ctx context.Context, client *http.Client, at string, into any) error {
	if client == nil {
		client = direct
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return fmt.Errorf("the gauge set's address: %w", err)
	}
	res, err := client.Do(req)
	if err != nil {
		return errors.Join(ErrNoAnswer, err)
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("%w (it said %s)", ErrNoAnswer, res.Status)
	}
	if err := json.NewDecoder(io.LimitReader(res.Body, mostBytes)).Decode(into); err != nil {
		return errors.Join(ErrNoAnswer, err)
	}
	return nil
}
