package gpx

import (
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
)

// layoutKey says for which details there is a layout: those of a form, with one of the fixes that the schema has words
// for, if they have any.
type layoutKey struct {
	form *nav.Form
	fix  string
}

// keyOf gives that of a detail.
func keyOf(f *nav.Form, texts []string) layoutKey {
	for i := range f.Values {
		if v := &f.Values[i]; v.Key == "fix" {
			if fix := texts[v.Text]; standard("fix", fix) {
				return layoutKey{f, fix}
			}
		}
	}
	return layoutKey{form: f}
}

// layout is how points are written whose details are alike. Where their values stand and what is between them is told
// from two samples with different texts.
type layout struct {
	layoutKey
	standard []bool // of its values, whether the samples' are such as the schema allows
	own      []int  // the texts of its values that only Gyrolith's extension can carry

	learned bool
	around  []string // what follows height and time, around the texts; nil is not known
	texts   []int
}

// layoutOf prepares one.
func layoutOf(key layoutKey) *layout {
	l := &layout{layoutKey: key}
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
// sample, but for a fix.
func (l *layout) sample(which int) (*nav.Detail, []string) {
	const first, apart = 70_000_001, 10_000_000
	texts := make([]string, l.form.Texts)
	for i := range texts {
		texts[i] = strconv.Itoa(first + which*apart + i)
	}
	for i := range l.form.Values {
		if v := &l.form.Values[i]; v.Key == "fix" && l.fix != "" {
			texts[v.Text] = l.fix
		}
	}
	return l.form.Detail(texts), texts
}

// fits says whether texts of its key are written as those of the samples: none has to be escaped, the schema allows the
// same of them, and what Gyrolith's extension has to carry does not stand in a kept piece by chance.
func (l *layout) fits(texts []string) bool {
	for i := range l.form.Values {
		v := &l.form.Values[i]
		text := texts[v.Text]
		if isStandard(v.Key) && standard(v.Key, text) != l.standard[i] || !v.Literal && !xmlwrite.Plain(text) ||
			v.Key == "fix" && l.fix != "" && text != l.fix {
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

// none is no text that a point has.
const none = "\x00"

// learn finds out how points are written.
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
		for i := range texts {
			if texts[i] == l.fix { // a part of what is around
				texts[i] = none
			}
		}
		around[which], order[which] = apart(string(sub.Buf), texts)
	}
	if slices.Equal(around[0], around[1]) && slices.Equal(order[0], order[1]) {
		l.around, l.texts = around[0], order[0]
	}
}

// learnLayouts finds out how points of a form are written. The writer is where their tracks are.
func (w *writer) learnLayouts(f *nav.Form) {
	for _, fix := range append([]string{""}, fixes...) {
		if l := w.layouts[layoutKey{f, fix}]; l != nil {
			l.learn(w)
		}
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
	var texts []string
	var last *layout
	for i := range seg.Details() {
		var f *nav.Form
		if f, texts = seg.FormAt(texts[:0], i); f == nil {
			continue
		}
		if key := keyOf(f, texts); last == nil || key != last.layoutKey {
			if last = w.layouts[key]; last == nil {
				last = layoutOf(key)
				w.layouts[key] = last
			}
		}
		switch {
		case own:
		case last.fits(texts):
			own = len(last.own) > 0
		default:
			d := f.Detail(texts)
			own = len(ownFields(d.Values, d.Kept)) > 0
		}
	}
	return own
}
