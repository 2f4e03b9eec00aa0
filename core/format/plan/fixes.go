package plan

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/magnetic"
	"gyrolith/core/nav"
)

// fix is a point of the plan on its way to a position.
type fix struct {
	nav.Waypoint
	placed   bool
	base     string // the fix that a bearing and a distance count from
	bearing  float64
	isTrue   bool    // the bearing is from true north
	distance float64 // metres
	row      *row

	elsewhere float64 // metres to the known fix of the same name, where that is far away
}

// Why words or rows are not used that may have been meant for a fix.
const (
	leftover = "no part of a route"
	unplaced = "without a position"
)

// unusedRows are told one by one up to this number, so that a long text does not drown what matters.
const unusedRows = 20

// fixes makes waypoints of the rows, looks up those that are only named, and tells what was not used.
func (p *listing) fixes(d *nav.Dataset, opt *format.ReadOptions) []nav.Waypoint {
	list := p.gather(d, opt)
	looked := 0
	for i := range list {
		if f := &list[i]; !f.placed && f.base == "" {
			if at, ok := known(list, i, f.Name, opt.Fixes); ok {
				f.Lat, f.Lon, f.placed = at.Lat, at.Lon, true
				f.LatPrecision, f.LonPrecision = at.LatPrecision, at.LonPrecision
				if f.Desc == "" {
					f.Desc = at.Desc
				}
				if !f.HasHeight() && at.HasHeight() && (i == 0 || i == len(list)-1) { // where one climbs from and lands
					f.SetHeight(at.Height(), at.HeightPrecision(), at.VerticalDatum())
				}
				if f.Style == (nav.Style{}) {
					f.Style = at.Style
				}
				looked++
			}
		}
	}
	for i := range list {
		if f := &list[i]; !f.placed && f.base != "" {
			p.byBearing(d, list, i, opt)
		}
	}
	var out []nav.Waypoint
	times := &clock{day: opt.Day, zone: opt.Zone}
	if times.day.IsZero() {
		times.day = p.day
	}
	for i := range list {
		f := &list[i]
		if f.elsewhere > 0 {
			d.Note(nav.ProblemFixes, fmt.Sprintf("%s is %.0f km from the known fix of that name; the plan's position is used",
				f.Name, f.elsewhere/1000), f.row.line, 0)
		}
		times.take(f)
		if f.placed {
			f.Kept = append(f.Kept, nav.Kept{Format: "plan", Where: strconv.Itoa(f.row.line), Text: f.row.text,
				Free: true})
			out = append(out, f.Waypoint)
			continue
		}
		why, help := "has no position", advice.Advice{Code: advice.GiveFixes}
		name := f.Name
		if f.base != "" {
			why = fmt.Sprintf("is relative to %s, whose position is not known", f.base)
		} else if len(opt.Fixes) > 0 {
			why, help = "has no position and is not a known fix", advice.Advice{}
		}
		d.Rejects = append(d.Rejects, nav.Reject{Kind: nav.Waypoints, Name: name, Raw: clip(f.row.text), Why: why,
			Line: f.row.line, Advice: help})
	}
	if looked > 0 {
		d.Note(nav.ProblemFixes,
			fmt.Sprintf("%d fixes were given positions from the known fixes or from elsewhere in the plan",
				looked), 0, 0)
	}
	return out
}

// gather goes through the rows in their order.
func (p *listing) gather(d *nav.Dataset, opt *format.ReadOptions) (list []fix) {
	told, more := 0, 0
	tell := func(r *row, why string) {
		if told++; told > unusedRows {
			more++
			return
		}
		code := nav.ProblemRows
		if why == leftover || why == unplaced { // it may have been meant for a fix
			code = nav.ProblemLeftOut
		}
		d.Note(code, fmt.Sprintf("skipped, %s: %q", why, clip(r.text)), r.line, 0)
	}
	numbered := p.numbered()
	altitudes := p.altitudeMeasure()
	any := false
	for i := range p.rows {
		r := &p.rows[i]
		switch {
		case r.blank():
		case p.heading != nil && r == p.heading.row: // which is read
		case r.of.field == otherField:
			tell(r, "a field of the flight plan without fixes")
		case r.of.field == departureField, r.of.field == destinationField:
			any = true
			list = append(list, p.aerodrome(r, tell))
		case r.of.field == routeField:
			any = true
			list = append(list, p.flown(r, opt.Fixes, tell)...)
		case !r.inColumns() && p.flightRoute(r, opt.Fixes):
			any = true
			list = append(list, p.flown(r, opt.Fixes, tell)...)
		case len(r.places) > 1:
			any = true
			list = append(list, p.stream(r, opt.Fixes, tell)...)
		case len(r.places) == 1:
			any = true
			list = append(list, p.fixOf(r, numbered, altitudes, d))
		case r.fault != nil:
			d.Rejects = append(d.Rejects, nav.Reject{Kind: nav.Waypoints, Name: r.name(0, numbered), Raw: clip(r.text),
				Why: r.fault.Error(), Line: r.line})
		default:
			first := 0
			if len(r.tokens) > 1 && (numbered || p.counts) && sequence.MatchString(r.tokens[0].text) {
				first = 1
			}
			if f, ok := r.familiar(first, opt.Fixes); ok {
				any = true
				list = append(list, f)
				continue
			}
			if f, rest, ok := r.byBearing(first); ok {
				f.Comment = height(&f.Point, rest)
				list = append(list, f)
				continue
			}
			if why := r.unused(first, !any && !p.later(i)); why != "" {
				tell(r, why)
				continue
			}
			f := fix{row: r}
			f.Name = strings.Trim(r.tokens[first].text, ",;")
			f.Comment = height(&f.Point, r.words(first+1, len(r.tokens)))
			list = append(list, f)
		}
	}
	if more > 0 {
		d.Note(nav.ProblemRows, fmt.Sprintf("%d more rows were not used", more), 0, 0)
	}
	return list
}

// aerodrome makes the fix of a departure or a destination, which is known by its designator or has its position.
func (p *listing) aerodrome(r *row, tell func(*row, string)) fix {
	if r.of.rest != "" {
		tell(&row{line: r.line, text: r.of.rest}, "the time of the whole flight and alternate aerodromes")
	}
	var f fix
	if len(r.places) > 0 {
		f = r.fixAt(&r.places[0])
		f.Name = r.name(r.places[0].from, false)
	} else {
		f = fix{row: r}
		f.Name = r.text
	}
	f.Comment = r.of.time
	return f
}

// later says whether a row of one word comes right before rows with positions, so that it may be a fix of its own.
func (p *listing) later(i int) bool {
	return len(p.rows[i].tokens) == 1 && identifier.MatchString(p.rows[i].tokens[0].text) &&
		strings.ToUpper(p.rows[i].text) == p.rows[i].text
}

// numbered says whether the rows begin with running numbers, which are then no part of the names.
func (p *listing) numbered() bool {
	last, rows := 0, 0
	for i := range p.rows {
		r := &p.rows[i]
		if len(r.places) != 1 {
			continue
		}
		if r.places[0].from == 0 {
			return false
		}
		m := sequence.FindStringSubmatch(r.tokens[0].text)
		if m == nil {
			return false
		}
		n, _ := strconv.Atoi(m[1])
		if n <= last && rows > 0 {
			return false
		}
		last = n
		rows++
	}
	return rows > 0
}

// altitudeMeasure gives the measure that a heading names for a column of altitudes, in metres; 0 where there is none.
func (p *listing) altitudeMeasure() float64 {
	for i := range p.rows {
		if len(p.rows[i].places) > 0 {
			return 0
		}
		if m := measured.FindStringSubmatch(p.rows[i].text); m != nil {
			named, _ := headings.Named(m[1], headings.Length)
			return named.Factor
		}
	}
	return 0
}

// name gives the words before a token as a name.
func (r *row) name(to int, numbered bool) string {
	from := 0
	for from < to && (bullets.MatchString(r.tokens[from].text) || from == 0 && numbered &&
		sequence.MatchString(r.tokens[0].text)) {
		from++
	}
	for from < to-1 && leading[strings.ToLower(strings.Trim(r.tokens[from].text, ",;:"))] {
		from++
	}
	return strings.Trim(r.words(from, to), " ,;:-–=(")
}

// leading words are in front of a name in a sentence, and no part of it.
var leading = map[string]bool{"from": true, "to": true, "via": true, "over": true, "then": true}

// nameColumn gives the words before a position as a name, without the columns of airways, times, bearings and distances
// that may stand between: these are beside it.
func (r *row) nameColumn(to int, numbered bool) (name, beside string) {
	from := to
	for from > 0 && r.isColumn(from-1) {
		from--
	}
	if r.name(from, numbered) == "" { // a name that looks like one of those
		return r.name(to, numbered), ""
	}
	return r.name(from, numbered), strings.Trim(r.words(from, to), " ,;")
}

// isColumn says whether a word is an airway, a time, or a bearing and distance.
func (r *row) isColumn(i int) bool {
	word := strings.Trim(r.tokens[i].text, ",;")
	return i > 0 && (airway.MatchString(word) || longAirway.MatchString(word) || clockTime.MatchString(word) ||
		radial.MatchString(word) || word == "DCT")
}

// fixOf makes the fix of a row with one position: its name stands before it, or else behind it.
func (p *listing) fixOf(r *row, numbered bool, altitudes float64, d *nav.Dataset) fix {
	if p.heading != nil {
		if f, ok := p.headed(r, d); ok {
			return f
		}
	}
	pl := r.places[0]
	f := fix{row: r, placed: true}
	f.Point = nav.At(pl.lat, pl.lon)
	f.LatPrecision, f.LonPrecision = decimal.PrecisionOf(8), decimal.PrecisionOf(8)
	before, beside := r.nameColumn(pl.from, numbered)
	after := strings.TrimSpace(beside + " " + trimBeside(r.words(pl.to, len(r.tokens))))
	tiedLevel(&f.Point, pl.level)
	if !f.HasHeight() {
		before = height(&f.Point, before)
	}
	if first, rest, ok := strings.Cut(before, " "); ok && !f.HasHeight() && identifier.MatchString(first) &&
		strings.ToUpper(first) == first { // VC01 305 m: by itself behind an identifier
		before = strings.TrimSpace(first + " " + height(&f.Point, rest))
	}
	if !f.HasHeight() {
		after = height(&f.Point, after)
	}
	if !f.HasHeight() && altitudes != 0 {
		after = plainHeight(&f.Point, after, altitudes)
	}
	if before == "" { // the name is behind: one word, or all of it where it is short
		if first, rest, ok := strings.Cut(after, " "); ok && identifier.MatchString(first) &&
			strings.ToUpper(first) == first {
			before, after = first, rest
		} else {
			before, after = after, ""
		}
	}
	f.Name, f.Comment = strings.Trim(before, " ,;"), strings.Trim(after, " ,;")
	if f.Name == "" && numbered { // the row's number is better than no name
		f.Name = strings.Trim(r.tokens[0].text, ".):")
	}
	return f
}

// trimBeside takes the signs off that stand between a position and what is said of it, but for the sign of a number.
func trimBeside(text string) string {
	text = strings.TrimRight(text, " ,;:-()")
	for {
		cut := strings.TrimLeft(text, " ,;:()")
		if len(cut) > 1 && cut[0] == '-' && (cut[1] < '0' || cut[1] > '9') {
			cut = cut[1:]
		}
		if cut == text {
			return text
		}
		text = cut
	}
}

// plainHeight reads the only number of a text as a height in the measure of its heading, which is so many metres.
func plainHeight(p *nav.Point, text string, measure float64) string {
	words := strings.Fields(text)
	at := -1
	for i, w := range words {
		if numberToken.MatchString(w) {
			if at >= 0 {
				return text
			}
			at = i
		}
	}
	if at < 0 {
		return text
	}
	v, err := strconv.ParseFloat(words[at], 64)
	if err != nil {
		return text
	}
	p.SetHeight(v*measure, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	return strings.Join(append(words[:at:at], words[at+1:]...), " ")
}

// inColumns says whether a row is a name, columns such as DCT or an airway, and a position in several words: a row of a
// list, and no route from the name to the position.
func (r *row) inColumns() bool {
	if len(r.places) != 1 || r.places[0].to-r.places[0].from < 2 || r.places[0].from < 2 ||
		!identifier.MatchString(r.tokens[0].text) {
		return false
	}
	for i := 1; i < r.places[0].from; i++ {
		if !r.isColumn(i) {
			return false
		}
	}
	for _, t := range r.tokens[r.places[0].to:] {
		if word := strings.Trim(t.text, ",;"); word == "DCT" || identifier.MatchString(word) &&
			strings.ToUpper(word) == word {
			return false
		}
	}
	return true
}

// familiar reads a row that begins with the name of a known fix, of any words and letters; what stands behind it is its
// height and what is said of it.
func (r *row) familiar(first int, fixes []nav.Waypoint) (fix, bool) {
	const mostWords = 6
	for n := min(len(r.tokens)-first, mostWords); n > 0; n-- {
		name := strings.Trim(r.words(first, first+n), " ,;")
		plain := n == 1 && identifier.MatchString(name)
		if name == "" || plain || !isKnown(name, fixes) { // one plain word is a fix anyway
			continue
		}
		f := fix{row: r}
		f.Name = name
		f.Comment = height(&f.Point, r.words(first+n, len(r.tokens)))
		return f, true
	}
	return fix{}, false
}

// flightRoute says whether a row is a route in the form of the flight plan: it has speeds, levels or direct legs, or is
// nothing but names of which most are known.
func (p *listing) flightRoute(r *row, fixes []nav.Waypoint) bool {
	flown, points, names, familiar, strange := 0, len(r.places), 0, 0, 0
	next := 0
	for i := 0; i < len(r.tokens); i++ {
		if next < len(r.places) && r.places[next].from == i {
			if r.places[next].level != "" {
				flown++
			}
			i = r.places[next].to - 1
			next++
			continue
		}
		word, tied, _ := strings.Cut(strings.Trim(r.tokens[i].text, ",;"), "/")
		_, bearing := pointByBearing(word)
		switch {
		case word == "DCT" || speedLevel.MatchString(word):
			flown++
		case speedLevel.MatchString(tied):
			flown++
			points++
		case bearing:
			points++
		case airway.MatchString(word) || procedure.MatchString(word) || bullets.MatchString(word):
		case identifier.MatchString(word) && strings.ToUpper(word) == word:
			points++
			names++
			if isKnown(word, fixes) {
				familiar++
			}
		default:
			strange++
		}
	}
	return flown > 0 && points >= 1 && strange <= max(2, points/2) ||
		len(r.places) == 0 && names >= 2 && 2*familiar >= names && strange == 0
}

// isKnown says whether a name is among the known fixes.
func isKnown(name string, fixes []nav.Waypoint) bool {
	return slices.ContainsFunc(fixes, func(w nav.Waypoint) bool { return strings.EqualFold(w.Name, name) })
}

// element is a position of a row, or the words between two.
type element struct {
	words string
	place *place
}

// elements parts a row at its positions.
func (r *row) elements() (list []element) {
	next := 0
	for i := 0; i < len(r.tokens); {
		end := len(r.tokens)
		if next < len(r.places) {
			if end = r.places[next].from; end == i {
				list = append(list, element{place: &r.places[next]})
				i = r.places[next].to
				next++
				continue
			}
		}
		list = append(list, element{words: strings.Trim(r.words(i, end), " ,;:-–>")})
		i = end
	}
	return list
}

// stream reads a row that holds several positions. Where names and positions take turns the names are those of the
// positions; otherwise it is read as a flight plan is.
func (p *listing) stream(r *row, fixes []nav.Waypoint, tell func(*row, string)) []fix {
	elements := r.elements()
	names := len(elements) - len(r.places)
	namesFirst := elements[0].place == nil
	if names == len(r.places) || names > len(r.places) && namesFirst {
		return r.namedPlaces(elements, namesFirst)
	}
	return p.flown(r, fixes, tell)
}

// fixAt makes a fix of a position of the row.
func (r *row) fixAt(at *place) fix {
	f := fix{row: r, placed: true}
	f.Point = nav.At(at.lat, at.lon)
	f.LatPrecision, f.LonPrecision = decimal.PrecisionOf(8), decimal.PrecisionOf(8)
	tiedLevel(&f.Point, at.level)
	return f
}

// namedPlaces makes a fix of each position, named by the words before or behind it.
func (r *row) namedPlaces(elements []element, namesFirst bool) (list []fix) {
	for i := range elements {
		if elements[i].place == nil {
			continue
		}
		f := r.fixAt(elements[i].place)
		k := i + 1
		if namesFirst {
			k = i - 1
		}
		if k >= 0 && k < len(elements) && elements[k].place == nil {
			f.Name = strings.Trim(height(&f.Point, elements[k].words), " ,;")
			if first, rest, more := strings.Cut(f.Name, " "); more && leading[strings.ToLower(first)] {
				f.Name = rest
			}
		}
		list = append(list, f)
	}
	return list
}

func (p *listing) byBearing(d *nav.Dataset, list []fix, i int, opt *format.ReadOptions) {
	f := &list[i]
	at, ok := known(list, i, f.base, opt.Fixes)
	if !ok {
		return
	}
	if f.isTrue {
		f.place(at, f.bearing)
		return
	}
	if !magnetic.Covers(opt.On) {
		d.Note(nav.ProblemBearings,
			fmt.Sprintf("%s has a magnetic bearing, and the day is outside of the %s: it was left out", f.Name, magnetic.Name),
			f.row.line, 0).
			Advise(advice.NameDay)
		return
	}
	declination := magnetic.Declination(at.Lat, at.Lon, 0, magnetic.Year(opt.On))
	f.place(at, f.bearing+declination)
	d.Note(nav.ProblemBearings, fmt.Sprintf("bearings are magnetic, and were turned by the declination of %s, %.1f°",
		opt.On.UTC().Format("2006-01-02"), declination), f.row.line, 0).
		Advise(advice.NameDay)
}

// place places a fix at its distance from another, on a true bearing.
func (f *fix) place(from *nav.Waypoint, bearing float64) {
	lat, lon, _ := geodesy.Direct(from.Lat, from.Lon, bearing, f.distance)
	q := nav.At(lat, lon)
	seven := decimal.PrecisionOf(7)
	f.Lat, f.Lon, f.LatPrecision, f.LonPrecision, f.placed = q.Lat, q.Lon, seven, seven, true
}

// known looks a name up: in the plan itself, and among the known fixes, of which that one is taken that is nearest the
// line between the points before and behind.
func known(list []fix, i int, name string, fixes []nav.Waypoint) (*nav.Waypoint, bool) {
	for k := range list {
		if k != i && list[k].placed && list[k].base == "" && strings.EqualFold(list[k].Name, name) {
			return &list[k].Waypoint, true
		}
	}
	var before, after *nav.Waypoint
	for k := i - 1; k >= 0 && before == nil; k-- {
		if list[k].placed {
			before = &list[k].Waypoint
		}
	}
	for k := i + 1; k < len(list) && after == nil; k++ {
		if list[k].placed {
			after = &list[k].Waypoint
		}
	}
	var best *nav.Waypoint
	way := math.Inf(1)
	for k := range fixes {
		c := &fixes[k]
		if !strings.EqualFold(c.Name, name) {
			continue
		}
		sum := 0.0
		for _, q := range []*nav.Waypoint{before, after} {
			if q != nil {
				sum += geodesy.Distance(q.Lat, q.Lon, c.Lat, c.Lon)
			}
		}
		if sum < way {
			best, way = c, sum
		}
	}
	return best, best != nil
}

func clip(s string) string {
	if r := []rune(s); len(r) > 70 {
		return string(r[:70]) + "…"
	}
	return s
}
