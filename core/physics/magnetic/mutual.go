package magnetic

import (
	"errors"
	"fmt"
	"strings"

	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/model"
)

// mutual is by how much the flux that the turns in the bodies of a reading hold grows for each ampere more in other turns, at the state as
// it is, H: ψₐ·K⁻¹·ψᵦ, with the tangent K and what an ampere is as a load.
func mutual(k kernel, r *frame.Reading) (float64, error) {
	if p := k.stuff().problem; r.Solution.Swing != nil || p.Moves || p.Frequency > 0 {
		return 0, errors.New("how turns act on others is known of steady fields alone")
	}
	others := map[int32]bool{}
	for b := range r.Owner {
		if of := r.Part(int32(b)).Part; of != nil && named(of, r.Sentence.Values["other"]) {
			others[int32(b)] = true
		}
	}
	if len(others) == 0 {
		return 0, fmt.Errorf("there is no part %q", r.Sentence.Values["other"])
	}
	mine, own, err := ampere(k, r, r.Region.Bodies, others)
	if err != nil {
		return 0, err
	}
	theirs, _, err := ampere(k, r, others, nil)
	if err != nil {
		return 0, err
	}
	change, err := r.Changed(theirs)
	if err != nil {
		return 0, err
	}
	sum := 0.
	for i, v := range mine {
		sum += v * change[i]
	}
	if k.stuff().problem.Solid {
		return own - sum, nil
	}
	return sum, nil
}

// named says that words name a part.
func named(p *model.Part, words string) bool {
	words = strings.TrimSpace(words)
	return p.ID == words || strings.EqualFold(p.Name, words)
}

// ampere is what one more in the turns in some bodies is as a load on the unknowns, and of turns in space by how much the flux along T of
// others grows by it at once.
func ampere(k kernel, r *frame.Reading, bodies, others map[int32]bool) (load []float64, own float64, err error) {
	s := r.Solution
	load = make([]float64, s.System.N)
	add := func(p *fem.Point, of func(n int) float64) {
		for n, v := range p.Nodes {
			if e := s.System.Equation(r.Field, 0, v); e >= 0 {
				load[e] += of(n)
			}
		}
	}
	found := false
	switch k := k.Fork().(type) {
	case *section:
		err = s.System.EachCell(s.State, bodies, func(points []fem.Point, weights []float64) error {
			if err := k.Prepare(-1, points); err != nil {
				return err
			}
			for q, w := range weights {
				if winds := k.winds(q); winds != 0 {
					found = true
					by := w * winds * k.curl(&points[q]).test
					add(&points[q], func(n int) float64 { return by * points[q].Functions[n] })
				}
			}
			return nil
		})
	case *space:
		err = s.System.EachCell(s.State, s.Fields[r.Field].Bodies, func(points []fem.Point, weights []float64) error {
			if err := k.Prepare(-1, points); err != nil {
				return err
			}
			for q, w := range weights {
				p := &points[q]
				t, other := k.wound.ampere(p, q, bodies), k.wound.ampere(p, q, others)
				if t == 0 {
					continue
				}
				found = true
				_, d, _ := k.induced(p, q, k.slope(p, q))
				own += w * other * d[2][2] * t
				add(p, func(n int) float64 {
					slope, sum := p.Slope(n), 0.
					for i := range slope {
						sum += slope[i] * d[i][2]
					}
					return w * sum * t
				})
			}
			return nil
		})
	}
	if err == nil && !found {
		err = errNoTurns
	}
	return load, own, err
}
