package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gin-gonic/gin"

	"nextround/internal/contract"
	"nextround/internal/organisation"
)

// Extensions of the contract: who may ask, and whether only those who see every site may.
const (
	roleExtension  = "x-role"
	sitesExtension = "x-sites"
	openToAll      = "open"
	// beforeFactor marks what may be done before a second factor that is asked for was set up.
	beforeFactor = "x-before-factor"
)

// rank orders the roles: each may do what the ones before it may.
var rank = map[contract.Role]int{contract.RoleViewer: 1, contract.RoleTechnician: 2, contract.RoleManager: 3}

// allows reports whether the contract lets somebody ask for an operation. One that states no role is for nobody.
func allows(op *openapi3.Operation, a organisation.Actor) bool {
	needed, ok := rank[contract.Role(extension(op, roleExtension))]
	return ok && rank[a.Role] >= needed && (a.Sites == nil || extension(op, sitesExtension) == "")
}

func extension(op *openapi3.Operation, name string) string {
	text, _ := op.Extensions[name].(string)
	return text
}

// contractCheck holds requests against the contract before any handler sees them: who asks, whether they may, and
// what they send.
func (s *Server) contractCheck(spec *openapi3.T) (gin.HandlerFunc, error) {
	spec.Servers = openapi3.Servers{{URL: prefix}}
	router, err := gorillamux.NewRouter(spec)
	if err != nil {
		return nil, fmt.Errorf("reading the contract's routes: %w", err)
	}
	taken := map[*openapi3.Operation]takes{}
	for _, item := range spec.Paths.Map() {
		for _, op := range item.Operations() {
			if taken[op], err = takesOf(op); err != nil {
				return nil, err
			}
		}
	}
	return func(c *gin.Context) {
		route, params, err := router.FindRoute(c.Request)
		if err != nil {
			writeProblem(c.Writer, c.Request, http.StatusNotFound, "There is nothing at this address.", nil)
			c.Abort()
			return
		}
		if s.readOnly && c.Request.Method != http.MethodGet {
			c.Header("Retry-After", "60")
			writeProblem(c.Writer, c.Request, http.StatusServiceUnavailable, "This server only shows what there is; changes go to the main server. Nothing was stored.", nil)
			c.Abort()
			return
		}
		ctx := context.WithValue(c.Request.Context(), callerKey{}, s.callerOf(c))
		if extension(route.Operation, roleExtension) != openToAll {
			actor, ok := s.authenticate(c)
			if ok && !s.pacedPerson(c, actor) {
				return
			}
			if ok && !allows(route.Operation, actor) {
				ok = false
				s.fail(c.Writer, c.Request, organisation.ErrForbidden)
			}
			if ok && actor.FactorFirst && route.Operation.Extensions[beforeFactor] == nil {
				ok = false
				s.fail(c.Writer, c.Request, organisation.ErrFactorFirst)
			}
			if !ok {
				c.Abort()
				return
			}
			ctx = context.WithValue(ctx, actorKey{}, actor)
		} else if !s.pacedStranger(c) {
			return
		}
		c.Request = c.Request.WithContext(ctx)
		takes := taken[route.Operation]
		if !takes.bound(c) {
			c.Abort()
			return
		}
		if why := unkeepable(c.Request, takes.media); why != "" {
			writeProblem(c.Writer, c.Request, http.StatusUnprocessableEntity, "Some entries cannot be used; nothing was stored.",
				[]contract.FieldError{{Pointer: "/", Reason: why}})
			c.Abort()
			return
		}
		err = openapi3filter.ValidateRequest(c.Request.Context(), &openapi3filter.RequestValidationInput{
			Request: c.Request, PathParams: params, Route: route,
			Options: &openapi3filter.Options{
				MultiError: true, AuthenticationFunc: openapi3filter.NoopAuthenticationFunc,
				// Files are read and checked line by line where they are taken in.
				ExcludeRequestBody: takes.media == fileType,
			},
		})
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			s.fail(c.Writer, c.Request, large)
			c.Abort()
			return
		}
		if err != nil {
			writeProblem(c.Writer, c.Request, http.StatusUnprocessableEntity, "Some entries cannot be used; nothing was stored.", fieldsOf(err, ""))
			c.Abort()
		}
	}, nil
}

// unkeepable says why the text of a request cannot be kept: PostgreSQL holds UTF-8 without NUL. The body stays readable.
func unkeepable(r *http.Request, media string) string {
	for _, values := range r.URL.Query() {
		for _, v := range values {
			if !utf8.ValidString(v) || strings.ContainsRune(v, 0) {
				return "holds a character that is not text"
			}
		}
	}
	if media == fileType || r.Body == nil {
		return ""
	}
	body, err := io.ReadAll(r.Body)
	r.Body = io.NopCloser(io.MultiReader(bytes.NewReader(body), failing{err}))
	if bytes.Contains(body, []byte(`\u0000`)) || !utf8.Valid(body) {
		return "holds a character that is not text"
	}
	return ""
}

// failing is a reader that gives an error met before, or the end.
type failing struct{ err error }

func (f failing) Read([]byte) (int, error) {
	if f.err != nil {
		return 0, f.err
	}
	return 0, io.EOF
}

// fieldsOf lists the fields of a contract error in the reader's words, without schema or value dumps.
func fieldsOf(err error, at string) []contract.FieldError {
	var many openapi3.MultiError
	var request *openapi3filter.RequestError
	var schema *openapi3.SchemaError
	switch {
	case isMulti(err, &many):
		var out []contract.FieldError
		for _, e := range many {
			out = append(out, fieldsOf(e, at)...)
		}
		return out
	case isRequest(err, &request):
		if request.Parameter != nil {
			at = request.Parameter.Name
		}
		if request.Err == nil {
			return []contract.FieldError{{Pointer: at, Reason: request.Reason}}
		}
		return fieldsOf(request.Err, at)
	case errors.As(err, &schema):
		return []contract.FieldError{{Pointer: at + "/" + strings.Join(schema.JSONPointer(), "/"), Reason: plain(schema)}}
	}
	var parse *openapi3filter.ParseError
	if errors.As(err, &parse) {
		return []contract.FieldError{{Pointer: at, Reason: "cannot be read: " + parse.RootCause().Error()}}
	}
	return []contract.FieldError{{Pointer: at, Reason: err.Error()}}
}

// plain says in words what a value breaks; what is seldom met keeps the library's own words.
func plain(e *openapi3.SchemaError) string {
	switch s := e.Schema; e.SchemaField {
	case "required":
		return "is missing"
	case "minLength":
		return "is empty"
	case "maxLength":
		return fmt.Sprintf("is longer than %d characters", *s.MaxLength)
	case "pattern":
		return "must be on one line"
	case "minItems":
		return "at least one is needed"
	case "minimum":
		return fmt.Sprintf("must be %v or more", *s.Min)
	case "maximum":
		return fmt.Sprintf("must be %v or less", *s.Max)
	case "enum":
		return fmt.Sprintf("must be one of %v", s.Enum)
	case "format":
		return "must be a " + map[string]string{"date": "date of the form 2026-03-05", "uuid": "record's id"}[s.Format]
	}
	return e.Reason
}

func isMulti(err error, many *openapi3.MultiError) bool {
	m, ok := err.(openapi3.MultiError) //nolint:errorlint // only the outermost layer is looked at
	*many = m
	return ok
}

func isRequest(err error, request **openapi3filter.RequestError) bool {
	r, ok := err.(*openapi3filter.RequestError) //nolint:errorlint // only the outermost layer is looked at
	*request = r
	return ok
}
