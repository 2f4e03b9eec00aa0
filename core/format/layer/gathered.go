package layer

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/headings"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// gathering are the columns of a layer of points that say to which line each belongs; -1 is none.
type gathering struct {
	line, segment, number int
	all                   []gathered
	at                    map[string]int
	timed, named          bool // some point has a time, a name
}

// gathered is a line while its points come.
type gathered struct {
	name, group string
	segments    []nav.Segment
	parts       []string // what the segment column has for each
	order       [][]float64
}

// gathers finds the columns: the one that the user names, or two that number tracks and segments or points.
func (b *Builder) gathers() {
	b.gathering = gathering{line: -1, segment: -1, number: -1, at: map[string]int{}}
	g := &b.gathering
	for i, t := range b.titles {
		words := strings.Fields(headings.Folded(t))
		has := func(word string) bool {
			return slices.ContainsFunc(words, func(w string) bool { return strings.HasPrefix(w, word) })
		}
		switch {
		case b.opt.LineBy != "":
			if headings.Folded(t) == headings.Folded(b.opt.LineBy) {
				g.line = i
			}
		case !b.numbers[i] || !has("track"):
			if b.numbers[i] && has("seg") && !has("point") {
				g.segment = i
			}
		case has("point"):
			g.number = i
		case has("seg"):
			g.segment = i
		case len(words) == 1 || has("id") || has("fid") || has("no") || has("nr") || has("num"):
			g.line = i
		}
	}
	if b.opt.LineBy == "" && (g.line < 0 || g.segment < 0 && g.number < 0) {
		g.line, g.segment, g.number = -1, -1, -1
	}
	for _, i := range []int{g.line, g.segment, g.number} {
		if i >= 0 {
			b.meanings[i] = gatheredColumn
		}
	}
}

// gatheredColumn is the meaning of a column that says where a point belongs.
const gatheredColumn = "gathered"

// gather puts a point to its line, and says whether it belongs to one.
func (b *Builder) gather(values []string, w *nav.Waypoint) bool {
	g := &b.gathering
	if g.line < 0 || values[g.line] == "" {
		return false
	}
	name, part := values[g.line], ""
	if g.segment >= 0 {
		part = values[g.segment]
	}
	key := w.Group + "\x00" + name
	at, known := g.at[key]
	if !known {
		at = len(g.all)
		g.at[key] = at
		g.all = append(g.all, gathered{name: name, group: w.Group})
	}
	l := &g.all[at]
	k := len(l.parts) - 1
	if k < 0 || l.parts[k] != part {
		if k = slices.Index(l.parts, part); k < 0 {
			k = len(l.parts)
			l.parts, l.segments, l.order = append(l.parts, part), append(l.segments, nav.Segment{}), append(l.order, nil)
		}
	}
	l.segments[k].Add(w)
	g.timed, g.named = g.timed || w.HasTime(), g.named || w.Name != ""
	if g.number >= 0 {
		v, _, ok := decimal.Parse([]byte(values[g.number]))
		if !ok {
			v = math.Inf(1)
		}
		l.order[k] = append(l.order[k], v)
	}
	return true
}

// Finish makes the lines that points were gathered for: tracks, or routes where the points have names and no times.
func (b *Builder) Finish() {
	g := &b.gathering
	if len(g.all) == 0 {
		return
	}
	for i := range g.all {
		l := &g.all[i]
		for k := range l.order {
			l.segments[k].Order(l.order[k])
		}
		item := nav.Item{Name: l.name, Group: l.group}
		if !g.named || g.timed || len(l.segments) > 1 {
			b.d.Tracks = append(b.d.Tracks, nav.Track{Item: item, Segments: l.segments})
			continue
		}
		b.d.Routes = append(b.d.Routes, nav.Route{Item: item, Points: l.segments[0].Waypoints()})
	}
	b.d.Tell(nav.ProblemLines, fmt.Sprintf("points make tracks or routes by the column %q", b.titles[g.line]))
	g.all = nil
}

// fromColumns makes a point of a record without a geometry whose columns hold a latitude and a longitude, and says
// whether they do.
func (b *Builder) fromColumns(values []string, record int) bool {
	if b.placed == nil {
		b.placed = []int{-1, -1}
		for i, m := range headings.Meanings(b.titles, "lat", "lon") {
			switch m {
			case "lat":
				b.placed[0] = i
			case "lon":
				b.placed[1] = i
			}
		}
	}
	lat, lon := b.placed[0], b.placed[1]
	if lat < 0 || lon < 0 || len(values) <= max(lat, lon) {
		return false
	}
	y, _, ok1 := decimal.Parse([]byte(strings.TrimSpace(values[lat])))
	x, _, ok2 := decimal.Parse([]byte(strings.TrimSpace(values[lon])))
	if !ok1 || !ok2 || !nav.Usable(y, x) {
		return false
	}
	b.d.Note(nav.ProblemPlaces, fmt.Sprintf("a record without a geometry has its position from the columns %s and %s",
		b.titles[lat], b.titles[lon]), record, 0).Info = true
	system, hasZ, hasM := b.system, b.HasZ, b.HasM
	b.system, b.HasZ, b.HasM = nil, false, false
	b.Points([]Position{{X: x, Y: y, Z: math.NaN()}}, values, record)
	b.system, b.HasZ, b.HasM = system, hasZ, hasM
	return true
}

// FromColumns says whether columns of these titles hold latitudes and longitudes.
func FromColumns(titles []string) bool {
	m := headings.Meanings(titles, "lat", "lon")
	return slices.Contains(m, "lat") && slices.Contains(m, "lon")
}

// measures settles what the measures (M) of points are: times, in seconds or milliseconds since 1970 that never go
// back, or values.
func (b *Builder) measures(all []float64, record int) (times bool) {
	last, n := int64(0), 0
	for _, m := range all {
		if math.IsNaN(m) {
			continue
		}
		ns, _, ok := sinceEpoch(m)
		if !ok || ns < last {
			return false
		}
		last, n = ns, n+1
	}
	if n > 0 {
		b.d.Note(nav.ProblemTimes, "M values are times since 1970, and were read so", record, 0).Info = true
	}
	return n > 0
}

// sinceEpoch takes a number for a time since 1970.
func sinceEpoch(m float64) (ns int64, mark instant.Mark, ok bool) {
	return instant.SinceEpoch(string(decimal.AppendShort(nil, m, 3)))
}

// measured gives a point its measure, as its time or as a value to go with it.
func measured(p *nav.Point, m float64, times bool) []nav.Field {
	switch {
	case math.IsNaN(m):
		return nil
	case times && !p.HasTime():
		ns, mark, _ := sinceEpoch(m)
		p.SetTime(ns, mark)
		return nil
	}
	return []nav.Field{{Key: "m", Value: string(decimal.AppendShort(nil, m, 9)), Literal: true}}
}
