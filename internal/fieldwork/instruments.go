package fieldwork

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/internal/contract"
	"nextround/internal/instrument"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/weather"
)

// flatBattery is the share below which a probe's value is not to be trusted (assumption).
const flatBattery = .1

// ReadGauges is what the gauge set at a unit shows; a probe that cannot be trusted says why.
func (s *Service) ReadGauges(ctx context.Context, a organisation.Actor, unit uuid.UUID, phase string) (contract.GaugeReading, error) {
	out := contract.GaugeReading{Probes: []contract.GaugeProbe{}}
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return out, err
	}
	u, err := s.Tenant(ctx, a).UnitSeen(unit)
	if err != nil {
		return out, err
	}
	if s.gauges == nil {
		return out, organisation.Conflict{Reason: "no gauge set is connected; type the readings"}
	}
	in, err := s.gauges.Read(ctx, u.Tag, phase)
	if errors.Is(err, instrument.ErrNoAnswer) {
		return out, organisation.Conflict{Reason: instrument.ErrNoAnswer.Error()}
	}
	if err != nil {
		return out, err
	}
	out.Instrument, out.At = in.Instrument, in.At
	for _, p := range in.Probes {
		line := contract.GaugeProbe{Probe: p.Name, Kind: p.Kind, BatteryShare: p.BatteryShare, Value: p.Value, Ok: true}
		facts, known := heat.FactsOf(heat.Kind(p.Kind))
		switch {
		case p.Fault != "":
			line.Ok, line.Text = false, p.Fault
		case !known:
			line.Ok, line.Text = false, "measures something that is not kept"
		case p.Value == nil:
			line.Ok, line.Text = false, "gives no value"
		case p.BatteryShare < flatBattery:
			line.Ok, line.Text = false, "its battery is flat: the value is not to be trusted"
		case *p.Value < facts.Lo || *p.Value > facts.Hi:
			line.Ok, line.Text = false, "shows what no instrument can"
		}
		out.Probes = append(out.Probes, line)
	}
	return out, nil
}

// forecastAhead is how many days a forecast covers.
const forecastAhead = 5

// Forecast is the weather of a site's coming days.
func (s *Service) Forecast(ctx context.Context, a organisation.Actor, site uuid.UUID) (contract.Forecast, error) {
	t := s.Tenant(ctx, a)
	if err := organisation.SeesSite(t, site); err != nil {
		return contract.Forecast{Days: []contract.ForecastDay{}}, err
	}
	row, err := store.Get[store.Site](t, site)
	if err != nil {
		return contract.Forecast{Days: []contract.ForecastDay{}}, err
	}
	return s.forecast(ctx, row), nil
}

// forecast never fails: where nothing is known it says why.
func (s *Service) forecast(ctx context.Context, site store.Site) contract.Forecast {
	out := contract.Forecast{Days: []contract.ForecastDay{}}
	switch {
	case s.forecasts == nil:
		out.WhyNot = "no forecast service is connected"
	case site.Lat == nil || site.Lon == nil:
		out.WhyNot = "the site has no coordinates"
	default:
		in, err := s.forecasts.Forecast(ctx, *site.Lat, *site.Lon, s.Today(site.Zone), forecastAhead)
		if err != nil {
			out.WhyNot = weather.ErrNoAnswer.Error()
			return out
		}
		out.Known, out.Source = true, in.Source
		for _, d := range in.Days {
			out.Days = append(out.Days, contract.ForecastDay{Day: d.Day, LowC: d.LowC, HighC: d.HighC, RainMm: d.RainMM})
		}
	}
	return out
}
