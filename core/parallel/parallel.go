// Package parallel runs loops over index ranges on all cores.
package parallel

import (
	"runtime"
	"sync"
	"sync/atomic"
)

// Workers is how many ranges a loop is cut into at most.
func Workers() int { return runtime.GOMAXPROCS(0) }

// For cuts [0, n) into equal ranges of at least grain indices, one per worker at
// most, and calls f for each of them, concurrently. The ranges depend only on n,
// grain and the number of workers.
func For(n, grain int, f func(worker, lo, hi int)) {
	k := min(Workers(), max(n/max(grain, 1), 1))
	if k <= 1 {
		f(0, 0, n)
		return
	}
	var wg sync.WaitGroup
	for w := 1; w < k; w++ {
		wg.Go(func() { f(w, w*n/k, (w+1)*n/k) })
	}
	f(0, 0, n/k)
	wg.Wait()
}

// spins is how often a core looks whether the others are ready before it lets others have it.
const spins = 2000

// Stages goes through the ranges between bounds one after the other, each begun when the one before has ended, cut into
// equal ranges of at least grain indices as by [For]. It is for many short stages: cores wait for each other without
// going to sleep.
func Stages(bounds []int, grain int, f func(worker, lo, hi int)) {
	most := 0
	for s := range len(bounds) - 1 {
		most = max(most, bounds[s+1]-bounds[s])
	}
	grain = max(grain, 1)
	k := min(Workers(), max(most/grain, 1))
	if k <= 1 {
		for s := range len(bounds) - 1 {
			f(0, bounds[s], bounds[s+1])
		}
		return
	}
	var arrived atomic.Int64
	work := func(w int) {
		for s := range len(bounds) - 1 {
			lo, n := bounds[s], bounds[s+1]-bounds[s]
			if parts := min(k, max(n/grain, 1)); w < parts {
				f(w, lo+w*n/parts, lo+(w+1)*n/parts)
			}
			arrived.Add(1)
			for i, all := 0, int64(k*(s+1)); arrived.Load() < all; i++ {
				if i > spins {
					runtime.Gosched()
				}
			}
		}
	}
	var wg sync.WaitGroup
	for w := 1; w < k; w++ {
		wg.Go(func() { work(w) })
	}
	work(0)
	wg.Wait()
}
