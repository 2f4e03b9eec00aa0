// Package talker reads and writes marine talker sentences for waypoints and routes, WPL and RTE of IEC 61162-1.
package talker

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// Format is the file of sentences.
var Format = &format.Format{
	Name:       "talker",
	Title:      "marine talker sentences (IEC 61162-1)",
	Extensions: []string{".tlk"},
	Brief:      "waypoints and routes; read as well: logs of receivers and AIS",
	Sniff:      sniff,
	Read:       read,
	Write:      write,
	Holds:      format.Plainly(declaration),
	Shares:     true,
}

// declaration says what talker sentences hold.
var declaration = &holds.Declaration{
	Noun: "a file of talker sentences",
	Holds: holds.Places{
		holds.Waypoint:   holds.Only().With(holds.Name, names),
		holds.Route:      holds.Only(holds.Empty, holds.OnePoint).With(holds.Name, names),
		holds.RoutePoint: holds.Only().With(holds.Name, names),
	},
	Missing: map[holds.Place]holds.Held{holds.Track: {Advice: advice.TracksToRoutes}},
	Rounds:  holds.Rounds{Position: holds.Step{Size: 1.0 / perDegree, Words: "a hundred-thousandth of a minute"}},
}

var names = holds.Held{Text: holds.Text{Most: nameMost, Letters: "ASCII but for $ * , ! \\ ^"}}

// nameLimit is why a name changes.
const nameLimit = "talker sentences have names of up to 20 ASCII characters, unique and without reserved characters"

const (
	// talkerID says who speaks: an electronic chart system.
	talkerID = "EC"
	// sentenceMost is the most characters of a sentence from $ to the line feed, by the standard's section 7.2.
	sentenceMost = 82
	nameMost     = 20
)

// sniffed is how many lines are looked at, of which most have to be sentences.
const sniffed = 20

func sniff(h *format.Head) bool {
	seen, sound := 0, 0
	for line := range bytes.Lines(h.Text) {
		if line = bytes.TrimSpace(line); len(line) == 0 {
			continue
		}
		if seen++; seen > sniffed || len(line) > 256 {
			break
		}
		if p, ok := part(string(line)); ok && p.sound && (p.summed || p.prefix == "") {
			sound++
		}
	}
	return sound > 0 && 2*sound >= min(seen, sniffed)
}

// Sum is the checksum of a sentence: the exclusive-or of the characters between $ and *.
func Sum(body string) (x byte) {
	for i := range len(body) {
		x ^= body[i]
	}
	return
}

// Sentence ties a sentence up with its checksum and line end.
func Sentence(body string) string { return fmt.Sprintf("$%s*%02X\r\n", body, Sum(body)) }

// Group is the sentences that belong together: the waypoints and the route of one, which begin again when a line
// breaks.
type Group struct {
	Name      string
	Sentences []string
}

// encoder names points and writes sentences.
type encoder struct {
	used   map[string]bool
	last   map[string]int    // the last number behind a name
	given  map[string]string // by name and place
	ledger nav.Ledger
}

// Encode writes a dataset as groups of sentences, and tells what sentences have no place for.
func Encode(d *nav.Dataset) ([]Group, nav.Ledger) {
	e := &encoder{used: map[string]bool{}, last: map[string]int{}, given: map[string]string{}}
	var out []Group
	if len(d.Waypoints) > 0 {
		g := Group{Name: "waypoints"}
		for i := range d.Waypoints {
			w := &d.Waypoints[i]
			text, fresh := e.waypoint(holds.Waypoint, w)
			if !fresh { // the same again: another name tells the two apart
				text = e.sentence(w, e.free(holds.Waypoint, w))
			}
			g.Sentences = append(g.Sentences, text)
		}
		out = append(out, g)
	}
	for i := range d.Routes {
		out = append(out, e.route(&d.Routes[i], i))
	}
	return out, e.ledger
}

// plain keeps what a name may hold: printable ASCII but for the characters that the standard reserves.
func plain(name string) string {
	name = headings.Plain(name)
	out := strings.Map(func(r rune) rune {
		if r < ' ' || r > '}' || strings.ContainsRune("$*,!\\^", r) {
			return ' '
		}
		return r
	}, name)
	out = strings.Join(strings.Fields(out), " ")
	if len(out) > nameMost {
		out = strings.TrimSpace(out[:nameMost])
	}
	return out
}

// name gives a point its name in sentences, where a route finds it by that alone.
func (e *encoder) name(at holds.Place, w *nav.Waypoint) (name string, fresh bool) {
	key := fmt.Sprintf("%s\x00%.7f %.7f", w.Name, w.Lat, w.Lon)
	if given := e.given[key]; given != "" {
		return given, false
	}
	name = e.free(at, w)
	e.given[key] = name
	return name, true
}

// free makes a name that no other point has.
func (e *encoder) free(at holds.Place, w *nav.Waypoint) string {
	base := plain(w.Name)
	if base == "" {
		base = "P1"
	}
	name := base
	for n := max(2, e.last[base]+1); e.used[name]; n++ {
		e.last[base] = n
		number := strconv.Itoa(n)
		name = strings.TrimSpace(base[:min(len(base), nameMost-len(number)-1)]) + " " + number
	}
	e.used[name] = true
	if name != w.Name {
		e.ledger = append(e.ledger, holds.Renamed(at, w.Name, name, nameLimit))
	}
	return name
}

// perDegree is how many of the smallest steps of an angle are a degree: minutes are written to a hundred-thousandth, 2
// cm.
const perDegree = 60 * 100_000

// angle writes degrees and minutes.
func angle(v float64, width int, plus, minus string) string {
	hemisphere := plus
	if v < 0 {
		hemisphere = minus
	}
	n := int(math.Round(math.Abs(v) * perDegree))
	return fmt.Sprintf("%0*d%02d.%05d,%s", width, n/perDegree, n/100_000%60, n%100_000, hemisphere)
}

func (e *encoder) waypoint(at holds.Place, w *nav.Waypoint) (text string, fresh bool) {
	name, fresh := e.name(at, w)
	return e.sentence(w, name), fresh
}

func (e *encoder) sentence(w *nav.Waypoint, name string) string {
	return Sentence(fmt.Sprintf("%sWPL,%s,%s,%s", talkerID, angle(w.Lat, 2, "N", "S"), angle(w.Lon, 3, "E", "W"), name))
}

func (e *encoder) route(r *nav.Route, i int) Group {
	name := plain(r.Name)
	if name == "" {
		name = fmt.Sprintf("R%d", i+1)
	}
	if name != r.Name {
		e.ledger = append(e.ledger, holds.Renamed(holds.Route, r.Name, name, nameLimit))
	}
	g := Group{Name: name}
	var names []string
	for k := range r.Points {
		w := &r.Points[k]
		text, _ := e.waypoint(holds.RoutePoint, w)
		given, _ := e.name(holds.RoutePoint, w)
		names = append(names, given)
		g.Sentences = append(g.Sentences, text) // each route brings its points along, so that it can be sent alone
	}
	// As many names in a sentence as go in; the head is $ECRTE,nnn,nnn,c,NAME and the tail *hh CR LF.
	room := sentenceMost - len("$ECRTE,999,999,c,") - len(name) - len("*hh\r\n")
	var parts []string
	part := ""
	for _, n := range names {
		if part != "" && len(part)+1+len(n) > room {
			parts = append(parts, part)
			part = ""
		}
		part += "," + n
	}
	parts = append(parts, part)
	for k, p := range parts {
		g.Sentences = append(g.Sentences, Sentence(fmt.Sprintf("%sRTE,%d,%d,c,%s%s", talkerID, len(parts), k+1, name, p)))
	}
	return g
}

func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	groups, ledger := Encode(d)
	b := bufio.NewWriter(out)
	written := map[string]bool{}
	for _, g := range groups {
		for _, s := range g.Sentences {
			if !written[s] || strings.Contains(s, "RTE,") {
				b.WriteString(s)
				written[s] = true
			}
		}
	}
	done := &format.Written{Ledger: ledger}
	for range d.Waypoints {
		done.Add(nav.Waypoints, 1)
	}
	for i := range d.Routes {
		done.Add(nav.Routes, len(d.Routes[i].Points))
	}
	return done, b.Flush()
}

// reader gathers waypoints and routes.
type reader struct {
	d      *nav.Dataset
	points map[string]*nav.Waypoint
	order  []string
	routes []*route
	line   int

	logs   receivers
	radio  *radio
	passed map[string]int // sentences of other kinds
}

type route struct {
	name        string
	total, next int
	names       []string
	line        int
}

func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r, err := readAs(s, opt, false)
	if err == nil && r.logs.several() { // two receivers say the same things: each has its own log
		r, err = readAs(s, opt, true)
	}
	if err != nil {
		return nil, err
	}
	r.finish()
	return r.d, nil
}

// readAs reads all sentences, the fixes as of one receiver or of one for each talker.
func readAs(s *format.Source, opt *format.ReadOptions, apart bool) (*reader, error) {
	r := &reader{d: &nav.Dataset{}, points: map[string]*nav.Waypoint{}, logs: newReceivers(opt, apart), radio: newRadio(),
		passed: map[string]int{}}
	lines := bufio.NewScanner(s.Reader())
	lines.Buffer(nil, 1<<16)
	for lines.Scan() {
		r.line++
		r.sentence(strings.TrimSpace(lines.Text()))
	}
	if err := lines.Err(); err != nil {
		return nil, &format.Error{Path: s.Path, Line: r.line + 1, Msg: "the line is much longer than a sentence can be"}
	}
	return r, nil
}

func (r *reader) reject(kind nav.Kind, name, raw, why string) {
	if len(raw) > 100 {
		raw = raw[:100]
	}
	r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: kind, Name: name, Raw: raw, Why: why, Line: r.line})
}

func (r *reader) sentence(text string) {
	if text == "" {
		return
	}
	p, ok := part(text)
	if !ok {
		r.d.Note(nav.ProblemLeftOut, "a line that is not a talker sentence", r.line, 0)
		return
	}
	planned := p.kind == "WPL" || p.kind == "RTE"
	switch {
	case !planned && !isLogged(p.kind):
		r.passed[p.kind]++
		return
	case !p.sound && planned:
		item := nav.Waypoints
		if p.kind == "RTE" {
			item = nav.Routes
		}
		r.reject(item, "", text, fmt.Sprintf("its checksum should be %02X: the sentence was garbled in transmission",
			Sum(p.body)))
		return
	case !p.sound:
		r.d.Note(nav.ProblemLeftOut, "sentences with wrong checksums, garbled in transmission", r.line, 0)
		return
	case !p.summed:
		r.d.Note(nav.ProblemSums, "a sentence without a checksum was accepted", r.line, 0)
	}
	stamp := int64(0)
	if p.prefix != "" {
		stamp = stampOf(p.prefix)
	}
	sound := true
	switch p.kind {
	case "WPL":
		r.waypoint(p.fields, text)
	case "RTE":
		r.routePart(p.fields, text)
	case "VDM", "VDO":
		if at, ok := r.logs.moment(); ok { // the receiver beside it tells the time
			r.radio.now = at
		}
		sound = r.radio.sentence(p.kind, p.fields, stamp)
	default:
		sound = r.logs.sentence(&p, stamp)
	}
	if !sound {
		r.d.Note(nav.ProblemLeftOut, "sentences "+p.kind+" that can't be read", r.line, 0)
	}
}

// finishLog makes tracks of what was logged, and tells what was passed over.
func (r *reader) finishLog() {
	for _, t := range r.logs.tracks(r.d) {
		r.d.Tracks = append(r.d.Tracks, *t)
	}
	tracks, stations := r.radio.items()
	r.d.Tracks = append(r.d.Tracks, tracks...)
	r.d.Waypoints = append(r.d.Waypoints, stations...)
	if n := r.radio.timeless; n > 0 {
		r.d.Note(nav.ProblemTimes, "AIS positions have no time: no time comes before them, "+
			"and no receiver or station gives one", 0, 0).Count = n
	}
	if n := r.radio.other; n > 0 {
		r.d.Tell(nav.ProblemLines, fmt.Sprintf("%d AIS messages without a position were skipped", n))
	}
	if len(r.passed) == 0 {
		return
	}
	var kinds []string
	for _, k := range slices.Sorted(maps.Keys(r.passed)) {
		kinds = append(kinds, fmt.Sprintf("%s %d", k, r.passed[k]))
	}
	r.d.Tell(nav.ProblemLines, "sentences of other kinds were skipped: "+strings.Join(kinds, ", "))
}

// degrees reads ddmm.mmmm and its letter.
func degrees(text, letter string, width int, plus, minus string) (float64, bool) {
	if len(text) < width+2 || letter != plus && letter != minus {
		return 0, false
	}
	d, err := strconv.ParseUint(text[:width], 10, 16)
	m, _, ok := decimal.Parse([]byte(text[width:]))
	if err != nil || !ok || m < 0 || m >= 60 {
		return 0, false
	}
	v := float64(d) + m/60
	if letter == minus {
		v = -v
	}
	return v, true
}

func (r *reader) waypoint(f []string, raw string) {
	if len(f) != 5 {
		r.reject(nav.Waypoints, "", raw, fmt.Sprintf("a WPL sentence has five fields, not %d", len(f)))
		return
	}
	lat, ok1 := degrees(f[0], f[1], 2, "N", "S")
	lon, ok2 := degrees(f[2], f[3], 3, "E", "W")
	if !ok1 || !ok2 || math.Abs(lat) > 90 || math.Abs(lon) > 180 {
		r.reject(nav.Waypoints, f[4], raw, "it has no usable position")
		return
	}
	w := &nav.Waypoint{Item: nav.Item{Name: f[4]}, Point: nav.At(lat, lon)}
	w.LatPrecision, w.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	if old := r.points[f[4]]; old == nil {
		r.order = append(r.order, f[4])
	} else if !old.SamePlace(&w.Point) {
		r.d.Note(nav.ProblemNames, fmt.Sprintf("the name %q is used for two places; the later one counts, as on a unit",
			f[4]), r.line, 0)
	}
	r.points[f[4]] = w
}

func (r *reader) routePart(f []string, raw string) {
	if len(f) < 4 {
		r.reject(nav.Routes, "", raw, "an RTE sentence has at least four fields")
		return
	}
	total, err1 := strconv.Atoi(f[0])
	number, err2 := strconv.Atoi(f[1])
	if err1 != nil || err2 != nil || number < 1 || number > total {
		r.reject(nav.Routes, f[3], raw, "its sentence numbers are invalid")
		return
	}
	var at *route
	if n := len(r.routes); n > 0 && number > 1 && r.routes[n-1].name == f[3] && r.routes[n-1].total == total &&
		r.routes[n-1].next == number {
		at = r.routes[n-1]
	} else if number == 1 {
		at = &route{name: f[3], total: total, next: 1, line: r.line}
		r.routes = append(r.routes, at)
	} else {
		r.reject(nav.Routes, f[3], raw, fmt.Sprintf("it is sentence %d of %d, but the previous one is missing", number,
			total))
		return
	}
	at.next++
	for _, name := range f[4:] {
		if name != "" {
			at.names = append(at.names, name)
		}
	}
}

// finish makes routes of the names, and waypoints of what no route uses.
func (r *reader) finish() {
	r.finishLog()
	used := map[string]bool{}
	for _, at := range r.routes {
		out := nav.Route{Item: nav.Item{Name: at.name}}
		for i, name := range at.names {
			w := r.points[name]
			if w == nil {
				r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: nav.Routes, Name: at.name, Number: i + 1, Raw: name,
					Why: "no WPL sentence gives the position of this waypoint", Line: at.line})
				continue
			}
			used[name] = true
			out.Points = append(out.Points, *w)
		}
		if at.next <= at.total {
			r.d.Note(nav.ProblemPlaces, fmt.Sprintf("route %q: %d of its %d sentences are missing", at.name,
				at.total-at.next+1, at.total), at.line, 0)
		}
		r.d.Routes = append(r.d.Routes, out)
	}
	for _, name := range r.order {
		if !used[name] {
			r.d.Waypoints = append(r.d.Waypoints, *r.points[name])
		}
	}
}
