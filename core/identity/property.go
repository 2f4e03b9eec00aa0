package identity

import (
	"bufio"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Property is one thing that is said of an item.
type Property struct {
	Word string
	get  func(*Thing) string
	take func(to, from *Thing)
	show func(*Thing) string // nil where get gives what can be read
	has  func(*Thing) bool   // nil where get is not dear
}

func (p *Property) isSaidOf(t *Thing) bool {
	if p.has != nil {
		return p.has(t)
	}
	return p.get(t) != ""
}

// Words of properties that others ask for.
const (
	Name     = "name"
	Group    = "group"
	Symbol   = "symbol"
	Position = "position" // of a waypoint
	Course   = "line"     // the positions of a route, track or area, and what is said of them
	Height   = "height"
	Time     = "time"
)

// FieldWord is before the key of a field in the word of its property.
const FieldWord = "field "

func text(word string, at func(*nav.Item) *string) Property {
	return Property{Word: word, get: func(t *Thing) string { return *at(t.Item) },
		take: func(to, from *Thing) { *at(to.Item) = *at(from.Item) }}
}

func value[T comparable](word string, at func(*nav.Item) *T, show func(T) string) Property {
	var none T
	return Property{Word: word, get: func(t *Thing) string {
		if v := *at(t.Item); v != none {
			return show(v)
		}
		return ""
	}, take: func(to, from *Thing) { *at(to.Item) = *at(from.Item) }}
}

func number(v float64) string    { return string(decimal.AppendShort(nil, v, 6)) }
func colour(c nav.Colour) string { return c.String() }
func yes(bool) string            { return "yes" }
func links(list []nav.Link) string {
	return joined(list, func(l nav.Link) string { return l.Href + " " + l.Text + " " + l.Type })
}
func details(list []nav.Kept) string {
	list = slices.DeleteFunc(slices.Clone(list), func(k nav.Kept) bool { return k.Free })
	return joined(list, func(k nav.Kept) string { return k.Format + " " + k.Where + " " + k.Text })
}

func joined[T any](list []T, one func(T) string) string {
	var out []string
	for _, v := range list {
		out = append(out, strings.TrimSpace(one(v)))
	}
	return strings.Join(out, "; ")
}

// properties are all that can be said of an item, but for its fields, which have a property each.
var properties []Property

func init() { // since the line of a route asks for what is said of its points
	properties = []Property{
		text("id", func(it *nav.Item) *string { return &it.ID }),
		text(Name, func(it *nav.Item) *string { return &it.Name }),
		{Word: Position, get: position, take: takePosition, show: nil},
		{Word: Course, get: line, take: takeLine, show: lineShown, has: isLine},
		{Word: Height, get: height, take: takeHeight},
		{Word: Time, get: moment, take: takeTime},
		text(Group, func(it *nav.Item) *string { return &it.Group }),
		text(Symbol, func(it *nav.Item) *string { return &it.Style.Symbol }),
		value("colour", func(it *nav.Item) *nav.Colour { return &it.Style.Colour }, colour),
		value("width", func(it *nav.Item) *float64 { return &it.Style.Width }, number),
		value("fill", func(it *nav.Item) *nav.Colour { return &it.Style.Fill }, colour),
		value("no fill", func(it *nav.Item) *bool { return &it.Style.NoFill }, yes),
		value("no outline", func(it *nav.Item) *bool { return &it.Style.NoOutline }, yes),
		text("icon", func(it *nav.Item) *string { return &it.Style.Icon }),
		value("icon scale", func(it *nav.Item) *float64 { return &it.Style.IconScale }, number),
		text("description", func(it *nav.Item) *string { return &it.Desc }),
		text("comment", func(it *nav.Item) *string { return &it.Comment }),
		text("type", func(it *nav.Item) *string { return &it.Type }),
		text("source", func(it *nav.Item) *string { return &it.Source }),
		text("number", func(it *nav.Item) *string { return &it.Number }),
		{Word: "links", get: func(t *Thing) string { return links(t.Item.Links) },
			take: func(to, from *Thing) { to.Item.Links = from.Item.Links }},
		{Word: "details", get: func(t *Thing) string { return details(t.Item.Kept) },
			take: func(to, from *Thing) { to.Item.Kept = from.Item.Kept }},
	}
}

// Words lists the properties that an item can have; fields are "fields" here.
func Words() (out []string) {
	for i := range properties {
		if w := properties[i].Word; w != "id" {
			out = append(out, w)
		}
	}
	return append(out, "fields")
}

// Properties lists of some things all that are said of at least one of them, in their order; fields come last, in the
// order of the things.
func Properties(things ...*Thing) (out []Property) {
	for _, p := range properties {
		if slices.ContainsFunc(things, func(t *Thing) bool { return t != nil && p.isSaidOf(t) }) {
			out = append(out, p)
		}
	}
	seen := map[string]bool{}
	for _, t := range things {
		if t == nil {
			continue
		}
		for i := range t.Item.Fields {
			if key := t.Item.Fields[i].Key; !seen[key] {
				seen[key] = true
				out = append(out, fieldProperty(key))
			}
		}
	}
	return
}

// fieldProperty is the property that a field is. A key that stands more than once is one property.
func fieldProperty(key string) Property {
	of := func(t *Thing) (list []nav.Field) {
		for _, f := range t.Item.Fields {
			if f.Key == key {
				list = append(list, f)
			}
		}
		return
	}
	return Property{Word: FieldWord + key,
		get:  func(t *Thing) string { return joined(of(t), meant) },
		show: func(t *Thing) string { return joined(of(t), func(f nav.Field) string { return f.Value }) },
		take: func(to, from *Thing) {
			fields := slices.DeleteFunc(slices.Clone(to.Item.Fields), func(f nav.Field) bool { return f.Key == key })
			at := slices.IndexFunc(to.Item.Fields, func(f nav.Field) bool { return f.Key == key })
			if at < 0 || at > len(fields) {
				at = len(fields)
			}
			to.Item.Fields = slices.Insert(fields, at, of(from)...)
		}}
}

// meant is the value of a field in one way of writing, so that 12.50 is 12.5 and 1500ft is 457.2m.
func meant(f nav.Field) string {
	switch f.Key {
	case nav.FieldFloor, nav.FieldCeiling:
		if l, err := nav.ParseLevel(f.Value); err == nil {
			return fmt.Sprintf("%.1f %v %v", l.Metres, l.Over, l.Ground)
		}
	case nav.FieldFrom, nav.FieldUntil:
		if ns, _, _, ok := instant.Parse([]byte(f.Value), nil); ok {
			return fmt.Sprint(ns)
		}
	}
	if v, digits, ok := decimal.Parse([]byte(f.Value)); ok && decimal.IsNumber(f.Value) && digits < 10 {
		return string(decimal.AppendShort(nil, v, 9))
	}
	return f.Value
}

// Get gives the value of a thing as a text, the same for the same values; "" where it has none or there is no thing.
func (p *Property) Get(t *Thing) string {
	if t == nil {
		return ""
	}
	return p.get(t)
}

// Show gives the value of a thing as one can read it.
func (p *Property) Show(t *Thing) string {
	if t == nil {
		return ""
	}
	if p.show != nil {
		return p.show(t)
	}
	return p.get(t)
}

// Take gives a thing the value that another has.
func (p *Property) Take(to, from *Thing) { p.take(to, from) }

// Said gathers the words of what is said of any of some things, but for identities and what one format alone
// understands.
func Said(list []Thing) map[string]bool {
	out := map[string]bool{}
	for i := range list {
		for _, p := range Properties(&list[i]) {
			out[p.Word] = p.Word != "id" && p.Word != "details"
		}
	}
	return out
}

// Differ says whether two things have different values of properties with one of some words.
func Differ(a, b *Thing, words map[string]bool) bool {
	return slices.ContainsFunc(Properties(a, b), func(p Property) bool { return words[p.Word] && p.get(a) != p.get(b) })
}

// Sum is a short sum of a value, by which one can tell later whether it has changed; "" where there is none.
func (p *Property) Sum(t *Thing) string { return SumOf(p.Get(t)) }

// SumOf is the short sum of a value.
func SumOf(value string) string {
	if value == "" {
		return ""
	}
	sum := sha256.Sum256([]byte(value))
	return hex.EncodeToString(sum[:6])
}

func position(t *Thing) string {
	if t.Waypoint == nil {
		return ""
	}
	return fmt.Sprintf("%s %s", decimal.AppendShort(nil, t.Waypoint.Lat, 9), decimal.AppendShort(nil, t.Waypoint.Lon, 9))
}

func takePosition(to, from *Thing) {
	w, p := to.Waypoint, &from.Waypoint.Point
	w.Lat, w.Lon, w.LatPrecision, w.LonPrecision, w.Exact = p.Lat, p.Lon, p.LatPrecision, p.LonPrecision,
		from.Waypoint.Exact
}

func height(t *Thing) string {
	if t.Waypoint == nil || !t.Waypoint.HasHeight() {
		return ""
	}
	return string(decimal.AppendShort(nil, t.Waypoint.Height(), 3)) + " m"
}

func takeHeight(to, from *Thing) {
	if p := &from.Waypoint.Point; p.HasHeight() {
		to.Waypoint.SetHeight(p.Height(), p.HeightPrecision(), p.VerticalDatum())
	} else {
		to.Waypoint.ClearHeight()
	}
}

func moment(t *Thing) string {
	if t.Waypoint == nil || !t.Waypoint.HasTime() {
		return ""
	}
	return string(t.Waypoint.AppendTime(nil))
}

func takeTime(to, from *Thing) {
	if p := &from.Waypoint.Point; p.HasTime() {
		to.Waypoint.SetTime(p.UnixNano(), p.TimeMark())
	} else {
		to.Waypoint.ClearTime()
	}
}

// line sums the positions of a route, track or area, and what is said of them.
func line(t *Thing) string {
	if t.Kind == nav.Waypoints {
		return ""
	}
	digest := sha256.New()
	h := bufio.NewWriter(digest)
	put := func(p *nav.Point) {
		b := h.AvailableBuffer()
		for _, v := range [2]float64{p.Lat, p.Lon} {
			b = binary.LittleEndian.AppendUint64(b, uint64(int64(math.Round(v*1e9))))
		}
		if p.HasHeight() {
			b = strconv.AppendFloat(append(b, 'h'), p.Height(), 'f', 3, 64)
		}
		if p.HasTime() {
			b = strconv.AppendInt(append(b, 't'), p.UnixNano(), 10)
		}
		h.Write(b)
	}
	switch t.Kind {
	case nav.Routes:
		for i := range t.Route.Points {
			w := &t.Route.Points[i]
			put(&w.Point)
			fmt.Fprint(h, pointProperties(w))
		}
	case nav.Tracks:
		for i := range t.Track.Segments {
			s := &t.Track.Segments[i]
			fmt.Fprint(h, "|")
			var room []nav.Field
			for j := range s.Points {
				put(&s.Points[j])
				room = s.Values(room[:0], &s.Points[j])
				for _, v := range room {
					h.Write(append(append(append(append(h.AvailableBuffer(), '|'), v.Key...), '='), v.Value...))
				}
			}
		}
	case nav.Areas:
		for _, ring := range t.Lines() {
			fmt.Fprint(h, "|")
			for i := range ring {
				put(&ring[i])
			}
		}
	}
	h.Flush()
	return hex.EncodeToString(digest.Sum(nil)[:12])
}

func isLine(t *Thing) bool { return t.Kind != nav.Waypoints }

func lineShown(t *Thing) string {
	n := t.Points()
	if n == 1 {
		return "1 point"
	}
	if t.Kind != nav.Routes || n == 0 {
		return fmt.Sprintf("%d points", n)
	}
	return fmt.Sprintf("%d points, %s to %s", n, t.Route.Points[0].Name, t.Route.Points[n-1].Name)
}

func takeLine(to, from *Thing) {
	switch to.Kind {
	case nav.Routes:
		to.Route.Points = from.Route.Points
	case nav.Tracks:
		to.Track.Segments = from.Track.Segments
	case nav.Areas:
		to.Area.Outline, to.Area.Holes = from.Area.Outline, from.Area.Holes
	}
}
