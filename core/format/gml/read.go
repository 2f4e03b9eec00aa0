package gml

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

type reader struct {
	*xmlscan.Scanner
	src      *format.Source
	opt      *format.ReadOptions
	d        *nav.Dataset
	builders map[string]*layer.Builder // by system and columns
	order    []string                  // of their making
	systems  map[string]*reference
	surveyed *survey // where the file is only looked at for the order of its axes
	decided  *survey
	wholes   format.Wholes
	outer    scope // what the collection or the feature says of all coordinates
	features int
}

// reference is a coordinate system with the order of its axes.
type reference struct {
	system   *crs.System // nil is WGS 84
	northing bool        // the first number goes to the north
	unsure   bool        // either order can be meant, and
	settled  bool        // has been decided for the whole file
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	fresh := func() *reader {
		return &reader{src: src, opt: opt, d: &nav.Dataset{}, builders: map[string]*layer.Builder{},
			systems: map[string]*reference{}}
	}
	r := fresh()
	err := r.document()
	if _, ok := errors.AsType[*unsure](err); ok { // the whole file decides, and is read again
		look := fresh()
		look.surveyed = &survey{of: map[string]*spread{}}
		if err = look.document(); err == nil || isCut(err) {
			r = fresh()
			r.decided = look.surveyed
			err = r.document()
		}
	}
	format.TellEncoding(r.Scanner, r.d)
	if x, ok := errors.AsType[*xmlscan.Error](err); ok {
		err = &format.Error{Path: src.Path, Line: x.Line, Col: x.Col, Msg: x.Msg, Cut: x.Cut, Advice: x.Advice}
	}
	return r.d, err
}

func (r *reader) document() (err error) {
	if r.Scanner, err = xmlscan.New(r.src.Reader(), xmlscan.Limits{Depth: r.opt.Nesting(), Size: r.src.Size}); err != nil {
		return err
	}
	format.TellUnread(r.Scanner, r.d)
	if err := r.Root("FeatureCollection"); err != nil {
		return err
	}
	r.PassAttr(handle)
	if err := r.Children(r.member); err != nil {
		return err
	}
	for _, key := range r.order {
		r.builders[key].Finish()
	}
	if r.features == 0 {
		r.d.Note(nav.ProblemPlaces, "the collection has no features", 0, 0)
	}
	return nil
}

// member reads what stands directly in a collection.
func (r *reader) member(local string) error {
	switch local {
	case "boundedBy":
		return r.box()
	case "featureMember", "featureMembers", "member":
		return r.Children(func(string) error { return r.feature() })
	}
	if r.gml() {
		return r.Skip()
	}
	return r.feature() // some put features straight into the collection
}

// box reads what the box around features says of them.
func (r *reader) box() error {
	return r.Children(func(string) error {
		in := r.scope(r.outer)
		r.outer = scope{system: in.system, usual: cmp.Or(in.dimension, in.usual)}
		if r.surveyed == nil {
			return r.Pass()
		}
		var corners shape
		err := r.Children(func(string) error {
			text, err := r.LeafString()
			numbers := strings.Fields(text)
			if err == nil && len(numbers) > 1 && len(numbers) < 4 {
				err = r.tuples(numbers, len(numbers), &corners.Points)
			}
			return err
		})
		r.surveyed.box(in.system, &corners)
		return err
	})
}

// gml says whether the current element is one of GML's own.
func (r *reader) gml() bool { return strings.HasPrefix(r.Name().Space, spaceGML) }

// scope says how coordinates are to be understood: the name of their system, and how many numbers a position has.
// What is said of a geometry, or in the box around features, holds for all that is in it unless that says otherwise
// (ISO 19136, 9.10 and 10.1.3.2).
type scope struct {
	system, dimension string
	usual             string // the dimension of the box, which decides where numbers make positions of two or of three
}

// scope gives that of the current element, which stands in another.
func (r *reader) scope(around scope) scope {
	r.PassAttr(handle, "axisLabels", "uomLabels")
	own := scope{system: cmp.Or(r.AttrString("srsName"), around.system), dimension: r.AttrString("srsDimension")}
	if own.dimension != "" && own.dimension != "2" && own.dimension != "3" {
		r.LeaveAttr("srsDimension")
		own.dimension = ""
	}
	if own.system == around.system {
		own.usual = around.usual
	}
	switch {
	case own.dimension != "":
	case own.system == around.system:
		own.dimension = around.dimension
	case withHeights(own.system):
		own.dimension = "3"
	}
	return own
}

// three says whether numbers of which nothing is stated make positions of three.
func (s *scope) three(local string, numbers int) bool {
	if local == "pos" {
		return numbers == 3
	}
	return numbers%3 == 0 && (numbers%2 == 1 || s.usual == "3")
}

// withHeights says whether the positions of a system have three numbers.
func withHeights(system string) bool {
	return crs.NumberIn(system) == "4979"
}

// shape is what the geometries of a feature hold, and in which system.
type shape struct {
	layer.Shape
	system string
}

// handle is by what other elements of a document refer to one (ISO 19136, 7.2.4.5).
const handle = "gml:id"

// feature reads one, whatever its name.
func (r *reader) feature() error {
	id, kind := r.AttrString(handle), r.Local()
	line, _ := r.Pos()
	own := r.Name().Space == spaceOwn
	outer := r.outer
	defer func() { r.outer = outer }()
	var titles, values []string
	var numbers []bool
	var g shape
	err := r.Children(func(local string) error {
		switch {
		case local == "boundedBy":
			return r.box()
		case r.gml() && local != "name" && local != "description" && isGeometry(local):
			return r.geometry(local, &g, r.outer, 0)
		}
		typ, title := r.AttrString("xsi:type"), local
		if own {
			title = cmp.Or(r.AttrString("name"), local)
		}
		return r.property(title, &g, 0, func(title, text string) {
			titles, values = append(titles, title), append(values, text)
			numbers = append(numbers, typ == "xs:integer" || typ == "xs:double" || typ == "xs:boolean")
		})
	})
	if err != nil {
		return err
	}
	r.features++
	f := &record{titles: titles, values: values, numbers: numbers, own: own, line: line}
	if !own {
		f.id, f.kind = id, kind
	}
	return r.build(&g, f)
}

// property adds the text of a property, or the geometry in it; of one that is made of others each text by its path, as
// in address.city.
func (r *reader) property(title string, g *shape, depth int, add func(title, text string)) error {
	if depth > mostNesting {
		return r.Errorf("properties are nested too deeply")
	}
	var text []byte
	for {
		kind, err := r.Next()
		if err != nil {
			return err
		}
		switch kind {
		case xmlscan.Text:
			text = append(text, r.Text()...)
		case xmlscan.End:
			if text := r.String(bytes.TrimSpace(text)); text != "" {
				add(title, text)
			}
			return nil
		case xmlscan.Start:
			if local := r.Local(); r.gml() && isGeometry(local) {
				err = r.geometry(local, g, r.outer, 0)
			} else {
				err = r.property(title+"."+local, g, depth+1, add)
			}
			if err != nil {
				return err
			}
		}
	}
}

var geometries = []string{"Point", "LineString", "Curve", "LinearRing", "Polygon", "Surface", "MultiPoint",
	"MultiCurve", "MultiLineString", "MultiSurface", "MultiPolygon", "MultiGeometry", "CompositeCurve",
	"CompositeSurface", "Solid", "OrientableCurve"}

func isGeometry(local string) bool { return slices.Contains(geometries, local) }

const mostNesting = 32

// geometry adds one to what a feature has.
func (r *reader) geometry(local string, g *shape, around scope, depth int) error {
	if depth > mostNesting {
		return r.Errorf("geometries are nested too deeply")
	}
	in := r.scope(around)
	switch {
	case g.system == "":
		g.system = in.system
	case g.system != in.system:
		line, col := r.Pos()
		r.d.Note(nav.ProblemLeftOut, "a geometry in another coordinate system than its feature's first was left out", line,
			col)
		return r.Pass()
	}
	if in.dimension == "3" {
		g.HasZ = true
	}
	switch local {
	case "Point":
		list, err := r.positions(g, in)
		g.Points = append(g.Points, list...)
		return err
	case "LineString", "LinearRing":
		list, err := r.positions(g, in)
		if len(list) > 0 {
			g.Lines = append(g.Lines, list)
		}
		return err
	case "Curve", "CompositeCurve":
		var whole []layer.Position
		err := r.segments(g, &whole, in)
		if len(whole) > 0 {
			g.Lines = append(g.Lines, whole)
		}
		return err
	case "Polygon", "PolygonPatch":
		return r.polygon(g, in)
	case "Solid", "OrientableCurve":
		g.Other = "a geometry " + local
		return r.Pass()
	}
	return r.Children(func(local string) error { return r.inside(local, g, in, depth+1) })
}

// inside reads the members of a geometry of several.
func (r *reader) inside(local string, g *shape, in scope, depth int) error {
	if isGeometry(local) || local == "PolygonPatch" {
		return r.geometry(local, g, in, depth)
	}
	if depth > mostNesting {
		return r.Errorf("geometries are nested too deeply")
	}
	return r.Children(func(local string) error { return r.inside(local, g, in, depth+1) })
}

// segments reads the segments of a curve one behind the other. Arcs are none of simple features at level 0.
func (r *reader) segments(g *shape, whole *[]layer.Position, in scope) error {
	return r.Children(func(local string) error {
		switch local {
		case "LineStringSegment", "LineString":
			list, err := r.positions(g, in)
			if n := len(*whole); n > 0 && len(list) > 0 && list[0].X == (*whole)[n-1].X && list[0].Y == (*whole)[n-1].Y {
				list = list[1:]
			}
			*whole = append(*whole, list...)
			return err
		case "segments", "curveMember":
			return r.segments(g, whole, in)
		}
		g.Other = "a geometry " + local
		return r.Pass()
	})
}

func (r *reader) polygon(g *shape, in scope) error {
	var rings [][]layer.Position
	err := r.Children(func(local string) error {
		switch local {
		case "exterior", "interior", "outerBoundaryIs", "innerBoundaryIs":
			return r.Children(func(local string) error {
				if local != "LinearRing" {
					g.Other = "a geometry " + local
					return r.Pass()
				}
				list, err := r.positions(g, in)
				if len(list) > 0 {
					rings = append(rings, list)
				}
				return err
			})
		}
		return r.Skip()
	})
	if len(rings) > 0 {
		g.Polygons = append(g.Polygons, rings)
	}
	return err
}

// positions reads the positions of a point, a line or a ring. X is the first number and Y the second.
func (r *reader) positions(g *shape, around scope) (out []layer.Position, err error) {
	around = r.scope(around)
	err = r.Children(func(local string) error {
		in := r.scope(around)
		switch local {
		case "pos", "posList":
			text, err := r.LeafString()
			if err != nil {
				return err
			}
			numbers := strings.Fields(text)
			step := 2
			if in.dimension == "3" || in.dimension == "" && in.three(local, len(numbers)) {
				step, g.HasZ = 3, true
			}
			return r.tuples(numbers, step, &out)
		case "coordinates": // of GML 2: x,y x,y
			text, err := r.LeafString()
			if err != nil {
				return err
			}
			for tuple := range strings.FieldsSeq(text) {
				parts := strings.Split(tuple, ",")
				if len(parts) == 3 {
					g.HasZ = true
				}
				if err := r.tuples(parts, max(len(parts), 2), &out); err != nil {
					return err
				}
			}
			return nil
		case "pointProperty", "Point", "pointRep":
			return r.Children(func(local string) error {
				if local != "pos" {
					return r.Skip()
				}
				text, err := r.LeafString()
				if err != nil {
					return err
				}
				numbers := strings.Fields(text)
				return r.tuples(numbers, max(len(numbers), 2), &out)
			})
		}
		return r.Skip()
	})
	return
}

func (r *reader) tuples(numbers []string, step int, out *[]layer.Position) error {
	if len(numbers)%step != 0 {
		return r.Errorf("%d numbers don't make positions of %d", len(numbers), step)
	}
	for i := 0; i < len(numbers); i += step {
		var v [3]float64
		v[2] = math.NaN()
		for k := range min(step, 3) {
			n, _, ok := decimal.Parse([]byte(numbers[i+k]))
			if !ok {
				return r.Errorf("coordinate %.40q is not a number", numbers[i+k])
			}
			v[k] = n
		}
		*out = append(*out, layer.Position{X: v[0], Y: v[1], Z: v[2]})
	}
	return nil
}

// referenceOf finds the system of a name. The forms of the OGC have the axes in the order of the registry, which of
// 4326 is latitude first; the short form EPSG:4326 and that of GML 2 have longitude first.
func (r *reader) referenceOf(name string) (*reference, error) {
	if have := r.systems[name]; have != nil {
		return have, nil
	}
	ref := &reference{}
	formal := strings.HasPrefix(name, "urn:") || strings.Contains(name, "/def/crs/")
	number := crs.NumberIn(name)
	switch {
	case name == "":
		ref.northing = true
	case strings.Contains(name, "CRS84"):
	case number == "":
		return nil, fmt.Errorf("its coordinate system %q is not known", name)
	case number == "4326" || number == "4979":
		ref.northing, ref.unsure = formal, !formal && !strings.Contains(name, "#")
	default:
		s, err := crs.Find(number)
		if err != nil {
			return nil, err
		}
		if s, err = layer.SystemOf(r.d, r.opt, s, "the geometry"); err != nil {
			return nil, err
		}
		ref.system, ref.northing, ref.unsure = s, formal && !s.Projected(), s.Projected() || !formal
	}
	if r.opt.System != nil {
		ref.system = r.opt.System
	}
	if ref.unsure && r.decided != nil {
		ref.settled = true
		var why string
		if ref.northing, why = r.decided.northingFirst(name, ref.system); why != "" {
			r.d.Note(nav.ProblemSystem, fmt.Sprintf("positions in %s were read with %s", name, why), 0, 0).Info = true
		}
	}
	r.systems[name] = ref
	return ref, nil
}

// record is what a feature says of itself, and where.
type record struct {
	titles, values []string
	numbers        []bool
	own            bool   // as we write it
	id, kind       string // its handle and the name of its element, of others
	line           int
}

// build makes items of a feature.
func (r *reader) build(g *shape, f *record) error {
	values, line := f.values, f.line
	name := g.system
	if name == "" {
		name = r.outer.system
	}
	ref, err := r.referenceOf(name)
	if err != nil {
		return &format.Error{Path: r.src.Path, Line: line, Msg: err.Error(), Err: err}
	}
	if r.surveyed != nil {
		r.surveyed.add(name, g)
		return nil
	}
	key := fmt.Sprint(name, f.own, f.kind, f.numbers) + strings.Join(f.titles, "\n")
	b := r.builders[key]
	if b == nil {
		b = layer.NewBuilder(r.d, r.opt, ref.system, f.titles, f.numbers)
		b.Wholes = &r.wholes
		if b.Untyped = !f.own; f.own {
			b.Exact()
		}
		b.Group = f.kind
		r.builders[key] = b
		r.order = append(r.order, key)
	}
	b.ID = f.id
	if ref.unsure && !ref.settled {
		return &unsure{}
	}
	if ref.northing {
		for _, part := range g.All() {
			for i := range part {
				part[i].X, part[i].Y = part[i].Y, part[i].X
			}
		}
	}
	b.Feature(&g.Shape, values, line)
	return nil
}
