package clean

import (
	"math"
	"slices"

	"gyrolith/core/motion"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Spikes is the word of this fault.
const Spikes Fault = "spikes"

var spikes = fault{
	word:     Spikes,
	help:     "points jumping to the side and back, faster than possible",
	found:    "sudden jumps to the side and back",
	done:     "removed",
	count:    "spikes",
	usual:    true,
	measured: true,
	round:    (*work).spikes,
}

// reach is how far the carrier can have come from one point to another. It may have gone at its top speed for the
// longest of the intervals between, and for the others as fast as it usually goes: otherwise leaving out sound
// points would make an excursion look like movement.
func (l *limits) reach(points []nav.Point, i, j int) float64 {
	longest := 0.0
	for k := i + 1; k <= j; k++ {
		longest = max(longest, seconds(&points[k-1], &points[k]))
	}
	return l.speed*longest + l.usual*max(seconds(&points[i], &points[j])-longest, 0) + l.margin
}

// spikes takes out points that are off to the side and back, faster than the carrier can move. What can be told from
// movement is what is farther off than the top speed times the interval, and the margin beyond it.
func (w *work) spikes(si int) {
	points := w.track.Segments[si].Points
	if len(points) < 3 {
		return
	}
	timed := 0
	for i := range points {
		if points[i].HasTime() {
			timed++
		}
	}
	var gone []int
	if timed == len(points) {
		gone = shape.Outliers(len(points), longestBurst, func(i, j int) bool {
			return apart(&points[i], &points[j]) <= w.limits.reach(points, i, j)
		})
	} else {
		gone = needles(points)
	}
	if len(gone) == 0 || timed == len(points) && motion.Steady(points) { // nothing jumps on a line of one speed
		return
	}
	bad, away := make([]bool, len(points)), []int(nil)
	for _, i := range gone {
		bad[i] = true
	}
	for _, i := range gone {
		a, b := i-1, i+1
		for bad[a] {
			a--
		}
		for bad[b] {
			b++
		}
		off := shape.DistanceToLeg(&points[i], &points[a], &points[b])
		if timed == len(points) && off <= w.limits.margin { // its time is wrong, if anything is, and not its place
			continue
		}
		w.note(Spikes, &points[i], w.numbers[si][i], off)
		away = append(away, i)
	}
	w.remove(si, away)
}

// How a needle stands out in a line without times: by many times the length of nine legs of ten, and by coming back
// to nearly where it began.
const (
	needleTimes  = 10
	needleReturn = 0.2
)

func needles(points []nav.Point) []int {
	legs := make([]float64, len(points)-1)
	for i := range legs {
		legs[i] = apart(&points[i], &points[i+1])
	}
	limit := needleTimes * quantile(slices.Clone(legs), typicalShare)
	if len(points) < 10 || limit == 0 {
		return nil
	}
	var gone []int
	for i := 1; i < len(points)-1; i++ {
		if out, back := legs[i-1], legs[i]; out > limit && back > limit &&
			apart(&points[i-1], &points[i+1]) < needleReturn*math.Min(out, back) {
			gone = append(gone, i)
			i++
		}
	}
	return gone
}

// longestStep is how many heights in a row may be off together.
const longestStep = 60
