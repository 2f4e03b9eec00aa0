package igc

import (
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// extension is a value at columns of a record, as an I or J record declares it (FAI IGC technical specification, A3.2).
type extension struct {
	from, to int // from 0, to not included
	code     string
}

// extensionKeys are the values that have a name of their own, by their codes (A7); others keep the code.
var extensionKeys = map[string]struct {
	key    string
	factor float64 // to what the key means, as metres a second; 0 is as it stands
}{
	"ENL": {"engine-noise", 0}, "FXA": {"fix-accuracy", 0}, "SIU": {"sat", 0}, "VXA": {"fix-accuracy-vertical", 0},
	"TAS": {"true-airspeed", 1.0 / 3.6}, "IAS": {"airspeed", 1.0 / 3.6}, "GSP": {"speed", 1.0 / 3.6},
	"TRT": {"course", 0}, "HDT": {"heading", 0}, "HDM": {"heading-magnetic", 0}, "OAT": {"temperature", 0},
	"WDI": {"wind-from", 0}, "WVE": {"wind-speed", 1.0 / 3.6}, "MOP": {"engine-noise-means", 0},
	"RPM": {"engine-speed", 0}, "HBR": {"hr", 0}, "GFO": {"acceleration", 0},
}

// listed reads a record that declares the extensions of others: II, and for each SSFFCCC.
func (r *reader) listed(text, of string) (out []extension) {
	if len(text) < 3 {
		r.leave(text[:1])
		return nil
	}
	n, err := strconv.Atoi(text[1:3])
	for i := 0; err == nil && i < n; i++ {
		at := 3 + 7*i
		if at+7 > len(text) {
			r.leave(text[:1] + " beyond its end")
			break
		}
		from, err1 := strconv.Atoi(text[at : at+2])
		to, err2 := strconv.Atoi(text[at+2 : at+4])
		if err1 != nil || err2 != nil || from < 1 || to < from {
			r.leave(text[:1] + " of " + of)
			continue
		}
		out = append(out, extension{from - 1, to, text[at+4 : at+7]})
	}
	return out
}

// extend takes the extensions of a fix: more digits of its place and time, and values.
func (r *reader) extend(p *nav.Point, d *nav.Detail, text string) {
	for _, x := range r.extensions {
		if x.to > len(text) {
			continue
		}
		digits := text[x.from:x.to]
		v, err := strconv.ParseFloat(strings.TrimSpace(digits), 64)
		if err != nil {
			continue
		}
		scale := 1.0
		for range digits {
			scale /= 10
		}
		switch x.code {
		case "LAD", "LOD": // beyond the thousandth of a minute
			at, precision := &p.Lat, &p.LatPrecision
			if x.code == "LOD" {
				at, precision = &p.Lon, &p.LonPrecision
			}
			more := v * scale / 60000
			if *at < 0 {
				more = -more
			}
			*at += more
			*precision = decimal.PrecisionOf(9)
		case "TDS":
			if p.HasTime() {
				p.SetTime(p.UnixNano()+int64(v*scale*1e9+0.5), p.TimeMark()+3)
			}
		default:
			d.Values = append(d.Values, valueOf(x.code, v, strings.TrimSpace(digits)))
		}
	}
}

// valueOf is what a code says, under its key.
func valueOf(code string, v float64, text string) nav.Field {
	known, ok := extensionKeys[code]
	switch {
	case !ok:
		return nav.Field{Key: code, Value: text, Literal: decimal.IsNumber(text)}
	case known.factor != 0:
		return nav.Field{Key: known.key, Value: string(decimal.AppendShort(nil, v*known.factor, 4)), Literal: true}
	}
	return nav.Field{Key: known.key, Value: string(decimal.AppendShort(nil, v, 3)), Literal: true}
}

// lastFix gives the fix that a record of a time belongs to, which is the one before it; nil is none.
func (r *reader) lastFix() *nav.Point {
	if n := len(r.seg.Points); n > 0 {
		return &r.seg.Points[n-1]
	}
	return nil
}

// ofTime takes the values of a record between fixes as those of the fix before it.
func (r *reader) ofTime(text string, extensions []extension) {
	p := r.lastFix()
	if p == nil || len(extensions) == 0 {
		r.leave(text[:1])
		return
	}
	d := nav.Detail{Values: r.seg.Values(nil, p)}
	for _, x := range extensions {
		if x.to > len(text) {
			continue
		}
		digits := strings.TrimSpace(text[x.from:x.to])
		if v, err := strconv.ParseFloat(digits, 64); err == nil {
			d.Values = append(d.Values, valueOf(x.code, v, digits))
		}
	}
	r.seg.Attach(p, d)
}

// event keeps an event (E record: time, a code and a text) for the fix that follows it (A4.2).
func (r *reader) event(text string) {
	if len(text) < 10 {
		r.leave(text[:1])
		return
	}
	r.events = append(r.events, nav.Field{Key: "event", Value: strings.TrimSpace(text[7:])})
}

// lateEvents gives the last fix the events behind it.
func (r *reader) lateEvents() {
	if p := r.lastFix(); p != nil && len(r.events) > 0 {
		r.seg.Attach(p, nav.Detail{Values: append(r.seg.Values(nil, p), r.events...)})
	} else if len(r.events) > 0 {
		r.leave("E")
	}
}
