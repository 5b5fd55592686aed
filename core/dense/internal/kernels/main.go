// Command kernels writes the assembly of package dense: run it by go generate
// there.
//
// Most kernels work on float64, those of small blocks on float32. A product kernel adds the product of a packed
// panel of A (k columns of MR rows) and a packed panel of B (k rows of NR
// columns) to a tile of MR by NR elements of C, whose rows are ldc apart. The
// tile stays in registers: MR·NR/lanes of them accumulate, NR/lanes hold a row of
// B, the rest take turns to hold an element of A.
package main

import (
	"fmt"

	. "github.com/mmcloughlin/avo/build"
	. "github.com/mmcloughlin/avo/operand"
	"github.com/mmcloughlin/avo/reg"
)

const word = 8 // bytes of a float64

func main() {
	Package("saltkettle/core/dense")
	ConstraintExpr("amd64")
	product("product512", 12, 2, 8, zmm)
	product("product256", 4, 3, 4, ymm)
	axpy()
	dot()
	axpyPair()
	dotPair()
	fours()
	fourRow()
	products(5, "fives256", first(5, "firstFive"))
	rowOf(5, "fiveRow256")
	products(6, "sixes256", first(6, "firstSix"))
	rowOf(6, "sixRow256")
	bilinear()
	Generate()
}

func zmm() reg.VecVirtual { return ZMM() }

func ymm() reg.VecVirtual { return YMM() }

// product makes a kernel for tiles of mr rows and nv vectors of the given lanes.
func product(name string, mr, nv, lanes int, vector func() reg.VecVirtual) {
	TEXT(name, NOSPLIT, "func(k int, a, b, c *float64, ldc int)")
	Pragma("noescape")
	Doc(fmt.Sprintf("%s adds the product of packed panels to a tile of %d by %d.", name, mr, nv*lanes))
	k := Load(Param("k"), GP64())
	a := Load(Param("a"), GP64())
	b := Load(Param("b"), GP64())
	c := Load(Param("c"), GP64())
	ldc := Load(Param("ldc"), GP64())
	SHLQ(Imm(3), ldc)
	acc := make([][]reg.VecVirtual, mr)
	for i := range acc {
		acc[i] = make([]reg.VecVirtual, nv)
		for j := range acc[i] {
			acc[i][j] = vector()
			if lanes == 8 {
				VPXORQ(acc[i][j], acc[i][j], acc[i][j])
			} else {
				VXORPD(acc[i][j], acc[i][j], acc[i][j])
			}
		}
	}
	row := make([]reg.VecVirtual, nv)
	for j := range row {
		row[j] = vector()
	}
	// Two elements of A in turn where the registers allow it, so that loading
	// one does not wait for the use of the other.
	turns := min(4, (lanes*4)-mr*nv-nv)
	element := make([]reg.VecVirtual, turns)
	for i := range element {
		element[i] = vector()
	}
	step := func(at int) {
		for j := range row {
			VMOVUPD(Mem{Base: b, Disp: (at*nv + j) * lanes * word}, row[j])
		}
		for i := range mr {
			e := element[i%turns]
			VBROADCASTSD(Mem{Base: a, Disp: (at*mr + i) * word}, e)
			for j := range row {
				VFMADD231PD(row[j], e, acc[i][j])
			}
		}
	}
	const unrolled = 4
	Label("four")
	CMPQ(k, Imm(unrolled))
	JLT(LabelRef("rest"))
	for at := range unrolled {
		step(at)
	}
	ADDQ(U32(unrolled*mr*word), a)
	ADDQ(U32(unrolled*nv*lanes*word), b)
	SUBQ(Imm(unrolled), k)
	JMP(LabelRef("four"))
	Label("rest")
	TESTQ(k, k)
	JE(LabelRef("store"))
	step(0)
	ADDQ(U32(mr*word), a)
	ADDQ(U32(nv*lanes*word), b)
	DECQ(k)
	JMP(LabelRef("rest"))
	Label("store")
	for i := range mr {
		for j := range row {
			at := Mem{Base: c, Disp: j * lanes * word}
			VADDPD(at, acc[i][j], acc[i][j])
			VMOVUPD(acc[i][j], at)
		}
		if i < mr-1 {
			ADDQ(ldc, c)
		}
	}
	VZEROUPPER()
	RET()
}

// axpy makes y += alpha·x for n elements, n a multiple of 4.
func axpy() {
	TEXT("axpy256", NOSPLIT, "func(n int, alpha float64, x, y *float64)")
	Pragma("noescape")
	Doc("axpy256 adds alpha times x to y; n is a multiple of 4.")
	n := Load(Param("n"), GP64())
	alpha := YMM()
	VBROADCASTSD(NewParamAddr("alpha", 8), alpha)
	x := Load(Param("x"), GP64())
	y := Load(Param("y"), GP64())
	s := []reg.VecVirtual{YMM(), YMM(), YMM(), YMM()}
	Label("long")
	CMPQ(n, Imm(16))
	JLT(LabelRef("short"))
	for i := range s {
		VMOVUPD(Mem{Base: y, Disp: 4 * i * word}, s[i])
	}
	for i := range s {
		VFMADD231PD(Mem{Base: x, Disp: 4 * i * word}, alpha, s[i])
	}
	for i := range s {
		VMOVUPD(s[i], Mem{Base: y, Disp: 4 * i * word})
	}
	ADDQ(Imm(16*word), x)
	ADDQ(Imm(16*word), y)
	SUBQ(Imm(16), n)
	JMP(LabelRef("long"))
	Label("short")
	TESTQ(n, n)
	JE(LabelRef("end"))
	VMOVUPD(Mem{Base: y}, s[0])
	VFMADD231PD(Mem{Base: x}, alpha, s[0])
	VMOVUPD(s[0], Mem{Base: y})
	ADDQ(Imm(4*word), x)
	ADDQ(Imm(4*word), y)
	SUBQ(Imm(4), n)
	JMP(LabelRef("short"))
	Label("end")
	VZEROUPPER()
	RET()
}

// dot makes the inner product of n elements, n a multiple of 4.
func dot() {
	TEXT("dot256", NOSPLIT, "func(n int, x, y *float64) float64")
	Pragma("noescape")
	Doc("dot256 returns the inner product; n is a multiple of 4.")
	n := Load(Param("n"), GP64())
	x := Load(Param("x"), GP64())
	y := Load(Param("y"), GP64())
	s := []reg.VecVirtual{YMM(), YMM(), YMM(), YMM()}
	t := []reg.VecVirtual{YMM(), YMM(), YMM(), YMM()}
	for i := range s {
		VXORPD(s[i], s[i], s[i])
	}
	Label("long")
	CMPQ(n, Imm(16))
	JLT(LabelRef("short"))
	for i := range s {
		VMOVUPD(Mem{Base: x, Disp: 4 * i * word}, t[i])
		VFMADD231PD(Mem{Base: y, Disp: 4 * i * word}, t[i], s[i])
	}
	ADDQ(Imm(16*word), x)
	ADDQ(Imm(16*word), y)
	SUBQ(Imm(16), n)
	JMP(LabelRef("long"))
	Label("short")
	TESTQ(n, n)
	JE(LabelRef("end"))
	VMOVUPD(Mem{Base: x}, t[0])
	VFMADD231PD(Mem{Base: y}, t[0], s[0])
	ADDQ(Imm(4*word), x)
	ADDQ(Imm(4*word), y)
	SUBQ(Imm(4), n)
	JMP(LabelRef("short"))
	Label("end")
	VADDPD(s[1], s[0], s[0])
	VADDPD(s[3], s[2], s[2])
	VADDPD(s[2], s[0], s[0])
	low, high := XMM(), XMM()
	VEXTRACTF128(Imm(1), s[0], high)
	VADDPD(s[0].AsX(), high, low)
	VUNPCKHPD(low, low, high)
	VADDSD(high, low, low)
	Store(low, ReturnIndex(0))
	VZEROUPPER()
	RET()
}

// axpyPair makes y1 += a0·r1 + a1·r2 and y2 += a2·r1 + a3·r2 for n elements, n a multiple
// of 4: both rows are read once for both vectors.
func axpyPair() {
	TEXT("axpyPair256", NOSPLIT, "func(n int, a, r1, r2, y1, y2 *float64)")
	Pragma("noescape")
	Doc("axpyPair256 adds a[0]·r1 + a[1]·r2 to y1 and a[2]·r1 + a[3]·r2 to y2; n is a multiple of 4.")
	n := Load(Param("n"), GP64())
	a := Load(Param("a"), GP64())
	r := []reg.Register{Load(Param("r1"), GP64()), Load(Param("r2"), GP64())}
	y := []reg.Register{Load(Param("y1"), GP64()), Load(Param("y2"), GP64())}
	factor := []reg.VecVirtual{YMM(), YMM(), YMM(), YMM()}
	for i := range factor {
		VBROADCASTSD(Mem{Base: a, Disp: i * word}, factor[i])
	}
	row := []reg.VecVirtual{YMM(), YMM()}
	sum := []reg.VecVirtual{YMM(), YMM()}
	step := func(at int) {
		for i := range 2 {
			VMOVUPD(Mem{Base: r[i], Disp: at * word}, row[i])
			VMOVUPD(Mem{Base: y[i], Disp: at * word}, sum[i])
		}
		for i := range 2 {
			VFMADD231PD(row[0], factor[2*i], sum[i])
			VFMADD231PD(row[1], factor[2*i+1], sum[i])
		}
		for i := range 2 {
			VMOVUPD(sum[i], Mem{Base: y[i], Disp: at * word})
		}
	}
	advance := func(by int) {
		for i := range 2 {
			ADDQ(Imm(uint64(by*word)), r[i])
			ADDQ(Imm(uint64(by*word)), y[i])
		}
		SUBQ(Imm(uint64(by)), n)
	}
	Label("long")
	CMPQ(n, Imm(8))
	JLT(LabelRef("short"))
	step(0)
	step(4)
	advance(8)
	JMP(LabelRef("long"))
	Label("short")
	TESTQ(n, n)
	JE(LabelRef("end"))
	step(0)
	advance(4)
	JMP(LabelRef("short"))
	Label("end")
	VZEROUPPER()
	RET()
}

// dotPair makes the four inner products of two rows with two vectors of n elements, n a
// multiple of 4.
func dotPair() {
	TEXT("dotPair256", NOSPLIT, "func(n int, r1, r2, x1, x2, s *float64)")
	Pragma("noescape")
	Doc("dotPair256 adds the inner products r1·x1, r2·x1, r1·x2 and r2·x2 to s; n is a multiple of 4.")
	n := Load(Param("n"), GP64())
	r := []reg.Register{Load(Param("r1"), GP64()), Load(Param("r2"), GP64())}
	x := []reg.Register{Load(Param("x1"), GP64()), Load(Param("x2"), GP64())}
	out := Load(Param("s"), GP64())
	sum := []reg.VecVirtual{YMM(), YMM(), YMM(), YMM()}
	for i := range sum {
		VXORPD(sum[i], sum[i], sum[i])
	}
	row := []reg.VecVirtual{YMM(), YMM()}
	vector := []reg.VecVirtual{YMM(), YMM()}
	step := func(at int) {
		for i := range 2 {
			VMOVUPD(Mem{Base: r[i], Disp: at * word}, row[i])
			VMOVUPD(Mem{Base: x[i], Disp: at * word}, vector[i])
		}
		for i := range 2 {
			VFMADD231PD(row[0], vector[i], sum[2*i])
			VFMADD231PD(row[1], vector[i], sum[2*i+1])
		}
	}
	advance := func(by int) {
		for i := range 2 {
			ADDQ(Imm(uint64(by*word)), r[i])
			ADDQ(Imm(uint64(by*word)), x[i])
		}
		SUBQ(Imm(uint64(by)), n)
	}
	Label("long")
	CMPQ(n, Imm(8))
	JLT(LabelRef("short"))
	step(0)
	step(4)
	advance(8)
	JMP(LabelRef("long"))
	Label("short")
	TESTQ(n, n)
	JE(LabelRef("end"))
	step(0)
	advance(4)
	JMP(LabelRef("short"))
	Label("end")
	low, high := XMM(), XMM()
	for i := range sum {
		VEXTRACTF128(Imm(1), sum[i], high)
		VADDPD(sum[i].AsX(), high, low)
		VUNPCKHPD(low, low, high)
		VADDSD(high, low, low)
		VADDSD(Mem{Base: out, Disp: i * word}, low, low)
		VMOVSD(low, Mem{Base: out, Disp: i * word})
	}
	VZEROUPPER()
	RET()
}
