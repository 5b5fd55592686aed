package mesh

// addSegment makes the straight line between two vertices an edge of the
// triangulation, constrained as a piece of segment s, and restores the Delaunay
// property around it. Where the line passes exactly through a vertex, or
// crosses another segment, it is split there.
func (t *triangulation) addSegment(a, b, s int32) {
	for a != b {
		if _, _, ok := t.edge(a, b); ok {
			t.mark(a, b, s)
			return
		}
		end, crossed := t.crossings(a, b)
		t.swapOut(a, end, crossed)
		t.mark(a, end, s)
		a = end
	}
}

// crossings lists the edges between a and b that the line from a to b crosses,
// as pairs of vertices, up to the first vertex on the line, which it returns.
// If a constrained edge is crossed the crossing point is inserted first.
func (t *triangulation) crossings(a, b int32) (end int32, crossed [][2]int32) {
	pa, pb := t.points[a], t.points[b]
	// Find the face at a that the line leaves through.
	f := t.faceToward(a, pb)
	fc := &t.faces[f]
	i := fc.corner(a)
	l, r := fc.v[prev(i)], fc.v[next(i)] // left and right of the line
	if t.orient(pa, pb, t.points[r]) == 0 && ahead(pa, pb, t.points[r]) {
		return r, nil
	}
	if t.orient(pa, pb, t.points[l]) == 0 && ahead(pa, pb, t.points[l]) {
		return l, nil
	}
	across := i
	for {
		if t.faces[f].s[across] != none {
			x := t.cross(pa, pb, t.points[l], t.points[r])
			v := t.insertOnEdge(x, f, across)
			if v == l || v == r {
				return v, t.crossedUpTo(a, v)
			}
			end, crossed = t.crossings(a, v)
			return end, crossed
		}
		crossed = append(crossed, [2]int32{l, r})
		g := t.faces[f].n[across]
		gc := &t.faces[g]
		k := gc.side(f)
		apex := gc.v[k]
		if apex == b {
			return b, crossed
		}
		switch o := t.orient(pa, pb, t.points[apex]); {
		case o == 0:
			return apex, crossed
		case o > 0:
			across = gc.corner(l)
			l = apex
		default:
			across = gc.corner(r)
			r = apex
		}
		f = g
	}
}

// crossedUpTo lists the edges crossed on the way from a to v, where v is a
// vertex very near the line that was being followed.
func (t *triangulation) crossedUpTo(a, v int32) [][2]int32 {
	if _, _, ok := t.edge(a, v); ok {
		return nil
	}
	_, crossed := t.crossings(a, v)
	return crossed
}

// ahead says whether p lies on the side of a where b is.
func ahead(a, b, p Point) bool {
	return (p.X-a.X)*(b.X-a.X)+(p.Y-a.Y)*(b.Y-a.Y) > 0
}

// faceToward finds the face at vertex a through which the line to p leaves.
func (t *triangulation) faceToward(a int32, p Point) int32 {
	pa := t.points[a]
	f := t.at[a]
	start := f
	for {
		fc := &t.faces[f]
		i := fc.corner(a)
		r, l := t.points[fc.v[next(i)]], t.points[fc.v[prev(i)]]
		if t.orient(pa, r, p) >= 0 && t.orient(pa, l, p) <= 0 && (ahead(pa, p, r) || ahead(pa, p, l) || t.orient(pa, r, p) > 0 && t.orient(pa, l, p) < 0) {
			return f
		}
		f = fc.n[next(i)]
		if f == start || f == none {
			panic(bailout("the triangulation lost its way along an outline"))
		}
	}
}

// cross is the point where the lines ab and cd meet, on the grid.
func (t *triangulation) cross(a, b, c, d Point) Point {
	dx, dy := b.X-a.X, b.Y-a.Y
	ex, ey := d.X-c.X, d.Y-c.Y
	u := ((c.X-a.X)*ey - (c.Y-a.Y)*ex) / (dx*ey - dy*ex)
	return t.snap(Point{a.X + u*dx, a.Y + u*dy})
}

// insertOnEdge splits the constrained edge of a face at a point that lies on it
// up to the grid, and returns the vertex. A point that would fall outside the
// two faces at the edge gives the nearer end of the edge.
func (t *triangulation) insertOnEdge(p Point, f int32, edge int) int32 {
	fc := t.faces[f]
	a, b := fc.v[next(edge)], fc.v[prev(edge)]
	g := fc.n[edge]
	gc := t.faces[g]
	k := gc.side(f)
	pa, pb, pc, pd := t.points[a], t.points[b], t.points[fc.v[edge]], t.points[gc.v[k]]
	// The two new pairs of faces must all turn left.
	if t.orient(pc, pa, p) <= 0 || t.orient(p, pb, pc) <= 0 || t.orient(pa, pd, p) <= 0 || t.orient(pd, pb, p) <= 0 {
		if sq(pa, p) < sq(pb, p) {
			return a
		}
		return b
	}
	return t.insertAt(p, f, edge)
}

func sq(a, b Point) float64 { return (a.X-b.X)*(a.X-b.X) + (a.Y-b.Y)*(a.Y-b.Y) }

// swapOut flips the crossed edges away until the edge from a to b exists, then
// flips the new edges that are not Delaunay (Sloan 1993, section 5).
func (t *triangulation) swapOut(a, b int32, crossed [][2]int32) {
	pa, pb := t.points[a], t.points[b]
	var made [][2]int32
	// Each edge waits for a few others at most; where round-off decides they wait for each other.
	patience := 1000 + 16*len(crossed)*len(crossed)
	for len(crossed) > 0 {
		if patience--; patience < 0 {
			panic(bailout("lines that nearly coincide could not be told apart"))
		}
		e := crossed[0]
		crossed = crossed[1:]
		f, i, ok := t.edge(e[0], e[1])
		if !ok {
			continue
		}
		g := t.faces[f].n[i]
		k := t.faces[g].side(f)
		p, q := t.faces[f].v[i], t.faces[g].v[k]
		u, w := t.faces[f].v[next(i)], t.faces[f].v[prev(i)]
		// Flip only a strictly convex quadrilateral p u q w.
		if t.orient(t.points[p], t.points[u], t.points[q]) <= 0 || t.orient(t.points[q], t.points[w], t.points[p]) <= 0 {
			crossed = append(crossed, e)
			continue
		}
		t.flip(f, i)
		if (p == a && q == b) || (p == b && q == a) {
			continue
		}
		op, oq := t.orient(pa, pb, t.points[p]), t.orient(pa, pb, t.points[q])
		if p != a && p != b && q != a && q != b && (op > 0) != (oq > 0) {
			crossed = append(crossed, [2]int32{p, q})
		} else {
			made = append(made, [2]int32{p, q})
		}
	}
	t.legalise(made, a, b)
}

// legalise flips edges that are not Delaunay, and what follows from that. The
// edge from a to b stays.
func (t *triangulation) legalise(edges [][2]int32, a, b int32) {
	for len(edges) > 0 {
		e := edges[len(edges)-1]
		edges = edges[:len(edges)-1]
		if e[0] == a && e[1] == b || e[0] == b && e[1] == a {
			continue
		}
		f, i, ok := t.edge(e[0], e[1])
		if !ok || t.faces[f].s[i] != none || t.faces[f].n[i] == none {
			continue
		}
		g := t.faces[f].n[i]
		k := t.faces[g].side(f)
		v := t.faces[f].v
		q := t.faces[g].v[k]
		if t.inCircle(t.points[v[0]], t.points[v[1]], t.points[v[2]], t.points[q]) <= 0 {
			continue
		}
		p, u, w := v[i], v[next(i)], v[prev(i)]
		t.flip(f, i)
		edges = append(edges, [2]int32{p, u}, [2]int32{u, q}, [2]int32{q, w}, [2]int32{w, p})
	}
}

// flip replaces the edge i of face f by the other diagonal of the two faces at
// it.
func (t *triangulation) flip(f int32, i int) {
	g := t.faces[f].n[i]
	a, b := t.faces[f], t.faces[g]
	k := b.side(f)
	p, q := a.v[i], b.v[k]
	u, w := a.v[next(i)], a.v[prev(i)] // the old edge, left turning from p
	// Outer neighbours: pu and wp belong to f, uq and qw to g.
	nwp, swp := a.n[next(i)], a.s[next(i)]
	npu, spu := a.n[prev(i)], a.s[prev(i)]
	ku, kw := b.corner(u), b.corner(w)
	nqw, sqw := b.n[ku], b.s[ku]
	nuq, suq := b.n[kw], b.s[kw]
	t.faces[f] = face{v: [3]int32{p, u, q}, n: [3]int32{nuq, g, npu}, s: [3]int32{suq, none, spu}, region: a.region}
	t.faces[g] = face{v: [3]int32{p, q, w}, n: [3]int32{nqw, nwp, f}, s: [3]int32{sqw, swp, none}, region: a.region}
	if nuq != none {
		t.faces[nuq].n[t.faces[nuq].side(g)] = f
	}
	if nwp != none {
		t.faces[nwp].n[t.faces[nwp].side(f)] = g
	}
	t.at[p], t.at[u], t.at[q], t.at[w] = f, f, f, g
}
