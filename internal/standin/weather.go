package standin

import (
	"context"
	"encoding/json"
	"math"
	"math/rand/v2"
	"net/http"
	"strconv"

	"nextround/core/calendar"
	"nextround/internal/weather"
)

// Weather is a simulated forecast service: a year's course by latitude, with weather that is the same whenever the same
// day is asked for.
type Weather struct{ Seed uint64 }

// Course of the year by the sea (assumption): the mean falls with latitude, the swing grows with it, the year turns at mid-July.
const (
	meanAtEquator, meanPerDegree   = 27.0, .29
	swingAtEquator, swingPerDegree = 1.0, .11
	warmestDay                     = 197.0
	dayNight                       = 4.0
	scatter                        = 2.6
	mostDays                       = 16
)

// ServeHTTP answers GET /v1/forecast?lat=&lon=&from=&days=.
func (s Weather) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	lat, err1 := strconv.ParseFloat(q.Get("lat"), 64)
	lon, err2 := strconv.ParseFloat(q.Get("lon"), 64)
	days, err3 := strconv.Atoi(q.Get("days"))
	from, err4 := calendar.Parse(q.Get("from"))
	if r.Method != http.MethodGet || r.URL.Path != "/v1/forecast" {
		http.NotFound(w, r)
		return
	}
	if err1 != nil || err2 != nil || err3 != nil || err4 != nil || math.Abs(lat) > 90 || math.Abs(lon) > 180 || days < 1 || days > mostDays {
		http.Error(w, "give lat, lon, from and 1 to 16 days", http.StatusBadRequest)
		return
	}
	out, _ := s.Forecast(r.Context(), lat, lon, from, days)
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(out) //nolint:errchkjson // the reader is gone
}

// Forecast answers without a network between: for what is filled in before a server listens.
func (s Weather) Forecast(_ context.Context, lat, lon float64, from calendar.Day, days int) (weather.Forecast, error) {
	out := weather.Forecast{Source: "Simulated forecast", Days: []weather.Day{}}
	for i := range min(days, mostDays) {
		out.Days = append(out.Days, s.day(lat, lon, from.Add(i)))
	}
	return out, nil
}

func (s Weather) day(lat, lon float64, day calendar.Day) weather.Day {
	r := rand.New(rand.NewPCG(s.Seed^math.Float64bits(math.Round(lat*2)), uint64(int64(day))^math.Float64bits(math.Round(lon*2)))) //nolint:gosec // a simulation
	turn := math.Cos(2 * math.Pi * (float64(day.Time().YearDay()) - warmestDay) / 365.25)
	if lat < 0 {
		turn = -turn
	}
	mean := meanAtEquator - meanPerDegree*math.Abs(lat) + (swingAtEquator+swingPerDegree*math.Abs(lat))*turn + scatter*r.NormFloat64()
	out := weather.Day{Day: day, LowC: round1(mean - dayNight*(.6+.8*r.Float64())), HighC: round1(mean + dayNight*(.6+.8*r.Float64()))}
	if r.Float64() < .35 {
		out.RainMM = round1(-6 * math.Log(1-r.Float64()))
	}
	return out
}

func round1(v float64) float64 { return math.Round(10*v) / 10 }
