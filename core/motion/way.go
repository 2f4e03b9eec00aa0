package motion

import (
	"math"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// State says what a part of a recording's time is.
type State uint8

// The states. Moving, standing and gaps are all of the time between the first fix and the last.
const (
	Moving State = iota
	Standing
	Gap
	Untimed // a way between points without times
)

// Leg is a part of a recording: from a place to the next, with their times unless it is untimed.
type Leg struct {
	From, To nav.Point
	State    State
	Way      float64 // metres; 0 of a halt, and of a gap between two segments
}

// Span is how long it took.
func (l *Leg) Span() time.Duration {
	if l.State == Untimed {
		return 0
	}
	return max(l.To.Since(&l.From), 0)
}

// Length is the way in metres without the scatter of halts, and of fixes where that is most of the way between them.
func (m *Motion) Length() (sum float64) {
	m.Legs(func(l *Leg) { sum += l.Way })
	return
}

// unrest is by how much of its length scatter may lengthen a way before fixes are taken together.
const unrest = 0.01

// smooth settles how many fixes are taken together. Independent errors of standard deviation s make a leg of length d
// longer by s²/d, about; means of n fixes have errors of s/√n on legs of n·d.
func (m *Motion) smooth() {
	if m.Noise == 0 || m.Interval == 0 {
		return
	}
	k := max(int(neighbours/m.Interval), 2)
	var legs []float64
	h := 0
	for i := 0; i+k < len(m.fixes); i += max(1, len(m.fixes)/sampled) {
		for h < len(m.Halts) && m.Halts[h].To < i {
			h++
		}
		if h < len(m.Halts) && m.Halts[h].From <= i+k {
			continue
		}
		if m.fixes[i+k].Since(m.fixes[i].Point) <= 2*neighbours {
			legs = append(legs, m.apart(i, i+k)/float64(k))
		}
	}
	d := median(legs)
	if d == 0 {
		return
	}
	if share := m.Noise * m.Noise / (d * d); share > unrest {
		const most = 60
		m.steps = min(int(math.Ceil(math.Cbrt(share/unrest))), most)
	}
}

// Legs visits the recording part by part.
func (m *Motion) Legs(visit func(*Leg)) {
	var leg Leg
	h := 0
	for i := 0; i < len(m.fixes); {
		f := &m.fixes[i]
		to := *f.Point
		halted := h < len(m.Halts) && m.Halts[h].From == i
		if halted {
			to = m.place(h, i)
		}
		switch {
		case i == 0 && len(f.between) > 0:
			visit(&Leg{From: f.between[0], To: to, State: Untimed, Way: way(f.between) + between(&f.between[len(f.between)-1],
				&to)})
		case i > 0:
			leg.To = to
			leg.State, leg.Way = m.reach(i, &leg.From, &to)
			visit(&leg)
		}
		leg.From = to
		if halted {
			end := m.Halts[h].To
			leg.To, leg.State, leg.Way = m.place(h, end), Standing, 0
			visit(&leg)
			leg.From = leg.To
			h++
			i = end + 1
			continue
		}
		i = m.together(i, h, &leg, visit)
	}
	for _, t := range m.tails {
		visit(&Leg{From: t[0], To: t[len(t)-1], State: Untimed, Way: way(t)})
	}
}

// together visits the means of fixes that are taken together behind one, up to the next halt or break, and gives the
// number of the fix to go on with.
func (m *Motion) together(i, h int, leg *Leg, visit func(*Leg)) int {
	if m.steps == 1 {
		return i + 1
	}
	end := len(m.fixes)
	if h < len(m.Halts) {
		end = m.Halts[h].From
	}
	last := i + 1
	for last < end && m.fixes[last].joined && len(m.fixes[last].between) == 0 && m.goesOnInTime(last) {
		last++
	}
	// The last fix of the stretch, or the halt behind it, is a place of its own.
	for i++; i+m.steps < last; i += m.steps {
		leg.To = m.mean(i, i+m.steps)
		leg.State, leg.Way = Moving, between(&leg.From, &leg.To)
		visit(leg)
		leg.From = leg.To
	}
	if last == end && h < len(m.Halts) {
		return last
	}
	if i < last-1 { // fewer than are taken together: the one that ends the stretch
		return last - 1
	}
	return i
}

// goesOnInTime says whether no gap lies before a fix.
func (m *Motion) goesOnInTime(k int) bool {
	span := m.fixes[k].Since(m.fixes[k-1].Point)
	return span > 0 && span <= m.Gap
}

// mean is the mean place of fixes, at the time of the one in the middle.
func (m *Motion) mean(from, to int) nav.Point {
	lat, lon, base := 0.0, 0.0, m.fixes[from].Lon
	for k := from; k < to; k++ {
		lat, lon = lat+m.fixes[k].Lat, lon+nav.WrapLon(m.fixes[k].Lon-base)
	}
	n := float64(to - from)
	out := nav.At(lat/n, base+lon/n)
	middle := m.fixes[from+(to-from)/2]
	out.SetTime(middle.UnixNano(), middle.TimeMark())
	return out
}

// place is that of a halt at the time of one of its fixes.
func (m *Motion) place(h, i int) nav.Point {
	p := m.Halts[h].Place
	p.SetTime(m.fixes[i].UnixNano(), m.fixes[i].TimeMark())
	return p
}

// reach says how a fix was reached from the place before it.
func (m *Motion) reach(i int, from, to *nav.Point) (State, float64) {
	f := &m.fixes[i]
	length := 0.0
	switch {
	case f.joined && len(f.between) > 0:
		length = between(from, &f.between[0]) + way(f.between) + between(&f.between[len(f.between)-1], to)
	case f.joined:
		length = between(from, to)
	case len(f.between) > 0: // it begins its segment with points without times
		length = way(f.between) + between(&f.between[len(f.between)-1], to)
	}
	if !f.joined || to.Since(from) > m.Gap {
		return Gap, length
	}
	return Moving, length
}

func between(a, b *nav.Point) float64 { return geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon) }

func way(points []nav.Point) (sum float64) {
	for i := 1; i < len(points); i++ {
		sum += between(&points[i-1], &points[i])
	}
	return
}

// Index gives the number of a fix's point among those of all segments, from 0.
func (m *Motion) Index(i int) int { return m.fixes[i].index }

// Fix gives a fix by its number.
func (m *Motion) Fix(i int) *nav.Point { return m.fixes[i].Point }

// MeanSpeed is the mean speed while moving, in metres a second; not a number where nothing moved.
func (m *Motion) MeanSpeed() float64 {
	way, span := 0.0, time.Duration(0)
	m.Legs(func(l *Leg) {
		if l.State == Moving {
			way, span = way+l.Way, span+l.Span()
		}
	})
	if span <= 0 {
		return math.NaN()
	}
	return way / span.Seconds()
}
