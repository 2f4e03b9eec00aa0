package xmlscan

import (
	"unicode"
	"unicode/utf8"
)

// nameByte tells the bytes that a name can be made of: letters, digits, a few marks, and all that is not ASCII.
var nameByte = func() (t [256]bool) {
	for c := range t {
		t[c] = c >= 0x80 || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' ||
			c == '_' || c == '-' || c == '.' || c == ':'
	}
	return
}()

// nameStart and nameMore are the characters beyond ASCII that a name may begin with, and may have behind its
// first one (XML 1.0, fifth edition, productions 4 and 4a).
var (
	nameStart = &unicode.RangeTable{
		R16: []unicode.Range16{{Lo: 0xC0, Hi: 0xD6, Stride: 1}, {Lo: 0xD8, Hi: 0xF6, Stride: 1},
			{Lo: 0xF8, Hi: 0x2FF, Stride: 1},
			{Lo: 0x370, Hi: 0x37D, Stride: 1}, {Lo: 0x37F, Hi: 0x1FFF, Stride: 1}, {Lo: 0x200C, Hi: 0x200D, Stride: 1},
			{Lo: 0x2070, Hi: 0x218F, Stride: 1}, {Lo: 0x2C00, Hi: 0x2FEF, Stride: 1}, {Lo: 0x3001, Hi: 0xD7FF, Stride: 1},
			{Lo: 0xF900, Hi: 0xFDCF, Stride: 1}, {Lo: 0xFDF0, Hi: 0xFFFD, Stride: 1}},
		R32: []unicode.Range32{{Lo: 0x10000, Hi: 0xEFFFF, Stride: 1}},
	}
	nameMore = &unicode.RangeTable{R16: []unicode.Range16{{Lo: 0xB7, Hi: 0xB7, Stride: 1},
		{Lo: 0x300, Hi: 0x36F, Stride: 1},
		{Lo: 0x203F, Hi: 0x2040, Stride: 1}}}
)

// badName says whether bytes that nameByte allows are no name all the same. A name has one colon at most
// (Namespaces in XML 1.0, production 7).
func badName(b []byte) bool {
	if len(b) == 0 || b[0] >= '0' && b[0] <= '9' || b[0] == '-' || b[0] == '.' {
		return true
	}
	colons, ascii := 0, true
	for _, c := range b {
		if c == ':' {
			colons++
		}
		ascii = ascii && c < 0x80
	}
	return colons > 1 || !ascii && badLetters(b)
}

func badLetters(b []byte) bool {
	first := true
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		switch {
		case r == utf8.RuneError && n == 1:
			return true
		case r >= 0x80 && !unicode.Is(nameStart, r) && (first || !unicode.Is(nameMore, r)):
			return true
		}
		first = r == ':'
		b = b[n:]
	}
	return false
}
