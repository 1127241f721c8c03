package round

import (
	"math"
	"math/rand/v2"
	"sort"
	"sync"

	"nextround/core/invalid"
)

// Search bounds the search. The same problem, seed, workers and iterations give the same plan.
type Search struct {
	Seed uint64 `json:"seed,omitempty"`
	// Iterations of each worker; 0 means DefaultIterations.
	Iterations int `json:"iterations,omitempty"`
	// Workers search side by side and meet after every segment; 0 means one.
	Workers int `json:"workers,omitempty"`
	// Spent, where it is given, tells the share of the time that is used up: the search ends at 1, whatever Iterations says,
	// and cools by it. It is how a search is held to a time.
	Spent func() float64 `json:"-"`
	// Stop, where it is given, ends the search as soon as it says so; the best found by then is kept.
	Stop func() bool `json:"-"`
	// Report is called after each segment.
	Report func(Progress) `json:"-"`
}

// check lists every field that cannot be used.
func (s Search) check() error {
	var bad invalid.Error
	if s.Iterations < 0 || s.Iterations > mostIterations {
		bad.Addf("search.iterations", "must be between 1 and %d, or 0 for the usual", mostIterations)
	}
	if s.Workers < 0 || s.Workers > mostWorkers {
		bad.Addf("search.workers", "must be between 1 and %d, or 0 for one", mostWorkers)
	}
	return bad.Err()
}

// over reports that the search must end before its steps are done.
func (s Search) over() bool {
	return (s.Stop != nil && s.Stop()) || (s.Spent != nil && s.Spent() >= 1)
}

// Progress of a search.
type Progress struct {
	Iterations int     `json:"iterations"`
	Cost       float64 `json:"cost"`
	Placed     int     `json:"placed"`
	Share      float64 `json:"share"`
}

// Defaults of the search (assumption, tried on the instances of core/round/instance).
const (
	DefaultIterations = 2000
	mostIterations    = 10_000_000
	mostWorkers       = 16
	segment           = 50
	// Adaptive weights as in Ropke and Pisinger: rewards for a new best, a better and an accepted plan, and how fast they
	// are taken over.
	rewardBest, rewardBetter, rewardTaken = 33.0, 9.0, 13.0
	reaction                              = .1
	// Temperatures as shares of the mean price of a job.
	hottest, coldest = .25, .002
	leastTaken       = 4
	mostTaken        = 40
	// Every so many steps, jobs may go in that are not worth it by themselves.
	impatient = 3
	// A small problem is begun again every so many steps.
	restartOdds = 5
)

// worker is one search.
type worker struct {
	// fault is what a step panicked with.
	fault   any
	m       *model
	rng     *rand.Rand
	now     *tour
	best    *tour
	scale   float64 // money of a job, for the temperature
	weights [2][]float64
	scores  [2][]float64
	used    [2][]int
	stalled int
	stop    float64
}

type destroyer func(*worker, int) []int

var destroyers = []destroyer{(*worker).anyJobs, (*worker).dearJobs, (*worker).likeJobs, (*worker).crewDays, (*worker).siteJobs}

// repairs are the ways of putting jobs back: how far regret looks, and the noise.
var repairs = []filling{{k: 1}, {k: 1, noise: .3}, {k: 1, noise: 1}, {k: 2}, {k: 2, noise: .3}, {k: 3}}

func newWorker(m *model, start *tour, seed uint64, n int) *worker {
	w := &worker{m: m, rng: rand.New(rand.NewPCG(seed, uint64(n)+1)), now: start.copy(), best: start.copy(), stop: m.stopCost()} //nolint:gosec // a search
	for i, size := range []int{len(destroyers), len(repairs)} {
		w.weights[i], w.scores[i], w.used[i] = make([]float64, size), make([]float64, size), make([]int, size)
		for k := range w.weights[i] {
			w.weights[i][k] = 1
		}
	}
	w.scale = math.Max(1e-6, start.total/float64(max(1, m.jobs)))
	return w
}

func (w *worker) choose(kind int) int {
	total := 0.0
	for _, v := range w.weights[kind] {
		total += v
	}
	at := w.rng.Float64() * total
	for k, v := range w.weights[kind] {
		if at -= v; at <= 0 {
			return k
		}
	}
	return len(w.weights[kind]) - 1
}

// step takes some jobs out, puts them back, and keeps the result if it is better, or by chance while it is hot.
func (w *worker) step(share float64) {
	m := w.m
	d, r := w.choose(0), w.choose(1)
	most := min(mostTaken, max(few, m.jobs/4))
	q := min(m.jobs, leastTaken+w.rng.IntN(most-leastTaken+1))
	next := w.now.copy()
	taken := destroyers[d](w, q)
	how := repairs[r]
	if m.thorough && w.rng.IntN(restartOdds) == 0 {
		// A small problem is begun again now and then, in whatever order chance gives.
		taken, how = w.allJobs(), filling{k: 1 + w.rng.IntN(2), noise: 2 * w.rng.Float64()}
	}
	m.remove(next, taken)
	pool := taken[:0]
	seen := map[int]bool{}
	for _, j := range taken {
		if next.at[j] < 0 && !seen[j] {
			seen[j] = true
			pool = append(pool, j)
		}
	}
	// What is left out is tried again, some of it each time.
	offset := w.rng.IntN(m.jobs)
	for i, extra := 0, 0; i < m.jobs && extra < mostTaken; i++ {
		if j := (i + offset) % m.jobs; next.at[j] < 0 && !seen[j] {
			seen[j] = true
			pool = append(pool, j)
			extra++
		}
	}
	if w.rng.IntN(impatient) == 0 {
		how.patience = w.rng.Float64() * 4 * w.stop
	}
	how.shake, how.rng = w.stop, w.rng
	m.fill(next, pool, how)
	reward := 0.0
	temperature := w.scale * hottest * math.Pow(coldest/hottest, share)
	switch {
	case next.total < w.best.total-1e-9:
		reward, w.best = rewardBest, next.copy()
		w.now = next
	case next.total < w.now.total-1e-9:
		reward, w.now = rewardBetter, next
	case w.rng.Float64() < math.Exp((w.now.total-next.total)/temperature):
		if next.total > w.now.total+1e-9 {
			reward = rewardTaken
		}
		w.now = next
	}
	w.scores[0][d] += reward
	w.scores[1][r] += reward
	w.used[0][d]++
	w.used[1][r]++
}

func (w *worker) adapt() {
	for kind := range w.weights {
		for k := range w.weights[kind] {
			if n := w.used[kind][k]; n > 0 {
				w.weights[kind][k] = math.Max(.1, (1-reaction)*w.weights[kind][k]+reaction*w.scores[kind][k]/float64(n))
			}
			w.scores[kind][k], w.used[kind][k] = 0, 0
		}
	}
}

// search improves a plan until its bounds are reached.
func (m *model) search(start *tour, s Search) (*tour, int) {
	if m.jobs == 0 || len(m.shift) == 0 {
		return start, 0
	}
	workers := make([]*worker, max(1, s.Workers))
	for n := range workers {
		workers[n] = newWorker(m, start, s.Seed, n)
	}
	best, done, total := start, 0, s.Iterations
	if total == 0 {
		total = DefaultIterations
	}
	for {
		share := float64(done) / float64(total)
		if s.Spent != nil {
			share = s.Spent()
		}
		if share >= 1 || s.over() {
			break
		}
		steps := segment
		if s.Spent == nil {
			steps = min(segment, total-done)
		}
		var wait sync.WaitGroup
		for _, w := range workers {
			wait.Go(func() {
				defer func() { w.fault = recover() }()
				for range steps {
					w.step(share)
					if s.over() {
						break
					}
				}
				w.adapt()
			})
		}
		wait.Wait()
		for _, w := range workers {
			if w.fault != nil {
				panic(w.fault) // to whoever asked for the plan, who can answer for it
			}
		}
		done += steps
		for _, w := range workers {
			if w.best.total < best.total-1e-9 {
				best = w.best.copy()
			}
		}
		for _, w := range workers {
			// A worker that has not gained for a while goes on from the best.
			if w.best.total > best.total+1e-9 && w.stalled >= 4 {
				w.now, w.best, w.stalled = best.copy(), best.copy(), 0
			} else {
				w.stalled++
			}
		}
		if s.Report != nil {
			s.Report(Progress{Iterations: done, Cost: best.total, Placed: m.placed(best), Share: math.Min(1, share)})
		}
	}
	return best, done
}

func (m *model) placed(t *tour) (n int) {
	for _, r := range t.at {
		if r >= 0 {
			n++
		}
	}
	return n
}

// loose reports whether a job may be taken out.
func (w *worker) loose(j int) bool { return w.now.at[j] >= 0 && !w.m.locked[j] }

func (w *worker) anyJob() int {
	for range 4 * w.m.jobs {
		if j := w.rng.IntN(w.m.jobs); w.loose(j) {
			return j
		}
	}
	return -1
}

// anyJobs takes jobs by chance.
func (w *worker) anyJobs(q int) []int {
	out := make([]int, 0, q)
	for range q {
		if j := w.anyJob(); j >= 0 {
			out = append(out, j)
		}
	}
	return out
}

// allJobs takes whatever may be taken.
func (w *worker) allJobs() (out []int) {
	for j := range w.m.jobs {
		if w.loose(j) {
			out = append(out, j)
		}
	}
	return out
}

// pick takes q of a ranked list, mostly from its front.
func (w *worker) pick(ranked []int, q int, power float64) []int {
	out := make([]int, 0, q)
	for len(out) < q && len(ranked) > 0 {
		k := int(math.Pow(w.rng.Float64(), power) * float64(len(ranked)))
		out = append(out, ranked[k])
		ranked = append(ranked[:k], ranked[k+1:]...)
	}
	return out
}

// dearJobs takes those that cost most above the least they could.
func (w *worker) dearJobs(q int) []int {
	m := w.m
	dear := make([]float64, m.jobs)
	var ranked []int
	for j := range m.jobs {
		if !w.loose(j) {
			continue
		}
		r := int(w.now.at[j])
		stops := 1
		seq := w.now.routes[r]
		for i := 1; i < len(seq); i++ {
			if m.place[seq[i]] != m.place[seq[i-1]] {
				stops++
			}
		}
		alone := 0
		for _, n := range seq {
			if m.place[n] == m.place[j] {
				alone++
			}
		}
		dear[j] = m.on(j, r) - m.cost[j][m.days[j][0]] + w.now.money[r]/float64(stops*alone)
		ranked = append(ranked, j)
	}
	sort.Slice(ranked, func(a, b int) bool { return dear[ranked[a]] > dear[ranked[b]] })
	return w.pick(ranked, q, 4)
}

// likeJobs takes jobs that are near one another in place and time (Shaw 1998).
func (w *worker) likeJobs(q int) []int {
	m := w.m
	seed := w.anyJob()
	if seed < 0 {
		return nil
	}
	far := 1e-9
	for _, v := range m.travel[m.place[seed]] {
		far = math.Max(far, v)
	}
	day := int(w.now.at[seed]) % m.Days
	unlike := make([]float64, m.jobs)
	var ranked []int
	for j := range m.jobs {
		if !w.loose(j) || j == seed {
			continue
		}
		apart := abs(int(w.now.at[j])%m.Days - day)
		unlike[j] = m.travel[m.place[seed]][m.place[j]]/far + float64(min(apart, 28))/14
		if m.place[j] != m.place[seed] {
			unlike[j] += .3
		}
		ranked = append(ranked, j)
	}
	sort.Slice(ranked, func(a, b int) bool { return unlike[ranked[a]] < unlike[ranked[b]] })
	return append(w.pick(ranked, q-1, 4), seed)
}

// crewDays empties a crew-day and the ones nearest to it in time, or by site.
func (w *worker) crewDays(q int) []int {
	m := w.m
	seed := w.anyJob()
	if seed < 0 {
		return nil
	}
	day := int(w.now.at[seed]) % m.Days
	var out []int
	for ring := 0; ring < m.Days && len(out) < q; ring++ {
		for c := range m.crews {
			for _, d := range []int{day - ring, day + ring} {
				if d < 0 || d >= m.Days || (ring == 0 && d != day) || len(out) >= q {
					continue
				}
				r := c*m.Days + d
				if ring > 0 && w.rng.Float64() < .5 {
					continue
				}
				for _, j := range w.now.routes[r] {
					if w.loose(int(j)) {
						out = append(out, int(j))
					}
				}
			}
		}
	}
	return out
}

// siteJobs takes all jobs of a site in some weeks.
func (w *worker) siteJobs(q int) []int {
	m := w.m
	seed := w.anyJob()
	if seed < 0 {
		return nil
	}
	day := int(w.now.at[seed]) % m.Days
	out := []int{seed}
	weeks := 7 + w.rng.IntN(28)
	for j := range m.jobs {
		if j != seed && w.loose(j) && m.place[j] == m.place[seed] && abs(int(w.now.at[j])%m.Days-day) <= weeks && len(out) < q {
			out = append(out, j)
		}
	}
	return out
}
