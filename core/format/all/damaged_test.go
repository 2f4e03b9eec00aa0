package all_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"math/rand/v2"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
)

// A flipped bit in anything compressed is told, or has changed nothing; it never gives other data without a word.
// The directory at the end of a Parquet file has no checksum, so that only what stands before it is flipped there.
func TestFlippedBits(t *testing.T) {
	g := &generator{Rand: rand.New(rand.NewPCG(3, 3))}
	d := g.base()
	written := func(name string) []byte {
		var out bytes.Buffer
		if _, err := all.Formats.ByName(name).Write(&out, d, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}
	var packed bytes.Buffer
	z := zip.NewWriter(&packed)
	for _, name := range []string{"gpx", "csv"} {
		in, err := z.Create("data." + name)
		if err == nil {
			_, err = in.Write(written(name))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	parquet := written("geoparquet")
	end := len(parquet) - 8 - int(binary.LittleEndian.Uint32(parquet[len(parquet)-8:]))
	for _, c := range []struct {
		name string
		raw  []byte
		end  int
	}{
		{"data.kmz", written("kmz"), 0}, {"data.xlsx", written("xlsx"), 0}, {"data.zip", packed.Bytes(), 0},
		{"data.parquet", parquet, end},
	} {
		if c.end == 0 {
			c.end = len(c.raw)
		}
		read := func(raw []byte) (*nav.Dataset, error) {
			in, err := all.Formats.Load(format.FromBytes(t.Context(), c.name, raw), "", false, &format.ReadOptions{})
			if err != nil {
				return nil, err
			}
			return in.Data, nil
		}
		text := func(d *nav.Dataset) string {
			var out bytes.Buffer
			if _, err := all.Formats.ByName("gpx").Write(&out, d, &format.WriteOptions{}); err != nil {
				t.Fatal(err)
			}
			return out.String()
		}
		sound, err := read(c.raw)
		if err != nil {
			t.Fatal(c.name, err)
		}
		want := text(sound)
		for range 150 {
			raw := bytes.Clone(c.raw)
			at, bit := g.IntN(c.end), g.IntN(8)
			raw[at] ^= 1 << bit
			if d, err := read(raw); err == nil && text(d) != want {
				t.Errorf("%s: bit %d of byte %d of %d flipped gives other data without a word", c.name, bit, at, len(raw))
			}
		}
	}
}
