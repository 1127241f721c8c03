package organisation_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// What a release brings waits for a manager's answer: accepted, it enters the catalogues whole; refused, it is not offered again.
func TestNewDefaultsWaitForAnAnswer(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	list, err := h.Rooms.Organisation.NewDefaults(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Empty(t, list, "a new organisation has them all")

	// As an organisation of an earlier release: without one class, one method and one cleaner.
	for _, statement := range []string{
		"DELETE FROM class_side USING equipment_class c WHERE c.id = class_side.class_id AND c.code = 'through_wall'",
		"DELETE FROM class_task USING equipment_class c WHERE c.id = class_task.class_id AND c.code = 'through_wall'",
		"DELETE FROM class_minutes USING equipment_class c WHERE c.id = class_minutes.class_id AND c.code = 'through_wall'",
		"DELETE FROM equipment_class WHERE code = 'through_wall'",
		"DELETE FROM method_removal USING method m WHERE m.id = method_removal.method_id AND m.code = 'tank_sprayer'",
		"DELETE FROM method WHERE code = 'tank_sprayer'",
		"DELETE FROM cleaner WHERE code = 'non_acid'",
	} {
		require.NoError(t, h.Store.DB.Exec(statement).Error, statement)
	}
	list, err = h.Rooms.Organisation.NewDefaults(h.Ctx, h.Manager)
	require.NoError(t, err)
	codes := map[string]contract.NewDefault{}
	for _, x := range list {
		codes[string(x.Catalogue)+"/"+x.Code] = x
	}
	require.Len(t, list, 3, "%v", list)
	assert.Contains(t, codes["classes/through_wall"].Note, "deep clean every 182 d")

	left, err := h.Rooms.Organisation.AnswerNewDefault(h.Ctx, h.Manager, contract.NewDefaultAnswer{Catalogue: "classes", Code: "through_wall", Accept: true})
	require.NoError(t, err)
	assert.Len(t, left, 2)
	u := h.Unit("TW-1", "through_wall", "")
	assert.Len(t, u.Coils, 2, "it came with its sides")
	assert.NotEmpty(t, u.Companions, "and its companion tasks")

	left, err = h.Rooms.Organisation.AnswerNewDefault(h.Ctx, h.Manager, contract.NewDefaultAnswer{Catalogue: "methods", Code: "tank_sprayer", Accept: true})
	require.NoError(t, err)
	assert.Len(t, left, 1)
	methods, err := store.All[store.Method](h.Store.For(h.Ctx, h.Org.ID), "position")
	require.NoError(t, err)
	assert.Equal(t, "tank_sprayer", methods[len(methods)-1].Code, "what is new comes last")

	left, err = h.Rooms.Organisation.AnswerNewDefault(h.Ctx, h.Manager, contract.NewDefaultAnswer{Catalogue: "cleaners", Code: "non_acid"})
	require.NoError(t, err)
	assert.Empty(t, left)
	require.NoError(t, h.Rooms.Learning.RefreshAll(h.Ctx))
	list, err = h.Rooms.Organisation.NewDefaults(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Empty(t, list, "refused once is refused")
	_, err = h.Rooms.Organisation.AnswerNewDefault(h.Ctx, h.Manager, contract.NewDefaultAnswer{Catalogue: "cleaners", Code: "non_acid", Accept: true})
	assert.Contains(t, roomstest.Fields(t, err), "/code")
	_, err = h.Rooms.Organisation.NewDefaults(h.Ctx, h.Technician)
	assert.Error(t, err)
}
