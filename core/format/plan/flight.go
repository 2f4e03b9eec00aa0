package plan

import (
	"math"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// flight is the route of a flight plan while it is read, word by word (ICAO Doc 4444, appendix 2, item 15, and how
// briefing sheets write it: a name may have its position behind it).
type flight struct {
	row   *row
	fixes []nav.Waypoint
	list  []fix
	level string // of the last group of speed and level
	open  bool   // the last fix is a name, and nothing stands between it and what follows

	airways, procedures, left []string
}

// flown makes a fix of each name, position and point by bearing and distance in a row. What is none of a route is told.
func (p *listing) flown(r *row, fixes []nav.Waypoint, tell func(*row, string)) []fix {
	f := &flight{row: r, fixes: fixes}
	next := 0
	for i := 0; i < len(r.tokens); {
		if next < len(r.places) && r.places[next].from == i {
			f.place(&r.places[next])
			i = r.places[next].to
			next++
			continue
		}
		i += f.word(i)
	}
	for _, x := range []struct {
		words []string
		why   string
	}{{f.airways, "airways between fixes"}, {f.procedures, "names of procedures"}, {f.left, leftover}} {
		if len(x.words) > 0 {
			tell(&row{line: r.line, text: strings.Join(x.words, " ")}, x.why)
		}
	}
	return f.list
}

// place takes a position: that of the name before it, or a fix without a name.
func (f *flight) place(at *place) {
	if n := len(f.list) - 1; f.open {
		g := &f.list[n]
		g.placed = true
		level := g.Waypoint.Point
		g.Point = nav.At(at.lat, at.lon)
		g.LatPrecision, g.LonPrecision = decimal.PrecisionOf(8), decimal.PrecisionOf(8)
		if level.HasHeight() {
			g.SetHeight(level.Height(), level.HeightPrecision(), level.VerticalDatum())
		}
		f.open = false
		f.tie(at.level)
		f.differs(g)
		return
	}
	f.open = false
	f.list = append(f.list, f.row.fixAt(&place{lat: at.lat, lon: at.lon}))
	f.leveled()
	f.tie(at.level)
}

// differs notes where a name is a known fix that is somewhere else: the plan's own position is taken, and that is told.
func (f *flight) differs(g *fix) {
	const rounding = 2000 // metres, of whole minutes
	nearest := math.Inf(1)
	for i := range f.fixes {
		if w := &f.fixes[i]; strings.EqualFold(w.Name, g.Name) {
			nearest = min(nearest, geodesy.Distance(w.Lat, w.Lon, g.Lat, g.Lon))
		}
	}
	if nearest > rounding && !math.IsInf(nearest, 1) {
		g.elsewhere = nearest
	}
}

// leveled gives the last fix the speed and the level that hold since the last group.
func (f *flight) leveled() {
	g := &f.list[len(f.list)-1]
	tiedLevel(&g.Point, f.level)
	if v := tiedSpeed(f.level); v != "" {
		g.Fields = []nav.Field{{Key: nav.FieldSpeed, Value: v}}
	}
}

// tie takes a group of speed and level that stands behind the last fix.
func (f *flight) tie(group string) {
	if group != "" && speedLevel.MatchString(group) && len(f.list) > 0 {
		f.level = group
		f.leveled()
	}
}

// word takes the words from an index on, and says how many it took.
func (f *flight) word(i int) int {
	text := strings.Trim(f.row.tokens[i].text, ",;")
	if g, _, n, ok := f.row.bearingAt(i); ok {
		g.row = f.row
		f.list, f.open = append(f.list, g), false
		f.leveled()
		return n
	}
	word, tied, _ := strings.Cut(text, "/")
	switch {
	case word == "DCT" || word == "-" || word == "" || word == ">" || bullets.MatchString(word):
		f.open = false
	case speedLevel.MatchString(word):
		f.level, f.open = word, false
	case airway.MatchString(word) || longAirway.MatchString(word):
		f.airways, f.open = append(f.airways, word), false
	case clockTime.MatchString(word) && len(f.list) > 0:
		f.list[len(f.list)-1].Comment = word
	case procedure.MatchString(word):
		f.procedures, f.open = append(f.procedures, word), false
	case identifier.MatchString(word) && strings.ToUpper(word) == word:
		g := fix{row: f.row}
		g.Name = word
		f.list, f.open = append(f.list, g), true
		f.leveled()
		if tied != "" && !speedLevel.MatchString(tied) {
			f.left = append(f.left, text)
		}
		f.tie(tied)
	default:
		f.left, f.open = append(f.left, text), false
	}
	return 1
}

// bearingAt reads a point by bearing and distance from the word at an index on: SOREL180040, SOREL 180/40,
// SOREL R180/D40, SOREL R180 D40; T behind the bearing is from true north, else it is magnetic. It gives what was tied
// with a slash, and how many words it took.
func (r *row) bearingAt(i int) (f fix, tied string, words int, ok bool) {
	word, tied, _ := strings.Cut(strings.Trim(r.tokens[i].text, ",;"), "/")
	if g, ok := pointByBearing(word); ok {
		tiedLevel(&g.Point, tied)
		return g, tied, 1, true
	}
	if !identifier.MatchString(word) || strings.ToUpper(word) != word {
		return f, "", 0, false
	}
	at := func(k int) string {
		if k < len(r.tokens) {
			return strings.ToUpper(strings.Trim(r.tokens[k].text, ",;"))
		}
		return ""
	}
	bearing, north, miles, n := "", "", "", 0
	if m := radial.FindStringSubmatch(strings.ToUpper(tied)); m != nil { // SOREL/R180/D40
		bearing, north, miles, n = m[1], m[2], m[3], 1
	} else if m := radial.FindStringSubmatch(at(i + 1)); m != nil && tied == "" {
		bearing, north, miles, n = m[1], m[2], m[3], 2
	} else if m := radialOnly.FindStringSubmatch(at(i + 1)); m != nil && tied == "" {
		if d := distanceOnly.FindStringSubmatch(at(i + 2)); d != nil {
			bearing, north, miles, n = m[1], m[2], d[1]+d[2], 3
		}
	}
	if n == 0 {
		return f, "", 0, false
	}
	f, ok = bearingFrom(word, bearing, miles)
	f.isTrue = north == "T"
	f.Name = word + " " + strings.Join(strings.Fields(r.words(i, i+n))[1:], " ")
	if n == 1 {
		f.Name = r.tokens[i].text
	}
	return f, "", n, ok
}

// byBearing reads a row that is a point by bearing and distance, from a token on, and gives the rest of it. A word
// before is its name.
func (r *row) byBearing(first int) (f fix, rest string, ok bool) {
	if first >= len(r.tokens) {
		return f, "", false
	}
	f, _, n, ok := r.bearingAt(first)
	if name := strings.Trim(r.tokens[first].text, ",;:"); !ok && first+1 < len(r.tokens) && identifier.MatchString(name) {
		if f, _, n, ok = r.bearingAt(first + 1); ok {
			f.Name, n = name, n+1
		}
	}
	if !ok {
		return f, "", false
	}
	f.row = r
	return f, strings.Trim(r.words(first+n, len(r.tokens)), " ,;"), true
}

// pointByBearing reads a fix with bearing and distance in one word, such as SOREL180040: 40 nautical miles from SOREL
// on the bearing of 180 degrees magnetic.
func pointByBearing(word string) (f fix, ok bool) {
	m := bearingDistance.FindStringSubmatch(word)
	if m == nil {
		return f, false
	}
	f, ok = bearingFrom(m[1], m[2], m[3])
	f.Name = word
	return f, ok
}

// bearingFrom makes a fix of a bearing in degrees and a distance in nautical miles from another.
func bearingFrom(base, bearing, miles string) (f fix, ok bool) {
	f.base = base
	f.bearing, _ = strconv.ParseFloat(bearing, 64)
	distance, _ := strconv.ParseFloat(miles, 64)
	f.distance = distance * 1852
	if f.bearing > 360 {
		return fix{}, false
	}
	return f, true
}
