package cli

import (
	"context"
	"io"
	"strings"
	"testing"
)

// What every command costs before it does anything.
func BenchmarkStart(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		Run(context.Background(), []string{"--version"}, strings.NewReader(""), io.Discard, io.Discard)
	}
}
