package register

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
)

// The tables know most refrigerants; what somebody says holds for the others, and nobody can say of one that burns that it
// does not. Unknown stays unknown: whoever asks takes it as yes.
func TestFlammable(t *testing.T) {
	t.Parallel()
	const yes, no, unknown = string(contract.YesNoYes), string(contract.YesNoNo), string(contract.YesNoUnknown)
	for _, c := range []struct{ refrigerant, said, want string }{
		{"R-290", unknown, yes},
		{"R-454B", unknown, yes},
		{"R-1234yf", unknown, yes},
		{"R-1270", unknown, yes},
		{"propane", unknown, yes},
		{"R-290", yes, yes},
		{"R-404A", unknown, no},
		{"R-404A", yes, yes},
		{"R-404A", no, no},
		{"", unknown, unknown},
		{"a blend of its own", unknown, unknown},
		{"a blend of its own", no, no},
		{"a blend of its own", yes, yes},
	} {
		got, err := flammable("/flammable", c.refrigerant, c.said)
		require.NoError(t, err, c)
		assert.Equal(t, c.want, got, c)
	}
	for _, burns := range []string{"R-290", "R-32", "R-454B", "R-1234yf", "R-600a"} {
		_, err := flammable("/flammable", burns, no)
		assert.ErrorContains(t, err, burns+" burns")
	}
}
