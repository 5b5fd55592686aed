// Package mesh divides devices into cells.
//
// A plan mesh is a constrained Delaunay triangulation of all outlines of a
// device seen from above, refined until no angle away from sharp input corners
// is smaller than a bound and no triangle is larger than its parts ask for. A
// stack mesh is a plan mesh times levels in z: wedges, each labelled by the
// topmost body that contains it, with the empty ones left out.
//
// Coordinates are metres. While a plan is triangulated its points lie on a fine
// grid (2⁻⁵¹ of the largest coordinate), so that differences of coordinates are
// exact in float64 and the geometric predicates can be decided without error in
// whole numbers where floating point is in doubt.
//
// Sources: J. Ruppert, "A Delaunay refinement algorithm for quality
// 2-dimensional mesh generation", J. Algorithms 18 (1995) 548–585; A. Üngör,
// "Off-centers: a new type of Steiner points", LATIN 2004, LNCS 2976, 152–161;
// S. W. Sloan, "A fast algorithm for generating constrained Delaunay
// triangulations", Computers & Structures 47 (1993) 441–450.
package mesh
