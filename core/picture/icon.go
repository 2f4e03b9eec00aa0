package picture

import (
	"bytes"

	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

// iconSize is the side of an icon in pixels, and iconGlyph that of the symbol on it.
const (
	iconSize  = 48
	iconGlyph = 36
)

// IconPNG draws a symbol on a transparent ground, for viewers that show pictures only. One that is to be tinted is
// white with a dark rim, so that a viewer which multiplies it with a colour shows that colour; any other is dark with a
// light rim. It is nil for a word that is no symbol.
func IconPNG(word string, tinted bool) []byte {
	if _, ok := symbol.ByWord(word); !ok {
		return nil
	}
	white, dark := nav.RGB(255, 255, 255), nav.RGB(38, 50, 56)
	ink, rim := dark, white
	if tinted {
		ink, rim = white, dark
	}
	s := &Scene{Width: iconSize, Height: iconSize}
	s.add(glyph(word, XY{iconSize / 2, iconSize / 2}, iconGlyph, ink, rim)...)
	var out bytes.Buffer
	if err := s.WritePNG(&out); err != nil {
		return nil
	}
	return out.Bytes()
}
