package format

import (
	"bytes"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"sync"

	"gyrolith/core/advice"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/pattern"
)

// Head is the beginning of a file as sniffers see it.
type Head struct {
	Raw  []byte
	Text []byte       // as UTF-8, without a byte order mark
	Root xmlscan.Name // the document element, where the file is XML

	fault *xmlscan.Error // what keeps the document element of an XML file from being found
}

// NewHead looks at the first bytes of a file.
func NewHead(raw []byte) *Head {
	h := &Head{Raw: raw, Text: raw}
	if enc, _, skip := xmlscan.DetectEncoding(raw); enc != nil {
		if text, err := enc.NewDecoder().Bytes(raw[skip:]); err == nil {
			h.Text = text
		}
	}
	if trimmed := bytes.TrimLeft(h.Text, " \t\r\n\x00"); len(trimmed) == 0 || trimmed[0] != '<' {
		return h
	}
	s, err := xmlscan.New(bytes.NewReader(raw), xmlscan.Limits{Size: int64(len(raw))})
	for err == nil {
		var kind xmlscan.Kind
		if kind, err = s.Next(); kind == xmlscan.Start {
			h.Root = s.Name()
			break
		} else if kind == xmlscan.EOF {
			break
		}
	}
	h.fault, _ = errors.AsType[*xmlscan.Error](err)
	return h
}

// signatures tells what people hand over by mistake.
var signatures = []struct{ mark, what string }{
	{"\x89PNG", "a PNG picture"}, {"\xff\xd8\xff", "a JPEG picture"}, {"GIF8", "a GIF picture"},
	{"II*\x00", "a TIFF picture"}, {"MM\x00*", "a TIFF picture"}, {"%PDF", "a PDF document"},
	{"\x7fELF", "a program"}, {"MZ", "a program"}, {"\x1f\x8b", "a gzip archive: unpack it first"},
	{"SQLite format 3\x00", "a database"}, {"BZh", "a bzip2 archive: unpack it first"},
	{"\xfd7zXZ", "an xz archive: unpack it first"}, {"7z\xbc\xaf", "a 7z archive: unpack it first"},
	{"Rar!", "a RAR archive: unpack it first"},
	{"\xd0\xcf\x11\xe0", "an office document of the older kind: save it as .xlsx or .csv; it"},
}

func (h *Head) looksLikeHTML() bool {
	text := bytes.TrimLeft(h.Text, " \t\r\n\x00")
	start := strings.ToLower(string(text[:min(len(text), 256)]))
	return strings.EqualFold(h.Root.Local, "html") || strings.HasPrefix(start, "<!doctype html") ||
		strings.HasPrefix(start, "<html")
}

// what says in words what a file is that no reader takes, and whether it is whole and of another kind.
func (h *Head) what() (words string, other bool) {
	if len(h.Raw) == 0 {
		return "is empty (0 bytes): it was not saved or copied completely", false
	}
	for _, s := range signatures {
		if bytes.HasPrefix(h.Raw, []byte(s.mark)) {
			return "is " + s.what + ", not navigation data", true
		}
	}
	text := bytes.TrimLeft(h.Text, " \t\r\n\x00")
	switch {
	case len(text) == 0:
		return "contains only blanks or zero bytes: it was not copied completely", false
	case h.looksLikeHTML():
		return "is an HTML page, perhaps an error or log-in page saved instead of the data: " +
			"fetch the file again", false
	case h.Root.Local != "":
		return fmt.Sprintf("is XML of an unsupported kind (its outermost element is <%s>)", h.Root.Local), true
	case text[0] == '{' || text[0] == '[':
		return "is JSON, but not GeoJSON", true
	case bytes.HasPrefix(h.Raw, []byte("PK\x03\x04")):
		return "is a zip archive without readable navigation data", true
	case bytes.IndexByte(text, 0) >= 0:
		return "is a binary file of an unknown kind", true
	}
	return "is not in a recognised format", true
}

// timeTitle is the title of a column of times.
var timeTitle = sync.OnceValue(func() *pattern.Pattern {
	return pattern.New(`(?i)\b(time|times|utc|date|zeit|uhrzeit|heure|hora)\b`)
})

// Titles are those of a text that is a table by its first lines: short words, and as many cells in the next line; nil
// where it is none.
func (h *Head) Titles() []string {
	if bytes.IndexByte(h.Text, 0) >= 0 {
		return nil
	}
	lines := strings.SplitN(strings.TrimSpace(strings.ReplaceAll(string(h.Text), "\r\n", "\n")), "\n", 3)
	for _, sep := range []string{"\t", ";", ","} {
		titles := strings.Split(lines[0], sep)
		if len(titles) < 2 || len(titles) > 60 || len(lines) < 2 || len(strings.Split(lines[1], sep)) != len(titles) {
			continue
		}
		for i, t := range titles {
			titles[i] = strings.Trim(strings.TrimSpace(t), `"`)
			if titles[i] == "" || len(titles[i]) > 40 || strings.ContainsAny(titles[i], "<>{}[]$*\"") ||
				titles[i][0] >= '0' && titles[i][0] <= '9' {
				return nil
			}
		}
		return titles
	}
	return nil
}

// Sniff finds the format of a source by its content.
func (f Formats) Sniff(s *Source) (*Format, error) {
	h := NewHead(s.Head)
	for _, x := range f {
		if x.Sniff != nil && x.Sniff(h) {
			return x, nil
		}
	}
	if h.fault != nil && bytes.HasPrefix(bytes.TrimLeft(h.Text, " \t\r\n"), []byte("<?xml")) || h.fault != nil &&
		!h.fault.Cut && !h.looksLikeHTML() {
		return nil, &Error{Path: s.Path, Line: h.fault.Line, Col: h.fault.Col, Msg: h.fault.Msg,
			Advice: h.fault.Advice}
	}
	switch ext := strings.ToLower(filepath.Ext(s.Path)); ext {
	case ".dbf", ".shx", ".prj", ".cpg":
		return nil, s.Fault("is part of a shapefile: name the .shp beside it, and the others are read with it")
	}
	if titles := h.Titles(); titles != nil {
		help := advice.NameColumns
		if slices.ContainsFunc(titles, func(t string) bool { return timeTitle().MatchString(t) }) {
			help = advice.AskWhen
		}
		return nil, &Error{Path: s.Path, Other: true, Advice: advice.Advice{Code: help, Arg: s.Path},
			Msg: "is a table without positions: its columns are " + strings.Join(titles, ", ")}
	}
	words, other := h.what()
	return nil, &Error{Path: s.Path, Msg: words, Other: other, Advice: advice.Advice{Code: advice.NameFormat}}
}
