package table

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// rowsOfPoints are plain rows, more than the first block takes in any case, and then one more.
func rowsOfPoints(last string) string {
	var b strings.Builder
	b.WriteString("name,lat,lon\n")
	for i := range 2 * firstRows {
		fmt.Fprintf(&b, "Möwe %d,-47.%04d,11.3\n", i, i)
	}
	return b.String() + last
}

// What a byte far behind the first block says of the encoding holds for the whole text, from a file as from a pipe.
func TestEncodingFromFarBehind(t *testing.T) {
	text := rowsOfPoints("Größe,-47.6,11.3\n")
	latin, _ := charmap.Windows1252.NewEncoder().Bytes([]byte(text))
	wide, _ := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(text))
	plain := strings.ReplaceAll(text, "Möwe", "Tern")
	late, _ := charmap.Windows1252.NewEncoder().Bytes([]byte(plain))
	for what, c := range map[string]struct {
		raw     []byte
		first   string
		guessed bool
	}{
		"UTF-8":                      {[]byte(text), "Möwe 0", false},
		"UTF-8 with a mark":          {[]byte("\ufeff" + text), "Möwe 0", false},
		"UTF-16":                     {wide, "Möwe 0", false},
		"Windows-1252":               {latin, "Möwe 0", true},
		"Windows-1252 in the end":    {late, "Tern 0", true},
		"a return ends every row":    {[]byte(strings.ReplaceAll(text, "\n", "\r")), "Möwe 0", false},
		"a line ends with both":      {[]byte(strings.ReplaceAll(text, "\n", "\r\n")), "Möwe 0", false},
		"every second ends with one": {[]byte(strings.ReplaceAll(text, "1,11.3\n", "1,11.3\r")), "Möwe 0", false},
	} {
		path := filepath.Join(t.TempDir(), "a.csv")
		if err := os.WriteFile(path, c.raw, 0o600); err != nil {
			t.Fatal(err)
		}
		file, err := format.Open(t.Context(), path, nil)
		if err != nil {
			t.Fatal(err)
		}
		defer file.Close()
		pipe, err := format.FromReader(t.Context(), "pipe", bytes.NewReader(c.raw))
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range []*format.Source{file, pipe, format.FromBytes(t.Context(), "bytes", c.raw)} {
			d, err := readBlocks(s, &format.ReadOptions{}, 64)
			if err != nil {
				t.Errorf("%s from %s: %v", what, s.Path, err)
				continue
			}
			last := len(d.Waypoints) - 1
			if last != 2*firstRows || d.Waypoints[0].Name != c.first || d.Waypoints[last].Name != "Größe" ||
				d.Waypoints[700].Name[len(d.Waypoints[700].Name)-3:] != "700" {
				t.Errorf("%s from %s: %d waypoints from %q to %q", what, s.Path, last+1, d.Waypoints[0].Name,
					d.Waypoints[last].Name)
			}
			if guessed := strings.Contains(fmt.Sprint(d.Problems), "Windows-1252"); guessed != c.guessed {
				t.Errorf("%s from %s: it is said: %v", what, s.Path, d.Problems)
			}
		}
	}
}

// What is wrong far behind the first block is said with its place.
func TestFaultsFarBehind(t *testing.T) {
	const line = 2*firstRows + 2
	read := func(text string) (*nav.Dataset, error) {
		return readBlocks(format.FromBytes(t.Context(), "x", []byte(text)), &format.ReadOptions{}, 64)
	}
	if _, err := read(rowsOfPoints("a\x00b,-47.6,11.3\n")); err == nil || !strings.Contains(err.Error(), "binary") {
		t.Errorf("a binary file gives %v", err)
	}
	d, err := read(rowsOfPoints("\"Rock,-47.6,11.3\nCove,-47.5,11.3\n"))
	var fault *format.Error
	if !errors.As(err, &fault) || fault.Line != line || !fault.Cut || len(d.Waypoints) < 2*firstRows {
		t.Errorf("a quote without an end gives %+v", err)
	}
	d, err = read(rowsOfPoints("Rock,-47.6"))
	if err != nil || len(d.Rejects) != 1 || d.Rejects[0].Line != line || len(d.Waypoints) != 2*firstRows {
		t.Errorf("a file that is cut off gives %v, %+v", err, d.Rejects)
	}
	d, err = read(rowsOfPoints("Rock,0,0\n"))
	if err != nil || !strings.Contains(fmt.Sprint(d.Problems), fmt.Sprintf("row %d (Rock)", line)) {
		t.Errorf("a position that nobody took gives %v, %v", err, d.Problems)
	}
}

// What rows of lines say besides a position stays with their points, or is told.
func TestRowsOfLinesSayAll(t *testing.T) {
	d := load(t, "kind,name,lat,lon,height,line,group,item id,note\n"+
		"track,,-47.6,11.3,5,Ferry,Ships,p1,\n"+
		"track,,-47.7,11.3,6,Ferry,Boats,p2,calm\n"+
		"area,NE corner,-47.6,11.3,,Bay,,,\n"+
		"area,,-47.7,11.3,,Bay,,,\n"+
		"area,,-47.7,11.2,,Bay,,,shoal\n", &format.ReadOptions{})
	got := pointsOf(d)
	if len(got) != 2 || got[0].ID != "p1" || got[1].ID != "p2" || got[1].Desc != "calm" || d.Tracks[0].Group != "Ships" {
		t.Errorf("the track is %+v", got)
	}
	corners, groups := "", ""
	for _, p := range d.Problems {
		switch {
		case strings.Contains(p.Text, "corner"):
			corners = fmt.Sprint(p.Line, p.Count)
		case strings.Contains(p.Text, "another group"):
			groups = fmt.Sprint(p.Line)
		}
	}
	if corners != "4 2" || groups != "3" {
		t.Errorf("what an area or a line can't have is not told: %+v", d.Problems)
	}
}

// Rows that become shorter are more than the first ones foretell, wherever blank lines stand among them: none is
// written over by another.
func TestRowsThatBecomeShorter(t *testing.T) {
	const rows, long = 1500, 2 * firstRows
	for blank := long; blank < rows; blank += 3 {
		var b strings.Builder
		b.WriteString("name,lat,lon,remarks\n")
		for i := range rows {
			remarks := ""
			if i < long || i%12 > 9 {
				remarks = strings.Repeat("long ", 12)
			}
			fmt.Fprintf(&b, "P%d,-47.%04d,11.3,%s\n", i, i, remarks)
			if i >= blank && i < blank+6 {
				b.WriteString("\n")
			}
		}
		d, err := readBlocks(format.FromBytes(t.Context(), "x", []byte(b.String())), &format.ReadOptions{}, 100)
		if err != nil || len(d.Waypoints) != rows {
			t.Fatalf("%d waypoints, %v", len(d.Waypoints), err)
		}
		for i := range d.Waypoints {
			if w := &d.Waypoints[i]; w.Name != fmt.Sprintf("P%d", i) || math.Abs(w.Lat+47+float64(i)/1e4) > 1e-9 {
				t.Fatalf("with blank lines from row %d on row %d is %s at %v", blank, i, w.Name, w.Lat)
			}
		}
	}
}
