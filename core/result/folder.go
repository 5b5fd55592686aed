package result

import (
	"bytes"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
)

// File names in a result folder. The sums have the format of the tool sha256sum, which can
// check a folder from outside.
const (
	jsonFile    = "result.json"
	surfaceFile = "surface.bin"
	sumsFile    = "SHA256SUMS"
)

// DamagedError says that a file of a result is not what was written.
type DamagedError struct {
	Dir, File string
	// Missing says that the file is not there at all.
	Missing bool
}

func (e *DamagedError) Error() string {
	what := "has changed since the run wrote it"
	if e.Missing {
		what = "is missing"
	}
	return fmt.Sprintf("the result is damaged: %s in %s %s; run again, or put the file back from a copy", e.File, e.Dir, what)
}

// SaveFields writes the arrays and the surface into a folder that must exist and has the series, which
// may be nil.
// [SaveSummary] comes after it, so that a folder with a result.json is complete. A surface
// that kept its moments in a file has them no more.
func SaveFields(dir string, f *Fields, s *Surface, series *Series) error {
	if err := os.Remove(filepath.Join(dir, sumsFile)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	sums := sums{}
	var points []int32
	for _, b := range f.Blocks {
		points = append(points, b.Cells...)
	}
	for _, a := range f.arrays(&points, "") {
		if err := sums.write(dir, a.name, a.bytes()); err != nil {
			return err
		}
	}
	if err := sums.writeBy(dir, surfaceFile, func(w io.Writer) error { _, err := s.WriteTo(w); return err }); err != nil {
		return err
	}
	if err := s.Close(); err != nil {
		return err
	}
	if err := series.end(dir, sums); err != nil {
		return err
	}
	return sums.writeText(dir)
}

// SaveSummary writes result.json, whole or not at all. When it returns, the folder and all that
// is in it outlive a loss of power.
func SaveSummary(dir string, r *Result) error {
	data, err := json.MarshalIndent(r, "", " ")
	if err != nil {
		return err
	}
	list, err := readSums(dir)
	if err != nil {
		return err
	}
	if list == nil {
		list = sums{}
	}
	if err := list.write(dir, jsonFile+".part", data); err != nil {
		return err
	}
	list[jsonFile] = list[jsonFile+".part"]
	delete(list, jsonFile+".part")
	if err := list.writeText(dir); err != nil {
		return err
	}
	if err := os.Rename(filepath.Join(dir, jsonFile+".part"), filepath.Join(dir, jsonFile)); err != nil {
		return err
	}
	return SyncDir(dir)
}

// Load reads result.json from a folder.
func Load(dir string) (*Result, error) {
	data, err := read(dir, jsonFile)
	if err != nil {
		return nil, err
	}
	var r Result
	if err := json.Unmarshal(data, &r); err != nil {
		return nil, fmt.Errorf("%s: %w", jsonFile, err)
	}
	return &r, nil
}

// LoadFields reads the arrays of a folder, with the values of some fields, or of all if none are
// named.
func LoadFields(dir string, names ...string) (*Fields, error) {
	r, err := Load(dir)
	if err != nil {
		return nil, err
	}
	return r.loadFields(dir, "", func(f FieldName) bool { return len(names) == 0 || slices.Contains(names, f.Name) })
}

// solvedOrNot are the fields that a result has.
func (r *Result) solvedOrNot() []FieldName {
	if len(r.Fields) == 0 { // a result of heat alone, from before there were others
		return []FieldName{{Name: "temperature", Unit: "K"}}
	}
	return r.Fields
}

// loadFields reads the arrays with those fields that are wanted, in files with a prefix.
func (r *Result) loadFields(dir, prefix string, wanted func(FieldName) bool) (*Fields, error) {
	f := &Fields{}
	for _, n := range r.solvedOrNot() {
		if wanted(n) {
			f.Values = append(f.Values, Field{FieldName: n})
		}
	}
	var points []int32
	for _, a := range f.arrays(&points, prefix) {
		if err := a.read(dir); err != nil {
			return nil, err
		}
	}
	if err := f.divide(r.Mesh.Blocks, points); err != nil {
		return nil, fmt.Errorf("%s: %w", dir, err)
	}
	if !f.fit() {
		return nil, fmt.Errorf("the arrays in %s do not fit each other", dir)
	}
	return f, nil
}

// Verify reads all files of a folder and compares them with their sums. A folder from before
// there were sums has nothing to compare with; its files must be there.
func Verify(dir string) error {
	list, err := readSums(dir)
	if err != nil {
		return err
	}
	for _, name := range list.names() {
		if _, err := read(dir, name); err != nil {
			return err
		}
	}
	if list == nil {
		_, err = LoadFields(dir)
		return err
	}
	_, err = Load(dir)
	return err
}

// array is a file with an array of numbers.
type array struct {
	name  string
	bytes func() []byte
	set   func([]byte) error
}

// read sets the array to what its file in a folder has.
func (a *array) read(dir string) error {
	data, err := read(dir, a.name)
	if err != nil {
		return err
	}
	if err := a.set(data); err != nil {
		return fmt.Errorf("%s: %w", filepath.Join(dir, a.name), err)
	}
	return nil
}

// arrays are the files of the fields, by the names in Values; points are those of all cells.
func (f *Fields) arrays(points *[]int32, prefix string) []array {
	list := []array{arrayOf("nodes.f64", &f.Nodes), arrayOf("cells.i32", points), arrayOf("part.i32", &f.Part)}
	for i := range f.Values {
		list = append(list, arrayOf(prefix+f.Values[i].Name+".f64", &f.Values[i].Values))
	}
	return list
}

func arrayOf[T float64 | int32](name string, list *[]T) array {
	return array{name,
		func() []byte {
			// Appending to a slice of bytes does not fail.
			data, _ := binary.Append(make([]byte, 0, binary.Size(*list)), binary.LittleEndian, *list)
			return data
		},
		func(data []byte) error {
			var zero T
			*list = make([]T, len(data)/binary.Size(zero))
			_, err := binary.Decode(data, binary.LittleEndian, *list)
			return err
		}}
}

// sums are the SHA-256 sums of files, in hexadecimal digits, by their names.
type sums map[string]string

// write writes a file and keeps its sum.
func (s sums) write(dir, name string, data []byte) error {
	return s.writeBy(dir, name, func(w io.Writer) error { _, err := w.Write(data); return err })
}

func (s sums) writeBy(dir, name string, write func(w io.Writer) error) error {
	h := sha256.New()
	err := writeSynced(filepath.Join(dir, name), func(w io.Writer) error { return write(io.MultiWriter(w, h)) })
	s[name] = hex.EncodeToString(h.Sum(nil))
	return err
}

// add keeps the sum of what is there to be read.
func (s sums) add(name string, r io.Reader) error {
	h := sha256.New()
	_, err := io.Copy(h, r)
	s[name] = hex.EncodeToString(h.Sum(nil))
	return err
}

func (s sums) names() []string {
	var list []string
	for name := range s {
		list = append(list, name)
	}
	slices.Sort(list)
	return list
}

// writeText writes the file of the sums.
func (s sums) writeText(dir string) error {
	return writeSynced(filepath.Join(dir, sumsFile), func(w io.Writer) error {
		var b bytes.Buffer
		for _, name := range s.names() {
			fmt.Fprintf(&b, "%s  %s\n", s[name], name)
		}
		_, err := w.Write(b.Bytes())
		return err
	})
}

// readSums reads the sums of a folder; of one from before there were sums, nil.
func readSums(dir string) (sums, error) {
	data, err := os.ReadFile(filepath.Join(dir, sumsFile))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	list := sums{}
	for line := range strings.Lines(string(data)) {
		digits, name, ok := strings.Cut(strings.TrimSuffix(line, "\n"), "  ")
		if !ok || len(digits) != 2*sha256.Size || name != filepath.Base(name) {
			return nil, &DamagedError{Dir: dir, File: sumsFile}
		}
		list[name] = digits
	}
	return list, nil
}

// read reads a file of a folder, which must be what was written.
func read(dir, name string) ([]byte, error) {
	list, err := readSums(dir)
	if err != nil {
		return nil, err
	}
	data, err := os.ReadFile(filepath.Join(dir, name))
	h := sha256.Sum256(data)
	if err := list.check(dir, name, h[:], err); err != nil {
		return nil, err
	}
	return data, nil
}

// check says whether a file that was read, with an error or not, is what was written.
func (s sums) check(dir, name string, h []byte, err error) error {
	want, kept := s[name]
	switch {
	case kept && errors.Is(err, fs.ErrNotExist):
		return &DamagedError{Dir: dir, File: name, Missing: true}
	case err != nil:
		return err
	case s != nil && want != hex.EncodeToString(h):
		return &DamagedError{Dir: dir, File: name}
	}
	return nil
}

// writeSynced writes a file that outlives a loss of power once its folder is synced too.
func writeSynced(path string, write func(w io.Writer) error) error {
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o644)
	if err != nil {
		return err
	}
	if err = write(f); err == nil {
		err = f.Sync()
	}
	return errors.Join(err, f.Close())
}

// SyncDir makes the names in a folder outlive a loss of power, where the system can.
func SyncDir(dir string) error {
	if runtime.GOOS == "windows" { // folders cannot be synced there
		return nil
	}
	f, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}
