package main

import (
	"fmt"

	. "github.com/mmcloughlin/avo/build"
	. "github.com/mmcloughlin/avo/operand"
	"github.com/mmcloughlin/avo/reg"
)

const half = 4 // bytes of a float32

// fours makes out −= l·u of blocks of 4 by 4 of float32: two rows in a register.
func fours() {
	TEXT("fours256", NOSPLIT, "func(out, l, u *float32)")
	Pragma("noescape")
	Doc("fours256 takes the product of two blocks of 4 by 4 from a third.")
	out := Load(Param("out"), GP64())
	l := Load(Param("l"), GP64())
	u := Load(Param("u"), GP64())
	var sum, left, by [2]reg.VecVirtual
	for i := range sum {
		sum[i], left[i], by[i] = YMM(), YMM(), YMM()
		VMOVUPS(Mem{Base: out, Disp: 8 * i * half}, sum[i])
		VMOVUPS(Mem{Base: l, Disp: 8 * i * half}, left[i])
	}
	row := YMM()
	for t := range 4 {
		VBROADCASTF128(Mem{Base: u, Disp: 4 * t * half}, row)
		for i := range sum {
			VPERMILPS(Imm(uint64(t*0x55)), left[i], by[i])
			VFNMADD231PS(row, by[i], sum[i])
		}
	}
	for i := range sum {
		VMOVUPS(sum[i], Mem{Base: out, Disp: 8 * i * half})
	}
	VZEROUPPER()
	RET()
}

// fourRow makes the product of a row of blocks of 4 by 4 of float32 with a vector of float64.
func fourRow() {
	TEXT("fourRow256", NOSPLIT, "func(n int, data *float32, cols *int32, x, sum *float64)")
	Pragma("noescape")
	Doc("fourRow256 adds n blocks of 4 by 4, each times the four of x at its column, to sum.")
	n := Load(Param("n"), GP64())
	data := Load(Param("data"), GP64())
	cols := Load(Param("cols"), GP64())
	x := Load(Param("x"), GP64())
	sum := Load(Param("sum"), GP64())
	var acc, row [4]reg.VecVirtual
	for i := range acc {
		acc[i], row[i] = YMM(), YMM()
		VXORPD(acc[i], acc[i], acc[i])
	}
	at, v := GP64(), YMM()
	Label("next")
	TESTQ(n, n)
	JE(LabelRef("end"))
	MOVLQSX(Mem{Base: cols}, at)
	SHLQ(Imm(5), at)
	ADDQ(x, at)
	VMOVUPD(Mem{Base: at}, v)
	for i := range acc {
		VCVTPS2PD(Mem{Base: data, Disp: 4 * i * half}, row[i])
		VFMADD231PD(v, row[i], acc[i])
	}
	ADDQ(Imm(16*half), data)
	ADDQ(Imm(4), cols)
	DECQ(n)
	JMP(LabelRef("next"))
	Label("end")
	VHADDPD(acc[1], acc[0], row[0])
	VHADDPD(acc[3], acc[2], row[1])
	VPERM2F128(Imm(0x20), row[1], row[0], row[2])
	VPERM2F128(Imm(0x31), row[1], row[0], row[3])
	VADDPD(row[2], row[3], row[2])
	VADDPD(Mem{Base: sum}, row[2], row[2])
	VMOVUPD(row[2], Mem{Base: sum})
	VZEROUPPER()
	RET()
}

// bilinear makes Σ gᵀ·c·h of 4 by 8, 4 by 4 and 4 by 8 of float32: the sums stay in registers.
func bilinear() {
	TEXT("bilinear256", NOSPLIT, "func(n int, test, c, trial, out *float32)")
	Pragma("noescape")
	Doc("bilinear256 sets out, 8 by 8, to the sum of n products testᵀ·c·trial of 4 by 8, 4 by 4 and 4 by 8.")
	n := Load(Param("n"), GP64())
	g := Load(Param("test"), GP64())
	c := Load(Param("c"), GP64())
	h := Load(Param("trial"), GP64())
	out := Load(Param("out"), GP64())
	var sum [8]reg.VecVirtual
	for i := range sum {
		sum[i] = YMM()
		VXORPS(sum[i], sum[i], sum[i])
	}
	var row, by [4]reg.VecVirtual
	for i := range row {
		row[i], by[i] = YMM(), YMM()
	}
	Label("next")
	TESTQ(n, n)
	JE(LabelRef("end"))
	for e := range 4 {
		for d := range 4 {
			VBROADCASTSS(Mem{Base: c, Disp: (4*d + e) * half}, by[d])
			if e == 0 {
				VMULPS(Mem{Base: h}, by[d], row[d])
			} else {
				VFMADD231PS(Mem{Base: h, Disp: 8 * e * half}, by[d], row[d])
			}
		}
	}
	for d := range 4 {
		for a := range sum {
			VBROADCASTSS(Mem{Base: g, Disp: (8*d + a) * half}, by[a%4])
			VFMADD231PS(row[d], by[a%4], sum[a])
		}
	}
	ADDQ(Imm(32*half), g)
	ADDQ(Imm(16*half), c)
	ADDQ(Imm(32*half), h)
	DECQ(n)
	JMP(LabelRef("next"))
	Label("end")
	for a := range sum {
		VMOVUPS(sum[a], Mem{Base: out, Disp: 8 * a * half})
	}
	VZEROUPPER()
	RET()
}

// first is a mask of the first n of eight float32.
func first(n int, name string) Mem {
	mask := GLOBL(name, RODATA|NOPTR)
	for i := range 8 {
		v := uint32(0)
		if i < n {
			v = 0xffffffff
		}
		DATA(4*i, U32(v))
	}
	return mask
}

// products makes out −= l·u of blocks of n by n of float32, n at most 8: a row in a register.
func products(n int, name string, mask Mem) {
	TEXT(name, NOSPLIT, "func(out, l, u *float32)")
	Pragma("noescape")
	Doc(fmt.Sprintf("%s takes the product of two blocks of %d by %d from a third.", name, n, n))
	out := Load(Param("out"), GP64())
	l := Load(Param("l"), GP64())
	u := Load(Param("u"), GP64())
	some := YMM()
	VMOVUPS(mask, some)
	row := make([]reg.VecVirtual, n)
	for t := range row {
		row[t] = YMM()
		VMASKMOVPS(Mem{Base: u, Disp: n * t * half}, some, row[t])
	}
	for r := range n {
		sum := YMM()
		VMASKMOVPS(Mem{Base: out, Disp: n * r * half}, some, sum)
		for t := range row {
			by := YMM()
			VBROADCASTSS(Mem{Base: l, Disp: (n*r + t) * half}, by)
			VFNMADD231PS(row[t], by, sum)
		}
		VMASKMOVPS(sum, some, Mem{Base: out, Disp: n * r * half})
	}
	VZEROUPPER()
	RET()
}

// rowOf makes the product of a row of blocks of 5 by 5 or 6 by 6 of float32 with a vector of float64: four columns in a register,
// those beyond in another, with what there is of the sum already.
func rowOf(n int, name string) {
	TEXT(name, NOSPLIT, "func(n int, data *float32, cols *int32, x, sum *float64)")
	Pragma("noescape")
	Doc(fmt.Sprintf("%s adds n blocks of %d by %d, each times the %d of x at its column, to sum.", name, n, n, n))
	count := Load(Param("n"), GP64())
	data := Load(Param("data"), GP64())
	cols := Load(Param("cols"), GP64())
	x := Load(Param("x"), GP64())
	sum := Load(Param("sum"), GP64())
	acc, last := make([]reg.VecVirtual, n), make([]reg.VecVirtual, n)
	for i := range acc {
		acc[i], last[i] = YMM(), XMM()
		VXORPD(acc[i], acc[i], acc[i])
		VMOVSD(Mem{Base: sum, Disp: i * word}, last[i])
	}
	at, v, beyond, row := GP64(), YMM(), XMM(), YMM()
	Label("next")
	TESTQ(count, count)
	JE(LabelRef("end"))
	MOVLQSX(Mem{Base: cols}, at)
	if n == 5 {
		LEAQ(Mem{Base: at, Index: at, Scale: 4}, at)
	} else {
		LEAQ(Mem{Base: at, Index: at, Scale: 2}, at)
		ADDQ(at, at)
	}
	LEAQ(Mem{Base: x, Index: at, Scale: 8}, at)
	VMOVUPD(Mem{Base: at}, v)
	if n == 5 {
		VMOVSD(Mem{Base: at, Disp: 4 * word}, beyond)
	} else {
		VMOVUPD(Mem{Base: at, Disp: 4 * word}, beyond)
	}
	for i := range acc {
		VCVTPS2PD(Mem{Base: data, Disp: n * i * half}, row)
		VFMADD231PD(v, row, acc[i])
		if n == 5 {
			VCVTSS2SD(Mem{Base: data, Disp: (n*i + 4) * half}, beyond, row.AsX())
			VFMADD231SD(beyond, row.AsX(), last[i])
		} else {
			VCVTPS2PD(Mem{Base: data, Disp: (n*i + 4) * half}, row.AsX())
			VFMADD231PD(beyond, row.AsX(), last[i])
		}
	}
	ADDQ(Imm(uint64(n*n*half)), data)
	ADDQ(Imm(4), cols)
	DECQ(count)
	JMP(LabelRef("next"))
	Label("end")
	for i := range acc {
		VEXTRACTF128(Imm(1), acc[i], row.AsX())
		VADDPD(row.AsX(), acc[i].AsX(), row.AsX())
		if n == 6 { // the sum so far is in the lower half
			VADDPD(row.AsX(), last[i], row.AsX())
			VHADDPD(row.AsX(), row.AsX(), last[i])
		} else {
			VHADDPD(row.AsX(), row.AsX(), row.AsX())
			VADDSD(row.AsX(), last[i], last[i])
		}
		VMOVSD(last[i], Mem{Base: sum, Disp: i * word})
	}
	VZEROUPPER()
	RET()
}
