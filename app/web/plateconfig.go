package web

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/drawing"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// plateView is a plate with its settings as fields.
type plateView struct {
	model.Plate
	Number                 int
	Derived                bool // smoothed from what was solved for
	Name                   field
	Field, Low, High, Unit field
	Slices                 []sliceView
	Lines                  []lineView
	Along                  string // a part that is a line, "" for none
	Overlays               []overlayView
	Axes                   []string // that a slice can be across
	Levels                 []levelView
	Arrows, Streams        []showView
	Probes                 []showView
	Map, Spacing, Bands    field
	Shared                 *field // nil if there is no other plate
	Bent                   *field // nil if nothing bends
	Vectors, Tensors       []plateLink
}

// plateLink leads to a plate, or to a new one of a field.
type plateLink struct {
	ID, Number, Name string
	Chosen           bool
	// Usual says that nobody has made it.
	Usual bool
}

// extremeView is a greatest or least value with its place.
type extremeView struct{ Value, Unit, Part, At string }

// plateConfig is what the script of the page needs.
type plateConfig struct {
	Run      uint                  `json:"run"`
	Token    string                `json:"token"`
	Model    uint                  `json:"model"`
	Unit     string                `json:"unit"`
	Field    string                `json:"field"`
	Words    string                `json:"words"` // for the field
	Symbol   string                `json:"symbol"`
	Factor   float64               `json:"factor"` // value in unit = (SI value − offset) / factor
	Offset   float64               `json:"offset"`
	Low      *float64              `json:"low"` // fixed ends, SI
	High     *float64              `json:"high"`
	Parts    []string              `json:"parts"`
	Length   string                `json:"length"` // unit of the drawing
	Scale    float64               `json:"scale"`
	Greatest []float64             `json:"greatest"` // place, m
	Least    []float64             `json:"least"`
	Modes    []string              `json:"modes"` // what each is called
	Plate    string                `json:"plate"`
	Slices   []sliceConfig         `json:"slices"`
	Lines    map[string]lineConfig `json:"lines"`  // by number
	Levels   []float64             `json:"levels"` // SI
	Arrows   []showConfig          `json:"arrows"`
	Streams  []showConfig          `json:"streams"`
	Probes   map[string][3]float64 `json:"probes"` // by number, m
	Look     lookConfig            `json:"look"`
	// Bends is the vector by which the device can be drawn bent, "" for none, and BendsToo its imaginary
	// part if it swings.
	Bends    string `json:"bends"`
	BendsToo string `json:"bendsToo,omitempty"`
	// Swings is the imaginary part of the field of a plate that shows how it swings, "" of any other.
	Swings string `json:"swings,omitempty"`
	// Beside is another run that is shown too.
	Beside *plateConfig `json:"beside,omitempty"`
	// Minus is the run that is taken off, of a difference, with the unit of that.
	Minus *minusConfig `json:"minus,omitempty"`
	// Turn says that the section turns about an axis, and Mirrors are the planes of symmetry, m.
	Turn    bool           `json:"turn"`
	Mirrors []mirrorConfig `json:"mirrors"`
	// Seen is how parts are drawn, by their numbers, that are not drawn as the others are.
	Seen map[int]string `json:"seen"`
	// PartIDs are what the model calls the parts.
	PartIDs []string `json:"partIDs"`
	// Extent is the least and the greatest value on the surface at all moments, SI.
	Extent [2]float64 `json:"extent"`
}

// lineConfig is a line with its ways, and the fields that are drawn besides that of the plate.
type lineConfig struct {
	Ways []model.PlateWay `json:"ways"`
	Also []alsoConfig     `json:"also"`
}

// alsoConfig is a field that is drawn along a line.
type alsoConfig struct {
	Field  string  `json:"field"`
	Label  string  `json:"label"`
	Unit   string  `json:"unit"`
	Factor float64 `json:"factor"` // value in unit = (SI value − offset) / factor
	Offset float64 `json:"offset"`
}

// minusConfig is a run that is taken off another one.
type minusConfig struct {
	Run    uint    `json:"run"`
	Unit   string  `json:"unit"`
	Factor float64 `json:"factor"`
}

// mirrorConfig is a plane of symmetry across an axis.
type mirrorConfig struct {
	Axis int     `json:"axis"`
	At   float64 `json:"at"`
}

// HasRest says that only a part of the device was solved.
func (c *plateConfig) HasRest() bool { return c.Turn || len(c.Mirrors) > 0 }

// plateOf is the plate of an id, the first one if it is empty, with its number from 0, among all that a result
// has.
func plateOf(doc *model.Document, res *result.Result, id string) (list []model.Plate, chosen int, err error) {
	list = doc.AllPlates(physics.Catalog(), func(field string) bool { _, there := res.FieldNamed(field); return there })
	if id != "" {
		if chosen = slices.IndexFunc(list, func(p model.Plate) bool { return p.ID == id }); chosen < 0 {
			return nil, 0, fmt.Errorf("the plate %q of this model: %w", id, store.ErrNotFound)
		}
	}
	return list, chosen, nil
}

// fit makes a plate show a field that a run has, the first one if it has not that of the plate.
func (k *briefMaker) fit(p *model.Plate, res *result.Result) result.FieldName {
	shows, _ := k.resolved.Shows(p, physics.Catalog())
	f, there := res.FieldNamed(shows.Name)
	if _, own := model.OwnFormula(shows.Name); own {
		f, there = result.FieldName{Name: shows.Name}, true
	}
	for i := 0; !there && i < len(res.Fields); i++ {
		f = res.Fields[i]
		_, there = physics.Catalog().Field(f.Name)
		p.Field, p.Low, p.High = f.Name, "", ""
	}
	shows, u := k.resolved.Shows(p, physics.Catalog())
	p.Field, p.Unit = shows.Name, u.Text
	if _, own := model.OwnFormula(shows.Name); f.Greatest == nil && !own { // a run from before other fields had extremes
		f.Greatest, f.Least = res.Greatest, res.Least
	}
	return f
}

// fillPlate sets the plate of an id and what the script needs for it.
func (s *platesPage) fillPlate(v *platesView, doc *model.Document, res *result.Result, id string) error {
	list, chosen, err := plateOf(doc, res, id)
	if err != nil {
		return err
	}
	plate := list[chosen]
	for i, p := range list {
		v.Plates = append(v.Plates, plateLink{ID: p.ID, Number: roman(i + 1), Name: p.Name, Chosen: i == chosen, Usual: doc.IsUsual(p.ID)})
	}
	k := &briefMaker{doc: doc, id: v.Model.ID, faults: map[string]string{}}
	k.resolved, k.findings = model.Resolve(doc, physics.Catalog())
	for _, f := range k.findings {
		k.faults[f.Place] = f.Message
	}
	f := k.fit(&plate, res)
	v.Plate = k.plate(&plate, res)
	v.Plate.Number, v.Plate.Derived = chosen+1, f.Derived
	for _, p := range physics.Catalog().For(doc).Fields {
		if _, ok := res.FieldNamed(p.Name); ok {
			v.Fields = append(v.Fields, plateLink{ID: p.Name, Name: capital(p.Words())})
		}
	}
	for _, f := range res.Fields {
		if name, real := strings.CutSuffix(f.Name, "_"+result.RealPart); real && f.Part == result.RealPart {
			v.Swings = append(v.Swings, plateLink{ID: name, Name: capital(strings.ReplaceAll(name, "_", " "))})
		}
	}
	for i := range v.Rows {
		v.Rows[i].Plate = plate.ID
	}
	c := s.configOf(k, &plate, &f, *v.Run, res)
	if f.Greatest != nil && f.Least != nil {
		v.Greatest, v.Least = newExtreme(f.Greatest, c), newExtreme(f.Least, c)
	}
	v.Config = c
	return nil
}

// plate is a plate with its settings as fields.
func (k *briefMaker) plate(p *model.Plate, res *result.Result) *plateView {
	at := "plates/" + p.ID + "/"
	shows, _ := k.resolved.Shows(p, physics.Catalog())
	v := &plateView{Plate: *p,
		Name:  k.field(at+"name", p.Name, "name of the plate", "name"),
		Field: k.fieldOf(at+"field", p, shows.Words()),
		Low:   k.field(at+"low", p.Low, "lower end of the colour bar", "automatic"),
		High:  k.field(at+"high", p.High, "upper end of the colour bar", "automatic"),
		Unit:  k.choice(at+"unit", p.Unit, "unit of the colour bar", shows.Units, shows.Units),
		Axes:  k.doc.Space.Axes(), Slices: k.slices(p), Lines: k.lines(p), Along: k.firstLine(), Levels: k.levels(p),
		Arrows: k.arrows(p, res), Streams: k.streams(p, res), Probes: k.probes(p),
		Map:     k.choice(at+"map", p.Map, "colours", []string{"", model.AboutZero, model.Round}, []string{"from the lowest to the highest", "about zero", "round, as of a phase"}),
		Spacing: k.choice(at+"spacing", p.Spacing, "spacing of the scale", []string{"", model.Logarithmic}, []string{"even", "logarithmic"}),
		Bands:   k.field(at+"bands", p.Bands, "number of bands", "none"),
	}
	if vector, _ := bends(res); vector != "" {
		bent := k.field(at+"bent", p.Bent, "how many times the displacement the device is bent", "0")
		v.Bent = &bent
	}
	if ids, names := []string{""}, []string{"no other plate"}; len(k.doc.Plates) > 1 {
		for i, q := range k.doc.Plates {
			if q.ID != p.ID {
				ids, names = append(ids, q.ID), append(names, "plate "+roman(i+1))
			}
		}
		if !slices.Contains(ids, p.Shared) {
			ids, names = append(ids, p.Shared), append(names, "a plate that is gone")
		}
		shared := k.choice(at+"shared", p.Shared, "plate that shares the scale", ids, names)
		v.Shared = &shared
	}
	names, words := vectorsOf(res, true)
	for i, name := range names {
		link := plateLink{ID: name, Name: words[i]}
		if vector, _ := physics.Catalog().Vector(name); vector.Tensor {
			v.Tensors = append(v.Tensors, link)
		} else {
			v.Vectors = append(v.Vectors, link)
		}
	}
	return v
}

// fieldOf is the field of a plate as people call it, or as the formula that it is.
func (k *briefMaker) fieldOf(place string, p *model.Plate, words string) field {
	f := k.field(place, capital(words), "field of the plate, or a formula", "field")
	if text, own := model.OwnFormula(p.Field); own {
		f.Value = text
	}
	f.List = "quantities"
	return f
}

// configOf is what the script needs to draw a plate, which fits it, of a run.
func (s *platesPage) configOf(k *briefMaker, p *model.Plate, f *result.FieldName, run store.Run, res *result.Result) *plateConfig {
	shows, u := k.resolved.Shows(p, physics.Catalog())
	c := &plateConfig{Run: run.ID, Token: run.Token, Model: run.ModelID, Unit: p.Unit, Field: shows.Name, Words: shows.Words(), Symbol: shows.Symbol, Factor: u.Factor, Offset: u.Offset}
	c.Modes, c.Plate, c.Slices = modeWords(res), p.ID, []sliceConfig{}
	c.Lines, c.Levels = linesOf(k.resolved, p), k.resolved.PlateLevels(p, physics.Catalog())
	for _, cut := range k.resolved.PlateSlices(p) {
		c.Slices = append(c.Slices, sliceConfig(cut))
	}
	c.shows(k.resolved, p, res)
	c.Turn, c.Mirrors = k.doc.Space.Kind == model.Axial, []mirrorConfig{}
	for _, cut := range k.resolved.Cuts {
		c.Mirrors = append(c.Mirrors, mirrorConfig{cut.Axis, cut.At})
	}
	c.Extent = s.extentOf(run, f)
	if swings := physics.Catalog().Swinging(p); swings != "" {
		if amplitude, there := res.FieldNamed(swings); there {
			most := s.extentOf(run, &amplitude)[1]
			c.Extent, c.Swings = [2]float64{-most, most}, "="+result.PartOf(swings, result.ImaginaryPart)
		}
	}
	c.Length, c.Scale = drawing.Scale(k.doc.Space.Unit)
	lo, hi, fixedLo, fixedHi := k.resolved.PlateRange(p, physics.Catalog())
	if fixedLo {
		c.Low = &lo
	}
	if fixedHi {
		c.High = &hi
	}
	s.share(c, k, p, run, res)
	c.Seen = map[int]string{}
	for i, part := range res.Document.Parts {
		c.Parts, c.PartIDs = append(c.Parts, part.Name), append(c.PartIDs, part.ID)
		for _, seen := range p.Seen {
			if seen.ID == part.ID {
				c.Seen[i] = seen.How
			}
		}
	}
	if f.Greatest != nil && f.Least != nil {
		c.Greatest, c.Least = f.Greatest.At[:], f.Least.At[:]
	}
	return c
}

// extentOf is the least and the greatest value of a field at all moments, SI. What is wrong with the
// file is said when the script asks for it.
func (s *platesPage) extentOf(run store.Run, f *result.FieldName) [2]float64 {
	if _, own := model.OwnFormula(f.Name); own {
		if lo, hi, err := s.extremesOf(run, f); err == nil && lo <= hi {
			return [2]float64{lo, hi}
		}
	} else if file, err := s.surfaceOf(run); err == nil {
		if lo, hi, err := file.Range(f.Name); err == nil && lo <= hi {
			return [2]float64{lo, hi}
		}
	}
	return [2]float64{0, 1}
}

// share gives a plate the scale that has room for its values and for those of the plate that shares it; ends
// that are fixed on either are those of both, its own first.
func (s *platesPage) share(c *plateConfig, k *briefMaker, p *model.Plate, run store.Run, res *result.Result) {
	i := slices.IndexFunc(k.doc.Plates, func(q model.Plate) bool { return q.ID == p.Shared })
	if i < 0 {
		return
	}
	other := k.doc.Plates[i]
	_, own := k.resolved.Shows(p, physics.Catalog())
	shows, unit := k.resolved.Shows(&other, physics.Catalog())
	f, there := res.FieldNamed(shows.Name)
	if _, formula := model.OwnFormula(shows.Name); formula {
		f, there = result.FieldName{Name: shows.Name}, true
	}
	if !there || own.Dimension != unit.Dimension {
		return
	}
	extent := s.extentOf(run, &f)
	c.Extent = [2]float64{min(c.Extent[0], extent[0]), max(c.Extent[1], extent[1])}
	lo, hi, fixedLo, fixedHi := k.resolved.PlateRange(&other, physics.Catalog())
	if fixedLo && c.Low == nil {
		c.Low = &lo
	}
	if fixedHi && c.High == nil {
		c.High = &hi
	}
}

// linesOf are the lines of a plate as a script needs them.
func linesOf(r *model.Resolved, p *model.Plate) map[string]lineConfig {
	list := map[string]lineConfig{}
	for id, line := range r.PlateLines(p, physics.Catalog()) {
		c := lineConfig{Ways: line.Ways, Also: []alsoConfig{}}
		for _, f := range line.Also {
			u := quantity.MustUnit(f.Units[0])
			c.Also = append(c.Also, alsoConfig{f.Name, f.Words(), u.Text, u.Factor, u.Offset})
		}
		list[id] = c
	}
	return list
}

func newExtreme(e *result.Extreme, c *plateConfig) *extremeView {
	value, u := splitUnit(quantity.Show(e.Value, c.Unit, false, 0))
	at := fmt.Sprintf("%s, %s, %s %s", trim(e.At[0]*c.Scale), trim(e.At[1]*c.Scale), trim(e.At[2]*c.Scale), c.Length)
	return &extremeView{value, u, e.Part, at}
}
