package couple

import "slices"

// Order divides fields into groups in the order in which they are to be solved. takes lists
// for each field those on which its equations depend. Fields that depend on each other, also
// by way of others, are one group.
//
// Of a run in time marching lists the fields that change at a rate: they, and all that do not
// follow from them alone, are one group, so that the steps in time have the whole of it; but for those ahead,
// which are found before time begins and depend on none of these.
func Order(takes [][]int, marching, ahead []int) [][]int {
	n := len(takes)
	// reach[i][j]: i depends on j.
	reach := make([][]bool, n)
	for i, list := range takes {
		reach[i] = make([]bool, n)
		for _, j := range list {
			reach[i][j] = true
		}
	}
	for k := range n {
		for i := range n {
			for j := range n {
				reach[i][j] = reach[i][j] || reach[i][k] && reach[k][j]
			}
		}
	}
	follows := func(i int) bool { // it depends on what marches, which does not depend on it
		if len(marching) == 0 || slices.Contains(marching, i) {
			return false
		}
		any := false
		for _, m := range marching {
			any = any || reach[i][m]
			if reach[m][i] {
				return false
			}
		}
		return any
	}
	apart := func(i int) bool { return slices.Contains(ahead, i) }
	together := func(i, j int) bool {
		if len(marching) > 0 && !follows(i) && !follows(j) && !apart(i) && !apart(j) {
			return true
		}
		return reach[i][j] && reach[j][i]
	}
	var groups [][]int
	for i := range n {
		k := slices.IndexFunc(groups, func(g []int) bool { return together(i, g[0]) })
		if k < 0 {
			groups = append(groups, nil)
			k = len(groups) - 1
		}
		groups[k] = append(groups[k], i)
	}
	// Each after those that it depends on; otherwise as they come.
	var ordered [][]int
	for len(groups) > 0 {
		k := slices.IndexFunc(groups, func(g []int) bool {
			return !slices.ContainsFunc(groups, func(other []int) bool {
				return other[0] != g[0] && slices.ContainsFunc(g, func(i int) bool {
					return slices.ContainsFunc(other, func(j int) bool { return reach[i][j] })
				})
			})
		})
		ordered = append(ordered, groups[k])
		groups = slices.Delete(groups, k, k+1)
	}
	return ordered
}

// Apart takes groups apart: every field is a group of its own, and those of one group before
// follow each other. Turns are the first and the last of those that are to be solved in turn.
func Apart(groups [][]int) (single [][]int, turns [][2]int) {
	for _, g := range groups {
		if len(g) > 1 {
			turns = append(turns, [2]int{len(single), len(single) + len(g) - 1})
		}
		for _, f := range g {
			single = append(single, []int{f})
		}
	}
	return single, turns
}
