package xlsx

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
)

func open(t testing.TB, raw []byte) *Book {
	t.Helper()
	b, err := Open(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// What another package writes is read as it meant it.
func TestForeign(t *testing.T) {
	f := excelize.NewFile()
	dates, _ := f.NewStyle(&excelize.Style{NumFmt: 14})
	own := `d. mmmm yyyy "at noon"`
	words, _ := f.NewStyle(&excelize.Style{CustomNumFmt: &own})
	money := `0.00 "days"`
	numbers, _ := f.NewStyle(&excelize.Style{CustomNumFmt: &money})
	f.SetCellValue("Sheet1", "A1", "Name & \"place\"")
	f.SetCellValue("Sheet1", "C1", -47.6)
	f.SetCellValue("Sheet1", "A4", true)
	f.SetCellValue("Sheet1", "B4", "line\r\nend")
	for i, style := range []int{dates, words, numbers} {
		at, _ := excelize.CoordinatesToCellName(3+i, 4)
		f.SetCellValue("Sheet1", at, 46095)
		f.SetCellStyle("Sheet1", at, at, style)
	}
	f.SetCellRichText("Sheet1", "A5", []excelize.RichTextRun{{Text: "Rock "},
		{Text: "9", Font: &excelize.Font{Bold: true}}})
	f.MergeCell("Sheet1", "A5", "B7")
	f.NewSheet("Second")
	f.SetCellFormula("Second", "A1", "1+1")
	yes := true
	f.SetWorkbookProps(&excelize.WorkbookPropsOptions{Date1904: &yes})
	var raw bytes.Buffer
	if err := f.Write(&raw); err != nil {
		t.Fatal(err)
	}
	b := open(t, raw.Bytes())
	if len(b.Sheets) != 2 || b.Sheets[0].Name != "Sheet1" || !b.Epoch.Equal(time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)) {
		t.Errorf("%+v from %v", b.Sheets, b.Epoch)
	}
	got := ""
	err := b.Rows(b.Sheets[0], func(row *Row) error {
		line, cells := row.Number, row.Cells
		got += fmt.Sprint(line)
		for _, c := range cells {
			got += fmt.Sprintf(" %q", c.Text)
			if c.Date {
				got += "d"
			}
		}
		got += "\n"
		return nil
	})
	want := "1 \"Name & \\\"place\\\"\" \"\" \"-47.6\"\n" +
		"4 \"1\" \"line\\r\\nend\" \"46095\"d \"46095\"d \"46095\"\n5 \"Rock 9\"\n"
	if err != nil || !strings.HasPrefix(got, want) {
		t.Errorf("%v\n%s", err, got)
	}
	merged, err := b.Merged(b.Sheets[0])
	if err != nil || len(merged) != 1 || merged[0] != (Merged{5, 7, 1, 2}) {
		t.Errorf("%v %v", merged, err)
	}
	if merged, err := b.Merged(b.Sheets[1]); len(merged) > 0 || err != nil {
		t.Errorf("%v %v", merged, err)
	}
}

// written packs the parts of a workbook.
func written(parts map[string]string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range parts {
		w, _ := z.Create(name)
		w.Write([]byte(text))
	}
	z.Close()
	return out.Bytes()
}

func parts(sheet string) map[string]string {
	return map[string]string{
		"_rels/.rels": `<Relationships><Relationship Id="a" Type="http://x/officeDocument" Target="/book/main.xml"/>` +
			`</Relationships>`,
		"book/main.xml": `<x:workbook xmlns:x="m" xmlns:r="n"><x:sheets><x:sheet name="S" sheetId="1" r:id="q"/></x:sheets>` +
			`</x:workbook>`,
		"book/_rels/main.xml.rels": `<Relationships><Relationship Id="q" Type="http://x/worksheet" ` +
			`Target="s.xml"/></Relationships>`,
		"book/s.xml": sheet,
	}
}

// Other prefixes, other places and missing references are as good.
func TestPlaces(t *testing.T) {
	b := open(t, written(parts(`<x:worksheet xmlns:x="m"><x:sheetData><x:row><x:c t="inlineStr"><x:is>
		<x:t>a_x0041_b_x00g1_</x:t><x:rPh sb="0" eb="1"><x:t>no</x:t></x:rPh></x:is></x:c><x:c><x:v> 7 </x:v></x:c></x:row>
		<x:row r="9"><x:c r="AA9" t="s"><x:v>5</x:v></x:c></x:row></x:sheetData></x:worksheet>`)))
	got := ""
	err := b.Rows(b.Sheets[0], func(row *Row) error {
		line, cells := row.Number, row.Cells
		got += fmt.Sprintf("%d: %d cells, %s to %s; ", line, len(cells), cells[0].Text, cells[len(cells)-1].Text)
		return nil
	})
	if err != nil || got != "1: 2 cells, aAb_x00g1_ to 7; 9: 27 cells,  to ; " {
		t.Errorf("%q %v", got, err)
	}
}

func TestDateFormats(t *testing.T) {
	for code, want := range map[string]bool{"General": false, "0.00": false, "yyyy-mm-dd": true, "[h]:mm": true,
		`"days" 0`: false, "[Red]0": false, "[$-409]d/m/yy": true, `0\d`: false, "#,##0;yyyy": false, "hh:mm": true} {
		if showsDates(code) != want {
			t.Errorf("%s: %v", code, !want)
		}
	}
}

func TestRefused(t *testing.T) {
	for name, sheet := range map[string]string{"cut off": "<worksheet><sheetData><row>", "far": `<worksheet><sheetData>` +
		`<row r="1048577"/></sheetData></worksheet>`,
		"wide": `<worksheet><sheetData><row><c r="ZZZ1"/></row></sheetData></worksheet>`} {
		b := open(t, written(parts(sheet)))
		if err := b.Rows(b.Sheets[0], func(*Row) error { return nil }); err == nil {
			t.Errorf("%s: it is read", name)
		}
	}
	if _, err := Open(bytes.NewReader([]byte("PK")), 2); err == nil {
		t.Error("no archive is read")
	}
}

func FuzzSheet(f *testing.F) {
	f.Add(`<worksheet><sheetData><row r="2"><c r="B2" s="1"><v>46095</v></c></row></sheetData><mergeCells><mergeCell ` +
		`ref="A1:B3"/></mergeCells></worksheet>`)
	f.Fuzz(func(t *testing.T, sheet string) {
		b := open(t, written(parts(sheet)))
		last := 0
		b.Rows(b.Sheets[0], func(row *Row) error {
			last = row.Number
			return nil
		})
		b.Merged(b.Sheets[0])
		if last > mostRows {
			t.Errorf("row %d", last)
		}
	})
}
