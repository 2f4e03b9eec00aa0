package table

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"
	"unsafe"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy/crs"
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
	text, guessed := format.DecodeText(h.Raw)
	if guessed {
		text, _ = format.GuessCharset(h.Raw, knownTitles).NewDecoder().Bytes(h.Raw)
	}
	if len(h.Raw) >= 60<<10 { // the last row may be cut off
		text = text[:bytes.LastIndexByte(text, '\n')+1]
	}
	sep, body := separator(text)
	rows := head(body, sep)
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
	if f.recording {
		return true
	}
	return f.values && f.has("lat", "lon") && wide >= 5 && 10*wide >= 9*len(rows[f.header+1:]) || f.values &&
		f.header >= 0 && wide >= 3
}

// head reads the first rows of a text; none where nothing separates its cells.
func head(body []byte, sep byte) (rows [][]string) {
	if sep == 0 {
		return nil
	}
	s := newScanner(body, sep)
	for len(rows) < firstRows && s.scan() {
		cells := make([]string, len(s.cells))
		for i, c := range s.cells {
			cells[i] = strings.Clone(text(c))
		}
		rows = append(rows, cells)
	}
	return rows
}

// readCSV reads a table, block by block. A block stays in memory as long as the names and fields that are parts of it.
func readCSV(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	return restored(readBlocks(s, opt, blockBytes))
}

// readBlocks reads a table in blocks of about so many bytes.
func readBlocks(s *format.Source, opt *format.ReadOptions, bytesOfBlock int) (*nav.Dataset, error) {
	text, err := again(s, opt.Unpacked(), bytesOfBlock)
	if err != nil {
		return nil, err
	}
	d, err := readText(s, text, opt, opt.Charset)
	if errors.Is(err, errEncoding) && opt.Charset == nil {
		d, err = readText(s, text, opt, format.GuessCharset(s.Head, knownTitles))
	}
	if errors.Is(err, errBinary) {
		return nil, s.FaultOf(err)
	}
	return d, err
}

// knownTitles counts the most titles in one of the first lines that are known words.
func knownTitles(text string) (most int) {
	const lines = 20
	n := 0
	for line := range strings.Lines(text) {
		if n++; n > lines {
			break
		}
		known := 0
		for _, cell := range strings.FieldsFunc(line, func(r rune) bool { return strings.ContainsRune(",;\t|\r\n", r) }) {
			if _, ok := headings.Of(cell); ok {
				known++
			}
		}
		most = max(most, known)
	}
	return most
}

// readText reads a text that is UTF-8, or in an encoding that is known or was guessed.
func readText(s *format.Source, open func(*format.Charset) *blocks, opt *format.ReadOptions, as *format.Charset) (
	*nav.Dataset, error) {
	fresh := func() *nav.Dataset {
		d := &nav.Dataset{}
		if as != nil && as != opt.Charset {
			d.Tell(nav.ProblemEncoding, "is not UTF-8 and was read as "+as.Name).Advise(advice.NameEncoding)
		}
		return d
	}
	d, all := fresh(), open(as)
	first, sep := all.first()
	if all.err != nil {
		return nil, all.err
	}
	if err := first.check(); err != nil {
		return nil, err
	}
	rows := head(first.text, sep)
	if sep == 0 && len(opt.Columns) == 0 {
		if rows = oneColumn(first.text); len(rows) == 0 {
			return nil, s.Fault("is not a table: no comma, semicolon or tab separates its rows into columns")
		}
	}
	r, err := newReader(d, rows, opt, "")
	if err != nil {
		return nil, s.FaultOf(err)
	}
	if r.more = r.several(rows); !r.more {
		if err := r.blocks(all, first); err != nil {
			return nil, err
		}
		if all.err != nil {
			return nil, all.err
		}
		r.finish()
	}
	if r.more {
		d = fresh()
		if r, err = readTables(open(as), opt, d); err != nil {
			return nil, s.FaultOf(err)
		}
	}
	if r.open > 0 {
		return d, &format.Error{Path: s.Path, Line: r.open,
			Msg: "a quoted cell starts here and doesn't end: the file is cut off, or the quote is an error", Cut: true}
	}
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

// whereColumns are the columns of positions; -1 where there is none.
type whereColumns struct {
	lat, lon, position, east, north, zone, ns, ew int
	letters                                       letters
	sideOfO                                       string // E or W; O is undecided
	latAngles, lonAngles                          angles
	simple                                        bool   // latitude and longitude are one column each
	south                                         string // the first zone with an S that is of the south
}

// itemColumns are the columns of what is said of an item and its points; -1 where there is none.
type itemColumns struct {
	name, symbol, colour                                 int
	desc, comment, typ, group, kind, line, seg, id, item int
	height, depth, speed, course                         numbers
	over                                                 nav.VerticalDatum
	when                                                 []int // columns of the time, or of date and time
	tz, number                                           int   // of zones of times, and of numbers that order lines
	fieldAt                                              []int // columns of fields, in order
	fieldKeys                                            []string
	kept                                                 *nav.Titles // of properties
}

// gathered are the lines that rows belong to, and what the whole of the rows says.
type gathered struct {
	lined        bool // rows may belong to lines
	first        int  // of the dataset's waypoints, which of them are of this table
	lines        []line
	lineAt       map[key]int32 // their places
	last         int32         // that of the last row
	faulty       []fault       // for what the whole says of them
	bounds       bounds
	beyond       gridDoubt
	open         int  // the line of a quoted cell that does not end; 0 is none
	timed, named bool // some row has a time, a name
	regroups     int  // the line of the text where a row names another group than its line; 0 is none
	joined, room int  // lines of the text that are read, and points for which there is room
}

// datumColumn is how a column of datums is read.
type datumColumn struct {
	datum      int                    // the column; -1 is none
	systems    map[string]*crs.System // those that it names
	elsewhere  *crs.System            // a datum that is named, and that positions were not read in
	where, how string                 // it is named, and how one asks for it
}

// reader turns rows into waypoints, and these into lines at the end.
type reader struct {
	*found
	whereColumns
	itemColumns
	gathered
	datumColumn
	account     account
	d           *nav.Dataset
	opt         *format.ReadOptions
	moments     moments
	clocks      bool // times are times of day, of the day that is asked for
	sheet       string
	hidden      string    // what of the row that is read is hidden in its workbook
	alone       int       // the line of the text with the last row of one cell
	more        bool      // there are other tables as well: a heading of one stands among the rows
	shape       *geometry // of the row that is read, where it is more than a point
	shapeSystem *crs.System
	spare       chan []nav.Point // room that readers of blocks use again; nil is none
	fieldPool   []nav.Field
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
	opt, inTitle, err := f.inNamedSystem(rows, opt)
	if err != nil {
		return nil, err
	}
	if err := f.settle(rows, opt); err != nil {
		return nil, err
	}
	doubt := ""
	if len(opt.Columns) == 0 {
		doubt = f.hemispheres(rows)
	}
	r := &reader{found: f, d: d, opt: opt, sheet: sheet,
		gathered: gathered{first: len(d.Waypoints), lines: make([]line, 1), bounds: noBounds}}
	one := func(word string) int {
		if at := f.at[word]; len(at) > 0 {
			return at[0]
		}
		return -1
	}
	r.lat, r.lon, r.position, r.east, r.north, r.zone, r.ns, r.ew = one("lat"), one("lon"), one("position"),
		one("easting"), one("northing"), one("zone"), one("north south"), one("east west")
	if r.ew >= 0 {
		var cells []string
		for _, row := range rows[f.header+1:] {
			if r.ew < len(row) {
				cells = append(cells, row[r.ew])
			}
		}
		title := ""
		if r.ew < len(r.titles) { // a table without titles has none
			title = r.titles[r.ew]
		}
		r.letters = lettersOf(title, cells)
	}
	r.sideOfO = cmp.Or(opt.OMeans, headings.MeantByO(r.titles), "O")
	if r.letters.o == "" && r.sideOfO != "O" {
		r.letters.o = r.sideOfO
	}
	r.name, r.symbol, r.colour = one("name"), one("symbol"), one("colour")
	r.height, r.depth, r.speed, r.course = r.quantity("height", rows), r.quantity("depth", rows),
		r.quantity("speed", rows), r.quantity("course", rows)
	r.desc, r.comment, r.typ, r.group, r.kind, r.line, r.seg = one("description"), one("comment"), one("type"),
		one("group"), one("kind"), one("line"), one("segment")
	r.item, r.id, r.number = one("item"), one("item id"), one("number")
	r.latAngles, r.lonAngles = r.anglesOf("lat", r.ns, rows), r.anglesOf("lon", r.ew, rows)
	r.together(rows)
	r.simple = len(f.at["lat"]) == 1 && len(f.at["lon"]) == 1 && r.ns < 0 && r.ew < 0 && opt.System.WGS84() &&
		r.latAngles.plain() && r.lonAngles.plain()
	r.heightTitle()
	if r.kind >= 0 && !r.kinds(rows) { // another's column
		r.fields[r.kind] = r.bare(r.kind)
		delete(r.at, "kind")
		r.kind = -1
	}
	switch {
	case opt.LineBy != "":
		if err := r.nameLines(opt.LineBy); err != nil {
			return nil, err
		}
	case r.kind < 0:
		r.hintLines()
	}
	if r.kind < 0 && r.item >= 0 { // another's column
		r.fields[r.item] = strings.TrimSpace(r.titles[r.item])
		delete(r.at, "item")
		r.item = -1
	}
	r.lined = r.line >= 0 || r.item >= 0 || r.recording
	r.times(rows)
	for _, i := range slices.Sorted(mapKeys(f.fields)) {
		r.fieldAt = append(r.fieldAt, i)
		r.fieldKeys = append(r.fieldKeys, f.fields[i])
	}
	r.kept = f.ownTitles(opt.Zone != nil || r.tz >= 0 || r.moments.zone != nil && r.moments.zone != time.UTC)
	if err := r.datums(rows, opt); err != nil {
		return nil, err
	}
	d.Tell(nav.ProblemColumns, f.say(sheet)+r.sayAngles()+r.sayMeasures()+r.sayEnds()+inTitle)
	r.account.begin(d, rows, f.header)
	if doubt != "" {
		r.doubt(f.header+2, "%s", doubt)
	}
	return r, nil
}

// kinds says whether the column of kinds has some.
func (r *reader) kinds(rows [][]string) bool {
	return slices.ContainsFunc(rows[r.header+1:], func(cells []string) bool {
		if r.kind >= len(cells) {
			return false
		}
		_, ok := nav.ParseKind(cells[r.kind])
		return ok
	})
}

// heightTitle takes from the title of the heights above what they are.
func (r *reader) heightTitle() {
	if r.height.column < 0 || r.height.column >= len(r.titles) {
		return
	}
	title := headings.Folded(r.titles[r.height.column])
	switch {
	case r.height.measure.Name == headings.FlightLevels:
		r.over = nav.PressureLevel
	case strings.Contains(" "+title+" ", " agl ") || strings.Contains(title, "above ground"):
		r.over = nav.AboveGround
	case strings.Contains(title, "ellips"):
		r.over = nav.AboveEllipsoid
	case strings.Contains(title, "msl") || strings.Contains(title, "sea") || strings.Contains(title, "nhn") ||
		strings.Contains(title, "u m"):
		r.over = nav.MeanSeaLevel
	}
}

// nameLines settles the column that names lines, by its title or number. What it held before it holds no more.
func (r *reader) nameLines(by string) error {
	i := slices.IndexFunc(r.titles, func(t string) bool {
		return strings.TrimSpace(t) == by || headings.Folded(t) == headings.Folded(by)
	})
	if n, err := strconv.Atoi(by); i < 0 && err == nil && n > 0 {
		i = n - 1
	}
	if i < 0 {
		var names []string
		for j := range r.titles {
			names = append(names, r.title(j))
		}
		return fmt.Errorf("there is no column %q to name lines by; there are %s",
			by, strings.Join(names, ", "))
	}
	for _, word := range []string{"lat", "lon", "position", "easting", "northing", "zone"} {
		if slices.Contains(r.at[word], i) {
			return fmt.Errorf("lines can't be named by the column %s, which is the %s", r.title(i), word)
		}
	}
	r.line = i
	delete(r.fields, i)
	if r.group == i || r.name == i {
		if r.name == i {
			r.name = -1
			delete(r.at, "name")
		}
		if r.group == i {
			r.group = -1
			delete(r.at, "group")
		}
	}
	r.at["line"] = []int{i}
	return nil
}

// hintLines says which column may name lines, where nobody asked for any.
func (r *reader) hintLines() {
	if r.line >= 0 { // another's column, which may mean anything
		r.fields[r.line] = strings.TrimSpace(r.titles[r.line])
		delete(r.at, "line")
		r.line = -1
	}
	for i, t := range r.titles {
		if slices.Contains(headings.OfLines, headings.Folded(t)) && r.fields[i] != "" {
			r.d.Tell(nav.ProblemLines, fmt.Sprintf("the column %s may name lines", r.title(i))).
				AdviseAbout(advice.NameLines, quoted(strings.TrimSpace(t)))
			break
		}
	}
}

// quoted puts a name in quotes where a shell needs them.
func quoted(name string) string {
	if strings.ContainsAny(name, " ;&|()<>$*?'\"") {
		return "'" + name + "'"
	}
	return name
}

// text is a cell as a string, which shares the memory of the table's text: that is never written again.
func text(cell []byte) string {
	if len(cell) > 1 && cell[0] == '\'' && format.LikeFormula(unsafe.String(unsafe.SliceData(cell), len(cell))) {
		cell = cell[1:] // as cells are kept from being formulas
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
	if len(cells) > len(r.titles) && r.simple && r.header >= 0 {
		if why := r.partedDecimals(cells); why != "" {
			d.Rejects = append(d.Rejects, nav.Reject{Kind: nav.Waypoints, Name: text(at(cells, r.name)),
				Raw: string(bytes.Join(cells, []byte(","))), Why: why, Line: line})
			return
		}
	}
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
				x := nav.Reject{Kind: nav.Waypoints, Name: text(at(cells, r.name)), Raw: raw, Why: why, Line: line}
				if why == undecidedO {
					x.Advice = advice.Advice{Code: advice.SayO}
				}
				d.Rejects = append(d.Rejects, x)
			}
			return
		}
	}
	if r.name >= 0 {
		w.Name = text(at(cells, r.name))
	}
	if r.height.column >= 0 {
		r.setHeight(w, cells, line)
	}
	if len(r.when) > 0 || len(r.parts) > 0 {
		r.setTime(w, cells, line)
	}
	if r.desc >= 0 {
		w.Desc = text(at(cells, r.desc))
	}
	if r.id >= 0 {
		w.ID = text(at(cells, r.id))
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
				r.d.Note(nav.ProblemStyles, fmt.Sprintf("the colour %q is not known, and was kept as a field", clip(cell)), line, 0)
			}
		}
	}
	r.setQuantity(w, &r.depth, "depth", cells, line)
	r.setQuantity(w, &r.speed, "speed", cells, line)
	r.setQuantity(w, &r.course, "course", cells, line)
	w.Titles = r.kept
	r.setFields(w, cells)
	r.account.take(w, line, r.shape == nil)
	switch {
	case r.shape != nil:
		r.shaped(w, cells, line)
	case len(r.ends) > 0:
		r.toEnd(w, cells, line)
	default:
		r.take(w, cells, line)
	}
}

// finish looks at the whole and makes lines of the rows that belong to some.
func (r *reader) finish() {
	r.overMidnight()
	r.account.close(r.d)
	if r.south != "" {
		r.d.Tell(nav.ProblemZones,
			fmt.Sprintf("%s in the column %s means the southern half: as latitude band S its northings would be impossible",
				r.south, r.title(r.zone)))
	}
	r.doubts()
	if r.lined {
		r.makeLines()
	}
}
