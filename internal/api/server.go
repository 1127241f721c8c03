// Package api is the HTTP layer: sessions, the contract's routes, problems in words, and the built pages.
package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/getkin/kin-openapi/openapi3"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/klauspost/compress/gzhttp"

	"nextround/internal/api/gen"
	"nextround/internal/organisation"
	"nextround/internal/rooms"
	"nextround/internal/store"
)

// Options for NewServer.
type Options struct {
	// Pages is the built front end.
	Pages fs.FS
	// Secure marks cookies as for TLS only.
	Secure bool
	// Log takes one line per request; defaults to slog.Default().
	Log *slog.Logger
	// Open says that the server is reached from other machines without TLS, which its pages then tell.
	Open bool
	// Public is the address at which people reach the server; links in mails and labels begin with it.
	Public string
	// Proxies are the addresses of the proxies in front of the server, whose word on where a request came from is taken.
	Proxies []string
	// ReadOnly says that only what is read is answered: the database is a standby.
	ReadOnly bool
	// SessionCleanup is how often expired sessions are removed; 0 means never, for tests.
	SessionCleanup time.Duration
}

// Server answers HTTP requests.
type Server struct {
	http.Handler
	service  *rooms.Rooms
	store    *store.Store
	sessions *scs.SessionManager
	sweeper  *pgxstore.PostgresStore
	measured *metrics
	secure   bool
	paces    paces
	open     bool
	readOnly bool
	public   string
}

const (
	prefix          = "/api/v1"
	sessionLifetime = 12 * time.Hour
	deviceCookie    = "nextround_device"
	deviceLifetime  = 365 * 24 * time.Hour
)

// NewServer wires the routes.
func NewServer(svc *rooms.Rooms, st *store.Store, o Options) (*Server, error) {
	if o.Log == nil {
		o.Log = slog.Default()
	}
	sweeper := pgxstore.NewWithCleanupInterval(st.Pool, o.SessionCleanup)
	sessions := scs.New()
	sessions.Store = sweeper
	sessions.Lifetime = sessionLifetime
	sessions.HashTokenInStore = true
	sessions.Cookie.Name = "nextround_session"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = o.Secure
	s := &Server{service: svc, store: st, sessions: sessions, sweeper: sweeper, measured: newMetrics(st), paces: paces{asked: map[string]*asker{}}, secure: o.Secure, open: o.Open, readOnly: o.ReadOnly, public: strings.TrimSuffix(o.Public, "/")}
	sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { s.fail(w, r, err) }

	spec, err := gen.GetSpec()
	if err != nil {
		return nil, fmt.Errorf("reading the contract: %w", err)
	}
	engine, err := s.engine(spec, o)
	if err != nil {
		return nil, err
	}
	guarded := http.NewCrossOriginProtection()
	guarded.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		writeProblem(w, r, http.StatusForbidden, "The request came from another site's page.", nil)
	}))
	compress, err := gzhttp.NewWrapper(gzhttp.MinSize(1024), gzhttp.ContentTypes(compressed))
	if err != nil {
		return nil, fmt.Errorf("compressing answers: %w", err)
	}
	s.Handler = requestLog(o.Log, o.Secure, compress(guarded.Handler(sessions.LoadAndSave(engine))))
	return s, nil
}

// compressed are the types that shrink; pictures, fonts and the core for the browser are compressed as they are.
var compressed = []string{
	"application/json", "application/problem+json", "application/javascript", "text/javascript", "text/css", "text/html", "text/csv",
	"text/calendar", "image/svg+xml", "application/manifest+json",
}

// Close stops the removal of expired sessions.
func (s *Server) Close() { s.sweeper.StopCleanup() }

func (s *Server) engine(spec *openapi3.T, o Options) (*gin.Engine, error) {
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	engine.HandleMethodNotAllowed = true
	if err := engine.SetTrustedProxies(o.Proxies); err != nil {
		return nil, fmt.Errorf("the proxies to trust: %w", err)
	}
	engine.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, err any) {
		s.fail(c.Writer, c.Request, fmt.Errorf("panic: %v", err))
		c.Abort()
	}))
	engine.Use(s.measured.measure)
	engine.GET("/metrics", s.measured.serve)
	engine.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"status": "up"}) })
	engine.GET("/readyz", s.ready)

	check, err := s.contractCheck(spec)
	if err != nil {
		return nil, err
	}
	strict := gen.NewStrictHandlerWithOptions(handlers{s}, nil, gen.StrictGinServerOptions{
		RequestErrorHandlerFunc: func(c *gin.Context, err error) {
			writeProblem(c.Writer, c.Request, http.StatusBadRequest, "The request cannot be read: "+err.Error(), nil)
		},
		HandlerErrorFunc:         func(c *gin.Context, err error) { s.fail(c.Writer, c.Request, err) },
		ResponseErrorHandlerFunc: func(c *gin.Context, err error) { s.fail(c.Writer, c.Request, err) },
	})
	group := engine.Group("/", check)
	gen.RegisterHandlersWithOptions(group, strict, gen.GinServerOptions{
		BaseURL: prefix,
		ErrorHandler: func(c *gin.Context, err error, status int) {
			writeProblem(c.Writer, c.Request, status, err.Error(), nil)
			c.Abort()
		},
	})
	engine.NoMethod(func(c *gin.Context) {
		writeProblem(c.Writer, c.Request, http.StatusMethodNotAllowed, "This address does not take "+c.Request.Method+".", nil)
	})
	pages := pageHandler(o.Pages)
	engine.NoRoute(func(c *gin.Context) {
		if strings.HasPrefix(c.Request.URL.Path, "/api/") {
			writeProblem(c.Writer, c.Request, http.StatusNotFound, "There is nothing at this address.", nil)
			return
		}
		// gin has set 404 for a route it does not know; the page decides for itself.
		c.Status(http.StatusOK)
		pages.ServeHTTP(c.Writer, c.Request)
	})
	return engine, nil
}

func (s *Server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
	defer cancel()
	if err := s.store.Pool.Ping(ctx); err != nil {
		c.JSON(http.StatusServiceUnavailable, gin.H{"status": "the database does not answer"})
		return
	}
	c.JSON(http.StatusOK, gin.H{"status": "ready"})
}

type actorKey struct{}

// What a session holds: whose it is, the line it is kept under, and the mark of the password it was begun with.
const (
	accountInSession = "account"
	lineInSession    = "line"
	markInSession    = "password"
)

// begin starts a session for somebody who has just shown who they are, and remembers their device.
func (s *Server) begin(ctx context.Context, a organisation.Actor) error {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return fmt.Errorf("renewing the session: %w", err)
	}
	from := callerIn(ctx)
	line, device, err := s.service.Organisation.Begin(ctx, a, from.Visitor)
	if err != nil {
		return err
	}
	s.sessions.Put(ctx, accountInSession, a.AccountID.String())
	s.sessions.Put(ctx, lineInSession, line.String())
	s.sessions.Put(ctx, markInSession, a.PasswordMark)
	if device != "" {
		from.keep(&http.Cookie{ //nolint:gosec // for TLS only wherever there is TLS
			Name: deviceCookie, Value: device, Path: "/", MaxAge: int(deviceLifetime.Seconds()), HttpOnly: true, Secure: s.secure, SameSite: http.SameSiteLaxMode,
		})
	}
	return nil
}

// end ends the session that asks.
func (s *Server) end(ctx context.Context) error {
	if err := s.sessions.Destroy(ctx); err != nil {
		return fmt.Errorf("ending the session: %w", err)
	}
	return nil
}

// authenticate finds who asks; false when it has answered that nobody known does.
func (s *Server) authenticate(c *gin.Context) (organisation.Actor, bool) {
	ctx := c.Request.Context()
	refuse := func() (organisation.Actor, bool) {
		writeProblem(c.Writer, c.Request, http.StatusUnauthorized, "Sign in first.", nil)
		return organisation.Actor{}, false
	}
	id, err := uuid.Parse(s.sessions.GetString(ctx, accountInSession))
	if err != nil {
		return refuse()
	}
	line, err := uuid.Parse(s.sessions.GetString(ctx, lineInSession))
	if err != nil {
		return refuse()
	}
	actor, err := s.service.Organisation.Resume(ctx, id, line)
	if errors.Is(err, organisation.ErrSignIn) || (err == nil && actor.PasswordMark != s.sessions.GetString(ctx, markInSession)) {
		_ = s.sessions.Destroy(ctx)
		return refuse()
	}
	if err != nil {
		s.fail(c.Writer, c.Request, err)
		return actor, false
	}
	return actor, true
}

type callerKey struct{}

// caller is where a request came from, the address at which people reach the server, and a way to leave a cookie.
type caller struct {
	organisation.Visitor
	base string
	keep func(*http.Cookie)
}

func (s *Server) callerOf(c *gin.Context) caller {
	w := c.Writer
	out := caller{base: s.public, keep: func(k *http.Cookie) { http.SetCookie(w, k) }}
	out.Address, out.Agent = c.ClientIP(), c.Request.UserAgent()
	if k, err := c.Request.Cookie(deviceCookie); err == nil {
		out.Device = k.Value
	}
	return out
}

func actorOf(ctx context.Context) organisation.Actor {
	a, _ := ctx.Value(actorKey{}).(organisation.Actor)
	return a
}

func writeJSON(w http.ResponseWriter, status int, contentType string, v any) {
	w.Header().Set("Content-Type", contentType)
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v)
}
