// Package result holds what a run leaves behind: a folder with result.json and
// the fields in plain binary arrays, little-endian, from which exports are made.
//
//	result.json       the Result
//	nodes.f64         x, y, z of each node of the elements, m; where bodies meet each has its own
//	cells.i32         the nodes of each cell, of the forms, orders and numbers of cells that
//	                  result.json has: corners first, see fem.Element
//	part.i32          number of the part of each cell, from 0
//	temperature.f64   temperature of each node, K, and likewise for each other field;
//	                  not a number where the field is not
//	moment-7-temperature.f64  likewise at a moment of a run in time, by the number that
//	                  result.json has for it; fields that were solved for
//	surface.bin       the surface for drawing, see Surface
//	SHA256SUMS        sums of all of these, which are checked whenever one is read
//
// The folder of a run in time that has no result yet has a checkpoint, checkpoint.bin, and the
// moments that it refers to, moments.bin.
package result

import (
	"cmp"
	"fmt"
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// Status says how a run ended.
type Status string

// The ends of a run.
const (
	Settled    Status = "settled"
	NotSettled Status = "not settled"
	Stopped    Status = "stopped"
)

// Result is the outcome of a run.
type Result struct {
	Status Status `json:"status"`
	// Reason says in words why the run is not settled or was stopped.
	Reason   string    `json:"reason,omitempty"`
	Readings []Reading `json:"readings"`
	Balances []Balance `json:"balances"`
	// Modes of a run that finds them, the lowest first.
	Modes    []Mode             `json:"modes,omitempty"`
	Mesh     Mesh               `json:"mesh"`
	Seconds  map[string]float64 `json:"seconds"`
	Warnings []string           `json:"warnings"`
	// Notes say in words what is good to know of the result, such as the numbers that a flow is known by.
	Notes []string `json:"notes,omitempty"`
	// Solver says what solved the equations and how well.
	Solver Solver `json:"solver"`
	// Fields are those that were solved for, and what follows from them.
	Fields []FieldName `json:"fields,omitempty"`
	// Moments are those of a run in time at which fields are kept.
	Moments []Moment `json:"moments,omitempty"`
	// History is the readings of a run in time.
	History *History `json:"history,omitempty"`
	// Ended says that a run in time ended early, as its condition held.
	Ended *Ended `json:"ended,omitempty"`
	// Radiation tells how surfaces see each other, where they radiate to each other.
	Radiation *Radiation `json:"radiation,omitempty"`
	// Extremes of the temperature in all parts.
	Least    *Extreme `json:"least,omitempty"`
	Greatest *Extreme `json:"greatest,omitempty"`
	// Document is the model as it ran.
	Document *model.Document `json:"document,omitempty"`
}

// Reading is a number taken from a run.
type Reading struct {
	Key   string  `json:"key"`
	Name  string  `json:"name"`
	Words string  `json:"words"`
	Value float64 `json:"value"` // SI
	Unit  string  `json:"unit"`  // SI unit of Value
	Shown Shown   `json:"shown"`
	// Missing says why there is no Value, which is then not a number (null in JSON); empty if
	// there is one.
	Missing string `json:"missing,omitempty"`
	// Waits says that the reading is missing as its physics is not solved for.
	Waits bool `json:"waits,omitempty"`
	// Error is the estimated error of Value: the sum of Errors; nil if one of them is not
	// known, and Unknown then says why.
	Error   *float64    `json:"error,omitempty"`
	Errors  []ErrorPart `json:"errors,omitempty"`
	Unknown string      `json:"error_unknown,omitempty"`
	// At is where an extreme lies, m.
	At *[3]float64 `json:"at,omitempty"`
	// Again is the same found in another way, said by AgainBy; nil if there is none.
	Again   *float64 `json:"again,omitempty"`
	AgainBy string   `json:"again_by,omitempty"`
	// Difference marks a value without a zero point, such as a rise.
	Difference bool `json:"difference,omitempty"`
}

// ErrorPart is what one source has of the error of a reading.
type ErrorPart struct {
	// Of is "cells", "time steps", "rays" or "sides".
	Of    string  `json:"of"`
	Value float64 `json:"value"`
	// Order is the order of convergence that was observed, 0 if none was.
	Order float64 `json:"order,omitempty"`
}

// Shown is a reading in the unit that the user chose.
type Shown struct {
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
}

// Trust says in words what the error of a reading is made of, or why it is not known.
func (r *Reading) Trust() string {
	var list []string
	if r.Unknown != "" {
		list = append(list, "its error is not known: "+r.Unknown)
	}
	for _, p := range r.Errors {
		margin := strings.TrimSpace(quantity.Margin(p.Value, r.Value, r.Shown.Unit))
		if margin == "" {
			margin = "nothing that shows"
		}
		if r.Unknown == "" {
			list = append(list, margin+" of "+p.Of)
		}
	}
	if r.Again != nil {
		list = append(list, fmt.Sprintf("%s by %s", quantity.Show(*r.Again, r.Shown.Unit, r.Difference, 4), r.AgainBy))
	}
	return strings.Join(list, ", ")
}

// UnknownErrors says why readings have no error, readings of one reason together.
func (r *Result) UnknownErrors() []string {
	var reasons []string
	keys := map[string][]string{}
	for _, q := range r.Readings {
		if q.Unknown == "" {
			continue
		}
		if keys[q.Unknown] == nil {
			reasons = append(reasons, q.Unknown)
		}
		keys[q.Unknown] = append(keys[q.Unknown], q.Key)
	}
	var list []string
	for _, why := range reasons {
		list = append(list, fmt.Sprintf("the error of %s is not known: %s", strings.Join(keys[why], ", "), why))
	}
	return list
}

// SolvedFor lists the fields that were solved for.
func (r *Result) SolvedFor() []string {
	var list []string
	for _, f := range r.Fields {
		if !f.Derived && f.Of == "" && f.Part == "" {
			list = append(list, cmp.Or(f.Label, f.Name))
		}
	}
	return list
}

// Mode is a way in which the device moves by itself.
type Mode struct {
	// Frequency, Hz, or the rate at which it decays, 1/s.
	Frequency float64 `json:"frequency,omitempty"`
	Rate      float64 `json:"rate,omitempty"`
	// Moves is the mass that it moves along x, y and z, kg, and Whole all that there is.
	Moves []float64 `json:"moves,omitempty"`
	Whole float64   `json:"whole,omitempty"`
	// Dies is how fast it dies away, as a part of what would let it not swing at all.
	Dies float64 `json:"dies,omitempty"`
	// Shares are, by the name of each field that it is of where there are several, the part of its energy that is in that.
	Shares map[string]float64 `json:"shares,omitempty"`
}

// Stores is the key of what the parts store in a balance of heat in time.
const Stores = "stored"

// Stored is what the parts store, and whether the balance counts it; In and Out are what is
// brought in and taken out, and close with it.
func (b *Balance) Stored() (float64, bool) {
	for _, e := range b.Entries {
		if e.Key == Stores {
			return -e.Value, true
		}
	}
	return 0, false
}

// Balance is the account of a conserved quantity.
type Balance struct {
	Name    string  `json:"name"`
	In      float64 `json:"in"`
	Out     float64 `json:"out"`
	Unit    string  `json:"unit"`
	Closure float64 `json:"closure"` // |in − out| over the larger
	// Entries are what each sentence brings in, SI.
	Entries []Entry `json:"entries,omitempty"`
	// Size is what passes at held values in all, were it counted from place to place: one
	// sentence may bring in here what it takes out there.
	Size float64 `json:"-"`
}

// Add adds to the entry of a sentence.
func (b *Balance) Add(key string, value float64) {
	for i := range b.Entries {
		if b.Entries[i].Key == key {
			b.Entries[i].Value += value
			return
		}
	}
	b.Entries = append(b.Entries, Entry{key, value})
}

// Entry is one sentence's part of a balance, positive where it brings in.
type Entry struct {
	Key   string  `json:"key"`
	Value float64 `json:"value"`
}

// Radiation tells how view factors were found and how good they are.
type Radiation struct {
	Facets  int  `json:"facets"`
	Patches int  `json:"patches"`
	Rays    int  `json:"rays"`
	Reused  bool `json:"reused"` // from an earlier run of the same shape
	// Area that radiates and its part that sees the surroundings, m².
	Area float64 `json:"area"`
	Open float64 `json:"open"`
	// Reciprocity and Closure are how far the rays were from both before the correction,
	// as root mean squares over the patches.
	Reciprocity float64 `json:"reciprocity"`
	Closure     float64 `json:"closure"`
}

// Ended is the end of a run in time by a condition.
type Ended struct {
	Condition string `json:"condition"`
	// At is when it came to hold, s: the last step ends there.
	At float64 `json:"at"`
}

// Mesh counts.
type Mesh struct {
	Nodes    int `json:"nodes"`
	Cells    int `json:"cells"`
	Unknowns int `json:"unknowns"`
	// Blocks are the cells that the fields have, in their order; nil means wedges of order 1.
	Blocks []Cells `json:"blocks,omitempty"`
	// Rounds are the meshes that were made, if runs make cells finer; the last is the one
	// above.
	Rounds []Round `json:"rounds,omitempty"`
}

// Words says what rounds of finer cells did, "" if there were none.
func (m *Mesh) Words() string {
	if len(m.Rounds) == 0 {
		return ""
	}
	var list []string
	for _, r := range m.Rounds {
		list = append(list, fmt.Sprintf("by %s %% on %s", quantity.Figures(100*r.Error, 2), quantity.Count(r.Cells)))
	}
	return "fluxes are wrong " + strings.Join(list, ", ") + " cells"
}

// Round is a mesh with the estimated error of the fluxes on it, as a part of them.
type Round struct {
	Cells int     `json:"cells"`
	Error float64 `json:"error"`
	// Readings are the values on it, SI, by their keys.
	Readings map[string]float64 `json:"readings,omitempty"`
}

// Rounds has the values of a reading in the rounds of finer cells, in its unit; nil without them.
func (r *Result) Rounds(of *Reading) (values []float64) {
	if len(r.Mesh.Rounds) < 2 {
		return nil
	}
	unit, err := quantity.ParseUnit(of.Shown.Unit)
	if err != nil {
		return nil
	}
	for _, round := range r.Mesh.Rounds {
		if v, known := round.Readings[of.Key]; known {
			values = append(values, unit.From(v, of.Difference))
		}
	}
	return values
}

// Solver tells how the equations were solved.
type Solver struct {
	Method     string    `json:"method"`
	Iterations int       `json:"iterations"`
	Residual   float64   `json:"residual"`
	Ended      string    `json:"ended"`
	History    []float64 `json:"history,omitempty"`
	// Steps are the residuals of Newton's method before each step and at the end, of
	// equations that depend on the solution.
	Steps []float64 `json:"steps,omitempty"`
}

// Extreme is a greatest or least value with its place.
type Extreme struct {
	Value float64    `json:"value"`
	At    [3]float64 `json:"at"`
	Part  string     `json:"part"` // name, with the number of the copy in an array
}

// FieldName names a field and its SI unit.
type FieldName struct {
	Name string `json:"name"`
	// Label is what the model calls it where that is another name.
	Label string `json:"label,omitempty"`
	Unit  string `json:"unit"`
	// Derived marks one that follows from those that were solved for, with values that
	// are smoothed in each body.
	Derived bool `json:"derived,omitempty"`
	// Of is the vector or the symmetric tensor that it is a component of, "" for none.
	Of string `json:"of,omitempty"`
	// Part is [RealPart] or [ImaginaryPart] of what swings, and the field without it its amplitude.
	Part string `json:"part,omitempty"`
	// Extremes in all parts.
	Least    *Extreme `json:"least,omitempty"`
	Greatest *Extreme `json:"greatest,omitempty"`
}

// The parts of a field that swings: at an angle θ of the swing it is out of its middle by the real part
// times cos θ less the imaginary part times sin θ.
const (
	RealPart      = "real"
	ImaginaryPart = "imaginary"
)

// PartOf is the name of a part of a field that swings.
func PartOf(field, part string) string { return field + "_" + part }

// FieldNamed returns the field of a name. A result of heat alone, from before there
// were others, has its temperature.
func (r *Result) FieldNamed(name string) (FieldName, bool) {
	for _, f := range r.Fields {
		if f.Name == name {
			return f, true
		}
	}
	return FieldName{Name: "temperature", Unit: "K", Least: r.Least, Greatest: r.Greatest}, len(r.Fields) == 0 && name == "temperature"
}
