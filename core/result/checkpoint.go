package result

import (
	"bytes"
	"crypto/sha256"
	"encoding/gob"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
)

// checkpointFile is what a run in time can go on from after an interruption. It is a sum of 32
// bytes over the rest, how far the run was, and its state, both as gob.
const checkpointFile = "checkpoint.bin"

// Progress is how far a run in time was: the time that it had reached, and its end, s.
type Progress struct{ Reached, End float64 }

// ErrNoCheckpoint says that a folder has none.
var ErrNoCheckpoint = errors.New("there is no checkpoint")

// SaveCheckpoint writes a checkpoint into a folder, whole or not at all. state must be one that
// gob can write.
func SaveCheckpoint(dir string, p Progress, state any) error {
	var b bytes.Buffer
	b.Write(make([]byte, sha256.Size))
	enc := gob.NewEncoder(&b)
	if err := errors.Join(enc.Encode(p), enc.Encode(state)); err != nil {
		return err
	}
	data := b.Bytes()
	sum := sha256.Sum256(data[sha256.Size:])
	copy(data, sum[:])
	part := filepath.Join(dir, checkpointFile+".part")
	if err := writeSynced(part, func(w io.Writer) error { _, err := w.Write(data); return err }); err != nil {
		return err
	}
	if err := os.Rename(part, filepath.Join(dir, checkpointFile)); err != nil {
		return err
	}
	return SyncDir(dir)
}

// LoadCheckpoint reads the checkpoint of a folder; state, which may be nil, is a pointer to what
// was given when it was written. ErrNoCheckpoint says that there is none, a *DamagedError that it
// is not what was written.
func LoadCheckpoint(dir string, state any) (Progress, error) {
	var p Progress
	data, err := os.ReadFile(filepath.Join(dir, checkpointFile))
	if errors.Is(err, fs.ErrNotExist) {
		return p, ErrNoCheckpoint
	}
	if err != nil {
		return p, err
	}
	if len(data) < sha256.Size || sha256.Sum256(data[sha256.Size:]) != [sha256.Size]byte(data) {
		return p, &DamagedError{Dir: dir, File: checkpointFile}
	}
	dec := gob.NewDecoder(bytes.NewReader(data[sha256.Size:]))
	if err := dec.Decode(&p); err != nil {
		return p, fmt.Errorf("%s: %w", checkpointFile, err)
	}
	if state == nil {
		return p, nil
	}
	if err := dec.Decode(state); err != nil {
		return p, fmt.Errorf("the checkpoint was written by another version of this program: %w", err)
	}
	return p, nil
}

// RemoveCheckpoint removes what a run needs only until it has come to its end.
func RemoveCheckpoint(dir string) error {
	for _, name := range []string{checkpointFile, momentsFile} {
		if err := os.Remove(filepath.Join(dir, name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	return nil
}

// CopyCheckpoint copies a checkpoint with all that it refers to from one folder to another.
func CopyCheckpoint(from, to string) error {
	if _, err := LoadCheckpoint(from, nil); err != nil {
		return fmt.Errorf("the run cannot go on: %w", err)
	}
	names := []string{momentsFile}
	moments, err := momentFiles(from)
	if err != nil {
		return err
	}
	for _, path := range moments {
		names = append(names, filepath.Base(path))
	}
	for _, name := range append(names, checkpointFile) {
		if err := copyFile(filepath.Join(from, name), filepath.Join(to, name)); err != nil && !(name == momentsFile && errors.Is(err, fs.ErrNotExist)) {
			return fmt.Errorf("the run cannot go on: %w", err)
		}
	}
	return nil
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	return writeSynced(to, func(w io.Writer) error { _, err := io.Copy(w, in); return err })
}
