package geodesy

import (
	"strings"

	"gyrolith/core/pattern"
)

// spelled are words for parts and hemispheres of angles in the languages of offices, in capital letters, and what
// stands for them.
var spelled = func() map[string]string {
	out := map[string]string{}
	for sign, words := range map[string]string{
		"°": "GRAD GRADO GRADOS GRADI GRAU GRAUS DEGRÉ DEGRÉS GRADEN GRADER STOPNI STOPNIE",
		"'": "MINUTEN MINUTO MINUTOS MINUTI MINUTER MINUTTER MINUTY MINUT",
		`"`: "SEKUNDE SEKUNDEN SEGUNDO SEGUNDOS SECONDI SECONDO SECONDE SECONDES SECONDEN SEKUNDER SEKUND SEKUNDY",
		"N": "NORD NORTE NOORD NÖRDLICH",
		"S": "SÜD SUED SUR SUD ZUID SYD SØR SUL SÜDLICH",
		"E": "OST ESTE EST OOST ÖST ØST ÖSTLICH LESTE",
		"W": "OUEST OESTE OVEST VEST VÄST WESTLICH",
	} {
		for w := range strings.FieldsSeq(words) {
			out[w] = sign
		}
	}
	return out
}()

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
		if sign, ok := spelled[word]; ok {
			return sign
		}
		return word
	})
	if !strings.Contains(s, ".") && partingComma.MatchString(s) { // beside which those between digits are decimal signs
		s = commaBetween.ReplaceAllString(s, "$1.$2")
	}
	return s
}
