package input_test

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format/all"
	"gyrolith/core/identity"
	"gyrolith/core/input"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// The corpus: small files as programs, services, receivers and offices write them, one oddity each. A folder's want.txt
// has for each file a line with its name and the options of reading, and indented below what comes out of it: items as
// listing writes them, "! words" that a note has to say, or "refused: words" of the error. A file that says nothing of
// notes has none but those of how it was read.
func TestCorpus(t *testing.T) {
	folders, err := filepath.Glob("testdata/corpus/*")
	if err != nil || len(folders) == 0 {
		t.Fatal("no corpus", err)
	}
	for _, folder := range folders {
		known := map[string]bool{"want.txt": true}
		for _, w := range wanted(t, filepath.Join(folder, "want.txt")) {
			known[w.file] = true
			t.Run(filepath.Base(folder)+"/"+w.file, func(t *testing.T) {
				if got := w.judge(readCorpus(t, filepath.Join(folder, w.file), w.options)); got != "" {
					t.Errorf("%s\nwanted:\n%s", got, strings.Join(w.lines, "\n"))
				}
			})
		}
		entries, _ := os.ReadDir(folder)
		for _, e := range entries {
			beside := slices.Contains([]string{".shx", ".dbf", ".prj"}, filepath.Ext(e.Name()))
			if !known[e.Name()] && !beside {
				t.Errorf("%s/%s: what must come out of it is not said", folder, e.Name())
			}
		}
	}
}

// want is what must come out of a file.
type want struct {
	file    string
	options []string
	lines   []string
}

func wanted(t *testing.T, path string) (all []want) {
	text, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(text)) {
		line = strings.TrimRight(line, "\n")
		switch {
		case strings.TrimSpace(line) == "" || strings.HasPrefix(line, "#"):
		case line[0] == ' ':
			last := &all[len(all)-1]
			last.lines = append(last.lines, strings.TrimPrefix(line, "  "))
		default:
			file, options, _ := strings.Cut(line, " ")
			w := want{file: file}
			if options != "" {
				w.options = strings.Split(options, " ")
			}
			all = append(all, w)
		}
	}
	return all
}

// result is what a file gave.
type result struct {
	data *nav.Dataset
	err  error
}

func readCorpus(t *testing.T, path string, options []string) result {
	t.Helper()
	r := input.New(all.Formats, time.Date(2026, 3, 14, 0, 0, 0, 0, time.UTC))
	var settings []param.Setting
	for _, o := range options {
		name, value, given := strings.Cut(o, "=")
		if !given {
			value = "true"
		}
		settings = append(settings, param.Setting{Name: name, Values: []string{value}})
	}
	if err := r.Params().Set(&param.Env{}, settings); err != nil {
		return result{err: err}
	}
	if err := r.Open(t.Context()); err != nil {
		return result{err: err}
	}
	in, err := r.Load(t.Context(), path)
	if err != nil {
		return result{err: err}
	}
	return result{data: in.Data}
}

// judge says what is wrong with a result; "" is nothing.
func (w *want) judge(r result) string {
	var items, notes []string
	for _, line := range w.lines {
		switch what, words, _ := strings.Cut(line, " "); what {
		case "refused:":
			if r.err == nil {
				return fmt.Sprintf("is read, not refused:\n%s", listing(r.data))
			}
			if !strings.Contains(r.err.Error(), words) {
				return "is refused, but otherwise: " + r.err.Error()
			}
			return ""
		case "!":
			notes = append(notes, words)
		default:
			items = append(items, line)
		}
	}
	if r.err != nil {
		return "is refused: " + r.err.Error()
	}
	var faults bytes.Buffer
	if got := listing(r.data); got != strings.Join(items, "\n") {
		fmt.Fprintf(&faults, "comes out as:\n%s\n", got)
	}
	var said []string
	for _, p := range r.data.Problems {
		said = append(said, p.Text)
		if len(notes) == 0 && !p.Info {
			fmt.Fprintf(&faults, "nobody asked for the note %q\n", p.Text)
		}
	}
	for _, reject := range r.data.Rejects {
		said = append(said, reject.Why)
		if len(notes) == 0 {
			fmt.Fprintf(&faults, "nobody asked for %q to be left out: %s\n", reject.Raw, reject.Why)
		}
	}
	for _, words := range notes {
		if !strings.Contains(strings.Join(said, "\n"), words) {
			fmt.Fprintf(&faults, "nothing says %q; said is %q\n", words, said)
		}
	}
	return faults.String()
}

// listing writes data, an item a line, with the points of lines indented.
func listing(d *nav.Dataset) string {
	var out []string
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		out = append(out, "w"+itemText(&w.Item)+pointText(&w.Point)+fieldText(w.Fields))
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		out = append(out, "r"+itemText(&r.Item)+fieldText(r.Fields))
		for j := range r.Points {
			w := &r.Points[j]
			out = append(out, " ."+itemText(&w.Item)+pointText(&w.Point)+fieldText(w.Fields))
		}
	}
	for i := range d.Tracks {
		k := &d.Tracks[i]
		out = append(out, "t"+itemText(&k.Item)+fieldText(k.Fields))
		for j := range k.Segments {
			s := &k.Segments[j]
			if j > 0 {
				out = append(out, " /")
			}
			for n := range s.Points {
				p := &s.Points[n]
				text := " ."
				if item := s.Item(p); item != nil {
					text += itemText(item)
				}
				out = append(out, text+pointText(p)+fieldText(s.Values(nil, p)))
			}
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		out = append(out, "a"+itemText(&a.Item)+fieldText(a.Fields))
		for j, ring := range a.Rings() {
			if j > 0 {
				out = append(out, " /")
			}
			for n := range ring {
				out = append(out, " ."+pointText(&ring[n]))
			}
		}
	}
	return strings.Join(out, "\n")
}

func itemText(it *nav.Item) string {
	text := ""
	if it.Name != "" {
		text += " " + it.Name
	}
	for _, part := range []struct{ word, value string }{{"group", it.Group}, {"symbol", it.Style.Symbol},
		{"colour", it.Style.Colour.String()}, {"desc", it.Desc}, {"comment", it.Comment}, {"type", it.Type},
		{"id", ownID(it)}} {
		if part.value != "" {
			text += " " + part.word + "=" + strings.ReplaceAll(part.value, "\n", `\n`)
		}
	}
	for _, l := range it.Links {
		text += " link=" + l.Href
	}
	return text
}

func pointText(p *nav.Point) string {
	short := func(v float64, decimals int) string {
		text := strconv.FormatFloat(v, 'f', decimals, 64)
		return strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
	}
	text := fmt.Sprintf(" @ %s %s", short(p.Lat, 7), short(p.Lon, 7))
	if p.HasHeight() {
		text += " h=" + short(p.Height(), 3)
		if p.VerticalDatum() != nav.DatumUnstated {
			text += "," + p.VerticalDatum().Word()
		}
	}
	if p.HasTime() {
		text += " t=" + string(instant.Append(nil, p.UnixNano(), p.TimeMark()))
	}
	return text
}

func fieldText(fields []nav.Field) string {
	text := ""
	for _, f := range fields {
		text += fmt.Sprintf(" {%s=%s}", f.Key, f.Value)
	}
	return text
}

// ownID is the identity of an item, but for that of a feature, which every row of a database has.
func ownID(it *nav.Item) string {
	if identity.Local(it.ID) {
		return ""
	}
	return it.ID
}
