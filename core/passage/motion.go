package passage

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

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
		var err error
		l.Time, l.ByPhase, err = s.Pace.Leg(l.Distance, l.Climb, l.Speed, func(speed float64) (float64, error) {
			_, ground, ok := steer(l.Course, speed, drifts)
			if !ok {
				return 0, errors.New("the drift is stronger than the speed in the climb or descent: the course can't be kept")
			}
			return ground, nil
		})
		if err != nil {
			return err.Error()
		}
		if l.Time > 0 && (l.ByPhase > 0 || s.Pace.Walks(l.Speed)) {
			l.GroundSpeed = l.Distance / l.Time.Seconds()
		}
		if half == l.Time/2 {
			break
		}
		half = l.Time / 2
	}
	return s.onward(l, n, elapsed)
}

// sayPace says how the heights of a route count in its times.
func (s *Step) sayPace(t *Table) {
	for i := range t.Legs {
		if l := &t.Legs[i]; l.Time > 0 && l.Climb != 0 && !math.IsNaN(l.Climb) {
			t.Notes = append(t.Notes, Finding{Code: PaceRule, Route: t.Route.Name, Why: "times " + s.Pace.Words(l.Speed)})
			return
		}
	}
}

// onward reckons the rest of a leg, after its climb or descent, from one change of the tables to the next: a leg of
// several hours has the wind or the stream of each of them, not that of its middle alone.
func (s *Step) onward(l *Leg, n int, elapsed time.Duration) (why string) {
	changes := append(s.Winds.changes(), s.Currents.changes()...)
	first := s.Depart.Add(elapsed).UnixNano()
	if s.Depart.IsZero() || s.Pace.Walks(l.Speed) && l.Climb != 0 && !math.IsNaN(l.Climb) ||
		!slices.ContainsFunc(changes, func(at int64) bool { return at > first && at < first+int64(l.Time) }) {
		return ""
	}
	wind, current := l.Wind, l.Current // those of the middle stay in the table
	defer func() { l.Wind, l.Current = wind, current }()
	rest, taken := l.Distance, l.ByPhase
	if taken > 0 {
		_, ground, _ := steer(l.Course, cmp.Or(s.Pace.Phase(l.Climb).Speed, l.Speed), s.drifts(l, n, elapsed+taken/2))
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

// waitAt is how long one waits at a point, by its name or its number from 1: as asked for, or else as the plan says.
func (s *Step) waitAt(w *nav.Waypoint, n int) (total time.Duration) {
	asked := false
	for _, x := range s.Waits {
		if x.At == w.Name && w.Name != "" || x.At == fmt.Sprint(n) {
			total, asked = total+x.Span, true
		}
	}
	if !asked {
		total = nav.StayOf(w.Fields)
	}
	return total
}

// Wait is a time that one spends at a point of the route, by its name or its number from 1.
type Wait struct {
	At   string
	Span time.Duration
}
