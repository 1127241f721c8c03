package api

import (
	"errors"
	"log/slog"
	"net/http"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// writeProblem answers with problem details (RFC 9457).
func writeProblem(w http.ResponseWriter, r *http.Request, status int, detail string, fields []contract.FieldError) {
	p := contract.Problem{Title: http.StatusText(status), Status: status, Detail: &detail}
	if id := requestID(r.Context()); id != "" {
		p.RequestID = &id
	}
	if len(fields) > 0 {
		p.Errors = &fields
	}
	writeJSON(w, status, "application/problem+json", p)
}

// importRefused carries the problems of a file that was not taken in.
type importRefused struct{ problems []contract.FieldError }

func (importRefused) Error() string { return "Nothing was taken in: the file has problems." }

// fail turns an error into a problem; what the reader cannot act on stays in the log.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	var fields invalid.Error
	var conflict service.Conflict
	var refused importRefused
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &refused):
		writeProblem(w, r, http.StatusUnprocessableEntity, refused.Error(), refused.problems)
	case errors.As(err, &fields):
		out := make([]contract.FieldError, len(fields))
		for i, f := range fields {
			out[i] = contract.FieldError{Pointer: f.Path, Reason: f.Reason}
		}
		writeProblem(w, r, http.StatusUnprocessableEntity, "Some entries cannot be used; nothing was stored.", out)
	case errors.As(err, &conflict):
		writeProblem(w, r, http.StatusConflict, conflict.Reason, nil)
	case errors.As(err, &tooLarge):
		writeProblem(w, r, http.StatusRequestEntityTooLarge, "This is larger than 10 MB.", nil)
	case errors.Is(err, service.ErrSignIn):
		writeProblem(w, r, http.StatusUnauthorized, "Login or password is not right.", nil)
	case errors.Is(err, service.ErrForbidden):
		writeProblem(w, r, http.StatusForbidden, "Your role does not allow this.", nil)
	case errors.Is(err, service.ErrNotFound):
		writeProblem(w, r, http.StatusNotFound, "There is nothing at this address.", nil)
	case errors.Is(err, service.ErrKeyReused), errors.Is(err, store.ErrStale), errors.Is(err, store.ErrDuplicate):
		writeProblem(w, r, http.StatusConflict, service.ErrConcurrency.Error(), nil)
	default:
		slog.ErrorContext(r.Context(), "request failed", "request_id", requestID(r.Context()), "error", err)
		writeProblem(w, r, http.StatusInternalServerError, "Something went wrong here; nothing was stored. Give the request number when you report it.", nil)
	}
}
