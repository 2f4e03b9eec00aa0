package geojson

import (
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// Properties of the open simple style (simplestyle-spec 1.1.0), by which many programs colour lines, areas and points.

// simple is what properties of a simple style say.
type simple struct {
	nav.Style
	strokeOpacity, fillOpacity string
}

var simpleKeys = []string{"stroke", "marker-color", "fill", "stroke-width", "marker-symbol", "stroke-opacity",
	"fill-opacity"}

// simpleStyle takes colours and widths from properties that many programs write. They stay fields, and go behind what
// our own member says.
func (f *feature) simpleStyle(field *nav.Field) {
	if !slices.Contains(simpleKeys, field.Key) {
		return
	}
	if f.simple == nil {
		f.simple = &simple{}
	}
	s := f.simple
	switch field.Key {
	case "stroke", "marker-color":
		if c, ok := colourOf(field.Value); ok && !s.Colour.Set {
			s.Colour = c
		}
	case "fill":
		if c, ok := colourOf(field.Value); ok {
			s.Fill = c
		}
	case "stroke-width":
		if v, err := strconv.ParseFloat(field.Value, 64); err == nil && v > 0 && v < 1000 {
			s.Width = v
		}
	case "marker-symbol":
		s.Symbol = field.Value
	case "stroke-opacity":
		s.strokeOpacity = field.Value
	case "fill-opacity":
		s.fillOpacity = field.Value
	}
}

// colourOf reads a colour of six or of three digits, or a word for one.
func colourOf(text string) (nav.Colour, bool) {
	if len(text) == 4 && text[0] == '#' {
		text = "#" + strings.Repeat(text[1:2], 2) + strings.Repeat(text[2:3], 2) + strings.Repeat(text[3:4], 2)
	}
	return nav.ParseColour(text)
}

// opaque takes an opacity from 0 to 1.
func opaque(c *nav.Colour, text string) {
	if v, err := strconv.ParseFloat(text, 64); err == nil && v >= 0 && v <= 1 && c.Set {
		c.A = uint8(v*255 + 0.5)
	}
}

// styled gives the feature the properties of a simple style that nothing else says.
func (f *feature) styled() {
	if f.simple == nil {
		return
	}
	opaque(&f.simple.Colour, f.simple.strokeOpacity)
	opaque(&f.simple.Fill, f.simple.fillOpacity)
	if f.Style != (nav.Style{}) {
		return
	}
	f.Style = f.simple.Style
}

// ours says in our own member that the properties of the simple style were added by us, so that they are no fields.
const ours = "simple-style"

// simpleOf lists the properties of the simple style that say how an item looks, as keys and values of JSON.
func simpleOf(kind nav.Kind, st *nav.Style) (out [][2]string) {
	put := func(key, value string) { out = append(out, [2]string{key, value}) }
	colour := func(key, opacity string, c nav.Colour) {
		if !c.Set {
			return
		}
		opaque := c
		opaque.A = 255
		put(key, strconv.Quote(opaque.String()))
		if c.A != 255 && opacity != "" {
			put(opacity, string(decimal.AppendShort(nil, float64(c.A)/255, 3)))
		}
	}
	if kind == nav.Waypoints {
		colour("marker-color", "", st.Colour)
		if st.Symbol != "" {
			put("marker-symbol", string(appendText(nil, st.Symbol)))
		}
		return out
	}
	colour("stroke", "stroke-opacity", st.Colour)
	if st.Width > 0 {
		put("stroke-width", string(decimal.AppendShort(nil, st.Width, 2)))
	}
	if kind == nav.Areas {
		colour("fill", "fill-opacity", st.Fill)
	}
	return out
}

// simpleStyle writes the properties of the simple style of an item, unless its source has some of its own; it says
// whether it did.
func (o *object) simpleStyle(kind nav.Kind, it *nav.Item) (added bool) {
	if slices.ContainsFunc(it.Fields, func(f nav.Field) bool { return slices.Contains(simpleKeys, f.Key) }) {
		return false
	}
	for _, p := range simpleOf(kind, &it.Style) {
		o.raw(p[0], p[1])
		added = true
	}
	return added
}

// edited takes properties that we added away again. Those that somebody has changed since go before our own member;
// what can't be understood of them stays a field.
func (f *feature) edited(d *nav.Dataset, kind nav.Kind) {
	was := simpleOf(kind, &f.Style)
	changed := false
	f.Fields = slices.DeleteFunc(f.Fields, func(field nav.Field) bool {
		if !slices.Contains(simpleKeys, field.Key) {
			return false
		}
		same := slices.ContainsFunc(was, func(p [2]string) bool {
			return p[0] == field.Key && strings.Trim(p[1], `"`) == field.Value
		})
		if !same {
			if !understood(&field) {
				return false
			}
			f.simpleStyle(&field)
			changed = true
		}
		return true
	})
	const text = "properties of the simple style were changed since they were written, and go before the member gyrolith"
	if changed && !slices.ContainsFunc(d.Problems, func(p nav.Problem) bool { return p.Text == text }) {
		d.Tell(nav.ProblemStyles, text)
	}
	s := f.simple
	if f.simple = nil; s == nil {
		return
	}
	take := func(to *nav.Colour, c nav.Colour, opacity string) {
		if c.Set {
			c.A = to.A
			if !to.Set {
				c.A = 255
			}
			*to = c
		}
		opaque(to, opacity)
	}
	take(&f.Style.Colour, s.Colour, s.strokeOpacity)
	take(&f.Style.Fill, s.Fill, s.fillOpacity)
	if s.Width > 0 {
		f.Style.Width = s.Width
	}
	if s.Symbol != "" {
		f.Style.Symbol, f.Style.Icon, f.Style.IconScale = s.Symbol, "", 0
	}
}

// understood says whether a property of the simple style has a value that it can have.
func understood(f *nav.Field) bool {
	v, err := strconv.ParseFloat(f.Value, 64)
	switch f.Key {
	case "stroke", "marker-color", "fill":
		_, ok := colourOf(f.Value)
		return ok
	case "stroke-width":
		return err == nil && v > 0 && v < 1000
	case "stroke-opacity", "fill-opacity":
		return err == nil && v >= 0 && v <= 1
	}
	return true
}

// kindOf says which kind of item a feature is, as far as its look goes.
func (f *feature) kindOf() nav.Kind {
	for i := range f.geometries {
		switch typ := f.geometries[i].typ; {
		case strings.HasSuffix(typ, "Point"):
			return nav.Waypoints
		case strings.HasSuffix(typ, "Polygon"):
			return nav.Areas
		}
	}
	return nav.Tracks
}
