package service_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/exchange"
)

const header = "site,placement,tag,class,coil role,last clean\n"

func TestTheTemplateImports(t *testing.T) {
	h := newHouse(t)
	dry, err := h.svc.ImportRegister(h.ctx, h.manager, "t.csv", []byte(exchange.RegisterTemplate), true)
	require.NoError(t, err)
	assert.Empty(t, dry.Problems)
	assert.False(t, dry.Stored)
	assert.Equal(t, 3, dry.NewUnits)
	assert.Equal(t, []string{"Harbour Office", "Crew Canteen"}, dry.NewSites)
	p, err := h.svc.Portfolio(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Empty(t, p.Sites, "a trial run stores nothing")

	done, err := h.svc.ImportRegister(h.ctx, h.manager, "t.csv", []byte(exchange.RegisterTemplate), false)
	require.NoError(t, err)
	assert.True(t, done.Stored)
	p, err = h.svc.Portfolio(h.ctx, h.viewer)
	require.NoError(t, err)
	require.Len(t, p.Sites, 2)
	cu := p.Sites[1].Units[0]
	assert.Equal(t, "HO-CU-1", cu.Tag)
	u := h.look(cu.ID)
	assert.Len(t, u.Coils[0].Sides, 4, "sides come from the class")
	assert.Equal(t, contract.Exact, u.Coils[0].StartQuality)
	assert.Equal(t, "2025-09-14", u.Coils[0].StartDay.String())

	again, err := h.svc.ImportRegister(h.ctx, h.manager, "t.csv", []byte(exchange.RegisterTemplate), false)
	require.NoError(t, err)
	assert.False(t, again.Stored)
	require.Len(t, again.Problems, 3)
	assert.Contains(t, again.Problems[0].Reason, "is in the register already")
}

func TestImportIsAllOrNothing(t *testing.T) {
	h := newHouse(t)
	file := header +
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\n" +
		"Hall,Yard,A-1,Ice machine,condenser,2026-01-01\n" +
		"Hall,Roof,A-1,Ice machine,evaporator,2027-01-01\n" +
		"Barn,Yard,A-2,Dragon,condenser,\n"
	report, err := h.svc.ImportRegister(h.ctx, h.manager, "x.csv", []byte(file), false)
	require.NoError(t, err)
	assert.False(t, report.Stored)
	got := []string{}
	for _, p := range report.Problems {
		got = append(got, p.Pointer+": "+p.Reason)
	}
	assert.Equal(t, []string{
		"line 3, coil role: A-1 has its condenser in line 2 already",
		`line 4, coil role: Ice machine has no coil "evaporator"; it has condenser`,
		"line 4, placement: A-1 stands at Yard in line 2",
		`line 5, class: "Dragon" is not a class of the house`,
	}, got)
	p, err := h.svc.Portfolio(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Empty(t, p.Sites)
}

func TestOneUnitWithTwoCoils(t *testing.T) {
	h := newHouse(t)
	file := header + "Hall,Roof,P-1,packaged_unit,condenser,never\nHall,Roof,P-1,packaged_unit,evaporator,about 2026-01\n"
	report, err := h.svc.ImportRegister(h.ctx, h.manager, "x.csv", []byte(file), false)
	require.NoError(t, err)
	assert.Equal(t, 1, report.NewUnits)
	assert.Equal(t, 2, report.NewCoils)
	p, err := h.svc.Portfolio(h.ctx, h.manager)
	require.NoError(t, err)
	coils := p.Sites[0].Units[0].Coils
	require.Len(t, coils, 2)
	for _, c := range coils {
		switch c.Role {
		case contract.CoilRoleCondenser:
			assert.True(t, c.Tasks[0].FirstLook)
		case contract.CoilRoleEvaporator:
			assert.True(t, c.Tasks[0].About)
			assert.Equal(t, "2026-01-15", c.Tasks[0].LastDay.String())
		}
	}
}

func TestHandFormErrors(t *testing.T) {
	h := newHouse(t)
	h.unit("IM-1", "ice_machine", "2026-01-01")
	early, late := calendar.MustParse("2020-01-01"), calendar.MustParse("2030-01-01")
	good := contract.NewUnit{
		Site: "Hall", Placement: "Yard", Tag: "IM-2", Class: "Ice machine", CoilRoles: []contract.CoilRole{contract.CoilRoleCondenser},
		LastClean: contract.LastClean{Quality: contract.Never},
	}
	for name, c := range map[string]struct {
		change func(*contract.NewUnit)
		field  string
	}{
		"tag taken":     {func(u *contract.NewUnit) { u.Tag = "IM-1" }, "/tag"},
		"blank tag":     {func(u *contract.NewUnit) { u.Tag = "  " }, "/tag"},
		"no such class": {func(u *contract.NewUnit) { u.Class = "Dragon" }, "/class"},
		"no such coil":  {func(u *contract.NewUnit) { u.CoilRoles[0] = contract.CoilRoleBack }, "/coil_roles/0"},
		"no day":        {func(u *contract.NewUnit) { u.LastClean.Quality = contract.Exact }, "/last_clean/day"},
		"day of never":  {func(u *contract.NewUnit) { u.LastClean.Day = &early }, "/last_clean/day"},
		"future start":  {func(u *contract.NewUnit) { u.Commissioned = &late }, "/commissioned"},
		"before it was": {func(u *contract.NewUnit) {
			u.Commissioned, u.LastClean = ptr(calendar.MustParse("2025-01-01")), contract.LastClean{Quality: contract.Exact, Day: &early}
		}, "/last_clean/day"},
	} {
		t.Run(name, func(t *testing.T) {
			in := good
			in.CoilRoles = []contract.CoilRole{contract.CoilRoleCondenser}
			c.change(&in)
			_, err := h.svc.AddUnit(h.ctx, h.manager, in)
			assert.Contains(t, fields(t, err), c.field)
		})
	}
	good.Commissioned = ptr(calendar.MustParse("2026-02-01"))
	made, err := h.svc.AddUnit(h.ctx, h.manager, good)
	require.NoError(t, err)
	u := h.look(made.ID)
	assert.Equal(t, "2026-03-03", task(u, contract.Light).Due.String(), "never cleaned: the clock runs from commissioning")
	assert.True(t, u.Coils[0].Sides[0].State.Known, "and so does the soil")
}

func ptr[T any](v T) *T { return &v }

// However many units there are, the portfolio takes the same number of statements.
func TestPortfolioStatementsDoNotGrow(t *testing.T) {
	h := newHouse(t)
	count := func() int64 {
		before := h.store.Statements()
		_, err := h.svc.Portfolio(h.ctx, h.manager)
		require.NoError(t, err)
		return h.store.Statements() - before
	}
	h.unit("IM-1", "ice_machine", "2026-01-01")
	few := count()
	var file strings.Builder
	file.WriteString(header)
	for _, tag := range []string{"B-1", "B-2", "B-3", "B-4", "B-5"} {
		file.WriteString("Hall,Yard," + tag + ",Ice machine,condenser,2026-01-01\n")
	}
	_, err := h.svc.ImportRegister(h.ctx, h.manager, "x.csv", []byte(file.String()), false)
	require.NoError(t, err)
	assert.Equal(t, few, count())
	assert.Greater(t, few, int64(5), "statements are counted")
}
