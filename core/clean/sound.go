package clean

import (
	"context"

	"gyrolith/core/nav"
)

// Plain are the faults that are plainly wrong, whatever is asked of a recording.
var Plain = []Fault{Strays, Order, Repeats, Spikes}

// Sound gives copies of the tracks of data without what is plainly wrong in them: strays, times out of order, repeats
// and spikes. They are as many as there were.
func Sound(ctx context.Context, d *nav.Dataset) ([]nav.Track, error) {
	out := &nav.Dataset{Tracks: d.Clone().Tracks}
	s := Step{Faults: Plain}
	if _, err := s.Clean(ctx, out); err != nil {
		return nil, err
	}
	if len(out.Tracks) != len(d.Tracks) { // of one nothing was left
		return d.Clone().Tracks, nil
	}
	return out.Tracks, nil
}
