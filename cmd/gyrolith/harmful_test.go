package main

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"unicode"

	"github.com/xuri/excelize/v2"
	"golang.org/x/net/html"
)

// harmful are names that have hurt programs: markup, formulas, paths, escapes, directions, lengths.
func harmful() (out []string) {
	out = []string{"<script>alert(1)</script>", "</script><script>alert(1)</script>", "<!--", "-->", "]]>",
		"<![CDATA[x]]>",
		"&amp;", "&#x3c;script&#x3e;", "&lt;b&gt;", "\"><img src=x onerror=alert(1)>", "' onmouseover='alert(1)",
		"javascript:alert(1)",
		"<svg onload=alert(1)>", "</title><script>alert(1)</script>", "</style><script>alert(1)</script>", "${7*7}",
		"{{7*7}}",
		"<%= 7*7 %>", "`rm -rf`", "$(rm -rf)", "; DROP TABLE waypoints; --", "' OR '1'='1", "\\", "\\\\", "\\n",
		"\\u003cscript\\u003e",
		"=1+1", "=HYPERLINK(\"x\",\"y\")", "+1+1", "-1+1", "@SUM(A1)", "=cmd|' /C calc'!A0", "%0A=1+1", "../../etc/passwd",
		"..\\..\\x", "/etc/passwd", "C:\\x", "CON", "NUL.gpx", ".", "..", "~", "~root", "a/b", "a\\b", "-rf", "--replace",
		"*", "?",
		"{name}", "{date}", "%s%s%s%n", "%d", "%00", "A\u202eB", "\u2066x\u2069", "\u200f", "\u200b", "\ufeff", "e\u0301",
		"\u00e9",
		"\U0001f30d", "\U000e0041", "\u2028", "\u2029", "\u0085", "\u00a0", "\u3000", "ａ", "İ", "ß", "ﬁ",
		"Z\u0334\u0321\u0489",
		"null", "NaN", "true", "undefined", "0", "007", "1e999", "-0", "2026-03-14", "12:30", "1,2", "1;2", "a\tb", "\"",
		"\"\"", "'",
		",", ";", "|", "#", "$", "<", ">", "&", "$GPRMC*00", "*FF", "!", "^", " x ", "x  y", strings.Repeat("x", 300),
		strings.Repeat("\u0301", 50), strings.Repeat("<", 100)}
	return out
}

// Whatever a mark is called, no output runs it, breaks by it or says something else: judged by parsers that are none of
// ours.
func TestHarmfulTexts(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var in bytes.Buffer
	in.WriteString(`<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">`)
	names := harmful()
	for i, name := range names {
		fmt.Fprintf(&in, `<wpt lat="%f" lon="11"><name>`, -47+0.001*float64(i))
		xml.EscapeText(&in, []byte(name))
		in.WriteString("</name><desc>")
		xml.EscapeText(&in, []byte(name))
		in.WriteString("</desc></wpt>\n")
	}
	in.WriteString("</gpx>")
	t.Logf("%d names", len(names))
	f.put("in.gpx", in.String())
	f.put("plain.gpx", `<gpx><wpt lat="-47" lon="11"><name>plain</name></wpt></gpx>`)

	// XML says the name again, to the letter.
	for name, element := range map[string]string{"o.gpx": "name", "o.kml": "name"} {
		f.must("convert", "in.gpx", "-o", name, "--quiet")
		said := map[string]bool{}
		for _, text := range elements(t, name, f.get(name), element) {
			said[text] = true
		}
		for _, n := range names {
			if !said[n] && !said[strings.TrimSpace(n)] && strings.TrimSpace(n) != "" {
				t.Errorf("%s does not say %q", name, n)
			}
		}
	}
	for _, name := range []string{"o.gml", "o.rtz", "o.svg"} {
		verb, args := "convert", []string{"in.gpx", "-o", name, "--quiet"}
		switch name {
		case "o.svg":
			verb = "draw"
		case "o.rtz":
			verb, args = "recast", append(args, "--waypoints-to", "routes")
		}
		f.must(append([]string{verb}, args...)...)
		elements(t, name, f.get(name), "name")
	}
	for _, name := range []string{"o.geojson", "o.geojsonl"} {
		f.must("convert", "in.gpx", "-o", name, "--quiet")
		for d := json.NewDecoder(strings.NewReader(f.get(name))); ; {
			var v any
			if err := d.Decode(&v); errors.Is(err, io.EOF) {
				break
			} else if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
		}
	}
	if out := f.must("look", "in.gpx", "--json").out; !json.Valid([]byte(out)) || strings.IndexFunc(out,
		func(r rune) bool {
			return r != '\n' && (unicode.IsControl(r) || unicode.Is(unicode.Cf, r))
		}) >= 0 {
		t.Error("look --json is no JSON, or would steer a terminal")
	}
	f.must("convert", "in.gpx", "-o", "o.csv", "--quiet")
	rows, err := csv.NewReader(strings.NewReader(f.get("o.csv"))).ReadAll()
	if err != nil || len(rows) != len(names)+1 {
		t.Fatalf("%d rows of CSV: %v", len(rows), err)
	}
	for _, row := range rows {
		if row[1] != "" && strings.ContainsAny(row[1][:1], "=+-@\t\r\n") {
			t.Errorf("a cell that a spreadsheet takes for a formula: %q", row[1])
		}
	}
	f.must("convert", "in.gpx", "-o", "o.xlsx", "--quiet")
	book, err := excelize.OpenFile(f.path("o.xlsx"))
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	for i, want := range names {
		cell := fmt.Sprintf("B%d", i+2)
		formula, _ := book.GetCellFormula(book.GetSheetName(0), cell)
		got, _ := book.GetCellValue(book.GetSheetName(0), cell)
		if formula != "" || strings.TrimSpace(got) != strings.TrimSpace(want) {
			t.Errorf("the cell %s is %q %q, want %q", cell, got, formula, want)
		}
	}
	// A page has the same elements and handlers, whatever the names are.
	f.must("draw", "in.gpx", "-o", "o.html", "--quiet")
	f.must("draw", "plain.gpx", "-o", "plain.html", "--quiet")
	if got, want := active(t, f.get("o.html")), active(t, f.get("plain.html")); got != want {
		t.Errorf("the page runs %s, a harmless one %s", got, want)
	}
	// And no card has a file outside of its folders.
	for _, unit := range []string{"keel", "gpx-folder", "csv-list", "ridge", "vane"} {
		f.put(unit+"/readme", "")
		f.run("stow", "in.gpx", "--unit", unit, "--card", unit, "--archives", "kept", "--quiet")
	}
	for _, name := range f.list() {
		if first, _, _ := strings.Cut(name, "/"); strings.Contains(name, "..") || first == "etc" || first == "x" {
			t.Errorf("a file %s", name)
		}
	}
}

// elements gives the texts of the elements of a name, in a document that must be well-formed.
func elements(t *testing.T, file, text, element string) (out []string) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(text))
	in := ""
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out
		}
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		switch x := token.(type) {
		case xml.StartElement:
			in = x.Name.Local
			for _, a := range x.Attr {
				if strings.HasPrefix(strings.ToLower(a.Name.Local), "on") {
					t.Errorf("%s: a handler %s", file, a.Name.Local)
				}
			}
			if in == element {
				out = append(out, "")
			}
		case xml.CharData:
			if in == element {
				out[len(out)-1] += string(x)
			}
		case xml.EndElement:
			in = ""
		}
	}
}

// active lists what a browser would run or fetch of a page, but for the text of its scripts.
func active(t *testing.T, page string) string {
	t.Helper()
	counts := map[string]int{}
	for z := html.NewTokenizer(strings.NewReader(page)); ; {
		if z.Next() == html.ErrorToken {
			if !errors.Is(z.Err(), io.EOF) {
				t.Fatal(z.Err())
			}
			return fmt.Sprint(counts)
		}
		token := z.Token()
		if token.Type != html.StartTagToken && token.Type != html.SelfClosingTagToken {
			continue
		}
		switch token.Data {
		case "script", "iframe", "object", "embed", "link", "style", "base", "form":
			counts[token.Data]++
		}
		for _, a := range token.Attr {
			if strings.HasPrefix(a.Key, "on") || strings.HasPrefix(strings.ToLower(strings.TrimSpace(a.Val)), "javascript:") {
				counts[a.Key]++
			}
		}
	}
}

// Nothing that comes from a file turns the direction of writing in a terminal, whatever verb shows it.
func TestNothingTurnsTheWriting(t *testing.T) {
	f := newFolder(t)
	const turn = "\u202e"
	f.put("card/RIDGE/WAYPOINTS/a"+turn+".txt", "x")
	f.put("card/RIDGE/WAYPOINTS/marks.gpx", `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="-47" `+
		`lon="11"><name>A`+turn+`B</name><desc>d`+turn+`e</desc><sym>x`+turn+`y</sym><type>t`+turn+`u</type></wpt></gpx>`)
	f.put("names.csv", "name,lat,lon,dep"+turn+"th\nR"+turn+",-47.5,11.3,4\n")
	for _, args := range [][]string{{"boot", "--unit", "ridge", "--card", "card"}, {"look", "card", "names.csv"},
		{"look", "card/RIDGE/WAYPOINTS/marks.gpx", "--all"}, {"look", "names.csv", "--symbols"},
		{"look", "names.csv", "--verify"},
		{"near", "-47", "11", "card/RIDGE/WAYPOINTS/marks.gpx"}, {"compare", "names.csv", "card/RIDGE/WAYPOINTS/marks.gpx"},
		{"unstow", "--card", "card", "-o", "card.zip"}} {
		if r := f.run(args...); strings.Contains(r.out+r.err, turn) {
			t.Errorf("%q: %q", args, r.out+r.err)
		}
	}
}
