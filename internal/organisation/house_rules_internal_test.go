package organisation

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/invalid"
	"nextround/internal/store"
)

// From pH 11.5 on, the bound included, a cleaner goes neither on microchannel nor indoors nor near food; below 6 it goes on no coil.
func TestBoundsOfACleanersPh(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		row  store.Cleaner
		want bool
	}{
		{store.Cleaner{Ph: new(11.5), Microchannel: true}, true},
		{store.Cleaner{Ph: new(11.5), Indoors: true}, true},
		{store.Cleaner{Ph: new(11.5), NearFood: true}, true},
		{store.Cleaner{Ph: new(11.4), Microchannel: true, Indoors: true, NearFood: true}, false},
		{store.Cleaner{Ph: new(13.0)}, false},
		{store.Cleaner{Microchannel: true}, false},
		{store.Cleaner{Ph: new(5.9)}, true},
		{store.Cleaner{Ph: new(6.0)}, false},
	} {
		bad := invalid.Error{}
		checkCleanerRow(&c.row, &bad)
		assert.Equal(t, c.want, len(bad) > 0, "%+v", c.row)
	}
}
