// Package parallel runs loops over index ranges on all cores.
package parallel

import (
	"runtime"
	"sync"
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
