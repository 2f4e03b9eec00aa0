// Package talker reads and writes marine talker sentences for waypoints and routes, WPL and RTE of IEC 61162-1.
package talker

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Format is the file of sentences.
var Format = &format.Format{
	Name:       "talker",
	Title:      "marine talker sentences WPL and RTE (IEC 61162-1)",
	Extensions: []string{".tlk"},
	Holds:      "waypoints and routes, with names of 20 characters, nothing else",
	Sniff:      sniff,
	Read:       read,
	Write:      write,
}

const (
	// talkerID says who speaks: an electronic chart system.
	talkerID = "EC"
	// sentenceMost is the most characters of a sentence from $ to the line feed, by the standard's section 7.2.
	sentenceMost = 82
	nameMost     = 20
	mostText     = 64 << 20
)

var sentence = regexp.MustCompile(`^[$!]([A-Z][A-Z0-9])([A-Z]{3}),([^*]*)(?:\*([0-9A-Fa-f]{2}))?$`)

func sniff(h *format.Head) bool {
	first, _, _ := bytes.Cut(bytes.TrimLeft(h.Text, " \t\r\n"), []byte("\n"))
	return sentence.Match(bytes.TrimSpace(first))
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
	given  map[string]string // by name and place
	ledger nav.Ledger
	lost   map[string]int
}

// Encode writes a dataset as groups of sentences, and tells what sentences have no place for.
func Encode(d *nav.Dataset) ([]Group, nav.Ledger) {
	e := &encoder{used: map[string]bool{}, given: map[string]string{}, lost: map[string]int{}}
	var out []Group
	if len(d.Waypoints) > 0 {
		g := Group{Name: "waypoints"}
		for i := range d.Waypoints {
			w := &d.Waypoints[i]
			e.lose(&w.Item, &w.Point)
			if text, fresh := e.waypoint(nav.Waypoints, w); fresh {
				g.Sentences = append(g.Sentences, text)
			}
		}
		out = append(out, g)
	}
	for i := range d.Routes {
		out = append(out, e.route(&d.Routes[i], i))
	}
	for i := range d.Tracks {
		e.ledger.Lost(nav.Tracks, d.Tracks[i].Name, "track", "talker sentences have waypoints and routes only", 1)
	}
	for i := range d.Areas {
		e.ledger.Lost(nav.Areas, d.Areas[i].Name, "area", "talker sentences have waypoints and routes only", 1)
	}
	for _, word := range []string{"descriptions, symbols, colours and fields", "groups", "heights", "times"} {
		if n := e.lost[word]; n > 0 {
			e.ledger = append(e.ledger, nav.Entry{KindWord: "item", What: nav.Property(word),
				Why: "talker sentences have no place for them", Count: n, Loss: true})
		}
	}
	return out, e.ledger
}

func (e *encoder) lose(item *nav.Item, p *nav.Point) {
	if item.Desc != "" || item.Comment != "" || item.Style != (nav.Style{}) || len(item.Fields)+len(item.Links) > 0 {
		e.lost["descriptions, symbols, colours and fields"]++
	}
	if item.Group != "" {
		e.lost["groups"]++
	}
	if p != nil && p.HasHeight() {
		e.lost["heights"]++
	}
	if p != nil && p.HasTime() {
		e.lost["times"]++
	}
}

// plain keeps what a name may hold: printable ASCII but for the characters that the standard reserves.
func plain(name string) string {
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
func (e *encoder) name(kind nav.Kind, w *nav.Waypoint) (name string, fresh bool) {
	key := fmt.Sprintf("%s\x00%.7f %.7f", w.Name, w.Lat, w.Lon)
	if given := e.given[key]; given != "" {
		return given, false
	}
	base := plain(w.Name)
	if base == "" {
		base = "P1"
	}
	name = base
	for n := 2; e.used[name]; n++ {
		number := strconv.Itoa(n)
		name = strings.TrimSpace(base[:min(len(base), nameMost-len(number)-1)]) + " " + number
	}
	e.used[name], e.given[key] = true, name
	if name != w.Name && w.Name != "" {
		e.ledger.Changed(kind, w.Name, "name", w.Name, name, "talker sentences have 20 characters of ASCII")
	}
	return name, true
}

// angle writes degrees and minutes to a ten-thousandth, 18 cm.
func angle(v float64, width int, plus, minus string) string {
	hemisphere := plus
	if v < 0 {
		hemisphere = minus
	}
	n := int(math.Round(math.Abs(v) * 600000))
	return fmt.Sprintf("%0*d%02d.%04d,%s", width, n/600000, n/10000%60, n%10000, hemisphere)
}

func (e *encoder) waypoint(kind nav.Kind, w *nav.Waypoint) (text string, fresh bool) {
	name, fresh := e.name(kind, w)
	return Sentence(fmt.Sprintf("%sWPL,%s,%s,%s", talkerID, angle(w.Lat, 2, "N", "S"), angle(w.Lon, 3, "E", "W"), name)),
		fresh
}

func (e *encoder) route(r *nav.Route, i int) Group {
	name := plain(r.Name)
	if name == "" {
		name = fmt.Sprintf("R%d", i+1)
	}
	if name != r.Name && r.Name != "" {
		e.ledger.Changed(nav.Routes, r.Name, "name", r.Name, name, "talker sentences have 20 characters of ASCII")
	}
	e.lose(&r.Item, nil)
	g := Group{Name: name}
	var names []string
	for k := range r.Points {
		w := &r.Points[k]
		e.lose(&w.Item, &w.Point)
		text, _ := e.waypoint(nav.Routes, w)
		given, _ := e.name(nav.Routes, w)
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
	var own nav.Ledger
	format.LoseKept(&own, d, "talker", "a file of talker sentences")
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
	done := &format.Written{Ledger: append(own, ledger...)}
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
}

type route struct {
	name        string
	total, next int
	names       []string
	line        int
}

func read(s *format.Source, _ *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{d: &nav.Dataset{}, points: map[string]*nav.Waypoint{}}
	lines := bufio.NewScanner(io.LimitReader(s.Reader(), mostText))
	lines.Buffer(nil, 1<<16)
	for lines.Scan() {
		r.line++
		r.sentence(strings.TrimSpace(lines.Text()))
	}
	if err := lines.Err(); err != nil {
		return nil, &format.Error{Path: s.Path, Line: r.line + 1, Msg: "the line is far longer than a sentence can be"}
	}
	r.finish()
	return r.d, nil
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
	m := sentence.FindStringSubmatch(text)
	if m == nil {
		r.d.Note(nav.ProblemLeftOut, "a line that is no talker sentence", r.line, 0)
		return
	}
	kind, body := m[2], m[1]+m[2]+","+m[3]
	if kind != "WPL" && kind != "RTE" {
		r.d.Note(nav.ProblemLeftOut, "sentences other than WPL and RTE", r.line, 0)
		return
	}
	item := nav.Waypoints
	if kind == "RTE" {
		item = nav.Routes
	}
	if m[4] == "" {
		r.d.Note(nav.ProblemSums, "a sentence has no checksum, and was taken as it is", r.line, 0)
	} else if want := fmt.Sprintf("%02X", Sum(body)); !strings.EqualFold(m[4], want) {
		r.reject(item, "", text, fmt.Sprintf("its checksum is %s, and should be %s: the sentence was garbled on its way",
			m[4], want))
		return
	}
	fields := strings.Split(m[3], ",")
	if kind == "WPL" {
		r.waypoint(fields, text)
	} else {
		r.routePart(fields, text)
	}
}

// degrees reads ddmm.mmmm and its letter.
func degrees(text, letter string, width int, plus, minus string) (float64, bool) {
	if len(text) < width+2 || letter != plus && letter != minus {
		return 0, false
	}
	d, err := strconv.ParseUint(text[:width], 10, 16)
	m, _, ok := nav.ParseDecimal([]byte(text[width:]))
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
		r.reject(nav.Waypoints, f[4], raw, "it has no position that can be used")
		return
	}
	w := &nav.Waypoint{Item: nav.Item{Name: f[4]}, Point: nav.At(lat, lon)}
	w.LatPrecision, w.LonPrecision = nav.PrecisionOf(7), nav.PrecisionOf(7)
	if old := r.points[f[4]]; old == nil {
		r.order = append(r.order, f[4])
	} else if !old.SamePlace(&w.Point) {
		r.d.Note(nav.ProblemNames, fmt.Sprintf("the name %q stands for two places; the later one counts, as on a unit",
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
		r.reject(nav.Routes, f[3], raw, "its numbers of sentences make no sense")
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
		r.reject(nav.Routes, f[3], raw, fmt.Sprintf("it is sentence %d of %d, and the one before it is missing", number,
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
