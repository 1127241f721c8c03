package visit

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"

	"nextround/core/method"
	"nextround/internal/contract"
)

// What a visit is like follows from what was used and found; a core is packed only where somebody says how they saw it.
func TestTagsFollowWhatIsUsedAndFound(t *testing.T) {
	t.Parallel()
	fluff, foam, alkaline := uuid.New(), uuid.New(), uuid.New()
	f := &Facts{
		Soils: map[uuid.UUID]string{fluff: "seed_fluff"}, Methods: map[uuid.UUID]Method{foam: {Code: "foam_rinse", Wet: true}},
		Cleaners: map[uuid.UUID]method.Cleaner{alkaline: {Code: "heavy_alkaline", PH: 12.5}}, Standing: map[string]bool{"outdoors": true},
	}
	tags := func(grade int, seen contract.Seen, treated bool) []string {
		side := contract.VisitSide{Reached: true, SoilIds: &[]uuid.UUID{fluff}, Found: &contract.Look{Grade: grade, Seen: seen}}
		coil := contract.VisitCoil{Sides: []contract.VisitSide{side}}
		if treated {
			coil.Treatments = []contract.VisitTreatment{{MethodID: foam, CleanerID: &alkaline}}
		}
		v := sheet{Facts: f, req: contract.NewVisit{Coils: []contract.VisitCoil{coil}}}
		out := []string{}
		for tag, on := range v.tags() {
			if on {
				out = append(out, tag)
			}
		}
		return out
	}
	assert.ElementsMatch(t, []string{"outdoors", "leaf"}, tags(1, contract.FaceLook, false))
	assert.ElementsMatch(t, []string{"outdoors", "leaf", "heavy_soil", "core_packed"}, tags(4, contract.LightThrough, false))
	assert.ElementsMatch(t, []string{"outdoors", "leaf", "heavy_soil"}, tags(4, contract.FaceLook, false))
	assert.ElementsMatch(t, []string{"outdoors", "leaf", "heavy_soil"}, tags(4, "", false))
	assert.Subset(t, tags(1, contract.FaceLook, true), []string{"planned", "wet", "cleaner", "corrosive"})
	assert.Equal(t, map[string]bool{"outdoors": true}, f.Standing, "what stands is left as it was")
}
