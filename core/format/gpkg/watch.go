package gpkg

import (
	"context"
	"fmt"
	"os"
	"time"

	"gyrolith/core/advice"
)

// A layer may be a view, which a database works out as it likes. It is ended where it gives no row for so long, or more
// data than any file of that size has.
const (
	mostGrowth   = 8        // times the size of the file
	leastAllowed = 64 << 20 // bytes
	mostValue    = 256 << 20
	limitLength  = 0 // SQLITE_LIMIT_LENGTH
)

var longestSilence = 30 * time.Second // a variable for the tests

// watch ends the reading of a database that does not end by itself.
type watch struct {
	cancel context.CancelCauseFunc
	timer  *time.Timer
	left   int64 // bytes
}

func newWatch(cancel context.CancelCauseFunc, what string, allowed int64, path string) *watch {
	w := &watch{cancel: cancel, left: max(allowed, leastAllowed)}
	if info, err := os.Stat(path); err == nil {
		w.left = max(w.left, mostGrowth*info.Size())
	}
	w.timer = time.AfterFunc(longestSilence, func() {
		cancel(fmt.Errorf("%s: it was stopped after %v without a row", what, longestSilence))
	})
	return w
}

func (w *watch) stop() { w.timer.Stop() }

// row notes that a row has come.
func (w *watch) row(cells []any) {
	w.timer.Reset(longestSilence)
	for _, c := range cells {
		w.left -= 16
		switch v := c.(type) {
		case []byte:
			w.left -= int64(len(v))
		case string:
			w.left -= int64(len(v))
		}
	}
	if w.left < 0 {
		w.cancel(advice.Errorf(advice.AllowUnpacked, "its layers give more data than the limit"))
	}
}
