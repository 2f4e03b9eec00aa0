package safefile

import (
	"context"
	"sync/atomic"
)

// stopped says that the process was asked to end, and carrying how much is carried through all the same.
var (
	stopped  atomic.Bool
	carrying atomic.Int32
)

// Stop keeps files from getting their names from now on, but for what is being carried through.
func Stop() { stopped.Store(true) }

// Carry begins what is carried through though the process was asked to end, such as a card of which some files have
// their new names. It has to be ended.
func Carry() (end func()) {
	carrying.Add(1)
	return func() { carrying.Add(-1) }
}

// Carrying says whether something is being carried through.
func Carrying() bool { return carrying.Load() > 0 }

// mayPlace refuses new names once the process was asked to end.
func mayPlace() error {
	if stopped.Load() && !Carrying() {
		return context.Canceled
	}
	return nil
}
