package proof

import (
	"encoding/json"
	"fmt"
	"image/color"
	"io"
	"os"
	"path/filepath"
	"strings"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
)

// Names of the files of a report.
const (
	reportName  = "report.md"
	costPicture = "costs.svg"
	gainPicture = "gains.svg"
	dataName    = "results.json"
)

// Write puts the report with its pictures and the figures behind them into a folder.
func Write(folder string, all []Result) error {
	if err := os.MkdirAll(folder, 0o755); err != nil { //nolint:gosec // a report is to be read
		return err
	}
	data, err := json.MarshalIndent(struct {
		Verdict Verdict  `json:"verdict"`
		Results []Result `json:"results"`
	}{Judge(all), all}, "", " ")
	if err != nil {
		return err
	}
	var text strings.Builder
	writeReport(&text, all)
	for name, content := range map[string][]byte{reportName: []byte(text.String()), dataName: append(data, '\n')} {
		if err := os.WriteFile(filepath.Join(folder, name), content, 0o644); err != nil { //nolint:gosec // a report is to be read
			return err
		}
	}
	if err := drawCosts(filepath.Join(folder, costPicture), all); err != nil {
		return fmt.Errorf("drawing the costs: %w", err)
	}
	if err := drawGains(filepath.Join(folder, gainPicture), all); err != nil {
		return fmt.Errorf("drawing the gains: %w", err)
	}
	return nil
}

func met(ok bool) string {
	if ok {
		return "met"
	}
	return "**missed**"
}

func writeReport(w io.Writer, all []Result) {
	v := Judge(all)
	fmt.Fprintf(w, "# What the learned intervals bring\n\nWritten by `nextround simulate`. Invented portfolios with known true rates are run for years under six ways of setting\nintervals. Cost = cleaning + energy and call-outs + the price of days over the limit. Everything is in the money of\nthe scenarios, summed over all units and years, mean over %d seeds.\n\n", len(all[0].Runs[Habit]))
	for _, way := range Ways {
		fmt.Fprintf(w, "- (%s) %s\n", way.Way, way.About)
	}
	fmt.Fprintf(w, "\n## Against the goals\n\n| goal | figure | |\n|---|---|---|\n")
	fmt.Fprintf(w, "| (d) brings at least %.0f %% of what (f) gains over (a), averaged | %.0f %% | %s |\n", 100*GoalGained, 100*v.Gained, met(v.Gained >= GoalGained))
	fmt.Fprintf(w, "| (d) costs less than (b), averaged | %+.1f %% | %s |\n", 100*v.AgainstCategory, met(v.AgainstCategory < 0))
	fmt.Fprintf(w, "| (d) is nowhere more than %.0f %% above (a) | %+.1f %% (%s) | %s |\n", 100*GoalWorst, 100*v.Worst, v.WorstIn, met(v.Worst <= GoalWorst))
	fmt.Fprintf(w, "\n![Cost of each way, by scenario](%s)\n\n![Share of the possible gain](%s)\n", costPicture, gainPicture)
	fmt.Fprintf(w, "\n## The scenarios\n\nIn those marked *another world* the soil follows other laws than the model that learns assumes. No constant was fitted to any of them.\n")
	for _, r := range all {
		other := ""
		if r.Scenario.Different {
			other = " *Another world.*"
		}
		fmt.Fprintf(w, "\n### %s\n\n%s%s %d units at %d sites, %d years.\n\n", r.Scenario.Name, r.Scenario.About, other, r.Scenario.Sites*r.Scenario.PerSite, r.Scenario.Sites, r.Scenario.Years)
		fmt.Fprintf(w, "| way | total | spread (sd) | cleaning | energy, call-outs | over the limit | days over | cleans | against (a) | of (f)'s gain |\n|---|---|---|---|---|---|---|---|---|---|\n")
		for _, way := range Ways {
			m, spread := r.Mean(way.Way)
			fmt.Fprintf(w, "| %s | %.0f | %.0f | %.0f | %.0f | %.0f | %.0f | %d | %+.1f %% | %.0f %% |\n", way.Way, m.Total(), spread, m.Cleaning, m.Soil, m.Over, m.OverDays, m.Cleans, 100*r.Against(way.Way, Habit), 100*r.Gained(way.Way))
		}
	}
	fmt.Fprintf(w, "\n## Where it is weak\n\n")
	weak := 0
	for _, r := range all {
		if r.Gained(Proposals) < GoalGained {
			weak++
			habit, _ := r.Mean(Habit)
			mine, _ := r.Mean(Proposals)
			best, _ := r.Mean(Known)
			fmt.Fprintf(w, "- **%s**: %.0f %% of the possible gain. There is %.1f %% to gain over the habit in all; the proposals cleaned %d times against %d, at %.0f over the limit against %.0f.\n",
				r.Scenario.Name, 100*r.Gained(Proposals), 100*(1-best.Total()/habit.Total()), mine.Cleans, best.Cleans, mine.Over, best.Over)
		}
	}
	if weak == 0 {
		fmt.Fprintf(w, "No scenario is below the goal by itself.\n")
	}
}

// Colours of the six ways, sand to petrol, told apart without colour by their letters.
var wayColours = []color.Color{
	color.RGBA{0xd9, 0xc7, 0x9f, 0xff},
	color.RGBA{0xc2, 0xa7, 0x74, 0xff},
	color.RGBA{0x9b, 0x7e, 0x52, 0xff},
	color.RGBA{0x0e, 0x5a, 0x66, 0xff},
	color.RGBA{0x4d, 0x8a, 0x93, 0xff},
	color.RGBA{0x5b, 0x55, 0x4a, 0xff},
}

func chart(title, axis string, names []string) *plot.Plot {
	p := plot.New()
	p.Title.Text, p.Y.Label.Text = title, axis
	p.Legend.Top = true
	p.NominalX(names...)
	p.X.Tick.Label.Rotation = .4
	p.X.Tick.Label.XAlign, p.X.Tick.Label.YAlign = -1, -.5
	return p
}

func scenarioNames(all []Result) []string {
	out := make([]string, len(all))
	for i, r := range all {
		out[i] = r.Scenario.Name
	}
	return out
}

const (
	barWidth = 12
	wide     = 30
	high     = 14
)

func drawCosts(path string, all []Result) error {
	p := chart("Cost against the habit", "share of the cost under (a)", scenarioNames(all))
	for i, way := range Ways {
		values := make(plotter.Values, len(all))
		for k, r := range all {
			values[k] = 1 + r.Against(way.Way, Habit)
		}
		bars, err := plotter.NewBarChart(values, vg.Points(barWidth))
		if err != nil {
			return err
		}
		bars.Color, bars.LineStyle.Width = wayColours[i], 0
		bars.Offset = vg.Points(barWidth * (float64(i) - 2.5))
		p.Add(bars)
		p.Legend.Add(fmt.Sprintf("(%s) %s", way.Way, way.About), bars)
	}
	p.Y.Min, p.Y.Max = 0, 2.6
	return p.Save(wide*vg.Centimeter, high*vg.Centimeter, path)
}

func drawGains(path string, all []Result) error {
	p := chart("What the proposals bring", "share of (f)'s gain over (a)", scenarioNames(all))
	for i, way := range []Way{Proposals, Ladder} {
		values := make(plotter.Values, len(all))
		for k, r := range all {
			values[k] = max(-.5, min(1.5, r.Gained(way)))
		}
		bars, err := plotter.NewBarChart(values, vg.Points(2*barWidth))
		if err != nil {
			return err
		}
		bars.Color, bars.LineStyle.Width = wayColours[3+i], 0
		bars.Offset = vg.Points(2 * barWidth * (float64(i) - .5))
		p.Add(bars)
		p.Legend.Add(fmt.Sprintf("(%s), cut at 150 %%", way), bars)
	}
	goal, err := plotter.NewLine(plotter.XYs{{X: -.5, Y: GoalGained}, {X: float64(len(all)) - .5, Y: GoalGained}})
	if err != nil {
		return err
	}
	goal.Color, goal.Dashes = color.RGBA{0xb3, 0x26, 0x1e, 0xff}, []vg.Length{vg.Points(5), vg.Points(4)}
	p.Add(goal)
	p.Legend.Add("goal for the average of (d)", goal)
	p.Y.Min, p.Y.Max = 0, 2
	return p.Save(wide*vg.Centimeter, high*vg.Centimeter, path)
}
