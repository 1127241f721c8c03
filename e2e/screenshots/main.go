// Command screenshots takes one picture of each main view from the sample data.
package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"nextround/e2e/app"
	"nextround/e2e/browser"
	"nextround/e2e/journey"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

func main() {
	if len(os.Args) < 2 {
		fmt.Fprintln(os.Stderr, "usage: screenshots FOLDER [VIEW ...]")
		os.Exit(2)
	}
	if err := run(context.Background(), os.Args[1], os.Args[2:]); err != nil {
		fmt.Fprintln(os.Stderr, "screenshots:", err)
		os.Exit(1)
	}
}

// view is a picture: how to get there once signed in, and what must show before it is taken. One whose name begins with
// + is taken only when it is asked for.
type view struct {
	name  string
	phone bool
	show  func(*browser.Page) error
}

func steps(all ...func() error) error {
	for _, s := range all {
		if err := s(); err != nil {
			return err
		}
	}
	return nil
}

func unit(p *browser.Page, tag, wait string) error {
	return steps(
		func() error { return p.Go("/portfolio?q=" + tag) }, func() error { return p.Click(tag) }, func() error { return p.WaitText(wait) },
	)
}

// story is a unit whose screen tells a story of the sample data, once it does.
func story(tag, words string) func(*browser.Page) error {
	return func(p *browser.Page) error {
		return steps(func() error { return unit(p, tag, "A year costs") }, func() error { return p.WaitText(words) })
	}
}

// planned is the round of the plan on which a job of a placement or unit stands, with why.
func planned(match string) func(*browser.Page) error {
	return func(p *browser.Page) error {
		var address string
		return steps(func() error {
			return p.Eval(`fetch('/api/v1/plan').then(r => r.json()).then(p => p.rounds.find(r => r.stops.some(s => s.jobs.some(j => `+match+`)))).then(r => '/?crew=' + r.crew_id + '&day=' + r.day)`, &address)
		}, func() error { return p.Go(address) }, func() error { return p.WaitText("Wait a week") },
			func() error { return p.Eval(`document.querySelectorAll('details').forEach(d => d.open = true)`, nil) })
	}
}

// at is a view of an address, once some text shows.
func at(path, wait string) func(*browser.Page) error {
	return func(p *browser.Page) error {
		return steps(func() error { return p.Go(path) }, func() error { return p.WaitText(wait) })
	}
}

var views = []view{
	{"next-round", false, func(p *browser.Page) error { return p.WaitText("Came back from the field") }},
	{"+next-round-unfolded", false, func(p *browser.Page) error {
		return steps(func() error { return p.WaitText("Soil forecast") }, func() error { return p.Click("Fish Auction Hall") },
			func() error { return p.WaitText("FA-IM-2") }, func() error { return p.Eval(`document.querySelector('.strips').scrollIntoView()`, nil) })
	}},
	{"rounds", false, at("/rounds", "cheaper than by due date")},
	{"+rounds-lower", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/rounds") }, func() error { return p.WaitText("To buy") },
			func() error {
				return p.Eval(`[...document.querySelectorAll('h2')].find(h => h.textContent.includes('Hours planned')).scrollIntoView()`, nil)
			})
	}},
	{"portfolio", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/portfolio") }, func() error { return p.WaitText("Ice machine") })
	}},
	{"+portfolio-acceptance", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/portfolio?proposed=1&sort=wait") }, func() error { return p.WaitText("A week’s wait") },
			func() error { return p.Eval(`document.querySelector('thead .el-checkbox').click()`, nil) },
			func() error { return p.WaitText("units chosen") }, func() error {
				return p.Eval(`[...document.querySelectorAll('button')].find(b => /^\s*Accept \d+ proposal/.test(b.textContent)).click()`, nil)
			},
			func() error { return p.WaitText("What accepting changes") }, func() error { return p.WaitText("a year;") })
	}},
	{"+portfolio-map", false, at("/portfolio?view=map", "The number is the grade")},
	{"site", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/portfolio") }, func() error { return p.Click("Fish Auction Hall") }, func() error { return p.WaitText("Save the site") })
	}},
	{"house-rules", false, at("/house-rules?table=classes", "Ice machine")},
	{"+people", false, at("/people", "Crew Gannet")},
	{"unit-card", false, func(p *browser.Page) error {
		return steps(func() error { return unit(p, "NL-CU-2", "Why this rate") }, func() error { return p.Click("Card") }, func() error { return p.WaitText("Save the card") })
	}},
	{"unit", false, func(p *browser.Page) error { return unit(p, "FA-IM-2", "Why this rate") }},
	{"story-silent-galleries", false, planned(`j.placement.includes('gallery') && j.kind === 'deep'`)},
	{"+story-hall-between-sailings", false, planned(`j.placement === 'Waiting hall' && s.site === 'Ferry Terminal North'`)},
	{"+story-tower-without-water", false, planned(`j.tag === 'HO-PU-1' && j.kind === 'deep'`)},
	{"+story-grilles-in-the-break", false, planned(`j.kind === 'grille'`)},
	{"+story-packed-core", false, story("FA-IM-2", "Nobody has seen the core")},
	{"story-rate-doubled", false, story("SY-RC-3", "Its rate has changed")},
	{"story-side-never-reached", false, story("NL-CU-2", "is never reached")},
	{"+story-always-bare", false, story("HO-CU-1", "Found bare the last")},
	{"+story-cause", false, story("CC-BC-1", "If the cause were removed")},
	{"+story-peers", false, story("HO-CU-2", "it has the rate of")},
	{"+unit-full", false, func(p *browser.Page) error { return unit(p, "FA-IM-2", "Peers") }},
	{"today-phone", true, func(p *browser.Page) error {
		var address string
		return steps(func() error {
			return p.Eval(`fetch('/api/v1/today').then(r => r.json()).then(d => '/today?crew=' + d.crews.find(c => c.name === 'Crew Tern').id)`, &address)
		}, func() error { return p.Go(address) }, func() error { return p.WaitText("Kept on this phone: all") })
	}},
	{"+visit", false, func(p *browser.Page) error {
		return steps(func() error { return unit(p, "FA-IM-2", "Why this rate") }, func() error { return p.Click("Record a past visit") },
			func() error { return p.WaitText("Before anything is opened") })
	}},
	{"+visit-phone", true, func(p *browser.Page) error {
		return steps(func() error { return unit(p, "FA-IM-2", "Why this rate") }, func() error { return p.Click("Record a past visit") },
			func() error { return p.WaitText("Before anything is opened") }, func() error { return p.Check("Reached", 0) },
			func() error { return p.Check("3 Felt", 0) })
	}},
	{"work-phone", true, func(p *browser.Page) error { return led(p, "CC-BC-1", 1, "Plug", "opened_look", nil) }},
	{"+work-isolation-phone", true, func(p *browser.Page) error { return led(p, "CC-BC-1", 1, "Plug", "prove_dead", nil) }},
	{"work-advice-phone", true, func(p *browser.Page) error { return led(p, "NL-CU-1", 4, "Disconnect", "advice", nil) }},
	{"+work-readings-phone", true, func(p *browser.Page) error { return led(p, "CC-BC-1", 1, "Plug", "tell_occupants", nil) }},
	{"work-dwell-phone", true, func(p *browser.Page) error {
		return led(p, "FN-CA-1", 1, "Breaker", "apply_cleaner", func() error { return p.Click("Sprayed: start the clock") })
	}},
	{"+work-left-phone", true, func(p *browser.Page) error { return led(p, "CC-BC-1", 1, "Plug", "count_back", nil) }},
	{"+work", false, func(p *browser.Page) error { return led(p, "FN-PU-2", 3, "Disconnect", "watch_items", nil) }},
	{"bench", false, at("/bench", "First choice")},
	{"+bench-dwell", false, at("/bench?tool=dwell", "min in all")},
	{"+bench-mix", false, at("/bench?tool=mix", "fl oz")},
	{"+bench-grading", false, at("/bench?tool=grading", "Face 1 of 12")},
	{"practice", false, at("/house-rules/practice", "Air through a condenser")},
	{"+procedures", false, at("/house-rules/procedures", "gates that cannot be passed")},
	{"+stock", false, at("/stock", "Used against planned")},
	{"+symptoms", false, at("/symptoms", "Bait soft again")},
	{"+links", false, at("/links", "A link needs no account")},
	{"report", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/visits") }, func() error { return p.WaitText("The newest") },
			func() error { return p.Eval(`document.querySelector('a[href^="/visits/"]').click()`, nil) },
			func() error { return p.Click("Report to the site") }, func() error { return p.WaitText("Nobody was told on the spot.") })
	}},
	{"+visits", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/visits") }, func() error { return p.WaitText("The newest") })
	}},
	{"import", false, func(p *browser.Page) error {
		file := filepath.Join(os.TempDir(), "nextround-example.csv")
		text := "site,placement,tag,class,coil role,last clean\nHarbour Office,Yard,HO-CU-8,Outdoor unit,condenser,2025-09-14\n" +
			"Harbour Office,Yard,HO-CU-9,Outdoor condensing unit,evaporator,14.09.2025\n"
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			return err
		}
		defer func() { _ = os.Remove(file) }()
		return steps(func() error { return p.Go("/portfolio/import") }, func() error { return p.WaitText("One row per coil.") },
			func() error { return p.Upload(file) }, func() error { return p.WaitText("What is wrong") })
	}},
	{"round", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/") }, func() error { return p.Click("Publish round") },
			func() error { return p.WaitText("Print sheets") })
	}},
	{"+portfolio-dark", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/settings") }, func() error { return p.Choose("Theme", "dark (plant room)", 0) },
			func() error { return p.WaitText("Kept.") }, func() error { return p.Go("/portfolio") }, func() error { return p.WaitText("Ice machine") })
	}},
}

// led walks a visit up to a step, and does what is left to do there.
func led(p *browser.Page, tag string, sides int, means, until string, then func() error) error {
	l := journey.Led{Page: p, Sides: sides, Means: means, Soil: "Grease"}
	return steps(
		func() error { return unit(p, tag, "Why this rate") }, func() error { return p.Click("Start the visit") },
		func() error { return p.WaitText("step by step") }, func() error { return l.Until(until) },
		func() error {
			if then == nil {
				return nil
			}
			return then()
		},
	)
}

func run(ctx context.Context, folder string, only []string) error {
	cluster, end, err := pgtest.StartCluster(ctx)
	if err != nil {
		return err
	}
	defer end()
	if err := store.Migrate(ctx, cluster); err != nil {
		return err
	}
	if err := demo.Fill(cluster); err != nil {
		return err
	}
	a, err := app.Start(ctx, cluster)
	if err != nil {
		return err
	}
	defer a.Close()
	b, err := browser.Start(ctx)
	if err != nil {
		return err
	}
	defer b.Close()
	for _, v := range views {
		name, extra := strings.CutPrefix(v.name, "+")
		if (len(only) == 0 && extra) || (len(only) > 0 && !slices.Contains(only, name)) {
			continue
		}
		if err := take(b, a.URL, v, filepath.Join(folder, strings.TrimPrefix(name, "story-")+".png")); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
	}
	return nil
}

func take(b *browser.Browser, url string, v view, file string) error {
	width, height := int64(1280), int64(800)
	if v.phone {
		width, height = 390, 844
	}
	p, done, err := b.Open(url, width, height, v.phone)
	if err != nil {
		return err
	}
	defer done()
	err = steps(
		func() error { return p.SignIn(demo.SignIns[0].Login, demo.Password) }, func() error { return p.Go("/") },
		func() error { return p.WaitText("Came back from the field") }, func() error { return v.show(p) },
	)
	if err != nil {
		return err
	}
	png, err := p.Picture()
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644) //nolint:gosec // a picture for everyone
}
