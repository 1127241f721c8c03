package instrument_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/instrument"
)

// answering serves one answer and keeps what was asked.
func answering(t *testing.T, status int, body string) (*httptest.Server, *[]string) {
	t.Helper()
	asked := &[]string{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		*asked = append(*asked, r.URL.RequestURI())
		w.WriteHeader(status)
		_, _ = w.Write([]byte(body))
	}))
	t.Cleanup(s.Close)
	return s, asked
}

func TestGaugesAreReadAsDescribed(t *testing.T) {
	s, asked := answering(t, http.StatusOK, `{"instrument": "bridge", "at": "2026-03-04T08:00:00Z", "probes": [
		{"name": "high side", "kind": "high_pressure_kpa", "battery_share": 0.5, "value": 812.5, "extra": true},
		{"name": "clamp", "kind": "liquid_line_c", "battery_share": 0.5, "fault": "open circuit"}]}`)
	got, err := instrument.Gauges{Address: s.URL, HTTP: s.Client()}.Read(context.Background(), "A/B 1", "after")
	require.NoError(t, err)
	assert.Equal(t, []string{"/v1/units/A%2FB%201/probes?moment=after"}, *asked, "a tag is one part of the address")
	assert.Equal(t, "bridge", got.Instrument)
	require.Len(t, got.Probes, 2)
	assert.InDelta(t, 812.5, *got.Probes[0].Value, 1e-9)
	assert.Nil(t, got.Probes[1].Value)
	assert.Equal(t, "open circuit", got.Probes[1].Fault)
}

// A set that answers wrongly is the same to a technician as one that does not answer.
func TestWhatIsNoAnswer(t *testing.T) {
	for _, c := range []struct {
		status int
		body   string
	}{{http.StatusNotFound, "no set"}, {http.StatusInternalServerError, ""}, {http.StatusOK, "<html>"}, {http.StatusOK, `{"probes": 5}`}, {http.StatusOK, ""}} {
		s, _ := answering(t, c.status, c.body)
		_, err := instrument.Gauges{Address: s.URL}.Read(context.Background(), "A-1", "before")
		assert.ErrorIs(t, err, instrument.ErrNoAnswer, "%d %s", c.status, c.body)
	}
	stopped, cancel := context.WithCancel(context.Background())
	cancel()
	s, asked := answering(t, http.StatusOK, `{}`)
	_, err := instrument.Gauges{Address: s.URL}.Read(stopped, "A-1", "before")
	assert.ErrorIs(t, err, instrument.ErrNoAnswer)
	assert.Empty(t, *asked)
	_, err = instrument.Gauges{Address: "http://[::bad"}.Read(context.Background(), "A-1", "before")
	assert.ErrorContains(t, err, "address")
}
