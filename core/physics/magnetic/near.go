package magnetic

import (
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/quantity"
)

// nearShare is the part of the energy of the field in air that may lie beyond sides of which nothing is said.
const nearShare = 0.01

// plane is one that facets lie in: its axis and where it crosses that.
type plane struct {
	axis int
	at   int64
}

// planeOf is the plane of a facet that is at right angles to an axis.
func (d *draft) planeOf(k int32, fine float64) (plane, bool) {
	corners := d.Mesh.Facets[k].Corners()
	first := d.Mesh.At(corners[0])
	axes := 2
	if d.problem.Solid {
		axes = 3
	}
	for axis := range axes {
		even := true
		for _, v := range corners[1:] {
			even = even && math.Abs(d.Mesh.At(v)[axis]-first[axis]) < fine
		}
		if even {
			return plane{axis, int64(math.Round(first[axis] / fine))}, true
		}
	}
	return plane{}, false
}

// near warns where air ends so near to the device, at sides of which nothing is said and which therefore keep the flux within, that these
// squeeze the field: its energy beyond them would be that of a field which falls off as that of a dipole, with half the flux density that
// there is along a side that turns it back. A plane that a part other than air meets is one of symmetry.
func (d *draft) near(s *couple.Solution, k kernel) {
	if len(d.kept) == 0 {
		return
	}
	airy := map[int32]bool{}
	halves := k.parts()
	inAir := 0.
	if s.System.EachCell(s.State, nil, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		air := k.stuff().airy()
		if airy[points[0].Part] = air; !air {
			return nil
		}
		for q, w := range weights {
			for _, half := range halves {
				_, _, energy := half.kernel.state(&points[q], q)
				inAir += w * half.share * energy
			}
		}
		return nil
	}) != nil {
		return // what failed fails elsewhere too
	}
	box := d.BoundsOf(func(int32) bool { return true })
	fine := 1e-6 * max(box[0][1]-box[0][0], box[1][1]-box[1][0], box[2][1]-box[2][0])
	symmetric := map[plane]bool{}
	for _, f := range d.kept {
		if p, ok := d.planeOf(f, fine); ok && !airy[d.bodyAt(f)] {
			symmetric[p] = true
		}
	}
	var sides []fem.Side
	for _, f := range d.kept {
		if p, ok := d.planeOf(f, fine); airy[d.bodyAt(f)] && !(ok && symmetric[p]) {
			sides = append(sides, s.Side(f, d.Mesh.Facets[f].Body != d.bodyAt(f)))
		}
	}
	if len(sides) == 0 || inAir == 0 {
		return
	}
	powers := 3.
	if !d.problem.Solid && !d.problem.Round {
		powers = 2
	}
	beyond := map[int32]float64{}
	if s.System.EachSide(s.State, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p, out := &points[q], 0.
			for i, x := range p.X {
				out += (x - d.problem.Middle[i]) * p.Normal[i]
			}
			for _, half := range halves {
				_, _, energy := half.kernel.state(p, q)
				beyond[p.Part] += w * half.share * energy / 4 * max(0, out) / powers
			}
		}
		return nil
	}) != nil {
		return
	}
	for _, body := range slices.Sorted(maps.Keys(beyond)) {
		if share := beyond[body] / inAir; share > nearShare {
			d.Warn("about %s of the energy of the field in air would lie beyond the %s, at sides that keep the flux within as nothing is said of them: if there is no wall, give it more room, or let open space lie beyond", quantity.Show(share, "%", false, 2), d.BodyName(body))
		}
	}
}

// bodyAt is the body at a facet at which the field ends.
func (d *draft) bodyAt(k int32) int32 {
	f := &d.Mesh.Facets[k]
	if d.posed.Fields[0].Bodies[f.Body] {
		return f.Body
	}
	return f.OtherBody
}
