// Package contract holds the shapes of the HTTP interface, generated from api/openapi.yaml, and the few ways into them that are written by hand.
package contract

import (
	"nextround/core/reason"
	"nextround/internal/wording"
)

// Reasons are reasons of the core as they are shown: code, sentence and what it rests on.
func Reasons(in []reason.Reason) []Reason {
	out := make([]Reason, 0, len(in))
	for _, r := range in {
		out = append(out, ReasonOf(r))
	}
	return out
}

// ReasonOf is one reason as it is shown.
func ReasonOf(r reason.Reason) Reason {
	c := Reason{Code: r.Code, Text: wording.Sentence(r)}
	if r.Evidence != "" {
		c.Evidence = new(Evidence(r.Evidence))
	}
	return c
}
