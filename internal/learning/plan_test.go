package learning_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// A pass with a look before and after it teaches its method; passes that were not seen apart teach the plan as a whole, and no method.
func TestPassesSeenApartAndPlans(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Server()
	u := h.Unit("CU-1", "outdoor_condensing", "2025-01-04")
	visit := func(day string, between *contract.PassLook) {
		v := h.Visit(u, day, contract.TaskKindDeep, 3, 0, contract.LightThrough)
		brush := v.Coils[0].Treatments[0]
		foam := brush
		brush.MethodID, brush.Direction, brush.After = h.Method("soft_brush"), contract.AlongFins, between
		foam.MethodID, foam.Direction = h.Method("foam_rinse"), contract.AgainstAirflow
		v.Coils[0].Treatments = []contract.VisitTreatment{brush, foam}
		for i := range v.Coils[0].Sides {
			v.Coils[0].Sides[i].SoilIds = &[]uuid.UUID{h.Soil("dust")}
		}
		h.Submit(v)
	}
	visit("2025-06-01", nil)
	run, err := h.Rooms.Learning.StartEstimation(h.Ctx, h.Manager)
	require.NoError(t, err)
	h.RunEnds(run.ID)
	var plans []store.PlanEstimate
	require.NoError(t, h.Store.DB.Find(&plans).Error)
	require.Len(t, plans, 1)
	assert.Equal(t, "soft_brush+foam_rinse", plans[0].Plan)
	assert.Equal(t, 4, plans[0].CorePairs, "one for each side")
	var methods int64
	require.NoError(t, h.Store.DB.Model(&store.RemovalEstimate{}).Count(&methods).Error)
	assert.Zero(t, methods, "nobody saw what each pass took")

	visit("2026-01-01", &contract.PassLook{Grade: 2, Seen: contract.LightThrough})
	run, err = h.Rooms.Learning.StartEstimation(h.Ctx, h.Manager)
	require.NoError(t, err)
	h.RunEnds(run.ID)
	var learned []store.RemovalEstimate
	require.NoError(t, h.Store.DB.Find(&learned).Error)
	require.Len(t, learned, 2)
	for _, l := range learned {
		assert.Equal(t, 4, l.CorePairs)
	}
}
