// Command screenshots takes one picture of each main view from the sample data.
package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"nextround/e2e/app"
	"nextround/e2e/browser"
	"nextround/internal/demo"
	"nextround/internal/pg/pgtest"
	"nextround/internal/store"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: screenshots FOLDER")
		os.Exit(2)
	}
	if err := run(context.Background(), os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "screenshots:", err)
		os.Exit(1)
	}
}

// view is a picture: how to get there once signed in, and what must show before it is taken.
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
		func() error { return p.Go("/portfolio") }, func() error { return p.Click(tag) }, func() error { return p.WaitText(wait) },
	)
}

var views = []view{
	{"next-round", false, func(p *browser.Page) error { return p.WaitText("Waiting for you") }},
	{"portfolio", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/portfolio") }, func() error { return p.WaitText("Ice machine") })
	}},
	{"unit", false, func(p *browser.Page) error { return unit(p, "FA-IM-2", "Why this rate") }},
	{"visit", false, func(p *browser.Page) error {
		return steps(func() error { return unit(p, "FA-IM-2", "Why this rate") }, func() error { return p.Click("Record a visit") },
			func() error { return p.WaitText("Before anything is opened") })
	}},
	{"visit-phone", true, func(p *browser.Page) error {
		return steps(func() error { return unit(p, "FA-IM-2", "Why this rate") }, func() error { return p.Click("Record a visit") },
			func() error { return p.WaitText("Before anything is opened") }, func() error { return p.Check("Reached", 0) },
			func() error { return p.Check("3 Felt", 0) })
	}},
	{"visits", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/visits") }, func() error { return p.WaitText("The newest") })
	}},
	{"import", false, func(p *browser.Page) error {
		file := filepath.Join(os.TempDir(), "nextround-example.csv")
		text := "site,placement,tag,class,coil role,last clean\nHarbour Office,Yard,HO-CU-1,Outdoor unit,condenser,2025-09-14\n" +
			"Harbour Office,Yard,HO-CU-2,Outdoor condensing unit,evaporator,14.09.2025\n"
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			return err
		}
		defer func() { _ = os.Remove(file) }()
		return steps(func() error { return p.Go("/portfolio/import") }, func() error { return p.WaitText("One row per coil") },
			func() error { return p.Upload(file) }, func() error { return p.WaitText("What is wrong") })
	}},
	{"round", false, func(p *browser.Page) error {
		return steps(func() error { return p.Go("/") }, func() error { return p.Click("Publish round") },
			func() error { return p.WaitText("Print sheets") })
	}},
}

func run(ctx context.Context, folder string) error {
	cluster, end, err := pgtest.StartCluster(ctx)
	if err != nil {
		return err
	}
	defer end()
	if err := store.Migrate(ctx, cluster); err != nil {
		return err
	}
	a, err := app.Start(ctx, cluster, true)
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
		if err := take(b, a.URL, v, filepath.Join(folder, v.name+".png")); err != nil {
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
		func() error { return p.Go("/sign-in") }, func() error { return p.Fill("Login", demo.SignIns[0].Login, 0) },
		func() error { return p.Fill("Password", demo.Password, 0) }, func() error { return p.Click("Sign in") },
		func() error { return p.WaitText("Sign out") }, func() error { return v.show(p) },
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
