package keel

import (
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// read reads a card. One that is damaged gives what is whole of it, and an error that --salvage forgives.
func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	data, err := whole(s, opt.Unpacked()+1)
	if err != nil {
		return nil, err
	}
	if int64(len(data)) > opt.Unpacked() {
		return nil, s.FaultOf(advice.Errorf(advice.AllowUnpacked, "is larger than the limit"))
	}
	if len(data) < headerSize || string(data[:4]) != string(magic) {
		return nil, s.Fault("is not a Keel card: it does not begin with KEEL and a version")
	}
	r := &reader{data: data, version: data[4], d: &nav.Dataset{}, groups: map[uint16]string{}}
	if r.version < 1 || r.version > newest {
		return nil, s.Fault(fmt.Sprintf("is a Keel card of version %d; versions 1 to %d are supported", r.version, newest))
	}
	r.sumUp()
	r.records()
	if r.damage != "" {
		return r.d, &format.Error{Path: s.Path, Msg: r.damage, Cut: true}
	}
	return r.d, nil
}

// whole reads a source up to a limit, into memory of the right size where that is known.
func whole(s *format.Source, limit int64) ([]byte, error) {
	if s.Size < 0 || s.Size >= limit {
		return io.ReadAll(io.LimitReader(s.Reader(), limit))
	}
	data := make([]byte, s.Size)
	n, err := io.ReadFull(s.Reader(), data)
	if err == io.ErrUnexpectedEOF || err == io.EOF {
		err = nil // it became shorter meanwhile
	}
	return data[:n], err
}

type reader struct {
	data    []byte
	at      int
	version byte
	d       *nav.Dataset
	groups  map[uint16]string
	count   uint32
	damage  string // the first that was met
	bad     int
	ahead   chan uint32 // the sum of all before the last record, where it is an end record of the usual length
}

// endSize is the length of an end record.
const endSize = frameSize + 8

// sumUp begins to sum up the whole of a large card beside the reading.
func (r *reader) sumUp() {
	if n := len(r.data) - endSize; n > 1<<20 {
		r.ahead = make(chan uint32, 1)
		go func() { r.ahead <- sum(r.data[:n]) }()
	}
}

// total is the sum of the bytes before the end record.
func (r *reader) total() uint32 {
	if r.ahead != nil && r.at == len(r.data)-endSize {
		return <-r.ahead
	}
	return sum(r.data[:r.at])
}

func (r *reader) fail(text string, args ...any) {
	if r.damage == "" {
		r.damage = fmt.Sprintf(text, args...)
	}
}

// records reads record after record. Behind a damaged one it goes on at the next place where a whole one begins.
func (r *reader) records() {
	r.at = headerSize
	ended := false
	budget := 64 << 20 // bytes that may be summed up in looking for a whole record
	for r.at < len(r.data) && !ended {
		kind, payload, why := r.frame(r.at)
		if why != "" {
			r.fail("record %d, at byte %d, %s", r.count+1, r.at, why)
			r.bad++
			next := r.at + 1
			for ; next < len(r.data); next++ {
				if budget <= 0 {
					next = len(r.data)
					break
				}
				if since(r.data[next]) == 0 || since(r.data[next]) > r.version {
					continue
				}
				if next+frameSize <= len(r.data) {
					budget -= int(min(order.Uint32(r.data[next+1:]), uint32(len(r.data))))
				}
				if _, _, why := r.frame(next); why == "" {
					break
				}
			}
			r.at = next
			r.count++
			continue
		}
		if kind == recEnd {
			r.end(payload)
			ended = true
			r.at += frameSize + len(payload)
			break
		}
		if err := r.record(kind, payload); err != nil {
			r.fail("record %d, at byte %d, has a valid checksum but invalid content (%v)", r.count+1, r.at, err)
			r.bad++
		}
		r.at += frameSize + len(payload)
		r.count++
	}
	if !ended {
		r.fail("ends without its end record: it is incomplete")
	} else if r.at < len(r.data) {
		r.d.Note(nav.ProblemLeftOut, fmt.Sprintf("%d bytes behind the end of the card", len(r.data)-r.at), 0, 0)
	}
	if r.bad > 0 {
		r.d.Note(nav.ProblemDamaged, fmt.Sprintf("%d damaged records were left out", r.bad), 0, 0)
	}
}

// frame looks at the record that begins at a byte; why says what is wrong with it.
func (r *reader) frame(at int) (kind byte, payload []byte, why string) {
	if at+frameSize > len(r.data) {
		return 0, nil, "is cut off"
	}
	kind = r.data[at]
	n := order.Uint32(r.data[at+1:])
	switch v := since(kind); {
	case v == 0:
		return kind, nil, fmt.Sprintf("is of the unknown type %d", kind)
	case v > r.version:
		return kind, nil, fmt.Sprintf("is of type %d, which version %d does not have", kind, r.version)
	case uint64(n) > uint64(len(r.data)-at-frameSize):
		return kind, nil, "is longer than the rest of the file"
	}
	end := at + 5 + int(n)
	if sum(r.data[at:end]) != order.Uint32(r.data[end:]) {
		return kind, nil, "is damaged: its checksum is wrong"
	}
	return kind, r.data[at+5 : end], ""
}

func (r *reader) end(payload []byte) {
	c := &cursor{b: payload}
	count, whole := c.u32(), c.u32()
	switch {
	case c.bad || len(c.b) > 0:
		r.fail("has an end record that is not 8 bytes long")
	case count != r.count:
		r.fail("holds %d records, and its end record counts %d", r.count, count)
	case whole != r.total():
		r.fail("is damaged: the checksum of the file is wrong")
	}
}

// cursor reads a payload; bad says that it was too short.
type cursor struct {
	b   []byte
	bad bool
}

func (c *cursor) take(n int) []byte {
	if n > len(c.b) {
		c.bad, c.b = true, nil
		return make([]byte, min(n, 8))
	}
	out := c.b[:n]
	c.b = c.b[n:]
	return out
}

func (c *cursor) u8() byte    { return c.take(1)[0] }
func (c *cursor) u16() uint16 { return order.Uint16(c.take(2)) }
func (c *cursor) u32() uint32 { return order.Uint32(c.take(4)) }
func (c *cursor) i32() int32  { return int32(c.u32()) }
func (c *cursor) i64() int64  { return int64(order.Uint64(c.take(8))) }

func (c *cursor) text() string {
	n := int(c.u16())
	if n > len(c.b) {
		c.bad = true
		return ""
	}
	b := c.take(n)
	if !utf8.Valid(b) {
		return strings.ToValidUTF8(string(b), "\uFFFD")
	}
	return string(b)
}

// fits says whether there is room for so many entries of a size, before they are allocated.
func (c *cursor) fits(n uint32, size int) bool {
	if uint64(n)*uint64(size) > uint64(len(c.b)) {
		c.bad = true
		return false
	}
	return true
}

var errShort = errors.New("it is too short")

// errPlace is a position that there is not.
var errPlace = errors.New("a position is out of range")

func (c *cursor) point(version byte) (nav.Point, error) {
	scale := perDegree2
	if version == 1 {
		scale = perDegree1
	}
	a, o := c.i32(), c.i32()
	lat, lon := float64(a)/scale, float64(o)/scale
	if lat < -90 || lat > 90 || lon < -180 || lon > 180 {
		return nav.Point{}, errPlace
	}
	p := nav.At(lat, lon)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	return p, nil
}

func (c *cursor) height(p *nav.Point) {
	if v := c.i32(); v != noValue {
		p.SetHeight(float64(v)/100, decimal.PrecisionOf(2), nav.MeanSeaLevel)
	}
}

// The times that nanoseconds since 1970 can hold, in milliseconds.
const mostTime = int64(math.MaxInt64 / 1_000_000)

func (c *cursor) time(p *nav.Point) {
	ms := c.i64()
	if ms == noTime || ms > mostTime || ms < -mostTime {
		return
	}
	mark := instant.Seconds
	if ms%1000 != 0 {
		mark += 3 // decimals of a second
	}
	p.SetTime(ms*1e6, mark)
}

func (c *cursor) colour() nav.Colour {
	b := c.take(4)
	if b[3] == 0 {
		return nav.Colour{}
	}
	return nav.Colour{R: b[0], G: b[1], B: b[2], A: b[3], Set: true}
}

func (c *cursor) symbol() string {
	n := c.u8()
	if n == 0 || int(n) >= len(codes) {
		return ""
	}
	return codes[n].neutral
}

func (r *reader) record(kind byte, payload []byte) error {
	c := &cursor{b: payload}
	var err error
	switch kind {
	case recGroup:
		id := c.u16()
		path := c.text()
		if !c.bad {
			r.groups[id] = path
		}
	case recMark1, recMark2, recMark3:
		err = r.mark(kind, c)
	case recRoute2, recRoute3:
		err = r.route(kind, c)
	case recWake:
		err = r.wake(c)
	case recZone:
		err = r.zone(c)
	}
	if err == nil && c.bad {
		err = errShort
	}
	return err
}

func (r *reader) mark(kind byte, c *cursor) (err error) {
	var w nav.Waypoint
	if kind != recMark1 {
		w.Group = r.groups[c.u16()]
	}
	version := r.version
	if kind == recMark1 {
		version = 1
	}
	if w.Point, err = c.point(version); err != nil {
		return err
	}
	if kind != recMark1 {
		if v := c.i32(); v != noValue {
			w.Fields = append(w.Fields,
				nav.Field{Key: "depth", Value: string(decimal.AppendShort(nil, float64(v)/100, 2)), Literal: true})
		}
		c.height(&w.Point)
	}
	w.Style.Symbol = c.symbol()
	w.Name = c.text()
	if kind != recMark1 {
		w.Desc = c.text()
	}
	if kind == recMark3 {
		w.Style.Colour = c.colour()
		c.time(&w.Point)
	}
	if !c.bad {
		r.d.Waypoints = append(r.d.Waypoints, w)
	}
	return nil
}

func (r *reader) head(c *cursor, item *nav.Item) {
	item.Group = r.groups[c.u16()]
	item.Name = c.text()
	item.Desc = c.text()
}

func (r *reader) route(kind byte, c *cursor) (err error) {
	var rt nav.Route
	r.head(c, &rt.Item)
	if kind == recRoute3 {
		rt.Style.Colour = c.colour()
	}
	n := c.u32()
	if !c.fits(n, 15) {
		return errShort
	}
	rt.Points = make([]nav.Waypoint, n)
	for i := range rt.Points {
		p := &rt.Points[i]
		if p.Point, err = c.point(2); err != nil {
			return err
		}
		c.height(&p.Point)
		p.Style.Symbol = c.symbol()
		p.Name = c.text()
	}
	if !c.bad {
		r.d.Routes = append(r.d.Routes, rt)
	}
	return nil
}

func (r *reader) wake(c *cursor) (err error) {
	var t nav.Track
	r.head(c, &t.Item)
	t.Style.Colour = c.colour()
	for range c.u16() {
		n := c.u32()
		if !c.fits(n, wakePoint) {
			return errShort
		}
		s := nav.Segment{Points: make([]nav.Point, n)}
		if !wakePoints(s.Points, c.take(wakePoint*int(n))) {
			return errPlace
		}
		t.Segments = append(t.Segments, s)
	}
	if !c.bad {
		r.d.Tracks = append(r.d.Tracks, t)
	}
	return nil
}

// wakePoints reads the points of a segment, which are nearly all of a card; false where a position is out of range.
func wakePoints(points []nav.Point, b []byte) bool {
	const most = 1_800_000_000
	places, hundredths := decimal.PrecisionOf(7), decimal.PrecisionOf(2)
	var bad atomic.Bool
	inParts(len(points), func(from, to int) {
		for i := from; i < to; i++ {
			p, q := &points[i], b[wakePoint*i:][:wakePoint]
			lat, lon := int32(order.Uint32(q)), int32(order.Uint32(q[4:]))
			if lat < -most/2 || lat > most/2 || lon < -most || lon > most {
				bad.Store(true)
				return
			}
			if lon == most {
				lon = -most
			}
			p.Lat, p.Lon = float64(lat)/perDegree2, float64(lon)/perDegree2
			p.LatPrecision, p.LonPrecision = places, places
			if h := int32(order.Uint32(q[8:])); h != noValue {
				p.SetHeight(float64(h)/100, hundredths, nav.MeanSeaLevel)
			}
			if ms := int64(order.Uint64(q[12:])); ms <= mostTime && ms >= -mostTime {
				mark := instant.Seconds
				if ms%1000 != 0 {
					mark += 3
				}
				p.SetTime(ms*1e6, mark)
			}
		}
	})
	return !bad.Load()
}

func (r *reader) zone(c *cursor) (err error) {
	var a nav.Area
	r.head(c, &a.Item)
	a.Style.Colour, a.Style.Fill = c.colour(), c.colour()
	for _, key := range []string{nav.FieldFloor, nav.FieldCeiling} {
		if text := c.level(); text != "" {
			a.Fields = append(a.Fields, nav.Field{Key: key, Value: text})
		}
	}
	for _, key := range []string{nav.FieldFrom, nav.FieldUntil} {
		if ms := c.i64(); ms != noTime && ms < mostTime && ms > -mostTime {
			a.Fields = append(a.Fields, nav.Field{Key: key, Value: time.UnixMilli(ms).UTC().Format(time.RFC3339Nano)})
		}
	}
	for i := range c.u16() {
		n := c.u32()
		if !c.fits(n, 8) {
			return errShort
		}
		ring := make([]nav.Point, n)
		for k := range ring {
			if ring[k], err = c.point(2); err != nil {
				return err
			}
		}
		if i == 0 {
			a.Outline = ring
		} else {
			a.Holes = append(a.Holes, ring)
		}
	}
	if !c.bad {
		r.d.Areas = append(r.d.Areas, a)
	}
	return nil
}

// level writes a level as the fields of an area have it.
func (c *cursor) level() string {
	kind, cm := c.u8(), c.i32()
	metres := strconv.FormatFloat(float64(cm)/100, 'f', -1, 64) + "m"
	switch kind {
	case levelSea:
		return metres
	case levelGround:
		if cm == 0 {
			return "GND"
		}
		return metres + " AGL"
	case levelPressure:
		return fmt.Sprintf("FL%03.0f", float64(cm)/100/30.48)
	case levelUnlimited:
		return "UNL"
	}
	return ""
}
