package frame

import (
	"fmt"
	"math"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// roundOffOfRange is by how many kelvins a range may be left.
const roundOffOfRange = 1e-6

// Beyond says that a property was used at temperatures, K, at which it is not known, "" if it
// was not; of is what it is one of, and reaches begins the words for the temperatures.
func Beyond(key material.Key, f *material.Function, of, reaches string, lo, hi float64) string {
	if hi <= f.To+roundOffOfRange && lo >= f.From-roundOffOfRange {
		return ""
	}
	d, _ := material.Define(key)
	known := d.ArgumentWords(f.From) + " to " + d.ArgumentWords(f.To)
	switch {
	case math.IsInf(f.From, -1):
		known = "up to " + d.ArgumentWords(f.To)
	case math.IsInf(f.To, 1):
		known = "from " + d.ArgumentWords(f.From) + " on"
	}
	return fmt.Sprintf("the %s of %s is known %s; %s %s … %s", strings.TrimPrefix(d.Name, "thermal "), of, known, reaches,
		quantity.Show(lo, "°C", false, 4), quantity.Show(hi, "°C", false, 4))
}
