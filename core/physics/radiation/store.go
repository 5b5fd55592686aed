package radiation

import (
	"cmp"
	"encoding/gob"
	"os"
	"path/filepath"
	"slices"
	"time"
)

// Store keeps view factors in a folder, so that runs of one shape share them.
type Store struct {
	Dir string
	// Most is how many bytes it may take; the ones that were not used for longest go
	// first. 0 means 256 MB.
	Most int64
}

const usualStore = 256 << 20

func (s *Store) path(key string) string { return filepath.Join(s.Dir, key+".views") }

// Load finds view factors, nil if they are not there or cannot be read.
func (s *Store) Load(key string) *Views {
	f, err := os.Open(s.path(key))
	if err != nil {
		return nil
	}
	defer f.Close()
	v := &Views{}
	if gob.NewDecoder(f).Decode(v) != nil || len(v.Exchange) != v.Count()*v.Count() {
		return nil
	}
	now := time.Now()
	_ = os.Chtimes(s.path(key), now, now) // it was used; that is of use only to prune
	return v
}

// Save keeps view factors. A folder that cannot be written to costs time in later runs
// and nothing else, so the error may be left at a warning.
func (s *Store) Save(key string, v *Views) error {
	if err := os.MkdirAll(s.Dir, 0o755); err != nil {
		return err
	}
	f, err := os.CreateTemp(s.Dir, "new-*")
	if err != nil {
		return err
	}
	err = gob.NewEncoder(f).Encode(v)
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(f.Name(), s.path(key))
	}
	if err != nil {
		_ = os.Remove(f.Name())
		return err
	}
	s.prune()
	return nil
}

// prune removes what was not used for longest.
func (s *Store) prune() {
	type file struct {
		path string
		size int64
		used time.Time
	}
	names, _ := filepath.Glob(s.path("*"))
	var list []file
	for _, name := range names {
		if info, err := os.Stat(name); err == nil {
			list = append(list, file{name, info.Size(), info.ModTime()})
		}
	}
	slices.SortFunc(list, func(a, b file) int { return cmp.Compare(b.used.UnixNano(), a.used.UnixNano()) })
	left := s.Most
	if left == 0 {
		left = usualStore
	}
	for i, f := range list {
		if left -= f.size; left < 0 && i > 0 {
			_ = os.Remove(f.path)
		}
	}
}
