package kml

import (
	"strconv"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// extension is what Gyrolith's own element in a placemark's extended data says: all that KML has no word for.
type extension struct {
	kind, partOf string
	heights      bool // the heights are above the sea, though not every position has one
	words        [][2]string
	links        []nav.Link
	points       []ownPoint
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
					text, err := r.Leaf()
					f.Value = r.String(text)
					return err
				}
				return r.Skip() // displayName: the key, dressed up
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
	e.kind, e.partOf = r.AttrString("kind"), r.AttrString("part-of")
	e.heights = r.AttrString("heights") == "sea"
	r.heights = e.heights
	e.words = r.ownPairs()
	return r.Children(func(local string) error {
		switch local {
		case "link":
			return r.ownLink(&e.links)
		case "point":
			return r.ownPoint(e)
		case "field":
			if e.literal == nil {
				e.literal = map[string]bool{}
			}
			e.literal[r.AttrString("name")] = r.AttrString("type") == "json"
		}
		return r.Skip()
	})
}

// ownPairs gives the attributes of an own element.
func (r *reader) ownPairs() (out [][2]string) {
	for _, a := range r.Attrs() {
		if v, err := r.AttrValue(a); err == nil {
			out = append(out, [2]string{string(a.Name), r.String(v)})
		}
	}
	return
}

func (r *reader) ownLink(to *[]nav.Link) error {
	*to = append(*to, nav.Link{Href: r.AttrString("href"), Text: r.AttrString("text"), Type: r.AttrString("type")})
	return r.Skip()
}

func (r *reader) ownPoint(e *extension) error {
	w := ownPoint{at: len(e.points)}
	if at, err := strconv.Atoi(r.AttrString("at")); err == nil {
		w.at = at
	}
	for _, pair := range r.ownPairs() {
		format.SetOwn(&w.Item, pair[0], pair[1])
	}
	if t := r.AttrString("time"); t != "" {
		r.setTime(&w.Point, []byte(t))
	}
	err := r.Children(func(local string) error {
		if local == "link" {
			return r.ownLink(&w.Links)
		}
		f := nav.Field{Key: r.AttrString("name"), Literal: r.AttrString("type") == "json"}
		text, err := r.Leaf()
		if local == "field" {
			f.Value = r.String(text)
			w.Fields = append(w.Fields, f)
		}
		return err
	})
	e.points = append(e.points, w)
	return err
}

func (e *extension) apply(item *nav.Item) {
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
	for _, p := range e.points {
		if i, ok := missing.Index(p.at); ok && i < len(rt.Points) {
			rt.Points[i] = p.Waypoint
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
			if !ok {
				continue
			}
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
