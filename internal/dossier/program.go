package dossier

import (
	"slices"
	"strings"
	"sync"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
)

// WorkPlan is a work plan as a program names it: its passes, what it takes and costs.
type WorkPlan struct {
	Code    string             `json:"code"`
	Passes  []contract.PlanWay `json:"passes"`
	Minutes float64            `json:"minutes"`
	People  int                `json:"people"`
	Cost    float64            `json:"cost"`
	soil.Removal
	// strong says that a pass uses a strong alkaline cleaner.
	strong bool
}

// TaskPlan is how a clean was accepted to be done from a day on, with another plan the first time where that brings the coil down.
type TaskPlan struct {
	WorkPlan
	Since calendar.Day `json:"since"`
	First *WorkPlan    `json:"first,omitempty"`
}

// Known reports whether there is a plan.
func (p WorkPlan) Known() bool { return len(p.Passes) > 0 }

// Program is what was chosen for a coil: plan, interval and first clean, with the plans told.
type Program struct {
	interval.Choice
	// Plan, Light and First are the plans the choice names; InForce how it is done now.
	Plan         WorkPlan `json:"plan"`
	Light        WorkPlan `json:"light_plan"`
	FirstPlan    WorkPlan `json:"first_plan"`
	InForcePlan  WorkPlan `json:"in_force_plan"`
	InForceLight WorkPlan `json:"in_force_light_plan"`
	// Known is false where nothing is known of the coil's soil; Leads says that it is what is proposed: another plan, or another light clean
	// in between, where the least cost leads and enough was found.
	Known bool `json:"known"`
	Leads bool `json:"leads"`
	// OverPrice is the price of a day over the limit that was solved for the house's share of days, nil where it gives none; Held whether the
	// best is within that share.
	OverPrice *float64 `json:"over_price,omitempty"`
	Held      bool     `json:"held,omitempty"`
	// Ways of finding out more whose worth was asked for; none where enough was seen lately.
	Ways []LookWay `json:"ways,omitempty"`
	// At prices the plan in force at another interval.
	At func(days int) interval.Kept `json:"-"`
	// Without is the choice with every rate at a multiple of what it is, such as with a cause taken away.
	Without func(times float64) (interval.Choice, error) `json:"-"`
	// Plans are all that were weighed, by code.
	Plans map[string]WorkPlan `json:"-"`
}

// pricedDays is over how long a way of keeping a coil is priced: three years (assumption). A brush that leaves the core takes longer to show
// than anybody plans ahead, and by then somebody has looked.
const pricedDays = 1095

// planCache keeps the lawful plans of coils alike: putting them together takes long, and the same facts always give the same plans.
type planCache struct {
	mu   sync.Mutex
	kept map[string][]WorkPlan
}

// mostKept bounds the cache; full, it is emptied.
const mostKept = 2000

var plansKept planCache

func (c *planCache) get(key string) ([]WorkPlan, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	plans, ok := c.kept[key]
	return plans, ok
}

func (c *planCache) put(key string, plans []WorkPlan) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.kept == nil || len(c.kept) >= mostKept {
		c.kept = map[string][]WorkPlan{}
	}
	c.kept[key] = plans
}

// found is the soil that plans are put together for: heavy enough that every pass has something to do, the core as soiled as the face.
func found(kind string) method.Found {
	return method.Found{Kind: kind, Grade: soil.Felt, CoreGrade: new(soil.Felt)}
}

// lawfulPlans are the plans a coil may be cleaned with, in an order and with cleaners that fit, each priced.
func (r *Facts) lawfulPlans(d Unit, coil Coil) ([]WorkPlan, error) {
	in := r.AdviceInput(d, coil)
	in.Found = found(in.Found.Kind)
	key := organisation.HashOf(in)
	if known, ok := plansKept.get(key); ok {
		return known, nil
	}
	advice, err := workplan.Advise(in)
	if err != nil {
		return nil, err
	}
	out := []WorkPlan{}
	for _, p := range advice.Plans {
		if !p.Fits {
			continue
		}
		w := WorkPlan{Minutes: p.Minutes, People: p.People, Cost: max(p.Cost, 1)}
		for _, x := range p.Passes {
			w.Passes = append(w.Passes, contract.PlanWay{
				Method: x.Method, Name: x.MethodName, Cleaner: optional.Text(x.Cleaner), CleanerName: optional.Text(x.CleanerName), TakenOut: x.Where == workplan.TakenOut,
			})
			w.Removal = w.Then(soil.Removal{Face: x.FaceShare, Core: x.CoreShare, Packing: x.Packing})
			for _, c := range in.Cleaners {
				w.strong = w.strong || (c.Code == x.Cleaner && c.StrongAlkaline())
			}
		}
		w.Code = planCode(w.Passes)
		out = append(out, w)
	}
	plansKept.put(key, out)
	return out, nil
}

// planCode names a plan by its passes.
func planCode(passes []contract.PlanWay) string {
	words := make([]string, len(passes))
	for i, p := range passes {
		words[i] = p.Method
		if p.TakenOut {
			words[i] += "@out"
		}
		if p.Cleaner != nil {
			words[i] += ":" + *p.Cleaner
		}
	}
	return strings.Join(words, "+")
}

// asPlan is how a clean is usually done, as a plan of its own.
func (r *Facts) asPlan(w Work) WorkPlan {
	if w.plan.Known() {
		return w.plan
	}
	out := WorkPlan{Minutes: w.Minutes, People: max(1, w.people), Cost: w.Cost, Removal: w.Removal}
	for i, code := range w.Passes {
		way := contract.PlanWay{Method: code, Name: r.methodName(code)}
		if w.Cleaner != nil && i == len(w.Passes)-1 {
			way.Cleaner, way.CleanerName = &w.Cleaner.Code, &w.Cleaner.Name
		}
		out.Passes = append(out.Passes, way)
	}
	out.Code = "usual:" + planCode(out.Passes)
	return out
}

func (r *Facts) methodName(code string) string {
	for _, m := range r.Methods {
		if m.Code == code {
			return m.Name
		}
	}
	return code
}

// sameWay reports whether two plans use the same methods in the same order.
func sameWay(a, b WorkPlan) bool {
	return slices.EqualFunc(a.Passes, b.Passes, func(x, y contract.PlanWay) bool { return x.Method == y.Method && x.TakenOut == y.TakenOut })
}

// program chooses plan and interval for the coil of a deep clean. The interval's own rails and bounds are those of res.
func (r *Facts) program(d Unit, coil Coil, task Task, in interval.Task) (Program, error) {
	var out Program
	var cells [][]learn.Cell
	q := interval.ChoiceQuestion{
		Economics: r.Economics(d, coil.Coil), FanShare: 1, OverPrice: r.OverPrice(d), Limit: r.Limit, MostDays: d.Class.MaxDays, HorizonDays: pricedDays,
		LoadMonths: d.LoadMonths(), DayOfYear: d.Today.OfYear(), AnchorMonth: in.AnchorMonth,
	}
	for _, side := range coil.Sides {
		if !side.Reachable || !side.Rate.Known {
			continue
		}
		condition := side.History.ConditionOn(d.Today)
		if condition.FanShare > 0 {
			q.FanShare, q.SoilMonths = condition.FanShare, new(condition.Months)
		}
		cells, q.Areas = append(cells, side.Rate.Cells), append(q.Areas, side.AreaShare)
	}
	if len(cells) == 0 {
		return out, nil
	}
	q.Truths = interval.Truths(cells)
	plans, err := r.lawfulPlans(d, coil)
	if err != nil || len(plans) == 0 {
		return out, nil //nolint:nilerr // nothing that is allowed here is known: the interval alone is proposed
	}
	out.InForcePlan, out.InForceLight = r.asPlan(coil.Deep), r.asPlan(coil.Light)
	byCode := map[string]WorkPlan{}
	least := 0.0
	for _, c := range in.Caps {
		if c.Kind == interval.Chemistry {
			least = max(least, 365/c.TimesAYear)
		} else {
			q.MostDays = min(q.MostDays, c.MostDays)
		}
	}
	if task.Last != nil {
		q.MostNow = max(1, q.MostDays-d.Today.Sub(*task.Last))
	}
	// What was never run here is not stretched beyond what habit or the longest interval would allow.
	untried := max(int(in.Habit()), int(interval.LongestStretch*float64(in.LongestRun())))
	for _, w := range plans {
		p := interval.Plan{Code: w.Code, Cost: w.Cost, Removal: w.Removal}
		if w.strong && least > 0 {
			p.LeastDays = int(least + .999)
		}
		if sameWay(w, out.InForcePlan) {
			// The way it is done already, and what it was seen to take here.
			out.InForcePlan.Code = w.Code
			p.Cost, p.Removal = out.InForcePlan.Cost, out.InForcePlan.Removal
			w = out.InForcePlan
		} else if untried >= interval.Week {
			p.MostDays = max(untried, p.LeastDays)
		}
		byCode[w.Code] = w
		q.Plans = append(q.Plans, p)
	}
	if _, ok := byCode[out.InForcePlan.Code]; !ok {
		w := out.InForcePlan
		byCode[w.Code] = w
		q.Plans = append(q.Plans, interval.Plan{Code: w.Code, Cost: w.Cost, Removal: w.Removal, Barred: true})
	}
	q.InForce = &interval.Cycle{Plan: out.InForcePlan.Code, EveryDays: task.EveryDays}
	if light := coil.lightEvery(); light > 0 {
		w := out.InForceLight
		byCode[w.Code] = w
		q.LightPlans = []interval.Plan{{Code: w.Code, Cost: w.Cost, Removal: w.Removal}}
		if task.EveryDays > light {
			q.InForce.Light, q.InForce.LightEvery = w.Code, light
		}
	}
	if !slices.ContainsFunc(q.Plans, func(p interval.Plan) bool {
		return !p.Barred && p.LeastDays <= q.MostDays && (p.MostDays == 0 || p.LeastDays <= p.MostDays)
	}) {
		return out, nil // no plan may be done as often as its bounds ask
	}
	if !task.CoreSeen || coil.taught() < wellKnown {
		out.Ways = r.lookWays(d)
		for _, w := range out.Ways {
			q.Looks = append(q.Looks, w.LookWay)
		}
	}
	if r.OverShare < 1 {
		out.Choice, q.OverPrice, out.Held, err = interval.ChooseWithin(q, r.OverShare)
		out.OverPrice = &q.OverPrice
	} else {
		out.Choice, err = interval.Choose(q)
	}
	if err != nil {
		return out, err
	}
	out.Known, out.Plans = true, byCode
	out.Without = func(times float64) (interval.Choice, error) { return interval.ChooseWithoutCause(q, times) }
	out.At = func(days int) interval.Kept {
		c := *q.InForce
		c.EveryDays = days
		return interval.Price(q, c)
	}
	out.Plan, out.Light, out.FirstPlan = byCode[out.Best.Plan], byCode[out.Best.Light], byCode[out.First.Plan]
	enough := task.Result.School == interval.Cost || task.Result.School == interval.Limit
	another := out.Best.Plan != out.InForcePlan.Code || out.Best.Light != q.InForce.Light || out.Best.Days != nil
	out.Leads = enough && another && out.Change && in.Leads != interval.LeadLimit
	return out, nil
}

// LookWay is a way of finding out more of a coil, with what it takes.
type LookWay struct {
	interval.LookWay
	MinutesRiding float64
	MinutesAlone  float64
}

const (
	// wellKnown is from how many findings on, with the core seen lately, no more looks are priced (assumption: an answer would change nothing).
	wellKnown = 4
	// tripMinutes is a trip of its own, there and back (assumption).
	tripMinutes = 40.0
)

// lookWays are a look with light, a first dated finding with the unit opened up, and readings before and after the next clean: riding along
// with whoever is at the unit anyway, or with a trip of its own.
func (r *Facts) lookWays(d Unit) []LookWay {
	var out []LookWay
	for _, x := range []struct {
		kind interval.LookKind
		job  string
	}{{interval.LookLight, "look"}, {interval.LookFinding, "inspect"}, {interval.LookReadings, "recheck"}} {
		w := LookWay{MinutesRiding: float64(r.MinutesOf(d.Class.ID, x.job))}
		w.MinutesAlone = w.MinutesRiding + r.Price("stop") + tripMinutes
		w.LookWay = interval.LookWay{
			Kind: x.kind, CostRiding: w.MinutesRiding / 60 * r.Price("labour"), CostAlone: w.MinutesAlone/60*r.Price("labour") + tripMinutes/60*r.Price("vehicle"),
		}
		out = append(out, w)
	}
	return out
}

// LookWorth is what a way of finding out is worth at a coil.
type LookWorth struct {
	interval.LookValue
	MinutesRiding, MinutesAlone float64
}

// LookWorths are what more knowledge is worth, the most riding along first; none where enough was seen lately.
func (p Program) LookWorths() []LookWorth {
	out := []LookWorth{}
	for _, v := range p.Looks {
		for _, w := range p.Ways {
			if w.Kind == v.Kind {
				out = append(out, LookWorth{v, w.MinutesRiding, w.MinutesAlone})
			}
		}
	}
	return out
}
