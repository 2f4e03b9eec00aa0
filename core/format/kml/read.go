// Package kml reads KML 2.0 to 2.3 and KMZ, and writes 2.2 and 2.3 (OGC 07-147r2 and OGC 12-007r2), with
// the timed tracks of the 2.2 extension namespace.
package kml

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Format is KML in the registry.
var Format = &format.Format{
	Name:       "kml",
	Title:      "KML 2.0 to 2.3 (writes 2.2 or kml:2.3)",
	Extensions: []string{".kml"},
	Brief:      "waypoints, tracks, areas, groups, styles; routes as marked lines",
	Sniff:      func(h *format.Head) bool { return isRoot(h.Root) },
	Read: func(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
		d, err := readFrom(src.Reader(), src.Size, src.Path, opt)
		attachBeside(src, d)
		return d, err
	},
	Write:    write,
	Holds:    format.Plainly(declaration("KML").Without(holds.File, holds.Attachments)),
	Shapes:   format.SoundRings,
	Keeps:    "kml",
	Icons:    format.IconData,
	Versions: []string{"2.2", "2.3"},
}

// declaration says what KML and KMZ hold, with Gyrolith's extension.
func declaration(noun string) *holds.Declaration {
	return &holds.Declaration{
		Noun:  noun,
		Trims: true,
		Holds: holds.Places{
			holds.Waypoint:   holds.Everything(holds.Waypoint),
			holds.Route:      holds.Everything(holds.Route).But(holds.Empty),
			holds.RoutePoint: holds.Everything(holds.RoutePoint),
			holds.Track:      holds.Everything(holds.Track).But(holds.Empty),
			holds.TrackPoint: holds.Everything(holds.TrackPoint),
			holds.Area:       holds.Everything(holds.Area).But(holds.Empty, holds.Time, holds.TimePrecision),
			holds.File:       holds.Everything(holds.File),
		},
		Datums: []nav.VerticalDatum{nav.MeanSeaLevel, nav.AboveGround}, // of altitude modes (9.20)
	}
}

func isRoot(n xmlscan.Name) bool {
	switch n.Local {
	case "kml":
		return true
	case "Document", "Folder", "Placemark":
		return n.Space == "" || strings.Contains(n.Space, "/kml/")
	}
	return false
}

type reader struct {
	*xmlscan.Scanner
	opt    *format.ReadOptions
	data   *nav.Dataset
	size   int64
	group  string
	line   format.Collector
	clock  instant.Clock
	styles map[string]*style
	links  map[string]string // of style maps to their normal style
	lit    map[string]highlight
	wants  []styled

	types   map[string]map[string]string // of fields, by the addresses of schemas
	drawn   *[]nav.Kept                  // where it is kept how the geometry of the placemark is drawn
	heights bool                         // of the placemark are above the sea, as our own extension says
	wholes  format.Wholes
	linked  *linked // the documents of an archive that links lead to; nil where there is no archive
}

// styled is an item that waits for the shared styles, which may come after it.
type styled struct {
	kind   nav.Kind
	index  int
	url    string
	inline *style
	lit    highlight
}

// readFrom reads KML from a stream of the given size (-1 if unknown); path is for messages.
func readFrom(in io.Reader, size int64, path string, opt *format.ReadOptions) (*nav.Dataset, error) {
	return readLinked(in, size, path, opt, nil)
}

func readLinked(in io.Reader, size int64, path string, opt *format.ReadOptions, links *linked) (*nav.Dataset, error) {
	r := &reader{opt: opt, data: &nav.Dataset{}, size: size, styles: map[string]*style{}, links: map[string]string{},
		types: map[string]map[string]string{}, lit: map[string]highlight{}, linked: links}
	r.line.Held = opt.Held
	err := r.document(in)
	r.resolveStyles()
	r.resolveTypes()
	format.TellEncoding(r.Scanner, r.data)
	if x, ok := errors.AsType[*xmlscan.Error](err); ok {
		err = &format.Error{Path: path, Line: x.Line, Col: x.Col, Msg: x.Msg, Cut: x.Cut, Advice: x.Advice}
	}
	return r.data, err
}

func (r *reader) document(in io.Reader) (err error) {
	if r.Scanner, err = xmlscan.New(in, xmlscan.Limits{Depth: r.opt.Nesting(), Size: r.size}); err != nil {
		return err
	}
	format.TellUnread(r.Scanner, r.data)
	if err := r.Root("kml"); err != nil {
		return err
	}
	if !isRoot(r.Name()) {
		return r.Errorf("the outermost element is <%s>, not <kml>", r.Local())
	}
	if r.Local() == "kml" {
		r.PassAttr("version") // is that of the program that writes
		err = r.Children(r.feature)
	} else {
		err = r.feature(r.Local())
	}
	if err != nil {
		return err
	}
	if line, col, found := r.Trailing(); found {
		r.data.Note(nav.ProblemTrailing, "data after the end of the document were not read", line, col)
	}
	return nil
}

func (r *reader) text(dst *string) error { return format.Once(r.Scanner, r.data, dst) }

// notHeld says in words what Gyrolith can't hold.
var notHeld = map[string]string{
	"NetworkLink":        "a network link (its data are elsewhere; save what it shows to a file)",
	"NetworkLinkControl": "the control of a network link",
	"GroundOverlay":      "a picture laid over the ground",
	"ScreenOverlay":      "a picture laid over the screen",
	"PhotoOverlay":       "a photograph in the landscape",
	"Tour":               "a tour",
	"Model":              "a three-dimensional model",
	"Update":             "an update of another file",
}

func (r *reader) leaveOut(local string) error {
	if local == "NetworkLink" && r.linked != nil {
		return r.networkLink()
	}
	line, col := r.Pos()
	r.data.Note(nav.ProblemLeftOut, notHeld[local]+" was left out: not supported", line, col)
	return r.Pass()
}

// feature reads a container, a placemark, or what stands beside them.
func (r *reader) feature(local string) error {
	switch local {
	case "Document":
		if r.group == "" && r.data.Points() == 0 && r.data.Meta.Blank() && r.Depth() <= 2 {
			return r.rootDocument()
		}
		return r.folder()
	case "Folder":
		return r.folder()
	case "Placemark":
		return r.placemark()
	}
	if notHeld[local] != "" {
		return r.leaveOut(local)
	}
	return r.keep(&r.data.Meta.Kept, "kml")
}

func (r *reader) rootDocument() error {
	return r.Children(func(local string) error {
		switch local {
		case "name":
			return r.text(&r.data.Meta.Name)
		case "description":
			return r.text(&r.data.Meta.Desc)
		case "ExtendedData":
			return r.fileData()
		case "open", "visibility":
			return r.keepFree(&r.data.Meta.Kept, "Document")
		case "Style", "StyleMap", "Document", "Folder", "Placemark", "Schema":
			return r.member(local)
		}
		if notHeld[local] != "" {
			return r.leaveOut(local)
		}
		return r.keep(&r.data.Meta.Kept, "Document")
	})
}

// documentData is where the further data of the document are kept.
const documentData = "Document/ExtendedData"

// fileData reads what our own extension says of the file.
func (r *reader) fileData() error {
	return r.Children(func(local string) error {
		if r.Name().Space != format.Namespace || local != "file" {
			return r.keep(&r.data.Meta.Kept, documentData)
		}
		m := &r.data.Meta
		r.ownWords(func(word, value string) bool { return format.SetOwnFile(m, word, value) })
		return r.Children(func(local string) error {
			to := &m.Links
			switch r.AttrString("of") {
			case "author":
				to = &m.AuthorLinks
			case "":
			default:
				r.LeaveAttr("of")
			}
			return r.ownLink(local, to)
		})
	})
}

func (r *reader) member(local string) error {
	switch local {
	case "Schema":
		return r.schema()
	case "Style":
		return r.sharedStyle()
	case "StyleMap":
		return r.styleMap()
	}
	return r.feature(local)
}

// divisionSlash stands for a slash in a folder's name, since slashes part the folders of a group.
const divisionSlash = "\u2215"

func (r *reader) folder() error {
	outer := r.group
	defer func() { r.group = outer }()
	var early []nav.Kept // what stands before the name
	named := false
	enter := func(name string) {
		if name == "" {
			name = "Folder"
		}
		r.group = strings.ReplaceAll(name, "/", divisionSlash)
		if outer != "" {
			r.group = outer + "/" + r.group
		}
		named = true
		for _, k := range early {
			k.Where = "Folder " + r.group
			r.data.Meta.Kept = append(r.data.Meta.Kept, k)
		}
	}
	return r.Children(func(local string) error {
		if local == "name" && !named {
			var name string
			err := r.text(&name)
			enter(name)
			return err
		}
		switch local {
		case "Style", "StyleMap", "Schema":
			return r.member(local)
		case "open", "visibility":
			if !named {
				return r.keepFree(&early, "")
			}
			return r.keepFree(&r.data.Meta.Kept, "Folder "+r.group)
		}
		if !named { // members before the name are of no folder that could be told
			enter("")
		}
		switch {
		case local == "Document" || local == "Folder" || local == "Placemark":
			return r.feature(local)
		case notHeld[local] != "":
			return r.leaveOut(local)
		}
		return r.keep(&r.data.Meta.Kept, "Folder "+r.group)
	})
}

// keep stores the current element as it is written; where is its place.
func (r *reader) keep(to *[]nav.Kept, where string) error {
	text, used, err := r.Capture(nil)
	if err != nil {
		return err
	}
	k := nav.Kept{Format: "kml", Where: where, Text: text, Data: dataful[where]}
	for _, u := range used {
		k.Spaces = append(k.Spaces, nav.Space(u))
	}
	*to = append(*to, k)
	return nil
}

// dataful are the elements that say something of a placemark beside how it is shown.
var dataful = map[string]bool{timeSpan: true, "address": true, "phoneNumber": true, "Snippet": true}

// plainText is the text of a piece of one element.
func plainText(piece string) string {
	_, rest, _ := strings.Cut(piece, ">")
	text, _, _ := strings.Cut(rest, "<")
	return strings.TrimSpace(text)
}

// keepFree stores what is but how a program shows the data.
func (r *reader) keepFree(to *[]nav.Kept, where string) error {
	err := r.keep(to, where)
	if err == nil {
		(*to)[len(*to)-1].Free = true
	}
	return err
}

// drawing is where it is kept how the geometry of a placemark is drawn.
const drawing = "geometry"

// placemark is what is gathered of one before its items are made.
type placemark struct {
	nav.Item
	when       nav.Point // its TimeStamp
	url        string
	inline     *style
	lit        highlight
	geometries []geometry
	extension  extension
	line, col  int
	rejects    int // how many there were before it
}

func (r *reader) placemark() error {
	p := &placemark{rejects: len(r.data.Rejects)}
	r.heights = false
	p.ID = r.AttrString("id")
	r.drawn = &p.Kept
	p.line, p.col = r.Pos()
	p.Group = r.group
	err := r.Children(func(local string) error {
		switch local {
		case "name":
			return r.text(&p.Name)
		case "description":
			return r.text(&p.Desc)
		case "styleUrl":
			return r.text(&p.url)
		case "Style":
			st, err := r.style()
			p.inline = st
			return err
		case "StyleMap":
			st, url, lit, err := r.pairs()
			p.inline, p.lit = st, lit
			if url != "" {
				p.url = url
			}
			return err
		case "ExtendedData":
			return r.extendedData(p)
		case "TimeStamp":
			return r.Children(func(local string) error {
				if local != "when" {
					return r.Skip()
				}
				text, err := r.Leaf()
				switch {
				case err != nil:
				case p.when.HasTime():
					r.LeafUntaken(string(text))
				default:
					r.setTime(&p.when, text)
				}
				return err
			})
		case "visibility":
			text, err := r.LeafString()
			switch text {
			case "0", "false":
				p.Kept = append(p.Kept, nav.Kept{Format: "kml", Where: "visibility", Text: "<visibility>0</visibility>"})
			case "1", "true", "": // as it is without
			default:
				r.LeafUntaken(text)
			}
			return err
		}
		if isGeometry(local) {
			return r.geometry(local, &p.geometries, p.Name)
		}
		if notHeld[local] != "" {
			return r.leaveOut(local)
		}
		return r.keep(&p.Kept, local)
	})
	if err != nil && len(p.geometries) == 0 {
		return err
	}
	r.items(p)
	return err
}

func (r *reader) setTime(p *nav.Point, text []byte) {
	format.SetTime(p, text, &r.clock, r.opt, r.data, r.Pos)
}

// items makes the waypoints, tracks, routes and areas that a placemark holds.
func (r *reader) items(p *placemark) {
	d := r.data
	p.extension.apply(&p.Item)
	if !p.extension.markup {
		takeBalloon(&p.Item)
	}
	defer func() {
		if left := len(p.extension.points) - p.extension.used; left > 0 {
			d.Note(nav.ProblemLeftOut, format.NoSuchPosition, p.line, p.col).Count += left - 1
		}
	}()
	want := func(kind nav.Kind, index int) {
		r.wants = append(r.wants, styled{kind, index, p.url, p.inline, p.lit})
	}
	if len(p.geometries) == 0 {
		if len(d.Rejects) > p.rejects { // it had one, which is told there
			return
		}
		what := "a placemark without a position was left out"
		if i := slices.IndexFunc(p.Kept, func(k nav.Kept) bool { return k.Where == "address" }); i >= 0 {
			what = fmt.Sprintf("the placemark %q has an address (%s) and no position, and was left out", p.Name,
				plainText(p.Kept[i].Text))
		}
		d.Note(nav.ProblemPlaces, what, p.line, p.col)
		return
	}
	var lines nav.Track
	var missing []format.Missing // of its segments
	var counts [len(nav.Kinds)]int
	for i := range p.geometries {
		g := &p.geometries[i]
		switch g.kind {
		case nav.Waypoints:
			counts[g.kind] += len(g.seg.Points)
		default:
			counts[g.kind]++
		}
	}
	format.Mixed(d, 0, counts[nav.Waypoints] > 0, counts[nav.Tracks] > 0, counts[nav.Areas] > 0)
	var wholes [len(nav.Kinds)]*nav.Whole // of the kinds of which there are several
	for kind, n := range counts {
		if p.extension.partOf != "" {
			wholes[kind] = r.wholes.Find(p.extension.partOf)
		} else if n > 1 {
			wholes[kind] = &nav.Whole{}
		}
	}
	lines.Item = p.Item
	for i := range p.geometries {
		g := &p.geometries[i]
		switch g.kind {
		case nav.Waypoints:
			for j := range g.seg.Points {
				w := nav.Waypoint{Item: p.Item, Point: g.seg.Points[j].Loose()}
				w.Whole = wholes[nav.Waypoints]
				if det := g.seg.Detail(&g.seg.Points[j]); det != nil {
					w.Exact = det.Exact
					w.Fields = append(w.Fields[:len(w.Fields):len(w.Fields)], det.Values...)
				}
				if p.when.HasTime() {
					w.SetTime(p.when.UnixNano(), p.when.TimeMark())
				}
				want(nav.Waypoints, len(d.Waypoints))
				d.Waypoints = append(format.Room(d.Waypoints, r.Passed(), r.size), w)
			}
		case nav.Areas:
			a := nav.Area{Item: p.Item, Outline: g.seg.Points, Holes: g.holes, Open: g.open}
			a.Whole = wholes[nav.Areas]
			a.Fields = append(a.Fields[:len(a.Fields):len(a.Fields)], g.fields...)
			a.Fields = append(a.Fields, validity(p.Kept)...)
			want(nav.Areas, len(d.Areas))
			d.Areas = append(d.Areas, a)
		default:
			lines.Segments, missing = append(lines.Segments, g.seg), append(missing, g.missing)
		}
	}
	if len(lines.Segments) == 0 {
		return
	}
	if p.extension.partOf != "" {
		lines.Whole = wholes[nav.Tracks]
	}
	if p.when.HasTime() && lines.Len() > 0 && !lines.Segments[0].Points[0].HasTime() {
		lines.Fields = append(lines.Fields[:len(lines.Fields):len(lines.Fields)],
			nav.Field{Key: "time", Value: string(p.when.AppendTime(nil))})
	}
	if p.extension.kind == nav.Routes.One() && len(lines.Segments) == 1 {
		want(nav.Routes, len(d.Routes))
		d.Routes = append(format.Room(d.Routes, r.Passed(), r.size), p.extension.route(&lines, missing[0]))
		return
	}
	p.extension.details(&lines, missing)
	want(nav.Tracks, len(d.Tracks))
	d.Tracks = append(format.Room(d.Tracks, r.Passed(), r.size), lines)
}

// validity gives the time that a kept TimeSpan says as the fields of an area.
func validity(kept []nav.Kept) (out []nav.Field) {
	for _, k := range kept {
		if k.Format != "kml" || k.Where != timeSpan {
			continue
		}
		for _, bound := range [...]struct{ tag, key string }{{"begin", nav.FieldFrom}, {"end", nav.FieldUntil}} {
			_, rest, ok := strings.Cut(k.Text, "<"+bound.tag+">")
			value, _, closed := strings.Cut(rest, "</")
			if ok && closed && strings.TrimSpace(value) != "" {
				out = append(out, nav.Field{Key: bound.key, Value: strings.TrimSpace(value)})
			}
		}
	}
	return
}

const timeSpan = "TimeSpan"

// saysValidity says whether a kept TimeSpan says what a field of an area says.
func saysValidity(item *nav.Item, f nav.Field) bool { return slices.Contains(validity(item.Kept), f) }
