package picture

import (
	"slices"
	"strings"
	"sync"

	"golang.org/x/image/font/sfnt"
)

// known remembers which letters the font has.
var known sync.Map

// missing says whether the font that comes with the program lacks a letter.
func missing(r rune) bool {
	if lacks, ok := known.Load(r); ok {
		return lacks.(bool)
	}
	var buffer sfnt.Buffer
	glyph, err := parsedFonts()[0].GlyphIndex(&buffer, r)
	lacks := err != nil || glyph == 0
	known.Store(r, lacks)
	return lacks
}

// missingLetters lists the letters in the texts of a scene that the font lacks, and the first text that has one.
func (s *Scene) missingLetters() (letters, first string) {
	var found []rune
	for i := range s.Shapes {
		for _, r := range s.Shapes[i].Text {
			if r > ' ' && missing(r) && !slices.Contains(found, r) {
				if found = append(found, r); first == "" {
					first = s.Shapes[i].Text
				}
			}
		}
	}
	const few = 12
	parts := make([]string, 0, few)
	for _, r := range found[:min(len(found), few)] {
		parts = append(parts, string(r))
	}
	letters = strings.Join(parts, " ")
	if len(found) > few {
		letters += " …"
	}
	return letters, first
}
