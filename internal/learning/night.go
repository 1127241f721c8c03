package learning

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"nextround/internal/store"
)

// nightHour is from when on, by the organisation's clock, the night's run may begin.
const nightHour = 2

// Nightly begins to recalculate everything, once a night, for each organisation in which a visit came in since it was last done.
// A visit teaches its own unit and the peers at its site at once; what it says of methods, and of peers at other sites, is taken
// up here. After it every line is what a rebuild would give.
func (s *Service) Nightly(ctx context.Context) error {
	if s.ClockPinned {
		return nil // there is no night in a demonstration
	}
	ids, err := s.Store.OrganisationIDs(ctx)
	if err != nil {
		return err
	}
	for _, id := range ids {
		org, err := s.Store.Organisation(ctx, id)
		if err != nil {
			return err
		}
		zone, err := time.LoadLocation(org.Zone)
		if err != nil {
			return err
		}
		now := s.Now().In(zone)
		night := time.Date(now.Year(), now.Month(), now.Day(), nightHour, 0, 0, 0, zone)
		if now.Before(night) {
			continue
		}
		err = s.Store.For(ctx, id).InTransaction(func(t store.Tenant) error {
			due, err := t.EstimationIsDue(night)
			if err != nil || !due {
				return err
			}
			_, err = s.beginEstimation(ctx, t, uuid.Nil)
			return err
		})
		if err != nil && !errors.Is(err, store.ErrDuplicate) {
			return err // where somebody else was first it is under way
		}
	}
	return nil
}
