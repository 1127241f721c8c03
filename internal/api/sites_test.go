package api_test

import (
	"archive/zip"
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"encoding/json"
	"io"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/contract"
	"nextround/internal/demo"
	"nextround/internal/organisation"
)

// What this test puts in so that it can be told apart: nobody but a manager of everything may meet it.
const (
	strangeName  = "Zacharias Quillfeather"
	strangeMail  = "quillfeather@hallvik.example"
	strangePrice = 777.77
)

// foreign is what must not be found in an answer.
type foreign struct {
	words   []string // anywhere in the text
	exact   []string // as a whole value: placements' names are ordinary words
	numbers []float64
}

// Somebody limited to one site, in each role and for each site, asks for everything that can be asked for, and meets no tag,
// site, placement, person, price or coordinate that is not theirs, in no answer, file or sheet.
func TestNobodyMeetsAnothersSites(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	ctx := context.Background()
	manager, err := s.service.Organisation.SignIn(ctx, contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	shared := records(t, s)
	sites, err := s.service.Register.Sites(ctx, manager)
	require.NoError(t, err)
	require.Greater(t, len(sites), 5)
	distinguish(t, s)

	asked, files := 0, 0
	for _, site := range sites {
		other := foreignTo(t, s, site.ID)
		ids := recordsAt(t, s, site.ID, shared)
		for _, role := range []contract.Role{contract.RoleViewer, contract.RoleTechnician, contract.RoleManager} {
			login := string(role) + "-" + strings.ToLower(strings.ReplaceAll(site.Name, " ", "-"))
			a, err := s.service.Organisation.CreateMember(ctx, manager.Org, login, login, "secret", role)
			require.NoError(t, err)
			no := false
			_, err = s.service.Organisation.SavePerson(ctx, manager, a.Person.ID, contract.PersonChange{Version: 1, Name: login, AllSites: &no, SiteIds: &[]uuid.UUID{site.ID}})
			require.NoError(t, err)
			s.forget()
			s.signIn(login)
			for _, c := range callsWhereKnown(p, ids) {
				if c.method != http.MethodGet || c.role == "open" || c.name == "getImportTemplate" { // its example rows are made up
					continue
				}
				status, head, body := s.send("GET", c.address, "")
				require.Less(t, status, 500, c.address)
				if status >= 300 {
					continue
				}
				asked++
				text, isFile := readable(t, head.Get("Content-Type"), body)
				if isFile {
					files++
				}
				never := other
				// Who does the work weighs ways by what they cost; what a unit's own soil costs is told with the unit.
				if role == contract.RoleViewer || (role == contract.RoleTechnician && c.name != "getVisitPack" && c.name != "getBench") {
					never.numbers = append(slices.Clone(other.numbers), strangePrice)
				}
				assert.Empty(t, never.found(text, strings.Contains(head.Get("Content-Type"), "json")), "%s as %s of %s", c.address, role, site.Name)
			}
		}
	}
	assert.Greater(t, asked, 27*35, "most operations answered")
	assert.Greater(t, files, 27*4, "files were read too")
}

// distinguish gives the sample a person, a mail address and prices that are told apart from everything else.
func distinguish(t *testing.T, s site) {
	t.Helper()
	db := s.store.DB
	manager, err := s.service.Organisation.SignIn(t.Context(), contract.SignIn{Login: "manager", Password: demo.Password}, organisation.Visitor{})
	require.NoError(t, err)
	var at string
	require.NoError(t, db.Raw("SELECT id FROM site WHERE name = 'Maritime Museum'").Scan(&at).Error)
	elsewhere := uuid.MustParse(at)
	a, err := s.service.Organisation.CreateMember(t.Context(), manager.Org, strangeName, "quillfeather", "secret", contract.RoleTechnician)
	require.NoError(t, err)
	no := false
	_, err = s.service.Organisation.SavePerson(t.Context(), manager, a.Person.ID, contract.PersonChange{Version: 1, Name: strangeName, AllSites: &no, SiteIds: &[]uuid.UUID{elsewhere}})
	require.NoError(t, err)
	for _, statement := range []string{
		"UPDATE crew SET mail = '" + strangeMail + "', day_fee = 777.77",
		"UPDATE cleaner SET pack_price = 777.77 WHERE pack_price IS NOT NULL",
		"UPDATE rate SET amount = 777.77 WHERE code = 'labour'",
	} {
		require.NoError(t, db.Exec(statement).Error, statement)
	}
}

// foreignTo is what somebody who sees one site only must not meet.
func foreignTo(t *testing.T, s site, id uuid.UUID) (f foreign) {
	t.Helper()
	list := func(query string) (out []string) {
		require.NoError(t, s.store.DB.Raw(query, map[string]any{"id": id}).Scan(&out).Error)
		return out
	}
	f.words = append(list("SELECT u.tag FROM unit u JOIN placement p ON p.id = u.placement_id WHERE p.site_id <> @id"), list("SELECT name FROM site WHERE id <> @id")...)
	f.words = append(f.words, list("SELECT address FROM site WHERE id <> @id AND address <> ''")...)
	f.words = append(f.words, strangeMail)
	if !slices.Contains(list("SELECT name FROM site WHERE id = @id"), "Maritime Museum") {
		f.words = append(f.words, strangeName)
	}
	f.exact = list("SELECT DISTINCT name FROM placement p WHERE site_id <> @id AND name NOT IN (SELECT name FROM placement WHERE site_id = @id)")
	for _, n := range list("SELECT lat::text FROM site WHERE id <> @id AND lat IS NOT NULL UNION SELECT lon::text FROM site WHERE id <> @id AND lon IS NOT NULL") {
		x, err := strconv.ParseFloat(n, 64)
		require.NoError(t, err)
		if _, decimals, _ := strings.Cut(n, "."); len(decimals) > 2 { // a rounder one may be any figure
			f.numbers = append(f.numbers, x)
		}
	}
	return f
}

// found names what of it stands in an answer.
func (f foreign) found(text string, isJSON bool) (out []string) {
	for _, w := range f.words {
		if at := strings.Index(text, w); at >= 0 && !continues(text, at+len(w)) {
			out = append(out, w)
		}
	}
	if !isJSON {
		return out
	}
	var v any
	if json.Unmarshal([]byte(text), &v) != nil {
		return append(out, "an answer that cannot be read")
	}
	walk(v, func(x any) {
		switch x := x.(type) {
		case string:
			if slices.Contains(f.exact, x) {
				out = append(out, x)
			}
		case float64:
			if slices.Contains(f.numbers, x) {
				out = append(out, strconv.FormatFloat(x, 'g', -1, 64))
			}
		}
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// continues tells a tag from a longer one that begins like it.
func continues(text string, at int) bool {
	return at < len(text) && text[at] >= '0' && text[at] <= '9'
}

func walk(v any, visit func(any)) {
	switch v := v.(type) {
	case map[string]any:
		for _, x := range v {
			walk(x, visit)
		}
	case []any:
		for _, x := range v {
			walk(x, visit)
		}
	default:
		visit(v)
	}
}

// recordsAt are the records of a site that operations ask for; what the site has none of is left out.
func recordsAt(t *testing.T, s site, id uuid.UUID, shared map[string]string) map[string]string {
	t.Helper()
	out := maps.Clone(shared)
	for key, query := range map[string]string{
		"{unit_id}":       "SELECT u.id FROM unit u JOIN placement p ON p.id = u.placement_id WHERE p.site_id = ? ORDER BY u.tag LIMIT 1",
		"{visit_id}":      "SELECT v.id FROM visit v JOIN unit u ON u.id = v.unit_id JOIN placement p ON p.id = u.placement_id WHERE p.site_id = ? ORDER BY v.day DESC LIMIT 1",
		"{code}":          "SELECT u.label_code FROM unit u JOIN placement p ON p.id = u.placement_id WHERE p.site_id = ? LIMIT 1",
		"{round_id}":      "SELECT round_id FROM stop WHERE site_id = ? LIMIT 1",
		"{attachment_id}": "SELECT a.id FROM attachment a JOIN unit u ON u.id = a.entity_id JOIN placement p ON p.id = u.placement_id WHERE p.site_id = ? LIMIT 1",
	} {
		var found string
		require.NoError(t, s.store.DB.Raw(query, id).Scan(&found).Error)
		delete(out, key)
		if found != "" {
			out[key] = found
		}
	}
	out["{site_id}"] = id.String()
	return out
}

// callsWhereKnown are the operations whose records are known; each export in both kinds.
func callsWhereKnown(p pact, ids map[string]string) []call {
	var out []call
	for _, kind := range []string{"register", "visits"} {
		with := maps.Clone(ids)
		with["{kind}"] = kind
		for path, item := range p.spec.Paths.Map() {
			for method, op := range item.Operations() {
				c := call{name: strings.ToLower(op.OperationID[:1]) + op.OperationID[1:], method: method}
				c.role, _ = op.Extensions["x-role"].(string)
				if kind == "visits" && c.name != "export" {
					continue
				}
				c.address = "/api/v1" + path + queries[c.name]
				for key, id := range with {
					c.address = strings.ReplaceAll(c.address, key, id)
				}
				if !strings.Contains(c.address, "{") {
					out = append(out, c)
				}
			}
		}
	}
	return out
}

// readable is the text of an answer: that of a spreadsheet's parts and of a PDF's streams too.
func readable(t *testing.T, media, body string) (text string, isFile bool) {
	t.Helper()
	switch {
	case strings.HasPrefix(body, "PK"):
		z, err := zip.NewReader(strings.NewReader(body), int64(len(body)))
		require.NoError(t, err)
		for _, f := range z.File {
			r, err := f.Open()
			require.NoError(t, err)
			part, err := io.ReadAll(r)
			require.NoError(t, err)
			text += string(part)
		}
		return text, true
	case strings.HasPrefix(body, "%PDF"):
		return pdfText([]byte(body)), true
	}
	return body, !strings.Contains(media, "json")
}

// pdfText is what a PDF's compressed streams hold, as it stands and read as UTF-16, in which its fonts are written.
func pdfText(pdf []byte) string {
	var out strings.Builder
	for {
		at := bytes.Index(pdf, []byte("stream\n"))
		if at < 0 {
			return out.String()
		}
		pdf = pdf[at+len("stream\n"):]
		z, err := zlib.NewReader(bytes.NewReader(pdf))
		if err != nil {
			continue
		}
		plain, _ := io.ReadAll(z)
		out.Write(plain)
		for shift := range 2 {
			units := make([]uint16, 0, len(plain)/2)
			for i := shift; i+1 < len(plain); i += 2 {
				units = append(units, binary.BigEndian.Uint16(plain[i:]))
			}
			out.WriteString(string(utf16.Decode(units)))
		}
	}
}
