package xmlwrite

import (
	"bytes"
	"encoding/xml"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/format/inorder"
)

// Points that are formatted on all cores stand in their order.
func TestPointsInOrder(t *testing.T) {
	for _, n := range []int{0, 1, inorder.Block - 1, inorder.Block, inorder.Block + 1, 2*inorder.Block + 1, 50000} {
		var out bytes.Buffer
		w := New(&out)
		w.Open("a")
		w.Points(n, func(dst []byte, from, to int) []byte {
			for i := from; i < to; i++ {
				dst = append(strconv.AppendInt(dst, int64(i), 10), '\n')
			}
			return dst
		})
		w.End("a")
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		lines := strings.Split(strings.TrimSpace(out.String()), "\n")
		if len(lines) != n+3 {
			t.Fatalf("%d lines for %d points", len(lines), n)
		}
		for i := range n {
			if lines[i+2] != strconv.Itoa(i) {
				t.Fatalf("line %d is %s", i, lines[i+2])
			}
		}
	}
}

// Whatever a text holds, a reader gets it back, but for what XML can't hold.
func FuzzText(f *testing.F) {
	f.Add("a & b < c > \"d\" 'e'\r\n\t]]> \x00\x1b \ufffe\u00e9")
	f.Fuzz(func(t *testing.T, s string) {
		var out bytes.Buffer
		w := New(&out)
		w.Line().Raw("<a").Attr("b", s).Raw(">").Text(s).Raw("</a>")
		w.Close()
		var back struct {
			B    string `xml:"b,attr"`
			Text string `xml:",chardata"`
		}
		if err := xml.Unmarshal(out.Bytes(), &back); err != nil {
			t.Fatalf("%q: %v\n%s", s, err, out.String())
		}
		want := strings.Map(func(r rune) rune {
			if r < ' ' && r != '\n' && r != '\t' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
				return '\uFFFD'
			}
			return r
		}, strings.ToValidUTF8(s, "\uFFFD"))
		// Neighbouring bad bytes may become one replacement or several.
		squeeze := func(s string) string {
			for strings.Contains(s, "\uFFFD\uFFFD") {
				s = strings.ReplaceAll(s, "\uFFFD\uFFFD", "\uFFFD")
			}
			return s
		}
		if squeeze(back.Text) != squeeze(want) || squeeze(back.B) != squeeze(want) {
			t.Fatalf("%q comes back as %q and %q", s, back.Text, back.B)
		}
	})
}

func TestFragmentDeclares(t *testing.T) {
	var out bytes.Buffer
	w := New(&out)
	w.Fragment("<x:a><b/></x:a>", [][2]string{{"x", "urn:x"}, {"", ""}})
	w.Fragment("<c/>", nil)
	w.Close()
	if got := out.String(); !strings.Contains(got, `<x:a xmlns:x="urn:x" xmlns=""><b/></x:a>`) ||
		!strings.Contains(got, "<c/>") {
		t.Errorf("got %s", got)
	}
}
