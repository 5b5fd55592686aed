// Package sparse solves large sparse linear systems.
//
// Matrices are stored by compressed rows. Solvers take a Settings struct whose
// zero value works and return a Result with the reason why they ended, so that
// a caller can always tell a solution from an attempt.
package sparse
