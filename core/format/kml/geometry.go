package kml

import (
	"bytes"
	"fmt"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/nav"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// geometry is one point, line or polygon of a placemark.
type geometry struct {
	kind   nav.Kind
	seg    nav.Segment // of an area: its outline
	holes  [][]nav.Point
	fields []nav.Field

	missing format.Missing
	east    []int // the points that are at 180 degrees
	open    bool  // a ring of the area does not end where it begins
}

func isGeometry(local string) bool {
	switch local {
	case "Point", "LineString", "LinearRing", "Polygon", "MultiGeometry", "Track", "MultiTrack":
		return true
	}
	return false
}

// geometry reads one geometry into the list; owner is the placemark's name, for messages. What stands
// before a cut-off end is in the list even when there is an error.
func (r *reader) geometry(local string, list *[]geometry, owner string) error {
	switch local {
	case "MultiGeometry", "MultiTrack":
		return r.Children(func(local string) error {
			switch {
			case isGeometry(local):
				return r.geometry(local, list, owner)
			case notHeld[local] != "":
				return r.leaveOut(local)
			}
			return r.Skip()
		})
	case "Polygon":
		return r.polygon(list, owner)
	case "Track":
		return r.timedTrack(list, owner)
	}
	g := geometry{kind: nav.Tracks}
	if local == "Point" {
		g.kind = nav.Waypoints
	}
	var mode string
	err := r.Children(func(local string) error { return r.lineChild(local, &g, &mode, owner) })
	if err != nil && len(g.seg.Points) == 0 || err != nil && g.kind == nav.Waypoints {
		return err
	}
	r.obeyMode(&g, mode)
	if g.kind == nav.Waypoints && len(g.seg.Points) > 1 {
		g.kind = nav.Tracks
	}
	if len(g.seg.Points) > 0 || g.kind == nav.Tracks {
		*list = append(*list, g)
	}
	return err
}

func (r *reader) lineChild(local string, g *geometry, mode *string, owner string) error {
	switch local {
	case "altitudeMode":
		return r.text(mode)
	case "coordinates":
		if len(g.seg.Points) > 0 {
			line, col := r.Pos()
			r.data.Note(nav.ProblemLeftOut, "a second list of coordinates in one geometry was left out", line, col)
			return r.Pass()
		}
		return r.coordinates(g, owner)
	}
	return r.drawnAs(local)
}

// drawnAs keeps how a globe draws the geometry of a placemark: extruded, tessellated, in which order.
func (r *reader) drawnAs(local string) error {
	switch local {
	case "extrude", "tessellate", "drawOrder":
		if r.drawn != nil && !slices.ContainsFunc(*r.drawn, func(k nav.Kept) bool {
			return k.Where == drawing && tagOf(k.Text) == local
		}) {
			return r.keepFree(r.drawn, drawing)
		}
	}
	return r.Skip()
}

func (r *reader) polygon(list *[]geometry, owner string) error {
	g := &geometry{kind: nav.Areas}
	all := []*geometry{g}
	var mode string
	err := r.Children(func(local string) error {
		switch local {
		case "altitudeMode":
			return r.text(&mode)
		case "outerBoundaryIs", "innerBoundaryIs":
			outer := local == "outerBoundaryIs"
			// Several rings in one innerBoundaryIs are against the schema, and common.
			return r.Children(func(local string) error {
				if local != "LinearRing" {
					return r.Skip()
				}
				ring := geometry{kind: nav.Areas}
				err := r.Children(func(local string) error { return r.lineChild(local, &ring, &mode, owner) })
				var open bool
				ring.seg.Points, open = format.Ring(ring.seg.Points, ring.east)
				switch {
				case err != nil || len(ring.seg.Points) == 0: // half a ring is none
				case outer && len(g.seg.Points) == 0:
					g.seg = ring.seg
				case outer && !region.Contains(g.seg.Points, ring.seg.Points[0].Lat, ring.seg.Points[0].Lon):
					// Against the schema, and common: several areas in one polygon.
					g = &geometry{kind: nav.Areas, seg: ring.seg}
					all = append(all, g)
				default:
					g.holes = append(g.holes, ring.seg.Points)
				}
				g.open = g.open || open
				return err
			})
		}
		return r.drawnAs(local)
	})
	if err != nil || len(g.seg.Points) == 0 {
		if err == nil {
			line, col := r.Pos()
			r.data.Note(nav.ProblemPlaces, "a polygon without an outline was left out", line, col)
		}
		return err
	}
	line, _ := r.Pos()
	for _, g := range all {
		r.obeyMode(g, mode)
		rings := append([][]nav.Point{g.seg.Points}, g.holes...)
		for _, rings := range format.Polygons(r.data, owner, [][][]nav.Point{rings}, shape.AntiClock, line) {
			part := *g
			part.seg.Points, part.holes = rings[0], rings[1:]
			*list = append(*list, part)
		}
	}
	return nil
}

// relativeKeys are the fields that heights over something else become.
var relativeKeys = map[string]string{"relativeToSeaFloor": "height-over-seafloor"}

// obeyMode makes of the third coordinates what the altitude mode says that they are: heights above the sea
// when absolute, above the ground when relative to it, no heights when clamped, fields when relative to the sea floor.
// Without a mode, one that is not zero was
// meant as a height.
func (r *reader) obeyMode(g *geometry, mode string) {
	if r.heights && mode == "" {
		mode = "absolute"
	}
	rings := append([][]nav.Point{g.seg.Points}, g.holes...)
	key := relativeKeys[mode]
	unsaid, clamped := 0, 0
	first, uniform := "", true
	for ri, ring := range rings {
		for i := range ring {
			p := &ring[i]
			if !p.HasHeight() {
				continue
			}
			h := p.Height()
			switch {
			case mode == "absolute":
				p.SetHeight(h, p.HeightPrecision(), nav.MeanSeaLevel)
			case mode == "relativeToGround":
				p.SetHeight(h, p.HeightPrecision(), nav.AboveGround)
			case key != "":
				text := string(p.AppendHeight(nil))
				p.ClearHeight()
				if g.kind == nav.Areas {
					uniform = uniform && (first == "" || first == text)
					first = text
				} else if ri == 0 {
					g.value(p, nav.Field{Key: key, Value: text})
				}
			case mode == "" && h != 0:
				unsaid++
				p.SetHeight(h, p.HeightPrecision(), nav.MeanSeaLevel)
			default:
				if h != 0 {
					clamped++
				}
				p.ClearHeight()
			}
		}
	}
	line, col := r.Pos()
	if unsaid > 0 {
		r.data.Note(nav.ProblemHeights, "heights without an altitude mode were taken as above the sea", line, col)
	}
	if clamped > 0 {
		r.data.Note(nav.ProblemHeights, "heights of items clamped to the ground have no meaning and were left out",
			line, col)
	}
	if g.kind == nav.Areas && first != "" {
		if uniform {
			g.fields = append(g.fields, nav.Field{Key: key, Value: first})
		} else {
			r.data.Note(nav.ProblemHeights, "relative heights that differ along an area's outline were left out", line, col)
		}
	}
}

// tuple is what is read so far of one position of a coordinate list.
type tuple struct {
	numbers [3][]byte
	count   int
	comma   bool // a comma came after the last number
	start   int  // in the text, for the place of a fault
	raw     []byte
	store   [96]byte // the numbers of a tuple that goes over the end of a piece of text
}

// coordinates reads a list "lon,lat[,height] …", also with blanks around the commas.
func (r *reader) coordinates(g *geometry, owner string) error {
	r.line.Begin(r.Passed())
	var t tuple
	var carry []byte // a number that the end of a piece of text may have cut
	for {
		kind, err := r.Next()
		if err != nil {
			g.seg.Points = r.line.Take()
			return err
		}
		switch kind {
		case xmlscan.Start:
			if err := r.Skip(); err != nil {
				g.seg.Points = r.line.Take()
				return err
			}
		case xmlscan.End:
			if len(carry) > 0 {
				r.tokens(append(carry, ' '), &t, g, owner)
			}
			r.endTuple(&t, g, owner)
			g.seg.Points = r.line.Take()
			return nil
		case xmlscan.Text:
			text := r.Text()
			if len(carry) > 0 {
				text = append(carry, text...)
				carry = nil
			}
			if n := len(text); n > 0 && !isBlank(text[n-1]) && text[n-1] != ',' {
				cut := bytes.LastIndexAny(text, " \n\t\r,") + 1
				carry = append([]byte(nil), text[cut:]...)
				text = text[:cut]
			}
			r.tokens(text, &t, g, owner)
			t.detach()
		}
	}
}

func isBlank(c byte) bool { return c == ' ' || c == '\n' || c == '\t' || c == '\r' }

// detach copies the numbers of an unfinished tuple out of the text that goes away.
func (t *tuple) detach() {
	at := t.store[:0]
	for i := range min(t.count, len(t.numbers)) {
		from := len(at)
		at = append(at, t.numbers[i]...)
		t.numbers[i] = at[from:len(at):len(at)]
	}
	t.raw, t.start = nil, -1
}

func (r *reader) tokens(text []byte, t *tuple, g *geometry, owner string) {
	for i := 0; i < len(text); {
		c := text[i]
		if isBlank(c) {
			i++
			continue
		}
		if c == ',' {
			if t.comma || t.count == 0 { // a value is missing
				t.push(text[i:i], i)
			}
			t.comma = true
			i++
			continue
		}
		start := i
		for i < len(text) && text[i] != ',' && !isBlank(text[i]) {
			i++
		}
		if t.count > 0 && !t.comma {
			r.endTuple(t, g, owner)
		}
		t.push(text[start:i], start)
		if t.raw == nil || t.count == 1 {
			t.raw = text[start:]
		}
	}
}

func (t *tuple) push(number []byte, at int) {
	if t.count == 0 {
		t.start, t.raw = at, nil
	}
	if t.count < 3 {
		t.numbers[t.count] = number
	}
	t.count++
	t.comma = false
}

// endTuple makes a point of a finished tuple, or a reject.
func (r *reader) endTuple(t *tuple, g *geometry, owner string) {
	if t.count == 0 {
		return
	}
	count := t.count
	t.count, t.comma = 0, false
	p := r.line.Add(r.Passed(), r.size)
	exact, why := "", ""
	switch {
	case count == 1:
		why = "has a longitude without a latitude"
	case count > 3:
		why = fmt.Sprintf("has %d numbers where two or three belong; the blanks between positions are missing", count)
	default:
		exact, why = format.SetPosition(p, t.numbers[1], t.numbers[0])
	}
	if why == "" && g.kind == nav.Areas && format.IsEast(p, t.numbers[0]) {
		g.east = append(g.east, r.line.Len()-1)
	}
	if why == "" && count >= 3 && len(t.numbers[2]) > 0 {
		h, digits, ok := decimal.Parse(t.numbers[2])
		if ok {
			p.SetHeight(h, digits, nav.DatumUnstated)
		} else {
			line, col := r.place(t)
			r.data.Note(nav.ProblemHeights, "a height that is not a number was left out", line, col)
		}
	}
	if why == "" {
		if exact != "" {
			g.seg.Attach(p, nav.Detail{Exact: exact})
		}
		return
	}
	r.line.Drop()
	g.missing = append(g.missing, r.line.Len()+len(g.missing))
	raw := string(bytes.Join(t.numbers[:min(count, 3)], []byte{','}))
	line, col := r.place(t)
	r.reject(g.kind, owner, r.line.Len()+1, line, col, raw, why)
}

func (r *reader) place(t *tuple) (line, col int) {
	if t.start < 0 {
		return r.Pos()
	}
	return r.TextPos(t.start)
}

func (r *reader) reject(kind nav.Kind, owner string, number, line, col int, raw, why string) {
	x := nav.Reject{Kind: kind, Name: owner, Number: number, Raw: raw, Why: why, Line: line, Col: col}
	if kind == nav.Waypoints {
		x.Number = 0
	}
	if last := r.line.Last(); last != nil {
		x.Near, x.HasNear = *last, true
	}
	r.data.Rejects = append(r.data.Rejects, x)
}
