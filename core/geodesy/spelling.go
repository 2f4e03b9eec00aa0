package geodesy

import (
	"cmp"
	"strings"

	"gyrolith/core/pattern"
)

// signs are words for parts of angles in the languages of offices, in capital letters, by what stands for them.
var signs = byWord(map[string]string{
	"°": "GRAD GRADO GRADOS GRADI GRAU GRAUS DEGRÉ DEGRÉS GRADEN GRADER STOPNI STOPNIE",
	"'": "MINUTEN MINUTO MINUTOS MINUTI MINUTER MINUTTER MINUTY MINUT",
	`"`: "SEKUNDE SEKUNDEN SEGUNDO SEGUNDOS SECONDI SECONDO SECONDE SECONDES SECONDEN SEKUNDER SEKUND SEKUNDY",
})

// hemispheres are their words in the languages of offices, with the marks of letters and without. An o alone is east in
// the languages of the north and west in those of the south; an ö is that of öst.
var hemispheres = byWord(map[string]string{
	"N": "N NORTH NORTHERN NORD NORTE NOORD NORDLIG NORDL NORDLICH NORDLICHE NÖRDL NÖRDLICH NÖRDLICHE",
	"S": "S SOUTH SOUTHERN SUD SÜD SUED SUR SUL ZUID SYD SYDLIG SOR SØR SUDL SUDLICH SUDLICHE SÜDL SÜDLICH SÜDLICHE",
	"E": "E EAST EASTERN EST ESTE LESTE OST ÖST ØST OOST OSTL OSTLICH OSTLICHE ÖSTL ÖSTLICH ÖSTLICHE Ö Ø",
	"W": "W WEST WESTERN OUEST OESTE OVEST VEST VAST VÄST WESTL WESTLICH WESTLICHE",
	"O": "O",
})

func byWord(lists map[string]string) map[string]string {
	out := map[string]string{}
	for of, words := range lists {
		for w := range strings.FieldsSeq(words) {
			out[w] = of
		}
	}
	return out
}

// Hemisphere is that of a word or a letter in any of the languages of offices: N, S, E, W, O where it is an O that
// could be east or west, or "".
func Hemisphere(word string) string { return hemispheres[strings.ToUpper(strings.TrimSpace(word))] }

var (
	longerWord = pattern.New(`\pL{3,}`)
	// As talker sentences have it, with commas: 4730.2500,N,01118.0000,E.
	talkerForm   = pattern.New(`^(\d{4,6}(?:\.\d+)?) ?, ?([NS])[ ,;/]+(\d{5,7}(?:\.\d+)?) ?, ?([EW])$`)
	partingComma = pattern.New(`[NSEW°'"] ?, `)
	commaBetween = pattern.New(`(\d),(\d)`)
	// The letters of degrees, minutes and seconds: 47D30M15S.
	letterForm = pattern.New(`(\d{1,3}) ?D ?(\d{1,2}(?:\.\d+)?) ?M(?: ?(\d{1,2}(?:\.\d+)?) ?S\b)?`)
)

// respelled brings other spellings of a position, in capital letters, to signs.
func respelled(s string) string {
	if m := talkerForm.FindStringSubmatch(s); m != nil {
		return m[1] + m[2] + " " + m[3] + m[4]
	}
	if strings.Contains(s, "D") {
		s = letterForm.ReplaceAllStringFunc(s, func(angle string) string {
			m := letterForm.FindStringSubmatch(angle)
			if m[3] != "" {
				m[3] += `"`
			}
			return m[1] + "°" + m[2] + "'" + m[3] + " "
		})
	}
	s = longerWord.ReplaceAllStringFunc(s, func(word string) string {
		switch word {
		case "NORTH", "SOUTH", "EAST", "WEST": // which belong to forms that are read as they stand
			return word
		}
		return cmp.Or(signs[word], Hemisphere(word), word)
	})
	if !strings.Contains(s, ".") && partingComma.MatchString(s) { // beside which those between digits are decimal signs
		s = commaBetween.ReplaceAllString(s, "$1.$2")
	}
	return s
}
