package proof_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/defaults"
	"nextround/internal/proof"
)

// The simulated world cleans only in ways that no hard rule is against, on each class as it usually stands.
func TestTheSimulatedCleansAreLawful(t *testing.T) {
	t.Parallel()
	scenarios, err := proof.Shipped()
	require.NoError(t, err)
	for _, s := range scenarios {
		for _, k := range s.Kinds {
			tags := defaults.ClassTags(k.Class)
			in := workplan.Input{
				Coil:  method.Coil{Construction: method.TubeFin, Slabs: 1, Role: "condenser", PlugIn: tags["plug_in"], FaceM2: 1},
				Place: method.Place{Setting: method.Indoor}, Found: method.Found{Kind: k.Soil, Grade: soil.Felt, Through: true},
			}
			if k.Evaporate {
				in.Coil.Role = "evaporator"
			}
			if tags["outdoors"] {
				in.Place = method.Place{Setting: method.Outdoor, Water: true, Drain: true}
			}
			for work, code := range map[string]string{workplan.DeepWork: k.Method, workplan.LightWork: k.Light} {
				in.Work = work
				ban, err := workplan.BanOn(in, workplan.Use{Method: code})
				require.NoError(t, err)
				assert.True(t, ban == nil || !ban.Hard, "%s: %s, %s: %+v", s.Name, k.Class, code, ban)
			}
		}
	}
}
