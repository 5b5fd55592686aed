package sparse

import "slices"

// amalgamate joins columns of the same structure into fronts, and fronts with
// their parents where few zeros are stored for it, and renumbers.
func (a *Analysis) amalgamate(parent, count []int32) {
	n := int32(a.n)
	var list []merged
	of := make([]int32, n)
	for j := range n {
		if j > 0 && parent[j-1] == j && count[j-1] == count[j]+1 {
			list[len(list)-1].columns = append(list[len(list)-1].columns, j)
		} else {
			list = append(list, merged{columns: []int32{j}, parent: -1})
		}
		of[j] = int32(len(list) - 1)
	}
	for s := range list {
		f := &list[s]
		last := f.columns[len(f.columns)-1]
		f.below = int64(count[last]) - 1
		f.size = int64(len(f.columns))
		if p := parent[last]; p >= 0 {
			f.parent = of[p]
			list[of[p]].children = append(list[of[p]].children, int32(s))
		}
	}
	for s := range list {
		p := &list[s]
		// The children that cost least first.
		slices.SortStableFunc(p.children, func(x, y int32) int {
			switch c, d := list[x].zerosIn(p), list[y].zerosIn(p); {
			case c < d:
				return -1
			case c > d:
				return 1
			}
			return 0
		})
		var kept []int32
		for _, c := range p.children {
			child := &list[c]
			if !child.joins(p) {
				kept = append(kept, c)
				continue
			}
			p.zeros += child.zeros + child.zerosIn(p)
			p.size += child.size
			p.absorbed = append(p.absorbed, c)
			for _, grand := range child.children {
				list[grand].parent = int32(s)
			}
			kept = append(kept, child.children...)
			child.gone = true
		}
		p.children = kept
	}
	a.renumber(list)
}

// merged is a front in the making.
type merged struct {
	columns  []int32
	absorbed []int32 // fronts whose columns come before its own
	children []int32
	parent   int32
	size     int64 // columns with those absorbed
	below    int64 // rows below
	zeros    int64 // elements stored that are zero
	gone     bool
}

// zerosIn is how many more zeros are stored if a front becomes part of its parent.
func (f *merged) zerosIn(p *merged) int64 { return f.size * (p.size + p.below - f.below) }

// joins says that it is worth to store those zeros: small fronts cost more for
// their handling than for their elements.
func (f *merged) joins(p *merged) bool {
	zeros := float64(f.zerosIn(p) + f.zeros + p.zeros)
	size := p.size + f.size
	total := float64(size*size)/2 + float64(size*p.below)
	switch {
	case zeros == 0:
		return true
	case size <= 8:
		return zeros < 0.8*total
	case size <= 24:
		return zeros < 0.3*total
	case size <= 64:
		return zeros < 0.12*total
	}
	return zeros < 0.04*total
}
