package model

import "saltkettle/core/material"

// Version of the document format.
const Version = 7

// Document is a model.
type Document struct {
	// Kettle is the version of the format, 5.
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
	Trials     []TrialSet          `json:"trials,omitempty"`
	// Asks are what is asked since the model was brought to a newer version of the format.
	Asks []Ask `json:"asks,omitempty"`
}

// Ask is a question about a value, for as long as it stays what it was.
type Ask struct {
	Place   string `json:"place"`
	Value   string `json:"value"`
	Message string `json:"message"`
	Fix     string `json:"fix,omitempty"`
}

// Space says how the outlines make a device.
type Space struct {
	// Kind is "solid" (every outline has a span in z), "plane" (outlines are sections of
	// a device of some depth, of which nothing changes in z) or "axial" (x is the radius
	// from an axis along y, round which outlines turn), or "lines" (all parts are lines, such as
	// pipes).
	Kind string `json:"kind"`
	// Depth of a plane space; empty means 1 m.
	Depth string `json:"depth,omitempty"`
	// Unit of lengths on the drawing: mm, cm, m, µm or in.
	Unit string `json:"unit"`
	// Cuts leave a part of the device out, at planes of symmetry.
	Cuts []Cut `json:"cuts,omitempty"`
}

// Cut is a plane across an axis beyond which the device is left out. What the cut makes
// is the side "cut" of each part, through which nothing passes.
type Cut struct {
	// ID is the number that the cut keeps.
	ID string `json:"id,omitempty"`
	// Across is x, y or z.
	Across string `json:"across"`
	At     string `json:"at"`
	// Keep is "greater" or "less": the side that stays.
	Keep string `json:"keep"`
}

// Sides of a cut that stay.
const (
	Greater = "greater"
	Less    = "less"
)

// Kinds of spaces.
const (
	Solid = "solid"
	Plane = "plane"
	Axial = "axial"
	Lines = "lines"
)

// Flat says that outlines are sections: they have no span in z, and no top or bottom.
func (s Space) Flat() bool { return s.Kind == Plane || s.Kind == Axial }

// Dimensions is in how many directions cells of it go on.
func (s Space) Dimensions() float64 {
	switch {
	case s.Kind == Lines:
		return 1
	case s.Flat():
		return 2
	}
	return 3
}

// Axes are the names of its directions.
func (s Space) Axes() []string {
	if s.Flat() {
		return []string{"x", "y"}
	}
	return []string{"x", "y", "z"}
}

// Parameter is a named value that formulas may use, or a named formula of the place, the time and what is solved for.
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
	ID       string `json:"id"`
	Name     string `json:"name"`
	Material string `json:"material,omitempty"`
	// Group is the name of those that it is one of, "" for none.
	Group string `json:"group,omitempty"`
	// Finish of its surfaces, one of those of its material; empty means the first.
	Finish  string  `json:"finish,omitempty"`
	Role    Role    `json:"role"`
	Outline Outline `json:"outline"`
	Span    Span    `json:"span,omitzero"`
	Place   Place   `json:"place,omitzero"`
	Array   *Array  `json:"array,omitempty"`
	// Fill makes the part take only what is empty: all other parts displace it.
	Fill *Fill `json:"fill,omitempty"`
	// Surface is that of a part whose outline is of the kind "surface".
	Surface *Surface `json:"surface,omitempty"`
	// Cells is the wanted length of cell edges in this part; empty means that of
	// the model.
	Cells string `json:"cells,omitempty"`
	// Note is what people wrote about it.
	Note string `json:"note,omitempty"`
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
	// AboutX and AboutY are the point of the outline about which it is turned.
	AboutX string `json:"about_x,omitempty"`
	AboutY string `json:"about_y,omitempty"`
	// Mirror reflects the outline left to right before it is turned.
	Mirror bool `json:"mirror,omitempty"`
}

// Fill is how a part takes what other parts leave empty within its outline and span. If
// it has a place, it takes what can be reached from there without passing a part or a
// cap.
type Fill struct {
	X    string `json:"x,omitempty"`
	Y    string `json:"y,omitempty"`
	Z    string `json:"z,omitempty"`
	Caps []Cap  `json:"caps,omitempty"`
}

// Surface is a closed surface of triangles that turn left seen from outside. It is never
// changed: documents share it.
type Surface struct {
	// Content names the surface where it is stored apart from its document; files have none.
	Content string `json:"content,omitempty"`
	// Points hold x, y and z one after the other, in the unit of the drawing.
	Points []float64 `json:"points,omitempty"`
	// Triangles hold three points each, counted from 0.
	Triangles []int32 `json:"triangles,omitempty"`
}

// Cap is an upright wall of no thickness that closes an opening. Its name is that of the
// side of the fill that ends there.
type Cap struct {
	// ID is the number that the cap keeps.
	ID    string `json:"id,omitempty"`
	Name  string `json:"name"`
	FromX string `json:"from_x"`
	FromY string `json:"from_y"`
	ToX   string `json:"to_x"`
	ToY   string `json:"to_y"`
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
	// Note is what people wrote about it.
	Note string `json:"note,omitempty"`
}

// Patch is pieces of boundary, or whole parts, chosen by meaning. Patches can be compared.
type Patch struct {
	// Part is the id of a part, or a name for several: see [AllParts].
	Part string `json:"part"`
	// Side is the name of a side: "top", "bottom", the name of an edge of the
	// outline, "*" for the whole surface, or empty for the part itself.
	Side string `json:"side,omitempty"`
	// Copy limits the patch to one copy of an array, counted from 1, and Copies to some, such
	// as "1-3, 7".
	Copy   int    `json:"copy,omitempty"`
	Copies string `json:"copies,omitempty"`
	// Facing limits the patch to where the part meets another one, given like Part, or to where
	// nothing solved lies beyond: "outside".
	Facing string `json:"facing,omitempty"`
	// More are further patches that are added, others that are taken away, and a box, as
	// [Patch.With] and [Patch.In] write them.
	More string `json:"-"`
}

// Outside is the value of Patch.Facing for surfaces with nothing beyond them.
const Outside = "outside"

// WholeSurface is the value of Patch.Side for all sides.
const WholeSurface = "*"

// Mesh is the wishes for the mesh.
type Mesh struct {
	// Size is the wanted length of cell edges.
	Size string `json:"size"`
	// Across is the least number of cells across any part; empty leaves it to what is solved for there.
	Across string `json:"across"`
	// Order of the functions in a cell, 1 or 2; empty leaves it to the physics.
	Order string `json:"order,omitempty"`
	// Growth is how many times as long as its neighbour a cell may be, such as 1.3; empty
	// leaves it open.
	Growth string `json:"growth,omitempty"`
	// Gaps is the least number of cells across gaps between parts; empty means none.
	Gaps string `json:"gaps,omitempty"`
	// Rounds is in how many rounds at most a steady run makes cells finer where its fluxes
	// are least exact; empty means none. Error is the part of the fluxes, such as 5 %, that
	// may be wrong for that to end; empty means 5 %.
	Rounds string `json:"rounds,omitempty"`
	Error  string `json:"error,omitempty"`
	// Change ends the rounds, too: the part of itself, such as 1 %, by which no reading changed in the last one; empty means
	// that readings decide nothing.
	Change string `json:"change,omitempty"`
	// Near are wishes at patches.
	Near []MeshNear `json:"near,omitempty"`
	// Walls are thin layers of cells along patches.
	Walls []MeshWall `json:"walls,omitempty"`
}

// MeshWall asks for layers of thin cells along a side of a part, or along all its upright
// sides: within it if it is a liquid or a gas, or else in what it meets.
type MeshWall struct {
	// ID is the number that the layers keep.
	ID string `json:"id,omitempty"`
	On Patch  `json:"on"`
	// First is the thickness of the first layer, Count their number, and Growth how many
	// times as thick as the one before each is; empty means 1.2.
	First  string `json:"first"`
	Count  string `json:"count"`
	Growth string `json:"growth,omitempty"`
}

// MeshNear is the wanted length of cell edges at a patch: a side of a part, or all its
// sides. At a top or a bottom it is the thickness of the layers there.
type MeshNear struct {
	// ID is the number that the wish keeps.
	ID   string `json:"id,omitempty"`
	On   Patch  `json:"on"`
	Size string `json:"size"`
}

// Run says what is computed.
type Run struct {
	// Kind is "steady", "transient", "modes" or "response"; empty means steady.
	Kind string `json:"kind,omitempty"`
	// End is how long a transient run lasts.
	End string `json:"end,omitempty"`
	// Start is the temperature when time begins, where no sentence says another one.
	Start string `json:"start,omitempty"`
	// From is the number of an earlier run of the model; this one begins where that one
	// ended. Parts that it did not have begin at Start.
	From string `json:"from,omitempty"`
	// Until ends a run in time before its end, as soon as it holds: a formula of the
	// readings and of time, such as "r1 > 60 °C".
	Until string `json:"until,omitempty"`
	// Tolerance of the error of one step in time, relative to how far the temperatures
	// have been apart so far; empty means 0.01 %.
	Tolerance string `json:"tolerance,omitempty"`
	// Longest is the longest step in time; empty lets the error decide and, where a value
	// changes in time, a fiftieth of the whole.
	Longest string `json:"longest,omitempty"`
	// Count is how many modes are found, or at how many frequencies the response is; empty
	// means 6, or 40.
	Count string `json:"count,omitempty"`
	// Lowest and Highest are the frequencies between which the response is found.
	Lowest  string `json:"lowest,omitempty"`
	Highest string `json:"highest,omitempty"`
	// Spread is how they lie between these: [ByRatio], which is what empty means, [Evenly], in the middles of [Octaves] or [ThirdOctaves], or as
	// Listed, by commas.
	Spread string `json:"spread,omitempty"`
	Listed string `json:"listed,omitempty"`
}

// How the frequencies of a response are spread.
const (
	ByRatio      = "by ratio"
	Evenly       = "evenly"
	Octaves      = "octaves"
	ThirdOctaves = "third octaves"
	Listed       = "listed"
)

// Kinds of runs.
const (
	Steady    = "steady"
	Transient = "transient"
	Modes     = "modes"
	Response  = "response"
)

// Transient says that the model runs in time.
func (d *Document) Transient() bool { return d.Run.Kind == Transient }

// Modal says that the run finds modes, Swings that it finds the response to what swings, and
// Dynamic that rates count in it.
func (d *Document) Modal() bool   { return d.Run.Kind == Modes }
func (d *Document) Swings() bool  { return d.Run.Kind == Response }
func (d *Document) Dynamic() bool { return d.Transient() || d.Modal() || d.Swings() }

// Units lists the units of length for drawings.
var Units = []string{"mm", "cm", "m", "µm", "in"}

// New returns a blank model.
func New(name string) *Document {
	return &Document{
		Kettle:  Version,
		Name:    name,
		Space:   Space{Kind: "solid", Unit: "mm"},
		Physics: []Physics{{Kind: "heat"}},
		Mesh:    Mesh{Size: ""},
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
