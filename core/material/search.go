package material

import (
	"fmt"
	"math"
	"regexp"
	"strings"

	"saltkettle/core/quantity"
)

// Search asks for a property within bounds, and for words that the name, the family or the
// description have.
type Search struct {
	Definition
	Least, Most float64 // SI
	Words       []string
}

var bounded = regexp.MustCompile(`^(.*?)\s*(over|above|at least|more than|under|below|at most|less than|between|>|<|≥|≤)\s*(\S.*)$`)

// ParseSearch reads a search such as "conductivity over 200", "metal melting point under 400 °C" or
// "density between 900 and 1100". Numbers without a unit are in the one of the property. ok is
// false if the text speaks of no bounds; an error says what is wrong with it.
func ParseSearch(text string) (s Search, ok bool, err error) {
	found := bounded.FindStringSubmatch(strings.TrimSpace(text))
	if found == nil {
		return s, false, nil
	}
	words := strings.Fields(strings.ToLower(found[1]))
	for i := 0; i <= len(words) && s.Key == ""; i++ {
		if phrase := strings.Join(words[i:], " "); phrase != "" {
			s.Definition, s.Words = byName(phrase), words[:i]
		}
	}
	if s.Key == "" {
		return s, true, fmt.Errorf("no property is called %q", found[1])
	}
	s.Least, s.Most = math.Inf(-1), math.Inf(1)
	limit := func(text string) float64 {
		v, limitErr := s.number(text)
		if limitErr != nil && err == nil {
			err = limitErr
		}
		return v
	}
	switch found[2] {
	case "between":
		from, to, two := strings.Cut(found[3], " and ")
		if !two {
			return s, true, fmt.Errorf("%q: say between what and what, with “and”", text)
		}
		s.Least, s.Most = limit(from), limit(to)
	case "under", "below", "at most", "less than", "<", "≤":
		s.Most = limit(found[3])
	default:
		s.Least = limit(found[3])
	}
	return s, true, err
}

// byName finds a property by its name, a part of it, its key or its symbol.
func byName(phrase string) Definition {
	for _, fits := range []func(d Definition) bool{
		func(d Definition) bool {
			return strings.EqualFold(d.Name, phrase) || strings.EqualFold(string(d.Key), strings.ReplaceAll(phrase, " ", "_")) || strings.EqualFold(d.Symbol, phrase)
		},
		func(d Definition) bool { return strings.HasSuffix(strings.ToLower(d.Name), phrase) },
		func(d Definition) bool { return strings.Contains(strings.ToLower(d.Name), phrase) },
	} {
		for _, d := range Definitions {
			if !d.Pair && fits(d) {
				return d
			}
		}
	}
	return Definition{}
}

// number reads a limit, SI.
func (s Search) number(text string) (float64, error) {
	v, err := worth(text)
	if err != nil {
		return 0, err
	}
	u := quantity.MustUnit(s.Unit)
	switch {
	case v.Dimension == u.Dimension:
		return v.SI, nil
	case v.Dimension == quantity.None:
		return u.SI(v.SI), nil
	}
	return 0, fmt.Errorf("%s is %s, where the %s is in %s", text, v.Dimension.Name(), s.Name, unitWords(s.Unit))
}

// Finds returns the usual value of the property of a material, and whether the search finds it.
func (s Search) Finds(m Material) (value float64, ok bool) {
	text := m.Words()
	for _, w := range s.Words {
		if !strings.Contains(text, w) {
			return 0, false
		}
	}
	if !m.Gives(s.Key) {
		return 0, false
	}
	f, err := m.Function(s.Key, nil)
	if err != nil {
		return 0, false
	}
	value, _ = f.Typical(s.Definition)
	return value, value >= s.Least && value <= s.Most
}

// Words are what a search for words looks through.
func (m Material) Words() string {
	text := m.Name + " " + m.Family + " " + m.About + " " + m.Temper
	switch m.Family {
	case "light", "copper", "iron":
		text += " metal"
	}
	return strings.ToLower(text)
}
