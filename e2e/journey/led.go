// Package journey walks through long screens as a person would, for tests and pictures alike.
package journey

import (
	"fmt"
	"strings"

	"nextround/e2e/browser"
)

// Led is a visit that is led step by step.
type Led struct {
	Page *browser.Page
	// Sides is how many sides the unit has; Missed are those that are not reached, by number.
	Sides  int
	Missed map[int]string
	// Means of isolation: Breaker, Disconnect or Plug.
	Means string
	// Hand leaves the gauge set alone and types readings.
	Hand bool
	// Soil found on every side.
	Soil string
	// Dwell is what to do in place of starting and ending the clock at once.
	Dwell func() error
}

func all(steps ...func() error) error {
	for _, s := range steps {
		if err := s(); err != nil {
			return err
		}
	}
	return nil
}

// At is the step that is open.
func (l Led) At() (code string, err error) {
	err = l.Page.Eval(`document.querySelector('li.now')?.id.replace('step-', '') ?? ''`, &code)
	return code, err
}

// Until does one step after another until a step is open; an empty one goes to the end.
func (l Led) Until(step string) error {
	last := ""
	for range 120 {
		open := fmt.Sprintf(`(document.querySelector('li.now')?.id ?? 'none') !== 'step-%s'`, last)
		if last == "" {
			open = `!!document.querySelector('li.now')`
		}
		if err := l.Page.Wait("a step to open", open); err != nil {
			return err
		}
		code, err := l.At()
		if err != nil || code == step {
			return err
		}
		if code == "" {
			return fmt.Errorf("the visit came to its end before %s", step)
		}
		if err := l.Do(code); err != nil {
			return fmt.Errorf("%s: %w", code, err)
		}
		if err := l.done(code); err != nil {
			return fmt.Errorf("%s: %w", code, err)
		}
		last = code
	}
	return fmt.Errorf("%s did not come", step)
}

// done ticks a step, unless its record has ticked it.
func (l Led) done(code string) error {
	if ticksItself[code] {
		return l.Page.Wait(code+" to tick itself", fmt.Sprintf(`document.querySelector('#step-%s')?.classList.contains('done')`, code))
	}
	if code == "isolate" || code == "prove_dead" { // by their last tap or by Done, as the register knew the point or not
		return l.Page.Wait(code+" to be ticked", fmt.Sprintf(`(li => {
			if (li.classList.contains('done')) return true
			const b = [...li.querySelectorAll('button')].find(b => b.innerText === 'Done' && !b.disabled)
			b?.click()
			return false
		})(document.querySelector('#step-%s'))`, code))
	}
	return l.Page.Click("Done")
}

// ticksItself are the steps whose last tap completes their record.
var ticksItself = map[string]bool{"lock_tag": true, "discharge": true, "opened_look": true, "advice": true, "as_left": true, "rinse_end": true}

// Do fills in what a step asks for, but for its tick.
func (l Led) Do(code string) error {
	p := l.Page
	switch code {
	case "readings_before", "readings_after":
		return l.readings()
	case "isolate":
		if l.Means == "Plug" {
			return p.Check("Pulled, in my hand or in sight", 0)
		}
		return all(func() error { return p.Fill("Which point", "breaker 4", 0) }, func() error { return p.Check(l.Means, 0) })
	case "lock_tag":
		return p.Check("Both", 0)
	case "discharge":
		return p.Check("Discharged", 0)
	case "prove_dead":
		if l.Means == "Plug" {
			return nil
		}
		return all(func() error { return p.Fill("L1 to L2", "0", 0) }, func() error { return p.Fill("L1 to ground", "0", 0) },
			func() error { return p.Fill("L2 to ground", "0", 0) }, func() error { return p.Check("Yes, both times", 0) })
	case "first_look":
		for i := range l.Sides {
			if err := l.reach(i); err != nil {
				return err
			}
		}
		return l.paint("1 Film")
	case "opened_look":
		return all(func() error { return l.paint("3 Felt") }, l.soils, l.seen)
	case "advice":
		return p.Click("Choose")
	case "apply_cleaner":
		if l.Dwell != nil {
			return l.Dwell()
		}
		return l.dwell()
	case "rinse_end":
		return all(func() error { return p.Check("Run-off clear", 0) }, func() error { return p.Check("Light through, everywhere reached", 0) })
	case "wheel":
		return p.Check("2 Coat", 0)
	case "as_left":
		var alike bool // sides found alike are graded as one
		if err := p.Eval(`document.querySelector('li.now').innerText.includes('were found alike')`, &alike); err != nil {
			return err
		}
		if alike {
			l.Sides, l.Missed = 1, nil
		}
		return all(func() error { return l.paint("0 Bare") }, l.seen)
	case "tell_site":
		return p.Fill("Who was told", "the desk", 0)
	}
	return nil
}

func (l Led) reach(i int) error {
	if why, missed := l.Missed[i]; missed {
		return all(func() error { return l.Page.Check("Not reached", i) }, func() error { return l.Page.Fill("Why not", why, 0) })
	}
	return l.Page.Check("Reached", i)
}

// paint maps every side that is reached with one grade.
func (l Led) paint(grade string) error {
	for i := range l.Sides - len(l.Missed) {
		if err := l.Page.Check(grade, i); err != nil {
			return err
		}
	}
	return nil
}

// seen says of every side that is reached that light came through it.
func (l Led) seen() error {
	for i := range l.Sides - len(l.Missed) {
		if err := l.Page.Check("light through", i); err != nil {
			return err
		}
	}
	return nil
}

func (l Led) soils() error {
	if l.Soil == "" {
		return nil
	}
	var names []string
	if err := l.Page.Eval(`[...document.querySelectorAll('li.now [role=combobox]')].map(e => e.getAttribute('aria-label'))`, &names); err != nil {
		return err
	}
	for _, name := range names {
		if strings.HasSuffix(name, ": soil") {
			if err := all(func() error { return l.Page.Choose(name, l.Soil, 0) }, func() error { return l.Page.Press("Escape") }); err != nil {
				return err
			}
		}
	}
	return nil
}

func (l Led) readings() error {
	p := l.Page
	if !l.Hand {
		return all(func() error { return p.Click("Ask the gauge set") }, func() error { return p.Click("Use the trusted ones") }, l.causes)
	}
	return all(func() error { return p.Choose("Reading", "Ambient", 0) }, func() error { return p.Fill("Value", "20", 0) },
		func() error { return p.Click("Add the reading") })
}

// causes says of every reading out of limits what is behind it.
func (l Led) causes() error {
	if err := l.Page.Wait("the readings to be judged", `document.querySelectorAll('li.now table strong').length > 2`); err != nil {
		return err
	}
	var n int
	if err := l.Page.Eval(`[...document.querySelectorAll('li.now .label')].filter(e => e.innerText === 'What is the cause').length`, &n); err != nil {
		return err
	}
	for i := range n {
		if err := l.Page.Fill("What is the cause", "soiled coil", i); err != nil {
			return err
		}
	}
	return nil
}

func (l Led) dwell() error {
	var n int
	if err := l.Page.Eval(`document.querySelectorAll('li.now .timer').length`, &n); err != nil {
		return err
	}
	for range n {
		if err := all(func() error { return l.Page.Click("Sprayed: start the clock") }, func() error { return l.Page.Click("Rinsing begins") },
			func() error { return l.Page.Fill("It stood less than its minimum: why", "rain set in", 0) }); err != nil {
			return err
		}
	}
	return nil
}
