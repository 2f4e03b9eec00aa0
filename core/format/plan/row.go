package plan

import (
	"slices"
	"strings"
	"unicode/utf8"

	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/pattern"
)

// token is a word of a row.
type token struct {
	text       string
	start, end int // in the row's text, in letters
	number     bool
}

// place is a position found in a row.
type place struct {
	from, to int // tokens, to not included
	lat, lon float64
	level    string // a level that was tied to the position with a slash
}

// row is one line of the text.
type row struct {
	line   int
	text   string
	tokens []token
	places []place
	of     messageRow // where it is of a flight plan message
	fault  error      // what keeps the most likely position from being one
	faulty string
}

func (r *row) blank() bool { return len(r.tokens) == 0 }

// prose says whether the words beside the position run on like a sentence: five in small letters, not set off in a
// column of their own.
func (r *row) prose() bool { return r.wordsBeside() >= 5 && !apart.MatchString(r.text) }

// ofTwoCells says whether a position is nothing but two numbers in two cells of a table.
func (r *row) ofTwoCells(p place) bool {
	pair, text := r.tokens[p.from:p.to], []rune(r.text)
	return len(pair) == 2 && pair[0].number && pair[1].number && pair[1].start <= len(text) &&
		strings.ContainsAny(string(text[pair[0].start:pair[1].start]), ",;\t")
}

// wordsBeside counts the words in small letters that are no part of a position: a row of a plan has few.
func (r *row) wordsBeside() (n int) {
	for i, t := range r.tokens {
		part := slices.ContainsFunc(r.places, func(p place) bool { return i >= p.from && i < p.to })
		if !part && len(t.text) > 1 && strings.ToUpper(t.text) != t.text && strings.ToLower(t.text) == t.text {
			n++
		}
	}
	return
}

var (
	numberToken = pattern.New(`^[-+−]?\d+(?:[.,]\d+)?$`)
	// What a position may begin with.
	opening = pattern.New(
		`(?i)^(?:[-+−(]?\.?\d|[NSEW]\.?$|[NSEW]\s?\d|lat|latitude:?|utm|ups|mgrs|zone|` +
			`[2-9CFGHJMPQRVWX]{8}\+|[ABYZ]$|[ABYZ]\s?[A-HJ-NP-Z]{2})`)
	thousands = pattern.New(`(?:^|[^\d.])\d{1,3},\d{3}(?:\D|$)`)
	apart     = pattern.New(`\t|\||  +\S`)
	bracketed = pattern.New(`\(\s*([-+−\dNSEWnsew][^()]*\d[^()]*)\)`)
	chained   = pattern.New(`(?:^| )[A-Z]{3,5}(?:[-,>][A-Z]{3,5})+(?: |$)`)
	geoURI    = pattern.New(`(?i)\bgeo:[-\d.]+,[-\d.]+(?:,[-\d.]+)?(?:;[-\w.=;]*)?`)
	bullets   = pattern.New(`^(?:[-*•–>»]|\d{1,3}[.):])$`)
)

// joints are the signs between names that are chained to one word.
var joints = strings.NewReplacer("-", " ", ",", " ", ">", " ")

// mostTokens is how many words one position takes at most: 47 deg 36 min 00 sec S and as many for the longitude.
const mostTokens = 16

// newRow cuts a line into words. Tabs and strokes part words as blanks do, and a comma or semicolon behind a word is no
// part of it.
func newRow(line int, text string, system *crs.System) row {
	r := row{line: line, text: strings.TrimSpace(text)}
	clean := strings.NewReplacer("|", " ", ";", " ", "\t", " ", "\u00a0", " ", "\u2009", " ", "\u202f", " ", "→",
		" ").Replace(r.text)
	clean = chained.ReplaceAllStringFunc(clean, func(s string) string { return joints.Replace(s) })
	clean = geoURI.ReplaceAllStringFunc(clean, lettersOf)
	if system.HasGrid() {
		clean = gridRef.ReplaceAllStringFunc(clean, func(s string) string { return lettersOfGrid(s, system) })
	}
	clean = bracketed.ReplaceAllString(clean, " $1 ")
	if strings.Contains(clean, ".") && !thousands.MatchString(clean) { // a comma is then no decimal sign
		clean = withoutCommas(clean)
	}
	for i := 0; i < len(clean); {
		if clean[i] == ' ' {
			i++
			continue
		}
		j := i
		for j < len(clean) && clean[j] != ' ' {
			j++
		}
		if t := clean[i:j]; strings.Trim(t, ",;") != "" {
			start := utf8.RuneCountInString(clean[:i])
			r.tokens = append(r.tokens, token{text: t, start: start, end: start + utf8.RuneCountInString(t),
				number: numberToken.MatchString(strings.Trim(t, ",;"))})
		}
		i = j
	}
	return r
}

// nameComma is a comma between two words of a name.
var nameComma = pattern.New(`([a-z]{2}), ([a-zA-Z][a-z])`)

// withoutCommas makes blanks of the commas that part coordinates and columns, and leaves those of names.
func withoutCommas(text string) string {
	const held = "\x00"
	text = nameComma.ReplaceAllString(text, "$1"+held+" $2")
	return strings.ReplaceAll(strings.ReplaceAll(text, ",", " "), held, ",")
}

// lettersOf writes the position of a geo URI with letters, which are plain in a row of numbers.
func lettersOf(uri string) string {
	lat, lon, err := geodesy.ParsePosition(uri)
	if err != nil {
		return uri
	}
	return geodesy.Compass(lat, lon)
}

// gridRef is a reference of a national grid.
var gridRef = pattern.New(`\b[A-HJ-Z]{1,2} ?(?:\d{1,5} \d{1,5}|\d{2,10})\b`)

// lettersOfGrid writes the position of a grid reference with letters.
func lettersOfGrid(ref string, system *crs.System) string {
	lat, lon, ok, err := system.GridReference(ref)
	if !ok || err != nil {
		return ref
	}
	return geodesy.Compass(lat, lon)
}

// words joins tokens as they would be written with single blanks.
func (r *row) words(from, to int) string {
	var out []string
	for _, t := range r.tokens[from:to] {
		out = append(out, t.text)
	}
	return strings.Join(out, " ")
}

// lettered says whether a text has something that makes it a position and not just numbers.
var lettered = pattern.New(`(?i)[NSEW°º]|\d[A-Z]|south|north|ups|^[ABYZ] ?[A-Z]{2}`)

// find looks for positions that letters or marks make plain, from a token on, the longest first at each place.
func (r *row) find(first int) {
	for i := first; i < len(r.tokens); {
		if !opening.MatchString(r.tokens[i].text) || bullets.MatchString(r.tokens[i].text) {
			i++
			continue
		}
		found := false
		for j := min(i+mostTokens, len(r.tokens)); j > i && !found; j-- {
			text := strings.TrimRight(strings.Trim(r.words(i, j), " ,;"), ".")
			level := ""
			if k := strings.LastIndexByte(text, '/'); k > 0 && speedLevel.MatchString(text[k+1:]) {
				text, level = text[:k], text[k+1:]
			}
			if !lettered.MatchString(text) {
				continue
			}
			lat, lon, err := geodesy.ParsePosition(text)
			if err == nil {
				r.places = append(r.places, place{i, j, lat, lon, level})
				i, found = j, true
				break
			}
			if err != geodesy.ErrNoPosition && len(text) > len(r.faulty) {
				r.fault, r.faulty = err, text
			}
		}
		if !found {
			i++
		}
	}
}
