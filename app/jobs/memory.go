package jobs

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"runtime/debug"
	"runtime/metrics"
	"strconv"
	"strings"
	"sync"
	"time"

	"saltkettle/core/quantity"
	"saltkettle/core/solve"
)

// memoryGuard ends a worker that takes more memory than it may, before the system has to, and
// says at how many cells.
type memoryGuard struct {
	limit int64
	enc   *json.Encoder

	mu    sync.Mutex // of what follows, and of enc
	cells int
}

// progress passes an event on, and takes note of the mesh.
func (g *memoryGuard) progress(e solve.Event) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if e.Cells > 0 {
		g.cells = e.Cells
	}
	_ = g.enc.Encode(Message{Event: &e})
}

// watchEvery is how often a worker looks at the memory that it takes.
const watchEvery = 50 * time.Millisecond

// largeRun is the memory, bytes, above which garbage is collected once there is a quarter of what lives, not as much
// again: what lives is a few large matrices, which cost nothing to look through.
const (
	largeRun     = 512 << 20
	largePercent = 25
)

// watch looks at the memory until the function that it returns is called.
func (g *memoryGuard) watch() (end func()) {
	debug.SetMemoryLimit(g.limit * 9 / 10) // from here on collecting garbage goes before speed
	done := make(chan struct{})
	go func() {
		large := false
		tick := time.NewTicker(watchEvery)
		defer tick.Stop()
		for {
			select {
			case <-done:
				return
			case <-tick.C:
			}
			taken := memoryTaken()
			if !large && taken > largeRun {
				large = true
				debug.SetGCPercent(largePercent)
			}
			if taken > g.limit {
				g.mu.Lock() // never given back: nothing may be said after this
				_ = g.enc.Encode(Message{Error: outOfMemory(g.cells, taken, g.limit)})
				os.Exit(1)
			}
		}
	}()
	return func() { close(done) }
}

// outOfMemory says why a run was ended.
func outOfMemory(cells int, taken, limit int64) string {
	at := "before there was a mesh"
	if cells > 0 {
		at = "at " + quantity.Count(cells) + " cells"
	}
	return fmt.Sprintf("out of memory %s: the run took %.1f GB and may take %.1f GB; make cells larger, or let runs take more (serve --memory)", at, float64(taken)/1e9, float64(limit)/1e9)
}

// memoryTaken is what this process has of the memory of the machine, bytes.
func memoryTaken() int64 {
	sample := []metrics.Sample{{Name: "/memory/classes/total:bytes"}, {Name: "/memory/classes/heap/released:bytes"}}
	metrics.Read(sample)
	return int64(sample[0].Value.Uint64() - sample[1].Value.Uint64())
}

// memoryLeft is about how much memory a run can take now, bytes, 0 if that is not known: nine
// tenths of what the system or its container says is available.
func memoryLeft() int64 {
	left := int64(0)
	if f, err := os.Open("/proc/meminfo"); err == nil {
		defer f.Close()
		in := bufio.NewScanner(f)
		for in.Scan() {
			if text, ok := strings.CutPrefix(in.Text(), "MemAvailable:"); ok {
				kb, err := strconv.ParseInt(strings.TrimSuffix(strings.TrimSpace(text), " kB"), 10, 64)
				if err == nil {
					left = kb << 10
				}
			}
		}
	}
	const group = "/sys/fs/cgroup/memory."
	if most, taken := number(group+"max"), number(group+"current"); most > 0 && (left == 0 || most-taken < left) {
		left = max(most-taken, 1)
	}
	return left / 10 * 9
}

// number reads a number from a file, 0 if there is none.
func number(path string) int64 {
	data, err := os.ReadFile(path)
	if err != nil {
		return 0
	}
	n, err := strconv.ParseInt(strings.TrimSpace(string(data)), 10, 64)
	if err != nil {
		return 0
	}
	return n
}
