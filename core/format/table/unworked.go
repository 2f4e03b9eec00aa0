package table

import (
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// workedKey says which word a field is named after as a table of ours names what is worked out, and how many of our own
// its measure is.
func workedKey(key string) (word string, one float64, ok bool) {
	for _, w := range figure.PointWords {
		rest, found := strings.CutPrefix(key, format.TitleOf(w))
		rest = strings.TrimSpace(rest)
		switch q, measured := format.Measured(w); {
		case !found:
		case slices.Contains(stated, w): // whose measure was taken off on reading
			if rest == "" || rest == "°" {
				return w, 1, true
			}
		case w == "slope" && rest == "%":
			return w, 1, true
		case measured:
			if m, is := headings.Named(rest, q); is {
				return w, m.Factor, true
			}
		}
	}
	return "", 0, false
}

// restored is what was read, without what tables of ours work out.
func restored(d *nav.Dataset, err error) (*nav.Dataset, error) {
	if d != nil {
		unworked(d)
	}
	return d, err
}

// unworked leaves out of lines what a table of ours worked out, where all of a line is what positions, heights and
// times give anyway, so that a table comes back as the data that it was made of.
func unworked(d *nav.Dataset) {
	var left []string
	for _, t := range identity.Things(d, nav.Routes) {
		points := t.Route.Points
		var keys []string
		for i := range points {
			keys = workedKeys(keys, points[i].Fields)
		}
		keys = givenKeys(t, keys, len(points), func(i int) []nav.Field { return points[i].Fields })
		for i := range points {
			points[i].Fields = without(points[i].Fields, keys)
		}
		left = append(left, keys...)
	}
	for _, t := range identity.Things(d, nav.Tracks) {
		var keys []string
		for i := range t.Track.Segments {
			s := &t.Track.Segments[i]
			for d := range s.Samples(s.Points) {
				keys = workedKeys(keys, d.Values)
			}
		}
		if len(keys) == 0 {
			continue
		}
		var of []*nav.Segment
		var points []*nav.Point
		for i := range t.Track.Segments {
			s := &t.Track.Segments[i]
			for k := range s.Points {
				of, points = append(of, s), append(points, &s.Points[k])
			}
		}
		var room []nav.Field
		keys = givenKeys(t, keys, len(points), func(i int) []nav.Field {
			room = of[i].Values(room[:0], points[i])
			return room
		})
		for i := range t.Track.Segments {
			leave(&t.Track.Segments[i], keys)
		}
		left = append(left, keys...)
	}
	if slices.Sort(left); len(left) > 0 {
		d.Tell(nav.ProblemColumns, "columns that only say what positions, heights and times give were left out: "+
			strings.Join(slices.Compact(left), ", "))
	}
}

// workedKeys adds those of fields that are named as a table of ours names what is worked out.
func workedKeys(keys []string, fields []nav.Field) []string {
	for _, f := range fields {
		if !slices.Contains(keys, f.Key) {
			if _, _, ok := workedKey(f.Key); ok {
				keys = append(keys, f.Key)
			}
		}
	}
	return keys
}

// givenKeys gives those of which all of a line is what is worked out of it.
func givenKeys(t identity.Thing, keys []string, points int, fields func(i int) []nav.Field) (out []string) {
	if len(keys) == 0 {
		return nil
	}
	line := figure.LineOf(t)
	for _, key := range keys {
		if given(line, key, fields, points) {
			out = append(out, key)
		}
	}
	return out
}

// without gives fields without those of some keys.
func without(fields []nav.Field, keys []string) []nav.Field {
	if len(keys) == 0 {
		return fields
	}
	return slices.DeleteFunc(slices.Clone(fields), func(f nav.Field) bool { return slices.Contains(keys, f.Key) })
}

// leave takes values of some keys away from the points of a segment.
func leave(s *nav.Segment, keys []string) {
	if len(keys) == 0 {
		return
	}
	fresh := nav.Segment{Points: s.Points, Kept: s.Kept}
	for k := range s.Points {
		p := &s.Points[k]
		if d := s.Detail(p); d != nil {
			own := *d
			own.Values = without(d.Values, keys)
			fresh.Attach(p, own)
		}
	}
	*s = fresh
}

// given says whether a field is throughout what is worked out of its line, as finely as it is written.
func given(line *figure.Line, key string, fields func(i int) []nav.Field, points int) bool {
	word, one, _ := workedKey(key)
	some := false
	for i := range points {
		text, has := nav.Get(fields(i), key)
		v := line.Value(word, i)
		if span, ok := v.(time.Duration); ok {
			v = span.Seconds()
		}
		want, known := v.(float64)
		got, digits, isNumber := decimal.Parse([]byte(text))
		switch {
		case has != known || has && !isNumber:
			return false
		case !has:
			continue
		}
		decimals, _ := digits.Decimals()
		off := math.Abs(got*one - want)
		if word == "course" {
			off = math.Abs(math.Remainder(got-want, 360))
		}
		if off > 0.6*math.Pow10(-int(decimals))*one+line.Unsure(word, i) {
			return false
		}
		some = true
	}
	return some
}
