package result

import (
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
)

// Moment is a time at which a run keeps fields.
type Moment struct {
	Time float64 `json:"time"` // s
	// Number is that in the names of its files.
	Number int `json:"number"`
}

func momentPrefix(number int) string { return fmt.Sprintf("moment-%d-", number) }

// Series is the fields of a run in time at its moments, in the files of a folder. They are
// written as they come and what is written is never changed: a checkpoint may refer to it.
type Series struct {
	Moments []Moment
	Next    int // number of the next one
	// Fields are the names of what is kept.
	Fields []string
}

// Add writes the fields that were solved for at a time, s.
func (s *Series) Add(dir string, time float64, fields []Field) error {
	s.Fields = s.Fields[:0]
	for i := range fields {
		if f := &fields[i]; !f.Derived {
			a := arrayOf(momentPrefix(s.Next)+f.Name+".f64", &f.Values)
			if err := writeSynced(filepath.Join(dir, a.name), func(w io.Writer) error { _, err := w.Write(a.bytes()); return err }); err != nil {
				return fmt.Errorf("a moment cannot be kept: %w", err)
			}
			s.Fields = append(s.Fields, f.Name)
		}
	}
	s.Moments = append(s.Moments, Moment{time, s.Next})
	s.Next++
	return nil
}

// Thin leaves every second moment out.
func (s *Series) Thin() {
	n := (len(s.Moments) + 1) / 2
	for i := range n {
		s.Moments[i] = s.Moments[2*i]
	}
	s.Moments = s.Moments[:n]
}

// files are the names of the files of all moments that are kept.
func (s *Series) files() map[string]bool {
	list := map[string]bool{}
	for _, m := range s.Moments {
		for _, name := range s.Fields {
			list[momentPrefix(m.Number)+name+".f64"] = true
		}
	}
	return list
}

// end adds the files that are kept to the sums, and removes the others.
func (s *Series) end(dir string, sums sums) error {
	if s == nil {
		return nil
	}
	kept := s.files()
	all, err := momentFiles(dir)
	if err != nil {
		return err
	}
	for _, path := range all {
		if !kept[filepath.Base(path)] {
			if err := os.Remove(path); err != nil {
				return err
			}
		}
	}
	for name := range kept {
		f, err := os.Open(filepath.Join(dir, name))
		if err != nil {
			return err
		}
		err = sums.add(name, f)
		f.Close() // it was read
		if err != nil {
			return err
		}
	}
	return nil
}

// momentFiles are the paths of the files of all moments in a folder.
func momentFiles(dir string) ([]string, error) {
	return filepath.Glob(filepath.Join(dir, "moment-*.f64"))
}

// Check says what of the series the folder does not have.
func (s *Series) Check(dir string) error {
	for name := range s.files() {
		if _, err := os.Stat(filepath.Join(dir, name)); err != nil {
			return err
		}
	}
	return nil
}

// LoadMoment reads the fields at a moment of a run in time, or those of them that are named.
func LoadMoment(dir string, m Moment, names ...string) (*Fields, error) {
	r, err := Load(dir)
	if err != nil {
		return nil, err
	}
	return r.loadFields(dir, momentPrefix(m.Number), func(f FieldName) bool {
		return !f.Derived && (len(names) == 0 || slices.Contains(names, f.Name))
	})
}

// MomentNear returns the moment of a result that is nearest to a time, s.
func (r *Result) MomentNear(time float64) (Moment, bool) {
	var best Moment
	found := false
	for _, m := range r.Moments {
		if !found || math.Abs(m.Time-time) < math.Abs(best.Time-time) {
			best, found = m, true
		}
	}
	return best, found
}
