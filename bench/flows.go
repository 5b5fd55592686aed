package main

import (
	"context"
	"fmt"
	"os"
	"runtime"
	"runtime/debug"
	"strings"
	"text/tabwriter"
	"time"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/solve"
	"saltkettle/examples"
)

// flows solves boxes whose lid moves at a Reynolds number of 1000, in a section and in space, the block of parallel
// legs, and two species in a channel in time. Each is made once: the largest takes minutes.
func flows(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\nflows\tcells\tunknowns\tsolve s\ttotal s\tsteps\titerations\tlive MB\tpeak so far MB\t")
	type job struct {
		name string
		doc  *model.Document
	}
	var list []job
	for _, size := range []string{"0.02 m", "0.01 m"} {
		list = append(list, job{"lid, plane, " + size, lidded(model.Plane, size)})
	}
	for _, size := range []string{"0.0625 m", "0.03125 m", "0.015625 m"} {
		list = append(list, job{"lid, cube, " + size, lidded(model.Solid, size)})
	}
	for _, key := range []string{"brine-block", "dosing-junction"} {
		doc, err := examples.Load(key)
		if err != nil {
			return err
		}
		list = append(list, job{key, doc})
	}
	defer debug.SetGCPercent(debug.SetGCPercent(25)) // as runs of the application have it
	for _, j := range list {
		runtime.GC()
		o, err := solve.Run(context.Background(), j.doc, solve.Options{Now: time.Now})
		if err != nil {
			return fmt.Errorf("%s: %w", j.name, err)
		}
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		fmt.Fprintf(w, "%s\t%d\t%d\t%.1f\t%.1f\t%d\t%d\t%d\t%d\t\n", j.name, o.Mesh.Cells, o.Mesh.Unknowns, o.Seconds["solve"], o.Seconds["total"], len(o.Solver.Steps), o.Solver.Iterations, m.HeapAlloc>>20, peakMemory()>>20)
		w.Flush()
	}
	return nil
}

// peakMemory is the most memory this process has had, bytes, 0 where the system does not say.
func peakMemory() (bytes int64) {
	data, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(data)) {
		if _, err := fmt.Sscanf(line, "VmHWM: %d kB", &bytes); err == nil {
			return bytes << 10
		}
	}
	return 0
}

// lidded is a box of 1 m, in space of hexahedra of order 1.
func lidded(space, size string) *model.Document {
	d := model.New("lid")
	d.Space = model.Space{Kind: space, Unit: "mm", Depth: "1 m"}
	d.Materials = []material.Material{{Name: "oil", Family: "liquid", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1000 kg/m³"}, material.Viscosity: {Value: "1 Pa·s"}}}}
	d.Physics = nil
	part := model.Part{ID: "box", Name: "box", Material: "oil", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"}}
	lid, order := "back", "2"
	if space == model.Solid {
		d.Space.Depth = ""
		lid, order = "top", "1"
		s := &model.Surface{}
		for v := range 8 {
			s.Points = append(s.Points, 1000*float64(v&1), 1000*float64(v>>1&1), 1000*float64(v>>2&1))
		}
		for _, q := range [][4]int32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {1, 3, 7, 5}, {3, 2, 6, 7}, {2, 0, 4, 6}} {
			s.Triangles = append(s.Triangles, q[0], q[1], q[2], q[0], q[2], q[3])
		}
		part.Outline, part.Surface = model.Outline{Kind: "surface"}, s
	}
	d.Parts = []model.Part{part}
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "flow.flows", On: model.Patch{Part: "box"}},
		{ID: "c2", Kind: "flow.wall-moves", On: model.Patch{Part: "box", Side: lid}, Values: map[string]string{"x": "1 m/s"}}}
	d.Mesh = model.Mesh{Size: size, Across: "1", Order: order}
	d.Enumerate()
	return d
}
