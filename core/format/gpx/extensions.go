package gpx

import (
	"bytes"
	"slices"
	"strings"

	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// extension is what an extensions element of a point holds.
type extension struct {
	values []nav.Field
	kept   []nav.Kept
}

// extensions are those elements that were read by the scanner before. The points of a recording have them again and
// again: letter for letter, since the heart beats as often and the crank turns as fast, or else with other numbers in
// the same elements.
type extensions struct {
	known   map[string]*extension
	shapes  map[string]*shape
	pending string // one that is not known yet

	skeleton []byte          // of the one that was looked at: its text with a mark in place of each number
	numbers  []number        // of it
	texts    strings.Builder // where those of many points stay
	kept     []nav.Kept      // and their pieces
	one      extension
}

// number is where a number stands that is all that its element holds, and where the element's tag begins.
type number struct{ tag, from, to int }

// shape is how elements that differ in their numbers alone are understood.
type shape struct {
	numbers []number // of the one that was learned
	fields  []field
	pieces  []piece
}

// field is a value that the number of that order is.
type field struct {
	key    string
	number int
}

// piece is an element that is kept as it stands, from and to places in the text that was learned, behind so many
// numbers.
type piece struct {
	kept     nav.Kept
	from, to int
	before   [2]int
}

const (
	extensionsBegin, extensionsEnd = "<extensions>", "</extensions>"

	mostShapes = 256
	longTexts  = 64 << 10 // bytes of texts that are stored together
	manyKept   = 1024     // pieces that are
)

// knownExtension passes over an extensions element whose like was read before, among the same namespaces, and says how
// long it is; 0 if it is not known. The scanner, which reads it then, notes what it holds. The values go to r.values.
func (r *reader) knownExtension(b []byte) int {
	if r.extension != nil || len(b) < len(extensionsBegin) || string(b[:len(extensionsBegin)]) != extensionsBegin {
		return 0
	}
	n := bytes.Index(b, []byte(extensionsEnd))
	if n < 0 {
		return 0
	}
	n += len(extensionsEnd)
	x, ok := r.extensions.known[string(b[:n])]
	if !ok {
		x = r.extensions.shaped(b[:n])
	}
	if x == nil {
		r.extensions.pending = string(b[:n])
		return 0
	}
	r.values = append(r.values, x.values...)
	r.extension = x
	return n
}

// shaped understands an element by one of its shape; nil if there was none. It holds until the next.
func (e *extensions) shaped(b []byte) *extension {
	e.bare(b)
	s, ok := e.shapes[string(e.skeleton)]
	if !ok {
		return nil
	}
	if e.texts.Cap()-e.texts.Len() < len(b) {
		e.texts = strings.Builder{}
		e.texts.Grow(max(longTexts, len(b)))
	}
	begin := e.texts.Len()
	e.texts.Write(b)
	text := e.texts.String()[begin:]
	e.one.values = e.one.values[:0]
	for _, f := range s.fields {
		value := text[e.numbers[f.number].from:e.numbers[f.number].to]
		e.one.values = append(e.one.values, nav.Field{Key: f.key, Value: value, Literal: nav.IsNumber(value)})
	}
	if cap(e.kept)-len(e.kept) < len(s.pieces) {
		e.kept = make([]nav.Kept, 0, manyKept)
	}
	first := len(e.kept)
	for i := range s.pieces {
		p := &s.pieces[i]
		k := p.kept
		k.Text = text[s.moved(p.from, p.before[0], e.numbers):s.moved(p.to, p.before[1], e.numbers)]
		e.kept = append(e.kept, k)
	}
	e.one.kept = e.kept[first:len(e.kept):len(e.kept)]
	return &e.one
}

// moved is where a place of the text that was learned, behind so many numbers, is in another one.
func (s *shape) moved(place, before int, numbers []number) int {
	if before == 0 {
		return place
	}
	return place + numbers[before-1].to - s.numbers[before-1].to
}

// bare finds the numbers of an element and makes its skeleton.
func (e *extensions) bare(b []byte) {
	e.skeleton, e.numbers = e.skeleton[:0], e.numbers[:0]
	for at := 0; ; {
		n := bytes.IndexByte(b[at:], '>')
		if n < 0 {
			e.skeleton = append(e.skeleton, b[at:]...)
			return
		}
		end := at + n + 1
		e.skeleton = append(e.skeleton, b[at:end]...)
		tag := bytes.LastIndexByte(b[at:end], '<')
		from := end
		if n := digits(b[end:]); n > 0 && tag >= 0 && b[at+tag+1] != '/' && bytes.HasPrefix(b[end+n:], []byte("</")) {
			e.numbers = append(e.numbers, number{at + tag, end, end + n})
			e.skeleton = append(e.skeleton, 0)
			from += n
		}
		at = from
	}
}

// digits says how long the number is that a text begins with: digits, perhaps with a sign and decimals.
func digits(b []byte) int {
	i := 0
	if i < len(b) && b[i] == '-' {
		i++
	}
	begin := i
	for i < len(b) && b[i] >= '0' && b[i] <= '9' {
		i++
	}
	if i == begin {
		return 0
	}
	if i+1 < len(b) && b[i] == '.' && b[i+1] >= '0' && b[i+1] <= '9' {
		for i++; i < len(b) && b[i] >= '0' && b[i] <= '9'; i++ {
		}
	}
	return i
}

// learn notes what the extensions element that is pending holds, as the scanner read it.
func (e *extensions) learn(item *nav.Item, values []nav.Field, kept []nav.Kept) {
	text := e.pending
	if text == "" || holds.ItemUses(item) != 0 {
		return
	}
	e.pending = ""
	if e.known == nil {
		e.known, e.shapes = map[string]*extension{}, map[string]*shape{}
	}
	if len(e.known) < mostTexts {
		e.known[text] = &extension{slices.Clone(values), slices.Clip(slices.Clone(kept))}
	}
	if len(e.shapes) < mostShapes {
		e.bare([]byte(text))
		if s := e.shapeOf(text, values, kept); s != nil {
			e.shapes[string(e.skeleton)] = s
		}
	}
}

// shapeOf finds out how the values and pieces of an element stand in its text; nil if that can't be told by its shape.
func (e *extensions) shapeOf(text string, values []nav.Field, kept []nav.Kept) *shape {
	s := &shape{numbers: slices.Clone(e.numbers)}
	var told []nav.Field
	for i, n := range s.numbers {
		name := text[n.tag+1 : n.from-1]
		if end := strings.IndexAny(name, " \t\r\n"); end >= 0 {
			name = name[:end]
		}
		name = name[strings.IndexByte(name, ':')+1:]
		if key, ok := sensorKeys[name]; ok {
			value := text[n.from:n.to]
			told = append(told, nav.Field{Key: key, Value: value, Literal: nav.IsNumber(value)})
			s.fields = append(s.fields, field{key, i})
		}
	}
	if len(s.numbers) == 0 || !slices.Equal(told, values) {
		return nil
	}
	at := 0
	for _, k := range kept {
		n := strings.Index(text[at:], k.Text)
		if n < 0 {
			return nil
		}
		p := piece{kept: k, from: at + n, to: at + n + len(k.Text)}
		for _, n := range s.numbers {
			if n.from < p.from {
				p.before[0]++
			}
			if n.from < p.to {
				p.before[1]++
			}
		}
		s.pieces = append(s.pieces, p)
		at = p.to
	}
	return s
}
