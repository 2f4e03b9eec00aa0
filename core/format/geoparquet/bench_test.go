package geoparquet

import (
	"bytes"
	"io"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A small file costs little beside its content.
func BenchmarkSmall(b *testing.B) {
	d := isles(3)
	for b.Loop() {
		var out bytes.Buffer
		if _, err := write(&out, d, &format.WriteOptions{}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkSmallRead(b *testing.B) {
	raw := encode(b, isles(3), &format.WriteOptions{})
	for b.Loop() {
		load(b, raw)
	}
}

// Points of a track, by the ten thousand.
func BenchmarkTrackPoints(b *testing.B) {
	var seg nav.Segment
	for i := range 10_000 {
		p := nav.At(-47.6+1e-5*float64(i), 11.3+7e-6*float64(i))
		p.SetTime(int64(i)*1e9, instant.Seconds)
		p.SetHeight(float64(i%90), decimal.PrecisionOf(1), nav.DatumUnstated)
		seg.Points = append(seg.Points, p)
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{seg}}}}
	for b.Loop() {
		if _, err := write(io.Discard, d, &format.WriteOptions{TrackPoints: true}); err != nil {
			b.Fatal(err)
		}
	}
}
