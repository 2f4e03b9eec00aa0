package talker

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Positions of vessels by radio (AIS) come in the sentences VDM, of others, and VDO, of the own ship: a message of
// ITU-R M.1371-5, annex 8, in six bits a character.

// vessel is what was heard of one station.
type vessel struct {
	mmsi   uint32
	name   string
	own    bool
	fixed  string // the sort of a station that stays where it is; "" is a vessel
	fields []nav.Field
	points nav.Segment
}

// say sets a field; what was said last holds.
func (v *vessel) say(key, text string, number bool) {
	if text == "" {
		return
	}
	v.fields = append(slices.DeleteFunc(v.fields, func(f nav.Field) bool { return f.Key == key }),
		nav.Field{Key: key, Value: text, Literal: number})
}

// radio gathers the messages.
type radio struct {
	vessels  map[uint32]*vessel
	order    []uint32
	parts    map[string][]string // payloads of messages of several sentences, by channel and number
	now      int64               // the time of what was heard last, nanoseconds since 1970; 0 is unknown
	other    int                 // messages that say no position
	timeless int
}

func newRadio() *radio { return &radio{vessels: map[uint32]*vessel{}, parts: map[string][]string{}} }

// bits is an unpacked message.
type bits []byte

// unpack turns the characters of a payload into bits (IEC 61162-1, table 10 of VDM).
func unpack(payload string, fill int) (bits, bool) {
	out := make(bits, 0, 6*len(payload))
	for i := range len(payload) {
		v := payload[i] - 48
		if v > 40 {
			v -= 8
		}
		if v > 63 {
			return nil, false
		}
		for k := 5; k >= 0; k-- {
			out = append(out, v>>k&1)
		}
	}
	return out[:max(len(out)-fill, 0)], true
}

// number reads an unsigned number.
func (b bits) number(at, length int) (v uint32) {
	if at+length > len(b) {
		return 0
	}
	for _, bit := range b[at : at+length] {
		v = v<<1 | uint32(bit)
	}
	return
}

// signed reads a number in two's complement.
func (b bits) signed(at, length int) int32 {
	v := b.number(at, length)
	return int32(v<<(32-length)) >> (32 - length)
}

// text reads six-bit letters, to the sign that ends them.
func (b bits) text(at, letters int) string {
	var out strings.Builder
	for i := range letters {
		if at+6*i+6 > len(b) {
			break
		}
		c := b.number(at+6*i, 6)
		if c == 0 { // @
			break
		}
		if c < 32 {
			c += 64
		}
		out.WriteByte(byte(c))
	}
	return strings.TrimSpace(out.String())
}

// sentence takes a VDM or VDO; false says that it can't be read.
func (r *radio) sentence(kind string, f []string, stamp int64) bool {
	if len(f) < 6 {
		return false
	}
	total, err1 := strconv.Atoi(f[0])
	number, err2 := strconv.Atoi(f[1])
	fill, err3 := strconv.Atoi(f[5])
	if err1 != nil || err2 != nil || err3 != nil || number < 1 || number > total || total > 9 || fill < 0 || fill > 5 {
		return false
	}
	if stamp != 0 {
		r.now = stamp
	}
	payload := f[4]
	if total > 1 {
		key := kind + f[2] + "/" + f[3]
		if number == 1 {
			r.parts[key] = nil
		} else if len(r.parts[key]) != number-1 {
			delete(r.parts, key)
			return false
		}
		r.parts[key] = append(r.parts[key], payload)
		if number < total {
			return true
		}
		payload = strings.Join(r.parts[key], "")
		delete(r.parts, key)
	}
	b, ok := unpack(payload, fill)
	if !ok || len(b) < 38 {
		return false
	}
	r.message(b, kind == "VDO")
	return true
}

// report is where a message has its values, by the bit at which they begin; 0 is none.
type report struct {
	lon, lat, speed, course, heading int
	coarse                           bool // a tenth of a minute, whole knots and degrees, as message 27 has it
}

var reports = map[uint32]report{
	1: {61, 89, 50, 116, 128, false}, 2: {61, 89, 50, 116, 128, false}, 3: {61, 89, 50, 116, 128, false},
	4: {lon: 79, lat: 107}, 9: {lon: 61, lat: 89, course: 116}, 11: {lon: 79, lat: 107},
	18: {57, 85, 46, 112, 124, false}, 19: {57, 85, 46, 112, 124, false},
	21: {lon: 164, lat: 192}, 27: {lon: 44, lat: 62, speed: 79, course: 85, coarse: true},
}

// nameAt is where a message has the name of a station: the first bit and the letters.
var nameAt = map[uint32][2]int{5: {112, 20}, 19: {143, 20}, 21: {43, 20}, 24: {40, 20}}

func (r *radio) message(b bits, own bool) {
	kind, mmsi := b.number(0, 6), b.number(8, 30)
	v := r.vessels[mmsi]
	if v == nil {
		v = &vessel{mmsi: mmsi}
		r.vessels[mmsi], r.order = v, append(r.order, mmsi)
	}
	v.own = v.own || own
	if at, ok := nameAt[kind]; ok && !(kind == 24 && b.number(38, 2) != 0) {
		if name := b.text(at[0], at[1]); name != "" {
			v.name = name
		}
	}
	if kind == 4 || kind == 11 { // a station tells the time
		at := time.Date(int(b.number(38, 14)), time.Month(b.number(52, 4)), int(b.number(56, 5)), int(b.number(61, 5)),
			int(b.number(66, 6)), int(b.number(72, 6)), 0, time.UTC)
		if at.Year() > 1999 && at.Year() < 2100 && b.number(72, 6) < 60 {
			r.now = at.UnixNano()
		}
	}
	v.voyage(b, kind)
	where, ok := reports[kind]
	if !ok && (kind == 5 || kind == 24) {
		return // which says more of a vessel
	}
	if !ok {
		r.other++
		return
	}
	r.position(v, b, where)
}

// statuses are the words of the navigational status (ITU-R M.1371-5, table 45).
var statuses = []string{"under way using engine", "at anchor", "not under command", "restricted manoeuvrability",
	"constrained by draught", "moored", "aground", "engaged in fishing", "under way sailing"}

// voyage takes what messages say of a vessel and its voyage, or of a station (annex 8, 3.1 to 3.22).
func (v *vessel) voyage(b bits, kind uint32) {
	number := func(key string, value uint32) {
		if value != 0 {
			v.say(key, strconv.FormatUint(uint64(value), 10), true)
		}
	}
	switch kind {
	case 1, 2, 3:
		if status := b.number(38, 4); int(status) < len(statuses) {
			v.say("status", statuses[status], false)
		}
	case 4:
		v.fixed = "base station"
	case 5:
		number("imo", b.number(40, 30))
		v.say("call-sign", b.text(70, 7), false)
		number("ship-type", b.number(232, 8))
		if draught := b.number(294, 8); draught != 0 {
			v.say("draught", string(decimal.AppendShort(nil, float64(draught)/10, 1)), true)
		}
		v.say("destination", b.text(302, 20), false)
	case 19:
		number("ship-type", b.number(263, 8))
	case 21:
		v.fixed = "aid to navigation"
		number("aid-type", b.number(38, 5))
	case 24:
		if b.number(38, 2) == 1 {
			number("ship-type", b.number(40, 8))
			v.say("call-sign", b.text(90, 7), false)
		}
	}
}

func (r *radio) position(v *vessel, b bits, at report) {
	lon, lat := float64(b.signed(at.lon, 28))/600_000, float64(b.signed(at.lat, 27))/600_000
	if at.coarse {
		lon, lat = float64(b.signed(at.lon, 18))/600, float64(b.signed(at.lat, 17))/600
	}
	if len(b) < at.lat+17 || !nav.Usable(lat, lon) { // 181 and 91 degrees say that there is none
		r.other++
		return
	}
	p := nav.At(lat, lon)
	digits := 7
	if at.coarse {
		digits = 4
	}
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(digits), decimal.PrecisionOf(digits)
	if r.now != 0 {
		mark := instant.Seconds
		if r.now%1e9 != 0 {
			mark += 3
		}
		p.SetTime(r.now, mark)
	} else {
		r.timeless++
	}
	var values []nav.Field
	add := func(key string, v float64, decimals int) {
		values = append(values, nav.Field{Key: key, Value: string(decimal.AppendShort(nil, v, decimals)), Literal: true})
	}
	switch speed := b.number(at.speed, 10); {
	case at.coarse:
		if s := b.number(at.speed, 6); s != 63 {
			add("speed", float64(s)*knot, 4)
		}
		if c := b.number(at.course, 9); c < 360 {
			add("course", float64(c), 0)
		}
	default:
		if at.speed > 0 && speed != 1023 {
			add("speed", float64(speed)/10*knot, 4)
		}
		if c := b.number(at.course, 12); at.course > 0 && c < 3600 {
			add("course", float64(c)/10, 1)
		}
	}
	if h := b.number(at.heading, 9); at.heading > 0 && h < 360 {
		add(valueHeading, float64(h), 0)
	}
	v.points.Attach(&p, nav.Detail{Values: values})
	v.points.Points = append(v.points.Points, p)
}

// items gives a track for each vessel with a position, the own ship first, and a waypoint for each station that stays
// where it is, with its last position.
func (r *radio) items() (tracks []nav.Track, stations []nav.Waypoint) {
	for _, mmsi := range r.order {
		v := r.vessels[mmsi]
		if len(v.points.Points) == 0 {
			continue
		}
		item := nav.Item{Name: v.name}
		if item.Name == "" {
			item.Name = fmt.Sprintf("MMSI %09d", mmsi)
		}
		item.Fields = append([]nav.Field{{Key: "mmsi", Value: fmt.Sprintf("%09d", mmsi)}}, v.fields...)
		if v.fixed != "" && !v.own {
			item.Type = v.fixed
			last := v.points.Points[len(v.points.Points)-1]
			stations = append(stations, nav.Waypoint{Item: item, Point: last.Loose()})
			continue
		}
		t := nav.Track{Item: item, Segments: []nav.Segment{v.points}}
		t.Type = motion.ContactType
		if v.own {
			t.Comment = motion.OwnShip
			tracks = slices.Insert(tracks, 0, t)
			continue
		}
		tracks = append(tracks, t)
	}
	return tracks, stations
}
