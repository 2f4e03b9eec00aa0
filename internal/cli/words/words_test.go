package words

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/nav"
)

func TestShortened(t *testing.T) {
	got := Shortened([]string{"s-points.shp", "s-points.shx", "s-points.dbf", "s-lines.shp", "s-lines.prj", "other.gpx"})
	if want := "[s-points.shp with .shx .dbf s-lines.shp with .prj other.gpx]"; fmt.Sprint(got) != want {
		t.Errorf("%v, want %s", got, want)
	}
}

func TestLineList(t *testing.T) {
	at := func(lines ...int) (out []nav.Reject) {
		for _, l := range lines {
			out = append(out, nav.Reject{Line: l})
		}
		return
	}
	if got := Lines(at(3, 7, 8, 9, 20)); got != "lines 3, 7 to 9, 20" {
		t.Error(got)
	}
	var many []int
	for i := range 100 {
		many = append(many, 2*i)
	}
	if got := Lines(at(many...)); !strings.HasSuffix(got, "and 70 more places") {
		t.Error(got)
	}
}

// Every piece of advice that the core gives has words on the command line.
func TestAdviceHasWords(t *testing.T) {
	file, err := parser.ParseFile(token.NewFileSet(), "../../../core/advice/advice.go", nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	found := 0
	ast.Inspect(file, func(n ast.Node) bool {
		v, ok := n.(*ast.ValueSpec)
		if !ok || len(v.Values) != 1 {
			return true
		}
		text, err := strconv.Unquote(v.Values[0].(*ast.BasicLit).Value)
		if err != nil {
			t.Fatal(err)
		}
		found++
		if adviceTexts[advice.Code(text)] == "" {
			t.Errorf("%s has no words", text)
		}
		return true
	})
	if found < 30 || found != len(adviceTexts) {
		t.Errorf("%d sorts of advice, and words for %d", found, len(adviceTexts))
	}
}
