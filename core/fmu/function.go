// Package fmu writes predictions as programs: as a function in C or Go, and as a unit for co-simulation by the open standard FMI 3.0
// (https://fmi-standard.org, 2022), with its sources and a library for Linux.
package fmu

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/surface"
)

// Function is readings by parameters, each in its unit.
type Function struct {
	// Name is free text, and About says what it is and where it comes from.
	Name, About string
	Inputs      []Input
	Outputs     []Output
}

// Input is a parameter.
type Input struct {
	Name string
	Unit quantity.Unit
	// From and To are the ends of the range over which the surfaces are scaled, in the unit.
	From, To float64
	Start    float64
}

// Output is a reading.
type Output struct {
	Name, About string
	Unit        quantity.Unit
	// Difference says that it is a difference of temperatures, in the unit without its offset.
	Difference bool
	// Surface gives its value in SI.
	Surface surface.Source
}

// shown is the mean and the scale of an output in its unit.
func (o *Output) shown() (mean, scale float64) {
	mean = o.Unit.From(o.Surface.Mean, o.Difference)
	return mean, o.Unit.From(o.Surface.Mean+o.Surface.Scale, o.Difference) - mean
}

// Identifier is a text as a name of C.
func Identifier(text string) string {
	var b strings.Builder
	for _, r := range text {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r == '_', r >= '0' && r <= '9' && b.Len() > 0:
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "_"):
			b.WriteByte('_')
		}
	}
	if name := strings.Trim(b.String(), "_"); name != "" {
		return name
	}
	return "surface"
}

// number is a number that C and Go read.
func number(x float64) string {
	text := strconv.FormatFloat(x, 'g', 17, 64)
	if !strings.ContainsAny(text, ".e") {
		text += ".0"
	}
	return text
}

func numbers(list []float64) string {
	texts := make([]string, len(list))
	for i, x := range list {
		texts[i] = number(x)
	}
	return strings.Join(texts, ", ")
}

func (f *Function) ends() (from, span []float64) {
	for _, in := range f.Inputs {
		from, span = append(from, in.From), append(span, in.To-in.From)
	}
	return from, span
}

// plainLine is a text that stays within a comment of one line, whatever people wrote.
func plainLine(text string) string {
	text = strings.Map(func(r rune) rune {
		if r < ' ' || r == '\u2028' || r == '\u2029' {
			return ' '
		}
		return r
	}, text)
	// Before the end of a line a backslash, or what stood for it in old C, would go on with the next one.
	return strings.NewReplacer("\\", "/", "??", "? ?").Replace(text)
}

// comment is the head of a file, line by line.
func (f *Function) comment() (lines []string) {
	lines = append(lines, plainLine(f.Name+": "+f.About), "")
	for i, in := range f.Inputs {
		lines = append(lines, strings.TrimSpace(fmt.Sprintf("x[%d]  %s, from %s to %s %s", i, in.Name, quantity.Figures(min(in.From, in.To), 6), quantity.Figures(max(in.From, in.To), 6), in.Unit.Text)))
	}
	for i, out := range f.Outputs {
		lines = append(lines, strings.TrimSpace(fmt.Sprintf("y[%d]  %s %s", i, plainLine(out.Name), out.Unit.Text)))
	}
	return append(lines, "", "Beyond the ranges of its inputs it says nothing that can be trusted.")
}

// C is the function in C99: void surface(const double x[], double y[]).
func (f *Function) C() string {
	var b strings.Builder
	for _, l := range f.comment() {
		b.WriteString(strings.TrimRight("// "+l, " ") + "\n")
	}
	d := len(f.Inputs)
	from, span := f.ends()
	fmt.Fprintf(&b, "\n#include <math.h>\n#include \"surface.h\"\n\n#define INPUTS %d\n\nstatic const double from[INPUTS] = {%s};\nstatic const double span[INPUTS] = {%s};\n", d, numbers(from), numbers(span))
	for k := range f.Outputs {
		f.cOutput(&b, k)
	}
	b.WriteString("\nvoid surface(const double x[], double y[]) {\n  double u[INPUTS];\n  for (int j = 0; j < INPUTS; j++) u[j] = (x[j] - from[j]) / span[j];\n")
	for k := range f.Outputs {
		fmt.Fprintf(&b, "  y[%d] = output%d(u);\n", k, k)
	}
	b.WriteString("}\n")
	return b.String()
}

// cOutput writes one output: its sums of radial functions and of products.
func (f *Function) cOutput(b *strings.Builder, k int) {
	o := &f.Outputs[k]
	s := &o.Surface
	mean, scale := o.shown()
	n, m := len(s.Points), len(s.Terms)
	fmt.Fprintf(b, "\n// %s, %s\n", plainLine(o.Name), o.Unit.Text)
	if n > 0 {
		fmt.Fprintf(b, "static const double points%d[%d][INPUTS] = {\n", k, n)
		for _, p := range s.Points {
			fmt.Fprintf(b, "  {%s},\n", numbers(p))
		}
		fmt.Fprintf(b, "};\nstatic const double weights%d[%d] = {%s};\nstatic const double lengths%d[INPUTS] = {%s};\n", k, n, numbers(s.Weights), k, numbers(s.Lengths))
	}
	fmt.Fprintf(b, "static const double terms%d[%d] = {%s};\nstatic const unsigned char powers%d[%d][INPUTS] = {", k, m, numbers(s.Terms), k, m)
	for i, p := range s.Powers {
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString("{" + strings.Trim(strings.Join(strings.Fields(fmt.Sprint(p)), ", "), "[]") + "}")
	}
	fmt.Fprintf(b, "};\nstatic double output%d(const double u[]) {\n  double f = 0;\n", k)
	if n > 0 {
		fmt.Fprintf(b, "  for (int i = 0; i < %d; i++) {\n    double s = 0;\n    for (int j = 0; j < INPUTS; j++) {\n      double t = (u[j] - points%d[i][j]) / lengths%d[j];\n      s += t * t;\n    }\n", n, k, k)
		if s.Kind == surface.Radial {
			fmt.Fprintf(b, "    f += weights%d[i] * s * sqrt(s);\n  }\n", k)
		} else {
			fmt.Fprintf(b, "    double r = sqrt(5 * s);\n    f += weights%d[i] * (1 + r + r * r / 3) * exp(-r);\n  }\n", k)
		}
	}
	fmt.Fprintf(b, "  for (int i = 0; i < %d; i++) {\n    double t = terms%d[i];\n    for (int j = 0; j < INPUTS; j++)\n      for (int p = 0; p < powers%d[i][j]; p++) t *= u[j];\n    f += t;\n  }\n  return %s + %s * f;\n}\n", m, k, k, number(mean), number(scale))
}

// Go is the function in Go: func Surface(x []float64) []float64.
func (f *Function) Go() string {
	var b strings.Builder
	b.WriteString("// Package surface is a prediction.\n//\n")
	for _, l := range f.comment() {
		b.WriteString(strings.TrimRight("// "+l, " ") + "\n")
	}
	from, span := f.ends()
	fmt.Fprintf(&b, "package surface\n\n")
	if f.radialOrGaussian() {
		b.WriteString("import \"math\"\n\n")
	}
	fmt.Fprintf(&b, "var (\n\tfrom = []float64{%s}\n\tspan = []float64{%s}\n)\n", numbers(from), numbers(span))
	for k := range f.Outputs {
		f.goOutput(&b, k)
	}
	b.WriteString("\n// Surface returns the outputs at inputs.\nfunc Surface(x []float64) []float64 {\n\tu := make([]float64, len(from))\n\tfor j := range u {\n\t\tu[j] = (x[j] - from[j]) / span[j]\n\t}\n\treturn []float64{")
	for k := range f.Outputs {
		if k > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "output%d(u)", k)
	}
	b.WriteString("}\n}\n")
	return b.String()
}

func (f *Function) radialOrGaussian() bool {
	for i := range f.Outputs {
		if len(f.Outputs[i].Surface.Points) > 0 {
			return true
		}
	}
	return false
}

func (f *Function) goOutput(b *strings.Builder, k int) {
	o := &f.Outputs[k]
	s := &o.Surface
	mean, scale := o.shown()
	b.WriteString("\nvar (\n")
	if len(s.Points) > 0 {
		fmt.Fprintf(b, "\tpoints%d = [][]float64{\n", k)
		for _, p := range s.Points {
			fmt.Fprintf(b, "\t\t{%s},\n", numbers(p))
		}
		fmt.Fprintf(b, "\t}\n\tweights%d = []float64{%s}\n\tlengths%d = []float64{%s}\n", k, numbers(s.Weights), k, numbers(s.Lengths))
	}
	fmt.Fprintf(b, "\tterms%d = []float64{%s}\n\tpowers%d = [][]int{", k, numbers(s.Terms), k)
	for i, p := range s.Powers {
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString("{" + strings.Trim(strings.Join(strings.Fields(fmt.Sprint(p)), ", "), "[]") + "}")
	}
	fmt.Fprintf(b, "}\n)\n\n// output%d is %s, %s.\nfunc output%d(u []float64) float64 {\n\tf := 0.0\n", k, plainLine(o.Name), o.Unit.Text, k)
	if len(s.Points) > 0 {
		fmt.Fprintf(b, "\tfor i, p := range points%d {\n\t\ts := 0.0\n\t\tfor j, v := range u {\n\t\t\tt := (v - p[j]) / lengths%d[j]\n\t\t\ts += t * t\n\t\t}\n", k, k)
		if s.Kind == surface.Radial {
			fmt.Fprintf(b, "\t\tf += weights%d[i] * s * math.Sqrt(s)\n\t}\n", k)
		} else {
			fmt.Fprintf(b, "\t\tr := math.Sqrt(5 * s)\n\t\tf += weights%d[i] * (1 + r + r*r/3) * math.Exp(-r)\n\t}\n", k)
		}
	}
	fmt.Fprintf(b, "\tfor i, t := range terms%d {\n\t\tfor j, p := range powers%d[i] {\n\t\t\tfor range p {\n\t\t\t\tt *= u[j]\n\t\t\t}\n\t\t}\n\t\tf += t\n\t}\n\treturn %s + %s*f\n}\n", k, k, number(mean), number(scale))
}

// At evaluates the function: its outputs in their units at inputs in theirs.
func (f *Function) At(x []float64) []float64 {
	u := make([]float64, len(x))
	for j := range x {
		u[j] = (x[j] - f.Inputs[j].From) / (f.Inputs[j].To - f.Inputs[j].From)
	}
	y := make([]float64, len(f.Outputs))
	for k := range f.Outputs {
		o := &f.Outputs[k]
		y[k] = o.Unit.From(o.Surface.At(u), o.Difference)
	}
	return y
}

// grid is how many points a table of a function has along each input: as many as keep it below mostLines.
func (f *Function) grid() int {
	const mostLines = 20000
	return max(2, min(41, int(math.Pow(mostLines, 1/float64(len(f.Inputs)))+1e-9)))
}

// Table is the function over a grid of its inputs: a head and lines of numbers.
func (f *Function) Table() (head []string, lines [][]float64) {
	for _, in := range f.Inputs {
		head = append(head, strings.TrimSuffix(fmt.Sprintf("%s (%s)", in.Name, in.Unit.Text), " ()"))
	}
	for _, o := range f.Outputs {
		head = append(head, strings.TrimSuffix(fmt.Sprintf("%s (%s)", o.Name, o.Unit.Text), " ()"))
	}
	n, d := f.grid(), len(f.Inputs)
	at := make([]int, d)
	for {
		x := make([]float64, d)
		for j := range x {
			t := float64(at[j]) / float64(n-1)
			x[j] = (1-t)*f.Inputs[j].From + t*f.Inputs[j].To
		}
		lines = append(lines, append(x, f.At(x)...))
		j := d - 1
		for ; j >= 0; j-- {
			if at[j]++; at[j] < n {
				break
			}
			at[j] = 0
		}
		if j < 0 {
			return head, lines
		}
	}
}
