// Package compare tells two datasets apart, item by item: what was added, lost, renamed or moved, and which heights and
// times were added or removed. Items are matched by what they are, not by their order.
package compare

import (
	"fmt"
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Options say what counts as a difference.
type Options struct {
	Within float64 // metres that a position may be off, for a format that rounds
}

// Difference is one thing that tells the second dataset from the first.
type Difference struct {
	Kind   nav.Kind `json:"-"`
	Word   string   `json:"kind"`
	Name   string   `json:"name,omitempty"`
	What   Change   `json:"what"`
	Old    string   `json:"old,omitempty"`
	New    string   `json:"new,omitempty"`
	Metres float64  `json:"metres,omitempty"` // how far at the most
	Count  int      `json:"count,omitempty"`
	Lat    float64  `json:"lat,omitempty"` // where the farthest one was
	Lon    float64  `json:"lon,omitempty"`
}

// Change is one sort of difference; "name" and the like tell which property is another one.
type Change string

// The sorts of differences besides those of a property.
const (
	Added          Change = "added"
	Lost           Change = "lost"
	Renamed        Change = "renamed"
	Moved          Change = "moved"
	OtherSegments  Change = "segments"
	PointsLost     Change = "points lost"
	PointsAdded    Change = "points added"
	HeightsGiven   Change = "heights given"
	HeightsLost    Change = "heights lost"
	HeightsChanged Change = "heights changed"
	TimesChanged   Change = "times changed"
)

// Result is the differences, and the largest shift of all matched positions, those within the tolerance too.
type Result struct {
	Differences []Difference `json:"differences"`
	Largest     float64      `json:"largest_shift_m"`
	Matched     int          `json:"matched"`
}

// thing is an item of any kind as compare sees it.
type thing struct {
	kind  nav.Kind
	item  *nav.Item
	lines [][]nav.Point
	names []string // of a route's points
	taken bool
}

func things(d *nav.Dataset, kind nav.Kind) []thing {
	var out []thing
	switch kind {
	case nav.Waypoints:
		for i := range d.Waypoints {
			w := &d.Waypoints[i]
			out = append(out, thing{kind: kind, item: &w.Item, lines: [][]nav.Point{{w.Point}}})
		}
	case nav.Routes:
		for i := range d.Routes {
			r := &d.Routes[i]
			t := thing{kind: kind, item: &r.Item, lines: [][]nav.Point{r.Line()}}
			for j := range r.Points {
				t.names = append(t.names, r.Points[j].Name)
			}
			out = append(out, t)
		}
	case nav.Tracks:
		for i := range d.Tracks {
			t := thing{kind: kind, item: &d.Tracks[i].Item}
			for _, s := range d.Tracks[i].Segments {
				t.lines = append(t.lines, s.Points)
			}
			out = append(out, t)
		}
	case nav.Areas:
		for i := range d.Areas {
			out = append(out, thing{kind: kind, item: &d.Areas[i].Item, lines: d.Areas[i].Rings()})
		}
	}
	return out
}

func (t *thing) count() (n int) {
	for _, l := range t.lines {
		n += len(l)
	}
	return
}

func (t *thing) first() (nav.Point, bool) {
	for _, l := range t.lines {
		if len(l) > 0 {
			return l[0], true
		}
	}
	return nav.Point{}, false
}

// standing is what an item that has not changed can be found by.
type standing struct {
	name     string
	lat, lon float64
	count    int
}

func (t *thing) standing() standing {
	p, _ := t.first()
	return standing{t.item.Name, p.Lat, p.Lon, t.count()}
}

// roughly tells which of several positions is the nearest; it is no distance.
func roughly(p, q *nav.Point) float64 {
	dlon := nav.WrapLon(p.Lon-q.Lon) * math.Cos(p.Lat*math.Pi/180)
	return math.Hypot(p.Lat-q.Lat, dlon)
}

func apart(p, q *nav.Point) float64 { return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) }

// Compare finds what tells b from a.
func Compare(a, b *nav.Dataset, opt Options) Result {
	var r Result
	for _, kind := range nav.Kinds {
		r.kind(things(a, kind), things(b, kind), opt)
	}
	return r
}

// kind matches the things of one kind: first those of the same name, the nearest with the nearest; then by
// their place, which finds what was renamed.
func (r *Result) kind(a, b []thing, opt Options) {
	m := &matching{a: a, b: b, partner: make([]int, len(a)), opt: opt}
	m.byStanding()
	m.byName()
	var lost []int
	for i := range a {
		if a[i].taken {
			r.pair(&a[i], &b[m.partner[i]], opt)
		} else {
			lost = append(lost, i)
		}
	}
	near := m.places(lost)
	for _, i := range lost {
		t := &a[i]
		j := m.nearby(t, near)
		if j < 0 {
			r.add(t, Difference{What: Lost, Count: t.count()})
			continue
		}
		b[j].taken = true
		r.add(t, Difference{What: Renamed, Old: t.item.Name, New: b[j].item.Name})
		r.pair(t, &b[j], opt)
	}
	for j := range b {
		if !b[j].taken {
			r.add(&b[j], Difference{What: Added, Count: b[j].count()})
		}
	}
}

// matching finds for each thing of one dataset its partner in another.
type matching struct {
	a, b    []thing
	partner []int // of the taken ones of a
	opt     Options
}

// nearest gives the nearest of the candidates that is free and within a limit in metres; below zero for none.
func (m *matching) nearest(t *thing, candidates []int, limit float64) int {
	p, ok := t.first()
	nearest, at := math.Inf(1), -1
	for _, i := range candidates {
		if m.b[i].taken {
			continue
		}
		d := 0.0
		if q, ok2 := m.b[i].first(); ok && ok2 {
			d = roughly(&p, &q)
		}
		if d == 0 && m.b[i].count() == t.count() {
			return i
		}
		if d < nearest || at < 0 {
			nearest, at = d, i
		}
	}
	if at >= 0 && ok && !math.IsInf(limit, 1) {
		if q, ok2 := m.b[at].first(); ok2 && apart(&p, &q) > limit {
			return -1
		}
	}
	return at
}

func (m *matching) take(i, j int) {
	m.partner[i] = j
	m.a[i].taken, m.b[j].taken = true, true
}

// byStanding matches those of one name that stand where they stood.
func (m *matching) byStanding() {
	still := make(map[standing][]int)
	for j := range m.b {
		still[m.b[j].standing()] = append(still[m.b[j].standing()], j)
	}
	for i := range m.a {
		at := m.a[i].standing()
		if same := still[at]; len(same) > 0 {
			still[at] = same[1:]
			m.take(i, same[0])
		}
	}
}

// byName matches those of one name: first those that are within the tolerance, then the nearest with the nearest.
func (m *matching) byName() {
	names := make(map[string][]int)
	for j := range m.b {
		if !m.b[j].taken {
			names[m.b[j].item.Name] = append(names[m.b[j].item.Name], j)
		}
	}
	for _, limit := range [2]float64{m.opt.Within, math.Inf(1)} {
		for i := range m.a {
			if m.a[i].taken {
				continue
			}
			if j := m.nearest(&m.a[i], names[m.a[i].item.Name], limit); j >= 0 {
				m.take(i, j)
			}
		}
	}
}

// nearPlace is within how many metres what has lost its name is looked for.
const nearPlace = 10

// places sorts what is free by its place; nil where nothing is looked for.
func (m *matching) places(lost []int) *shape.Grid {
	if len(lost) == 0 {
		return nil
	}
	near := shape.NewGrid(max(nearPlace, m.opt.Within))
	for j := range m.b {
		if p, ok := m.b[j].first(); ok && !m.b[j].taken {
			near.Add(j, "", p.Lat, p.Lon)
		}
	}
	return near
}

// nearby finds what stands near the old place of a thing under another name.
func (m *matching) nearby(t *thing, places *shape.Grid) int {
	p, ok := t.first()
	if !ok {
		return -1
	}
	var near []int
	places.Near("", p.Lat, p.Lon, func(j int) {
		if t.kind == nav.Waypoints || m.b[j].count() == t.count() {
			near = append(near, j)
		}
	})
	slices.Sort(near)
	return m.nearest(t, near, max(nearPlace, m.opt.Within))
}

func (r *Result) add(t *thing, d Difference) {
	d.Kind, d.Word, d.Name = t.kind, t.kind.One(), t.item.Name
	r.Differences = append(r.Differences, d)
}

// pair compares two things that are the same item.
func (r *Result) pair(a, b *thing, opt Options) {
	r.Matched++
	if len(a.lines) == len(b.lines) && a.count() == b.count() && sameLengths(a, b) {
		r.positions(a, b, opt)
		r.counts(a, b)
	} else {
		if len(a.lines) != len(b.lines) {
			r.add(a, Difference{What: OtherSegments, Old: fmt.Sprint(len(a.lines)), New: fmt.Sprint(len(b.lines))})
		}
		r.changedLine(a, b)
	}
	for i := range min(len(a.names), len(b.names)) {
		if a.names[i] != b.names[i] {
			r.add(a, Difference{What: Change(fmt.Sprintf("name of point %d", i+1)), Old: a.names[i], New: b.names[i]})
		}
	}
	for _, v := range [...]struct{ what, old, new string }{
		{"symbol", a.item.Style.Symbol, b.item.Style.Symbol},
		{"colour", a.item.Style.Colour.String(), b.item.Style.Colour.String()},
		{"group", a.item.Group, b.item.Group},
		{"description", a.item.Desc, b.item.Desc},
	} {
		if v.old != v.new {
			r.add(a, Difference{What: Change(v.what), Old: v.old, New: v.new})
		}
	}
}

func sameLengths(a, b *thing) bool {
	for i := range a.lines {
		if len(a.lines[i]) != len(b.lines[i]) {
			return false
		}
	}
	return true
}

// positions compares point by point.
func (r *Result) positions(a, b *thing, opt Options) {
	moved, far := 0, 0.0
	var where nav.Point
	heights, times := 0, 0
	for i := range a.lines {
		for j := range a.lines[i] {
			p, q := &a.lines[i][j], &b.lines[i][j]
			if !p.SamePlace(q) {
				d := apart(p, q)
				r.Largest = max(r.Largest, d)
				if d > opt.Within {
					moved++
					if d > far {
						far, where = d, *q
					}
				}
			}
			if p.HasHeight() && q.HasHeight() && math.Abs(p.Height()-q.Height()) > max(opt.Within, 1e-9) {
				heights++
			}
			if p.HasTime() && q.HasTime() && p.UnixNano() != q.UnixNano() {
				times++
			}
		}
	}
	if moved > 0 {
		r.add(a, Difference{What: Moved, Count: moved, Metres: far, Lat: where.Lat, Lon: where.Lon})
	}
	if heights > 0 {
		r.add(a, Difference{What: HeightsChanged, Count: heights})
	}
	if times > 0 {
		r.add(a, Difference{What: TimesChanged, Count: times})
	}
}

type spot struct {
	lat, lon float64
	time     int64
}

// changedLine compares lines that have not the same points: how many are gone, how far these are from the line that is
// left, how many are new, and which of the others were given a height or lost one.
func (r *Result) changedLine(a, b *thing) {
	at := make(map[spot][]*nav.Point, b.count())
	var line []nav.Point
	index := make(map[*nav.Point]int, b.count())
	for _, l := range b.lines {
		for i := range l {
			p := &l[i]
			at[key(p)] = append(at[key(p)], p)
			index[p] = len(line)
			line = append(line, *p)
		}
	}
	gone, given, heightsLost := Difference{What: PointsLost}, 0, 0
	here := 0 // in the new line, behind the last point that both have
	for _, l := range a.lines {
		for i := range l {
			p := &l[i]
			if same := at[key(p)]; len(same) > 0 {
				at[key(p)] = same[1:]
				here = index[same[0]]
				switch {
				case !p.HasHeight() && same[0].HasHeight():
					given++
				case p.HasHeight() && !same[0].HasHeight():
					heightsLost++
				}
				continue
			}
			gone.Count++
			if here+1 < len(line) {
				if off := shape.DistanceToLeg(p, &line[here], &line[here+1]); off > gone.Metres {
					gone.Metres, gone.Lat, gone.Lon = off, p.Lat, p.Lon
				}
			}
		}
	}
	added := 0
	for _, left := range at {
		added += len(left)
	}
	count := func(d Difference) {
		if d.Count > 0 {
			r.add(a, d)
		}
	}
	gone.Old, gone.New = fmt.Sprint(a.count()), fmt.Sprint(b.count())
	count(gone)
	count(Difference{What: PointsAdded, Count: added})
	count(Difference{What: HeightsGiven, Count: given})
	count(Difference{What: HeightsLost, Count: heightsLost})
}

func key(p *nav.Point) spot { return spot{p.Lat, p.Lon, p.UnixNano()} }

// counts compares how many points have a height and a time.
func (r *Result) counts(a, b *thing) {
	var n [2][2]int
	for side, t := range [2]*thing{a, b} {
		for _, l := range t.lines {
			for i := range l {
				if l[i].HasHeight() {
					n[side][0]++
				}
				if l[i].HasTime() {
					n[side][1]++
				}
			}
		}
	}
	for i, what := range [2]string{"heights", "times"} {
		switch was, is := n[0][i], n[1][i]; {
		case was < is:
			r.add(a, Difference{What: Change(what + " given"), Count: is - was})
		case was > is:
			r.add(a, Difference{What: Change(what + " lost"), Count: was - is})
		}
	}
}
