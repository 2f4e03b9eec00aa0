package vane

import (
	"bytes"
	"errors"
	"math"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func plan(t testing.TB, d *nav.Dataset) (string, nav.Ledger) {
	t.Helper()
	var out bytes.Buffer
	done, err := Format.Store(&out, d, &format.WriteOptions{})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	return out.String(), l
}

func load(t testing.TB, text string) (*nav.Dataset, error) {
	return read(format.FromBytes(t.Context(), "p.vpl", []byte(text)), &format.ReadOptions{})
}

func sample() *nav.Dataset {
	at := func(name string, lat, lon, height float64, over nav.VerticalDatum) nav.Waypoint {
		w := nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(lat, lon)}
		if height > 0 {
			w.SetHeight(height, decimal.PrecisionOf(1), over)
		}
		return w
	}
	ring := []nav.Point{nav.At(-47.1, 11.1), nav.At(-47.2, 11.1), nav.At(-47.2, -11.2)}
	field := at("FIELD", -47.6, 11.3, 0, 0)
	field.Style.Symbol = "airfield"
	return &nav.Dataset{Waypoints: []nav.Waypoint{field},
		Routes: []nav.Route{{Item: nav.Item{Name: "Counting legs"},
			Points: []nav.Waypoint{at("VC01", -47.583333, 11.258333, 304.8, nav.MeanSeaLevel), at("VC02", 47.5, 11.3, 2590.8,
				nav.PressureLevel), at("VC03", -47.5, 11.4, 0, 0)}}},
		Areas: []nav.Area{{Item: nav.Item{Name: "Nesting", Fields: []nav.Field{{Key: "floor", Value: "GND"},
			{Key: "ceiling", Value: "1500ft"}, {Key: "valid until", Value: "2027-03-31T23:59:59Z"}}}, Outline: ring,
			Holes: [][]nav.Point{ring}}}}
}

// The text is that of the specification; its sum is worked out by Fletcher's definition, in the other order of sums.
func TestText(t *testing.T) {
	text, l := plan(t, sample())
	want := "VANE PLAN 1\nFIX FIELD S47.600000 E011.300000 - FIELD\nPLAN Counting legs\nLEG VC01 S47.583333 E011.258333 " +
		"A1000 POINT\nLEG VC02 N47.500000 E011.300000 F085 POINT\nLEG VC03 S47.500000 E011.400000 - POINT\nEND\n" +
		"CLOSURE Nesting\nFLOOR GND\nCEILING A1500\nUNTIL 2027-03-31T23:59:59Z\nAT S47.100000 E011.100000\nAT S47.200000 " +
		"E011.100000\nAT S47.200000 W011.200000\nHOLE\nAT S47.100000 E011.100000\nAT S47.200000 E011.100000\nAT S47.200000 " +
		"W011.200000\nEND\n"
	body, last, _ := strings.Cut(text, "SUM ")
	if body != want {
		t.Errorf("got\n%s\nwant\n%s", body, want)
	}
	c0, c1, n := 0, 0, len(body)
	for i, c := range []byte(body) {
		c0 += int(c)
		c1 += (n - i) * int(c)
	}
	const hexDigits = "0123456789ABCDEF"
	a, b := c0%255, c1%255
	if sum := "19 " + string([]byte{hexDigits[b/16], hexDigits[b%16], hexDigits[a/16], hexDigits[a%16]}) +
		"\n"; last != sum {
		t.Errorf("the sum is %q, want %q", last, sum)
	}
	if l.Losses() != 0 {
		t.Errorf("%v", l)
	}
}

func TestRoundTrip(t *testing.T) {
	text, _ := plan(t, sample())
	d, err := load(t, strings.ReplaceAll(text, "\n", "\r\n"))
	if err != nil {
		t.Fatal(err)
	}
	r := d.Routes[0]
	if len(r.Points) != 3 || math.Abs(r.Points[0].Height()-304.8) > 0.05 ||
		r.Points[1].VerticalDatum() != nav.PressureLevel || r.Points[2].HasHeight() ||
		d.Waypoints[0].Style.Symbol != "airfield" {
		t.Errorf("%+v", d)
	}
	if limits, faults := d.Areas[0].Limits(); len(faults) > 0 || math.Abs(limits.Ceiling.Metres-457.2) > 0.01 ||
		limits.Until == nil || len(d.Areas[0].Holes) != 1 {
		t.Errorf("%+v %v", limits, faults)
	}
	if again, _ := plan(t, d); again != text {
		t.Errorf("written again it is\n%s", again)
	}
}

// Whatever the names are, identifiers are five capital letters and digits, and differ.
func TestIdentifiers(t *testing.T) {
	d := &nav.Dataset{}
	for _, n := range []string{"Landing one", "Landing two", "landing", "é", "", "A-1", "123456"} {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: n}, Point: nav.At(1, 2)})
	}
	text, l := plan(t, d)
	back, err := load(t, text)
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for _, w := range back.Waypoints {
		if len(w.Name) < 1 || len(w.Name) > 5 || seen[w.Name] {
			t.Errorf("identifier %q", w.Name)
		}
		seen[w.Name] = true
	}
	if len(l) < 5 {
		t.Errorf("the renaming is not told: %v", l)
	}
}

func TestFaults(t *testing.T) {
	text, _ := plan(t, sample())
	for _, c := range []struct{ old, new, want string }{
		{"VANE PLAN 1", "VANE PLAN 2", "p.vpl:1"},
		{"S47.583333", "S97.583333", "p.vpl:4: \"S97.583333 E011.258333\" is not a position"},
		{"A1000", "1000", "p.vpl:4: \"1000\" is not an altitude"},
		{"POINT\nLEG VC02", "SPOT\nLEG VC02", "no kind of fix \"SPOT\""}, {"CEILING A1500", "CEILING high", "is not a level"},
		{"HOLE", "HOLES", "does not belong here"}, {"VC01", "VC02", "the plan is damaged or was edited by hand"},
		{"LEG VC03 S47.500000", "LEG VC03", "a LEG has an identifier"}, {"UNTIL 2027-03-31T23:59:59Z", "UNTIL then",
			"is not a time"},
	} {
		if _, err := load(t, strings.Replace(text, c.old, c.new, 1)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.new, err, c.want)
		}
	}
	cut, err := load(t, text[:strings.Index(text, "CLOSURE")])
	if e, ok := errors.AsType[*format.Error](err); !ok || !e.Cut || len(cut.Routes) != 1 {
		t.Errorf("cut off: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	text, _ := plan(f, sample())
	f.Add([]byte(text))
	f.Fuzz(func(t *testing.T, b []byte) {
		d, _ := read(format.FromBytes(t.Context(), "p", b), &format.ReadOptions{})
		if d == nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
	})
}

// Heights below the sea are written, and read again.
func TestBelowTheSea(t *testing.T) {
	w := nav.Waypoint{Item: nav.Item{Name: "PIT"}, Point: nav.At(-47.6, 11.3)}
	w.SetHeight(-20*0.3048, 0, nav.MeanSeaLevel)
	a := nav.Area{Item: nav.Item{Name: "HOLLOW", Fields: []nav.Field{{Key: nav.FieldFloor, Value: "-20ft"}}},
		Outline: []nav.Point{nav.At(-47, 11), nav.At(-47, 12), nav.At(-46, 12)}}
	var out bytes.Buffer
	done, err := Format.Store(&out, &nav.Dataset{Waypoints: []nav.Waypoint{w}, Areas: []nav.Area{a}},
		&format.WriteOptions{})
	if err != nil || len(done.Ledger) > 0 {
		t.Fatalf("%v %v", err, done.Ledger)
	}
	back, err := read(format.FromBytes(t.Context(), "a", out.Bytes()), &format.ReadOptions{})
	if err != nil || math.Abs(back.Waypoints[0].Height()+6.096) > 1e-9 || back.Areas[0].Fields[0].Value != "-20ft" {
		t.Errorf("%v %+v\n%s", err, back, out.String())
	}
}
