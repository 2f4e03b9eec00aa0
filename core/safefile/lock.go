package safefile

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"time"

	"github.com/gofrs/flock"

	"gyrolith/core/advice"
)

// lockPoll is how often somebody who waits asks again.
const lockPoll = 100 * time.Millisecond

// Lock keeps other programs of this kind from a file or folder until it is released, also on other machines where the
// file system they share passes locks on. It waits so long for another one to end. A file that is not there is made.
// Where a file system has no locks at all, nothing is kept away and that is no error.
func Lock(ctx context.Context, path string, patience time.Duration) (release func(), err error) {
	ctx, cancel := context.WithTimeout(ctx, max(patience, 0))
	defer cancel()
	for {
		lock, err := lockOf(path)
		if err != nil {
			return nil, cannotWrite(path, err)
		}
		held, err := tryLock(lock)
		switch {
		case held && stillThere(lock, path):
			return func() { lock.Close() }, nil
		case held: // it was replaced by a new one meanwhile
			lock.Close()
			continue
		case err != nil:
			lock.Close()
			if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
				return nil, cannotWrite(path, err)
			}
			return func() {}, nil
		}
		select {
		case <-ctx.Done():
			if cause := context.Cause(ctx); !errors.Is(cause, context.DeadlineExceeded) {
				return nil, cause
			}
			return nil, advice.Errorf(advice.Wait, "%s: is being written by another gyrolith; nothing was done", path)
		case <-time.After(lockPoll):
		}
	}
}

// tryLock is a variable for tests on file systems that have locks.
var tryLock = (*flock.Flock).TryLock

// Lockless says whether the file system of a file has no locks, so that nothing keeps others away from it.
func Lockless(path string) bool {
	lock, err := lockOf(path)
	if err != nil {
		return false
	}
	defer lock.Close()
	_, err = tryLock(lock)
	return err != nil && !errors.Is(err, fs.ErrNotExist) && !errors.Is(err, fs.ErrPermission)
}

// stillThere says whether the file that is locked is that of the name.
func stillThere(lock *flock.Flock, path string) bool {
	held, err := lock.Stat()
	if err != nil {
		return false
	}
	now, err := os.Stat(lock.Path())
	return err == nil && os.SameFile(held, now)
}
