package fieldwork_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/instrument"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/weather"
)

// A probe that cannot be trusted says why, and is not taken for a value.
func TestGaugesSayWhatCannotBeTrusted(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	o.Reading = instrument.Reading{Instrument: "set", At: roomstest.Now, Probes: []instrument.Probe{
		{Name: "good", Kind: "ambient_c", BatteryShare: .8, Value: new(21.0)},
		{Name: "flat", Kind: "ambient_c", BatteryShare: .05, Value: new(21.0)},
		{Name: "gone", Kind: "ambient_c", BatteryShare: .8, Fault: "the signal dropped out"},
		{Name: "mute", Kind: "ambient_c", BatteryShare: .8},
		{Name: "mad", Kind: "ambient_c", BatteryShare: .8, Value: new(900.0)},
		{Name: "odd", Kind: "moon_phase", BatteryShare: .8, Value: new(1.0)},
	}}
	got, err := h.Rooms.Fieldwork.ReadGauges(h.Ctx, h.Technician, u.ID, "before")
	require.NoError(t, err)
	said := map[string]string{}
	for _, p := range got.Probes {
		said[p.Probe] = p.Text
		assert.Equal(t, p.Text == "", p.Ok, p.Probe)
	}
	assert.Empty(t, said["good"])
	assert.Contains(t, said["flat"], "battery is flat")
	assert.Contains(t, said["gone"], "dropped out")
	assert.Contains(t, said["mute"], "no value")
	assert.Contains(t, said["mad"], "what no instrument can")
	assert.Contains(t, said["odd"], "not kept")
	o.Err = instrument.ErrNoAnswer
	_, err = h.Rooms.Fieldwork.ReadGauges(h.Ctx, h.Technician, u.ID, "before")
	assert.ErrorContains(t, err, "type the readings")
	_, err = h.Rooms.Fieldwork.ReadGauges(h.Ctx, h.Viewer, u.ID, "before")
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	_, err = h.Rooms.Fieldwork.ReadGauges(h.Ctx, h.Technician, uuid.New(), "before")
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = roomstest.New(t).Rooms.Fieldwork.ReadGauges(h.Ctx, h.Technician, u.ID, "before")
	assert.Error(t, err, "another house knows neither unit nor set")
}

// The forecast is asked for the site's own day and place; where it is not known, it says why and the visit goes on.
func TestTheForecastNeverStandsInTheWay(t *testing.T) {
	t.Parallel()
	h, o := roomstest.Connected(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	forecast := func() contract.Forecast {
		f, err := h.Rooms.Fieldwork.Forecast(h.Ctx, h.Viewer, u.SiteID)
		require.NoError(t, err)
		return f
	}
	assert.Equal(t, "the site has no coordinates", forecast().WhyNot)
	h.SaveSite(u.SiteID, func(c *contract.SiteCard) { c.Lat, c.Lon, c.Zone = new(-36.8), new(174.7), "Pacific/Auckland" })
	h.Now = time.Date(2026, 3, 4, 13, 0, 0, 0, time.UTC) // the fifth already, there
	o.Weather = weather.Forecast{Source: "x", Days: []weather.Day{{Day: calendar.MustParse("2026-03-05"), LowC: 3, HighC: 9}}}
	got := forecast()
	assert.True(t, got.Known)
	assert.Equal(t, "2026-03-05", o.Asked[len(o.Asked)-1].String())
	pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Technician, u.ID)
	require.NoError(t, err)
	assert.InDelta(t, 3, pack.Forecast.Days[0].LowC, 1e-9)
	assert.Equal(t, "2026-03-05", pack.Today.String())
	o.Err = roomstest.ErrOutside
	assert.Equal(t, "the forecast service does not answer", forecast().WhyNot)
	_, err = h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Technician, u.ID)
	require.NoError(t, err)
	_, err = h.Rooms.Fieldwork.Forecast(h.Ctx, h.Viewer, uuid.New())
	assert.ErrorIs(t, err, organisation.ErrNotFound)
}

// Without any outside service the same requests are answered, and nothing fails.
func TestNothingOutsideIsConnected(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	_, err := h.Rooms.Fieldwork.ReadGauges(h.Ctx, h.Technician, u.ID, "before")
	assert.ErrorContains(t, err, "no gauge set is connected")
	f, err := h.Rooms.Fieldwork.Forecast(h.Ctx, h.Viewer, u.SiteID)
	require.NoError(t, err)
	assert.Equal(t, "no forecast service is connected", f.WhyNot)
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	m, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, h.Technician, visit.ID, "desk@hall.example")
	require.NoError(t, err)
	assert.Equal(t, "no mail service is connected", m.Error)
}
