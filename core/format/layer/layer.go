// Package layer turns datasets into layers as geographic information systems have them, features of one geometry with a
// table of attributes, and back. The formats of such systems share it.
package layer

import (
	"maps"
	"math"
	"slices"
	"strconv"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
	"gyrolith/core/identity"
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

// Layer is what is written of one geometry, or of one kind.
type Layer struct {
	Name     string // points, lines and areas; or waypoints, track_points, routes, tracks and areas
	Geometry Geometry
	*table
	HasZ   bool // every position has a height
	SomeZ  bool // some lines or areas have heights at all of their positions
	ByEach bool // each line or area has heights for itself, where all of its positions have
	Multi  bool // some feature has several points, lines or polygons
	Count  int

	from  *source
	title *format.Titling // nil where no item has titles of its source
	of    string          // the kind that is taken; "" is every one
	named string          // the layer that the items came from, where that is told apart
	apart bool
}

// byGeometry and byKind are the layers.
var (
	byGeometry = []Layer{{Name: "points", Geometry: Points}, {Name: "lines", Geometry: Lines},
		{Name: "areas", Geometry: Areas}}
	byKind = []Layer{{Name: "waypoints", Geometry: Points, of: "waypoint"}, {Name: "track_points", Geometry: Points,
		of: "track point"},
		{Name: "routes", Geometry: Lines, of: "route"}, {Name: "tracks", Geometry: Lines, of: "track"},
		{Name: "areas", Geometry: Areas}}
)

// Kind is the word for the kind of item that the layer has alone; "" where it may have several.
func (l *Layer) Kind() string { return l.of }

// Own says whether the layer is one of ours, and not one that the data came in.
func (l *Layer) Own() bool { return l.named == "" }

// visit gives the features of the layer, each for itself.
func (l *Layer) visit(visit func(*raw) error) error { return l.walk(false, visit) }

// walk gives the features of the layer, with track points as runs if that is wanted.
func (l *Layer) walk(runs bool, visit func(*raw) error) error {
	return l.from.visit(l.Geometry, runs, func(f *raw) error {
		if l.of != "" && l.of != f.kind || l.apart && l.named != l.from.layerOf(f) {
			return nil
		}
		return visit(f)
	})
}

// Of gives the layers of a dataset that hold anything and the ledger of what they can't hold. Exact is a format that
// tells which files we wrote: in those our own words alone are read as properties.
func Of(d *nav.Dataset, opt *format.WriteOptions, by Split, exact bool) ([]*Layer, *format.Written) {
	done := &format.Written{}
	split := byGeometry
	if by == ByKind {
		split = byKind
	}
	src := &source{
		d:           d,
		wholes:      &format.Wholes{},
		system:      opt.System,
		trackPoints: opt.TrackPoints,
		keys:        format.NewFieldKeys(d, attributeWords...),
		pointKeys:   format.NewFieldKeys(d, append([]string{"time", "height"}, attributeWords...)...),
	}
	titled := format.Titled(d)
	if by == ByKind && !exact {
		src.layers = layersOf(d)
		split = byName(src.layers, split)
	}
	var out []*Layer
	for _, l := range split {
		l := &l
		l.ByEach = by == ByKind && l.Geometry != Points
		l.from, l.table = src, newTable()
		l.survey(done)
		if l.Count > 0 {
			out = append(out, l)
		}
	}
	tables := make([][]*Layer, 0, len(out)) // of layers that share one
	if by == Together && len(out) > 0 {
		tables = append(tables, out)
	} else {
		for _, l := range out {
			tables = append(tables, []*Layer{l})
		}
	}
	for _, sharing := range tables {
		if titled {
			settleTitles(sharing, exact)
		}
		share(sharing, by != ByGeometry, &done.Ledger)
	}
	done.Ledger = append(slices.Concat(src.pointKeys.Ledger, src.keys.Ledger, done.Ledger), src.ledger(out)...)
	return out, done
}

// survey counts what the layer holds.
func (l *Layer) survey(done *format.Written) {
	heights, without := 0, 0
	l.walk(true, func(f *raw) error {
		ofTrack := l.Geometry == Points && f.of == nav.Tracks // counted with their lines
		if !ofTrack {
			done.Items[f.of] += f.items
			done.Points += f.points
		}
		l.Count += f.count()
		l.Multi = l.Multi || f.multi(l.Geometry)
		l.SomeZ = l.SomeZ || f.heights() == all
		parts := f.parts
		if f.run != nil {
			parts = [][]nav.Point{f.run.points}
		}
		for _, part := range parts {
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
	l.HasZ = heights > 0 && without == 0
}

// share gives layers one table of columns, and heights in all or in none. Where that is brief, the widths of values
// that are worked out are not among what is known of the columns.
func share(layers []*Layer, brief bool, ledger *nav.Ledger) {
	t, hasZ := layers[0].table, true
	for _, l := range layers {
		hasZ = hasZ && l.HasZ
	}
	fields, literal := []string{}, false
	for _, l := range layers {
		l.table, l.HasZ = t, hasZ
		l.walk(true, func(f *raw) error {
			give := func(a attribute) {
				i, ok := t.index[a.key]
				if !ok {
					i = t.add(Column{Name: a.key, Field: a.sort >= field})
					if a.sort >= field {
						fields = append(fields, a.key)
					}
				}
				literal = literal || a.sort == literalField
				t.Columns[i].take(a)
			}
			l.attributes(f, give)
			switch {
			case f.run != nil && brief:
				f.run.brief(l, give)
			case f.run != nil:
				f.run.each(l, give)
			}
			return nil
		})
	}
	settle(layers)
	title := layers[0].title
	for _, word := range headings.Claimed(append(fields, title.Beside()...), meant...) {
		if _, ok := t.index[word]; !ok && title.Of(word) == nil && !(word == "height" && hasZ) {
			t.add(Column{Name: word, Width: 1})
		}
	}
	if literal {
		for _, l := range layers {
			l.loseTypes(ledger)
		}
	}
}

// settle decides on the types of columns, with one look more at the values of those where only all together can tell.
func settle(layers []*Layer) {
	columns := layers[0].Columns
	if slices.ContainsFunc(columns, func(c Column) bool { return c.untyped.Doubtful() }) {
		check := func(l *Layer) func(attribute) {
			return func(a attribute) {
				if c := &columns[l.index[a.key]]; a.sort == field && c.untyped.Doubtful() {
					c.untyped.Check(a.value)
				}
			}
		}
		for _, l := range layers {
			l.walk(true, func(f *raw) error {
				l.ofFields(f.fields, check(l))
				if f.run != nil {
					f.run.each(l, check(l))
				}
				return nil
			})
		}
	}
	for i := range columns {
		columns[i].settle()
	}
}

// meant are the columns of other names that are taken for properties on reading.
var meant = []string{"name", "description", "comment", "type", "group", "symbol", "colour", "time", "height", "kind"}

// KeptLayer is where it is kept that a group was a layer of its own.
const KeptLayer = "layer"

// layersOf lists the groups that were layers.
func layersOf(d *nav.Dataset) map[string]bool {
	out := map[string]bool{}
	for i := range d.Meta.Kept {
		if k := &d.Meta.Kept[i]; k.Format == "gpkg" && k.Where == KeptLayer {
			out[k.Text] = true
		}
	}
	return out
}

// byName splits layers further by the groups that were layers.
func byName(layers map[string]bool, split []Layer) []Layer {
	if len(layers) == 0 {
		return split
	}
	var out []Layer
	for _, name := range append(slices.Sorted(maps.Keys(layers)), "") {
		for _, l := range split {
			if l.apart, l.named = true, name; name != "" {
				l.Name = name
			}
			out = append(out, l)
		}
	}
	return out
}

// Each visits the features. Those without any position in reach of the coordinate system are left out, as the ledger
// says.
func (l *Layer) Each(visit func(*Feature) error) error { return l.each(visit, nil) }

// EachRun visits the features, and track points that have no item of their own as runs.
func (l *Layer) EachRun(visit func(*Feature) error, run func(*Run) error) error {
	return l.each(visit, run)
}

func (l *Layer) each(visit func(*Feature) error, run func(*Run) error) error {
	f := &Feature{Values: make([]string, len(l.Columns))}
	var flat []Position
	return l.walk(true, func(r *raw) error {
		if r.run != nil {
			r.run.prepare(l, r)
			if run != nil {
				return run(r.run)
			}
			return r.run.Features(0, r.run.Len(), func(_ int, f *Feature) error { return visit(f) })
		}
		clear(f.Values)
		f.Parts, f.Outer, flat = f.Parts[:0], f.Outer[:0], flat[:0]
		gone := false // the outline to which the ring belongs
		for k, part := range r.parts {
			begun := len(flat)
			flat = slices.Grow(flat, len(part)+1)
			for i := range part {
				x, y, ok := l.from.project(&part[i])
				if ok {
					flat = append(flat, Position{X: x, Y: y, Z: part[i].Height()})
					if !l.HasZ && !l.ByEach {
						flat[len(flat)-1].Z = math.NaN()
					}
				}
			}
			if l.Geometry == Areas && len(flat)-begun > 2 {
				flat = append(flat, flat[begun])
			}
			outer := l.Geometry == Areas && r.outer[k]
			if least := [...]int{1, 2, 4}[l.Geometry]; len(flat)-begun < least || gone && !outer && l.Geometry == Areas {
				gone = gone || outer
				flat = flat[:begun]
				continue
			}
			if ring := flat[begun:]; l.Geometry == Areas && (SignedArea(ring) < 0) == outer {
				slices.Reverse(ring)
			}
			gone = false
			f.Parts = append(f.Parts, flat[begun:len(flat):len(flat)])
			f.Outer = append(f.Outer, outer)
		}
		if len(f.Parts) == 0 {
			return nil
		}
		l.attributes(r, func(a attribute) {
			if a.sort != literalField || a.value != "null" {
				f.Values[l.index[a.key]] = a.value
			}
		})
		return visit(f)
	})
}

// attributes gives those of a feature in their order: what the item has, and then its fields.
func (l *Layer) attributes(f *raw, give func(attribute)) {
	if l.title != nil && f.item.Titles != nil {
		give = l.titled(f, give)
	}
	l.properties(f, give)
	l.ofFields(f.fields, give)
}

func (l *Layer) properties(f *raw, give func(attribute)) {
	put := func(key, value string, sort sort) {
		if value != "" {
			give(attribute{key, value, sort})
		}
	}
	give(attribute{"name", f.item.Name, property})
	give(attribute{"kind", f.kind, property})
	if f.first != nil && f.item.ID == "" && f.items == 1 {
		give(attribute{"item id", identity.Made(f.of, f.item, f.first), property})
	}
	which := inColumns
	if l.named != "" { // which says the group
		which &^= holds.SetOf(holds.Group)
	}
	for pairs := format.Own(f.item, which); len(pairs) > 0; pairs = pairs[2:] {
		put(columnOf(pairs[0]), pairs[1], property)
	}
	if f.items == 1 {
		put("part of", l.from.wholes.Number(f.item.Whole), property)
	}
	if f.of == nav.Tracks && f.kind != "track" && l.named == "" {
		put("group", f.group, property)
	}
	put("line", f.line, property)
	if f.segment > 0 {
		put("segment", strconv.Itoa(f.segment), number)
	}
	sizes := sizesOf(f.areas)
	for i, word := range sizeWords {
		if _, ok := nav.Get(f.fields, word); !ok && f.areas != nil && !math.IsNaN(sizes[i]) {
			give(attribute{word, string(decimal.AppendShort(nil, sizes[i], sizeDecimals)), measure})
		}
	}
	if l.Geometry == Points {
		l.ofPoint(&f.parts[0][0], f.from, f.to, f.fields, give)
	}
	put("link", joinLinks(f.item.Links), property)
}

// The decimals of speeds (m/s), courses (degrees) and sizes (m², m) that are worked out.
const (
	speedDecimals  = 3
	courseDecimals = 1
	sizeDecimals   = 1
)

// sizeWords are the columns of the size and the perimeter of areas.
var sizeWords = [2]string{"size m2", "perimeter m"}

// sizesOf gives the size of areas that are one feature in square metres, and their perimeter in metres.
func sizesOf(parts []nav.Area) (sizes [2]float64) {
	for i := range parts {
		sizes[0] += parts[i].Size()
		sizes[1] += parts[i].Perimeter()
	}
	return
}

// ofPoint gives the attributes of a point's time and height, and of its speed and course unless its fields have them.
func (l *Layer) ofPoint(p, from, to *nav.Point, fields []nav.Field, give func(attribute)) {
	if p.HasTime() {
		give(attribute{"time", string(p.AppendTime(nil)), moment})
	}
	if p.HasHeight() && !l.HasZ {
		give(attribute{"height", string(p.AppendHeight(nil)), measure})
	}
	speed, course := motion(from, to)
	if _, ok := nav.Get(fields, "speed"); !ok && !math.IsNaN(speed) {
		give(attribute{"speed", string(decimal.AppendShort(nil, speed, speedDecimals)), measure})
	}
	if _, ok := nav.Get(fields, "course"); !ok && !math.IsNaN(course) {
		give(attribute{"course", string(decimal.AppendShort(nil, course, courseDecimals)), measure})
	}
}

// ofFields gives the attributes of fields.
func (l *Layer) ofFields(fields []nav.Field, give func(attribute)) {
	keys := l.from.keys
	if l.Geometry == Points {
		keys = l.from.pointKeys
	}
	for i, name := range keys.Names(fields) {
		sort := field
		switch {
		case fields[i].Literal:
			sort = literalField
		case fields[i].Text:
			sort = textField
		}
		if value := fields[i].Value; value != "" {
			give(attribute{name, value, sort})
		}
	}
}

// project gives the coordinates of a point.
func (s *source) project(p *nav.Point) (x, y float64, ok bool) {
	if s.system.WGS84() {
		return p.Lon, p.Lat, true
	}
	return s.system.Forward(p.Lat, p.Lon)
}

// ledger tells what the layers do not say and the declaration can't know.
func (s *source) ledger(layers []*Layer) (l nav.Ledger) {
	for _, layer := range layers {
		if layer.HasZ || layer.Geometry == Points {
			continue
		}
		why := heightsOfLayers
		if layer.ByEach {
			why = heightsOfLines
		}
		layer.visit(func(f *raw) error {
			n := 0
			if s.trackPoints && f.of == nav.Tracks || layer.ByEach && f.heights() == all { // its points have them
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
				at := pointsOf[f.of]
				e := l.Lost(f.of, f.item.Name, holds.What(at, holds.Height), why+"; elevate gives the missing ones", n)
				e.KindWord = at.String()
			}
			return nil
		})
	}
	if s.degrees() {
		format.PoleEdges(&l, s.d.Areas)
	}
	if !s.system.WGS84() {
		beyond, outside := 0, 0
		for p := range s.d.AllPoints() {
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
