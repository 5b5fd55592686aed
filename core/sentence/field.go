package sentence

import (
	"cmp"
	"slices"
	"strings"
)

// Field is a field of a physics that plates can show: one that is solved for, or one that follows
// from these.
type Field struct {
	Name, Symbol string
	// Label is its name for people where that is not Name in words.
	Label string
	// Also are other names that people have for it.
	Also []string
	// Units in which it is usually shown, the first one if nobody chose.
	Units []string
	// Temperature marks one on a scale with a zero point, Derived one that follows from others.
	Temperature, Derived bool
	// Bends marks the vector by which a device can be drawn bent.
	Bends bool
	// Usual is the plate that a result with the field has when nobody has made one, nil for none.
	Usual *Usual
}

// Usual is how a plate that nobody has made shows its field on the surfaces.
type Usual struct {
	// Bent draws the device bent.
	Bent bool
	// Streams and Arrows are how many of the vector there are, "" for none.
	Streams, Arrows string
}

// Words is the name of the field for people.
func (f *Field) Words() string {
	return cmp.Or(f.Label, strings.ReplaceAll(f.Name, "_", " "))
}

// Field finds a field by its name.
func (c *Catalog) Field(name string) (Field, bool) {
	i := slices.IndexFunc(c.Fields, func(f Field) bool { return f.Name == name })
	if i < 0 {
		return Field{}, false
	}
	return c.Fields[i], true
}
