package clean

import (
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// work is a track while it is being cleaned.
type work struct {
	step     *Step
	track    *nav.Track
	numbers  [][]int32 // of each segment's points, as the source counts them
	limits   limits
	changes  int
	measured int // how many changes there were when the limits were found
	result   Result
	rows     map[Fault]*Row
	points   int           // of the track before
	took     map[Fault]int // points
}

func newWork(s *Step, t *nav.Track) *work {
	w := &work{step: s, track: t, rows: map[Fault]*Row{}, points: t.Len(), took: map[Fault]int{}}
	n := int32(0)
	for i := range t.Segments {
		numbers := make([]int32, len(t.Segments[i].Points))
		for j := range numbers {
			n++
			numbers[j] = n
		}
		w.numbers = append(w.numbers, numbers)
	}
	return w
}

func (w *work) each(do func(*work, int)) {
	for i := range w.track.Segments {
		do(w, i)
	}
}

// note counts one point under a fault.
func (w *work) note(f Fault, p *nav.Point, number int32, off float64) {
	w.count(f, number, off)
	w.step.list(&w.result, Removed{Fault: f, Kind: nav.Tracks, Item: w.track.Name, Number: int(number), Point: *p,
		Off: off})
}

// count counts a change with which nothing was wrong, so that it is not among the rejects.
func (w *work) count(f Fault, number int32, off float64) {
	w.changes++
	r := w.rows[f]
	if r == nil {
		r = &Row{Fault: f, Kind: nav.Tracks, Item: w.track.Name, Number: int(number)}
		w.rows[f] = r
	}
	r.Count++
	w.took[f]++
	r.Off = math.Max(r.Off, off)
}

// remove takes points out of a segment; the indices ascend.
func (w *work) remove(seg int, gone []int) {
	if len(gone) == 0 {
		return
	}
	points, numbers := w.track.Segments[seg].Points, w.numbers[seg]
	to, next := gone[0], 0
	for i := gone[0]; i < len(points); i++ {
		if next < len(gone) && gone[next] == i {
			next++
			continue
		}
		points[to], numbers[to] = points[i], numbers[i]
		to++
	}
	w.track.Segments[seg].Points, w.numbers[seg] = points[:to], numbers[:to]
}

func (w *work) finish() *Result {
	for _, r := range w.rows {
		w.result.add(*r)
	}
	slices.SortFunc(w.result.Rows, func(a, b Row) int {
		return slices.Index(ranks, a.Fault) - slices.Index(ranks,
			b.Fault)
	})
	for _, f := range []Fault{Repeats, Order, Spikes, Heights, Stops} { // those that judge; others are plain, or asked for
		const tenth = 10
		if n := w.took[f]; n*tenth > w.points && n > 1 {
			w.result.Much = append(w.result.Much, Much{f, w.track.Name, n, w.points})
		}
	}
	return &w.result
}

func apart(p, q *nav.Point) float64 { return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) }

// seconds is the time from one point to another, 0 where one has none.
func seconds(p, q *nav.Point) float64 {
	if !p.HasTime() || !q.HasTime() {
		return 0
	}
	return float64(q.Since(p)) / 1e9
}

// limits are thresholds of a recording.
type limits struct {
	speed      float64 // m/s that the carrier moves at, at the most
	usual      float64 // m/s that it goes at: nine legs of ten are slower
	margin     float64 // metres that a position may be off without being a fault
	climb      float64 // m/s up or down, at the most
	usualClimb float64 // m/s: nine legs of ten climb less
	slope      float64 // metres of height a metre, the same for lines without times
	heightOver float64
	interval   float64 // seconds, the usual one between points
	jitter     float64 // metres, what positions jump about from one to the next
	accel      float64
	legs       float64 // metres, the usual length of a leg
}

// How the limits come from the recording: nine legs of ten are slower than the speed that counts, and the rest may be
// half as fast again. Eight times the jitter is exceeded by no leg of a million.
const (
	typicalShare   = 0.9
	speedAllowance = 1.5
	leastSpeed     = 1.5
	jitterTimes    = 8
	sampled        = 20000 // legs that are enough to tell
)

// measure finds the limits, unless nothing has changed since.
func (w *work) measure() {
	if w.measured != w.changes || w.limits == (limits{}) {
		w.limits, w.measured = w.findLimits(), w.changes
	}
}

func (w *work) findLimits() limits {
	s := w.step
	l := limits{speed: s.TopSpeed, margin: s.SpikeOver, climb: s.ClimbRate, heightOver: s.HeightOver, accel: 1}
	c, known := carriers[s.Carrier]
	var speeds, bends, intervals, legs, heights, climbs, slopes []float64
	total := w.track.Len()
	step := max(1, total/sampled)
	for si := range w.track.Segments {
		points := w.track.Segments[si].Points
		for i := 1; i < len(points); i += step {
			p, q := &points[i-1], &points[i]
			d := apart(p, q)
			legs = append(legs, d)
			if dt := seconds(p, q); dt > 0 {
				speeds = append(speeds, d/dt)
				intervals = append(intervals, dt)
			}
			if p.HasHeight() && q.HasHeight() {
				rise := math.Abs(q.Height() - p.Height())
				if dt := seconds(p, q); dt > 0 {
					climbs = append(climbs, rise/dt)
				}
				if d > 0 {
					slopes = append(slopes, rise/d)
				}
			}
			if i+1 < len(points) {
				r := &points[i+1]
				bends = append(bends, motion.Bend(p, q, r))
				if p.HasHeight() && q.HasHeight() && r.HasHeight() {
					heights = append(heights, math.Abs(p.Height()-2*q.Height()+r.Height()))
				}
			}
		}
	}
	l.interval, l.jitter, l.legs = quantile(intervals, 0.5), motion.Jitter(quantile(bends, 0.5)), quantile(legs, 0.5)
	l.usual = quantile(speeds, typicalShare)
	if known {
		l.accel = c.acceleration
	}
	if l.speed == 0 {
		l.speed = math.Max(leastSpeed, speedAllowance*l.usual)
		if known {
			l.speed = c.topSpeed
		}
	}
	l.usual = math.Min(l.usual, l.speed)
	if l.margin == 0 {
		least := DefaultSpikeOver
		if known {
			least = c.spikeOver
		}
		l.margin = math.Max(least, jitterTimes*l.jitter)
	}
	if l.climb == 0 {
		l.climb = DefaultClimbRate
		if known {
			l.climb = c.climb
		}
	}
	l.usualClimb, l.slope = math.Min(quantile(climbs, typicalShare), l.climb), math.Min(quantile(slopes, typicalShare), 1)
	if l.heightOver == 0 {
		l.heightOver = math.Max(DefaultHeightOver, jitterTimes*quantile(heights, 0.5)/1.65)
	}
	return l
}

// quantile gives the value below which a share of the values lie; 0 for none.
func quantile(values []float64, share float64) float64 {
	if len(values) == 0 {
		return 0
	}
	slices.Sort(values)
	return values[min(int(share*float64(len(values))), len(values)-1)]
}
