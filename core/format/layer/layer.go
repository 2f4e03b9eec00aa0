// Package layer turns datasets into layers as geographic information systems have them, features of one geometry with a
// table of attributes, and back. The formats of such systems share it.
package layer

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
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
	Boolean
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
	Field    bool
}

// Position is a coordinate in the layer's system.
type Position struct{ X, Y, Z float64 }

// Feature is one item, or several that are parts of one: points are parts of one position each, a line has parts, an
// area rings. Rings repeat their first position. It holds until the next is visited.
type Feature struct {
	Parts  [][]Position
	Outer  []bool   // which rings of an area are outlines; the others are holes of the one before
	Values []string // as the columns; "" is absent
}

// HasZ says whether every position has a height.
func (f *Feature) HasZ() bool {
	return !slices.ContainsFunc(f.Parts, func(part []Position) bool {
		return slices.ContainsFunc(part, func(p Position) bool { return math.IsNaN(p.Z) })
	})
}

// Polygons counts those of an area.
func (f *Feature) Polygons() (n int) {
	for _, outer := range f.Outer {
		if outer {
			n++
		}
	}
	return
}

// Layer is what is written of one geometry, or of one kind.
type Layer struct {
	Name     string // points, lines and areas; or waypoints, track_points, routes, tracks and areas
	Geometry Geometry
	*table
	HasZ   bool // every position has a height
	SomeZ  bool // some lines or areas have heights at all of their positions
	ByEach bool // each line or area has heights for itself, where all of its positions have
	Multi  bool // some feature has several points, or several polygons; of lines of one kind: several lines
	Count  int

	from  *source
	of    string // the kind that is taken; "" is every one
	named string // the layer that the items came from, where that is told apart
	apart bool
}

// table is the columns of a layer, or of several.
type table struct {
	Columns []Column
	index   map[string]int
}

func newTable() *table { return &table{index: map[string]int{}} }

func (t *table) add(c Column) int {
	i := len(t.Columns)
	t.index[c.Name] = i
	t.Columns = append(t.Columns, c)
	return i
}

// Split says what layers data are split into.
type Split uint8

// The splits.
const (
	ByGeometry Split = iota
	ByKind
	Together // by geometry, with the same columns, and heights in all or in none
)

// byGeometry and byKind are the layers.
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
		if l.of != "" && l.of != f.kind || l.apart && l.named != l.from.layerOf(f) {
			return nil
		}
		return visit(f)
	})
}

// Of gives the layers of a dataset that hold anything and the ledger of what they can't hold.
func Of(d *nav.Dataset, opt *format.WriteOptions, by Split) ([]*Layer, *format.Written) {
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
	if by == ByKind {
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
		share(sharing, &done.Ledger)
	}
	done.Ledger = append(slices.Concat(src.pointKeys.Ledger, src.keys.Ledger, done.Ledger), src.ledger(out)...)
	return out, done
}

// survey counts what the layer holds.
func (l *Layer) survey(done *format.Written) {
	heights, without := 0, 0
	l.visit(func(f *raw) error {
		ofTrack := l.Geometry == Points && f.of == nav.Tracks // counted with their lines
		if !ofTrack {
			done.Items[f.of] += f.items
			done.Points += f.points
		}
		l.Count++
		l.Multi = l.Multi || f.multi(l.Geometry)
		l.SomeZ = l.SomeZ || f.heights() == all
		for _, part := range f.parts {
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

// share gives layers one table of columns, and heights in all or in none.
func share(layers []*Layer, ledger *nav.Ledger) {
	t, hasZ := layers[0].table, true
	for _, l := range layers {
		hasZ = hasZ && l.HasZ
	}
	fields, literal := []string{}, false
	for _, l := range layers {
		l.table, l.HasZ = t, hasZ
		l.visit(func(f *raw) error {
			l.attributes(f, func(a attribute) {
				i, ok := t.index[a.key]
				if !ok {
					i = t.add(Column{Name: a.key, Field: a.sort >= field})
					if a.sort >= field {
						fields = append(fields, a.key)
					}
				}
				literal = literal || a.sort == literalField
				t.Columns[i].take(a)
			})
			return nil
		})
	}
	for _, word := range headings.Claimed(fields, meant...) {
		if _, ok := t.index[word]; !ok && !(word == "height" && hasZ) {
			t.add(Column{Name: word, Width: 1})
		}
	}
	if literal {
		for _, l := range layers {
			l.loseTypes(ledger)
		}
	}
}

// meant are the columns of other names that are taken for properties on reading.
var meant = []string{"name", "description", "comment", "type", "group", "symbol", "colour", "time", "height", "kind"}

// sort says what an attribute is, which decides on the type of its column.
type sort uint8

const (
	property     sort = iota // a text, whatever it looks like
	moment                   // a time, or a day
	number                   // worked out
	field                    // of the type that its values look like
	literalField             // of the type that its values have
)

// attribute is one value of a feature.
type attribute struct {
	key, value string
	sort       sort
}

// restores says whether a value of a field comes back from a column of a type as the number or truth value that it is.
func restores(t Type, value string) bool {
	switch value {
	case "true", "false":
		return t == Boolean
	}
	return nav.IsNumber(value) && (t == Integer || t == Decimal)
}

// loseTypes tells how many numbers and truth values become texts, or absent as null does.
func (l *Layer) loseTypes(ledger *nav.Ledger) {
	counts := map[nav.Kind]int{}
	l.visit(func(f *raw) error {
		l.attributes(f, func(a attribute) {
			if a.sort == literalField && !restores(l.Columns[l.index[a.key]].Type, a.value) {
				counts[f.of]++
			}
		})
		return nil
	})
	for _, kind := range nav.Kinds {
		at := holds.Place(kind)
		if l.Geometry == Points && kind == nav.Tracks {
			at = holds.TrackPoint
		}
		if n := counts[kind]; n > 0 {
			*ledger = append(*ledger, nav.Entry{Kind: kind, KindWord: at.String(), What: holds.What(at, holds.FieldTypes),
				Old: "numbers, truth values, null", New: "texts, or absent", Why: "a column has one type, and null is absent",
				Count: n})
		}
	}
}

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

// take lets a column hold a value more.
func (c *Column) take(a attribute) {
	value := a.value
	if value == "" || a.sort == literalField && value == "null" {
		return
	}
	t, decimals := Text, 0
	switch {
	case a.sort == property:
	case a.sort == literalField && (value == "true" || value == "false"):
		t = Boolean
	case a.sort != literalField || nav.IsNumber(value):
		t, decimals = typeOf(value)
	}
	if a.sort == moment && t != Date && t != Time {
		t = Text
	}
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
		f.Parts, f.Outer, flat = f.Parts[:0], f.Outer[:0], flat[:0]
		gone := false // the outline to which the ring belongs
		for k, part := range r.parts {
			begun := len(flat)
			for i := range part {
				x, y, ok := l.from.project(&part[i])
				if ok {
					flat = append(flat, Position{x, y, part[i].Height()})
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
	put := func(key, value string, sort sort) {
		if value != "" {
			give(attribute{key, value, sort})
		}
	}
	give(attribute{"name", f.item.Name, property})
	give(attribute{"kind", f.kind, property})
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
	if l.Geometry == Points {
		p := &f.parts[0][0]
		if p.HasTime() {
			put("time", string(p.AppendTime(nil)), moment)
		}
		if p.HasHeight() && !l.HasZ {
			put("height", string(p.AppendHeight(nil)), number)
		}
		if _, ok := nav.Get(f.fields, "speed"); !ok {
			put("speed", f.speed, number)
		}
		if _, ok := nav.Get(f.fields, "course"); !ok {
			put("course", f.course, number)
		}
	}
	var links []string
	for i := range f.item.Links {
		if href := f.item.Links[i].Href; href != "" {
			links = append(links, href)
		}
	}
	put("link", strings.Join(links, " "), property)
	keys := l.from.keys
	if l.Geometry == Points {
		keys = l.from.pointKeys
	}
	for i, name := range keys.Names(f.fields) {
		sort := field
		if f.fields[i].Literal {
			sort = literalField
		}
		put(name, f.fields[i].Value, sort)
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

// Join takes another in.
func (b *Bounds) Join(o *Bounds) {
	b.MinX, b.MaxX = min(b.MinX, o.MinX), max(b.MaxX, o.MaxX)
	b.MinY, b.MaxY = min(b.MinY, o.MinY), max(b.MaxY, o.MaxY)
	b.MinZ, b.MaxZ = min(b.MinZ, o.MinZ), max(b.MaxZ, o.MaxZ)
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
