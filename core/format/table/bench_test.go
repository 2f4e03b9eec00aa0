package table

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/gpx"
)

// million is a table as a survey office has it.
func million(rows int) []byte {
	var b bytes.Buffer
	b.WriteString("name,latitude,longitude,height,time,remarks\r\n")
	for i := range rows {
		fmt.Fprintf(&b, "P%07d,%.6f,%.6f,%.1f,2026-03-%02dT%02d:%02d:%02dZ,plot %d\r\n", i, -47.6+float64(i%1000)/1e5,
			11.3+float64(i/1000)/1e5, float64(i%300)/10, 1+i/86400%28, i/3600%24, i/60%60, i%60, i%97)
	}
	return b.Bytes()
}

// BenchmarkCSV compares the way of a million rows to GPX with what the standard library takes to read them.
func BenchmarkCSV(b *testing.B) {
	data := million(1_000_000)
	b.Run("encoding-csv-reads", func(b *testing.B) {
		b.SetBytes(int64(len(data)))
		for b.Loop() {
			in := csv.NewReader(bytes.NewReader(data))
			for {
				if _, err := in.Read(); err == io.EOF {
					break
				} else if err != nil {
					b.Fatal(err)
				}
			}
		}
	})
	b.Run("read", func(b *testing.B) {
		b.SetBytes(int64(len(data)))
		for b.Loop() {
			if _, err := readCSV(format.FromBytes(b.Context(), "x", data), &format.ReadOptions{}); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("to-gpx", func(b *testing.B) {
		b.SetBytes(int64(len(data)))
		for b.Loop() {
			d, err := readCSV(format.FromBytes(b.Context(), "x", data), &format.ReadOptions{})
			if err != nil {
				b.Fatal(err)
			}
			if _, err := gpx.Format.Write(io.Discard, d, &format.WriteOptions{}); err != nil {
				b.Fatal(err)
			}
		}
	})
}
