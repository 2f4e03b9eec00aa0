// Package layer turns datasets into layers as geographic information systems have them, features of one geometry with a
// table of attributes, and back. The formats of such systems share it.
package layer

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// Geometry is the sort of a layer's features.
type Geometry uint8

// The geometries.
const (
	Points Geometry = iota
	Lines
	Areas
)

func (g Geometry) String() string { return [...]string{"points", "lines", "areas"}[g] }

// Type is the type of an attribute's values.
type Type uint8

// The types. A number is not one that has zeros in front, since that is a name.
const (
	Empty Type = iota
	Integer
	Decimal
	Date // 2026-03-14
	Time // 2026-03-14T05:30:00Z
	Text
)

// Column is an attribute of a layer.
type Column struct {
	Name     string
	Type     Type
	Width    int // the bytes of the longest value
	Decimals int // the most decimals of a Decimal
}

// Position is a coordinate in the layer's system.
type Position struct{ X, Y, Z float64 }

// Feature is one item: a point is one part of one position, a line has parts, an area rings, of which the first is the
// outline. Rings repeat their first position. It holds until the next is visited.
type Feature struct {
	Parts  [][]Position
	Values []string // as the columns; "" is absent
}

// Layer is what is written of one geometry, or of one kind.
type Layer struct {
	Name     string // points, lines and areas; or waypoints, track_points, routes, tracks and areas
	Geometry Geometry
	Columns  []Column
	HasZ     bool // every position has a height
	Count    int

	from  *source
	of    string // the kind that is taken; "" is every one
	index map[string]int
}

// byGeometry and byKind are the layers that data are split into.
var (
	byGeometry = []Layer{{Name: "points", Geometry: Points}, {Name: "lines", Geometry: Lines},
		{Name: "areas", Geometry: Areas}}
	byKind = []Layer{{Name: "waypoints", Geometry: Points, of: "waypoint"}, {Name: "track_points", Geometry: Points,
		of: "track point"},
		{Name: "routes", Geometry: Lines, of: "route"}, {Name: "tracks", Geometry: Lines, of: "track"},
		{Name: "areas", Geometry: Areas}}
)

// visit gives the features of the layer.
func (l *Layer) visit(visit func(*raw) error) error {
	return l.from.visit(l.Geometry, func(f *raw) error {
		if l.of != "" && l.of != f.kind {
			return nil
		}
		return visit(f)
	})
}

// Of gives the layers of a dataset that hold anything, one a geometry or one a kind, and the ledger of what they can't
// hold.
func Of(d *nav.Dataset, opt *format.WriteOptions, kinds bool, name, title string) ([]*Layer, *format.Written) {
	done := &format.Written{}
	split := byGeometry
	if kinds {
		split = byKind
	}
	src := &source{d: d, system: opt.System, trackPoints: opt.TrackPoints}
	var out []*Layer
	for _, l := range split {
		l := &l
		l.from, l.index = src, map[string]int{}
		heights, without := 0, 0
		var last *nav.Item
		l.visit(func(f *raw) error {
			ofTrack := l.Geometry == Points && f.of == nav.Tracks // counted with their lines
			if f.item != last && !ofTrack {
				done.Items[f.of]++
				last = f.item
			}
			l.Count++
			for _, part := range f.parts {
				if !ofTrack {
					done.Points += len(part)
				}
				for i := range part {
					if part[i].HasHeight() {
						heights++
					} else {
						without++
					}
				}
			}
			return nil
		})
		if l.Count == 0 {
			continue
		}
		l.HasZ = heights > 0 && without == 0
		l.visit(func(f *raw) error {
			l.attributes(f, func(key, value string) {
				i, ok := l.index[key]
				if !ok {
					i = len(l.Columns)
					l.index[key] = i
					l.Columns = append(l.Columns, Column{Name: key})
				}
				l.Columns[i].take(value)
			})
			return nil
		})
		out = append(out, l)
	}
	done.Ledger = src.ledger(name, title, out)
	return out, done
}

// take lets a column hold a value more.
func (c *Column) take(value string) {
	if value == "" {
		return
	}
	t, decimals := typeOf(value)
	c.Width = max(c.Width, len(value))
	c.Decimals = max(c.Decimals, decimals)
	switch {
	case c.Type == Empty:
		c.Type = t
	case c.Type == t:
	case (c.Type == Integer || c.Type == Decimal) && (t == Integer || t == Decimal):
		c.Type = Decimal
	default:
		c.Type = Text
	}
}

// typeOf says what a value is.
func typeOf(value string) (t Type, decimals int) {
	digits := strings.TrimPrefix(value, "-")
	if digits == "" || len(digits) > 17 {
		return timeOf(value), 0
	}
	whole, fraction, point := strings.Cut(digits, ".")
	plain := func(s string) bool {
		return s != "" && strings.IndexFunc(s, func(r rune) bool { return r < '0' || r > '9' }) < 0
	}
	if !plain(whole) || len(whole) > 1 && whole[0] == '0' || point && !plain(fraction) || len(whole)+len(fraction) > 15 {
		return timeOf(value), 0
	}
	if point {
		return Decimal, len(fraction)
	}
	return Integer, 0
}

func timeOf(value string) Type {
	if len(value) < 10 || value[4] != '-' || value[7] != '-' {
		return Text
	}
	_, mark, _, ok := nav.ParseTime([]byte(value), nil)
	switch {
	case !ok:
		return Text
	case mark == nav.Day:
		return Date
	case strings.HasSuffix(value, "Z"):
		return Time
	}
	return Text
}

// Each visits the features. Those without any position in reach of the coordinate system are left out, as the ledger
// says.
func (l *Layer) Each(visit func(*Feature) error) error {
	f := &Feature{Values: make([]string, len(l.Columns))}
	var flat []Position
	return l.visit(func(r *raw) error {
		clear(f.Values)
		f.Parts, flat = f.Parts[:0], flat[:0]
		for _, part := range r.parts {
			begun := len(flat)
			for i := range part {
				x, y, ok := l.from.project(&part[i])
				if ok {
					flat = append(flat, Position{x, y, part[i].Height()})
				}
			}
			if l.Geometry == Areas && len(flat)-begun > 2 {
				flat = append(flat, flat[begun])
			}
			if least := [...]int{1, 2, 4}[l.Geometry]; len(flat)-begun < least {
				flat = flat[:begun]
				if l.Geometry == Areas && len(f.Parts) == 0 {
					return nil // without its outline
				}
				continue
			}
			f.Parts = append(f.Parts, flat[begun:len(flat):len(flat)])
		}
		if len(f.Parts) == 0 {
			return nil
		}
		l.attributes(r, func(key, value string) { f.Values[l.index[key]] = value })
		return visit(f)
	})
}

// attributes gives those of a feature in their order. A field of the data has precedence over what is worked out.
func (l *Layer) attributes(f *raw, give func(key, value string)) {
	put := func(key, value string) {
		if value == "" {
			return
		}
		if _, ok := nav.Get(f.fields, key); !ok {
			give(key, value)
		}
	}
	give("name", f.item.Name)
	give("kind", f.kind)
	put("description", f.item.Desc)
	put("comment", f.item.Comment)
	put("type", f.item.Type)
	put("group", f.group)
	put("symbol", f.item.Style.Symbol)
	put("colour", f.item.Style.Colour.String())
	if l.Geometry == Areas {
		put("fill", f.item.Style.Fill.String())
	}
	put("line", f.line)
	if f.segment > 0 {
		put("segment", strconv.Itoa(f.segment))
	}
	if l.Geometry == Points {
		p := &f.parts[0][0]
		if p.HasTime() {
			put("time", string(p.AppendTime(nil)))
		}
		if p.HasHeight() && !l.HasZ {
			put("height", string(p.AppendHeight(nil)))
		}
		put("speed", f.speed)
		put("course", f.course)
	}
	var links []string
	for i := range f.item.Links {
		links = append(links, f.item.Links[i].Href)
	}
	put("link", strings.Join(links, " "))
	for i := range f.fields {
		give(f.fields[i].Key, f.fields[i].Value)
	}
}

// project gives the coordinates of a point.
func (s *source) project(p *nav.Point) (x, y float64, ok bool) {
	if s.system.WGS84() {
		return p.Lon, p.Lat, true
	}
	return s.system.Forward(p.Lat, p.Lon)
}

// ledger tells what the layers do not say.
func (s *source) ledger(name, title string, layers []*Layer) (l nav.Ledger) {
	d := s.d
	format.LoseKept(&l, d, name, title)
	format.LoseReferences(&l, d, title, func(nav.VerticalDatum) bool { return false })
	format.LoseEmpty(&l, d, title)
	for _, layer := range layers {
		if layer.HasZ || layer.Geometry == Points {
			continue
		}
		layer.visit(func(f *raw) error {
			n := 0
			if s.trackPoints && f.of == nav.Tracks { // its points have them
				return nil
			}
			for _, part := range f.parts {
				for i := range part {
					if part[i].HasHeight() {
						n++
					}
				}
			}
			if n > 0 {
				l.Lost(f.of, f.item.Name, "heights", "a layer of "+layer.Geometry.String()+" has heights only where every point "+
					"has one; elevate gives the missing ones", n)
			}
			return nil
		})
	}
	for i := range d.Routes {
		n := 0
		for j := range d.Routes[i].Points {
			w := &d.Routes[i].Points[j]
			if w.Name != "" || w.Desc != "" || len(w.Fields) > 0 || w.Style.Symbol != "" {
				n++
			}
		}
		if n > 0 {
			l.Lost(nav.Routes, d.Routes[i].Name, "names of route points", "a line of a layer has no names at its points",
				n).Advise(advice.RoutesToPoints)
		}
	}
	for i := range d.Tracks {
		n := 0
		for j := range d.Tracks[i].Segments {
			seg := &d.Tracks[i].Segments[j]
			for k := range seg.Points {
				if seg.Points[k].HasTime() {
					n++
				}
			}
		}
		if n > 0 && !s.trackPoints {
			l.Lost(nav.Tracks, d.Tracks[i].Name, "times", "a line of a layer has no times", n).Advise(advice.PointsOfTracks)
		}
	}
	if !s.system.WGS84() {
		beyond, outside := 0, 0
		for p := range d.AllPoints() {
			if _, _, ok := s.system.Forward(p.Lat, p.Lon); !ok {
				beyond++
			} else if !s.system.Area.Contains(p.Lat, p.Lon) {
				outside++
			}
		}
		format.NoteReach(&l, s.system, beyond, outside)
	}
	return
}

// Bounds grows around positions.
type Bounds struct{ MinX, MinY, MaxX, MaxY, MinZ, MaxZ float64 }

// NewBounds is around nothing.
func NewBounds() Bounds {
	inf := math.Inf(1)
	return Bounds{inf, inf, -inf, -inf, inf, -inf}
}

// Add takes a position in.
func (b *Bounds) Add(p Position) {
	b.MinX, b.MaxX = min(b.MinX, p.X), max(b.MaxX, p.X)
	b.MinY, b.MaxY = min(b.MinY, p.Y), max(b.MaxY, p.Y)
	b.MinZ, b.MaxZ = min(b.MinZ, p.Z), max(b.MaxZ, p.Z)
}

// AddAll takes the positions of parts in.
func (b *Bounds) AddAll(parts [][]Position) {
	for _, part := range parts {
		for _, p := range part {
			b.Add(p)
		}
	}
}

// SignedArea is the area of a closed ring, positive where it goes counter-clockwise.
func SignedArea(ring []Position) (sum float64) {
	for i := 1; i < len(ring); i++ {
		sum += (ring[i-1].X-ring[0].X)*(ring[i].Y-ring[0].Y) - (ring[i].X-ring[0].X)*(ring[i-1].Y-ring[0].Y)
	}
	return sum / 2
}

// SystemOf settles the system of what is read: the one that the user names, the one of the file, or WGS 84 where
// neither says anything. It says so.
func SystemOf(d *nav.Dataset, opt *format.ReadOptions, own *crs.System, where string) (*crs.System, error) {
	switch {
	case opt.System != nil:
		if own != nil && own.String() != opt.System.String() {
			d.Tell(nav.ProblemSystem, fmt.Sprintf("%s says %v, and the system that was named takes its place", where, own))
		}
		return opt.System, nil
	case own == nil:
		return nil, nil
	}
	if opt.Shift != nil {
		own = own.WithShift(opt.Shift)
	}
	if own.Shift == nil {
		return nil, advice.Errorf(advice.NameShiftIn, "is in %v, of which no datum shift to WGS 84 is known", own)
	}
	if !own.WGS84() {
		d.Tell(nav.ProblemSystem, fmt.Sprintf("coordinates are in %v by %s: %s; %s; heights are not transformed", own,
			where, own.Axes(), own.Accuracy()))
	}
	return own, nil
}
