package fem

// cornerSets numbers sets of up to four nodes in the order in which they are first asked for. Sets
// hang in lists at their least node, which are short: there is nothing to be hashed or moved.
type cornerSets struct {
	head []int32 // by node: its last set, −1 for none
	sets []cornerSet
}

func newCornerSets(nodes int) *cornerSets {
	s := &cornerSets{head: make([]int32, nodes)}
	for i := range s.head {
		s.head[i] = -1
	}
	return s
}

// number of a set, and whether it is new.
func (s *cornerSets) number(corners ...int32) (n int32, fresh bool) {
	key := [4]int32{-1, -1, -1, -1}
	copy(key[:], corners)
	// Four at most: insertion is quickest.
	for i := 1; i < len(corners); i++ {
		for k := i; k > 0 && key[k] < key[k-1]; k-- {
			key[k], key[k-1] = key[k-1], key[k]
		}
	}
	rest := [3]int32(key[1:])
	for n = s.head[key[0]]; n >= 0; n = s.sets[n].next {
		if s.sets[n].rest == rest {
			return n, false
		}
	}
	n = int32(len(s.sets))
	s.sets = append(s.sets, cornerSet{rest, s.head[key[0]]})
	s.head[key[0]] = n
	return n, true
}

// cornerSet is a set: its nodes but the least, and the set before it with that one, −1 for none.
type cornerSet struct {
	rest [3]int32
	next int32
}
