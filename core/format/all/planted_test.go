package all_test

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// mark is what is planted in a document. Nothing else in it is like that.
const mark = "Zq7planted"

// meaningless is what may go without a word, by the end of its place: it says nothing of the data.
var meaningless = []string{
	"@version", "gpx @creator", // of the program that wrote the document
	"waypoint @id", "route @id", "track @id", "area @id", "FeatureCollection @id", "Point @id", "LineString @id",
	"Polygon @id", "MultiCurve @id", "MultiSurface @id", "schedule @id", // handles inside the document
	"@part-of", "part-of another text", "part_of another text", "part_of a text in front", // labels
	"part_of a second one",
	"@type", // of an element: whether its text is a number shows by itself
	// What stands before the # of a style's address is not looked at.
	"styleUrl an element", "styleUrl another's element", "styleUrl a text in front",
	"/item another text", "/segment another text", // of a row: whatever tells lines and segments apart
	"item/field @name",                                // of a field that is not there
	"SimpleArrayField @name", "SimpleArrayData @name", // of a list without values
}

// planted is a document with something in it that its writer did not write.
type planted struct {
	where, how string
	text       []byte
}

// What stands in a document beside what our writers write (an element, attribute or member of another program, or
// another text where one stands) is still there when it is written again, or is told about, or the document is refused.
func TestNothingInADocumentIsLost(t *testing.T) {
	for _, v := range variants() {
		if v.Set != nil {
			continue
		}
		t.Run(v.String(), func(t *testing.T) {
			t.Parallel()
			tried, lost := map[string]int{}, map[string]bool{}
			for seed := range uint64(6) {
				g := &generator{Rand: rand.New(rand.NewPCG(11, seed)), plain: seed%2 == 0}
				d := g.random(2)
				d.Areas = slices.DeleteFunc(d.Areas, func(a nav.Area) bool { return len(a.Outline) == 0 })
				var out bytes.Buffer
				if _, err := v.Store(&out, d, &v.opt); err != nil {
					continue
				}
				plant := plantsOf(out.Bytes())
				if plant == nil {
					t.Skip("no text")
				}
				before := v.words(t, out.Bytes())
				for p := range plant {
					sort := p.where + " " + p.how
					const enough = 4 // of a sort
					if tried[sort]++; tried[sort] > enough || lost[sort] || slices.ContainsFunc(meaningless, func(end string) bool {
						return strings.HasSuffix(sort, end)
					}) {
						continue
					}
					after, text, ok := v.again(t, p.text)
					if !ok || bytes.Contains(text, []byte(mark)) {
						continue
					}
					if slices.Equal(after, before) {
						lost[sort] = true
						t.Errorf("%s: %s is lost without a word", p.where, p.how)
					}
				}
			}
		})
	}
}

// words is all that is said of a document that is read and written again.
func (v *variant) words(t *testing.T, text []byte) []string {
	said, _, ok := v.again(t, text)
	if !ok {
		t.Fatal("what was written can't be read")
	}
	return said
}

// again reads a document and writes it again. It says no where that is refused.
func (v *variant) again(t *testing.T, text []byte) (said []string, out []byte, ok bool) {
	d, err := v.Read(format.FromBytes(t.Context(), "a"+v.Extensions[0], text), &format.ReadOptions{})
	if err != nil {
		return nil, nil, false
	}
	var b bytes.Buffer
	done, err := v.Store(&b, d, &v.opt)
	if err != nil {
		return nil, nil, false
	}
	if err := wellFormed(b.Bytes()); err != nil {
		t.Errorf("what was read of\n%.3000s\nis written as no XML: %v\n%.3000s", text, err, b.Bytes())
	}
	for _, p := range d.Problems {
		said = append(said, fmt.Sprint(p.Code, p.Text, p.Count))
	}
	for _, r := range d.Rejects {
		said = append(said, r.Why)
	}
	for _, e := range done.Ledger {
		said = append(said, fmt.Sprint(e.What, e.Count, e.Why))
	}
	return said, b.Bytes(), true
}

var _ = nav.Waypoints

// plantsOf gives documents with something planted in each; nil where the text is neither XML nor JSON nor a table.
func plantsOf(text []byte) func(func(planted) bool) {
	switch {
	case bytes.HasPrefix(text, []byte("<?xml")):
		return func(yield func(planted) bool) { plantXML(text, yield) }
	case bytes.HasPrefix(text, []byte("{")) || bytes.HasPrefix(text, []byte("\x1e{")):
		return func(yield func(planted) bool) { plantJSON(text, yield) }
	case bytes.HasPrefix(text, []byte("kind,")):
		return func(yield func(planted) bool) { plantCSV(text, yield) }
	case utf8.Valid(text) && bytes.IndexByte(text, 0) < 0:
		return func(yield func(planted) bool) { plantLine(text, yield) }
	}
	return nil
}

// plantLine plants lines and parts of them that are separated by commas or blanks.
func plantLine(text []byte, yield func(planted) bool) {
	at := 0
	for _, line := range bytes.SplitAfter(text, []byte("\n")) {
		body := bytes.TrimRight(line, "\r\n")
		word, _, _ := strings.Cut(string(body), ",")
		if !yield(planted{word[:min(6, len(word))], "a line in front", put(text, at, at, mark+"\r\n")}) {
			return
		}
		for from := 0; from < len(body); {
			n := bytes.IndexAny(body[from:], ", =")
			if n < 0 {
				n = len(body) - from
			}
			if !yield(planted{word[:min(6, len(word))], "another text", put(text, at+from, at+from+n, mark)}) {
				return
			}
			from += n + 1
		}
		at += len(line)
	}
}

func put(text []byte, from, to int, what string) []byte {
	return slices.Concat(text[:from], []byte(what), text[to:])
}

func plantXML(text []byte, yield func(planted) bool) {
	in := xml.NewDecoder(bytes.NewReader(text))
	var path []string
	var begins []int
	for {
		from := int(in.InputOffset())
		token, err := in.RawToken()
		if err == io.EOF {
			return
		}
		to := int(in.InputOffset())
		where := strings.Join(path, "/")
		switch x := token.(type) {
		case xml.StartElement:
			begins = append(begins, from)
			path = append(path, x.Name.Local)
			where = strings.Join(path, "/")
			end := to - 1
			if text[end-1] == '/' {
				end--
			}
			name := from + 1
			for text[name] != ' ' && text[name] != '>' && text[name] != '/' {
				name++
			}
			all := []planted{
				{where, "an attribute", put(text, name, name, ` planted="`+mark+`"`)},
				{where, "another's attribute", put(text, name, name, ` xmlns:zq="urn:zq" zq:planted="`+mark+`"`)},
			}
			if end == to-1 {
				all = append(all, planted{where, "an element", put(text, to, to, "<planted>"+mark+"</planted>")},
					planted{where, "another's element", put(text, to, to,
						`<zq:planted xmlns:zq="urn:zq">`+mark+`</zq:planted>`)},
					planted{where, "a text in front", put(text, to, to, mark)})
			}
			for _, a := range x.Attr {
				was := fmt.Sprintf(`="%s"`, a.Value)
				if at := bytes.Index(text[from:to], []byte(was)); at >= 0 && a.Name.Space != "xmlns" && a.Name.Local != "xmlns" {
					all = append(all, planted{where, "@" + a.Name.Local, put(text, from+at+2, from+at+len(was)-1, mark)})
				}
			}
			for _, p := range all {
				if !yield(p) {
					return
				}
			}
		case xml.EndElement:
			begin := begins[len(begins)-1]
			if len(path) > 1 {
				whole := string(text[begin:to])
				if open := strings.IndexByte(whole, '>'); strings.Count(whole, "<") == 2 && from > begin {
					twin := whole[:open+1] + mark + whole[strings.LastIndex(whole, "<"):]
					if !yield(planted{where, "a second one", put(text, to, to, twin)}) {
						return
					}
				}
			}
			path, begins = path[:len(path)-1], begins[:len(begins)-1]
		case xml.CharData:
			if len(bytes.TrimSpace(x)) > 0 && !yield(planted{where, "another text", put(text, from, to, mark)}) {
				return
			}
		}
	}
}

func plantJSON(text []byte, yield func(planted) bool) {
	in := json.NewDecoder(bytes.NewReader(bytes.ReplaceAll(text, []byte("\x1e"), []byte(" "))))
	type level struct {
		array bool
		key   string
		isKey bool
	}
	stack := []level{{array: true}}
	for {
		token, err := in.Token()
		if err != nil {
			return
		}
		to := int(in.InputOffset())
		top := &stack[len(stack)-1]
		var names []string
		for _, l := range stack {
			if !l.array {
				names = append(names, l.key)
			}
		}
		where := strings.Join(names, "/")
		var all []planted
		switch x := token.(type) {
		case json.Delim:
			switch x {
			case '{', '[':
				comma := ","
				if rest := bytes.TrimSpace(text[to:]); rest[0] == '}' || rest[0] == ']' {
					comma = ""
				}
				if x == '{' {
					all = append(all, planted{where, "a member", put(text, to, to, `"planted":"`+mark+`"`+comma)})
				} else {
					all = append(all, planted{where, "an element", put(text, to, to, `"`+mark+`"`+comma)})
				}
				stack = append(stack, level{array: x == '[', isKey: true})
			default:
				stack = stack[:len(stack)-1]
				stack[len(stack)-1].isKey = true
			}
		case string:
			if !top.array && top.isKey {
				top.key, top.isKey = x, false
				continue
			}
			was, _ := json.Marshal(x)
			begin := bytes.LastIndexByte(text[:to-1], '"')
			if len(was) == to-begin {
				all = append(all, planted{where, "another text", put(text, begin, to, `"`+mark+`"`)})
			}
			top.isKey = true
		default:
			begin := to
			for !bytes.ContainsRune([]byte(":[, "), rune(text[begin-1])) {
				begin--
			}
			all = append(all, planted{where, "a text for a number", put(text, begin, to, `"`+mark+`"`)})
			top.isKey = true
		}
		for _, p := range all {
			if !yield(p) {
				return
			}
		}
	}
}

func plantCSV(text []byte, yield func(planted) bool) {
	lines := bytes.SplitAfter(text, []byte("\r\n"))
	titles := strings.Split(strings.TrimSpace(string(lines[0])), ",")
	at := 0
	for i, line := range lines {
		body := strings.TrimSuffix(string(line), "\r\n")
		if i > 0 && body != "" && !strings.Contains(body, `"`) {
			cells := strings.Split(body, ",")
			for k := range min(len(cells), len(titles)) {
				other := slices.Clone(cells)
				other[k] = mark
				if !yield(planted{cells[0] + "/" + titles[k], "another text",
					put(text, at, at+len(body), strings.Join(other, ","))}) {
					return
				}
			}
			if !yield(planted{cells[0], "a cell more", put(text, at+len(body), at+len(body), ","+mark)}) {
				return
			}
		}
		at += len(line)
	}
}
