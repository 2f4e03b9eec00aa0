package unit

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

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
	runes := []rune(set)
	for i := 0; i < len(runes); i++ {
		if i+2 < len(runes) && runes[i+1] == '-' {
			if r >= runes[i] && r <= runes[i+2] {
				return true
			}
			i += 2
		} else if r == runes[i] {
			return true
		}
	}
	return false
}

// spelled brings a text to the characters and case that a unit can show: accents go, what is left and is not among the
// characters becomes a blank, and runs of blanks become one.
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
	for _, r := range form {
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
		default:
			b.WriteByte(' ')
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// bare gives a letter without its accent, where a set has that; 0 where not.
func bare(set string, r rune) rune {
	base, _ := utf8.DecodeRuneInString(norm.NFD.String(letters.Replace(string(r))))
	if allowed(set, base) {
		return base
	}
	return 0
}

// small words are the first to go from a name that is too long.
var small = map[string]bool{"the": true, "to": true, "of": true, "and": true, "a": true, "an": true, "at": true,
	"on": true, "in": true, "from": true}

// shorten brings a name to a length so that it can still be told from its like: punctuation and small words go,
// then the vowels of the longest words, then letters at their ends; the last word and a number at the end stay.
func shorten(name string, length int, blank string) string {
	if blank == "" && length > 0 && utf8.RuneCountInString(strings.ReplaceAll(name, " ", "")) <= length || length == 0 ||
		utf8.RuneCountInString(name) <= length {
		return strings.ReplaceAll(name, " ", blank)
	}
	words := strings.FieldsFunc(name, func(r rune) bool { return r == ' ' || r == ',' || r == ';' })
	size := func() int { return utf8.RuneCountInString(strings.Join(words, blank)) }
	for i := 0; i < len(words)-1 && size() > length; {
		if small[strings.ToLower(words[i])] {
			words = append(words[:i], words[i+1:]...)
		} else {
			i++
		}
	}
	if len(words) == 0 {
		return string([]rune(name)[:length])
	}
	if length <= identifier && len(words) > 1 {
		return shortIdentifier(words, length)
	}
	last := len(words) - 1
	keep := 1 // words at the end that stay whole while that is possible
	if last > 0 && isNumber(words[last]) {
		keep = 2
	}
	for ; keep >= 1; keep-- {
		shrink(words[:max(0, len(words)-keep)], size, length, lastVowel)
	}
	shrink(words[:last], size, length, lastLetter)
	for size() > length && len(words) > 1 {
		words = words[1:]
	}
	runes := []rune(strings.Join(words, blank))
	if len(runes) > length {
		runes = runes[:length]
	}
	return strings.TrimSpace(string(runes))
}

// identifier is the greatest length of names that are too short for words.
const identifier = 6

// shortIdentifier makes an identifier of a name of several words: the start of the first one, and of the last two
// letters, or the whole of a number: Lantern Head north is LANNO, Rock 10 is ROC10.
func shortIdentifier(words []string, length int) string {
	first, last := []rune(words[0]), []rune(words[len(words)-1])
	tail := last[:min(len(last), max(length/2, 1))]
	if isNumber(string(last)) && len(last) < length {
		tail = last
	}
	head := first[:min(len(first), length-len(tail))]
	return string(head) + string(last[:min(len(last), max(length-len(head), len(tail)))])
}

// shrink takes letters out of the longest of some words, one by one, until the name is short enough or no word
// has one left to give.
func shrink(words []string, size func() int, length int, give func([]rune) int) {
	for size() > length {
		longest, at := -1, -1
		for i, w := range words {
			runes := []rune(w)
			if j := give(runes); j >= 0 && (longest < 0 || len(runes) > utf8.RuneCountInString(words[longest])) {
				longest, at = i, j
			}
		}
		if longest < 0 {
			return
		}
		runes := []rune(words[longest])
		words[longest] = string(append(runes[:at:at], runes[at+1:]...))
	}
}

// lastVowel finds the last vowel inside a word.
func lastVowel(word []rune) int {
	for i := len(word) - 2; i > 0; i-- {
		if strings.ContainsRune("aeiouAEIOU", word[i]) {
			return i
		}
	}
	return -1
}

func lastLetter(word []rune) int {
	if len(word) < 2 {
		return -1
	}
	return len(word) - 1
}

func isNumber(word string) bool {
	return strings.IndexFunc(word, unicode.IsDigit) >= 0 && len(word) <= 6
}

// Namer gives fitted names that differ from one another, whatever their case.
type Namer struct {
	text Text
	used map[string]bool
}

// NewNamer makes a namer that has given no name yet.
func NewNamer(t Text) *Namer { return &Namer{t, map[string]bool{}} }

// Widen allows names of a greater length from here on.
func (n *Namer) Widen(length int) { n.text.Length = length }

// Fit gives a name that fits, or one made of the fallback where nothing of the name can be shown.
func (n *Namer) Fit(name, fallback string) string {
	blank := " "
	if n.text.Characters != "" && !allowed(n.text.Characters, ' ') {
		blank = ""
	}
	name = spelled(&n.text, name)
	if name == "" {
		name = spelled(&n.text, fallback)
	}
	short := shorten(name, n.text.Length, blank)
	if n.text.Unique == "none" {
		return short
	}
	for i := 2; n.used[strings.ToLower(short)]; i++ {
		number := fmt.Sprintf("%s%d", blank, i)
		if n.text.Length == 0 {
			short = strings.ReplaceAll(name, " ", blank) + number
			continue
		}
		short = shorten(name, max(n.text.Length-len(number), 1), blank) + number
	}
	n.used[strings.ToLower(short)] = true
	return short
}

// reserved are names that some card's system keeps for devices.
var reserved = map[string]bool{"con": true, "prn": true, "aux": true, "nul": true, "com1": true, "com2": true,
	"com3": true,
	"com4": true, "com5": true, "com6": true, "com7": true, "com8": true, "com9": true, "lpt1": true, "lpt2": true,
	"lpt3": true, "lpt4": true, "lpt5": true, "lpt6": true, "lpt7": true, "lpt8": true, "lpt9": true}

// FileNameLength is the most characters of a file's name, unless a profile says otherwise.
const FileNameLength = 40

// FileName makes of a text a file name that every card's system takes: no separators, no leading or trailing
// dots or blanks, no device's name.
func FileName(text string, length int) string {
	name := spelled(&Text{Characters: "A-Za-z0-9 ()_-"}, text)
	name = strings.Trim(shorten(name, length, " "), " -")
	if name == "" {
		name = "unnamed"[:min(length, 7)]
	}
	if reserved[strings.ToLower(name)] {
		name += "_"
	}
	return name
}
