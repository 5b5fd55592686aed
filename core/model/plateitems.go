package model

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Plate is a kept picture of a result.
type Plate struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Field is what is shown: "temperature" or "potential", or a formula of the quantities behind a
	// sign =, such as "= heat_flux_z*x".
	Field string `json:"field"`
	// Unit of the colour bar.
	Unit string `json:"unit,omitempty"`
	// Low and High fix the range of the colour bar; empty means what the result
	// has.
	Low  string `json:"low,omitempty"`
	High string `json:"high,omitempty"`
	// Slices are planes at which the device is seen cut open.
	Slices []Slice `json:"slices,omitempty"`
	// Levels are values at which the field has a surface, or in a section a line.
	Levels []Level `json:"levels,omitempty"`
	// Lines are ways along which the field is drawn over the distance.
	Lines []Line `json:"lines,omitempty"`
	// Arrows and Streams show vectors.
	Arrows  []Arrows  `json:"arrows,omitempty"`
	Streams []Streams `json:"streams,omitempty"`
	// Probes are places at which the value is written.
	Probes []Probe `json:"probes,omitempty"`
	// Map is how colours follow values: [AboutZero] or [Round]; empty means from the lowest to the
	// highest.
	Map string `json:"map,omitempty"`
	// Spacing is [Logarithmic], or empty for even.
	Spacing string `json:"spacing,omitempty"`
	// Bands is the number of colours, empty for as many as there are values.
	Bands string `json:"bands,omitempty"`
	// Bent is how many times the displacement the device is drawn bent: a number or [Automatic];
	// empty means not at all.
	Bent string `json:"bent,omitempty"`
	// Shared is the id of a plate that shares its scale, "" for none.
	Shared string `json:"shared,omitempty"`
	// Seen are the parts that are not drawn as the others are.
	Seen []Seen `json:"seen,omitempty"`
}

// Seen says how a part is drawn on a plate.
type Seen struct {
	// ID is that of the part.
	ID string `json:"id"`
	// How is [Pale] or [Hidden].
	How string `json:"how"`
}

// How a part can be drawn that is not drawn as the others are.
const (
	Pale   = "pale"
	Hidden = "hidden"
)

// What Map, Spacing and Bent of a plate can be.
const (
	AboutZero   = "about zero"
	Round       = "round"
	Logarithmic = "logarithmic"
	Automatic   = "automatic"
)

// Arrows are those of a vector, or the principal directions of a tensor.
type Arrows struct {
	// ID is the number that they keep.
	ID    string `json:"id,omitempty"`
	Field string `json:"field"`
	// On is where they stand: [Inside], [OnSurface] or [OnSlices].
	On    string `json:"on"`
	Count string `json:"count"`
	// Length is [Equal], or empty for by size.
	Length string `json:"length,omitempty"`
}

// Where arrows stand, and what their length can be.
const (
	Inside    = "inside"
	OnSurface = "surface"
	OnSlices  = "slices"
	Equal     = "equal"
)

// Streams are ways that follow a vector.
type Streams struct {
	// ID is the number that they keep.
	ID    string `json:"id,omitempty"`
	Field string `json:"field"`
	// From is where they begin: [Everywhere], parts/ with the id of a part, sides/ with a patch as it
	// is written in a line, or lines/ or probes/ with the number of one of the plate.
	From  string `json:"from"`
	Count string `json:"count"`
}

// Everywhere says that streams begin evenly spread in all parts.
const Everywhere = "everywhere"

// Probe is a place at which the value of the field is written; an empty coordinate is 0.
type Probe struct {
	// ID is the number that it keeps.
	ID string `json:"id,omitempty"`
	X  string `json:"x,omitempty"`
	Y  string `json:"y,omitempty"`
	Z  string `json:"z,omitempty"`
}

// Level is a value of the field of a plate.
type Level struct {
	// ID is the number that the level keeps.
	ID string `json:"id,omitempty"`
	At string `json:"at"`
}

// Slice is a plane at which a plate cuts the device open.
type Slice struct {
	// ID is the number that the slice keeps.
	ID string `json:"id,omitempty"`
	// Across is the axis that the plane is across, x, y or z, or the numbers of its normal, of any
	// length, with commas between them.
	Across string `json:"across"`
	// At is how far from the origin it lies along that.
	At string `json:"at"`
	// Keep says which side of the device is seen, [Less] or [Greater]; empty means both.
	Keep string `json:"keep,omitempty"`
}

// plate finds a plate. A document without plates has those that all begin with.
func (d *Document) plate(id string) (*Plate, error) {
	if len(d.Plates) == 0 {
		d.Plates = New("").Plates
	}
	i := slices.IndexFunc(d.Plates, func(p Plate) bool { return p.ID == id })
	if i < 0 {
		return nil, &GoneError{"plates/" + id}
	}
	return &d.Plates[i], nil
}

// AddSlice adds a slice of a plate, across an axis at a place, and returns its place.
func (d *Document) AddSlice(plate, across, at string) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	if _, ok := d.Space.normal(across); !ok {
		return "", fmt.Errorf("a slice is across %s, not %q", strings.Join(d.Space.Axes(), " or "), across)
	}
	if len(p.Slices) == MaxSlices {
		return "", fmt.Errorf("a plate has no more than %d slices; take one away", MaxSlices)
	}
	var number string
	keep := Less
	if across == "y" { // one looks from the front
		keep = Greater
	}
	p.Slices, number = appended(p.Slices, Slice{Across: across, At: at, Keep: keep})
	return "plates/" + plate + "/slices/" + number + "/at", nil
}

// AddLevel adds a level of the field of a plate and returns its place.
func (d *Document) AddLevel(plate, at string) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	var number string
	p.Levels, number = appended(p.Levels, Level{At: at})
	return "plates/" + plate + "/levels/" + number + "/at", nil
}

// AddPlate adds a plate of a field and returns its id.
func (d *Document) AddPlate(cat *Catalog, field string) (string, error) {
	shows, ok := cat.For(d).Field(field)
	if !ok {
		return "", fmt.Errorf("a plate cannot show %q", field)
	}
	if len(d.Plates) == 0 {
		d.Plates = New("").Plates
	}
	id := d.freeID("plate")
	d.Plates = append(d.Plates, Plate{ID: id, Name: plateName(&shows), Field: field, Unit: shows.Units[0]})
	return id, nil
}

// ShowOn makes a plate show what a text calls, see [Catalog.FieldCalled]. A unit, ends and levels that are
// of something else go, and a name that said what was shown before follows.
func (d *Document) ShowOn(cat *Catalog, id, text string) error {
	p, err := d.plate(id)
	if err != nil {
		return err
	}
	r := &Resolved{Document: d}
	before, old := r.Shows(p, cat)
	named := p.Name == New("").Plates[0].Name && before.Name == cat.Fields[0].Name || p.Name == plateName(&before)
	p.Field = cat.For(d).FieldCalled(text)
	after, unit := r.Shows(p, cat)
	if _, own := OwnFormula(p.Field); own {
		// Its unit depends on parameters, which are not known here.
		p.Unit, p.Low, p.High, p.Levels = "", "", "", nil
		after = sentence.Field{Label: strings.TrimSpace(strings.TrimPrefix(p.Field, ofFormula))}
	} else if shown, err := quantity.ParseUnit(p.Unit); err != nil || p.Unit == "" || shown.Dimension != unit.Dimension || old.Dimension != unit.Dimension {
		p.Unit, p.Low, p.High, p.Levels = after.Units[0], "", "", nil
	}
	if named {
		p.Name = plateName(&after)
	}
	return nil
}

// plateName is what a plate of a field is called when nobody has named it.
func plateName(f *sentence.Field) string {
	words := f.Words()
	first, size := utf8.DecodeRuneInString(words)
	return string(unicode.ToUpper(first)) + words[size:]
}

// RemovePlate removes a plate.
func (d *Document) RemovePlate(id string) error {
	i := slices.IndexFunc(d.Plates, func(p Plate) bool { return p.ID == id })
	if i < 0 {
		return &GoneError{"plates/" + id}
	}
	d.Plates = slices.Delete(d.Plates, i, i+1)
	return nil
}

// AddArrows adds arrows to a plate and returns their place.
func (d *Document) AddArrows(plate string, a Arrows) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	var number string
	p.Arrows, number = appended(p.Arrows, a)
	return "plates/" + plate + "/arrows/" + number + "/count", nil
}

// AddStreams adds streams to a plate and returns their place.
func (d *Document) AddStreams(plate string, s Streams) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	var number string
	p.Streams, number = appended(p.Streams, s)
	return "plates/" + plate + "/streams/" + number + "/count", nil
}

// AddProbe adds a probe to a plate and returns its place.
func (d *Document) AddProbe(plate string, b Probe) (string, error) {
	p, err := d.plate(plate)
	if err != nil {
		return "", err
	}
	var number string
	p.Probes, number = appended(p.Probes, b)
	return "plates/" + plate + "/probes/" + number + "/x", nil
}
