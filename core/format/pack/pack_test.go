package pack

import (
	"archive/zip"
	"bytes"
	"compress/flate"
	"fmt"
	"io"
	"math/rand/v2"
	"runtime"
	"testing"
)

// What is packed is read back by the standard library, whatever the size and however it is written, and its bytes are
// the same on one core.
func TestThereAndBack(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 1))
	for _, size := range []int{0, 1, window, block - 1, block, block + 1, 3*block + 777} {
		var text bytes.Buffer
		for text.Len() < size {
			fmt.Fprintf(&text, "<coord>%.6f %.6f %d</coord>\n", random.Float64(), random.Float64(), random.IntN(90))
		}
		data := text.Bytes()[:size]
		packed := func(piece int) []byte {
			var out bytes.Buffer
			d := newDeflate(&out)
			for rest := data; len(rest) > 0; rest = rest[min(piece, len(rest)):] {
				d.Write(rest[:min(piece, len(rest))])
			}
			if err := d.Close(); err != nil {
				t.Fatal(err)
			}
			return out.Bytes()
		}
		all := packed(1 << 20)
		back, err := io.ReadAll(flate.NewReader(bytes.NewReader(all)))
		if err != nil || !bytes.Equal(back, data) {
			t.Errorf("%d bytes: %d come back, %v", size, len(back), err)
		}
		cores := runtime.GOMAXPROCS(1)
		if one := packed(1000); !bytes.Equal(one, all) {
			t.Errorf("%d bytes: other bytes on one core", size)
		}
		runtime.GOMAXPROCS(cores)
		if size > block && len(all) > size/2 {
			t.Errorf("%d bytes: packed to %d", size, len(all))
		}
	}
}

func TestZip(t *testing.T) {
	var out bytes.Buffer
	z := NewZip(&out)
	w, _ := z.Create("a.txt")
	io.WriteString(w, "one and two")
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	r, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	if err != nil {
		t.Fatal(err)
	}
	f, _ := r.File[0].Open()
	if text, err := io.ReadAll(f); err != nil || string(text) != "one and two" {
		t.Errorf("%q, %v", text, err)
	}
}
