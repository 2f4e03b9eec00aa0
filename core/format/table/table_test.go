package table

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func sample() *nav.Dataset {
	w := nav.Waypoint{Item: nav.Item{Name: "=cmd()", Desc: "a; \"b\",\nc", Group: "Rocks",
		Fields: []nav.Field{{Key: "depth", Value: "1.5"}}}, Point: nav.At(-47.6, 11.3)}
	w.SetHeight(12.5, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	w.SetTime(time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC).UnixNano(), instant.Seconds)
	r := nav.Route{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(1, 2)}}}
	return &nav.Dataset{Waypoints: []nav.Waypoint{w}, Routes: []nav.Route{r}}
}

var columns = []format.Column{{Title: "Route", Holds: "line"}, {Title: "Group", Holds: "group"},
	{Title: "Name", Holds: "name"}, {Title: "Lat", Holds: "lat"}, {Title: "Place", Holds: "position"},
	{Title: "Height", Holds: "height"}, {Title: "Time", Holds: "time"}, {Title: "Depth", Holds: "depth"},
	{Title: "Note", Holds: "description"}}

func TestCSV(t *testing.T) {
	var out bytes.Buffer
	done, err := writeCSV(&out, sample(), &format.WriteOptions{Table: &format.Table{Columns: columns, Separator: ';',
		Notation: geodesy.Minutes}})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	in := csv.NewReader(&out)
	in.Comma = ';'
	rows, err := in.ReadAll()
	if err != nil || len(rows) != 3 {
		t.Fatalf("%v %v", rows, err)
	}
	want := []string{"", "Rocks", "'=cmd()", "-47.6", "47°36.000′ S 011°18.000′ E", "12.5", "2026-03-14T05:30:00Z",
		"1.5", "a; \"b\",\nc"}
	for i := range want {
		if rows[1][i] != want[i] {
			t.Errorf("column %s: %q, want %q", rows[0][i], rows[1][i], want[i])
		}
	}
	if rows[2][0] != "Run" || rows[2][5] != "" {
		t.Errorf("the route's point: %q", rows[2])
	}
	if l.Losses() != 0 {
		t.Errorf("%v", l)
	}
	if done, _ = FormatCSV.Store(&out, sample(),
		&format.WriteOptions{Table: &format.Table{Columns: columns[:4]}}); done.Ledger.Losses() < 4 {
		t.Errorf("what has no column is not told: %v", done.Ledger)
	}
}

func TestWorkbook(t *testing.T) {
	var out, again bytes.Buffer
	opt := &format.WriteOptions{Table: &format.Table{Columns: columns, Sheet: "Points"}}
	if _, err := writeXLSX(&out, sample(), opt); err != nil {
		t.Fatal(err)
	}
	writeXLSX(&again, sample(), opt)
	if !bytes.Equal(out.Bytes(), again.Bytes()) {
		t.Error("the same data give other bytes")
	}
	book, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	for cell, want := range map[string]string{"A1": "Route", "C2": "=cmd()", "D2": "-47.6", "G2": "2026-03-14 05:30:00",
		"A3": "Run"} {
		if got, _ := book.GetCellValue("Points", cell); got != want {
			t.Errorf("%s holds %q, want %q", cell, got, want)
		}
	}
	if f, _ := book.GetCellFormula("Points", "C2"); f != "" {
		t.Error("a name is a formula")
	}
	if kind, _ := book.GetCellType("Points", "D2"); kind != excelize.CellTypeUnset && kind != excelize.CellTypeNumber {
		t.Errorf("the latitude is no number but %v", kind)
	}
}

// The template's other sheets and cells stay as they are.
func TestTemplate(t *testing.T) {
	file := filepath.Join(t.TempDir(), "mine.xlsx")
	book := excelize.NewFile()
	book.SetSheetName("Sheet1", "Cover")
	book.NewSheet("List")
	book.SetCellStr("Cover", "A1", "Season 2026")
	book.SetCellStr("List", "A1", "Our own heading")
	book.SetCellStr("List", "K9", "signature")
	if err := book.SaveAs(file); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	opt := &format.WriteOptions{Table: &format.Table{Columns: columns, Template: file, Sheet: "List", FirstRow: 4}}
	if _, err := writeXLSX(&out, sample(), opt); err != nil {
		t.Fatal(err)
	}
	filled, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	for at, want := range map[string]string{"Cover A1": "Season 2026", "List A1": "Our own heading",
		"List K9": "signature", "List B4": "Rocks", "List A5": "Run", "List D4": "-47.6"} {
		sheet, cell, _ := strings.Cut(at, " ")
		if got, _ := filled.GetCellValue(sheet, cell); got != want {
			t.Errorf("%s holds %q, want %q", at, got, want)
		}
	}
	opt.Table.Sheet = "Elsewhere"
	if _, err := writeXLSX(&out, sample(), opt); err == nil ||
		!strings.Contains(err.Error(), `no sheet "Elsewhere"; it has Cover, List`) {
		t.Errorf("a sheet that there is not: %v", err)
	}
	os.WriteFile(file, []byte("no workbook"), 0o666)
	if _, err := writeXLSX(&out, sample(), opt); err == nil ||
		!strings.Contains(err.Error(), "can't be read as a workbook") {
		t.Errorf("a template that is none: %v", err)
	}
}

// Neither a title nor a text becomes a formula in a spreadsheet, and both come back as they were.
func TestFormulas(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "\n=1+1", Fields: []nav.Field{
		{Key: `=HYPERLINK("x")`, Value: "\n@x"}, {Key: "'=y", Value: "'z"}}}, Point: nav.At(-47, 11)}}}
	var out bytes.Buffer
	if _, err := writeCSV(&out, d, &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(bytes.NewReader(out.Bytes())).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		for _, cell := range row {
			if bare := strings.TrimSpace(cell); bare != "" && strings.ContainsAny(bare[:1], "=@") {
				t.Errorf("a spreadsheet takes %q for a formula", cell)
			}
		}
	}
	back := load(t, out.String(), &format.ReadOptions{})
	if w := &back.Waypoints[0]; w.Name != "\n=1+1" || len(w.Fields) != 2 || w.Fields[0] != d.Waypoints[0].Fields[0] ||
		w.Fields[1] != d.Waypoints[0].Fields[1] {
		t.Errorf("came back as %q %v\n%s", w.Name, w.Fields, out.String())
	}
}

// The rows of plain points are the same, byte for byte, whether they are written cell by cell or in runs on all cores.
func TestRunsOfPlainPoints(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	var seg nav.Segment
	for i := range 10_000 {
		p := nav.At(0, 0)
		digits := random.IntN(12)
		lat := strconv.FormatFloat(90*random.Float64()-45, 'f', digits, 64)
		lon := strconv.FormatFloat(360*random.Float64()-180, 'f', random.IntN(12), 64)
		p.Lat, p.LatPrecision, _ = decimal.Parse([]byte(lat))
		p.Lon, p.LonPrecision, _ = decimal.Parse([]byte(lon))
		if i%3 > 0 {
			v, precision, _ := decimal.Parse([]byte(strconv.FormatFloat(3000*random.Float64()-50, 'f', i%5, 64)))
			p.SetHeight(v, precision, nav.DatumUnstated)
		}
		if i%7 > 0 {
			p.SetTime(int64(i)*1_234_567_890, []instant.Mark{instant.Seconds, instant.Day, instant.Seconds + 3}[i%3])
		}
		seg.Points = append(seg.Points, p)
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "=A, \"quoted\" name"}, Segments: []nav.Segment{seg}}}}
	for _, columns := range []string{"", "number,lat,lon,height,time,line", "position,zone,easting,segment"} {
		opt := &format.WriteOptions{}
		if columns != "" {
			opt.Table = &format.Table{}
			for word := range strings.SplitSeq(columns, ",") {
				opt.Table.Columns = append(opt.Table.Columns, format.Column{Title: word, Holds: word})
			}
		}
		var quick, slow bytes.Buffer
		if _, err := writeCSV(&quick, d, opt); err != nil {
			t.Fatal(err)
		}
		s := layout(d, opt)
		out := &csvWriter{bufio.NewWriter(&slow), ','}
		record := make([]string, len(s.Columns))
		for i, c := range s.Columns {
			record[i] = c.Title
		}
		out.record(record)
		rows(d, false, func(r *row) error {
			for i, c := range s.Columns {
				record[i] = cellText(r.value(c.Holds, s))
			}
			return out.record(record)
		}, nil)
		out.Flush()
		if !bytes.Equal(quick.Bytes(), slow.Bytes()) {
			a, b := strings.Split(quick.String(), "\n"), strings.Split(slow.String(), "\n")
			for i := range min(len(a), len(b)) {
				if a[i] != b[i] {
					t.Errorf("%s: row %d is %q, and cell by cell %q", columns, i, a[i], b[i])
					break
				}
			}
			t.Errorf("%s: %d and %d bytes", columns, quick.Len(), slow.Len())
		}
	}
}
