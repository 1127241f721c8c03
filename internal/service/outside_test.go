package service_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/instrument"
	"nextround/internal/post"
	"nextround/internal/service"
	"nextround/internal/weather"
)

// outside stands in for every device and service; what it gives can be changed on the way.
type outside struct {
	reading  instrument.Reading
	forecast weather.Forecast
	err      error
	sent     []post.Mail
	asked    []calendar.Day
}

func (o *outside) Read(context.Context, string, string) (instrument.Reading, error) {
	return o.reading, o.err
}

func (o *outside) Forecast(_ context.Context, _, _ float64, from calendar.Day, _ int) (weather.Forecast, error) {
	o.asked = append(o.asked, from)
	return o.forecast, o.err
}

func (o *outside) Send(_ context.Context, m post.Mail) error {
	if o.err == nil {
		o.sent = append(o.sent, m)
	}
	return o.err
}

// connected is the house with all of it connected.
func connected(t *testing.T) (*house, *outside) {
	t.Helper()
	h, o := newHouse(t), &outside{}
	h.svc = service.New(h.store, service.Options{
		Now: func() time.Time { return h.now }, Hash: service.HashCost{Passes: 1, MemoryKiB: 64}, Gauges: o, Forecasts: o, Mailer: o,
	})
	t.Cleanup(h.svc.Close)
	return h, o
}

// A probe that cannot be trusted says why, and is not taken for a value.
func TestGaugesSayWhatCannotBeTrusted(t *testing.T) {
	h, o := connected(t)
	u := h.unit("A-1", "outdoor_condensing", "2026-01-01")
	o.reading = instrument.Reading{Instrument: "set", At: now, Probes: []instrument.Probe{
		{Name: "good", Kind: "ambient_c", BatteryShare: .8, Value: ptr(21.0)},
		{Name: "flat", Kind: "ambient_c", BatteryShare: .05, Value: ptr(21.0)},
		{Name: "gone", Kind: "ambient_c", BatteryShare: .8, Fault: "the signal dropped out"},
		{Name: "mute", Kind: "ambient_c", BatteryShare: .8},
		{Name: "mad", Kind: "ambient_c", BatteryShare: .8, Value: ptr(900.0)},
		{Name: "odd", Kind: "moon_phase", BatteryShare: .8, Value: ptr(1.0)},
	}}
	got, err := h.svc.ReadGauges(h.ctx, h.technician, u.ID, "before")
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
	o.err = instrument.ErrNoAnswer
	_, err = h.svc.ReadGauges(h.ctx, h.technician, u.ID, "before")
	assert.ErrorContains(t, err, "type the readings")
	_, err = h.svc.ReadGauges(h.ctx, h.viewer, u.ID, "before")
	assert.ErrorIs(t, err, service.ErrForbidden)
	_, err = h.svc.ReadGauges(h.ctx, h.technician, uuid.New(), "before")
	assert.ErrorIs(t, err, service.ErrNotFound)
	_, err = newHouse(t).svc.ReadGauges(h.ctx, h.technician, u.ID, "before")
	assert.Error(t, err, "another house knows neither unit nor set")
}

// The forecast is asked for the site's own day and place; where it is not known, it says why and the visit goes on.
func TestTheForecastNeverStandsInTheWay(t *testing.T) {
	h, o := connected(t)
	u := h.unit("A-1", "outdoor_condensing", "2026-01-01")
	forecast := func() contract.Forecast {
		f, err := h.svc.Forecast(h.ctx, h.viewer, u.SiteID)
		require.NoError(t, err)
		return f
	}
	assert.Equal(t, "the site has no coordinates", forecast().WhyNot)
	h.saveSite(u.SiteID, func(c *contract.SiteCard) { c.Lat, c.Lon, c.Zone = ptr(-36.8), ptr(174.7), "Pacific/Auckland" })
	h.now = time.Date(2026, 3, 4, 13, 0, 0, 0, time.UTC) // the fifth already, there
	o.forecast = weather.Forecast{Source: "x", Days: []weather.Day{{Day: calendar.MustParse("2026-03-05"), LowC: 3, HighC: 9}}}
	got := forecast()
	assert.True(t, got.Known)
	assert.Equal(t, "2026-03-05", o.asked[len(o.asked)-1].String())
	pack, err := h.svc.VisitPack(h.ctx, h.technician, u.ID)
	require.NoError(t, err)
	assert.InDelta(t, 3, pack.Forecast.Days[0].LowC, 1e-9)
	assert.Equal(t, "2026-03-05", pack.Today.String())
	o.err = errOutside
	assert.Equal(t, "the forecast service does not answer", forecast().WhyNot)
	_, err = h.svc.VisitPack(h.ctx, h.technician, u.ID)
	require.NoError(t, err)
	_, err = h.svc.Forecast(h.ctx, h.viewer, uuid.New())
	assert.ErrorIs(t, err, service.ErrNotFound)
}

// A mail that cannot be handed over is kept and tried again, five times in all; none is sent twice.
func TestMailsAreTriedAgain(t *testing.T) {
	h, o := connected(t)
	u := h.unit("A-1", "outdoor_condensing", "2026-01-01")
	visit := h.submit(h.visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	_, err := h.svc.MailSiteReport(h.ctx, h.technician, visit.ID, "nobody")
	assert.Equal(t, "/to", fieldsOf(t, err)[0].Path)
	o.err = errOutside
	first, err := h.svc.MailSiteReport(h.ctx, h.technician, visit.ID, "Desk <desk@hall.example>")
	require.NoError(t, err)
	assert.Equal(t, contract.MailStatusWaiting, first.Status)
	assert.Contains(t, first.Error, "the line is dead")
	o.err = nil
	require.NoError(t, h.svc.SendWaiting(h.ctx))
	require.NoError(t, h.svc.SendWaiting(h.ctx))
	require.Len(t, o.sent, 1, "once")
	assert.Equal(t, "desk@hall.example", o.sent[0].To)
	assert.Contains(t, o.sent[0].Text, "A-1 was cleaned")
	assert.Equal(t, "%PDF", string(o.sent[0].File[:4]))
	o.err = errOutside
	_, err = h.svc.MailSiteReport(h.ctx, h.technician, visit.ID, "gone@hall.example")
	require.NoError(t, err)
	for range 6 {
		require.NoError(t, h.svc.SendWaiting(h.ctx))
	}
	mails, err := h.svc.Mails(h.ctx, h.manager)
	require.NoError(t, err)
	require.Len(t, mails, 2)
	assert.Equal(t, contract.MailStatusFailed, mails[0].Status)
	assert.Equal(t, 5, mails[0].Tries)
	assert.Equal(t, contract.MailStatusSent, mails[1].Status)
	assert.NotNil(t, mails[1].SentAt)
	_, err = h.svc.Mails(h.ctx, h.technician)
	assert.ErrorIs(t, err, service.ErrForbidden)
}

// Without any outside service the same requests are answered, and nothing fails.
func TestNothingOutsideIsConnected(t *testing.T) {
	h := newHouse(t)
	u := h.unit("A-1", "outdoor_condensing", "2026-01-01")
	_, err := h.svc.ReadGauges(h.ctx, h.technician, u.ID, "before")
	assert.ErrorContains(t, err, "no gauge set is connected")
	f, err := h.svc.Forecast(h.ctx, h.viewer, u.SiteID)
	require.NoError(t, err)
	assert.Equal(t, "no forecast service is connected", f.WhyNot)
	visit := h.submit(h.visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	m, err := h.svc.MailSiteReport(h.ctx, h.technician, visit.ID, "desk@hall.example")
	require.NoError(t, err)
	assert.Equal(t, "no mail service is connected", m.Error)
}

// A symptom keeps the soil its coil was thought to have, and says where to look first.
func TestSymptomsSayWhereToLook(t *testing.T) {
	h := newHouse(t)
	clean := h.unit("A-1", "display_cooler", "2026-02-28")
	dirty := h.unit("A-2", "display_cooler", "2025-06-01")
	report := func(u *uuid.UUID, kind contract.SymptomKind) contract.Symptom {
		s, err := h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: kind, UnitID: u})
		require.NoError(t, err)
		return s
	}
	assert.Contains(t, report(&clean.ID, contract.SymptomKindWater).Advice, "look elsewhere first, at pan, drain, pump and float switch")
	assert.Contains(t, report(&dirty.ID, contract.SymptomKindNotCold).Advice, "bring its clean forward")
	atSite, err := h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: contract.SymptomKindBuzzing, SiteID: &clean.SiteID})
	require.NoError(t, err)
	assert.Contains(t, atSite.Advice, "Find out which unit it is")
	triage := func(id uuid.UUID, in contract.Triage) error {
		_, err := h.svc.Triage(h.ctx, h.manager, id, in)
		return err
	}
	assert.Equal(t, "/decision", fieldsOf(t, triage(atSite.ID, contract.Triage{Decision: contract.TriageDecisionBringForward}))[0].Path)
	assert.Equal(t, "/note", fieldsOf(t, triage(atSite.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere}))[0].Path)
	list, err := h.svc.Symptoms(h.ctx, h.viewer)
	require.NoError(t, err)
	require.Len(t, list, 3)
	var water contract.Symptom
	for _, s := range list {
		if s.Kind == contract.SymptomKindWater {
			water = s
		}
	}
	past := calendar.Of(now).Add(-1)
	assert.Equal(t, "/day", fieldsOf(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionBringForward, Day: &past}))[0].Path)
	assert.Equal(t, "/coil_was_cause", fieldsOf(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionClose, Note: "float stuck"}))[0].Path)
	require.NoError(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionClose, Note: "float stuck", CoilWasCause: ptr(false)}))
	assert.ErrorContains(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"}), "closed already")
	_, err = h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: contract.SymptomKindOther, UnitID: &clean.ID})
	assert.Equal(t, "/note", fieldsOf(t, err)[0].Path)
	_, err = h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: contract.SymptomKindWater})
	assert.Equal(t, "/unit_id", fieldsOf(t, err)[0].Path)
	_, err = h.svc.AddSymptom(h.ctx, h.viewer, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &clean.ID})
	assert.ErrorIs(t, err, service.ErrForbidden)
}
