package learning

import (
	"encoding/json"
	"fmt"

	"nextround/core/heat"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// learnClasses learns what the organisation's own records say of the money of each class: how often coils are really called out,
// and how far soil really lifts the condensing temperature. It rests on what each side was just learned to hold by itself.
func (s *Service) learnClasses(t store.Tenant) error {
	records, err := t.ClassRecords()
	if err != nil {
		return err
	}
	rows := []store.ClassEvidence{}
	for _, r := range records {
		row := store.ClassEvidence{
			OrganisationID: t.Org, ClassID: r.ClassID, CallsSeen: r.CallsSeen, CallsExpected: r.CallsExpected, UnitYears: r.UnitYears,
			ModelVersion: organisation.ModelVersion, ComputedAt: s.Stamp(),
		}
		var pairs []heat.RisePair
		for _, text := range r.RisePairs {
			var some []heat.RisePair
			if err := json.Unmarshal([]byte(text), &some); err != nil {
				return fmt.Errorf("reading pairs of readings: %w", err)
			}
			pairs = append(pairs, some...)
		}
		if row.RisePairs = len(pairs); len(pairs) > 0 {
			rise, err := heat.RiseFactor(pairs)
			if err != nil {
				return err
			}
			row.Rise = store.ToJSON(rise)
		}
		rows = append(rows, row)
	}
	return t.PutClassEvidence(rows)
}
