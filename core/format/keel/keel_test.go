package keel

import (
	"bytes"
	"encoding/hex"
	"errors"
	"hash/crc32"
	"math"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func sample() *nav.Dataset {
	d := &nav.Dataset{}
	w := nav.Waypoint{Item: nav.Item{Name: "Østre Båe", Desc: "Breaks.", Group: "Rocks/North",
		Style: nav.Style{Symbol: "rock", Colour: nav.RGB(200, 16, 46)}, Fields: []nav.Field{{Key: "depth", Value: "1.5"}}},
		Point: nav.At(-47.5896234, 11.3514321)}
	w.SetTime(1773466200123e6, instant.Seconds+3)
	d.Waypoints = []nav.Waypoint{w, {Item: nav.Item{Name: "Plain"}, Point: nav.At(89.9999999, -180)}}
	d.Routes = []nav.Route{{Item: nav.Item{Name: "Run", Group: "Rocks/North"},
		Points: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(-47.6, 11.3)},
			{Item: nav.Item{Name: "B"}, Point: nav.At(-47.7, 11.4)}}}}
	p, q := nav.At(-47.1, 11.1), nav.At(-47.2, 11.2)
	p.SetHeight(-3.25, decimal.PrecisionOf(2), nav.MeanSeaLevel)
	q.SetTime(-1500e6, instant.Seconds+3)
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "Wake"}, Segments: []nav.Segment{{Points: []nav.Point{p, q}},
		{Points: []nav.Point{q}}}}}
	ring := []nav.Point{nav.At(-47.1, 11.1), nav.At(-47.2, 11.1), nav.At(-47.2, 11.2)}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Zone",
		Style: nav.Style{Fill: nav.Colour{R: 1, G: 2, B: 3, A: 85, Set: true}},
		Fields: []nav.Field{{Key: nav.FieldFloor, Value: "GND"}, {Key: nav.FieldCeiling, Value: "FL085"},
			{Key: nav.FieldFrom, Value: "2026-09-01T00:00:00Z"}}}, Outline: ring, Holes: [][]nav.Point{ring}}}
	return d
}

func card(t testing.TB, d *nav.Dataset, version string) ([]byte, nav.Ledger) {
	t.Helper()
	var out bytes.Buffer
	done, err := Format.Store(&out, d, &format.WriteOptions{Version: version})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	return out.Bytes(), l
}

func load(t testing.TB, b []byte) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "card.krd", b), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// The bytes are those of the specification, put together by hand.
func TestBytes(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Ab", Style: nav.Style{Symbol: "anchorage"}},
		Point: nav.At(-47.6, 11.3)}}}
	b, _ := card(t, d, "1")
	// -47.6 degrees are -2856000 thousandths of a minute, 0xFFD46BC0; 11.3 degrees are 678000, 0x000A5870.
	record := "01" + "0d000000" + "c06bd4ff" + "70580a00" + "07" + "0200" + "4162"
	raw, _ := hex.DecodeString(record)
	want := "4b45454c01000000" + record + le(crc32.ChecksumIEEE(raw))
	whole, _ := hex.DecodeString(want)
	end := "ff08000000" + "01000000" + le(crc32.ChecksumIEEE(whole))
	raw, _ = hex.DecodeString(end)
	want += end + le(crc32.ChecksumIEEE(raw))
	if got := hex.EncodeToString(b); got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func le(v uint32) string {
	return hex.EncodeToString([]byte{byte(v), byte(v >> 8), byte(v >> 16), byte(v >> 24)})
}

func TestRoundTrip(t *testing.T) {
	d := sample()
	b, l := card(t, d, "")
	if l.Losses() != 0 {
		t.Errorf("version 3 loses %v", l)
	}
	got := load(t, b)
	w := got.Waypoints[0]
	if w.Name != "Østre Båe" || w.Desc != "Breaks." || w.Group != "Rocks/North" || w.Style.Symbol != "rock" ||
		w.Style.Colour != nav.RGB(200, 16, 46) || w.UnixNano() != 1773466200123e6 {
		t.Errorf("%+v", w)
	}
	if v, _ := nav.Get(w.Fields, "depth"); v != "1.5" {
		t.Errorf("the depth is %q", v)
	}
	if x := got.Waypoints[1]; x.HasHeight() || x.HasTime() || x.Lat != 89.9999999 || x.Lon != -180 {
		t.Errorf("%+v", x)
	}
	if r := got.Routes[0]; len(r.Points) != 2 || r.Points[1].Name != "B" || r.Group != "Rocks/North" {
		t.Errorf("%+v", r)
	}
	s := got.Tracks[0].Segments
	if len(s) != 2 || s[0].Points[0].Height() != -3.25 || s[0].Points[1].UnixNano() != -1500e6 ||
		s[0].Points[1].HasHeight() || s[0].Points[0].HasTime() {
		t.Errorf("%+v", s)
	}
	a := got.Areas[0]
	limits, faults := a.Limits()
	if len(a.Holes) != 1 || len(a.Outline) != 3 || len(faults) != 0 || !limits.Floor.Ground ||
		limits.Ceiling.Over != nav.PressureLevel || math.Abs(limits.Ceiling.Metres-2590.8) > 0.01 || limits.From == nil ||
		limits.Until != nil || a.Style.Fill != d.Areas[0].Style.Fill {
		t.Errorf("%+v %v", a, limits)
	}
	again, _ := card(t, got, "")
	if !bytes.Equal(again, b) {
		t.Error("a card that is read and written again is another one")
	}
}

// Version 1 moves positions by up to a metre and more, and has marks only.
func TestOldVersions(t *testing.T) {
	d := sample()
	d.Waypoints = nil
	for i := range 200 {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Point: nav.At(-47.6+float64(i)*1.7e-6, 11.3+float64(i)*2.3e-6)})
	}
	far := 0.0
	b, l := card(t, d, "1")
	for i, w := range load(t, b).Waypoints {
		far = max(far, geodesy.Distance(w.Lat, w.Lon, d.Waypoints[i].Lat, d.Waypoints[i].Lon))
	}
	if far < 0.8 || far > 1.2 {
		t.Errorf("the largest shift is %.2f m", far)
	}
	lost := map[string]bool{}
	for _, e := range l {
		lost[string(e.What)] = true
	}
	if !lost["route"] || !lost["track"] || !lost["area"] {
		t.Errorf("it is not said what version 1 does not hold: %v", l)
	}
	b, l = card(t, sample(), "2")
	got := load(t, b)
	if len(got.Routes) != 1 || len(got.Tracks) != 0 || got.Waypoints[0].Group != "Rocks/North" ||
		got.Waypoints[0].Style.Colour.Set || l.Losses() < 4 {
		t.Errorf("version 2: %v, %v", got.Counts(), l)
	}
	if _, err := write(&bytes.Buffer{}, d, &format.WriteOptions{Version: "4"}); err == nil {
		t.Error("version 4 is written")
	}
}

// Every changed byte and every cut is found; with salvage what is whole comes out.
func TestDamage(t *testing.T) {
	b, _ := card(t, sample(), "")
	for i := range b {
		bad := bytes.Clone(b)
		bad[i] ^= 0x41
		d, err := read(format.FromBytes(t.Context(), "c", bad), &format.ReadOptions{})
		if err == nil && i != 5 && i != 6 && i != 7 {
			t.Fatalf("byte %d changed, and it is not seen", i)
		}
		if e, ok := errors.AsType[*format.Error](err); ok && e.Cut && i > 40 && d.Points() == 0 {
			t.Errorf("byte %d changed: nothing is saved", i)
		}
	}
	for n := range b {
		if _, err := read(format.FromBytes(t.Context(), "c", b[:n]), &format.ReadOptions{}); err == nil {
			t.Fatalf("cut off at byte %d, and it is not seen", n)
		}
	}
	// A damaged name of the first mark costs that mark alone.
	bad := bytes.Clone(b)
	bad[bytes.Index(bad, []byte("Breaks"))] ^= 1
	d, err := read(format.FromBytes(t.Context(), "c", bad), &format.ReadOptions{})
	if err == nil || !strings.Contains(err.Error(), "its checksum is wrong") || len(d.Waypoints) != 1 ||
		len(d.Areas) != 1 || len(d.Tracks) != 1 {
		t.Errorf("%v: %v", err, d.Counts())
	}
	for text, want := range map[string]string{"KEEL\x04\x00\x00\x00": "version 4", "KEE": "not a Keel card",
		"KEEL\x03\x00\x00\x00": "without its end record"} {
		if _, err := read(format.FromBytes(t.Context(), "c", []byte(text)), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestSymbols(t *testing.T) {
	for word, want := range map[string]string{"rock-awash": "rock-awash", "awash": "rock-awash", "cable": "hazard",
		"cairn": "", "nothing": "", "": ""} {
		d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Style: nav.Style{Symbol: word}}, Point: nav.At(1, 2)}}}
		b, _ := card(t, d, "")
		if got := load(t, b).Waypoints[0].Style.Symbol; got != want {
			t.Errorf("%q comes back as %q", word, got)
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, v := range []string{"1", "2", "3"} {
		b, _ := card(f, sample(), v)
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "c", b), &format.ReadOptions{})
		if d == nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
		if err == nil && len(b) > 4 && b[4] == 3 {
			card(t, d, "")
		}
	})
}
