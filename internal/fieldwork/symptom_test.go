package fieldwork_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

// A symptom keeps the soil its coil was thought to have, and says where to look first.
func TestSymptomsSayWhereToLook(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	clean := h.Unit("A-1", "display_cooler", "2026-02-28")
	dirty := h.Unit("A-2", "display_cooler", "2025-06-01")
	report := func(u *uuid.UUID, kind contract.SymptomKind) contract.Symptom {
		s, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: kind, UnitID: u})
		require.NoError(t, err)
		return s
	}
	assert.Contains(t, report(&clean.ID, contract.SymptomKindWater).Advice, "look elsewhere first, at pan, drain, pump and float switch")
	assert.Contains(t, report(&dirty.ID, contract.SymptomKindNotCold).Advice, "bring its clean forward")
	atSite, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindBuzzing, SiteID: &clean.SiteID})
	require.NoError(t, err)
	assert.Contains(t, atSite.Advice, "Find out which unit it is")
	triage := func(id uuid.UUID, in contract.Triage) error {
		_, err := h.Rooms.Fieldwork.Triage(h.Ctx, h.Manager, id, in)
		return err
	}
	assert.Equal(t, "/decision", roomstest.FieldsOf(t, triage(atSite.ID, contract.Triage{Decision: contract.TriageDecisionBringForward}))[0].Path)
	assert.Equal(t, "/note", roomstest.FieldsOf(t, triage(atSite.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere}))[0].Path)
	list, err := h.Rooms.Fieldwork.Symptoms(h.Ctx, h.Viewer)
	require.NoError(t, err)
	require.Len(t, list, 3)
	var water contract.Symptom
	for _, s := range list {
		if s.Kind == contract.SymptomKindWater {
			water = s
		}
	}
	past := calendar.Of(roomstest.Now).Add(-1)
	assert.Equal(t, "/day", roomstest.FieldsOf(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionBringForward, Day: &past}))[0].Path)
	assert.Equal(t, "/coil_was_cause", roomstest.FieldsOf(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionClose, Note: "float stuck"}))[0].Path)
	require.NoError(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionClose, Note: "float stuck", CoilWasCause: new(false)}))
	assert.ErrorContains(t, triage(water.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"}), "already closed")
	_, err = h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindOther, UnitID: &clean.ID})
	assert.Equal(t, "/note", roomstest.FieldsOf(t, err)[0].Path)
	_, err = h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindWater})
	assert.Equal(t, "/unit_id", roomstest.FieldsOf(t, err)[0].Path)
	_, err = h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Viewer, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &clean.ID})
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}
