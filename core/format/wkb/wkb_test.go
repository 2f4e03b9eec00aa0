package wkb

import (
	"bytes"
	"encoding/hex"
	"testing"
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
