package format

import (
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"

	"gyrolith/core/format/xmlscan"
)

// DecodeText gives a text as UTF-8, without a byte order mark. What is in no Unicode encoding is taken as Windows-1252,
// and that is said. A text that was cut off inside of a letter is still UTF-8.
func DecodeText(raw []byte) (text []byte, guessed bool) {
	text = raw
	if enc, _, skip := xmlscan.DetectEncoding(raw); enc == encoding.Nop {
		text = raw[skip:]
	} else if enc != nil {
		if t, err := enc.NewDecoder().Bytes(raw[skip:]); err == nil {
			text = t
		}
	}
	if utf8.Valid(text) {
		return text, false
	}
	for cut := 1; cut < utf8.UTFMax && cut < len(text); cut++ {
		if end := text[len(text)-cut:]; utf8.RuneStart(end[0]) && !utf8.FullRune(end) {
			if utf8.Valid(text[:len(text)-cut]) {
				return text, false
			}
		}
	}
	if t, err := charmap.Windows1252.NewDecoder().Bytes(text); err == nil {
		return t, true
	}
	return text, false
}
