package headings

import (
	"slices"
	"strings"
)

// sides are the words and letters of the hemispheres, folded. An o is east in the languages of the north and west in
// those of the south.
var sides = func() map[string]string {
	out := map[string]string{}
	for side, words := range map[string]string{
		"N": "n north northern nord norte noord nordlig nordl nordliche",
		"S": "s south southern sud sur sul zuid syd sor sydlig sudl sudliche",
		"E": "e east eastern est este leste ost oost ostl ostliche",
		"W": "w west western ouest oeste ovest vest vast westl westliche",
		"O": "o",
	} {
		for w := range strings.FieldsSeq(words) {
			out[w] = side
		}
	}
	return out
}()

// plainAngle are words that may stand beside a side: Lat (deg S).
var plainAngle = strings.Fields("deg degs degree degrees grad grados gradi dd decimal dec d")

// SideOf finds the hemisphere that the title of a column of latitudes or longitudes names, in brackets or beside the
// word: N, S, E, W, O where the letter could be east or west, or "". A title that says more, as in (S negative) or
// (N/S), names none.
func SideOf(title, holds string) string {
	of := func(text string) (side string, only bool) {
		only = true
		for _, w := range strings.Fields(text) {
			s, is := sides[w]
			switch {
			case is && side == "":
				side = s
			case is || !slices.Contains(plainAngle, w):
				only = false
			}
		}
		return side, only
	}
	side := ""
	if p := inBrackets.FindStringSubmatch(title); p != nil {
		s, only := of(Folded(p[1]))
		if !only {
			return ""
		}
		side = s
	}
	if side == "" {
		_, side = withoutSide(Folded(inBrackets.ReplaceAllString(title, " ")))
	}
	switch {
	case holds == "lat" && (side == "N" || side == "S"), holds == "lon" && (side == "E" || side == "W"):
		return side
	case holds == "lon" && side == "O":
		return meantByO(title)
	}
	return ""
}

// meantByO decides an O by the language of its title where that is sure.
func meantByO(title string) string {
	switch word := Folded(title); {
	case strings.Contains(word, "lang"), strings.Contains(word, "laeng"), strings.Contains(word, "leng"):
		return "E" // Ost, Öst, Øst, oost
	case strings.Contains(word, "longitud"):
		return "W" // ouest, oeste, ovest
	}
	return "O"
}

// withoutSide takes one word of a hemisphere off either end of a folded title: latitude south becomes latitude.
func withoutSide(folded string) (rest, side string) {
	words := strings.Fields(folded)
	if len(words) < 2 {
		return folded, ""
	}
	last := len(words) - 1
	if s, is := sides[words[last]]; is {
		return strings.Join(words[:last], " "), s
	}
	if s, is := sides[words[0]]; is {
		return strings.Join(words[1:], " "), s
	}
	return folded, ""
}
