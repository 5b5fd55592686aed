package web

import (
	"context"
	"fmt"
	"html/template"
	"maps"
	"math"
	"slices"
	"strings"

	"saltkettle/app/store"
	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// briefView is the brief: the model as numbered sections of sentences, and the
// title block that belongs to it.
type briefView struct {
	Model store.Model
	// State changes whenever the page would look different.
	State      string
	Bar        barView
	Aim        field
	Space      spaceView
	Parts      []partView
	Physics    physicsView
	Conditions []sentenceView
	Else       string // what holds on surfaces that nobody spoke of
	Mesh       meshView
	Parameters []parameterView
	Readings   []sentenceView
	Materials  []string
	Named      []string // what sentences name
	Outlines   []option
	// Menus of kinds to add.
	ConditionKinds, ReadingKinds []*sentence.Kind
	Block                        blockView
	Run                          *runView
}

// barView is the line of buttons above the brief.
type barView struct {
	Model      uint
	Undo, Redo bool
}

// spaceView says in which space the parts are. A plane one has a depth.
type spaceView struct {
	Model                   uint
	Space, SpaceKind, Depth field
	Plane, Lines            bool
	Cuts                    []cutView
}

// meshView is the wishes for the mesh.
type meshView struct {
	Size, Across, Order, Growth, Gaps, Rounds, Error, Change field
	Near                                                     []nearView
	Walls                                                    []wallView
	// Layers are those that are made though nobody asked for them.
	Layers []string
}

// blockView is the title block.
type blockView struct {
	Name, Site, Space, SpaceKind field
	Title                        titleView
}

// partView is a row of the parts list.
type partView struct {
	ID                   string
	Number               int
	Name, Material, Role field
	Copies               field // of an array
	Size                 []sizeView
	NotSolved, Faulty    bool
	// Group is what it is one of, and Heads how many follow each other with it, of the first of them.
	Group   string
	Heads   int
	Details *partDetails // of the one that is open
}

// partDetails are the sentences that describe a part.
type partDetails struct {
	*model.Part
	Model              uint
	First, Last, Line  bool
	Outline            outlineView
	HoleKinds          []string
	From, To           field
	X, Y, Turn, Mirror field
	Count              field
	Array              []piece
	Cells, Group, Note field
	Finish             *field
	Properties         []propertyView
	Unknown            bool // there is no material of the name
	Flat               bool // it has no span in z, or one that follows from others
	AboutX, AboutY     field
	Turned             bool
	Fill               *fillView
}

// fillView says what a part fills.
type fillView struct {
	X, Y, Z field
	Caps    []capView
}

// capView is a wall that closes an opening.
type capView struct {
	Place                        string
	Number                       int
	Name, FromX, FromY, ToX, ToY field
}

// nearView is a wish for cells at a patch, cutView a plane of symmetry.
type nearView struct {
	Place    string
	Number   int
	On, Size field
}

// wallView is layers along a patch.
type wallView struct {
	Place                    string
	Number                   int
	On, First, Count, Growth field
}

type cutView struct {
	Place            string
	Number           int
	Across, At, Keep field
}

// propertyView is a property of a part's material.
type propertyView struct {
	Label, Source string
	Value         field
	Curve         string // of one that varies: its value at 20 °C
}

// sizeView is one dimension of a part, marked if it is a parameter.
type sizeView struct {
	Text   string
	Varies bool
}

// sentenceView is a sentence of pieces.
type sentenceView struct {
	ID      string
	Kind    string
	Section string
	Pieces  []piece
	Off     bool
	Faulty  bool
	Note    field
	// Of a reading.
	Name  field
	Unit  field
	Value *readingView
	Stale bool
	Spark template.HTML
}

// piece is words or a value in place.
type piece struct {
	Text  string
	Field *field
	More  *moreView
}

// briefMaker fills a brief.
type briefMaker struct {
	doc      *model.Document
	resolved *model.Resolved
	findings []model.Finding
	faults   map[string]string
	faulty   map[string]bool // places at or below which there is a fault
	id       uint
	open     string // id of the part whose details are shown
}

// newBrief makes the brief of the current revision of a model, with the details of the part that
// is open.
func (s *sheetPage) newBrief(ctx context.Context, id uint, open string) (*briefView, error) {
	m, err := s.store.Model(ctx, id)
	if err != nil {
		return nil, err
	}
	doc, err := s.store.Document(ctx, id, m.Head)
	if err != nil {
		return nil, err
	}
	b := &briefView{Model: m, Bar: barView{Model: id}}
	if b.Bar.Undo, b.Bar.Redo, err = s.store.CanUndo(ctx, m); err != nil {
		return nil, err
	}
	k := newBriefMaker(id, doc)
	k.open = open
	k.fill(b)
	history, err := s.history(ctx, m)
	if err != nil {
		return nil, err
	}
	if done := history.withReadings(); len(done) > 0 {
		if history.stale, err = s.stale(ctx, m, done[0].Revision, doc); err != nil {
			return nil, err
		}
	}
	k.addReadings(b, history)
	b.Block.Title = k.title(m, history)
	b.Run = s.runView(history)
	b.State = state(m, history)
	return b, nil
}

// state is the signature of what a page of a model shows.
func state(m store.Model, h history) string {
	if len(h.runs) == 0 {
		return fmt.Sprintf("%d", m.Head)
	}
	return fmt.Sprintf("%d/%d/%s", m.Head, h.runs[0].ID, h.runs[0].Status)
}

func (k *briefMaker) field(place, value, label, hint string) field {
	f := field{Model: k.id, Place: place, Value: value, Label: label, Hint: hint, Fault: k.faults[place]}
	if f.Fault != "" && strings.TrimSpace(value) == "" {
		f.Class = "missing"
	} else if f.Fault != "" {
		f.Class = "wrong"
	} else if k.varies(value) {
		f.Class = "varies"
	}
	return f
}

// varies says whether a value uses a parameter.
func (k *briefMaker) varies(value string) bool {
	known := func(n string) bool {
		_, valued := k.resolved.Parameters[n]
		_, defined := k.resolved.Definitions[n]
		return valued || defined
	}
	if !formula.Mentions(value, known) {
		return false
	}
	f, err := formula.Parse(value)
	return err == nil && slices.ContainsFunc(f.Names(), known)
}

func (k *briefMaker) choice(place, value, label string, names, texts []string) field {
	f := k.field(place, value, label, "")
	f.Names, f.Texts = names, texts
	return f
}

// otherwise says what surfaces do of which no condition speaks.
func (k *briefMaker) otherwise() string {
	var closed []string
	for _, p := range physics.Catalog().Physics {
		if k.resolved.Solves(p.Key) && p.Closed != "" {
			closed = append(closed, p.Closed)
		}
	}
	words := ""
	switch n := len(closed); n {
	case 0:
	case 1:
		words = "no " + closed[0]
	default:
		words = "neither " + strings.Join(closed[:n-1], ", ") + " nor " + closed[n-1]
	}
	everywhere := slices.ContainsFunc(k.resolved.Conditions, func(c model.ResolvedSentence) bool { return c.Definition.Acts == 0 && c.Definition.Everywhere })
	switch {
	case len(k.doc.Conditions) == 0 && len(closed) == 1:
		return "No surface has a condition yet: none lets " + closed[0] + " through."
	case len(k.doc.Conditions) == 0:
		return "No surface has a condition yet."
	case everywhere && len(closed) > 1:
		return "Where the device goes on no " + closed[0] + " is lost; no other surface is left, and none lets " + strings.Join(closed[1:], " or ") + " through."
	case everywhere:
		return "No other surface is left."
	case words == "":
		return "Nothing else is said of surfaces."
	}
	return "Every other surface lets " + words + " through."
}

func (k *briefMaker) fill(b *briefView) {
	d := k.doc
	b.Aim = k.field("aim", d.Aim, "aim", "What is the question, and what is the limit?")
	space := k.choice("space/unit", d.Space.Unit, "unit of the drawing", model.Units, model.Units)
	kind := k.choice("space/kind", d.Space.Kind, "kind of space", []string{model.Solid, model.Plane, model.Axial, model.Lines}, []string{"solid", "plane", "axial", "of lines"})
	b.Space = spaceView{Model: k.id, Space: space, SpaceKind: kind, Depth: k.field("space/depth", d.Space.Depth, "depth of the plane space", "1 m"), Plane: d.Space.Kind == model.Plane, Lines: d.Space.Kind == model.Lines, Cuts: k.cuts()}
	b.Block = blockView{Name: k.field("name", d.Name, "name of the model", "name"), Site: k.field("site", d.Site, "where the device belongs", "where it belongs"), Space: space, SpaceKind: kind}
	for i := range d.Parts {
		b.Parts = append(b.Parts, k.part(i))
	}
	b.Physics = k.physics()
	for i := range d.Conditions {
		b.Conditions = append(b.Conditions, k.sentence("conditions", &d.Conditions[i]))
	}
	b.Else = k.otherwise()
	b.Mesh = k.mesh()
	b.Parameters = k.parameters()
	for _, key := range d.Space.Outlines() {
		words := outlineWords(key)
		if !d.Space.Flat() && key != model.LineOutline && !strings.HasSuffix(key, "-around") {
			words += " with a span in z"
		}
		b.Outlines = append(b.Outlines, option{Name: key, Text: words})
	}
	b.Named = slices.Sorted(maps.Values(d.Named(physics.Catalog())))
	b.ConditionKinds, b.ReadingKinds = k.offered(sentence.Condition), k.offered(sentence.Reading)
	for _, list := range [][]material.Material{d.Materials, material.Library()} {
		for _, m := range list {
			if !slices.Contains(b.Materials, m.Name) {
				b.Materials = append(b.Materials, m.Name)
			}
		}
	}
	slices.SortFunc(b.Materials, func(x, y string) int { return strings.Compare(strings.ToLower(x), strings.ToLower(y)) })
}

// offered are the kinds of sentences that may be of use in the model.
func (k *briefMaker) offered(g sentence.Group) []*sentence.Kind {
	cat := physics.Catalog()
	return slices.DeleteFunc(cat.Group(g), func(kind *sentence.Kind) bool { return !cat.Offered(kind, k.doc.Space) })
}

// mesh fills the section of the mesh.
func (k *briefMaker) mesh() meshView {
	d := k.doc
	open := fmt.Sprintf("order %d, as its physics want", max(1, k.resolved.Order))
	across, gaps, layers := k.leftOpen()
	return meshView{
		Size:   k.field("mesh/size", d.Mesh.Size, "cell size", "size"),
		Across: k.field("mesh/across", d.Mesh.Across, "least number of cells across any part", across), Layers: layers,
		Order:  k.choice("mesh/order", d.Mesh.Order, "order of the functions in a cell", []string{"", "1", "2"}, []string{open, "order 1", "order 2"}),
		Growth: k.field("mesh/growth", d.Mesh.Growth, "how many times as long as its neighbour a cell may be", "any number of"),
		Gaps:   k.field("mesh/gaps", d.Mesh.Gaps, "least number of cells across gaps", gaps),
		Rounds: k.field("mesh/rounds", d.Mesh.Rounds, "rounds in which runs make cells finer", "no"),
		Error:  k.field("mesh/error", d.Mesh.Error, "part of the fluxes that may be wrong", "5 %"),
		Change: k.field("mesh/change", d.Mesh.Change, "part of itself by which a reading may change from one round to the next", "0"),
		Near:   k.nears(), Walls: k.walls(),
	}
}

// leftOpen is how many cells there are across parts of which the document says nothing, and which layers.
func (k *briefMaker) leftOpen() (across, gaps string, layers []string) {
	across, gaps = "2", "any number"
	for _, e := range k.resolved.Expected {
		if k.resolved.LeftOpen && e.Across > k.resolved.Across {
			across, gaps = fmt.Sprintf("2, and %d where something flows,", e.Across), fmt.Sprintf("%d where something flows", e.Across)
		}
		if e.Layers != "" {
			layers = append(layers, e.Layers)
		}
	}
	return across, gaps, layers
}

func (k *briefMaker) part(i int) partView {
	p := &k.doc.Parts[i]
	at := "parts/" + p.ID + "/"
	v := partView{ID: p.ID, Number: i + 1, NotSolved: p.Role != model.Solved, Size: k.size(i), Faulty: k.faulty["parts/"+p.ID] || k.wantsProperties(i), Group: p.Group}
	if p.Group != "" && (i == 0 || k.doc.Parts[i-1].Group != p.Group) {
		for v.Heads = 1; i+v.Heads < len(k.doc.Parts) && k.doc.Parts[i+v.Heads].Group == p.Group; v.Heads++ {
		}
	}
	v.Name = k.field(at+"name", p.Name, "name of part", "name")
	v.Material = k.field(at+"material", p.Material, "material of the "+p.Name, "material")
	v.Material.List = "materials"
	roles := make([]string, len(model.Roles))
	for j, r := range model.Roles {
		roles[j] = string(r)
	}
	v.Role = k.choice(at+"role", string(p.Role), "role of the "+p.Name, roles, []string{"solved", "shown only", "off"})
	if p.Array != nil {
		v.Copies = k.field(at+"array/count", p.Array.Count, "number of copies", "count")
	}
	if p.ID == k.open {
		v.Details = k.details(i)
	}
	return v
}

// details are the sentences that describe a part.
func (k *briefMaker) details(i int) *partDetails {
	p := &k.doc.Parts[i]
	at := "parts/" + p.ID + "/"
	v := &partDetails{Part: p, Model: k.id, First: i == 0, Last: i == len(k.doc.Parts)-1}
	v.Outline = k.outline(at+"outline", &p.Outline)
	v.HoleKinds = model.HoleKeys()
	v.Line = p.IsLine()
	v.Flat = k.doc.Space.Flat() || v.Line || strings.HasSuffix(p.Outline.Kind, "-around")
	v.AboutX = k.field(at+"place/about_x", p.Place.AboutX, "point about which it is turned, x", "0")
	v.AboutY = k.field(at+"place/about_y", p.Place.AboutY, "point about which it is turned, y", "0")
	v.Turned = strings.TrimSpace(p.Place.Turn) != ""
	v.Fill = k.fillOf(at, p)
	v.From = k.field(at+"span/from", p.Span.From, "bottom", "z")
	v.To = k.field(at+"span/to", p.Span.To, "top", "z")
	v.X = k.field(at+"place/x", p.Place.X, "middle, x", "0")
	v.Y = k.field(at+"place/y", p.Place.Y, "middle, y", "0")
	v.Turn = k.field(at+"place/turn", p.Place.Turn, "turn to the left", "0 deg")
	if m, ok := k.materialOf(p); ok && len(m.Finishes) > 0 {
		var names, words []string
		for i, f := range m.Finishes {
			if i == 0 && p.Finish == "" {
				f.Name = "" // where it says nothing, the first holds
			}
			names, words = append(names, f.Name), append(words, m.Finishes[i].Name+", emissivity "+f.Emissivity)
		}
		finish := k.choice(at+"finish", p.Finish, "finish of the "+p.Name, names, words)
		v.Finish = &finish
	}
	v.Note = k.field(at+"note", p.Note, "note about the "+p.Name, "none")
	v.Group = k.field(at+"group", p.Group, "group of the "+p.Name, "none")
	v.Group.Class = strings.TrimSpace(strings.Replace(v.Group.Class, "varies", "", 1))
	v.Cells = k.field(at+"cells", p.Cells, "cell size in the "+p.Name, "as elsewhere")
	v.Mirror = k.choice(at+"place/mirror", fmt.Sprint(p.Place.Mirror), "whether it is mirrored", []string{"false", "true"}, []string{"as drawn", "mirrored left to right"})
	if p.Array != nil {
		v.Count = k.field(at+"array/count", p.Array.Count, "number of copies", "count")
		v.Array = k.array(at+"array", p.Array)
	}
	k.properties(i, v)
	return v
}

// materialOf is the material of a part.
func (k *briefMaker) materialOf(p *model.Part) (material.Material, bool) {
	if m, ok := material.Find(k.doc.Materials, p.Material); ok {
		return m, true
	}
	return material.Find(material.Library(), p.Material)
}

// wantsProperties says that something is wrong with what a part's physics uses of its material.
func (k *briefMaker) wantsProperties(i int) bool {
	name := strings.TrimSpace(k.doc.Parts[i].Material)
	if !k.faulty["materials/"+name] {
		return false
	}
	return slices.ContainsFunc(k.needed(i), func(key material.Key) bool { return k.faults["materials/"+name+"/"+string(key)] != "" })
}

// properties lists what a part's physics uses of its material. The page of the
// material has the rest.
func (k *briefMaker) properties(i int, v *partDetails) {
	name := strings.TrimSpace(v.Part.Material)
	m, ok := material.Find(k.doc.Materials, name)
	if !ok {
		_, shipped := material.Find(material.Library(), name)
		v.Unknown = name != "" && !shipped
		return
	}
	for _, key := range k.needed(i) {
		d, _ := material.Define(key)
		p := m.Properties[key]
		f := k.field("materials/"+m.Name+"/"+string(key), p.Value, d.Name+" of "+m.Name, d.Unit)
		f.Prefix = v.Part.ID + "-"
		source := p.Source
		if p.At != "" {
			source = "at " + p.At + ", " + source
		}
		row := propertyView{Label: d.Name, Source: source, Value: f}
		if fn, err := m.Function(key, k.resolved.Parameters); err == nil {
			if _, constant := fn.Constant(); !constant {
				row.Curve = typical(fn, d)
			}
		}
		v.Properties = append(v.Properties, row)
	}
}

// size lists the dimensions of a part in the unit of the drawing. One that is a
// parameter alone is shown by its name.
func (k *briefMaker) size(i int) []sizeView {
	p, r := &k.doc.Parts[i], &k.resolved.Parts[i]
	if r.Outline == nil {
		return nil
	}
	u, err := quantity.ParseUnit(k.doc.Space.Unit)
	if err != nil {
		u = quantity.MustUnit("mm") // it is outstanding
	}
	show := func(si float64, text string) sizeView {
		text = strings.TrimSpace(text)
		if _, ok := k.resolved.Parameters[text]; ok {
			return sizeView{text, true}
		}
		return sizeView{trim(u.From(si, false)), text != "" && k.varies(text)}
	}
	if p.IsLine() {
		line := r.Line
		if line == nil {
			return nil
		}
		long := show(line.Length(), "")
		long.Text += " long"
		return []sizeView{long}
	}
	height := show(r.Z1-r.Z0, "")
	// A span from one parameter to the same plus a number does not vary.
	if from, to := k.varies(p.Span.From), k.varies(p.Span.To); from != to {
		height.Varies = true
		// "14 mm + t" over "14 mm" is t.
		if rest, ok := strings.CutPrefix(p.Span.To, p.Span.From); ok {
			name := strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(rest), "+"))
			if t, ok := k.resolved.Parameters[name]; ok && near(t.SI, r.Z1-r.Z0) {
				height.Text = name
			}
		}
	}
	wide, deep := show(r.Extent[0], ""), show(r.Extent[1], "")
	switch p.Outline.Kind {
	case "disc", "ring":
		d := show(r.Extent[0], p.Outline.Diameter)
		d.Text = "⌀" + d.Text
		if k.doc.Space.Flat() {
			return []sizeView{d}
		}
		return []sizeView{d, height}
	case "rectangle", "slot":
		wide, deep = show(r.Extent[0], p.Outline.Width), show(r.Extent[1], p.Outline.Depth)
	}
	if k.doc.Space.Flat() {
		return []sizeView{wide, deep}
	}
	return []sizeView{wide, deep, height}
}

func near(a, b float64) bool { return math.Abs(a-b) < 1e-9*math.Abs(b) }

// trim writes a number without trailing zeros.
func trim(x float64) string {
	if x != math.Trunc(x) && math.Abs(x) >= 10 {
		x = math.Round(x*10) / 10
	}
	if math.Abs(x) < 5e-4 { // so that no zero has a sign
		x = 0
	}
	return strings.ReplaceAll(strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.3f", x), "0"), "."), "-", "−")
}

// sentence splits a sentence into words and fields.
func (k *briefMaker) sentence(section string, q *model.Sentence) sentenceView {
	at := section + "/" + q.ID
	v := sentenceView{ID: q.ID, Kind: q.Kind, Section: section, Off: q.Off}
	v.Note = k.field(section+"/"+q.ID+"/note", q.Note, "note about "+q.ID, "note")
	kind, ok := physics.Catalog().Kind(q.Kind)
	if !ok {
		v.Pieces, v.Faulty = []piece{{Text: q.Kind}}, true
		return v
	}
	for _, f := range kind.Fragments() {
		switch {
		case f.On:
			v.Pieces = append(v.Pieces, k.patchPieces(at+"/on", q.On, "where "+q.ID+" acts")...)
		case f.Slot != nil:
			hint := f.Slot.Label
			if f.Slot.Unit != "" {
				hint += ", " + f.Slot.Unit
			}
			if f.Slot.Without != "" {
				hint = f.Slot.Without
			}
			x := k.field(at+"/values/"+f.Slot.Name, q.Values[f.Slot.Name], f.Slot.Label+" in "+q.ID, hint)
			if f.Slot.Choices != nil {
				x = k.choice(at+"/values/"+f.Slot.Name, q.Values[f.Slot.Name], f.Slot.Label+" in "+q.ID, f.Slot.Choices, f.Slot.Choices)
			} else if f.Slot.Kind == sentence.Text {
				x.Class = strings.TrimSuffix(x.Class, "varies")
				if f.Slot.Among != nil {
					x.List = "named"
				}
			}
			v.Pieces = append(v.Pieces, piece{Field: &x})
		default:
			v.Pieces = append(v.Pieces, piece{Text: f.Text})
		}
	}
	v.Faulty = v.Faulty || k.faulty[at]
	return v
}
