package table

import (
	"strings"

	"gyrolith/core/format/headings"
)

// letters are the hemispheres that stand in columns of their own.
type letters struct {
	o string // what an O of the column means, which is east in some languages and west in others: E, W or "", unknown
}

// lettersOf finds out what an O means: the column's other letter is the opposite, in its title or in its rows.
func lettersOf(title string, cells []string) letters {
	other := headings.Folded(title)
	for _, c := range cells {
		other += " " + strings.ToLower(strings.TrimSpace(c))
	}
	east, west := false, false
	for word := range strings.FieldsSeq(other) {
		east = east || word == "e" || word == "east" || word == "est" || word == "este"
		west = west || word == "w" || word == "west"
	}
	switch {
	case east && !west:
		return letters{o: "W"}
	case west && !east:
		return letters{o: "E"}
	}
	return letters{}
}

// take makes a letter or a word one of two letters; it says no where it is neither for sure.
func (l letters) take(text *string, positive, negative string) bool {
	word := strings.ToUpper(strings.TrimSpace(*text))
	switch {
	case strings.HasPrefix(word, positive):
		*text = positive
	case strings.HasPrefix(word, negative):
		*text = negative
	case positive == "E" && isO(word) && l.o != "":
		*text = l.o
	case positive == "E" && (word == "OST" || word == "ÖST" || word == "ØST" || word == "OOST"):
		*text = positive
	case positive == "E" && (word == "OUEST" || word == "OESTE" || word == "OVEST" || word == "VEST" || word == "VÄST"):
		*text = negative
	default:
		return false
	}
	return true
}

// isO says whether a text is the letter that stands for east in some languages and for west in others.
func isO(text string) bool { return strings.EqualFold(strings.TrimSpace(text), "O") }
