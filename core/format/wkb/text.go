package wkb

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"gyrolith/core/format/layer"
)

// ParseText reads a geometry in well-known text (OGC 06-103r4, clause 7), with or without the number of a system before
// it (SRID=4326;), which is 0 where there is none.
func ParseText(text string) (s *layer.Shape, system int, err error) {
	text = strings.TrimSpace(text)
	if rest, ok := cutFold(text, "SRID="); ok {
		number, geometry, _ := strings.Cut(rest, ";")
		if system, err = strconv.Atoi(strings.TrimSpace(number)); err != nil {
			return nil, 0, fmt.Errorf("SRID=%s is not the number of a system", number)
		}
		text = geometry
	}
	p := &textReader{left: text, shape: &layer.Shape{}}
	if err := p.geometry(0); err != nil {
		return nil, 0, err
	}
	if p.skip(); p.left != "" {
		return nil, 0, fmt.Errorf("has more behind its geometry: %.20q", p.left)
	}
	return p.shape, system, nil
}

func cutFold(text, prefix string) (rest string, ok bool) {
	if len(text) >= len(prefix) && strings.EqualFold(text[:len(prefix)], prefix) {
		return text[len(prefix):], true
	}
	return text, false
}

// textReader reads well-known text from the front of what is left.
type textReader struct {
	left       string
	shape      *layer.Shape
	hasZ, hasM bool // of the geometry that is read
}

var errTextCut = errors.New("is a geometry that is cut off")

func (p *textReader) skip() { p.left = strings.TrimLeft(p.left, " \t\r\n") }

// word takes a word in capital letters; "" is none.
func (p *textReader) word() string {
	p.skip()
	n := 0
	for n < len(p.left) && (p.left[n]|0x20 >= 'a' && p.left[n]|0x20 <= 'z') {
		n++
	}
	word := strings.ToUpper(p.left[:n])
	p.left = p.left[n:]
	return word
}

// sign takes one of the signs; 0 is none of them.
func (p *textReader) sign(signs string) byte {
	p.skip()
	if p.left == "" || strings.IndexByte(signs, p.left[0]) < 0 {
		return 0
	}
	c := p.left[0]
	p.left = p.left[1:]
	return c
}

// open says whether a list begins, and not EMPTY.
func (p *textReader) open() (bool, error) {
	if p.sign("(") != 0 {
		return true, nil
	}
	if before := p.left; p.word() != "EMPTY" {
		p.left = before
		return false, p.fault()
	}
	return false, nil
}

func (p *textReader) fault() error {
	if p.skip(); p.left == "" {
		return errTextCut
	}
	return fmt.Errorf("is not well-known text at %.20q", p.left)
}

// list reads what stands in brackets, separated by commas.
func (p *textReader) list(one func() error) error {
	some, err := p.open()
	for some && err == nil {
		if err = one(); err == nil {
			switch p.sign(",)") {
			case ')':
				return nil
			case 0:
				return p.fault()
			}
		}
	}
	return err
}

func (p *textReader) geometry(depth int) error {
	if depth > mostNesting {
		return errors.New("is a geometry that nests too deeply")
	}
	kind := p.word()
	for _, end := range []string{"ZM", "Z", "M"} { // POINTZ and POINT Z
		if bare, ok := strings.CutSuffix(kind, end); ok && (bare == "POINT" || bare == "LINESTRING" || bare == "POLYGON" ||
			bare == "MULTIPOINT" || bare == "MULTILINESTRING" || bare == "MULTIPOLYGON" || bare == "GEOMETRYCOLLECTION") {
			kind, p.left = bare, end+" "+p.left
			break
		}
	}
	p.hasZ, p.hasM = false, false
	before := p.left
	switch p.word() {
	case "Z":
		p.hasZ = true
	case "M":
		p.hasM = true
	case "ZM":
		p.hasZ, p.hasM = true, true
	default:
		p.left = before
	}
	s := p.shape
	switch kind {
	case "POINT":
		return p.list(func() error { return p.positionTo(&s.Points) })
	case "LINESTRING":
		return p.positions(&s.Lines)
	case "POLYGON":
		return p.polygon()
	case "MULTIPOINT":
		return p.list(func() error {
			if p.skip(); strings.HasPrefix(p.left, "(") {
				return p.list(func() error { return p.positionTo(&s.Points) })
			}
			return p.positionTo(&s.Points)
		})
	case "MULTILINESTRING":
		return p.list(func() error { return p.positions(&s.Lines) })
	case "MULTIPOLYGON":
		return p.list(p.polygon)
	case "GEOMETRYCOLLECTION":
		return p.list(func() error { return p.geometry(depth + 1) })
	case "":
		return p.fault()
	}
	return fmt.Errorf("is a %s, which is not a point, line or area with straight edges", strings.ToLower(kind))
}

// positions adds a line, or a ring; one that is empty is none.
func (p *textReader) positions(to *[][]layer.Position) error {
	var line []layer.Position
	err := p.list(func() error { return p.positionTo(&line) })
	if len(line) > 0 {
		*to = append(*to, line)
	}
	return err
}

func (p *textReader) polygon() error {
	var rings [][]layer.Position
	err := p.list(func() error { return p.positions(&rings) })
	if len(rings) > 0 {
		p.shape.Polygons = append(p.shape.Polygons, rings)
	}
	return err
}

// positionTo adds a position of two to four numbers.
func (p *textReader) positionTo(to *[]layer.Position) error {
	var v [4]float64
	n := 0
	for ; n < len(v); n++ {
		p.skip()
		end := strings.IndexAny(p.left, " \t\r\n,()")
		if end < 0 {
			end = len(p.left)
		}
		if end == 0 {
			break
		}
		var err error
		if v[n], err = strconv.ParseFloat(p.left[:end], 64); err != nil {
			return fmt.Errorf("%q is not a number", p.left[:end])
		}
		p.left = p.left[end:]
	}
	if n < 2 {
		if p.skip(); p.left == "" {
			return errTextCut
		}
		return errors.New("has a position without two numbers")
	}
	at := layer.Position{X: v[0], Y: v[1], Z: math.NaN(), M: math.NaN()}
	if n > 2 && (p.hasZ || !p.hasM) {
		at.Z, p.shape.HasZ = v[2], true
	}
	if p.hasM && n > 2 || n > 3 {
		at.M, p.shape.HasM = v[n-1], true
	}
	*to = append(*to, at)
	return nil
}

// AppendText writes the geometry of a feature as one of the types, with heights where all of its positions have them.
func AppendText(b []byte, f *layer.Feature, kind uint32) []byte {
	hasZ := f.HasZ()
	b = append(b, [...]string{"", "POINT", "LINESTRING", "POLYGON", "MULTIPOINT", "MULTILINESTRING",
		"MULTIPOLYGON"}[kind]...)
	if hasZ {
		b = append(b, " Z"...)
	}
	line := func(part []layer.Position) {
		for i, p := range part {
			if i > 0 {
				b = append(b, ", "...)
			}
			b = strconv.AppendFloat(b, p.X, 'f', -1, 64)
			b = strconv.AppendFloat(append(b, ' '), p.Y, 'f', -1, 64)
			if hasZ {
				b = strconv.AppendFloat(append(b, ' '), p.Z, 'f', -1, 64)
			}
		}
	}
	lines := func(parts [][]layer.Position) {
		for i, part := range parts {
			b = append(b, [2]string{"(", ", ("}[min(i, 1)]...)
			line(part)
			b = append(b, ')')
		}
	}
	b = append(b, " ("...)
	switch kind {
	case Point, Line:
		line(f.Parts[0])
	case MultiPolygon:
		for i, rings := range f.Polygons() {
			b = append(b, [2]string{"(", ", ("}[min(i, 1)]...)
			lines(rings)
			b = append(b, ')')
		}
	default:
		lines(f.Parts)
	}
	return append(b, ')')
}
