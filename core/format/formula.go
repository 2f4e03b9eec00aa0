package format

import "strings"

// formulaSigns begin what a spreadsheet takes for a formula, or stand before it unseen.
const formulaSigns = "=+-@\t\r\n"

// LikeFormula says whether a text begins as a formula behind any apostrophes.
func LikeFormula(text string) bool {
	bare := strings.TrimLeft(text, "'")
	return bare != "" && strings.IndexByte(formulaSigns, bare[0]) >= 0
}

// FormulaSafe puts an apostrophe in front of a text that a spreadsheet would take for a formula, and of one that looks
// as if it had got one.
func FormulaSafe(text string) string {
	if LikeFormula(text) {
		return "'" + text
	}
	return text
}
