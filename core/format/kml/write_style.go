package kml

import (
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
)

// order is the schema's order of the children of a feature: what it has itself, what extends it, and in documents
// schemas and other features (OGC 12-007r2, AbstractFeatureType and DocumentType).
var order = []string{"name", "visibility", "open", "author", "link", "address", "AddressDetails", "phoneNumber",
	"Snippet",
	"description", "LookAt", "Camera", "TimeStamp", "TimeSpan", "styleUrl", "Style", "Region", "Metadata", "ExtendedData",
	extending, "Schema", "NetworkLink", "GroundOverlay", "PhotoOverlay", "ScreenOverlay", "Tour"}

// extending stands for all elements that the schema doesn't know.
const extending = "*"

func rank(local string) int {
	if i := slices.Index(order, local); i >= 0 {
		return i
	}
	return slices.Index(order, extending)
}

func before(local string) func(int) bool {
	return func(r int) bool { return r < rank(local) }
}
func after(local string) func(int) bool {
	return func(r int) bool { return r > rank(local) }
}
func between(low, high string) func(int) bool {
	return func(r int) bool { return r > rank(low) && r < rank(high) }
}

// pieces writes what was kept of a parent's children, in the schema's order, as far as wanted says.
func (w *writer) pieces(kept []nav.Kept, where string, wanted func(rank int) bool) {
	var mine []nav.Kept
	for _, k := range kept {
		if k.Format == "kml" && k.Where == where && (wanted == nil || wanted(rank(tagOf(k.Text)))) {
			mine = append(mine, k)
		}
	}
	slices.SortStableFunc(mine, func(a, b nav.Kept) int { return rank(tagOf(a.Text)) - rank(tagOf(b.Text)) })
	for _, k := range mine {
		w.piece(k)
	}
}

// stylePieces writes what was kept of a style, as far as wanted says.
func (w *writer) stylePieces(kept []nav.Kept, where string, wanted func(tag string) bool) {
	for _, k := range kept {
		if k.Format == "kml" && k.Where == where && wanted(tagOf(k.Text)) {
			w.piece(k)
		}
	}
}

// tagOf gives the local name of a kept element.
func tagOf(text string) string {
	tag := strings.TrimLeft(text, "<")
	if end := strings.IndexAny(tag, " \t\r\n/>"); end >= 0 {
		tag = tag[:end]
	}
	return tag[strings.IndexByte(tag, ':')+1:]
}

// piece writes a kept element. An element of any KML namespace becomes one of this document's.
func (w *writer) piece(k nav.Kept) {
	var declare [][2]string
	for _, s := range k.Spaces {
		switch {
		case s.Prefix == "" && (s.URI == "" || strings.Contains(s.URI, "/kml/")):
		case s.Prefix != "" && w.prefixes[s.Prefix] == s.URI:
		case s.Prefix == s.URI && s.Prefix != "":
			declare = append(declare, [2]string{s.Prefix, "urn:undeclared:" + s.Prefix})
		default:
			declare = append(declare, [2]string{s.Prefix, s.URI})
		}
	}
	w.Fragment(k.Text, declare)
}

// styleText is the body of an item's style, "" if it has none. It is written by a writer of its own, so that
// equal styles can be shared.
func (w *writer) styleText(kind nav.Kind, item *nav.Item) string {
	if len(item.Kept) > 0 {
		return w.newStyleText(kind, item)
	}
	known := styleSource{kind, item.Style}
	text, ok := w.styleTexts[known]
	if !ok {
		text = w.newStyleText(kind, item)
		if w.styleTexts == nil {
			w.styleTexts = map[styleSource]string{}
		}
		w.styleTexts[known] = text
	}
	return text
}

// styleSource is all that the style of an item comes from of which nothing was kept.
type styleSource struct {
	kind  nav.Kind
	style nav.Style
}

func (w *writer) newStyleText(kind nav.Kind, item *nav.Item) string {
	st := &item.Style
	if w.scratch == nil {
		w.scratch = &writer{Writer: xmlwrite.NewPart(), prefixes: w.prefixes}
		w.scratch.Indent(3)
	}
	x := w.scratch
	x.Buf = x.Buf[:0]
	// part writes one kind of style: its colour, its own elements, and what was kept of it before and behind them.
	part := func(name string, c nav.Colour, own bool, body func()) {
		where := "Style/" + name
		kept := slices.ContainsFunc(item.Kept, func(k nav.Kept) bool { return k.Where == where })
		if !own && !kept {
			return
		}
		x.Open(name)
		if own && c.Set {
			x.Leaf("color", kmlColour(c))
		}
		x.stylePieces(item.Kept, where, func(tag string) bool { return tag == "colorMode" })
		if own {
			body()
		}
		x.stylePieces(item.Kept, where, func(tag string) bool { return tag != "colorMode" && (tag != "heading" || !own) })
		x.End(name)
	}
	number := func(name string, v float64) {
		if v != 0 {
			x.Leaf(name, string(decimal.AppendShort(nil, v, 6)))
		}
	}
	icon, area := kind == nav.Waypoints, kind == nav.Areas
	part("IconStyle", st.Colour, icon && (st.Icon != "" || st.Colour.Set || st.IconScale != 0), func() {
		number("scale", st.IconScale)
		x.stylePieces(item.Kept, "Style/IconStyle", func(tag string) bool { return tag == "heading" })
		if st.Icon != "" {
			x.Open("Icon")
			x.Leaf("href", st.Icon)
			x.End("Icon")
		}
	})
	x.stylePieces(item.Kept, "Style/", func(tag string) bool { return tag == "LabelStyle" })
	part("LineStyle", st.Colour, !icon && (st.Colour.Set || st.Width != 0), func() { number("width", st.Width) })
	part("PolyStyle", st.Fill, area && (st.Fill.Set || st.NoFill || st.NoOutline), func() {
		if st.NoFill {
			x.Leaf("fill", "0")
		}
		if st.NoOutline {
			x.Leaf("outline", "0")
		}
	})
	x.stylePieces(item.Kept, "Style/", func(tag string) bool { return tag != "LabelStyle" })
	for _, k := range item.Kept {
		if k.Format == "kml" && k.Where == highlighted { // tells styles apart; it is written elsewhere
			return k.Text + string(x.Buf)
		}
	}
	return string(x.Buf)
}

// sharedStyles writes each style that an item has, once.
func (w *writer) sharedStyles() {
	w.data.Each(func(kind nav.Kind, item *nav.Item) {
		if item.Style == (nav.Style{Symbol: item.Style.Symbol}) && len(item.Kept) == 0 {
			return
		}
		text := w.styleText(kind, item)
		if text == "" || w.styles[text] != "" {
			return
		}
		id := fmt.Sprintf("style-%d", len(w.styles)+1)
		w.styles[text], w.ids[id] = id, true
		lit := slices.IndexFunc(item.Kept, func(k nav.Kept) bool { return k.Format == "kml" && k.Where == highlighted })
		if lit < 0 {
			w.Open("Style", "id", id)
			w.Raw(text)
			w.End("Style")
			return
		}
		w.Open("StyleMap", "id", id)
		w.Open("Pair")
		w.Leaf("key", "normal")
		w.Open("Style")
		w.Raw(strings.TrimPrefix(text, item.Kept[lit].Text))
		w.End("Style")
		w.End("Pair")
		w.Open("Pair")
		w.Leaf("key", highlighted)
		w.piece(item.Kept[lit])
		w.End("Pair")
		w.End("StyleMap")
	})
}
