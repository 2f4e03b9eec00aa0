package gpx

import (
	"bytes"

	"gyrolith/core/nav"
)

// wholePoint is how much must be ahead for a point to be surely whole in it.
const wholePoint = 512

// plainPoints takes the points ahead that have the form which nearly all recordings have,
//
//	<trkpt lat="…" lon="…"><ele>…</ele><time>…Z</time></trkpt>
//
// with blanks between the elements, and height or time perhaps missing. It reads such a point in one step, which
// is several times faster than tag by tag, and leaves any other to the scanner. It says how many it took.
func (r *reader) plainPoints() (taken int) {
	for {
		b := r.Ahead()
		at := 0
		for len(b)-at >= wholePoint {
			to := r.line.Add(r.Passed()+int64(at), r.src.Size)
			n := r.plainPoint(b[at:at+wholePoint], to)
			if n == 0 {
				r.line.Drop()
				r.Advance(at)
				return taken
			}
			at += n
			taken++
		}
		r.Advance(at)
		if !r.More() {
			return taken
		}
	}
}

// plainPoint reads one plain point with the blanks before it, and says how long it is; 0 if it is not plain.
func (r *reader) plainPoint(b []byte, p *nav.Point) int {
	i := skipBlanks(b, 0)
	if len(b)-i < 64 || string(b[i:i+7]) != "<trkpt " {
		return 0
	}
	i += 7
	var lat, lon bool
	for range 2 {
		i = skipBlanks(b, i)
		if len(b)-i < 32 || b[i+3] != '=' {
			return 0
		}
		quote := b[i+4]
		v, digits, n := nav.DecimalPrefix(b[i+5:])
		end := i + 5 + n
		if n == 0 || quote != '"' && quote != '\'' || end >= len(b) || b[end] != quote {
			return 0
		}
		switch string(b[i : i+3]) {
		case "lat":
			p.Lat, p.LatPrecision, lat = v, digits, v >= -90 && v <= 90
		case "lon":
			p.Lon, p.LonPrecision, lon = v, digits, v >= -180 && v < 180
		}
		i = end + 1
	}
	const sure = 14 // 13 decimals, which float64 gives back
	if !lat || !lon || b[i] != '>' || p.LatPrecision > sure || p.LonPrecision > sure {
		return 0
	}
	i++
	for {
		i = skipBlanks(b, i)
		if len(b)-i < 16 || b[i] != '<' {
			return 0
		}
		switch {
		case string(b[i:i+5]) == "<ele>" && !p.HasHeight():
			v, digits, n := nav.DecimalPrefix(b[i+5:])
			i += 5 + n
			if n == 0 || len(b)-i < 6 || string(b[i:i+6]) != "</ele>" {
				return 0
			}
			p.SetHeight(v, digits, nav.DatumUnstated)
			i += 6
		case string(b[i:i+6]) == "<time>" && !p.HasTime():
			n := bytes.IndexByte(b[i+6:min(i+6+32, len(b))], '<')
			if n < 0 {
				return 0
			}
			ns, mark, ok := r.clock.Parse(b[i+6 : i+6+n])
			i += 6 + n
			if !ok || len(b)-i < 7 || string(b[i:i+7]) != "</time>" {
				return 0
			}
			p.SetTime(ns, mark)
			i += 7
		case string(b[i:i+8]) == "</trkpt>":
			return i + 8
		default:
			return 0
		}
	}
}

func skipBlanks(b []byte, i int) int {
	for i < len(b) && (b[i] == ' ' || b[i] == '\n' || b[i] == '\r' || b[i] == '\t') {
		i++
	}
	return i
}
