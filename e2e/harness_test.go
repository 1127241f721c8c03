// Package e2e drives the real interface in a browser, one file per journey.
package e2e

import (
	"context"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/e2e/app"
	"nextround/e2e/browser"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m, func() { running.Close() }) }

var running *browser.Browser

// chromium is the one browser of the run, started by the first test that needs it. Every test has a window of its own in it,
// which shares neither cookies nor storage with the others.
var chromium = sync.OnceValues(func() (b *browser.Browser, err error) {
	running, err = browser.Start(context.Background())
	return running, err
})

// window opens a window of its own on a fresh application with the sample data.
func window(t *testing.T, width, height int64, phone bool) (*browser.Page, *app.App) {
	t.Helper()
	return windowOn(t, pgtest.Filled(t, "demo", demo.Fill), width, height, phone)
}

// empty opens a window on an application whose database holds nothing yet.
func empty(t *testing.T) *browser.Page {
	t.Helper()
	p, _ := windowOn(t, pgtest.New(t), 1280, 800, false)
	return p
}

func windowOn(t *testing.T, database string, width, height int64, phone bool) (*browser.Page, *app.App) {
	t.Helper()
	ctx := context.Background()
	a, err := app.Start(ctx, database)
	require.NoError(t, err)
	t.Cleanup(a.Close)
	b, err := chromium()
	require.NoError(t, err)
	p, done, err := b.Open(a.URL, width, height, phone)
	require.NoError(t, err)
	t.Cleanup(done)
	return p, a
}

// ok stops the test at the first step that fails.
func ok(t *testing.T, err error) {
	t.Helper()
	require.NoError(t, err)
}

// signIn takes a session for the window; the way in by the screen is tried by TestAViewerOnlyLooks.
func signIn(t *testing.T, p *browser.Page, login string) {
	t.Helper()
	ok(t, p.SignIn(login, demo.Password))
}

// accessible holds the page as it stands against axe-core's rules for WCAG 2.2 AA.
func accessible(t *testing.T, p *browser.Page, screen string) {
	t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	ok(t, p.Eval(string(axe)+";true", nil))
	var found []struct {
		ID    string   `json:"id"`
		Help  string   `json:"help"`
		Nodes []string `json:"nodes"`
	}
	ok(t, p.Eval(`axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], resultTypes: ['violations'], preload: false}).then(r =>
		r.violations.map(v => ({id: v.id, help: v.help, nodes: v.nodes.slice(0, 3).map(n => n.html.slice(0, 160) + ' | ' + (n.any[0]?.message || ''))})))`, &found))
	for _, v := range found {
		assert.Fail(t, screen+": "+v.ID+": "+v.Help, "%v", v.Nodes)
	}
}

// unbroken holds that the page wrote nothing to its error console.
func unbroken(t *testing.T, p *browser.Page) {
	t.Helper()
	assert.Empty(t, p.Broken)
}

// How long, and how often, a test looks for what takes its time.
var patience = browser.Patience()

const step = 20 * time.Millisecond
