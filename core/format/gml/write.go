package gml

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
)

type writer struct {
	*xmlwrite.Writer
	ids int
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.ByKind, true)
	if len(layers) == 0 {
		return nil, errors.New(
			"there is nothing that GML can store as a feature: no waypoint, and no line or area with enough points")
	}
	w := &writer{Writer: xmlwrite.New(out)}
	w.Open("sf:FeatureCollection", "xmlns:sf", spaceSF, "xmlns:gml", spaceGML32, "xmlns:g", spaceOwn, "xmlns:xsi",
		spaceXSI, "xmlns:xs", spaceSchema, "gml:id", "features")
	for _, l := range layers {
		names := names(l)
		err := l.Each(func(f *layer.Feature) error {
			w.feature(l, f, names)
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	w.End("sf:FeatureCollection")
	err := w.Close()
	if w.Bad > 0 {
		done.Ledger = append(done.Ledger, nav.Entry{KindWord: "file", What: "characters",
			Why: "XML can't store these control characters; written as \uFFFD", Count: w.Bad, Loss: true})
	}
	return done, err
}

// elementName brings a name to one of an element without a prefix (Namespaces in XML 1.0, NCName).
func elementName(name string) string {
	out := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' || r == '-' || r == '.' {
			return r
		}
		return '_'
	}, name)
	if out == "" || !unicode.IsLetter(rune(out[0])) && out[0] != '_' {
		out = "_" + out
	}
	return out
}

// names gives the columns of a layer names of elements, no two the same.
func names(l *layer.Layer) []string {
	taken := map[string]bool{"geometry": true}
	out := make([]string, len(l.Columns))
	for i, c := range l.Columns {
		base := elementName(c.Name)
		name := base
		for n := 2; taken[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s_%d", base, n)
		}
		taken[strings.ToLower(name)] = true
		out[i] = name
	}
	return out
}

// types are the types of values that are no texts.
var types = map[layer.Type]string{layer.Integer: "xs:integer", layer.Decimal: "xs:double", layer.Boolean: "xs:boolean"}

func (w *writer) feature(l *layer.Layer, f *layer.Feature, names []string) {
	w.ids++
	element := "g:" + strings.TrimSuffix(elementName(l.Name), "s")
	w.Open("sf:featureMember")
	w.Open(element, "gml:id", fmt.Sprintf("f%d", w.ids))
	for i, v := range f.Values {
		if v == "" {
			continue
		}
		c := &l.Columns[i]
		w.Line().Raw("<g:").Raw(names[i])
		if c.Name != names[i] { // which no element can have
			w.Attr("name", c.Name)
		}
		w.Attr("xsi:type", types[c.Type]).Raw(">").Text(v).Raw("</g:").Raw(names[i])
		w.Raw(">\n")
	}
	w.Open("g:geometry")
	w.geometry(l, f)
	w.End("g:geometry")
	w.End(element)
	w.End("sf:featureMember")
}

func (w *writer) geometry(l *layer.Layer, f *layer.Feature) {
	dimension := "2"
	if f.HasZ() {
		dimension = "3"
	}
	head := func(first bool) []string {
		w.ids++
		attrs := []string{"gml:id", fmt.Sprintf("g%d", w.ids)}
		if first {
			attrs = append(attrs, "srsName", worldName, "srsDimension", dimension)
		}
		return attrs
	}
	many := func(around, member string, n int, each func(i int, first bool)) {
		if around == "" {
			each(0, true)
			return
		}
		w.Open("gml:"+around, head(true)...)
		for i := range n {
			w.Open("gml:" + member)
			each(i, false)
			w.End("gml:" + member)
		}
		w.End("gml:" + around)
	}
	switch l.Geometry {
	case layer.Points:
		around := ""
		if len(f.Parts) > 1 {
			around = "MultiPoint"
		}
		many(around, "pointMember", len(f.Parts), func(i int, first bool) {
			w.Open("gml:Point", head(first)...)
			w.positions("pos", f.Parts[i], dimension)
			w.End("gml:Point")
		})
	case layer.Lines:
		around := ""
		if len(f.Parts) > 1 || l.Name == "tracks" {
			around = "MultiCurve"
		}
		many(around, "curveMember", len(f.Parts), func(i int, first bool) {
			w.Open("gml:LineString", head(first)...)
			w.positions("posList", f.Parts[i], dimension)
			w.End("gml:LineString")
		})
	default:
		polygons, around := f.Polygons(), ""
		if len(polygons) > 1 {
			around = "MultiSurface"
		}
		many(around, "surfaceMember", len(polygons), func(i int, first bool) {
			w.Open("gml:Polygon", head(first)...)
			for k, ring := range polygons[i] {
				w.ring(ring, k == 0, dimension)
			}
			w.End("gml:Polygon")
		})
	}
}

// ring writes an outline or a hole.
func (w *writer) ring(ring []layer.Position, outer bool, dimension string) {
	side := "gml:interior"
	if outer {
		side = "gml:exterior"
	}
	w.Open(side)
	w.Open("gml:LinearRing")
	w.positions("posList", ring, dimension)
	w.End("gml:LinearRing")
	w.End(side)
}

// positions writes latitudes and longitudes, in the order of EPSG 4326, and heights.
func (w *writer) positions(element string, list []layer.Position, dimension string) {
	w.Line().Raw("<gml:").Raw(element).Raw(">")
	for i, p := range list {
		if i > 0 {
			w.Raw(" ")
		}
		w.Buf = append(decimal.AppendShort(w.Buf, p.Y, 9), ' ')
		w.Buf = decimal.AppendShort(w.Buf, p.X, 9)
		if dimension == "3" {
			w.Buf = decimal.AppendShort(append(w.Buf, ' '), p.Z, 4)
		}
	}
	w.Raw("</gml:").Raw(element).Raw(">\n")
}
