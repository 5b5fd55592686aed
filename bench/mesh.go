package main

import (
	"context"
	"fmt"
	"runtime"
	"text/tabwriter"
	"time"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/shape"
	"saltkettle/examples"
)

// stacks meshes stacks of wedges on the plan of the grate, and the demo models.
func stacks(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\nstack\twedges\ts\twedges/s\tbytes/wedge\t")
	for _, layers := range []int{1, 3, 10} {
		var m *mesh.Mesh
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		t, err := best(func() (err error) {
			m = nil
			m, err = stack(2.6e-3, layers)
			return err
		})
		if err != nil {
			return err
		}
		runtime.GC()
		runtime.ReadMemStats(&after)
		fmt.Fprintf(w, "%d layers\t%d\t%.3f\t%.0f\t%.0f\t\n", layers, m.CellCount(), t, float64(m.CellCount())/t, float64(after.HeapAlloc-before.HeapAlloc)/float64(m.CellCount()))
		runtime.KeepAlive(m)
	}
	fmt.Fprintln(w, "\ndemo\tcells\tresolve ms\tmesh ms\t")
	for _, e := range examples.List {
		doc, err := examples.Load(e.Key)
		if err != nil {
			return err
		}
		var r *model.Resolved
		resolve, _ := best(func() error {
			r, _ = model.Resolve(doc, physics.Catalog())
			return nil
		})
		var m *mesh.Mesh
		t, err := best(func() (err error) {
			m, _, err = r.MeshOf(context.Background(), 0, nil)
			return err
		})
		if err != nil {
			return err
		}
		fmt.Fprintf(w, "%s\t%d\t%.1f\t%.1f\t\n", e.Key, m.CellCount(), resolve*1e3, t*1e3)
	}
	return nil
}

// stack is the plate with its holes, layers thick.
func stack(size float64, layers int) (*mesh.Mesh, error) {
	plate, err := shape.Rectangle(1, 0.6)
	if err != nil {
		return nil, err
	}
	bodies := []mesh.StackBody{{Body: shape.Body{Outline: plate, Z1: float64(layers) * size}, Size: size, Across: 1}}
	for i := range 15 {
		for k := range 9 {
			disc, err := shape.Disc(0.03)
			if err != nil {
				return nil, err
			}
			bodies = append(bodies, mesh.StackBody{Body: shape.Body{Part: len(bodies), Outline: disc.Move((float64(i)-7)*0.064, (float64(k)-4)*0.064, 0), Z1: float64(layers) * size}, Size: size, Across: 1})
		}
	}
	return mesh.NewStack(bodies, nil)
}

// grown times plans from ten thousand to two million triangles.
func grown(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "plan mesh\ttriangles\ts\ttriangles/s\t")
	for _, size := range []float64{12e-3, 4e-3, 1.6e-3, 0.8e-3} {
		began := time.Now()
		plan, err := grate(size)
		if err != nil {
			return err
		}
		t := time.Since(began).Seconds()
		if more, err := best(func() error { _, err := grate(size); return err }); err == nil {
			t = min(t, more)
		}
		fmt.Fprintf(w, "%g mm\t%d\t%.3f\t%.0f\t\n", size*1e3, len(plan.Triangles), t, float64(len(plan.Triangles))/t)
	}
	return nil
}
