package model

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"saltkettle/core/formula"
)

// MaxFile bounds a model file, bytes, and with it what a model may hold.
const MaxFile = 64 << 20

// Read reads a model file strictly: unknown fields, a wrong version and trailing
// text are errors that name the line.
func Read(r io.Reader) (*Document, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	if err != nil {
		return nil, err
	}
	if len(data) > MaxFile {
		return nil, fmt.Errorf("the model file is larger than %d MB", MaxFile>>20)
	}
	d, err := Parse(data)
	if err != nil {
		return nil, err
	}
	for i := range d.Parts {
		if s := d.Parts[i].Surface; s != nil {
			s.Content = "" // a file has no surface but those that stand in it
		}
	}
	return d, nil
}

// Parse reads a model from the bytes of its file. A file of an older version is
// brought up to the present one.
func Parse(data []byte) (*Document, error) {
	var version struct{ Kettle int }
	versionErr := json.Unmarshal(data, &version)
	if versionErr == nil && version.Kettle < 7 {
		data = goalsBefore(data)
	}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	var d Document
	err := dec.Decode(&d)
	if versionErr == nil && version.Kettle > Version {
		return nil, fmt.Errorf("this file says \"kettle\": %d; this program reads versions up to %d: use a newer program", version.Kettle, Version)
	}
	if err != nil {
		return nil, located(data, dec.InputOffset(), err)
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("line %d: text follows after the end of the model", line(data, dec.InputOffset()))
	}
	if d.Kettle < 1 {
		return nil, fmt.Errorf("the file does not say its version: it begins with \"kettle\": %d", Version)
	}
	for ; d.Kettle < Version; d.Kettle++ {
		upgrades[d.Kettle](&d)
	}
	d.Enumerate()
	return &d, nil
}

// upgrades bring a document of the version that is their key to the next one.
var upgrades = map[int]func(*Document){
	// Version 2 gave coordinates, fields, tables and reductions names in formulas.
	// Parameters of these names get others, wherever they are used.
	1: freeReserved,
	// Version 3 did so for electric quantities.
	2: freeReserved,
	// Version 4 gave r the meaning of the distance from the axis in an axial space.
	3: askAboutRadius,
	// Version 5 gave entries of lists numbers of their own, which all files may leave out.
	4: func(*Document) {},
	// Version 6 gave what follows from a deformation names in formulas.
	5: freeReserved,
	// Version 7 gave trial sets several goals and limits, which the text is brought to before it is read.
	6: func(*Document) {},
}

// askAboutRadius asks about the values of an axial model that use r.
func askAboutRadius(d *Document) {
	if d.Space.Kind != Axial {
		return
	}
	for section, list := range map[string][]Sentence{"conditions": d.Conditions, "readings": d.Readings} {
		for _, s := range list {
			for _, name := range slices.Sorted(maps.Keys(s.Values)) {
				f, err := formula.Parse(s.Values[name])
				if err != nil || !slices.Contains(f.Names(), "r") {
					continue
				}
				d.Asks = append(d.Asks, Ask{Place: section + "/" + s.ID + "/values/" + name, Value: s.Values[name],
					Message: fmt.Sprintf("r in %s is now the distance from the axis; in this model, made before, it was the distance from the point x = 0, y = 0", s.ID),
					Fix:     "write x for the distance from the axis, hypot(x, y) for that from the point"})
			}
		}
	}
	slices.SortFunc(d.Asks, func(a, b Ask) int { return strings.Compare(a.Place, b.Place) })
}

// asks asks what is still to be asked.
func (r *resolver) asks() {
	for _, a := range r.doc.Asks {
		if text := r.doc.textAt(a.Place); text != nil && *text == a.Value {
			r.find(Doubtful, a.Place, a.Fix, "%s", a.Message)
		}
	}
}

func freeReserved(d *Document) {
	for i := range d.Parameters {
		from := d.Parameters[i].Name
		if !formula.IsReserved(from) {
			continue
		}
		to := d.freeName(from + "_1")
		d.Parameters[i].Name = to
		d.renameUses(from, to)
	}
}

// located adds the line to an error of the JSON reader and says it in words.
func located(data []byte, at int64, err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		return fmt.Errorf("line %d: this is not JSON: %s", line(data, syntax.Offset), syntax.Error())
	case errors.As(err, &kind):
		return fmt.Errorf("line %d: %s must be %s, not %s", line(data, kind.Offset), kind.Field, words(kind.Type.String()), kind.Value)
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return errors.New("the model file ends too early")
	}
	if name, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
		return fmt.Errorf("line %d: there is no field %s here", line(data, at), name)
	}
	return fmt.Errorf("line %d: %w", line(data, at), err)
}

func words(goType string) string {
	switch {
	case goType == "string" || strings.HasSuffix(goType, "Role"):
		return "a text in quotes"
	case goType == "int":
		return "a whole number"
	case goType == "bool":
		return "true or false"
	case strings.HasPrefix(goType, "[]"):
		return "a list"
	}
	return "an object"
}

func line(data []byte, at int64) int {
	return 1 + bytes.Count(data[:min(max(at, 0), int64(len(data)))], []byte("\n"))
}

// Write writes a model file.
func (d *Document) Write(w io.Writer) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	// A file stands for itself: it has its surfaces, whatever they are called where they are
	// stored.
	return enc.Encode(d.mapSurfaces(func(s *Surface) *Surface {
		if len(s.Points) == 0 {
			return s
		}
		return &Surface{Points: s.Points, Triangles: s.Triangles}
	}))
}

// Size is the length of the model file, bytes.
func (d *Document) Size() int {
	var n counter
	if err := d.Write(&n); err != nil {
		panic("model: a document cannot be written: " + err.Error())
	}
	return int(n)
}

// counter counts what is written to it.
type counter int

func (c *counter) Write(p []byte) (int, error) {
	*c += counter(len(p))
	return len(p), nil
}

// Bytes returns the model file.
func (d *Document) Bytes() []byte {
	var b bytes.Buffer
	if err := d.Write(&b); err != nil {
		panic("model: a document cannot be written: " + err.Error()) // plain data always can
	}
	return b.Bytes()
}

// Clone returns an independent copy.
func (d *Document) Clone() *Document {
	c, err := Parse(d.Bytes())
	if err != nil {
		panic("model: a document cannot be read back: " + err.Error())
	}
	return c
}
