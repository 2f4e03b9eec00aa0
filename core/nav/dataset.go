// Package nav holds the data that every other part works on: waypoints, routes, tracks and areas with their groups,
// styles and fields, and the ledger of what a step changed.
package nav

import (
	"fmt"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/scratch"
)

// Kind is one of the four kinds of item.
type Kind uint8

// The kinds, in the order in which they are listed.
const (
	Waypoints Kind = iota
	Routes
	Tracks
	Areas
)

// Kinds lists all kinds in order.
var Kinds = [...]Kind{Waypoints, Routes, Tracks, Areas}

var kindWords = [...][2]string{{"waypoint", "waypoints"}, {"route", "routes"}, {"track", "tracks"}, {"area", "areas"}}

// One is the word for a single item of the kind.
func (k Kind) One() string { return kindWords[k][0] }

func (k Kind) String() string { return kindWords[k][1] }

// ParseKind reads the word for a kind, singular or plural.
func ParseKind(word string) (Kind, bool) {
	for _, k := range Kinds {
		if word == k.One() || word == k.String() {
			return k, true
		}
	}
	return 0, false
}

// Dataset is all that one or several files hold.
type Dataset struct {
	Meta      Meta
	Waypoints []Waypoint
	Routes    []Route
	Tracks    []Track
	Areas     []Area
	Rejects   []Reject  // positions that could not be used, with their raw text
	Problems  []Problem // what the reader met and could not keep or had to guess
	Origin    string    // the path of the file; "" of several
	Shifted   string    // the datum whose positions a shift that was given brought to WGS 84; "" is none
}

// Meta describes the file as a whole.
type Meta struct {
	Name, Desc, Author, AuthorEmail, Copyright, CopyrightYear, Licence, Keywords string
	AuthorLinks, Links                                                           []Link
	Time                                                                         Point // only its time counts
	Kept                                                                         []Kept
	Attachments                                                                  []Attachment
	Version                                                                      string // of its format, such as rtz:1.2
}

// Blank says whether nothing describes the file.
func (m *Meta) Blank() bool {
	return m.Name == "" && m.Desc == "" && m.Author == "" && m.AuthorEmail == "" && m.Copyright == "" &&
		m.CopyrightYear == "" && m.Licence == "" && m.Keywords == "" && len(m.Links) == 0 &&
		len(m.AuthorLinks) == 0 && !m.Time.HasTime()
}

// Attachment is a file that came in the same archive, such as an icon.
type Attachment struct {
	Name   string
	Data   []byte
	Beside bool // it stands beside the source, as a file of its own, and stays there
}

// OnlyHere says whether an attachment stands nowhere else than with the data.
func (a Attachment) OnlyHere() bool { return !a.Beside }

// Item is what all kinds have in common.
type Item struct {
	ID                                string // the source's own identity, which lasts; "" where it has none
	Name, Comment, Desc, Source, Type string
	Number                            string // a route's or track's own number
	Group                             string // the path of its folders, separated by slashes; "" is the root
	Links                             []Link
	Style                             Style
	Fields                            []Field
	Kept                              []Kept
	Whole                             *Whole  // of which the item is one of several parts; nil is of none
	Titles                            *Titles // what its table calls the columns of its properties; nil is nothing
	Origin                            *string // the path of its file, where the data are of several; nil is the data's own
}

// From gives the path of the file that an item is of.
func (it *Item) From(d *Dataset) string {
	if it.Origin != nil {
		return *it.Origin
	}
	return d.Origin
}

// Whole is one feature of a source that is several items of one kind, such as a multi-polygon. Items that follow each
// other and share it are its parts.
type Whole struct{ _ byte }

// Link is a reference to a document about an item.
type Link struct{ Href, Text, Type string }

// Field is an extra value of an item, in the order of its source.
type Field struct {
	Key, Value string
	Literal    bool // the value is a number, truth value, list or object as JSON writes it, not a text
	Text       bool // the source says that the value is a text, whatever it looks like
}

// Get finds a field by its key.
func Get(fields []Field, key string) (string, bool) {
	for i := range fields {
		if fields[i].Key == key {
			return fields[i].Value, true
		}
	}
	return "", false
}

// Kept is a piece of a format that Gyrolith does not understand, kept for writing the same format again.
type Kept struct {
	Format string // the name of the format that understands it
	Where  string // its place among the parent's children, in the format's own terms; "" is the usual one
	Text   string
	Spaces []Space // namespace prefixes that the text uses and does not declare
	Data   bool    // XML whose texts and attributes are values that other formats may hold as fields
	Free   bool    // no loss where it can't be kept: the data say it too, or it is how one program shows them
}

// Space is a namespace prefix and its address.
type Space struct{ Prefix, URI string }

// Colour is an sRGB colour; the zero value means that none is set.
type Colour struct {
	R, G, B, A uint8
	Set        bool
}

// RGB gives an opaque colour.
func RGB(r, g, b uint8) Colour { return Colour{r, g, b, 255, true} }

// Style says how an item is to look. Zero values are unset.
type Style struct {
	Symbol    string  // the symbol's name, as the source spells it
	Icon      string  // a picture's address
	IconScale float64 // 1 is the usual size
	Colour    Colour  // of the line, or of a waypoint's icon
	Width     float64 // of the line, in pixels
	Fill      Colour
	NoFill    bool // the area is an outline only
	NoOutline bool
}

// Waypoint is a named position, on its own or as a point of a route.
type Waypoint struct {
	Item
	Point
	Exact string // "lat lon" as the source wrote them, where float64 can't repeat all of their digits
}

// Route is an ordered list of waypoints to navigate by.
type Route struct {
	Item
	Points []Waypoint
}

// Segment is an unbroken part of a track. What its points have besides position, height and time is asked of it.
type Segment struct {
	Points []Point
	Kept   []Kept

	details *details
}

// Track is a line that was recorded or drawn.
type Track struct {
	Item
	Segments []Segment
}

// Len counts the points of all segments.
func (t *Track) Len() (n int) {
	for i := range t.Segments {
		n += len(t.Segments[i].Points)
	}
	return
}

// Area is a closed outline with optional holes. A ring does not repeat its first point.
type Area struct {
	Item
	Outline []Point
	Holes   [][]Point
	Open    bool // a ring of the source did not end where it begins, and was closed on reading
	Flawed  bool // rings cross, or a hole lies outside: nobody can say how large it is
}

// AreasOf makes areas of outlines and their holes, which have the item of another one. Several are parts of one
// feature.
func AreasOf(of *Area, polygons [][][]Point) (out []Area) {
	item := of.Item
	if len(polygons) > 1 && item.Whole == nil {
		item.Whole = &Whole{}
	}
	for _, rings := range polygons {
		out = append(out, Area{Item: item, Outline: rings[0], Holes: rings[1:]})
	}
	return
}

// Rings lists the outline and then the holes.
func (a *Area) Rings() [][]Point { return append([][]Point{a.Outline}, a.Holes...) }

// Len counts the points of all rings.
func (a *Area) Len() int {
	n := len(a.Outline)
	for _, h := range a.Holes {
		n += len(h)
	}
	return n
}

// Reject is a position that could not be used, and was left out.
type Reject struct {
	Kind    Kind
	Name    string // of the item that it belongs to
	Number  int    // of the point in its item, from 1; 0 for a waypoint
	Raw     string // as the source has it
	Why     string
	Line    int
	Col     int
	Near    Point // the last good point before it, where HasNear says so
	HasNear bool
	Advice  advice.Advice
}

// Problem is something that a reader met: what sort of thing, how often, and in words.
type Problem struct {
	Code   ProblemCode
	Count  int
	Text   string
	Line   int // of the first place; 0 where there is none
	Col    int
	Info   bool // how the file was read, which is no fault
	Advice advice.Advice
}

// ProblemCode is one sort of problem.
type ProblemCode string

// The sorts of problems that readers tell of.
const (
	ProblemBearings ProblemCode = "bearings"

	ProblemChoice         ProblemCode = "choice" // what was asked for and is not there
	ProblemColumns        ProblemCode = "columns"
	ProblemContradiction  ProblemCode = "contradictory" // what a file says of itself is not so
	ProblemDamaged        ProblemCode = "damaged"
	ProblemEncoding       ProblemCode = "encoding"
	ProblemFixes          ProblemCode = "fixes"
	ProblemHeights        ProblemCode = "heights"
	ProblemLeftOut        ProblemCode = "left out"
	ProblemLines          ProblemCode = "lines"
	ProblemNames          ProblemCode = "names"
	ProblemPlaces         ProblemCode = "places"
	ProblemPictures       ProblemCode = "pictures"
	ProblemRows           ProblemCode = "rows"
	ProblemSameRecordings ProblemCode = "same recordings"
	ProblemSheets         ProblemCode = "sheets"
	ProblemStyles         ProblemCode = "styles"
	ProblemSums           ProblemCode = "sums"
	ProblemSuspicious     ProblemCode = "suspicious"
	ProblemSystem         ProblemCode = "system"
	ProblemTimes          ProblemCode = "times"
	ProblemTrailing       ProblemCode = "trailing"
	ProblemZones          ProblemCode = "zones"

	// of areas
	ProblemCrossings ProblemCode = "crossings"
	ProblemOpenRings ProblemCode = "open-rings"
	ProblemBadHoles  ProblemCode = "bad-holes"
	ProblemNoSize    ProblemCode = "no size"
	ProblemSameAreas ProblemCode = "same areas"
	ProblemWinding   ProblemCode = "winding"
)

// Grave says whether a problem of this sort means that something of the input is missing or may be wrong.
func (c ProblemCode) Grave() bool {
	switch c {
	case ProblemLeftOut, ProblemPlaces, ProblemSuspicious, ProblemChoice, ProblemContradiction, ProblemCrossings,
		ProblemOpenRings, ProblemBadHoles:
		return true
	}
	return false
}

// Advise says what the user can do about the problem.
func (p *Problem) Advise(code advice.Code) { p.Advice = advice.Advice{Code: code} }

// AdviseAbout says what the user can do, and with what.
func (p *Problem) AdviseAbout(code advice.Code, arg string) {
	p.Advice = advice.Advice{Code: code, Arg: arg}
}

// Note counts a problem under its code and text; the first place is kept.
func (d *Dataset) Note(code ProblemCode, text string, line, col int) *Problem {
	for i := range d.Problems {
		if p := &d.Problems[i]; p.Code == code && p.Text == text {
			p.Count++
			return p
		}
	}
	d.Problems = append(d.Problems, Problem{Code: code, Count: 1, Text: text, Line: line, Col: col})
	return &d.Problems[len(d.Problems)-1]
}

// Contradict notes that what a file says of itself is not so.
func (d *Dataset) Contradict(text string, args ...any) {
	d.Note(ProblemContradiction, fmt.Sprintf(text, args...), 0, 0)
}

// Tell says how a file was read, where that had to be checked.
func (d *Dataset) Tell(code ProblemCode, text string) *Problem {
	d.Problems = append(d.Problems, Problem{Code: code, Count: 1, Text: text, Info: true})
	return &d.Problems[len(d.Problems)-1]
}

// Counts gives the number of items of each kind.
func (d *Dataset) Counts() [4]int {
	return [4]int{len(d.Waypoints), len(d.Routes), len(d.Tracks), len(d.Areas)}
}

// Clone copies the items and their points, so that a selection or a step may work on the copy. What no step changes in
// place is shared.
func (d *Dataset) Clone() *Dataset {
	c := *d
	c.Waypoints = slices.Clone(d.Waypoints)
	c.Routes = slices.Clone(d.Routes)
	for i := range c.Routes {
		c.Routes[i].Points = slices.Clone(c.Routes[i].Points)
	}
	c.Tracks = slices.Clone(d.Tracks)
	for i := range c.Tracks {
		c.Tracks[i].Segments = slices.Clone(c.Tracks[i].Segments)
		for j := range c.Tracks[i].Segments {
			c.Tracks[i].Segments[j].Own()
		}
	}
	c.Areas = slices.Clone(d.Areas)
	for i := range c.Areas {
		a := &c.Areas[i]
		a.Outline, a.Holes = slices.Clone(a.Outline), slices.Clone(a.Holes)
		for j := range a.Holes {
			a.Holes[j] = slices.Clone(a.Holes[j])
		}
	}
	c.Rejects, c.Problems = slices.Clone(d.Rejects), slices.Clone(d.Problems)
	return &c
}

// manyPoints is from how many on a copy of points is made in scratch room.
const manyPoints = 1 << 20

func clonePoints(points []Point) []Point {
	if len(points) > manyPoints {
		if room, err := scratch.Of[Point](len(points)); err == nil {
			room = room[:0:len(points)]
			for block := range scratch.Blocks(points) {
				room = append(room, block...)
			}
			return room
		}
	}
	return slices.Clone(points)
}

// Points counts all positions.
func (d *Dataset) Points() int {
	n := len(d.Waypoints)
	for i := range d.Routes {
		n += len(d.Routes[i].Points)
	}
	for i := range d.Tracks {
		n += d.Tracks[i].Len()
	}
	for i := range d.Areas {
		n += d.Areas[i].Len()
	}
	return n
}

// Each visits what is common to every item, kind by kind in their order.
func (d *Dataset) Each(visit func(Kind, *Item)) {
	for i := range d.Waypoints {
		visit(Waypoints, &d.Waypoints[i].Item)
	}
	for i := range d.Routes {
		visit(Routes, &d.Routes[i].Item)
	}
	for i := range d.Tracks {
		visit(Tracks, &d.Tracks[i].Item)
	}
	for i := range d.Areas {
		visit(Areas, &d.Areas[i].Item)
	}
}
