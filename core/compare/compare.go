// Package compare tells two datasets apart, item by item: what was added, lost, renamed or moved, and what is said of
// an item that is another in the other. Items are matched by their identity, not by their order.
package compare

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Options say what counts as a difference.
type Options struct {
	Within    float64  // metres that a position may be off, for a format that rounds
	Only, Not []string // properties that are compared, or are not; none is all
}

// items is the word for whole items that are in one dataset alone.
const items = "items"

// Words lists what can be compared: whole items, and what is said of them.
func Words() []string { return append([]string{items}, identity.Words()...) }

// IsWord says whether a word names something that can be compared; a single field is "field KEY".
func IsWord(word string) bool {
	return slices.Contains(Words(), word) || strings.HasPrefix(word, identity.FieldWord)
}

// wants says whether a property is compared.
func (o *Options) wants(property string) bool {
	named := func(list []string) bool {
		return slices.Contains(list, property) ||
			property == identity.Position && slices.Contains(list, identity.Course) ||
			strings.HasPrefix(property, identity.FieldWord) && slices.Contains(list, "fields")
	}
	return (len(o.Only) == 0 || named(o.Only)) && !named(o.Not)
}

// Difference is one thing that tells the second dataset from the first.
type Difference struct {
	Kind   nav.Kind `json:"-"`
	Word   string   `json:"kind"`
	Name   string   `json:"name,omitempty"`
	What   Change   `json:"property"`
	Old    string   `json:"old,omitempty"`
	New    string   `json:"new,omitempty"`
	Metres float64  `json:"shift_m,omitempty"` // how far at the most
	Count  int      `json:"count,omitempty"`
	Lat    float64  `json:"lat,omitempty"` // where the farthest one was
	Lon    float64  `json:"lon,omitempty"`

	Doubtful bool `json:"ambiguous,omitempty"` // it could be one of several on the other side
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

	opt Options
}

// thing is an item of any kind as compare sees it.
type thing struct {
	identity.Thing
	lines [][]nav.Point
}

func (t *thing) count() (n int) { return t.Points() }

func apart(p, q *nav.Point) float64 { return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) }

// Compare finds what tells b from a. The error is that of the context.
func Compare(ctx context.Context, a, b *nav.Dataset, opt Options) (*Result, error) {
	r := &Result{opt: opt}
	for _, kind := range nav.Kinds {
		if err := r.kind(ctx, identity.Things(a, kind), identity.Things(b, kind)); err != nil {
			return nil, err
		}
	}
	return r, nil
}

// kind compares the things of one kind: pair by pair, then what is in one alone.
func (r *Result) kind(ctx context.Context, a, b []identity.Thing) error {
	m := identity.Match(a, b, r.opt.Within)
	for i := range a {
		if err := ctx.Err(); err != nil {
			return err
		}
		x := &thing{a[i], a[i].Lines()}
		if j := m.First[i]; j >= 0 {
			r.pair(x, &thing{b[j], b[j].Lines()})
		} else {
			r.add(x, items, Difference{What: Lost, Count: x.count(), Doubtful: doubtful(m.Ambiguous[0], i)})
		}
	}
	for j := range b {
		if m.Second[j] < 0 {
			x := &thing{b[j], nil}
			r.add(x, items, Difference{What: Added, Count: x.count(), Doubtful: doubtful(m.Ambiguous[1], j)})
		}
	}
	return ctx.Err()
}

func doubtful(list []int, i int) bool {
	_, found := slices.BinarySearch(list, i)
	return found
}

// add adds a difference of a property, if that is one of those that are asked for.
func (r *Result) add(t *thing, property string, d Difference) {
	if !r.opt.wants(property) {
		return
	}
	d.Kind, d.Word, d.Name = t.Kind, t.Kind.One(), t.Item.Name
	r.Differences = append(r.Differences, d)
}

// pair compares two things that are the same item.
func (r *Result) pair(a, b *thing) {
	r.Matched++
	if len(a.lines) == len(b.lines) && a.count() == b.count() && sameLengths(a, b) {
		r.positions(a, b)
		r.counts(a, b)
	} else {
		if len(a.lines) != len(b.lines) {
			r.add(a, identity.Course, Difference{What: OtherSegments, Old: fmt.Sprint(len(a.lines)),
				New: fmt.Sprint(len(b.lines))})
		}
		r.changedLine(a, b)
	}
	r.properties(a, &a.Thing, &b.Thing, "")
	if a.Kind != nav.Routes {
		return
	}
	for i := range min(len(a.Route.Points), len(b.Route.Points)) {
		p, q := &a.Route.Points[i], &b.Route.Points[i]
		r.properties(a, &identity.Thing{Kind: nav.Waypoints, Item: &p.Item, Waypoint: p},
			&identity.Thing{Kind: nav.Waypoints, Item: &q.Item, Waypoint: q}, fmt.Sprintf(" of point %d", i+1))
	}
}

// measured are the properties that are compared position by position.
var measured = []string{"id", identity.Position, identity.Course, identity.Height, identity.Time}

// properties compares what is said of two things; of is what they are of the item, "" for the item itself.
func (r *Result) properties(t *thing, a, b *identity.Thing, of string) {
	for _, p := range identity.Properties(a, b) {
		old, is := p.Get(a), p.Get(b)
		if old == is || slices.Contains(measured, p.Word) {
			continue
		}
		what := Change(p.Word + of)
		if what == identity.Name {
			what = Renamed
		}
		r.add(t, p.Word, Difference{What: what, Old: p.Show(a), New: p.Show(b)})
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
func (r *Result) positions(a, b *thing) {
	moved, far := 0, 0.0
	var where nav.Point
	heights, times := 0, 0
	for i := range a.lines {
		for j := range a.lines[i] {
			p, q := &a.lines[i][j], &b.lines[i][j]
			if !p.SamePlace(q) {
				d := apart(p, q)
				r.Largest = max(r.Largest, d)
				if d > r.opt.Within {
					moved++
					if d > far {
						far, where = d, *q
					}
				}
			}
			if p.HasHeight() && q.HasHeight() && math.Abs(p.Height()-q.Height()) > max(r.opt.Within, 1e-9) {
				heights++
			}
			if p.HasTime() && q.HasTime() && p.UnixNano() != q.UnixNano() {
				times++
			}
		}
	}
	if moved > 0 {
		r.add(a, identity.Position, Difference{What: Moved, Count: moved, Metres: far, Lat: where.Lat, Lon: where.Lon})
	}
	if heights > 0 {
		r.add(a, identity.Height, Difference{What: HeightsChanged, Count: heights})
	}
	if times > 0 {
		r.add(a, identity.Time, Difference{What: TimesChanged, Count: times})
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
	count := func(property string, d Difference) {
		if d.Count > 0 {
			r.add(a, property, d)
		}
	}
	gone.Old, gone.New = fmt.Sprint(a.count()), fmt.Sprint(b.count())
	count(identity.Course, gone)
	count(identity.Course, Difference{What: PointsAdded, Count: added})
	count(identity.Height, Difference{What: HeightsGiven, Count: given})
	count(identity.Height, Difference{What: HeightsLost, Count: heightsLost})
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
		property := [2]string{identity.Height, identity.Time}[i]
		switch was, is := n[0][i], n[1][i]; {
		case was < is:
			r.add(a, property, Difference{What: Change(what + " given"), Count: is - was})
		case was > is:
			r.add(a, property, Difference{What: Change(what + " lost"), Count: was - is})
		}
	}
}
