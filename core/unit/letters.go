package unit

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/mozillazg/go-unidecode"
	"golang.org/x/text/unicode/norm"
)

// letters are spelt out where taking an accent away does not bring them into the Latin alphabet.
var letters = strings.NewReplacer("ß", "ss", "æ", "ae", "Æ", "Ae", "œ", "oe", "Œ", "Oe", "ø", "o", "Ø", "O", "đ", "d",
	"Đ", "D",
	"ð", "d", "Ð", "D", "þ", "th", "Þ", "Th", "ł", "l", "Ł", "L", "ı", "i", "’", "'", "‘", "'", "“", "\"", "”", "\"",
	"–", "-", "—", "-", "…", "...", "°", "deg", "№", "No", "×", "x")

// allowed says whether a character is in a set with ranges, such as "A-Za-z0-9 .-".
func allowed(set string, r rune) bool {
	if set == "" {
		return unicode.IsPrint(r)
	}
	for rest := set; rest != ""; {
		from, n := utf8.DecodeRuneInString(rest)
		rest = rest[n:]
		to := from
		if len(rest) > 1 && rest[0] == '-' {
			to, n = utf8.DecodeRuneInString(rest[1:])
			rest = rest[1+n:]
		}
		if r >= from && r <= to {
			return true
		}
	}
	return false
}

// spelled brings a text to the characters and case that a unit can show: accents go, other scripts are transliterated,
// what is left and is not among the characters becomes a blank, and runs of blanks become one. Digits stay, and those
// that a character joins into one number stay joined.
func spelled(t *Text, text string) string {
	switch t.Case {
	case "upper":
		text = strings.ToUpper(text)
	case "lower":
		text = strings.ToLower(text)
	}
	set := t.Characters
	if set == "" && (t.Accents == "keep" || t.Accents == "") {
		return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsPrint(r) || r == ' ' }), " ")
	}
	form := norm.NFD.String(text)
	switch t.Accents {
	case "", "spell":
		form = norm.NFD.String(letters.Replace(text))
	case "keep":
		form = norm.NFC.String(text)
	}
	var b strings.Builder
	runes := []rune(form)
	for i, r := range runes {
		switch {
		case allowed(set, r) && !(unicode.Is(unicode.Mn, r) && t.Accents != "keep"):
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r), r == '\'':
		case t.Accents == "keep" && bare(set, r) != 0:
			b.WriteRune(bare(set, r))
		case allowed(set, unicode.ToUpper(r)):
			b.WriteRune(unicode.ToUpper(r))
		case allowed(set, unicode.ToLower(r)):
			b.WriteRune(unicode.ToLower(r))
		case i > 0 && i+1 < len(runes) && unicode.IsDigit(runes[i-1]) && unicode.IsDigit(runes[i+1]) && r != ' ':
			b.WriteString(joint(set, r))
		case t.Accents != "drop" && r > unicode.MaxASCII:
			b.WriteString(latin(t, r))
		default:
			b.WriteByte(' ')
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// joint is what stands between two digits of one number where a set lacks the character that did: 3.5, 12/3.
func joint(set string, was rune) string {
	order := []rune{'-', '/', '_', '.', 'x', 'X'}
	if was == '.' || was == ',' {
		order = []rune{'.', ',', '-', '_', 'x', 'X'}
	}
	for _, c := range order {
		if allowed(set, c) {
			return string(c)
		}
	}
	return " "
}

// latin transliterates a letter into characters of a set; a blank where there are none.
func latin(t *Text, r rune) string {
	var b strings.Builder
	for _, c := range unidecode.Unidecode(string(r)) {
		switch {
		case allowed(t.Characters, c):
			b.WriteRune(c)
		case allowed(t.Characters, unicode.ToUpper(c)):
			b.WriteRune(unicode.ToUpper(c))
		case allowed(t.Characters, unicode.ToLower(c)):
			b.WriteRune(unicode.ToLower(c))
		case c != '\'':
			b.WriteByte(' ')
		}
	}
	if b.Len() == 0 && !unicode.IsLetter(r) {
		return " "
	}
	return b.String()
}

// bare gives a letter without its accent, where a set has that; 0 where not.
func bare(set string, r rune) rune {
	base, _ := utf8.DecodeRuneInString(norm.NFD.String(letters.Replace(string(r))))
	if allowed(set, base) {
		return base
	}
	return 0
}
