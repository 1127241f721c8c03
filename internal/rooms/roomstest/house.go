// Package roomstest gives tests a small organisation with all its rooms over a database of its own, and the everyday moves in
// it: add a unit, record a visit, plan, publish.
// It is for tests only.
package roomstest

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/organisation"
	"nextround/internal/pg/pgtest"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// House is an organisation with a manager, a technician and a viewer, on a clock that the test sets.
type House struct {
	t                           testing.TB
	Ctx                         context.Context
	Rooms                       *rooms.Rooms
	Store                       *store.Store
	Org                         store.Organisation
	Manager, Technician, Viewer organisation.Actor
	Now                         time.Time
	Cat                         contract.Catalogue
}

// Now is the morning on which tests begin.
var Now = time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)

// New makes an organisation in a database of its own.
func New(t testing.TB) *House {
	t.Helper()
	h := &House{t: t, Ctx: context.Background(), Now: Now}
	st, err := store.Open(h.Ctx, pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(st.Close)
	h.Store = st
	h.Rooms = rooms.New(st, rooms.Options{Now: func() time.Time { return h.Now }, Hash: organisation.HashCost{Passes: 1, MemoryKiB: 64}})
	t.Cleanup(h.Rooms.Close)
	h.Org, err = h.Rooms.Organisation.CreateOrganisation(h.Ctx, organisation.NewOrganisation{Name: "Trust", Zone: "UTC", Currency: "EUR", Units: "metric"})
	require.NoError(t, err)
	h.Manager = h.member("manager", contract.RoleManager)
	h.Technician = h.member("technician", contract.RoleTechnician)
	h.Viewer = h.member("viewer", contract.RoleViewer)
	h.Cat, err = h.Rooms.Organisation.Catalogue(h.Ctx, h.Manager)
	require.NoError(t, err)
	return h
}

// Table is a table of the house rules.
func (h *House) Table(key string) contract.HouseTable {
	h.t.Helper()
	rules, err := h.Rooms.Organisation.HouseRules(h.Ctx, h.Manager)
	require.NoError(h.t, err)
	for _, t := range rules.Tables {
		if t.Key == key {
			return t
		}
	}
	h.t.Fatalf("no table %s", key)
	return contract.HouseTable{}
}

// Header is the head of a small register file.
const Header = "site,placement,tag,class,coil role,last clean\n"

// GoodPassword is one that is taken.
const GoodPassword = "three old herring nets"

// SignIn signs somebody in.
func (h *House) SignIn(login, password string) (organisation.Actor, error) {
	return h.Rooms.Organisation.SignIn(h.Ctx, contract.SignIn{Login: login, Password: password}, organisation.Visitor{Address: "192.0.2.7"})
}

// Invite adds somebody and has them choose a password by the link.
func (h *House) Invite(login string, role contract.Role, sites ...uuid.UUID) organisation.Actor {
	h.t.Helper()
	in := contract.NewPerson{Name: "The " + login, Login: &login, Role: &role}
	if len(sites) > 0 {
		in.AllSites, in.SiteIds = new(false), &sites
	}
	added, err := h.Rooms.Organisation.AddPerson(h.Ctx, h.Manager, in)
	require.NoError(h.t, err)
	a, err := h.Rooms.Organisation.UseLink(h.Ctx, strings.TrimPrefix(*added.Link, "/join/"), GoodPassword)
	require.NoError(h.t, err)
	return a
}

// Sites lists the sites.
func (h *House) Sites() []contract.SiteLine {
	h.t.Helper()
	out, err := h.Rooms.Register.Sites(h.Ctx, h.Manager)
	require.NoError(h.t, err)
	return out
}

// SaveSite changes a site's card.
func (h *House) SaveSite(id uuid.UUID, change func(*contract.SiteCard)) contract.SiteRecord {
	h.t.Helper()
	record, err := h.Rooms.Register.Site(h.Ctx, h.Manager, id)
	require.NoError(h.t, err)
	change(&record.Card)
	out, err := h.Rooms.Register.SaveSite(h.Ctx, h.Manager, id, contract.SiteChange{Version: record.Version, Card: record.Card})
	require.NoError(h.t, err)
	return out
}

// Take imports a file of the kind, or only checks it.
func (h *House) Take(kind, file string, dryRun bool) contract.ImportRun {
	h.t.Helper()
	run, err := h.Rooms.Importing.Import(h.Ctx, h.Manager, importing.Request{Kind: kind, FileName: "x.csv", File: []byte(file), DryRun: dryRun})
	require.NoError(h.t, err)
	return run
}

// Export writes what somebody may see as a file.
func (h *House) Export(a organisation.Actor, kind, format string) string {
	h.t.Helper()
	var out strings.Builder
	require.NoError(h.t, h.Rooms.Export(h.Ctx, a, kind, format, &out))
	return out.String()
}
