package geojson

import (
	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/nav"
)

// ownMember reads the member "gyrolith" of a feature: what GeoJSON has no word for.
func (r *reader) ownMember(f *feature) error {
	st := &f.Style
	var colour, fill string
	into := map[string]*string{"kind": &f.kind, "comment": &f.Comment, "source": &f.Source, "type": &f.Type,
		"number": &f.Number, "symbol": &st.Symbol, "icon": &st.Icon, "colour": &colour, "fill": &fill,
		"name": &f.Name, "description": &f.Desc}
	err := r.members(func(name string) error {
		if dst := into[name]; dst != nil {
			var err error
			*dst, err = r.text()
			return err
		}
		switch name {
		case "width", "icon-scale":
			text, err := r.text()
			v, _, _ := nav.ParseDecimal([]byte(text))
			if name == "width" {
				st.Width = v
			} else {
				st.IconScale = v
			}
			return err
		case "filled", "outlined":
			text, err := r.text()
			if name == "filled" {
				st.NoFill = text == "false"
			} else {
				st.NoOutline = text == "false"
			}
			return err
		case "times":
			return r.elements(func() error {
				text, err := r.text()
				f.times = append(f.times, text)
				return err
			})
		case "links":
			return r.elements(func() error {
				var l nav.Link
				err := r.members(func(name string) error {
					text, err := r.text()
					switch name {
					case "href":
						l.Href = text
					case "text":
						l.Text = text
					case "type":
						l.Type = text
					}
					return err
				})
				f.Links = append(f.Links, l)
				return err
			})
		case "points":
			return r.elements(func() error { return r.ownPoint(f) })
		}
		return r.SkipValue()
	})
	if c, ok := nav.ParseColour(colour); ok {
		st.Colour = c
	}
	if c, ok := nav.ParseColour(fill); ok {
		st.Fill = c
	}
	return err
}

func (r *reader) ownPoint(f *feature) error {
	var w nav.Waypoint
	into := map[string]*string{"name": &w.Name, "comment": &w.Comment, "description": &w.Desc, "source": &w.Source,
		"type": &w.Type, "symbol": &w.Style.Symbol}
	err := r.members(func(name string) error {
		if dst := into[name]; dst != nil {
			var err error
			*dst, err = r.text()
			return err
		}
		if name != "fields" {
			return r.SkipValue()
		}
		return r.members(func(key string) error {
			literal := r.PeekKind() != '"'
			text, err := r.text()
			w.Fields = append(w.Fields, nav.Field{Key: key, Value: text, Literal: literal})
			return err
		})
	})
	f.points = append(f.points, w)
	return err
}

// object builds a JSON object member by member, leaving out what is empty.
type object struct {
	buf   []byte
	first bool
}

func newObject(buf []byte) *object { return &object{append(buf, '{'), true} }

func (o *object) key(name string) {
	if !o.first {
		o.buf = append(o.buf, ',')
	}
	o.first = false
	o.buf = append(appendText(o.buf, name), ':')
}

func (o *object) text(name, value string) {
	if value != "" {
		o.key(name)
		o.buf = appendText(o.buf, value)
	}
}

func (o *object) raw(name, value string) {
	if value != "" {
		o.key(name)
		o.buf = append(o.buf, value...)
	}
}

func (o *object) end() []byte { return append(o.buf, '}') }

// appendText writes a string; bytes that are no UTF-8 become U+FFFD.
func appendText(dst []byte, s string) []byte {
	dst, _ = jsontext.AppendQuote(dst, s)
	return dst
}
