package clean

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
)

// recording is a generated track with what is known to be wrong with it.
type recording struct {
	points []nav.Point
	bad    map[int]bool // by index
}

// maker goes along a way and records it as a receiver does.
type maker struct {
	r        *rand.Rand
	plane    geodesy.Plane
	x, y     float64
	heading  float64
	speed    float64 // m/s
	every    float64 // seconds
	noise    float64 // metres, of an error that wanders slowly
	ex, ey   float64
	at       int64
	points   []nav.Point
	standing []int
}

func newMaker(seed uint64, speed, every, noise float64) *maker {
	return &maker{r: rand.New(rand.NewPCG(seed, 99)), plane: geodesy.NewPlane(-47.6, 11.3), speed: speed, every: every,
		noise: noise,
		at:    time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC).UnixNano()}
}

func (m *maker) record() {
	// The error of a receiver wanders: most of it is that of the moment before.
	const memory = 0.98
	scale := m.noise * math.Sqrt(1-memory*memory)
	m.ex = memory*m.ex + m.r.NormFloat64()*scale
	m.ey = memory*m.ey + m.r.NormFloat64()*scale
	lat, lon := m.plane.LatLon(m.x+m.ex, m.y+m.ey)
	p := nav.At(math.Round(lat*1e7)/1e7, math.Round(lon*1e7)/1e7)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	p.SetTime(m.at, instant.Seconds)
	p.SetHeight(100+10*math.Sin(m.x/500)+m.r.NormFloat64()*0.3, decimal.PrecisionOf(1), nav.DatumUnstated)
	m.points = append(m.points, p)
	m.at += int64(m.every * 1e9)
}

// move goes on for a number of samples, turning a little at each.
func (m *maker) move(samples int, wander float64) {
	for range samples {
		m.record()
		m.heading += m.r.NormFloat64() * wander
		v := m.speed * (0.85 + 0.3*m.r.Float64())
		m.x += v * m.every * math.Cos(m.heading)
		m.y += v * m.every * math.Sin(m.heading)
	}
}

func (m *maker) stand(seconds float64) {
	for t := 0.0; t < seconds; t += m.every {
		m.standing = append(m.standing, len(m.points))
		m.record()
	}
}

// trip is a day's movement of any carrier: straight stretches, bends, hairpins, a turn back, halts and a tunnel.
func (m *maker) trip() {
	m.stand(120) // a stop at the start
	for leg := range 12 {
		m.move(150, 0.05)
		switch leg % 6 {
		case 0:
			m.heading += math.Pi // turns back
		case 1:
			m.stand(45)
		case 2: // hairpins
			for range 4 {
				m.move(6, 0)
				m.heading += math.Pi * 0.95
			}
		case 3: // a tunnel: no points for a while
			m.x += 60 * m.speed * math.Cos(m.heading)
			m.y += 60 * m.speed * math.Sin(m.heading)
			m.at += 60e9
		case 4:
			m.move(40, 0.3)
		case 5:
			m.stand(200)
		}
	}
}

// spike lays bursts of one to five bad points off to a side into the recording, at least least metres off.
func (m *maker) spike(share, least float64) recording {
	out := recording{slices.Clone(m.points), map[int]bool{}}
	for i := 5; i < len(out.points)-12; i++ {
		if m.r.Float64() > share/3 {
			continue
		}
		burst := 1 + m.r.IntN(5)
		if seconds(&out.points[i-1], &out.points[i+burst]) > 1.5*m.every*float64(burst+1) {
			continue // beside a tunnel: it could be movement
		}
		sin, cos := math.Sincos(m.r.Float64() * 2 * math.Pi)
		off := least * (1 + 4*m.r.Float64())
		for k := i; k < i+burst; k++ {
			x, y := m.plane.XY(out.points[k].Lat, out.points[k].Lon)
			lat, lon := m.plane.LatLon(x+off*cos+m.r.NormFloat64(), y+off*sin+m.r.NormFloat64())
			out.points[k].Lat, out.points[k].Lon = lat, lon
			out.bad[k] = true
		}
		i += burst + 3
	}
	return out
}

func dataset(points []nav.Point) *nav.Dataset {
	return &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T"},
		Segments: []nav.Segment{{Points: slices.Clone(points)}}}}}
}

var carriersTested = []struct {
	name              pace.Carrier
	speed, every, err float64
	// how far off a spike can be told from movement: top speed × interval + margin, doubled for the way back
	least float64
}{
	{"walk", 1.4, 1, 3, 20}, {"walk", 1.4, 5, 3, 60}, {"cycle", 6, 1, 3, 60}, {"drive", 22, 1, 3, 160},
	{"drive", 22, 5, 4, 900}, {"boat", 8, 2, 3, 120}, {"fly", 60, 1, 5, 700},
}

// Of the spikes that can be told from movement nearly all are found, and nearly all that is taken is one.
func TestSpikes(t *testing.T) {
	for i, c := range carriersTested {
		for _, named := range []pace.Carrier{"", c.name} {
			found, taken, laid := 0, 0, 0
			for seed := range uint64(4) {
				m := newMaker(seed*31+uint64(i), c.speed, c.every, c.err)
				m.trip()
				rec := m.spike(0.03, c.least)
				d := dataset(rec.points)
				s := Step{Faults: Default, Carrier: named}
				r := s.run(d)
				laid += len(rec.bad)
				for _, x := range r.Removed {
					taken++
					if rec.bad[x.Number-1] {
						found++
					}
				}
			}
			recall, precision := float64(found)/float64(laid), float64(found)/math.Max(float64(taken), 1)
			t.Logf("%s every %vs, carrier %q: %d laid, %.4f found, %.4f of the removed are bad", c.name, c.every, named, laid,
				recall, precision)
			if named != "" && c.least < carriers[named].topSpeed*c.every+carriers[named].spikeOver {
				continue // below the limit that this carrier's top speed sets
			}
			if recall < 0.98 || precision < 0.98 || laid < 100 {
				t.Errorf("%s every %vs, carrier %q: %.4f found, %.4f right, of %d", c.name, c.every, named, recall, precision, laid)
			}
		}
	}
}

// A clean recording loses nothing at all.
func TestCleanLosesNothing(t *testing.T) {
	for i, c := range carriersTested {
		for seed := range uint64(10) {
			m := newMaker(seed*17+uint64(i), c.speed, c.every, c.err)
			m.trip()
			for _, named := range []pace.Carrier{"", c.name} {
				d := dataset(m.points)
				s := Step{Faults: append(slices.Clone(Default), Heights), Carrier: named}
				if r := s.run(d); len(r.Removed) > 0 || len(r.Rows) > 0 || !slices.Equal(d.Tracks[0].Segments[0].Points, m.points) {
					t.Errorf("%s every %vs, carrier %q, seed %d: %+v", c.name, c.every, named, seed, r.Rows)
				}
			}
		}
	}
}

// A stop keeps its place and its duration, also when it is at the start, and a second run changes nothing.
func TestStops(t *testing.T) {
	worstPlace, worstTime := 0.0, 0.0
	for _, every := range []float64{1, 2, 5} {
		for seed := range uint64(20) {
			m := newMaker(seed, 1.4, every, 1.5)
			m.heading = float64(seed)
			if seed%4 != 0 {
				m.move(100, 0.02)
			}
			first := len(m.points)
			m.stand(300)
			last := len(m.points) - 1
			sx, sy := m.x, m.y
			m.heading += 1
			if seed%5 != 1 {
				m.move(100, 0.02)
				last++ // its first point is recorded before the first step
			}
			d := dataset(m.points)
			s := Step{Faults: []Fault{Stops}}
			s.run(d)
			points := d.Tracks[0].Segments[0].Points
			k := slices.IndexFunc(points,
				func(p nav.Point) bool { return p.UnixNano() >= m.points[first].UnixNano()-int64(every*3e9) })
			for k+1 < len(points) && !points[k].SamePlace(&points[k+1]) {
				k++
			}
			end := k + 1 // of a long halt there stay points between
			for end+1 < len(points) && points[end+1].SamePlace(&points[k]) {
				end++
			}
			if k+1 >= len(points) {
				t.Errorf("every %vs, seed %d: the stop is not found", every, seed)
				continue
			}
			lat, lon := m.plane.LatLon(sx, sy)
			place := geodesy.Distance(lat, lon, points[k].Lat, points[k].Lon)
			duration := math.Abs(seconds(&points[k], &points[end])-seconds(&m.points[first], &m.points[last])) / every
			worstPlace, worstTime = math.Max(worstPlace, place), math.Max(worstTime, duration)
			if place > 3 || duration > 1.001 {
				t.Errorf("every %vs, seed %d: place off by %.2f m, duration by %.1f samples", every, seed, place, duration)
			}
			again := d.Clone()
			if r := s.run(again); len(r.Rows) > 0 {
				t.Errorf("every %vs, seed %d: a second run finds %+v", every, seed, r.Rows)
			}
		}
	}
	t.Logf("worst: place %.2f m, duration %.2f samples", worstPlace, worstTime)
}

// The quick way past points where nobody can stand finds the halts that going through all points does: as is done where
// one has no time.
func TestManyStops(t *testing.T) {
	for seed := range uint64(4) {
		m := newMaker(seed, 1.4, 5, 3)
		m.plane = geodesy.NewPlane(-47.6, 179.95)
		for i := range 500 {
			m.heading = 1.5 + 0.3*math.Sin(float64(i))
			m.move(40, 0.02)
			m.stand(float64(60 + 10*(i%15)))
		}
		m.move(40, 0.02)
		for i := range m.points {
			m.points[i].Lon = nav.WrapLon(m.points[i].Lon)
		}
		halts := func(points []nav.Point) (n int) {
			s := Step{Faults: []Fault{Stops}}
			for _, r := range s.run(dataset(points)).Rows {
				n += r.Count
			}
			return n
		}
		last := m.points[len(m.points)-1]
		untimed := nav.At(last.Lat, last.Lon)
		quick, whole := halts(slices.Clone(m.points)), halts(append(m.points, untimed))
		if quick != whole || quick < 50 {
			t.Errorf("seed %d: %d halts, going through all points %d", seed, quick, whole)
		}
	}
}

// Running the step twice changes nothing the second time, with every fault asked for.
func TestTwice(t *testing.T) {
	for i, c := range carriersTested {
		m := newMaker(uint64(i), c.speed, c.every, c.err)
		m.trip()
		rec := m.spike(0.05, 20)
		for k := 40; k < len(rec.points)-10; k += 97 {
			rec.points[k], rec.points[k+3] = rec.points[k+3], rec.points[k]
			rec.points[k+5] = rec.points[k+6]
			rec.points[k+7].SetHeight(0, 0, nav.DatumUnstated)
		}
		d := dataset(rec.points)
		s := Step{Faults: All}
		if r := s.run(d); len(r.Rows) < 4 {
			t.Errorf("%s: only %+v found", c.name, r.Rows)
		}
		before := fmt.Sprint(d.Tracks)
		if r := s.run(d); len(r.Rows) > 0 || fmt.Sprint(d.Tracks) != before {
			t.Errorf("%s: a second run finds %+v", c.name, r.Rows)
		}
	}
}

// A height that only the second of two equal points has goes to the first.
func TestTheHeightOfARepeatStays(t *testing.T) {
	p := nav.At(-47.6, 11.3)
	q := p
	q.SetHeight(12, 1, nav.MeanSeaLevel)
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{p, q, nav.At(-47.61, 11.3)}}}}}}
	s := New()
	s.Faults = []Fault{Repeats}
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Apply(t.Context(), d); err != nil {
		t.Fatal(err)
	}
	if left := d.Tracks[0].Segments[0].Points; len(left) != 2 || !left[0].HasHeight() || left[0].Height() != 12 {
		t.Errorf("%+v", left)
	}
}
