package geoparquet

import (
	"bytes"
	"testing"

	"gyrolith/core/format"
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
