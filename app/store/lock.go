package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// ErrInUse says that another process writes a data folder.
var ErrInUse = errors.New("the data folder is in use")

// lock takes a data folder for this process alone until the file is closed; the system lets
// it go when the process ends, however that happens.
func lock(dir string) (*os.File, error) {
	path := filepath.Join(dir, "lock")
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be written: %w", dir, err)
	}
	if err := lockFile(f); err != nil {
		holder := ""
		if text, err := os.ReadFile(path); err == nil {
			if pid, err := strconv.Atoi(strings.TrimSpace(string(text))); err == nil {
				holder = fmt.Sprintf(" (process %d)", pid)
			}
		}
		f.Close()
		return nil, fmt.Errorf("%w: another Salt Kettle%s works in %s; end it, or choose another folder with --data", ErrInUse, holder, dir)
	}
	// For the message of whoever comes next; the lock does not depend on it.
	if f.Truncate(0) == nil {
		_, _ = f.WriteString(strconv.Itoa(os.Getpid()) + "\n")
	}
	return f, nil
}
