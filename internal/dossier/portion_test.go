package dossier_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/internal/dossier"
	"nextround/internal/store"
)

// Units worked out on all processors come in their order, and the first error ends it.
func TestUnitsComeInTurn(t *testing.T) {
	t.Parallel()
	r, one := newBench(t, "outdoor_condensing", "condenser").unit()
	var units []store.Unit
	for i := range 200 {
		u := one.Unit
		u.Year = new(i)
		units = append(units, u)
	}
	next := 0
	assert.NoError(t, r.InTurn(units, now, func(d dossier.Unit) error {
		assert.Equal(t, next, *d.Unit.Year)
		next++
		return nil
	}))
	assert.Equal(t, len(units), next)
	enough := errors.New("enough")
	next = 0
	assert.ErrorIs(t, r.InTurn(units, now, func(dossier.Unit) error {
		if next++; next == 3 {
			return enough
		}
		return nil
	}), enough)
	assert.Equal(t, 3, next)
}
