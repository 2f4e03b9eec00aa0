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
	enc, mark := Encoding(raw)
	if text = raw[mark:]; enc != nil {
		if t, err := enc.NewDecoder().Bytes(text); err == nil {
			text = t
		}
	}
	if IsUTF8(text, true) {
		return text, false
	}
	if t, err := charmap.Windows1252.NewDecoder().Bytes(text); err == nil {
		return t, true
	}
	return text, false
}

// Encoding tells the encoding of a text from its first bytes, and how many of them are a mark. Nil is UTF-8, or nothing
// that they tell.
func Encoding(head []byte) (enc encoding.Encoding, mark int) {
	if enc, _, mark = xmlscan.DetectEncoding(head); enc == encoding.Nop {
		enc = nil
	}
	return enc, mark
}

// IsUTF8 says whether a text is UTF-8. One that ends there may have been cut off inside of a letter.
func IsUTF8(text []byte, ends bool) bool {
	if utf8.Valid(text) {
		return true
	}
	for cut := 1; ends && cut < utf8.UTFMax && cut < len(text); cut++ {
		if end := text[len(text)-cut:]; utf8.RuneStart(end[0]) && !utf8.FullRune(end) {
			return utf8.Valid(text[:len(text)-cut])
		}
	}
	return false
}
