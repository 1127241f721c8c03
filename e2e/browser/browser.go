// Package browser drives Debian's headless Chromium the way a person would: it clicks only what can be seen and
// reached, and waits for conditions instead of for time.
package browser

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// patience is how long a condition may take to come true: long, so that a machine loaded tenfold still passes. What is awaited
// is polled, so that it costs nothing where all is well. NEXTROUND_PATIENCE shortens it while a test is written, 20s for example.
var patience = Patience()

// Patience is how long tests wait for what takes its time.
func Patience() time.Duration {
	if d, err := time.ParseDuration(os.Getenv("NEXTROUND_PATIENCE")); err == nil {
		return d
	}
	return 3 * time.Minute
}

// Browser is a running Chromium.
type Browser struct {
	ctx    context.Context
	cancel []context.CancelFunc
	home   string
}

// Start starts Chromium; it fails with a clear line when none is installed.
func Start(ctx context.Context) (*Browser, error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, errors.New("Chromium is not installed: run `make deps-test`, or apt-get install chromium") //nolint:staticcheck // a name
	}
	home, err := os.MkdirTemp("", "nextround-browser-")
	if err != nil {
		return nil, fmt.Errorf("making a folder for the browser: %w", err)
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:0:0],
		chromedp.ExecPath(path), chromedp.Headless, chromedp.NoFirstRun, chromedp.DisableGPU, chromedp.NoSandbox,
		chromedp.Env("TZ=UTC", "HOME="+home, "LC_ALL=en_GB.UTF-8"), chromedp.UserDataDir(home+"/profile"),
	)
	for _, f := range []string{
		"disable-quic", "disable-background-networking", "disable-component-update", "disable-sync", "disable-default-apps",
		"force-prefers-reduced-motion", "hide-scrollbars", "disable-dev-shm-usage", "disable-extensions",
		// Several windows work at once; none of them may be put to sleep for lying behind another.
		"disable-background-timer-throttling", "disable-backgrounding-occluded-windows", "disable-renderer-backgrounding",
	} {
		options = append(options, chromedp.Flag(f, true))
	}
	options = append(options, chromedp.Flag("force-color-profile", "srgb"), chromedp.Flag("font-render-hinting", "none"),
		chromedp.Flag("lang", "en-GB"), chromedp.WindowSize(1280, 800), chromedp.WSURLReadTimeout(patience))
	allocated, stop := chromedp.NewExecAllocator(ctx, options...)
	b := &Browser{cancel: []context.CancelFunc{stop}, home: home}
	var end context.CancelFunc
	b.ctx, end = chromedp.NewContext(allocated)
	b.cancel = append(b.cancel, end)
	if err := chromedp.Run(b.ctx); err != nil {
		b.Close()
		return nil, fmt.Errorf("starting Chromium: %w", err)
	}
	return b, nil
}

// Close stops Chromium and removes what it left; nothing where none was started.
func (b *Browser) Close() {
	if b == nil {
		return
	}
	for i := len(b.cancel) - 1; i >= 0; i-- {
		b.cancel[i]()
	}
	_ = os.RemoveAll(b.home)
}

// Page is one window with its own cookies.
type Page struct {
	ctx context.Context
	url string
	// Broken collects what the page wrote to its error console.
	Broken []string
}

// Open opens a window of its own on the application at url. The returned function closes it.
func (b *Browser) Open(url string, width, height int64, phone bool) (*Page, func(), error) {
	c := chromedp.FromContext(b.ctx)
	var id target.ID
	var own cdp.BrowserContextID
	err := chromedp.Run(b.ctx, chromedp.ActionFunc(func(ctx context.Context) error {
		var err error
		own, err = target.CreateBrowserContext().Do(withBrowser(ctx, c))
		if err != nil {
			return err
		}
		id, err = target.CreateTarget("about:blank").WithBrowserContextID(own).WithNewWindow(true).WithWidth(width).WithHeight(height).Do(withBrowser(ctx, c))
		return err
	}))
	if err != nil {
		return nil, nil, fmt.Errorf("opening a window: %w", err)
	}
	ctx, leave := chromedp.NewContext(b.ctx, chromedp.WithTargetID(id))
	cancel := func() {
		leave()
		_ = chromedp.Run(b.ctx, chromedp.ActionFunc(func(ctx context.Context) error { return target.DisposeBrowserContext(own).Do(withBrowser(ctx, c)) }))
	}
	p := &Page{ctx: ctx, url: url}
	chromedp.ListenTarget(ctx, func(ev any) {
		switch e := ev.(type) {
		case *runtime.EventExceptionThrown:
			p.Broken = append(p.Broken, e.ExceptionDetails.Error())
		case *runtime.EventConsoleAPICalled:
			if e.Type == runtime.APITypeError || e.Type == runtime.APITypeWarning {
				p.Broken = append(p.Broken, text(e.Args))
			}
		}
	})
	err = chromedp.Run(ctx,
		emulation.SetDeviceMetricsOverride(width, height, 1, phone),
		emulation.SetTouchEmulationEnabled(phone),
		emulation.SetFocusEmulationEnabled(true),
		chromedp.ActionFunc(func(ctx context.Context) error {
			// Nothing may move while it is being clicked.
			_, err := page.AddScriptToEvaluateOnNewDocument(`addEventListener('DOMContentLoaded', () => {
				const s = document.createElement('style'); s.textContent = '*,*::before,*::after{transition:none!important;animation:none!important;caret-color:transparent!important}';
				document.head.append(s) })`).Do(ctx)
			return err
		}))
	if err != nil {
		cancel()
		return nil, nil, fmt.Errorf("preparing a window: %w", err)
	}
	return p, cancel, nil
}

// withBrowser aims a command at the browser rather than at a page.
func withBrowser(ctx context.Context, c *chromedp.Context) context.Context {
	return cdp.WithExecutor(ctx, c.Browser)
}

func text(args []*runtime.RemoteObject) string {
	var parts []string
	for _, a := range args {
		parts = append(parts, strings.Trim(string(a.Value), `"`)+a.Description)
	}
	return strings.Join(parts, " ")
}

// Go opens an address of the application.
func (p *Page) Go(path string) error {
	return p.run("opening "+path, chromedp.Navigate(p.url+path))
}

// SignIn takes a session without the screen for it, which saves loading the application once more.
func (p *Page) SignIn(login, password string) error {
	body, err := json.Marshal(map[string]string{"login": login, "password": password})
	if err != nil {
		return fmt.Errorf("signing in: %w", err)
	}
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, p.url+"/api/v1/session", bytes.NewReader(body))
	if err != nil {
		return fmt.Errorf("signing in: %w", err)
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return fmt.Errorf("signing in: %w", err)
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("signing in as %s: %s", login, res.Status)
	}
	for _, c := range res.Cookies() {
		if err := p.run("signing in", network.SetCookie(c.Name, c.Value).WithURL(p.url).WithHTTPOnly(c.HttpOnly)); err != nil {
			return err
		}
	}
	return nil
}

func (p *Page) run(what string, actions ...chromedp.Action) error {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	if err := chromedp.Run(ctx, actions...); err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return nil
}

// Eval runs a script and decodes its result; out may be nil.
func (p *Page) Eval(script string, out any) error {
	return p.run("running a script", chromedp.Evaluate(script, out, func(e *runtime.EvaluateParams) *runtime.EvaluateParams {
		return e.WithAwaitPromise(true)
	}))
}

// WaitText waits until the page shows the text, spaces folded.
func (p *Page) WaitText(want string) error {
	return p.Wait("the text "+want, fmt.Sprintf(`document.body.innerText.replace(/\s+/g, ' ').includes(%q)`, want))
}

// WaitGone waits until the page no longer shows the text.
func (p *Page) WaitGone(text string) error {
	return p.Wait("the text to go: "+text, fmt.Sprintf(`!document.body.innerText.replace(/\s+/g, ' ').includes(%q)`, text))
}

// Wait waits until a script gives true; what it waits for is said when it does not come.
func (p *Page) Wait(what, script string) error {
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	tick := time.NewTicker(25 * time.Millisecond)
	defer tick.Stop()
	for {
		var ok bool
		if err := chromedp.Run(ctx, chromedp.Evaluate(script, &ok)); err == nil && ok {
			return nil
		}
		select {
		case <-ctx.Done():
			var shown string
			_ = chromedp.Run(p.ctx, chromedp.Evaluate(`document.body.innerText.slice(0, 9000)`, &shown))
			return fmt.Errorf("waited in vain for %s; the page shows:\n%s", what, shown)
		case <-tick.C:
		}
	}
}

// finder is a script that finds the element a person means: by its role's text or label.
const finder = `(kind, name, nth) => {
	const fold = s => (s || '').replace(/\s+/g, ' ').trim();
	const seen = e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && getComputedStyle(e).visibility !== 'hidden' };
	const pick = {
		button: 'button, a, summary, [role=button]', option: '[role=option]', field: 'input, textarea, select, [role=combobox]', check: 'input[type=checkbox], input[type=radio]',
	}[kind];
	const labelOf = e => fold(e.getAttribute('aria-label')) || fold([...(e.labels || [])].map(l => (l.querySelector('.label') || l).innerText).join(' ')) || fold(e.closest('label')?.innerText) || e.name;
	const all = [...document.querySelectorAll(pick)].filter(e => {
		if (kind === 'check') return labelOf(e) === name || fold(e.closest('label')?.getAttribute('aria-label')) === name || fold(e.closest('label')?.innerText) === name;
		if (!seen(e)) return false;
		if (kind === 'field') return labelOf(e) === name || labelOf(e).startsWith(name + ' ') || e.name === name;
		return fold(e.innerText) === name || fold(e.getAttribute('aria-label')) === name;
	});
	let e = all[nth];
	if (e && kind === 'check') e = e.closest('label') || e;
	return e;
}`

// at finds an element once it can be reached, still over two frames, enabled and uncovered at its centre.
func (p *Page) at(kind, name string, nth int) (x, y float64, err error) {
	script := fmt.Sprintf(`(async () => {
		const e = (%s)(%q, %q, %d);
		if (!e || e.disabled || e.getAttribute('aria-disabled') === 'true') return null;
		e.scrollIntoView({block: 'center'});
		const frame = () => new Promise(r => requestAnimationFrame(r));
		await frame(); const a = e.getBoundingClientRect(); await frame(); const b = e.getBoundingClientRect();
		if (a.x !== b.x || a.y !== b.y || !b.width) return null;
		const x = b.x + b.width / 2, y = b.y + b.height / 2, top = document.elementFromPoint(x, y);
		if (!top || !(e.contains(top) || top.contains(e) || top.closest('label') === e.closest('label') && e.closest('label') || top.closest('.el-select__wrapper')?.contains(e))) return null;
		window.aimedAt = e;
		window.landed = null;
		document.addEventListener('click', ev => {
			const t = ev.target;
			window.landed = e.contains(t) || t.contains(e) || Boolean(e.closest('.el-select__wrapper')?.contains(t));
			if (!window.landed) { ev.preventDefault(); ev.stopImmediatePropagation(); } // what moved under the mouse is not meant
		}, {capture: true, once: true});
		return [x, y];
	})()`, finder, kind, name, nth)
	ctx, cancel := context.WithTimeout(p.ctx, patience)
	defer cancel()
	tick := time.NewTicker(25 * time.Millisecond)
	defer tick.Stop()
	for {
		var at []float64
		if err := chromedp.Run(ctx, chromedp.Evaluate(script, &at, func(e *runtime.EvaluateParams) *runtime.EvaluateParams {
			return e.WithAwaitPromise(true)
		})); err == nil && len(at) == 2 {
			return at[0], at[1], nil
		}
		select {
		case <-ctx.Done():
			var shown string
			_ = chromedp.Run(p.ctx, chromedp.Evaluate(`document.body.innerText.slice(0, 9000)`, &shown))
			return 0, 0, fmt.Errorf("no %s %q (number %d) that can be reached; the page shows:\n%s", kind, name, nth, shown)
		case <-tick.C:
		}
	}
}

// missed tells whether a click went beside what it was aimed at: what is loaded meanwhile can move a button away. Where that is gone, or
// the page is another one, the click has done something.
const missed = `(async () => {
	for (let i = 0; i < 20 && window.landed === null; i++) await new Promise(r => setTimeout(r, 25));
	return window.aimedAt !== undefined && window.landed !== true && document.contains(window.aimedAt);
})()`

func (p *Page) click(kind, name string, nth int) error {
	for range 5 {
		x, y, err := p.at(kind, name, nth)
		if err != nil {
			return err
		}
		if err := p.run("clicking "+name, chromedp.MouseClickXY(x, y)); err != nil {
			return err
		}
		var beside bool
		err = chromedp.Run(p.ctx, chromedp.Evaluate(missed, &beside, func(e *runtime.EvaluateParams) *runtime.EvaluateParams { return e.WithAwaitPromise(true) }))
		if err != nil || !beside {
			return nil //nolint:nilerr // the click has led to another page
		}
	}
	return fmt.Errorf("%s %q moves away whenever it is clicked", kind, name)
}

// Click clicks a button or link by its text or label.
func (p *Page) Click(name string) error { return p.click("button", name, 0) }

// ClickNth is Click for the nth of several that read the same, from 0.
func (p *Page) ClickNth(name string, nth int) error { return p.click("button", name, nth) }

// Drag takes the button whose label begins with a text by its centre, moves it sideways by some pixels, and lets go once
// meanwhile is true; meanwhile is a script, empty for at once.
func (p *Page) Drag(label string, by float64, meanwhile string) error {
	var name string
	if err := p.Eval(fmt.Sprintf(`[...document.querySelectorAll('button[aria-label]')].map(b => b.getAttribute('aria-label')).find(l => l.startsWith(%q)) ?? ''`, label), &name); err != nil {
		return err
	}
	x, y, err := p.at("button", name, 0)
	if err != nil {
		return err
	}
	mouse := func(kind input.MouseType, x float64) chromedp.Action {
		return input.DispatchMouseEvent(kind, x, y).WithButton(input.Left).WithButtons(1).WithClickCount(1)
	}
	const parts = 8
	moves := []chromedp.Action{mouse(input.MousePressed, x)}
	for n := 1; n <= parts; n++ {
		moves = append(moves, mouse(input.MouseMoved, x+by*float64(n)/parts))
	}
	if err := p.run("dragging "+name, moves...); err != nil {
		return err
	}
	if meanwhile != "" {
		if err := p.Wait("what a drag shows", meanwhile); err != nil {
			return err
		}
	}
	return p.run("letting go of "+name, mouse(input.MouseReleased, x+by))
}

// Check clicks the nth checkbox or radio button with a label, from 0.
func (p *Page) Check(label string, nth int) error { return p.click("check", label, nth) }

// Fill types into the nth field with a label, from 0, in place of what it holds.
func (p *Page) Fill(label, value string, nth int) error {
	if err := p.click("field", label, nth); err != nil {
		return err
	}
	var date bool
	if err := p.Eval(`document.activeElement.type === 'date'`, &date); err != nil {
		return err
	}
	if date {
		// A date field is typed in the browser's own order; set it as the picker would.
		return p.Eval(fmt.Sprintf(`(() => { const e = document.activeElement;
			Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, %q);
			e.dispatchEvent(new Event('input', {bubbles: true})); e.dispatchEvent(new Event('change', {bubbles: true})) })()`, value), nil)
	}
	if err := p.Eval(`document.activeElement.select?.()`, nil); err != nil {
		return err
	}
	return p.run("typing into "+label, chromedp.KeyEvent(value))
}

// Choose opens the nth list with a label, from 0, and takes an option.
func (p *Page) Choose(label, option string, nth int) error {
	if err := p.click("field", label, nth); err != nil {
		return err
	}
	return p.click("option", option, 0)
}

// Find types into a list with a label that searches, and takes an option of what it found.
func (p *Page) Find(label, text, option string) error {
	if err := p.click("field", label, 0); err != nil {
		return err
	}
	if err := p.run("typing into "+label, chromedp.KeyEvent(text)); err != nil {
		return err
	}
	return p.click("option", option, 0)
}

// Chord sends a key together with Control.
func (p *Page) Chord(key string) error {
	return p.run("pressing Control and a key", chromedp.KeyEvent(key, chromedp.KeyModifiers(input.ModifierCtrl)))
}

// Press sends a key.
func (p *Page) Press(key string) error {
	named := map[string]string{"Tab": kb.Tab, "Enter": kb.Enter, "Escape": kb.Escape, "Space": " ", "ArrowRight": kb.ArrowRight, "ArrowLeft": kb.ArrowLeft, "ArrowDown": kb.ArrowDown}
	if k, ok := named[key]; ok {
		key = k
	}
	return p.run("pressing a key", chromedp.KeyEvent(key))
}

// Upload gives a file to the page's file field.
func (p *Page) Upload(path string) error {
	return p.run("choosing a file", chromedp.SetUploadFiles(`input[type=file]`, []string{path}, chromedp.ByQuery))
}

// Throttle makes the page's processor so many times slower.
func (p *Page) Throttle(times float64) error {
	return p.run("throttling", emulation.SetCPUThrottlingRate(times))
}

// Picture takes a picture of what the window shows.
func (p *Page) Picture() (png []byte, err error) {
	err = p.run("taking a picture", chromedp.Evaluate(`document.fonts.ready.then(() => true)`, nil, func(e *runtime.EvaluateParams) *runtime.EvaluateParams {
		return e.WithAwaitPromise(true)
	}), chromedp.CaptureScreenshot(&png))
	return png, err
}

// PDF prints the page as the browser's print command would.
func (p *Page) PDF() (pdf []byte, err error) {
	err = p.run("printing", chromedp.ActionFunc(func(ctx context.Context) error {
		pdf, _, err = page.PrintToPDF().WithPreferCSSPageSize(true).Do(ctx)
		return err
	}))
	return pdf, err
}
