// Package vane reads and writes the Vane plan, a text of Gyrolith's own design for flight units. The file
// docs/formats/vane-plan.md specifies it line by line.
package vane

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// Format is the Vane plan.
var Format = &format.Format{
	Name:       "vane",
	Title:      "Vane plan (own format)",
	Extensions: []string{".vpl"},
	Brief:      "waypoints, routes with altitudes, areas with floor and ceiling",
	Sniff:      func(h *format.Head) bool { return bytes.HasPrefix(h.Text, []byte(opening)) },
	Read:       read,
	Write:      write,
	Holds:      format.Plainly(declaration),
}

// declaration says what a Vane plan holds.
var declaration = &holds.Declaration{
	Noun: "a Vane plan",
	Holds: holds.Places{
		holds.Waypoint:   fix,
		holds.Route:      holds.Only(holds.Empty, holds.OnePoint).With(holds.Name, names),
		holds.RoutePoint: fix,
		holds.Area: holds.Only(holds.Holes).With(holds.Name, names).With(holds.Fields, holds.Held{Keys: nav.IsLimit,
			KeyWords: nav.LimitWords}),
	},
	Missing: map[holds.Place]holds.Held{holds.Track: {Advice: advice.TracksToRoutes}},
	Datums:  []nav.VerticalDatum{nav.MeanSeaLevel, nav.PressureLevel},
	Rounds: holds.Rounds{Position: holds.Step{Size: 1e-6, Standard: true, Words: "a millionth of a degree"},
		Height: holds.Step{Size: footMetres, Standard: true, Words: "a foot"}},
}

var (
	names = holds.Held{Text: holds.Text{Most: nameMost, Letters: "printable ASCII"}}
	fix   = holds.Only(holds.Height).With(holds.Symbol, holds.Held{Partly: true, Why: "one of five kinds of fix"}).
		With(holds.Name, holds.Held{Text: holds.Text{Most: identMost, Letters: "capital letters and digits"}})
)

const (
	footMetres  = 0.3048
	flightLevel = 100 * footMetres
)

const (
	opening   = "VANE PLAN "
	version   = "1"
	identMost = 5
	nameMost  = 30
	mostText  = 16 << 20
)

// kinds are the words for what a fix is, with the symbols that stand for them.
var kinds = [...]struct{ word, symbol string }{{"POINT", "mark"}, {"FIELD", "airfield"}, {"BEACON", "radio-beacon"},
	{"REPORT", "reporting-point"}, {"OBSTACLE", "obstacle"}}

// kindOf gives the word for a symbol; exact says that it is not for a broader one.
func kindOf(word string) (kind string, exact bool) {
	if word == "" {
		return kinds[0].word, true
	}
	for _, k := range kinds {
		if k.symbol == word || strings.EqualFold(k.word, word) {
			return k.word, true
		}
	}
	for w := symbol.Meaning(word); w != ""; w = symbol.Like(w) {
		if w == "mark" || w == "hazard" {
			break
		}
		for _, k := range kinds {
			if k.symbol == w {
				return k.word, false
			}
		}
	}
	return kinds[0].word, false
}

// Sum is the checksum of the lines before the last: Fletcher's of 16 bits (J. G. Fletcher, IEEE Transactions on
// Communications 30(1), 1982), with sums modulo 255.
func sum(text []byte) uint16 {
	var a, b uint32
	for _, c := range text {
		a = (a + uint32(c)) % 255
		b = (b + a) % 255
	}
	return uint16(b<<8 | a)
}

type writer struct {
	buf    bytes.Buffer
	lines  int
	ledger nav.Ledger
	idents map[string]bool
	last   map[string]int    // the last number behind an identifier
	given  map[string]string // the identifiers of fixes by their names
}

func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	done := &format.Written{}
	w := &writer{idents: map[string]bool{}, last: map[string]int{}, given: map[string]string{}}
	w.line("%s%s", opening, version)
	for i := range d.Waypoints {
		p := &d.Waypoints[i]
		w.fix("FIX", holds.Waypoint, p.Name, p)
		done.Add(nav.Waypoints, 1)
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		w.line("PLAN %s", w.name(holds.Route, r.Name))
		for j := range r.Points {
			w.fix("LEG", holds.RoutePoint, r.Name, &r.Points[j])
		}
		w.line("END")
		done.Add(nav.Routes, len(r.Points))
	}
	for i := range d.Areas {
		w.closure(&d.Areas[i])
		done.Add(nav.Areas, len(d.Areas[i].Outline))
	}
	fmt.Fprintf(&w.buf, "SUM %d %04X\n", w.lines, sum(w.buf.Bytes()))
	_, err := out.Write(w.buf.Bytes())
	done.Ledger = w.ledger
	return done, err
}

func (w *writer) line(text string, args ...any) {
	fmt.Fprintf(&w.buf, text+"\n", args...)
	w.lines++
}

// name brings a plan's or closure's name to printable ASCII on one line.
func (w *writer) name(at holds.Place, name string) string {
	out := strings.Join(strings.FieldsFunc(headings.Plain(name), func(r rune) bool { return r <= ' ' || r > '~' }), " ")
	if len(out) > nameMost {
		out = strings.TrimSpace(out[:nameMost])
	}
	if out == "" {
		out = strings.ToUpper(at.String())
	}
	if out != name {
		w.ledger = append(w.ledger, holds.Renamed(at, name, out, "a Vane plan has up to 30 characters of ASCII"))
	}
	return out
}

// ident gives an identifier of at most five capital letters and digits, different from the others.
func (w *writer) ident(at holds.Place, name string) string {
	if given := w.given[name]; given != "" {
		return given
	}
	plain := strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, strings.ToUpper(headings.Plain(name)))
	short := plain[:min(len(plain), identMost)]
	if short == "" {
		short = "P1"
	}
	base := short
	for n := max(2, w.last[base]+1); w.idents[short]; n++ {
		w.last[base] = n
		number := strconv.Itoa(n)
		short = plain[:min(len(plain), identMost-len(number))] + number
	}
	w.idents[short] = true
	if name != "" {
		w.given[name] = short
	}
	if short != name {
		w.ledger = append(w.ledger, holds.Renamed(at, name, short,
			"a Vane plan has identifiers of five capital letters and digits"))
	}
	return short
}

func place(p *nav.Point) string {
	lat, lon := "N", "E"
	if p.Lat < 0 {
		lat = "S"
	}
	if p.Lon < 0 {
		lon = "W"
	}
	return fmt.Sprintf("%s%09.6f %s%010.6f", lat, math.Abs(p.Lat), lon, math.Abs(p.Lon))
}

func (w *writer) fix(word string, at holds.Place, of string, p *nav.Waypoint) {
	level := "-"
	if p.HasHeight() {
		switch p.VerticalDatum() {
		case nav.PressureLevel:
			n := max(math.Round(p.Height()/flightLevel), 0)
			level = fmt.Sprintf("F%03.0f", n)
			if off := math.Abs(p.Height() - n*flightLevel); off > 0.01 {
				w.ledger = append(w.ledger, holds.Changed(at, of, holds.Height, fmt.Sprintf("%.0f m", p.Height()), "level "+level,
					"flight levels are whole hundreds of feet"))
			}
		case nav.AboveEllipsoid, nav.AboveGround:
			e := w.ledger.Lost(at.Kind(), of, holds.What(at, holds.Height), "a Vane plan has altitudes above mean sea level "+
				"and flight levels; this height is above "+p.VerticalDatum().String(), 1)
			e.KindWord = at.String()
		default:
			level = fmt.Sprintf("A%.0f", math.Round(p.Height()/footMetres)+0) // no -0
		}
	}
	is, exact := kindOf(p.Style.Symbol)
	if !exact {
		w.ledger = append(w.ledger, holds.Changed(at, of, holds.Symbol, p.Style.Symbol, is,
			"a Vane plan has five kinds of fixes"))
	}
	w.line("%s %s %s %s %s", word, w.ident(at, p.Name), place(&p.Point), level, is)
}

func (w *writer) closure(a *nav.Area) {
	if len(a.Outline) == 0 {
		return
	}
	w.line("CLOSURE %s", w.name(holds.Area, a.Name))
	limits, _ := a.Limits() // what can't be read is a field that is lost
	for _, x := range []struct {
		word  string
		level *nav.Level
	}{{"FLOOR", limits.Floor}, {"CEILING", limits.Ceiling}} {
		if x.level == nil {
			continue
		}
		w.line("%s %s", x.word, levelText(x.level))
	}
	for _, x := range []struct {
		word string
		at   *int64
	}{{"FROM", limits.From}, {"UNTIL", limits.Until}} {
		if x.at != nil {
			w.line("%s %s", x.word, time.Unix(0, *x.at).UTC().Format(time.RFC3339))
		}
	}
	for i, ring := range a.Rings() {
		if i > 0 {
			w.line("HOLE")
		}
		for k := range ring {
			w.line("AT %s", place(&ring[k]))
		}
	}
	w.line("END")
}

// levelText writes a level: A1500 in feet above the sea, G500 above the ground, F085, GND, UNL.
func levelText(l *nav.Level) string {
	feet := math.Round(l.Metres/footMetres) + 0 // no -0
	switch {
	case l.Unlimited:
		return "UNL"
	case l.Ground && l.Metres == 0:
		return "GND"
	case l.Ground:
		return fmt.Sprintf("G%.0f", feet)
	case l.Over == nav.PressureLevel:
		return fmt.Sprintf("F%03.0f", feet/100)
	}
	return fmt.Sprintf("A%.0f", feet)
}

// reader reads line by line.
type reader struct {
	path  string
	d     *nav.Dataset
	n     int // the line
	route *nav.Route
	area  *nav.Area
	hole  bool
}

// read reads a plan. One that ends early, or whose sum does not fit, gives what was read and an error that --salvage
// forgives.
func read(s *format.Source, _ *format.ReadOptions) (*nav.Dataset, error) {
	text, err := io.ReadAll(io.LimitReader(s.Reader(), mostText+1))
	if err != nil {
		return nil, err
	}
	if len(text) > mostText {
		return nil, s.Fault("is larger than 16 MiB, too large for a Vane plan")
	}
	text = bytes.ReplaceAll(bytes.TrimPrefix(text, []byte("\xef\xbb\xbf")), []byte("\r\n"), []byte("\n"))
	r := &reader{path: s.Path, d: &nav.Dataset{}}
	lines := bufio.NewScanner(bytes.NewReader(text))
	lines.Buffer(nil, 1<<16)
	done, offset := false, 0
	for lines.Scan() {
		r.n++
		line := lines.Text()
		if r.n == 1 {
			if line != opening+version {
				return nil, r.fault("this is not a Vane plan of version 1, which begins with %q", opening+version)
			}
		} else if words := strings.Fields(line); len(words) > 0 && words[0] == "SUM" {
			if err := r.sum(words, text[:offset]); err != nil {
				return r.d, err
			}
			done = true
			break
		} else if len(words) > 0 {
			if err := r.line(words, line); err != nil {
				return r.d, err
			}
		}
		offset += len(line) + 1
	}
	if err := lines.Err(); err != nil {
		return nil, r.fault("the line is much too long")
	}
	if !done || r.route != nil || r.area != nil {
		r.flush()
		return r.d, &format.Error{Path: r.path, Line: r.n,
			Msg: "the plan ends without its SUM line: it is incomplete", Cut: true}
	}
	for lines.Scan() {
		r.n++
		if strings.TrimSpace(lines.Text()) != "" {
			r.d.Note(nav.ProblemTrailing, "lines after the SUM line were not read", r.n, 0)
		}
	}
	return r.d, nil
}

func (r *reader) fault(text string, args ...any) *format.Error {
	return &format.Error{Path: r.path, Line: r.n, Msg: fmt.Sprintf(text, args...)}
}

func (r *reader) sum(words []string, text []byte) error {
	want := fmt.Sprintf("%d %04X", r.n-1, sum(text))
	if got := strings.Join(words[1:], " "); got != want {
		err := r.fault("the checksum is %q, but that of the lines before it is %q: the plan is damaged or was edited by hand",
			got, want)
		err.Cut = true
		return err
	}
	return nil
}

// flush keeps what was begun.
func (r *reader) flush() {
	if r.route != nil {
		r.d.Routes = append(r.d.Routes, *r.route)
	}
	if r.area != nil && len(r.area.Outline) > 2 {
		r.d.Areas = append(r.d.Areas, *r.area)
	}
	r.route, r.area, r.hole = nil, nil, false
}

func (r *reader) line(words []string, line string) error {
	rest := strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(line), words[0]))
	inside := r.route != nil || r.area != nil
	switch word := words[0]; {
	case word == "FIX" && !inside:
		w, err := r.fix(words)
		if err != nil {
			return err
		}
		r.d.Waypoints = append(r.d.Waypoints, w)
	case word == "PLAN" && !inside:
		r.route = &nav.Route{Item: nav.Item{Name: rest}}
	case word == "LEG" && r.route != nil:
		w, err := r.fix(words)
		if err != nil {
			return err
		}
		r.route.Points = append(r.route.Points, w)
	case word == "CLOSURE" && !inside:
		r.area = &nav.Area{Item: nav.Item{Name: rest}}
	case (word == "FLOOR" || word == "CEILING") && r.area != nil && len(words) == 2:
		level, ok := levelField(words[1])
		if !ok {
			return r.fault("%q is not a level: use A1500, G500, F085, GND or UNL", words[1])
		}
		r.area.Fields = append(r.area.Fields, nav.Field{Key: strings.ToLower(word), Value: level})
	case (word == "FROM" || word == "UNTIL") && r.area != nil && len(words) == 2:
		if _, err := time.Parse(time.RFC3339, words[1]); err != nil {
			return r.fault("%q is not a time such as 2026-03-14T05:30:00Z", words[1])
		}
		r.area.Fields = append(r.area.Fields, nav.Field{Key: "valid " + strings.ToLower(word), Value: words[1]})
	case word == "HOLE" && r.area != nil && len(words) == 1:
		r.area.Holes = append(r.area.Holes, nil)
	case word == "AT" && r.area != nil && len(words) == 3:
		p, err := r.place(words[1], words[2])
		if err != nil {
			return err
		}
		if n := len(r.area.Holes); n > 0 {
			r.area.Holes[n-1] = append(r.area.Holes[n-1], p)
		} else {
			r.area.Outline = append(r.area.Outline, p)
		}
	case word == "END" && inside && len(words) == 1:
		r.flush()
	default:
		return r.fault("%q does not belong here", line)
	}
	return nil
}

// levelField turns a level of a plan into the text of an area's field.
func levelField(text string) (string, bool) {
	switch {
	case text == "GND" || text == "UNL":
		return text, true
	case len(text) < 2:
		return "", false
	}
	if v, err := strconv.ParseInt(text[1:], 10, 20); err != nil || v < 0 && text[0] != 'A' {
		return "", false
	}
	switch text[0] {
	case 'A':
		return text[1:] + "ft", true
	case 'G':
		return text[1:] + "ft AGL", true
	case 'F':
		return "FL" + text[1:], len(text) <= 4
	}
	return "", false
}

func (r *reader) place(lat, lon string) (p nav.Point, err error) {
	angle := func(text, plus, minus string, most float64) (float64, bool) {
		if len(text) < 2 {
			return 0, false
		}
		v, _, ok := decimal.Parse([]byte(text[1:]))
		if !ok || v < 0 || v > most || text[1] == '+' {
			return 0, false
		}
		switch text[:1] {
		case plus:
			return v, true
		case minus:
			return -v, true
		}
		return 0, false
	}
	a, ok1 := angle(lat, "N", "S", 90)
	o, ok2 := angle(lon, "E", "W", 180)
	if !ok1 || !ok2 {
		return p, r.fault("%q is not a position such as S47.600000 E011.300000", lat+" "+lon)
	}
	p = nav.At(a, o)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(6), decimal.PrecisionOf(6)
	return p, nil
}

// fix reads FIX or LEG, an identifier, a position, an altitude and a kind.
func (r *reader) fix(words []string) (w nav.Waypoint, err error) {
	if len(words) != 6 {
		return w, r.fault("a %s has an identifier, a latitude, a longitude, an altitude or -, and a kind", words[0])
	}
	w.Name = words[1]
	if w.Point, err = r.place(words[2], words[3]); err != nil {
		return w, err
	}
	if text := words[4]; text != "-" {
		v, perr := strconv.ParseInt(text[1:], 10, 20)
		switch {
		case perr == nil && text[0] == 'A':
			w.SetHeight(float64(v)*footMetres, decimal.PrecisionOf(4), nav.MeanSeaLevel)
		case perr == nil && text[0] == 'F' && len(text) <= 4 && v >= 0:
			w.SetHeight(float64(v)*flightLevel, decimal.PrecisionOf(2), nav.PressureLevel)
		default:
			return w, r.fault("%q is not an altitude: use A1500 or A-20 in feet above the sea, F085, or -", text)
		}
	}
	for i, k := range kinds {
		if k.word == words[5] {
			if i > 0 {
				w.Style.Symbol = k.symbol
			}
			return w, nil
		}
	}
	return w, r.fault("there is no kind of fix %q; there are POINT, FIELD, BEACON, REPORT and OBSTACLE", words[5])
}
