package result

import "fmt"

// Reader reads the fields of a folder one at a time.
type Reader struct {
	*Result
	// Cells are the elements, without values.
	Cells *Fields
	dir   string
}

// NewReader reads what a folder has besides values.
func NewReader(dir string) (*Reader, error) {
	r, err := Load(dir)
	if err != nil {
		return nil, err
	}
	f, err := r.loadFields(dir, "", func(FieldName) bool { return false })
	return &Reader{r, f, dir}, err
}

// NotKeptError says that a result has not what is asked for.
type NotKeptError struct{ words string }

func (e *NotKeptError) Error() string { return e.words }

// AtEnd is the moment after all.
const AtEnd = -1

// Values reads a field at the points of the cells, at the end or at a moment by its place in the list.
func (r *Reader) Values(field string, moment int) ([]float64, error) {
	name, ok := r.FieldNamed(field)
	if !ok {
		return nil, &NotKeptError{fmt.Sprintf("the result has no field %q", field)}
	}
	prefix := ""
	switch {
	case moment == AtEnd:
	case moment < 0 || moment >= len(r.Moments):
		return nil, &NotKeptError{fmt.Sprintf("the result has %d moments and none with the number %d", len(r.Moments), moment)}
	case name.Derived:
		return nil, &NotKeptError{fmt.Sprintf("%s within the parts is kept at the end of the run alone", field)}
	default:
		prefix = momentPrefix(r.Moments[moment].Number)
	}
	var values []float64
	a := arrayOf(prefix+field+".f64", &values)
	if err := a.read(r.dir); err != nil {
		return nil, err
	}
	if 3*len(values) != len(r.Cells.Nodes) {
		return nil, fmt.Errorf("the arrays in %s do not fit each other", r.dir)
	}
	return values, nil
}
