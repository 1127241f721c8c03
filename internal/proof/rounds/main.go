// Command rounds measures the planner on the instances of core/round/instance: the plan by hand, the first plan, and the
// cost as it falls while the search goes on. It writes a table to standard output and the course of the cost as a picture.
//
//	go run ./internal/proof/rounds docs/planning/cost.svg
package main

import (
	"fmt"
	"math"
	"os"
	"runtime"
	"strings"
	"time"

	"nextround/core/round"
	"nextround/core/round/instance"
)

// course is how the cost of a plan fell.
type course struct {
	name          string
	greedy, bound float64
	seconds, cost []float64
}

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: rounds PICTURE.svg")
		os.Exit(2)
	}
	if err := run(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "rounds:", err)
		os.Exit(1)
	}
}

func run(picture string) error {
	var all []course
	fmt.Println("| jobs, crews | by hand | first plan | at 10 s | at 30 s | at 60 s | cheaper at 30 s | bound | gap | memory |")
	fmt.Println("|---|---|---|---|---|---|---|---|---|---|")
	for _, c := range []struct {
		size  instance.Size
		until time.Duration
	}{{instance.Small, 30 * time.Second}, {instance.Town, 30 * time.Second}, {instance.Large, 60 * time.Second}} {
		one, err := measure(c.size, c.until)
		if err != nil {
			return err
		}
		all = append(all, one)
	}
	return os.WriteFile(picture, []byte(draw(all)), 0o644) //nolint:gosec // a picture for everybody
}

func measure(size instance.Size, until time.Duration) (course, error) {
	p := instance.Portfolio(size)
	out := course{name: fmt.Sprintf("%d jobs, %d crews", size.Jobs, size.Crews)}
	began := time.Now()
	greedy, err := round.Greedy(p)
	if err != nil {
		return out, err
	}
	byHand := time.Since(began)
	began = time.Now()
	first, err := round.First(p)
	if err != nil {
		return out, err
	}
	firstTook := time.Since(began)
	out.greedy = greedy.Cost.Total
	began = time.Now()
	plan, err := round.Make(p, round.Search{
		Seed: 1, Workers: min(2, runtime.NumCPU()), Spent: func() float64 { return time.Since(began).Seconds() / until.Seconds() },
		Report: func(x round.Progress) {
			out.seconds, out.cost = append(out.seconds, time.Since(began).Seconds()), append(out.cost, x.Cost)
		},
	})
	if err != nil {
		return out, err
	}
	if broken := round.Verify(p, plan); len(broken) > 0 {
		return out, fmt.Errorf("%s: the checker finds %v", out.name, broken)
	}
	out.bound = plan.Bound
	var memory runtime.MemStats
	runtime.ReadMemStats(&memory)
	at := func(s float64) string {
		best := math.NaN()
		for i, t := range out.seconds {
			if t <= s {
				best = out.cost[i]
			}
		}
		if math.IsNaN(best) || s > until.Seconds()+1 {
			return ""
		}
		return fmt.Sprintf("%.0f", best)
	}
	at30 := plan.Cost.Total
	for i, t := range out.seconds {
		if t <= 30 {
			at30 = out.cost[i]
		}
	}
	fmt.Printf("| %s | %.0f in %.2f s | %.0f in %.2f s | %s | %s | %s | %.0f %% | %.0f | %.0f %% | %d MB |\n", out.name, greedy.Cost.Total, byHand.Seconds(),
		first.Cost.Total, firstTook.Seconds(), at(10), at(30), at(60.5), 100*(1-at30/greedy.Cost.Total), plan.Bound, 100*plan.Gap, memory.Sys>>20)
	return out, nil
}

// draw is the cost as a share of that by hand, against time.
func draw(all []course) string {
	const width, height, left, bottom = 720.0, 360.0, 60.0, 44.0
	x := func(s float64) float64 { return left + (width-left-150)*math.Min(s, 60)/60 }
	y := func(share float64) float64 { return (height - bottom) * (1 - share) }
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 -16 %.0f %.0f" font-family="sans-serif" font-size="13" fill="#1d2a2f">`+"\n", width, height+16)
	fmt.Fprintf(&b, `<rect x="0" y="-16" width="%.0f" height="%.0f" fill="#f8f6f1"/>`+"\n", width, height+16)
	for _, share := range []float64{0, .25, .5, .75, 1} {
		fmt.Fprintf(&b, `<path d="M%.1f %.1fH%.1f" stroke="#ddd7ca"/><text x="%.1f" y="%.1f" text-anchor="end">%.0f %%</text>`+"\n", left, y(share), x(60), left-6, y(share)+4, 100*share)
	}
	for _, s := range []float64{0, 10, 20, 30, 40, 50, 60} {
		fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" text-anchor="middle">%.0f s</text>`+"\n", x(s), height-bottom+20, s)
	}
	fmt.Fprintf(&b, `<text x="%.1f" y="%.1f">cost of the plan, of that by due date; dashed: no plan can be below</text>`+"\n", left, height-6)
	for n, c := range all {
		colour := []string{"#0d5c6b", "#936c3c", "#1d2a2f"}[n%3]
		path := ""
		for i, s := range c.seconds {
			to := "L"
			if i == 0 {
				to = "M"
			}
			path += fmt.Sprintf("%s%.1f %.1f", to, x(s), y(c.cost[i]/c.greedy))
		}
		last := len(c.cost) - 1
		if last < 0 {
			continue
		}
		fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="%s" stroke-width="2"/>`+"\n", path, colour)
		fmt.Fprintf(&b, `<path d="M%.1f %.1fH%.1f" stroke="%s" stroke-dasharray="3 4"/>`+"\n", left, y(c.bound/c.greedy), x(c.seconds[last]), colour)
		fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" fill="%s">%s</text>`+"\n", x(60)+8, y(c.cost[last]/c.greedy)+4+14*float64(n-1), colour, c.name)
	}
	b.WriteString("</svg>\n")
	return b.String()
}
