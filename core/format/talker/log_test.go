package talker

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A log over midnight, of two talkers, with a gap, depths, a heading, garbled and foreign sentences.
func TestLog(t *testing.T) {
	var b strings.Builder
	b.WriteString(Sentence("IIHDT,045.5,T") + Sentence("GPGSV,1,1,01,07,79,048,42"))
	for i, at := range []string{"235957.00", "235958.00", "235959.50", "000001.00"} {
		date := "140326"
		if i == 3 {
			date = "150326"
		}
		b.WriteString(Sentence(fmt.Sprintf("GNGGA,%s,4736.%04d,S,01118.0000,E,2,09,0.9,12.5,M,41.2,M,,", at, i*100)))
		b.WriteString(Sentence(fmt.Sprintf("GPRMC,%s,A,4736.%04d,S,01118.0000,E,006.0,271.5,%s,,", at, i*100, date)))
		b.WriteString(Sentence("SDDPT,12.4,0.6,100"))
	}
	b.WriteString(Sentence("GPRMC,000002.00,V,,,,,,,150326,,"))
	b.WriteString(
		strings.Replace(Sentence("GPRMC,000003.00,A,4737.0000,S,01118.0000,E,6,270,150326,,"), "4737", "4747", 1),
	)
	b.WriteString(Sentence("GPRMC,000010.00,A,4737.0000,S,01118.0000,E,6,270,150326,,") + Sentence("SDDBT,,f,3.5,M,,F"))
	b.WriteString(Sentence("GPRMC,000210.00,A,4738.0000,S,01118.0000,E,6,270,150326,,") + Sentence("SDDPT,9,-1.5,"))
	d := load(t, b.String())
	if len(d.Tracks) != 1 || d.Tracks[0].Name != "Log of 2026-03-14 23:59" {
		t.Fatalf("%+v", d)
	}
	segments := d.Tracks[0].Segments
	if len(segments) != 3 || len(segments[0].Points) != 4 || len(segments[1].Points) != 1 {
		t.Fatalf("%d segments: %+v", len(segments), segments)
	}
	s := &segments[0]
	p := &s.Points[3]
	if want := time.Date(2026, 3, 15, 0, 0, 1, 0, time.UTC); !p.Time().Equal(want) || p.Height() != 12.5 ||
		p.VerticalDatum() != nav.MeanSeaLevel || math.Abs(p.Lat+47.6005) > 1e-9 {
		t.Errorf("%v %v %v", p.Time(), p.Height(), p.Lat)
	}
	if s.Points[2].Time().Nanosecond() != 5e8 || s.Points[0].TimeMark() != instant.Seconds {
		t.Errorf("%v", s.Points[2].Time())
	}
	values := map[string]string{}
	for _, f := range s.Detail(&s.Points[0]).Values {
		values[f.Key] = f.Value
	}
	for key, want := range map[string]string{"heading": "45.5", "sat": "9", "hdop": "0.9", "fix": "dgps",
		"speed":  "3.0867",
		"course": "271.5", "depth-below-transducer": "12.4", "depth": "13", "geoidheight": "41.2"} {
		if values[key] != want {
			t.Errorf("%s is %q, want %q", key, values[key], want)
		}
	}
	x, y := &segments[1], &segments[2]
	if got := fmt.Sprint(x.Detail(&x.Points[0]).Values, y.Detail(&y.Points[0]).Values); !strings.Contains(got,
		"{depth-below-transducer 3.5 true false}") || !strings.Contains(got, "{depth-below-keel 7.5 true false}") {
		t.Errorf("%s", got)
	}
	if got := told(d); !strings.Contains(got, "garbled") || !strings.Contains(got, "GSV 1") {
		t.Errorf("%s", got)
	}
}

// Logs have times of their own before the sentences; one without a date says that its times are left out; a long gap
// begins a segment.
func TestLogForms(t *testing.T) {
	fix := func(at string) string { return Sentence("GPGGA," + at + ",4736.0,S,01118.0,E,1,05,1.5,3,M,,M,,") }
	for name, c := range map[string]struct{ prefix, want string }{
		"RFC 3339":  {"2026-03-14T05:30:00.250Z ", "2026-03-14 05:30:00.25 +0000 UTC"},
		"a blank":   {"[2026-03-14 05:30:00] ", "2026-03-14 05:30:00 +0000 UTC"},
		"seconds":   {"1773466200.5;", "2026-03-14 05:30:00.5 +0000 UTC"},
		"tag block": {`\s:rx1,c:1773466200*00\`, "2026-03-14 05:30:00 +0000 UTC"},
		"none":      {"", "0001-01-01 00:00:00 +0000 UTC"},
	} {
		text := c.prefix + fix("053000") + c.prefix + fix("053001")
		if !sniff(format.NewHead([]byte(text))) {
			t.Errorf("%s is not recognised", name)
		}
		d := load(t, text)
		if len(d.Tracks) != 1 || d.Tracks[0].Segments[0].Points[0].Time().String() != c.want {
			t.Errorf("%s: %+v", name, d.Tracks)
		}
		if no := strings.Contains(told(d), "has no date"); no != (c.prefix == "") {
			t.Errorf("%s: %s", name, told(d))
		}
	}
	d := load(t, fix("053000")+fix("053001")+fix("053002")+fix("053100")+fix("053101"))
	if n := len(d.Tracks[0].Segments); n != 2 {
		t.Errorf("%d segments", n)
	}
}

// message packs values into a message by radio, each in so many bits (ITU-R M.1371-5, annex 8).
func message(values ...[2]int) string {
	var bits []byte
	for _, v := range values {
		for k := v[1] - 1; k >= 0; k-- {
			bits = append(bits, byte(v[0]>>k&1))
		}
	}
	for len(bits)%6 != 0 {
		bits = append(bits, 0)
	}
	var out strings.Builder
	for i := 0; i < len(bits); i += 6 {
		v := byte(0)
		for _, b := range bits[i : i+6] {
			v = v<<1 | b
		}
		if v += 48; v > 87 {
			v += 8
		}
		out.WriteByte(v)
	}
	return out.String()
}

// letters packs a name of twenty six-bit letters.
func letters(name string) (out [][2]int) {
	for i := range 20 {
		c := 0
		if i < len(name) {
			if c = int(name[i]); c >= 64 {
				c -= 64
			}
		}
		out = append(out, [2]int{c, 6})
	}
	return
}

func TestVessels(t *testing.T) {
	at := func(degrees float64) int { return int(math.Round(degrees * 600_000)) }
	classA := func(mmsi int, lat, lon float64, speed, course, heading int) string {
		return message([2]int{1, 6}, [2]int{0, 2}, [2]int{mmsi, 30}, [2]int{0, 4}, [2]int{128, 8}, [2]int{speed, 10},
			[2]int{1, 1}, [2]int{at(lon), 28}, [2]int{at(lat), 27}, [2]int{course, 12}, [2]int{heading, 9}, [2]int{0, 6},
			[2]int{0, 25})
	}
	static := message(append([][2]int{{5, 6}, {0, 2}, {234567, 30}, {0, 2}, {0, 30}, {0, 42}}, append(letters("SORREL"),
		[2]int{0, 8}, [2]int{0, 184})...)...)
	station := message([2]int{4, 6}, [2]int{0, 2}, [2]int{1, 30}, [2]int{2026, 14}, [2]int{3, 4}, [2]int{14, 5},
		[2]int{5, 5}, [2]int{30, 6}, [2]int{0, 6}, [2]int{1, 1}, [2]int{at(181), 28}, [2]int{at(91), 27}, [2]int{0, 30})
	text := Sentence("AIVDM,1,1,,A,"+station+",0") +
		Sentence("AIVDM,2,1,3,B,"+static[:40]+",0") + Sentence("AIVDM,2,2,3,B,"+static[40:]+",0") +
		Sentence("AIVDM,1,1,,A,"+classA(234567, -47.6, 11.3, 85, 2715, 270)+",0") +
		Sentence("AIVDO,1,1,,,"+classA(1, -47.5, -11.25, 1023, 3600, 511)+",0") +
		Sentence("AIVDM,1,1,,A,"+classA(234567, -47.61, 11.3, 85, 2715, 270)+",0") +
		Sentence("AIVDM,1,1,,A,"+classA(7, 91, 181, 0, 0, 0)+",0") + Sentence("AIVDM,2,2,9,A,00,0")
	d := load(t, strings.ReplaceAll(text, "$", "!"))
	if len(d.Tracks) != 2 || d.Tracks[0].Comment != "own ship" || d.Tracks[0].Name != "MMSI 000000001" ||
		d.Tracks[1].Name != "SORREL" {
		t.Fatalf("%+v", d.Tracks)
	}
	s := &d.Tracks[1].Segments[0]
	p := &s.Points[0]
	if len(s.Points) != 2 || math.Abs(p.Lat+47.6) > 1e-6 || math.Abs(p.Lon-11.3) > 1e-6 || p.Time().Hour() != 5 ||
		fmt.Sprint(s.Detail(p).Values) != "[{speed 4.3728 true false} {course 271.5 true false} {heading 270 true false}]" {
		t.Errorf("%+v %v", p, s.Detail(p))
	}
	own := &d.Tracks[0].Segments[0]
	if q := &own.Points[0]; math.Abs(q.Lon+11.25) > 1e-6 || own.Detail(q) != nil {
		t.Errorf("what is not known has values: %+v", own.Detail(q))
	}
	if got := told(d); !strings.Contains(got, "VDM that can't be read") || !strings.Contains(got, "without a position") {
		t.Errorf("%s", got)
	}
}

// Every fix has the date that its own sentence says; those without one have that of the fixes around them, so that
// times do not run backwards. Three mornings in one log are three mornings.
func TestDatesOfLog(t *testing.T) {
	var b strings.Builder
	for day := range 3 {
		for i := range 60 {
			at := fmt.Sprintf("%02d%02d00", 6+i/10, i%10*6)
			if i%5 != 0 { // a fix without a date
				b.WriteString(Sentence(fmt.Sprintf("GPGGA,%s,4736.%04d,S,01118.0000,E,1,09,0.9,12.5,M,41.2,M,,", at, day*100+i)))
				continue
			}
			b.WriteString(Sentence(fmt.Sprintf("GPRMC,%s,A,4736.%04d,S,01118.0000,E,6,270,%02d0326,,", at, day*100+i, 14+day)))
		}
	}
	d := load(t, b.String())
	var last time.Time
	count := map[string]int{}
	for p := range d.AllPoints() {
		if !p.Time().After(last) {
			t.Fatalf("%v is after %v", p.Time(), last)
		}
		last = p.Time()
		count[last.Format(time.DateOnly)]++
	}
	if len(d.Tracks) != 1 || count["2026-03-14"] != 60 || count["2026-03-15"] != 60 || count["2026-03-16"] != 60 {
		t.Errorf("%d tracks, %v", len(d.Tracks), count)
	}
	if len(d.Tracks[0].Segments) != 3 {
		t.Errorf("%d segments for three mornings", len(d.Tracks[0].Segments))
	}
	// A fix before the first date, and times that a receiver sends out of order.
	odd := load(t, Sentence("GPGGA,235959,4736.0000,S,01118.0000,E,1,09,0.9,1,M,41.2,M,,")+
		Sentence("GPRMC,000001,A,4736.0010,S,01118.0000,E,6,270,150326,,")+
		Sentence("GPRMC,000003,A,4736.0020,S,01118.0000,E,6,270,140326,,"))
	if p := odd.Tracks[0].Segments[0].Points[0]; !p.Time().Equal(time.Date(2026, 3, 14, 23, 59, 59, 0, time.UTC)) {
		t.Errorf("before the first date: %v", p.Time())
	}
	if !strings.Contains(told(odd), "run backwards") {
		t.Errorf("backwards, and nothing said: %s", told(odd))
	}
}

// Minutes with few decimals are where they are, and not at a rounded degree.
func TestMinutesOfLog(t *testing.T) {
	for _, text := range []string{"GPRMC,060000,A,4730.53,N,01118.07,E,6,270,140326,,",
		"GPGGA,060000,4730.53,N,01118.07,E,1,9,1,1,M,,M,,",
		"GPGLL,4730.53,N,01118.07,E,060000,A", "GNGNS,060000,4730.53,N,01118.07,E,AA,9,1,1,,,"} {
		d := load(t, Sentence(text))
		p := d.Tracks[0].Segments[0].Points[0]
		lat, err1 := strconv.ParseFloat(string(p.AppendLat(nil)), 64)
		lon, err2 := strconv.ParseFloat(string(p.AppendLon(nil)), 64)
		if err1 != nil || err2 != nil || math.Abs(lat-(47+30.53/60)) > 1e-6 || math.Abs(lon-(11+18.07/60)) > 1e-6 {
			t.Errorf("%s is written at %v %v", text, lat, lon)
		}
	}
}

// A date sentence that contradicts the fixes by years is evidence for clean.
func TestDateSentence(t *testing.T) {
	d := load(t, Sentence("GPRMC,060000,A,4730.53,N,01118.07,E,6,270,290706,,")+Sentence("GPZDA,060000,14,03,2026,,"))
	if got := d.Meta.Time.Time().Format(time.DateOnly); got != "2026-03-14" {
		t.Errorf("the file's date is %s", got)
	}
	if got := d.Tracks[0].Segments[0].Points[0].Time().Format(time.DateOnly); got != "2006-07-29" {
		t.Errorf("the fix is of %s", got)
	}
}
