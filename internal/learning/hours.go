package learning

import (
	"context"

	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
)

// hoursOf is what a coil's deep clean takes of crew-hours, people counted, with what other intervals would cost; nil where nothing is known.
func hoursOf(d dossier.Unit, c dossier.Coil) *interval.HoursCoil {
	t := mainTask(c)
	if t == nil || t.Paused || len(t.Result.Curve) == 0 || d.Unit.Status != dossier.InService || c.Deep.Minutes <= 0 {
		return nil
	}
	return &interval.HoursCoil{
		Name: d.Unit.Tag, CleanHours: c.Deep.Minutes / 60 * float64(c.Deep.People()), EveryDays: float64(t.EveryDays), Curve: t.Result.Curve,
	}
}

// shares of the hours that the intervals in force take, for which it is told what an hour more would bring.
var hoursShares = []float64{.5, .75, 1, 1.25, 1.5}

// HourPrice tells what an hour of a crew more would bring, on site at deep cleans, at the hours that the intervals in force take and
// some shares of them.
func (s *Service) HourPrice(ctx context.Context, a organisation.Actor) (contract.HourPrice, error) {
	out := contract.HourPrice{Rows: []contract.HourPriceRow{}}
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return out, err
	}
	rows, err := s.Tenant(ctx, a).CoilHours()
	if err != nil {
		return out, err
	}
	q := interval.HoursQuestion{}
	for _, row := range rows {
		var c interval.HoursCoil
		if err := row.Into(&c); err != nil {
			return out, err
		}
		q.Coils = append(q.Coils, c)
	}
	if out.Coils = len(q.Coils); out.Coils == 0 {
		return out, nil
	}
	now, err := interval.PriceOfHours(q)
	if err != nil {
		return out, err
	}
	out.InForceYear, out.BestYear = now.InForceYear, now.BestYear
	for _, share := range hoursShares {
		q.HoursYear = share * now.InForceYear
		at, err := interval.PriceOfHours(q)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, contract.HourPriceRow{HoursYear: at.HoursYear, Share: share, HourPrice: at.HourPrice, SavesYear: at.SavesYear})
	}
	return out, nil
}
