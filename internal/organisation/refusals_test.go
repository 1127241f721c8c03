package organisation_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

// Who may sign in, and with what, is checked before anything is stored.
func TestPeopleWhoCannotBeAdded(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	before, err := h.Rooms.Organisation.People(h.Ctx, h.Manager)
	require.NoError(t, err)
	role := new(contract.RoleTechnician)
	for name, c := range map[string]struct {
		in      contract.NewPerson
		pointer string
	}{
		"no name":          {contract.NewPerson{Name: " "}, "/name"},
		"a short login":    {contract.NewPerson{Name: "A", Login: new("a"), Role: role}, "/login"},
		"a login of words": {contract.NewPerson{Name: "A", Login: new("two words"), Role: role}, "/login"},
		"a login taken":    {contract.NewPerson{Name: "A", Login: new(" MANAGER "), Role: role}, "/login"},
		"no role":          {contract.NewPerson{Name: "A", Login: new("anna")}, "/role"},
		"no sites":         {contract.NewPerson{Name: "A", Login: new("anna"), Role: role, AllSites: new(false)}, "/site_ids"},
		"a site unknown": {contract.NewPerson{
			Name: "A", Login: new("anna"), Role: role, AllSites: new(false), SiteIds: &[]uuid.UUID{store.NewID()},
		}, "/site_ids"},
		"a site twice": {contract.NewPerson{
			Name: "A", Login: new("anna"), Role: role, AllSites: new(false), SiteIds: &[]uuid.UUID{u.SiteID, u.SiteID},
		}, "/site_ids"},
	} {
		_, err := h.Rooms.Organisation.AddPerson(h.Ctx, h.Manager, c.in)
		assert.Contains(t, roomstest.Fields(t, err), c.pointer, name)
	}
	after, err := h.Rooms.Organisation.People(h.Ctx, h.Manager)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	_, err = h.Rooms.Organisation.AddPerson(h.Ctx, h.Technician, contract.NewPerson{Name: "A"})
	assert.ErrorIs(t, err, organisation.ErrForbidden)
}

// The first page names every field that is wrong at once, and stores nothing.
func TestAHouseThatCannotBeSetUp(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	good := contract.NewHouse{
		Organisation: "Harbour", Zone: "Europe/Oslo", Currency: "EUR", Units: "metric", Person: "Manager", Login: "m.anager", Password: "a long pass phrase",
	}
	_, err := h.Rooms.Organisation.SetUp(h.Ctx, contract.NewHouse{Organisation: " ", Zone: "Nowhere", Currency: "XYZW", Person: "", Login: "?", Password: "short"})
	found := roomstest.Fields(t, err)
	for _, pointer := range []string{"/organisation", "/zone", "/currency", "/person", "/login", "/password"} {
		assert.Contains(t, found, pointer)
	}
	for password, want := range map[string]string{
		"short":                  "at least 12",
		strings.Repeat("å", 129): "at most 128",
		"aaaaaaaaaaaaaaaa":       "",
		"xx m.anager xx":         "must not contain the login",
	} {
		in := good
		in.Password = password
		_, err := h.Rooms.Organisation.SetUp(h.Ctx, in)
		assert.Contains(t, roomstest.Fields(t, err)["/password"], want, password)
	}
	_, err = h.Rooms.Organisation.SetUp(h.Ctx, good)
	require.Error(t, err, "a house is there already")
	n, err := h.Store.Organisations(h.Ctx)
	require.NoError(t, err)
	assert.Equal(t, int64(1), n)
}
