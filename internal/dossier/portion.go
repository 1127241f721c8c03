package dossier

import (
	"runtime"
	"sync"
	"time"

	"nextround/internal/store"
)

// portion is how many units are worked out before they are handed over: enough for all processors, few enough to be held.
const portion = 64

// InTurn works units out on all processors and hands them over in their order. It stops at the first error; a panic is
// thrown again where it was called.
func (r *Facts) InTurn(units []store.Unit, now time.Time, do func(Unit) error) error {
	for len(units) > 0 {
		n := min(portion, len(units))
		out, errs, thrown := make([]Unit, n), make([]error, n), make([]any, n)
		var wait sync.WaitGroup
		places := make(chan int, n)
		for i := range n {
			places <- i
		}
		close(places)
		for range min(n, runtime.GOMAXPROCS(0)) {
			wait.Go(func() {
				for i := range places {
					func() {
						defer func() { thrown[i] = recover() }()
						out[i], errs[i] = r.Unit(units[i], now)
					}()
				}
			})
		}
		wait.Wait()
		for i := range n {
			if thrown[i] != nil {
				panic(thrown[i])
			}
			if errs[i] != nil {
				return errs[i]
			}
			if err := do(out[i]); err != nil {
				return err
			}
		}
		units = units[n:]
	}
	return nil
}
