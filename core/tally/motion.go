package tally

import (
	"math"
	"slices"
	"sort"
	"strconv"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// part is a track, or a part of one, with the day that it is of.
type part struct {
	day string
	Sum
}

const (
	topOver = 10 * time.Second

	// A leg that takes longer goes whole to the day on which it begins: a wrong clock, not a journey.
	longestByDay = 366 * 24 * time.Hour
)

// parts adds a sound track up, whole or in the parts that are asked for.
func parts(t *nav.Track, by By, zone *time.Location, limits motion.Limits) []*part {
	b := &builder{by: by, zone: zone, motion: motion.Of(t.Segments, limits), known: map[string]*part{}}
	for _, h := range b.motion.Halts {
		b.halts = append(b.halts, [2]int64{b.motion.Fix(h.From).UnixNano(), b.motion.Fix(h.To).UnixNano()})
	}
	for i := range t.Segments {
		b.points(t.Segments[i].Points)
	}
	b.motion.Legs(b.leg)
	if by == Leg && len(b.halts) > 0 { // a few fixes before the first halt, or behind the last, go nowhere
		b.order = slices.DeleteFunc(b.order, func(p *part) bool {
			return p.Length < b.motion.Within && p.Elapsed < motion.LeastHalt
		})
	}
	if len(b.order) == 0 {
		b.at("", nil)
	}
	for _, p := range b.order {
		p.Untimed = 0
	}
	b.order[0].Untimed = b.motion.Untimed
	return b.order
}

// builder sorts what it adds up into parts.
type builder struct {
	by     By
	zone   *time.Location
	motion *motion.Motion
	order  []*part
	known  map[string]*part
	newest string     // the key of the part that came last
	halts  [][2]int64 // in their order

	fastest fastest
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
	// The fix of arrival ends a leg, and that of departure begins the next.
	n := sort.Search(len(b.halts), func(i int) bool { return b.halts[i][1] > p.UnixNano() })
	if n < len(b.halts) && b.halts[n][0] < p.UnixNano() {
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
			b.order, b.newest = append(b.order, out), key
		}
	}
	if out.day == "" && p != nil && p.HasTime() {
		out.day = p.Time().In(b.zone).Format(time.DateOnly)
	}
	return out
}

// points adds up heights and points, part by part.
func (b *builder) points(points []nav.Point) {
	first, key := 0, ""
	for i := range points {
		now := b.key(&points[i], key)
		if i == 0 {
			key = now
		}
		if now != key {
			b.stretch(key, points[first:i])
			first, key = i, now
		}
	}
	if len(points) > 0 {
		b.stretch(key, points[first:])
	}
}

// stretch adds up points of one part.
func (b *builder) stretch(key string, points []nav.Point) {
	p := b.at(key, &points[0])
	var s nav.Summary
	s.Add(points)
	p.Points += s.Points
	p.Ascent += s.Ascent
	p.Descent += s.Descent
	if s.Heights > 0 {
		p.Low, p.High = lower(p.Low, s.Low), higher(p.High, s.High)
	}
	if s.Times > 0 {
		p.from(&s.First)
		p.until(s.Last.Time())
	}
}

func (p *part) from(at *nav.Point) {
	if when := at.Time(); p.Start.IsZero() || when.Before(p.Start) {
		p.Start, p.From = when, at.Loose()
	}
}

func (p *part) until(at time.Time) {
	if at.After(p.End) {
		p.End = at
	}
}

// leg adds up a part of the way and of the time, which was moved, stood or not recorded. One over midnight counts to
// each day with its part.
func (b *builder) leg(l *motion.Leg) {
	switch {
	case l.State == motion.Untimed:
		b.at(b.key(&l.To, b.key(&l.From, b.newest)), nil).Length += l.Way
		return
	case l.State == motion.Standing && b.by == Leg:
		return
	}
	if v := b.fastest.next(l); v == v {
		p := b.at(b.ofLeg(&l.From, &l.To), &l.From)
		p.Top = higher(p.Top, v)
	}
	span := l.Span()
	if span <= 0 {
		b.at(b.key(&l.From, ""), &l.From).Length += l.Way
		return
	}
	for at := l.From; at.UnixNano() < l.To.UnixNano(); {
		until := l.To.UnixNano()
		if b.by == Day && span <= longestByDay {
			until = min(until, nextDay(at.Time(), b.zone).UnixNano())
		}
		p := b.at(b.ofLeg(&at, &l.To), &at)
		began := at
		at.SetTime(until, instant.Seconds)
		here := at.Since(&began)
		way := l.Way * float64(here) / float64(span)
		p.Length += way
		p.Elapsed = together(p.Elapsed, here)
		p.from(&began)
		p.until(at.Time())
		switch l.State {
		case motion.Standing:
			p.Standing = together(p.Standing, here)
		case motion.Moving:
			p.Moving = together(p.Moving, here)
			p.moved += way
		}
	}
}

// ofLeg is the key of a leg: that of its start, which is the part after a halt where it begins at the end of one.
func (b *builder) ofLeg(from, to *nav.Point) string {
	if b.by == Leg {
		middle := nav.Between(from, to, 0.5)
		middle.SetTime(from.UnixNano()+(to.UnixNano()-from.UnixNano())/2, instant.Seconds)
		return b.key(&middle, "")
	}
	return b.key(from, "")
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
	at, _ = instant.LocalDate(time.Date(t.Year(), t.Month(), t.Day()+1, 0, 0, 0, 0, time.UTC), zone)
	return at
}

// fastest is the highest speed over at least ten seconds of moving on without a break, so that the jitter of a receiver
// makes none.
type fastest struct {
	recent []motion.Leg // in their order, of which the first is needed for ten seconds
	span   time.Duration
	way    float64
}

// next takes the leg that follows, and gives the speed of the last ten seconds; not a number where there are none yet.
func (f *fastest) next(l *motion.Leg) float64 {
	if l.State != motion.Moving || l.Span() == 0 ||
		len(f.recent) > 0 && f.recent[len(f.recent)-1].To.UnixNano() != l.From.UnixNano() {
		*f = fastest{recent: f.recent[:0]}
	}
	if l.State != motion.Moving || l.Span() == 0 {
		return math.NaN()
	}
	f.recent, f.span, f.way = append(f.recent, *l), f.span+l.Span(), f.way+l.Way
	for first := &f.recent[0]; f.span-first.Span() >= topOver; first = &f.recent[0] {
		f.span, f.way, f.recent = f.span-first.Span(), f.way-first.Way, f.recent[1:]
	}
	if f.span < topOver {
		return math.NaN()
	}
	return f.way / f.span.Seconds()
}
