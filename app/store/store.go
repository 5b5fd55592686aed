// Package store keeps models, revisions, runs and jobs in SQLite, and knows
// where the files of results lie.
//
// Every edit of a model is a revision; undo moves a pointer and loses nothing. A
// run refers to the revision that it ran. The database never refers to a result
// that is not complete: a run gets its outcome after its folder has its name.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	// ErrNothing is returned by Undo and Redo when there is nothing to undo or
	// redo.
	ErrNothing = errors.New("nothing to undo or redo")
)

// Store is the data folder.
type Store struct {
	db       *gorm.DB
	dir      string
	now      func() time.Time
	lock     *os.File
	surfaces surfaceCache
}

// Open opens or creates the data folder, for its owner alone, and brings its database up to
// date. It fails with ErrInUse, and changes nothing, if another process works in the folder.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "runs"), 0o700); err != nil {
		return nil, explained(dir, err)
	}
	held, err := lock(dir)
	if err != nil {
		return nil, err
	}
	s, err := openDatabase(dir)
	if err != nil {
		held.Close()
		return nil, err
	}
	s.lock = held
	return s, nil
}

func openDatabase(dir string) (*Store, error) {
	// Others may not look into a folder that was made before, either.
	if err := os.Chmod(dir, 0o700); err != nil {
		return nil, explained(dir, err)
	}
	db, err := openFile(dir, "rwc")
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, dir: dir, now: time.Now}
	if err := s.migrate(); err != nil {
		disconnect(db)
		return nil, explained(dir, err)
	}
	return s, nil
}

// connect opens the database of a folder that has one.
func connect(dir string) (*gorm.DB, error) {
	if _, err := os.Stat(filepath.Join(dir, databaseFile)); err != nil {
		return nil, fmt.Errorf("there is no data folder at %s: %w", dir, err)
	}
	return openFile(dir, "rw")
}

// openFile opens the database of a folder in a mode of SQLite.
func openFile(dir, mode string) (*gorm.DB, error) {
	// In the address of a database file #, ? and % mean something of their own.
	address := (&url.URL{Path: filepath.Join(dir, databaseFile)}).EscapedPath()
	dsn := "file:" + address + "?mode=" + mode + "&_journal_mode=WAL&_synchronous=FULL&_foreign_keys=on&_busy_timeout=30000&_txlock=immediate"
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{Logger: logger.Default.LogMode(logger.Silent), TranslateError: true})
	if err != nil {
		return nil, explained(dir, err)
	}
	return db, nil
}

// disconnect closes a database that nothing is written to any more.
func disconnect(db *gorm.DB) {
	if pool, err := db.DB(); err == nil {
		pool.Close()
	}
}

// Close closes the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err == nil {
		err = db.Close()
	}
	return errors.Join(err, s.lock.Close())
}

// Ping asks whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	var one int
	return db.QueryRowContext(ctx, "SELECT 1").Scan(&one)
}

// ViewsDir is the folder of view factors that runs share.
func (s *Store) ViewsDir() string { return filepath.Join(s.dir, "views") }

// NearDir is the folder of the fields with which trials of a series begin.
func (s *Store) NearDir() string { return filepath.Join(s.dir, "near") }

// RunDir is the folder of a complete run; RunTemp the one that it is written in.
func (s *Store) RunDir(run uint) string {
	return filepath.Join(s.dir, "runs", strconv.Itoa(int(run)))
}

// RunTemp is the folder in which a run is written before it is complete.
func (s *Store) RunTemp(run uint) string { return s.RunDir(run) + ".part" }

// migrations are the versions of the schema, each made from the one before. They
// are never changed once they have been shipped.
var migrations = []string{
	`CREATE TABLE models (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		name TEXT NOT NULL,
		head INTEGER NOT NULL,
		created_at DATETIME NOT NULL,
		updated_at DATETIME NOT NULL,
		removed_at DATETIME
	);
	CREATE TABLE revisions (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		model_id INTEGER NOT NULL REFERENCES models(id) ON DELETE CASCADE,
		number INTEGER NOT NULL,
		parent INTEGER NOT NULL,
		document TEXT NOT NULL,
		created_at DATETIME NOT NULL,
		UNIQUE (model_id, number)
	);
	CREATE TABLE runs (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		model_id INTEGER NOT NULL REFERENCES models(id) ON DELETE CASCADE,
		number INTEGER NOT NULL,
		revision INTEGER NOT NULL,
		status TEXT NOT NULL,
		message TEXT NOT NULL DEFAULT '',
		created_at DATETIME NOT NULL,
		seconds REAL NOT NULL DEFAULT 0,
		nodes INTEGER NOT NULL DEFAULT 0,
		cells INTEGER NOT NULL DEFAULT 0,
		closure REAL NOT NULL DEFAULT 0,
		has_result BOOLEAN NOT NULL DEFAULT FALSE,
		UNIQUE (model_id, number)
	);
	CREATE TABLE readings (
		run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE,
		place INTEGER NOT NULL,
		key TEXT NOT NULL,
		name TEXT NOT NULL,
		value REAL NOT NULL,
		unit TEXT NOT NULL,
		difference BOOLEAN NOT NULL,
		PRIMARY KEY (run_id, key)
	);
	CREATE TABLE jobs (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		kind TEXT NOT NULL,
		run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE,
		state TEXT NOT NULL,
		queued_at DATETIME NOT NULL,
		started_at DATETIME,
		ended_at DATETIME
	);
	CREATE INDEX jobs_by_state ON jobs(state, id);
	CREATE INDEX runs_by_model ON runs(model_id, number);`,
	`ALTER TABLE readings ADD COLUMN error REAL;`,
	`ALTER TABLE runs ADD COLUMN mesh_error BOOLEAN NOT NULL DEFAULT FALSE;`,
	`CREATE TABLE series (
		id INTEGER PRIMARY KEY AUTOINCREMENT,
		model_id INTEGER NOT NULL REFERENCES models(id) ON DELETE CASCADE,
		set_id TEXT NOT NULL,
		number INTEGER NOT NULL,
		revision INTEGER NOT NULL,
		status TEXT NOT NULL,
		message TEXT NOT NULL DEFAULT '',
		count INTEGER NOT NULL,
		created_at DATETIME NOT NULL,
		seconds REAL NOT NULL DEFAULT 0,
		UNIQUE (model_id, number)
	);
	CREATE TABLE trials (
		series_id INTEGER NOT NULL REFERENCES series(id) ON DELETE CASCADE,
		place INTEGER NOT NULL,
		status TEXT NOT NULL,
		message TEXT NOT NULL DEFAULT '',
		seconds REAL NOT NULL DEFAULT 0,
		unknowns INTEGER NOT NULL DEFAULT 0,
		kept BOOLEAN,
		readings TEXT NOT NULL,
		PRIMARY KEY (series_id, place)
	);
	CREATE INDEX series_by_status ON series(status, id);`,
	`ALTER TABLE readings ADD COLUMN missing TEXT NOT NULL DEFAULT '';
	ALTER TABLE readings ADD COLUMN trust TEXT NOT NULL DEFAULT '';`,
	`ALTER TABLE runs ADD COLUMN token TEXT NOT NULL DEFAULT '';`,
	`ALTER TABLE revisions ADD COLUMN window TEXT NOT NULL DEFAULT '';
	CREATE TABLE surfaces (
		content TEXT PRIMARY KEY,
		data BLOB NOT NULL
	);
	CREATE TABLE revision_surfaces (
		revision_id INTEGER NOT NULL REFERENCES revisions(id) ON DELETE CASCADE,
		content TEXT NOT NULL REFERENCES surfaces(content),
		PRIMARY KEY (revision_id, content)
	);
	CREATE INDEX revision_surfaces_by_content ON revision_surfaces(content);`,
	`CREATE TABLE settings (
		name TEXT PRIMARY KEY,
		value INTEGER NOT NULL
	);
	ALTER TABLE models ADD COLUMN last_run INTEGER NOT NULL DEFAULT 0;`,
	`ALTER TABLE runs ADD COLUMN anyway BOOLEAN NOT NULL DEFAULT FALSE;`,
	`ALTER TABLE runs ADD COLUMN reached REAL NOT NULL DEFAULT 0;
	ALTER TABLE runs ADD COLUMN goes_on INTEGER NOT NULL DEFAULT 0;`,
	`ALTER TABLE runs ADD COLUMN note TEXT NOT NULL DEFAULT '';
	ALTER TABLE runs ADD COLUMN kept BOOLEAN NOT NULL DEFAULT FALSE;`,
	`ALTER TABLE jobs ADD COLUMN place INTEGER NOT NULL DEFAULT 0;`,
	`ALTER TABLE series ADD COLUMN wanted TEXT NOT NULL DEFAULT '';
	ALTER TABLE series ADD COLUMN added TEXT NOT NULL DEFAULT '';
	ALTER TABLE series ADD COLUMN searching BOOLEAN NOT NULL DEFAULT FALSE;
	ALTER TABLE series ADD COLUMN touched INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE series ADD COLUMN marks TEXT NOT NULL DEFAULT '';
	ALTER TABLE trials ADD COLUMN by_hand TEXT NOT NULL DEFAULT '';
	ALTER TABLE runs ADD COLUMN series_id INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE runs ADD COLUMN trial INTEGER NOT NULL DEFAULT 0;
	ALTER TABLE runs ADD COLUMN parameters TEXT NOT NULL DEFAULT '';
	CREATE INDEX runs_by_series ON runs(series_id, trial);`,
	`ALTER TABLE trials ADD COLUMN slopes TEXT NOT NULL DEFAULT '';`,
}

// migrate applies the migrations that a database lacks, each in a transaction
// together with its version number.
func (s *Store) migrate() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	if _, err := db.Exec(`CREATE TABLE IF NOT EXISTS schema_versions (version INTEGER PRIMARY KEY, applied_at DATETIME NOT NULL)`); err != nil {
		return fmt.Errorf("the database cannot be prepared: %w", err)
	}
	var have int
	if err := db.QueryRow(`SELECT COALESCE(MAX(version), 0) FROM schema_versions`).Scan(&have); err != nil {
		return err
	}
	if have > len(migrations) {
		return fmt.Errorf("the data folder was written by a newer version of the program (schema %d, this one knows %d)", have, len(migrations))
	}
	for v := have; v < len(migrations); v++ {
		if err := inTx(db, func(tx *sql.Tx) error {
			if _, err := tx.Exec(migrations[v]); err != nil {
				return err
			}
			_, err := tx.Exec(`INSERT INTO schema_versions (version, applied_at) VALUES (?, ?)`, v+1, s.now())
			return err
		}); err != nil {
			return fmt.Errorf("the database cannot be brought to schema %d: %w", v+1, err)
		}
	}
	return nil
}

func inTx(db *sql.DB, f func(*sql.Tx) error) error {
	tx, err := db.Begin()
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

// transaction runs f in a write transaction.
func (s *Store) transaction(ctx context.Context, f func(tx *gorm.DB) error) error {
	err := s.db.WithContext(ctx).Transaction(f)
	if IsFull(err) {
		return &FullError{err}
	}
	return err
}

// found turns the absence of a row into ErrNotFound.
func found(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}
