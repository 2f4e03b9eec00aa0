package format

import (
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// Room foresees what a file holds, never wastes more than a few times what there is, and never loses anything.
func TestRoom(t *testing.T) {
	const size = 1_000_000
	var s []int
	grown := 0
	for i := range 50_000 {
		with := Room(s, int64(20*i), size)
		if len(with) != len(s) || cap(with) > max(8*len(s), 1024) {
			t.Fatalf("%d values have room for %d", len(s), cap(with))
		}
		if cap(with) > cap(s) {
			grown++
		}
		s = append(with, i)
	}
	if grown > 8 || cap(s) > 60_000 {
		t.Errorf("grown %d times, to %d", grown, cap(s))
	}
	for i, v := range s {
		if v != i {
			t.Fatalf("value %d is %d", i, v)
		}
	}
	for _, c := range [][2]int64{{0, size}, {size, size}, {2 * size, size}, {100, -1}} {
		if full := make([]int, 1000); cap(Room(full, c[0], c[1])) != 1000 {
			t.Errorf("room at %d of %d", c[0], c[1])
		}
	}
}

// A plain position is read as the careful way reads it, or not at all.
func TestPlainPosition(t *testing.T) {
	parts := []string{"0", "-0", "11.30000", "-179.9999999", "180", "-180", "181", "90", "91", "1.1234567890123",
		"1.12345678901234", "1e1", "", "x", "+5", ".5", "5.", "00.5", "123456789.5"}
	for _, lon := range parts {
		for _, lat := range parts {
			for _, height := range []string{"none", "12.50", "-3", "x", ""} {
				text := lon + " " + lat
				if height != "none" {
					text += " " + height
				}
				var p, q nav.Point
				n := PlainPosition([]byte(text), ' ', nav.MeanSeaLevel, &p)
				if n == 0 {
					if p != q {
						t.Errorf("%q: a point that is refused was changed: %+v", text, p)
					}
					continue
				}
				if rest := text[n:]; rest != "" && rest[0] != ' ' { // which the caller sees
					continue
				}
				exact, why := SetPosition(&q, []byte(lat), []byte(lon))
				if strings.Count(text[:n], " ") == 2 {
					v, digits, ok := decimal.Parse([]byte(height))
					if !ok {
						t.Errorf("%q: the height was read", text)
					}
					q.SetHeight(v, digits, nav.MeanSeaLevel)
				}
				if exact != "" || why != "" || p != q {
					t.Errorf("%q: %+v (%d), not %+v (%s)", text, p, n, q, why)
				}
			}
		}
	}
	for text, want := range map[string]int{"11.5,-47.5,3]": 12, "11.5,-47.5]": 10, "11.5 -47.5": 0, "11.5": 0, "": 0} {
		var p nav.Point
		if n := PlainPosition([]byte(text), ',', nav.DatumUnstated, &p); n != want {
			t.Errorf("%s: %d bytes, not %d", text, n, want)
		}
	}
}
