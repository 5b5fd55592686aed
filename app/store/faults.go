package store

import (
	"errors"
	"fmt"
	"io/fs"
	"syscall"

	"github.com/mattn/go-sqlite3"
)

// FullError says that there is no room on the disk.
type FullError struct{ err error }

func (e *FullError) Error() string {
	return "the disk with the data folder is full, and nothing was changed: make room on it, or look at Disk and bin"
}

// Unwrap returns what the system said.
func (e *FullError) Unwrap() error { return e.err }

// IsFull says that an error comes from a disk without room.
func IsFull(err error) bool {
	var said sqlite3.Error
	var full *FullError
	return errors.As(err, &full) || errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) || errors.As(err, &said) && said.Code == sqlite3.ErrFull
}

// explained says of an error of a data folder what is wrong with it and what can be done.
func explained(dir string, err error) error {
	var said sqlite3.Error
	switch {
	case err == nil:
		return nil
	case IsFull(err):
		return fmt.Errorf("the disk with the data folder %s is full; make room on it: %w", dir, err)
	case errors.Is(err, fs.ErrPermission), errors.Is(err, syscall.EROFS), errors.As(err, &said) && (said.Code == sqlite3.ErrReadonly || said.Code == sqlite3.ErrPerm || said.Code == sqlite3.ErrCantOpen):
		return fmt.Errorf("the data folder %s cannot be written; let this user write it, or name another folder with --data: %w", dir, err)
	case errors.As(err, &said) && (said.Code == sqlite3.ErrCorrupt || said.Code == sqlite3.ErrNotADB):
		return fmt.Errorf("the database in the data folder %s is damaged; look at it with saltkettle doctor --data %s, and restore a backup: %w", dir, dir, err)
	}
	return fmt.Errorf("the data folder %s: %w", dir, err)
}
