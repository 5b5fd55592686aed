package formula

import (
	"maps"
	"slices"
	"strings"
)

// near lists the names that differ little from one that is unknown, the nearest first.
func (b *builder) near(name string) []string {
	var names []string
	for _, v := range b.env.Variables {
		if m, ok := b.env.Names[v.Name]; !ok || m.Is != "" {
			names = append(names, v.Name)
		}
	}
	if all, ok := b.env.Scope.(Values); ok {
		names = slices.AppendSeq(names, maps.Keys(all))
	}
	names = slices.AppendSeq(names, maps.Keys(b.env.Definitions))
	names = slices.AppendSeq(names, maps.Keys(constants))
	slices.Sort(names)
	names = slices.Compact(names)
	most := 1 + len(name)/4
	names = slices.DeleteFunc(names, func(n string) bool { return distance(strings.ToLower(n), strings.ToLower(name)) > most })
	slices.SortStableFunc(names, func(x, y string) int { return distance(x, name) - distance(y, name) })
	return names[:min(len(names), 3)]
}

// distance is how many letters have to be put in, taken out, changed or swapped with the next
// one to make one text of another.
func distance(a, b string) int {
	x, y := []rune(a), []rune(b)
	rows := make([][]int, len(x)+1)
	for i := range rows {
		rows[i] = make([]int, len(y)+1)
		rows[i][0] = i
	}
	for j := range rows[0] {
		rows[0][j] = j
	}
	for i := 1; i <= len(x); i++ {
		for j := 1; j <= len(y); j++ {
			change := 1
			if x[i-1] == y[j-1] {
				change = 0
			}
			rows[i][j] = min(rows[i-1][j]+1, rows[i][j-1]+1, rows[i-1][j-1]+change)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				rows[i][j] = min(rows[i][j], rows[i-2][j-2]+1)
			}
		}
	}
	return rows[len(x)][len(y)]
}
