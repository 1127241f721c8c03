package fieldwork_test

import (
	"testing"

	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

func lineOfStock(t *testing.T, b contract.StockBook, cleaner uuid.UUID) contract.StockLine {
	t.Helper()
	for _, l := range b.Lines {
		if l.CleanerID == cleaner {
			return l
		}
	}
	t.Fatal("the cleaner is not in the book")
	return contract.StockLine{}
}

func closeWatch(h *roomstest.House, id uuid.UUID) error {
	_, err := h.Rooms.Fieldwork.CloseWatchItem(h.Ctx, h.Manager, id, "bracket put in")
	return err
}
