package kml

import (
	"cmp"
	"slices"
	"strconv"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// extension is what Gyrolith's own element in a placemark's extended data says: all that KML has no word for.
type extension struct {
	kind, partOf string
	markup       bool // the description is HTML in the data as well
	heights      bool // the heights are above the sea, though not every position has one
	words        [][2]string
	links        []nav.Link
	points       []ownPoint
	used         int             // how many of them are of positions that there are
	literal      map[string]bool // the fields that are no texts
	fields       []nav.Field
	kept         []nav.Kept
}

// ownPoint is what is said of one position of a line, by its number from 0 through all parts.
type ownPoint struct {
	at int
	nav.Waypoint
}

// pointWords are what the extension says of a point of a line.
const pointWords = ^holds.Set(0)

// ownWords are what the extension says of an item, since no element and no style of KML does.
func ownWords(kind nav.Kind, item *nav.Item) holds.Set {
	out := holds.SetOf(holds.Comment, holds.Source, holds.Type, holds.Number)
	if kind != nav.Waypoints || !iconSays(item) {
		out |= holds.SetOf(holds.Symbol)
	}
	switch kind {
	case nav.Waypoints:
		return out | holds.SetOf(holds.Width, holds.Fill, holds.Outline)
	case nav.Areas:
		return out | holds.SetOf(holds.Icon, holds.IconScale)
	}
	return out | holds.SetOf(holds.Icon, holds.IconScale, holds.Fill, holds.Outline)
}

// extendedData reads the fields of a placemark.
func (r *reader) extendedData(p *placemark) error {
	e := &p.extension
	return r.Children(func(local string) error {
		switch {
		case r.Name().Space == format.Namespace && local == "item":
			return r.ownItem(e)
		case local == "Data":
			f := nav.Field{Key: r.AttrString("name")}
			err := r.Children(func(local string) error {
				if local == "value" {
					return r.value(&f.Value)
				}
				return r.Skip()
			})
			e.fields = append(e.fields, f)
			return err
		case local == "SchemaData":
			return r.schemaData(e)
		}
		return r.keep(&e.kept, "ExtendedData")
	})
}

func (r *reader) ownItem(e *extension) error {
	r.ownWords(func(word, value string) bool {
		_, isKind := nav.ParseKind(value)
		switch {
		case word == "kind" && isKind:
			e.kind = value
		case word == "markup":
			e.markup = value == "yes"
			return e.markup
		case word == "part-of":
			e.partOf = value
		case word == "heights" && value == "sea":
			e.heights = true
		default:
			e.words = append(e.words, [2]string{word, value})
			return format.SetOwn(&nav.Item{}, word, value)
		}
		return true
	})
	r.heights = e.heights
	return r.Children(func(local string) error {
		switch local {
		case "point":
			return r.ownPoint(e)
		case "field":
			if e.literal == nil {
				e.literal = map[string]bool{}
			}
			e.literal[r.AttrString("name")] = r.literal()
			return r.Empty()
		}
		return r.ownLink(local, &e.links)
	})
}

// ownWords takes the attributes of an own element that set knows.
func (r *reader) ownWords(set func(word, value string) bool) {
	for _, a := range r.Attrs() {
		if v, err := r.AttrValue(a); err == nil && !set(string(a.Name), r.String(v)) {
			r.LeaveAttr(string(a.Name))
		}
	}
}

// literal says whether an own field is no text.
func (r *reader) literal() bool {
	if r.AttrString("type") == "json" {
		return true
	}
	r.LeaveAttr("type")
	return false
}

// value reads the value of a field, with its blanks.
func (r *reader) value(dst *string) error {
	text, err := r.Leaf()
	if *dst != "" {
		r.LeafUntaken(string(text))
		return err
	}
	*dst = r.String(text)
	return err
}

// ownLink reads an own link; no other element stands where they do.
func (r *reader) ownLink(local string, to *[]nav.Link) error {
	if local != "link" {
		return r.Skip()
	}
	*to = append(*to, nav.Link{Href: r.AttrString("href"), Text: r.AttrString("text"), Type: r.AttrString("type")})
	return r.Empty()
}

func (r *reader) ownPoint(e *extension) error {
	w := ownPoint{at: len(e.points)}
	r.ownWords(func(word, value string) bool {
		switch word {
		case "at":
			at, err := strconv.Atoi(value)
			if err == nil {
				w.at = at
			}
			return err == nil
		case "time":
			r.setTime(&w.Point, []byte(value))
			return true
		}
		return format.SetOwn(&w.Item, word, value)
	})
	err := r.Children(func(local string) error {
		if local != "field" {
			return r.ownLink(local, &w.Links)
		}
		f := nav.Field{Key: r.AttrString("name"), Literal: r.literal()}
		err := r.value(&f.Value)
		w.Fields = append(w.Fields, f)
		return err
	})
	e.points = append(e.points, w)
	return err
}

func (e *extension) apply(item *nav.Item) {
	slices.SortStableFunc(e.points, func(a, b ownPoint) int { return cmp.Compare(a.at, b.at) })
	for _, f := range e.fields {
		f.Literal = f.Literal || e.literal[f.Key]
		item.Fields = append(item.Fields, f)
	}
	item.Kept = append(item.Kept, e.kept...)
	item.Links = append(item.Links, e.links...)
	for _, pair := range e.words {
		format.SetOwn(item, pair[0], pair[1])
	}
}

// route makes a route of a line that was marked as one when it was written.
func (e *extension) route(t *nav.Track, missing format.Missing) nav.Route {
	rt := nav.Route{Item: t.Item}
	seg := &t.Segments[0]
	rt.Points = make([]nav.Waypoint, len(seg.Points))
	for i, p := range e.points {
		if k, ok := missing.Index(p.at); ok && k < len(rt.Points) && (i == 0 || e.points[i-1].at < p.at) {
			rt.Points[k] = p.Waypoint
			e.used++
		}
	}
	for i := range rt.Points {
		w := &rt.Points[i]
		at, mark := w.UnixNano(), w.TimeMark()
		w.Point = seg.Points[i].Loose()
		w.SetTime(at, mark)
		if d := seg.Detail(&seg.Points[i]); d != nil {
			w.Exact = d.Exact
			w.Fields = append(w.Fields, d.Values...)
		}
	}
	return rt
}

// details gives the points of a track what was said of them one by one.
func (e *extension) details(t *nav.Track, missing []format.Missing) {
	first, next := 0, 0
	for i := range t.Segments {
		s := &t.Segments[i]
		end := first + len(s.Points) + len(missing[i])
		for ; next < len(e.points) && e.points[next].at < end; next++ {
			w := &e.points[next]
			at, ok := missing[i].Index(w.at - first)
			if !ok || next > 0 && e.points[next-1].at == w.at {
				continue
			}
			e.used++
			p := &s.Points[at]
			var d nav.Detail
			if old := s.Detail(p); old != nil {
				d = *old
			}
			d.Values = append(d.Values, w.Fields...)
			w.Fields = nil
			if holds.ItemUses(&w.Item) != 0 {
				d.Item = &w.Item
			}
			if w.HasTime() {
				p.SetTime(w.UnixNano(), w.TimeMark())
			}
			s.Attach(p, d)
		}
		first = end
	}
}
