package gpx

import (
	"bytes"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/nav"
)

// extensions are the shapes of the elements of that name that the scanner read before. Those of a recording's points
// differ in their numbers alone.
type extensions struct {
	shapes  []*shape // the one that was met last is the first
	pending string   // one that has none of these
}

// shape is how extensions elements with the same texts around their numbers are understood.
type shape struct {
	around []string // one more than there are numbers
	values []nav.FormValue
	kept   []nav.FormKept
}

// numbers says how many there are.
func (s *shape) numbers() int { return len(s.around) - 1 }

const (
	extensionsBegin, extensionsEnd = "<extensions>", "</extensions>"

	mostShapes = 32
)

// knownExtension passes over an extensions element of a known shape, among the same namespaces, and says how long it
// is; 0 if it is not known. The scanner, which reads it then, notes what it holds. The numbers go to r.texts.
func (r *reader) knownExtension(b []byte) int {
	if r.shape != nil || len(b) < len(extensionsBegin) || string(b[:len(extensionsBegin)]) != extensionsBegin {
		return 0
	}
	shapes := r.extensions.shapes
	for i, s := range shapes {
		n, texts := s.match(b, r.texts)
		if n == 0 {
			continue
		}
		copy(shapes[1:i+1], shapes[:i])
		shapes[0] = s
		r.shape, r.texts = s, texts
		return n
	}
	if n := bytes.Index(b, []byte(extensionsEnd)); n >= 0 && len(shapes) < mostShapes {
		r.extensions.pending = string(b[:n+len(extensionsEnd)])
	}
	return 0
}

// match says how long the element is that a text begins with if it is of this shape, and appends its numbers.
func (s *shape) match(b []byte, numbers [][]byte) (int, [][]byte) {
	at := 0
	for i, part := range s.around {
		if len(b)-at < len(part) || string(b[at:at+len(part)]) != part {
			return 0, nil
		}
		at += len(part)
		if i == s.numbers() {
			break
		}
		n := digits(b[at:])
		if n == 0 {
			return 0, nil
		}
		numbers = append(numbers, b[at:at+n])
		at += n
	}
	return at, numbers
}

// digits says how long the number is that a text begins with and that an end tag follows: digits, perhaps with a sign
// and decimals, as nav.IsNumber has them.
func digits(b []byte) int {
	i := 0
	if i < len(b) && b[i] == '-' {
		i++
	}
	begin := i
	for i < len(b) && b[i] >= '0' && b[i] <= '9' {
		i++
	}
	if i == begin || i > begin+1 && b[begin] == '0' {
		return 0
	}
	if i+1 < len(b) && b[i] == '.' && b[i+1] >= '0' && b[i+1] <= '9' {
		for i++; i < len(b) && b[i] >= '0' && b[i] <= '9'; i++ {
		}
	}
	if i+1 >= len(b) || b[i] != '<' || b[i+1] != '/' {
		return 0
	}
	return i
}

// learn notes what the extensions element that is pending holds, as the scanner read it.
func (e *extensions) learn(item *nav.Item, values []nav.Field, kept []nav.Kept) {
	text := e.pending
	e.pending = ""
	if text == "" || holds.ItemUses(item) != 0 || len(e.shapes) == mostShapes {
		return
	}
	if s, tags := shapeOf(text); s.understand(text, tags, values, kept) {
		e.shapes = append(e.shapes, s)
	}
}

// shapeOf finds the numbers that are all that their elements hold, and the names of these.
func shapeOf(text string) (s *shape, tags []string) {
	s = &shape{}
	last := 0
	for at := 0; ; {
		n := strings.IndexByte(text[at:], '>')
		if n < 0 {
			s.around = append(s.around, text[last:])
			return s, tags
		}
		end := at + n + 1
		if tag := strings.LastIndexByte(text[:end], '<'); tag >= 0 && text[tag+1] != '/' {
			if n := digits([]byte(text[end:])); n > 0 {
				s.around, tags = append(s.around, text[last:end]), append(tags, localName(text[tag+1:end-1]))
				last = end + n
				at = last
				continue
			}
		}
		at = end
	}
}

// understand finds out which of the numbers are values, and where pieces stand in the text that has this shape. It is
// false if that can't be told for sure.
func (s *shape) understand(text string, tags []string, values []nav.Field, kept []nav.Kept) bool {
	var told []nav.Field
	var from []int // where the numbers begin
	at := 0
	for i, tag := range tags {
		at += len(s.around[i])
		from = append(from, at)
		number := text[at : at+digits([]byte(text[at:]))]
		if key, ok := format.SensorKeys[tag]; ok {
			told = append(told, nav.Field{Key: key, Value: number, Literal: true})
			s.values = append(s.values, nav.FormValue{Key: key, Literal: true, Text: i})
		}
		at += len(number)
	}
	if !slices.Equal(told, values) {
		return false
	}
	for _, k := range kept {
		begin := strings.Index(text, k.Text)
		if begin < 0 || strings.Count(text, k.Text) > 1 {
			return false
		}
		piece := nav.FormKept{Kept: k}
		piece.Text = ""
		last, end := begin, begin+len(k.Text)
		for i, n := range from {
			if n > begin && n < end {
				piece.Parts, piece.Texts = append(piece.Parts, text[last:n]), append(piece.Texts, i)
				last = n + digits([]byte(text[n:]))
			}
		}
		piece.Parts = append(piece.Parts, text[last:end])
		s.kept = append(s.kept, piece)
	}
	return true
}

// form is that of a point's detail: the values of its own elements, and what its extensions hold.
type form struct {
	values []nav.FormValue
	shape  *shape // nil is without extensions
	form   *nav.Form
}

// form finds that of the point that was read in one step.
func (r *reader) form() *nav.Form {
	const most = 64
	for _, f := range r.forms {
		if f.shape == r.shape && slices.Equal(f.values, r.values) {
			return f.form
		}
	}
	f := &nav.Form{Texts: len(r.values), Values: slices.Clone(r.values)}
	if s := r.shape; s != nil {
		before := len(r.values)
		f.Texts += s.numbers()
		for _, v := range s.values {
			v.Text += before
			f.Values = append(f.Values, v)
		}
		for _, k := range s.kept {
			k.Texts = slices.Clone(k.Texts)
			for i := range k.Texts {
				k.Texts[i] += before
			}
			f.Kept = append(f.Kept, k)
		}
	}
	if len(r.forms) == most {
		r.forms = r.forms[:0]
	}
	r.forms = append(r.forms, form{slices.Clone(r.values), r.shape, f})
	return f
}
