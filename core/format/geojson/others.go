package geojson

import (
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// meant are the properties that features of others have under many words.
var meant = []string{"name", "description", "height", "time", "date"}

// meaning is what the properties of features with the same keys are taken for.
type meaning struct {
	of     []string // by key; "" is a field
	titles *nav.Titles
}

// meaningOf finds what keys are taken for; it remembers those that it saw.
func (m *meanings) of(keys []string, literal func(int) bool) *meaning {
	if m.last != nil && slices.Equal(keys, m.lastKeys) { // most features are as the one before
		return m.last
	}
	text := strings.Join(keys, "\x00")
	m.lastKeys = append(m.lastKeys[:0], keys...)
	if m.last = m.seen[text]; m.last != nil {
		return m.last
	}
	out := &meaning{of: headings.Meanings(keys, meant...), titles: &nav.Titles{}}
	for i, word := range out.of {
		if word == "date" {
			if word = "time"; slices.Contains(out.of, word) {
				word = ""
			}
			out.of[i] = word
		}
		if word != "" && (word != "height" || headings.InMetres(keys[i])) {
			out.titles.Keep(word, keys[i], literal(i))
		}
	}
	for _, key := range keys {
		if isTimes(key) {
			*out.titles = append(*out.titles, nav.Title{Of: timesOf, Text: key})
		}
	}
	if len(*out.titles) == 0 {
		out.titles = nil
	}
	if m.seen == nil {
		m.seen = map[string]*meaning{}
	}
	m.seen[text], m.last = out, out
	return out
}

type meanings struct {
	seen     map[string]*meaning
	last     *meaning
	lastKeys []string
}

// timesOf is the property of a list of the times of a line's points.
const timesOf = "times"

// isTimes says whether a key is that of such a list.
func isTimes(key string) bool {
	return slices.Contains([]string{"coordtimes", "coord times", "times", "timestamps", "coordinatetimes",
		"coordinate times"},
		headings.Folded(key))
}

// others takes the properties of a feature that stand under other words than ours: names and descriptions, of points
// times and heights, of lines the times of their points, and the properties of simple styles.
func (r *reader) others(f *feature) {
	r.keys = r.keys[:0]
	for i := range f.Fields {
		r.keys = append(r.keys, f.Fields[i].Key)
	}
	m := r.meanings.of(r.keys, func(i int) bool { return f.Fields[i].Literal })
	point, lines := false, false
	for i := range f.geometries {
		point = point || strings.HasSuffix(f.geometries[i].typ, "Point")
		lines = lines || strings.HasSuffix(f.geometries[i].typ, "LineString")
	}
	left, before := f.Fields[:0], 0
	for i := range f.Fields {
		field := f.Fields[i]
		if !r.other(f, m.of[i], &field, point && !lines) && !(lines && isTimes(field.Key) && r.timesOf(f, &field)) {
			left = append(left, field)
			f.simpleStyle(&field)
			continue
		}
		f.Titles = m.titles
		if i < f.whenAt {
			before++
		}
	}
	f.whenAt -= before
	f.Fields = left
}

// other takes a property of a meaning, and says whether it could.
func (r *reader) other(f *feature, meaning string, field *nav.Field, point bool) bool {
	plain := !field.Literal || decimal.IsNumber(field.Value)
	switch {
	case !plain || field.Value == "":
	case meaning == "name" && f.Name == "":
		f.Name = field.Value
		return true
	case meaning == "description" && f.Desc == "" && !field.Literal:
		f.Desc = field.Value
		return true
	case meaning == "time" && point && !f.when.HasTime():
		ns, mark, _, ok := instant.Parse([]byte(field.Value), r.opt.Zone)
		if ok = ok && mark >= instant.Day; !ok {
			ns, mark, ok = instant.SinceEpoch(field.Value)
		}
		if ok {
			format.DoubtTime(r.data, []byte(field.Value), r.opt.Zone, r.here)
			f.when.SetTime(ns, mark)
		}
		return ok
	case meaning == "height" && point && !f.when.HasHeight():
		v, digits, ok := decimal.Parse([]byte(field.Value))
		of, unknown := headings.MeasureOf(field.Key, headings.Length)
		if !ok || unknown != "" || of.Name == headings.FlightLevels {
			return false
		}
		for i := range f.geometries {
			if p := f.geometries[i].points; len(p) > 0 && p[0].HasHeight() { // which goes before
				return false
			}
		}
		if of.Factor != 1 {
			digits = 0
		}
		f.when.SetHeight(v*of.Factor, digits, nav.DatumUnstated)
		return true
	}
	return false
}

// timesOf takes a list of the times of a line's points, one for each position: texts, or numbers of milliseconds or
// seconds since 1970; of several lines a list each.
func (r *reader) timesOf(f *feature, field *nav.Field) bool {
	positions := 0
	for i := range f.geometries {
		positions += len(f.geometries[i].points) + len(f.geometries[i].missing)
	}
	if !field.Literal || f.times.Len() > 0 || !strings.HasPrefix(field.Value, "[") {
		return false
	}
	var all []format.Moment
	for in := jsontext.NewDecoder(strings.NewReader(field.Value)); ; {
		tok, err := in.ReadToken()
		if err != nil {
			break
		}
		var p nav.Point
		switch tok.Kind() {
		case '[', ']':
			continue
		case '"':
			if ns, mark, _, ok := instant.Parse([]byte(tok.String()), r.opt.Zone); ok {
				p.SetTime(ns, mark)
			}
		case '0':
			if ns, mark, ok := instant.SinceEpoch(tok.String()); ok {
				p.SetTime(ns, mark)
			}
		}
		all = append(all, format.Moment{NS: p.UnixNano(), Mark: p.TimeMark()})
	}
	if len(all) != positions {
		line, col := r.here()
		r.data.Note(nav.ProblemTimes, strconv.Quote(field.Key)+" has not as many times as the line has positions, and was "+
			"kept as a field", line, col)
		return false
	}
	for _, at := range all {
		f.times.Append(at)
	}
	return true
}

// spelling is how the properties of items with the same titles and fields are written.
type spelling struct {
	titles map[string]*nav.Title // those under which properties stand; nil is our own words
	exact  bool                  // fields would be taken for properties, so that our member has to say that none is
}

// spell finds how the properties of an item are written: under the titles of its source where they are read again as
// what they are, and none of the fields is.
func (w *writer) spell(item *nav.Item, at *nav.Point, names []string) *spelling {
	seen := spelt{titles: item.Titles, hasName: item.Name != "", hasDesc: item.Desc != "",
		hasTime:      at != nil && at.HasTime(),
		hasOwnHeight: at != nil && at.HasHeight() && at.VerticalDatum() != nav.AboveEllipsoid}
	if w.lastSpelt == seen && w.lastSpelling != nil && slices.Equal(names, w.lastNames) {
		return w.lastSpelling
	}
	w.lastSpelt, w.lastNames = seen, append(w.lastNames[:0], names...)
	seen.names = strings.Join(names, "\x00")
	if w.lastSpelling = w.spelt[seen]; w.lastSpelling != nil {
		return w.lastSpelling
	}
	has := map[string]bool{"name": seen.hasName, "description": seen.hasDesc, "time": seen.hasTime,
		"height": seen.hasOwnHeight}
	try := func(titled bool) (*spelling, bool) {
		out := &spelling{titles: map[string]*nav.Title{}}
		var keys, words []string
		for _, word := range meant {
			title := item.Titles.Of(word)
			switch {
			case !has[word] || word == "height" && !(titled && title != nil):
				continue
			case titled && title != nil:
				out.titles[word] = title
				keys = append(keys, title.Text)
			default:
				keys = append(keys, word)
			}
			words = append(words, word)
		}
		for i, word := range w.meanings.of(append(keys, names...), func(int) bool { return false }).of {
			if i < len(words) && word != words[i] || i >= len(words) && word != "" {
				return out, false
			}
		}
		return out, true
	}
	s, ok := try(item.Titles != nil)
	if !ok && item.Titles != nil {
		s, ok = try(false)
	}
	if !ok {
		s = &spelling{exact: true}
	}
	if w.spelt == nil {
		w.spelt = map[spelt]*spelling{}
	}
	w.spelt[seen], w.lastSpelling = s, s
	return s
}

// spelt is what a spelling depends on.
type spelt struct {
	titles                                  *nav.Titles
	names                                   string
	hasName, hasDesc, hasTime, hasOwnHeight bool
}

// as writes a property under its title, a number as one.
func (o *object) as(s *spelling, word, value string) {
	if value == "" {
		return
	}
	title := s.titles[word]
	switch {
	case title == nil:
		o.text(word, value)
	case title.Number && word != "time" && decimal.IsNumber(value):
		o.raw(title.Text, value)
	default:
		o.text(title.Text, value)
	}
}

// timeList writes the times of a line's points under the title that its source has for them, a list for each part.
func (w *writer) timeList(o *object, t *thing) bool {
	title := t.item.Titles.Of(timesOf)
	if title == nil || !timed(t.line) {
		return false
	}
	o.key(title.Text)
	w.buf = o.buf
	if len(t.line) > 1 {
		w.buf = append(w.buf, '[')
	}
	for k := range t.line {
		if k > 0 {
			w.buf = append(w.buf, ',')
		}
		w.buf = append(w.buf, '[')
		w.timeValues(t.line[k].points, true)
		w.buf = append(w.buf, ']')
	}
	if len(t.line) > 1 {
		w.buf = append(w.buf, ']')
	}
	o.buf = w.buf
	return true
}

// fromProperties gives a feature without a geometry the position that its properties say.
func (r *reader) fromProperties(f *feature) {
	keys := make([]string, len(f.Fields))
	for i := range f.Fields {
		keys[i] = f.Fields[i].Key
	}
	lat, lon := -1, -1
	for i, word := range headings.Meanings(keys, "lat", "lon") {
		switch word {
		case "lat":
			lat = i
		case "lon":
			lon = i
		}
	}
	if lat < 0 || lon < 0 {
		return
	}
	var p nav.Point
	if _, why := format.SetPosition(&p, []byte(f.Fields[lat].Value), []byte(f.Fields[lon].Value)); why != "" {
		return
	}
	line, col := r.here()
	r.data.Note(nav.ProblemPlaces, "a feature without a geometry has its position from the properties "+keys[lat]+" and "+
		keys[lon], line, col).Info = true
	f.geometries = append(f.geometries, geometry{typ: "Point", depth: 1, points: []nav.Point{p}})
}
