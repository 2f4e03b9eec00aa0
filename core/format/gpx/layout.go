package gpx

import (
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
)

// layout is how points are written whose details are of one form. Where their values stand and what is between them is
// told from two samples with different texts.
type layout struct {
	form     *nav.Form
	standard []bool // of its values, whether the samples' are such as the schema allows
	own      []int  // the texts of its values that only Gyrolith's extension can carry

	learned bool
	around  []string // what follows height and time, around the texts; nil is not known
	texts   []int
}

// layoutOf prepares that of a form.
func layoutOf(f *nav.Form) *layout {
	l := &layout{form: f}
	d, _ := l.sample(0)
	for i := range d.Values {
		l.standard = append(l.standard, standard(d.Values[i].Key, d.Values[i].Value))
	}
	for _, field := range ownFields(d.Values, d.Kept) {
		l.own = append(l.own, slices.IndexFunc(d.Values, func(v nav.Field) bool { return v == field }))
	}
	return l
}

// sample makes a detail of the form, the texts of which stand nowhere else in it and differ from those of the other
// sample.
func (l *layout) sample(which int) (*nav.Detail, []string) {
	const first, apart = 70_000_001, 10_000_000
	texts := make([]string, l.form.Texts)
	for i := range texts {
		texts[i] = strconv.Itoa(first + which*apart + i)
	}
	return l.form.Detail(texts), texts
}

// fits says whether texts are written as those of the samples: none has to be escaped, the schema allows the same of
// them, and what Gyrolith's extension has to carry does not stand in a kept piece by chance.
func (l *layout) fits(texts []string) bool {
	for i := range l.form.Values {
		v := &l.form.Values[i]
		text := texts[v.Text]
		if isStandard(v.Key) && standard(v.Key, text) != l.standard[i] || !v.Literal && !xmlwrite.Plain(text) {
			return false
		}
	}
	for _, i := range l.own {
		own := l.form.Values[i].Text
		for k := range texts {
			if k != own && texts[k] == texts[own] {
				return false
			}
		}
	}
	return true
}

// learn finds out how points are written. The writer is where their tracks are.
func (l *layout) learn(w *writer) {
	if l.learned {
		return
	}
	l.learned = true
	var around [2][]string
	var order [2][]int
	for which := range 2 {
		d, texts := l.sample(which)
		sub := w.part(w.Part(nil))
		if sub.rest(d); sub.Bad > 0 {
			return
		}
		around[which], order[which] = apart(string(sub.Buf), texts)
	}
	if slices.Equal(around[0], around[1]) && slices.Equal(order[0], order[1]) {
		l.around, l.texts = around[0], order[0]
	}
}

// apart finds where texts of equal length stand in another, and what is around them.
func apart(text string, texts []string) (around []string, order []int) {
	last := 0
	for at := 0; at < len(text); at++ {
		i := slices.IndexFunc(texts, func(t string) bool { return strings.HasPrefix(text[at:], t) })
		if i < 0 {
			continue
		}
		around, order = append(around, text[last:at]), append(order, i)
		last = at + len(texts[i])
		at = last - 1
	}
	return append(around, text[last:]), order
}

// append writes what follows height and time of a point.
func (l *layout) append(dst []byte, texts []string) []byte {
	for i, k := range l.texts {
		dst = append(append(dst, l.around[i]...), texts[k]...)
	}
	return append(dst, l.around[len(l.texts)]...)
}

// layoutsOf prepares those of a segment's details, and says whether any of them needs Gyrolith's own extension.
func (w *writer) layoutsOf(seg *nav.Segment) (own bool) {
	for _, f := range seg.Forms() {
		if w.layouts[f] == nil {
			w.layouts[f] = layoutOf(f)
			own = own || len(w.layouts[f].own) > 0
		}
	}
	var texts []string
	for i := 0; i < seg.Details() && !own; i++ {
		var f *nav.Form
		if f, texts = seg.FormAt(texts[:0], i); f != nil && !w.layouts[f].fits(texts) {
			d := f.Detail(texts)
			own = len(ownFields(d.Values, d.Kept)) > 0
		}
	}
	return own
}
