package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
)

// What is sent under another media type than the operation's is not read, whatever it claims to be; what is too large is
// refused before it is read.
func TestNothingIsTakenThatTheOperationDoesNotDeclare(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	long := `{"login":"manager","password":"` + strings.Repeat("x", 59<<20) + `"}`
	for name, c := range map[string]struct {
		method, path, body, media string
		want                      int
	}{
		"a site as a file":              {"POST", "/sites", `{"name":"Hall"}`, "application/octet-stream", 415},
		"a site as a form":              {"POST", "/sites", `name=Hall`, "application/x-www-form-urlencoded", 415},
		"a site without a type":         {"POST", "/sites", `{"name":"Hall"}`, "", 415},
		"an import as JSON":             {"POST", "/imports?dry_run=true", `{}`, "application/json", 415},
		"content where none is taken":   {"DELETE", "/sessions", `{}`, "application/json", 415},
		"a password of 59 MB":           {"POST", "/session", long, "application/json", 413},
		"a plan of a hundred thousand":  {"POST", "/bulk-changes", `{"unit_ids":["01a22054-4477-7045-971a-9634572c2957"],"what":"light_days","days":100000000,"dry_run":true}`, "application/json", 422},
		"an amount no stock ever held":  {"POST", "/stock/moves", `{"cleaner_id":"01a22054-4477-7045-971a-9634572c2957","kind":"bought","litres":1e300,"day":"2026-03-01"}`, "application/json", 422},
		"many answers of one who looks": {"POST", "/graders", `{"seed":1,"said":[` + strings.Repeat("2,", 20_000) + `2]}`, "application/json", 422},
	} {
		t.Run(name, func(t *testing.T) {
			status, header, body := s.send(c.method, "/api/v1"+c.path, c.body, "Content-Type", c.media)
			assert.Equal(t, c.want, status, "%.200s", body)
			assert.Contains(t, header.Get("Content-Type"), "application/problem+json")
		})
	}
}

// Every text, list and number that can be sent has a bound in the contract, and every file operation states its size.
func TestEverythingSentIsBounded(t *testing.T) {
	p := newPact(t)
	seen := map[*openapi3.Schema]bool{}
	var walk func(at string, ref *openapi3.SchemaRef)
	walk = func(at string, ref *openapi3.SchemaRef) {
		s := ref.Value
		if s == nil || seen[s] {
			return
		}
		seen[s] = true
		switch {
		case s.Type.Is("string") && len(s.Enum) == 0 && s.Format == "":
			assert.NotNil(t, s.MaxLength, "%s has no longest length", at)
		case s.Type.Is("array"):
			assert.NotNil(t, s.MaxItems, "%s has no largest number", at)
			walk(at+"[]", s.Items)
		case s.Type.Is("number"), s.Type.Is("integer"):
			assert.NotNil(t, s.Max, "%s has no largest value", at)
			assert.NotNil(t, s.Min, "%s has no least value", at)
		}
		for name, x := range s.Properties {
			walk(at+"."+name, x)
		}
	}
	for _, item := range p.spec.Paths.Map() {
		for _, op := range item.Operations() {
			if op.RequestBody == nil {
				continue
			}
			for media, c := range op.RequestBody.Value.Content {
				if media == "application/octet-stream" {
					assert.NotNil(t, op.Extensions["x-largest-body"], op.OperationID)
					continue
				}
				walk(op.OperationID, c.Schema)
			}
		}
	}
	assert.Greater(t, len(seen), 100)
}

// Of a hundred guesses at once six are looked at; somebody else at another address still gets in, and so does the guessed
// one's owner on a device of theirs.
func TestGuessesAtOnceAreCounted(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager") // from here on this device is known
	s.send("DELETE", "/api/v1/session", "")
	var looked, refused atomic.Int64
	var group sync.WaitGroup
	for range 100 {
		group.Go(func() {
			_, err := s.service.Organisation.SignIn(context.Background(), contract.SignIn{Login: "manager", Password: "guess"}, organisation.Visitor{Address: "198.51.100.7"})
			switch {
			case err == nil:
				t.Error("a guess got in")
			case strings.Contains(err.Error(), "too many"):
				refused.Add(1)
			default:
				looked.Add(1)
			}
		})
	}
	group.Wait()
	assert.Equal(t, int64(6), looked.Load())
	assert.Equal(t, int64(100), looked.Load()+refused.Load())
	_, err := s.service.Organisation.SignIn(t.Context(), contract.SignIn{Login: "manager", Password: "secret"}, organisation.Visitor{Address: "198.51.100.7"})
	require.ErrorIs(t, err, organisation.ErrTooManyAttempts)
	_, err = s.service.Organisation.SignIn(t.Context(), contract.SignIn{Login: "manager", Password: "secret"}, organisation.Visitor{Address: "198.51.100.8"})
	require.NoError(t, err, "nobody is locked out by what somebody else guesses elsewhere")
	for i := range 60 {
		_, err := s.service.Organisation.SignIn(t.Context(), contract.SignIn{Login: fmt.Sprint("nobody", i), Password: "guess"}, organisation.Visitor{Address: "127.0.0.1"})
		require.Error(t, err)
	}
	status, _, _ := s.send("POST", "/api/v1/session", `{"login":"viewer","password":"secret"}`)
	assert.Equal(t, http.StatusTooManyRequests, status, "too many tries from this address")
	s.signIn("manager") // but on a device of theirs
}

// A wrong current password counts like a failed sign-in.
func TestWrongCurrentPasswordsCount(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	statuses := map[int]int{}
	for range 10 {
		status, _, _ := s.send("PUT", "/api/v1/session/password", `{"current":"guess","password":"three old herring nets"}`)
		statuses[status]++
	}
	assert.Equal(t, 6, statuses[422])
	assert.Equal(t, 4, statuses[429])
}

// Common passwords, and those with a pattern, are refused.
func TestCommonPasswordsAreRefused(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	for _, weak := range []string{"password1234", "qwertyuiop12", "123456789012", "iloveyou1234", "aaaaaaaaaaab", "manager12345"} {
		s.forget()
		s.signIn("manager")
		status, _, body := s.send("PUT", "/api/v1/session/password", `{"current":"secret","password":"`+weak+`"}`)
		assert.Equal(t, 422, status, weak)
		assert.Contains(t, body, "/password", weak)
	}
}

// Sessions are listed with where they are, end one by one and all together, and their tokens are not kept as they are.
func TestSessionsAreListedAndEnded(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	here := s.http.Jar
	s.forget()
	s.signIn("manager")
	list := fetch[[]contract.OwnSession](t, s.client, "/api/v1/sessions")
	require.Len(t, list, 2)
	other := list[0]
	if other.Here {
		other = list[1]
	}
	assert.NotEqual(t, list[0].Here, list[1].Here)
	assert.Equal(t, "127.0.0.1", list[0].Address)
	status, _, _ := s.send("DELETE", "/api/v1/sessions/"+other.ID.String(), "")
	assert.Equal(t, 204, status)
	there := s.http.Jar
	s.http.Jar = here
	status, _, _ = s.send("GET", "/api/v1/session", "")
	assert.Equal(t, 401, status, "the other one is ended")
	s.http.Jar = there
	status, _, _ = s.send("DELETE", "/api/v1/sessions", "")
	assert.Equal(t, 204, status)
	status, _, _ = s.send("GET", "/api/v1/session", "")
	assert.Equal(t, 401, status, "and now this one too")

	_, header, _ := s.send("POST", "/api/v1/session", `{"login":"manager","password":"secret"}`)
	token := ""
	for _, c := range header.Values("Set-Cookie") {
		if strings.HasPrefix(c, "nextround_session=") {
			token, _, _ = strings.Cut(strings.TrimPrefix(c, "nextround_session="), ";")
		}
	}
	var kept int64
	require.NoError(t, s.store.DB.Raw("SELECT count(*) FROM sessions WHERE token = ?", token).Scan(&kept).Error)
	assert.NotEmpty(t, token)
	assert.Zero(t, kept)
}

// A second factor is set up with a code of the app, asked for at the sign-in, and stood in for by a recovery code once.
func TestASecondFactor(t *testing.T) {
	s := newSite(t, false)
	s.signIn("manager")
	status, _, body := s.send("POST", "/api/v1/second-factor", "")
	require.Equal(t, 201, status, body)
	var made contract.NewFactor
	require.NoError(t, json.Unmarshal([]byte(body), &made))
	assert.True(t, strings.HasPrefix(made.Picture, "data:image/png;base64,"))
	codeAt := func(ago time.Duration) string {
		code, err := totp.GenerateCode(made.Secret, time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC).Add(-ago))
		require.NoError(t, err)
		return code
	}
	status, _, _ = s.send("PUT", "/api/v1/second-factor", `{"code":"000000"}`)
	assert.Equal(t, 422, status)
	status, _, body = s.send("PUT", "/api/v1/second-factor", `{"code":"`+codeAt(30*time.Second)+`"}`)
	require.Equal(t, 200, status, body)
	var on contract.FactorOn
	require.NoError(t, json.Unmarshal([]byte(body), &on))
	require.Len(t, on.RecoveryCodes, 10)
	assert.Equal(t, contract.SecondFactorOn, fetch[contract.Session](t, s.client, "/api/v1/session").SecondFactor)
	s.forget()
	in := func(code string) int {
		status, _, _ := s.send("POST", "/api/v1/session", `{"login":"manager","password":"secret","code":"`+code+`"}`)
		return status
	}
	assert.Equal(t, 422, in(""), "the code is asked for")
	assert.Equal(t, 401, in("000000"))
	assert.Equal(t, 401, in(codeAt(30*time.Second)), "a code works once")
	assert.Equal(t, 200, in(codeAt(0)))
	s.forget()
	assert.Equal(t, 200, in(strings.ToLower(on.RecoveryCodes[3])))
	s.forget()
	assert.Equal(t, 401, in(on.RecoveryCodes[3]), "a recovery code works once")
	assert.Equal(t, 200, in(on.RecoveryCodes[4]))
	status, _, _ = s.send("POST", "/api/v1/second-factor/removal", `{"password":"secret"}`)
	assert.Equal(t, 204, status)
	s.forget()
	assert.Equal(t, 200, in(""))

	// Where the organisation asks a role for one, nothing else works before it is there.
	status, _, _ = s.send("PUT", "/api/v1/second-factor/roles", `{"roles":["viewer"]}`)
	assert.Equal(t, 204, status)
	s.forget()
	s.signIn("viewer")
	assert.Equal(t, contract.SecondFactorRequired, fetch[contract.Session](t, s.client, "/api/v1/session").SecondFactor)
	status, _, body = s.send("GET", "/api/v1/portfolio", "")
	assert.Equal(t, 403, status)
	assert.Contains(t, body, "second factor")
	status, _, _ = s.send("POST", "/api/v1/second-factor", "")
	assert.Equal(t, 201, status)
}

// A link to choose a password is no way round the second factor; one that is lost is taken away by a manager.
func TestALinkIsNoWayRoundTheSecondFactor(t *testing.T) {
	s := newSite(t, false)
	s.signIn("viewer")
	_, _, body := s.send("POST", "/api/v1/second-factor", "")
	var made contract.NewFactor
	require.NoError(t, json.Unmarshal([]byte(body), &made))
	code, err := totp.GenerateCode(made.Secret, time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	status, _, body := s.send("PUT", "/api/v1/second-factor", `{"code":"`+code+`"}`)
	require.Equal(t, 200, status, body)
	s.forget()
	s.signIn("manager")
	withFactor := func() (out []contract.PersonLine) {
		return slices.DeleteFunc(fetch[[]contract.PersonLine](t, s.client, "/api/v1/people"), func(p contract.PersonLine) bool { return !p.HasFactor })
	}
	require.Len(t, withFactor(), 1)
	viewer := "/api/v1/people/" + withFactor()[0].PersonID.String()
	status, _, body = s.send("POST", viewer+"/link", "")
	require.Equal(t, 201, status, body)
	var link contract.PersonAdded
	require.NoError(t, json.Unmarshal([]byte(body), &link))
	_, token, _ := strings.Cut(*link.Link, "/join/")
	s.forget()
	status, head, body := s.send("POST", "/api/v1/join/"+token, `{"password":"three old herring nets"}`)
	assert.Equal(t, 204, status, body)
	assert.NotContains(t, head.Get("Set-Cookie"), "nextround_session")
	in := func() int {
		status, _, _ := s.send("POST", "/api/v1/session", `{"login":"viewer","password":"three old herring nets"}`)
		return status
	}
	assert.Equal(t, 422, in(), "the code is asked for")
	s.signIn("manager")
	status, _, body = s.send("DELETE", viewer+"/second-factor", "")
	require.Equal(t, 200, status, body)
	assert.Empty(t, withFactor())
	s.forget()
	assert.Equal(t, 200, in())
}

// Two managers who take each other's rights at the same moment do not both succeed, and the last one keeps theirs.
func TestOneManagerOfEverythingRemains(t *testing.T) {
	s := newSite(t, false)
	ctx := t.Context()
	first, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: "secret"}, organisation.Visitor{})
	require.NoError(t, err)
	second, err := s.service.Organisation.CreateMember(ctx, first.Org, "Second", "second", "secret", contract.RoleManager)
	require.NoError(t, err)
	for round := range 5 {
		var done atomic.Int64
		var group sync.WaitGroup
		for _, pair := range [][2]organisation.Actor{{first, second}, {second, first}} {
			group.Go(func() {
				_, err := s.service.Organisation.SavePerson(ctx, pair[0], pair[1].Person.ID, contract.PersonChange{Version: 1, Name: "X", Role: ptr(contract.RoleViewer)})
				if err == nil {
					done.Add(1)
				}
			})
		}
		group.Wait()
		assert.Equal(t, int64(1), done.Load(), "round %d", round)
		require.NoError(t, s.store.DB.Exec("UPDATE membership SET role = 'manager', version = 1 WHERE account_id IN (?, ?)", first.AccountID, second.AccountID).Error)
	}
}

// A link reaches no further than whoever made it: it ends with their role, their sites and their account.
func TestALinkEndsWithItsMakersRights(t *testing.T) {
	s := newSample(t)
	ctx := t.Context()
	boss, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	s.limited("limited", "Maritime Museum")
	a, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "limited", Password: "secret"}, organisation.Visitor{})
	require.NoError(t, err)
	made, err := s.service.Fieldwork.AddGuestLink(ctx, a, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "kitchen", Days: 3, SiteID: &a.Sites[0]})
	require.NoError(t, err)
	status, _, _ := s.send("GET", "/api/v1/guest/"+made.Token, "")
	require.Equal(t, 200, status)
	_, err = s.service.Organisation.SavePerson(ctx, boss, a.Person.ID, contract.PersonChange{Version: 2, Name: "limited", Role: ptr(contract.RoleTechnician)})
	require.NoError(t, err)
	status, _, _ = s.send("GET", "/api/v1/guest/"+made.Token, "")
	assert.Equal(t, 404, status)
	links, err := s.service.Fieldwork.GuestLinks(ctx, boss)
	require.NoError(t, err)
	for _, l := range links {
		if l.ID == made.Link.ID {
			assert.Equal(t, contract.GuestLinkStateEnded, l.State)
		}
	}
}

// A photo's side is one of the record's own unit.
func TestAPhotosSideBelongsToItsUnit(t *testing.T) {
	s := newSample(t)
	ids := records(t, s)
	s.signInAs("technician", demo.Password)
	side := func(tag string) (id string) {
		require.NoError(t, s.store.DB.Raw("SELECT s.id FROM surface s JOIN coil c ON c.id = s.coil_id JOIN unit u ON u.id = c.unit_id WHERE u.tag = ? LIMIT 1", tag).Scan(&id).Error)
		return id
	}
	address := "/api/v1/attachments?entity=unit&entity_id=" + ids["{unit_id}"] + "&kind=photo&name=x&surface_id="
	status, _, body := s.send("POST", address+side("FA-UC-1"), picture(t), "Content-Type", "application/octet-stream")
	assert.Equal(t, 422, status)
	assert.Contains(t, body, "is not a side of this unit")
	status, _, body = s.send("POST", address+side("CC-BC-1"), picture(t), "Content-Type", "application/octet-stream")
	assert.Equal(t, 201, status, body)
}

// A link takes so many complaints and no more.
func TestALinkTakesOnlySoMuch(t *testing.T) {
	s := newSample(t)
	boss, err := s.service.Organisation.SignIn(t.Context(), contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	sites, err := s.service.Register.Sites(t.Context(), boss)
	require.NoError(t, err)
	made, err := s.service.Fieldwork.AddGuestLink(t.Context(), boss, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "kitchen", Days: 3, SiteID: &sites[0].ID})
	require.NoError(t, err)
	statuses := map[int]int{}
	for range 40 {
		status, _, _ := s.send("POST", "/api/v1/guest/"+made.Token+"/symptoms", `{"kind":"water"}`)
		statuses[status]++
	}
	assert.Equal(t, 30, statuses[201])
	assert.Equal(t, 10, statuses[429])
	list, err := s.service.Fieldwork.Symptoms(t.Context(), boss)
	require.NoError(t, err)
	require.NotNil(t, list[0].Link)
	assert.Equal(t, "kitchen", *list[0].Link, "it says by which link it came")
	assert.Empty(t, list[0].Reporter, "and claims no name that nobody typed")
}

// Answers are kept nowhere on their way; text that is no text is refused; a key used again says so.
func TestAnswersAreNotKeptOnTheWay(t *testing.T) {
	s := newSite(t, true)
	s.signIn("manager")
	_, header, _ := s.send("GET", "/api/v1/session", "")
	assert.Equal(t, "no-store", header.Get("Cache-Control"))
	assert.Contains(t, header.Get("Strict-Transport-Security"), "max-age=")
	status, _, _ := s.send("GET", "/api/v1/search?q=%ff%fe", "")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

func picture(t *testing.T) string {
	t.Helper()
	var out bytes.Buffer
	require.NoError(t, encodePNG(&out, 8, 8))
	return out.String()
}

func encodePNG(w *bytes.Buffer, width, height int) error {
	return png.Encode(w, image.NewRGBA(image.Rect(0, 0, width, height)))
}
