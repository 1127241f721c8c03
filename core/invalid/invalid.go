// Package invalid says which field of an input is wrong and why, in words for the person who typed it.
package invalid

import (
	"errors"
	"fmt"
	"strings"
)

// Field is one thing wrong: a path such as visits[2].found.grade and the reason.
type Field struct {
	Path   string `json:"field"`
	Reason string `json:"reason"`
}

// Error lists everything wrong with one input. It is never empty when returned as an error.
type Error []Field

// Error joins the fields, one clause each.
func (e Error) Error() string {
	parts := make([]string, len(e))
	for i, f := range e {
		parts[i] = f.Path + ": " + f.Reason
	}
	return strings.Join(parts, "; ")
}

// Addf appends a finding.
func (e *Error) Addf(path, format string, args ...any) {
	*e = append(*e, Field{Path: path, Reason: fmt.Sprintf(format, args...)})
}

// Take appends the fields of another Error; it panics on any other error but nil.
func (e *Error) Take(err error) {
	if err == nil {
		return
	}
	var more Error
	if !errors.As(err, &more) {
		panic(err)
	}
	*e = append(*e, more...)
}

// Err returns nil when nothing was found, so that callers can end with return e.Err().
func (e Error) Err() error {
	if len(e) == 0 {
		return nil
	}
	return e
}

// At is an Error about one field.
func At(path, format string, args ...any) error {
	return Error{{Path: path, Reason: fmt.Sprintf(format, args...)}}
}

// Under moves the fields of an Error below a path; any other error is returned as it is.
func Under(path string, err error) error {
	var bad Error
	if !errors.As(err, &bad) {
		return err
	}
	out := make(Error, len(bad))
	for i, f := range bad {
		out[i] = Field{Path: path + f.Path, Reason: f.Reason}
	}
	return out
}

// Pointer turns a path such as steps[2].at into the JSON pointer /steps/2/at.
func Pointer(path string) string {
	return "/" + strings.NewReplacer(".", "/", "[", "/", "]", "").Replace(path)
}
