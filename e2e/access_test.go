package e2e

import (
	"os"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/browser"
	"nextround/internal/demo"
)

// shot keeps a picture where NEXTROUND_SHOTS names a folder, to look at.
func shot(t *testing.T, p *browser.Page, name string) {
	t.Helper()
	dir := os.Getenv("NEXTROUND_SHOTS")
	if dir == "" {
		return
	}
	png, err := p.Picture()
	ok(t, err)
	require.NoError(t, os.WriteFile(dir+"/"+name+".png", png, 0o600))
}

// A technician sets up a second factor on the phone, signs out, and signs in with a recovery code; a manager takes the factor away
// when the phone is lost.
func TestASecondFactorOnAPhone(t *testing.T) {
	t.Parallel()
	p, _, _ := phone(t)
	signIn(t, p, "technician")
	ok(t, p.Go("/settings"))
	ok(t, p.Click("Set up a second factor"))
	ok(t, p.WaitText("Scan this with an authenticator app"))
	var secret string
	ok(t, p.Eval(`[...document.querySelectorAll('p')].find((x) => x.textContent.trim().startsWith('Secret:')).querySelector('code').textContent`, &secret))
	shot(t, p, "factor")
	accessible(t, p, "setting up a second factor")
	code, err := totp.GenerateCode(secret, time.Now())
	require.NoError(t, err)
	ok(t, p.Fill("Code the app shows now", code, 0))
	ok(t, p.Click("Turn it on"))
	ok(t, p.WaitText("The second factor is on."))
	var codes []string
	ok(t, p.Eval(`[...document.querySelectorAll('.codes code')].map((x) => x.textContent)`, &codes))
	require.Len(t, codes, 10)
	shot(t, p, "codes")
	ok(t, p.Click("Menu"))
	ok(t, p.Click("Sign out"))
	ok(t, p.WaitText("Which coils to clean next"))

	in := func(code string) {
		t.Helper()
		ok(t, p.Fill("Login", "technician", 0))
		ok(t, p.Fill("Password", demo.Password, 0))
		ok(t, p.Click("Sign in"))
		ok(t, p.WaitText("Code of your authenticator app, or a recovery code"))
		if code == "" {
			return
		}
		ok(t, p.Fill("Code of your authenticator app, or a recovery code", code, 0))
		ok(t, p.Click("Sign in"))
	}
	in("000000")
	ok(t, p.WaitText("The code is not right, or was used."))
	shot(t, p, "sign-in-code")
	ok(t, p.Fill("Code of your authenticator app, or a recovery code", strings.ToUpper(codes[2]), 0))
	ok(t, p.Click("Sign in"))
	ok(t, p.WaitText("Kept on this phone"))
	ok(t, p.Click("Menu"))
	ok(t, p.Click("Sign out"))
	ok(t, p.WaitText("Which coils to clean next"))
	in("")

	manager, a := window(t, 1280, 800, false)
	_, err = a.Store.Pool.Exec(t.Context(), `UPDATE account SET factor_secret = 'JBSWY3DPEHPK3PXP', factor_since = now() WHERE login = 'technician'`)
	require.NoError(t, err)
	signIn(t, manager, "manager")
	ok(t, manager.Go("/people"))
	ok(t, manager.Click("Factor lost"))
	ok(t, manager.WaitText("Be sure it is them."))
	shot(t, manager, "factor-lost")
	accessible(t, manager, "people")
	ok(t, manager.Click("Take it away"))
	ok(t, manager.WaitGone("Be sure it is them."))
	ok(t, manager.WaitGone("Factor lost"))
}

// Signing out on a phone asks about what is begun and not sent; told to, it removes it, and the next person sees none of it.
func TestSigningOutAsksAboutWhatIsNotSent(t *testing.T) {
	t.Parallel()
	p, a, wire := phone(t)
	signIn(t, p, "technician")
	var unit string
	require.NoError(t, a.Store.DB.Raw("SELECT id FROM unit WHERE tag = 'NL-CU-1'").Scan(&unit).Error)
	ok(t, p.Go("/units/"+unit+"/work"))
	ok(t, p.WaitText("NL-CU-1, step by step"))
	keptOnPhone(t, p)
	ok(t, p.Eval(`document.querySelector('li.now button.big').click()`, nil))
	ok(t, p.WaitText("Done"))
	wire.Cut()
	ok(t, p.Click("Menu"))
	ok(t, p.Click("Sign out"))
	ok(t, p.WaitText("Signing out removes everything of yours from it."))
	shot(t, p, "leaving")
	accessible(t, p, "signing out with work begun")
	ok(t, p.Click("Stay signed in"))
	ok(t, p.WaitGone("Signing out removes"))
	ok(t, p.Click("Sign out"))
	ok(t, p.Click("Sign out and remove it"))
	ok(t, p.WaitText("Which coils to clean next"))
	wire.Join()
	signIn(t, p, "manager")
	ok(t, p.Go("/outbox"))
	ok(t, p.Wait("nothing of the other person", `document.querySelector('main').innerText.length > 40 && !document.querySelector('main').innerText.includes('NL-CU-1')`))
	var left int
	ok(t, p.Eval(`Object.keys(localStorage).filter((k) => k.includes('NL-CU-1')).length`, &left))
	assert.Zero(t, left)
}
