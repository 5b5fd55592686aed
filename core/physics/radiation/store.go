package radiation

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"io"
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

// storedHead is what a file of views begins with; the patches, the areas, the openings and
// the exchange areas up to the diagonal follow, in little-endian order.
type storedHead struct {
	Facets, Patches, Rays int64
	Reciprocity, Closure  float64
}

func (h *storedHead) size() int64 {
	return int64(binary.Size(h)) + 4*h.Facets + 8*2*h.Patches + 8*h.Patches*(h.Patches+1)/2
}

// Load finds view factors, nil if they are not there or cannot be read.
func (s *Store) Load(key string) *Views {
	data, err := os.ReadFile(s.path(key))
	if err != nil {
		return nil
	}
	in := bytes.NewReader(data)
	var h storedHead
	if binary.Read(in, binary.LittleEndian, &h) != nil || min(h.Facets, h.Patches) < 0 || max(h.Facets, h.Patches) > 1<<24 || h.size() != int64(len(data)) {
		return nil
	}
	n := int(h.Patches)
	v := &Views{
		Patch: make([]int32, h.Facets), Area: make([]float64, n), Open: make([]float64, n), Exchange: make([]float64, n*n),
		Rays: int(h.Rays), Reciprocity: h.Reciprocity, Closure: h.Closure,
	}
	half := make([]float64, n*(n+1)/2)
	for _, list := range []any{v.Patch, v.Area, v.Open, half} {
		if binary.Read(in, binary.LittleEndian, list) != nil {
			return nil
		}
	}
	for i, at := 0, 0; i < n; i++ {
		for j := range i + 1 {
			v.Exchange[i*n+j], v.Exchange[j*n+i] = half[at+j], half[at+j]
		}
		at += i + 1
	}
	now := time.Now()
	_ = os.Chtimes(s.path(key), now, now) // it was used; that is of use only to prune
	return v
}

// write is the file of views that [Store.Load] reads.
func (v *Views) write(w io.Writer) error {
	n := v.Count()
	half := make([]float64, 0, n*(n+1)/2)
	for i := range n {
		half = append(half, v.Exchange[i*n:i*n+i+1]...)
	}
	h := storedHead{int64(len(v.Patch)), int64(n), int64(v.Rays), v.Reciprocity, v.Closure}
	for _, part := range []any{&h, v.Patch, v.Area, v.Open, half} {
		if err := binary.Write(w, binary.LittleEndian, part); err != nil {
			return err
		}
	}
	return nil
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
	err = v.write(f)
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
