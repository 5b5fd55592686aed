package species

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/model"
)

// key is that of this physics.
const key = "species"

// Physics is dissolved species as the program knows them.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "what is dissolved", Nowhere: "Nothing is dissolved anywhere", Closed: "what is dissolved",
		Lives:   func(*model.Resolved) string { return "Something is dissolved in {}" },
		Resolve: resolve, FromRest: true,
		PerNode: func(r *model.Resolved) int { return len(dissolved(r)) },
	},
	Kinds: Kinds(), Plates: Fields, Pose: pose,
}

// dissolved lists the numbers of the species that are dissolved somewhere.
func dissolved(r *model.Resolved) (list []int) {
	for n := range law.Species {
		for i := range r.Conditions {
			if c := &r.Conditions[i]; c.Kind == KeyDissolved && c.About["species"] == n {
				list = append(list, n)
				break
			}
		}
	}
	return list
}

// resolve finds in which parts something is dissolved.
func resolve(r *model.Resolving) {
	in := map[int]map[int]bool{} // by species: parts
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if c.Kind != KeyDissolved {
			continue
		}
		r.Live(c.Parts...)
		n := c.About["species"]
		if in[n] == nil {
			in[n] = map[int]bool{}
		}
		for _, p := range c.Parts {
			in[n][p] = true
		}
	}
	check := func(section string, c *model.ResolvedSentence) {
		if model.Of(c.Kind) != key || c.Kind == KeyDissolved || len(c.Parts) == 0 {
			return
		}
		name, own := c.Values["species"], in[c.About["species"]]
		if len(own) == 0 {
			r.Find(model.Wrong, section+"/"+c.ID, "switch the sentence on in which it is dissolved", "%s speaks of %s, which is dissolved nowhere", c.ID, name)
			return
		}
		for _, p := range c.Parts {
			if !own[p] {
				r.Find(model.Wrong, section+"/"+c.ID+"/on", "say that it is dissolved there, or choose another part", "%s speaks of %s in the %s, where it is not dissolved", c.ID, name, r.Parts[p].Name)
				return
			}
		}
	}
	for i := range r.Conditions {
		check("conditions", &r.Conditions[i])
	}
	if r.Solves(key) && (r.Document.Modal() || r.Document.Swings()) {
		r.Find(model.Wrong, "run/kind", "let the run be steady or in time", "what is dissolved has no modes and no response here")
	}
}

// hardlyAny is the part of its greatest concentration up to which the mean of a species is that of no more than
// round-off and of what runs ahead of a front.
const hardlyAny = 1e-3

// field is the number of the field of the species that a reading is about, from the first one on.
func (k *Kernel) field(r *frame.Reading) (int, error) {
	number := r.Sentence.About["species"]
	for i, s := range k.problem.Species {
		if s.Number != number {
			continue
		}
		for b := range r.Region.Bodies {
			if _, is := s.Diffusivity[b]; is {
				return i, nil
			}
		}
		return 0, fmt.Errorf("%s is not dissolved in the %s", r.Sentence.Values["species"], r.Words(r.Sentence.On))
	}
	return 0, fmt.Errorf("%s is dissolved nowhere", r.Sentence.Values["species"])
}

// read evaluates a reading of what is dissolved.
func read(r *frame.Reading) error {
	k := r.Kernel.(*Kernel)
	i, err := k.field(r)
	if err != nil {
		return err
	}
	switch r.Sentence.Kind {
	case KeyThrough:
		spread, err := r.Solution.Through(r.Field+i, r.Region.Facets, r.Region.Bodies, r.Solution.Kernel)
		if err != nil {
			return err
		}
		_, carried, err := k.passes(r, i)
		r.Value = spread + carried
		return err
	case KeyMixed:
		volume, carried, err := k.passes(r, i)
		if err != nil {
			return err
		}
		if r.Value = carried / volume; volume == 0 {
			return errors.New("nothing flows through it")
		}
		return nil
	}
	name := law.ConcentrationOf(k.problem.Species[i].Number)
	m, err := r.Measure(name, r.Region)
	if err != nil {
		return err
	}
	switch r.Sentence.Kind {
	case KeyMean:
		r.Value = m.Mean()
	case KeyAmount:
		r.Value = m.Integral
	case KeyUneven:
		if _, most := r.Solution.Extremes(r.Field + i); math.Abs(m.Mean()) <= hardlyAny*math.Abs(most.Value) {
			return errors.New("there is hardly any of it there")
		}
		square, err := r.Measure(name+"^2", r.Region)
		if err != nil {
			return err
		}
		r.Value = math.Sqrt(max(0, square.Mean()-m.Mean()*m.Mean())) / math.Abs(m.Mean())
	default:
		err = fmt.Errorf("readings of the kind %q cannot be taken", r.Sentence.Kind)
	}
	return err
}

// passes is the volume of fluid and the amount of a species that a flow carries out of bodies through facets,
// m³/s and mol/s.
func (k *Kernel) passes(r *frame.Reading, species int) (volume, amount float64, err error) {
	if len(k.carry) == 0 {
		return 0, 0, nil
	}
	sides := make([]fem.Side, len(r.Region.Facets))
	for i, f := range r.Region.Facets {
		sides[i] = r.Solution.Side(f, !r.Region.Bodies[r.Mesh.Facets[f].Body])
	}
	err = k.across(r.Solution, sides, func(p *fem.Point, through float64) {
		volume, amount = volume+through, amount+through*p.U[k.c+species]
	})
	return volume, amount, err
}

// below is the part of its greatest concentration by which each species falls below nothing: what cells that are
// coarse for a front leave.
func below(s *couple.Solution, field, count int) []float64 {
	list := make([]float64, count)
	for i := range list {
		least, most := s.Extremes(field + i)
		if least.Value < 0 && most.Value > 0 {
			list[i] = -least.Value / most.Value
		}
	}
	return list
}

// From what part of its greatest concentration on it is said that one falls below nothing, and from what part on that
// is no solution.
const (
	littleBelow = 0.01
	farBelow    = 0.1
)

// negative says that concentrations cannot be, "" if they can.
func (d *draft) negative(s *couple.Solution, field int) string {
	for i, part := range below(s, field, len(d.names)) {
		if part > farBelow {
			return fmt.Sprintf("the concentration of %s falls below nothing by %.2g of its greatest: its front needs finer cells", d.names[i], part)
		}
	}
	return ""
}

// fronts warns of concentrations that fall a little below nothing.
func (d *draft) fronts(s *couple.Solution) {
	field := slices.IndexFunc(s.Fields, func(f couple.Field) bool { return f.Name == d.posed.Fields[0].Name })
	for i, part := range below(s, field, len(d.names)) {
		if part > littleBelow && part <= farBelow {
			d.Warn("the concentration of %s falls below nothing by up to %.2g of its greatest, where its front is steeper than its cells can follow: make them finer there", d.names[i], part)
		}
	}
}
