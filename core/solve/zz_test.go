package solve

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

func pipe(id string, points ...[3]string) model.Part {
	p := model.Part{ID: id, Name: id, Material: "water", Role: model.Solved, Outline: model.Outline{Kind: "line"}}
	for i, q := range points {
		p.Outline.Points = append(p.Outline.Points, model.Point{ID: fmt.Sprint(i + 1), X: q[0], Y: q[1], Z: q[2]})
	}
	return p
}

func said(id, kind, part, side string, values ...string) model.Sentence {
	s := model.Sentence{ID: id, Kind: kind, On: model.Patch{Part: part, Side: side}, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	return s
}

func TestZZ(t *testing.T) {
	d := model.New("tanks")
	d.Space = model.Space{Kind: "lines", Unit: "m"}
	d.Physics = nil
	d.Plates = nil
	d.Parts = []model.Part{pipe("main", [3]string{"0 m", "0 m", "0 m"}, [3]string{"50 m", "0 m", "0 m"}, [3]string{"50 m", "50 m", "0 m"})}
	d.Mesh = model.Mesh{Size: "10 m"}
	d.Conditions = []model.Sentence{
		said("c1", "pipes.carries", "main", "", "temperature", "20 °C"),
		said("c2", "pipes.round", "main", "", "diameter", "50 mm"),
		said("c3", "pipes.rough", "main", "", "roughness", "0.05 mm"),
		{ID: "c4", Kind: "pipes.gravity", Values: map[string]string{"strength": "9.80665 m/s²"}},
		said("c5", "pipes.tank", "main", "start", "level", "5 m", "form", "sharp"),
		said("c6", "pipes.tank", "main", "end", "level", "2 m", "form", "sharp"),
	}
	d.Readings = []model.Sentence{said("r1", "pipes.flow", "main", ""), said("r2", "pipes.lost", "main", ""), said("r3", "pipes.pressure", "main", "end", "scale", "gauge")}
	d.Enumerate()
	out, err := Run(t.Context(), d, Options{Now: time.Now})
	require.NoError(t, err)
	fmt.Println(out.Status, out.Reason, out.Warnings, out.Notes)
	for _, r := range out.Readings {
		fmt.Println(r.Name, r.Value, r.Unit, r.Error)
	}
	for _, b := range out.Balances {
		fmt.Println(b.Name, b.Entries, b.Closure)
	}
	fmt.Println(out.Seconds, out.Solver.Steps)
}
