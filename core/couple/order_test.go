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
		ahead    []int
	}{
		"alone":                           {[][]int{nil}, nil, [][]int{{0}}, nil},
		"each other":                      {[][]int{{1}, {0}}, nil, [][]int{{0, 1}}, nil},
		"the second first":                {[][]int{{1}, nil}, nil, [][]int{{1}, {0}}, nil},
		"nothing to do with each other":   {[][]int{nil, nil}, nil, [][]int{{0}, {1}}, nil},
		"a circle of three, one after it": {[][]int{{1}, {2}, {0}, {1}}, nil, [][]int{{0, 1, 2}, {3}}, nil},
		"in time what heats marches too":  {[][]int{{1}, nil, {0}}, []int{0}, [][]int{{0, 1}, {2}}, nil},
		"in time others march too":        {[][]int{nil, nil}, []int{0}, [][]int{{0, 1}}, nil},
		"in time what acts back":          {[][]int{{1}, {0}, {1}}, []int{0}, [][]int{{0, 1}, {2}}, nil},
		"in time what is found before":    {[][]int{nil, {0}, {1}}, []int{1}, [][]int{{0}, {1}, {2}}, []int{0}},
	} {
		assert.Equal(t, c.want, Order(c.takes, c.marching, c.ahead), name)
	}
}
