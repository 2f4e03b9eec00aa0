package nav

import (
	"strconv"
	"strings"
	"sync"

	"gyrolith/core/decimal"
)

// Form is what details have in common that differ in some texts alone, such as those of a recording's points, which
// hold other numbers in the same elements. It is not changed once a detail has it.
type Form struct {
	Texts  int // so many
	Values []FormValue
	Kept   []FormKept
}

// FormValue is a value: its key, and the number of its text. A literal one is a number, and none is empty.
type FormValue struct {
	Key     string
	Literal bool
	Text    int
}

// FormKept is a piece whose text is the first part, a text, the next part and so on.
type FormKept struct {
	Kept
	Parts []string
	Texts []int // one fewer than parts
}

// plain says whether nothing but values stands in a detail, and those are such as a Form can have.
func (d *Detail) plain() bool {
	if len(d.Kept) > 0 || d.Item != nil || d.Exact != "" {
		return false
	}
	for i := range d.Values {
		if !OfForm(&d.Values[i]) {
			return false
		}
	}
	return true
}

// OfForm says whether a field can be a value of a Form.
func OfForm(f *Field) bool { return f.Value != "" && (!f.Literal || decimal.IsNumber(f.Value)) }

// fits says whether values have the keys and types of a form.
func (f *Form) fits(values []Field) bool {
	if len(values) != len(f.Values) {
		return false
	}
	for i := range values {
		if v := &f.Values[i]; v.Literal != values[i].Literal || v.Key != values[i].Key {
			return false
		}
	}
	return true
}

// plainForms are those of nothing but values, by what tells them apart, so that segments have the same ones.
var plainForms struct {
	sync.Mutex
	known map[string]*Form
}

// plainForm gives the form of values.
func plainForm(values []Field) *Form {
	const most = 1024 // that are remembered
	var key []byte
	for i := range values {
		key = strconv.AppendBool(append(append(key, values[i].Key...), 0), values[i].Literal)
	}
	plainForms.Lock()
	defer plainForms.Unlock()
	f := plainForms.known[string(key)]
	if f != nil && f.fits(values) {
		return f
	}
	f = &Form{Values: make([]FormValue, len(values)), Texts: len(values)}
	for i := range values {
		f.Values[i] = FormValue{strings.Clone(values[i].Key), values[i].Literal, i}
	}
	if plainForms.known == nil {
		plainForms.known = map[string]*Form{}
	}
	if len(plainForms.known) < most {
		plainForms.known[string(key)] = f
	}
	return f
}

// cut takes the next text off those of a detail.
func cut(texts string) (text, rest string) {
	n, shift, at := 0, 0, 0
	for texts[at] >= 0x80 {
		n |= int(texts[at]&0x7f) << shift
		shift += 7
		at++
	}
	n |= int(texts[at]) << shift
	at++
	return texts[at : at+n], texts[at+n:]
}

// split takes the texts of a detail apart, in room if that has enough.
func (f *Form) split(room []string, texts string) []string {
	for range f.Texts {
		var text string
		text, texts = cut(texts)
		room = append(room, text)
	}
	return room
}

// length is how much of a text those of one detail take.
func (f *Form) length(texts string) int {
	rest := texts
	for range f.Texts {
		_, rest = cut(rest)
	}
	return len(texts) - len(rest)
}

// values appends those of a detail.
func (f *Form) values(dst []Field, texts string) []Field {
	var room [16]string
	all := f.split(room[:0], texts)
	for i := range f.Values {
		v := &f.Values[i]
		dst = append(dst, Field{Key: v.Key, Value: all[v.Text], Literal: v.Literal})
	}
	return dst
}

func (f *Form) detail(texts string) *Detail {
	var room [16]string
	return f.Detail(f.split(room[:0], texts))
}

// Detail makes a detail of texts.
func (f *Form) Detail(texts []string) *Detail {
	d := &Detail{Values: make([]Field, len(f.Values))}
	for i := range f.Values {
		v := &f.Values[i]
		d.Values[i] = Field{Key: v.Key, Value: texts[v.Text], Literal: v.Literal}
	}
	if len(f.Kept) > 0 {
		d.Kept = make([]Kept, len(f.Kept))
	}
	for i := range f.Kept {
		k := &f.Kept[i]
		d.Kept[i] = k.Kept
		d.Kept[i].Text = k.text(texts)
	}
	return d
}

func (k *FormKept) text(texts []string) string {
	if len(k.Parts) == 1 {
		return k.Parts[0]
	}
	n := len(k.Parts[0])
	for i, part := range k.Parts[1:] {
		n += len(part) + len(texts[k.Texts[i]])
	}
	b := make([]byte, 0, n)
	b = append(b, k.Parts[0]...)
	for i, part := range k.Parts[1:] {
		b = append(append(b, texts[k.Texts[i]]...), part...)
	}
	return string(b)
}
