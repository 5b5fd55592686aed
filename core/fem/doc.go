// Package fem discretises fields by finite elements.
//
// A [Grid] is cells of any [Element]; a [System] numbers the unknowns of fields on
// it and assembles the equations of a [Kernel], which a physics supplies. Systems
// are solved by Newton's method ([System.Solve]), followed through time
// ([System.March]) or linearised for modes and harmonic response.
//
// Assembly runs on all cores without locks: each core owns a range of rows and
// computes the cells that touch it. Sums do not depend on the number of cores.
package fem
