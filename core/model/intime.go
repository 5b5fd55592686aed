package model

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// defaultTolerance of a step in time: with it the error in time of the cases in
// core/validation is below 0.1 % of how far their readings go.
const defaultTolerance = 1e-4

// run checks what a run in time needs.
func (r *resolver) run() {
	switch r.doc.Run.Kind {
	case "", Steady:
		r.out.Stepwise = slices.ContainsFunc(r.cat.Physics, func(p PhysicsKind) bool { return p.Stepwise && r.out.lives[p.Key] != nil })
		if r.out.Stepwise {
			r.from()
		}
		return
	case Transient:
	case Modes:
		r.modes()
		return
	case Response:
		r.frequencies()
		return
	default:
		r.find(Wrong, "run/kind", "choose steady, transient, modes or response", "a run is steady, transient, finds modes or a response, not %q", r.doc.Run.Kind)
		return
	}
	changing := r.changing()
	r.from()
	switch {
	case changing != nil:
		r.starts(changing)
	case !r.moves():
		var names []string
		for _, p := range r.cat.Physics {
			if p.Changes {
				names = append(names, p.Name)
			}
		}
		words := strings.Join(names, " and ")
		r.find(Wrong, "run/kind", "choose a steady run, solve for "+words+", let a fluid flow, or say that what bends has inertia", "nothing in the model changes in time by itself")
	}
	if v, ok := r.value("run/end", r.doc.Run.End, need{label: "length of time", unit: "s", positive: true}); ok {
		r.out.End = v
	}
	r.out.Tolerance = defaultTolerance
	v, ok := r.value("run/tolerance", r.doc.Run.Tolerance, need{label: "tolerance of a step", optional: true})
	switch {
	case !ok || strings.TrimSpace(r.doc.Run.Tolerance) == "":
	case v < 1e-8 || v > 0.1:
		r.find(Wrong, "run/tolerance", "choose 0.000001 % to 10 %", "steps cannot be chosen to a tolerance of %q", r.doc.Run.Tolerance)
	default:
		r.out.Tolerance = v
	}
	if v, ok := r.value("run/longest", r.doc.Run.Longest, need{label: "longest step in time", unit: "s", positive: true, optional: true}); ok {
		r.out.Longest = v
	}
}

// How many modes are found where nobody says, and at most.
const (
	usualModes = 6
	mostModes  = 200
)

// modes reads how many modes a run is to find.
func (r *resolver) modes() {
	r.out.Count = usualModes
	if strings.TrimSpace(r.doc.Run.Count) == "" {
		return
	}
	v, ok := r.value("run/count", r.doc.Run.Count, need{label: "number of modes", positive: true, whole: true})
	switch {
	case ok && v > mostModes:
		r.find(Wrong, "run/count", "", "at most %d modes can be found", mostModes)
	case ok:
		r.out.Count = int(v)
	}
}

// At how many frequencies a response is found where nobody says, and at most.
const (
	usualFrequencies = 40
	mostFrequencies  = 2000
)

// frequencies reads those at which a response is found.
func (r *resolver) frequencies() {
	spread := cmp.Or(r.doc.Run.Spread, ByRatio)
	if spread == Listed {
		r.listed()
		return
	}
	lo, ok1 := r.value("run/lowest", r.doc.Run.Lowest, need{label: "lowest frequency", unit: "Hz", positive: true})
	hi, ok2 := r.value("run/highest", r.doc.Run.Highest, need{label: "highest frequency", unit: "Hz", positive: true})
	n, ok3 := float64(usualFrequencies), true
	if strings.TrimSpace(r.doc.Run.Count) != "" {
		n, ok3 = r.value("run/count", r.doc.Run.Count, need{label: "number of frequencies", positive: true, whole: true})
	}
	bands := map[string]float64{Octaves: 1, ThirdOctaves: 3}[spread]
	switch {
	case !ok1 || !ok2 || !ok3:
	case n > mostFrequencies:
		r.find(Wrong, "run/count", "", "at most %d frequencies can be asked for", mostFrequencies)
	case hi < lo:
		r.find(Wrong, "run/highest", "", "the highest frequency lies below the lowest")
	case bands > 0:
		r.bands(lo, hi, bands)
	case n == 1 || hi == lo:
		r.out.Frequencies = []float64{lo}
	case spread != ByRatio && spread != Evenly:
		r.find(Wrong, "run/spread", "choose by ratio, evenly, octaves, third octaves or listed", "frequencies cannot be spread %q", spread)
	default:
		for i := range int(n) {
			part := float64(i) / (n - 1)
			f := lo * math.Pow(hi/lo, part)
			if spread == Evenly {
				f = lo + part*(hi-lo)
			}
			r.out.Frequencies = append(r.out.Frequencies, f)
		}
	}
}

// bands are the middles of octaves, or of as many parts of them, between two frequencies (IEC 61260-1:2014: powers of 10^0.3 from 1 kHz on); one whose
// middle is rounded to a name such as 31.5 Hz belongs to it.
func (r *resolver) bands(lo, hi, parts float64) {
	const rounding = 1.02
	step := math.Pow(10, 0.3/parts)
	first := math.Ceil(math.Log(lo/rounding/1000)/math.Log(step) - 1e-9)
	for f := 1000 * math.Pow(step, first); f <= hi*rounding; f *= step {
		r.out.Frequencies = append(r.out.Frequencies, f)
	}
	if len(r.out.Frequencies) == 0 {
		r.find(Wrong, "run/highest", "move the two farther apart", "there is no middle of a band between the lowest and the highest frequency")
	}
}

// listedTexts are the values of a list that are parted by commas or semicolons.
func listedTexts(list string) (texts []string) {
	for _, text := range strings.FieldsFunc(list, func(c rune) bool { return c == ',' || c == ';' }) {
		if text = strings.TrimSpace(text); text != "" {
			texts = append(texts, text)
		}
	}
	return texts
}

// listed reads frequencies that stand one after the other.
func (r *resolver) listed() {
	for _, text := range listedTexts(r.doc.Run.Listed) {
		f, ok := r.value("run/listed", text, need{label: "frequency", unit: "Hz", positive: true})
		if !ok {
			return
		}
		r.out.Frequencies = append(r.out.Frequencies, f)
	}
	slices.Sort(r.out.Frequencies)
	r.out.Frequencies = slices.Compact(r.out.Frequencies)
	switch n := len(r.out.Frequencies); {
	case n == 0:
		r.find(Missing, "run/listed", "write for example 100 Hz, 250 Hz, 1 kHz", "nothing says at which frequencies the response is found")
	case n > mostFrequencies:
		r.find(Wrong, "run/listed", "", "at most %d frequencies can be asked for", mostFrequencies)
	}
}

// starts reads the value that a field has when time begins.
func (r *resolver) starts(p *PhysicsKind) {
	start := need{label: p.Start.Label, unit: p.Start.Unit, temperature: p.Start.Temperature, optional: r.out.From > 0 || r.startsSaid(p.Key)}
	if v, ok := r.value("run/start", r.doc.Run.Start, start); ok {
		r.out.Start = v
	}
}

// startsSaid says that sentences give the value that the field of a physics has at the start in every solved part.
func (r *resolver) startsSaid(physics string) bool {
	for _, p := range r.doc.Parts {
		said := func(s Sentence) bool {
			k, ok := r.cat.Kind(s.Kind)
			return ok && k.Starts && Of(s.Kind) == physics && !s.Off && s.On == Patch{Part: p.ID}
		}
		if p.Role == Solved && !slices.ContainsFunc(r.doc.Conditions, said) {
			return false
		}
	}
	return len(r.doc.Parts) > 0
}

// from reads which run a run goes on from.
func (r *resolver) from() {
	text := strings.TrimPrefix(strings.TrimSpace(r.doc.Run.From), "#")
	if text == "" {
		return
	}
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 {
		r.find(Wrong, "run/from", "write the number of a run of this model, or leave it empty", "%q is not the number of a run to begin from", r.doc.Run.From)
		return
	}
	r.out.From = n
}

// until compiles the condition that ends a run in time. Its inputs are all readings and
// the time.
func (r *resolver) until() {
	text := strings.TrimSpace(r.doc.Run.Until)
	if text == "" || !r.doc.Transient() {
		return
	}
	const place, example = "run/until", "write for example r1 > 60 °C"
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place, example, "the condition that ends the run cannot be read: %v", err)
		return
	}
	env := r.environment()
	for _, q := range r.out.Readings {
		env.Variables = append(env.Variables, formula.Variable{Name: q.ID, Dimension: q.Dimension, Temperature: q.Temperature})
	}
	elsewhere := env.Elsewhere
	env.Elsewhere = func(name string) string {
		if slices.ContainsFunc(r.doc.Readings, func(q Sentence) bool { return q.ID == name }) {
			return fmt.Sprintf("the reading %s is not right yet", name)
		}
		return elsewhere(name)
	}
	env.Variables = append(env.Variables, formula.Time)
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place, example, "the condition that ends the run cannot be computed: %v", err)
		return
	}
	if _, constant := p.Constant(); constant || p.Dimension != quantity.None {
		r.find(Wrong, place, example, "the condition that ends the run, %q, compares no reading and no time with anything", text)
		return
	}
	for i, q := range r.out.Readings {
		if p.Uses(i) && q.InTime {
			r.find(Wrong, place, example, "the condition that ends the run speaks of %s, which is known at its end only", q.ID)
			return
		}
	}
	r.out.Until = p
}

// named finds properties of a material that a sentence names; what is a word for it.
func (r *resolver) named(place, name, what string, res *ResolvedSentence, keys ...material.Key) bool {
	m, ok := material.Find(r.doc.Materials, strings.TrimSpace(name))
	if !ok {
		m, ok = material.Find(material.Library(), strings.TrimSpace(name))
	}
	if !ok {
		r.find(Wrong, place, "choose a "+what+" of the library, such as air, water or paraffin wax", "there is no %s %q whose properties are known", what, name)
		return false
	}
	res.Properties = map[material.Key]material.Function{}
	for _, key := range keys {
		f, err := r.function(m, key)
		if err != nil {
			r.find(Wrong, place, "give the property, choose another "+what+", or type a number", "%s takes its numbers from the properties of the %s, and %v", res.ID, what, err)
			return false
		}
		res.Properties[key] = f
	}
	return true
}
