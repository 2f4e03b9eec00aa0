package headings

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"gyrolith/core/geodesy"
)

// Side is the hemisphere of a word of a title, as geodesy.Hemisphere gives it.
func Side(word string) string {
	return cmp.Or(geodesy.Hemisphere(word), geodesy.Hemisphere(Folded(word)))
}

// plainAngle are words that may stand beside a side: Lat (deg S).
var plainAngle = strings.Fields("deg degs degree degrees grad grados gradi dd decimal dec d")

// SideOf finds the hemisphere that the title of a column of latitudes or longitudes names, in brackets or beside the
// word, as Side gives it. A title that says more, as in (S negative) or (N/S), names none.
func SideOf(title, holds string) string {
	side := ""
	if p := inBrackets.FindStringSubmatch(title); p != nil {
		for _, w := range wordsOf(p[1]) {
			switch s := Side(w); {
			case s != "" && side == "":
				side = s
			case s != "" || !slices.Contains(plainAngle, Folded(w)):
				return ""
			}
		}
	}
	if side == "" {
		_, side = withoutSide(title)
	}
	switch {
	case holds == "lat" && (side == "N" || side == "S"), holds == "lon" && (side == "E" || side == "W"):
		return side
	case holds == "lon" && side == "O":
		return cmp.Or(MeantByO([]string{title}), "O")
	}
	return ""
}

// The beginnings of titles, folded, in languages in which an O is east, and in which it is west.
var (
	easterly = strings.Fields("lang laeng leng breit bredde hohe hoehe hoyde hoj hoogte zeit bemerk beschreib navn namn " +
		"naam tiefe dybde diepte geschw punkt uhr tijd")
	westerly = strings.Fields("longitud longitudine latitud latitudine nombre nome nom altitud altitudine altura cota " +
		"quota fecha heure hora descripcion descrizione descricao commentaire commentaires commento comentario comentarios " +
		"remarque remarques observaciones profondeur profundidad profondita velocidad velocita vitesse fuso huso punto " +
		"ponto jour dia hauteur")
)

// MeantByO decides by the language of titles what an O stands for: E, W, or "" where that is not sure.
func MeantByO(titles []string) string {
	east, west := false, false
	for _, title := range titles {
		for w := range strings.FieldsSeq(Folded(title)) {
			east = east || slices.ContainsFunc(easterly, func(begin string) bool { return strings.HasPrefix(w, begin) })
			west = west || slices.Contains(westerly, w)
		}
	}
	switch {
	case east && !west:
		return "E"
	case west && !east:
		return "W"
	}
	return ""
}

// withoutSide takes one word of a hemisphere off either end of a title, without what is in brackets: latitude south
// becomes latitude. The rest is folded.
func withoutSide(title string) (rest, side string) {
	words := wordsOf(inBrackets.ReplaceAllString(title, " "))
	if last := len(words) - 1; last > 0 {
		if side = Side(words[last]); side != "" {
			words = words[:last]
		} else if side = Side(words[0]); side != "" {
			words = words[1:]
		}
	}
	return Folded(strings.Join(words, " ")), side
}

func wordsOf(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
}

// SaysGrad says whether a title names grad, which are degrees in German and gon elsewhere, beside a word that doesn't
// tell the language.
func SaysGrad(title string) bool {
	p := inBrackets.FindStringSubmatch(title)
	if p == nil || Folded(p[1]) != "grad" && Folded(p[1]) != "grads" {
		return false
	}
	rest := Folded(inBrackets.ReplaceAllString(title, " "))
	return strings.HasPrefix(rest, "lat") || strings.HasPrefix(rest, "lon") || strings.HasPrefix(rest, "lng")
}
