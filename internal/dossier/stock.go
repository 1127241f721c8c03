package dossier

import (
	"math"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/method"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// paceDays is how far back the pace of use looks; newestMoves how many movements the book shows.
const (
	paceDays    = 90
	NewestMoves = 60
)

// StockLines are what is there of each cleaner that is bought, how fast it goes, and when to order.
func StockLines(c organisation.Catalogue, items []store.StockItem, moves []store.StockMove, today calendar.Day) []contract.StockLine {
	item := store.Index(items, func(x store.StockItem) uuid.UUID { return x.CleanerID })
	of := store.By(moves, func(x store.StockMove) uuid.UUID { return x.CleanerID })
	out := []contract.StockLine{}
	for _, k := range c.Cleaners {
		if k.Form != string(method.Plain) {
			out = append(out, stockLine(k, item[k.ID], of[k.ID], today))
		}
	}
	return out
}

func stockLine(k store.Cleaner, item store.StockItem, moves []store.StockMove, today calendar.Day) contract.StockLine {
	line := contract.StockLine{
		CleanerID: k.ID, Cleaner: k.Name, ReorderAtL: item.ReorderAtL, LeadDays: item.LeadDays, Version: item.Version,
	}
	if item.Version == 0 {
		line.LeadDays = 7
	}
	if k.PackL != nil && k.PackPrice != nil && *k.PackL > 0 {
		line.PricePerL = new(*k.PackPrice / *k.PackL)
	}
	for _, m := range moves {
		recent := today.Sub(m.Day.Day()) < paceDays
		switch m.Kind {
		case "bought":
			line.OnHandL += m.Litres
		case "returned":
			line.OnHandL += m.Litres
			if recent {
				line.Drawn90L -= m.Litres
			}
		case "drawn":
			line.OnHandL -= m.Litres
			if recent {
				line.Drawn90L += m.Litres
			}
		case "counted":
			line.OnHandL = m.Litres // what was counted is what is there
		case "opened":
			line.Opened++
		}
	}
	if line.Drawn90L > 0 {
		days := math.Floor((line.OnHandL-line.ReorderAtL)/(line.Drawn90L/paceDays)) - float64(line.LeadDays)
		line.ReorderOn = new(today.Add(int(math.Max(0, math.Min(days, 3650)))))
	}
	return line
}
