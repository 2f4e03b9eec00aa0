package clean

import (
	"math"
	"slices"

	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Stops is the word of this fault.
const Stops Fault = "stops"

var stops = fault{
	word:  Stops,
	help:  "the scatter of a halt, reduced to its arrival and departure",
	found: "scatter recorded while standing still",
	done:  "each halt reduced to arrival and departure, at one place",
	count: "stops",
	round: (*work).stops,
}

// stops reduces each halt to its arrival and departure, at the median of its positions. Of a long one there stay as
// many between them as it takes that their silence is no gap.
func (w *work) stops(si int) {
	seg := &w.track.Segments[si]
	m := motion.OfPoints(seg.Points, w.step.Motion)
	var gone []int
	for _, h := range m.Halts {
		gone = append(gone, w.stop(si, m, h)...)
	}
	w.remove(si, gone)
}

// stop reduces one halt, and gives the points that go.
func (w *work) stop(si int, m *motion.Motion, h motion.Halt) (gone []int) {
	points := w.track.Segments[si].Points
	from, to := m.Index(h.From), m.Index(h.To)
	last, far, moved := h.From, 0.0, false
	var stay []int
	for f := h.From; f <= h.To; f++ {
		k := m.Index(f)
		off := apart(&points[k], &h.Place)
		far = math.Max(far, off)
		if f == h.From || f == h.To || m.Fix(f+1).Since(m.Fix(last)) > m.Gap {
			stay, last = append(stay, k), f
			moved = moved || off > 0
			continue
		}
		w.step.list(&w.result, Removed{Stops, nav.Tracks, w.track.Name, int(w.numbers[si][k]), points[k], off, ""})
		gone = append(gone, k)
	}
	if len(gone) == 0 && !moved {
		return nil
	}
	w.changes++
	w.row(Stops, 1, far)
	w.took[Stops] += len(gone)
	if r := w.rows[Stops]; r.Number == 0 {
		r.Number = int(w.numbers[si][from])
	}
	height, has := medianHeight(points[from : to+1])
	for _, k := range stay {
		p := &points[k]
		p.Lat, p.Lon = h.Place.Lat, h.Place.Lon
		p.LatPrecision, p.LonPrecision = h.Place.LatPrecision, h.Place.LonPrecision
		if has {
			p.SetHeight(height, p.HeightPrecision(), p.VerticalDatum())
		}
	}
	return gone
}

func medianHeight(points []nav.Point) (float64, bool) {
	var h []float64
	for i := range points {
		if points[i].HasHeight() {
			h = append(h, points[i].Height())
		}
	}
	if len(h) == 0 {
		return 0, false
	}
	slices.Sort(h)
	return h[len(h)/2], true
}
