package layer

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/identity"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Builder makes items of the features of one layer.
type Builder struct {
	d        *nav.Dataset
	opt      *format.ReadOptions
	system   *crs.System
	titles   []string
	meanings []string
	numbers  []bool // columns whose values are numbers
	Untyped  bool   // the source does not say which other columns hold texts
	HasZ     bool
	HasM     bool
	Group    string         // of items without one, which is the name of their layer
	ID       string         // of the feature that is read; "" where its layer has none
	Wholes   *format.Wholes // of the column part of; builders of one file may share them
	Winding  shape.Winding  // of outlines, by the rules of the format
	Box      Bounds         // of the shapes that were read

	kept *nav.Titles // of properties; made with the first item

	gathering
	placed []int // the columns of latitude and longitude; nil is not looked for yet
}

// How the outlines of a format turn that are not against the clock.
const (
	WithClock = shape.WithClock
	AnyWay    = shape.AnyWay
)

// ours says whether the attributes of a record name a kind of item as we do.
func (b *Builder) ours(values []string) bool {
	i := slices.Index(b.meanings, "kind")
	return i >= 0 && isOwnKind(values[i])
}

// NewBuilder prepares for a layer with columns of these titles. Numbers says which of them hold numbers.
func NewBuilder(d *nav.Dataset, opt *format.ReadOptions, system *crs.System, titles []string, numbers []bool) *Builder {
	b := &Builder{d: d, opt: opt, system: system, titles: titles, numbers: numbers, Wholes: &format.Wholes{},
		Winding: shape.AntiClock, Box: NewBounds()}
	b.meanings = headings.Meanings(titles, meant...)
	for i, t := range titles {
		if word := wordOf(t); word != "" {
			b.meanings[i] = ownMeaning + word
		} else if t := strings.ToLower(strings.ReplaceAll(t, "_", " ")); t == "link" || t == "part of" {
			b.meanings[i] = t
		}
		for _, c := range opt.Columns { // the user knows better
			if headings.Folded(c.Title) == headings.Folded(t) {
				for j := range b.meanings {
					if b.meanings[j] == c.Holds {
						b.meanings[j] = ""
					}
				}
				b.meanings[i] = c.Holds
			}
		}
	}
	b.gathers()
	return b
}

// Exact takes only columns of our own names for properties, as in a file that we wrote.
func (b *Builder) Exact() {
	for i, t := range b.titles {
		word := strings.ToLower(strings.ReplaceAll(t, "_", " "))
		if !strings.HasPrefix(b.meanings[i], ownMeaning) && b.meanings[i] != word {
			b.meanings[i] = ""
		}
	}
}

// ownMeaning stands before the words of our extension among what columns mean.
const ownMeaning = "own:"

// item reads the attributes; p takes the time and the height of a point.
func (b *Builder) item(values []string, p *nav.Point) (it nav.Item, kind string) {
	it.ID, it.Group, it.Titles = b.ID, b.Group, b.ownTitles()
	for i, v := range values {
		if v == "" {
			continue
		}
		switch b.meanings[i] {
		case "name":
			it.Name = v
			continue
		case "description":
			it.Desc = v
			continue
		case "comment":
			it.Comment = v
			continue
		case "type":
			it.Type = v
			continue
		case "group":
			it.Group = v
			continue
		case "symbol":
			it.Style.Symbol = v
			continue
		case "kind":
			if isOwnKind(v) {
				kind = v
				continue
			}
		case "colour":
			if c, ok := nav.ParseColour(v); ok {
				it.Style.Colour = c
				continue
			}
		case gatheredColumn:
			continue
		case "part of":
			it.Whole = b.Wholes.Find(v)
			continue
		case "link":
			it.Links = append(it.Links, splitLinks(v)...)
			continue
		case "time":
			format.DoubtTime(b.d, []byte(v), b.opt.Zone, func() (int, int) { return 0, 0 })
			if p != nil {
				ns, mark, zoned, ok := instant.Parse([]byte(v), b.opt.Zone)
				if ok = ok && (mark >= instant.Day || b.ours(values)); !ok {
					ns, mark, ok = instant.SinceEpoch(v)
					zoned = true
				}
				if ok {
					if !zoned && b.opt.Zone == nil {
						b.d.Note(nav.ProblemTimes, "a time without a zone was read as UTC", 0, 0).Advise(advice.NameZone)
					}
					p.SetTime(ns, mark)
					continue
				}
			}
		case "height":
			if p != nil && !b.HasZ {
				if h, digits, ok := decimal.Parse([]byte(v)); ok {
					m, unknown := headings.MeasureOf(b.titles[i], headings.Length)
					if m.Factor != 1 {
						digits = 0
					}
					if unknown == "" {
						p.SetHeight(h*m.Factor, digits, nav.DatumUnstated)
						continue
					}
					b.d.Note(nav.ProblemHeights, fmt.Sprintf("the column %q has an unknown measure, and was kept as a field",
						b.titles[i]), 0, 0)
				}
			}
		}
		if word, ok := strings.CutPrefix(b.meanings[i], ownMeaning); ok {
			if format.SetOwn(&it, word, v) {
				continue
			}
		}
		key := b.titles[i]
		if named, ok := strings.CutPrefix(b.meanings[i], "field:"); ok {
			key = named
		}
		it.Fields = append(it.Fields, nav.Field{Key: key, Value: v, Text: !b.numbers[i] && !b.Untyped,
			Literal: b.numbers[i] && jsontext.Value(v).IsValid()})
	}
	return it, kind
}

// ownTitles gives the titles of columns that became properties, nil where all of them are ours.
func (b *Builder) ownTitles() *nav.Titles {
	if b.kept == nil {
		b.kept = &nav.Titles{}
		for i, m := range b.meanings {
			if slices.Contains(meant, m) && m != "kind" && (m != "height" || headings.InMetres(b.titles[i])) &&
				(m != "time" || b.opt.Zone == nil) {
				b.kept.Keep(m, b.titles[i], b.numbers[i])
			}
		}
	}
	if len(*b.kept) == 0 {
		return nil
	}
	return b.kept
}

// place turns a position into a point, and says why it can't.
func (b *Builder) place(p Position) (nav.Point, string) {
	if math.IsNaN(p.X+p.Y) || math.IsInf(p.X+p.Y, 0) {
		return nav.Point{}, "its coordinates are not numbers"
	}
	lat, lon, ok := p.Y, p.X, true
	if !b.system.WGS84() {
		if lat, lon, ok = b.system.Inverse(p.X, p.Y); !ok {
			return nav.Point{}, fmt.Sprintf("is out of range for %v", b.system)
		}
	}
	switch {
	case math.Abs(lat) > 90:
		return nav.Point{}, fmt.Sprintf("latitude %v is beyond 90 degrees; the layer may be projected", lat)
	case math.Abs(lon) > 180:
		return nav.Point{}, fmt.Sprintf("longitude %v is beyond 180 degrees; the layer may be projected", lon)
	}
	out := nav.At(lat, lon)
	if b.HasZ && !math.IsNaN(p.Z) && math.Abs(p.Z) < 1e7 {
		out.SetHeight(p.Z, 0, nav.DatumUnstated)
	}
	return out, ""
}

// reject notes a position that can't be used.
func (b *Builder) reject(kind nav.Kind, name string, number int, p Position, why string, record int) {
	raw := ""
	if !math.IsNaN(p.X + p.Y) {
		raw = fmt.Sprintf("%v %v", p.X, p.Y)
	}
	b.d.Rejects = append(b.d.Rejects, nav.Reject{Kind: kind, Name: name, Number: number, Raw: raw, Why: why, Line: record})
}

// Nothing notes a record without a geometry.
func (b *Builder) Nothing(kind nav.Kind, values []string, record int) {
	if b.fromColumns(values, record) {
		return
	}
	it, _ := b.item(values, nil)
	b.reject(kind, it.Name, 0, Position{X: math.NaN()}, "the record has no geometry", record)
}

// Points adds a waypoint, or several that are one feature.
func (b *Builder) Points(places []Position, values []string, record int) {
	var whole *nav.Whole
	if len(places) > 1 {
		whole = &nav.Whole{}
	}
	for _, p := range places {
		point, why := b.place(p)
		it, _ := b.item(values, &point)
		if identity.Local(it.ID) && len(places) > 1 {
			it.ID = ""
		}
		if why != "" {
			b.reject(nav.Waypoints, it.Name, 0, p, why, record)
			continue
		}
		if b.HasM {
			it.Fields = append(it.Fields, measured(&point, p.M, b.measures([]float64{p.M}, record))...)
		}
		if b.gather(values, &nav.Waypoint{Item: it, Point: point}) {
			continue
		}
		if whole != nil {
			it.Whole = whole
		}
		b.d.Waypoints = append(b.d.Waypoints, nav.Waypoint{Item: it, Point: point})
	}
}

// segment makes a segment of a part of a line.
func (b *Builder) segment(kind nav.Kind, name string, part []Position, record int) nav.Segment {
	out := nav.Segment{Points: make([]nav.Point, 0, len(part))}
	times := false
	if b.HasM {
		all := make([]float64, len(part))
		for i := range part {
			all[i] = part[i].M
		}
		times = b.measures(all, record)
	}
	for i, p := range part {
		point, why := b.place(p)
		if why != "" {
			b.reject(kind, name, i+1, p, why, record)
			continue
		}
		if b.HasM {
			if values := measured(&point, p.M, times); values != nil {
				out.Attach(&point, nav.Detail{Values: values})
			}
		}
		out.Points = append(out.Points, point)
	}
	return out
}

// corners gives the corners of a ring, and the indexes of those at 180 degrees.
func (b *Builder) corners(name string, ring []Position, record int) (points []nav.Point, east []int) {
	for k, p := range ring {
		point, why := b.place(p)
		if why != "" {
			b.reject(nav.Areas, name, k+1, p, why, record)
			continue
		}
		if p.X == 180 && b.system.WGS84() {
			east = append(east, len(points))
		}
		points = append(points, point)
	}
	return
}

// Line adds a track, or a route where the attributes say so.
func (b *Builder) Line(parts [][]Position, values []string, record int) {
	it, kind := b.item(values, nil)
	of := nav.Tracks
	if kind == nav.Routes.One() {
		of = nav.Routes
	}
	t := nav.Track{Item: it}
	for _, part := range parts {
		if s := b.segment(of, it.Name, part, record); len(s.Points) > 0 {
			t.Segments = append(t.Segments, s)
		}
	}
	t.Segments = shape.JoinLines(t.Segments)
	switch {
	case len(t.Segments) == 0:
	case of == nav.Routes && len(t.Segments) == 1:
		b.d.Routes = append(b.d.Routes, nav.Route{Item: it, Points: t.Segments[0].Waypoints()})
	default:
		b.d.Tracks = append(b.d.Tracks, t)
	}
}

// Area adds the areas of a record, each an outline and its holes. Several are parts of one feature.
func (b *Builder) Area(polygons [][][]Position, values []string, record int) {
	if b.HasM {
		b.d.Note(nav.ProblemLeftOut, "the M values of an area's corners were left out", record, 0)
	}
	var areas [][][]nav.Point
	open := false
	name := b.nameOf(values)
	for _, rings := range polygons {
		var area [][]nav.Point
		for i, ring := range rings {
			points, isOpen := format.Ring(b.corners(name, ring, record))
			open = open || isOpen
			if i == 0 || len(points) > 2 {
				area = append(area, points)
			}
		}
		if len(area) > 0 && len(area[0]) > 2 {
			areas = append(areas, area)
		} else {
			b.d.Note(nav.ProblemLeftOut, "an outline of fewer than three points was left out", record, 0)
		}
	}
	first := len(b.d.Areas)
	for _, rings := range format.Polygons(b.d, name, areas, b.Winding, record) {
		b.d.Areas = append(b.d.Areas, nav.Area{Outline: rings[0], Holes: rings[1:], Open: open})
	}
	made := b.d.Areas[first:]
	it, _ := b.item(b.unsized(values, made), nil)
	if len(made) > 1 {
		if identity.Local(it.ID) {
			it.ID = ""
		}
		it.Whole = &nav.Whole{}
	}
	for i := range made {
		made[i].Item = it
	}
}

// nameOf is the name among the attributes.
func (b *Builder) nameOf(values []string) string {
	if i := slices.Index(b.meanings, "name"); i >= 0 && i < len(values) {
		return values[i]
	}
	return ""
}

// unsized leaves out the sizes that were written beside areas, as long as the areas still have them.
func (b *Builder) unsized(values []string, made []nav.Area) []string {
	var sizes [2]float64
	out := values
	for i, title := range b.titles {
		title = strings.TrimSpace(strings.ToLower(strings.ReplaceAll(title, "_", " ")))
		k := slices.IndexFunc(sizeWords[:], func(word string) bool { // of which a shapefile has ten letters
			return word == title || len(title) > 8 && strings.HasPrefix(word, title)
		})
		if k < 0 || i >= len(values) {
			continue
		}
		if sizes == [2]float64{} {
			sizes = sizesOf(made)
		}
		const slack = 1e-6 // of coordinates that were rounded
		if v, ok := decimal.Exact(values[i]); ok && math.Abs(v-sizes[k]) <= 0.1+slack*sizes[k] {
			if &out[0] == &values[0] {
				out = slices.Clone(values)
			}
			out[i] = ""
		}
	}
	return out
}
