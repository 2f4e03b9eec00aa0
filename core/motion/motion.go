// Package motion says how a recording moved: where it stood, where it was silent, how it scatters, and how long its way
// is. What it says is said by every verb alike.
package motion

import (
	"math"
	"slices"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Limits are those that a user may set; zero values are found from the recording.
type Limits struct {
	Within float64       // metres around a halt
	Longer time.Duration // the least that a halt lasts; 0 is LeastHalt
	Gap    time.Duration // a silence that is longer is a gap
}

// The limits of a recording that nobody sets.
const (
	LeastHalt   = 90 * time.Second
	leastWithin = 8.0  // metres
	mostWithin  = 50.0 // metres
	scatters    = 4    // times the scatter is how far a halt reaches
	leastGap    = 5 * time.Minute
	intervals   = 10 // times the interval is a gap
)

// Neighbours are the fixes within so long of another one. With fewer of them than some, nobody can tell scatter from a
// way that turns at every fix.
const (
	neighbours    = 30 * time.Second
	someNeighbors = 8
	sampled       = 4000 // fixes are enough to tell
)

// Motion is what is found of one recording.
type Motion struct {
	Interval time.Duration // the median of the times between two fixes
	Scatter  float64       // metres: the median distance of fixes from the median of their neighbours; 0 is not known
	Noise    float64       // metres: the standard deviation of a coordinate, by second differences; 0 is not known
	Within   float64       // metres around a halt
	Gap      time.Duration // a silence that is longer is a gap
	Halts    []Halt        // in their order
	Untimed  int           // points without a time among those that have one
	Steady   bool          // it goes at one speed throughout, as a line does whose times were worked out

	longer time.Duration
	fixes  []fix
	still  []bool        // which of them stand at exactly one place for as long as a halt
	tails  [][]nav.Point // points without times behind the last fix of a segment, which they begin with, or whole segments
	steps  int           // fixes that are taken together where a way is measured; 1 is each for itself
}

// Halt is a run of fixes at one place.
type Halt struct {
	From, To int // fixes, the last one included
	Place    nav.Point
}

// fix is a point with a time.
type fix struct {
	*nav.Point
	index   int         // of the point, among those of all segments
	between []nav.Point // points without times since the fix before
	joined  bool        // to the fix before, in one segment
}

// Of looks at the segments of a track. The points are not copied.
func Of(segments []nav.Segment, l Limits) *Motion {
	m := &Motion{Within: l.Within, Gap: l.Gap, longer: l.Longer, steps: 1}
	if m.longer == 0 {
		m.longer = LeastHalt
	}
	m.gather(segments)
	m.measure()
	m.halts()
	m.smooth()
	return m
}

// OfPoints looks at the points of one segment.
func OfPoints(points []nav.Point, l Limits) *Motion {
	return Of([]nav.Segment{{Points: points}}, l)
}

func (m *Motion) gather(segments []nav.Segment) {
	n := 0
	for i := range segments {
		n += len(segments[i].Points)
	}
	m.fixes = make([]fix, 0, n)
	before := 0
	for i := range segments {
		points := segments[i].Points
		untimed, joined := 0, false // the first of points without times
		for k := range points {
			if !points[k].HasTime() {
				continue
			}
			m.fixes = append(m.fixes, fix{&points[k], before + k, points[untimed:k], joined})
			untimed, joined = k+1, true
		}
		if untimed < len(points) {
			m.tails = append(m.tails, points[max(untimed-1, 0):])
		}
		before += len(points)
	}
	if len(m.fixes) > 0 {
		m.Untimed = n - len(m.fixes)
	}
}

// seconds is the time from one fix to another.
func (m *Motion) seconds(i, j int) float64 { return m.fixes[j].Since(m.fixes[i].Point).Seconds() }

func (m *Motion) apart(i, j int) float64 {
	a, b := m.fixes[i], m.fixes[j]
	return geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
}

// measure finds what the recording itself says of its limits.
func (m *Motion) measure() {
	m.Interval = m.interval()
	m.settleGap()
	m.Scatter = m.scatter()
	m.Noise = m.noise()
	if m.Within == 0 {
		m.Within = max(leastWithin, min(mostWithin, scatters*m.Scatter))
	}
}

// settleGap finds out which silence is a gap.
func (m *Motion) settleGap() {
	m.Steady = m.steady()
	switch {
	case m.Gap != 0:
	case m.Steady:
		m.Gap = math.MaxInt64
	default:
		m.Gap = max(leastGap, intervals*m.Interval)
	}
}

// GapOf is the silence of a track that is a gap when it is longer.
func GapOf(segments []nav.Segment, l Limits) time.Duration {
	m := &Motion{Gap: l.Gap}
	m.gather(segments)
	m.Interval = m.interval()
	m.settleGap()
	return m.Gap
}

// interval is the median of the times between two fixes.
func (m *Motion) interval() time.Duration {
	var spans []float64
	step := max(1, len(m.fixes)/sampled)
	for i := 1; i < len(m.fixes); i += step {
		if s := m.seconds(i-1, i); s > 0 {
			spans = append(spans, s)
		}
	}
	return time.Duration(median(spans) * float64(time.Second)).Round(time.Microsecond)
}

// around gives the range of fixes that are neighbours of one, itself among them.
func (m *Motion) around(i int) (from, to int) {
	from, to = i, i+1
	for from > 0 && m.near(i, from-1) {
		from--
	}
	for to < len(m.fixes) && m.near(i, to) {
		to++
	}
	return
}

func (m *Motion) near(i, j int) bool {
	const most = 100 // to each side, of recordings at many fixes a second
	return m.fixes[j].Since(m.fixes[i].Point).Abs() <= neighbours && max(i-j, j-i) <= most
}

// scatter is the median distance of fixes from the median of their neighbours.
func (m *Motion) scatter() float64 {
	var off []float64
	few := 0
	for i := 0; i < len(m.fixes); i += max(1, len(m.fixes)/sampled) {
		from, to := m.around(i)
		if to-from-1 < someNeighbors {
			few++
			continue
		}
		plane := geodesy.NewPlane(m.fixes[i].Lat, m.fixes[i].Lon)
		var xs, ys []float64
		for k := from; k < to; k++ {
			if k != i {
				x, y := plane.XY(m.fixes[k].Lat, m.fixes[k].Lon)
				xs, ys = append(xs, x), append(ys, y)
			}
		}
		off = append(off, math.Hypot(median(xs), median(ys)))
	}
	if few > len(off) {
		return 0
	}
	return median(off)
}

// noise is the standard deviation of a coordinate.
func (m *Motion) noise() float64 {
	if m.Scatter == 0 {
		return 0
	}
	var bends []float64
	for i := 1; i+1 < len(m.fixes); i += max(1, len(m.fixes)/sampled) {
		bends = append(bends, Bend(m.fixes[i-1].Point, m.fixes[i].Point, m.fixes[i+1].Point))
	}
	return Jitter(median(bends))
}

// Bend is the length of the second difference of three positions, p₋₁ − 2p + p₊₁, in metres.
func Bend(before, p, after *nav.Point) float64 {
	plane := geodesy.NewPlane(p.Lat, p.Lon)
	x1, y1 := plane.XY(before.Lat, before.Lon)
	x2, y2 := plane.XY(after.Lat, after.Lon)
	return math.Hypot(x1+x2, y1+y2)
}

// Jitter is the standard deviation of a coordinate, in metres, of which the median bend is this: for independent errors
// 1.177·√6 times it (the median of a Rayleigh distribution).
func Jitter(medianBend float64) float64 { return medianBend / 2.884 }

// median sorts values and gives the middle one, or the mean of the two in the middle; 0 of none.
func median(values []float64) float64 {
	n := len(values)
	if n == 0 {
		return 0
	}
	slices.Sort(values)
	return (values[(n-1)/2] + values[n/2]) / 2
}
