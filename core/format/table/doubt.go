package table

import (
	"bytes"
	"fmt"
	"maps"
	"math"
	"math/bits"
	"slices"
	"strings"
	"sync"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// doubts says what looks wrong with the coordinates of a table as a whole, before it does harm: they are taken as they
// stand.
func (r *reader) doubts() {
	r.swapped()
	r.otherDatum()
	r.outOfArea()
	r.zeros()
	r.far()
	if !r.lined { // lines pass a place more than once
		r.same(r.d.Waypoints[r.first:])
	}
}

func (r *reader) doubt(line int, format string, args ...any) *nav.Problem {
	return r.d.Note(nav.ProblemSuspicious, fmt.Sprintf(format, args...), line, 0)
}

// swapped tells latitudes beyond 90 degrees beside longitudes that are none.
func (r *reader) swapped() {
	used := 0
	for i := range r.lines {
		used += int(r.lines[i].rows)
	}
	n, first := 0, fault{}
	for _, f := range r.faulty {
		if math.Abs(f.lat) > 90 && math.Abs(f.lat) <= 180 && math.Abs(f.lon) <= 90 {
			if n++; n == 1 {
				first = f
			}
		}
	}
	if n == 0 || r.lat < 0 || 2*n < len(r.faulty) {
		return
	}
	r.doubt(first.line, "latitude and longitude seem to be swapped: of %d rows with coordinates %d have a latitude "+
		"beyond 90° "+
		"(%v here) and a longitude within",
		used+len(r.faulty), n, first.lat).
		AdviseAbout(advice.SwapColumns, fmt.Sprintf("lat=%s,lon=%s", quoted(r.bare(r.lon)), quoted(r.bare(r.lat))))
}

// bare is a column's title, or its number, as the layout of columns names it.
func (r *reader) bare(column int) string {
	if column < len(r.titles) && strings.TrimSpace(r.titles[column]) != "" {
		return strings.TrimSpace(r.titles[column])
	}
	return fmt.Sprint(column + 1)
}

// zeros tells rows at latitude and longitude zero, which mostly stand for a position that nobody took.
func (r *reader) zeros() {
	if r.bounds.zeros == 0 {
		return
	}
	if all := r.sorted(r.spots(true)); len(all) > 0 {
		r.doubt(r.textLine(all[0]), "%s at latitude 0 and longitude 0, which usually means that no position was "+
			"recorded: %s", these(len(all)), r.rows(all))
	}
}

// spot is where a row is: a line of the reader, and the point there.
type spot struct{ line, row int32 }

// spots finds the rows at latitude and longitude zero, or all others, line by line.
func (r *reader) spots(zero bool) (all []spot) {
	for i := range r.lines {
		for k := range r.lines[i].rows {
			s := spot{int32(i), k}
			if p := r.point(s); (p.Lat == 0 && p.Lon == 0) == zero {
				all = append(all, s)
			}
		}
	}
	return all
}

// sorted puts rows in the order of the text.
func (r *reader) sorted(all []spot) []spot {
	slices.SortFunc(all, func(a, b spot) int { return r.textLine(a) - r.textLine(b) })
	return all
}

func (r *reader) point(s spot) *nav.Point {
	if s.line == 0 {
		return &r.d.Waypoints[r.first+int(s.row)].Point
	}
	return &r.lines[s.line].segment.Points[s.row]
}

func (r *reader) textLine(s spot) int { return r.lines[s.line].textLine(s.row) }

func (r *reader) nameOf(s spot) string {
	if s.line == 0 {
		return r.d.Waypoints[r.first+int(s.row)].Name
	}
	if item := r.lines[s.line].segment.Item(r.point(s)); item != nil {
		return item.Name
	}
	return ""
}

func these(n int) string {
	if n == 1 {
		return "1 row stands"
	}
	return fmt.Sprintf("%d rows stand", n)
}

// rows lists the places of rows: rows 4, 7 and 3 more.
func (r *reader) rows(at []spot) string {
	const few = 8
	var parts []string
	for _, s := range at[:min(len(at), few)] {
		part := fmt.Sprintf("row %d", r.textLine(s))
		if name := r.nameOf(s); name != "" {
			part += fmt.Sprintf(" (%s)", clip(name))
		}
		parts = append(parts, part)
	}
	text := strings.Join(parts, ", ")
	if n := len(at) - few; n > 0 {
		text += fmt.Sprintf(" and %d more", n)
	}
	return text
}

// far tells the rows that lie on another continent than all others, and where that is so which change of sign or order
// brings them back.
func (r *reader) far() {
	if r.bounds.together() {
		return
	}
	set := r.spots(false)
	if len(set) < 3 {
		return
	}
	// The median of each coordinate; longitudes are counted from the first, so that the antimeridian does not part them.
	lats, lons := make([]float64, len(set)), make([]float64, len(set))
	base := r.point(set[0]).Lon
	for n, s := range set {
		p := r.point(s)
		lats[n], lons[n] = p.Lat, math.Remainder(p.Lon-base, 360)
	}
	slices.Sort(lats)
	slices.Sort(lons)
	lat, lon := lats[len(lats)/2], nav.WrapLon(base+lons[len(lons)/2])
	sorted := lats
	away := func(s spot) float64 { return roughly(lat, lon, r.point(s).Lat, r.point(s).Lon) }
	for n, s := range set {
		sorted[n] = away(s)
	}
	slices.Sort(sorted)
	most := math.Max(3*sorted[(len(sorted)-1)/2], 100e3) // where half of them lie, thrice
	wide := 3 * math.Max(3*sorted[len(sorted)*2/3], 100e3)
	groups := map[string][]spot{}
	for _, s := range set {
		d := away(s)
		if d < 1e6 || d < 3*most {
			continue
		}
		w := r.point(s)
		why := ""
		for _, c := range []struct {
			lat, lon float64
			why      string
		}{{-w.Lat, w.Lon, "with the opposite sign of the latitude it would be among them"},
			{w.Lat, -w.Lon, "with the opposite sign of the longitude it would be among them"},
			{-w.Lat, -w.Lon, "with both signs reversed it would be among them"},
			{w.Lon, w.Lat, "with latitude and longitude swapped it would be among them"}} {
			if math.Abs(c.lat) <= 90 && roughly(lat, lon, c.lat, c.lon) <= most {
				why = c.why
				break
			}
		}
		if why != "" || d >= wide { // without evidence only where two thirds lie together
			groups[why] = append(groups[why], s)
		}
	}
	for _, why := range []string{"with the opposite sign of the latitude it would be among them",
		"with the opposite sign of the longitude it would be among them",
		"with both signs reversed it would be among them",
		"with latitude and longitude swapped it would be among them", ""} {
		at := r.sorted(groups[why])
		if len(at) == 0 || len(at)*3 > len(set) {
			continue
		}
		tail := ""
		if why != "" {
			tail = "; " + why
		}
		nearest := math.Inf(1)
		for _, s := range at {
			nearest = min(nearest, away(s))
		}
		r.doubt(r.textLine(at[0]), "%s %s km or more from the others: %s%s", these(len(at)),
			measure.Count(int(nearest/1000)), r.rows(at), tail)
	}
}

// bounds are around all rows, gathered while they are read.
type bounds struct {
	south, north, west, east float64
	zeros                    int
}

var noBounds = bounds{90, -90, 180, -180, 0}

func (b *bounds) add(p *nav.Point) {
	b.south, b.north, b.west, b.east = min(b.south, p.Lat), max(b.north, p.Lat), min(b.west, p.Lon), max(b.east, p.Lon)
	if p.Lat == 0 && p.Lon == 0 {
		b.zeros++
	}
}

func (b *bounds) join(o bounds) {
	b.south, b.north, b.west, b.east = min(b.south, o.south), max(b.north, o.north), min(b.west, o.west),
		max(b.east, o.east)
	b.zeros += o.zeros
}

// together says whether all rows lie within a few degrees, so that none can be far.
func (b *bounds) together() bool { return b.north-b.south < 4 && b.east-b.west < 4 }

// roughly is the distance on a sphere, in metres.
func roughly(lat1, lon1, lat2, lon2 float64) float64 {
	const radian = math.Pi / 180
	a := math.Pow(math.Sin((lat2-lat1)*radian/2), 2) +
		math.Cos(lat1*radian)*math.Cos(lat2*radian)*math.Pow(math.Sin((lon2-lon1)*radian/2), 2)
	return 2 * geodesy.SemiMajor * math.Asin(math.Min(1, math.Sqrt(a)))
}

// same tells a position that many rows of different names share.
func (r *reader) same(all []nav.Waypoint) {
	// Two goroutines share the places between them.
	var halves [2]map[nav.Point][]spot
	var group sync.WaitGroup
	for half := range halves {
		group.Go(func() { halves[half] = r.shared(all, uint64(half)) })
	}
	group.Wait()
	more := halves[0]
	maps.Copy(more, halves[1])
	var groups [][]spot
	for _, at := range more {
		if len(at) >= 3 {
			groups = append(groups, at)
		}
	}
	slices.SortFunc(groups, func(a, b []spot) int { return int(a[0].row - b[0].row) })
	for _, at := range groups[:min(len(groups), 5)] {
		r.doubt(r.textLine(at[0]), "%d rows have exactly the same position: %s", len(at), r.rows(at))
	}
	if n := len(groups) - 5; n > 0 {
		r.doubt(r.textLine(groups[5][0]), "%d more positions are shared by three or more rows", n)
	}
}

// shared finds the places that rows of different names have in common, of one half of all places.
func (r *reader) shared(all []nav.Waypoint, half uint64) map[nav.Point][]spot {
	more := map[nav.Point][]spot{}                     // by place alone
	first := make(places, 1<<bits.Len(uint(len(all)))) // at most about half of it is taken
	for i := range all {
		w := &all[i]
		h := (math.Float64bits(w.Lat)*0x9E3779B97F4A7C15 ^ math.Float64bits(w.Lon)) * 0xC2B2AE3D27D4EB4F
		if h>>63 != half || w.Lat == 0 && w.Lon == 0 {
			continue
		}
		if j := first.add(all, i, h>>16); j >= 0 && w.Name != all[j].Name {
			p := nav.At(w.Lat, w.Lon)
			if more[p] == nil {
				more[p] = []spot{{row: int32(j)}}
			}
			more[p] = append(more[p], spot{row: int32(i)})
		}
	}
	return more
}

// places is a set of positions: of each the row that had it first, found by open addressing.
type places []int32

// add gives the row that has the place of row i already, or takes it up under its hash and gives -1; also where the set
// is full, which it is if the places happen to be all of one half.
func (p places) add(all []nav.Waypoint, i int, h uint64) int {
	for range len(p) {
		slot := &p[h&uint64(len(p)-1)]
		if *slot == 0 {
			*slot = int32(i) + 1
			return -1
		}
		if j := int(*slot) - 1; all[j].SamePlace(&all[i].Point) {
			return j
		}
		h++
	}
	return -1
}

// partedDecimals says why a row with more cells than there are titles can't be used: its coordinates have decimal
// commas without quotes, so that each is two cells. It is "" where they have not.
func (r *reader) partedDecimals(cells [][]byte) string {
	digits := func(b []byte, sign bool) bool {
		if sign {
			b = bytes.TrimLeft(b, "+-")
		}
		return len(b) > 0 && len(bytes.Trim(b, "0123456789")) == 0
	}
	first, second := r.at["lat"][0], r.at["lon"][0]
	if first > second {
		first, second = second, first
	}
	if second != first+1 || first+4 > len(cells) {
		return ""
	}
	four := cells[first : first+4]
	if !digits(four[0], true) || !digits(four[1], false) || !digits(four[2], true) || !digits(four[3], false) {
		return ""
	}
	lat, lon := fmt.Sprintf("%s.%s", four[0], four[1]), fmt.Sprintf("%s.%s", four[2], four[3])
	if first != r.at["lat"][0] {
		lat, lon = lon, lat
	}
	return fmt.Sprintf("the row has %d cells for %d columns; with decimal commas it would be latitude %s and longitude "+
		"%s: write decimals with a point, or separate the cells with semicolons", len(cells), len(r.titles), lat, lon)
}
