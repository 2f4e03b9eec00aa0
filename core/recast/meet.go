package recast

import (
	"container/heap"
	"math"
	"slices"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// end is one of the two ends of a strand: 2n is the start of the strand n, 2n+1 its end.
type end int32

func (e end) strand() int { return int(e / 2) }
func (e end) other() end  { return e ^ 1 }

// meetings finds the ends of different lines that are nearest to one another, over an index of those that are free.
// What was joined is one line, whose free ends are its own.
type meetings struct {
	points []*nav.Point // of each end
	free   rtree.RTreeG[end]
	gone   []bool
	line   []int32 // a strand of the same line, up to the first of all (union-find)
	queue  candidates
}

// candidate is the nearest free end of another line, as it was when it was looked for.
type candidate struct {
	from, to end
	gap      float64
}

type candidates []candidate

func (c candidates) Len() int { return len(c) }
func (c candidates) Less(i, j int) bool {
	if math.Abs(c[i].gap-c[j].gap) > 1e-6 {
		return c[i].gap < c[j].gap
	}
	return c[i].from.strand() < c[j].from.strand()
}
func (c candidates) Swap(i, j int) { c[i], c[j] = c[j], c[i] }
func (c *candidates) Push(x any)   { *c = append(*c, x.(candidate)) }
func (c *candidates) Pop() any {
	last := (*c)[len(*c)-1]
	*c = (*c)[:len(*c)-1]
	return last
}

func newMeetings(strands []*strand) *meetings {
	m := &meetings{gone: make([]bool, 2*len(strands)), line: make([]int32, len(strands))}
	for i, s := range strands {
		a, b := s.ends()
		m.line[i] = int32(i)
		m.points = append(m.points, a, b)
	}
	for e := range m.points {
		m.free.Insert(m.at(end(e)), m.at(end(e)), end(e))
	}
	for e := range m.points {
		m.look(end(e))
	}
	return m
}

func (m *meetings) at(e end) [2]float64 { return [2]float64{m.points[e].Lon, m.points[e].Lat} }

// lineOf gives the first strand of the line that a strand is of by now.
func (m *meetings) lineOf(strand int) int32 {
	for m.line[strand] != int32(strand) {
		m.line[strand] = m.line[m.line[strand]]
		strand = int(m.line[strand])
	}
	return int32(strand)
}

// look finds the free end of another line that is nearest to one.
func (m *meetings) look(e end) {
	p, own := m.points[e], m.lineOf(e.strand())
	best := candidate{from: e, gap: math.Inf(1)}
	m.free.Nearby(func(low, high [2]float64, _ end, _ bool) float64 {
		return shape.BoxDistance(p.Lat, p.Lon, low, high)
	}, func(_, _ [2]float64, x end, least float64) bool {
		if least > best.gap { // nothing that comes is nearer
			return false
		}
		if m.lineOf(x.strand()) != own {
			if gap := geodesy.Distance(p.Lat, p.Lon, m.points[x].Lat, m.points[x].Lon); gap < best.gap {
				best.to, best.gap = x, gap
			}
		}
		return true
	})
	if !math.IsInf(best.gap, 1) {
		heap.Push(&m.queue, best)
	}
}

// next gives the two free ends of different lines that are nearest to one another.
func (m *meetings) next() (a, b end, gap float64) {
	for m.queue.Len() > 0 {
		c := heap.Pop(&m.queue).(candidate)
		switch {
		case m.gone[c.from]:
		case m.gone[c.to] || m.lineOf(c.from.strand()) == m.lineOf(c.to.strand()):
			m.look(c.from)
		default:
			return c.from, c.to, c.gap
		}
	}
	return 0, 0, math.Inf(1)
}

// join makes one line of two, at ends that are then free no more.
func (m *meetings) join(a, b end) {
	m.line[m.lineOf(b.strand())] = m.lineOf(a.strand())
	for _, e := range []end{a, b} {
		m.gone[e] = true
		m.free.Delete(m.at(e), m.at(e), e)
	}
}

// chained puts strands end to end, the nearest ends first, as far as they are within a limit. It says how wide the
// widest gap is, how many times went since their line was turned around, and the names of those lines.
func chained(strands []*strand, limit float64) (out []*strand, widest float64, timed int, around []string) {
	m := newMeetings(strands)
	meets := make([]end, 2*len(strands)) // the end that each one meets; -1 is none
	for i := range meets {
		meets[i] = -1
	}
	for {
		a, b, gap := m.next()
		if gap > limit || math.IsInf(gap, 1) {
			break
		}
		widest = max(widest, gap)
		m.join(a, b)
		meets[a], meets[b] = b, a
	}
	done := make([]bool, len(strands))
	for i := range strands {
		if done[i] {
			continue
		}
		// From one free end of the line to the other, each strand by the end at which one comes to it.
		first := end(2 * i)
		for meets[first] >= 0 {
			first = meets[first].other()
		}
		var order []end
		for e := first; ; {
			order = append(order, e)
			done[e.strand()] = true
			if e = meets[e.other()]; e < 0 {
				break
			}
		}
		if turned(strands, order) > turned(strands, reversed(order)) {
			order = reversed(order)
		}
		var line *strand
		for _, e := range order {
			s := strands[e.strand()]
			if e%2 == 1 {
				timed += s.reverse()
				around = append(around, s.names[0])
			}
			if line == nil {
				line = s
				continue
			}
			line.append(s)
		}
		out = append(out, line)
	}
	return out, widest, timed, around
}

// reversed is the same line from its other end.
func reversed(order []end) []end {
	out := slices.Clone(order)
	slices.Reverse(out)
	for i := range out {
		out[i] = out[i].other()
	}
	return out
}

// turned says how much a line turns around: first of all the points with times, and then all of them.
func turned(strands []*strand, order []end) (weight float64) {
	for _, e := range order {
		if e%2 == 0 {
			continue
		}
		points := strands[e.strand()].segment.Points
		timed := 0
		for i := range points {
			if points[i].HasTime() {
				timed++
			}
		}
		weight += float64(timed) + float64(len(points))*1e-9
	}
	return
}
