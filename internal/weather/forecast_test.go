package weather_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/weather"
)

func TestForecastsAreAskedAsDescribed(t *testing.T) {
	asked := ""
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked = r.URL.RequestURI()
		_, _ = w.Write([]byte(`{"source": "bureau", "days": [{"day": "2026-03-04", "low_c": -0.4, "high_c": 5.2, "rain_mm": 1.3}]}`))
	}))
	defer s.Close()
	got, err := weather.Service{Address: s.URL, HTTP: s.Client()}.Forecast(context.Background(), 61.41234, -4.6, calendar.MustParse("2026-03-04"), 3)
	require.NoError(t, err)
	assert.Equal(t, "/v1/forecast?lat=61.4123&lon=-4.6000&from=2026-03-04&days=3", asked)
	assert.Equal(t, "bureau", got.Source)
	require.Len(t, got.Days, 1)
	assert.Equal(t, weather.Day{Day: calendar.MustParse("2026-03-04"), LowC: -.4, HighC: 5.2, RainMM: 1.3}, got.Days[0])
}

func TestAServiceThatDoesNotAnswer(t *testing.T) {
	for _, body := range []string{"", "<html>", `{"days": [{"day": "soon"}]}`} {
		s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(body)) }))
		_, err := weather.Service{Address: s.URL}.Forecast(context.Background(), 0, 0, 0, 1)
		assert.ErrorIs(t, err, weather.ErrNoAnswer, body)
		s.Close()
	}
	refusing := httptest.NewServer(http.NotFoundHandler())
	defer refusing.Close()
	_, err := weather.Service{Address: refusing.URL}.Forecast(context.Background(), 0, 0, 0, 1)
	assert.ErrorIs(t, err, weather.ErrNoAnswer)
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte(`{"days": []}`)) }))
	defer elsewhere.Close()
	sending := httptest.NewServer(http.RedirectHandler(elsewhere.URL, http.StatusFound))
	defer sending.Close()
	_, err = weather.Service{Address: sending.URL}.Forecast(context.Background(), 0, 0, 0, 1)
	assert.ErrorIs(t, err, weather.ErrNoAnswer, "what another host says is not taken")
	_, err = weather.Service{Address: "http://127.0.0.1:1"}.Forecast(context.Background(), 0, 0, 0, 1)
	assert.ErrorIs(t, err, weather.ErrNoAnswer)
	_, err = weather.Service{Address: "http://[::bad"}.Forecast(context.Background(), 0, 0, 0, 1)
	assert.ErrorContains(t, err, "address")
}
