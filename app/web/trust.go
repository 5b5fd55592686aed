package web

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// trustView is how far a result can be trusted.
type trustView struct {
	Balances []balanceView
	Warnings []string
	Notes    []string
	Solver   string
	// Radiation says how surfaces see each other, empty if they do not.
	Radiation string
	// MeshError says what the errors of the readings are, and why some are not known.
	MeshError string
}

func newTrust(res *result.Result) trustView {
	v := trustView{Warnings: res.Warnings, Notes: res.Notes, Solver: solverWords(res), Radiation: radiationWords(res.Radiation), MeshError: errorWords(res)}
	for _, b := range res.Balances {
		words, good := closure(b.Closure)
		v.Balances = append(v.Balances, balanceView{capital(b.Name), balanceWords(b) + ", " + words, !good})
	}
	return v
}

// balanceView is the account of a conserved quantity.
type balanceView struct {
	Name, Words string
	Open        bool
}

// balanceWords says what came in and went out, and what was stored.
func balanceWords(b result.Balance) string {
	text := fmt.Sprintf("%s in, %s out", quantity.Show(b.In, b.Unit, false, 4), quantity.Show(b.Out, b.Unit, false, 4))
	if v, ok := b.Stored(); ok && v >= 0 {
		text += ", " + quantity.Show(v, b.Unit, false, 4) + " stored"
	} else if ok {
		text += ", " + quantity.Show(-v, b.Unit, false, 4) + " from store"
	}
	return text
}

// radiationWords says how surfaces see each other and how well that is known.
func radiationWords(r *result.Radiation) string {
	if r == nil {
		return ""
	}
	words := fmt.Sprintf("Radiation between %s facets in %s patches, %s rays", quantity.Count(r.Facets), quantity.Count(r.Patches), quantity.Count(r.Rays))
	if r.Reused {
		words += " of an earlier run of this shape"
	}
	return words + fmt.Sprintf("; %s of the view is open to the surroundings. Before they were corrected, view factors missed reciprocity by %s and their sums 1 by %s",
		quantity.Figures(100*r.Open/r.Area, 2)+" %", quantity.Figures(100*r.Reciprocity, 2)+" %", quantity.Figures(100*r.Closure, 2)+" %")
}

// solverWords says how the equations were solved.
func solverWords(r *result.Result) string {
	words := fmt.Sprintf("%s cells, %s unknowns; ", quantity.Count(r.Mesh.Cells), quantity.Count(r.Mesh.Unknowns))
	if rounds := r.Mesh.Words(); rounds != "" {
		words += rounds + "; "
	}
	if names := r.SolvedFor(); len(names) > 0 {
		words += "solved for " + strings.Join(names, " and ") + "; "
	}
	words += r.Solver.Method
	if r.Solver.Iterations > 0 {
		words += fmt.Sprintf(", %d iterations, residual %s", r.Solver.Iterations, quantity.Figures(r.Solver.Residual, 2))
	}
	if len(r.Solver.Steps) > 1 {
		var list []string
		for _, v := range r.Solver.Steps {
			list = append(list, quantity.Figures(v, 2))
		}
		words += "; residuals " + strings.Join(list, ", ")
	}
	return words
}

// errorWords says what the errors of the readings of a run are, and why some are not known.
func errorWords(r *result.Result) string {
	var list []string
	if slices.ContainsFunc(r.Readings, func(q result.Reading) bool { return q.Error != nil }) {
		list = append(list, "± is how far a reading may be from the exact one: what other meshes, steps in time and rays change")
	}
	for i := range r.Readings {
		q := &r.Readings[i]
		if values := r.Rounds(q); len(values) > 1 {
			var words []string
			for _, v := range values {
				words = append(words, quantity.Figures(v, 4))
			}
			list = append(list, fmt.Sprintf("%s in the rounds of finer cells: %s %s", q.Name, strings.Join(words, ", "), q.Shown.Unit))
		}
	}
	list = append(list, r.UnknownErrors()...)
	return capital(strings.Join(list, "; "))
}
