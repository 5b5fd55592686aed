package store

import (
	"archive/tar"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strconv"

	"gorm.io/gorm"

	"saltkettle/core/result"
)

// databaseFile is the name of the database in a data folder.
const databaseFile = "saltkettle.db"

// inBackup are the names of the files in a backup.
var inBackup = regexp.MustCompile(`^(saltkettle\.db|runs/[0-9]+/[A-Za-z0-9_.-]*[A-Za-z0-9])$`)

// Kept says what a backup holds, or what was brought back from one.
type Kept struct {
	Models, Revisions, Runs int
	// Damaged says which results are not what their runs wrote.
	Damaged []string
}

// Backup writes all that a data folder keeps into one file, which must not exist yet: a tar
// archive, compressed by gzip, with the database as it is at one moment and every complete
// result that it refers to. A server may work in the folder meanwhile. View factors, which are
// computed anew when they are missing, and the key of the folder are left out.
func Backup(ctx context.Context, dir, file string) (Kept, error) {
	var kept Kept
	if _, err := os.Stat(file); err == nil {
		return kept, fmt.Errorf("%s is there already; a backup does not write over another one", file)
	}
	db, err := connect(dir)
	if err != nil {
		return kept, err
	}
	defer disconnect(db)
	// Where the backup goes there is room for it.
	temp, err := os.MkdirTemp(filepath.Dir(file), ".backup-*")
	if err != nil {
		return kept, fmt.Errorf("the backup cannot be written: %w", err)
	}
	defer os.RemoveAll(temp)
	snapshot := filepath.Join(temp, databaseFile)
	if err := db.WithContext(ctx).Exec("VACUUM INTO ?", snapshot).Error; err != nil {
		return kept, fmt.Errorf("the database cannot be copied: %w", err)
	}
	part := filepath.Join(temp, "backup")
	out, err := os.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return kept, fmt.Errorf("the backup cannot be written: %w", err)
	}
	kept, err = pack(ctx, dir, temp, out)
	if err == nil {
		err = out.Sync()
	}
	if err = errors.Join(err, out.Close()); err != nil {
		return kept, fmt.Errorf("the backup cannot be written: %w", err)
	}
	// Unlike a rename, a link never replaces what came there meanwhile; not all disks have them.
	if err = os.Link(part, file); err != nil && !errors.Is(err, fs.ErrExist) {
		err = os.Rename(part, file)
	}
	if err != nil {
		return kept, fmt.Errorf("the backup cannot be put in its place: %w", err)
	}
	return kept, result.SyncDir(filepath.Dir(file))
}

// pack writes the snapshot of the database in a folder, and the results it refers to.
func pack(ctx context.Context, dir, snapshot string, out io.Writer) (Kept, error) {
	compressed, err := gzip.NewWriterLevel(out, gzip.BestSpeed)
	if err != nil {
		return Kept{}, err
	}
	archive := tar.NewWriter(compressed)
	if err := addFile(archive, filepath.Join(snapshot, databaseFile), databaseFile); err != nil {
		return Kept{}, err
	}
	kept, runs, err := holds(ctx, snapshot)
	if err != nil {
		return kept, err
	}
	for _, id := range runs {
		if err := ctx.Err(); err != nil {
			return kept, err
		}
		run := strconv.Itoa(int(id))
		from := filepath.Join(dir, "runs", run)
		if err := result.Verify(from); err != nil {
			kept.Damaged = append(kept.Damaged, fmt.Sprintf("run %s: %v", run, err))
		}
		entries, err := os.ReadDir(from)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return kept, err
		}
		for _, e := range entries {
			name := path.Join("runs", run, e.Name())
			if !inBackup.MatchString(name) {
				continue
			}
			if err := addFile(archive, filepath.Join(from, e.Name()), name); err != nil {
				return kept, err
			}
		}
	}
	return kept, errors.Join(archive.Close(), compressed.Close())
}

func addFile(archive *tar.Writer, from, name string) error {
	f, err := os.Open(from)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	head := &tar.Header{Typeflag: tar.TypeReg, Name: name, Mode: 0o600, Size: info.Size(), ModTime: info.ModTime()}
	if err := archive.WriteHeader(head); err != nil {
		return err
	}
	_, err = io.Copy(archive, f)
	return err
}

// holds counts what the database in a folder has, and returns the runs with results.
func holds(ctx context.Context, dir string) (Kept, []uint, error) {
	var kept Kept
	db, err := connect(dir)
	if err != nil {
		return kept, nil, err
	}
	defer disconnect(db)
	models, err := gorm.G[Model](db).Count(ctx, "*")
	if err != nil {
		return kept, nil, err
	}
	revisions, err := gorm.G[Revision](db).Count(ctx, "*")
	if err != nil {
		return kept, nil, err
	}
	var runs []uint
	err = db.WithContext(ctx).Model(&Run{}).Where("has_result").Order("id").Pluck("id", &runs).Error
	return Kept{Models: int(models), Revisions: int(revisions), Runs: len(runs)}, runs, err
}

// Restore makes a data folder from a backup. The folder must not exist, or be empty; it comes
// to be whole or not at all.
func Restore(ctx context.Context, file, dir string) (Kept, error) {
	var kept Kept
	if entries, err := os.ReadDir(dir); err == nil && len(entries) > 0 {
		return kept, fmt.Errorf("the folder %s is not empty; name another one with --data", dir)
	}
	in, err := os.Open(file)
	if err != nil {
		return kept, fmt.Errorf("the backup cannot be read: %w", err)
	}
	defer in.Close()
	if err := os.MkdirAll(filepath.Dir(dir), 0o700); err != nil {
		return kept, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	temp, err := os.MkdirTemp(filepath.Dir(dir), ".restore-*")
	if err != nil {
		return kept, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	defer os.RemoveAll(temp)
	if err := unpack(ctx, in, temp); err != nil {
		return kept, fmt.Errorf("%s cannot be restored: %w", file, err)
	}
	kept, runs, err := holds(ctx, temp)
	if err != nil {
		return kept, fmt.Errorf("%s cannot be restored: %w", file, err)
	}
	for _, id := range runs {
		if err := result.Verify(filepath.Join(temp, "runs", strconv.Itoa(int(id)))); err != nil {
			kept.Damaged = append(kept.Damaged, fmt.Sprintf("run %d: %v", id, err))
		}
	}
	if err := os.Remove(dir); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return kept, err
	}
	if err := os.Rename(temp, dir); err != nil {
		return kept, fmt.Errorf("the data folder cannot be put in its place: %w", err)
	}
	return kept, result.SyncDir(filepath.Dir(dir))
}

// unpack writes the files of a backup into a folder, and nothing outside it.
func unpack(ctx context.Context, in io.Reader, dir string) error {
	plain, err := gzip.NewReader(in)
	if err != nil {
		return fmt.Errorf("it is not a backup: %w", err)
	}
	archive := tar.NewReader(plain)
	made := map[string]bool{}
	for {
		head, err := archive.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("it is damaged or cut short: %w", err)
		}
		if head.Typeflag != tar.TypeReg || !inBackup.MatchString(head.Name) {
			return fmt.Errorf("it is not a backup: it holds %q", head.Name)
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		to := filepath.Join(dir, filepath.FromSlash(head.Name))
		if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
			return err
		}
		made[filepath.Dir(to)] = true
		f, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
		if err != nil {
			return err
		}
		_, err = io.Copy(f, archive)
		if err == nil {
			err = f.Sync()
		}
		if err := errors.Join(err, f.Close()); err != nil {
			return fmt.Errorf("%s: %w", head.Name, err)
		}
	}
	// The sum at the end of what is compressed is checked when it is read to its end.
	if _, err := io.Copy(io.Discard, plain); err != nil {
		return fmt.Errorf("it is damaged or cut short: %w", err)
	}
	if !made[dir] {
		return errors.New("it is not a backup: there is no database in it")
	}
	for name := range made {
		if err := result.SyncDir(name); err != nil {
			return err
		}
	}
	return nil
}
