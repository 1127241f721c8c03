package fieldwork_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

// The forms that come back for an amendment are what was sent, with mixes, amounts and sides left out.
func TestFormsComeBackAsSent(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-03-04")
	v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 3, 1, contract.LightThrough)
	v.Outcome = contract.OutcomePartly
	why := "fence"
	v.Coils[0].Sides[3] = contract.VisitSide{SurfaceID: u.Coils[0].Sides[3].ID, WhyNot: &why}
	first := &v.Coils[0].Treatments[0]
	first.MethodID, first.Direction, first.SurfaceIds = h.Method("foam_rinse"), contract.AgainstAirflow, first.SurfaceIds[:3]
	first.CleanerID, first.WaterParts = new(h.Cat.Cleaners[4].ID), new(6.0)
	first.Amount = &contract.Amount{Value: 1.25, Unit: contract.AmountUnitUsGal}
	first.EndPoints = &[]contract.EndPoint{contract.ClearRunOff}
	second := contract.VisitTreatment{Work: contract.TaskKindLight, MethodID: h.Method("brush_vacuum"), Direction: contract.AlongFins, SurfaceIds: first.SurfaceIds[:1]}
	v.Coils[0].Treatments = append(v.Coils[0].Treatments, second)
	v.Note = new("two treatments")
	sent := h.Submit(v)
	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, v, record.Visit)
	assert.InDelta(t, 1.25*3.785411784, *record.Summary.Treatments[0].AmountL, 1e-9)
	assert.Equal(t, "1.25 US gal", record.Summary.Treatments[0].Amount)

	// A file of it says the same, in any order of its rows.
	lines := strings.Split(strings.TrimSpace(h.Export(h.Manager, "visits", "csv")), "\r\n")
	require.Len(t, lines, 1+4+1, "a row a side, and one more for the second treatment")
	lines[1], lines[4] = lines[4], lines[1]
	run := h.Take("visits", strings.Join(lines, "\r\n"), false)
	assert.Equal(t, contract.ImportRunStatusUnchanged, run.Status, roomstest.Reasons(run))
	assert.Equal(t, 1, run.Report.KnownVisits)
}
