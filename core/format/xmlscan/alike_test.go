package xmlscan

import (
	"fmt"
	"strings"
	"testing"
)

// Elements that are taken in one step and those that are left make the same list, in their order, as if each had been
// read for itself; places behind them are right.
func TestAlike(t *testing.T) {
	odd := []string{`<v>x</v>`, `<v a="1">17</v>`, `<v></v>`, `<v/>`, `<v>1<!-- c -->8</v>`, `<v>&#49;9</v>`,
		`<w>20</w>`, `<v>21<u/></v>`, `<v ><![CDATA[22]]></v>`, "<v>\r\n23</v>", `<vv>24</vv>`}
	var b strings.Builder
	b.WriteString("<root>\n")
	for i := range 3000 {
		if i%97 == 50 {
			fmt.Fprintf(&b, " %s\n", odd[i/97%len(odd)])
			continue
		}
		fmt.Fprintf(&b, "\t<v>%d</v>%s", i, []string{"\n", "", "\r\n", " "}[i%4])
	}
	b.WriteString("<end/></root>")
	read := func(together bool) (got []string, line, col int) {
		s, err := New(strings.NewReader(b.String()), Limits{})
		if err == nil {
			err = s.Root("root")
		}
		if err != nil {
			t.Fatal(err)
		}
		err = s.Children(func(local string) error {
			if local == "end" {
				line, col = s.Pos()
				return s.Skip()
			}
			text, err := s.LeafString()
			got = append(got, local+" "+text)
			if together && local == "v" {
				s.Alike("v", func(text []byte) bool {
					if len(text) == 0 || strings.Trim(string(text), "0123456789") != "" {
						return false
					}
					got = append(got, "v "+string(text))
					return true
				})
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		return
	}
	got, line, col := read(true)
	want, wantLine, wantCol := read(false)
	if len(want) != 3000 || len(got) != len(want) || line != wantLine || col != wantCol {
		t.Fatalf("%d of %d elements, the end at %d:%d, not %d:%d", len(got), len(want), line, col, wantLine, wantCol)
	}
	for i := range got {
		if got[i] != want[i] {
			t.Fatalf("element %d is %q, not %q", i, got[i], want[i])
		}
	}
}

// A document is read in no more room than it takes, in whatever room that is said to be.
func TestSizes(t *testing.T) {
	doc := "<a>" + strings.Repeat("<b>é</b>", 500) + "</a>"
	for _, size := range []int64{0, -1, 1, 2, 17, int64(len(doc)) - 1, int64(len(doc)), int64(len(doc)) + 1, 1 << 40} {
		s, err := New(strings.NewReader(doc), Limits{Size: size})
		if err == nil {
			err = s.Root("a")
		}
		n := 0
		if err == nil {
			err = s.Children(func(string) error {
				text, err := s.LeafString()
				if text == "é" {
					n++
				}
				return err
			})
		}
		if err != nil || n != 500 {
			t.Errorf("said to have %d bytes: %d elements, %v", size, n, err)
		}
		if size == int64(len(doc)) && cap(s.buf) > len(doc)+1 {
			t.Errorf("%d bytes took room for %d", len(doc), cap(s.buf))
		}
	}
}
