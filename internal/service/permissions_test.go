package service_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// The service itself knows who may do what, whatever stands before it.
func TestWhoMayDoWhatInTheField(t *testing.T) {
	h := newHouse(t)
	u := h.unit("A-1", "display_cooler", "2026-01-01")
	k := h.cleaner("medium_universal")
	day := calendar.Of(now)
	visit := h.submit(h.visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough)).ID
	item, err := h.svc.AddWatchItem(h.ctx, h.technician, u.ID, contract.NewWatchItem{What: "specks"})
	require.NoError(t, err)
	symptom, err := h.svc.AddSymptom(h.ctx, h.technician, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	require.NoError(t, err)
	procedures, err := h.svc.Procedures(h.ctx, h.viewer)
	require.NoError(t, err)
	type does struct {
		name string
		do   func(service.Actor) error
	}
	technician := []does{
		{"watch something", func(a service.Actor) error {
			_, err := h.svc.AddWatchItem(h.ctx, a, u.ID, contract.NewWatchItem{What: "x"})
			return err
		}},
		{"move stock", func(a service.Actor) error {
			_, err := h.svc.AddStockMove(h.ctx, a, contract.NewStockMove{CleanerID: k, Kind: contract.Bought, Litres: 1, Day: day})
			return err
		}},
		{"practise", func(a service.Actor) error {
			_, err := h.svc.ScoreGrader(h.ctx, a, contract.GraderScores{Seed: 1, Said: []int{2}})
			return err
		}},
		{"mail a report", func(a service.Actor) error {
			_, err := h.svc.MailSiteReport(h.ctx, a, visit, "a@b.example")
			return err
		}},
	}
	manager := []does{
		{"close what is watched", func(a service.Actor) error { _, err := h.svc.CloseWatchItem(h.ctx, a, item.ID, "gone"); return err }},
		{"set a reorder level", func(a service.Actor) error {
			_, err := h.svc.SaveStockItem(h.ctx, a, k, contract.StockItemChange{ReorderAtL: 1})
			return err
		}},
		{"answer for the house", func(a service.Actor) error {
			_, err := h.svc.SavePractice(h.ctx, a, "air", contract.PracticeChange{Choice: ptr("never"), Reason: "x"})
			return err
		}},
		{"change a procedure", func(a service.Actor) error {
			_, err := h.svc.SaveProcedure(h.ctx, a, procedures[0].ClassID, contract.ProcedureChange{Steps: procedures[0].Steps, Reason: "x"})
			return err
		}},
		{"take a table in", func(a service.Actor) error {
			_, err := h.svc.ImportRefrigerantTable(h.ctx, a, contract.NewRefrigerantTable{Code: "R-1", Csv: "celsius,bubble_kpa,dew_kpa\n0,100,90\n10,200,190\n"})
			return err
		}},
		{"make a link", func(a service.Actor) error {
			_, err := h.svc.AddGuestLink(h.ctx, a, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "x", Days: 1, SiteID: &u.SiteID})
			return err
		}},
		{"decide on a symptom", func(a service.Actor) error {
			_, err := h.svc.Triage(h.ctx, a, symptom.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"})
			return err
		}},
		{"see what came back", func(a service.Actor) error { _, err := h.svc.Attention(h.ctx, a); return err }},
		{"see the links", func(a service.Actor) error { _, err := h.svc.GuestLinks(h.ctx, a); return err }},
	}
	for _, d := range technician {
		assert.ErrorIs(t, d.do(h.viewer), service.ErrForbidden, "a viewer may not %s", d.name)
		assert.NoError(t, d.do(h.technician), "a technician may %s", d.name)
	}
	for _, d := range manager {
		assert.ErrorIs(t, d.do(h.viewer), service.ErrForbidden, "a viewer may not %s", d.name)
		assert.ErrorIs(t, d.do(h.technician), service.ErrForbidden, "a technician may not %s", d.name)
		assert.NoError(t, d.do(h.manager), "the manager may %s", d.name)
	}
}

// Who sees one site only meets nothing of another's, neither in lists nor by its id.
func TestFieldworkKeepsToTheSitesSeen(t *testing.T) {
	h := newHouse(t)
	u := h.unit("A-1", "display_cooler", "2026-01-01")
	other, err := h.svc.AddSite(h.ctx, h.manager, contract.SiteCard{Name: "Barn", Zone: "UTC"})
	require.NoError(t, err)
	limited := h.invite("limited", contract.RoleManager, other.ID)
	item, err := h.svc.AddWatchItem(h.ctx, h.manager, u.ID, contract.NewWatchItem{What: "specks"})
	require.NoError(t, err)
	symptom, err := h.svc.AddSymptom(h.ctx, h.manager, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	require.NoError(t, err)
	link, err := h.svc.AddGuestLink(h.ctx, h.manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "x", Days: 1, SiteID: &u.SiteID})
	require.NoError(t, err)
	visit := h.submit(h.visit(u, "2026-02-02", contract.TaskKindDeep, 2, 0, contract.LightThrough)).ID
	for name, do := range map[string]func() error{
		"pack":    func() error { _, err := h.svc.VisitPack(h.ctx, limited, u.ID); return err },
		"watched": func() error { _, err := h.svc.WatchItems(h.ctx, limited, u.ID); return err },
		"closing": func() error { _, err := h.svc.CloseWatchItem(h.ctx, limited, item.ID, "x"); return err },
		"triage": func() error {
			_, err := h.svc.Triage(h.ctx, limited, symptom.ID, contract.Triage{Decision: contract.TriageDecisionElsewhere, Note: "x"})
			return err
		},
		"link":     func() error { return h.svc.EndGuestLink(h.ctx, limited, link.Link.ID) },
		"report":   func() error { _, err := h.svc.SiteReport(h.ctx, limited, visit); return err },
		"forecast": func() error { _, err := h.svc.Forecast(h.ctx, limited, u.SiteID); return err },
		"photos":   func() error { _, err := h.svc.Attachments(h.ctx, limited, "watch", item.ID); return err },
	} {
		assert.ErrorIs(t, do(), service.ErrNotFound, name)
	}
	symptoms, err := h.svc.Symptoms(h.ctx, limited)
	require.NoError(t, err)
	assert.Empty(t, symptoms)
	links, err := h.svc.GuestLinks(h.ctx, limited)
	require.NoError(t, err)
	assert.Empty(t, links)
	_, err = h.svc.AddSymptom(h.ctx, limited, contract.NewSymptom{Kind: contract.SymptomKindWater, UnitID: &u.ID})
	assert.Equal(t, "/unit_id", fieldsOf(t, err)[0].Path)
	_, err = h.svc.VisitPack(h.ctx, h.manager, uuid.New())
	assert.ErrorIs(t, err, service.ErrNotFound)
	_, err = h.svc.SubmitVisit(h.ctx, limited, store.NewID(), h.visit(u, "2026-02-03", contract.TaskKindDeep, 2, 0, contract.LightThrough))
	assert.Error(t, err)
}
