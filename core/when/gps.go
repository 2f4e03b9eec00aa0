package when

import (
	"bytes"
	"encoding/binary"
	"errors"
	"math"
	"slices"

	"gyrolith/core/nav"
)

// Tags and types of Exif (CIPA DC-008, tables 15 and 3).
const (
	tagGPS = 0x8825

	typeByte     = 1
	typeASCII    = 2
	typeLong     = 4
	typeRational = 5
)

// errNotJPEG and errDamaged say why a picture can't be given a position.
var (
	errNotJPEG = errors.New("is not a JPEG picture; only those can be given positions")
	errDamaged = errors.New("the picture is damaged or cut off")
	errNoRoom  = errors.New("the picture's Exif data have no room for a position")
)

// WithPosition gives a copy of a JPEG picture whose Exif data have the position, in WGS 84, and the time of it. What is
// there stays where it is, since data of the camera's maker point to places in it: a new directory is put behind, which
// has all that the first one had.
func WithPosition(picture []byte, p *nav.Point) ([]byte, error) {
	if !bytes.HasPrefix(picture, []byte{0xff, 0xd8}) {
		return nil, errNotJPEG
	}
	const head = "Exif\x00\x00"
	at, end, tiff := 2, 2, []byte(nil)
	for i := 2; i+4 <= len(picture) && picture[i] == 0xff && picture[i+1] >= 0xe0 && picture[i+1] <= 0xef; {
		n := int(binary.BigEndian.Uint16(picture[i+2:]))
		if n < 2 || i+2+n > len(picture) {
			return nil, errDamaged
		}
		if body := picture[i+4 : i+2+n]; picture[i+1] == 0xe1 && bytes.HasPrefix(body, []byte(head)) {
			at, end, tiff = i, i+2+n, body[len(head):]
			break
		}
		if picture[i+1] == 0xe0 { // a JFIF segment comes first
			at, end = i+2+n, i+2+n
		}
		i += 2 + n
	}
	if tiff == nil { // a directory without entries
		tiff = []byte{'M', 'M', 0, 42, 0, 0, 0, 8, 0, 0, 0, 0, 0, 0}
	}
	tiff, err := addGPS(tiff, p)
	if err != nil {
		return nil, err
	}
	size := 2 + len(head) + len(tiff)
	if size > math.MaxUint16 {
		return nil, errNoRoom
	}
	out := bytes.NewBuffer(make([]byte, 0, len(picture)+size))
	out.Write(picture[:at])
	out.Write([]byte{0xff, 0xe1, byte(size >> 8), byte(size)})
	out.WriteString(head)
	out.Write(tiff)
	out.Write(picture[end:])
	return out.Bytes(), nil
}

// byteOrder is that of Exif data, which is read and written.
type byteOrder interface {
	binary.ByteOrder
	binary.AppendByteOrder
}

// entry is one of a directory (TIFF 6.0, section 2).
type entry struct {
	tag, kind uint16
	count     uint32
	value     []byte // of four bytes: the value itself, or where it is
}

// directory writes entries at a place, those of values longer than four bytes behind.
type directory struct {
	order   byteOrder
	entries []entry
	long    map[uint16][]byte
}

func (d *directory) add(tag, kind uint16, count uint32, value []byte) {
	e := entry{tag, kind, count, make([]byte, 4)}
	if len(value) <= 4 {
		copy(e.value, value)
	} else {
		d.long[tag] = value
	}
	d.entries = append(d.entries, e)
}

func (d *directory) write(tiff []byte, next uint32) []byte {
	slices.SortFunc(d.entries, func(a, b entry) int { return int(a.tag) - int(b.tag) })
	behind := uint32(len(tiff) + 2 + 12*len(d.entries) + 4)
	tiff = d.order.AppendUint16(tiff, uint16(len(d.entries)))
	var values []byte
	for _, e := range d.entries {
		tiff = d.order.AppendUint16(d.order.AppendUint16(tiff, e.tag), e.kind)
		tiff = d.order.AppendUint32(tiff, e.count)
		if v, ok := d.long[e.tag]; ok {
			tiff = d.order.AppendUint32(tiff, behind+uint32(len(values)))
			values = append(values, v...)
			continue
		}
		tiff = append(tiff, e.value...)
	}
	return append(d.order.AppendUint32(tiff, next), values...)
}

// addGPS adds the directory of the position to Exif data.
func addGPS(tiff []byte, p *nav.Point) ([]byte, error) {
	if len(tiff) < 8 {
		return nil, errDamaged
	}
	var order byteOrder = binary.BigEndian
	switch string(tiff[:2]) {
	case "II":
		order = binary.LittleEndian
	case "MM":
	default:
		return nil, errDamaged
	}
	first := int(order.Uint32(tiff[4:]))
	if first < 8 || first+2 > len(tiff) {
		return nil, errDamaged
	}
	n := int(order.Uint16(tiff[first:]))
	if first+2+12*n+4 > len(tiff) {
		return nil, errDamaged
	}
	whole := &directory{order: order, long: map[uint16][]byte{}}
	for i := range n {
		e := tiff[first+2+12*i:]
		if tag := order.Uint16(e); tag != tagGPS {
			whole.entries = append(whole.entries, entry{tag, order.Uint16(e[2:]), order.Uint32(e[4:]), slices.Clone(e[8:12])})
		}
	}
	next := order.Uint32(tiff[first+2+12*n:])
	out := slices.Clone(tiff)
	if len(out)%2 == 1 {
		out = append(out, 0)
	}
	at := uint32(len(out))
	out = gpsOf(p, order).write(out, 0)
	if len(out)%2 == 1 {
		out = append(out, 0)
	}
	whole.add(tagGPS, typeLong, 1, order.AppendUint32(nil, at))
	order.PutUint32(out[4:], uint32(len(out)))
	return whole.write(out, next), nil
}

// gpsOf is the directory of a position (CIPA DC-008, 4.6.6).
func gpsOf(p *nav.Point, order byteOrder) *directory {
	d := &directory{order: order, long: map[uint16][]byte{}}
	rational := func(v float64, of uint32) []byte {
		return order.AppendUint32(order.AppendUint32(nil, uint32(math.Round(v*float64(of)))), of)
	}
	angle := func(v float64) []byte { // degrees, minutes, and seconds to a ten-thousandth, 3 mm
		s := math.Round(math.Abs(v)*36e6) / 1e4
		deg, min := math.Floor(s/3600), math.Floor(math.Mod(s, 3600)/60)
		return slices.Concat(rational(deg, 1), rational(min, 1), rational(s-deg*3600-min*60, 10000))
	}
	side := func(v float64, plus, minus byte) []byte {
		if v < 0 {
			plus = minus
		}
		return []byte{plus, 0}
	}
	d.add(0, typeByte, 4, []byte{2, 3, 0, 0})
	d.add(1, typeASCII, 2, side(p.Lat, 'N', 'S'))
	d.add(2, typeRational, 3, angle(p.Lat))
	d.add(3, typeASCII, 2, side(p.Lon, 'E', 'W'))
	d.add(4, typeRational, 3, angle(p.Lon))
	if p.HasHeight() && p.VerticalDatum().AboveSea() { // which is what the reference below says
		below := []byte{0}
		if p.Height() < 0 {
			below[0] = 1
		}
		d.add(5, typeByte, 1, below)
		d.add(6, typeRational, 1, rational(math.Abs(p.Height()), 100))
	}
	if p.HasTime() {
		t := p.Time().UTC()
		seconds := float64(t.Second()) + float64(t.Nanosecond())/1e9
		d.add(7, typeRational, 3, slices.Concat(rational(float64(t.Hour()), 1), rational(float64(t.Minute()), 1),
			rational(math.Floor(seconds*1000)/1000, 1000)))
		d.add(29, typeASCII, 11, []byte(t.Format("2006:01:02")+"\x00"))
	}
	d.add(18, typeASCII, 7, []byte("WGS-84\x00"))
	return d
}
