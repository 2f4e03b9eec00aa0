package format_test

import (
	"bytes"
	"compress/gzip"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
)

// A compressed file is what is in it; a cut or damaged one is said to be so, and one that unpacks to more than it may
// is refused.
func TestCompressedFiles(t *testing.T) {
	text := `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">` +
		strings.Repeat(`<wpt lat="-47.5" lon="11.3"><name>A</name></wpt>`, 5000) + `</gpx>`
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	z.Write([]byte(text))
	z.Close()
	load := func(content []byte, opt *format.ReadOptions) (*format.Loaded, error) {
		t.Helper()
		path := filepath.Join(t.TempDir(), "list.gpx.gz")
		if err := os.WriteFile(path, content, 0o666); err != nil {
			t.Fatal(err)
		}
		s, err := format.Open(t.Context(), path, nil)
		if err != nil {
			return nil, err
		}
		defer s.Close()
		return all.Formats.Load(s, "", false, opt)
	}
	in, err := load(packed.Bytes(), &format.ReadOptions{})
	if err != nil || len(in.Data.Waypoints) != 5000 || in.Format.Name != "gpx" {
		t.Fatalf("%v", err)
	}
	if _, err := load(packed.Bytes(), &format.ReadOptions{MaxUnpacked: 100_000}); err == nil ||
		!strings.Contains(err.Error(), "unpacks to more than 100000 bytes") {
		t.Errorf("too much: %v", err)
	}
	for what, content := range map[string][]byte{"cut": packed.Bytes()[:packed.Len()-20],
		"damaged": append([]byte{0x1f, 0x8b, 8}, "garbage"...)} {
		if _, err := load(content, &format.ReadOptions{}); err == nil || !strings.Contains(err.Error(), "damaged") {
			t.Errorf("%s: %v", what, err)
		} else if e, ok := errors.AsType[*format.Error](err); !ok || !strings.HasSuffix(e.Path, "list.gpx.gz") {
			t.Errorf("%s: the error names no file: %v", what, err)
		}
	}
}
