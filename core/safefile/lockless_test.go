package safefile

import (
	"errors"
	"path/filepath"
	"testing"

	"github.com/gofrs/flock"
)

// A file system without locks keeps nobody away, which one can ask for; one with locks is none.
func TestLockless(t *testing.T) {
	path := filepath.Join(t.TempDir(), "journal.jsonl")
	if release, err := Lock(t.Context(), path, 0); err != nil || Lockless(path) {
		t.Errorf("locks are not found: %v", err)
	} else {
		release()
	}
	was := tryLock
	defer func() { tryLock = was }()
	tryLock = func(*flock.Flock) (bool, error) { return false, errors.New("no locks available") }
	release, err := Lock(t.Context(), path, 0)
	if err != nil || !Lockless(path) {
		t.Errorf("%v", err)
	}
	release()
}
