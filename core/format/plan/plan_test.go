package plan

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

var march = time.Date(2026, 3, 14, 0, 0, 0, 0, time.UTC)

func load(t *testing.T, text string, opt format.ReadOptions) *nav.Dataset {
	t.Helper()
	opt.List = true
	if opt.On.IsZero() {
		opt.On = march
	}
	d, err := read(format.FromBytes(t.Context(), "plan.txt", []byte(text)), &opt)
	if err != nil {
		t.Fatalf("%q: %v", text, err)
	}
	return d
}

// told joins all that is said of rows, with their lines.
func told(d *nav.Dataset) string {
	var out []string
	for _, p := range d.Problems {
		out = append(out, fmt.Sprintf("%d: %s", p.Line, p.Text))
	}
	for _, r := range d.Rejects {
		out = append(out, fmt.Sprintf("%d: %s: %s", r.Line, r.Raw, r.Why))
	}
	return strings.Join(out, "\n")
}

// list writes waypoints in short.
func list(d *nav.Dataset) string {
	var out []string
	for _, w := range d.Waypoints {
		out = append(out, fmt.Sprintf("%s %.4f %.4f", w.Name, w.Lat, w.Lon))
	}
	return strings.Join(out, ", ")
}

const two = "A -47.6000 11.3000, B -47.7000 11.4000"

// The same two fixes in the shapes in which lists come.
func TestShapes(t *testing.T) {
	for _, text := range []string{
		"A 47.6S 11.3E\nB 47.7S 11.4E",
		"A\t47°36'S\t011°18'E\nB\t47°42'S\t011°24'E",
		"1 A 47 36.0 S 011 18.0 E\n2 B 47 42.0 S 011 24.0 E",
		"1. A S 47 36.0 E 011 18.0\n2. B S 47 42.0 E 011 24.0",
		"- A: 4736S01118E\n- B: 4742S01124E",
		"47.6S 11.3E A\n47.7S 11.4E B",
		"A -47.6000 11.3000\nB -47.7000 11.4000",
		"1 A -47.6000 11.3000 250\n2 B -47.7000 11.4000 12",
		"A;47,6000 S;11,3000 E\nB;47,7000 S;11,4000 E",
		"A,-47.6,11.3\nB,-47.7,11.4",
		"Name Lon Lat\nA 11.3000 -47.6000\nB 11.4000 -47.7000",
		"A | 47:36:00S | 011:18:00E\nB | 47:42:00S | 011:24:00E",
		"A 473600S0111800E B 474200S0112400E",
		"A 47.6S 11.3E, B 47.7S 11.4E",
		"47.6S 11.3E A; 47.7S 11.4E B",
		"A (-47.6, 11.3)\nB (-47.7, 11.4)",
		"\ufeffA 47.6S 11.3E\r\nB 47.7S 11.4E\r\n",
	} {
		if got := list(load(t, text, format.ReadOptions{})); got != two {
			t.Errorf("%q: %s", text, got)
		}
	}
	latin := "A 47\xb036'S 011\xb018'E\nB 47\xb042'S 011\xb024'E" // Windows-1252
	if got := list(load(t, latin, format.ReadOptions{})); got != two {
		t.Errorf("in an old encoding: %s", got)
	}
}

// A number in front of a row is no part of its position, whatever it could be read as.
func TestRowNumbersAreNoDegrees(t *testing.T) {
	for text, want := range map[string]string{
		"1. S 47 36.0 E 011 18.0 A\n2. S 47 42.0 E 011 24.0 B": two,
		"3 47.6S 11.3E\n12 47.7S 11.4E":                        "3 -47.6000 11.3000, 12 -47.7000 11.4000",
		"1 S 47 E 11\n2 S 48 E 12":                             "1 -47.0000 11.0000, 2 -48.0000 12.0000",
		"47 S 11 E\n48 S 12 E":                                 " -47.0000 11.0000,  -48.0000 12.0000",
		"1 47 36 00 S 011 18 00 E\n2 47 42 00 S 011 24 00 E":   "1 -47.6000 11.3000, 2 -47.7000 11.4000",
		"12:30 47.6S 11.3E\n12:40 47.7S 11.4E":                 "12:30 -47.6000 11.3000, 12:40 -47.7000 11.4000",
		"Rock 1 -47.6000 11.3000\nRock 2 -47.7000 11.4000":     "Rock 1 -47.6000 11.3000, Rock 2 -47.7000 11.4000",
	} {
		if got := list(load(t, text, format.ReadOptions{})); got != want {
			t.Errorf("%q: %s", text, got)
		}
	}
}

const briefing = `Launch run, Saturday

No  Fix              Position                    Alt     Remarks
1   Sorrel Landing   47°35.223'S 011°16.795'E            start at slack water
2   LANTN            47°34.7'S 011°15.9'E        FL085
    VELDRIN FIR BDY
3   The Teeth        4733S01120E                 1,500ft keep east
4   Bad one          47°61.0'S 011°20.0'E
Page 1 of 2
5   NOWHR
6   Amb              33S 672887 4725593
7   Last             32G PN 72887 25593          A045
UL607
`

func TestRowsThatAreNotUsed(t *testing.T) {
	d := load(t, briefing, format.ReadOptions{})
	if got := list(d); got != "Sorrel Landing -47.5870 11.2799, LANTN -47.5783 11.2650, The Teeth -47.5500 11.3333, Last "+
		"-47.6000 11.3000" {
		t.Errorf("%s", got)
	}
	said := told(d)
	for _, want := range []string{
		`1: skipped, a heading: "Launch run`,
		`6: skipped, a boundary crossing without a position`, `9: skipped, a page number`,
		`8: 4   Bad one`, `the latitude has 61.0 minutes`, `10: 5   NOWHR: has no position`, `11: 6   Amb`,
		`33S is ambiguous`, `13: skipped, an airway: "UL607"`,
	} {
		if !strings.Contains(said, want) {
			t.Errorf("it is not said that %q:\n%s", want, said)
		}
	}
	for i, want := range []struct {
		height float64
		over   nav.VerticalDatum
	}{{math.NaN(), 0}, {85 * 30.48, nav.PressureLevel}, {457.2, nav.MeanSeaLevel}, {45 * 30.48, nav.MeanSeaLevel}} {
		p := &d.Waypoints[i].Point
		if math.IsNaN(want.height) != !p.HasHeight() || p.HasHeight() && (math.Abs(p.Height()-want.height) > 0.05 ||
			p.VerticalDatum() != want.over) {
			t.Errorf("%s is at %v above %s", d.Waypoints[i].Name, p.Height(), p.VerticalDatum())
		}
	}
	if c := d.Waypoints[0].Comment; c != "start at slack water" {
		t.Errorf("the remark is %q", c)
	}
}

func TestHeadingOfAltitudes(t *testing.T) {
	d := load(t, "Fix Position Alt (ft)\nA 47.6S 11.3E 1000\nB 47.7S 11.4E 2000", format.ReadOptions{})
	if p := d.Waypoints[1].Point; math.Abs(p.Height()-609.6) > 0.05 {
		t.Errorf("%v m", p.Height())
	}
}

// A flight plan names fixes without positions; airways and procedures between them are left out.
func TestFlightPlan(t *testing.T) {
	at := func(name string, lat, lon float64) nav.Waypoint {
		return nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(lat, lon)}
	}
	text := "N0120F085 47S011E DCT SOREL UL607 4730S01112E/N0110A045 SOREL180040 TEETH1A"
	d := load(t, text, format.ReadOptions{Fixes: []nav.Waypoint{at("SOREL", 40, 11), at("SOREL", -47.2, 11.1),
		at("OTHER", 0, 0)}})
	if len(d.Waypoints) != 4 {
		t.Fatalf("%s\n%s", list(d), told(d))
	}
	if w := d.Waypoints[1]; w.Name != "SOREL" || w.Lat != -47.2 {
		t.Errorf("of two fixes of one name not the one near the line is taken: %v", w.Lat)
	}
	if h := d.Waypoints[2].Height(); math.Abs(h-45*30.48) > 0.05 {
		t.Errorf("the level of /N0110A045 is %v m", h)
	}
	// The declination there on that day is 27.7° W by the World Magnetic Model: 180 magnetic is 152.3 true.
	by := d.Waypoints[3]
	distance, course, _ := geodesy.Inverse(-47.2, 11.1, by.Lat, by.Lon)
	if math.Abs(distance-40*1852) > 1 || math.Abs(course-152.3) > 0.1 {
		t.Errorf("40 miles on 180 magnetic are %.0f m on %.2f", distance, course)
	}
	said := told(d)
	for _, want := range []string{`airways between fixes: "UL607"`, `procedures: "TEETH1A"`, "bearings are magnetic",
		"1 fixes were given"} {
		if !strings.Contains(said, want) {
			t.Errorf("it is not said that %q:\n%s", want, said)
		}
	}
	alone := load(t, text, format.ReadOptions{})
	if len(alone.Waypoints) != 2 || len(alone.Rejects) != 2 {
		t.Errorf("without known fixes: %s\n%s", list(alone), told(alone))
	}
}

func TestRouteOrList(t *testing.T) {
	d, err := read(format.FromBytes(t.Context(), "plans/run.txt", []byte("A 47.6S 11.3E\nB 47.7S 11.4E")),
		&format.ReadOptions{})
	if err != nil || len(d.Routes) != 1 || d.Routes[0].Name != "run" || len(d.Routes[0].Points) != 2 {
		t.Errorf("%+v %v", d, err)
	}
	for text, want := range map[string]string{"": "no row has a position", "nothing here\n": "no row has",
		"A 99S 011E": "beyond 90", "\x00\x01": "binary"} {
		if _, err := read(format.FromBytes(t.Context(), "x", []byte(text)), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestProseIsNoPlan(t *testing.T) {
	for text, want := range map[string]bool{
		"A 47.6S 11.3E\nB 47.7S 11.4E":                true,
		briefing:                                      true,
		"A 473600S0111800E B 474200S0112400E":         true,
		"A -47.6000 11.3000\nB -47.7000 11.4000":      true,
		"A 47.6S 11.3E":                               true,
		"It is 47.6S 11.3E there, as they say it is.": false,
		"We left 47.5 S 11.3 E in the morning and had a quiet run.\nThen nothing happened until noon.\nAt 47.6 S 11.3 E we " +
			"stopped, and everyone was happy again.\n": false,
		"name,lat,lon\nA,-47.6,11.3\nB,-47.7,11.4":                    false,
		"time,height,speed\n07:31,12.5,0.00\n07:32,12.6,0.10":         false,
		"name,height,along\nA,12.5,\nB,12.5,0.00\nC,17.4,2.05":        false,
		"fix,where\nA,47.6S 11.3E\nB,47.7S 11.4E":                     true,
		"one\ntwo\nthree\nfour\nfive\nA 47.6S 11.3E\nB 47.7S 11.4E\n": false,
		"1 2 3\n4 5 6\n7 8 9":                                         false,
		"10.0.0.1 up\n10.0.0.2 down":                                  false,
		"2026-03-14 05:30:00 started\n2026-03-14 05:31:00 stopped":    false,
		"x = 1.5, y = 2.5\nx = 1.6, y = 2.6":                          false,
		"":                                                            false,
	} {
		if got := sniff(format.NewHead([]byte(text))); got != want {
			t.Errorf("%q: %v", text, got)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(briefing))
	f.Add([]byte("N0120F085 47S011E DCT SOREL UL607 4730S01112E/N0110A045 SOREL180040"))
	f.Add([]byte("A;47,60;11,30\nB;47,70;11,40"))
	f.Add([]byte("1 -47.6,11.3\n2 -47.7,11.4"))
	f.Fuzz(func(t *testing.T, text []byte) {
		sniff(format.NewHead(text))
		d, err := read(format.FromBytes(t.Context(), "f", text), &format.ReadOptions{List: true, On: march})
		if err != nil {
			return
		}
		for i := range d.Waypoints {
			if w := &d.Waypoints[i]; !nav.Usable(w.Lat, w.Lon) {
				t.Errorf("%q: %v %v", text, w.Lat, w.Lon)
			}
		}
	})
}

// A row of which the end is missing is not a position of its first numbers.
func TestCutOffRow(t *testing.T) {
	d := load(t, "A 47 33.180 S 011 20.040 E\nB 47 33.180 S 011 20.040", format.ReadOptions{})
	if got := list(d); got != "A -47.5530 11.3340" || len(d.Rejects) != 1 || d.Rejects[0].Line != 2 {
		t.Errorf("%s %v", got, d.Rejects)
	}
}

// References of a national grid are positions where its system is named.
func TestNationalGrid(t *testing.T) {
	system, err := crs.Find("27700")
	if err != nil {
		t.Fatal(err)
	}
	d := load(t, "START TQ 30 80\nEND TQ3182\nFAR 51.5 N 0.2 W\n", format.ReadOptions{System: system})
	if got := list(d); got != "START 51.5084 -0.1210, END 51.5261 -0.1058, FAR 51.5000 -0.2000" {
		t.Errorf("%s", got)
	}
}

// The speeds of a flight plan hold from fix to fix.
func TestSpeeds(t *testing.T) {
	d := load(t, "N0110F065 VELDN/N0095A035 4730S01112E DCT ORSUM 4736S01118E K0200A045 DCT TARRO 4741S01105E\n",
		format.ReadOptions{})
	var got []string
	for _, w := range d.Waypoints {
		for _, f := range w.Fields {
			got = append(got, w.Name+" "+f.Key+" "+f.Value)
		}
	}
	if s := strings.Join(got, ", "); s != "VELDN speed 95kn, ORSUM speed 95kn, TARRO speed 200km/h" {
		t.Errorf("%s", s)
	}
}

// Of a flight plan message the aerodromes and the route are read, and all the rest is told.
func TestMessage(t *testing.T) {
	const text = "(FPL-GYRO1-VG\n-C172/L-SDFGR/S\n-VELD0530\n-N0110A045 VELDN/N0110A035 DCT 4736S01120E\n" +
		"J12 TARRO\n-ZZZZ0110 ORSU\n-DEST/SORREL 4735S01116E DOF/260314 RMK/COUNTING FLIGHT)\nRegards"
	if !sniff(format.NewHead([]byte(text))) {
		t.Error("it is not recognised")
	}
	known := []nav.Waypoint{named("VELD", -47.5, 11.1), named("VELDN", -47.5, 11.2), named("TARRO", -47.68, 11.08)}
	d := load(t, text, format.ReadOptions{Fixes: known})
	if got := list(d); got != "VELD -47.5000 11.1000, VELDN -47.5000 11.2000,  -47.6000 11.3333, "+
		"TARRO -47.6800 11.0800, SORREL -47.5833 11.2667" {
		t.Errorf("%s", got)
	}
	first, last := &d.Waypoints[0], &d.Waypoints[len(d.Waypoints)-1]
	if want := time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC); !first.HasTime() || !first.Time().Equal(want) {
		t.Errorf("the departure is at %v", first.Time())
	}
	if first.HasHeight() || last.HasHeight() || d.Waypoints[1].Height() != 35*30.48 {
		t.Error("levels are not those of the route alone")
	}
	said := told(d)
	for _, want := range []string{`"(FPL-GYRO1-VG"`, `"-C172/L-SDFGR/S"`, `"0110 ORSU"`, `RMK/COUNTING FLIGHT`, `"J12"`} {
		if !strings.Contains(said, want) {
			t.Errorf("it is not said that %s is not used:\n%s", want, said)
		}
	}
}

// What a heading names is taken: altitudes in feet unless it says otherwise, which is told; the rest are fields.
func TestPlannersTable(t *testing.T) {
	d := load(t, "IDENT FREQ LAT LON ALT HDG DIST\nVELD 115.3 S47 30.0 E011 12.0 3500 123 12.5\n", format.ReadOptions{})
	w := &d.Waypoints[0]
	if w.Name != "VELD" || math.Abs(w.Height()-3500*0.3048) > 0.05 || w.VerticalDatum() != nav.MeanSeaLevel {
		t.Errorf("%s at %v", w.Name, w.Height())
	}
	for key, want := range map[string]string{"FREQ": "115.3", "HDG": "123", "DIST": "12.5"} {
		if got, _ := nav.Get(w.Fields, key); got != want {
			t.Errorf("%s is %q", key, got)
		}
	}
	if !strings.Contains(told(d), "read as feet") {
		t.Errorf("not said: %s", told(d))
	}
	// A measure is known in every language that headings are, and a field keeps the one of its heading.
	d = load(t, "IDENT LAT LON ALT (Fuss) GS (kn)\nVELD S47 30.0 E011 12.0 1000 110\n", format.ReadOptions{})
	w = &d.Waypoints[0]
	if speed, _ := nav.Get(w.Fields, "GS (kn)"); math.Abs(w.Height()-304.8) > 0.05 || speed != "110" ||
		strings.Contains(told(d), "read as feet") {
		t.Errorf("%v %v %s", w.Height(), w.Fields, told(d))
	}
}

// Where one climbs from and lands a known fix has its height; on the way the plan's own levels count.
func TestHeightsOfKnownFixes(t *testing.T) {
	high := func(w nav.Waypoint, h float64) nav.Waypoint {
		w.SetHeight(h, decimal.PrecisionOf(0), nav.MeanSeaLevel)
		return w
	}
	opt := format.ReadOptions{Fixes: []nav.Waypoint{high(named("Landing Strip", -47.5, 11.2), 40), high(named("ORSUM",
		-47.6, 11.3), 700),
		named("TARRO", -47.7, 11.4)}}
	d := load(t, "Landing Strip\nORSUM\nTARRO FL065\n", opt)
	if got := list(d); !strings.HasPrefix(got, "Landing Strip") || d.Waypoints[0].Height() != 40 ||
		d.Waypoints[1].HasHeight() {
		t.Errorf("%s: %v %v", got, d.Waypoints[0].Height(), d.Waypoints[1].HasHeight())
	}
}
