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
	"nextround/internal/store"
)

// The service itself knows who may do what, whatever stands before it.
func TestWhoMayDoWhatInTheField(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "display_cooler", "2026-01-01")
	k := h.Cleaner("medium_universal")
	day := calendar.Of(roomstest.Now)
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough)).ID
	item, err := h.Rooms.Fieldwork.AddWatchItem(h.Ctx, h.Technician, u.ID, contract.NewWatchItem{What: "specks"})
	require.NoError(t, err)
	symptom, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Technician, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	require.NoError(t, err)
	procedures, err := h.Rooms.Organisation.Procedures(h.Ctx, h.Viewer)
	require.NoError(t, err)
	type does struct {
		name string
		do   func(organisation.Actor) error
	}
	technician := []does{
		{"watch something", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.AddWatchItem(h.Ctx, a, u.ID, contract.NewWatchItem{What: "x"})
			return err
		}},
		{"move stock", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.AddStockMove(h.Ctx, a, contract.NewStockMove{CleanerID: k, Kind: contract.NewStockMoveKindBought, Litres: 1, Day: day})
			return err
		}},
		{"practise", func(a organisation.Actor) error {
			_, err := h.Rooms.Organisation.ScoreGrader(h.Ctx, a, contract.GraderScores{Seed: 1, Said: []int{2}})
			return err
		}},
		{"mail a report", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.MailSiteReport(h.Ctx, a, visit, "a@b.example")
			return err
		}},
	}
	manager := []does{
		{"close what is watched", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.CloseWatchItem(h.Ctx, a, item.ID, "gone")
			return err
		}},
		{"set a reorder level", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.SaveStockItem(h.Ctx, a, k, contract.StockItemChange{ReorderAtL: 1})
			return err
		}},
		{"answer for the organisation", func(a organisation.Actor) error {
			_, err := h.Rooms.Organisation.SavePractice(h.Ctx, a, "air", contract.PracticeChange{Choice: new("never"), Reason: "x"})
			return err
		}},
		{"change a procedure", func(a organisation.Actor) error {
			_, err := h.Rooms.Organisation.SaveProcedure(h.Ctx, a, procedures[0].ClassID, contract.ProcedureChange{Steps: procedures[0].Steps, Reason: "x"})
			return err
		}},
		{"take a table in", func(a organisation.Actor) error {
			_, err := h.Rooms.Organisation.ImportRefrigerantTable(h.Ctx, a, contract.NewRefrigerantTable{Code: "R-1", Csv: "celsius,bubble_kpa,dew_kpa\n0,100,90\n10,200,190\n"})
			return err
		}},
		{"make a link", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, a, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "x", Days: 1, SiteID: &u.SiteID})
			return err
		}},
		{"decide on a symptom", func(a organisation.Actor) error {
			_, err := h.Rooms.Fieldwork.Triage(h.Ctx, a, symptom.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"})
			return err
		}},
		{"see what came back", func(a organisation.Actor) error { _, err := h.Rooms.Fieldwork.Attention(h.Ctx, a); return err }},
		{"see the links", func(a organisation.Actor) error { _, err := h.Rooms.Fieldwork.GuestLinks(h.Ctx, a); return err }},
	}
	for _, d := range technician {
		assert.ErrorIs(t, d.do(h.Viewer), organisation.ErrForbidden, "a viewer may not %s", d.name)
		assert.NoError(t, d.do(h.Technician), "a technician may %s", d.name)
	}
	for _, d := range manager {
		assert.ErrorIs(t, d.do(h.Viewer), organisation.ErrForbidden, "a viewer may not %s", d.name)
		assert.ErrorIs(t, d.do(h.Technician), organisation.ErrForbidden, "a technician may not %s", d.name)
		assert.NoError(t, d.do(h.Manager), "the manager may %s", d.name)
	}
}

// Who sees one site only meets nothing of another's, neither in lists nor by its id.
func TestFieldworkKeepsToTheSitesSeen(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("A-1", "display_cooler", "2026-01-01")
	other, err := h.Rooms.Register.AddSite(h.Ctx, h.Manager, contract.SiteCard{Name: "Barn", Zone: "UTC"})
	require.NoError(t, err)
	limited := h.Invite("limited", contract.RoleManager, other.ID)
	item, err := h.Rooms.Fieldwork.AddWatchItem(h.Ctx, h.Manager, u.ID, contract.NewWatchItem{What: "specks"})
	require.NoError(t, err)
	symptom, err := h.Rooms.Fieldwork.AddSymptom(h.Ctx, h.Manager, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	require.NoError(t, err)
	link, err := h.Rooms.Fieldwork.AddGuestLink(h.Ctx, h.Manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "x", Days: 1, SiteID: &u.SiteID})
	require.NoError(t, err)
	visit := h.Submit(h.Visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough)).ID
	for name, do := range map[string]func() error{
		"pack":    func() error { _, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, limited, u.ID); return err },
		"watched": func() error { _, err := h.Rooms.Fieldwork.WatchItems(h.Ctx, limited, u.ID); return err },
		"closing": func() error { _, err := h.Rooms.Fieldwork.CloseWatchItem(h.Ctx, limited, item.ID, "x"); return err },
		"triage": func() error {
			_, err := h.Rooms.Fieldwork.Triage(h.Ctx, limited, symptom.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"})
			return err
		},
		"link":     func() error { return h.Rooms.Fieldwork.EndGuestLink(h.Ctx, limited, link.Link.ID) },
		"report":   func() error { _, err := h.Rooms.Fieldwork.SiteReport(h.Ctx, limited, visit); return err },
		"forecast": func() error { _, err := h.Rooms.Fieldwork.Forecast(h.Ctx, limited, u.SiteID); return err },
		"photos":   func() error { _, err := h.Rooms.Organisation.Attachments(h.Ctx, limited, "watch", item.ID); return err },
	} {
		assert.ErrorIs(t, do(), organisation.ErrNotFound, name)
	}
	symptoms, err := h.Rooms.Fieldwork.Symptoms(h.Ctx, limited)
	require.NoError(t, err)
	assert.Empty(t, symptoms)
	links, err := h.Rooms.Fieldwork.GuestLinks(h.Ctx, limited)
	require.NoError(t, err)
	assert.Empty(t, links)
	_, err = h.Rooms.Fieldwork.AddSymptom(h.Ctx, limited, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	assert.Equal(t, "/unit_id", roomstest.FieldsOf(t, err)[0].Path)
	_, err = h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Manager, uuid.New())
	assert.ErrorIs(t, err, organisation.ErrNotFound)
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, limited, store.NewID(), h.Visit(u, "2026-02-03", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	assert.Error(t, err)
}
