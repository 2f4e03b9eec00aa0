// Package geojson reads and writes GeoJSON (RFC 7946) and GeoJSON text sequences (RFC 8142).
package geojson

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// Format is GeoJSON in the registry.
var Format = &format.Format{
	Name:       "geojson",
	Title:      "GeoJSON (RFC 7946)",
	Extensions: []string{".geojson", ".json"},
	Brief:      "waypoints, tracks, areas, fields; routes, groups and styles as marked features",
	Sniff:      func(h *format.Head) bool { return looksLike(h.Text) },
	Read:       read,
	Write:      write,
	Holds:      format.Plainly(declaration),
	Shapes:     format.SoundShapes,
	Keeps:      "geojson",
}

// declaration says what GeoJSON holds, with Gyrolith's member.
var declaration = &holds.Declaration{
	Noun: "GeoJSON",
	Holds: holds.Places{
		holds.Waypoint:   holds.Everything(holds.Waypoint),
		holds.Route:      holds.Everything(holds.Route).But(holds.Empty, holds.OnePoint),
		holds.RoutePoint: holds.Everything(holds.RoutePoint),
		holds.Track:      holds.Everything(holds.Track).But(holds.Empty, holds.OnePoint),
		holds.TrackPoint: holds.Everything(holds.TrackPoint),
		holds.Area:       holds.Everything(holds.Area).But(holds.Empty, holds.Time, holds.TimePrecision),
		holds.File:       holds.Everything(holds.File).But(holds.Attachments),
	},
	Datums: []nav.VerticalDatum{nav.AboveEllipsoid}, // 3.1.1
}

// FormatSeq is the text sequence.
var FormatSeq = &format.Format{
	Name:       "geojsonseq",
	Title:      "GeoJSON text sequence (RFC 8142)",
	Extensions: []string{".geojsons"},
	Brief:      "as GeoJSON, without a title of the file",
	Sniff: func(h *format.Head) bool {
		return len(h.Text) > 0 && h.Text[0] == recordSeparator && looksLike(h.Text[1:])
	},
	Read:   readSeq,
	Write:  writeSeq,
	Holds:  sequenceHolds,
	Shapes: format.SoundShapes,
	Keeps:  "geojson",
}

var sequenceHolds = format.Plainly(declaration.Without(holds.File, holds.Of(holds.File).List()...))

// FormatLines is GeoJSON, one feature per line, without the separators of a text sequence.
var FormatLines = &format.Format{
	Name:       "geojsonl",
	Title:      "GeoJSON, one feature per line",
	Extensions: []string{".geojsonl", ".ndjson"},
	Brief:      "as GeoJSON, without a title of the file",
	Sniff: func(h *format.Head) bool {
		first, rest, found := bytes.Cut(h.Text, []byte{'\n'})
		rest = bytes.TrimLeft(rest, " \t\r\n")
		return found && len(rest) > 0 && rest[0] == '{' && looksLike(first) &&
			jsontext.Value(bytes.TrimSpace(first)).IsValid()
	},
	Read:   readSeq,
	Write:  writeLines,
	Holds:  sequenceHolds,
	Shapes: format.SoundShapes,
	Keeps:  "geojson",
}

const recordSeparator = 0x1E

var typeWords = []string{"FeatureCollection", "Feature", "Point", "MultiPoint", "LineString", "MultiLineString",
	"Polygon",
	"MultiPolygon", "GeometryCollection"}

// looksLike says whether a text begins as an object with a type of the standard.
func looksLike(text []byte) bool {
	text = bytes.TrimLeft(text, " \t\r\n\x1e")
	if len(text) == 0 || text[0] != '{' {
		return false
	}
	for _, w := range typeWords {
		if bytes.Contains(text, []byte(`"`+w+`"`)) {
			return true
		}
	}
	return bytes.Contains(text, []byte(`"features"`))
}

type reader struct {
	*jsontext.Decoder
	base  int64 // where its text begins in the file
	opt   *format.ReadOptions
	data  *nav.Dataset
	place *placer
	line  format.Collector
	clock instant.Clock
	size  int64
	path  string

	wholes   format.Wholes
	meanings meanings
	keys     []string    // of the feature that was read last
	crsKnown bool        // the system was found before
	placed   bool        // some position was read
	system   *crs.System // of the coordinates; nil is WGS 84
	unread   format.Unread[unread]
	item     nav.Item // of the point that was read last, and its fields
	values   []nav.Field
}

// InputOffset is how far the file was read.
func (r *reader) InputOffset() int64 { return r.base + r.Decoder.InputOffset() }

func (r *reader) start(in io.Reader) {
	r.place = &placer{in: in}
	r.Decoder = jsontext.NewDecoder(r.place, jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	d, err := readIn(src, opt, opt.System, false)
	if late, ok := errors.AsType[*lateSystem](err); ok {
		return readIn(src, opt, late.system, true)
	}
	return d, err
}

// readIn reads a document whose coordinates are in a system, which is known for sure or may be named in it.
func readIn(src *format.Source, opt *format.ReadOptions, system *crs.System, known bool) (*nav.Dataset, error) {
	r := &reader{opt: opt, data: &nav.Dataset{}, size: src.Size, path: src.Path, crsKnown: known}
	if !system.WGS84() {
		r.system = system
	}
	r.line.Held = opt.Held
	in := bufio.NewReaderSize(src.Reader(), 64<<10)
	if mark, _ := in.Peek(3); string(mark) == "\xef\xbb\xbf" {
		in.Discard(3)
	}
	r.start(in)
	err := r.object("")
	if err == nil {
		if tail, terr := r.ReadToken(); terr != io.EOF {
			line, col := r.place.at(r.InputOffset())
			if terr == nil && tail.Kind() == '{' {
				return r.data, &format.Error{Path: r.path, Line: line, Col: col, Msg: "a second object follows the first",
					Advice: advice.Advice{Code: advice.AsSequence}}
			}
			r.data.Note(nav.ProblemTrailing, "data after the end of the document were not read", line, col)
		}
	}
	r.tellEncoding()
	return r.data, r.located(err)
}

// tellEncoding notes bytes that are no characters.
func (r *reader) tellEncoding() {
	if r.place.invalid {
		r.data.Note(nav.ProblemEncoding, "is not UTF-8 throughout; what can't be read became \uFFFD", 0, 0)
	}
}

// readSeq reads one text after the other. A text that is not whole is named and left out, as RFC 8142, 2.1
// has it, unless it is the last one.
func readSeq(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	in := bufio.NewReaderSize(src.Reader(), 256<<10)
	separator := byte(recordSeparator)
	if first, err := in.Peek(1); err == nil && first[0] == '{' {
		separator = '\n'
	}
	r := &reader{opt: opt, data: &nav.Dataset{}, size: -1, path: src.Path}
	if !opt.System.WGS84() {
		r.system = opt.System
	}
	r.line.Held = opt.Held
	line := 1
	var failed error
	for {
		text, err := in.ReadBytes(separator)
		last := err == io.EOF
		if err != nil && !last {
			return r.data, src.FaultOf(err)
		}
		begins := line
		line += bytes.Count(text, []byte{'\n'})
		text = bytes.TrimSuffix(text, []byte{separator})
		if len(bytes.TrimSpace(text)) > 0 {
			if failed != nil {
				x, _ := errors.AsType[*format.Error](failed)
				r.data.Rejects = append(r.data.Rejects, nav.Reject{Why: "is an incomplete text: " + x.Msg, Line: x.Line,
					Col: x.Col})
			}
			r.start(bytes.NewReader(text))
			r.place.line = begins - 1
			failed = r.located(r.object(""))
			if r.tellEncoding(); failed != nil {
				if _, ok := errors.AsType[*format.Error](failed); !ok {
					return r.data, failed
				}
			}
		}
		if last {
			return r.data, failed
		}
	}
}

// located gives an error of the decoder its line and column.
func (r *reader) located(err error) error {
	if err == nil {
		return nil
	}
	if _, ok := errors.AsType[*format.Error](err); ok {
		return err
	}
	if _, ok := errors.AsType[*lateSystem](err); ok {
		return err
	}
	out := &format.Error{Path: r.path}
	if errors.Is(err, io.ErrUnexpectedEOF) || err == io.EOF {
		out.Line, out.Col = r.place.at(r.place.read)
		out.Msg, out.Cut = "the file is cut off", true
		return out
	}
	if x, ok := errors.AsType[*jsontext.SyntacticError](err); ok {
		out.Line, out.Col = r.place.at(x.ByteOffset)
		out.Msg = "is not valid JSON: " + strings.TrimPrefix(x.Err.Error(), "jsontext: ")
		if strings.Contains(out.Msg, "max depth") {
			out.Msg = "values are nested too deeply"
		}
		return out
	}
	out.Msg, out.Err = strings.TrimPrefix(err.Error(), "jsontext: read error: "), err
	return out
}

func (r *reader) fault(offset int64, text string, args ...any) error {
	line, col := r.place.at(offset)
	return &format.Error{Path: r.path, Line: line, Col: col, Msg: fmt.Sprintf(text, args...)}
}

// tooDeep is the fault of what nests beyond the limit.
func (r *reader) tooDeep(what string) error {
	line, col := r.place.at(r.InputOffset())
	return &format.Error{Path: r.path, Line: line, Col: col, Advice: advice.Advice{Code: advice.AllowNesting},
		Msg: fmt.Sprintf("%s are nested more than %d deep", what, r.opt.Nesting())}
}

// members calls visit with the name of each member of the object that comes next; visit reads its value.
func (r *reader) members(visit func(name string) error) error {
	return r.all('{', '}', "an object", "objects", func() error {
		tok, err := r.ReadToken()
		if err != nil {
			return err
		}
		return visit(tok.String())
	})
}

// elements calls visit at each element of the array that comes next.
func (r *reader) elements(visit func() error) error { return r.all('[', ']', "a list", "lists", visit) }

// all calls visit at each thing between two signs.
func (r *reader) all(begin, end jsontext.Kind, one, many string, visit func() error) error {
	switch k := r.PeekKind(); {
	case k == 'n':
		return r.SkipValue()
	case k != 0 && k != begin:
		return r.fault(r.InputOffset(), "%s belongs here", one)
	}
	if _, err := r.ReadToken(); err != nil {
		return err
	}
	if r.StackDepth() > r.opt.Nesting() {
		return r.tooDeep(many)
	}
	for r.PeekKind() != end {
		if err := visit(); err != nil {
			return err
		}
	}
	_, err := r.ReadToken()
	return err
}

// text reads a value that should be a string; any other is given as it is written.
func (r *reader) text() (string, error) {
	if r.PeekKind() == '"' {
		tok, err := r.ReadToken()
		if err != nil {
			return "", err
		}
		return tok.String(), nil
	}
	v, err := r.value()
	if string(v) == "null" {
		return "", err
	}
	return string(v), err
}

// literal reads a value: a string as its text, any other as it is written.
func (r *reader) literal() (string, error) {
	if r.PeekKind() == '"' {
		return r.text()
	}
	v, err := r.value()
	return string(v), err
}

// unread is a member that is not taken, or whose value can't be read.
type unread struct{ name, of string }

func (u unread) String() string {
	return fmt.Sprintf("the member %q of %s is not supported, or can't be read, and was left out", u.name, u.of)
}

// leave notes a member of something that was read and can't be taken.
func (r *reader) leave(name, of string) {
	line, col := r.here()
	r.unread.Note(r.data, unread{name, of}, line, col)
}

// skip passes over the value of a member that is not taken.
func (r *reader) skip(name, of string) error {
	r.leave(name, of)
	_, err := r.value()
	return err
}

// value reads any value as it is written, without allowing it to nest without end.
func (r *reader) value() (jsontext.Value, error) {
	v, err := r.ReadValue()
	if err != nil {
		return nil, err
	}
	depth, deepest, quoted := 0, 0, false
	for i := 0; i < len(v); i++ {
		switch c := v[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '{' || c == '[':
			depth++
			deepest = max(deepest, depth)
		case c == '}' || c == ']':
			depth--
		}
	}
	if deepest+r.StackDepth() > r.opt.Nesting() {
		return nil, r.tooDeep("values")
	}
	return v.Clone(), nil
}

// feature is what is gathered of one object before its items are made: any of the standard's types.
type feature struct {
	nav.Item
	typ        string
	geometries []geometry
	times      scratch.List[format.Moment] // of a line's points
	points     ownPoints
	when       nav.Point
	whenText   string  // as it was written, and
	whenAt     int     // before which field
	exact      bool    // its properties mean what our own words say, and no others
	ours       bool    // its properties of the simple style were added by us
	simple     *simple // nil is none
	kind       string
	partOf     string
	file       nav.Meta // what is said of the whole
}

// untimed is the item of a line or an area, which has no time: there it is a field like others.
func (f *feature) untimed() nav.Item {
	it := f.Item
	if f.whenText != "" {
		it.Fields = slices.Insert(slices.Clone(it.Fields), f.whenAt, nav.Field{Key: "time", Value: f.whenText})
	}
	return it
}

// object reads a feature collection, a feature or a geometry. Members may come in any order, so the type is
// only known at the end.
func (r *reader) object(parent string) error {
	f := &feature{}
	began := r.InputOffset()
	var g geometry
	collection := false
	err := r.members(func(name string) error {
		switch name {
		case "type":
			var err error
			f.typ, err = r.text()
			return err
		case "features":
			collection = true
			return r.elements(func() error { return r.object("FeatureCollection") })
		case "geometry":
			return r.geometry(f)
		case "coordinates":
			return r.coordinates(&g)
		case "geometries":
			return r.elements(func() error { return r.geometry(f) })
		case "properties":
			return r.properties(f)
		case "gyrolith":
			return r.ownMember(f)
		case "bbox":
			return r.SkipValue() // worked out from the data
		case "crs":
			return r.oldCRS()
		}
		v, err := r.value()
		if err != nil {
			return err
		}
		k := nav.Kept{Format: "geojson", Where: name, Text: string(v)}
		if name == "id" && f.typ != "FeatureCollection" && !(parent == "" && collection) && f.identify(v) {
			return nil
		}
		if parent == "" && (collection || f.typ == "FeatureCollection") {
			r.data.Meta.Kept = append(r.data.Meta.Kept, k)
		} else {
			f.Kept = append(f.Kept, k)
		}
		return nil
	})
	if g.depth > 0 {
		g.typ = f.typ
		f.geometries = append(f.geometries, g)
	}
	if collection {
		if err == nil && f.typ != "FeatureCollection" {
			r.leave("type", "the collection")
		}
		r.data.Meta.Kept = append(r.data.Meta.Kept, f.Kept...)
		r.otherWords(f, true)
		r.describe(f)
		return err
	}
	if err == nil && f.typ == "" {
		return r.fault(began, "an object without a \"type\"")
	}
	if err == nil && !slices.Contains(typeWords, f.typ) {
		r.leave("type", "an object")
	}
	if err != nil && len(f.geometries) == 0 {
		return err
	}
	if err == nil && len(f.geometries) == 0 && f.typ == "Feature" {
		r.fromProperties(f)
	}
	if err == nil && len(f.geometries) == 0 && f.typ != "FeatureCollection" {
		line, col := r.place.at(r.InputOffset())
		r.data.Note(nav.ProblemPlaces, "a feature without a position was left out", line, col)
		return nil
	}
	r.otherWords(f, false)
	if f.ours {
		f.edited(r.data, f.kindOf())
	}
	if !f.exact {
		r.others(f)
		f.styled()
	}
	r.items(f, err != nil)
	return err
}

// here is where the reader is.
func (r *reader) here() (line, col int) { return r.place.at(r.InputOffset()) }

// describe takes the file's description from the collection's own member.
func (r *reader) describe(f *feature) {
	m := &r.data.Meta
	kept := m.Kept
	*m = f.file
	m.Name, m.Desc, m.Links, m.Kept = f.Name, f.Desc, f.Links, kept
}

func (r *reader) properties(f *feature) error {
	return r.members(func(name string) error {
		literal := r.PeekKind() != '"'
		switch name {
		case "name", "description", "group", "time":
			if !literal || r.PeekKind() == '0' && name != "time" { // a name may be a number
				text, err := r.text()
				var first *string
				switch name {
				case "name":
					first = &f.Name
				case "description":
					first = &f.Desc
				case "group":
					first = &f.Group
				}
				switch {
				case first != nil && *first == "":
					*first = text
				case first != nil || f.when.HasTime(): // a member that stands twice: what came first stays
					f.Fields = append(f.Fields, nav.Field{Key: name, Value: text})
				default:
					ns, mark, _, ok := instant.Parse([]byte(text), r.opt.Zone)
					format.DoubtTime(r.data, []byte(text), r.opt.Zone, r.here)
					if ok {
						f.when.SetTime(ns, mark)
						f.whenText, f.whenAt = text, len(f.Fields)
					} else {
						f.Fields = append(f.Fields, nav.Field{Key: name, Value: text})
					}
				}
				return err
			}
		}
		if !literal {
			text, err := r.text()
			f.Fields = append(f.Fields, nav.Field{Key: name, Value: text, Text: true})
			return err
		}
		v, err := r.value()
		f.Fields = append(f.Fields, nav.Field{Key: name, Value: string(v), Literal: true})
		return err
	})
}

// numericID is what is kept of an id that is a number and no text.
const numericID = "numeric id"

// identify takes the id of a feature (RFC 7946, 3.2): a text or a number. It says whether it is one.
func (f *feature) identify(v jsontext.Value) bool {
	switch v.Kind() {
	case '"':
		text, err := jsontext.AppendUnquote(nil, v)
		f.ID = string(text)
		return err == nil && f.ID != ""
	case '0':
		f.ID = string(v)
		f.Kept = append(f.Kept, nav.Kept{Format: "geojson", Where: numericID, Free: true})
		return true
	}
	return false
}
