package roomstest

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"nextround/core/invalid"
	"nextround/internal/contract"
)

// Reasons lists what an import found wrong.
func Reasons(run contract.ImportRun) []string {
	out := []string{}
	for _, p := range run.Report.Problems {
		out = append(out, p.Pointer+": "+p.Reason)
	}
	return out
}

// FieldsOf are the fields an error is about.
func FieldsOf(t *testing.T, err error) invalid.Error {
	t.Helper()
	var bad invalid.Error
	require.True(t, errors.As(err, &bad), "%v", err)
	return bad
}

// Fields maps each field an error is about to the reason.
func Fields(t *testing.T, err error) map[string]string {
	t.Helper()
	var bad invalid.Error
	require.True(t, errors.As(err, &bad), "%v", err)
	out := map[string]string{}
	for _, f := range bad {
		out[f.Path] = f.Reason
	}
	return out
}
