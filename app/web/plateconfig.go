package web

import (
	"fmt"
	"slices"

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
	Overlays               []overlayView
	Axes                   []string // that a slice can be across
	Levels                 []levelView
	Arrows, Streams        []showView
	Probes                 []showView
	Map, Spacing, Bands    field
	Bent                   *field // nil if nothing bends
	Vectors, Tensors       []plateLink
}

// plateLink leads to a plate, or to a new one of a field.
type plateLink struct {
	ID, Number, Name string
	Chosen           bool
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
	Lines    map[string][6]float64 `json:"lines"`  // by number: both ends, m
	Levels   []float64             `json:"levels"` // SI
	Arrows   []showConfig          `json:"arrows"`
	Streams  []showConfig          `json:"streams"`
	Probes   map[string][3]float64 `json:"probes"` // by number, m
	Look     lookConfig            `json:"look"`
	// Bends is the vector by which the device can be drawn bent, "" for none.
	Bends string `json:"bends"`
	// Extent is the least and the greatest value on the surface at all moments, SI.
	Extent [2]float64 `json:"extent"`
}

// fillPlate sets the plate of an id, the first one if it is empty, and what the script
// needs for it.
func (s *platesPage) fillPlate(v *platesView, doc *model.Document, res *result.Result, id string) error {
	list := doc.Plates
	if len(list) == 0 {
		list = model.New("").Plates
	}
	chosen := 0
	if id != "" {
		if chosen = slices.IndexFunc(list, func(p model.Plate) bool { return p.ID == id }); chosen < 0 {
			return fmt.Errorf("the plate %q of this model: %w", id, store.ErrNotFound)
		}
	}
	plate := list[chosen]
	for i, p := range list {
		v.Plates = append(v.Plates, plateLink{p.ID, roman(i + 1), p.Name, i == chosen})
	}
	k := &briefMaker{doc: doc, id: v.Model.ID, faults: map[string]string{}}
	k.resolved, k.findings = model.Resolve(doc, physics.Catalog())
	for _, f := range k.findings {
		k.faults[f.Place] = f.Message
	}
	shows, u := plate.ShownAs(physics.Catalog())
	f, there := res.FieldNamed(shows.Name)
	for i := 0; !there && i < len(res.Fields); i++ {
		// The run does not have the field of the plate: the first one is shown that can be.
		f = res.Fields[i]
		_, there = physics.Catalog().Field(f.Name)
		plate.Field, plate.Low, plate.High = f.Name, "", ""
	}
	shows, u = plate.ShownAs(physics.Catalog())
	plate.Field, plate.Unit = shows.Name, u.Text
	at := "plates/" + plate.ID + "/"
	var names, words []string
	for _, p := range physics.Catalog().Fields {
		if _, ok := res.FieldNamed(p.Name); ok {
			text := capital(p.Words())
			names, words = append(names, p.Name), append(words, text)
			v.Fields = append(v.Fields, plateLink{ID: p.Name, Name: text})
		}
	}
	v.Plate = &plateView{Plate: plate, Number: chosen + 1, Derived: f.Derived,
		Name:  k.field(at+"name", plate.Name, "name of the plate", "name"),
		Field: k.choice(at+"field", plate.Field, "field of the plate", names, words),
		Low:   k.field(at+"low", plate.Low, "lower end of the colour bar", "automatic"),
		High:  k.field(at+"high", plate.High, "upper end of the colour bar", "automatic"),
		Unit:  k.choice(at+"unit", plate.Unit, "unit of the colour bar", shows.Units, shows.Units),
		Axes:  doc.Space.Axes(), Slices: k.slices(&plate), Lines: k.lines(&plate), Levels: k.levels(&plate),
		Arrows: k.arrows(&plate, res), Streams: k.streams(&plate, res), Probes: k.probes(&plate),
		Map:     k.choice(at+"map", plate.Map, "colours", []string{"", model.AboutZero, model.Round}, []string{"from the lowest to the highest", "about zero", "round, as of a phase"}),
		Spacing: k.choice(at+"spacing", plate.Spacing, "spacing of the scale", []string{"", model.Logarithmic}, []string{"even", "logarithmic"}),
		Bands:   k.field(at+"bands", plate.Bands, "number of bands", "none"),
	}
	if hasVector(res, bends) {
		bent := k.field(at+"bent", plate.Bent, "how many times the displacement the device is bent", "0")
		v.Plate.Bent = &bent
	}
	names, words = vectorsOf(res, true)
	for i, name := range names {
		link := plateLink{ID: name, Name: words[i]}
		if vector, _ := physics.Catalog().Vector(name); vector.Tensor {
			v.Plate.Tensors = append(v.Plate.Tensors, link)
		} else {
			v.Plate.Vectors = append(v.Plate.Vectors, link)
		}
	}
	for i := range v.Rows {
		v.Rows[i].Plate = plate.ID
	}
	c := plateConfig{Run: v.Run.ID, Token: v.Run.Token, Model: v.Model.ID, Unit: plate.Unit, Field: shows.Name, Symbol: shows.Symbol, Factor: u.Factor, Offset: u.Offset}
	c.Modes, c.Plate, c.Slices = v.Modes, plate.ID, []sliceConfig{}
	c.Lines, c.Levels = k.resolved.PlateLines(&plate), k.resolved.PlateLevels(&plate, physics.Catalog())
	for _, cut := range k.resolved.PlateSlices(&plate) {
		c.Slices = append(c.Slices, sliceConfig(cut))
	}
	c.shows(k.resolved, &plate, res)
	if f, err := s.surfaceOf(*v.Run); err == nil {
		if lo, hi, err := f.Range(shows.Name); err == nil && lo <= hi {
			c.Extent = [2]float64{lo, hi}
		}
	}
	c.Length, c.Scale = drawing.Scale(doc.Space.Unit)
	lo, hi, fixedLo, fixedHi := k.resolved.PlateRange(&plate, physics.Catalog())
	if fixedLo {
		c.Low = &lo
	}
	if fixedHi {
		c.High = &hi
	}
	for _, p := range res.Document.Parts {
		c.Parts = append(c.Parts, p.Name)
	}
	if f.Greatest == nil { // a run from before other fields had extremes
		f.Greatest, f.Least = res.Greatest, res.Least
	}
	if f.Greatest != nil && f.Least != nil {
		v.Greatest, v.Least = newExtreme(f.Greatest, &c), newExtreme(f.Least, &c)
		c.Greatest, c.Least = f.Greatest.At[:], f.Least.At[:]
	}
	v.Config = &c
	return nil
}

func newExtreme(e *result.Extreme, c *plateConfig) *extremeView {
	value, u := splitUnit(quantity.Show(e.Value, c.Unit, false, 0))
	at := fmt.Sprintf("%s, %s, %s %s", trim(e.At[0]*c.Scale), trim(e.At[1]*c.Scale), trim(e.At[2]*c.Scale), c.Length)
	return &extremeView{value, u, e.Part, at}
}
