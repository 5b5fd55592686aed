package couple

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestOrder(t *testing.T) {
	for name, c := range map[string]struct {
		takes    [][]int
		marching []int
		want     [][]int
	}{
		"alone":                           {[][]int{nil}, nil, [][]int{{0}}},
		"each other":                      {[][]int{{1}, {0}}, nil, [][]int{{0, 1}}},
		"the second first":                {[][]int{{1}, nil}, nil, [][]int{{1}, {0}}},
		"nothing to do with each other":   {[][]int{nil, nil}, nil, [][]int{{0}, {1}}},
		"a circle of three, one after it": {[][]int{{1}, {2}, {0}, {1}}, nil, [][]int{{0, 1, 2}, {3}}},
		"in time what heats marches too":  {[][]int{{1}, nil, {0}}, []int{0}, [][]int{{0, 1}, {2}}},
		"in time others march too":        {[][]int{nil, nil}, []int{0}, [][]int{{0, 1}}},
		"in time what acts back":          {[][]int{{1}, {0}, {1}}, []int{0}, [][]int{{0, 1}, {2}}},
	} {
		assert.Equal(t, c.want, Order(c.takes, c.marching), name)
	}
}
