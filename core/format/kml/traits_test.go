package kml

import (
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// What all points of a part have is that of the part that is asked about, whatever was asked about before.
func TestTraits(t *testing.T) {
	parts := make([][]nav.Point, 5) // none; with nothing, some times and heights, all of both, all but the last
	for k, n := range []int{0, 3, 3, 3, 3} {
		for i := range n {
			p := nav.At(-47.6, 11.3)
			if k == 3 || k == 2 && i == 1 || k == 4 && i < 2 {
				p.SetTime(int64(i), instant.Seconds)
				p.SetHeight(1, 0, nav.DatumUnstated)
			}
			parts[k] = append(parts[k], p)
		}
	}
	want := []traits{{}, {}, {someTimes: true, someHeights: true}, {true, true, true, true},
		{someTimes: true, someHeights: true}}
	w := &writer{}
	for round := range 20 {
		k := (round * 3) % len(parts)
		if got := w.traitsOf(parts[k]); got != want[k] || got.mixed() != (k == 2 || k == 4) {
			t.Errorf("part %d: %+v", k, got)
		}
		if got := w.traitsOf(parts[4][:2]); got != want[3] {
			t.Errorf("the first two of the last: %+v", got)
		}
	}
}
