package main

import (
	"context"
	"fmt"
	"text/tabwriter"
	"time"

	"saltkettle/core/plate"
	"saltkettle/core/solve"
	"saltkettle/examples"
)

// plates looks at results of the pan floor: a slice, a level, 60 streams of the heat flux, 401 places
// along a line, after what finding places needs was made.
func plates(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\nplates\tcells\tfinder s\tslice s\tlevel s\tspread s\tstreams s\tpoints\tline s\t")
	for _, size := range []string{"1.8 mm", "0.9 mm", "0.64 mm"} {
		doc, err := examples.Load("pan-floor")
		if err != nil {
			return err
		}
		if err := doc.Set("mesh/size", size); err != nil {
			return err
		}
		o, err := solve.Run(context.Background(), doc, solve.Options{Now: time.Now})
		if err != nil {
			return err
		}
		field := func(name string) []float64 {
			for _, f := range o.Fields.Values {
				if f.Name == name {
					return f.Values
				}
			}
			return nil
		}
		t := field("temperature")
		flux := [][]float64{field("heat_flux_x"), field("heat_flux_y"), field("heat_flux_z")}
		cells := *o.Fields
		cells.Values = nil
		var in *plate.Inside
		finder, err := best(func() error {
			in = plate.NewInside(&cells)
			in.At([][3]float64{{}}, t)
			return nil
		})
		if err != nil {
			return err
		}
		var starts [][3]float64
		var list []plate.Stream
		seconds := []float64{finder}
		for _, do := range []func(){
			func() { plate.Slice(&cells, plate.Across(1, 1e-4), t) },
			func() { plate.Level(&cells, t, 400, t) },
			func() { starts = in.Spread(60, func(int32) bool { return true }) },
			func() { list = in.Streams(flux, starts, t) },
			func() {
				in.Along(plate.Line{From: [3]float64{-0.05, 0, 0.016}, To: [3]float64{0.05, 0, 0.016}}, 401, t)
			},
		} {
			s, err := best(func() error { do(); return nil })
			if err != nil {
				return err
			}
			seconds = append(seconds, s)
		}
		points := 0
		for _, s := range list {
			points += len(s.Points)
		}
		fmt.Fprintf(w, "%s\t%d\t%.3f\t%.3f\t%.3f\t%.3f\t%.3f\t%d\t%.4f\t\n", size, o.Mesh.Cells, seconds[0], seconds[1], seconds[2], seconds[3], seconds[4], points, seconds[5])
	}
	return nil
}
