package wkb

import (
	"bytes"
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"testing"

	"gyrolith/core/format/layer"
)

// big is POINT(11 -47) in big-endian.
var big = []byte{0, 0, 0, 0, 1, 0x40, 0x26, 0, 0, 0, 0, 0, 0, 0xC0, 0x47, 0x80, 0, 0, 0, 0, 0}

// Both orders of bytes, collections, the marks of the extension, and what is nested beyond reason.
func TestParse(t *testing.T) {
	g, h, err := Parse(big)
	if err != nil || h.Type != Point || len(g.Points) != 1 || g.Points[0].X != 11 || g.Points[0].Y != -47 || g.HasZ {
		t.Errorf("big-endian: %+v %v", g, err)
	}
	collection := append([]byte{0, 0, 0, 0, 7, 0, 0, 0, 2}, append(append([]byte{}, big...), big...)...)
	if g, _, err = Parse(collection); err != nil || len(g.Points) != 2 {
		t.Errorf("a collection: %+v %v", g, err)
	}
	deep := bytes.Repeat([]byte{0, 0, 0, 0, 7, 0, 0, 0, 1}, 50)
	if _, _, err = Parse(append(deep, big...)); err == nil {
		t.Error("a collection fifty deep is read")
	}
	// SRID=4326;POINT Z (11 -47 9), little-endian with the marks of heights and of the system.
	marked, _ := hex.DecodeString("01010000A0E6100000" + "0000000000002640" + "00000000008047C0" + "0000000000002240")
	g, h, err = Parse(marked)
	if err != nil || h.System != 4326 || !g.HasZ || g.Points[0].Z != 9 || g.Points[0].Y != -47 {
		t.Errorf("the extension: %+v %+v %v", g, h, err)
	}
	for n := range marked {
		if _, _, err := Parse(marked[:n]); err == nil {
			t.Errorf("%d bytes of %d are read", n, len(marked))
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add(big)
	f.Fuzz(func(t *testing.T, b []byte) {
		g, _, err := Parse(b)
		if err == nil && len(g.Points)*16 > len(b) {
			t.Errorf("%d points of %d bytes", len(g.Points), len(b))
		}
	})
}

// What is written is read again: every type, with heights and without.
func TestThereAndBack(t *testing.T) {
	nan := math.NaN()
	ring := func(x, z float64, back bool) []layer.Position {
		out := []layer.Position{{X: x, Y: 0, Z: z}, {X: x + 1, Y: 0, Z: z}, {X: x + 1, Y: 1, Z: z}, {X: x, Y: 0, Z: z}}
		if back {
			slices.Reverse(out)
		}
		return out
	}
	for _, z := range []float64{nan, 12.5} {
		point := []layer.Position{{X: 11.25, Y: -47.5, Z: z}}
		line := ring(3, z, false)
		for kind, f := range map[uint32]*layer.Feature{
			Point:      {Parts: [][]layer.Position{point}},
			MultiPoint: {Parts: [][]layer.Position{point, line[:1]}},
			Line:       {Parts: [][]layer.Position{line}},
			MultiLine:  {Parts: [][]layer.Position{line, ring(8, z, true)}},
			Polygon:    {Parts: [][]layer.Position{ring(0, z, false), ring(0.2, z, true)}, Outer: []bool{true, false}},
			MultiPolygon: {Parts: [][]layer.Position{ring(0, z, false), ring(5, z, false), ring(5.2, z, true)},
				Outer: []bool{true, true, false}},
		} {
			code := Append([]byte("before"), f, kind)
			g, h, err := Parse(code[len("before"):])
			if err != nil || h.Type != kind || g.HasZ != !math.IsNaN(z) {
				t.Errorf("type %d: %+v, %v", kind, h, err)
				continue
			}
			var got [][]layer.Position
			for _, p := range g.Points {
				got = append(got, []layer.Position{p})
			}
			got = append(got, g.Lines...)
			for _, rings := range g.Polygons {
				got = append(got, rings...)
			}
			if fmt.Sprint(got) != fmt.Sprint(f.Parts) {
				t.Errorf("type %d: %v, not %v", kind, got, f.Parts)
			}
			if kind == MultiPolygon && (len(g.Polygons) != 2 || len(g.Polygons[1]) != 2) {
				t.Errorf("polygons %v", g.Polygons)
			}
			if kind == Point && !bytes.Equal(AppendPoint(nil, point[0]), code[len("before"):]) {
				t.Error("a point alone is written otherwise")
			}
			for n := range len(code) - len("before") {
				if _, _, err := Parse(code[len("before"):][:n]); err == nil {
					t.Errorf("type %d: %d bytes of it are read", kind, n)
				}
			}
		}
	}
}
