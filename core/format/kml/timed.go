package kml

import (
	"bytes"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// timedTrack reads a Track: times and positions in two lists that belong together one by one.
func (r *reader) timedTrack(list *[]geometry, owner string) error {
	t := timedTrack{geometry: geometry{kind: nav.Tracks}}
	r.line.Begin(r.Passed())
	err := r.Children(func(local string) error { return r.timedPart(&t, local, owner) })
	points := r.line.Take()
	if t.times.Len() > 0 && t.times.Len() != t.coords && err == nil {
		line, col := r.Pos()
		r.data.Note(nav.ProblemTimes, "a timed track has different numbers of times and positions; those without a "+
			"partner were "+
			"left out", line, col)
	}
	t.pair(points)
	for _, a := range t.arrays {
		if left := len(a.values) - t.coords; left > 0 {
			line, col := r.Pos()
			r.data.Note(nav.ProblemLeftOut, "a value of a timed track without a position was left out", line,
				col).Count += left - 1
		}
	}
	if t.mode == "" && !r.heights { // ours and most others write their heights here without saying so again
		for i := range points {
			if p := &points[i]; p.HasHeight() && p.Height() == 0 {
				p.ClearHeight()
			}
		}
	}
	r.obeyMode(&t.geometry, t.mode)
	if len(points) > 0 || err == nil {
		*list = append(*list, t.geometry)
	}
	return err
}

// timedTrack is a timed track while it is read: its lists are paired once they are whole.
type timedTrack struct {
	geometry
	times  scratch.List[format.Moment]
	coords int
	arrays []array
	angles []string
	mode   string
}

// timedPart reads a part of a timed track.
func (r *reader) timedPart(t *timedTrack, local, owner string) (err error) {
	tag := r.Raw()
	switch local {
	case "when":
		text, err := r.Leaf()
		if err != nil {
			return err
		}
		var at nav.Point
		r.setTime(&at, text)
		t.times.Append(format.Moment{NS: at.UnixNano(), Mark: at.TimeMark()})
		r.Alike(tag, func(text []byte) bool {
			ns, mark, ok := r.clock.Parse(text)
			if ok {
				t.times.Append(format.Moment{NS: ns, Mark: mark})
			}
			return ok
		})
		return nil
	case "coord":
		text, err := r.Leaf()
		if err != nil {
			return err
		}
		if !r.coord(text, &t.geometry, owner, t.coords+1) {
			if len(bytes.TrimSpace(text)) == 0 {
				line, col := r.Pos()
				r.data.Note(nav.ProblemLeftOut, "a time without a position was left out", line, col)
			}
			t.missing = append(t.missing, t.coords)
		}
		t.coords++
		r.Alike(tag, func(text []byte) bool {
			var p nav.Point
			if n := format.PlainPosition(text, ' ', nav.DatumUnstated, &p); n == 0 || n < len(text) {
				return false
			}
			*r.line.Add(r.Passed(), r.size) = p
			t.coords++
			return true
		})
		return nil
	case "altitudeMode":
		return r.text(&t.mode)
	case "ExtendedData":
		t.arrays, err = r.arrays()
		return err
	}
	if notHeld[local] != "" {
		return r.leaveOut(local)
	}
	if local == "angles" { // of the heading, tilt and roll
		text, err := r.LeafString()
		t.angles = append(t.angles, strings.TrimSpace(text))
		return err
	}
	return r.Skip()
}

// pair gives the points their times and values. Position i of the lists is point i, but for the missing ones before it.
func (t *timedTrack) pair(points []nav.Point) {
	at, gap := 0, 0
	var values []nav.Field
	for i := range t.coords {
		if gap < len(t.missing) && t.missing[gap] == i {
			gap++
			continue
		}
		p := &points[at]
		at++
		if i < t.times.Len() {
			p.SetTime(t.times.At(i).NS, t.times.At(i).Mark)
		}
		values = values[:0]
		if i < len(t.angles) && t.angles[i] != "" {
			values = append(values, nav.Field{Key: anglesKey, Value: t.angles[i]})
		}
		for _, a := range t.arrays {
			if i >= len(a.values) || a.values[i] == "" {
				continue
			}
			values = append(values, nav.Field{Key: a.name, Value: a.values[i], Literal: isLiteral(a.typ, a.values[i])})
		}
		if len(values) > 0 {
			t.value(p, values...)
		}
	}
	t.seg.Points = points
}

// anglesKey is the value of a point that says the heading, tilt and roll of what moves, in degrees.
const anglesKey = "angles"

// value gives a point more values.
func (g *geometry) value(p *nav.Point, fields ...nav.Field) {
	d := nav.Detail{Values: fields}
	if old := g.seg.Detail(p); old != nil {
		d = *old
		d.Values = append(slices.Clip(d.Values), fields...)
	}
	g.seg.Attach(p, d)
}

// coord reads "lon lat [height]".
func (r *reader) coord(text []byte, g *geometry, owner string, number int) bool {
	var parts [4][]byte
	n := 0
	for i := 0; i < len(text) && n < 4; {
		if isBlank(text[i]) || text[i] == ',' {
			i++
			continue
		}
		start := i
		for i < len(text) && !isBlank(text[i]) && text[i] != ',' {
			i++
		}
		parts[n] = text[start:i]
		n++
	}
	if n == 0 { // the standard's way to say that at this time there was no position
		return false
	}
	p := r.line.Add(r.Passed(), r.size)
	exact, why := "", "doesn't have two or three numbers"
	if n == 2 || n == 3 {
		exact, why = format.SetPosition(p, parts[1], parts[0])
	}
	if why != "" {
		r.line.Drop()
		line, col := r.Pos()
		r.reject(nav.Tracks, owner, number, line, col, string(bytes.TrimSpace(text)), why)
		return false
	}
	if n == 3 {
		if h, digits, ok := decimal.Parse(parts[2]); ok {
			p.SetHeight(h, digits, nav.DatumUnstated)
		} else {
			line, col := r.Pos()
			r.data.Note(nav.ProblemHeights, "a height that is not a number was left out", line, col)
		}
	}
	if exact != "" {
		g.seg.Attach(p, nav.Detail{Exact: exact})
	}
	return true
}

// array is a list of values, one for each position of a timed track.
type array struct {
	name, typ string
	values    []string
}

func (r *reader) arrays() (out []array, err error) {
	err = r.Children(func(local string) error {
		if local != "SchemaData" {
			return r.Skip()
		}
		url := r.AttrString("schemaUrl")
		types := r.types[url]
		if types == nil && url != "#"+pointSchema {
			r.LeaveAttr("schemaUrl")
		}
		return r.Children(func(local string) error {
			if local != "SimpleArrayData" {
				return r.Skip()
			}
			a := array{name: r.AttrString("name")}
			a.typ = types[a.name]
			err := r.Children(func(string) error {
				text, err := r.LeafString()
				a.values = append(a.values, text)
				return err
			})
			out = append(out, a)
			return err
		})
	})
	return
}
