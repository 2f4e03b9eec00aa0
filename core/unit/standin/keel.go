package standin

import (
	"fmt"
	"io/fs"
	"math"
	"path"
	"strings"
	"time"
	"unicode/utf8"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// The Keel's memory and screen, as docs/formats/keel-card.md has them.
const (
	keelVersion     = 3
	keelName        = 20
	keelNote        = 80
	keelMarks       = 3000
	keelRoutes      = 50
	keelRoutePoints = 100
	keelWakes       = 20
	keelWakePoints  = 5000
	keelZones       = 100
	keelZonePoints  = 500
	keelLetters     = ".,+-()/' "
)

var keelSymbols = []string{"dot", "danger", "rock", "awash", "wreck", "shoal", "race", "anchor", "mooring", "landing",
	"jetty", "harbour", "buoy", "beacon", "light", "fish", "flag", "closed"}

var keelColours = [][3]uint8{{0, 0, 0}, {255, 255, 255}, {208, 28, 28}, {230, 130, 0}, {240, 220, 0}, {30, 158, 47},
	{30, 80, 220}, {200, 16, 140}}

// keelScreen is the unit while it loads a card.
type keelScreen struct {
	file    []byte
	pos     int
	groups  map[int]string
	shown   *Shown
	name    string // of the file
	version int
}

// KeelOf is a Keel of a version, which reads cards of that version and older ones.
func KeelOf(version int) Unit {
	if version == 0 {
		version = keelVersion
	}
	return func(card fs.FS) (*Shown, error) { return keel(card, version) }
}

// keel is the marine plotter. It loads KEEL/MARKS.KRD, whatever the case of the names, checks every sum, and refuses
// the card where one does not fit.
func keel(card fs.FS, version int) (*Shown, error) {
	k := &keelScreen{version: version, groups: map[int]string{}, shown: &Shown{Unit: "keel", Data: &nav.Dataset{},
		Words: map[nav.Kind]string{nav.Waypoints: "marks", nav.Tracks: "wakes", nav.Areas: "zones"},
		Limits: map[nav.Kind]int{nav.Waypoints: keelMarks, nav.Routes: keelRoutes, nav.Tracks: keelWakes,
			nav.Areas: keelZones}}}
	file, err := anyCase(card, "KEEL", "MARKS.KRD")
	if err != nil {
		return nil, err
	}
	if file == "" {
		return nil, fmt.Errorf("the card holds no file KEEL/MARKS.KRD: the unit shows nothing")
	}
	if k.file, err = fs.ReadFile(card, file); err != nil {
		return nil, fmt.Errorf("CARD ERROR: %s can't be read", file)
	}
	k.name = file
	if err := k.check(); err != nil {
		return nil, fmt.Errorf("CARD ERROR: %s %w: the unit shows nothing", file, err)
	}
	for k.pos = 8; k.file[k.pos] != 0xFF; {
		kind, size := k.file[k.pos], k.number(k.pos+1, 4)
		if err := k.load(kind, k.file[k.pos+5:k.pos+5+size]); err != nil {
			return nil, fmt.Errorf("CARD ERROR: %s holds a record that makes no sense: the unit shows nothing", file)
		}
		k.pos += 9 + size
	}
	return k.shown, nil
}

// anyCase finds a file by its path whatever the case, as a card's file system does; "" where there is none.
func anyCase(card fs.FS, parts ...string) (string, error) {
	at := "."
	for _, part := range parts {
		entries, err := fs.ReadDir(card, at)
		if err != nil {
			return "", err
		}
		found := ""
		for _, e := range entries {
			if strings.EqualFold(e.Name(), part) {
				found = e.Name()
			}
		}
		if found == "" {
			return "", nil
		}
		at = path.Join(at, found)
	}
	return at, nil
}

// number reads an unsigned number of so many bytes, the least one first.
func (k *keelScreen) number(at, size int) (v int) {
	for i := size - 1; i >= 0; i-- {
		v = v<<8 | int(k.file[at+i])
	}
	return
}

// crc is the unit's own checksum: bit by bit, as ISO/IEC 3309 describes it.
func crc(b []byte) int {
	c := uint32(0xFFFFFFFF)
	for _, x := range b {
		c ^= uint32(x)
		for range 8 {
			if c&1 == 1 {
				c = c>>1 ^ 0xEDB88320
			} else {
				c >>= 1
			}
		}
	}
	return int(^c)
}

// check walks over the whole card before anything is shown of it.
func (k *keelScreen) check() error {
	f := k.file
	if len(f) < 8 || string(f[:4]) != "KEEL" {
		return fmt.Errorf("is no Keel card")
	}
	if f[4] == 0 || int(f[4]) > k.version {
		return fmt.Errorf("is of version %d, and this unit reads up to %d", f[4], k.version)
	}
	records := 0
	for at := 8; ; records++ {
		if at+9 > len(f) {
			return fmt.Errorf("ends early")
		}
		size := k.number(at+1, 4)
		if size < 0 || size > len(f)-at-9 {
			return fmt.Errorf("ends early")
		}
		if crc(f[at:at+5+size]) != k.number(at+5+size, 4) {
			return fmt.Errorf("has a record with a wrong sum")
		}
		if f[at] == 0xFF {
			if size < 8 || k.number(at+5, 4) != records || k.number(at+9, 4) != crc(f[:at]) {
				return fmt.Errorf("has a wrong sum")
			}
			return nil
		}
		at += 9 + size
	}
}

// tape is a payload as it runs by.
type tape struct {
	b   []byte
	end bool
}

func (t *tape) next(n int) []byte {
	if len(t.b) < n {
		t.end, t.b = true, nil
		return make([]byte, n)
	}
	x := t.b[:n]
	t.b = t.b[n:]
	return x
}

func (t *tape) whole(n int) int64 {
	var v uint64
	for i, x := range t.next(n) {
		v |= uint64(x) << (8 * i)
	}
	switch n {
	case 4:
		return int64(int32(v))
	case 8:
		return int64(v)
	}
	return int64(v)
}

func (t *tape) count(n, least int) int {
	v := t.whole(n)
	if v < 0 || v*int64(least) > int64(len(t.b)) {
		t.end = true
		return 0
	}
	return int(v)
}

// words shows a text with the letters that the screen has.
func (t *tape) words(most int) string {
	text := t.next(t.count(2, 1))
	var out []rune
	for len(text) > 0 && len(out) < most {
		c, size := utf8.DecodeRune(text)
		text = text[size:]
		if !(c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || strings.ContainsRune(keelLetters, c)) {
			c = '?'
		}
		out = append(out, c)
	}
	return string(out)
}

func (t *tape) place(scale float64) (p nav.Point, ok bool) {
	lat, lon := float64(t.whole(4))/scale, float64(t.whole(4))/scale
	if math.Abs(lat) > 90 || math.Abs(lon) > 180 {
		return p, false
	}
	return nav.At(lat, lon), true
}

func (t *tape) metres() (float64, bool) {
	v := t.whole(4)
	return float64(v) / 100, v != math.MinInt32
}

func (t *tape) paint() nav.Colour {
	c := t.next(4)
	if c[3] == 0 {
		return nav.Colour{}
	}
	best, off := [3]uint8{}, math.Inf(1)
	for _, k := range keelColours {
		d := 0.0
		for i := range k {
			d += (float64(k[i]) - float64(c[i])) * (float64(k[i]) - float64(c[i]))
		}
		if d < off {
			best, off = k, d
		}
	}
	return nav.Colour{R: best[0], G: best[1], B: best[2], A: c[3], Set: true}
}

func (t *tape) picture() string {
	if n := int(t.next(1)[0]); n > 0 && n < len(keelSymbols) {
		return keelSymbols[n]
	}
	return ""
}

func (t *tape) clock(p *nav.Point) {
	if ms := t.whole(8); ms != math.MinInt64 && ms > -1e13 && ms < 9e12 {
		mark := instant.Seconds
		if ms%1000 != 0 {
			mark += 3
		}
		p.SetTime(ms*1e6, mark)
	}
}

func (t *tape) limit() string {
	kind := t.next(1)[0]
	v, _ := t.metres()
	switch kind {
	case 1:
		return string(decimal.AppendShort(nil, v, 2)) + "m"
	case 2:
		if v == 0 {
			return "GND"
		}
		return string(decimal.AppendShort(nil, v, 2)) + "m AGL"
	case 3:
		return fmt.Sprintf("FL%03.0f", v/0.3048/100)
	case 4:
		return "UNL"
	}
	return ""
}

func (k *keelScreen) over(kind string, name string, why string, args ...any) {
	k.shown.Ignored = append(k.shown.Ignored, Ignored{k.name, fmt.Sprintf("%s %q: ", kind, name) +
		fmt.Sprintf(why, args...)})
}

// load shows what a record holds.
func (k *keelScreen) load(kind byte, payload []byte) error {
	t := &tape{b: payload}
	ok := true
	switch kind {
	case 1, 3, 5:
		ok = k.mark(t, kind)
	case 2:
		id := int(t.whole(2))
		k.groups[id] = t.words(200)
	case 4, 6:
		ok = k.route(t, kind)
	case 7:
		ok = k.wake(t)
	case 8:
		ok = k.zone(t)
	}
	if t.end || !ok {
		return fmt.Errorf("record")
	}
	return nil
}

// mark takes a mark of version 1, 2 or 3, as the kind of record says; it is not ok without a position.
func (k *keelScreen) mark(t *tape, kind byte) (ok bool) {
	var m nav.Waypoint
	scale := 1e7
	if kind == 1 {
		scale = 60000
	} else {
		m.Group = k.groups[int(t.whole(2))]
	}
	m.Point, ok = t.place(scale)
	if kind != 1 {
		if v, has := t.metres(); has {
			m.Fields = []nav.Field{{Key: "depth", Value: string(decimal.AppendShort(nil, v, 2))}}
		}
		t.height(&m.Point)
	}
	m.Style.Symbol = t.picture()
	m.Name = t.words(keelName)
	if kind != 1 {
		m.Desc = t.words(keelNote)
	}
	if kind == 5 {
		m.Style.Colour = t.paint()
		t.clock(&m.Point)
	}
	if len(k.shown.Data.Waypoints) == keelMarks {
		k.over("mark", m.Name, "its memory of %d is full", keelMarks)
	} else {
		k.shown.Data.Waypoints = append(k.shown.Data.Waypoints, m)
	}
	return ok
}

// height takes a height above the sea, where there is one.
func (t *tape) height(p *nav.Point) {
	if v, has := t.metres(); has {
		p.SetHeight(v, decimal.PrecisionOf(2), nav.MeanSeaLevel)
	}
}

// route takes a route of version 2 or 3.
func (k *keelScreen) route(t *tape, kind byte) (ok bool) {
	ok = true
	var r nav.Route
	r.Group = k.groups[int(t.whole(2))]
	r.Name, r.Desc = t.words(keelName), t.words(keelNote)
	if kind == 6 {
		r.Style.Colour = t.paint()
	}
	n := t.count(4, 15)
	for range n {
		var p nav.Waypoint
		var good bool
		p.Point, good = t.place(1e7)
		ok = ok && good
		t.height(&p.Point)
		p.Style.Symbol = t.picture()
		p.Name = t.words(keelName)
		if len(r.Points) < keelRoutePoints {
			r.Points = append(r.Points, p)
		}
	}
	if n > keelRoutePoints {
		k.over("route", r.Name, "%d points", n-keelRoutePoints)
	}
	if len(k.shown.Data.Routes) == keelRoutes {
		k.over("route", r.Name, "its memory of %d is full", keelRoutes)
	} else {
		k.shown.Data.Routes = append(k.shown.Data.Routes, r)
	}
	return ok
}

// wake takes a wake, as far as its memory of points goes.
func (k *keelScreen) wake(t *tape) (ok bool) {
	ok = true
	var w nav.Track
	w.Group = k.groups[int(t.whole(2))]
	w.Name, w.Desc = t.words(keelName), t.words(keelNote)
	w.Style.Colour = t.paint()
	shown, over := 0, 0
	for range t.count(2, 4) {
		var s nav.Segment
		for range t.count(4, 20) {
			p, good := t.place(1e7)
			ok = ok && good
			t.height(&p)
			t.clock(&p)
			if shown == keelWakePoints {
				over++
				continue
			}
			shown++
			s.Points = append(s.Points, p)
		}
		if len(s.Points) > 0 {
			w.Segments = append(w.Segments, s)
		}
	}
	if over > 0 {
		k.over("wake", w.Name, "%d points", over)
	}
	if len(k.shown.Data.Tracks) == keelWakes {
		k.over("wake", w.Name, "its memory of %d is full", keelWakes)
	} else {
		k.shown.Data.Tracks = append(k.shown.Data.Tracks, w)
	}
	return ok
}

func (k *keelScreen) zone(t *tape) bool {
	var z nav.Area
	z.Group = k.groups[int(t.whole(2))]
	z.Name, z.Desc = t.words(keelName), t.words(keelNote)
	z.Style.Colour, z.Style.Fill = t.paint(), t.paint()
	field := func(key, value string) {
		if value != "" {
			z.Fields = append(z.Fields, nav.Field{Key: key, Value: value})
		}
	}
	field("floor", t.limit())
	field("ceiling", t.limit())
	for _, key := range []string{"valid from", "valid until"} {
		if ms := t.whole(8); ms != math.MinInt64 && ms > -1e13 && ms < 9e12 {
			field(key, time.UnixMilli(ms).UTC().Format(time.RFC3339Nano))
		}
	}
	good, shown, over := true, 0, 0
	for i := range t.count(2, 4) {
		var ring []nav.Point
		for range t.count(4, 8) {
			p, ok := t.place(1e7)
			good = good && ok
			if shown == keelZonePoints {
				over++
				continue
			}
			shown++
			ring = append(ring, p)
		}
		if i == 0 {
			z.Outline = ring
		} else {
			z.Holes = append(z.Holes, ring)
		}
	}
	if over > 0 {
		k.over("zone", z.Name, "%d points", over)
	}
	if len(k.shown.Data.Areas) == keelZones {
		k.over("zone", z.Name, "its memory of %d is full", keelZones)
		return good
	}
	k.shown.Data.Areas = append(k.shown.Data.Areas, z)
	return good
}
