// Package gpx reads and writes GPX, the GPS Exchange Format: versions 1.0 and 1.1 in, 1.1 out
// (www.topografix.com/GPX/1/1, gpx.xsd).
package gpx

import (
	"bytes"
	"errors"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/holds"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Format is GPX in the registry.
var Format = &format.Format{
	Name:       "gpx",
	Title:      "GPX 1.0 and 1.1 (written as 1.1)",
	Extensions: []string{".gpx"},
	Brief:      "waypoints, routes, tracks; areas as marked closed tracks",
	Sniff:      func(h *format.Head) bool { return h.Root.Local == "gpx" },
	Read:       read,
	Write:      write,
	Holds:      format.Plainly(declaration),
	Keeps:      "gpx",
}

// declaration says what GPX holds, with Gyrolith's extension.
var declaration = &holds.Declaration{
	Noun:  "GPX",
	Trims: true,
	Holds: holds.Places{
		holds.Waypoint:   holds.Everything(holds.Waypoint).But(holds.TimePrecision),
		holds.Route:      holds.Everything(holds.Route),
		holds.RoutePoint: holds.Everything(holds.RoutePoint).But(holds.TimePrecision),
		holds.Track:      holds.Everything(holds.Track),
		holds.TrackPoint: holds.Everything(holds.TrackPoint).But(holds.TimePrecision),
		holds.Area:       holds.Everything(holds.Area).But(holds.TimePrecision),
		holds.File:       holds.Everything(holds.File).But(holds.Attachments, holds.TimePrecision),
	},
	Datums: []nav.VerticalDatum{nav.MeanSeaLevel}, // by custom an <ele> is above the sea
}

const (
	space10    = "http://www.topografix.com/GPX/1/0"
	space11    = "http://www.topografix.com/GPX/1/1"
	spaceStyle = "http://www.topografix.com/GPX/gpx_style/0/2"
)

// qualityKeys are the elements of a point that Gyrolith holds as fields, in the schema's order after <type>.
var qualityKeys = []string{"fix", "sat", "hdop", "vdop", "pdop", "ageofdgpsdata", "dgpsid"}

type reader struct {
	*xmlscan.Scanner
	src    *format.Source
	opt    *format.ReadOptions
	data   *nav.Dataset
	line   format.Collector
	clock  instant.Clock
	spaces []nav.Space // the last set of prefixes that a kept piece needed, to share it
	own    string      // the namespace of the document element, whatever it is
	wholes format.Wholes

	scope      [2][]byte // the prefixes of the last segment, and room for those of this one
	extensions extensions
	forms      []form
	rests      rests

	// of the point that was read in one step:
	values []nav.FormValue // those of its own elements
	texts  [][]byte        // of these, and the numbers of its extensions
	shape  *shape          // of its extensions; nil is without
	same   int             // the index of the detail of one that has the same; -1 is none
	rest   string          // the text behind its height and time, where that may come again
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{src: src, opt: opt, data: &nav.Dataset{}}
	r.line.Held = opt.Held
	err := r.document()
	format.TellEncoding(r.Scanner, r.data)
	return r.data, r.located(err)
}

func (r *reader) located(err error) error {
	if x, ok := errors.AsType[*xmlscan.Error](err); ok {
		return &format.Error{Path: r.src.Path, Line: x.Line, Col: x.Col, Msg: x.Msg, Cut: x.Cut, Advice: x.Advice}
	}
	return err
}

func (r *reader) document() (err error) {
	if r.Scanner, err = xmlscan.New(r.src.Reader(), xmlscan.Limits{Depth: r.opt.Nesting(), Size: r.src.Size}); err != nil {
		return err
	}
	format.TellUnread(r.Scanner, r.data)
	if err := r.Root("gpx"); err != nil {
		return err
	}
	r.PassAttr("version", "creator") // which are those of the program that writes
	if r.Local() != "gpx" {
		return r.Errorf("the outermost element is <%s>, not <gpx>", r.Local())
	}
	r.own = r.Name().Space
	if err := r.Children(r.topLevel); err != nil {
		return err
	}
	if line, col, found := r.Trailing(); found {
		r.data.Note(nav.ProblemTrailing, "data after the end of the document were not read", line, col)
	}
	return nil
}

func (r *reader) text(dst *string) error { return format.Once(r.Scanner, r.data, dst) }

func (r *reader) topLevel(local string) error {
	m := &r.data.Meta
	if r.foreign() {
		return r.keep(&m.Kept, "", nil)
	}
	switch local {
	case "wpt":
		return r.appendWaypoint(&r.data.Waypoints, nav.Waypoints, "", 0)
	case "rte":
		return r.route()
	case "trk":
		return r.track()
	case "metadata":
		return r.Children(r.metadata)
	case "extensions":
		return r.Children(func(string) error { return r.keep(&m.Kept, "", nil) })
	}
	return r.metadata(local)
}

func (r *reader) metadata(local string) error {
	m := &r.data.Meta
	switch local {
	case "name":
		return r.text(&m.Name)
	case "desc":
		return r.text(&m.Desc)
	case "keywords":
		return r.text(&m.Keywords)
	case "email":
		return r.text(&m.AuthorEmail)
	case "time":
		text, err := r.Leaf()
		if err == nil {
			r.setTime(&m.Time, text)
		}
		return err
	case "author":
		return r.author()
	case "copyright":
		m.Copyright = r.AttrString("author")
		return r.Children(func(local string) error {
			switch local {
			case "year":
				return r.text(&m.CopyrightYear)
			case "license":
				return r.text(&m.Licence)
			}
			return r.Skip()
		})
	case "link":
		return r.link(&m.Links)
	case "url", "urlname":
		return r.oldLink(&m.Links, local)
	case "extensions":
		return r.Children(func(string) error { return r.keep(&m.Kept, "metadata", nil) })
	case "bounds": // worked out again when written
		return r.Pass()
	}
	return r.keep(&m.Kept, "metadata", nil)
}

// author is a name alone in 1.0, a person in 1.1.
func (r *reader) author() error {
	m := &r.data.Meta
	var text []byte
	for {
		kind, err := r.Next()
		if err != nil {
			return err
		}
		switch kind {
		case xmlscan.Text:
			text = append(text, r.Text()...)
		case xmlscan.End:
			if name := r.String(bytes.TrimSpace(text)); m.Author == "" {
				m.Author = name
			} else {
				r.LeafUntaken(name)
			}
			return nil
		case xmlscan.Start:
			switch r.Local() {
			case "name":
				err = r.text(&m.Author)
			case "email":
				id, domain := r.AttrString("id"), r.AttrString("domain")
				if m.AuthorEmail == "" && (id != "" || domain != "") {
					m.AuthorEmail = id + "@" + domain
				} else {
					r.LeaveAttr("id")
				}
				err = r.Empty()
			case "link":
				err = r.link(&m.AuthorLinks)
			default:
				err = r.Skip()
			}
			if err != nil {
				return err
			}
		}
	}
}

func (r *reader) link(links *[]nav.Link) error {
	l := nav.Link{Href: r.AttrString("href")}
	err := r.Children(func(local string) error {
		switch local {
		case "text":
			return r.text(&l.Text)
		case "type":
			return r.text(&l.Type)
		}
		return r.Skip()
	})
	if l != (nav.Link{}) {
		*links = append(*links, l)
	}
	return err
}

// oldLink reads the url and urlname of 1.0, which make one link.
func (r *reader) oldLink(links *[]nav.Link, local string) error {
	text, err := r.LeafString()
	if text == "" {
		return err
	}
	at := func(l *nav.Link) *string {
		if local == "url" {
			return &l.Href
		}
		return &l.Text
	}
	if n := len(*links); n == 0 || *at(&(*links)[n-1]) != "" {
		*links = append(*links, nav.Link{})
	}
	*at(&(*links)[len(*links)-1]) = text
	return err
}

// foreign says whether the current element is of a namespace that is not GPX's.
func (r *reader) foreign() bool {
	s := r.Name().Space
	return s != r.own && s != space11 && s != space10 && s != ""
}

// keep stores the current element as it is written.
func (r *reader) keep(to *[]nav.Kept, where string, visit func(string, []byte)) error {
	text, used, err := r.Capture(visit)
	if err != nil {
		return err
	}
	spaces := make([]nav.Space, len(used))
	for i, u := range used {
		spaces[i] = nav.Space(u)
	}
	if slices.Equal(spaces, r.spaces) {
		spaces = r.spaces
	} else {
		r.spaces = spaces
	}
	*to = append(*to, nav.Kept{Format: "gpx", Where: where, Text: text, Spaces: spaces, Data: where == ""})
	return nil
}

// reject notes a position that can't be used.
func (r *reader) reject(kind nav.Kind, name string, number int, line, col int, raw, why string) {
	x := nav.Reject{Kind: kind, Name: name, Number: number, Raw: raw, Why: why, Line: line, Col: col}
	if last := r.line.Last(); kind == nav.Tracks && last != nil {
		x.Near, x.HasNear = *last, true
	}
	r.data.Rejects = append(r.data.Rejects, x)
}

func (r *reader) setTime(p *nav.Point, text []byte) {
	if p.HasTime() {
		line, col := r.Pos()
		r.data.Note(nav.ProblemTimes, "a second time of a point was left out", line, col)
		return
	}
	format.SetTime(p, text, &r.clock, r.opt, r.data, r.Pos)
}

func (r *reader) setHeight(p *nav.Point, text []byte) {
	v, digits, ok := decimal.Parse(text)
	if !ok {
		if len(bytes.TrimSpace(text)) > 0 {
			line, col := r.Pos()
			r.data.Note(nav.ProblemHeights, "a height that is not a number was left out", line, col)
		}
		return
	}
	if p.HasHeight() {
		line, col := r.Pos()
		r.data.Note(nav.ProblemHeights, "a second height of a point was left out", line, col)
		return
	}
	p.SetHeight(v, digits, nav.DatumUnstated)
}
