package result

import (
	"encoding/json"
	"math"
)

// Values are numbers of which some may be missing: these are not numbers, and null in JSON.
type Values []float64

// MarshalJSON writes null for what is not a number.
func (v Values) MarshalJSON() ([]byte, error) {
	list := make([]*float64, len(v))
	for i := range v {
		list[i] = finite(v[i])
	}
	return json.Marshal(list)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (v *Values) UnmarshalJSON(data []byte) error {
	var list []*float64
	if err := json.Unmarshal(data, &list); err != nil {
		return err
	}
	*v = (*v)[:0]
	for _, x := range list {
		*v = append(*v, value(x))
	}
	return nil
}

// finite is a number for JSON, nil if it is none.
func finite(x float64) *float64 {
	if math.IsNaN(x) || math.IsInf(x, 0) {
		return nil
	}
	return &x
}

func value(x *float64) float64 {
	if x == nil {
		return math.NaN()
	}
	return *x
}

// plainReading is a reading without methods; its values may be null.
type plainReading Reading

type readingJSON struct {
	plainReading
	Value *float64  `json:"value"`
	Shown shownJSON `json:"shown"`
}

type shownJSON struct {
	Value *float64 `json:"value"`
	Unit  string   `json:"unit"`
}

// MarshalJSON writes null for a value that is missing.
func (r Reading) MarshalJSON() ([]byte, error) {
	return json.Marshal(readingJSON{plainReading(r), finite(r.Value), shownJSON{finite(r.Shown.Value), r.Shown.Unit}})
}

// UnmarshalJSON reads what MarshalJSON writes.
func (r *Reading) UnmarshalJSON(data []byte) error {
	var j readingJSON
	if err := json.Unmarshal(data, &j); err != nil {
		return err
	}
	*r = Reading(j.plainReading)
	r.Value, r.Shown = value(j.Value), Shown{value(j.Shown.Value), j.Shown.Unit}
	return nil
}
