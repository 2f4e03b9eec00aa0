package talker

import (
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A log of a receiver is what it said sentence by sentence (IEC 61162-1): those of one time make one point.

// The values of points of a log beside those of GPX.
const (
	valueDepthTransducer = "depth-below-transducer"
	valueDepthKeel       = "depth-below-keel"
	valueHeading         = "heading"
	valueMagnetic        = "heading-magnetic"
)

const knot = 1852.0 / 3600 // m/s

// secondsInDay is the length of a day.
const secondsInDay = 86400

// A log goes on in a new segment behind a gap of so many seconds, if that is several times the pace of its fixes.
const (
	leastGap = 30
	gapPaces = 10
)

// epoch is what the sentences of one time say.
type epoch struct {
	nav.Point
	values  []nav.Field
	at      float64 // seconds of the day; NaN where no sentence says it
	day     int     // midnights that its times went past since the log began
	dated   bool    // a sentence of it says its date
	date    int64   // days since 1970; by itself, or by those beside it
	has     bool    // a position
	unreal  string  // the word for a fix that no receiver took
	gone    bool    // the receiver says that it has none
	stamped int64   // the time that stands before the sentences, nanoseconds since 1970; 0 for none
}

// log gathers the points of a receiver's log.
type log struct {
	segments [][]epoch
	current  epoch
	open     bool // something was said of the current epoch
	last     float64
	day      int
	pace     float64 // seconds between fixes, as it was lately
	known    bool    // some date is
	base     int64   // the last date less the midnights before it, days since 1970
	zda      int64   // the date that the last date sentence says, days since 1970; 0 for none
	parted   bool    // the next point begins a segment
	fixes    int
	realOnly bool           // others are left out
	unreal   map[string]int // how many there are of each sort
}

// Words for fixes that no receiver took.
const (
	fixEstimated = "estimated"
	fixManual    = "manual"
	fixSimulated = "simulated"
)

// unrealModes are their marks: the quality of GGA, and the mode of other sentences (IEC 61162-1).
var unrealModes = map[string]string{"6": fixEstimated, "7": fixManual, "8": fixSimulated, "E": fixEstimated,
	"M": fixManual, "S": fixSimulated}

// mode takes the mark of the sort of a fix.
func (l *log) mode(f []string, at int) {
	if at < len(f) && unrealModes[f[at]] != "" {
		l.current.unreal = unrealModes[f[at]]
	}
}

func newLog() *log { return &log{last: math.NaN(), parted: true, unreal: map[string]int{}} }

// clock reads hhmmss with decimals.
func clock(text string) (seconds float64, ok bool) {
	if len(text) < 6 {
		return 0, false
	}
	h, err1 := strconv.Atoi(text[:2])
	m, err2 := strconv.Atoi(text[2:4])
	s, err3 := strconv.ParseFloat(text[4:], 64)
	if err1 != nil || err2 != nil || err3 != nil || h > 23 || m > 59 || s < 0 || s >= 61 {
		return 0, false
	}
	return float64(h*3600+m*60) + s, true
}

// at begins a new epoch where the time is another one.
func (l *log) at(text string, stamp int64) {
	seconds, ok := clock(text)
	if !ok {
		seconds = math.NaN()
	}
	if l.open && (seconds == l.current.at || !ok && math.IsNaN(l.current.at) && !l.current.has) {
		return
	}
	l.flush()
	if ok {
		if !math.IsNaN(l.last) && seconds < l.last-secondsInDay/2 { // past midnight
			l.day++
		}
		l.last = seconds
	}
	early := l.current.values // what was said before the first fix
	l.current, l.open = epoch{at: seconds, day: l.day, stamped: stamp, values: early}, true
}

// flush ends the epoch.
func (l *log) flush() {
	e := l.current
	if !l.open {
		return
	}
	l.open, l.current = false, epoch{}
	if !e.has {
		l.parted = l.parted || e.gone
		return
	}
	if e.unreal != "" {
		l.unreal[e.unreal]++
		if l.realOnly {
			l.parted = true
			return
		}
		e.values = append(slices.DeleteFunc(e.values, func(f nav.Field) bool { return f.Key == "fix" }),
			nav.Field{Key: "fix", Value: e.unreal})
	}
	if !e.dated && l.known { // until all dates are known
		e.date = l.base + int64(e.day)
	}
	n := len(l.segments)
	if !l.parted && n > 0 {
		before := &l.segments[n-1][len(l.segments[n-1])-1]
		step := e.at - before.at + float64(e.day-before.day)*secondsInDay
		if before.date != 0 && e.date != 0 {
			step = e.at - before.at + float64(e.date-before.date)*secondsInDay
		}
		if step > leastGap && l.pace > 0 && step > gapPaces*l.pace {
			l.parted = true
		} else if step > 0 {
			l.pace = step
		}
	}
	if l.parted || n == 0 {
		l.segments = append(l.segments, nil)
		l.parted = false
		n = len(l.segments)
	}
	l.segments[n-1] = append(l.segments[n-1], e)
	l.fixes++
}

// dated takes the date of the current epoch.
func (l *log) dated(date int64) {
	l.current.dated, l.current.date = true, date
	l.known, l.base = true, date-int64(l.current.day)
}

// moment is the time of the last sentence that said one, in nanoseconds since 1970; false where no date is known.
func (l *log) moment() (int64, bool) {
	if !l.known || math.IsNaN(l.last) {
		return 0, false
	}
	return ((l.base+int64(l.day))*secondsInDay*1000 + int64(l.last*1000)) * 1e6, true
}

// settleDates gives the epochs without a date of their own that of those around them: the one before, unless times
// would run backwards with it and not with the one behind. It counts those that run backwards all the same.
func (l *log) settleDates() (backwards int) {
	var all []*epoch
	for _, epochs := range l.segments {
		for i := range epochs {
			if !math.IsNaN(epochs[i].at) {
				all = append(all, &epochs[i])
			}
		}
	}
	next := make([]int, len(all)) // the dated epoch at or behind each; len(all) is none
	for i, at := len(all)-1, len(all); i >= 0; i-- {
		if all[i].dated {
			at = i
		}
		next[i] = at
	}
	seconds := func(e *epoch) float64 { return float64(e.date)*secondsInDay + e.at }
	before := -1
	for i, e := range all {
		if e.dated {
			before = i
		} else {
			var dates []int64
			if before >= 0 {
				dates = append(dates, all[before].date+int64(e.day-all[before].day))
			}
			if k := next[i]; k < len(all) {
				dates = append(dates, all[k].date+int64(e.day-all[k].day))
			}
			for _, date := range dates {
				if e.date = date; i == 0 || seconds(e) >= seconds(all[i-1]) {
					break
				}
			}
		}
		if i > 0 && seconds(e) < seconds(all[i-1]) {
			backwards++
		}
	}
	return backwards
}

func (l *log) place(lat, north, lon, east string) bool {
	a, ok1 := degrees(lat, north, 2, "N", "S")
	o, ok2 := degrees(lon, east, 3, "E", "W")
	if !ok1 || !ok2 || math.Abs(a) > 90 || math.Abs(o) > 180 {
		return false
	}
	if !l.current.has {
		p := nav.At(a, o)
		p.LatPrecision, p.LonPrecision = angleDigits(lat), angleDigits(lon)
		if h := &l.current.Point; h.HasHeight() {
			p.SetHeight(h.Height(), h.HeightPrecision(), h.VerticalDatum())
		}
		l.current.Point, l.current.has = p, true
	}
	return true
}

// angleDigits are the decimals of degrees that decimals of minutes are worth.
func angleDigits(text string) decimal.Precision {
	_, fraction, _ := strings.Cut(text, ".")
	return decimal.PrecisionOf(min(len(fraction)+4, 9)) // two more than they are worth, so that the place stays
}

// value adds what a sentence says of the epoch, once.
func (l *log) value(key, text string) {
	if !decimal.IsNumber(text) {
		v, _, ok := decimal.Parse([]byte(text)) // zeros in front are usual
		if !ok {
			return
		}
		text = strconv.FormatFloat(v, 'f', -1, 64)
	}
	if _, has := nav.Get(l.current.values, key); !has {
		l.current.values = append(l.current.values, nav.Field{Key: key, Value: text, Literal: true})
	}
}

func (l *log) measured(key, text string, factor float64, decimals int) {
	if v, _, ok := decimal.Parse([]byte(text)); ok {
		l.value(key, string(decimal.AppendShort(nil, v*factor, decimals)))
	}
}

// logged reads the sentences that a log is made of, by their kinds: the fields, and the time that stands before. It
// says whether they can be read. Those with too few fields can't.
var logged = map[string]struct {
	fields int
	read   func(l *log, f []string, stamp int64) bool
}{
	"GGA": {9, (*log).gga},
	"RMC": {9, (*log).rmc},
	"GNS": {9, (*log).gns},
	"GLL": {4, (*log).gll},
	"ZDA": {4, func(l *log, f []string, stamp int64) bool {
		l.at(f[0], stamp)
		at, ok := dateOf(f[1], f[2], f[3])
		if ok {
			l.zda = at
			if !l.current.dated { // else the sentence of the fix says it
				l.dated(at)
			}
		}
		return ok
	}},
	"VTG": {7, func(l *log, f []string, _ int64) bool {
		l.value("course", f[0])
		l.measured("speed", f[4], knot, 4)
		return true
	}},
	"DPT": {1, func(l *log, f []string, _ int64) bool { return l.depth(f[0], f[1:]) }},
	"DBT": {4, (*log).dbt},
	"HDT": {1, func(l *log, f []string, _ int64) bool { l.value(valueHeading, f[0]); return true }},
	"THS": {1, func(l *log, f []string, _ int64) bool { l.value(valueHeading, f[0]); return true }},
	"HDG": {1, func(l *log, f []string, _ int64) bool { l.value(valueMagnetic, f[0]); return true }},
	"HDM": {1, func(l *log, f []string, _ int64) bool { l.value(valueMagnetic, f[0]); return true }},
}

// sentence takes one of a log, and says whether it can be read.
func (l *log) sentence(kind string, f []string, stamp int64) bool {
	s := logged[kind]
	return len(f) >= s.fields && s.read(l, f, stamp)
}

func (l *log) gll(f []string, stamp int64) bool {
	when := "" // older receivers don't say it
	if len(f) > 4 {
		when = f[4]
	}
	l.at(when, stamp)
	if len(f) > 5 && f[5] == "V" || f[0] == "" {
		l.current.gone = true
		return true
	}
	ok := l.place(f[0], f[1], f[2], f[3])
	l.mode(f, 6)
	return ok
}

// dbt takes a depth in metres, or else in feet or fathoms.
func (l *log) dbt(f []string, _ int64) bool {
	if f[2] != "" {
		return l.depth(f[2], nil)
	}
	for _, in := range []struct {
		field  int
		factor float64
	}{{0, 0.3048}, {4, 1.8288}} {
		if in.field < len(f) && f[in.field] != "" {
			v, _, ok := decimal.Parse([]byte(f[in.field]))
			if ok {
				l.value(valueDepthTransducer, string(decimal.AppendShort(nil, v*in.factor, 3)))
			}
			return ok
		}
	}
	return true
}

// depth takes the depth below the transducer, and what the offset makes of it: below the surface where it is positive,
// below the keel where it is negative.
func (l *log) depth(below string, more []string) bool {
	v, _, ok := decimal.Parse([]byte(below))
	if !ok {
		return below == ""
	}
	l.value(valueDepthTransducer, below)
	if len(more) > 0 {
		if offset, _, ok := decimal.Parse([]byte(more[0])); ok && offset > 0 {
			l.value("depth", string(decimal.AppendShort(nil, v+offset, 3)))
		} else if ok && offset < 0 {
			l.value(valueDepthKeel, string(decimal.AppendShort(nil, v+offset, 3)))
		}
	}
	return true
}

func (l *log) gga(f []string, stamp int64) bool {
	l.at(f[0], stamp)
	if f[5] == "0" || f[5] == "" || f[1] == "" {
		l.current.gone = true
		return true
	}
	ok := l.place(f[1], f[2], f[3], f[4])
	l.mode(f, 5)
	l.value("sat", f[6])
	l.value("hdop", f[7])
	switch f[5] {
	case "2":
		l.word("fix", "dgps")
	case "3":
		l.word("fix", "pps")
	}
	l.height(f[8])
	if len(f) > 10 && f[10] != "" {
		l.value("geoidheight", f[10])
	}
	return ok
}

// height is above the sea in GGA and GNS.
func (l *log) height(text string) {
	if h, digits, ok := decimal.Parse([]byte(text)); ok && !l.current.HasHeight() {
		l.current.SetHeight(h, digits, nav.MeanSeaLevel)
	}
}

func (l *log) word(key, text string) {
	if _, has := nav.Get(l.current.values, key); !has {
		l.current.values = append(l.current.values, nav.Field{Key: key, Value: text})
	}
}

func (l *log) rmc(f []string, stamp int64) bool {
	l.at(f[0], stamp)
	if d := f[8]; len(d) == 6 {
		if date, ok := dateOf(d[:2], d[2:4], d[4:]); ok {
			l.dated(date)
		}
	}
	if f[1] == "V" || f[2] == "" {
		l.current.gone = true
		return true
	}
	ok := l.place(f[2], f[3], f[4], f[5])
	l.mode(f, 11)
	l.measured("speed", f[6], knot, 4)
	l.value("course", f[7])
	return ok
}

func (l *log) gns(f []string, stamp int64) bool {
	l.at(f[0], stamp)
	if strings.Trim(f[5], "N") == "" || f[1] == "" {
		l.current.gone = true
		return true
	}
	ok := l.place(f[1], f[2], f[3], f[4])
	if modes := strings.Trim(f[5], "N"); modes == strings.Repeat(modes[:1], len(modes)) { // all systems alike
		l.mode([]string{modes[:1]}, 0)
	}
	l.value("sat", f[6])
	l.value("hdop", f[7])
	l.height(f[8])
	return ok
}

// dateOf reads a date, in days since 1970.
func dateOf(day, month, year string) (int64, bool) {
	d, err1 := strconv.Atoi(day)
	m, err2 := strconv.Atoi(month)
	y, err3 := strconv.Atoi(year)
	if err1 != nil || err2 != nil || err3 != nil {
		return 0, false
	}
	if len(year) == 2 { // of the years in which there have been receivers
		if y += 2000; y >= 2080 {
			y -= 100
		}
	}
	at := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	return at.Unix() / secondsInDay, at.Day() == d && int(at.Month()) == m
}

// track makes the recording of the log; nil where it has no fix.
func (l *log) track(d *nav.Dataset) *nav.Track {
	l.flush()
	if l.fixes == 0 {
		return nil
	}
	t := &nav.Track{Item: nav.Item{Name: "Log"}}
	if l.known {
		if n := l.settleDates(); n > 0 {
			d.Note(nav.ProblemTimes, "times of the log run backwards", 0, 0).Count = n
		}
		const year = 366
		if l.zda != 0 && max(l.zda-l.base, l.base-l.zda) > year { // which clean takes for evidence
			d.Meta.Time.SetTime(l.zda*secondsInDay*1e9, instant.Day)
		}
	}
	undated := 0
	for _, epochs := range l.segments {
		s := nav.Segment{Points: make([]nav.Point, 0, len(epochs))}
		for i := range epochs {
			e := &epochs[i]
			switch {
			case l.known && !math.IsNaN(e.at):
				milliseconds := int64(math.Round(e.at * 1000))
				ns := (e.date*secondsInDay*1000 + milliseconds) * 1e6
				mark := instant.Seconds
				if milliseconds%1000 != 0 {
					mark += 3
				}
				e.SetTime(ns, mark)
			case e.stamped != 0:
				e.SetTime(e.stamped, instant.Seconds+3)
			default:
				undated++
			}
			s.Attach(&e.Point, nav.Detail{Values: e.values})
			s.Points = append(s.Points, e.Point)
		}
		t.Segments = append(t.Segments, s)
	}
	if undated > 0 {
		d.Note(nav.ProblemLeftOut, "the log has no date (RMC or ZDA), so its times were left out", 0, 0).Count = undated
	} else {
		t.Name += " of " + t.Segments[0].Points[0].Time().Format("2006-01-02 15:04")
	}
	return t
}

// stampOf reads what stands before a sentence: a time as RFC 3339 has it, seconds since 1970, or a tag block (IEC
// 61162-450) with the field c.
func stampOf(prefix string) int64 {
	if strings.HasPrefix(prefix, `\`) {
		for _, field := range strings.FieldsFunc(prefix, func(r rune) bool { return r == '\\' || r == ',' || r == '*' }) {
			if v, ok := strings.CutPrefix(field, "c:"); ok {
				return unixOf(v)
			}
		}
		return 0
	}
	words := strings.FieldsFunc(prefix, func(r rune) bool {
		return r == ' ' || r == '\t' || r == ',' || r == ';' || r == '[' ||
			r == ']'
	})
	for i, w := range words {
		for _, text := range []string{w, strings.Join(words[i:min(i+2, len(words))], "T")} {
			if ns, mark, _, ok := instant.Parse([]byte(text), time.UTC); ok && mark >= instant.Seconds {
				return ns
			}
		}
		if ns := unixOf(w); ns != 0 {
			return ns
		}
	}
	return 0
}

// unixOf reads seconds or milliseconds since 1970, of this century.
func unixOf(text string) int64 {
	v, err := strconv.ParseFloat(text, 64)
	switch {
	case err != nil:
	case v > 946684800 && v < 4102444800:
		return int64(math.Round(v*1e3)) * 1e6
	case v > 946684800e3 && v < 4102444800e3:
		return int64(math.Round(v)) * 1e6
	}
	return 0
}

// parted takes a line apart: what stands before the sentence, its head and its fields. Sound says that its checksum
// fits or that it has none, which summed tells.
type parted struct {
	prefix, talker, kind, body string
	fields                     []string
	summed, sound              bool
}

// part finds the sentence of a line; false where there is none.
func part(line string) (p parted, ok bool) {
	from := strings.IndexAny(line, "$!")
	if strings.HasPrefix(line, `\`) {
		end := strings.LastIndexByte(line, '\\')
		if from = strings.IndexAny(line[end:], "$!"); from >= 0 {
			from += end
		}
	}
	if from < 0 {
		return p, false
	}
	p.prefix = line[:from]
	rest := line[from+1:]
	p.body, p.sound = rest, true
	if star := strings.LastIndexByte(rest, '*'); star >= 0 && len(rest) >= star+3 {
		want, err := strconv.ParseUint(rest[star+1:star+3], 16, 8)
		p.body, p.summed = rest[:star], true
		p.sound = err == nil && byte(want) == Sum(p.body)
	}
	head, fields, found := strings.Cut(p.body, ",")
	if !found || len(head) != 5 || strings.ContainsFunc(head, func(r rune) bool {
		return (r < 'A' || r > 'Z') && (r < '0' || r > '9')
	}) {
		p.kind = head // of its maker
		return p, found && len(head) > 0 && head[0] == 'P'
	}
	p.talker, p.kind = head[:2], head[2:]
	p.fields = strings.Split(fields, ",")
	return p, true
}

// isLogged says whether a sentence belongs to a log or to a track of other vessels.
func isLogged(kind string) bool {
	_, ok := logged[kind]
	return ok || kind == "VDM" || kind == "VDO"
}
