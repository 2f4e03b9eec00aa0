package shapefile

import (
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// shapes makes a .shp of records by hand.
func shapes(kind uint32, records ...[]byte) []byte {
	size := headerSize
	for _, r := range records {
		size += 8 + len(r)
	}
	b := make([]byte, headerSize)
	binary.BigEndian.PutUint32(b, fileCode)
	binary.BigEndian.PutUint32(b[24:], uint32(size/2))
	binary.LittleEndian.PutUint32(b[28:], version)
	binary.LittleEndian.PutUint32(b[32:], kind)
	for i, r := range records {
		b = binary.BigEndian.AppendUint32(b, uint32(i+1))
		b = binary.BigEndian.AppendUint32(b, uint32(len(r)/2))
		b = append(b, r...)
	}
	return b
}

// shape makes the content of a record: words and then numbers.
func shape(words []uint32, values ...float64) (b []byte) {
	for _, w := range words {
		b = binary.LittleEndian.AppendUint32(b, w)
	}
	for _, v := range values {
		b = appendFloat(b, v)
	}
	return
}

// boxed is the content of a record whose numbers begin with a box: its type, the box, its counts, its coordinates.
func boxed(kind uint32, counts []uint32, values ...float64) []byte {
	b := shape([]uint32{kind}, 0, 0, 0, 0)
	return append(b, shape(counts, values...)...)
}

func readShapes(t *testing.T, b []byte) (*nav.Dataset, error) {
	t.Helper()
	return read(format.WithParts(t.Context(), "x.shp", b, nil), &format.ReadOptions{})
}

// All types of shapes of the description are read, or told to be none of ours.
func TestShapeTypes(t *testing.T) {
	for name, c := range map[string]struct {
		file []byte
		want string
	}{
		"point":        {shapes(1, shape([]uint32{1}, 11, -47)), "1 0 0"},
		"point z":      {shapes(11, shape([]uint32{11}, 11, -47, 5, 0)), "1 0 0"},
		"point m":      {shapes(21, shape([]uint32{21}, 11, -47, 3)), "1 0 0"},
		"multipoint":   {shapes(8, boxed(8, []uint32{2}, 11, -47, 12, -47)), "2 0 0"},
		"line":         {shapes(3, boxed(3, []uint32{1, 2, 0}, 11, -47, 12, -47)), "0 1 0"},
		"line z":       {shapes(13, boxed(13, []uint32{1, 2, 0}, 11, -47, 12, -47, 1, 2, 1, 2)), "0 1 0"},
		"line m":       {shapes(23, boxed(23, []uint32{1, 2, 0}, 11, -47, 12, -47, 1, 2, 1, 2)), "0 1 0"},
		"polygon":      {shapes(5, boxed(5, []uint32{1, 4, 0}, 0, 0, 0, 1, 1, 1, 0, 0)), "0 0 1"},
		"null":         {shapes(1, shape([]uint32{0}), shape([]uint32{1}, 11, -47)), "1 0 0"},
		"multipatch":   {shapes(31, boxed(31, []uint32{0, 0})), "0 0 0"},
		"empty parts":  {shapes(3, boxed(3, []uint32{0, 0})), "0 0 0"},
		"out of range": {shapes(1, shape([]uint32{1}, 11, -97)), "0 0 0"},
		"no number":    {shapes(1, shape([]uint32{1}, math.NaN(), 1)), "0 0 0"},
	} {
		d, err := readShapes(t, c.file)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := fmt.Sprint(len(d.Waypoints), len(d.Tracks), len(d.Areas)); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
		if c.want == "0 0 0" && len(d.Problems)+len(d.Rejects) < 2 { // beside the missing table
			t.Errorf("%s is lost in silence: %v %v", name, d.Problems, d.Rejects)
		}
	}
	d, _ := readShapes(t, shapes(13, boxed(13, []uint32{1, 2, 0}, 11, -47, 12, -47, 1, 2, 100, 200)))
	if p := d.Tracks[0].Segments[0].Points; p[1].Height() != 200 {
		t.Errorf("heights %v", p[1].Height())
	}
}

// Counts that can't be are faults of the file, and no reason to ask for memory.
func TestBadShapes(t *testing.T) {
	for name, b := range map[string][]byte{
		"parts":     shapes(3, boxed(3, []uint32{0xFFFFFFFF, 2, 0}, 11, -47)),
		"points":    shapes(3, boxed(3, []uint32{1, 0x7FFFFFFF, 0}, 11, -47)),
		"order":     shapes(3, boxed(3, []uint32{2, 2, 1, 0}, 11, -47, 12, -47)),
		"multi":     shapes(8, boxed(8, []uint32{0x7FFFFFFF}, 11, -47)),
		"too short": shapes(1, shape([]uint32{1})),
		"line":      shapes(3, shape([]uint32{3}, 0)),
	} {
		if d, err := readShapes(t, b); err == nil || !strings.Contains(err.Error(), "record 1 that is not a shape") {
			t.Errorf("%s: %v %v", name, d, err)
		}
	}
	long := shapes(1, shape([]uint32{1}, 11, -47))
	binary.BigEndian.PutUint32(long[headerSize+4:], 0x7FFFFFFF)
	if _, err := readShapes(t, long); err == nil || !strings.Contains(err.Error(), "longer than the file") {
		t.Errorf("a length that can't be: %v", err)
	}
	if _, err := readShapes(t, []byte("hello")); err == nil || !strings.Contains(err.Error(), "not a shapefile") {
		t.Errorf("%v", err)
	}
}

// Values of a table of attributes as other programs write them.
func TestForeignTables(t *testing.T) {
	c := func(kind byte, decimals int) column { return column{"x", kind, 10, decimals} }
	table := &dbf{decode: func(b []byte) string { return string(b) }}
	for _, v := range []struct {
		kind byte
		raw  string
		want string
	}{
		{'N', "     12.50", "12.5"}, {'N', "   12.0000", "12"}, {'N', "**********", ""}, {'N', "          ", ""},
		{'N', " 1.5e+003 ", "1500"}, {'F', "-0.25     ", "-0.25"}, {'N', "100       ", "100"},
		{'D', "20260314", "2026-03-14"}, {'D', "00000000", ""}, {'D', "        ", ""}, {'L', "T", "true"},
		{'L', "n", "false"}, {'L', "?", ""},
		{'C', "  text\x00\x00 ", "text"}, {'I', "\x07\x00\x00\x00", "7"}, {'I', "\xff\xff\xff\xff", "-1"},
		{'O', "\x00\x00\x00\x00\x00\x00\xf8\x3f", "1.5"}, {'O', "\x00\x00\x00\x00\x00\x00\xf8\x7f", ""},
	} {
		if got := table.value(c(v.kind, 0), []byte(v.raw)); got != v.want {
			t.Errorf("%c %q is %q, want %q", v.kind, v.raw, got, v.want)
		}
	}
	// What is written in a number's column reads as the number that it was.
	for _, text := range []string{"12.5", "-3", "0.125", "1000000"} {
		k := column{"x", 'N', 14, 4}
		cell := []byte(strings.Repeat(" ", 14))
		put(cell, k, text)
		if got := table.value(k, cell); got != text {
			t.Errorf("%q comes back as %q from %q", text, got, cell)
		}
	}
	cell := []byte("    ")
	put(cell, column{"x", 'C', 4, 0}, "aääb") // cut between letters
	if string(cell) != "aä " {
		if string(cell) != "aä" && strings.TrimSpace(string(cell)) != "aä" {
			t.Errorf("%q", cell)
		}
	}
	for name, want := range map[string]string{"Höhe über See": "Hohe_uber_", "日本": "field", "2nd": "f2nd", "a b": "a_b",
		"": "field"} {
		if got := uniqueName(name, map[string]bool{}, false); got != want {
			t.Errorf("%q is %q, want %q", name, got, want)
		}
	}
	taken := map[string]bool{}
	seen := map[string]bool{}
	for i := range 150 {
		n := strings.ToLower(uniqueName("Anzahl der Nester im Jahr", taken, false))
		if seen[n] || len(n) > 10 {
			t.Fatalf("the name %q comes twice, or is too long, at %d", n, i)
		}
		seen[n] = true
	}
}
