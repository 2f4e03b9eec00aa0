package gpx

import (
	"bytes"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// wholePoint is how much must be ahead for a point to be surely whole in it.
const wholePoint = 1024

// plainPoints takes the points ahead that have the form which nearly all recordings have,
//
//	<trkpt lat="…" lon="…"><ele>…</ele><time>…Z</time></trkpt>
//
// with blanks between the elements, height or time perhaps missing, and perhaps satellites, dilution and the like
// behind them. It reads such a point in one step, which is several times faster than tag by tag, and leaves any other
// to the scanner. It says how many it took.
func (r *reader) plainPoints(seg *nav.Segment) (taken int) {
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
			if r.same >= 0 || len(r.values) > 0 || r.shape != nil {
				r.detail(seg, to)
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

// detail gives a point that was read in one step what it has besides. Points of a segment with the same share it.
func (r *reader) detail(seg *nav.Segment, to *nav.Point) {
	if r.same >= 0 {
		seg.Share(to, r.same)
		return
	}
	seg.AttachForm(to, r.form(), r.texts)
	if r.rest == "" || !seg.HasDetail(to) {
		return
	}
	if r.rests.known == nil {
		r.rests.known = map[string]int{}
	}
	r.rests.known[r.rest] = to.DetailIndex()
	if len(r.rests.known) == mostRests && r.rests.found < mostRests {
		r.rests = rests{unlike: true}
	}
}

// rests are the texts behind the height and time of a segment's points, which may come again and again, each with the
// index of the detail that it makes.
type rests struct {
	known  map[string]int
	found  int
	unlike bool // most are of one point only, so that looking for them does not pay
}

// mostRests bounds how many are remembered.
const mostRests = 1 << 14

// sameRest finds out whether what is ahead of the point's end was read before, and says how long it is with that end;
// 0 where it was not.
func (r *reader) sameRest(b []byte) int {
	if len(r.rests.known) == 0 {
		return 0
	}
	n := bytes.Index(b, []byte(pointEnd))
	if n < 0 {
		return 0
	}
	if index, ok := r.rests.known[string(b[:n])]; ok {
		r.same = index
		r.rests.found++
		return n + len(pointEnd)
	}
	return 0
}

const pointEnd = "</trkpt>"

// plainPoint reads one plain point with the blanks before it, and says how long it is; 0 if it is not plain.
func (r *reader) plainPoint(b []byte, p *nav.Point) int {
	r.values, r.texts, r.shape, r.extensions.pending = r.values[:0], r.texts[:0], nil, ""
	r.same, r.rest = -1, ""
	behind, mixed := 0, false // where what follows height and time begins, and whether one of them follows again
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
		v, digits, n := decimal.Prefix(b[i+5:])
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
			v, digits, n := decimal.Prefix(b[i+5:])
			i += 5 + n
			if n == 0 || len(b)-i < 6 || string(b[i:i+6]) != "</ele>" {
				return 0
			}
			p.SetHeight(v, digits, nav.DatumUnstated)
			i, mixed = i+6, behind > 0
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
			i, mixed = i+7, behind > 0
		case string(b[i:i+8]) == pointEnd:
			if behind > 0 && !mixed && !r.rests.unlike && len(r.rests.known) < mostRests {
				r.rest = string(b[behind:i])
			}
			return i + 8
		default:
			if behind == 0 {
				if n := r.sameRest(b[i:]); n > 0 {
					return i + n
				}
				behind = i
			}
			n := r.plainValue(b[i:])
			if n == 0 {
				n = r.knownExtension(b[i:])
			}
			if n == 0 {
				return 0
			}
			i += n
		}
	}
}

// plainValue reads an element of a value that points have, <sat>9</sat>, and says how long it is; 0 if it is not plain.
func (r *reader) plainValue(b []byte) int {
	const longest = 16
	if r.shape != nil { // what stands behind the extensions is for the scanner
		return 0
	}
	n := bytes.IndexByte(b[:min(len(b), longest)], '>')
	if n < 2 {
		return 0
	}
	key := ""
	switch string(b[1:n]) { // which allocates nothing
	case "fix":
		key = "fix"
	case "sat":
		key = "sat"
	case "hdop":
		key = "hdop"
	case "vdop":
		key = "vdop"
	case "pdop":
		key = "pdop"
	case "ageofdgpsdata":
		key = "ageofdgpsdata"
	case "dgpsid":
		key = "dgpsid"
	case "magvar":
		key = "magvar"
	case "geoidheight":
		key = "geoidheight"
	case "course":
		key = "course"
	case "speed":
		key = "speed"
	default:
		return 0
	}
	text := b[n+1:]
	end := bytes.IndexByte(text[:min(len(text), 2*longest)], '<')
	behind := n + 1 + end
	if end < 1 || len(b)-behind < n+3 || b[behind+1] != '/' || string(b[behind+2:behind+1+n]) != key ||
		b[behind+1+n] != '>' {
		return 0
	}
	for _, c := range text[:end] { // blanks, references and other letters are the scanner's
		if c <= ' ' || c >= 0x7f || c == '&' {
			return 0
		}
	}
	r.values = append(r.values, nav.FormValue{Key: key, Literal: decimal.IsNumber(string(text[:end])), Text: len(r.texts)})
	r.texts = append(r.texts, text[:end])
	return behind + n + 2
}

func skipBlanks(b []byte, i int) int {
	for i < len(b) && (b[i] == ' ' || b[i] == '\n' || b[i] == '\r' || b[i] == '\t') {
		i++
	}
	return i
}
