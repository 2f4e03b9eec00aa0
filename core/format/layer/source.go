package layer

import (
	"math"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// source is a dataset as features.
type source struct {
	d           *nav.Dataset
	system      *crs.System
	trackPoints bool
	keys        *format.FieldKeys // of lines and areas
	pointKeys   *format.FieldKeys
	wholes      *format.Wholes
	layers      map[string]bool // the groups that are layers of their own
}

// layerOf gives the layer of its own that a feature belongs to; "" is none.
func (s *source) layerOf(f *raw) string {
	if s.layers[f.group] {
		return f.group
	}
	return ""
}

// raw is a feature before its attributes are told apart.
type raw struct {
	of            nav.Kind
	kind          string
	item          *nav.Item
	fields        []nav.Field
	group, line   string
	segment       int
	first         *nav.Point // of an item; nil of a point of a track
	from, to      *nav.Point // between which a track point's speed and course are; nil for others
	parts         [][]nav.Point
	outer         []bool // which parts of an area are outlines
	items, points int    // how many of the data it is
	areas         []nav.Area
	run           *Run // of a run of track points, of which it is the first; nil for others
}

// count says for how many features it stands.
func (f *raw) count() int {
	if f.run != nil {
		return len(f.run.points)
	}
	return 1
}

// all and the others say how many positions of a feature have heights.
const (
	none = iota
	some
	all
)

func (f *raw) heights() int {
	with, without := false, false
	for _, part := range f.parts {
		for i := range part {
			if part[i].HasHeight() {
				with = true
			} else {
				without = true
			}
		}
	}
	switch {
	case !with:
		return none
	case without:
		return some
	}
	return all
}

// multi says whether a feature is several points, lines or polygons.
func (f *raw) multi(g Geometry) bool {
	switch g {
	case Areas:
		n := 0
		for _, outer := range f.outer {
			if outer {
				n++
			}
		}
		return n > 1
	case Lines:
		return len(f.parts) > 1
	}
	return len(f.parts) > 1
}

var nobody = &nav.Item{}

// visit gives the features of a geometry. They hold until the next is visited. Track points may be given as runs.
func (s *source) visit(g Geometry, runs bool, visit func(*raw) error) error {
	switch g {
	case Points:
		return s.points(runs, visit)
	case Lines:
		return s.lines(visit)
	}
	var err error
	format.Runs(len(s.d.Areas), func(i, j int) bool {
		return format.SameFeature(&s.d.Areas[i].Item, &s.d.Areas[j].Item)
	}, func(from, to int) {
		if err == nil {
			err = s.areas(s.d.Areas[from:to], visit)
		}
	})
	return err
}

// degrees says whether coordinates are longitudes, which end at the antimeridian.
func (s *source) degrees() bool { return s.system.WGS84() || !s.system.Projected() }

// areas gives an area, or several that are one feature.
func (s *source) areas(parts []nav.Area, visit func(*raw) error) error {
	a := &parts[0]
	f := &raw{of: nav.Areas, kind: "area", item: &a.Item, fields: a.Fields, group: a.Group, areas: parts}
	if len(a.Outline) > 0 {
		f.first = &a.Outline[0]
	}
	for i := range parts {
		rings := parts[i].Rings()
		if len(rings[0]) < 3 {
			continue
		}
		f.items++
		f.points += parts[i].Len()
		polygons := [][][]nav.Point{rings}
		if s.degrees() {
			polygons = shape.CutArea(rings)
		}
		for _, rings := range polygons {
			for k, ring := range rings {
				f.parts, f.outer = append(f.parts, ring), append(f.outer, k == 0)
			}
		}
	}
	if f.items == 0 {
		return nil
	}
	return visit(f)
}

// cut gives the pieces of a line at the antimeridian.
func (s *source) cut(points []nav.Point) [][]nav.Point {
	if s.degrees() {
		return shape.CutLine(points)
	}
	return [][]nav.Point{points}
}

func (s *source) points(runs bool, visit func(*raw) error) error {
	var err error
	format.Runs(len(s.d.Waypoints), func(i, j int) bool {
		p, q := &s.d.Waypoints[i], &s.d.Waypoints[j]
		return format.SameFeature(&p.Item, &q.Item) && p.UnixNano() == q.UnixNano() && p.TimeMark() == q.TimeMark() &&
			(p.HasHeight() == q.HasHeight()) && (!p.HasHeight() || p.Height() == q.Height())
	}, func(from, to int) {
		if err != nil {
			return
		}
		w := &s.d.Waypoints[from]
		f := &raw{of: nav.Waypoints, kind: "waypoint", item: &w.Item, fields: w.Fields, group: w.Group,
			first: &w.Point, items: to - from, points: to - from}
		for k := from; k < to; k++ {
			f.parts = append(f.parts, []nav.Point{s.d.Waypoints[k].Point})
		}
		err = visit(f)
	})
	if err != nil {
		return err
	}
	if !s.trackPoints {
		return nil
	}
	for i := range s.d.Tracks {
		t := &s.d.Tracks[i]
		for j := range t.Segments {
			seg := &t.Segments[j]
			for k := 0; k < len(seg.Points); k++ {
				f := &raw{of: nav.Tracks, kind: "track point", item: nobody, group: t.Group, line: t.Name, segment: j + 1, items: 1,
					points: 1, parts: [][]nav.Point{seg.Points[k : k+1]}}
				f.fields = seg.Values(nil, &seg.Points[k])
				if item := seg.Item(&seg.Points[k]); item != nil {
					f.item = item
				} else if runs {
					f.run = runFrom(seg, k)
				}
				f.from, f.to = leg(seg.Points, k)
				if err := visit(f); err != nil {
					return err
				}
				k += f.count() - 1
			}
		}
	}
	return nil
}

// leg gives that with which a point was reached, and for the first one that with which it was left; nil if there is
// none.
func leg(points []nav.Point, k int) (from, to *nav.Point) {
	if a := max(k-1, 0); a+1 < len(points) {
		return &points[a], &points[a+1]
	}
	return nil, nil
}

// motion works out the speed (m/s, to a millimetre) and course (degrees, to a tenth) from one point to the next; NaN
// where there is none.
func motion(p, q *nav.Point) (speed, course float64) {
	if p == nil || p.SamePlace(q) {
		return math.NaN(), math.NaN()
	}
	distance, direction := geodesy.NewPlane(p.Lat, p.Lon).Polar(q.Lat, q.Lon)
	if course = 450 - direction*180/math.Pi; course >= 360 {
		course -= 360
	}
	speed, course = math.NaN(), math.Round(10*course)/10
	if seconds := q.Since(p).Seconds(); p.HasTime() && q.HasTime() && seconds > 0 {
		speed = math.Round(1000*distance/seconds) / 1000
	}
	return
}

func (s *source) lines(visit func(*raw) error) error {
	for i := range s.d.Routes {
		r := &s.d.Routes[i]
		if len(r.Points) < 2 {
			continue
		}
		points := make([]nav.Point, len(r.Points))
		for j := range r.Points {
			points[j] = r.Points[j].Point
		}
		if err := visit(&raw{of: nav.Routes, kind: "route", item: &r.Item, fields: r.Fields,
			group: r.Group, first: &points[0], parts: s.cut(points), items: 1, points: len(points)}); err != nil {
			return err
		}
	}
	for i := range s.d.Tracks {
		t := &s.d.Tracks[i]
		var parts [][]nav.Point
		var first *nav.Point
		n := 0
		for j := range t.Segments {
			points := t.Segments[j].Points
			if first == nil && len(points) > 0 {
				first = &points[0]
			}
			if len(points) > 1 {
				parts = append(parts, s.cut(points)...)
				n += len(points)
			}
		}
		if len(parts) == 0 {
			continue
		}
		if err := visit(&raw{of: nav.Tracks, kind: "track", item: &t.Item, fields: t.Fields,
			group: t.Group, first: first, parts: parts, items: 1, points: n}); err != nil {
			return err
		}
	}
	return nil
}
