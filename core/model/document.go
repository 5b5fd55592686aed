package model

import "saltkettle/core/material"

// Version of the document format.
const Version = 3

// Document is a model.
type Document struct {
	// Kettle is the version of the format, 3.
	Kettle int    `json:"kettle"`
	Name   string `json:"name"`
	// Site is where the device belongs, for the title block.
	Site string `json:"site,omitempty"`
	// Aim is the question that the model answers, in words.
	Aim        string              `json:"aim,omitempty"`
	Space      Space               `json:"space"`
	Parameters []Parameter         `json:"parameters,omitempty"`
	Materials  []material.Material `json:"materials,omitempty"`
	Parts      []Part              `json:"parts,omitempty"`
	Physics    []Physics           `json:"physics,omitempty"`
	Conditions []Sentence          `json:"conditions,omitempty"`
	Mesh       Mesh                `json:"mesh"`
	Run        Run                 `json:"run,omitzero"`
	Readings   []Sentence          `json:"readings,omitempty"`
	Plates     []Plate             `json:"plates,omitempty"`
}

// Space says how the outlines make a device.
type Space struct {
	// Kind is "solid" (every outline has a span in z), "plane" (outlines are sections of
	// a device of some depth, of which nothing changes in z) or "axial" (x is the radius
	// from an axis along y, round which outlines turn).
	Kind string `json:"kind"`
	// Depth of a plane space; empty means 1 m.
	Depth string `json:"depth,omitempty"`
	// Unit of lengths on the drawing: mm, cm, m, µm or in.
	Unit string `json:"unit"`
}

// Kinds of spaces.
const (
	Solid = "solid"
	Plane = "plane"
	Axial = "axial"
)

// Flat says that outlines are sections: they have no span in z, and no top or bottom.
func (s Space) Flat() bool { return s.Kind == Plane || s.Kind == Axial }

// Parameter is a named value that formulas may use.
type Parameter struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	// Unit in which it is meant; a value of another dimension is an error.
	Unit  string `json:"unit,omitempty"`
	About string `json:"about,omitempty"`
	// Least and Most bound the value.
	Least string `json:"least,omitempty"`
	Most  string `json:"most,omitempty"`
}

// Role says what a part is for.
type Role string

// The roles of a part.
const (
	Solved Role = "solved"
	Shown  Role = "shown only"
	Off    Role = "off"
)

// Roles lists the roles in the order of menus.
var Roles = []Role{Solved, Shown, Off}

// Part is a named body or an array of equal bodies. Parts stand in order: where
// two overlap, the later one displaces the earlier one.
type Part struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	Material string  `json:"material,omitempty"`
	Role     Role    `json:"role"`
	Outline  Outline `json:"outline"`
	Span     Span    `json:"span"`
	Place    Place   `json:"place,omitzero"`
	Array    *Array  `json:"array,omitempty"`
	// Cells is the wanted length of cell edges in this part; empty means that of
	// the model.
	Cells string `json:"cells,omitempty"`
}

// Span is the extent of a part in z.
type Span struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Place moves the middle of an outline and turns it about that middle. Empty
// values are zero.
type Place struct {
	X    string `json:"x,omitempty"`
	Y    string `json:"y,omitempty"`
	Turn string `json:"turn,omitempty"`
	// Mirror reflects the outline left to right before it is turned.
	Mirror bool `json:"mirror,omitempty"`
}

// Array repeats a part or a hole.
type Array struct {
	Count string `json:"count"`
	// Pitch from one copy to the next: a length or, round a centre, an angle.
	Pitch string `json:"pitch,omitempty"`
	// Within is the distance from the first copy to the last, or the angle, instead
	// of the pitch.
	Within string `json:"within,omitempty"`
	// Along is x, y or z, or round: about the point X, Y of the drawing.
	Along string `json:"along"`
	X     string `json:"x,omitempty"`
	Y     string `json:"y,omitempty"`
	// Centred puts the middle of the array where a single part would be;
	// otherwise the first copy is there.
	Centred bool `json:"centred,omitempty"`
}

// Physics is one physics of the model.
type Physics struct {
	// Kind is "heat": conduction in all solved parts. Current flows in the parts that
	// a sentence says, whether "electric" stands here or not.
	Kind string `json:"kind"`
}

// Sentence is a condition or a reading.
type Sentence struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	// Name of a reading.
	Name   string            `json:"name,omitempty"`
	On     Patch             `json:"on,omitzero"`
	Values map[string]string `json:"values,omitempty"`
	// Unit in which a reading is shown; empty means the usual one.
	Unit string `json:"unit,omitempty"`
	// Off takes the sentence out without deleting it.
	Off bool `json:"off,omitempty"`
}

// Patch is a piece of boundary, or a whole part, chosen by meaning.
type Patch struct {
	// Part is the id of a part.
	Part string `json:"part"`
	// Side is the name of a side: "top", "bottom", the name of an edge of the
	// outline, "*" for the whole surface, or empty for the part itself.
	Side string `json:"side,omitempty"`
	// Copy limits the patch to one copy of an array, counted from 1.
	Copy int `json:"copy,omitempty"`
	// Facing limits the patch to where the part meets another one, given by its
	// id, or to where nothing solved lies beyond: "outside".
	Facing string `json:"facing,omitempty"`
}

// Outside is the value of Patch.Facing for surfaces with nothing beyond them.
const Outside = "outside"

// WholeSurface is the value of Patch.Side for all sides.
const WholeSurface = "*"

// Mesh is the wishes for the mesh.
type Mesh struct {
	// Size is the wanted length of cell edges.
	Size string `json:"size"`
	// Across is the least number of cells across any part.
	Across string `json:"across"`
	// Order of the functions in a cell, 1 or 2; empty means 1.
	Order string `json:"order,omitempty"`
}

// Run says what is computed.
type Run struct {
	// Kind is "steady" or "transient"; empty means steady.
	Kind string `json:"kind,omitempty"`
	// End is how long a transient run lasts.
	End string `json:"end,omitempty"`
	// Start is the temperature when time begins, where no sentence says another one.
	Start string `json:"start,omitempty"`
	// Tolerance of the error of one step in time, relative to how far the temperatures
	// have been apart so far; empty means 0.05 %.
	Tolerance string `json:"tolerance,omitempty"`
}

// Kinds of runs.
const (
	Steady    = "steady"
	Transient = "transient"
)

// Transient says that the model runs in time.
func (d *Document) Transient() bool { return d.Run.Kind == Transient }

// Plate is a kept picture of a result.
type Plate struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Field is what is shown: "temperature" or "potential".
	Field string `json:"field"`
	// Unit of the colour bar.
	Unit string `json:"unit,omitempty"`
	// Low and High fix the range of the colour bar; empty means what the result
	// has.
	Low  string `json:"low,omitempty"`
	High string `json:"high,omitempty"`
}

// Units lists the units of length for drawings.
var Units = []string{"mm", "cm", "m", "µm", "in"}

// New returns a blank model.
func New(name string) *Document {
	return &Document{
		Kettle:  Version,
		Name:    name,
		Space:   Space{Kind: "solid", Unit: "mm"},
		Physics: []Physics{{Kind: "heat"}},
		Mesh:    Mesh{Size: "", Across: "2"},
		Plates:  []Plate{{ID: "I", Name: "Temperature on the outside", Field: "temperature", Unit: "°C"}},
	}
}

// Part finds a part by its id; it returns −1 if there is none.
func (d *Document) Part(id string) int {
	for i := range d.Parts {
		if d.Parts[i].ID == id {
			return i
		}
	}
	return -1
}
