package cli

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/format/all"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// A negative number after an option is its value; a file's name and what follows -- are left alone.
func TestJoinNegative(t *testing.T) {
	var out bytes.Buffer
	a := newApp(strings.NewReader(""), &out, &out)
	got := a.joinNegative([]string{"look", "--inside", "-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"})
	want := []string{"look", "--inside=-10,-20,5,6", "-5.gpx", "--take", "x", "--", "--a", "-1"}
	if !slices.Equal(got, want) {
		t.Errorf("got %q", got)
	}
}

func TestShortened(t *testing.T) {
	got := shortened([]string{"s-points.shp", "s-points.shx", "s-points.dbf", "s-lines.shp", "s-lines.prj", "other.gpx"})
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
	if got := lineList(at(3, 7, 8, 9, 20)); got != "lines 3, 7 to 9, 20" {
		t.Error(got)
	}
	var many []int
	for i := range 100 {
		many = append(many, 2*i)
	}
	if got := lineList(at(many...)); !strings.HasSuffix(got, "and 70 more places") {
		t.Error(got)
	}
}

func TestParseSpots(t *testing.T) {
	utm, err := crs.Find("32732")
	if err != nil {
		t.Fatal(err)
	}
	near := func(s spot, lat, lon float64) bool {
		return math.Abs(s.lat-lat) < 1e-4 && math.Abs(s.lon-lon) < 1e-4
	}
	for _, c := range []struct {
		args []string
		in   *crs.System
		n    int
	}{{[]string{"47.6", "S", "11.3", "E"}, nil, 1}, {[]string{"−47.6", "11.3"}, nil, 1},
		{[]string{"47.6 S 11.3 E", "4736S01118E"}, nil, 2}, {[]string{"672887.547,4725593.402"}, utm, 1},
		{[]string{"672887.547", "4725593.402"}, utm, 1}} {
		got, err := parseSpots(c.args, c.in)
		if err != nil || len(got) != c.n {
			t.Errorf("%v: %v %v", c.args, got, err)
			continue
		}
		for _, s := range got {
			if !near(s, -47.6, 11.3) {
				t.Errorf("%v: %v", c.args, s)
			}
		}
	}
	for _, args := range [][]string{nil, {"x"}, {"1", "2", "3"}, {"91 N 0 E"}} {
		if got, err := parseSpots(args, nil); err == nil {
			t.Errorf("%v is %v", args, got)
		}
	}
	if _, err := parseSpots([]string{"1", "2", "3"}, utm); err == nil {
		t.Error("three numbers are an easting and a northing")
	}
}

// Every piece of advice that the core gives has words on the command line.
func TestAdviceHasWords(t *testing.T) {
	file, err := parser.ParseFile(token.NewFileSet(), "../../core/advice/advice.go", nil, 0)
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
		if words[advice.Code(text)] == "" {
			t.Errorf("%s has no words", text)
		}
		return true
	})
	if found < 30 || found != len(words) {
		t.Errorf("%d sorts of advice, and words for %d", found, len(words))
	}
}

// The reference is made of the tables, and is as they are.
func TestReference(t *testing.T) {
	upToDate(t, "../../docs/reference.md", Reference())
}

// The page of what the formats hold is made from what they declare.
func TestFormatTables(t *testing.T) {
	upToDate(t, "../../docs/formats/holds.md", FormatTables(all.Formats))
}

// upToDate fails where a page is not what it is made from, or writes it anew.
func upToDate(t *testing.T, page, want string) {
	t.Helper()
	if os.Getenv("UPDATE_REFERENCE") != "" {
		if err := os.WriteFile(page, []byte(want), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := os.ReadFile(page); err != nil || string(got) != want {
		t.Errorf("%s is not what it is made from (%v); UPDATE_REFERENCE=1 go test ./internal/cli writes it anew", page, err)
	}
}
