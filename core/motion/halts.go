package motion

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// A halt is the longest run of at least LeastHalt within a distance of its median, that does not drift and has no way
// between two fixes longer than twice that distance. A silence over the limit of gaps is none.

// halts finds them in one pass. Fixes that can begin none are passed by sums; where a run is refused the next one
// that is tried begins an eighth of it later, so that the cost is linear.
func (m *Motion) halts() {
	after := ahead{m: m}
	longer := m.longer.Seconds()
	m.markStill()
	for i := 0; i < len(m.fixes); {
		if m.still[i] {
			h := Halt{i, i, *m.fixes[i].Point}
			for h.To+1 < len(m.fixes) && m.still[h.To+1] && m.fixes[h.To+1].SamePlace(m.fixes[i].Point) && m.goesOn(h.To+1) {
				h.To++
			}
			m.Halts = append(m.Halts, h)
			i = h.To + 1
			continue
		}
		if m.Steady || !after.move(i, longer) {
			i++
			continue
		}
		if !after.mayStand(m.Within) {
			i++
			continue
		}
		end := m.knot(i)
		h, ok := m.settle(i, end)
		if !ok {
			i += max(1, (end-i)/8)
			continue
		}
		m.add(h)
		i = h.To + 1
	}
}

// markStill marks the fixes that stand at exactly one place for so long: a halt that was reduced to arrival and
// departure, which ends where it ends.
func (m *Motion) markStill() {
	m.still = make([]bool, len(m.fixes))
	for i := 0; i < len(m.fixes); {
		end := i + 1
		for end < len(m.fixes) && m.fixes[end].SamePlace(m.fixes[i].Point) && m.goesOn(end) {
			end++
		}
		if m.seconds(i, end-1) >= m.longer.Seconds() {
			for k := i; k < end; k++ {
				m.still[k] = true
			}
		}
		i = end
	}
}

// add takes a halt in, or makes the one before longer where both are one: little lies between them, and about their
// common median stands nearly all.
func (m *Motion) add(h Halt) {
	if n := len(m.Halts); n > 0 {
		last := &m.Halts[n-1]
		both := Halt{last.From, h.To, m.middle(last.From, h.To)}
		if m.seconds(last.To, h.From) < m.longer.Seconds() && !m.still[last.To] && m.isOne(both) {
			*last = both
			return
		}
	}
	m.Halts = append(m.Halts, h)
}

// isOne says whether fixes are one halt but for a few that stray: one in twenty, and none twice as far off.
func (m *Motion) isOne(h Halt) bool {
	const few = 20
	strays := 0
	for k := h.From; k <= h.To; k++ {
		f := m.fixes[k]
		off := geodesy.Distance(f.Lat, f.Lon, h.Place.Lat, h.Place.Lon)
		if k > h.From && !m.goesOn(k) || off > 2*m.Within {
			return false
		}
		if off > m.Within {
			strays++
		}
	}
	return few*strays <= h.To-h.From+1
}

// goesOn says whether a run can go on from the fix before to this one.
func (m *Motion) goesOn(k int) bool {
	span := m.fixes[k].Since(m.fixes[k-1].Point)
	return span >= 0 && span <= m.Gap && m.apart(k-1, k) <= 2*m.Within
}

// knot gives the end of the run of fixes from i on that stay within the distance of their own mean.
func (m *Motion) knot(i int) int {
	plane := geodesy.NewPlane(m.fixes[i].Lat, m.fixes[i].Lon)
	sx, sy, n := 0.0, 0.0, 0.0
	end := i
	for ; end < len(m.fixes) && !m.still[end] && (end == i || m.goesOn(end)); end++ {
		x, y := plane.XY(m.fixes[end].Lat, m.fixes[end].Lon)
		if dx, dy := x*n-sx, y*n-sy; n > 0 && dx*dx+dy*dy > m.Within*m.Within*n*n {
			break
		}
		sx, sy, n = sx+x, sy+y, n+1
	}
	return end
}

// middle is the median position of fixes, the last one included, each by the time that it stands for, with the digits
// of the first: so it is the same when scatter was reduced to arrival and departure.
func (m *Motion) middle(from, to int) nav.Point {
	n := to - from + 1
	lats, lons := make([]weighed, n), make([]weighed, n)
	base := m.fixes[from].Lon
	for k := range n {
		i := from + k
		weight := m.stands(i, from, to)
		lats[k], lons[k] = weighed{m.fixes[i].Lat, weight}, weighed{nav.WrapLon(m.fixes[i].Lon - base), weight}
	}
	out := nav.At(weighedMedian(lats), base+weighedMedian(lons))
	// In the precision of the first fix, so that the file does not grow digits that mean nothing.
	out.LatPrecision, out.LonPrecision = m.fixes[from].LatPrecision, m.fixes[from].LonPrecision
	out.Lat, out.Lon = toDigits(out.Lat, out.LatPrecision), nav.WrapLon(toDigits(out.Lon, out.LonPrecision))
	return out
}

// stands is twice the time that a fix of a run stands for, in seconds.
func (m *Motion) stands(i, from, to int) float64 {
	const least = 1e-6
	return m.seconds(max(i-1, from), min(i+1, to)) + least
}

type weighed struct{ value, weight float64 }

// weighedMedian sorts values and gives the one on both sides of which lies half of the weight, or the mean of two.
func weighedMedian(values []weighed) float64 {
	slices.SortFunc(values, func(a, b weighed) int { return cmp.Compare(a.value, b.value) })
	all := 0.0
	for _, v := range values {
		all += v.weight
	}
	sum := 0.0
	for i, v := range values {
		if sum += v.weight; sum > all/2*(1+1e-9) {
			return v.value
		} else if sum > all/2*(1-1e-9) && i+1 < len(values) {
			return (v.value + values[i+1].value) / 2
		}
	}
	return values[len(values)-1].value
}

func toDigits(v float64, of decimal.Precision) float64 {
	if n, given := of.Decimals(); given && n < 12 {
		scale := math.Pow10(n)
		return math.Round(v*scale) / scale
	}
	return v
}

// mostRounds bounds how often a run is looked at about a new median.
const mostRounds = 12

// settle finds the halt in a run: those fixes that stand about its median, as far as they follow one another, before
// and behind the run as well.
func (m *Motion) settle(i, end int) (Halt, bool) {
	from, to := i, end-1
	for range mostRounds {
		place := m.middle(from, to)
		off := func(k int) bool {
			return geodesy.Distance(m.fixes[k].Lat, m.fixes[k].Lon, place.Lat, place.Lon) > m.Within
		}
		a, b := from, to
		for a < b && off(a) {
			a++
		}
		for b > a && off(b) {
			b--
		}
		least := 0 // no halt begins before the end of the last one
		if n := len(m.Halts); n > 0 {
			least = m.Halts[n-1].To + 1
		}
		for a > least && m.goesOn(a) && !m.still[a-1] && !off(a-1) {
			a--
		}
		for b+1 < len(m.fixes) && m.goesOn(b+1) && !m.still[b+1] && !off(b+1) {
			b++
		}
		if a, b = m.longest(a, b, off); a == from && b == to {
			break
		}
		from, to = a, b
	}
	if m.seconds(from, to) < m.longer.Seconds() || m.drifts(from, to) {
		return Halt{}, false
	}
	h := Halt{from, to, m.middle(from, to)}
	if h.From, h.To = m.arrival(h), m.departure(h); h.To > h.From {
		h.Place = m.middle(h.From, h.To)
	}
	return h, h.To > h.From && m.seconds(h.From, h.To) >= m.longer.Seconds()
}

// longest gives the run between two fixes that lasts longest with all of its own at the place.
func (m *Motion) longest(from, to int, off func(int) bool) (int, int) {
	begin, bestFrom, bestTo, best := from, from, from, -1.0
	for k := from; k <= to+1; k++ {
		if k <= to && !off(k) {
			continue
		}
		if k > begin {
			if s := m.seconds(begin, k-1); s > best {
				best, bestFrom, bestTo = s, begin, k-1
			}
		}
		begin = k + 1
	}
	return bestFrom, bestTo
}

// drifts says whether a run is a slow way: whether the mean of its first third is far from that of its last, each fix
// by the time that it stands for. What counts as far is half of the distance around a halt, twice the scatter, or one
// last digit.
func (m *Motion) drifts(from, to int) bool {
	plane := geodesy.NewPlane(m.fixes[from].Lat, m.fixes[from].Lon)
	third := m.seconds(from, to) / 3
	var x, y, weights [2]float64
	for k := from; k <= to; k++ {
		at := m.seconds(from, k)
		part := 0
		switch {
		case at <= third:
		case at >= 2*third:
			part = 1
		default:
			continue
		}
		weight := m.stands(k, from, to)
		u, v := plane.XY(m.fixes[k].Lat, m.fixes[k].Lon)
		x[part], y[part], weights[part] = x[part]+weight*u, y[part]+weight*v, weights[part]+weight
	}
	east, north := x[1]/weights[1]-x[0]/weights[0], y[1]/weights[1]-y[0]/weights[0]
	return math.Hypot(east, north) >= max(m.Within/2, 2*m.Scatter, m.fixes[from].LastDigit())
}

// longestApproach is how many fixes before a halt are looked at.
const longestApproach = 30

// arrival finds the fix of a halt from which on the carrier stood, and departure the last one.
func (m *Motion) arrival(h Halt) int   { return m.standsAt(h, h.From, h.To, 1) }
func (m *Motion) departure(h Halt) int { return m.standsAt(h, h.To, h.From, -1) }

// standsAt goes into a halt from one side and finds where movement ends. It takes the steps from one position to the
// next to be those of a steady movement up to a break and of none after it, with errors that are alike: the error of a
// receiver wanders, and steps tell more than places. The break that fits best (least squares for a single change of a
// mean, E. Page, Biometrika 44, 1957) is where the squared way from the start, divided by the time that it took, is
// greatest.
func (m *Motion) standsAt(h Halt, first, last, step int) int {
	away := func(k int) float64 {
		return geodesy.Distance(m.fixes[k].Lat, m.fixes[k].Lon, h.Place.Lat, h.Place.Lon)
	}
	outer := first
	for n := 0; n < longestApproach; n++ {
		k := outer - step
		if k < 0 || k >= len(m.fixes) || !m.goesOn(max(k, outer)) {
			break
		}
		outer = k
		if away(k) > 2*m.Within {
			break
		}
	}
	if outer == first {
		return first
	}
	inner := first
	for inner != last && away(inner) > m.Within/4 {
		inner += step
	}
	before := (inner - outer) * step
	count := min(2*before+6, (last-outer)*step+1)
	best, bestFit := before, 0.0
	for n := 1; n < count; n++ {
		k := outer + n*step
		d, t := m.apart(outer, k), math.Abs(m.seconds(outer, k))
		if t > 0 && d*d/t > bestFit {
			best, bestFit = n, d*d/t
		}
	}
	k := outer + best*step
	if (k-first)*step < 0 { // a halt begins in its run
		return first
	}
	return k
}

// ahead looks from a fix to the first one that is so long after it.
type ahead struct {
	m        *Motion
	from, to int
	lat, lon float64 // sums from the one up to the other; longitudes go on beyond 180 degrees
	begin    float64 // the longitude at from
	end      float64 // the longitude at to
}

// move goes on to a fix. It is false where none is so long after it, or where times run backwards.
func (a *ahead) move(i int, longer float64) bool {
	if a.to < i { // far behind: anew
		*a = ahead{m: a.m, from: i, to: i, begin: a.m.fixes[i].Lon, end: a.m.fixes[i].Lon}
	}
	if i == 0 && a.to == 0 {
		a.begin, a.end = a.m.fixes[0].Lon, a.m.fixes[0].Lon
	}
	for ; a.from < i; a.from++ {
		if a.to == a.from {
			a.take()
		}
		a.lat, a.lon = a.lat-a.m.fixes[a.from].Lat, a.lon-a.begin
		a.begin += a.step(a.from)
	}
	for a.to < len(a.m.fixes) && (a.to == i || a.m.seconds(i, a.to) < longer) {
		if a.to > i && !a.m.goesOn(a.to) {
			return false
		}
		a.take()
	}
	return a.to < len(a.m.fixes) && a.m.goesOn(a.to)
}

func (a *ahead) take() {
	a.lat, a.lon = a.lat+a.m.fixes[a.to].Lat, a.lon+a.end
	a.end += a.step(a.to)
	a.to++
}

// step is by how much the longitude differs from one fix to the next.
func (a *ahead) step(i int) float64 {
	if i+1 >= len(a.m.fixes) {
		return 0
	}
	return nav.WrapLon(a.m.fixes[i+1].Lon - a.m.fixes[i].Lon)
}

// mayStand says whether a run that begins here can last so long: the fix that long after must be near the middle of
// those before it.
func (a *ahead) mayStand(within float64) bool {
	const rounding = 1.001 // of the sums, and more
	n := float64(a.to - a.from)
	m, p := a.m, a.m.fixes[a.from]
	x, y := geodesy.NewPlane(p.Lat, 0).XY(p.Lat+m.fixes[a.to].Lat-a.lat/n, a.end-a.lon/n)
	return x*x+y*y <= within*within*rounding*rounding
}
