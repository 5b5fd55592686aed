//go:build unix

package store

import "golang.org/x/sys/unix"

// free is the room that is left on the disk of a folder, bytes, −1 if that is not known.
func free(dir string) int64 {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return -1
	}
	return int64(s.Bavail) * int64(s.Bsize)
}
