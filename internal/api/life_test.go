package api_test

import (
	"encoding/json"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
)

// do sends JSON and reads the answer, which must have the status wanted.
func do[T any](c *client, want int, method, path string, body any, headers ...string) T {
	c.t.Helper()
	sent := ""
	if body != nil {
		raw, err := json.Marshal(body)
		require.NoError(c.t, err)
		sent = string(raw)
	}
	status, _, answer := c.send(method, "/api/v1"+path, sent, headers...)
	require.Equal(c.t, want, status, answer)
	var out T
	if answer != "" {
		require.NoError(c.t, json.Unmarshal([]byte(answer), &out), answer)
	}
	return out
}

type none = map[string]any

// A unit's life over HTTP, from a new site to its successor: every step is answered with the record as it stands, and
// told in the trail.
func TestAUnitsLifeOverHTTP(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	made := do[contract.Created](s.client, http.StatusCreated, "POST", "/sites", none{
		"name": "Hall", "zone": "Europe/Oslo", "placements": []none{
			{"name": "Roof", "setting": "roof", "near_food": false, "occupied": false, "wall_backed": false, "drain": "unknown"},
			{"name": "Yard", "setting": "outdoor", "near_food": false, "occupied": false, "wall_backed": false, "drain": "yes", "drain_note": "gully"},
		},
	})
	site := do[contract.SiteRecord](s.client, http.StatusOK, "GET", "/sites/"+made.ID.String(), nil)
	require.Len(t, *site.Card.Placements, 2)
	unit := do[contract.Created](s.client, http.StatusCreated, "POST", "/units", none{
		"site": "Hall", "placement": "Roof", "tag": "IM-1", "class": "ice_machine", "coil_roles": []string{"condenser"},
		"last_clean": none{"quality": "exact", "day": "2026-01-10"},
	})
	at := "/units/" + unit.ID.String()
	moved := do[contract.UnitRecord](s.client, http.StatusOK, "POST", at+"/moves", none{"placement_id": (*site.Card.Placements)[1].ID, "day": "2026-02-01"})
	assert.Equal(t, "Yard", moved.Placement)
	paused := do[contract.UnitRecord](s.client, http.StatusOK, "POST", at+"/pauses", none{"day": "2026-02-10", "reason": "refit"})
	assert.Equal(t, contract.UnitStatusOutOfService, paused.Status)
	back := do[contract.UnitRecord](s.client, http.StatusOK, "POST", at+"/resumption", none{"day": "2026-02-20"})
	assert.Equal(t, contract.UnitStatusInService, back.Status)
	heir := do[contract.Created](s.client, http.StatusCreated, "POST", at+"/replacement", none{"day": "2026-03-01", "tag": "IM-2", "reason": "worn out"})
	old := do[contract.UnitRecord](s.client, http.StatusOK, "GET", at+"/card", nil)
	assert.Equal(t, contract.UnitStatusRetired, old.Status)
	assert.Equal(t, heir.ID, *old.ReplacedBy)
	again := do[contract.Problem](s.client, http.StatusConflict, "POST", at+"/pauses", none{"day": "2026-03-02", "reason": "x"})
	assert.Contains(t, *again.Detail, "is retired")
	early := do[contract.Problem](s.client, http.StatusUnprocessableEntity, "POST", "/units/"+heir.ID.String()+"/retirement", none{"day": "2026-02-01", "reason": "x"})
	assert.Equal(t, "/day", (*early.Errors)[0].Pointer)

	trail := do[[]contract.AuditLine](s.client, http.StatusOK, "GET", "/audit?entity=unit&entity_id="+unit.ID.String(), nil)
	var told []string
	for _, line := range trail {
		told = append(told, line.Action)
	}
	assert.Equal(t, []string{"replaced", "back in service", "taken out of service", "moved", "added"}, told)
	rows := do[contract.Portfolio](s.client, http.StatusOK, "GET", "/portfolio", nil).Rows
	require.Len(t, rows, 1)
	assert.Equal(t, "IM-2", rows[0].Tag)
}

// A password is changed by who knows the old one; whoever else is signed in with the account is out.
func TestAPasswordChangeEndsOtherSessions(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	mine := s.http.Jar
	s.forget()
	s.signIn("manager")
	wrong := do[contract.Problem](s.client, http.StatusUnprocessableEntity, "PUT", "/session/password", none{"current": "guess", "password": "a long pass phrase"})
	assert.Equal(t, "/current", (*wrong.Errors)[0].Pointer)
	weak := do[contract.Problem](s.client, http.StatusUnprocessableEntity, "PUT", "/session/password", none{"current": "secret", "password": "short"})
	assert.Equal(t, "/password", (*weak.Errors)[0].Pointer)
	do[none](s.client, http.StatusNoContent, "PUT", "/session/password", none{"current": "secret", "password": "a long pass phrase"})
	do[contract.Session](s.client, http.StatusOK, "GET", "/session", nil)
	theirs := s.http.Jar
	s.http.Jar = mine
	do[contract.Problem](s.client, http.StatusUnauthorized, "GET", "/session", nil)
	s.http.Jar = theirs
	do[none](s.client, http.StatusNoContent, "DELETE", "/session", nil)
	do[contract.Problem](s.client, http.StatusUnauthorized, "GET", "/portfolio", nil)
	s.signInAs("manager", "a long pass phrase")
}
