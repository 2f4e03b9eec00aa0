package igc

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

const flight = "AXXX001 recorder\r\nHFDTE140326\r\nHFPLTPILOTINCHARGE:Someone of the " +
	"survey\r\nHFGTYGLIDERTYPE:Kite\r\n" +
	"C140326090000000000000102Counting\r\nC0000000N00000000ETAKEOFF\r\nC4735000S01115500EVC01\r\n" +
	"C4735500S01120000EVC02\r\nC0000000N00000000ELANDING\r\n" +
	"B2359584735000S01115500EA0030000345\r\nB0000024735100S01115600EA0031000356\r\n" +
	"B0000084735200S01115700EV0032000000\r\nB000010473520XS01115700EV0032000000\r\n" +
	"LXXXremark\r\nGREJNGJERJKNJKRE31895478537H\r\n"

func TestRead(t *testing.T) {
	d, err := read(format.FromBytes(t.Context(), "f.igc", []byte(flight)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	s := &d.Tracks[0].Segments[0]
	if len(s.Points) != 3 || d.Tracks[0].Name != "Flight of 2026-03-14" {
		t.Fatalf("%+v", d.Tracks[0])
	}
	p := &s.Points[0]
	if p.Lat < -47.5834 || p.Lat > -47.5833 || p.Height() != 345 || p.VerticalDatum() != nav.AboveEllipsoid {
		t.Errorf("%+v", p)
	}
	if v, _ := nav.Get(s.Detail(p).Values, PressureHeight); v != "300" {
		t.Errorf("the height by pressure is %q", v)
	}
	// Past midnight it is the next day; a fix without a satellite height has none, and keeps what the barometer said.
	if got := s.Points[1].Time().Format("2006-01-02 15:04:05"); got != "2026-03-15 00:00:02" {
		t.Errorf("%s", got)
	}
	q := &s.Points[2]
	if v, _ := nav.Get(s.Detail(q).Values, PressureHeight); q.HasHeight() || v != "320" {
		t.Errorf("%v above %s, by pressure %q", q.Height(), q.VerticalDatum(), v)
	}
	if len(d.Rejects) != 1 || d.Rejects[0].Line != 13 {
		t.Errorf("%+v", d.Rejects)
	}
	if r := d.Routes[0]; r.Name != "Counting" || len(r.Points) != 2 || r.Points[1].Name != "VC02" {
		t.Errorf("%+v", r)
	}
}

// A recorder without satellite heights has a flight by pressure alone, and an older one writes Latin-1.
func TestOlderRecorder(t *testing.T) {
	text := "AXXX001 recorder\r\nHFDTE140326\r\nHFPLTPILOTINCHARGE:J\xf6rn of the survey\r\n" +
		"B1000004735000S01115500EV0030000000\r\nB1000104735100S01115600EV0031000000\r\n"
	d, err := read(format.FromBytes(t.Context(), "f.igc", []byte(text)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	if pilot, _ := nav.Get(d.Tracks[0].Fields, "pilot"); pilot != "J\u00f6rn of the survey" {
		t.Errorf("the pilot is %q", pilot)
	}
	for i, want := range []float64{300, 310} {
		p := &d.Tracks[0].Segments[0].Points[i]
		if p.Height() != want || p.VerticalDatum() != nav.PressureLevel {
			t.Errorf("%v above %s, want %v above the pressure level", p.Height(), p.VerticalDatum(), want)
		}
	}
}

func TestWrite(t *testing.T) {
	d, _ := read(format.FromBytes(t.Context(), "f.igc", []byte(flight)), &format.ReadOptions{})
	var out bytes.Buffer
	done, err := Format.Store(&out, d, &format.WriteOptions{})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	if text := out.String(); !strings.Contains(text, "C4735000S01115500EVC01\r\n") || strings.Contains(text, "\nB") ||
		strings.Contains(text, "\nG") {
		t.Errorf("%s", text)
	}
	unsigned := false
	for _, e := range l {
		unsigned = unsigned || e.New == "unsigned"
	}
	if !unsigned || l.Losses() == 0 {
		t.Errorf("%v", l)
	}
	back, err := read(format.FromBytes(t.Context(), "t.igc", out.Bytes()), &format.ReadOptions{})
	if err != nil || len(back.Routes[0].Points) != 2 {
		t.Errorf("%v %v", back, err)
	}
	if _, err := write(&out, &nav.Dataset{Tracks: d.Tracks}, &format.WriteOptions{}); err == nil ||
		!strings.Contains(err.Error(), "only the recorder can sign") {
		t.Errorf("a recording is written: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(flight))
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "f", b), &format.ReadOptions{})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
		write(&bytes.Buffer{}, d, &format.WriteOptions{})
	})
}

// Records that are not stored are named once each, in one message with the place of the first.
func TestRecordsThatAreLeftOut(t *testing.T) {
	more := strings.NewReplacer("C1403", "HFFTYFRTYPE:Unit\r\nC1403", "B0000", "X000000PEV\r\nB0000",
		"000345\r\n", "000345012\r\n").Replace(flight)
	d, err := read(format.FromBytes(t.Context(), "f.igc", []byte(more)), &format.ReadOptions{})
	if err != nil || len(d.Tracks[0].Segments[0].Points) != 3 {
		t.Fatal(d.Tracks, err)
	}
	for _, p := range d.Problems {
		if strings.HasSuffix(p.Text, "left out: A, HFFTY, the days of the declaration, B beyond the heights, X") {
			if p.Line != 1 || p.Count != 1 {
				t.Errorf("%+v", p)
			}
			return
		}
	}
	t.Errorf("it is said: %+v", d.Problems)
}

// What extensions, events and headers say of fixes: the columns of appendix A3.2 are counted from 1.
func TestExtensions(t *testing.T) {
	const fix = "B0531204736000S01118000EA0010000120"
	for text, want := range map[string]string{
		"I023638FXA3941TAS\r\n" + fix + "015090": "pressure-height 100, fix-accuracy 15, true-airspeed 25 at 120 " +
			"ellipsoid",
		"I013640XYZ\r\n" + fix + "00012":            "pressure-height 100, XYZ 00012 at 120 ellipsoid",
		"HFALG:GEO\r\n" + fix:                       "pressure-height 100 at 120 sea",
		"HFALGALTGPS:NIL\r\n" + fix:                 "at 100 pressure",
		"HFALP:NIL\r\n" + fix:                       "at 120 ellipsoid",
		"HFALG:NKN\r\nHFALP:ISA\r\n" + fix:          "pressure-height 100 at 120 unstated",
		"E053119PEV\r\n" + fix:                      "pressure-height 100, event PEV at 120 ellipsoid",
		fix + "\r\nE053121END landed":               "pressure-height 100, event END landed at 120 ellipsoid",
		"J010812HDT\r\n" + fix + "\r\nK05312500095": "pressure-height 100, heading 95 at 120 ellipsoid",
	} {
		doc := "AXXX001\r\nHFDTE140326\r\n" + text + "\r\n"
		d, err := read(format.FromBytes(t.Context(), "f.igc", []byte(doc)), &format.ReadOptions{})
		if err != nil || len(d.Tracks) != 1 {
			t.Errorf("%s: %v", text, err)
			continue
		}
		s := &d.Tracks[0].Segments[0]
		p := &s.Points[0]
		var parts []string
		for _, f := range s.Values(nil, p) {
			parts = append(parts, f.Key+" "+f.Value)
		}
		over := p.VerticalDatum().Word()
		if p.VerticalDatum() == nav.DatumUnstated {
			over = "unstated"
		}
		got := strings.TrimSpace(fmt.Sprintf("%s at %v %s", strings.Join(parts, ", "), p.Height(), over))
		if got != want {
			t.Errorf("%s: %s, want %s", text, got, want)
		}
	}
	d, err := read(format.FromBytes(t.Context(), "f.igc", []byte("AXXX001\r\nHFDTE140326\r\nI033637LAD3839LOD4042TDS\r\n"+
		fix+"5025500\r\n")), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	p := &d.Tracks[0].Segments[0].Points[0] // half and a quarter of a thousandth of a minute, half a second
	if math.Abs(p.Lat+47.6-(-0.5/60000)) > 1e-10 || math.Abs(p.Lon-11.3-0.25/60000) > 1e-10 ||
		p.UnixNano()%1e9 != 5e8 {
		t.Errorf("%v %v %v", p.Lat, p.Lon, p.Time())
	}
	for _, text := range []string{"I", "I01xx38FXA", "I023638FXA", "J", "K053120", "E1"} {
		doc := "AXXX001\r\nHFDTE140326\r\n" + text + "\r\n" + fix + "\r\n"
		d, err := read(format.FromBytes(t.Context(), "f.igc", []byte(doc)), &format.ReadOptions{})
		if err != nil || !strings.Contains(fmt.Sprint(d.Problems), "left out") {
			t.Errorf("%s: %v %v", text, d.Problems, err)
		}
	}
}
