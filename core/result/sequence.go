package result

import (
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
)

// momentsFile is where a run in time keeps what its moments show until it ends.
const momentsFile = "moments.bin"

// sequence is blocks of numbers of one size that come one after another: in a file or,
// without one, in memory.
type sequence struct {
	file   *os.File
	memory [][]byte
	size   int64 // of a block, bytes
	// slots are the places, of all there are, of the blocks that are kept. What was in a
	// place is never changed: a checkpoint may refer to it.
	slots []int
	next  int
}

// add adds a block.
func (s *sequence) add(values []float32) error {
	block := make([]byte, 0, 4*len(values))
	for _, x := range values {
		block = binary.LittleEndian.AppendUint32(block, math.Float32bits(x))
	}
	switch {
	case s.next > 0 && int64(len(block)) != s.size:
		return fmt.Errorf("a moment of %d bytes cannot follow one of %d", len(block), s.size)
	case s.file == nil:
		s.memory = append(s.memory, block)
	default:
		if _, err := s.file.WriteAt(block, int64(s.next)*int64(len(block))); err != nil {
			return fmt.Errorf("a moment cannot be kept: %w", err)
		}
	}
	s.size = int64(len(block))
	s.slots = append(s.slots, s.next)
	s.next++
	return nil
}

// thin keeps every second block.
func (s *sequence) thin() {
	n := (len(s.slots) + 1) / 2
	for i := range n {
		s.slots[i] = s.slots[2*i]
		if s.file == nil {
			s.memory[i] = s.memory[2*i]
		}
	}
	s.slots = s.slots[:n]
	if s.file == nil {
		clear(s.memory[n:])
		s.memory = s.memory[:n]
	}
}

// writeTo writes the blocks that are kept in their order.
func (s *sequence) writeTo(w io.Writer) error {
	for i, slot := range s.slots {
		var err error
		if s.file == nil {
			_, err = w.Write(s.memory[i])
		} else {
			_, err = io.Copy(w, io.NewSectionReader(s.file, int64(slot)*s.size, s.size))
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// keepIn keeps blocks in the file of a folder from now on.
func (s *sequence) keepIn(dir string) error {
	f, err := os.OpenFile(filepath.Join(dir, momentsFile), os.O_RDWR|os.O_CREATE, 0o644)
	s.file = f
	return err
}

// close ends the use of the file.
func (s *sequence) close() error {
	if s.file == nil {
		return nil
	}
	err := s.file.Close()
	*s = sequence{}
	return err
}

// sync makes what is kept in the file outlive a loss of power.
func (s *sequence) sync() error {
	if s.file == nil {
		return nil
	}
	return s.file.Sync()
}
