package keel

import (
	"io"
	"math"
	"slices"
	"unicode/utf8"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// writer builds the file in memory: a card is small.
type writer struct {
	buf     []byte
	version byte
	start   int // of the record that is being written
	records uint32
	groups  map[string]uint16
	ledger  nav.Ledger
	done    format.Written
	cut     int // texts
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	version, err := parseVersion(opt.Version)
	if err != nil {
		return nil, err
	}
	w := &writer{version: version, groups: map[string]uint16{},
		buf: make([]byte, 0, 64+32*d.Points())}
	w.buf = append(append(w.buf, magic...), version, 0, 0, 0)
	if version >= 2 {
		d.Each(func(_ nav.Kind, item *nav.Item) { w.group(item.Group) })
	}
	for i := range d.Waypoints {
		w.mark(&d.Waypoints[i])
	}
	for i := range d.Routes {
		w.route(&d.Routes[i])
	}
	for i := range d.Tracks {
		w.wake(&d.Tracks[i])
	}
	for i := range d.Areas {
		w.zone(&d.Areas[i])
	}
	w.begin(recEnd)
	w.u32(w.records)
	w.u32(sum(w.buf[:w.start]))
	w.end()
	if w.cut > 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "item", What: "texts",
			Why: "cut to the 65,535 bytes that a Keel card takes", Count: w.cut, Loss: true})
	}
	_, err = out.Write(w.buf)
	w.done.Ledger = w.ledger
	return &w.done, err
}

func (w *writer) u8(v byte)    { w.buf = append(w.buf, v) }
func (w *writer) u16(v uint16) { w.buf = order.AppendUint16(w.buf, v) }
func (w *writer) u32(v uint32) { w.buf = order.AppendUint32(w.buf, v) }
func (w *writer) i32(v int32)  { w.buf = order.AppendUint32(w.buf, uint32(v)) }
func (w *writer) i64(v int64)  { w.buf = order.AppendUint64(w.buf, uint64(v)) }

func (w *writer) text(s string) {
	if len(s) > math.MaxUint16 {
		w.cut++
		s = s[:math.MaxUint16]
		for !utf8.ValidString(s) && len(s) > math.MaxUint16-4 {
			s = s[:len(s)-1]
		}
	}
	w.u16(uint16(len(s)))
	w.buf = append(w.buf, s...)
}

// begin starts a record; end puts in its length and sum.
func (w *writer) begin(kind byte) {
	w.start = len(w.buf)
	w.u8(kind)
	w.u32(0)
}

func (w *writer) end() {
	order.PutUint32(w.buf[w.start+1:], uint32(len(w.buf)-w.start-5))
	w.u32(sum(w.buf[w.start:]))
	w.records++
}

func (w *writer) position(p *nav.Point) {
	scale := perDegree2
	if w.version == 1 {
		scale = perDegree1
	}
	w.i32(nearest(p.Lat * scale))
	w.i32(nearest(p.Lon * scale))
}

// metres writes a length in centimetres.
func (w *writer) metres(v float64, has bool) {
	if !has || math.Abs(v) > mostMetres {
		w.i32(noValue)
		return
	}
	w.i32(nearest(v * 100))
}

func (w *writer) time(p *nav.Point) {
	if !p.HasTime() {
		w.i64(noTime)
		return
	}
	w.i64(floorDiv(p.UnixNano(), 1e6))
}

func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

func (w *writer) colour(c nav.Colour) {
	if !c.Set {
		w.u32(0)
		return
	}
	w.buf = append(w.buf, c.R, c.G, c.B, max(c.A, 1)) // an opacity of 0 says that there is none
}

func (w *writer) symbol(item *nav.Item, at holds.Place, name string) {
	c, exact := code(item.Style.Symbol)
	if !exact {
		w.ledger = append(w.ledger, holds.Changed(at, name, holds.Symbol, item.Style.Symbol, codes[c].neutral,
			"a Keel card has no symbol that is nearer"))
	}
	w.u8(c)
}

func (w *writer) group(path string) {
	if path == "" || w.groups[path] != 0 || len(w.groups) == math.MaxUint16 {
		return
	}
	id := uint16(len(w.groups) + 1)
	w.groups[path] = id
	w.begin(recGroup)
	w.u16(id)
	w.text(path)
	w.end()
}

// depth reads the value of the field depth, in metres.
func depth(text string) (float64, bool) {
	v, _, ok := decimal.Parse([]byte(text))
	return v, ok && math.Abs(v) <= mostMetres
}

func (w *writer) mark(m *nav.Waypoint) {
	w.done.Add(nav.Waypoints, 1)
	kind := [...]byte{recMark1, recMark1, recMark2, recMark3}[w.version]
	w.begin(kind)
	if w.version > 1 {
		w.u16(w.groups[m.Group])
	}
	w.position(&m.Point)
	if w.version > 1 {
		text, _ := nav.Get(m.Fields, "depth")
		w.metres(depth(text))
		w.metres(m.Height(), m.HasHeight())
	}
	w.symbol(&m.Item, holds.Waypoint, m.Name)
	w.text(m.Name)
	if w.version > 1 {
		w.text(m.Desc)
	}
	if w.version > 2 {
		w.colour(m.Style.Colour)
		w.time(&m.Point)
	}
	w.end()
}

// head writes what routes, wakes and zones begin with.
func (w *writer) head(kind byte, item *nav.Item) {
	w.begin(kind)
	w.u16(w.groups[item.Group])
	w.text(item.Name)
	w.text(item.Desc)
}

func (w *writer) route(r *nav.Route) {
	if w.version < 2 {
		return
	}
	w.done.Add(nav.Routes, len(r.Points))
	kind := byte(recRoute2)
	if w.version > 2 {
		kind = recRoute3
	}
	w.head(kind, &r.Item)
	if w.version > 2 {
		w.colour(r.Style.Colour)
	}
	w.u32(uint32(len(r.Points)))
	for i := range r.Points {
		p := &r.Points[i]
		w.position(&p.Point)
		w.metres(p.Height(), p.HasHeight())
		w.symbol(&p.Item, holds.RoutePoint, r.Name)
		w.text(p.Name)
	}
	w.end()
}

func (w *writer) wake(t *nav.Track) {
	if w.version < 3 {
		return
	}
	w.done.Add(nav.Tracks, t.Len())
	w.head(recWake, &t.Item)
	w.colour(t.Style.Colour)
	w.u16(uint16(min(len(t.Segments), math.MaxUint16)))
	for i := range t.Segments[:min(len(t.Segments), math.MaxUint16)] {
		s := &t.Segments[i]
		w.u32(uint32(len(s.Points)))
		w.wakePoints(s.Points)
	}
	w.end()
}

// wakePoint is the bytes of a point of a wake: two of place, one of height, two of time.
const wakePoint = 20

// wakePoints writes the points of a segment; they are nearly all of a card, so that it goes over them in one step.
func (w *writer) wakePoints(points []nav.Point) {
	at := len(w.buf)
	w.buf = slices.Grow(w.buf, wakePoint*len(points))[:at+wakePoint*len(points)]
	inParts(len(points), func(from, to int) {
		for i := from; i < to; i++ {
			p := &points[i]
			b := w.buf[at+wakePoint*i:][:wakePoint]
			order.PutUint32(b, uint32(nearest(p.Lat*perDegree2)))
			order.PutUint32(b[4:], uint32(nearest(p.Lon*perDegree2)))
			height, ms := int32(noValue), int64(noTime)
			if p.HasHeight() {
				if h := p.Height(); math.Abs(h) <= mostMetres {
					height = nearest(h * 100)
				}
			}
			if p.HasTime() {
				ns := p.UnixNano()
				if ms = ns / 1e6; ns-ms*1e6 != 0 {
					ms = floorDiv(ns, 1e6)
				}
			}
			order.PutUint32(b[8:], uint32(height))
			order.PutUint64(b[12:], uint64(ms))
		}
	})
}

// nearest rounds to the nearest whole number, halves away from zero.
func nearest(v float64) int32 { return int32(v + math.Copysign(0.5, v)) }

// mostMetres is the greatest length that is written, in metres.
const mostMetres = 2e7

func (w *writer) zone(a *nav.Area) {
	if w.version < 3 {
		return
	}
	w.done.Add(nav.Areas, a.Len())
	w.head(recZone, &a.Item)
	w.colour(a.Style.Colour)
	w.colour(a.Style.Fill)
	limits, _ := a.Limits() // what can't be read is a field that is lost
	w.level(limits.Floor)
	w.level(limits.Ceiling)
	for _, at := range []*int64{limits.From, limits.Until} {
		if at == nil {
			w.i64(noTime)
		} else {
			w.i64(floorDiv(*at, 1e6))
		}
	}
	rings := a.Rings()
	w.u16(uint16(min(len(rings), math.MaxUint16)))
	for _, ring := range rings[:min(len(rings), math.MaxUint16)] {
		w.u32(uint32(len(ring)))
		for i := range ring {
			w.position(&ring[i])
		}
	}
	w.end()
}

func (w *writer) level(l *nav.Level) {
	switch {
	case l == nil:
		w.u8(levelNone)
		w.i32(0)
		return
	case l.Unlimited:
		w.u8(levelUnlimited)
		w.i32(0)
		return
	case l.Ground:
		w.u8(levelGround)
	case l.Over == nav.PressureLevel:
		w.u8(levelPressure)
	default:
		w.u8(levelSea)
	}
	w.metres(l.Metres, true)
}
