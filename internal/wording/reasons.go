package wording

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/reason"
	"nextround/core/soil"
)

// sentences turn the reasons of the core into words. They stand in one place, so that the page, the interface
// and the printed sheet never disagree.
var sentences = map[reason.Code]func(n reason.Numbers, s reason.Names) string{
	reason.Habit: func(n reason.Numbers, _ reason.Names) string {
		if n["factor"] == 1 {
			return fmt.Sprintf("Class interval %s; no site factor applies.", Days(n["class_days"]))
		}
		return fmt.Sprintf("Class interval %s ÷ site factor %s = %s.", Days(n["class_days"]), number(n["factor"]), Days(n["days"]))
	},
	reason.StaircaseUp: func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" Twice in a row below %s: %s × 1.25 = %s.", s["limit_grade"], Days(n["days_run"]), stepped(n, 1.25))
	},
	reason.StaircaseKeepSingle: func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + " Only one light finding: keep " + Days(n["in_force"]) + "."
	},
	reason.StaircaseKeepAtLimit: func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" That is the grade of the limit (%s): keep %s.", percent(n["limit_share"]), Days(n["days"]))
	},
	reason.StaircaseDown: func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" One grade over the limit: %s × 0.67 = %s.", Days(n["days_run"]), stepped(n, .67))
	},
	reason.StaircaseDownDouble: func(n reason.Numbers, s reason.Names) string {
		return found(n, s) + fmt.Sprintf(" Two or more grades over the limit: %s × 0.5 = %s.", Days(n["days_run"]), stepped(n, .5))
	},
	reason.StaircaseNoDatedClean: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s: found %s, but no dated clean came before it: no step, keep %s.", side(s), s["found"], Days(n["in_force"]))
	},
	reason.RailClassMax: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At most the class maximum, %s.", Days(n["days"]))
	},
	reason.CapsContradict: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Two bounds contradict each other: at most %s a year with a strong alkaline cleaner (%s apart), but at most %s between two cleans. The shorter holds: choose a plan without that cleaner, or change a bound.",
			number(n["times"])+" cleans", Days(math.Ceil(n["least"])), Days(n["most"]))
	},
	reason.NothingBeats: func(reason.Numbers, reason.Names) string {
		return "No other work plan or interval surely costs less over the next three years: nothing changes."
	},
	reason.ProgramInterval: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Of all work plans and intervals this way of cleaning costs least over the next three years, every %s.", Days(n["days"]))
	},
	reason.PartOfProgram: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Keep %s: another work plan for the deep clean is proposed, and the light clean is part of that decision.", Days(n["days"]))
	},
	reason.RailFoundOver: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Not lengthened: the newest finding, opened up, was over the limit (%s). At most %s.",
			strings.ToLower(soil.Grade(int(n["grade"])).String()), Days(n["days"]))
	},
	reason.RailHalfBlocked: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At most %s: beyond that it is more than %s blocked with a probability of over %s.", Days(n["days"]), percent(n["share"]), percent(n["risk"]))
	},
	reason.RailLongestStretch: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At most 1.5 × the longest interval actually run (%s) = %s.", Days(n["longest"]), Days(n["days"]))
	},
	reason.RailNoFinding: func(reason.Numbers, reason.Names) string {
		return "Not lengthened: nothing was found yet."
	},
	reason.RailOneFinding: func(reason.Numbers, reason.Names) string {
		return "Not lengthened on a single finding."
	},
	reason.RailCoreUnseen: func(reason.Numbers, reason.Names) string {
		return "Not lengthened: nobody has looked through the core with light at the last two visits."
	},
	reason.RailOneWeek: func(reason.Numbers, reason.Names) string {
		return "At least one week."
	},
	reason.Limit: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Within %s the risk of passing %s stays at most %s.", Days(math.Floor(n["days"])), percent(n["limit_share"]), percent(n["risk"]))
	},
	reason.LimitPast: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Right after the usual clean it is still over %s with a probability of %s: no interval keeps it within the limit.", percent(n["limit_share"]), percent(n["start_over"]))
	},
	reason.NearLeastCost: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("%s costs at most 1 %% more than the cheapest: not worth a change.", Days(n["days"]))
	},
	reason.StartPastLimit: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("This way of cleaning cannot bring it below %s. Choose another work plan; until then it is not lengthened.", percent(n["limit_share"]))
	},
	reason.LimitNotReached: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("The risk of passing %s stays at most %s up to %s, the longest interval examined.", percent(n["limit_share"]), percent(n["risk"]), Days(n["days"]))
	},
	reason.LimitNoEvidence: func(reason.Numbers, reason.Names) string {
		return "No findings yet, neither here nor at its peers. The habit interval is shown."
	},
	reason.Cost: func(n reason.Numbers, _ reason.Names) string {
		return costs(n) + fmt.Sprintf(" From %s to %s it costs at most 1 %% more.", Days(n["from"]), Days(n["to"]))
	},
	reason.CostUnbounded: func(n reason.Numbers, _ reason.Names) string {
		return costs(n) + " It would fall further beyond that: its soil costs little, and the longest interval allowed applies."
	},
	reason.CostHalfBlocked: func(n reason.Numbers, _ reason.Names) string {
		return costs(n) + " A longer interval would be cheaper, but the coil would be half blocked more than one time in five."
	},
	reason.RailSeasonAnchor: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Moved to %s, before the season: %s.", time.Month(int(n["month"])), Days(n["days"]))
	},
	reason.RailCapContract: func(n reason.Numbers, s reason.Names) string { return capped("The contract allows", n, s) },
	reason.RailCapMaker:    func(n reason.Numbers, s reason.Names) string { return capped("The maker allows", n, s) },
	reason.RailCapHygiene:  func(n reason.Numbers, s reason.Names) string { return capped("Hygiene allows", n, s) },
	reason.RailCapChemistry: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("At most %s strong cleans a year: at least %s apart.%s", number(n["times"]), Days(math.Ceil(n["days"])), noted(s))
	},
	reason.DeepCleanNow: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Probably over %s already (%s): look with light, and plan a deep clean now.", percent(n["limit_share"]), percent(n["probability"]))
	},
	reason.CleanNow: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Probably over %s already (%s): clean now.", percent(n["limit_share"]), percent(n["probability"]))
	},
	reason.ChangeMethod: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("This way of cleaning cannot bring it below %s (%s certain). Choose another method.", percent(n["limit_share"]), percent(n["probability"]))
	},
	reason.RateOwn: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Its own rate, from %s: %s load in 30 days, probably %s to %s; %s times the rate of its class and factors.",
			Count(int(n["findings"]), "finding"), number(n["rate"]), number(n["low"]), number(n["high"]), number(n["times"]))
	},
	reason.Peers: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Held together with %s %s, which soil %s times as fast as assumed: %s of what is common comes from them, the rest from the trade.",
			Count(int(n["members"]), "like side"), where(s), number(n["times"]), percent(n["share"]))
	},
	reason.PeersOnly: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Nothing found at it yet: it has the rate of %s %s, %s times what class and factors say.", Count(int(n["members"]), "like side"), where(s), number(n["times"]))
	},
	reason.EventFinding: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Found %s on %s, where about %s was expected: counted as an event, not as its usual rate.", s["found"], dated(s["day"]), percent(n["expected_share"]))
	},
	reason.Drift: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Its rate has changed: since the finding of %s it soils %s times as fast as before. Only the last %s count.", dated(s["since"]), number(n["times"]), Count(int(n["since_findings"]), "finding"))
	},
	reason.LevelsOff: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Findings level off at about %s blocked (law of Kern and Seaton, 1959): later ones are no heavier.", percent(n["share"]))
	},
	reason.EnergyEntered: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("The clean unit uses %s kWh a day as entered, %s a day at %s a kWh.", number(n["kwh"]), money(n["day"]), number(n["price"]))
	},
	reason.EnergyAssumed: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("No energy entered: %s kWh a day assumed for the class %s, %s a day at %s a kWh.", number(n["kwh"]), s["class"], money(n["day"]), number(n["price"]))
	},
	reason.SoilCost: func(n reason.Numbers, s reason.Names) string {
		what := fmt.Sprintf("condenses %.1f K hotter", n["rise"])
		switch s["side"] {
		case string(heat.Evaporator):
			what = fmt.Sprintf("evaporates %.1f K colder", n["rise"])
		case string(heat.WaterCoil):
			what = fmt.Sprintf("needs water %.1f K further from the air", n["rise"])
		}
		energy := percent(n["factor"]-1) + " more energy"
		if n["fan"] > 1 {
			energy += ", its fan " + percent(n["fan"]-1) + " more"
		}
		return fmt.Sprintf("At %s blocked it passes %s of its air, %s, uses %s (%s a day) and needs %s more call-outs a year. This assumes an even layer; patchy soil costs at least as much.",
			percent(n["blocked"]), percent(n["flow"]), what, energy, money(n["energy"]), number(n["calls"]))
	},
	reason.CapacityLost: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("At %s blocked and full load it cools or heats %s less.", percent(n["blocked"]), percent(n["lost"]))
	},
	reason.Runs: func(n reason.Numbers, _ reason.Names) string {
		var said []string
		if n["hours"] > 0 {
			said = append(said, "soil counts in "+percent(n["hours"])+" of its hours, above the ambient at which the head-pressure control lets go")
		}
		if n["full"] > 0 {
			said = append(said, "its compressor follows the load and runs full in "+percent(n["full"])+" of them")
		}
		if n["running"] > 0 {
			said = append(said, "it runs "+percent(n["running"])+" of the day with a clean coil")
		}
		return UpperFirst(strings.Join(said, "; ")) + "."
	},
	reason.CallsLearned: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Class %s, %s unit-years of complete logs: %s laid to the coil, %s expected. Call-outs are taken × %s.",
			s["class"], number(n["unit_years"]), Count(int(n["seen"]), "call-out"), number(n["expected"]), number(n["times"]))
	},
	reason.CallsUnlogged: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("No complete log of call-outs for the class %s: how often soil causes one is assumed.", s["class"])
	},
	reason.CallsBounded: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Call-outs are counted with %s a year at most: that is what a new unit costs.", money(n["replace"]))
	},
	reason.RiseLearned: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Class %s, %s with readings before and after: soil lifts the condensing temperature %s times as far as taken, probably %s to %s.",
			s["class"], Count(int(n["pairs"]), "clean"), number(n["times"]), number(n["low"]), number(n["high"]))
	},
	reason.QuietLog: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("No call-out in %s of a complete log, where %s were to be expected: %s blocked is likely today, not %s.",
			Days(n["days"]), number(n["expected"]), percent(n["share"]), percent(n["share_before"]))
	},
	reason.SinceFinding: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Found %s on %s.", strings.ToLower(soil.Grade(int(n["grade"])).String()), dated(s["day"]))
	},
	reason.SinceRate: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s: rate %s → %s load in 30 days.", side(s), number(n["was"]), number(n["is"]))
	},
	reason.SinceCalls: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Call-outs by the logs of its class: × %s → × %s.", number(n["was"]), number(n["is"]))
	},
	reason.SinceRise: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("What soil does to the condensing temperature, by the readings of its class: × %s → × %s.", number(n["was"]), number(n["is"]))
	},
	reason.SinceEnergy: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Energy of the clean unit: %s → %s a day.", money(n["was"]), money(n["is"]))
	},
	reason.SinceCallCost: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("A call-out: %s → %s.", money(n["was"]), money(n["is"]))
	},
	reason.SinceCleanCost: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("A clean as last done: %s → %s.", money(n["was"]), money(n["is"]))
	},
	reason.SinceLimit: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Limit: %s → %s blocked.", percent(n["was"]), percent(n["is"]))
	},
	reason.SinceOverPrice: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Price of a day over the limit: %s → %s.", money(n["was"]), money(n["is"]))
	},
	reason.SincePlan: func(reason.Numbers, reason.Names) string { return "It is cleaned another way now." },
	reason.SinceInterval: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Interval in force: %s → %s.", Days(n["was"]), Days(n["is"]))
	},
	reason.Filtered: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Its filter lets through %s times the soil of the class's usual one.", number(n["times"]))
	},
	reason.CleanCost: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("A clean as last done, %s: %s (%s on site, material %s), without travel. It removes %s of the face soil and %s of the core soil.",
			strings.ToLower(s["method"]), money(n["cost"]), minutes(n["minutes"]), money(n["material"]), percent(n["face"]), percent(n["core"]))
	},
	reason.CleanCostAssumed: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Not done here yet: %s assumed, %s (%s on site), without travel. It removes %s of the face soil and %s of the core soil.",
			strings.ToLower(s["method"]), money(n["cost"]), minutes(n["minutes"]), percent(n["face"]), percent(n["core"]))
	},
	reason.NoChange: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Less than a week from the present interval: keep %s.", Days(n["days"]))
	},
	reason.StartRate: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Rate of class and factors: %s load in 30 days (%s: 30 %% blocked after %s if never cleaned, × site factor %s).",
			number(n["rate"]), s["class"], Days(n["reference_days"]), number(n["factor"]))
	},
	reason.LeadingFactor: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Largest factor: %s ×%s.", s["factor"], number(n["multiplier"]))
	},
	reason.Penetration: func(n reason.Numbers, s reason.Names) string {
		if learned := n["learned"]; math.Abs(learned-n["penetration"]) >= .01 {
			return fmt.Sprintf("%s: %s of it is assumed to go into the core, %s by what was found.", s["soil"], percent(n["penetration"]), percent(learned))
		}
		return fmt.Sprintf("%s: %s of it goes into the core, assumed.", s["soil"], percent(n["penetration"]))
	},
	reason.StartExact: func(reason.Numbers, reason.Names) string {
		return "Starts bare at commissioning or a documented clean."
	},
	reason.StartAbout: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Starts at a clean whose date is uncertain by up to %s.", Days(n["doubt_days"]))
	},
	reason.StartUnknown: func(reason.Numbers, reason.Names) string {
		return "No dated clean known: the first finding sets the starting point."
	},
	reason.FirstFinding: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Starting point taken from the first finding, %s.", soil.Grade(int(n["grade"])))
	},
	reason.CoreUnseen: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Nobody has seen the core. It is probably %s blocked (%s to %s). Look through it with a light at the next visit.",
			percent(n["core_blocked_share"]), percent(n["low"]), percent(n["high"]))
	},
	reason.PlanLocked: func(reason.Numbers, reason.Names) string { return "Fixed by hand." },
	reason.PlanPublished: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Stays as published: moving it must gain more than %s.", amount(n["price"]))
	},
	reason.PlanMoved: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Moved from %s's round of %s, which was already published; that counts %s.", s["crew"], dated(s["day"]), amount(n["price"]))
	},
	reason.PlanLate: func(n reason.Numbers, _ reason.Names) string {
		text := fmt.Sprintf("%s past its due date", Days(n["days"]))
		if n["cost"] >= .005 {
			text += fmt.Sprintf(", which costs %s", amount(n["cost"]))
		}
		return text + fmt.Sprintf("; a week more would cost %s.", amount(n["week"]))
	},
	reason.PlanEarly: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("%s early, which wastes %s of its interval.", Days(n["days"]), amount(n["cost"]))
	},
	reason.PlanOnDay: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("On its due date; waiting a week would cost %s.", amount(n["week"]))
	},
	reason.PlanRides: func(n reason.Numbers, s reason.Names) string {
		if n["others"] == 1 {
			return fmt.Sprintf("Rides with %s: a stop of its own would cost %s.", s["with"], amount(n["saves"]))
		}
		return fmt.Sprintf("Rides with %s (and %s): a stop of its own would cost %s.", s["with"], Count(int(n["others"])-1, "other"), amount(n["saves"]))
	},
	reason.PlanTooCold: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("%s before were too cold for wet work outdoors.", Count(int(n["days"]), "day"))
	},
	reason.PlanPeople: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Takes %.0f people.", n["people"])
	},
	reason.PlanWater: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("No water there: takes %.0f L from a tank of %.0f L.", n["litres"], n["tank"])
	},
	reason.PlanWindow: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Between %s and %s; be there by %s at the latest.", s["from"], s["to"], s["latest"])
	},
	reason.Unable: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("No crew brings what it takes: %s.", s["needs"])
	},
	reason.TooFewPeople: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Takes %.0f people; no crew that can do it has so many on any day.", n["people"])
	},
	reason.NoDayClosed: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("On none of %s is the place free for %s without a break.", Count(int(n["days"]), "day"), minutes(n["minutes"]))
	},
	reason.NoDayTooCold: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Too cold for wet work outdoors (%s looked at).", Count(int(n["days"]), "day"))
	},
	reason.NoDayNotBefore: func(reason.Numbers, reason.Names) string { return "Not before its first day." },
	reason.LockBroken: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Fixed to %s on %s, which is no longer possible.", s["crew"], dated(s["day"]))
	},
	reason.NoRoom: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("No crew has %s left with the drive on any of %s.", minutes(n["minutes"]), Count(int(n["days"]), "possible day"))
	},
	reason.CheaperLeft: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Going there would add %s; leaving it for later costs %s.", amount(n["adds"]), amount(n["waits"]))
	},
	reason.GapBroken: func(reason.Numbers, reason.Names) string {
		return "Too close to the clean before or after it of the same task."
	},
	reason.ColdBehind: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s for warmer days, until %s at the latest: %s.", Counted(int(n["jobs"]), "unit outdoors waits", "units outdoors wait"), dated(s["until"]), s["tags"])
	},
	reason.ChangeNew: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("New: %s, %s.", dated(s["to"]), s["is"])
	},
	reason.ChangeOut: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Off the plan; was %s, %s.", dated(s["from"]), s["was"])
	},
	reason.ChangeIn: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Now on the plan: %s, %s.", dated(s["to"]), s["is"])
	},
	reason.ChangeDay: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("From %s (%s) to %s (%s).", dated(s["from"]), s["was"], dated(s["to"]), s["is"])
	},
	reason.ChangeCrew: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s, from %s to %s.", dated(s["to"]), s["was"], s["is"])
	},
	reason.JobMinutes: func(n reason.Numbers, _ reason.Names) string {
		text := fmt.Sprintf("%s: ", minutes(n["minutes"]))
		if n["visits"] > 0 {
			text += fmt.Sprintf("%s by %s to such units", minutes(n["base"]), Count(int(n["visits"]), "visit"))
		} else {
			text += fmt.Sprintf("%s by the class", minutes(n["base"]))
		}
		if n["extra"] > 0 {
			text += fmt.Sprintf(", %s for slabs, ladder or guards", minutes(n["extra"]))
		}
		return text + "."
	},
	reason.JobAgain: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("The next one after that: every %s.", Days(n["every_days"]))
	},
	reason.JobForward: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Brought forward to %s.", dated(s["day"]))
	},
	reason.JobRides: func(n reason.Numbers, s reason.Names) string {
		text := fmt.Sprintf("%s, due %s", UpperFirst(JobKindWords[s["what"]]), dated(s["due"]))
		return text + fmt.Sprintf(": rides along, within %s.", Days(n["within"]))
	},
	reason.JobPlan: func(_ reason.Numbers, s reason.Names) string {
		return "Work plan as accepted: " + strings.ToLower(s["plan"]) + "."
	},
	reason.JobLook: func(reason.Numbers, reason.Names) string {
		return "Nobody has looked through its core lately, and no clean comes soon enough to do it then."
	},
	reason.JobStaff: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("By the site's own staff, every %s.", Days(n["every_days"]))
	},
	reason.JobStaffAway: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Otherwise the site's own staff do it; they are away: %s.", s["holiday"])
	},
	reason.JobCompanion: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Every %s; no clean of the unit comes within %s of it to ride along with.", Days(n["every_days"]), Days(n["within"]))
	},
	reason.JobCompanionUnknown: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Every %s; when it was last done is not known.", Days(n["every_days"]))
	},
	reason.JobWatch: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Watched since it was last seen on %s: %s", dated(s["last"]), s["what"])
	},
	reason.JobPart: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("%s: probably %.0f %% soiled by %s, last looked at on %s; to be washed", PartWords[s["part"]], 100*n["blocked"], dated(s["due"]), dated(s["last"]))
	},
	reason.JobSymptom: func(_ reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Reported on %s: %s. Nobody has decided yet what to do.", dated(s["day"]), s["what"])
	},
	reason.Due: func(n reason.Numbers, s reason.Names) string {
		switch {
		case n["days_late"] > 0:
			return fmt.Sprintf("%s late: every %s, last on %s.", Days(n["days_late"]), Days(n["every_days"]), dated(s["last"]))
		case n["days_late"] == 0:
			return fmt.Sprintf("Due that day: every %s, last on %s.", Days(n["every_days"]), dated(s["last"]))
		}
		return fmt.Sprintf("Due within %s: every %s, last on %s.", Days(-n["days_late"]), Days(n["every_days"]), dated(s["last"]))
	},
	reason.DueAbout: func(n reason.Numbers, s reason.Names) string {
		return fmt.Sprintf("Every %s, last about %s.", Days(n["every_days"]), dated(s["last"]))
	},
	reason.FirstLook: func(reason.Numbers, reason.Names) string {
		return "No clean known: look at it first."
	},
	reason.SideDue: func(_ reason.Numbers, s reason.Names) string {
		return s["side"] + " was not reached last time."
	},
	reason.OverLimit: func(n reason.Numbers, _ reason.Names) string {
		return fmt.Sprintf("Expected %s blocked, over the limit of %s.", percent(n["blocked_share"]), percent(n["limit_share"]))
	},
	reason.CoversLight: func(reason.Numbers, reason.Names) string {
		return "The deep clean covers the light one."
	},
}

// costs says what the least cost is made of.
func costs(n reason.Numbers) string {
	return fmt.Sprintf("Every %s costs %s a day: cleaning %s (%s each), energy and expected call-outs %s, days over the limit %s (%s each).",
		Days(n["days"]), money(n["total_day"]), money(n["clean_day"]), money(n["clean"]), money(n["soil_day"]), money(n["over_day"]), money(n["over_price"]))
}

func capped(who string, n reason.Numbers, s reason.Names) string {
	return fmt.Sprintf("%s at most %s.%s", who, Days(n["days"]), noted(s))
}

func noted(s reason.Names) string {
	if s["note"] == "" {
		return ""
	}
	return " " + UpperFirst(s["note"]) + "."
}

func where(s reason.Names) string {
	if s["where"] == "house" {
		return "elsewhere"
	}
	return "at the site"
}

// money is an amount in the currency of the organisation.
func money(v float64) string { return fmt.Sprintf("%.2f", v) }

// Count is a number of things.
func Count(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}

// Counted is count for a thing whose plural is not made with an s.
func Counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// amount is money, without its currency, which the screens know.
func amount(v float64) string { return strconv.FormatFloat(v, 'f', 2, 64) }

// dated writes a day the way the screens do.
func dated(day string) string {
	d, err := calendar.Parse(day)
	if err != nil {
		return day
	}
	return d.Time().Format("2 Jan 2006")
}

func side(s reason.Names) string { return UpperFirst(s["side"]) }

func found(n reason.Numbers, s reason.Names) string {
	return fmt.Sprintf("%s: found %s after %s.", side(s), s["found"], Days(n["days_run"]))
}

// stepped shows the step's own product and, where the interval in force stands instead, says so.
func stepped(n reason.Numbers, step float64) string {
	product := n["days_run"] * step
	if math.Abs(product-n["days"]) < 1e-9 {
		return Days(product)
	}
	return Days(product) + "; keep " + Days(n["days"])
}

// Days is a number of days, short.
func Days(d float64) string { return strconv.FormatFloat(math.Round(d*10)/10, 'f', -1, 64) + " d" }

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

// Sentence turns one reason into a sentence for the reader; a code without a sentence shows itself.
func Sentence(r reason.Reason) string {
	if say, ok := sentences[r.Code]; ok {
		return say(r.Numbers, r.Names)
	}
	return string(r.Code)
}
