package model

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Names for several parts in [Patch]: all that are solved, those of them that are solid, or
// liquids and gases, and those of a group.
const (
	AllParts  = "all parts"
	AllSolids = "all solids"
	AllFluids = "all fluids"
	ofGroup   = "group "
)

// GroupName is the name in [Patch] for the parts of a group.
func GroupName(group string) string { return ofGroup + group }

// several says that a name is one for several parts.
func several(name string) bool {
	return name == AllParts || name == AllSolids || name == AllFluids || strings.HasPrefix(name, ofGroup)
}

// fluid says that the material of a part is a liquid or a gas.
func (p *ResolvedPart) fluid() bool {
	return p.Material.Family == "gas" || p.Material.Family == "liquid"
}

// PartsNamed lists the parts that a patch calls by a name.
func (r *Resolved) PartsNamed(name string) []int {
	if !several(name) {
		if i := r.Document.Part(name); i >= 0 {
			return []int{i}
		}
		return nil
	}
	var list []int
	group, grouped := strings.CutPrefix(name, ofGroup)
	for i := range r.Document.Parts {
		p := &r.Document.Parts[i]
		if p.Role != Solved || grouped && p.Group != group {
			continue
		}
		if fluid := i < len(r.Parts) && r.Parts[i].fluid(); name == AllSolids && fluid || name == AllFluids && !fluid {
			continue
		}
		list = append(list, i)
	}
	return list
}

// PartsOf lists the parts that a patch is about.
func (r *Resolved) PartsOf(p Patch) []int {
	var list []int
	added, taken, _ := p.Terms()
	for _, t := range added {
		for _, i := range r.PartsNamed(t.Part) {
			whole := func(but Patch) bool {
				return but.Side == "" && but.Facing == "" && but.Copy == 0 && but.Copies == "" && slices.Contains(r.PartsNamed(but.Part), i)
			}
			if !slices.Contains(list, i) && !slices.ContainsFunc(taken, whole) {
				list = append(list, i)
			}
		}
	}
	return list
}

// Has says that a patch is about a copy of an array, counted from 1.
func (p Patch) Has(copy int) bool {
	if p.Copies == "" {
		return p.Copy == 0 || p.Copy == copy
	}
	ranges, _ := copiesIn(p.Copies)
	return slices.ContainsFunc(ranges, func(r [2]int) bool { return r[0] <= copy && copy <= r[1] })
}

// copiesIn reads a list of copies: ranges of which each has its first and its last.
func copiesIn(text string) ([][2]int, error) {
	var list [][2]int
	for item := range strings.SplitSeq(text, ",") {
		from, to, ranged := strings.Cut(item, "-")
		if !ranged {
			to = from
		}
		a, err1 := strconv.Atoi(strings.TrimSpace(from))
		b, err2 := strconv.Atoi(strings.TrimSpace(to))
		if err1 != nil || err2 != nil || a < 1 || b < a {
			return nil, fmt.Errorf("%q is no list of copies; write for example 1-3, 7", text)
		}
		list = append(list, [2]int{a, b})
	}
	return list, nil
}

// Box is a range of places, as texts of its ends along x, y and z; empty means no end.
type Box [3][2]string

// between parts the terms of a patch, and each begins with what it does.
const (
	between = "¦"
	adds    = "+"
	takes   = "-"
	boxes   = "in|"
)

// Terms are the patches that are added, the first being that without its More, those that are
// taken away, and the box in which the places must lie, nil for none.
func (p Patch) Terms() (added, taken []Patch, box *Box) {
	first := p
	first.More = ""
	added = []Patch{first}
	for _, text := range strings.Split(p.More, between) {
		switch {
		case strings.HasPrefix(text, adds):
			if t, err := parseTerm(text[len(adds):]); err == nil {
				added = append(added, t)
			}
		case strings.HasPrefix(text, takes):
			if t, err := parseTerm(text[len(takes):]); err == nil {
				taken = append(taken, t)
			}
		case strings.HasPrefix(text, boxes):
			box = &Box{}
			for i, end := range strings.Split(text[len(boxes):], "|") {
				if i < 6 {
					box[i/2][i%2] = end
				}
			}
		}
	}
	return added, taken, box
}

// of puts a patch together again.
func of(added, taken []Patch, box *Box) Patch {
	if len(added) == 0 {
		return Patch{}
	}
	var more []string
	for _, t := range added[1:] {
		more = append(more, adds+t.term())
	}
	for _, t := range taken {
		more = append(more, takes+t.term())
	}
	if box != nil {
		var ends []string
		for _, along := range box {
			ends = append(ends, along[:]...)
		}
		more = append(more, boxes+strings.Join(ends, "|"))
	}
	p := added[0]
	p.More = strings.Join(more, between)
	return p
}

// With is the patch with another one added: if that was taken away, it is so no more.
func (p Patch) With(other Patch) Patch {
	added, taken, box := p.Terms()
	if i := slices.Index(taken, other); i >= 0 {
		return of(added, slices.Delete(taken, i, i+1), box)
	}
	if slices.Contains(added, other) {
		return p
	}
	if added[0] == (Patch{}) {
		added = nil
	}
	return of(append(added, other), taken, box)
}

// Without is the patch with another one taken away.
func (p Patch) Without(other Patch) Patch {
	added, taken, box := p.Terms()
	if i := slices.Index(added, other); i >= 0 {
		return of(slices.Delete(added, i, i+1), taken, box)
	}
	if slices.Contains(taken, other) {
		return p
	}
	return of(added, append(taken, other), box)
}

// In is the patch within a box, nil for no box.
func (p Patch) In(box *Box) Patch {
	added, taken, _ := p.Terms()
	return of(added, taken, box)
}

// First is the patch without what is added and taken away.
func (p Patch) First() Patch {
	p.More = ""
	return p
}

// Term is one of the patches by its place, such as also/0; one that is to be added is empty.
func (p Patch) Term(place string) (Patch, error) {
	added, taken, _ := p.Terms()
	name, number, _ := strings.Cut(place, "/")
	list := map[string][]Patch{"also": added[1:], "but": taken}[name]
	if number == "new" {
		return Patch{}, nil
	}
	i, err := strconv.Atoi(number)
	if err != nil || i < 0 || i >= len(list) {
		return Patch{}, &GoneError{"on/" + place}
	}
	return list[i], nil
}

// set changes the patch by a place in it: the first patch at "", further ones at also/0, also/new,
// but/0 and so on, where an empty value takes one away, and the box at within, which is "true" or
// "false".
func (p *Patch) set(place, value string) error {
	added, taken, box := p.Terms()
	list, number, _ := strings.Cut(place, "/")
	if list == "within" && number == "" {
		box = map[bool]*Box{true: {}}[value == "true"]
		*p = of(added, taken, box)
		return nil
	}
	t, err := ParsePatch(value)
	if err != nil {
		return err
	}
	if list == "" && (t.More != "" || t == Patch{}) {
		*p = t // all of it anew
		return nil
	}
	if t.More != "" {
		return fmt.Errorf("%q is more than one patch", value)
	}
	terms := &added
	if list == "but" {
		terms = &taken
	}
	i, err := 0, error(nil)
	switch {
	case list == "":
	case number == "new":
		i = len(*terms)
	default:
		i, err = strconv.Atoi(number)
		if list == "also" {
			i++ // the first one is not among them
		}
	}
	switch {
	case err != nil || i < 0 || i > len(*terms) || list != "" && list != "also" && list != "but":
		return &GoneError{"on/" + place}
	case t == Patch{} && i < len(*terms):
		*terms = slices.Delete(*terms, i, i+1)
	case t == Patch{}:
	case i == len(*terms):
		*terms = append(*terms, t)
	default:
		(*terms)[i] = t
	}
	*p = of(added, taken, box)
	return nil
}

// end returns an end of the box by its place, such as within/x/0; nil if there is none.
func (p Patch) end(place string) *string {
	_, _, box := p.Terms()
	var axis, i int
	path := strings.Split(place, "/")
	if box == nil || len(path) != 3 || path[0] != "within" {
		return nil
	}
	axis = strings.Index("xyz", path[1])
	i = strings.Index("01", path[2])
	if len(path[1]) != 1 || len(path[2]) != 1 || axis < 0 || i < 0 {
		return nil
	}
	return &box[axis][i]
}

// setEnd changes an end of the box.
func (p *Patch) setEnd(place, value string) {
	added, taken, box := p.Terms()
	path := strings.Split(place, "/")
	box[strings.Index("xyz", path[1])][strings.Index("01", path[2])] = strings.NewReplacer("|", " ", between, " ").Replace(value)
	*p = of(added, taken, box)
}

// eachEnd calls f with the ends of the box, which are formulas.
func (p *Patch) eachEnd(f func(place string, text *string)) {
	added, taken, box := p.Terms()
	if box == nil {
		return
	}
	for axis := range box {
		for i := range box[axis] {
			f(fmt.Sprintf("within/%c/%d", "xyz"[axis], i), &box[axis][i])
		}
	}
	*p = of(added, taken, box)
}

// String writes a patch in one line, as forms carry it: part|side|copies|facing, and what is
// added and taken away behind it.
func (p Patch) String() string {
	text := p.term()
	if p.More != "" {
		text += between + p.More
	}
	return text
}

// term writes a patch without its More.
func (p Patch) term() string {
	n := p.Copies
	if p.Copy > 0 {
		n = strconv.Itoa(p.Copy)
	}
	return strings.TrimRight(strings.Join([]string{p.Part, p.Side, n, p.Facing}, "|"), "|")
}

// ParsePatch reads what String writes.
func ParsePatch(text string) (Patch, error) {
	first, more, _ := strings.Cut(text, between)
	p, err := parseTerm(first)
	if err != nil || more == "" {
		return p, err
	}
	p.More = more
	for _, term := range strings.Split(more, between) {
		switch rest, boxed := strings.CutPrefix(term, boxes); {
		case boxed && strings.Count(rest, "|") == 5:
		case strings.HasPrefix(term, adds) || strings.HasPrefix(term, takes):
			if _, err := parseTerm(term[1:]); err != nil {
				return Patch{}, err
			}
		default:
			return Patch{}, fmt.Errorf("%q is not a patch", text)
		}
	}
	return p, nil
}

func parseTerm(text string) (Patch, error) {
	if text == "" {
		return Patch{}, nil
	}
	f := strings.Split(text, "|")
	if len(f) > 4 {
		return Patch{}, fmt.Errorf("%q is not a patch", text)
	}
	f = append(f, "", "", "")
	p := Patch{Part: f[0], Side: f[1], Facing: f[3]}
	if f[2] != "" {
		if n, err := strconv.Atoi(f[2]); err == nil && n > 0 {
			p.Copy = n
			return p, nil
		}
		if _, err := copiesIn(f[2]); err != nil {
			return Patch{}, err
		}
		p.Copies = f[2]
	}
	return p, nil
}

// PatchWords says what a patch is: "top of the pan floor". Unknown parts are
// given by their id.
func (d *Document) PatchWords(p Patch) string {
	added, taken, box := p.Terms()
	text := d.termWords(added[0])
	// A clause that closes with a comma goes on behind it.
	follow := func(word string, t Patch) { text += word + d.termWords(t) }
	for i, t := range added[1:] {
		if i == len(added)-2 {
			follow(" and the ", t)
		} else {
			text = strings.TrimSuffix(text, ",")
			follow(", the ", t)
		}
	}
	for i, t := range taken {
		if i == 0 {
			follow(" but not the ", t)
		} else {
			follow(" nor the ", t)
		}
	}
	if box != nil {
		text += box.words()
	}
	return strings.ReplaceAll(text, "the all ", "all ")
}

// words say where the places in a box lie.
func (b *Box) words() string {
	var list []string
	for i, ends := range b {
		axis := "xyz"[i : i+1]
		switch lo, hi := ends[0], ends[1]; {
		case lo != "" && hi != "":
			list = append(list, axis+" = "+lo+" to "+hi)
		case lo != "":
			list = append(list, axis+" from "+lo)
		case hi != "":
			list = append(list, axis+" up to "+hi)
		}
	}
	if len(list) == 0 {
		return ""
	}
	return " within " + strings.Join(list, ", ")
}

// termWords says what a patch is without its More.
func (d *Document) termWords(p Patch) string {
	if p.Part == "" {
		return "…"
	}
	name := d.partName(p.Part)
	if p.Copy > 0 {
		name += fmt.Sprintf(" %d", p.Copy)
	}
	if p.Copies != "" {
		name += " " + strings.ReplaceAll(p.Copies, "-", " to ")
	}
	var text string
	switch p.Side {
	case "":
		text = name
	case WholeSurface:
		text = "surface of the " + name
	case "left", "right", "front", "back":
		text = p.Side + " side of the " + name
	default:
		side := p.Side
		if strings.HasPrefix(side, "hole ") {
			side = "wall of " + side
		} else if strings.HasPrefix(side, "e") && strings.Trim(side[1:], "0123456789") == "" && len(side) > 1 {
			side = "edge " + side
		}
		text = side + " of the " + name
	}
	switch p.Facing {
	case "":
	case Outside:
		text += ", where it is free,"
	default:
		text += ", where it meets the " + d.partName(p.Facing) + ","
	}
	return text
}

func (d *Document) partName(id string) string {
	if group, ok := strings.CutPrefix(id, ofGroup); ok {
		return "group “" + group + "”"
	}
	if i := d.Part(id); i >= 0 {
		if name := strings.TrimSpace(d.Parts[i].Name); name != "" {
			return name
		}
		return "part " + strconv.Itoa(i+1)
	}
	return id
}

// Words writes a sentence of the model.
func (d *Document) Words(cat *Catalog, s *Sentence) string {
	k, ok := cat.Kind(s.Kind)
	if !ok {
		return s.Kind
	}
	on := d.PatchWords(s.On)
	text := k.Words(on, s.Values)
	// A clause that closes with a comma needs none before the full stop.
	return strings.NewReplacer(",.", ".", ", ,", ",").Replace(text)
}
