package validation

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/solve"
)

// Case is a problem with a known answer.
type Case struct {
	Name string
	// About states geometry, properties and conditions.
	About string
	// Quantity is what is compared, with its unit, and Source where the reference
	// comes from.
	Quantity, Unit, Source string
	Reference              float64
	// Sizes are the cell sizes, coarse to fine.
	Sizes []string
	// Document makes the model with a cell size. Its reading r1 is the quantity.
	Document func(size string) *model.Document
	// Exact says that the elements contain the exact solution, so that the error
	// is round-off on every mesh. Otherwise MinOrder is the least observed order
	// of convergence that is accepted.
	Exact    bool
	MinOrder float64
	// Finest is the largest relative error accepted on the finest mesh; 0 means 2e-3.
	Finest float64
	// Within is the relative error allowed on the finest mesh where the reference
	// itself is approximate and an order would mean nothing.
	Within float64
	// Closes is how far balances may be open, as a part of what goes through; 0 means 1e-8.
	Closes float64
}

// ofOrderTwo is a case on elements of order 2, on meshes of other sizes.
func (c Case) ofOrderTwo(name string, sizes ...string) Case {
	first := c.Document
	c.Name, c.Sizes = name, sizes
	c.Document = func(size string) *model.Document {
		d := first(size)
		d.Mesh.Order = "2"
		return d
	}
	return c
}

// All lists every case.
func All() []Case {
	return slices.Concat(Heat(), Flat(), Singular(), Laws(), Exchange(), Radiation(), Time(), Electric(), Solid(), Bending(), Flow(), Turbulent(), Space(), Resist(), Species(), Magnetic(), Acoustic(), Film(), Pipes())
}

// Row is a run of a case.
type Row struct {
	Size     string
	Cells    int
	Value    float64
	Error    float64 // relative to Scale
	Closure  float64 // of the balance that is open the most
	edge     float64 // a mean length of cells, relative
	Settled  bool
	Unknowns int
}

// Outcome is a case with its runs.
type Outcome struct {
	*Case
	Rows []Row
	// Order is the observed order of convergence between the coarsest and the
	// finest mesh, by the number of plan triangles; NaN for exact cases.
	Order float64
}

// Run solves a case on all its meshes.
func (c *Case) Run(ctx context.Context) (*Outcome, error) {
	o := &Outcome{Case: c, Order: math.NaN()}
	for _, size := range c.Sizes {
		doc := c.Document(size)
		r, err := solve.Run(ctx, doc, solve.Options{})
		if err != nil {
			return nil, fmt.Errorf("%s, cells of %s: %w", c.Name, size, err)
		}
		if q := r.Readings[0]; q.Missing != "" {
			return nil, fmt.Errorf("%s: the reading has no value: %s", c.Name, q.Missing)
		}
		v := r.Readings[0].Shown.Value
		closure := 0.0
		for _, b := range r.Balances {
			closure = max(closure, b.Closure)
		}
		o.Rows = append(o.Rows, Row{
			Size: size, Cells: r.Mesh.Cells, Unknowns: r.Mesh.Unknowns, Value: v, Error: math.Abs(v-c.Reference) / math.Abs(c.Reference),
			Closure: closure, edge: edge(doc, r.Mesh.Cells), Settled: r.Status == "settled",
		})
	}
	if !c.Exact && c.Within == 0 {
		a, b := o.Rows[0], o.Rows[len(o.Rows)-1]
		o.Order = math.Log(a.Error/b.Error) / math.Log(a.edge/b.edge)
	}
	return o, nil
}

// edge is a mean length of cells, relative.
func edge(d *model.Document, cells int) float64 {
	if d.Space.Flat() {
		return math.Sqrt(1 / float64(cells))
	}
	return math.Cbrt(1 / float64(cells))
}

// Table writes the outcomes as Markdown.
func Table(list []*Outcome) string {
	var b strings.Builder
	for _, o := range list {
		fmt.Fprintf(&b, "### %s\n\n%s\n\n", o.Name, o.About)
		fmt.Fprintf(&b, "Compared: %s. Reference: %.6g %s (%s).\n\n", o.Quantity, o.Reference, o.Unit, o.Source)
		b.WriteString("| cells of | cells | value | relative error | balance open by |\n|---|---:|---:|---:|---:|\n")
		for _, r := range o.Rows {
			fmt.Fprintf(&b, "| %s | %d | %.6g %s | %s | %s |\n", r.Size, r.Cells, r.Value, o.Unit, small(r.Error), o.open(r.Closure))
		}
		switch {
		case o.Within > 0:
			fmt.Fprintf(&b, "\nThe reference is approximate; agreement within %.0e is demanded.\n\n", o.Within)
		case o.Exact:
			b.WriteString("\nThe elements contain this solution: the error is round-off.\n\n")
		default:
			fmt.Fprintf(&b, "\nObserved order of convergence: %.2f.\n\n", o.Order)
		}
	}
	return b.String()
}

// open prints how far a balance is open; what may be is not printed in digits.
func (c *Case) open(closure float64) string {
	if c.Closes > 0 && closure < c.Closes {
		return fmt.Sprintf("< %.0e", c.Closes)
	}
	return small(closure)
}

// small prints an error; what is round-off is not printed in digits.
func small(e float64) string {
	if e < 1e-8 {
		return "< 1e-8"
	}
	return fmt.Sprintf("%.1e", e)
}
