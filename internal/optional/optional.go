// Package optional reads and writes values that may be absent, as the contract's optional fields and nullable columns are.
// It holds the few helpers that every room needs and that know nothing of the trade.
// Nothing here decides: an absent value becomes the zero value or the one that the caller names.
package optional

import "strings"

// Value is what p points to, or the zero value.
func Value[T any](p *T) T {
	var zero T
	if p == nil {
		return zero
	}
	return *p
}

// Trim is the text p points to without surrounding space, or the empty text.
func Trim(p *string) string { return strings.TrimSpace(Value(p)) }

// Text is nil for the empty text.
func Text(s string) *string {
	if s == "" {
		return nil
	}
	return &s
}

// Or is the chosen value as text, or the usual one where nothing was chosen.
func Or[T ~string](chosen *T, usual string) string {
	if chosen == nil || *chosen == "" {
		return usual
	}
	return string(*chosen)
}

// List maps rows to a list, nil when there are none.
func List[T, U any](rows []T, do func(T) U) *[]U {
	if len(rows) == 0 {
		return nil
	}
	out := make([]U, 0, len(rows))
	for _, r := range rows {
		out = append(out, do(r))
	}
	return &out
}

// Figure is the number p points to, or the usual one where none was given.
func Figure(p *float64, usual float64) float64 {
	if p == nil {
		return usual
	}
	return *p
}
