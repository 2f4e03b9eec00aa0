package nav

import (
	"slices"
	"strings"

	"gyrolith/core/scratch"
)

// details are those of the points of a segment, by index. Most have nothing but values, or besides them pieces which
// differ in their numbers alone: of those only the texts stand here, and what they have in common in a Form.
type details struct {
	rows   scratch.List[row]
	forms  []*Form
	whole  []Detail         // those that are of no form
	chunks []string         // of texts, each behind its length
	room   *strings.Builder // that of the last chunk
}

// row is a detail.
type row struct {
	at   uint32 // its place among whole, or the chunk of its texts
	from uint16 // where they begin in the chunk
	form uint16 // 0 is a detail as a whole, else 1 + the place of the form
}

const (
	longChunk = 1 << 16 // bytes of texts that are stored together: a row says where its own begin by 16 bits
	mostForms = 64      // of a segment, since they are searched one by one
)

func (d *details) len() int {
	if d == nil {
		return 0
	}
	return d.rows.Len()
}

// clone gives details that may be added to without touching these.
func (d *details) clone() *details {
	if d == nil {
		return nil
	}
	c := &details{forms: slices.Clone(d.forms), whole: slices.Clone(d.whole), chunks: slices.Clone(d.chunks)}
	for block := range d.rows.Between(0, d.rows.Len()) {
		c.rows.Append(block...)
	}
	return c
}

// add puts a detail behind the others. The list of its values is not held.
func (d *details) add(x Detail) {
	if f := d.formOf(&x); f > 0 {
		size := 0
		for i := range x.Values {
			size += room(len(x.Values[i].Value))
		}
		d.begin(f, size)
		for i := range x.Values {
			d.put(x.Values[i].Value)
		}
		d.end()
		return
	}
	x.Values = slices.Clone(x.Values)
	d.whole = append(d.whole, x)
	d.rows.Append(row{at: uint32(len(d.whole) - 1)})
}

// addForm puts a detail of a form behind the others.
func (d *details) addForm(f *Form, texts [][]byte) {
	at := d.have(f)
	if at == 0 {
		all := make([]string, len(texts))
		for i := range texts {
			all[i] = string(texts[i])
		}
		d.add(*f.Detail(all))
		return
	}
	size := 0
	for _, text := range texts {
		size += room(len(text))
	}
	d.begin(at, size)
	for _, text := range texts {
		d.putLength(len(text))
		d.room.Write(text)
	}
	d.end()
}

// copy puts a detail of others behind these.
func (d *details) copy(from *details, i int) {
	f, texts := from.formed(i)
	at := 0
	if f != nil {
		at = d.have(f)
	}
	if at == 0 {
		d.add(*from.at(i))
		return
	}
	texts = texts[:f.length(texts)]
	d.begin(at, len(texts))
	d.room.WriteString(texts)
	d.end()
}

// formOf finds the form of a detail that has nothing but values; 0 is none.
func (d *details) formOf(x *Detail) int {
	if !x.plain() {
		return 0
	}
	for i, f := range d.forms {
		if len(f.Kept) == 0 && f.fits(x.Values) {
			return i + 1
		}
	}
	if len(d.forms) == mostForms {
		return 0
	}
	d.forms = append(d.forms, plainForm(x.Values))
	return len(d.forms)
}

// have gives the place of a form, from 1; 0 is none, where there is no room for one more.
func (d *details) have(f *Form) int {
	if n := len(d.forms); n > 0 && d.forms[n-1] == f {
		return n
	}
	if i := slices.Index(d.forms, f); i >= 0 {
		return i + 1
	}
	if len(d.forms) == mostForms {
		return 0
	}
	d.forms = append(d.forms, f)
	return len(d.forms)
}

// room is how many bytes a text takes with its length, at most.
func room(n int) int { return 5 + n }

// begin makes a row for texts that take up to so many bytes. They are put next.
func (d *details) begin(form, size int) {
	n := len(d.chunks)
	if d.room == nil || d.room.Cap()-d.room.Len() < size || d.room.Len() >= longChunk {
		d.room = &strings.Builder{}
		const first = 64
		d.room.Grow(max(size, min(longChunk, first<<min(n, 16))))
		d.chunks = append(d.chunks, "")
		n++
	}
	d.rows.Append(row{uint32(n - 1), uint16(d.room.Len()), uint16(form)})
}

func (d *details) putLength(n int) {
	for ; n >= 0x80; n >>= 7 {
		d.room.WriteByte(byte(n) | 0x80)
	}
	d.room.WriteByte(byte(n))
}

func (d *details) put(text string) {
	d.putLength(len(text))
	d.room.WriteString(text)
}

// end makes the texts of a row readable.
func (d *details) end() { d.chunks[len(d.chunks)-1] = d.room.String() }

// formed finds the form and the texts of a detail; nil is a detail as a whole.
func (d *details) formed(i int) (*Form, string) {
	r := d.rows.At(i)
	if r.form == 0 {
		return nil, ""
	}
	return d.forms[r.form-1], d.chunks[r.at][r.from:]
}

func (d *details) at(i int) *Detail {
	if f, texts := d.formed(i); f != nil {
		return f.detail(texts)
	}
	return &d.whole[d.rows.At(i).at]
}

// values appends those of a detail.
func (d *details) values(i int, dst []Field) []Field {
	if f, texts := d.formed(i); f != nil {
		return f.values(dst, texts)
	}
	return append(dst, d.whole[d.rows.At(i).at].Values...)
}
