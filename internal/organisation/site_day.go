package organisation

import (
	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/store"
)

// SiteToday is today in the zone of a placement's site, for checking dates people enter.
func (s *Base) SiteToday(t store.Tenant, placement uuid.UUID) (calendar.Day, error) {
	days, err := s.SiteDays(t, []uuid.UUID{placement})
	return days[placement], err
}

// SiteDays is SiteToday for many placements.
func (s *Base) SiteDays(t store.Tenant, placements []uuid.UUID) (map[uuid.UUID]calendar.Day, error) {
	places, err := store.Where[store.Placement](t, "id", placements, "id")
	if err != nil {
		return nil, err
	}
	sites, err := store.Where[store.Site](t, "id", store.Keys(places, func(p store.Placement) uuid.UUID { return p.SiteID }), "id")
	if err != nil {
		return nil, err
	}
	zone := map[uuid.UUID]string{}
	for _, site := range sites {
		zone[site.ID] = site.Zone
	}
	days := map[uuid.UUID]calendar.Day{}
	for _, p := range places {
		days[p.ID] = s.Today(zone[p.SiteID])
	}
	return days, nil
}
