package talker

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func load(t *testing.T, text string) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "t", []byte(text)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func told(d *nav.Dataset) (out string) {
	for _, r := range d.Rejects {
		out += r.Raw + ": " + r.Why + "\n"
	}
	for _, p := range d.Problems {
		out += p.Text + "\n"
	}
	return
}

// The checksum of this sentence, an example of the exclusive-or that is printed in many manuals of receivers, is 47.
func TestSum(t *testing.T) {
	if s := Sum("GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,"); s != 0x47 {
		t.Errorf("%X", s)
	}
}

func TestSentences(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Rock, 1*"}, Point: nav.At(-47.6, 11.3)}}}
	r := nav.Route{Item: nav.Item{Name: "Run"}}
	for i := range 40 {
		r.Points = append(r.Points, nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("Point number %02d", i)},
			Point: nav.At(-47-float64(i)/100, 179.99999999)})
	}
	d.Routes = []nav.Route{r}
	var out bytes.Buffer
	done, err := Format.Store(&out, d, &format.WriteOptions{})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.SplitAfter(out.String(), "\r\n")
	if lines[0] != "$ECWPL,4736.00000,S,01118.00000,E,Rock 1*"+fmt.Sprintf("%02X\r\n",
		Sum("ECWPL,4736.00000,S,01118.00000,E,Rock 1")) {
		t.Errorf("%q", lines[0])
	}
	routes := 0
	for _, s := range lines {
		if len(s) > 82 {
			t.Errorf("a sentence of %d characters: %q", len(s), s)
		}
		if strings.Contains(s, "RTE") {
			routes++
		}
	}
	if routes < 8 {
		t.Errorf("40 points in %d sentences", routes)
	}
	back := load(t, out.String())
	if len(back.Waypoints) != 1 || len(back.Routes) != 1 || len(back.Routes[0].Points) != 40 ||
		back.Routes[0].Points[39].Name != "Point number 39" || told(back) != "" {
		t.Errorf("%v\n%s", back.Counts(), told(back))
	}
	if w := back.Waypoints[0]; math.Abs(w.Lat+47.6) > 1e-9 || math.Abs(w.Lon-11.3) > 1e-9 {
		t.Errorf("%v %v", w.Lat, w.Lon)
	}
	if len(l) != 2 || l[1].New != "Rock 1" {
		t.Errorf("%v", l)
	}
}

// Two waypoints that are the same stay two, under names that differ, and a route takes the first.
func TestTwins(t *testing.T) {
	w := nav.Waypoint{Item: nav.Item{Name: "Rock"}, Point: nav.At(-47.6, 11.3)}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{w, w}, Routes: []nav.Route{{Item: nav.Item{Name: "R"},
		Points: []nav.Waypoint{w}}}}
	var out bytes.Buffer
	done, err := Format.Store(&out, d, &format.WriteOptions{})
	if err != nil {
		t.Fatal(err)
	}
	text := out.String()
	if strings.Count(text, "WPL") != 2 || !strings.Contains(text, "Rock 2*") || !strings.Contains(text, "c,R,Rock*") {
		t.Errorf("%s", text)
	}
	if l := done.Ledger; len(l) != 1 || l[0].New != "Rock 2" {
		t.Errorf("%v", l)
	}
}

func TestWhatCanGoWrong(t *testing.T) {
	good := Sentence("ECWPL,4736.00000,S,01118.00000,E,A")
	for text, want := range map[string]string{
		strings.Replace(good, "4736", "4737", 1):            "the sentence was garbled",
		"$ECWPL,4736.00000,S,01118.00000,E,A\r\n":           "without a checksum",
		Sentence("ECWPL,4760.0000,S,01118.0000,E,A"):        "no usable position",
		Sentence("ECWPL,4736.0000,S,A"):                     "has five fields",
		Sentence("ECRTE,1,1,c,R,A,B") + good:                "no WPL sentence gives the position",
		Sentence("ECRTE,3,2,c,R,A") + good:                  "the previous one is missing",
		Sentence("ECRTE,3,1,c,R,A") + good:                  "2 of its 3 sentences are missing",
		Sentence("IIVHW,45,T,40,M,6,N,11,K") + good:         "other kinds were skipped: VHW 1",
		good + Sentence("ECWPL,4730.0000,S,01118.0000,E,A"): "is used for two places",
	} {
		if got := told(load(t, text)); !strings.Contains(got, want) {
			t.Errorf("%q: %s, want %q", text, got, want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(Sentence("ECWPL,4736.00000,S,01118.00000,E,A") + Sentence("ECRTE,1,1,c,R,A")))
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "t", b), &format.ReadOptions{})
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
