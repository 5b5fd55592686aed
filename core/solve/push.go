package solve

import "saltkettle/core/couple"

// push lets what others push their walls with act on a group.
func (r *run) push(g *group) error {
	g.Push, g.Pushed = nil, nil
	for _, part := range g.parts {
		for _, by := range part.Push {
			pushed := couple.Pushed{Key: by.Key, Field: part.field}
			for _, other := range r.posed.parts {
				if other == part || !other.supplies(couple.PushOnWalls) {
					continue
				}
				s, err := r.solutionOf(other)
				if err != nil {
					return err
				}
				if err := s.PushOn(g.Group, other.field, &pushed, by.Facets); err != nil {
					return err
				}
			}
			g.Pushed = append(g.Pushed, pushed)
		}
	}
	return nil
}
