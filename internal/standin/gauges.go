// Package standin holds simulated outside devices and services: a gauge set, a forecast service and a mail server. Each
// answers as docs/devices.md describes, so that a real one can take its place by its address.
package standin

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"net/http"
	"sync"
	"time"

	"nextround/core/heat"
	"nextround/internal/instrument"
)

// Unit is a simulated unit: what it is, and the soil it truly carries, which nobody is told.
type Unit struct {
	Tag string `json:"tag"`
	// Refrigerant by its code; without one the set finds no pressure to read.
	Refrigerant  string  `json:"refrigerant"`
	BlockedShare float64 `json:"blocked_share"`
	// CleanK is what a clean condenser of it runs over ambient, EvaporatingC where its evaporator runs.
	CleanK       float64 `json:"clean_k"`
	EvaporatingC float64 `json:"evaporating_c"`
	// AmbientC is the air on to the condenser, RoomC the air on to the evaporator.
	AmbientC float64 `json:"ambient_c"`
	RoomC    float64 `json:"room_c"`
	Amps     float64 `json:"amps"`
	Volts    float64 `json:"volts"`
}

// Gauges is a simulated gauge set for a number of units.
type Gauges struct {
	units map[string]Unit
	seed  uint64
	now   func() time.Time

	mu    sync.Mutex
	asked map[string]uint64
}

// Simulation constants (assumption): what the work leaves of the soil, the noise of a probe as a share, how often one
// drops out, and how often its battery is flat.
const (
	leftByWork = .12
	noise      = .006
	dropOut    = .04
	flat       = .05
)

// NewGauges simulates a set for some units, repeatably by its seed.
func NewGauges(units []Unit, seed uint64, now func() time.Time) *Gauges {
	g := &Gauges{units: map[string]Unit{}, seed: seed, now: now, asked: map[string]uint64{}}
	for _, u := range units {
		g.units[u.Tag] = u
	}
	return g
}

// ServeHTTP answers GET /v1/units/{tag}/probes?moment=before|after. moment belongs to the simulation: after the work a
// simulated unit carries little soil. A real set may ignore it.
func (g *Gauges) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /v1/units/{tag}/probes", func(w http.ResponseWriter, r *http.Request) {
		u, ok := g.units[r.PathValue("tag")]
		if !ok {
			http.Error(w, "no set is in reach of that unit", http.StatusNotFound)
			return
		}
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(g.read(u, r.URL.Query().Get("moment"))) //nolint:errchkjson // the reader is gone
	})
	mux.ServeHTTP(w, r)
}

func (g *Gauges) read(u Unit, moment string) instrument.Reading {
	g.mu.Lock()
	g.asked[u.Tag]++
	nth := g.asked[u.Tag]
	g.mu.Unlock()
	blocked := u.BlockedShare
	if moment == "after" {
		blocked *= leftByWork
	}
	out := instrument.Reading{Instrument: "Simulated gauge set", At: g.now(), Probes: []instrument.Probe{}}
	for i, v := range values(u, blocked) {
		out.Probes = append(out.Probes, g.probe(u.Tag, uint64(i), nth, v)) //nolint:gosec // a handful
	}
	return out
}

type value struct {
	name, kind string
	v          float64
	// scale turns the share of noise into the value's own unit.
	scale float64
}

func values(u Unit, blocked float64) []value {
	rise := heat.CondenserRise(heat.CondenserFan, u.CleanK, blocked)
	condensing := u.AmbientC + u.CleanK + rise
	out := []value{
		{"air probe", string(heat.Ambient), u.AmbientC, 30},
		{"air probe, return", string(heat.AirOnCoil), u.RoomC, 30},
		{"pipe clamp", string(heat.LiquidLine), condensing - 6, 50},
	}
	if u.Amps > 0 {
		out = append(out, value{"current clamp", string(heat.MotorAmps), .72 * u.Amps * math.Pow(1.10, rise/5.556), u.Amps})
	}
	if u.Volts > 0 {
		out = append(out, value{"voltage leads", string(heat.SupplyVolt), u.Volts, u.Volts})
	}
	if r, ok := heat.RefrigerantByCode(u.Refrigerant); ok {
		high, _ := r.PressureAt(condensing)
		_, low := r.PressureAt(u.EvaporatingC)
		air := heat.AirPressure(0)
		out = append(out,
			value{"high side", string(heat.HighPressure), high - air, high}, value{"low side", string(heat.LowPressure), low - air, low},
		)
	}
	return out
}

// probe adds noise; now and then a battery is flat or the signal drops out, but never for every probe at once.
func (g *Gauges) probe(tag string, i, nth uint64, v value) instrument.Probe {
	still := rand.New(rand.NewPCG(g.seed^hash(tag), i))           //nolint:gosec // a simulation
	now := rand.New(rand.NewPCG(g.seed^hash(tag)^(nth<<32), i+1)) //nolint:gosec // a simulation
	p := instrument.Probe{Name: v.name, Kind: v.kind, BatteryShare: .35 + .6*still.Float64()}
	if still.Float64() < flat {
		p.BatteryShare = .04
	}
	if now.Float64() < dropOut {
		p.Fault = "the signal dropped out; ask again"
		return p
	}
	step := .1
	if v.kind == string(heat.HighPressure) || v.kind == string(heat.LowPressure) {
		step = 1
	}
	shown := math.Round((v.v+noise*v.scale*now.NormFloat64())/step) * step
	p.Value = &shown
	return p
}

func hash(s string) uint64 {
	h := uint64(14695981039346656037) // FNV-1a
	for _, b := range []byte(s) {
		h = (h ^ uint64(b)) * 1099511628211
	}
	return h
}
