package organisation_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/internal/organisation"
)

// A panic comes back as an error; an error and success stay what they are.
func TestRescued(t *testing.T) {
	t.Parallel()
	wanted := errors.New("wanted")
	assert.NoError(t, organisation.Rescued(func() error { return nil }))
	assert.ErrorIs(t, organisation.Rescued(func() error { return wanted }), wanted)
	assert.ErrorContains(t, organisation.Rescued(func() error { panic("a hole in the data") }), "a hole in the data")
}
