package procedure

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"nextround/core/method"
)

// Job is what a visit is for.
type Job string

// The kinds of job.
const (
	Companion Job = "companion" // filters, grilles, tablets, drain, pump: no coil
	Inspect   Job = "look"      // a look with light, a symptom, what is being watched
	HoseDown  Job = "hose_down" // closed, from outside, downward
	Light     Job = "light"
	Deep      Job = "deep"
)

// Jobs in the order of how much is opened.
var Jobs = []Job{Companion, Inspect, HoseDown, Light, Deep}

// Visit is what the steps of one turn on.
type Visit struct {
	// Jobs it is for; with none, no step is left out for its kind of job.
	Jobs []Job
	// Tags of unit, place, what was found and the plan.
	Tags  map[string]bool
	Rules method.Rules
}

// Pass is a pass of the plan, as far as steps turn on it.
type Pass struct {
	Method string `json:"method"`
	// Where is in_place or taken_out.
	Where   string          `json:"where,omitempty"`
	Cleaner *method.Cleaner `json:"cleaner,omitempty"`
}

// PlanTags are the tags that a plan brings; none for an empty one.
func PlanTags(passes []Pass) map[string]bool {
	out := map[string]bool{}
	on := func(tag string, when bool) {
		if when {
			out[tag] = true
		}
	}
	for _, p := range passes {
		t, c := method.TechniqueOf(p.Method), p.Cleaner
		own := p.Method == "pre_rinse" || p.Method == "rinse"
		out["planned"] = true
		on("taken_out", p.Where == "taken_out" || p.Method == "out_and_washed")
		on("pre_rinse", p.Method == "pre_rinse")
		on("air", t.Air)
		on("dry", !t.Air && !t.Wet() && p.Method != "debris")
		on("wet", t.Wet())
		if c != nil && c.Form != method.Plain && !own {
			on("cleaner", true)
			on("corrosive", c.Corrosive())
			on("aerosol", c.Form == method.Aerosol)
			on("no_rinse_cleaner", !c.Rinse)
		}
	}
	return out
}

// ProofOf is how a unit is proved dead: "meter" on three pairs, "plug" in the hand or "heard" to stop. The plug counts for plug-in
// units, unless electrical covers are opened and the rule asks for the meter; hearing it stop only where the rule allows it and nothing
// electrical is opened (common practice, no source; local codes and licensed practice come first).
func ProofOf(jobs []Job, tags map[string]bool, rules method.Rules) string {
	rule := rules.Answer("proof_of_dead")
	opened := tags["opens_electrics"] && (len(jobs) == 0 || slices.Contains(jobs, Deep))
	switch {
	case tags["plug_in"] && (!opened || rule == "unplugged"):
		return "plug"
	case rule == "hear" && !opened && !tags["plug_in"]:
		return "heard"
	}
	return "meter"
}

// RinseTicks are the end-points that a rinse has to reach by the rule of the organisation: clear run-off, light through all that was
// reached, both, or none where it is the minutes that count. Closed work from outside cannot show light; plug-in units are wiped, not rinsed.
func RinseTicks(jobs []Job, tags map[string]bool, rules method.Rules) []string {
	closed := slices.Contains(jobs, HoseDown) && !slices.Contains(jobs, Deep)
	rule := rules.Answer("rinse_end")
	switch {
	case tags["plug_in"] || rule == "ten_minutes":
		return nil
	case closed || rule == "clear":
		return []string{"clear_run_off"}
	case rule == "light":
		return []string{"light_through_all"}
	}
	return []string{"clear_run_off", "light_through_all"}
}

// Compile gives the steps of a template that apply to a visit, each in the way it is done there, in the order of the phases and, within
// them, of the template.
func Compile(template []Step, v Visit) []Step {
	tags := v.all()
	jobs := len(v.Jobs) > 0
	out := []Step{}
	var steps []Step
	for _, s := range template {
		if jobs && !slices.ContainsFunc(s.Jobs, v.is) && (len(s.Jobs) > 0 || !slices.ContainsFunc(usualJobs(s.Code), v.is)) {
			continue
		}
		if hold(s.When, tags) {
			s = s.done(tags)
			if s.Form == "isolation" {
				s.Proof = ProofOf(v.Jobs, v.Tags, v.Rules)
			}
			if s.Form == "rinse" {
				s.Ticks = RinseTicks(v.Jobs, v.Tags, v.Rules)
			}
			steps = append(steps, s)
		}
	}
	for _, phase := range Phases {
		for _, s := range steps {
			if s.Phase == phase {
				out = append(out, s)
			}
		}
	}
	return out
}

func (v Visit) is(j Job) bool { return slices.Contains(v.Jobs, j) }

// all are the tags with what follows from them: the jobs, the answers in force, the proof.
func (v Visit) all() map[string]bool {
	out := map[string]bool{}
	maps.Copy(out, v.Tags)
	for _, j := range v.Jobs {
		out[string(j)] = true
	}
	if v.is(HoseDown) {
		out["wet"] = true
	}
	for _, q := range method.Questions {
		out[q.Code+"="+v.Rules.Answer(q.Code)] = true
	}
	if out["plug_in"] && out["plug_in_chemistry=never"] {
		for _, wet := range []string{"wet", "cleaner", "corrosive", "aerosol", "pre_rinse", "no_rinse_cleaner"} {
			delete(out, wet)
		}
	}
	out["proof_"+ProofOf(v.Jobs, v.Tags, v.Rules)] = true
	return out
}

// hold reports whether all conditions do.
func hold(conditions []string, tags map[string]bool) bool {
	for _, condition := range conditions {
		if !slices.ContainsFunc(strings.Split(condition, "|"), func(c string) bool {
			tag, not := strings.CutPrefix(c, "!")
			return not != tags[tag]
		}) {
			return false
		}
	}
	return true
}

// done is the step in the ways that hold.
func (s Step) done(tags map[string]bool) Step {
	cautions := slices.Clone(s.Cautions)
	for _, w := range s.Ways {
		if !hold(w.When, tags) {
			continue
		}
		s.Text, s.Why, s.Phase = cmp.Or(w.Text, s.Text), cmp.Or(w.Why, s.Why), cmp.Or(w.Phase, s.Phase)
		cautions = append(cautions, w.Cautions...)
	}
	s.Cautions, s.Ways, s.When, s.Jobs = cautions, nil, nil, nil
	return s
}

// usualJobs are the kinds of job that a step belongs to by its code, where a template does not say; a step of an organisation's own
// belongs to every clean of a coil.
func usualJobs(code string) []Job {
	if jobs, ok := usual[code]; ok {
		return jobs
	}
	return []Job{Light, Deep}
}

var (
	everyJob  = Jobs
	everyCoil = []Job{Inspect, HoseDown, Light, Deep}
	cleans    = []Job{HoseDown, Light, Deep}
	opened    = []Job{Inspect, Light, Deep}
	full      = []Job{Deep}
	hands     = []Job{Companion, Deep}
)

// usual jobs by step (common practice, no source).
var usual = map[string][]Job{
	"identify": everyJob, "ladder": everyJob,
	"watch_items": everyCoil, "isolate": everyCoil, "tell_site": everyCoil,
	"tell_occupants": cleans, "advice": cleans, "as_left": cleans, "restore_power": cleans,
	"open_up": opened, "close_up": opened, "opened_look": everyCoil,
	"prove_dead": {Light, Deep}, "ppe_open": {Light, Deep}, "no_ignition": {Light, Deep}, "loosen_dry": {Light, Deep},
	"nests": opened, "readings_before": {Inspect, Deep}, "rinse_end": {HoseDown, Deep}, "dry_seen": {HoseDown, Deep},
	"filters": hands, "tablets": hands, "pump_test": hands, "drain_flush": {Companion}, "grille_wash": {Companion, Light, Deep},
	"first_look": full, "reach": full, "two_people": full, "goods_out": full, "lock_tag": full, "discharge": full, "photo_wiring": full, "parts": full, "base_debris": full,
	"why_dry": full, "contain": full, "ppe_cleaner": full, "corrosive": full, "pre_rinse": full, "apply_cleaner": full, "flush_sprayer": full,
	"drain_pan": full, "fan_blades": full, "pipes_wires": full, "fins": full, "count_back": full, "readings_after": full,
	"slide_out": full, "grilles_apart": full, "through_core": full, "empty_and_tape": full, "find_coil": full, "defrost_drain": full, "let_rest": full,
	"floor_behind": full, "vegetation": full, "fan_top": full, "wall_side": full, "trough": full, "slab_gap": full, "screens": full,
	"washed_through": full, "cover_and_bag": full, "back_coil": full, "wheel": full, "tape_off": full, "bag_up": full, "foam_pan": full, "drain_test": full,
	"slide_chassis": full, "detergent_first": full, "filter_out": full, "filter_in": full, "head_control": full, "each_bank": full,
	"defrost": full, "cover_food": full, "food_safe_rinse": full, "bin_closed": full, "behind_face": full,
	"running_look": full, "open_electrics": full, "pan_plug": full, "carry_out": full, "air_through": full, "part_slabs": full, "vacuum_water": full,
	"clean_pan": full, "capacitor_test": full, "capacitor_load": full, "site_tick": full, "seal_sleeve": full, "electrics_dust": full,
}
