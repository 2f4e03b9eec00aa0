// Package igc reads flight recorder files and writes task declarations (FAI, Technical Specification for IGC-approved
// GNSS Flight Recorders, appendix A).
package igc

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/holds"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// Format is the flight recorder file.
var Format = &format.Format{
	Name:       "igc",
	Title:      "flight recorder file (FAI IGC)",
	Extensions: []string{".igc"},
	Brief:      "read: flight and task; written: the task of a route",
	Sniff:      func(h *format.Head) bool { return manufacturer.Match(firstLine(h.Text)) },
	Read:       read,
	Write:      write,
	Holds:      format.Plainly(declaration),
}

// declaration says what a task declaration holds.
var declaration = &holds.Declaration{
	Noun: "a task declaration",
	Holds: holds.Places{
		holds.Route: holds.Only().With(holds.Name, names),
		holds.RoutePoint: holds.Only().With(holds.Name, names).With(holds.Time,
			holds.Held{Why: "a task declaration has but the day of the flight, that of the first point"}),
	},
	Missing: map[holds.Place]holds.Held{holds.Track: {Why: "recordings can't be written: only the recorder can sign " +
		"them"}},
	Rounds: holds.Rounds{Position: holds.Step{Size: 1.0 / 60000, Standard: true, Words: "a thousandth of a minute"}},
}

// lineMost is the most characters of a record, by section A1 of the specification.
const lineMost = 76

var names = holds.Held{Text: holds.Text{Most: lineMost - 18, Letters: "ASCII but for $ * ! \\ ^ ~"}}

// manufacturer is the first record of every file: A, three letters or digits of the maker, and the unit's serial.
var manufacturer = pattern.New(`^A[A-Z0-9]{3}[A-Za-z0-9].*$`)

func firstLine(text []byte) []byte {
	for i, c := range text {
		if c == '\n' || c == '\r' {
			return text[:i]
		}
	}
	return text
}

// PressureHeight is the detail of a point that holds the height by the recorder's barometer, in metres above the
// pressure level of 1013.25 hPa.
const PressureHeight = "pressure-height"

type reader struct {
	d           *nav.Dataset
	opt         *format.ReadOptions
	line        int
	day         time.Time
	last        int // seconds of the day of the fix before
	seg         nav.Segment
	item        nav.Item
	task        nav.Route
	declared    bool
	turns       int // turn points that the declaration announces; -1 where it doesn't
	places      int // of the task, with take-off, start, finish and landing
	noDate      bool
	bySatellite bool              // some fix has a height that is not zero
	first       time.Time         // the first day
	over        nav.VerticalDatum // of the heights by satellite
	noSatellite bool              // as a header says
	noPressure  bool
	byPressure  bool        // some fix has a height by pressure that is not zero
	events      []nav.Field // for the next fix
	extensions  []extension // of fixes (I records)
	between     []extension // of the records between them (K records)
	left        []string    // the records that were left out, by type
	leftAt      int         // the line of the first
}

func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{d: &nav.Dataset{}, opt: opt, last: -1, turns: -1, over: nav.AboveEllipsoid}
	lines := bufio.NewScanner(s.Reader())
	lines.Buffer(nil, 1<<16)
	for lines.Scan() {
		r.line++
		line, latin := decoded(lines.Bytes())
		if latin {
			r.d.Note(nav.ProblemEncoding, "text that is not UTF-8 was read as Latin-1", r.line, 0).Info = true
		}
		text := strings.TrimRight(line, "\r\n ")
		if r.line == 1 && !manufacturer.MatchString(text) {
			return nil, &format.Error{Path: s.Path, Line: 1,
				Msg: "this is not a flight recorder file: its first record is not an A record with the recorder's manufacturer"}
		}
		if text != "" {
			r.record(text)
		}
	}
	r.lateEvents()
	if ends := r.places - r.turns; r.turns >= 0 && ends != 4 && ends != 2 { // some leave out take-off and landing
		r.d.Contradict("the task declares %d turn points, and has %d: it may be incomplete", r.turns, max(r.places-4, 0))
	}
	if err := lines.Err(); err != nil {
		return nil, &format.Error{Path: s.Path, Line: r.line + 1, Msg: "the line is much longer than a record can be"}
	}
	if len(r.left) > 0 {
		r.d.Note(nav.ProblemLeftOut, "what these records say was left out: "+strings.Join(r.left, ", "), r.leftAt, 0)
	}
	if len(r.seg.Points) > 0 {
		r.settleHeights()
		r.item.Name = name(r.item, r.first)
		r.d.Tracks = append(r.d.Tracks, nav.Track{Item: r.item, Segments: []nav.Segment{r.seg}})
	}
	if len(r.task.Points) > 0 {
		if r.task.Name == "" {
			r.task.Name = "Task"
		}
		r.d.Routes = append(r.d.Routes, r.task)
	}
	return r.d, nil
}

// decoded gives a line as a text: of recorders that are older than UTF-8 one of Latin-1 (ISO 8859-1).
func decoded(line []byte) (text string, latin bool) {
	if utf8.Valid(line) {
		return string(line), false
	}
	runes := make([]rune, len(line))
	for i, b := range line {
		runes[i] = rune(b)
	}
	return string(runes), true
}

// settleHeights makes the heights of the flight those by the barometer where no fix has one by satellite. A flight
// never has heights of both: a fix without one by satellite among others has none.
func (r *reader) settleHeights() {
	if r.bySatellite && r.byPressure {
		return
	}
	for i := range r.seg.Points {
		p := &r.seg.Points[i]
		if !r.bySatellite {
			p.ClearHeight()
		}
		values := r.seg.Values(nil, p)
		v, ok := nav.Get(values, PressureHeight)
		if !ok {
			continue
		}
		if h, err := strconv.Atoi(v); err == nil && r.byPressure {
			p.SetHeight(float64(h), decimal.PrecisionOf(0), nav.PressureLevel)
		}
		r.seg.Attach(p, nav.Detail{Values: slices.DeleteFunc(values,
			func(f nav.Field) bool { return f.Key == PressureHeight })})
	}
}

func name(item nav.Item, day time.Time) string {
	if item.Name != "" {
		return item.Name
	}
	if day.IsZero() {
		return "Flight"
	}
	return "Flight of " + day.Format(time.DateOnly)
}

func (r *reader) record(text string) {
	switch text[0] {
	case 'H':
		r.header(text)
	case 'B':
		r.fix(text)
	case 'C':
		r.declaration(text)
	case 'G':
		r.d.Note(nav.ProblemLeftOut, "the security records: what is written from this is no longer signed", r.line, 0)
	case 'I':
		r.extensions = r.listed(text, "B")
	case 'J':
		r.between = r.listed(text, "K")
	case 'K':
		r.ofTime(text, r.between)
	case 'E':
		r.event(text)
	case 'L':
		r.d.Note(nav.ProblemLeftOut, "remarks of the recorder (L records)", r.line, 0)
	default:
		r.leave(text[:1])
	}
}

// leave remembers a type of records that is left out.
func (r *reader) leave(record string) {
	const most = 20
	switch {
	case slices.Contains(r.left, record) || len(r.left) > most:
		return
	case len(r.left) == 0:
		r.leftAt = r.line
	case len(r.left) == most:
		record = "and others"
	}
	r.left = append(r.left, record)
}

// header reads the date and what is said of the flight.
func (r *reader) header(text string) {
	if len(text) < 5 {
		r.leave(text)
		return
	}
	code, rest := text[2:5], text[5:]
	_, value, _ := strings.Cut(rest, ":")
	value = strings.TrimSpace(value)
	field := func(key string) {
		if value != "" {
			r.item.Fields = append(r.item.Fields, nav.Field{Key: key, Value: value})
		}
	}
	switch code {
	case "DTE":
		digits := strings.TrimPrefix(strings.TrimPrefix(rest, "DATE"), ":")
		day, err := time.Parse("020106", digits[:min(6, len(digits))])
		if err != nil {
			r.leave(text[:5])
			return
		}
		r.day = day
		if r.first.IsZero() {
			r.first = day
		}
	case "ALG": // what heights by satellite are above
		switch word := strings.ToUpper(strings.TrimSpace(strings.TrimPrefix(strings.TrimPrefix(rest, "ALTGPS"), ":"))); {
		case strings.HasPrefix(word, "GEO"):
			r.over = nav.MeanSeaLevel
		case strings.HasPrefix(word, "NIL"):
			r.noSatellite = true
		case strings.HasPrefix(word, "NKN"):
			r.over = nav.DatumUnstated
		case !strings.HasPrefix(word, "ELL"):
			r.leave(text[:5])
		}
	case "ALP": // and those by pressure
		switch word := strings.ToUpper(strings.TrimSpace(strings.TrimPrefix(strings.TrimPrefix(rest, "ALTPRESSURE"), ":"))); {
		case strings.HasPrefix(word, "NIL"):
			r.noPressure = true
		case !strings.HasPrefix(word, "ISA"):
			r.leave(text[:5])
		}
	case "PLT":
		field("pilot")
	case "GTY":
		field("aircraft type")
	case "GID":
		field("aircraft")
	case "CID":
		field("competition id")
	default:
		r.leave(text[:5])
	}
}

// angle reads DDMMmmm and its letter.
func angle(text string, width int, plus, minus byte) (float64, bool) {
	d, err1 := strconv.ParseUint(text[:width], 10, 16)
	m, err2 := strconv.ParseUint(text[width:width+5], 10, 32)
	if err1 != nil || err2 != nil || m >= 60000 {
		return 0, false
	}
	v := float64(d) + float64(m)/60000
	switch text[width+5] {
	case minus:
		return -v, true
	case plus:
		return v, true
	}
	return 0, false
}

func place(text string) (p nav.Point, ok bool) {
	if len(text) < 17 {
		return p, false
	}
	lat, ok1 := angle(text, 2, 'N', 'S')
	lon, ok2 := angle(text[8:], 3, 'E', 'W')
	if !ok1 || !ok2 || math.Abs(lat) > 90 || math.Abs(lon) > 180 {
		return p, false
	}
	p = nav.At(lat, lon)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	return p, true
}

// fix reads a B record: time, position, validity, the height by pressure and the one by satellite.
func (r *reader) fix(text string) {
	reject := func(why string) {
		x := nav.Reject{Kind: nav.Tracks, Number: len(r.seg.Points) + 1, Raw: text[:min(len(text), 60)], Why: why,
			Line: r.line}
		if n := len(r.seg.Points); n > 0 {
			x.Near, x.HasNear = r.seg.Points[n-1], true
		}
		r.d.Rejects = append(r.d.Rejects, x)
	}
	switch n := len(strings.TrimRight(text, " ")); {
	case len(text) < 35:
		reject("a B record has 35 characters at least")
		return
	case n > 35 && len(r.extensions) == 0:
		r.leave("B beyond the heights")
	}
	p, ok := place(text[7:24])
	if !ok {
		reject("it has no usable position")
		return
	}
	h, err1 := strconv.Atoi(text[1:3])
	m, err2 := strconv.Atoi(text[3:5])
	s, err3 := strconv.Atoi(text[5:7])
	switch seconds := h*3600 + m*60 + s; {
	case err1 != nil || err2 != nil || err3 != nil || h > 23 || m > 59 || s > 59:
		reject("it has no usable time")
		return
	case r.day.IsZero():
		if !r.noDate {
			r.d.Note(nav.ProblemTimes, "the file has no date, so its times were left out", r.line, 0)
			r.noDate = true
		}
	default:
		if r.last >= 0 && seconds < r.last-12*3600 { // past midnight
			r.day = r.day.AddDate(0, 0, 1)
		}
		r.last = seconds
		p.SetTime(r.day.Add(time.Duration(seconds)*time.Second).UnixNano(), instant.Seconds)
	}
	pressure, perr := strconv.Atoi(strings.TrimSpace(text[25:30]))
	satellite, serr := strconv.Atoi(strings.TrimSpace(text[30:35]))
	var d nav.Detail
	if text[24] == 'A' && serr == nil && !r.noSatellite { // V: no height by satellite
		r.bySatellite = r.bySatellite || satellite != 0
		p.SetHeight(float64(satellite), decimal.PrecisionOf(0), r.over)
	}
	if perr == nil && !r.noPressure && (p.HasHeight() || pressure != 0) {
		r.byPressure = r.byPressure || pressure != 0
		d.Values = []nav.Field{{Key: PressureHeight, Value: strconv.Itoa(pressure)}}
	}
	r.extend(&p, &d, text)
	d.Values = append(d.Values, r.events...)
	r.events = nil
	r.seg.Attach(&p, d)
	r.seg.Points = append(r.seg.Points, p)
}

// declaration reads the C records: the first says when and how many turn points, the others are its points, take-off
// and landing among them.
func (r *reader) declaration(text string) {
	if !r.declared {
		r.declared = true
		if n, err := strconv.Atoi(text[min(23, len(text)):min(25, len(text))]); err == nil { // after the number of the task
			r.turns = n
		}
		if len(text) > 25 {
			r.task.Name = strings.TrimSpace(text[25:])
		}
		if strings.Trim(text[1:min(len(text), 19)], "0 ") != "" {
			r.leave("the days of the declaration")
		}
		return
	}
	r.places++
	p, ok := place(text[1:])
	if !ok {
		r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: nav.Routes, Name: r.task.Name, Raw: text[:min(len(text), 60)],
			Why: "the task point has no usable position", Line: r.line})
		return
	}
	if p.Lat == 0 && p.Lon == 0 {
		return // take-off or landing that was not declared
	}
	r.task.Points = append(r.task.Points, nav.Waypoint{Item: nav.Item{Name: strings.TrimSpace(text[18:])}, Point: p})
}

func coordinates(p *nav.Point) string {
	one := func(v float64, width int, plus, minus string) string {
		letter := plus
		if v < 0 {
			letter = minus
		}
		n := int(math.Round(math.Abs(v) * 60000))
		return fmt.Sprintf("%0*d%05d%s", width, n/60000, n%60000, letter)
	}
	return one(p.Lat, 2, "N", "S") + one(p.Lon, 3, "E", "W")
}

// plain keeps the characters that the specification allows in a text.
func plain(s string, most int) string {
	s = headings.Plain(s)
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r > '}' || strings.ContainsRune("$*!\\^~", r) {
			return ' '
		}
		return r
	}, s)
	if len(s) > most {
		s = s[:most]
	}
	return strings.TrimSpace(s)
}

// write writes the first route as a task declaration. A recording can't be written: it would have to be signed by the
// recorder that made it.
func write(out io.Writer, d *nav.Dataset, _ *format.WriteOptions) (*format.Written, error) {
	var l nav.Ledger
	if len(d.Routes) == 0 || len(d.Routes[0].Points) < 2 {
		return nil, fmt.Errorf("a flight recorder file is written as a task declaration, which needs a route of two points " +
			"or more; recordings can't be written, since only the recorder can sign them")
	}
	r := &d.Routes[0]
	for i := range d.Routes[1:] {
		l.Lost(nav.Routes, d.Routes[i+1].Name, "route", "a file declares one task, the first route's",
			1).Advise(advice.ChooseOne)
	}
	l = append(l, nav.Entry{Kind: nav.Routes, KindWord: "route", Name: r.Name, What: "signature", New: "unsigned",
		Why: "only a recorder can sign a declaration; load this one into a recorder", Count: 1, Asked: true})
	day := "000000" // of the flight
	if t := r.Points[0].Time(); r.Points[0].HasTime() {
		day = t.Format("020106")
	}
	named := func(at holds.Place, name string, most int) string {
		out := plain(name, most)
		if out != name {
			l = append(l, holds.Renamed(at, name, out, fmt.Sprintf("a task declaration has lines of %d characters of ASCII",
				lineMost)))
		}
		return out
	}
	w := bufio.NewWriter(out)
	fmt.Fprintf(w, "AXXXGYR\r\nC000000000000%s0001%02d%s\r\n", day, max(len(r.Points)-2, 0)%100,
		named(holds.Route, r.Name, lineMost-25))
	fmt.Fprint(w, "C0000000N00000000ETAKEOFF\r\n")
	for i := range r.Points {
		fmt.Fprintf(w, "C%s%s\r\n", coordinates(&r.Points[i].Point), named(holds.RoutePoint, r.Points[i].Name, lineMost-18))
	}
	fmt.Fprint(w, "C0000000N00000000ELANDING\r\n")
	done := &format.Written{Ledger: l}
	done.Add(nav.Routes, len(r.Points))
	return done, w.Flush()
}
