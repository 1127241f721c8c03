package defaults_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/procedure"
	"nextround/internal/defaults"
)

// Every class goes through the whole order of the work, each step with its reason, whatever the visit is like.
func TestEveryClassHasItsProcedure(t *testing.T) {
	t.Parallel()
	plain := len(defaults.Procedure("something of the organisation's own"))
	for _, c := range defaults.Classes {
		steps := defaults.Procedure(c.Code)
		require.NoError(t, procedure.CheckTemplate(steps), c.Code)
		assert.Greater(t, len(steps), plain, "%s has steps of its own", c.Code)
		for _, tags := range []map[string]bool{{"wet": true, "deep": true}, {"light": true}} {
			picked := map[string]int{}
			for i, s := range procedure.Pick(steps, tags) {
				picked[s.Code] = i + 1
			}
			for _, code := range []string{"identify", "reach", "tell_occupants", "isolate", "prove_dead", "open_up", "first_look", "opened_look", "loosen_dry", "drain_pan", "count_back", "close_up", "dry_seen", "restore_power", "readings_after", "tell_site"} {
				assert.Positive(t, picked[code], "%s: %s", c.Code, code)
			}
			if tags["wet"] {
				assert.Positive(t, picked["rinse_end"], c.Code)
			} else {
				assert.Positive(t, picked["why_dry"], c.Code)
			}
			// The gates stand in their order: told, isolated, secured, discharged, proved; and dry before power.
			for _, pair := range [][2]string{
				{"tell_occupants", "isolate"},
				{"isolate", "lock_tag"},
				{"lock_tag", "discharge"},
				{"discharge", "prove_dead"},
				{"prove_dead", "ppe_open"},
				{"ppe_open", "nests"},
				{"nests", "open_up"},
				{"photo_wiring", "loosen_dry"},
				{"first_look", "opened_look"},
				{"opened_look", "loosen_dry"},
				{"count_back", "restore_power"},
				{"dry_seen", "restore_power"},
				{"restore_power", "readings_after"},
			} {
				assert.Less(t, picked[pair[0]], picked[pair[1]], "%s: %s before %s", c.Code, pair[0], pair[1])
			}
		}
	}
}
