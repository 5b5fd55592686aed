package result

import (
	"bufio"
	"crypto/sha256"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"time"
)

// SurfaceFile is the surface in a folder. What it shows is read field by field and moment by
// moment: all of it may be too large to be held, or sent, for every reader.
type SurfaceFile struct {
	Surface
	dir, name string
	// begin, values and end are where the positions, the values and the triangles begin; size is
	// that of the file, bytes.
	begin, values, end, size int64
	changed                  time.Time
}

// OpenSurface reads what the surface in a folder has, see [Surface], and compares the file with
// its sum.
func OpenSurface(dir string) (*SurfaceFile, error) {
	list, err := readSums(dir)
	if err != nil {
		return nil, err
	}
	s := &SurfaceFile{dir: dir, name: surfaceFile}
	f, err := os.Open(s.path())
	h := sha256.New()
	if err == nil {
		defer f.Close()
		_, err = io.Copy(h, f)
	}
	if err = list.check(dir, surfaceFile, h.Sum(nil), err); err != nil {
		return nil, err
	}
	return s, s.open(f)
}

// OpenGlimpse reads what the surface of a run that is under way has, see [Surface.Glimpse].
func OpenGlimpse(dir string) (*SurfaceFile, error) {
	s := &SurfaceFile{dir: dir, name: glimpseFile}
	f, err := os.Open(s.path())
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return s, s.open(f)
}

// open reads the header of the file.
func (s *SurfaceFile) open(f *os.File) error {
	info, err := f.Stat()
	if err != nil {
		return err
	}
	s.size, s.changed = info.Size(), info.ModTime()
	var length uint32
	if err := binary.Read(io.NewSectionReader(f, 0, 4), binary.LittleEndian, &length); err != nil {
		return fmt.Errorf("%s: %w", s.name, err)
	}
	if err := json.NewDecoder(io.NewSectionReader(f, 4, int64(length))).Decode(&s.Surface); err != nil {
		return fmt.Errorf("%s: %w", s.name, err)
	}
	if len(s.Fields) == 0 { // of heat alone, from before there were others
		s.Fields = new(Result).solvedOrNot()
	}
	c := &s.Counts
	s.begin = 4 + int64(length)
	s.values = s.begin + 12*int64(c.Vertices)
	s.end = s.values + int64(s.Sets())*int64(len(s.Fields))*4*int64(c.Vertices)
	if want := s.end + 4*int64(3*c.Triangles+2*c.Outlines+2*c.Edges); want != s.size {
		return fmt.Errorf("%s has %d bytes and not %d", s.name, s.size, want)
	}
	return nil
}

func (s *SurfaceFile) path() string { return filepath.Join(s.dir, s.name) }

// Sets is how many sets of values there are: one for each moment, or one alone.
func (s *SurfaceFile) Sets() int { return max(1, len(s.Moments)) }

// Has says that there is a set, counted from 0.
func (s *SurfaceFile) Has(set int) error {
	if set < 0 || set >= s.Sets() {
		return &NotKeptError{fmt.Sprintf("the surface has %d moments and none with the number %d", s.Sets(), set)}
	}
	return nil
}

// read opens the file, which must be as it was when it was compared with its sum.
func (s *SurfaceFile) read(do func(f *os.File) error) error {
	f, err := os.Open(s.path())
	if errors.Is(err, os.ErrNotExist) {
		return &DamagedError{Dir: s.dir, File: s.name, Missing: true}
	}
	if err != nil {
		return err
	}
	defer f.Close()
	if info, err := f.Stat(); err != nil || !s.is(info) {
		return errors.Join(err, &DamagedError{Dir: s.dir, File: s.name})
	}
	return do(f)
}

func (s *SurfaceFile) is(info os.FileInfo) bool {
	return info.Size() == s.size && info.ModTime().Equal(s.changed)
}

// Unchanged says that the file is as it was when it was compared with its sum.
func (s *SurfaceFile) Unchanged() bool {
	info, err := os.Stat(s.path())
	return err == nil && s.is(info)
}

// WriteShape writes the file without values: the header, positions, triangles, outlines and edges.
func (s *SurfaceFile) WriteShape(w io.Writer) error {
	return s.read(func(f *os.File) error {
		if _, err := io.Copy(w, io.NewSectionReader(f, 0, s.values)); err != nil {
			return err
		}
		_, err := io.Copy(w, io.NewSectionReader(f, s.end, s.size-s.end))
		return err
	})
}

// Values are those of a field at the vertices, not numbers where it is not, as they are in the file:
// 32-bit floats, little-endian. Sets are counted from 0.
func (s *SurfaceFile) Values(field string, set int) ([]byte, error) {
	k := slices.IndexFunc(s.Fields, func(f FieldName) bool { return f.Name == field })
	if k < 0 {
		return nil, &NotKeptError{fmt.Sprintf("the surface has no field %q", field)}
	}
	if err := s.Has(set); err != nil {
		return nil, err
	}
	out := make([]byte, 4*s.Counts.Vertices)
	err := s.read(func(f *os.File) error {
		_, err := f.ReadAt(out, s.values+(int64(set)*int64(len(s.Fields))+int64(k))*int64(len(out)))
		return err
	})
	return out, err
}

// Range is the least and the greatest value of a field in all sets; they are infinite if there is none.
func (s *SurfaceFile) Range(field string) (least, greatest float64, err error) {
	least, greatest = math.Inf(1), math.Inf(-1)
	for set := range s.Sets() {
		data, err := s.Values(field, set)
		if err != nil {
			return least, greatest, err
		}
		for i := 0; i < len(data); i += 4 {
			if v := float64(math.Float32frombits(binary.LittleEndian.Uint32(data[i:]))); v == v {
				least, greatest = min(least, v), max(greatest, v)
			}
		}
	}
	return least, greatest, nil
}

// Triangles are three vertices each.
func (s *SurfaceFile) Triangles() (list []uint32, err error) {
	list = make([]uint32, 3*s.Counts.Triangles)
	err = s.read(func(f *os.File) error {
		return binary.Read(bufio.NewReaderSize(io.NewSectionReader(f, s.end, 4*int64(len(list))), 1<<20), binary.LittleEndian, list)
	})
	return list, err
}

// Vertices are the places of all vertices, three coordinates each, m.
func (s *SurfaceFile) Vertices() (list []float32, err error) {
	list = make([]float32, 3*s.Counts.Vertices)
	err = s.read(func(f *os.File) error {
		return binary.Read(bufio.NewReaderSize(io.NewSectionReader(f, s.begin, s.values-s.begin), 1<<20), binary.LittleEndian, list)
	})
	return list, err
}

// Outlines are the ends of the lines at which surfaces are seen to end or to turn.
func (s *SurfaceFile) Outlines() (list []uint32, err error) {
	list = make([]uint32, 2*s.Counts.Outlines)
	return list, s.read(func(f *os.File) error {
		return binary.Read(bufio.NewReader(io.NewSectionReader(f, s.end+12*int64(s.Counts.Triangles), 4*int64(len(list)))), binary.LittleEndian, list)
	})
}
