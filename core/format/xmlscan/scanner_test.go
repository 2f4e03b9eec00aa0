package xmlscan

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"
)

// ours gives the tokens of a document, with runs of text joined.
func ours(r io.Reader) (tokens []string, err error) {
	s, err := New(r, Limits{})
	if err != nil {
		return nil, err
	}
	text := ""
	flush := func() {
		if text != "" {
			tokens = append(tokens, fmt.Sprintf("text %q", text))
			text = ""
		}
	}
	for {
		kind, err := s.Next()
		if err != nil {
			return tokens, err
		}
		if kind != Text {
			flush()
		}
		switch kind {
		case EOF:
			return tokens, nil
		case Text:
			text += string(s.Text())
		case End:
			tokens = append(tokens, fmt.Sprintf("end %s", s.Local()))
		case Start:
			t := fmt.Sprintf("start %q %q", s.Name().Space, s.Local())
			for _, a := range s.Attrs() {
				v, err := s.AttrValue(a)
				if err != nil {
					return tokens, err
				}
				prefix, local := splitName(string(a.Name))
				t += fmt.Sprintf(" %q %q=%q", prefix, local, v)
			}
			tokens = append(tokens, t)
		}
	}
}

// judge gives the same from the standard library's decoder, which it asks for the names as written beside.
func judge(data []byte) (tokens []string, err error) {
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")) // a mark is no text
	names, raw := xml.NewDecoder(bytes.NewReader(data)), xml.NewDecoder(bytes.NewReader(data))
	text := ""
	flush := func() {
		if text != "" {
			tokens = append(tokens, fmt.Sprintf("text %q", text))
			text = ""
		}
	}
	for {
		tok, err := names.Token()
		if err == io.EOF {
			flush()
			return tokens, nil
		}
		if err != nil {
			return tokens, err
		}
		var plain xml.Token
		if _, ok := tok.(xml.EndElement); !ok {
			if plain, err = raw.RawToken(); err != nil {
				return tokens, err
			}
			for {
				if _, ok := plain.(xml.EndElement); !ok {
					break
				}
				if plain, err = raw.RawToken(); err != nil {
					return tokens, err
				}
			}
		}
		switch tok := tok.(type) {
		case xml.CharData:
			text += string(tok)
		case xml.EndElement:
			flush()
			tokens = append(tokens, "end "+tok.Name.Local)
		case xml.StartElement:
			flush()
			t := fmt.Sprintf("start %q %q", tok.Name.Space, tok.Name.Local)
			for _, a := range plain.(xml.StartElement).Attr {
				t += fmt.Sprintf(" %q %q=%q", a.Name.Space, a.Name.Local, a.Value)
			}
			tokens = append(tokens, t)
		}
	}
}

var corpus = []string{
	`<a/>`,
	"\xef\xbb\xbf<?xml version='1.0'?>\n<a b='1' c=\"2\">x</a>\n",
	`<?xml version="1.0" encoding="UTF-8"?><!DOCTYPE gpx SYSTEM "x.dtd"><gpx xmlns="urn:a"><p:b xmlns:p="urn:b" ` +
		`p:c="d&amp;e"/></gpx>`,
	"<a><![CDATA[<&]]>]]&gt;<!-- c --><b  d = 'e\"f' ></b >tail\r\nx\ry</a>",
	`<a xmlns="urn:1"><b xmlns=""><c/></b><c/></a>`,
	`<p:a xmlns:p='u1'><p:b xmlns:p='u2'/><p:b/></p:a>`,
	`<a>&#65;&#x42;&lt;&gt;&quot;&apos;</a>`,
	"<\u00e9l\u00e9ment attribut='\u00e0'>\u4e2d\u6587</\u00e9l\u00e9ment>",
	`<!DOCTYPE a [ <!ELEMENT a (#PCDATA)> <!-- <!ENTITY --> ]><a>ok</a>`,
	"<a>" + strings.Repeat("<b>", 400) + strings.Repeat("</b>", 400) + "</a>",
	"<a>" + strings.Repeat("11.25,-47.5,3 ", 40000) + "</a>",
}

// Valid documents are taken whole, and read as the standard library's decoder reads them, however the
// bytes come in.
func TestSameTokensAsStandardLibrary(t *testing.T) {
	for _, doc := range corpus {
		want, err := judge([]byte(doc))
		if err != nil {
			t.Fatalf("%.60q: the judge refuses: %v", doc, err)
		}
		for name, r := range map[string]io.Reader{
			"whole":        strings.NewReader(doc),
			"byte by byte": iotest.OneByteReader(strings.NewReader(doc)),
			"data and EOF": iotest.DataErrReader(strings.NewReader(doc)),
		} {
			if len(doc) > 100000 && name == "byte by byte" {
				continue
			}
			got, err := ours(r)
			if err != nil {
				t.Errorf("%.60q %s: %v", doc, name, err)
			} else if fmt.Sprint(got) != fmt.Sprint(want) {
				t.Errorf("%.60q %s:\n got %.300q\nwant %.300q", doc, name, got, want)
			}
		}
	}
}

func FuzzAgainstStandardLibrary(f *testing.F) {
	for _, doc := range corpus {
		if len(doc) < 1000 {
			f.Add([]byte(doc))
		}
	}
	f.Add([]byte("<a><b>"))
	f.Add([]byte("<a b=c>"))
	f.Add([]byte("<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := ours(bytes.NewReader(data))
		if err != nil {
			var where *Error
			if !errors.As(err, &where) || where.Line < 1 || where.Col < 1 {
				t.Fatalf("an error without a place: %v", err)
			}
			return
		}
		enc, name, _ := DetectEncoding(data)
		if name != "utf-8" || enc == nil {
			return
		}
		want, err := judge(data)
		if err != nil {
			return
		}
		if fmt.Sprint(got) != fmt.Sprint(want) {
			t.Errorf("%q:\n got %q\nwant %q", data, got, want)
		}
	})
}

// What is refused is refused with its place and reason.
func TestRefusals(t *testing.T) {
	for _, c := range []struct{ doc, want string }{
		{"<a>\n <b></a>", "2:5: <b> is closed by </a>"},
		{"<a>\n<b>text", "2:8: the file is cut off, inside <b>"},
		{"<a b='1", "1:8: the file is cut off, inside a tag"},
		{"<a b=1>", "1:6: the value of the attribute \"b\" is not in quotes"},
		{"<a b='1 > <c d='2'/>", "1:7: a \"<\" in the value of the attribute \"b\""},
		{"<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", "1:14: the document type declares entities"},
		{"<!DOCTYPE a [<!ENTITY % b SYSTEM 'file:///etc/passwd'>]><a/>", "1:14: the document type declares entities"},
		{"<a>x &nosuch; y</a>", "1:6: the entity \"&nosuch;\" is not defined"},
		{"<a>&#xD800000;</a>", "is not a character"},
		{strings.Repeat("<a>", 300000), "1:3001: elements are nested more than 1000 deep"},
		{"<a>1 < 2</a>", "1:6: \"< 2</a>\" is not a tag"},
		{"</a>", "1:1: an end tag without a start tag"},
		{"<?xml version='1.0' encoding='klingon'?><a/>", "encoding \"klingon\" is not known"},
		{"<a><!-- never ends", "inside a comment"},
		{"<a><![CDATA[ never ends", "inside a CDATA section"},
	} {
		_, err := ours(strings.NewReader(c.doc))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.50q: got %v, want %q", c.doc, err, c.want)
		}
	}
}

func TestEncodings(t *testing.T) {
	utf16le := "\xff\xfe"
	for _, r := range "<?xml version='1.0' encoding='UTF-16'?><a>H\u00e9 \u20ac</a>" {
		utf16le += string([]byte{byte(r), byte(r >> 8)})
	}
	for _, c := range []struct{ doc, want string }{
		{"<?xml version='1.0' encoding='windows-1252'?><a>H\xe9 \x80</a>", "H\u00e9 \u20ac"},
		{"<?xml version=\"1.0\" encoding=\"ISO-8859-2\"?><a>\xb1</a>", "\u0105"},
		{utf16le, "H\u00e9 \u20ac"},
		{"<a>undeclared \xe9</a>", "undeclared \u00e9"},
	} {
		s, err := New(strings.NewReader(c.doc), Limits{})
		if err != nil {
			t.Fatal(err)
		}
		if _, err = s.Next(); err != nil {
			t.Fatal(err)
		}
		got, err := s.LeafString()
		if err != nil || got != c.want {
			t.Errorf("%q: got %q, %v", c.doc, got, err)
		}
	}
}

// A captured element is written as it was and knows the prefixes that it needs.
func TestCapture(t *testing.T) {
	doc := `<g xmlns="urn:g" xmlns:x="urn:x" xmlns:y="urn:y"><x:e y:k='1'>` + strings.Repeat("t ", 300000) +
		`<z:f xmlns:z="urn:z"/><i/></x:e><after/></g>`
	s, _ := New(strings.NewReader(doc), Limits{})
	s.Next()
	s.Next()
	got, used, err := s.Capture(nil)
	if err != nil {
		t.Fatal(err)
	}
	if want := strings.ReplaceAll(doc[strings.Index(doc, "<x:e"):strings.Index(doc, "<after")], "'", `"`); got != want {
		t.Errorf("got %d bytes, want %d", len(got), len(want))
	}
	if fmt.Sprint(used) != "[{x urn:x} {y urn:y} { urn:g}]" {
		t.Errorf("prefixes %v", used)
	}
	if k, _ := s.Next(); k != Start || s.Local() != "after" {
		t.Errorf("then came %v %v", k, s.Name())
	}
}

func trackDoc(points int) []byte {
	var b bytes.Buffer
	b.WriteString("<?xml version='1.0'?>\n<gpx xmlns='http://www.topografix.com/GPX/1/1'><trk><trkseg>\n")
	for i := range points {
		fmt.Fprintf(&b, "<trkpt lat=\"-47.6%06d\" "+
			"lon=\"11.3%06d\"><ele>12.%d</ele><time>2026-03-14T05:%02d:%02dZ</time></trkpt>\n", i%1000000, i*7%1000000, i%10,
			i/60%60, i%60)
	}
	b.WriteString("</trkseg></trk></gpx>")
	return b.Bytes()
}

// A line that is longer than what is held at a time has every place told by the characters before it.
func TestPlacesOnLongLines(t *testing.T) {
	var doc strings.Builder
	doc.WriteString("<gpx>\n<trk>")
	var columns []int
	column := len("<trk>")
	for i := range 20000 {
		columns = append(columns, column+1)
		name := fmt.Sprintf("<name>Østre Båe %d</name>", i)
		doc.WriteString(name)
		column += len([]rune(name))
	}
	doc.WriteString("</trk>\n</gpx>")
	s, err := New(strings.NewReader(doc.String()), Limits{})
	if err != nil {
		t.Fatal(err)
	}
	for k, err := s.Next(); k != EOF; k, err = s.Next() {
		if err != nil {
			t.Fatal(err)
		}
		if k != Start || s.Local() != "name" {
			continue
		}
		if line, column := s.Pos(); line != 2 || column != columns[0] {
			t.Fatalf("%d:%d, want 2:%d", line, column, columns[0])
		}
		columns = columns[1:]
	}
	if len(columns) > 0 {
		t.Errorf("%d names were not met", len(columns))
	}
}

func BenchmarkTokens(b *testing.B) {
	doc := trackDoc(20000)
	b.Run("scanner", func(b *testing.B) {
		b.SetBytes(int64(len(doc)))
		for b.Loop() {
			s, _ := New(bytes.NewReader(doc), Limits{})
			for k, err := s.Next(); k != EOF; k, err = s.Next() {
				if err != nil {
					b.Fatal(err)
				}
			}
		}
	})
	b.Run("standard library", func(b *testing.B) {
		b.SetBytes(int64(len(doc)))
		for b.Loop() {
			d := xml.NewDecoder(bytes.NewReader(doc))
			for _, err := d.Token(); err != io.EOF; _, err = d.Token() {
				if err != nil {
					b.Fatal(err)
				}
			}
		}
	})
}

// A tag with an attribute twice is no XML: nobody can say which of two positions is meant.
func TestAttributeTwice(t *testing.T) {
	s, err := New(strings.NewReader(`<gpx><wpt lat="1" lon="2" lat="3"/></gpx>`), Limits{})
	if err != nil {
		t.Fatal(err)
	}
	for kind := Start; kind != EOF; {
		if kind, err = s.Next(); err != nil {
			break
		}
	}
	if err == nil || err.Error() != `1:6: the attribute "lat" stands twice in one tag` {
		t.Errorf("%v", err)
	}
}
