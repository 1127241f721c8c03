package api_test

import (
	"bytes"
	"context"
	"fmt"
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

	"nextround/core/calendar"
	"nextround/internal/api/gen"
	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
)

// pact holds answers against the contract.
type pact struct {
	spec   *openapi3.T
	router routers.Router
}

func newPact(t testing.TB) pact {
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

// everybody's bodies for the operations that take one; IDs are put in where they stand.
var bodies = map[string]string{
	"addUnit":        `{"site":"H","placement":"P","tag":"T","class":"C","coil_roles":["condenser"],"last_clean":{"quality":"never"}}`,
	"addSiteFactor":  `{"factor_id":"{factor_def}","scope":"site","scope_id":"{site_id}","from":"2026-01-01"}`,
	"submitVisit":    `{"unit_id":"{unit_id}","day":"2026-03-01","outcome":"no_access","note":"shut","cautions_read":true,"people":[],"coils":[]}`,
	"decideProposal": `{"accept":true}`,
	"setAnchor":      `{"month":4}`,
	"setInterval":    `{"days":20,"reason":"x"}`,
	"publishRounds":  `{"version":1,"rounds":[{"crew_id":"{crew_id}","day":"2026-03-05"}]}`,
	"startPlan":      `{"weeks":1,"iterations":1}`,
	"movePlan":       `{"version":1,"moves":[{"key":"x","day":"2026-03-09"}]}`,
	"lockPlan":       `{"version":1,"crew_id":"{crew_id}","day":"2026-03-05","locked":true}`,
	"mailRound":      `{"to":"nobody"}`,
	"sendDigest":     `{"to":"nobody"}`,
	"addAbsence":     `{"from":"2027-03-01","to":"2027-03-02"}`,
	"setPreferences": `{"units":"metric","theme":"auto"}`,
	"changePassword": `{"current":"x","password":"three old herring nets"}`,
	"confirmFactor":  `{"code":"000000"}`,
	"endFactor":      `{"password":"x"}`,
	"setFactorRoles": `{"roles":[]}`,
	"addPerson":      `{"name":"Somebody"}`,
	"savePerson":     `{"version":0,"name":"Somebody"}`,
	"addCrew":        `{"name":"Crew","hours":[]}`,
	"saveCrew":       `{"name":"Crew Tern","hours":[]}`,
	"saveFilter":     `{"name":"Late","query":"due=1"}`,
	"addSite":        `{"name":"","zone":"UTC"}`,
	"saveSite":       `{"version":0,"card":{"name":"S","zone":"UTC"}}`,
	"addFactorEvent": `{"kind":"mowing","day":"2026-03-01"}`,
	"saveUnitCard":   `{"version":0,"card":{"tag":"T","make":"","model":"","serial":"","refrigerant":"","note":"","access":{"isolation_point":"","isolation_kind":"plug","panels":"","fixings":"","people":1,"hazards":""},"coils":[],"surfaces":[],"parts":[],"companions":[]}}`,
	"moveUnit":       `{"placement_id":"{unit_id}","day":"2026-03-01"}`,
	"pauseUnit":      `{"day":"2027-03-01","reason":"x"}`,
	"resumeUnit":     `{"day":"2026-03-01"}`,
	"retireUnit":     `{"day":"2027-03-01","reason":"x"}`,
	"replaceUnit":    `{"day":"2027-03-01","tag":"T","reason":"x"}`,
	"tickTask":       `{"day":"2026-03-01"}`,
	"endSiteFactor":  `{"note":"x"}`,
	"amendVisit":     `{"reason":"x","visit":{"unit_id":"{crew_id}","day":"2026-03-01","outcome":"done","cautions_read":true,"people":[],"coils":[]}}`,
	"voidVisit":      `{"reason":" "}`,
	"changeInBulk":   `{"unit_ids":["{unit_id}"],"what":"make","dry_run":true}`,
	"saveHouseRule":  `{"version":0,"values":{}}`,
	"startImport":    "site\n",
	"addAttachment":  "words",
	"join":           `{"password":"three old herring nets"}`,
	"savePractice":   `{"choice":"never","reason":"x","site_id":"{site_id}"}`,
	"saveProcedure":  `{"version":0,"steps":[],"reason":"x"}`,
	"addWatchItem":   `{"what":"specks"}`,
	"closeWatchItem": `{"reason":"gone"}`,
	"addStockMove":   `{"cleaner_id":"{cleaner_id}","kind":"bought","litres":5,"day":"2026-03-01"}`,
	"saveStockItem":  `{"reorder_at_l":5,"lead_days":7,"version":9}`,
	"addGuestLink":   `{"kind":"site_staff","name":"kitchen","days":30,"site_id":"{site_id}"}`,
	"addSymptom":     `{"kind":"not_cold","unit_id":"{unit_id}"}`,
	"addCallOut":     `{"unit_id":"{unit_id}","day":"2026-01-05","cause":"iced","coil_to_blame":"unknown","prevented":"no"}`,
	"changeCallOut":  `{"unit_id":"{unit_id}","day":"2026-01-06","cause":"iced","coil_to_blame":"yes","prevented":"no"}`,
	"declareCallLog": `{"from":"2023-01-01","to":"2023-12-31"}`,
	"addFoundUnit":   `{"site_id":"{site_id}","place":"roof"}`, "decideFoundUnit": `{"dismissed":"the neighbour's"}`,
	"returnJob":      `{"key":"task/none/0","kind":"no_time","note":"called away"}`,
	"triageSymptom":  `{"decision":"elsewhere","note":"door seal"}`,
	"mailSiteReport": `{"to":"nobody"}`,
	"scoreGrader":    `{"seed":1,"said":[2]}`,
	"guestTick":      `{"task_id":"{task_id}"}`,
	"guestSymptom":   `{"kind":"water"}`,
	"guestVisit":     `{"unit_id":"{unit_id}","day":"2026-03-01","outcome":"no_access","note":"shut","cautions_read":true,"people":[],"coils":[]}`,
	"guestPhoto":     "words",

	"acceptProposals": `{"proposal_ids":["{proposal_id}"],"preview":true}`,
	"addCap":          `{"kind":"hygiene","most_days":60}`,

	"importRefrigerantTable": `{"code":"R-404A","csv":"x"}`,
}

var queries = map[string]string{
	"search": "?q=x", "getAudit": "?entity=unit&entity_id={unit_id}", "listAttachments": "?entity=unit&entity_id={unit_id}",
	"addAttachment": "?entity=unit&entity_id={unit_id}&kind=photo&name=x", "startImport": "?dry_run=true", "readGauges": "?phase=before",
	"guestPhoto": "?entity=tick&entity_id={unit_id}", "exportPlan": "?format=csv", "practiceEffects": "?unit_id={unit_id}",
}

// records are ids of the sample: a unit at one site, with what belongs to it.
func records(t testing.TB, s site) map[string]string {
	t.Helper()
	out := map[string]string{"{table}": "classes", "{kind}": "register", "{question}": "air", "{session_id}": uuid.NewString()}
	for key, query := range map[string]string{
		"{unit_id}": "SELECT id FROM unit WHERE tag = 'CC-BC-1'", "{site_id}": "SELECT id FROM site WHERE name = 'Crew Canteen'",
		"{task_id}":  "SELECT t.id FROM task t JOIN unit u ON u.id = t.unit_id WHERE u.tag = 'CC-BC-1' AND t.kind = 'deep'",
		"{visit_id}": "SELECT v.id FROM visit v JOIN unit u ON u.id = v.unit_id WHERE u.tag = 'CC-BC-1' LIMIT 1",
		"{code}":     "SELECT label_code FROM unit WHERE tag = 'CC-BC-1'", "{row_id}": "SELECT id FROM equipment_class LIMIT 1",
		"{factor_id}":  "SELECT f.id FROM site_factor f JOIN placement p ON p.id = f.placement_id WHERE p.name = 'Bar'",
		"{factor_def}": "SELECT id FROM factor_def LIMIT 1", "{crew_id}": "SELECT id FROM crew WHERE name = 'Crew Tern'",
		"{person_id}":   "SELECT id FROM person WHERE name = 'Technician, Crew Eider'",
		"{proposal_id}": "SELECT p.id FROM proposal p JOIN task t ON t.id = p.task_id JOIN unit u ON u.id = t.unit_id WHERE p.status = 'open' AND u.tag LIKE 'CC-%' LIMIT 1",
		"{call_out_id}": "SELECT c.id FROM call_out c JOIN unit u ON u.id = c.unit_id WHERE u.tag = 'CC-BC-1'",
		"{call_log_id}": "SELECT l.id FROM call_log l JOIN site s ON s.id = l.site_id WHERE s.name = 'Crew Canteen'",
		"{import_id}":   "SELECT id FROM import_run LIMIT 1",
		"{class_id}":    "SELECT id FROM equipment_class LIMIT 1", "{cleaner_id}": "SELECT id FROM cleaner WHERE form = 'concentrate' LIMIT 1",
	} {
		var id string
		require.NoError(t, s.store.DB.Raw(query).Scan(&id).Error)
		require.NotEmpty(t, id, key)
		out[key] = id
	}
	// The round of the day, at the canteen and the auction hall, and records the sample does not have: a file, a bulk change, a filter.
	ctx := context.Background()
	manager, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	rounds, err := s.service.Planning.Rounds(ctx, manager)
	require.NoError(t, err)
	round := rounds[0]
	crew, err := s.service.Planning.AddAbsence(ctx, manager, uuid.MustParse(out["{crew_id}"]), contract.NewAbsence{From: calendar.MustParse("2027-01-04"), To: calendar.MustParse("2027-01-04")})
	require.NoError(t, err)
	out["{absence_id}"] = crew.Absences[0].ID.String()
	unit := uuid.MustParse(out["{unit_id}"])
	kept, err := s.service.Organisation.AddAttachment(ctx, manager, organisation.NewAttachment{Entity: "unit", EntityID: unit, Kind: "manual", Name: "x", Content: []byte("%PDF-1.4\n")})
	require.NoError(t, err)
	bulk, err := s.service.Register.ChangeInBulk(ctx, manager, contract.NewBulkChange{UnitIds: []uuid.UUID{unit}, What: "make", Text: ptr("Glimt 2")})
	require.NoError(t, err)
	filter, err := s.service.Register.SaveFilter(ctx, manager, contract.NewSavedFilter{Name: "Mine", Query: ""})
	require.NoError(t, err)
	watched, err := s.service.Fieldwork.AddWatchItem(ctx, manager, unit, contract.NewWatchItem{What: "specks"})
	require.NoError(t, err)
	site := uuid.MustParse(out["{site_id}"])
	link, err := s.service.Fieldwork.AddGuestLink(ctx, manager, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "kitchen", Days: 3, SiteID: &site})
	require.NoError(t, err)
	met, err := s.service.Fieldwork.AddFoundUnit(ctx, manager, uuid.New(), contract.NewFoundUnit{SiteID: site, Place: "cellar"})
	require.NoError(t, err)
	out["{found_id}"], out["{tick_id}"] = met.ID.String(), uuid.NewString()
	symptom, err := s.service.Fieldwork.AddSymptom(ctx, manager, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &unit})
	require.NoError(t, err)
	limit := 90
	capped, err := s.service.Learning.AddCap(ctx, manager, uuid.MustParse(out["{task_id}"]), contract.NewCap{Kind: contract.Contract, MostDays: &limit})
	require.NoError(t, err)
	run, err := s.service.Learning.StartEstimation(ctx, manager)
	require.NoError(t, err)
	out["{cap_id}"], out["{estimation_id}"] = capped.ID.String(), run.ID.String()
	out["{watch_id}"], out["{link_id}"], out["{symptom_id}"] = watched.ID.String(), link.Link.ID.String(), symptom.ID.String()
	for key, id := range map[string]uuid.UUID{"{round_id}": round.ID, "{attachment_id}": kept.ID, "{change_id}": bulk.ID, "{filter_id}": filter.ID} {
		out[key] = id.String()
	}
	return out
}

func ptr[T any](v T) *T { return &v }

// call is one operation of the contract, ready to be sent.
type call struct {
	name, method, address, body string
	role, sites                 string
	// names says that the request names a record.
	names bool
}

func calls(t testing.TB, p pact, ids map[string]string) []call {
	t.Helper()
	var out []call
	for path, item := range p.spec.Paths.Map() {
		for method, op := range item.Operations() {
			c := call{name: strings.ToLower(op.OperationID[:1]) + op.OperationID[1:], method: method}
			c.role, _ = op.Extensions["x-role"].(string)
			c.sites, _ = op.Extensions["x-sites"].(string)
			require.Contains(t, []string{"open", "viewer", "technician", "manager"}, c.role, "%s states no role", c.name)
			c.address, c.body = "/api/v1"+path+queries[c.name], bodies[c.name]
			for key, id := range ids {
				c.names = c.names || (key != "{table}" && key != "{kind}" && key != "{row_id}" && key != "{question}" && key != "{class_id}" && key != "{cleaner_id}" && strings.Contains(c.address+c.body, key))
				c.address, c.body = strings.ReplaceAll(c.address, key, id), strings.ReplaceAll(c.body, key, id)
			}
			c.address = strings.ReplaceAll(c.address, "{token}", "no-such-link-was-ever-made")
			require.NotContains(t, c.address, "{", "an id is missing in this test")
			out = append(out, c)
		}
	}
	return out
}

func (c call) send(to *client) (int, string) {
	media := "application/json"
	if c.name == "startImport" || c.name == "addAttachment" || c.name == "guestPhoto" {
		media = "application/octet-stream"
	}
	return to.inTime(func() (int, string) {
		status, _, answer := to.send(c.method, c.address, c.body, "Idempotency-Key", uuid.NewString(), "Content-Type", media)
		return status, answer
	})
}

// The whole table: every operation of the contract × every role × nobody × another organisation × somebody who sees
// another site only.
func TestEveryRouteKnowsItsRoles(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	ids := records(t, s)
	s.stranger("stranger")
	s.limited("limited", "Maritime Museum")
	rank := map[string]int{"viewer": 1, "technician": 2, "manager": 3}
	done := map[string]int{}
	for _, c := range calls(t, p, ids) {
		// What ends the session or the record is asked for last, or would spoil the rest.
		if c.role == "open" || c.name == "signOut" || c.name == "endSessions" {
			continue
		}
		s.forget()
		status, _ := c.send(s.client)
		assert.Equal(t, http.StatusUnauthorized, status, "%s without a session", c.name)
		for role := range rank {
			if rank[role] >= rank[c.role] {
				continue
			}
			s.forget()
			s.signInAs(role, demo.Password)
			status, answer := c.send(s.client)
			assert.Equal(t, http.StatusForbidden, status, "%s as %s: %s", c.name, role, answer)
			done["too low"]++
		}
		if c.names {
			s.forget()
			s.signIn("stranger")
			status, answer := c.send(s.client)
			assert.Contains(t, []int{404, 422}, status, "%s from another organisation: %d %s", c.name, status, answer)
			s.forget()
			s.signIn("limited")
			status, answer = c.send(s.client)
			want := []int{404, 422}
			if c.sites == "all" {
				want = []int{403}
			}
			// Crews, persons' names and one's own filters belong to no site.
			if c.name != "removeFilter" && !strings.Contains(c.address, ids["{person_id}"]) {
				assert.Contains(t, want, status, "%s with another site only: %d %s", c.name, status, answer)
			}
			done["elsewhere"]++
		}
	}
	for _, c := range calls(t, p, ids) {
		if c.role == "open" || c.name == "signOut" || c.name == "endSessions" || c.name == "changePassword" || c.name == "endFactor" {
			continue
		}
		for role := range rank {
			if rank[role] < rank[c.role] {
				continue
			}
			s.forget()
			s.signInAs(role, demo.Password)
			status, answer := c.send(s.client)
			assert.NotContains(t, []int{401, 403}, status, "%s as %s: %s", c.name, role, answer)
			assert.Less(t, status, 500, "%s as %s: %s", c.name, role, answer)
			done["allowed"]++
		}
	}
	assert.Greater(t, done["too low"], 70)
	assert.Greater(t, done["elsewhere"], 35)
	assert.Greater(t, done["allowed"], 100)
}

func TestAnswersKeepTheContract(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	ids := records(t, s)
	s.signInAs("manager", demo.Password)
	for _, c := range calls(t, p, ids) {
		if c.method != "GET" {
			continue
		}
		status, answer := p.kept(s.client, c.method, c.address, "")
		want := http.StatusOK
		switch c.name {
		case "getJoin", "getGuestPage", "getGuestVisitPack", "getFeed":
			want = http.StatusNotFound
		case "readGauges":
			want = http.StatusConflict // none is connected
		}
		assert.Equal(t, want, status, "%s: %.300s", c.name, answer)
	}
	assert.Nil(t, fetch[contract.NextRound](t, s.client, "/api/v1/next-round?day=2026-03-08").Round, "nobody works on a Sunday")
	for path, want := range map[string]int{
		"/next-round?day=soon": http.StatusUnprocessableEntity, "/next-round?crew_id=" + uuid.NewString(): http.StatusNotFound,
		"/portfolio?limit=0": http.StatusUnprocessableEntity, "/portfolio?after=x": http.StatusUnprocessableEntity,
	} {
		status, answer := p.kept(s.client, "GET", "/api/v1"+path, "")
		assert.Equal(t, want, status, answer)
	}
	seen := map[uuid.UUID]bool{}
	for _, row := range fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio?limit=500").Rows {
		if seen[row.UnitID] {
			continue
		}
		seen[row.UnitID] = true
		for _, address := range []string{"/api/v1/units/" + row.UnitID.String(), "/api/v1/units/" + row.UnitID.String() + "/card"} {
			status, _ := p.kept(s.client, "GET", address, "")
			assert.Equal(t, http.StatusOK, status)
		}
	}
	assert.Len(t, seen, 73)

	next := fetch[contract.NextRound](t, s.client, "/api/v1/next-round")
	body := fmt.Sprintf(`{"version":%d,"rounds":[{"crew_id":"%s","day":"%s"}]}`, next.Version, next.Round.CrewID, next.Round.Day)
	status, answer := p.kept(s.client, "POST", "/api/v1/plan/publication", body, "Idempotency-Key", uuid.NewString())
	require.Equal(t, http.StatusCreated, status, answer)
	rounds := fetch[[]contract.RoundSummary](t, s.client, "/api/v1/rounds")
	p.kept(s.client, "GET", "/api/v1/rounds/"+rounds[0].ID.String(), "")
	status, _ = p.kept(s.client, "POST", "/api/v1/plan/publication", body, "Idempotency-Key", uuid.NewString())
	assert.Equal(t, http.StatusConflict, status)
	status, _ = p.kept(s.client, "POST", "/api/v1/rounds/"+rounds[0].ID.String()+"/withdrawal", "")
	assert.Equal(t, http.StatusOK, status)
	status, _ = p.kept(s.client, "POST", "/api/v1/units", `{}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

// Another organisation's manager sees nothing of this one's in any list.
func TestAnotherOrganisationsListsAreEmpty(t *testing.T) {
	s := newSample(t)
	s.stranger("stranger")
	s.signIn("stranger")
	assert.Empty(t, fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio").Rows)
	assert.Empty(t, fetch[[]contract.VisitSummary](t, s.client, "/api/v1/visits"))
	assert.Nil(t, fetch[contract.NextRound](t, s.client, "/api/v1/next-round").Round)
	assert.Empty(t, fetch[contract.Plan](t, s.client, "/api/v1/plan").Rounds)
	assert.Empty(t, fetch[[]contract.SiteLine](t, s.client, "/api/v1/sites"))
	assert.Empty(t, fetch[[]contract.SearchHit](t, s.client, "/api/v1/search?q=FA"))
	assert.Empty(t, fetch[[]contract.ImportRun](t, s.client, "/api/v1/imports"))
	assert.Len(t, fetch[[]contract.PersonLine](t, s.client, "/api/v1/people"), 1)
}
