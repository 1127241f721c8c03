package api_test

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/api/gen"
	"nextround/internal/contract"
	"nextround/internal/demo"
)

// pact holds answers against the contract.
type pact struct {
	spec   *openapi3.T
	router routers.Router
}

func newPact(t *testing.T) pact {
	t.Helper()
	spec, err := gen.GetSpec()
	require.NoError(t, err)
	require.NoError(t, spec.Validate(context.Background()))
	spec.Servers = openapi3.Servers{{URL: "/api/v1"}}
	router, err := gorillamux.NewRouter(spec)
	require.NoError(t, err)
	return pact{spec, router}
}

// kept sends a request and holds the answer against the contract.
func (p pact) kept(c *client, method, path, body string, headers ...string) (int, string) {
	c.t.Helper()
	status, header, answer := c.send(method, path, body, headers...)
	r, err := http.NewRequest(method, "http://localhost"+path, strings.NewReader(body))
	require.NoError(c.t, err)
	route, params, err := p.router.FindRoute(r)
	require.NoError(c.t, err, path)
	err = openapi3filter.ValidateResponse(context.Background(), &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: r, PathParams: params, Route: route},
		Status:                 status, Header: header, Body: io.NopCloser(bytes.NewReader([]byte(answer))),
	})
	assert.NoError(c.t, err, "%s %s answered %d", method, path, status)
	return status, answer
}

func TestAnswersKeepTheContract(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	s.signInAs("manager", demo.Password)
	for _, path := range []string{"/session", "/catalogue", "/portfolio", "/visits", "/next-round", "/rounds", "/next-round?day=2026-03-08"} {
		status, answer := p.kept(s.client, "GET", "/api/v1"+path, "")
		assert.Equal(t, http.StatusOK, status, answer)
	}
	assert.Equal(t, "2026-03-08", fetch[contract.NextRound](t, s.client, "/api/v1/next-round?day=2026-03-08").Day.String())
	for path, want := range map[string]int{"/next-round?day=soon": http.StatusUnprocessableEntity, "/next-round?crew_id=" + uuid.NewString(): http.StatusNotFound} {
		status, answer := p.kept(s.client, "GET", "/api/v1"+path, "")
		assert.Equal(t, want, status, answer)
	}
	portfolio := fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio")
	seen := 0
	for _, site := range portfolio.Sites {
		for _, u := range site.Units {
			status, _ := p.kept(s.client, "GET", "/api/v1/units/"+u.ID.String(), "")
			assert.Equal(t, http.StatusOK, status)
			seen++
		}
	}
	assert.Equal(t, 20, seen)

	next := fetch[contract.NextRound](t, s.client, "/api/v1/next-round")
	body := `{"crew_id":"` + next.CrewID.String() + `","day":"` + next.Day.String() + `","task_ids":["` + next.Stops[0].Jobs[0].TaskID.String() + `"]}`
	status, answer := p.kept(s.client, "POST", "/api/v1/rounds", body, "Idempotency-Key", uuid.NewString())
	require.Equal(t, http.StatusCreated, status, answer)
	rounds := fetch[[]contract.RoundSummary](t, s.client, "/api/v1/rounds")
	p.kept(s.client, "GET", "/api/v1/rounds/"+rounds[0].ID.String(), "")
	status, _ = p.kept(s.client, "POST", "/api/v1/rounds", body, "Idempotency-Key", uuid.NewString())
	assert.Equal(t, http.StatusConflict, status)
	status, _ = p.kept(s.client, "POST", "/api/v1/rounds/"+rounds[0].ID.String()+"/withdrawal", "")
	assert.Equal(t, http.StatusOK, status)
	status, _ = p.kept(s.client, "POST", "/api/v1/units", `{}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

// The whole table: every operation of the contract × every role. A role may call an operation or is refused with
// 403; nobody else gets past 401.
func TestEveryRouteKnowsItsRoles(t *testing.T) {
	all := []contract.Role{contract.Manager, contract.Technician, contract.Viewer}
	managers, field := all[:1], all[:2]
	allowed := map[string][]contract.Role{
		"getSession": all, "signOut": all, "getCatalogue": all, "getPortfolio": all, "getUnit": all, "getImportTemplate": all,
		"listVisits": all, "getNextRound": all, "listRounds": all, "getRound": all,
		"submitVisit": field,
		"addUnit":     managers, "addSiteFactor": managers, "importRegister": managers, "decideProposal": managers, "setInterval": managers,
		"publishRound": managers, "withdrawRound": managers,
	}
	some := uuid.NewString()
	bodies := map[string]string{
		"addUnit":        `{"site":"H","placement":"P","tag":"T","class":"C","coil_roles":["condenser"],"last_clean":{"quality":"never"}}`,
		"addSiteFactor":  `{"factor_id":"` + some + `","scope":"site","scope_id":"` + some + `","from":"2026-01-01"}`,
		"importRegister": "site\n",
		"submitVisit":    `{"unit_id":"` + some + `","day":"2026-03-01","outcome":"done","cautions_read":true,"people":[],"coils":[]}`,
		"decideProposal": `{"accept":true}`,
		"setInterval":    `{"days":20,"reason":"x"}`,
		"publishRound":   `{"crew_id":"` + some + `","day":"2026-03-05","task_ids":["` + some + `"]}`,
	}
	s := newSample(t)
	p := newPact(t)
	checked := 0
	for path, item := range p.spec.Paths.Map() {
		for method, op := range item.Operations() {
			name := strings.ToLower(op.OperationID[:1]) + op.OperationID[1:]
			if name == "signIn" {
				continue
			}
			roles, known := allowed[name]
			require.True(t, known, "%s: say in this test which roles may call it", name)
			address := "/api/v1" + path
			for _, part := range []string{"{unit_id}", "{round_id}", "{proposal_id}", "{task_id}"} {
				address = strings.ReplaceAll(address, part, some)
			}
			headers := []string{"Idempotency-Key", uuid.NewString()}
			if name == "importRegister" {
				headers = append(headers, "Content-Type", "text/csv")
			}
			s.forget()
			status, _, _ := s.send(method, address, bodies[name], headers...)
			assert.Equal(t, http.StatusUnauthorized, status, "%s without a session", name)
			for _, role := range all {
				s.forget()
				s.signInAs(string(role), demo.Password)
				headers[1] = uuid.NewString()
				status, _, answer := s.send(method, address, bodies[name], headers...)
				may := false
				for _, r := range roles {
					may = may || r == role
				}
				if may {
					assert.NotEqual(t, http.StatusForbidden, status, "%s as %s: %s", name, role, answer)
					assert.Less(t, status, 500, "%s as %s: %s", name, role, answer)
				} else {
					assert.Equal(t, http.StatusForbidden, status, "%s as %s: %s", name, role, answer)
				}
				checked++
			}
		}
	}
	assert.Equal(t, 3*len(allowed), checked)
}

// Another organisation's manager finds none of this one's records by their addresses.
func TestAddressesOfAnotherOrganisation(t *testing.T) {
	s := newSample(t)
	s.signInAs("manager", demo.Password)
	portfolio := fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio")
	unit := fetch[contract.Unit](t, s.client, "/api/v1/units/"+portfolio.Sites[0].Units[0].ID.String())
	s.stranger("stranger")
	s.forget()
	s.signInAs("stranger", "secret")
	for _, c := range [][3]string{
		{"GET", "/units/" + unit.ID.String(), ""},
		{"PUT", "/tasks/" + unit.Coils[0].Tasks[0].TaskID.String() + "/interval", `{"days":20,"reason":"x"}`},
	} {
		status, _, _ := s.send(c[0], "/api/v1"+c[1], c[2])
		assert.Equal(t, http.StatusNotFound, status, c[1])
	}
	assert.Empty(t, fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio").Sites)
	assert.Empty(t, fetch[[]contract.VisitSummary](t, s.client, "/api/v1/visits"))
	assert.Empty(t, fetch[contract.NextRound](t, s.client, "/api/v1/next-round").Stops)
}
