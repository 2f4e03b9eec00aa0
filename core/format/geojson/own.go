package geojson

import (
	"strconv"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// ownMember reads the member "gyrolith" of a feature or a collection: what GeoJSON has no word for.
func (r *reader) ownMember(f *feature) error {
	return r.members(func(name string) error {
		switch name {
		case "times":
			return r.elements(func() error {
				at, err := r.moment()
				f.times.Append(at)
				return err
			})
		case "links":
			return r.links(&f.Links)
		case "author-links":
			return r.links(&f.file.AuthorLinks)
		case "points":
			return r.elements(func() error { return r.ownPoint(f) })
		}
		text, err := r.text()
		switch name {
		case "kind":
			f.kind = text
		case "part-of":
			f.partOf = text
		}
		format.SetOwn(&f.Item, name, text)
		format.SetOwnFile(&f.file, name, text)
		return err
	})
}

// moment reads the time of a point, null where it has none.
func (r *reader) moment() (format.Moment, error) {
	v, err := r.ReadValue()
	if err != nil || v.Kind() == 'n' {
		return format.Moment{}, err
	}
	text := []byte(v)
	if v.Kind() == '"' {
		text = v[1 : len(v)-1]
	}
	var p nav.Point
	format.SetTime(&p, text, &r.clock, r.opt, r.data, r.here)
	return format.Moment{NS: p.UnixNano(), Mark: p.TimeMark()}, nil
}

func (r *reader) links(to *[]nav.Link) error {
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
		*to = append(*to, l)
		return err
	})
}

// ownPoint is what is said of one position of a line, by its number from 0 through all parts.
type ownPoint struct {
	at int
	nav.Item
}

func (r *reader) ownPoint(f *feature) error {
	w := ownPoint{at: len(f.points)}
	err := r.members(func(name string) error {
		switch name {
		case "links":
			return r.links(&w.Links)
		case "fields":
			return r.members(func(key string) error {
				literal := r.PeekKind() != '"'
				text, err := r.literal()
				w.Fields = append(w.Fields, nav.Field{Key: key, Value: text, Literal: literal})
				return err
			})
		}
		text, err := r.text()
		if name == "at" {
			if n, err := strconv.Atoi(text); err == nil {
				w.at = n
			}
		}
		format.SetOwn(&w.Item, name, text)
		return err
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

// item writes those properties of an item that are in a set, and its links.
func (o *object) item(it *nav.Item, which holds.Set) {
	if holds.ItemUses(it)&which == 0 {
		return
	}
	for pairs := format.Own(it, which); len(pairs) > 0; pairs = pairs[2:] {
		switch word, value := pairs[0], pairs[1]; {
		case word == "icon-scale" || word == "width":
			o.raw(word, value)
		case word == "desc":
			o.text("description", value)
		case value == "no" && (word == "filled" || word == "outlined"):
			o.raw(word, "false")
		default:
			o.text(word, value)
		}
	}
	o.links("links", it.Links)
}

func (o *object) links(name string, links []nav.Link) {
	if len(links) == 0 {
		return
	}
	var parts []string
	for _, l := range links {
		lo := newObject(nil)
		lo.text("href", l.Href)
		lo.text("text", l.Text)
		lo.text("type", l.Type)
		parts = append(parts, string(lo.end()))
	}
	o.raw(name, "["+strings.Join(parts, ",")+"]")
}

// field writes a field in its own type.
func (o *object) field(key string, f *nav.Field) {
	o.key(key)
	if f.Literal && (nav.IsNumber(f.Value) || jsontext.Value(f.Value).IsValid()) {
		o.buf = append(o.buf, f.Value...)
		return
	}
	o.buf = appendText(o.buf, f.Value)
}

// fields writes the member of the fields of a point.
func (o *object) fields(fields []nav.Field) {
	if len(fields) == 0 {
		return
	}
	o.key("fields")
	inner := newObject(o.buf)
	for i := range fields {
		inner.field(fields[i].Key, &fields[i])
	}
	o.buf = inner.end()
}

func (o *object) end() []byte { return append(o.buf, '}') }

// appendText writes a string; bytes that are no UTF-8 become U+FFFD.
func appendText(dst []byte, s string) []byte {
	plain := true
	for i := 0; i < len(s) && plain; i++ {
		plain = s[i] >= ' ' && s[i] < 0x7f && s[i] != '"' && s[i] != '\\'
	}
	if plain {
		return append(append(append(dst, '"'), s...), '"')
	}
	dst, _ = jsontext.AppendQuote(dst, s)
	return dst
}
