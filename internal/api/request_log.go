package api

import (
	"context"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"
)

type requestIDKey struct{}

func requestID(ctx context.Context) string {
	id, _ := ctx.Value(requestIDKey{}).(string)
	return id
}

// statusWriter remembers the status for the log.
type statusWriter struct {
	http.ResponseWriter
	status int
}

func (w *statusWriter) WriteHeader(status int) {
	w.status = status
	w.ResponseWriter.WriteHeader(status)
}

// Unwrap lets http.ResponseController reach the writer beneath.
func (w *statusWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// secrets are what stands before a token in an address; tokens are not for the log.
var secrets = []string{"/feeds/", "/guest/", "/g/", "/join/"}

// loggedPath is an address without the token in it.
func loggedPath(path string) string {
	for _, before := range secrets {
		head, token, found := strings.Cut(path, before)
		if !found {
			continue
		}
		_, rest, more := strings.Cut(token, "/")
		if more {
			rest = "/" + rest
		}
		return head + before + "…" + rest
	}
	return path
}

// requestLog gives each request a number, sets the headers every answer carries and writes one line.
func requestLog(log *slog.Logger, secure bool, next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := uuid.Must(uuid.NewV7()).String()
		h := w.Header()
		h.Set("X-Request-Id", id)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Content-Security-Policy",
			"default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
		if secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		if strings.HasPrefix(r.URL.Path, prefix) {
			h.Set("Cache-Control", "no-store")
		}
		sw := &statusWriter{ResponseWriter: w, status: http.StatusOK}
		start := time.Now()
		next.ServeHTTP(sw, r.WithContext(context.WithValue(r.Context(), requestIDKey{}, id)))
		log.LogAttrs(r.Context(), slog.LevelInfo, "request", slog.String("request_id", id), slog.String("method", r.Method),
			slog.String("path", loggedPath(r.URL.Path)), slog.Int("status", sw.status), slog.Duration("took", time.Since(start)))
	})
}
