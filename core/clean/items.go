package clean

import (
	"math"
	"regexp"
	"slices"
	"strings"

	"gyrolith/core/nav"
)

// rejected tells of the positions that the reader could not use and left out.
func rejected(d *nav.Dataset) *Result {
	out := &Result{}
	var rows []Row
	for i := range d.Rejects {
		x := &d.Rejects[i]
		at := slices.IndexFunc(rows, func(r Row) bool { return r.Kind == x.Kind && r.Item == x.Name })
		if at < 0 {
			rows = append(rows, Row{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number, Text: x.Why})
			at = len(rows) - 1
		}
		rows[at].Count++
		if x.HasNear {
			out.Removed = append(out.Removed, Removed{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number, Point: x.Near, Raw: x.Raw})
		} else if p, ok := anyPoint(d); ok {
			out.Removed = append(out.Removed, Removed{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number, Point: p, Raw: x.Raw})
		}
	}
	for _, r := range rows {
		out.add(r)
	}
	return out
}

func anyPoint(d *nav.Dataset) (at nav.Point, ok bool) {
	d.EachPoint(func(p *nav.Point) {
		if !ok {
			at, ok = *p, true
		}
	})
	return
}

// farFromRest is how far 0/0 must be from the rest of the data to be no place that anybody was at.
const farFromRest = 100e3

// zeros takes out positions at exactly 0/0 when the rest is far from there.
func zeros(d *nav.Dataset) *Result {
	out := &Result{}
	isZero := func(p *nav.Point) bool { return p.Lat == 0 && p.Lon == 0 }
	count, near := 0, false
	null := nav.At(0, 0)
	var neighbour nav.Point
	d.EachPoint(func(p *nav.Point) {
		if isZero(p) {
			count++
		} else {
			neighbour = *p
			near = near || math.Abs(p.Lat) < 2 && math.Abs(p.Lon) < 2 && apart(p, &null) < farFromRest
		}
	})
	if count == 0 || near || neighbour == (nav.Point{}) {
		return out
	}
	note := func(kind nav.Kind, name string, number int, at *nav.Point) Removed {
		return Removed{Fault: Strays, Kind: kind, Item: name, Number: number, Point: *at, Off: apart(&null, at), Raw: "0 0"}
	}
	row := func(kind nav.Kind, name string, number, n int) {
		out.add(Row{Fault: Strays, Kind: kind, Item: name, Number: number, Count: n, Off: apart(&null, &neighbour), Text: "at 0/0"})
	}
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(w nav.Waypoint) bool {
		if !isZero(&w.Point) {
			return false
		}
		out.Removed = append(out.Removed, note(nav.Waypoints, w.Name, 0, &neighbour))
		row(nav.Waypoints, w.Name, 0, 1)
		return true
	})
	for i := range d.Routes {
		r := &d.Routes[i]
		first, n := 0, 0
		r.Points = slices.DeleteFunc(slices.Clone(r.Points), func(w nav.Waypoint) bool { return isZero(&w.Point) })
		if n = len(d.Routes[i].Points) - len(r.Points); n > 0 {
			row(nav.Routes, r.Name, first, n)
		}
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		number, first, n := 0, 0, 0
		for j := range t.Segments {
			seg := &t.Segments[j]
			last := neighbour
			seg.Points = slices.DeleteFunc(seg.Points, func(p nav.Point) bool {
				number++
				if !isZero(&p) {
					last = p
					return false
				}
				if n == 0 {
					first = number
				}
				n++
				out.Removed = append(out.Removed, note(nav.Tracks, t.Name, number, &last))
				return true
			})
		}
		row(nav.Tracks, t.Name, first, n)
	}
	return out
}

// repeatedWaypoints takes out waypoints of the same name on the same place as one before; what only the later one
// says goes to the first.
func (s *Step) repeatedWaypoints(d *nav.Dataset) *Result {
	out := &Result{}
	byName := map[string][]int{}
	gone := make([]bool, len(d.Waypoints))
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		for _, j := range byName[w.Name] {
			first := &d.Waypoints[j]
			off := 0.0
			if !first.SamePlace(&w.Point) {
				if off = apart(&first.Point, &w.Point); off > s.RepeatsWithin || s.RepeatsWithin == 0 {
					continue
				}
			}
			mergeWaypoint(first, w)
			gone[i] = true
			out.add(Row{Fault: Repeats, Kind: nav.Waypoints, Item: w.Name, Count: 1, Off: off})
			out.Removed = append(out.Removed, Removed{Fault: Repeats, Kind: nav.Waypoints, Item: w.Name, Point: w.Point, Off: off})
			break
		}
		if !gone[i] {
			byName[w.Name] = append(byName[w.Name], i)
		}
	}
	i := -1
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(nav.Waypoint) bool { i++; return gone[i] })
	return out
}

func mergeWaypoint(to, from *nav.Waypoint) {
	for _, f := range [...]struct{ to, from *string }{{&to.Desc, &from.Desc}, {&to.Comment, &from.Comment}, {&to.Source, &from.Source},
		{&to.Type, &from.Type}, {&to.Group, &from.Group}, {&to.Style.Symbol, &from.Style.Symbol}, {&to.Style.Icon, &from.Style.Icon}} {
		if *f.to == "" {
			*f.to = *f.from
		}
	}
	if !to.HasHeight() && from.HasHeight() {
		to.SetHeight(from.Height(), from.HeightDigits(), from.HeightOver())
	}
	if !to.HasTime() && from.HasTime() {
		to.SetTime(from.UnixNano(), from.TimeMark())
	}
	for _, f := range from.Fields {
		if _, has := nav.Get(to.Fields, f.Key); !has {
			to.Fields = append(to.Fields[:len(to.Fields):len(to.Fields)], f)
		}
	}
	for _, l := range from.Links {
		if !slices.Contains(to.Links, l) {
			to.Links = append(to.Links[:len(to.Links):len(to.Links)], l)
		}
	}
}

// cycle is how long the week number of the satellites' time counts before it begins anew: 1,024 weeks
// (IS-GPS-200, 20.3.3.3.1.1), in nanoseconds.
const cycle = 1024 * 7 * 86400 * int64(1e9)

// epochs shifts dates that are off by whole cycles: towards a given date, or back from the future, or to where the
// other dates of the same data are.
func (s *Step) epochs(d *nav.Dataset) *Result {
	out := &Result{}
	const day = 86400 * int64(1e9)
	var all []int64
	d.EachPoint(func(p *nav.Point) {
		if p.HasTime() {
			all = append(all, p.UnixNano())
		}
	})
	if len(all) == 0 {
		return out
	}
	slices.Sort(all)
	target := s.usualDate(d)
	shift := func(at int64) int64 {
		k := int64(0)
		switch {
		case s.Around != 0:
			k = int64(math.Round(float64(s.Around-at) / float64(cycle)))
		case s.Now != 0 && at > s.Now+day:
			k = -(at - s.Now - day + cycle - 1) / cycle
		case target != 0:
			// Only what is within a year of whole cycles away contradicts the rest.
			n := math.Round(float64(target-at) / float64(cycle))
			if n != 0 && math.Abs(float64(target-at)-n*float64(cycle)) < 366*float64(day) {
				k = int64(n)
			}
		}
		return k
	}
	move := func(p *nav.Point) bool {
		if !p.HasTime() {
			return false
		}
		k := shift(p.UnixNano())
		if k != 0 {
			p.SetTime(p.UnixNano()+k*cycle, p.TimeMark())
		}
		return k != 0
	}
	for i := range d.Waypoints {
		if w := &d.Waypoints[i]; move(&w.Point) {
			out.add(Row{Fault: Epoch, Kind: nav.Waypoints, Item: w.Name, Count: 1})
		}
	}
	for i := range d.Routes {
		r, n := &d.Routes[i], 0
		for j := range r.Points {
			if move(&r.Points[j].Point) {
				n++
			}
		}
		out.add(Row{Fault: Epoch, Kind: nav.Routes, Item: r.Name, Count: n})
	}
	for i := range d.Tracks {
		t, n, number, first := &d.Tracks[i], 0, 0, 0
		for j := range t.Segments {
			for k := range t.Segments[j].Points {
				number++
				if move(&t.Segments[j].Points[k]) {
					if n == 0 {
						first = number
					}
					n++
				}
			}
		}
		out.add(Row{Fault: Epoch, Kind: nav.Tracks, Item: t.Name, Count: n, Number: first})
	}
	return out
}

// usualDate gives a date about which most of the data is sure: the file's own time, or else the middle of the cycle
// that most points are in; 0 where there is none. Of two that are as frequent the later one counts, since a
// counter that began anew gives dates that are too early.
func (s *Step) usualDate(d *nav.Dataset) int64 {
	if d.Meta.Time.HasTime() && (s.Now == 0 || d.Meta.Time.UnixNano() <= s.Now+86400*int64(1e9)) {
		return d.Meta.Time.UnixNano()
	}
	type bin struct {
		sum   float64
		count int
	}
	const month = 30 * 86400 * int64(1e9)
	bins := map[int64]*bin{}
	d.EachPoint(func(p *nav.Point) {
		if !p.HasTime() || s.Now != 0 && p.UnixNano() > s.Now+86400*int64(1e9) {
			return
		}
		k := p.UnixNano() / month
		if bins[k] == nil {
			bins[k] = &bin{}
		}
		bins[k].count++
		bins[k].sum += float64(p.UnixNano()-k*month) / 1e9
	})
	best, most := int64(0), 0
	for k, b := range bins {
		at := k*month + int64(b.sum/float64(b.count)*1e9)
		if b.count > most || b.count == most && at > best {
			best, most = at, b.count
		}
	}
	return best
}

// pinNumber is what a planner calls a corner of its own making: a number, perhaps behind a word.
var pinNumber = regexp.MustCompile(`^(.*?)[\s._#-]*\(?\d+\)?$`)

// leastPins is how many corners of a line must be marked for the marks to be a planner's.
const leastPins = 3

// pins takes out waypoints that only mark the corners of a route or track in the same data. A waypoint is one when it
// stands on a corner, says nothing but a name, and that name is empty, a number, the line's or that of the corner, or
// a word with a number that most corners of the line have. The line stays as it is.
func pins(d *nav.Dataset) *Result {
	out := &Result{}
	type key struct{ lat, lon float64 }
	at := map[key][]int{}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		if w.Desc == "" && w.Comment == "" && len(w.Links) == 0 && len(w.Fields) == 0 {
			at[key{w.Lat, w.Lon}] = append(at[key{w.Lat, w.Lon}], i)
		}
	}
	if len(at) == 0 {
		return out
	}
	gone := map[int]bool{}
	line := func(name string, corners []nav.Point, cornerName func(int) string) {
		stems := map[string][]int{}
		plain := map[int]bool{}
		marked := 0
		for c := range corners {
			found := false
			for _, i := range at[key{corners[c].Lat, corners[c].Lon}] {
				wn := strings.TrimSpace(d.Waypoints[i].Name)
				found = true
				switch m := pinNumber.FindStringSubmatch(wn); {
				case wn == "" || strings.EqualFold(wn, name) || cornerName(c) != "" && wn == cornerName(c) && m != nil:
					plain[i] = true
				case m != nil && (m[1] == "" || strings.EqualFold(strings.TrimSpace(m[1]), name)):
					plain[i] = true
				case m != nil:
					if stem := strings.ToLower(m[1]); !slices.Contains(stems[stem], i) {
						stems[stem] = append(stems[stem], i)
					}
				}
			}
			if found {
				marked++
			}
		}
		if marked < leastPins || 2*marked < len(corners) {
			return
		}
		for i := range plain {
			gone[i] = true
		}
		for _, list := range stems {
			if len(list) >= leastPins && 2*len(list) >= marked {
				for _, i := range list {
					gone[i] = true
				}
			}
		}
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		line(r.Name, r.Line(), func(c int) string { return r.Points[c].Name })
	}
	for i := range d.Tracks {
		for _, seg := range d.Tracks[i].Segments {
			if len(seg.Points) <= 10*len(d.Waypoints) { // a recording has far more points than anybody pins
				line(d.Tracks[i].Name, seg.Points, func(int) string { return "" })
			}
		}
	}
	i := -1
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(w nav.Waypoint) bool {
		i++
		if gone[i] {
			out.add(Row{Fault: Pins, Kind: nav.Waypoints, Item: w.Name, Count: 1})
			out.Removed = append(out.Removed, Removed{Fault: Pins, Kind: nav.Waypoints, Item: w.Name, Point: w.Point})
		}
		return gone[i]
	})
	return out
}

// baggage takes out what simple units choke on: extensions, fields, links, and the values of single points.
func baggage(d *nav.Dataset) *Result {
	out := &Result{}
	strip := func(kind nav.Kind, item *nav.Item, n int) {
		n += len(item.Fields) + len(item.Kept) + len(item.Links)
		item.Fields, item.Kept, item.Links = nil, nil, nil
		out.add(Row{Fault: Baggage, Kind: kind, Item: item.Name, Count: n, Text: "fields, links and extensions"})
	}
	for i := range d.Waypoints {
		strip(nav.Waypoints, &d.Waypoints[i].Item, 0)
	}
	for i := range d.Routes {
		r, n := &d.Routes[i], 0
		for j := range r.Points {
			p := &r.Points[j]
			n += len(p.Fields) + len(p.Kept) + len(p.Links)
			p.Fields, p.Kept, p.Links = nil, nil, nil
		}
		strip(nav.Routes, &r.Item, n)
	}
	for i := range d.Tracks {
		t, n := &d.Tracks[i], 0
		for j := range t.Segments {
			n += len(t.Segments[j].Details) + len(t.Segments[j].Kept)
			t.Segments[j].Details, t.Segments[j].Kept = nil, nil
		}
		strip(nav.Tracks, &t.Item, n)
	}
	for i := range d.Areas {
		strip(nav.Areas, &d.Areas[i].Item, 0)
	}
	d.Meta.Kept, d.Meta.Attachments = nil, nil
	return out
}
