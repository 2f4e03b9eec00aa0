package shapefile

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/format/layer"
	"gyrolith/core/nav"
)

// column is a field of a .dbf table.
type column struct {
	name            string
	kind            byte
	width, decimals int
}

// dbf is a table of attributes. The form is that of dBASE III, which all readers know.
type dbf struct {
	columns []column
	records int
	size    int // of a record
	body    []byte
	decode  func([]byte) string
}

const mostColumns = 2046

// codePages are those of the language byte of the header.
var codePages = map[byte]encoding.Encoding{
	0x01: charmap.CodePage437, 0x02: charmap.CodePage850, 0x03: charmap.Windows1252, 0x57: charmap.Windows1252,
	0x64: charmap.CodePage852,
	0x65: charmap.CodePage866, 0x26: charmap.CodePage866, 0xC8: charmap.Windows1250, 0xC9: charmap.Windows1251,
	0xCA: charmap.Windows1254, 0xCB: charmap.Windows1253,
}

// encodingOf finds the encoding that a .cpg file names; nil is UTF-8.
func encodingOf(cpg []byte) (encoding.Encoding, bool) {
	name := strings.TrimSpace(strings.TrimPrefix(string(cpg), "\ufeff"))
	if bare := strings.NewReplacer("-", "", "_", "", " ", "").Replace(strings.ToLower(name)); bare == "utf8" ||
		bare == "65001" {
		return nil, true
	}
	c, err := format.CharsetNamed(name)
	if err != nil {
		return nil, false
	}
	return c.Encoding, true
}

// readDBF reads the head of a table.
func readDBF(b, cpg []byte, d *nav.Dataset) (*dbf, error) {
	if len(b) < 33 {
		return nil, errors.New("is too short for an attribute table: it is incomplete")
	}
	t := &dbf{records: int(binary.LittleEndian.Uint32(b[4:])), size: int(binary.LittleEndian.Uint16(b[10:]))}
	head := int(binary.LittleEndian.Uint16(b[8:]))
	if head < 33 || head > len(b) || t.size < 1 {
		return nil, errors.New("has an invalid header: it is not an attribute table")
	}
	e, known := codePages[b[29]]
	if len(bytes.TrimSpace(cpg)) > 0 {
		named, ok := encodingOf(cpg)
		if ok {
			e, known = named, true
		} else {
			d.Note(nav.ProblemEncoding,
				fmt.Sprintf("the .cpg names the unknown encoding %q; texts are read as UTF-8 or else Windows-1252",
					strings.TrimSpace(string(cpg))), 0, 0)
		}
	}
	t.decode = func(raw []byte) string {
		if known && e != nil {
			if text, err := e.NewDecoder().Bytes(raw); err == nil {
				return string(text)
			}
		}
		if utf8.Valid(raw) {
			return string(raw)
		}
		// A text that was cut inside of a letter loses that letter.
		if known && e == nil {
			return strings.ToValidUTF8(string(raw), "")
		}
		text, _ := charmap.Windows1252.NewDecoder().Bytes(raw)
		return string(text)
	}
	at := 1
	for p := 32; p+32 <= head && b[p] != 0x0D && len(t.columns) < mostColumns; p += 32 {
		name, _, _ := bytes.Cut(b[p:p+11], []byte{0})
		c := column{name: strings.TrimSpace(t.decode(name)), kind: b[p+11], width: int(b[p+16]), decimals: int(b[p+17])}
		if c.kind == 'C' { // long texts have the high byte of their width there
			c.width += 256 * c.decimals
		}
		if at += c.width; at > t.size {
			return nil, errors.New("has columns wider than its records: it is not an attribute table")
		}
		if c.name == "" {
			c.name = fmt.Sprintf("column %d", len(t.columns)+1)
		}
		t.columns = append(t.columns, c)
	}
	t.body = b[head:]
	if at != t.size {
		d.Contradict("the .dbf says that its records have %d bytes, and its columns have %d: names or fields may be missing",
			t.size, at)
	}
	if room := len(t.body) / t.size; room != t.records {
		d.Contradict("the .dbf says that it has %d records, and has room for %d", t.records, room)
	}
	return t, nil
}

// record reads the values of a record, from 0; deleted says that it is marked so. ok is false beyond the end.
func (t *dbf) record(n int, values []string) (deleted, ok bool) {
	from := n * t.size
	if n >= t.records || from < 0 || from+t.size > len(t.body) {
		return false, false
	}
	row := t.body[from : from+t.size]
	at := 1
	for i, c := range t.columns {
		values[i] = t.value(c, row[at:at+c.width])
		at += c.width
	}
	return row[0] == '*', true
}

func (t *dbf) value(c column, raw []byte) string {
	switch c.kind {
	case 'I', '+':
		if len(raw) == 4 {
			return strconv.Itoa(int(int32(binary.LittleEndian.Uint32(raw))))
		}
	case 'O', 'B':
		if len(raw) == 8 {
			if v := float(raw); !math.IsNaN(v) && !math.IsInf(v, 0) {
				return strconv.FormatFloat(v, 'f', -1, 64)
			}
			return ""
		}
	}
	text := strings.Trim(t.decode(raw), " \x00")
	switch c.kind {
	case 'N', 'F':
		if strings.Trim(text, "*") == "" {
			return ""
		}
		if _, _, ok := decimal.Parse([]byte(text)); !ok {
			return text
		}
		if strings.ContainsAny(text, "eE") {
			if v, err := strconv.ParseFloat(text, 64); err == nil {
				return strconv.FormatFloat(v, 'f', -1, 64)
			}
		}
		if strings.Contains(text, ".") { // zeros that only fill the column
			text = strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
		}
		return text
	case 'D':
		if len(text) == 8 && strings.Trim(text, "0") != "" {
			return text[:4] + "-" + text[4:6] + "-" + text[6:]
		}
		return ""
	case 'L':
		switch strings.ToUpper(text) {
		case "T", "Y":
			return "true"
		case "F", "N":
			return "false"
		}
		return ""
	}
	return text
}

// mostText is the bytes of the longest text of a .dbf.
const mostText = 254

// keptColumns is where the types and widths of a table are kept for the next shapefile: a line for each column.
const keptColumns = "columns of "

// keep gives the columns of a table as they are kept.
func (t *dbf) keep(g layer.Geometry) nav.Kept {
	var b strings.Builder
	for _, c := range t.columns {
		fmt.Fprintf(&b, "%c %d %d %s\n", c.kind, c.width, c.decimals, c.name)
	}
	return nav.Kept{Format: "shp", Where: keptColumns + g.String(), Text: b.String(), Free: true}
}

// columnsOf reads what was kept of the columns of a geometry.
func columnsOf(kept []nav.Kept, g layer.Geometry) (out []column) {
	for i := range kept {
		if kept[i].Format != "shp" || kept[i].Where != keptColumns+g.String() {
			continue
		}
		for line := range strings.Lines(kept[i].Text) {
			var c column
			if _, err := fmt.Sscanf(line, "%c %d %d", &c.kind, &c.width, &c.decimals); err != nil {
				continue
			}
			parts := strings.SplitN(strings.TrimRight(line, "\n"), " ", 4)
			if c.name = parts[len(parts)-1]; len(parts) == 4 && strings.ContainsRune("CNFDL", rune(c.kind)) &&
				c.width > 0 && c.width <= mostText {
				out = append(out, c)
			}
		}
	}
	return
}

// widened gives a column the type and the width that it had, where its values fit.
func (c column) widened(was []column) column {
	for _, old := range was {
		if !strings.EqualFold(old.name, c.name) {
			continue
		}
		numbers := strings.ContainsRune("NF", rune(old.kind)) && c.kind == 'N' && old.decimals >= c.decimals
		if old.kind == c.kind && c.kind != 'N' || numbers {
			c.kind, c.decimals, c.width = old.kind, old.decimals, max(old.width, c.width)
		}
	}
	return c
}

// columnsFor chooses the columns for a layer, under unique names of ten ASCII bytes, and tells the names that changed.
// Was are the columns that the data had in a shapefile.
func columnsFor(l *layer.Layer, was []column, ledger *nav.Ledger) []column {
	taken := map[string]bool{}
	var out []column
	for i, c := range l.Columns {
		name := uniqueName(c.Name, taken, c.Field)
		if name != c.Name {
			*ledger = append(*ledger, nav.Entry{KindWord: l.Geometry.String(), What: "field name", Old: c.Name, New: name,
				Why: "a shapefile has field names of ten ASCII characters", Count: 1})
		}
		k := column{name: name, kind: 'C', width: min(max(c.Width, 1), mostText)}
		switch c.Type {
		case layer.Integer:
			k.kind, k.width = 'N', max(c.Width, 1)
		case layer.Decimal: // room for the longest whole part with the most decimals
			k.kind, k.decimals = 'N', min(c.Decimals, 17)
			k.width = min(max(c.Width+c.Decimals+1, 3), 32)
		case layer.Date:
			k.kind, k.width = 'D', 8
		case layer.Boolean:
			k.kind, k.width = 'L', 1
		}
		k = k.widened(was)
		if c.Type != layer.Text && c.Type != layer.Time && c.Type != layer.Empty || c.Width <= mostText {
			out = append(out, k)
			continue
		}
		cut := 0
		l.Each(func(f *layer.Feature) error {
			if len(f.Values[i]) > mostText {
				cut++
			}
			return nil
		})
		*ledger = append(*ledger, nav.Entry{KindWord: l.Geometry.String(), What: nav.Property("ends of " + c.Name),
			Why: "texts in a shapefile have at most 254 bytes", Count: cut, Loss: true})
		out = append(out, k)
	}
	for _, c := range was { // those in which nothing stands
		if !taken[strings.ToLower(c.name)] {
			out = append(out, c)
		}
	}
	return out
}

// uniqueName brings a name to ten ASCII letters, digits and underscores that no other column has. That of a field is
// not shortened to a word for a property.
func uniqueName(name string, taken map[string]bool, field bool) string {
	var b strings.Builder
	for _, r := range headings.Plain(name) {
		switch {
		case r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '_':
			b.WriteRune(r)
		default:
			b.WriteByte('_')
		}
	}
	plain := strings.Trim(b.String(), "_")
	if plain == "" {
		plain = "field"
	}
	if plain[0] >= '0' && plain[0] <= '9' {
		plain = "f" + plain
	}
	base := plain[:min(len(plain), 10)]
	out := base
	claims := func(out string) bool {
		_, is := headings.Of(out)
		return field && out != name && is
	}
	for n := 2; taken[strings.ToLower(out)] || claims(out); n++ {
		tail := strconv.Itoa(n)
		out = base[:min(len(base), 10-len(tail))] + tail
	}
	taken[strings.ToLower(out)] = true
	return out
}

// writeDBF writes the attributes of a layer. The date of the head, which says when it was written, is left at its first
// day, so that the same data give the same bytes.
func writeDBF(w io.Writer, l *layer.Layer, columns []column) error {
	size := 1
	for _, c := range columns {
		size += c.width
	}
	head := make([]byte, 32, 32+32*len(columns)+1)
	head[0], head[2], head[3] = 3, 1, 1
	binary.LittleEndian.PutUint32(head[4:], uint32(l.Count))
	binary.LittleEndian.PutUint16(head[8:], uint16(32+32*len(columns)+1))
	binary.LittleEndian.PutUint16(head[10:], uint16(size))
	for _, c := range columns {
		var d [32]byte
		copy(d[:10], c.name)
		d[11], d[16], d[17] = c.kind, byte(c.width), byte(c.decimals)
		head = append(head, d[:]...)
	}
	if _, err := w.Write(append(head, 0x0D)); err != nil {
		return err
	}
	row := make([]byte, size)
	err := l.Each(func(f *layer.Feature) error {
		for i := range row {
			row[i] = ' '
		}
		at := 1
		for i, c := range columns {
			if i < len(f.Values) {
				put(row[at:at+c.width], c, f.Values[i])
			}
			at += c.width
		}
		_, err := w.Write(row)
		return err
	})
	if err != nil {
		return err
	}
	_, err = w.Write([]byte{0x1A})
	return err
}

// put writes a value into its place of a record, which is blank.
func put(cell []byte, c column, value string) {
	switch {
	case value == "":
		return
	case c.kind == 'N' || c.kind == 'F':
		if strings.ContainsAny(value, "eE") {
			if v, err := strconv.ParseFloat(value, 64); err == nil {
				if value = strconv.FormatFloat(v, 'f', -1, 64); len(value) > len(cell) {
					value = strconv.FormatFloat(v, 'E', -1, 64)
				}
			}
		}
		if c.decimals > 0 && !strings.Contains(value, "E") {
			whole, fraction, _ := strings.Cut(value, ".")
			room := len(cell) - len(whole) - 1 - len(fraction)
			value = whole + "." + fraction + strings.Repeat("0", max(min(c.decimals-len(fraction), room), 0))
		}
		copy(cell[max(len(cell)-len(value), 0):], value)
		return
	case c.kind == 'L':
		value = strings.ToUpper(value[:1])
	case c.kind == 'D':
		value = strings.ReplaceAll(value[:10], "-", "")
	}
	for len(value) > len(cell) { // cut between letters
		_, n := utf8.DecodeLastRuneInString(value)
		value = value[:len(value)-n]
	}
	copy(cell, value)
}

// checkTable refuses what a .dbf has no room for.
func checkTable(columns []column) error {
	size := 1
	for _, c := range columns {
		size += c.width
	}
	if len(columns) > 255 || size > math.MaxUint16 {
		return fmt.Errorf("a shapefile holds 255 fields of together 65,535 bytes at most, and there are %d of %d: write a "+
			"GeoPackage, which holds all", len(columns), size)
	}
	return nil
}
