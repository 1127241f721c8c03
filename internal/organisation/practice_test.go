package organisation_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

func lineOf(t *testing.T, p contract.Practice, question string) contract.PracticeLine {
	t.Helper()
	for _, l := range p.Lines {
		if l.Question.Code == question {
			return l
		}
	}
	t.Fatalf("there is no question %s", question)
	return contract.PracticeLine{}
}

// The organisation answers, a site differs, a unit differs again; each takes the nearest answer, and taking one back gives the
// one above it.
func TestPracticeHoldsForHouseSiteAndUnit(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	unit := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	inForce := func(question string) string {
		pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Manager, unit.ID)
		require.NoError(t, err)
		return pack.Practice[question]
	}
	assert.Equal(t, "against", inForce("air"), "the standard answer")
	answer := func(in contract.PracticeChange) {
		_, err := h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "air", in)
		require.NoError(t, err)
	}
	answer(contract.PracticeChange{Choice: new("never"), Reason: "fans got dirty"})
	assert.Equal(t, "never", inForce("air"))
	answer(contract.PracticeChange{Choice: new("yes"), Reason: "open yard", SiteID: &unit.SiteID})
	assert.Equal(t, "yes", inForce("air"))
	answer(contract.PracticeChange{Choice: new("against"), Reason: "beside a door", UnitID: &unit.ID})
	assert.Equal(t, "against", inForce("air"))
	practice, err := h.Rooms.Organisation.Practice(h.Ctx, h.Manager)
	require.NoError(t, err)
	line := lineOf(t, practice, "air")
	require.Len(t, line.Answers, 3)
	assert.Equal(t, contract.PracticeAnswerScopeHouse, line.Answers[0].Scope)
	answer(contract.PracticeChange{Reason: "no longer", UnitID: &unit.ID})
	assert.Equal(t, "yes", inForce("air"))
	answer(contract.PracticeChange{Reason: "no longer", SiteID: &unit.SiteID})
	assert.Equal(t, "never", inForce("air"))
	assert.Equal(t, "by_label", inForce("no_rinse"), "others stand")

	for pointer, in := range map[string]contract.PracticeChange{
		"/choice": {Choice: new("sideways"), Reason: "x"}, "/reason": {Choice: new("never"), Reason: " "},
		"/unit_id": {Choice: new("never"), Reason: "x", SiteID: &unit.SiteID, UnitID: &unit.ID}, "/site_id": {Choice: new("never"), Reason: "x", SiteID: new(uuid.New())},
	} {
		_, err := h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "air", in)
		assert.Equal(t, pointer, roomstest.FieldsOf(t, err)[0].Path)
	}
	_, err = h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "poetry", contract.PracticeChange{Choice: new("x"), Reason: "x"})
	assert.ErrorIs(t, err, organisation.ErrNotFound)
}

// A procedure is changed as a new version; a visit led by the older one is still held against that.
func TestProceduresAreVersioned(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	all, err := h.Rooms.Organisation.Procedures(h.Ctx, h.Manager)
	require.NoError(t, err)
	require.Len(t, all, len(defaults.Classes))
	first := all[0]
	assert.Equal(t, 0, first.Version)
	change := contract.ProcedureChange{Version: 0, Steps: first.Steps[:len(first.Steps)-1], Reason: "shorter"}
	_, err = h.Rooms.Organisation.SaveProcedure(h.Ctx, h.Manager, first.ClassID, change)
	assert.Contains(t, err.Error(), "tell_site is missing")
	steps := append([]contract.ProcedureStep{}, first.Steps...)
	steps[0].Why = ""
	_, err = h.Rooms.Organisation.SaveProcedure(h.Ctx, h.Manager, first.ClassID, contract.ProcedureChange{Version: 0, Steps: steps, Reason: "x"})
	assert.Equal(t, "/steps/0/why", roomstest.FieldsOf(t, err)[0].Path)
	steps[0].Why = "so that the right one is cleaned"
	saved, err := h.Rooms.Organisation.SaveProcedure(h.Ctx, h.Manager, first.ClassID, contract.ProcedureChange{Version: 0, Steps: steps, Reason: "own words"})
	require.NoError(t, err)
	assert.Equal(t, 1, saved.Version)
	_, err = h.Rooms.Organisation.SaveProcedure(h.Ctx, h.Manager, first.ClassID, contract.ProcedureChange{Version: 0, Steps: steps, Reason: "again"})
	assert.ErrorContains(t, err, "somebody else changed this procedure")
	versions, err := h.Rooms.Organisation.ProcedureVersions(h.Ctx, h.Manager, first.ClassID)
	require.NoError(t, err)
	require.Len(t, versions, 2)
	assert.Equal(t, "so that the right one is cleaned", versions[0].Steps[0].Why)
	assert.Equal(t, 0, versions[1].Version, "the standard one can still be read")
	_, err = h.Rooms.Organisation.SaveProcedure(h.Ctx, h.Technician, first.ClassID, change)
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}
