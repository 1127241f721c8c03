package load

import (
	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Stock reads what is there of each cleaner that is bought.
func Stock(t store.Tenant, c organisation.Catalogue, moves []store.StockMove, today calendar.Day) ([]contract.StockLine, error) {
	items, err := store.All[store.StockItem](t, "cleaner_id")
	return dossier.StockLines(c, items, moves, today), err
}
