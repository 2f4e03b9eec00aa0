package holds

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
	"gyrolith/core/scratch"
)

// namedItems is how many items the ledger names for one property; those beyond are one line more.
const namedItems = 10_000

// Losses compares what a dataset has with what is declared, and gives the ledger of what is not held. Keeps is the word
// under which the format's own details are kept.
func (c *Declaration) Losses(d *nav.Dataset, keeps string) nav.Ledger {
	w := &weighing{Declaration: c, keeps: keeps, same: map[sameLoss]*naming{}}
	w.file(&d.Meta)
	for i := range d.Waypoints {
		p := &d.Waypoints[i]
		w.begin()
		w.point(Waypoint, p.Name, p)
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		if w.line(Route, &r.Item, RouteUses(r)) {
			for j := range r.Points {
				w.point(RoutePoint, r.Name, &r.Points[j])
			}
		}
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		if w.line(Track, &t.Item, TrackUses(t)) {
			for j := range t.Segments {
				w.segment(t.Name, &t.Segments[j])
			}
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		if w.line(Area, &a.Item, AreaUses(a)&^(fix)) {
			for _, ring := range a.Rings() {
				w.points(Area, a.Name, ring)
			}
		}
	}
	w.rounding()
	return w.ledger
}

type sameLoss struct {
	at Place
	of string
}

// naming is how many items were named, and where the line for the others is.
type naming struct {
	named      int
	rest, last int // its place, and the item that it was last about
}

// weighing is one comparison.
type weighing struct {
	*Declaration
	keeps  string
	ledger nav.Ledger
	same   map[sameLoss]*naming
	number int // of the item at hand
	begun  int // how many entries there were before it

	moved, stepped, clipped struct {
		count int
		most  float64 // metres or seconds
	}
}

// begin goes on to the next item.
func (w *weighing) begin() {
	w.number++
	w.begun = len(w.ledger)
}

func (c *Declaration) part(at Place) *Part {
	if p := c.Holds[at]; p != nil {
		return p
	}
	return &Part{}
}

// note adds an entry for one item, or for the points of one, and gives it or the one that it was added to.
func (w *weighing) note(at Place, name string, what nav.Property, why string, count int, hint advice.Code) *nav.Entry {
	e := nav.Entry{Kind: at.Kind(), KindWord: at.String(), Name: name, What: what, Why: why, Count: count, Loss: true}
	if hint != "" {
		e.Advise(hint)
	}
	key := sameLoss{at, string(what) + why}
	n := w.same[key]
	if n == nil {
		n = &naming{}
		w.same[key] = n
	}
	for i := len(w.ledger) - 1; n.named > 0 && i >= min(w.begun, len(w.ledger)-1); i-- {
		if old := &w.ledger[i]; old.Name == name && old.What == what && old.Why == why && old.KindWord == e.KindWord {
			old.Count += count
			return old
		}
	}
	if n.named < namedItems {
		n.named++
		w.ledger = append(w.ledger, e)
		return &w.ledger[len(w.ledger)-1]
	}
	if n.last == 0 {
		n.rest = len(w.ledger)
		e.Name, e.Count = "", 0
		w.ledger = append(w.ledger, e)
	}
	rest := &w.ledger[n.rest]
	rest.Count += count
	if n.last != w.number {
		n.last = w.number
		rest.Others++
	}
	return rest
}

func (w *weighing) lose(at Place, name string, p Property, count int) {
	h, _ := w.part(at).Terms(p)
	if h.Partly || count == 0 {
		return
	}
	why := h.Why
	if why == "" {
		why = w.Noun + " can't store it"
	}
	w.note(at, name, What(at, p), why, count, h.Advice)
}

// narrowed lists what need not be said where something else is lost that it belongs to.
var narrowed = map[Property]Property{FieldTypes: Fields, LinkTexts: Links, HeightReference: Height, TimePrecision: Time}

// item notes what an item uses and the format does not hold.
func (w *weighing) item(at Place, name string, it *nav.Item, used Set) {
	part := w.part(at)
	if w.Trims {
		w.blanks(at, name, it.Name, it.Comment, it.Desc, it.Source, it.Type, it.Number, it.Style.Symbol)
		w.blanksOfLinks(at, name, it.Links)
		for i := range it.Fields {
			w.blanks(at, name, it.Fields[i].Value)
		}
	}
	lost := used &^ part.whole
	if lost == 0 {
		return
	}
	for p := range lost.Each() {
		if whole, ok := narrowed[p]; ok && lost.Has(whole) {
			continue
		}
		switch p {
		case Fields:
			w.fields(at, name, it.Fields)
		case FieldTypes:
			n := 0
			for i := range it.Fields {
				if it.Fields[i].Literal {
					n++
				}
			}
			w.types(at, name, n)
		case ID: // what it tells apart is all there
			if h, _ := part.Terms(p); !h.Partly {
				w.note(at, "", What(at, p), w.Noun+" can't store it", 1, "").Loss = false
			}
		case Links:
			w.lose(at, name, p, len(it.Links))
		case Details:
			w.details(at, name, it.Kept)
		default:
			w.lose(at, name, p, 1)
		}
	}
}

// Blanks calls the blanks at the ends of texts in a ledger.
const Blanks nav.Property = "blanks around texts"

// blanks notes texts with blanks at their ends.
func (w *weighing) blanks(at Place, name string, texts ...string) {
	for _, s := range texts {
		if s != "" && (s[0] <= ' ' || s[len(s)-1] <= ' ') {
			w.note(at, name, Blanks, "readers of "+w.Noun+" drop them", 1, "").Loss = false
		}
	}
}

func (w *weighing) blanksOfLinks(at Place, name string, links []nav.Link) {
	for i := range links {
		w.blanks(at, name, links[i].Text)
	}
}

// types notes that fields become texts, which changes none of their values.
func (w *weighing) types(at Place, name string, n int) {
	if h, _ := w.part(at).Terms(FieldTypes); n == 0 || h.Partly {
		return
	}
	e := w.note(at, name, What(at, FieldTypes), w.Noun+" has no types of fields", n, "")
	e.Old, e.New, e.Loss = "numbers and truth values", "texts", false
}

// details notes each piece that only another format understands, with what it says.
func (w *weighing) details(at Place, name string, kept []nav.Kept) {
	if h, _ := w.part(at).Terms(Details); h.Partly {
		return
	}
	for i := range kept {
		k := &kept[i]
		if w.foreign(kept[i:i+1]) > 0 {
			what := strings.TrimSpace(string(What(at, Details)) + " " + pieceName(k))
			w.note(at, name, nav.Property(what), w.Noun+" can't store it", 1, "").Old = clipped(k.Text)
		}
	}
}

// pieceName is the name of the element or member that a piece is.
func pieceName(k *nav.Kept) string {
	if m := elementName.FindStringSubmatch(k.Text); m != nil {
		return m[1]
	}
	return k.Where
}

var elementName = pattern.New(`^\s*<([^\s/>]+)`)

// clipped is the beginning of a long text.
func clipped(text string) string {
	const most = 200
	if r := []rune(text); len(r) > most {
		return string(r[:most]) + "…"
	}
	return text
}

func (w *weighing) foreign(kept []nav.Kept) (n int) {
	for i := range kept {
		if kept[i].Format != w.keeps && !kept[i].Free {
			n++
		}
	}
	return
}

func (w *weighing) fields(at Place, name string, fields []nav.Field) {
	h, _ := w.part(at).Terms(Fields)
	if h.Partly {
		return
	}
	why := h.Why
	if why == "" {
		why = w.Noun + " can't store it"
	}
	for i := range fields {
		switch {
		case h.Keys == nil || !h.Keys(&fields[i]):
			w.note(at, name, FieldWord(at, fields[i].Key), why, 1, h.Advice)
		case slices.ContainsFunc(fields[:i], func(f nav.Field) bool { return f.Key == fields[i].Key }):
			w.note(at, name, FieldWord(at, fields[i].Key), "another field has the same name", 1, h.Advice)
		}
	}
}

// FieldWord calls one field in a ledger.
func FieldWord(at Place, key string) nav.Property {
	word := "field " + key
	if at == RoutePoint || at == TrackPoint {
		word += " of " + at.String() + "s"
	}
	return nav.Property(word)
}

// point notes what a waypoint or a point of a route has.
func (w *weighing) point(at Place, name string, p *nav.Waypoint) {
	if w.Holds[at] == nil && at == Waypoint {
		w.missing(at, name)
		return
	}
	w.item(at, name, &p.Item, ItemUses(&p.Item))
	w.reading(at, name, &p.Point)
}

// reading notes what one position has.
func (w *weighing) reading(at Place, name string, p *nav.Point) {
	part := w.part(at)
	lost := PointUses(p) &^ (part.whole &^ (1 << HeightReference))
	heights, _ := part.Terms(Height)
	for x := range lost.Each() {
		switch {
		case lost.Has(Height) && !heights.Partly && x == HeightReference, lost.Has(Time) && x == TimePrecision:
		case x == HeightReference:
			w.reference(at, name, p.VerticalDatum(), 1)
		default:
			w.lose(at, name, x, 1)
		}
	}
	w.round(p, part.whole.Has(Time))
}

func (w *weighing) reference(at Place, name string, over nav.VerticalDatum, n int) {
	if n > 0 && over != nav.DatumUnstated && !slices.Contains(w.Datums, over) {
		w.note(at, name, What(at, HeightReference), "heights above "+over.String()+" are written as they are; "+w.Noun+
			" can't record the reference surface", n, "")
	}
}

func (w *weighing) missing(at Place, name string) {
	h := w.Missing[at]
	why := h.Why
	if why == "" {
		why = w.Noun + " has no " + at.String() + "s"
	}
	w.note(at, name, nav.Property(at.String()), why, 1, h.Advice)
}

// line notes what a line or an area has, and says whether it is written at all.
func (w *weighing) line(at Place, it *nav.Item, used Set) bool {
	w.begin()
	if w.Holds[at] == nil {
		w.missing(at, it.Name)
		return false
	}
	part := w.part(at)
	if used.Has(Empty) && !part.whole.Has(Empty) {
		w.note(at, it.Name, EmptyWord(at), w.Noun+" can't hold "+article(at)+" without points", 1, "")
		return false
	}
	if used.Has(OnePoint) && !part.whole.Has(OnePoint) {
		if h, _ := part.Terms(OnePoint); !h.Partly {
			w.note(at, it.Name, What(at, OnePoint), w.Noun+" has lines of two points at least", 1, h.Advice)
		}
		used &^= 1 << OnePoint
		if at == Route {
			return false
		}
	}
	w.item(at, it.Name, it, used)
	return true
}

// EmptyWord calls an item without points in a ledger.
func EmptyWord(at Place) nav.Property { return nav.Property("empty " + at.String()) }

func article(at Place) string {
	if at == Area {
		return "an area"
	}
	return "a " + at.String()
}

// points notes what the positions of a line have, of which there may be millions.
func (w *weighing) points(at Place, name string, points []nav.Point) {
	part := w.part(at)
	var heights, times, coarse int
	var over [nav.Datums]int
	all := part.whole.Has(Height) && part.whole.Has(Time) && part.whole.Has(TimePrecision) && len(w.Datums) == 3
	if !all {
		for block := range scratch.Blocks(points) {
			for i := range block {
				p := &block[i]
				if p.HasHeight() {
					heights++
					over[p.VerticalDatum()]++
				}
				if mark := p.TimeMark(); mark != instant.NoTime {
					times++
					if mark < instant.Seconds {
						coarse++
					}
				}
			}
		}
	}
	h, _ := part.Terms(Height)
	if !part.whole.Has(Height) && !h.Partly {
		w.lose(at, name, Height, heights)
	} else {
		for i, n := range over {
			w.reference(at, name, nav.VerticalDatum(i), n)
		}
	}
	switch {
	case !part.whole.Has(Time):
		w.lose(at, name, Time, times)
	case !part.whole.Has(TimePrecision):
		w.lose(at, name, TimePrecision, coarse)
	}
	if w.Rounds != (Rounds{}) {
		for block := range scratch.Blocks(points) {
			for i := range block {
				w.round(&block[i], part.whole.Has(Time))
			}
		}
	}
}

func (w *weighing) segment(name string, s *nav.Segment) {
	w.points(TrackPoint, name, s.Points)
	w.lose(Track, name, Details, w.foreign(s.Kept))
	part := w.part(TrackPoint)
	var literals int
	lost := map[Property]int{}
	if w.Trims && s.Details() > 0 {
		var room []nav.Field
		for i := range s.Points {
			room = s.Values(room[:0], &s.Points[i])
			for j := range room {
				w.blanks(TrackPoint, name, room[j].Value)
			}
		}
	}
	for detail, points := range s.Samples(s.Points) {
		for n := points; n > 0 && detail.Item != nil; n-- {
			w.item(TrackPoint, name, detail.Item, ItemUses(detail.Item))
		}
		gone := DetailUses(detail) &^ part.whole
		readings := gone & SetOf(Speed, Course, FixQuality, Readings)
		for j := range detail.Values {
			if f := &detail.Values[j]; readings.Has(ReadingOf(f.Key)) {
				lost[ReadingOf(f.Key)] += points
			} else if f.Literal && gone.Has(FieldTypes) && readings == 0 {
				literals += points
			}
		}
		if gone.Has(Details) {
			lost[Details] += points * w.foreign(detail.Kept)
		}
	}
	w.types(TrackPoint, name, literals)
	for _, p := range slices.Sorted(maps.Keys(lost)) {
		w.lose(TrackPoint, name, p, lost[p])
	}
}

func (w *weighing) file(m *nav.Meta) {
	if w.Trims {
		w.blanks(File, "", m.Name, m.Desc, m.Author, m.Copyright, m.Keywords)
		w.blanksOfLinks(File, "", m.Links)
	}
	lost := FileUses(m) &^ w.part(File).whole
	for p := range lost.Each() {
		n := 1
		switch p {
		case Attachments:
			n = len(m.Attachments)
		case Links:
			n = len(m.Links)
		case Details:
			n = w.foreign(m.Kept)
		}
		if whole, ok := narrowed[p]; ok && lost.Has(whole) {
			continue
		}
		w.lose(File, "", p, n)
	}
}

const (
	nothing = 1e-9 // degrees: a tenth of a millimetre
	// What a rounding may change before it is a loss.
	centimetre  = 0.01
	millisecond = 0.001
)

// round measures what the steps of the format change of a position, and of its time where that is held.
func (w *weighing) round(p *nav.Point, timed bool) {
	if s := w.Rounds.Position.Size; s > 0 {
		lat, lon := math.Remainder(p.Lat, s), math.Remainder(p.Lon, s)
		if math.Abs(lat) > nothing || math.Abs(lon) > nothing {
			w.moved.count++
			w.moved.most = max(w.moved.most, geodesy.EquatorDegree*math.Hypot(lat, lon*math.Cos(p.Lat*math.Pi/180)))
		}
	}
	if s := w.Rounds.Height.Size; s > 0 && p.HasHeight() {
		if off := math.Abs(math.Remainder(p.Height(), s)); off > 1e-4 {
			w.stepped.count++
			w.stepped.most = max(w.stepped.most, off)
		}
	}
	if s := int64(w.Rounds.Time.Size * 1e9); s > 0 && timed && p.HasTime() {
		if off := p.UnixNano() % s; off != 0 {
			if off < 0 {
				off += s
			}
			w.clipped.count++
			w.clipped.most = max(w.clipped.most, float64(off)/1e9)
		}
	}
}

// rounding tells what the steps changed. It is a loss where it can be noticed and the standard could do better.
func (w *weighing) rounding() {
	tell := func(what nav.Property, s Step, n int, most, noticed float64, off string) {
		if n == 0 {
			return
		}
		w.ledger = append(w.ledger, nav.Entry{KindWord: "point", What: what, Old: "as in the data", New: off,
			Why: fmt.Sprintf("%s has steps of %s", w.Noun, s.Words), Count: n, Loss: most > noticed && !s.Standard})
	}
	metres := func(v float64) string {
		if v < centimetre {
			return "less than 1 cm off"
		}
		return fmt.Sprintf("up to %.2f m off", v)
	}
	tell("positions", w.Rounds.Position, w.moved.count, w.moved.most, centimetre, metres(w.moved.most))
	tell("heights", w.Rounds.Height, w.stepped.count, w.stepped.most, centimetre, metres(w.stepped.most))
	tell("times", w.Rounds.Time, w.clipped.count, w.clipped.most, millisecond,
		fmt.Sprintf("up to %v earlier", time.Duration(w.clipped.most*1e9)))
}

// Changed is an entry of what a writer made of a property of one place.
func Changed(at Place, name string, p Property, old, new, why string) nav.Entry {
	return nav.Entry{Kind: at.Kind(), KindWord: at.String(), Name: name, What: What(at, p), Old: old, New: new, Why: why,
		Count: 1}
}

// Renamed is an entry of a name that a writer could not keep, which is a loss.
func Renamed(at Place, old, new, why string) nav.Entry {
	e := nav.Entry{Kind: at.Kind(), KindWord: at.String(), Name: old, What: nav.PropertyName, Old: old, New: new, Why: why,
		Count: 1, Loss: old != ""}
	if at == RoutePoint {
		e.What = nav.PropertyPointName
	}
	return e
}
