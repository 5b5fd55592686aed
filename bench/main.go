// Command bench measures meshing, assembly and solving at several sizes, and the
// kernels that they rest on, and prints one table. Each figure is the best of three. Names
// of tables, such as "grown radiation", let it make only these.
package main

import (
	"context"
	"fmt"
	"os"
	"runtime"
	"slices"
	"text/tabwriter"
	"time"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/shape"
	"saltkettle/core/solve"
	"saltkettle/examples"
)

func main() {
	if err := bench(); err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func bench() error {
	w := tabwriter.NewWriter(os.Stdout, 2, 4, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintf(w, "%d cores\n\n", runtime.GOMAXPROCS(0))
	tables := []struct {
		name string
		make func(w *tabwriter.Writer) error
	}{{"grown", grown}, {"stacks", stacks}, {"grids", grids}, {"runs", runs}, {"sections", sections}, {"radiation", radiation}, {"kernels", kernels}, {"blocks", blocks}, {"plates", plates}, {"flows", flows}, {"solids", solids}}
	for _, t := range tables {
		if len(os.Args) > 1 && !slices.Contains(os.Args[1:], t.name) {
			continue
		}
		if err := t.make(w); err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
	}
	return w.Flush()
}

// runs solves the floor of the pan at several sizes.
func runs(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\npan floor\tcells\tmesh s\tassemble s\tsolve s\ttotal s\titerations\t")
	for _, size := range []string{"5 mm", "2.5 mm", "1.25 mm", "0.8 mm"} {
		doc, err := examples.Load("pan-floor")
		if err != nil {
			return err
		}
		if err := doc.Set("mesh/size", size); err != nil {
			return err
		}
		if err := run(w, size, doc); err != nil {
			return err
		}
	}
	return nil
}

func run(w *tabwriter.Writer, name string, doc *model.Document) error {
	var o *solve.Outcome
	if _, err := best(func() error {
		next, err := solve.Run(context.Background(), doc, solve.Options{Now: time.Now})
		if err == nil && (o == nil || next.Seconds["total"] < o.Seconds["total"]) {
			o = next
		}
		return err
	}); err != nil {
		return err
	}
	s := o.Seconds
	fmt.Fprintf(w, "%s\t%d\t%.3f\t%.3f\t%.3f\t%.3f\t%d\t\n", name, o.Mesh.Cells, s["mesh"], s["assemble"], s["solve"], s["total"], o.Solver.Iterations)
	return nil
}

// grate is a plate of 1 × 0.6 m with 3 × 2 round holes of another material.
func grate(size float64) (*mesh.Plan, error) {
	var segments []mesh.Segment
	add := func(body int32, o shape.Outline) {
		for _, loop := range o.Loops {
			for _, e := range loop {
				from := e.From
				for _, to := range e.Chords(size) {
					segments = append(segments, mesh.Segment{A: mesh.Point(from), B: mesh.Point(to), Tag: mesh.Tag{Body: body}})
					from = to
				}
			}
		}
	}
	plate, err := shape.Rectangle(1, 0.6)
	if err != nil {
		return nil, err
	}
	add(0, plate)
	sizes := []float64{size}
	for i := range 3 {
		for k := range 2 {
			disc, err := shape.Disc(0.03)
			if err != nil {
				return nil, err
			}
			add(int32(len(sizes)), disc.Move((float64(i)-1)*0.3, (float64(k)-0.5)*0.3, 0))
			sizes = append(sizes, size)
		}
	}
	return mesh.NewPlan(segments, &mesh.PlanSettings{Sizes: sizes})
}

// best times f three times and returns the least, s.
func best(f func() error) (float64, error) {
	least := 0.0
	for i := range 3 {
		began := time.Now()
		if err := f(); err != nil {
			return 0, err
		}
		if t := time.Since(began).Seconds(); i == 0 || t < least {
			least = t
		}
	}
	return least, nil
}
