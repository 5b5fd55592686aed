package model

import "fmt"

// Severity says how bad a finding is.
type Severity string

// The severities. A model with missing or wrong values cannot run.
const (
	Missing  Severity = "missing"
	Wrong    Severity = "wrong"
	Doubtful Severity = "doubtful"
)

// Finding is something that is missing, wrong or doubtful in a model.
type Finding struct {
	Severity Severity `json:"severity"`
	// Place is the path of the value, for example "parts/floor/span/to".
	Place string `json:"place"`
	// Message says what it is, and Fix how to mend it.
	Message string `json:"message"`
	Fix     string `json:"fix,omitempty"`
	// Motions are those that nothing keeps the device from, of a finding that says so.
	Motions []Motion `json:"motions,omitempty"`
}

// Motion is one of a rigid body: a move along a direction, or a turn about an axis along a direction through a point, m.
type Motion struct {
	Move    [3]float64 `json:"move"`
	Turn    [3]float64 `json:"turn"`
	Through [3]float64 `json:"through"`
}

func (f Finding) String() string {
	s := fmt.Sprintf("%s: %s: %s", f.Place, f.Severity, f.Message)
	if f.Fix != "" {
		s += " — " + f.Fix
	}
	return s
}

// Blocking returns the findings that keep a model from running.
func Blocking(list []Finding) []Finding {
	var out []Finding
	for _, f := range list {
		if f.Severity != Doubtful {
			out = append(out, f)
		}
	}
	return out
}
