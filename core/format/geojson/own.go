package geojson

import (
	"slices"
	"sort"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
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
		_, isKind := nav.ParseKind(text)
		switch {
		case err != nil:
		case name == "exact":
			f.exact = true
		case name == ours && text == "true":
			f.ours = true
		case name == "kind" && isKind:
			f.kind = text
		case name == "part-of":
			f.partOf = text
		default:
			// Which of the two it is shows only at the end: see otherWords.
			item, file := format.SetOwn(&f.Item, name, text), format.SetOwnFile(&f.file, name, text)
			if !item && !file {
				r.leave(name, ownMember)
			}
		}
		return err
	})
}

// otherWords tells of what our own member says of a file where the object is none, and of an item where it is one.
func (r *reader) otherWords(f *feature, isFile bool) {
	item := f.Item
	item.Name, item.Desc, item.Links, item.Kept = "", "", nil, nil // a file may have these
	if isFile && holds.ItemUses(&item) != 0 {
		r.leave("properties of an item", "the collection")
	}
	if !isFile && !f.file.Blank() {
		r.leave("properties of a file", "a feature")
	}
}

// What members belong to, in words.
const (
	ownMember   = `"gyrolith"`
	ownPosition = `a position in "gyrolith"`
	ownLink     = "a link"
)

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
			default:
				r.leave(name, ownLink)
			}
			return err
		})
		*to = append(*to, l)
		return err
	})
}

// ownPoints are what is said of single positions of a line, by their numbers from 0 through all parts.
type ownPoints struct {
	list  scratch.List[ownPoint]
	mixed bool        // they are not in the order of their numbers
	used  int         // so many belong to a position that there is
	said  nav.Segment // which has the details
}

type ownPoint struct {
	at int
	nav.Point
}

// segment gives a segment what is said of its points, which begin at a number; number says which one each has.
func (o *ownPoints) segment(s *nav.Segment, number func(int) int) {
	if o.list.Len() == 0 || len(s.Points) == 0 {
		return
	}
	if o.mixed {
		o.sort()
	}
	carry := nav.Carry{From: &o.said, To: s}
	next := sort.Search(o.list.Len(), func(k int) bool { return o.list.At(k).at >= number(0) })
	for i := range s.Points {
		n := number(i)
		for next < o.list.Len() && o.list.At(next).at < n {
			next++
		}
		if next < o.list.Len() && o.list.At(next).at == n {
			o.used++
			said := carry.Point(o.list.At(next).Point)
			s.Share(&s.Points[i], said.DetailIndex())
		}
	}
}

func (o *ownPoints) add(p ownPoint, d nav.Detail) {
	o.said.Attach(&p.Point, d)
	if n := o.list.Len(); n > 0 && o.list.At(n-1).at > p.at {
		o.mixed = true
	}
	o.list.Append(p)
}

func (o *ownPoints) sort() {
	all := make([]ownPoint, o.list.Len())
	for i := range all {
		all[i] = *o.list.At(i)
	}
	slices.SortStableFunc(all, func(a, b ownPoint) int { return a.at - b.at })
	for i := range all {
		*o.list.At(i) = all[i]
	}
	o.mixed = false
}

func (r *reader) ownPoint(f *feature) error {
	own, item := ownPoint{at: f.points.list.Len()}, &r.item
	*item, r.values = nav.Item{}, r.values[:0]
	err := r.members(func(name string) error {
		switch name {
		case "links":
			return r.links(&item.Links)
		case "fields":
			return r.members(func(key string) error {
				literal := r.PeekKind() != '"'
				text, err := r.literal()
				r.values = append(r.values, nav.Field{Key: key, Value: text, Literal: literal})
				return err
			})
		}
		text, err := r.text()
		if name == "at" {
			if n, err := strconv.Atoi(text); err == nil {
				own.at = n
			} else {
				r.leave(name, ownPosition)
			}
			return err
		}
		if err == nil && !format.SetOwn(item, name, text) {
			r.leave(name, ownPosition)
		}
		return err
	})
	detail := nav.Detail{Values: r.values}
	if holds.ItemUses(item) != 0 {
		kept := *item
		detail.Item = &kept
	}
	f.points.add(own, detail)
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

// titled writes properties under the titles that their source has for them, too.
func (o *object) titled(it *nav.Item, at *nav.Point, spelled *spelling) {
	if it.Titles == nil {
		return
	}
	for _, t := range *it.Titles {
		if _, is := nav.Get(it.Fields, t.Text); is || t.Of == timesOf || spelled.titles[t.Of] != nil ||
			slices.Contains(properties, t.Text) {
			continue
		}
		switch t.Of {
		case "height":
			if at != nil && at.HasHeight() {
				o.raw(t.Text, string(at.AppendHeight(nil)))
			}
		case "time":
			if at != nil && at.HasTime() {
				o.text(t.Text, string(at.AppendTime(nil)))
			}
		default:
			o.text(t.Text, it.Text(t.Of))
		}
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
	if f.Literal && (decimal.IsNumber(f.Value) || jsontext.Value(f.Value).IsValid()) {
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
