package format

import (
	"encoding/xml"
	"slices"
	"strings"

	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// SensorKeys are the values inside extensions of points that readers take as they are, by the local names of their
// elements, whatever their namespace.
var SensorKeys = map[string]string{
	"speed": "speed", "course": "course", "hr": "hr", "cad": "cad", "power": "power",
	"atemp": "temperature", "wtemp": "water-temperature", "depth": "depth",
}

// unfolded gives data in which the values of pieces that only other formats understand are fields, where the format
// holds fields: an element of an extension by its name, one that nests as address.city, an attribute as tide.unit. The
// data themselves stay as they are.
func (x *Format) unfolded(d *nav.Dataset, opt *WriteOptions) *nav.Dataset {
	places := x.Holds(opt).Holds
	can := func(at holds.Place) bool {
		part := places[at]
		if part == nil {
			return false
		}
		some, limited := part.Terms(holds.Fields)
		return part.Set().Has(holds.Fields) || limited && some.Keys == nil && some.Why == ""
	}
	item := func(at holds.Place, it *nav.Item) (nav.Item, bool) {
		if !foreign(it.Kept, x.Keeps) || !can(at) {
			return *it, false
		}
		out := *it
		out.Kept, out.Fields = unfoldKept(it.Kept, it.Fields, x.Keeps)
		return out, true
	}
	waypoint := func(at holds.Place) func(*nav.Waypoint) (nav.Waypoint, bool) {
		return func(w *nav.Waypoint) (nav.Waypoint, bool) {
			it, changed := item(at, &w.Item)
			return nav.Waypoint{Item: it, Point: w.Point, Exact: w.Exact}, changed
		}
	}
	out := *d
	out.Waypoints, _ = rewritten(d.Waypoints, waypoint(holds.Waypoint))
	out.Routes, _ = rewritten(d.Routes, func(r *nav.Route) (nav.Route, bool) {
		it, changed := item(holds.Route, &r.Item)
		points, more := rewritten(r.Points, waypoint(holds.RoutePoint))
		return nav.Route{Item: it, Points: points}, changed || more
	})
	inTracks := can(holds.TrackPoint)
	out.Tracks, _ = rewritten(d.Tracks, func(t *nav.Track) (nav.Track, bool) {
		it, changed := item(holds.Track, &t.Item)
		segments, more := rewritten(t.Segments, func(s *nav.Segment) (nav.Segment, bool) {
			if !inTracks {
				return *s, false
			}
			return unfoldPoints(s, x.Keeps)
		})
		return nav.Track{Item: it, Segments: segments}, changed || more
	})
	out.Areas, _ = rewritten(d.Areas, func(a *nav.Area) (nav.Area, bool) {
		one := *a
		var changed bool
		one.Item, changed = item(holds.Area, &a.Item)
		return one, changed
	})
	return &out
}

// rewritten gives the same slice where nothing in it changes, and else a copy with what does.
func rewritten[T any](all []T, change func(*T) (T, bool)) (out []T, changed bool) {
	out = all
	for i := range all {
		one, is := change(&all[i])
		if !is {
			continue
		}
		if !changed {
			out, changed = slices.Clone(all), true
		}
		out[i] = one
	}
	return out, changed
}

// foreign says whether there are pieces with values that a format that keeps its own does not understand.
func foreign(kept []nav.Kept, keeps string) bool {
	return slices.ContainsFunc(kept, func(k nav.Kept) bool { return k.Data && k.Format != keeps && !k.Free })
}

// unfoldPoints gives a segment whose details have such values, and says whether there are any.
func unfoldPoints(s *nav.Segment, keeps string) (nav.Segment, bool) {
	any := false
	for d := range s.Samples(s.Points) {
		if any = any || foreign(d.Kept, keeps) && unsaid(d, keeps); any {
			break
		}
	}
	if !any {
		return *s, false
	}
	out := nav.Segment{Points: slices.Clone(s.Points), Kept: s.Kept}
	indices := make([]int, s.Details())
	for i := range indices {
		indices[i] = -1
	}
	for i := range out.Points {
		p := &out.Points[i]
		if !s.HasDetail(&s.Points[i]) {
			continue
		}
		at := s.Points[i].DetailIndex()
		if indices[at] < 0 {
			d := *s.DetailAt(at)
			d.Kept, d.Values = unfoldKept(d.Kept, d.Values, keeps)
			out.Attach(p, d)
			indices[at] = p.DetailIndex()
			continue
		}
		out.Share(p, indices[at])
	}
	return out, true
}

// unsaid says whether a detail has values in its pieces that are not fields already.
func unsaid(d *nav.Detail, keeps string) bool {
	_, fields := unfoldKept(d.Kept, d.Values, keeps)
	return len(fields) > len(d.Values)
}

// unfoldKept takes the values of pieces into fields; the pieces that were taken are gone.
func unfoldKept(kept []nav.Kept, fields []nav.Field, keeps string) ([]nav.Kept, []nav.Field) {
	var left []nav.Kept
	fields = slices.Clip(fields)
	for _, k := range kept {
		if !k.Data || k.Format == keeps || k.Free {
			left = append(left, k)
			continue
		}
		values, whole := leaves(k.Text)
		if !whole {
			left = append(left, k)
		}
		for _, f := range values {
			local := f.Key[strings.LastIndexByte(f.Key, '.')+1:]
			said := slices.ContainsFunc(fields, func(o nav.Field) bool {
				return o.Value == f.Value && (o.Key == f.Key || o.Key == local || o.Key == SensorKeys[local])
			})
			if !said {
				fields = append(fields, f)
			}
		}
	}
	return left, fields
}

// leaves gives the texts and attributes of a piece of XML by their paths, and says whether that is all of it.
func leaves(piece string) (out []nav.Field, whole bool) {
	in := xml.NewDecoder(strings.NewReader(piece))
	in.Strict = false
	var path []string
	var texts []string
	inner := false // the element that ends had others in it
	whole = true
	for {
		tok, err := in.Token()
		if err != nil {
			return out, whole && len(path) == 0
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			if len(path) > 0 && strings.TrimSpace(texts[len(texts)-1]) != "" {
				whole = false // texts between elements
			}
			path, texts, inner = append(path, tok.Name.Local), append(texts, ""), false
			for _, a := range tok.Attr {
				if a.Name.Space != "xmlns" && a.Name.Local != "xmlns" && a.Value != "" {
					out = append(out, nav.Field{Key: strings.Join(path, ".") + "." + a.Name.Local, Value: a.Value})
				}
			}
		case xml.CharData:
			if len(texts) > 0 {
				texts[len(texts)-1] += string(tok)
			}
		case xml.EndElement:
			n := len(path) - 1
			if n < 0 {
				return out, false
			}
			text := strings.TrimSpace(texts[n])
			if inner && text != "" {
				whole = false
			}
			if text != "" && !inner {
				out = append(out, nav.Field{Key: strings.Join(path, "."), Value: text})
			}
			path, texts, inner = path[:n], texts[:n], true
		}
	}
}
