// Package dense holds the kernels of dense linear algebra that the sparse
// factorisations rest on: products of blocks, symmetric factorisation L·D·Lᵀ and
// triangular factorisation L·U of fronts, for real and for complex numbers.
//
// All matrices are stored by rows. A product runs in blocks that fit the caches
// on a small kernel in registers; the kernel is assembly for processors with
// AVX-512 or with AVX2 and FMA, chosen when the program starts, and Go elsewhere
// (K. Goto and R. van de Geijn, ACM Trans. Math. Softw. 34 (2008) 12). Results do
// not depend on the number of threads; between kernels they differ by round-off.
package dense
