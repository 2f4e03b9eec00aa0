package wkb

import (
	"encoding/hex"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format/layer"
)

// shapeText writes a shape's positions: points, lines and polygons, with heights and measures where they are said.
func shapeText(s *layer.Shape) string {
	position := func(p layer.Position) string {
		text := fmt.Sprintf("%v %v", p.X, p.Y)
		if s.HasZ {
			text += fmt.Sprintf(" z%v", p.Z)
		}
		if s.HasM {
			text += fmt.Sprintf(" m%v", p.M)
		}
		return text
	}
	line := func(part []layer.Position) string {
		var out []string
		for _, p := range part {
			out = append(out, position(p))
		}
		return strings.Join(out, ", ")
	}
	var out []string
	for _, p := range s.Points {
		out = append(out, "point "+position(p))
	}
	for _, l := range s.Lines {
		out = append(out, "line "+line(l))
	}
	for _, rings := range s.Polygons {
		for i, ring := range rings {
			out = append(out, map[bool]string{true: "outline ", false: "hole "}[i == 0]+line(ring))
		}
	}
	return strings.Join(out, "; ")
}

// The forms of OGC 06-103r4, clause 7.2, with their spellings of heights and measures, and the system's number of the
// extension.
func TestText(t *testing.T) {
	for text, want := range map[string]string{
		"POINT (11 -47)":       "point 11 -47",
		" point(11 -47) ":      "point 11 -47",
		"POINT Z (11 -47 5)":   "point 11 -47 z5",
		"POINTZ(11 -47 5)":     "point 11 -47 z5",
		"POINT (11 -47 5)":     "point 11 -47 z5",
		"POINT M (11 -47 5)":   "point 11 -47 m5",
		"POINT ZM (1 2 3 4)":   "point 1 2 z3 m4",
		"POINT EMPTY":          "",
		"LINESTRING (1 2,3 4)": "line 1 2, 3 4",
		"LINESTRING EMPTY":     "",
		"POLYGON ((0 0, 1 0, 1 1, 0 0), (.1 .1, .2 .1, .2 .2, .1 .1))": "outline 0 0, 1 0, 1 1, 0 0; " +
			"hole 0.1 0.1, 0.2 0.1, 0.2 0.2, 0.1 0.1",
		"MULTIPOINT (1 2, 3 4)":                         "point 1 2; point 3 4",
		"MULTIPOINT ((1 2), (3 4))":                     "point 1 2; point 3 4",
		"MULTILINESTRING ((1 2, 3 4), (5 6, 7 8))":      "line 1 2, 3 4; line 5 6, 7 8",
		"MULTIPOLYGON (((0 0,1 0,1 1,0 0)))":            "outline 0 0, 1 0, 1 1, 0 0",
		"GEOMETRYCOLLECTION (POINT (1 2), POINT (3 4))": "point 1 2; point 3 4",
		"SRID=32732;POINT (500000 5000000)":             "system 32732; point 500000 5e+06",
	} {
		s, system, err := ParseText(text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		got := shapeText(s)
		if system != 0 {
			got = fmt.Sprintf("system %d; %s", system, got)
		}
		if got != want {
			t.Errorf("%s: %s, want %s", text, got, want)
		}
	}
	for text, want := range map[string]string{
		"POINT (1": "cut off", "LINESTRING (1 2, ": "cut off", "POINT (1 x)": "not a number",
		"POINT (1)": "without two numbers", "CIRCULARSTRING (1 2, 3 4)": "straight edges",
		"POINT (1 2) more": "more behind", "SRID=x;POINT (1 2)": "number of a system",
		"": "cut off", "POINT 1 2": "not well-known text", strings.Repeat("GEOMETRYCOLLECTION (", 99): "too deeply",
	} {
		if _, _, err := ParseText(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.40q: %v, want %q", text, err, want)
		}
	}
}

// What is written as text or as binary with a system's number is read as the same.
func TestThereAndBackAsText(t *testing.T) {
	ring := []layer.Position{{X: 0}, {X: 1}, {X: 1, Y: 1.25}, {}}
	for kind, f := range map[uint32]*layer.Feature{
		Point: {Parts: [][]layer.Position{{{X: 11.25, Y: -47.5, Z: 3}}}}, Line: {Parts: [][]layer.Position{ring[:2]}},
		MultiLine: {Parts: [][]layer.Position{ring[:2], ring[1:3]}},
		Polygon:   {Parts: [][]layer.Position{ring}, Outer: []bool{true}},
		MultiPolygon: {Parts: [][]layer.Position{ring, ring, ring},
			Outer: []bool{true, false, true}},
	} {
		text := string(AppendText(nil, f, kind))
		s, _, err := ParseText(text)
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		code := WithSystem(Append(nil, f, kind), 32732)
		same, head, err := Parse(code)
		if err != nil || head.System != 32732 || shapeText(same) != shapeText(s) {
			t.Errorf("%s: %s is read as %s in %d (%v)", text, hex.EncodeToString(code), shapeText(same), head.System, err)
		}
	}
}

func FuzzText(f *testing.F) {
	f.Add("SRID=1;MULTIPOLYGON ZM (((1 2 3 4,1 2 3 4)),EMPTY)")
	f.Fuzz(func(t *testing.T, text string) {
		s, _, err := ParseText(text)
		if err == nil && len(s.All()) == 0 {
			t.Fatal("no parts")
		}
	})
}
