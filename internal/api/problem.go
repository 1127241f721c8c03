package api

import (
	"encoding/json"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/organisation"
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

// writeConflict answers with what somebody else saved first.
func writeConflict(w http.ResponseWriter, r *http.Request, stale organisation.Stale) {
	p := contract.Problem{Title: http.StatusText(http.StatusConflict), Status: http.StatusConflict, Detail: ptr(upperFirst(stale.Error()) + ".")}
	if id := requestID(r.Context()); id != "" {
		p.RequestID = &id
	}
	b, err := json.Marshal(stale.Current)
	var current map[string]any
	if err == nil && json.Unmarshal(b, &current) == nil {
		p.Current = &current
	}
	writeJSON(w, http.StatusConflict, "application/problem+json", p)
}

func upperFirst(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// fail turns an error into a problem; what the reader cannot act on stays in the log.
func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	var fields invalid.Error
	var conflict organisation.Conflict
	var stale organisation.Stale
	var tooLarge *http.MaxBytesError
	switch {
	case r.Context().Err() != nil:
		slog.InfoContext(r.Context(), "the caller went away", "request_id", requestID(r.Context()))
	case errors.As(err, &fields):
		out := make([]contract.FieldError, len(fields))
		for i, f := range fields {
			out[i] = contract.FieldError{Pointer: f.Path, Reason: f.Reason}
		}
		writeProblem(w, r, http.StatusUnprocessableEntity, "Some entries cannot be used; nothing was stored.", out)
	case errors.As(err, &conflict):
		writeProblem(w, r, http.StatusConflict, conflict.Reason, nil)
	case errors.As(err, &stale):
		writeConflict(w, r, stale)
	case errors.As(err, &tooLarge):
		writeProblem(w, r, http.StatusRequestEntityTooLarge, "This is larger than "+size(tooLarge.Limit)+".", nil)
	case errors.Is(err, organisation.ErrFactorFirst):
		writeProblem(w, r, http.StatusForbidden, upperFirst(err.Error())+".", nil)
	case errors.Is(err, organisation.ErrBusy):
		w.Header().Set("Retry-After", "5")
		writeProblem(w, r, http.StatusTooManyRequests, upperFirst(err.Error())+".", nil)
	case errors.Is(err, organisation.ErrTooManyAttempts):
		w.Header().Set("Retry-After", "900")
		writeProblem(w, r, http.StatusTooManyRequests, upperFirst(err.Error())+".", nil)
	case errors.Is(err, organisation.ErrSignIn):
		writeProblem(w, r, http.StatusUnauthorized, "Login or password is not right.", nil)
	case errors.Is(err, organisation.ErrForbidden):
		writeProblem(w, r, http.StatusForbidden, "Your role does not allow this.", nil)
	case errors.Is(err, organisation.ErrNotFound):
		writeProblem(w, r, http.StatusNotFound, "There is nothing at this address.", nil)
	case errors.Is(err, organisation.ErrKeyReused):
		writeProblem(w, r, http.StatusConflict, upperFirst(err.Error())+".", nil)
	case errors.Is(err, store.ErrStale), errors.Is(err, store.ErrDuplicate), errors.Is(err, store.ErrInUse):
		writeProblem(w, r, http.StatusConflict, organisation.ErrConcurrency.Error(), nil)
	case store.Full(err):
		slog.ErrorContext(r.Context(), "the disk is full", "request_id", requestID(r.Context()), "error", err)
		writeProblem(w, r, http.StatusInsufficientStorage, "The database's disk is full; nothing was stored. Tell whoever runs the server.", nil)
	case store.Unreachable(err):
		slog.ErrorContext(r.Context(), "the database cannot be reached", "request_id", requestID(r.Context()), "error", err)
		w.Header().Set("Retry-After", "5")
		writeProblem(w, r, http.StatusServiceUnavailable, "The database cannot be reached; what you sent was not confirmed. Send it again in a moment.", nil)
	default:
		slog.ErrorContext(r.Context(), "request failed", "request_id", requestID(r.Context()), "error", err)
		writeProblem(w, r, http.StatusInternalServerError, "Something went wrong here; nothing was stored. Give the request number when you report it.", nil)
	}
}
