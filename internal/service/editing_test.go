package service_test

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// What rests on a visit follows its amendment and its voiding; the old version can still be read.
func TestVisitsAreAmendedAndVoided(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	sent := h.submit(h.visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	require.NotNil(t, task(h.look(u.ID), contract.TaskKindLight).Proposal.ID)
	record, err := h.svc.VisitRecord(h.ctx, h.viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, h.visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook), record.Visit, "as it was sent")

	_, err = h.svc.AmendVisit(h.ctx, h.manager, store.NewID(), sent.ID, contract.VisitAmendment{Reason: " ", Visit: record.Visit})
	assert.Contains(t, fields(t, err), "/reason")
	wrong := record.Visit
	wrong.Day = on("2027-01-01")
	_, err = h.svc.AmendVisit(h.ctx, h.manager, store.NewID(), sent.ID, contract.VisitAmendment{Reason: "slip", Visit: wrong})
	assert.Contains(t, fields(t, err), "/visit/day")
	mended := h.visit(u, "2026-02-20", contract.TaskKindLight, 1, 0, contract.FaceLook)
	key := store.NewID()
	for range 2 { // sent twice, done once
		out, err := h.svc.AmendVisit(h.ctx, h.manager, key, sent.ID, contract.VisitAmendment{Reason: "wrong day and grade", Visit: mended})
		require.NoError(t, err)
		assert.Equal(t, key, out.ID)
	}
	now := h.look(u.ID)
	require.Len(t, now.Visits, 1)
	assert.Equal(t, "2026-03-22", task(now, contract.TaskKindLight).Due.String())
	assert.Nil(t, task(now, contract.TaskKindLight).Proposal.ID, "the proposal rested on a grade that was a slip")
	old, err := h.svc.VisitRecord(h.ctx, h.viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.VisitRecordStatus("amended"), old.Status)
	assert.Equal(t, key, *old.SupersededBy)
	assert.Equal(t, 4, old.Visit.Coils[0].Sides[0].Found.Grade)
	assert.Equal(t, "wrong day and grade", old.StatusReason)
	trail, err := h.svc.Audit(h.ctx, h.viewer, "visit", sent.ID)
	require.NoError(t, err)
	assert.Contains(t, trail[0].Changes, contract.AuditChange{Path: "day", Before: "2026-02-10", After: "2026-02-20"})

	_, err = h.svc.VoidVisit(h.ctx, h.manager, sent.ID, "again")
	var conflict service.Conflict
	require.True(t, errors.As(err, &conflict))
	_, err = h.svc.VoidVisit(h.ctx, h.technician, key, "mine")
	assert.ErrorIs(t, err, service.ErrForbidden)
	_, err = h.svc.VoidVisit(h.ctx, h.manager, key, "another machine")
	require.NoError(t, err)
	now = h.look(u.ID)
	assert.Empty(t, now.Visits)
	assert.Equal(t, "2026-01-31", task(now, contract.TaskKindLight).Due.String(), "the clock is where it was")
}

func TestBulkChangesArePreviewedMadeAndUndone(t *testing.T) {
	h := newHouse(t)
	var ids []uuid.UUID
	for _, tag := range []string{"IM-1", "IM-2", "CC-1"} {
		class := "ice_machine"
		if tag == "CC-1" {
			class = "undercounter_cooler"
		}
		ids = append(ids, h.unit(tag, class, "2026-01-01").ID)
	}
	change := contract.NewBulkChange{UnitIds: ids, What: "interval", Kind: ptr(contract.NewBulkChangeKindLight), Days: ptr(21), Reason: ptr("busy season"), DryRun: true}
	shown, err := h.svc.ChangeInBulk(h.ctx, h.manager, change)
	require.NoError(t, err)
	require.Len(t, shown.Lines, 3)
	assert.Equal(t, "30 d", shown.Lines[0].From)
	assert.Equal(t, 1, strings.Count(shown.Lines[0].Skipped+shown.Lines[1].Skipped+shown.Lines[2].Skipped, "has no light clean"))
	assert.Equal(t, 30, task(h.look(ids[0]), contract.TaskKindLight).EveryDays, "only shown")
	change.DryRun = false
	made, err := h.svc.ChangeInBulk(h.ctx, h.manager, change)
	require.NoError(t, err)
	u := h.look(ids[0])
	assert.Equal(t, 21, task(u, contract.TaskKindLight).EveryDays)
	assert.Equal(t, "busy season", task(u, contract.TaskKindLight).Changes[0].Reason)

	// One of them is changed by hand meanwhile: nothing is undone until that is looked at.
	id := task(u, contract.TaskKindLight).TaskID
	_, err = h.svc.SetInterval(h.ctx, h.manager, id, contract.OwnInterval{Days: 14, Reason: "mine"})
	require.NoError(t, err)
	_, err = h.svc.UndoBulkChange(h.ctx, h.manager, made.ID)
	var conflict service.Conflict
	require.True(t, errors.As(err, &conflict))
	assert.Contains(t, conflict.Reason, "IM-1 was changed since")
	assert.Equal(t, 21, task(h.look(ids[1]), contract.TaskKindLight).EveryDays)
	_, err = h.svc.SetInterval(h.ctx, h.manager, id, contract.OwnInterval{Days: 21, Reason: "back"})
	require.NoError(t, err)
	undone, err := h.svc.UndoBulkChange(h.ctx, h.manager, made.ID)
	require.NoError(t, err)
	assert.True(t, undone.Undone)
	for _, id := range ids[:2] {
		assert.Equal(t, 30, task(h.look(id), contract.TaskKindLight).EveryDays)
	}
	_, err = h.svc.UndoBulkChange(h.ctx, h.manager, made.ID)
	assert.True(t, errors.As(err, &conflict), "once")

	for _, c := range []struct {
		change contract.NewBulkChange
		read   func(contract.UnitCard) string
		want   string
	}{
		{contract.NewBulkChange{What: "refrigerant", Text: ptr("R-290")}, func(c contract.UnitCard) string { return c.Refrigerant }, "R-290"},
		{contract.NewBulkChange{What: "people", Number: ptr(2.0)}, func(c contract.UnitCard) string { return string(rune('0' + c.Access.People)) }, "2"},
		{contract.NewBulkChange{What: "energy_kwh_day", Number: ptr(7.5)}, func(c contract.UnitCard) string {
			return map[bool]string{true: "7.5"}[c.EnergyKwhDay != nil && *c.EnergyKwhDay == 7.5]
		}, "7.5"},
	} {
		before := c.read(h.card(ids[0]).Card)
		c.change.UnitIds = ids
		made, err := h.svc.ChangeInBulk(h.ctx, h.manager, c.change)
		require.NoError(t, err)
		assert.Equal(t, c.want, c.read(h.card(ids[0]).Card))
		_, err = h.svc.UndoBulkChange(h.ctx, h.manager, made.ID)
		require.NoError(t, err, c.change.What)
		assert.Equal(t, before, c.read(h.card(ids[0]).Card))
	}
	for _, bad := range []struct {
		change contract.NewBulkChange
		field  string
	}{
		{contract.NewBulkChange{What: "interval", Kind: ptr(contract.NewBulkChangeKindDeep), Days: ptr(0), Reason: ptr("x")}, "/days"},
		{contract.NewBulkChange{What: "interval", Kind: ptr(contract.NewBulkChangeKindDeep), Days: ptr(20)}, "/reason"},
		{contract.NewBulkChange{What: "companion", Kind: ptr(contract.NewBulkChangeKindDeep), Days: ptr(20)}, "/kind"},
		{contract.NewBulkChange{What: "people", Number: ptr(2.5)}, "/number"},
		{contract.NewBulkChange{What: "consequence_cost", Number: ptr(-1.0)}, "/number"},
	} {
		bad.change.UnitIds = ids
		_, err := h.svc.ChangeInBulk(h.ctx, h.manager, bad.change)
		assert.Contains(t, fields(t, err), bad.field)
	}
	list, err := h.svc.BulkChanges(h.ctx, h.manager)
	require.NoError(t, err)
	assert.Len(t, list, 4)
}

// photo is a JPEG with EXIF data that turns it and tells where it was taken.
func photo(t *testing.T) []byte {
	t.Helper()
	picture := image.NewRGBA(image.Rect(0, 0, 60, 40))
	picture.Set(0, 0, color.White)
	var out bytes.Buffer
	require.NoError(t, jpeg.Encode(&out, picture, nil))
	// Exif, big endian: orientation 6 (turned), then a make as plain text.
	exif := "Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x02" +
		"\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00" + "\x01\x0f\x00\x02\x00\x00\x00\x0a\x00\x00\x00\x26" + "\x00\x00\x00\x00" + "secretspot"
	segment := append([]byte{0xff, 0xe1, byte((len(exif) + 2) >> 8), byte(len(exif) + 2)}, exif...)
	return append(append(append([]byte{}, out.Bytes()[:2]...), segment...), out.Bytes()[2:]...)
}

func TestAttachmentsAreCheckedAndStripped(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	raw := photo(t)
	require.Contains(t, string(raw), "secretspot")
	in := service.NewAttachment{Entity: "unit", EntityID: u.ID, Kind: "photo", Name: `..\..\end "plate".exe`, Content: raw}
	kept, err := h.svc.AddAttachment(h.ctx, h.technician, in)
	require.NoError(t, err)
	assert.Equal(t, "end -plate-.jpg", kept.Name)
	assert.Equal(t, "image/jpeg", kept.MediaType)
	_, media, content, err := h.svc.AttachmentContent(h.ctx, h.viewer, kept.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/jpeg", media)
	assert.NotContains(t, string(content), "secretspot", "what the camera wrote is gone")
	size, err := jpeg.DecodeConfig(bytes.NewReader(content))
	require.NoError(t, err)
	assert.Equal(t, 40, size.Width, "and the picture stands upright")
	_, err = h.svc.AddAttachment(h.ctx, h.technician, in)
	var conflict service.Conflict
	assert.True(t, errors.As(err, &conflict), "the same file once")

	huge := image.NewGray(image.Rect(0, 0, 8000, 8000))
	var wide bytes.Buffer
	require.NoError(t, png.Encode(&wide, huge))
	for name, c := range map[string]service.NewAttachment{
		"empty":          {Kind: "photo"},
		"text":           {Kind: "manual", Content: []byte("just words")},
		"web page":       {Kind: "photo", Content: []byte("<html><script>1</script>")},
		"half a picture": {Kind: "photo", Content: raw[:len(raw)/2]},
		"too many dots":  {Kind: "photo", Content: wide.Bytes()},
		"too large":      {Kind: "manual", Content: append([]byte("%PDF-1.4\n"), make([]byte, 13<<20)...)},
	} {
		c.Entity, c.EntityID, c.Name = "unit", u.ID, "x"
		_, err := h.svc.AddAttachment(h.ctx, h.manager, c)
		assert.Contains(t, fields(t, err), "file", name)
	}
	_, err = h.svc.AddAttachment(h.ctx, h.manager, service.NewAttachment{Entity: "unit", EntityID: u.ID, Kind: "photo", Name: "x", Content: []byte("%PDF-1.4\n")})
	assert.Contains(t, fields(t, err), "kind")
	_, err = h.svc.AddAttachment(h.ctx, h.viewer, in)
	assert.ErrorIs(t, err, service.ErrForbidden)
	require.NoError(t, h.svc.RemoveAttachment(h.ctx, h.manager, kept.ID))
	list, err := h.svc.Attachments(h.ctx, h.viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
	trail, err := h.svc.Audit(h.ctx, h.viewer, "unit", u.ID)
	require.NoError(t, err)
	assert.Equal(t, "file removed", trail[0].Action)
}

func (h *house) table(key string) contract.HouseTable {
	h.t.Helper()
	rules, err := h.svc.HouseRules(h.ctx, h.viewer)
	require.NoError(h.t, err)
	for _, t := range rules.Tables {
		if t.Key == key {
			return t
		}
	}
	h.t.Fatalf("no table %s", key)
	return contract.HouseTable{}
}

func rowNamed(t contract.HouseTable, name string) contract.HouseRow {
	for _, r := range t.Rows {
		if r.Name == name {
			return r
		}
	}
	return contract.HouseRow{}
}

// A changed class changes what rests on it; its default can be put back; every version is told in the trail.
func TestHouseRulesAreChangedAndRestored(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-03")
	ice := rowNamed(h.table("classes"), "Ice machine")
	assert.Equal(t, contract.Evidence("assumption"), ice.Evidence)
	assert.Equal(t, 60.0, ice.Values["reference_days"])
	values := contract.HouseValues{"reference_days": 120.0, "light_days": nil}
	changed, err := h.svc.SaveHouseRule(h.ctx, h.manager, "classes", ice.ID, ice.Version, values)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"reference_days", "light_days"}, changed.Changed)
	assert.Less(t, *h.look(u.ID).Coils[0].Sides[0].State.BlockedShare, .2, "half the rate")
	require.NoError(t, h.svc.RefreshAll(h.ctx))
	assert.Less(t, *h.portfolio(h.viewer)[0].Coil.State.BlockedShare, .2, "and the portfolio follows")
	var stale service.Stale
	_, err = h.svc.SaveHouseRule(h.ctx, h.manager, "classes", ice.ID, ice.Version, values)
	assert.ErrorAs(t, err, &stale)
	back, err := h.svc.SaveHouseRule(h.ctx, h.manager, "classes", ice.ID, 0, nil)
	require.NoError(t, err)
	assert.Empty(t, back.Changed)
	assert.Equal(t, 3, back.Version)
	assert.InDelta(t, 1-math.Exp(math.Log(.7)*math.Exp(.18)), *h.look(u.ID).Coils[0].Sides[0].State.BlockedShare, 1e-3)
	trail, err := h.svc.Audit(h.ctx, h.viewer, "rule", ice.ID)
	require.NoError(t, err)
	require.Len(t, trail, 2)
	assert.Equal(t, "classes: default put back", trail[0].Action)

	limit := h.table("limits").Rows[0]
	_, err = h.svc.SaveHouseRule(h.ctx, h.manager, "limits", limit.ID, limit.Version, contract.HouseValues{"share": .2})
	require.NoError(t, err)
	assert.Equal(t, .2, h.look(u.ID).LimitShare)

	for _, c := range []struct {
		table, row, key string
		value           any
	}{
		{"classes", "Ice machine", "max_days", 10.0},
		{"classes", "Ice machine", "deep_days", "often"},
		{"classes", "Ice machine", "deep_days", 12.5},
		{"classes", "Ice machine", "usual_soil", "chocolate"},
		{"classes", "Ice machine", "colour", "red"},
		{"classes", "Ice machine", "name", " "},
		{"soils", "Dry dust", "penetration", 2.0},
		{"soils", "Dry dust", "month_weights", []any{1.0, 2.0}},
		{"factors", "Sand", "multiplier", 0.0},
		{"cleaners", "Water", "ph", 1.0},
		{"cleaners", "Indoor neutral, no rinse", "ph", 12.0},
		{"cleaners", "Water", "dwell_max_s", 10.0},
	} {
		row := rowNamed(h.table(c.table), c.row)
		require.NotEqual(t, uuid.Nil, row.ID, c.row)
		_, err := h.svc.SaveHouseRule(h.ctx, h.manager, c.table, row.ID, row.Version, contract.HouseValues{c.key: c.value})
		assert.Contains(t, fields(t, err), "/values/"+c.key, "%v", c)
	}
	dust := rowNamed(h.table("soils"), "Dry dust")
	season := []any{12.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 12.0}
	dust, err = h.svc.SaveHouseRule(h.ctx, h.manager, "soils", dust.ID, dust.Version, contract.HouseValues{"month_weights": season})
	require.NoError(t, err)
	assert.Equal(t, 6.0, dust.Values["month_weights"].([]float64)[0], "months are brought to a mean of 1")
	_, err = h.svc.SaveHouseRule(h.ctx, h.technician, "soils", dust.ID, dust.Version, nil)
	assert.ErrorIs(t, err, service.ErrForbidden)
	for _, table := range []string{"methods", "sprayers", "rates", "cleaners"} {
		rows := h.table(table).Rows
		require.NotEmpty(t, rows, table)
		assert.NotEmpty(t, rows[0].Source, "every default says what it rests on")
		assert.Empty(t, rows[0].Changed)
	}
}

// Filters, sorting and pages of the portfolio together give every coil once.
func TestThePortfolioFiltersSortsAndPages(t *testing.T) {
	h := newHouse(t)
	h.take("register", many(90)+"Hall,Yard,Z-1,Under-counter cooler,condenser,2024-01-01\nHall,Yard,Z-2,Reach-in fridge or freezer,condenser,unknown\n", false)
	for _, sort := range []string{"site", "class", "tag", "due", "soil"} {
		seen := map[string]bool{}
		q := service.PortfolioQuery{Sort: sort, Limit: 25}
		pages := 0
		for {
			p, err := h.svc.Portfolio(h.ctx, h.viewer, q)
			require.NoError(t, err)
			for _, row := range p.Rows {
				assert.False(t, seen[row.Tag], "%s twice by %s", row.Tag, sort)
				seen[row.Tag] = true
			}
			pages++
			if p.Next == nil {
				break
			}
			q.After = *p.Next
		}
		assert.Len(t, seen, 92, sort)
		assert.Equal(t, 4, pages)
	}
	for name, c := range map[string]struct {
		filter store.CoilFilter
		rows   int
	}{
		"text":       {store.CoilFilter{Text: "z-"}, 2},
		"percent":    {store.CoilFilter{Text: "%"}, 0},
		"class name": {store.CoilFilter{Text: "under-counter"}, 1},
		"due":        {store.CoilFilter{Due: true, Text: "Z-"}, 2},
		"grade":      {store.CoilFilter{MinGrade: 3, Text: "Z-"}, 1},
		"status":     {store.CoilFilter{Status: "retired"}, 0},
		"site":       {store.CoilFilter{SiteID: ptr(h.sites()[0].ID)}, 2},
	} {
		p, err := h.svc.Portfolio(h.ctx, h.viewer, service.PortfolioQuery{CoilFilter: c.filter})
		require.NoError(t, err)
		assert.Len(t, p.Rows, c.rows, name)
		n, err := h.svc.PortfolioSummary(h.ctx, h.viewer, c.filter)
		require.NoError(t, err)
		assert.Equal(t, c.rows, n.Coils, name)
		assert.Equal(t, 92, n.AllUnits)
	}
	_, err := h.svc.Portfolio(h.ctx, h.viewer, service.PortfolioQuery{After: "nonsense"})
	assert.Contains(t, fields(t, err), "after")
	hits, err := h.svc.Search(h.ctx, h.viewer, "z")
	require.NoError(t, err)
	assert.Equal(t, "Z-1", hits[0].Label)

	saved, err := h.svc.SaveFilter(h.ctx, h.viewer, contract.NewSavedFilter{Name: "Late", Query: "due=1"})
	require.NoError(t, err)
	_, err = h.svc.SaveFilter(h.ctx, h.viewer, contract.NewSavedFilter{Name: "Late", Query: "due=1"})
	assert.Contains(t, fields(t, err), "/name")
	assert.ErrorIs(t, h.svc.RemoveFilter(h.ctx, h.manager, saved.ID), service.ErrNotFound, "each has their own")
	require.NoError(t, h.svc.RemoveFilter(h.ctx, h.viewer, saved.ID))
}

// However many units there are, a page takes the same number of statements; so does a unit.
func TestStatementsDoNotGrow(t *testing.T) {
	h := newHouse(t)
	count := func(do func()) int64 {
		before := h.store.Statements()
		do()
		return h.store.Statements() - before
	}
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	page := func() { h.portfolio(h.manager) }
	unit := func() { h.look(u.ID) }
	fewPage, fewUnit := count(page), count(unit)
	h.take("register", many(300), false)
	assert.Equal(t, fewPage, count(page))
	assert.Equal(t, fewUnit, count(unit))
	assert.Equal(t, int64(2), fewPage)
}

// What is derived can be dropped and worked out anew, and comes out the same; soil grows with the days.
func TestRebuildGivesTheSame(t *testing.T) {
	h := newHouse(t)
	u := h.unit("IM-1", "ice_machine", "2026-01-01")
	h.submit(h.visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	before := h.portfolio(h.viewer)
	n, err := h.svc.Rebuild(h.ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	again := h.portfolio(h.viewer)
	for _, rows := range [][]contract.PortfolioRow{before, again} {
		for i := range rows[0].Coil.Tasks {
			rows[0].Coil.Tasks[i].ProposalID = nil // a proposal made anew is another one
		}
	}
	assert.Equal(t, before, again)
	h.now = h.now.AddDate(0, 0, 20)
	require.NoError(t, h.svc.RefreshAll(h.ctx))
	after := h.portfolio(h.viewer)[0].Coil
	assert.Greater(t, *after.State.BlockedShare, *before[0].Coil.State.BlockedShare)
	assert.Equal(t, before[0].Coil.Tasks[0].DaysLate+20, after.Tasks[0].DaysLate)
	behind, err := h.store.For(h.ctx, h.org.ID).UnitsBehind(h.now, service.ModelVersion, 10)
	require.NoError(t, err)
	assert.Empty(t, behind)
}
