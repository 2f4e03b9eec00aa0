package kml

import (
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/xmlwrite"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// style is what a Style says of icons, lines and polygons.
type style struct {
	icon, line, poly    nav.Colour
	href                string
	scale, width        float64
	hasFill, noFill     bool
	hasBorder, noBorder bool
	rest                []nav.Kept // its other parts, kept for KML
}

// parseColour reads aabbggrr.
func parseColour(text string) nav.Colour {
	text = strings.TrimPrefix(strings.TrimSpace(text), "#")
	if len(text) != 8 {
		return nav.Colour{}
	}
	c, _ := nav.ParseColour("#" + text[6:8] + text[4:6] + text[2:4] + text[0:2])
	return c
}

func kmlColour(c nav.Colour) string {
	const hex = "0123456789abcdef"
	var b [8]byte
	for i, v := range [4]uint8{c.A, c.B, c.G, c.R} {
		b[2*i], b[2*i+1] = hex[v>>4], hex[v&15]
	}
	return string(b[:])
}

func (r *reader) number(dst *float64) error {
	text, err := r.Leaf()
	if v, _, ok := decimal.Parse(text); ok && *dst == 0 {
		*dst = v
	} else if err == nil {
		r.LeafUntaken(string(text))
	}
	return err
}

func (r *reader) switchedOff(off, said *bool) error {
	text, err := r.LeafString()
	if !*said && slices.Contains([]string{"0", "false", "1", "true"}, text) {
		*off, *said = text == "0" || text == "false", true
	} else if err == nil {
		r.LeafUntaken(text)
	}
	return err
}

func (r *reader) style() (*style, error) {
	st := &style{}
	colour := func(dst *nav.Colour) error {
		text, err := r.LeafString()
		if c := parseColour(text); c.Set && !dst.Set {
			*dst = c
		} else if err == nil {
			r.LeafUntaken(text)
		}
		return err
	}
	err := r.Children(func(part string) error {
		switch part {
		case "IconStyle":
			return r.Children(func(local string) error {
				switch local {
				case "color":
					return colour(&st.icon)
				case "scale":
					return r.number(&st.scale)
				case "Icon":
					return r.Children(func(local string) error {
						if local == "href" {
							return r.text(&st.href)
						}
						return r.Skip()
					})
				}
				return r.keep(&st.rest, part)
			})
		case "LineStyle":
			return r.Children(func(local string) error {
				switch local {
				case "color":
					return colour(&st.line)
				case "width":
					return r.number(&st.width)
				}
				return r.keep(&st.rest, part)
			})
		case "PolyStyle":
			return r.Children(func(local string) error {
				switch local {
				case "color":
					return colour(&st.poly)
				case "fill":
					return r.switchedOff(&st.noFill, &st.hasFill)
				case "outline":
					return r.switchedOff(&st.noBorder, &st.hasBorder)
				}
				return r.keep(&st.rest, part)
			})
		}
		return r.keep(&st.rest, "Style")
	})
	return st, err
}

func (r *reader) sharedStyle() error {
	id := r.AttrString("id")
	if id == "" {
		line, col := r.Pos()
		r.data.Note(nav.ProblemStyles, "a folder style without an id, which no placemark can use, was left out",
			line, col)
		return r.Pass()
	}
	st, err := r.style()
	r.styles[id] = st
	return err
}

// pairs reads a StyleMap and gives its normal style, as an address or in place, and that of what is pointed at.
func (r *reader) pairs() (st *style, url string, lit highlight, err error) {
	err = r.Children(func(local string) error {
		if local != "Pair" {
			return r.Skip()
		}
		var key, link string
		var in *style
		err := r.Children(func(local string) error {
			switch local {
			case "key":
				return r.text(&key)
			case "styleUrl":
				return r.text(&link)
			case "Style":
				var err error
				in, err = r.style()
				return err
			}
			return r.Skip()
		})
		switch {
		case key == highlighted:
			lit = highlight{in, link}
		case st == nil && url == "":
			st, url = in, link
		}
		return err
	})
	return
}

func (r *reader) styleMap() error {
	id := r.AttrString("id")
	st, url, lit, err := r.pairs()
	if st != nil {
		r.styles[id] = st
	} else {
		r.links[id] = url
	}
	r.lit[id] = lit
	return err
}

// highlight is the style of what is pointed at, in place or as an address.
type highlight struct {
	st  *style
	url string
}

// shared follows an address to a shared style. Maps may point at maps, but not for ever.
func (r *reader) shared(url string) *style {
	for range 8 {
		if url == "" {
			return nil
		}
		hash := strings.LastIndexByte(url, '#')
		id := url[hash+1:]
		if st := r.styles[id]; st != nil {
			return st
		}
		next, ok := r.links[id]
		if !ok {
			return nil
		}
		url = next
	}
	return nil
}

// over lays the values of an inline style over those of a shared one.
func over(base, top *style) *style {
	switch {
	case base == nil:
		return top
	case top == nil:
		return base
	}
	out := *base
	if top.icon.Set {
		out.icon = top.icon
	}
	if top.line.Set {
		out.line = top.line
	}
	if top.poly.Set {
		out.poly = top.poly
	}
	if top.href != "" {
		out.href = top.href
	}
	if top.scale != 0 {
		out.scale = top.scale
	}
	if top.width != 0 {
		out.width = top.width
	}
	if top.hasFill {
		out.hasFill, out.noFill = true, top.noFill
	}
	if top.hasBorder {
		out.hasBorder, out.noBorder = true, top.noBorder
	}
	out.rest = append(out.rest[:len(out.rest):len(out.rest)], top.rest...)
	return &out
}

// resolveStyles gives every item its colours, widths and icons.
func (r *reader) resolveStyles() {
	for _, w := range r.wants {
		base := r.shared(w.url)
		lit := w.lit
		if lit == (highlight{}) && w.url != "" {
			lit = r.lit[w.url[strings.LastIndexByte(w.url, '#')+1:]]
		}
		if lit.st == nil {
			lit.st = r.shared(lit.url)
		}
		if w.url != "" && base == nil {
			r.data.Note(nav.ProblemStyles, "a style that is not in the file was left out", 0, 0)
		}
		st := over(base, w.inline)
		if st == nil && lit.st == nil {
			continue
		}
		if st == nil {
			st = &style{}
		}
		var item *nav.Item
		switch w.kind {
		case nav.Waypoints:
			item = &r.data.Waypoints[w.index].Item
			item.Style.Icon, item.Style.Colour, item.Style.IconScale = st.href, st.icon, st.scale
			if word := symbol.OfIcon(st.href); word != "" { // a picture of ours says no more than the word
				item.Style.Icon, item.Style.Symbol = "", word
			} else if item.Style.Symbol == "" {
				item.Style.Symbol = symbol.FromIcon(st.href)
			}
		case nav.Routes:
			item = &r.data.Routes[w.index].Item
			item.Style.Colour, item.Style.Width = st.line, st.width
		case nav.Tracks:
			item = &r.data.Tracks[w.index].Item
			item.Style.Colour, item.Style.Width = st.line, st.width
		case nav.Areas:
			item = &r.data.Areas[w.index].Item
			s := &item.Style
			s.Colour, s.Width, s.Fill, s.NoFill, s.NoOutline = st.line, st.width, st.poly, st.noFill, st.noBorder
		}
		if lit.st != nil {
			item.Kept = append(item.Kept[:len(item.Kept):len(item.Kept)], lit.st.kept())
		}
		if len(st.rest) > 0 {
			item.Kept = append(item.Kept[:len(item.Kept):len(item.Kept)], styleParts(st.rest)...)
		}
	}
}

// styleParts marks the kept parts of a style, so that they are told from the other kept parts of an item.
func styleParts(rest []nav.Kept) []nav.Kept {
	out := make([]nav.Kept, len(rest))
	for i, k := range rest {
		out[i] = k
		out[i].Where = "Style/" + strings.TrimPrefix(k.Where, "Style")
	}
	return out
}

// highlighted is where the style of an item that is pointed at is kept.
const highlighted = "highlight"

// kept gives the style as it is kept for KML.
func (st *style) kept() nav.Kept {
	w := &writer{Writer: xmlwrite.NewPart(), prefixes: map[string]string{}}
	out := nav.Kept{Format: "kml", Where: highlighted, Free: true}
	pieces := func(where string, such func(tag string) bool) {
		for _, k := range st.rest {
			if k.Where == where && such(tagOf(k.Text)) {
				out.Spaces = append(out.Spaces, k.Spaces...)
				w.Raw(k.Text)
			}
		}
	}
	part := func(name string, c nav.Colour, body func()) {
		begun := len(w.Buf)
		w.Open(name)
		inside := len(w.Buf)
		if c.Set {
			w.Leaf("color", kmlColour(c))
		}
		pieces(name, func(tag string) bool { return tag == "colorMode" }) // in the order of the schema
		body()
		pieces(name, func(tag string) bool { return tag != "colorMode" && tag != "heading" })
		if len(w.Buf) == inside {
			w.Buf = w.Buf[:begun]
			w.Indent(-1)
			return
		}
		w.End(name)
	}
	number := func(name string, v float64) {
		if v != 0 {
			w.Leaf(name, string(decimal.AppendShort(nil, v, 6)))
		}
	}
	w.Open("Style")
	part("IconStyle", st.icon, func() {
		number("scale", st.scale)
		pieces("IconStyle", func(tag string) bool { return tag == "heading" })
		if st.href != "" {
			w.Open("Icon")
			w.Leaf("href", st.href)
			w.End("Icon")
		}
	})
	pieces("Style", func(tag string) bool { return tag == "LabelStyle" })
	part("LineStyle", st.line, func() { number("width", st.width) })
	part("PolyStyle", st.poly, func() {
		if st.hasFill && st.noFill {
			w.Leaf("fill", "0")
		}
		if st.hasBorder && st.noBorder {
			w.Leaf("outline", "0")
		}
	})
	pieces("Style", func(tag string) bool { return tag != "LabelStyle" })
	w.End("Style")
	out.Text = string(w.Buf)
	return out
}
