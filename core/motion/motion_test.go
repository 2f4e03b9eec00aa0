package motion

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// maker makes recordings of which it knows the truth: metres walked, and how long was stood.
type maker struct {
	r        *rand.Rand
	plane    geodesy.Plane
	x, y     float64
	at       time.Time
	every    time.Duration
	noise    float64
	points   []nav.Point
	walked   float64
	standing time.Duration
}

func newMaker(seed uint64, every time.Duration, noise float64) *maker {
	return &maker{r: rand.New(rand.NewPCG(seed, 11)), plane: geodesy.NewPlane(-47.6, 11.3), every: every, noise: noise,
		at: time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)}
}

func (m *maker) fix() {
	lat, lon := m.plane.LatLon(m.x+m.noise*m.r.NormFloat64(), m.y+m.noise*m.r.NormFloat64())
	p := nav.At(lat, lon)
	p.SetTime(m.at.UnixNano(), instant.Seconds)
	m.points = append(m.points, p)
	m.at = m.at.Add(m.every)
}

func (m *maker) walk(east, north, speed float64) {
	length := math.Hypot(east, north)
	n := int(length / speed / m.every.Seconds())
	for range n {
		m.x, m.y = m.x+east/float64(n), m.y+north/float64(n)
		m.fix()
	}
	m.walked += length
}

func (m *maker) stand(span time.Duration) {
	for range int(span / m.every) {
		m.fix()
	}
	m.standing += span
}

func (m *maker) silent(span time.Duration) { m.at = m.at.Add(span) }

func sums(m *Motion) (moving, standing, gaps time.Duration, length float64) {
	m.Legs(func(l *Leg) {
		length += l.Way
		switch l.State {
		case Moving:
			moving += l.Span()
		case Standing:
			standing += l.Span()
		case Gap:
			gaps += l.Span()
		}
	})
	return
}

// A walk with two halts is as long as it was, whatever the scatter of the receiver; and its halts are as long as they
// were.
func TestLengthWithoutScatter(t *testing.T) {
	for _, every := range []time.Duration{time.Second, 2 * time.Second, 5 * time.Second, 7 * time.Second} {
		for _, noise := range []float64{0, 0.5, 3, 5} {
			t.Run(fmt.Sprintf("every %v, %v m", every, noise), func(t *testing.T) {
				for seed := range uint64(4) {
					w := newMaker(seed, every, noise)
					w.walk(1080, 0, 1.35)
					w.stand(10 * time.Minute)
					w.walk(0, 1080, 1.35)
					w.stand(10 * time.Minute)
					w.walk(1080, 0, 1.35)
					m := OfPoints(w.points, Limits{})
					moving, standing, gaps, length := sums(m)
					elapsed := w.points[len(w.points)-1].Time().Sub(w.points[0].Time())
					if moving+standing+gaps != elapsed || gaps != 0 {
						t.Errorf("%v moving, %v standing and %v of gaps are not %v", moving, standing, gaps, elapsed)
					}
					if math.Abs(length-w.walked) > 0.05*w.walked {
						t.Errorf("%.0f m, walked %.0f m", length, w.walked)
					}
					if (standing-w.standing).Abs() > 90*time.Second || len(m.Halts) != 2 {
						t.Errorf("%v standing in %d halts, stood %v in 2 (within %.1f m)", standing, len(m.Halts), w.standing, m.Within)
					}
				}
			})
		}
	}
}

// What moves has no halt: lines to and fro, patterns with their fixes at the turns, slow ways, thinned switchbacks.
func TestMovesAllTheTime(t *testing.T) {
	shapes := map[string]*maker{}
	far := newMaker(1, 25*time.Minute, 0) // a line of 6 km to and fro, fixes at its ends
	for i := range 8 {
		far.y = float64(i%2) * 6000
		far.fix()
	}
	shapes["to and fro"] = far
	for _, speed := range []float64{1, 2.5, 5} {
		square := newMaker(1, 0, 0)
		leg, side := 30.0, 0.0
		for i := range 30 {
			side = leg * float64(i/2+1)
			dx, dy := []float64{0, 1, 0, -1}[i%4], []float64{1, 0, -1, 0}[i%4]
			square.fix()
			square.x, square.y = square.x+dx*side, square.y+dy*side
			square.silent(time.Duration(side / speed * float64(time.Second)).Round(time.Second))
		}
		shapes[fmt.Sprint("expanding square at ", speed)] = square
		lines := newMaker(1, 0, 0)
		for i := range 20 {
			for _, y := range []float64{float64(i % 2), float64((i + 1) % 2)} {
				next := [2]float64{float64(i) * 20, y * 60}
				lines.silent(time.Duration(math.Hypot(next[0]-lines.x, next[1]-lines.y) / speed * 1e9).Round(time.Second))
				lines.x, lines.y = next[0], next[1]
				lines.fix()
			}
		}
		shapes[fmt.Sprint("survey lines at ", speed)] = lines
	}
	drift := newMaker(1, time.Second, 0.3)
	drift.walk(120, 0, 0.2)
	shapes["drifting"] = drift
	back := newMaker(1, 0, 0)
	for i := range 60 { // a switchback of which the turns were kept
		back.x, back.y = float64(i%2)*25, float64(i)*6
		back.fix()
		back.silent(22 * time.Second)
	}
	shapes["switchback"] = back
	for name, w := range shapes {
		m := OfPoints(w.points, Limits{})
		if moving, standing, gaps, _ := sums(m); standing > 0 || gaps > 0 {
			t.Errorf("%s: %v moving, %v standing, %v of gaps", name, moving, standing, gaps)
		}
	}
}

// A silence over the limit is a gap, wherever it is, and one below it is none; ten intervals are the limit where that
// is longer than five minutes.
func TestGaps(t *testing.T) {
	w := newMaker(3, 5*time.Second, 1)
	w.walk(400, 0, 1.3)
	w.stand(3 * time.Minute)
	w.silent(time.Hour) // the receiver was off where it stood
	w.stand(3 * time.Minute)
	w.walk(400, 0, 1.3)
	m := OfPoints(w.points, Limits{})
	_, standing, gaps, _ := sums(m)
	if (gaps-time.Hour).Abs() > 10*time.Second || (standing-6*time.Minute).Abs() > time.Minute || m.Gap != 5*time.Minute {
		t.Errorf("%v of gaps over %v, %v standing", gaps, m.Gap, standing)
	}
	slow := newMaker(3, 2*time.Minute, 0)
	for range 30 {
		slow.x += 200
		slow.fix()
	}
	slow.silent(10 * time.Minute)
	slow.fix()
	if m := OfPoints(slow.points, Limits{}); m.Gap != 20*time.Minute {
		t.Errorf("a gap is over %v", m.Gap)
	} else if _, _, gaps, _ := sums(m); gaps != 0 {
		t.Errorf("%v of gaps", gaps)
	}
	if _, _, gaps, _ := sums(OfPoints(slow.points, Limits{Gap: 5 * time.Minute})); gaps != 12*time.Minute {
		t.Errorf("over five minutes, as asked for: %v of gaps", gaps)
	}
	// Two segments: what lies between them was not recorded, whether or not it is long.
	parts := []nav.Segment{{Points: w.points[:40]}, {Points: w.points[43:80]}}
	if _, _, gaps, _ := sums(Of(parts, Limits{})); gaps != 20*time.Second {
		t.Errorf("between parts segments: %v", gaps)
	}
}

// A boat at anchor swings wider than any default: the distance that is asked for holds.
func TestAnchor(t *testing.T) {
	w := newMaker(5, 10*time.Second, 1)
	w.walk(2000, 0, 3)
	x, y := w.x, w.y
	for i := range 360 {
		angle := 1.2 * math.Sin(float64(i)/25)
		w.x, w.y = x+45*math.Cos(angle)-45, y+45*math.Sin(angle)
		w.fix()
	}
	w.walk(2000, 0, 3)
	if _, standing, _, _ := sums(OfPoints(w.points, Limits{Within: 60})); (standing - time.Hour).Abs() > 3*time.Minute {
		t.Errorf("%v at anchor", standing)
	}
}

// Where a part has no times no speed is made across it.
func TestUntimed(t *testing.T) {
	w := newMaker(1, 5*time.Second, 0)
	w.walk(10500, 0, 8.4/3.6)
	n := len(w.points)
	for i := n / 3; i < 2*n/3; i++ {
		w.points[i].ClearTime()
	}
	m := OfPoints(w.points, Limits{})
	moved, moving := 0.0, time.Duration(0)
	m.Legs(func(l *Leg) {
		if l.State == Moving {
			moved, moving = moved+l.Way, moving+l.Span()
		}
	})
	if speed := 3.6 * moved / moving.Seconds(); math.Abs(speed-8.4) > 0.05 || m.Untimed != 2*n/3-n/3 {
		t.Errorf("%.2f km/h, %d without a time", speed, m.Untimed)
	}
	if math.Abs(m.Length()-10500) > 20 {
		t.Errorf("%.0f m", m.Length())
	}
}

// Moved in longitude, over the date line too, a recording has the same halts and length.
func TestMovedInLongitude(t *testing.T) {
	w := newMaker(7, 2*time.Second, 2)
	w.walk(500, 300, 1.4)
	w.stand(4 * time.Minute)
	w.walk(-300, 500, 1.4)
	want := OfPoints(w.points, Limits{})
	for _, by := range []float64{-11.3, 168.7, -191.301, 100} {
		points := make([]nav.Point, len(w.points))
		for i, p := range w.points {
			points[i] = p
			points[i].Lon = nav.WrapLon(p.Lon + by)
		}
		got := OfPoints(points, Limits{})
		if len(got.Halts) != len(want.Halts) || math.Abs(got.Length()-want.Length()) > 0.01 ||
			got.Halts[0].From != want.Halts[0].From || got.Halts[0].To != want.Halts[0].To {
			t.Errorf("by %v: %d halts, %.2f m, not %d and %.2f", by, len(got.Halts), got.Length(), len(want.Halts),
				want.Length())
		}
	}
}

// The cost grows with the number of fixes, whatever they do.
func BenchmarkOf(b *testing.B) {
	kinds := map[string]func(w *maker){"walking": func(w *maker) { w.walk(1e5, 0, 1) },
		"standing": func(w *maker) { w.stand(1e5 * time.Second) }, "creeping": func(w *maker) { w.walk(3000, 0, 0.03) }}
	for name, make := range kinds {
		w := newMaker(1, time.Second, 1)
		make(w)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				OfPoints(w.points, Limits{}).Length()
			}
		})
	}
}
