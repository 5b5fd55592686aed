package material

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"saltkettle/core/quantity"
	"saltkettle/core/table"
)

// maxFile bounds a file of materials, bytes.
const maxFile = 4 << 20

// WriteJSON writes materials as a JSON list.
func WriteJSON(w io.Writer, list []Material) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	return enc.Encode(list)
}

// columns of a CSV file of materials: a row for each property.
var columns = []string{"material", "family", "about", "temper", "state", "property", "value", "at", "from", "to", "source", "basis", "spread"}

// finishRow is in the column of the property in a row of a finish, whose name is in the column "at" and whose
// roughness in "from".
const finishRow = "finish"

// WriteCSV writes materials as a table with a row for each property and each finish.
func WriteCSV(w io.Writer, list []Material) error {
	out := table.NewWriter(w)
	_ = out.Write(columns)
	for _, m := range list {
		for _, d := range Definitions {
			if p, ok := m.Properties[d.Key]; ok {
				_ = out.Write([]string{m.Name, m.Family, m.About, m.Temper, stateText(m.State), string(d.Key), p.Value, p.At, p.From, p.To, p.Source, p.Basis, p.Spread})
			}
		}
		for _, f := range m.Finishes {
			_ = out.Write([]string{m.Name, m.Family, m.About, m.Temper, stateText(m.State), finishRow, f.Emissivity, f.Name, f.Roughness, "", f.Source, "", ""})
		}
	}
	return out.Flush()
}

// Read reads a file of materials, JSON or CSV, and checks every property.
func Read(r io.Reader) ([]Material, error) {
	data, err := io.ReadAll(io.LimitReader(r, maxFile+1))
	if err != nil {
		return nil, err
	}
	if len(data) > maxFile {
		return nil, fmt.Errorf("the file is larger than %d MB", maxFile>>20)
	}
	text := strings.TrimSpace(strings.TrimPrefix(string(data), "\ufeff"))
	var list []Material
	switch {
	case text == "":
		return nil, errors.New("the file is empty")
	case text[0] == '[':
		list, err = readJSON(text)
	default:
		list, err = readCSV(text)
	}
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, errors.New("the file holds no material")
	}
	seen := map[string]bool{}
	for i := range list {
		m := &list[i]
		if err := CheckName(m.Name); err != nil {
			return nil, fmt.Errorf("material %d: %w", i+1, err)
		}
		if key := strings.ToLower(m.Name); seen[key] {
			return nil, fmt.Errorf("%s stands twice in the file", m.Name)
		} else {
			seen[key] = true
		}
		if m.Family != "" && !slices.Contains(Families, m.Family) {
			return nil, fmt.Errorf("%s belongs to the family %q; the families are %s", m.Name, m.Family, strings.Join(Families, ", "))
		}
		for k := range m.Properties {
			if d, ok := Define(k); !ok || d.Pair {
				return nil, fmt.Errorf("%s has a property %q that is not known; the properties are %s", m.Name, k, keys())
			}
			if _, err := m.Function(k, nil); err != nil {
				return nil, err
			}
		}
		if err := m.check(); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// CheckName says whether a text can be the name of a material.
func CheckName(name string) error {
	if name == "" || name != strings.TrimSpace(name) || len(name) > 80 || strings.ContainsAny(name, "/|\n\r") {
		return fmt.Errorf("%q cannot be a name: a material needs one of up to 80 characters without / and |", name)
	}
	return nil
}

func keys() string {
	var list []string
	for _, d := range Definitions {
		list = append(list, string(d.Key))
	}
	return strings.Join(list, ", ")
}

func readJSON(text string) ([]Material, error) {
	dec := json.NewDecoder(strings.NewReader(text))
	dec.DisallowUnknownFields()
	var list []Material
	if err := dec.Decode(&list); err != nil {
		line := 1 + strings.Count(text[:min(int(dec.InputOffset()), len(text))], "\n")
		return nil, fmt.Errorf("near line %d: %w", line, err)
	}
	return list, nil
}

// readCSV reads the table that WriteCSV writes. Columns may stand in any order,
// and all but material, property and value may be missing.
func readCSV(text string) ([]Material, error) {
	in := csv.NewReader(strings.NewReader(text))
	in.FieldsPerRecord = -1
	in.TrimLeadingSpace = true
	head, err := in.Read()
	if err != nil {
		return nil, err
	}
	at := map[string]int{}
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(columns, name) {
			return nil, fmt.Errorf("line 1: there is no column %q; the columns are %s", name, strings.Join(columns, ", "))
		}
		at[name] = i
	}
	for _, name := range []string{"material", "property", "value"} {
		if _, ok := at[name]; !ok {
			return nil, fmt.Errorf("line 1: the column %q is missing", name)
		}
	}
	var list []Material
	for {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			return list, nil
		}
		if err != nil {
			return nil, err
		}
		line, _ := in.FieldPos(0)
		cell := func(name string) string {
			i, ok := at[name]
			if !ok || i >= len(row) {
				return ""
			}
			return table.Raw(strings.TrimSpace(row[i]))
		}
		name := cell("material")
		i := slices.IndexFunc(list, func(m Material) bool { return m.Name == name })
		if i < 0 {
			i = len(list)
			list = append(list, Material{Name: name, Family: cell("family"), About: cell("about"), Temper: cell("temper"), Properties: map[Key]Property{}})
		}
		state, err := parseState(cell("state"))
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
		if state != nil {
			list[i].State = state
		}
		if cell("property") == finishRow {
			list[i].Finishes = append(list[i].Finishes, Finish{Name: cell("at"), Emissivity: cell("value"), Roughness: cell("from"), Source: cell("source")})
			continue
		}
		k := Key(cell("property"))
		if _, ok := Define(k); !ok {
			return nil, fmt.Errorf("line %d: there is no property %q; the properties are %s", line, k, keys())
		}
		if _, twice := list[i].Properties[k]; twice {
			return nil, fmt.Errorf("line %d: %s has its %s twice", line, name, k)
		}
		list[i].Properties[k] = Property{Value: cell("value"), At: cell("at"), From: cell("from"), To: cell("to"), Source: cell("source"), Basis: cell("basis"), Spread: cell("spread")}
	}
}

// tableText makes the formula of a property from two columns of numbers: the
// temperature or field, and the value, in the given units.
func tableText(d Definition, argumentUnit, valueUnit string, rows [][2]float64) string {
	var b strings.Builder
	fmt.Fprintf(&b, "table(%s", d.Variable().Name)
	for i, r := range rows {
		if i == 0 {
			fmt.Fprintf(&b, ", %s: %s", number(r[0], argumentUnit), number(r[1], valueUnit))
		} else {
			fmt.Fprintf(&b, ", %s: %s", number(r[0], ""), number(r[1], ""))
		}
	}
	b.WriteString(")")
	return b.String()
}

func number(x float64, unit string) string {
	return strings.TrimSpace(fmt.Sprintf("%.8g %s", x, unit))
}

// PasteTable turns pasted rows of two numbers, as a spreadsheet gives them, into
// the formula of a property; ok is false if the text is something else. A first
// row with units, "°C" and "W/(m·K)", says in which the numbers are; otherwise
// they are in °C, A/m or Hz, and the usual unit of the property.
func PasteTable(d Definition, text string) (string, bool) {
	argument, value := d.Across().Text, d.Unit
	var rows [][2]float64
	for i, line := range strings.Split(strings.TrimSpace(text), "\n") {
		cells := strings.FieldsFunc(line, func(r rune) bool { return r == '\t' || r == ';' || r == ',' })
		if len(cells) == 1 {
			cells = strings.Fields(line)
		}
		if len(cells) != 2 {
			return "", false
		}
		var r [2]float64
		_, err1 := fmt.Sscan(strings.TrimSpace(cells[0]), &r[0])
		_, err2 := fmt.Sscan(strings.TrimSpace(cells[1]), &r[1])
		if err1 != nil && err2 != nil && i == 0 {
			u, err := quantity.ParseUnit(cells[0])
			v, err2 := quantity.ParseUnit(cells[1])
			if err != nil || err2 != nil || u.Dimension != d.Variable().Dimension || v.Dimension != quantity.MustUnit(d.Unit).Dimension {
				return "", false
			}
			argument, value = strings.TrimSpace(cells[0]), strings.TrimSpace(cells[1])
			continue
		}
		if err1 != nil || err2 != nil {
			return "", false
		}
		rows = append(rows, r)
	}
	if len(rows) < 2 {
		return "", false
	}
	return tableText(d, argument, value, rows), true
}
