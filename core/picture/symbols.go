package picture

import (
	"strconv"
	"strings"
	"sync"

	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// glyphs draw the neutral symbols, one for each word, in a square of 14 by 14. A part is filled (f), drawn as a line
// (s) or cut out (w); its path has M, L, Z and O for a circle.
var glyphs = map[string]string{
	"mark": "fO7 7 4.8|wO7 7 1.8", "flag": "sM3 13L3 1|fM3 1.5L12.5 4.5L3 7.5Z", "start": "fM3 1L13 7L3 13Z",
	"finish": "fM2 2L12 2L12 12L2 12Z|wM3.2 3.2L7 3.2L7 7L3.2 7Z|wM7 7L10.8 7L10.8 10.8L7 10.8Z",
	"hazard": "fM7 0.5L13.8 13L0.2 13Z|wM6.1 4.6L7.9 4.6L7.5 8.9L6.5 8.9Z|wO7 10.9 1.1",
	"closed": "sO7 7 5.6|sM3.1 10.9L10.9 3.1", "question": "sM3.8 4.8L4.6 2.6L7 1.7L9.4 2.6L10.2 4.8L7 7.4L7 9.4|fO7 " +
		"12.2 1.2", "meeting-point": "fM0.5 3L6 7L0.5 11Z|fM13.5 3L8 7L13.5 11Z",
	"first-aid": "fM5 1L9 1L9 5L13 5L13 9L9 9L9 13L5 13L5 9L1 9L1 5L5 5Z",
	"fuel": "fM1.5 1.5L8 1.5L8 13L1.5 13Z|wM3.2 3.2L6.3 3.2L6.3 6L3.2 6Z|sM8 8L10.2 8L10.2 11.2L12.4 11.2L12.4 " +
		"5L10.4 3",
	"water":  "fM7 0.5L11.2 7.2L11.2 10L9.2 12.8L4.8 12.8L2.8 10L2.8 7.2Z",
	"depot":  "fM2 5.4L12 5.4L12 13L2 13Z|fM0.8 1.6L13.2 1.6L13.2 4.4L0.8 4.4Z|wM5.4 7L8.6 7L8.6 8.6L5.4 8.6Z",
	"camera": "fM0.8 4L4.4 4L5.4 2L8.6 2L9.6 4L13.2 4L13.2 12.4L0.8 12.4Z|wO7 8.2 2.8|fO7 8.2 1.4",
	"summit": "fM7 1L13.4 12.8L0.6 12.8Z|wM7 3.2L8.8 6.6L7 5.6L5.2 6.6Z", "saddle": "sM0.8 3L4 8.6L7 10.2L10 " +
		"8.6L13.2 3",
	"cairn":       "fM2.4 13L11.6 13L10.4 10L3.6 10Z|fM4 9.2L10 9.2L9.2 6.4L4.8 6.4Z|fM5.4 5.6L8.6 5.6L7.8 2.4L6.2 2.4Z",
	"survey-mark": "sM7 1.4L13 12.4L1 12.4Z|fO7 8.8 1.5",
	"plot":        "sM1.8 1.8L12.2 1.8L12.2 12.2L1.8 12.2Z|sM1.8 7L12.2 7|sM7 1.8L7 12.2",
	"sample": "fM4.4 0.8L9.6 0.8L9.6 2.6L8.8 2.6L8.8 10.2L7 13.2L5.2 10.2L5.2 2.6L4.4 2.6Z|wM6.2 4L7.8 4L7.8 " +
		"6L6.2 6Z",
	"nest":    "sM0.8 6.6L2.8 10.8L7 12.6L11.2 10.8L13.2 6.6|fO5 6.8 1.9|fO9 6.8 1.9",
	"hut":     "fM7 1L13.4 7L11.6 7L11.6 13L2.4 13L2.4 7L0.6 7Z|wM5.7 8.8L8.3 8.8L8.3 13L5.7 13Z",
	"shelter": "sM0.8 7.6L7 1.8L13.2 7.6|sM3 6.6L3 12.8|sM11 6.6L11 12.8",
	"camp":    "fM7 1.4L13.4 12.8L0.6 12.8Z|wM7 6.6L9.4 12.8L4.6 12.8Z", "spring": "sO7 8.4 4.4|fO7 8.4 1.8|sM7 " +
		"3.8L7 0.8",
	"lake":      "fM0.6 7L4 3.6L10 3.6L13.4 7L10 10.4L4 10.4Z|wM3.4 6.5L10.6 6.5L10.6 7.5L3.4 7.5Z",
	"waterfall": "sM3 1L3 9.6|sM7 1L7 9.6|sM11 1L11 9.6|sM0.8 12.6L3.9 11.4L7 12.6L10.1 11.4L13.2 12.6",
	"ford": "sM0.8 4L3.9 2.6L7 4L10.1 2.6L13.2 4|sM0.8 11.4L3.9 10L7 11.4L10.1 10L13.2 11.4|fO3 7.2 1.1|fO7 7.2 " +
		"1.1|fO11 7.2 1.1",
	"bridge":     "sM0.6 4L13.4 4|sM3 4L3 12.4|sM11 4L11 12.4|sM3 9L7 6.4L11 9",
	"gate":       "sM1.8 1.4L1.8 12.6|sM12.2 1.4L12.2 12.6|sM1.8 4L12.2 4|sM1.8 9.6L12.2 9.6|sM1.8 9.6L12.2 4",
	"junction":   "sM7 13.2L7 7.2|sM7 7.2L1.8 1.4|sM7 7.2L12.2 1.4",
	"trailhead":  "sM6 13.2L6 0.8|fM6 1.6L11.6 1.6L13.6 3.6L11.6 5.6L6 5.6Z",
	"parking":    "sM1.6 1.6L12.4 1.6L12.4 12.4L1.6 12.4Z|sM5.4 10.6L5.4 3.8L8 3.8L9.4 5L9.4 6.3L8 7.5L5.4 7.5",
	"viewpoint":  "fO7 10 2.6|sM7 5.6L7 1|sM3.6 6.6L0.8 3.4|sM10.4 6.6L13.2 3.4",
	"cave":       "fM0.6 13L1 8.6L3 4L7 1.8L11 4L13 8.6L13.4 13L10 13L9.6 9.6L8.4 7.6L7 7.2L5.6 7.6L4.4 9.6L4 13Z",
	"rock":       "fM0.6 12.4L2.8 6L6 2.6L9 4.6L11.2 4L13.4 12.4Z",
	"rock-awash": "fM3 8L4.8 3.6L8.6 2.4L11 8Z|sM0.6 10.2L3.8 11.8L7 10.2L10.2 11.8L13.4 10.2",
	"wreck":      "fM0.6 8L13.4 8L11 12.6L3 12.6Z|sM6.6 8L9 1|sM4.4 3.8L10.4 5.4",
	"shoal": "fO1.8 7 1.1|fO3.6 3.4 1.1|fO7 2 1.1|fO10.4 3.4 1.1|fO12.2 7 1.1|fO10.4 10.6 1.1|fO7 12 1.1|fO3.6 " +
		"10.6 1.1",
	"overfalls": "sM0.6 3.6L3.8 1.8L7 3.6L10.2 1.8L13.4 3.6|sM0.6 8L3.8 6.2L7 8L10.2 6.2L13.4 8|sM0.6 12.4L3.8 10.6L7 " +
		"12.4L10.2 10.6L13.4 12.4",
	"kelp":      "sM4.4 13.2L3 10L5.4 7L3.4 4L5 0.8|sM9.6 13.2L8.2 10L10.6 7L8.6 4L10.2 0.8",
	"sounding":  "sM7 0.8L7 9|fM7 13.4L3.4 8.6L10.6 8.6Z",
	"anchorage": "sO7 2.6 1.6|sM7 4.2L7 12.6|sM3.8 6.2L10.2 6.2|sM1.4 8.2L2.8 11.2L7 12.9L11.2 11.2L12.6 8.2",
	"mooring":   "fO7 9 4.4|sO7 2.6 1.9", "landing": "fM0.6 9.6L13.4 9.6L11.2 13L2.8 13Z|fM7 0.6L10.6 4.8L8.3 4.8L8.3 " +
		"8.6L5.7 8.6L5.7 4.8L3.4 4.8Z", "jetty": "sM0.6 4.4L13.4 4.4|sM2.6 4.4L2.6 12.4|sM7 4.4L7 12.4|sM11.4 4.4L11.4 12.4",
	"slipway": "fM0.6 3L13.4 10L13.4 12.2L0.6 5.2Z|sM0.6 13L13.4 13",
	"harbour": "sM1.6 13L1.6 3L12.4 3L12.4 13|fM3.8 8L10.2 8L9 11.4L5 11.4Z",
	"buoy":    "fM3.6 10L5.8 3.6L8.2 3.6L10.4 10Z|sM0.6 12.6L3.8 11.4L7 12.6L10.2 11.4L13.4 12.6|fO7 1.6 1.3",
	"beacon":  "fM5.4 13.2L6.2 5L7.8 5L8.6 13.2Z|fM3.4 5L10.6 5L7 0.6Z",
	"light":   "fO7 11 2.2|fM7 8.4L4.6 0.8L9.4 0.8Z|sM4.4 8.4L0.8 4.4|sM9.6 8.4L13.2 4.4",
	"fishing": "fM0.4 7L3.8 3.8L7.8 3.8L10.8 7L13.6 4L13.6 10L10.8 7L7.8 10.2L3.8 10.2Z|wO3.8 6.3 0.9",
	"diving":  "fM0.8 1.8L13.2 1.8L13.2 12.2L0.8 12.2Z|wM0.8 1.8L4 1.8L13.2 9.4L13.2 12.2L10 12.2L0.8 4.6Z",
	"airfield": "fM7 0.6L8.1 5L13.4 8L13.4 9.8L8.1 8.2L7.8 11.2L9.8 12.6L9.8 13.6L7 12.8L4.2 13.6L4.2 12.6L6.2 11.2L5.9 " +
		"8.2L0.6 9.8L0.6 8L5.9 5Z", "airstrip": "sM4 0.8L4 13.2|sM10 0.8L10 13.2|sM7 1.6L7 3.8|sM7 6L7 8.2|sM7 10.4L7 12.6",
	"helipad": "sO7 7 6|sM4.8 3.8L4.8 10.2|sM9.2 3.8L9.2 10.2|sM4.8 7L9.2 7",
	"water-landing": "fM0.8 3.6L13.2 3.6L13.2 5.4L8.4 6L8.4 9L5.6 9L5.6 6L0.8 5.4Z|sM0.6 12.4L3.8 11.2L7 12.4L10.2 " +
		"11.2L13.4 12.4",
	"reporting-point": "fM7 2L12.4 11.6L1.6 11.6Z", "radio-beacon": "fO7 7 1.8|sO7 7 4|sO7 7 6.4",
	"obstacle": "sM2.6 13L7 1L11.4 13|fO7 11.4 1.2", "mast": "sM7 13.2L7 0.8|sM7 0.8L2.4 13.2|sM7 0.8L11.6 13.2",
	"cable":        "sM2.6 1.6L2.6 13|sM11.4 1.6L11.4 13|sM2.6 3.4L7 6.6L11.4 3.4",
	"wind-turbine": "sM7 13.2L7 6|sM7 6L7 0.8|sM7 6L2.4 8.8|sM7 6L11.6 8.8|fO7 6 1.3",
	"drop-zone":    "fM0.6 6.4L2.8 2.8L7 0.8L11.2 2.8L13.4 6.4Z|sM1 6.4L7 13L13 6.4|sM7 6.4L7 13",
}

// glyphSize is the side of the square that glyphs are drawn in.
const glyphSize = 14

// part is a piece of a glyph.
type part struct {
	kind byte
	path []Op
}

var parsedGlyphs = sync.OnceValue(func() map[string][]part {
	out := map[string][]part{}
	for word, text := range glyphs {
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
