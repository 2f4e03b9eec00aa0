package tally

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// motion is a track that is added up: its sound points, and the same with halts made two points and split at gaps.
type motion struct {
	zone         *time.Location
	sound, still *nav.Track
}

// part is a track, or a part of one, with the day that it is of.
type part struct {
	day string
	Sum
}

// Halts last at least so long; between points that are farther apart in time and at one place the receiver stood still
// as well, and elsewhere it was off.
const (
	haltLonger = 90 * time.Second
	onePlace   = 50.0 // metres
	slow       = 0.1  // m/s
	topOver    = 10 * time.Second

	// A leg that takes longer goes whole to the day on which it begins: a wrong clock, not a journey.
	longestByDay = 366 * 24 * time.Hour
)

// parts adds the track up, whole or in the parts that are asked for.
func (m *motion) parts(by By) []*part {
	b := &builder{motion: m, by: by, known: map[string]*part{}}
	b.eachLeg(func(from, to *nav.Point, joined bool) {
		if halted(from, to, joined) {
			b.halts = append(b.halts, [2]int64{from.UnixNano(), to.UnixNano()})
		}
	})
	for i := range m.sound.Segments {
		b.path(m.sound.Segments[i].Points)
	}
	b.eachLeg(b.leg)
	if len(b.order) == 0 {
		b.at("", nil)
	}
	return b.order
}

// eachLeg visits what is between two points with times; joined are those of one segment.
func (m *motion) eachLeg(visit func(from, to *nav.Point, joined bool)) {
	var last *nav.Point
	for i := range m.still.Segments {
		points := m.still.Segments[i].Points
		joined := false
		for k := range points {
			p := &points[k]
			if !p.HasTime() {
				continue
			}
			if last != nil && p.UnixNano() > last.UnixNano() {
				visit(last, p, joined)
			}
			last, joined = p, true
		}
	}
}

// halted says whether the receiver stood still from one point to the next.
func halted(from, to *nav.Point, joined bool) bool {
	span := to.Since(from)
	way := geodesy.Distance(from.Lat, from.Lon, to.Lat, to.Lon)
	return span >= haltLonger && way <= min(max(slow*span.Seconds(), 1), onePlace) || !joined && way <= onePlace
}

// builder sorts what it adds up into parts.
type builder struct {
	*motion
	by    By
	order []*part
	known map[string]*part
	halts [][2]int64 // in their order
}

// inHalt is the part of what lies within a halt, where the parts are legs: it is of none.
const inHalt = "-"

// key tells parts apart: the day, or the number of the halts before. What has no time goes with what is before it.
func (b *builder) key(p *nav.Point, before string) string {
	switch {
	case b.by != Day && b.by != Leg:
		return ""
	case !p.HasTime():
		return before
	case b.by == Day:
		return p.Time().In(b.zone).Format(time.DateOnly)
	}
	n, _ := slices.BinarySearchFunc(b.halts, p.UnixNano(), func(h [2]int64, at int64) int { return cmp.Compare(h[1], at) })
	if n < len(b.halts) && b.halts[n][0] < p.UnixNano() && p.UnixNano() < b.halts[n][1] {
		return inHalt
	}
	return strconv.Itoa(n)
}

// at gives the part of a key.
func (b *builder) at(key string, p *nav.Point) *part {
	out := b.known[key]
	if out == nil {
		out = &part{Sum: newSum()}
		b.known[key] = out
		if key != inHalt {
			b.order = append(b.order, out)
		}
	}
	if out.day == "" && p != nil && p.HasTime() {
		out.day = p.Time().In(b.zone).Format(time.DateOnly)
	}
	return out
}

// path adds length, heights and points up. A leg over midnight counts to each day with its part.
func (b *builder) path(points []nav.Point) {
	first, key := 0, ""
	for i := range points {
		now := b.key(&points[i], key)
		if i == 0 {
			key = now
		}
		if now == key {
			continue
		}
		b.stretch(key, points[first:i])
		from, to, day := &points[i-1], &points[i], now
		if b.by == Day && from.HasTime() && to.HasTime() {
			from = b.overnight(from, to)
			if to.Since(from) > longestByDay {
				day = key
			}
		}
		b.at(day, to).Length += geodesy.Distance(from.Lat, from.Lon, to.Lat, to.Lon)
		first, key = i, now
	}
	if len(points) > 0 {
		b.stretch(key, points[first:])
	}
}

// overnight gives each day but the last its part of a leg, and gives the place at the last midnight.
func (b *builder) overnight(from, to *nav.Point) *nav.Point {
	for span := to.Since(from); span > 0 && span <= longestByDay; span = to.Since(from) {
		midnight := nextDay(from.Time(), b.zone)
		if midnight.UnixNano() > to.UnixNano() {
			break
		}
		at := shape.Between(from, to, float64(midnight.UnixNano()-from.UnixNano())/float64(span))
		at.SetTime(midnight.UnixNano(), nav.Seconds)
		b.at(b.key(from, ""), from).Length += geodesy.Distance(from.Lat, from.Lon, at.Lat, at.Lon)
		from = &at
	}
	return from
}

// stretch adds up points of one part.
func (b *builder) stretch(key string, points []nav.Point) {
	p := b.at(key, &points[0])
	var s nav.Summary
	s.Add(points)
	p.Points += s.Points
	p.Length += s.Length
	p.Ascent += s.Ascent
	p.Descent += s.Descent
	if s.Heights > 0 {
		p.Low, p.High = lower(p.Low, s.Low), higher(p.High, s.High)
	}
	if s.Times > 0 {
		if at := s.First.Time(); p.Start.IsZero() || at.Before(p.Start) {
			p.Start = at
		}
		if at := s.Last.Time(); at.After(p.End) {
			p.End = at
		}
	}
	p.Top = higher(p.Top, top(points))
}

// leg adds up the time from one point to the next, which is moved, stood or not recorded.
func (b *builder) leg(from, to *nav.Point, joined bool) {
	span := to.Since(from)
	way := geodesy.Distance(from.Lat, from.Lon, to.Lat, to.Lon)
	halt := halted(from, to, joined)
	if halt && b.by == Leg {
		return
	}
	for at := *from; at.UnixNano() < to.UnixNano(); {
		until := to.UnixNano()
		if b.by == Day && span <= longestByDay {
			until = min(until, nextDay(at.Time(), b.zone).UnixNano())
		}
		p := b.at(b.key(&at, ""), &at)
		began := at
		at.SetTime(until, nav.Seconds)
		here := at.Since(&began)
		p.Elapsed = together(p.Elapsed, here)
		switch {
		case halt:
			p.Standing = together(p.Standing, here)
		case joined:
			p.Moving = together(p.Moving, here)
			p.moved += way * float64(here) / float64(span)
		}
	}
}

// together adds spans up, to the longest that there is.
func together(a, b time.Duration) time.Duration {
	if a > math.MaxInt64-b {
		return math.MaxInt64
	}
	return a + b
}

// nextDay is the midnight after a time.
func nextDay(at time.Time, zone *time.Location) time.Time {
	t := at.In(zone)
	return time.Date(t.Year(), t.Month(), t.Day()+1, 0, 0, 0, 0, zone)
}

// top is the highest speed over at least ten seconds, so that the jitter of a receiver makes none.
func top(points []nav.Point) float64 {
	best := math.NaN()
	along := 0.0
	sums := make([]float64, len(points))
	first := 0
	for i := range points {
		if i > 0 {
			along += geodesy.Distance(points[i-1].Lat, points[i-1].Lon, points[i].Lat, points[i].Lon)
		}
		sums[i] = along
		if !points[i].HasTime() {
			first = i + 1
			continue
		}
		for first+1 < i && points[i].Since(&points[first+1]) >= topOver {
			first++
		}
		if first < i && first < len(points) && points[first].HasTime() {
			if span := points[i].Since(&points[first]); span >= topOver {
				best = higher(best, (along-sums[first])/span.Seconds())
			}
		}
	}
	return best
}
