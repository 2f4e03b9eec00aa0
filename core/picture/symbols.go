package picture

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"

	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

//go:embed glyphs.txt
var glyphs string

// glyphSize is the side of the square that glyphs are drawn in.
const glyphSize = 14

// part is a piece of a glyph.
type part struct {
	kind byte
	path []Op
}

var parsedGlyphs = sync.OnceValue(func() map[string][]part {
	out := map[string][]part{}
	for line := range strings.Lines(glyphs) {
		word, text, _ := strings.Cut(strings.TrimSpace(line), ": ")
		if strings.HasPrefix(word, "#") || text == "" {
			continue
		}
		for p := range strings.SplitSeq(text, "|") {
			out[word] = append(out[word], part{p[0], parsePath(p[1:])})
		}
	}
	return out
})

// parsePath reads M, L, Z and O with their numbers.
func parsePath(text string) (ops []Op) {
	for text != "" {
		kind := text[0]
		end := strings.IndexAny(text[1:], "MLZO") + 1
		if end == 0 {
			end = len(text)
		}
		var v [3]float64
		for i, f := range strings.Fields(text[1:end]) {
			v[i], _ = strconv.ParseFloat(f, 64)
		}
		ops = append(ops, Op{Kind: kind, XY: XY{v[0], v[1]}, R: v[2]})
		text = text[end:]
	}
	return
}

// glyph gives the shapes of a symbol about a place, with a rim of the paper's colour so that it stands out on any
// ground.
func glyph(word string, at XY, size float64, ink, paper nav.Colour) (out []Shape) {
	parts, ok := parsedGlyphs()[word]
	for w := symbol.Meaning(word); !ok && w != ""; w = symbol.Like(w) {
		parts, ok = parsedGlyphs()[w]
	}
	if !ok {
		parts = parsedGlyphs()["mark"]
	}
	k := size / glyphSize
	moved := func(ops []Op) []Op {
		m := make([]Op, len(ops))
		for i, op := range ops {
			m[i] = Op{op.Kind, XY{at.X + (op.X-glyphSize/2)*k, at.Y + (op.Y-glyphSize/2)*k}, op.R * k}
		}
		return m
	}
	for _, p := range parts {
		if p.kind != 'w' {
			out = append(out, Shape{Path: moved(p.path), Stroke: paper, Width: 4.2 * k})
		}
	}
	for _, p := range parts {
		s := Shape{Path: moved(p.path)}
		switch p.kind {
		case 'f':
			s.Fill = ink
		case 's':
			s.Stroke, s.Width = ink, 1.7*k
		case 'w':
			s.Fill = paper
		}
		out = append(out, s)
	}
	return
}
