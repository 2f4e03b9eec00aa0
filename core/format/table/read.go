package table

import (
	"bytes"
	"fmt"
	"io"
	"iter"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"unsafe"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

func mapKeys[V any](m map[int]V) iter.Seq[int] { return maps.Keys(m) }

// firstRows is how many rows are looked at to find out what a table holds.
const firstRows = 400

// sniffCSV takes a text for a table where a header with words for coordinates stands, or where three columns at least
// and among them those of positions keep on through five rows.
func sniffCSV(h *format.Head) bool {
	if bytes.IndexByte(h.Text, 0) >= 0 || len(h.Text) == 0 || h.Text[0] == '<' || h.Text[0] == '{' {
		return false
	}
	text, _ := format.DecodeText(h.Raw)
	if len(h.Raw) >= 60<<10 { // the last row may be cut off
		text = text[:bytes.LastIndexByte(text, '\n')+1]
	}
	rows, _ := head(text)
	if len(rows) < 2 {
		return false
	}
	f, err := find(rows, &format.ReadOptions{})
	if err != nil {
		return false
	}
	wide := 0
	for _, cells := range rows[f.header+1:] {
		if len(cells) >= 3 {
			wide++
		}
	}
	if f.sure {
		return true
	}
	return f.values && f.has("lat", "lon") && wide >= 5 && 10*wide >= 9*len(rows[f.header+1:]) || f.values && f.header >= 0 && wide >= 3
}

// head reads the first rows of a text.
func head(text []byte) (rows [][]string, sep byte) {
	sep, body := separator(text)
	if sep == 0 {
		return nil, 0
	}
	s := newScanner(body, sep)
	for len(rows) < firstRows && s.scan() {
		cells := make([]string, len(s.cells))
		for i, c := range s.cells {
			cells[i] = string(c)
		}
		rows = append(rows, cells)
	}
	return rows, sep
}

// readCSV reads a table. The text stays in memory as long as the names and fields that are parts of it.
func readCSV(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	limit := opt.Unpacked()
	var whole bytes.Buffer
	if s.Size > 0 && s.Size <= limit {
		whole.Grow(int(s.Size) + bytes.MinRead)
	}
	if _, err := io.Copy(&whole, io.LimitReader(s.Reader(), limit+1)); err != nil {
		return nil, err
	}
	if int64(whole.Len()) > limit {
		return nil, s.Fault("is larger than --max-unpacked allows")
	}
	text, guessed := format.DecodeText(whole.Bytes())
	if bytes.IndexByte(text, 0) >= 0 {
		return nil, s.Fault("is a binary file, not a table of text")
	}
	rows, sep := head(text)
	if sep == 0 && len(opt.Columns) == 0 {
		if rows = oneColumn(text); len(rows) == 0 {
			return nil, s.Fault("is no table: no comma, semicolon or tab parts its rows into columns")
		}
		sep = '\t'
	}
	d := &nav.Dataset{}
	if guessed {
		d.Tell("encoding", "is not UTF-8; its letters were read as Windows-1252")
	}
	r, err := newReader(d, rows, opt, "")
	if err != nil {
		return nil, s.Fault(err.Error())
	}
	_, body := separator(text)
	in := newScanner(body, sep)
	if len(body) < len(text) {
		in.next = 2
	}
	if !r.side(in) {
		r.expect(len(text), rows)
		for row := 0; in.scan(); row++ {
			if row > r.header {
				r.row(in.cells, in.line)
			}
		}
	}
	if in.open > 0 {
		return d, &format.Error{Path: s.Path, Line: in.open, Msg: "a cell begins with a quote here and does not end: the file is cut off, or the quote is not meant", Cut: true}
	}
	r.finish(s.Path)
	return d, nil
}

// oneColumn is a list of one column, which has a header and then positions.
func oneColumn(text []byte) (rows [][]string) {
	s := newScanner(text, '\t')
	for len(rows) < firstRows && s.scan() {
		rows = append(rows, []string{string(s.cells[0])})
	}
	f, _ := find(rows, &format.ReadOptions{})
	if f == nil || !f.has("position") {
		return nil
	}
	return rows
}

// reader turns rows into waypoints, and these into lines at the end.
type reader struct {
	*found
	d       *nav.Dataset
	opt     *format.ReadOptions
	moments moments
	sheet   string

	lat, lon, position, east, north, zone, ns, ew int // columns; -1 where there is none
	name, height, depth, symbol, colour           int
	desc, comment, typ, group, kind, line, seg    int
	speed, course                                 int
	when                                          []int   // columns of the time, or of date and time
	height1                                       float64 // metres of the measure of heights
	over                                          nav.HeightOver
	fieldAt                                       []int // columns of fields, in order
	fieldKeys                                     []string
	simple                                        bool // latitude and longitude are one column each

	first  int     // of the dataset's waypoints, which of them are of this table
	lines  []int32 // where each of them stands
	keys   []key   // to which line each belongs, where any does
	faulty []fault // for what the whole says of them
	bounds bounds
	ledge  []nav.Field
}

// key is the line that a row belongs to.
type key struct {
	kind          nav.Kind
	line, segment string
}

// fault is a row whose coordinates are numbers that can't be used.
type fault struct {
	line     int
	lat, lon float64
}

func newReader(d *nav.Dataset, rows [][]string, opt *format.ReadOptions, sheet string) (*reader, error) {
	f, err := find(rows, opt)
	if err != nil {
		return nil, err
	}
	if err := f.settle(rows, opt); err != nil {
		return nil, err
	}
	r := &reader{found: f, d: d, opt: opt, sheet: sheet, height1: 1, first: len(d.Waypoints), bounds: noBounds}
	one := func(word string) int {
		if at := f.at[word]; len(at) > 0 {
			return at[0]
		}
		return -1
	}
	r.lat, r.lon, r.position, r.east, r.north, r.zone, r.ns, r.ew = one("lat"), one("lon"), one("position"), one("easting"), one("northing"), one("zone"), one("north south"), one("east west")
	r.name, r.height, r.depth, r.symbol, r.colour = one("name"), one("height"), one("depth"), one("symbol"), one("colour")
	r.desc, r.comment, r.typ, r.group, r.kind, r.line, r.seg = one("description"), one("comment"), one("type"), one("group"), one("kind"), one("line"), one("segment")
	r.speed, r.course = one("speed"), one("course")
	r.simple = len(f.at["lat"]) == 1 && len(f.at["lon"]) == 1 && r.ns < 0 && r.ew < 0 && (opt.System.WGS84())
	if r.height >= 0 && r.height < len(f.titles) {
		title := format.Folded(f.titles[r.height])
		r.height1 = format.UnitOf(f.titles[r.height])
		switch {
		case strings.Contains(title, "ellips"):
			r.over = nav.OverEllipsoid
		case strings.Contains(title, "msl") || strings.Contains(title, "sea") || strings.Contains(title, "nhn") || strings.Contains(title, "u m"):
			r.over = nav.OverSea
		}
	}
	if opt.LineBy != "" {
		i := slices.IndexFunc(f.titles, func(t string) bool {
			return strings.TrimSpace(t) == opt.LineBy || format.Folded(t) == format.Folded(opt.LineBy)
		})
		if n, err := strconv.Atoi(opt.LineBy); i < 0 && err == nil && n > 0 {
			i = n - 1
		}
		if i < 0 {
			var names []string
			for j := range f.titles {
				names = append(names, f.title(j))
			}
			return nil, fmt.Errorf("--line-by names %q, and there is no such column; there are %s", opt.LineBy, strings.Join(names, ", "))
		}
		r.line = i
		delete(f.fields, i)
		if r.group == i || r.name == i {
			if r.name == i {
				r.name = -1
				delete(f.at, "name")
			}
			if r.group == i {
				r.group = -1
				delete(f.at, "group")
			}
		}
		f.at["line"] = []int{i}
	} else if r.kind < 0 {
		if r.line >= 0 { // another's column, which may mean anything
			f.fields[r.line] = strings.TrimSpace(f.titles[r.line])
			delete(f.at, "line")
			r.line = -1
		}
		for i, t := range f.titles {
			if slices.Contains(format.LineHeads, format.Folded(t)) && f.fields[i] != "" {
				d.Tell("lines", fmt.Sprintf("the column %s may name lines; --line-by %s makes routes or tracks of them", f.title(i), quoted(strings.TrimSpace(t))))
				break
			}
		}
	}
	for _, i := range slices.Sorted(mapKeys(f.fields)) {
		r.fieldAt = append(r.fieldAt, i)
		r.fieldKeys = append(r.fieldKeys, f.fields[i])
	}
	r.moments.zone = opt.Zone
	r.when = f.at["time"]
	if at := r.when; len(at) > 0 {
		for _, cells := range rows[f.header+1:] {
			if at[0] < len(cells) {
				r.moments.observe(cells[at[0]])
			}
		}
	}
	d.Tell("columns", f.say(sheet))
	return r, nil
}

// quoted puts a name in quotes where a shell needs them.
func quoted(name string) string {
	if strings.ContainsAny(name, " ;&|()<>$*?'\"") {
		return "'" + name + "'"
	}
	return name
}

// expect makes room for as many rows as the size of the text and its first rows foretell.
func (r *reader) expect(size int, rows [][]string) {
	bytes := 0
	for _, cells := range rows {
		for _, c := range cells {
			bytes += len(c) + 1
		}
	}
	if len(rows) < firstRows || bytes == 0 {
		return
	}
	n := int(float64(size) / float64(bytes) * float64(len(rows)) * 1.02)
	r.d.Waypoints = slices.Grow(r.d.Waypoints, n)
	r.lines = make([]int32, 0, n)
}

// text is a cell as a string, which shares the memory of the table's text: that is never written again.
func text(cell []byte) string {
	cell = bytes.TrimSpace(cell)
	if len(cell) > 1 && cell[0] == '\'' && strings.IndexByte("=+-@", cell[1]) >= 0 { // as cells are kept from being formulas
		cell = cell[1:]
	}
	return unsafe.String(unsafe.SliceData(cell), len(cell))
}

func at(cells [][]byte, i int) []byte {
	if i < 0 || i >= len(cells) {
		return nil
	}
	return cells[i]
}

// row takes one row.
func (r *reader) row(cells [][]byte, line int) {
	d := r.d
	if n := len(d.Waypoints); n < cap(d.Waypoints) { // room that is zero already need not be cleared again
		d.Waypoints = d.Waypoints[:n+1]
	} else {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{})
	}
	w := &d.Waypoints[len(d.Waypoints)-1]
	if !r.place(w, cells) {
		if raw, why, used := r.placeSlowly(w, cells, line); why != "" || !used {
			*w = nav.Waypoint{}
			d.Waypoints = d.Waypoints[:len(d.Waypoints)-1]
			if why != "" {
				d.Rejects = append(d.Rejects, nav.Reject{Kind: nav.Waypoints, Name: text(at(cells, r.name)), Raw: raw, Why: why, Line: line})
			}
			return
		}
	}
	r.lines = append(r.lines, int32(line))
	r.bounds.add(&w.Point)
	if r.name >= 0 {
		w.Name = text(at(cells, r.name))
	}
	if r.height >= 0 {
		r.setHeight(w, at(cells, r.height), line)
	}
	if len(r.when) > 0 {
		r.setTime(w, cells, r.when, line)
	}
	if r.desc >= 0 {
		w.Desc = text(at(cells, r.desc))
	}
	if r.comment >= 0 {
		w.Comment = text(at(cells, r.comment))
	}
	if r.typ >= 0 {
		w.Type = text(at(cells, r.typ))
	}
	if r.group >= 0 {
		w.Group = text(at(cells, r.group))
	}
	if r.symbol >= 0 {
		w.Style.Symbol = text(at(cells, r.symbol))
	}
	if r.colour >= 0 {
		if cell := text(at(cells, r.colour)); cell != "" {
			if c, ok := nav.ParseColour(cell); ok {
				w.Style.Colour = c
			} else {
				w.Fields = append(w.Fields, nav.Field{Key: r.titles[r.colour], Value: cell})
			}
		}
	}
	if r.line >= 0 {
		r.setLine(cells)
	}
	r.setFields(w, cells)
}

// place reads the usual case, a plain number in each of two columns.
func (r *reader) place(w *nav.Waypoint, cells [][]byte) bool {
	if !r.simple || r.lat >= len(cells) || r.lon >= len(cells) {
		return false
	}
	lat, lon := cells[r.lat], cells[r.lon]
	var n, m int
	w.Lat, w.LatDigits, n = nav.DecimalPrefix(lat)
	w.Lon, w.LonDigits, m = nav.DecimalPrefix(lon)
	return n == len(lat) && m == len(lon) && n > 0 && m > 0 && math.Abs(w.Lat) <= 90 && math.Abs(w.Lon) < 180
}

// number reads a number that may have a decimal comma, and blanks, apostrophes or full stops between its thousands.
func number(cell string) (float64, nav.Digits, bool) {
	if v, d, ok := nav.ParseDecimal([]byte(cell)); ok {
		return v, d, true
	}
	s := strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "\u2009", "", "'", "", "’", "", "−", "-").Replace(cell)
	dot, comma := strings.LastIndexByte(s, '.'), strings.LastIndexByte(s, ',')
	switch {
	case comma > dot && strings.Count(s, ",") == 1:
		s = strings.ReplaceAll(s, ".", "")
		s = strings.Replace(s, ",", ".", 1)
	case comma >= 0 && comma < dot:
		s = strings.ReplaceAll(s, ",", "")
	case strings.Count(s, ".") > 1 && comma < 0: // 5.273.456
		s = strings.ReplaceAll(s, ".", "")
	}
	return nav.ParseDecimal([]byte(s))
}

// degrees reads a plain number that may have a decimal comma.
func degrees(cell string) (float64, nav.Digits, bool) {
	return nav.ParseDecimal([]byte(strings.Replace(strings.ReplaceAll(cell, "−", "-"), ",", ".", 1)))
}

// placeSlowly reads a position in any other form. Why is the reason for which the row can't be used; it is not used, without
// a reason, where it is blank or repeats the header.
func (r *reader) placeSlowly(w *nav.Waypoint, cells [][]byte, line int) (raw, why string, used bool) {
	if !slices.ContainsFunc(cells, func(c []byte) bool { return len(bytes.TrimSpace(c)) > 0 }) {
		return "", "", false
	}
	join := func(columns []int) string {
		var parts []string
		for _, i := range columns {
			if c := text(at(cells, i)); c != "" {
				parts = append(parts, c)
			}
		}
		return strings.Join(parts, " ")
	}
	var a, b string
	switch {
	case r.east >= 0:
		a, b = text(at(cells, r.east)), text(at(cells, r.north))
	case r.position >= 0:
		a = text(at(cells, r.position))
	default:
		a, b = join(r.found.at["lat"]), join(r.found.at["lon"])
	}
	if r.repeated(cells) {
		return "", "", false
	}
	raw = strings.TrimSpace(a + " " + b)
	if raw == "" {
		var rest []string
		for _, c := range cells {
			if t := text(c); t != "" {
				rest = append(rest, t)
			}
		}
		return "", fmt.Sprintf("the row has no coordinates (%s)", clip(strings.Join(rest, ", "))), false
	}
	switch {
	case r.east >= 0:
		why = r.placeGrid(w, a, b, text(at(cells, r.zone)))
	case r.position >= 0:
		lat, lon, err := geodesy.ParsePosition(strings.TrimSuffix(strings.TrimPrefix(a, "("), ")"))
		if err != nil {
			return raw, sentence(err), true
		}
		w.Point = nav.At(lat, lon)
		w.LatDigits, w.LonDigits = digitsOf(a)
	default:
		why = r.placeAngles(w, a, b, text(at(cells, r.ns)), text(at(cells, r.ew)), line)
	}
	return raw, why, true
}

func sentence(err error) string {
	text := err.Error()
	if err == geodesy.ErrNoPosition {
		text, _, _ = strings.Cut(text, ":")
	}
	return text
}

func clip(s string) string {
	if r := []rune(s); len(r) > 48 {
		return string(r[:47]) + "…"
	}
	return s
}

// repeated says whether a row is the header again.
func (r *reader) repeated(cells [][]byte) bool {
	if r.header < 0 {
		return false
	}
	same := 0
	for i, t := range r.titles {
		if c := text(at(cells, i)); c != "" && c == strings.TrimSpace(t) {
			same++
		} else if c != "" {
			return false
		}
	}
	return same > 1
}

// digitsOf keeps the decimals of two plain numbers in one cell; otherwise the position is computed.
func digitsOf(cell string) (lat, lon nav.Digits) {
	f := strings.FieldsFunc(cell, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' })
	if len(f) != 2 {
		return
	}
	_, lat, ok1 := nav.ParseDecimal([]byte(f[0]))
	_, lon, ok2 := nav.ParseDecimal([]byte(f[1]))
	if !ok1 || !ok2 {
		return 0, 0
	}
	return
}

// placeGrid reads an easting and a northing of the system, or of a zone of UTM.
func (r *reader) placeGrid(w *nav.Waypoint, a, b, zone string) string {
	e, _, ok1 := number(a)
	n, _, ok2 := number(b)
	switch {
	case !ok1:
		return fmt.Sprintf("easting %q is not a number", clip(a))
	case !ok2:
		return fmt.Sprintf("northing %q is not a number", clip(b))
	}
	s := r.opt.System
	if s == nil || !s.Projected() {
		if zone == "" {
			return "has no UTM zone"
		}
		lat, lon, err := geodesy.ParsePosition(fmt.Sprintf("%s %s %s", zone, strconv.FormatFloat(e, 'f', -1, 64), strconv.FormatFloat(n, 'f', -1, 64)))
		if err != nil {
			return sentence(err)
		}
		w.Point = nav.At(lat, lon)
		return ""
	}
	if s.Southing() { // its definition counts to the west and south
		e, n = -e, -n
	}
	lat, lon, ok := s.Inverse(e, n)
	if !ok {
		return fmt.Sprintf("is beyond the reach of %v", s)
	}
	if lat == 0 && lon == 0 || e == 0 && n == 0 {
		return "easting and northing are both zero"
	}
	w.Point = nav.At(lat, lon)
	return ""
}

// placeAngles reads latitude and longitude from two texts, with the letters of the hemispheres in columns of their own or not.
func (r *reader) placeAngles(w *nav.Waypoint, a, b, ns, ew string, line int) string {
	lat, latDigits, ok1 := degrees(a)
	lon, lonDigits, ok2 := degrees(b)
	switch {
	case a == "":
		return "has no latitude"
	case b == "":
		return "has no longitude"
	}
	if ok1 && ok2 {
		if sign := hemisphere(ns, "S"); sign != 0 {
			lat = sign * math.Abs(lat)
		}
		if sign := hemisphere(ew, "W"); sign != 0 {
			lon = sign * math.Abs(lon)
		}
		switch {
		case math.Abs(lat) > 90:
			r.faulty = append(r.faulty, fault{line, lat, lon})
			return fmt.Sprintf("latitude %s is beyond 90 degrees", clip(a))
		case math.Abs(lon) > 180:
			r.faulty = append(r.faulty, fault{line, lat, lon})
			return fmt.Sprintf("longitude %s is beyond 180 degrees", clip(b))
		}
	} else {
		var err error
		if lat, lon, err = geodesy.ParsePosition(withLetter(a, ns) + " " + withLetter(b, ew)); err != nil {
			// A comma between the two is surer than a blank where each has parts.
			lat, lon, err = geodesy.ParsePosition(strings.ReplaceAll(withLetter(a, ns), ",", ".") + ", " + strings.ReplaceAll(withLetter(b, ew), ",", "."))
		}
		if err != nil {
			switch {
			case ok1 && err == geodesy.ErrNoPosition:
				return fmt.Sprintf("longitude %q is not a number", clip(b))
			case ok2 && err == geodesy.ErrNoPosition:
				return fmt.Sprintf("latitude %q is not a number", clip(a))
			}
			return sentence(err)
		}
		latDigits, lonDigits = 0, 0
	}
	if s := r.opt.System; !s.WGS84() {
		var ok bool
		if lat, lon, ok = s.Inverse(lon/s.Measure, lat/s.Measure); !ok {
			return fmt.Sprintf("is beyond the reach of %v", s)
		}
		latDigits, lonDigits = 0, 0
	}
	w.Point = nav.At(lat, lon)
	w.LatDigits, w.LonDigits = latDigits, lonDigits
	return ""
}

// hemisphere gives the sign that a letter stands for: -1 for the one named, 0 where there is none.
func hemisphere(letter, negative string) float64 {
	letter = strings.ToUpper(strings.TrimSpace(letter))
	switch {
	case letter == "":
		return 0
	case strings.HasPrefix(letter, negative):
		return -1
	}
	return 1
}

func withLetter(angle, letter string) string {
	if letter == "" {
		return angle
	}
	return angle + " " + strings.ToUpper(letter[:1])
}

func (r *reader) setHeight(w *nav.Waypoint, cell []byte, line int) {
	cell = bytes.TrimSpace(cell)
	if len(cell) == 0 {
		return
	}
	v, digits, n := nav.DecimalPrefix(cell)
	if n != len(cell) || n == 0 {
		var ok bool
		t := text(cell)
		factor := 1.0
		for suffix, f := range map[string]float64{"m": 1, "ft": 0.3048} {
			if rest, has := strings.CutSuffix(strings.ToLower(t), suffix); has {
				if _, _, isNumber := number(strings.TrimSpace(rest)); isNumber {
					t, factor = strings.TrimSpace(rest), f
				}
			}
		}
		if v, digits, ok = number(t); !ok {
			w.Fields = append(w.Fields, nav.Field{Key: strings.TrimSpace(r.titles[r.height]), Value: t})
			r.d.Note("heights", "a height is not a number and was kept as a field", line, 0)
			return
		}
		if factor != 1 {
			w.SetHeight(v*factor, 0, r.over)
			return
		}
	}
	if r.height1 != 1 {
		w.SetHeight(v*r.height1, 0, r.over)
		return
	}
	w.SetHeight(v, digits, r.over)
}

func (r *reader) setTime(w *nav.Waypoint, cells [][]byte, columns []int, line int) {
	cell := bytes.TrimSpace(at(cells, columns[0]))
	if len(columns) == 1 {
		if ns, mark, ok := r.moments.clock.Parse(cell); ok {
			w.SetTime(ns, mark)
			return
		}
	}
	if len(cell) == 0 {
		return
	}
	t := text(cell)
	if len(columns) > 1 {
		if clock := text(at(cells, columns[1])); clock != "" {
			if r.moments.serial && serialDate.MatchString(t) && strings.HasPrefix(clock, "0.") {
				t += clock[1:]
			} else {
				t += " " + clock
			}
		}
	}
	ns, mark, zoned, ok, ambiguous := r.moments.parse(t)
	switch {
	case ok:
		if !zoned && r.opt.Zone == nil && mark >= nav.Seconds {
			r.d.Note("times", "a time names no zone and was taken as UTC; --clock says otherwise", line, 0)
		}
		w.SetTime(ns, mark)
		return
	case ambiguous:
		r.d.Note("times", "a date can be read as day and month or as month and day, and was kept as a field: write it as 2026-03-14", line, 0)
	default:
		r.d.Note("times", "a time can't be read and was kept as a field", line, 0)
	}
	key := "time"
	if columns[0] < len(r.titles) {
		key = strings.TrimSpace(r.titles[columns[0]])
	}
	w.Fields = append(w.Fields, nav.Field{Key: key, Value: t})
}

func (r *reader) setLine(cells [][]byte) {
	k := key{kind: nav.Waypoints, line: text(at(cells, r.line)), segment: text(at(cells, r.seg))}
	if r.kind >= 0 {
		k.kind, _ = nav.ParseKind(text(at(cells, r.kind)))
	} else if k.line != "" {
		k.kind = nav.Routes // or tracks, which finish decides
	}
	for len(r.keys) < len(r.lines)-1 {
		r.keys = append(r.keys, key{})
	}
	r.keys = append(r.keys, k)
}

// setFields gathers the other columns. Their room is taken by the thousand, but for rows that have some already.
func (r *reader) setFields(w *nav.Waypoint, cells [][]byte) {
	extra := func(column int, key string) {
		if c := text(at(cells, column)); c != "" {
			w.Fields = append(w.Fields, nav.Field{Key: key, Value: c, Literal: numeric(c)})
		}
	}
	extra(r.depth, "depth")
	extra(r.speed, "speed")
	extra(r.course, "course")
	if len(r.fieldAt) == 0 {
		return
	}
	if cap(r.ledge)-len(r.ledge) < len(w.Fields)+len(r.fieldAt) {
		r.ledge = make([]nav.Field, 0, 1024*(3+len(r.fieldAt)))
	}
	from := len(r.ledge)
	r.ledge = append(r.ledge, w.Fields...)
	for i, column := range r.fieldAt {
		if c := text(at(cells, column)); c != "" {
			r.ledge = append(r.ledge, nav.Field{Key: r.fieldKeys[i], Value: c})
		}
	}
	if to := len(r.ledge); to > from {
		w.Fields = r.ledge[from:to:to]
	}
}

// finish looks at the whole and makes lines of the rows that belong to some.
func (r *reader) finish(path string) {
	r.doubts()
	if len(r.keys) > 0 {
		r.makeLines(path)
	}
}

// makeLines turns the waypoints of this table that belong to lines into routes, tracks and areas.
func (r *reader) makeLines(path string) {
	d := r.d
	all := d.Waypoints[r.first:]
	kind := nav.Routes // where no column says it
	if r.kind < 0 {
		timed, named := 0, 0
		for i := range all {
			if all[i].HasTime() {
				timed++
			}
			if all[i].Name != "" {
				named++
			}
		}
		if timed > 0 || named == 0 {
			kind = nav.Tracks
		}
	}
	var rest []nav.Waypoint
	index := map[key]int{} // into routes, tracks or areas
	segments := map[key]int{}
	for i := range all {
		w, k := all[i], key{}
		if i < len(r.keys) {
			k = r.keys[i]
		}
		if k.kind != nav.Waypoints && r.kind < 0 {
			k.kind = kind
		}
		if k.kind == nav.Waypoints || r.kind < 0 && k.line == "" {
			rest = append(rest, w)
			continue
		}
		whole := key{kind: k.kind, line: k.line}
		at, ok := index[whole]
		group := w.Group
		w.Group = ""
		if !ok {
			item := nav.Item{Name: k.line, Group: group}
			switch k.kind {
			case nav.Routes:
				at = len(d.Routes)
				d.Routes = append(d.Routes, nav.Route{Item: item})
			case nav.Tracks:
				at = len(d.Tracks)
				d.Tracks = append(d.Tracks, nav.Track{Item: item})
			case nav.Areas:
				at = len(d.Areas)
				d.Areas = append(d.Areas, nav.Area{Item: item})
			}
			index[whole] = at
		}
		part, ok := segments[k]
		switch k.kind {
		case nav.Routes:
			d.Routes[at].Points = append(d.Routes[at].Points, w)
		case nav.Tracks:
			t := &d.Tracks[at]
			if !ok {
				part = len(t.Segments)
				t.Segments = append(t.Segments, nav.Segment{})
				segments[k] = part
			}
			addPoint(&t.Segments[part], &w)
		case nav.Areas:
			a := &d.Areas[at]
			if !ok {
				if len(a.Outline) > 0 {
					a.Holes = append(a.Holes, nil)
					part = len(a.Holes)
				}
				segments[k] = part
			}
			if part == 0 {
				a.Outline = append(a.Outline, w.Point)
			} else {
				a.Holes[part-1] = append(a.Holes[part-1], w.Point)
			}
		}
	}
	if r.kind < 0 {
		d.Tell("lines", fmt.Sprintf("the rows of each %s make a %s", r.title(r.line), kind.One()))
	}
	d.Waypoints = append(d.Waypoints[:r.first], rest...)
}

// addPoint adds a row to a track, with what it has besides a position.
func addPoint(s *nav.Segment, w *nav.Waypoint) {
	s.Points = append(s.Points, w.Point)
	detail := nav.Detail{Values: w.Fields}
	item := w.Item
	item.Fields = nil
	if item.Name != "" || item.Desc != "" || item.Comment != "" || item.Type != "" || item.Style != (nav.Style{}) {
		detail.Item = &item
	}
	if !detail.Empty() {
		s.Attach(&s.Points[len(s.Points)-1], detail)
	}
}
