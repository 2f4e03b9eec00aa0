package layer

import (
	"strconv"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// source is a dataset as features.
type source struct {
	d           *nav.Dataset
	system      *crs.System
	trackPoints bool
}

// raw is a feature before its attributes are told apart.
type raw struct {
	of            nav.Kind
	kind          string
	item          *nav.Item
	fields        []nav.Field
	group, line   string
	segment       int
	speed, course string
	parts         [][]nav.Point
}

var nobody = &nav.Item{}

// visit gives the features of a geometry. They hold until the next is visited.
func (s *source) visit(g Geometry, visit func(*raw) error) error {
	switch g {
	case Points:
		return s.points(visit)
	case Lines:
		return s.lines(visit)
	}
	for i := range s.d.Areas {
		a := &s.d.Areas[i]
		if len(a.Outline) < 3 {
			continue
		}
		if err := visit(&raw{of: nav.Areas, kind: "area", item: &a.Item, fields: a.Fields, group: a.Group,
			parts: a.Rings()}); err != nil {
			return err
		}
	}
	return nil
}

func (s *source) points(visit func(*raw) error) error {
	for i := range s.d.Waypoints {
		w := &s.d.Waypoints[i]
		if err := visit(&raw{of: nav.Waypoints, kind: "waypoint", item: &w.Item, fields: w.Fields, group: w.Group,
			parts: [][]nav.Point{{w.Point}}}); err != nil {
			return err
		}
	}
	if !s.trackPoints {
		return nil
	}
	for i := range s.d.Tracks {
		t := &s.d.Tracks[i]
		for j := range t.Segments {
			seg := &t.Segments[j]
			for k := range seg.Points {
				f := &raw{of: nav.Tracks, kind: "track point", item: nobody, group: t.Group, line: t.Name, segment: j + 1,
					parts: [][]nav.Point{seg.Points[k : k+1]}}
				if x := seg.Detail(&seg.Points[k]); x != nil {
					f.fields = x.Values
					if x.Item != nil {
						f.item = x.Item
					}
				}
				f.speed, f.course = motion(seg.Points, k)
				if err := visit(f); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// motion works out the speed (m/s) and course (degrees) with which a point was reached, or of the first one left.
func motion(points []nav.Point, k int) (speed, course string) {
	a, b := k-1, k
	if k == 0 {
		a, b = 0, 1
	}
	if b >= len(points) {
		return
	}
	p, q := &points[a], &points[b]
	if p.SamePlace(q) {
		return
	}
	distance, from, _ := geodesy.Inverse(p.Lat, p.Lon, q.Lat, q.Lon)
	if from < 0 {
		from += 360
	}
	course = string(nav.AppendShort(nil, from, 1))
	if seconds := float64(q.UnixNano()-p.UnixNano()) / 1e9; p.HasTime() && q.HasTime() && seconds > 0 {
		speed = string(nav.AppendShort(nil, distance/seconds, 3))
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
		if err := visit(&raw{of: nav.Routes, kind: "route", item: &r.Item, fields: withNumber(r.Fields, r.Number),
			group: r.Group, parts: [][]nav.Point{points}}); err != nil {
			return err
		}
	}
	for i := range s.d.Tracks {
		t := &s.d.Tracks[i]
		var parts [][]nav.Point
		for j := range t.Segments {
			if len(t.Segments[j].Points) > 1 {
				parts = append(parts, t.Segments[j].Points)
			}
		}
		if len(parts) == 0 {
			continue
		}
		if err := visit(&raw{of: nav.Tracks, kind: "track", item: &t.Item, fields: withNumber(t.Fields, t.Number),
			group: t.Group, parts: parts}); err != nil {
			return err
		}
	}
	return nil
}

// withNumber adds the number of a route or track as a field.
func withNumber(fields []nav.Field, number string) []nav.Field {
	if _, err := strconv.Atoi(number); err != nil {
		return fields
	}
	if _, ok := nav.Get(fields, "number"); ok {
		return fields
	}
	return append(fields[:len(fields):len(fields)], nav.Field{Key: "number", Value: number})
}
