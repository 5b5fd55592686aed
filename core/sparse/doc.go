// Package sparse solves large sparse linear systems and eigenvalue problems.
//
// Matrices are stored by compressed rows, of real or complex numbers. There are
// direct solvers ([Analyse], [Factor]), iterative ones ([CG], [MINRES], [GMRES],
// [BiCGStab]) with preconditioners ([AMG], [ILU], [Blocks], and the factors of
// another matrix), and [Eigen]. Solvers take a settings struct whose zero value
// works and return a result with the reason why they ended, so that a caller can
// always tell a solution from an attempt.
package sparse
