package parallel

import (
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestForCoversEveryIndexOnce(t *testing.T) {
	for _, n := range []int{0, 1, 2, 7, 100, 4097} {
		hits := make([]atomic.Int32, n)
		var workers [64]atomic.Int32
		For(n, 3, func(w, lo, hi int) {
			workers[w].Add(1)
			for i := lo; i < hi; i++ {
				hits[i].Add(1)
			}
		})
		for i := range hits {
			assert.EqualValues(t, 1, hits[i].Load())
		}
		for w := range workers {
			assert.LessOrEqual(t, workers[w].Load(), int32(1), "each worker has one range")
		}
	}
}

func TestStagesFollowEachOther(t *testing.T) {
	for _, bounds := range [][]int{{0}, {0, 0}, {0, 5}, {0, 100, 101, 101, 600, 1000}} {
		n := bounds[len(bounds)-1]
		hits, done := make([]atomic.Int32, n), atomic.Int64{}
		Stages(bounds, 3, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				hits[i].Add(1)
				stage := 0
				for bounds[stage+1] <= i {
					stage++
				}
				assert.GreaterOrEqual(t, done.Load(), int64(bounds[stage]), "all before have ended")
			}
			done.Add(int64(hi - lo))
		})
		for i := range hits {
			assert.EqualValues(t, 1, hits[i].Load())
		}
	}
}
