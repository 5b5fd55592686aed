package main

import (
	"fmt"
	"text/tabwriter"

	"saltkettle/core/fem"
	"saltkettle/core/model"
	"saltkettle/examples"
)

// grids elevates and finds the sides of stacks up to a million wedges.
func grids(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\ngrid\twedges\torder 2, s\tsides, s\t")
	for _, layers := range []int{1, 5} {
		m, err := stack(2.6e-3, layers)
		if err != nil {
			return err
		}
		g := fem.FromMesh(m)
		elevate, _ := best(func() error { g.Elevated(nil); return nil })
		sides, _ := best(func() error { g.Sides(); return nil })
		fmt.Fprintf(w, "%d layers\t%d\t%.2f\t%.2f\t\n", layers, m.CellCount(), elevate, sides)
	}
	return nil
}

// sections solves the post in its axial space, steady and in time.
func sections(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\naxial section\tcells\tmesh s\tassemble s\tsolve s\ttotal s\titerations\t")
	post := func(size, order string) (*model.Document, error) {
		doc, err := examples.Load("bittern-post")
		if err != nil {
			return nil, err
		}
		doc.Mesh.Near, doc.Mesh.Rounds, doc.Mesh.Size, doc.Mesh.Order = nil, "", size, order
		return doc, nil
	}
	for _, c := range [][2]string{{"3 mm", "1"}, {"1 mm", "1"}, {"2 mm", "2"}, {"1 mm", "2"}} {
		doc, err := post(c[0], c[1])
		if err == nil {
			err = run(w, c[0]+", order "+c[1], doc)
		}
		if err != nil {
			return err
		}
	}
	doc, err := post("12 mm", "2")
	if err != nil {
		return err
	}
	doc.Run = model.Run{Kind: model.Transient, End: "20 min", Start: "18 °C"}
	return run(w, "20 min in time", doc)
}
