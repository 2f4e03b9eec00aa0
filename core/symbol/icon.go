package symbol

import "strings"

// Symbols that are shown as pictures have an address that says the word, so that it is found again: a file in a folder
// of our own, or the picture itself (RFC 2397) with the word as a parameter.
const (
	iconFolder = "gyrolith-symbols/"
	iconData   = "data:image/png;gyrolith-symbol="
	tintedMark = "-tinted"
)

// IconFile is the name of the file of a symbol's picture.
func IconFile(word string, tinted bool) string {
	if tinted {
		word += tintedMark
	}
	return iconFolder + word + ".png"
}

// IconData is the address of a symbol's picture that is in the address itself, in base64.
func IconData(word, base64 string) string { return iconData + word + ";base64," + base64 }

// OfIcon gives the word of a picture of ours, by its address; "" where it is none.
func OfIcon(href string) string {
	if rest, ok := strings.CutPrefix(href, iconData); ok {
		word, _, _ := strings.Cut(rest, ";")
		return known(word)
	}
	if rest, ok := strings.CutPrefix(href, iconFolder); ok {
		if word, ok := strings.CutSuffix(rest, ".png"); ok {
			return known(strings.TrimSuffix(word, tintedMark))
		}
	}
	return ""
}

func known(word string) string {
	if s, ok := ByWord(word); ok && s.Word == word {
		return word
	}
	return ""
}
