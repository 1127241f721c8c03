package service

import (
	"fmt"
	"math"
	"strconv"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
)

// sentences turn the reasons of the core into words. They stand in one place, so that the page, the interface
// and the printed sheet never disagree.
var sentences = map[string]func(n reason.Numbers, s reason.Names) string{
	"habit": func(n reason.Numbers, _ reason.Names) string {
		if n["factor"] == 1 {
			return fmt.Sprintf("Class interval %s; no site factor at work.", days(n["class_days"]))
		}
		return fmt.Sprintf("Class interval %s ÷ site factor %s = %s.", days(n["class_days"]), number(n["factor"]), days(n["days"]))
	},
	"staircase_up": func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" Twice running below %s: %s × 1.25 = %s.", s["limit_grade"], days(n["days_run"]), stepped(n, 1.25))
	},
	"staircase_keep_single": func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + " A single light finding: keep " + days(n["in_force"]) + "."
	},
	"staircase_keep_at_limit": func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" That is the grade of the limit (%s): keep %s.", percent(n["limit_share"]), days(n["days"]))
	},
	"staircase_down": func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" One grade over the limit: %s × 0.67 = %s.", days(n["days_run"]), stepped(n, .67))
	},
	"staircase_down_double": func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" Two or more grades over the limit: %s × 0.5 = %s.", days(n["days_run"]), stepped(n, .5))
	},
	"staircase_no_dated_clean": func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s: found %s, but no dated clean came before it: no step, keep %s.", side(s), s["found"], days(n["in_force"]))
	},
	"rail_class_max": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At most the class maximum, %s.", days(n["days"]))
	},
	"rail_longest_stretch": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At most 1.5 × the longest interval really run (%s) = %s.", days(n["longest"]), days(n["days"]))
	},
	"rail_no_finding": func(reason.Numbers, reason.Names) string {
		return "Not lengthened: nothing was found yet."
	},
	"rail_one_finding": func(reason.Numbers, reason.Names) string {
		return "Not lengthened on a single finding."
	},
	"rail_core_unseen": func(reason.Numbers, reason.Names) string {
		return "Not lengthened: nobody has looked through the core with light at the last two visits."
	},
	"rail_one_week": func(reason.Numbers, reason.Names) string {
		return "At least one week."
	},
	"no_change": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Less than a week from what is in force: keep %s.", days(n["days"]))
	},
	"start_rate": func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Assumed rate %s load in 30 days: %s, 30 %% blocked after %s if never cleaned, × site factor %s.",
			number(n["rate"]), s["class"], days(n["reference_days"]), number(n["factor"]))
	},
	"leading_factor": func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Largest factor: %s ×%s.", s["factor"], number(n["multiplier"]))
	},
	"penetration": func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s: %s of it goes into the core, assumed.", s["soil"], percent(n["penetration"]))
	},
	"start_exact": func(reason.Numbers, reason.Names) string {
		return "Starts bare at commissioning or a documented clean."
	},
	"start_about": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Starts at a clean known only roughly: up to %s of doubt.", days(n["doubt_days"]))
	},
	"start_unknown": func(reason.Numbers, reason.Names) string {
		return "No dated clean known: the first finding sets the state."
	},
	"first_finding": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("State taken from the first finding, %s.", soil.Grade(int(n["grade"])))
	},
	"core_unseen": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Core likely %s blocked, by assumed penetration; nobody has seen it. Look with light at the next visit.",
			percent(n["core_blocked_share"]))
	},
	"whole_site": func(n reason.Numbers, _ reason.Names) string {
		return late(n) + "The whole site fits."
	},
	"part_of_site": func(n reason.Numbers, _ reason.Names) string {
		return late(n) + fmt.Sprintf("More than a day's work here: %.0f of %.0f jobs, earliest due first.", n["jobs"], n["of"])
	},
	"no_room_left": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Needs %s and a stop; %s of the day are left.", minutes(n["minutes"]), minutes(n["left"]))
	},
	"site_too_large": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("The rest of a site that is more than a day's work: %s.", minutes(n["minutes"]))
	},
	"due": func(n reason.Numbers, s reason.Names) string {
		switch {
		case n["days_late"] > 0:
			return fmt.Sprintf("%s late: every %s, last on %s.", days(n["days_late"]), days(n["every_days"]), dated(s["last"]))
		case n["days_late"] == 0:
			return fmt.Sprintf("Due that day: every %s, last on %s.", days(n["every_days"]), dated(s["last"]))
		}
		return fmt.Sprintf("Due within %s: every %s, last on %s.", days(-n["days_late"]), days(n["every_days"]), dated(s["last"]))
	},
	"due_about": func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Every %s, last about %s.", days(n["every_days"]), dated(s["last"]))
	},
	"first_look": func(reason.Numbers, reason.Names) string {
		return "No clean known: first in line for a look."
	},
	"side_due": func(_ reason.Numbers, s reason.Names) string {
		return s["side"] + " was not reached last time."
	},
	"over_limit": func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Expected %s blocked, over the limit of %s.", percent(n["blocked_share"]), percent(n["limit_share"]))
	},
	"covers_light": func(reason.Numbers, reason.Names) string {
		return "The deep clean covers the light one."
	},
}

// dated writes a day the way the screens do.
func dated(day string) string {
	d, err := calendar.Parse(day)
	if err != nil {
		return day
	}
	return d.Time().Format("2 Jan 2006")
}

func side(s reason.Names) string { return upperFirst(s["side"]) }

func found(n reason.Numbers, s reason.Names) string {
	return fmt.Sprintf("%s: found %s after %s.", side(s), s["found"], days(n["days_run"]))
}

// stepped shows the step's own product and, where the interval in force stands instead, says so.
func stepped(n reason.Numbers, step float64) string {
	product := n["days_run"] * step
	if math.Abs(product-n["days"]) < 1e-9 {
		return days(product)
	}
	return days(product) + "; keep " + days(n["days"])
}

func late(n reason.Numbers) string {
	if n["days_late"] <= 0 {
		return ""
	}
	return fmt.Sprintf("Earliest job %s late. ", days(n["days_late"]))
}

// days is a number of days, short.
func days(d float64) string { return strconv.FormatFloat(math.Round(d*10)/10, 'f', -1, 64) + " d" }

// number is a rate or factor with three figures.
func number(v float64) string {
	if math.Abs(v) >= 1000 {
		return fmt.Sprintf("%.0f", v)
	}
	return fmt.Sprintf("%.3g", v)
}

func percent(v float64) string { return fmt.Sprintf("%.0f %%", 100*v) }

// minutes is a duration in hours and minutes.
func minutes(m float64) string {
	total := int(math.Round(m))
	if total < 60 {
		return fmt.Sprintf("%d min", total)
	}
	return fmt.Sprintf("%d h %02d min", total/60, total%60)
}

// words turns reasons into sentences for the reader; a code without a sentence shows itself.
func words(in []reason.Reason) []contract.Reason {
	out := make([]contract.Reason, 0, len(in))
	for _, r := range in {
		out = append(out, word(r))
	}
	return out
}

func word(r reason.Reason) contract.Reason {
	c := contract.Reason{Code: r.Code, Text: r.Code}
	if say, ok := sentences[r.Code]; ok {
		c.Text = say(r.Numbers, r.Names)
	}
	if r.Evidence != "" {
		c.Evidence = ptr(contract.Evidence(r.Evidence))
	}
	return c
}
