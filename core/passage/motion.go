package passage

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Phase is how one climbs or descends. The zero phase is none of its own.
type Phase struct {
	Speed float64 // through the air, m/s
	Rate  float64 // metres of height in a second
	Burn  Fuel    // an hour
}

// speedOf is the speed of a leg, from 1: where none is asked for, that of the plan. It is 0 where it is not known.
func (s *Step) speedOf(leg int, from *nav.Waypoint) float64 {
	if v, ok := s.LegSpeeds[leg]; ok {
		return v
	}
	if s.Speed > 0 {
		return s.Speed
	}
	for _, f := range from.Fields {
		if f.Key == nav.FieldSpeed {
			if v, err := measure.ParseSpeed(f.Value); err == nil {
				return v
			}
		}
	}
	return 0
}

// legHeight is the height of a leg's middle; not a number where it is not known.
func legHeight(l *Leg) float64 {
	a, b := heightOf(&l.From.Point), heightOf(&l.To.Point)
	if math.IsNaN(a) {
		return b
	}
	if math.IsNaN(b) {
		return a
	}
	return (a + b) / 2
}

// drifts gives what drifts on a leg at a time after the departure: winds and currents of the tables are those of the
// leg's height and of that time.
func (s *Step) drifts(l *Leg, n int, after time.Duration) []Drift {
	out := s.Drifts[:len(s.Drifts):len(s.Drifts)]
	at := int64(0)
	if !s.Depart.IsZero() {
		at = s.Depart.Add(after).UnixNano()
	}
	height := legHeight(l)
	if l.Wind = s.Winds.on(n, height, at); l.Wind != nil {
		out = append(out, *l.Wind)
	}
	if l.Current = s.Currents.on(n, height, at); l.Current != nil {
		out = append(out, *l.Current)
	}
	return out
}

// move fills in heading, speed over the ground and time of a leg, from 1, that begins some time after the departure. It
// gives what speaks against it.
func (s *Step) move(l *Leg, n int, elapsed time.Duration) (why string) {
	l.Speed = s.speedOf(n, l.From)
	var half time.Duration
	for range 4 { // what drifts in the middle of the leg depends on how long it takes
		drifts := s.drifts(l, n, elapsed+half)
		var ok bool
		if l.Heading, l.GroundSpeed, ok = steer(l.Course, l.Speed, drifts); !ok {
			return "the drift is stronger than the speed: the course can't be kept"
		}
		l.Time = time.Duration(l.Distance / l.GroundSpeed * float64(time.Second))
		l.ByPhase = 0
		phase := s.phase(l)
		if phase != nil {
			span := time.Duration(math.Abs(l.Climb) / phase.Rate * float64(time.Second))
			speed := l.Speed
			if phase.Speed > 0 {
				speed = phase.Speed
			}
			_, ground, ok := steer(l.Course, speed, drifts)
			if !ok {
				return "the drift is stronger than the speed in the climb or descent: the course can't be kept"
			}
			way := ground * span.Seconds()
			if way > l.Distance {
				return fmt.Sprintf("the change of height takes %s, but the leg only %s", measure.Duration(span),
					measure.Duration(time.Duration(l.Distance/ground*float64(time.Second))))
			}
			l.ByPhase = span
			l.Time = span + time.Duration((l.Distance-way)/l.GroundSpeed*float64(time.Second))
			if l.Time > 0 {
				l.GroundSpeed = l.Distance / l.Time.Seconds()
			}
		}
		if half == l.Time/2 {
			break
		}
		half = l.Time / 2
	}
	return s.onward(l, n, elapsed)
}

// onward reckons the rest of a leg, after its climb or descent, from one change of the tables to the next: a leg of
// several hours has the wind or the stream of each of them, not that of its middle alone.
func (s *Step) onward(l *Leg, n int, elapsed time.Duration) (why string) {
	changes := append(s.Winds.changes(), s.Currents.changes()...)
	first := s.Depart.Add(elapsed).UnixNano()
	if s.Depart.IsZero() ||
		!slices.ContainsFunc(changes, func(at int64) bool { return at > first && at < first+int64(l.Time) }) {
		return ""
	}
	wind, current := l.Wind, l.Current // those of the middle stay in the table
	defer func() { l.Wind, l.Current = wind, current }()
	rest, taken := l.Distance, l.ByPhase
	if taken > 0 {
		_, ground, _ := steer(l.Course, cmp.Or(s.phase(l).Speed, l.Speed), s.drifts(l, n, elapsed+taken/2))
		rest -= ground * taken.Seconds()
	}
	low, high := 0.0, 0.0 // of the headings, beside that of the middle
	for rest > 0.001 {    // metres
		after := elapsed + taken
		heading, ground, ok := steer(l.Course, l.Speed, s.drifts(l, n, after))
		if !ok {
			return fmt.Sprintf("%s after its start the drift is stronger than the speed: the course can't be kept",
				measure.Duration(taken))
		}
		off := math.Remainder(heading-l.Heading, 360)
		low, high = min(low, off), max(high, off)
		span := time.Duration(rest / ground * float64(time.Second))
		for _, at := range changes {
			if until := time.Duration(at - s.Depart.Add(after).UnixNano()); until > 0 {
				span = min(span, until)
			}
		}
		span = max(span, time.Microsecond)
		rest -= ground * span.Seconds()
		taken += span
	}
	l.Time, l.GroundSpeed = taken, l.Distance/taken.Seconds()
	if high-low >= 1 {
		l.Turns = [2]float64{turn(l.Heading + low), turn(l.Heading + high)}
	}
	return ""
}

// phase is that of a leg's change of height; nil where it has none of its own.
func (s *Step) phase(l *Leg) *Phase {
	switch {
	case l.Climb > 0 && s.Climb.Rate > 0:
		return &s.Climb
	case l.Climb < 0 && s.Descent.Rate > 0:
		return &s.Descent
	}
	return nil
}

// waitAt is how long one waits at a point, by its name or its number from 1.
func (s *Step) waitAt(w *nav.Waypoint, n int) (total time.Duration) {
	for _, x := range s.Waits {
		if x.At == w.Name && w.Name != "" || x.At == fmt.Sprint(n) {
			total += x.Span
		}
	}
	return
}

// Wait is a time that one spends at a point of the route, by its name or its number from 1.
type Wait struct {
	At   string
	Span time.Duration
}
