// Package headings knows what the words above columns and on attributes mean, in the languages that offices use.
package headings

import (
	_ "embed"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"gyrolith/core/pattern"
)

//go:embed headings.txt
var headingWords string

// heads are the words that stand above columns in several languages, by what the column holds, the surest first.
var heads = sync.OnceValue(func() map[string][]string {
	out := map[string][]string{}
	for line := range strings.Lines(headingWords) {
		if holds, words, ok := strings.Cut(strings.TrimSpace(line), ": "); ok {
			out[holds] = strings.Split(words, ", ")
		}
	}
	return out
})

// OfLines are the words above a column that might name lines, to which --line-by is then pointed.
var OfLines = []string{"route", "track", "line", "linie", "ligne", "linea", "linha", "lijn", "linje", "transect",
	"transekt", "transecte", "path", "trail", "strecke", "leg", "profile", "profil"}

var (
	inBrackets = pattern.New(`[(\[{]([^)\]}]*)[)\]}]`)
	letters    = strings.NewReplacer("ß", "ss", "æ", "ae", "ø", "o", "ł", "l", "đ", "d", "Ł", "l", "Ø", "o", "Æ", "ae")
	// What may be added to a word for a coordinate.
	trimmings = pattern.New(
		`\b(?:wgs ?84|wgs|dd|ddm|dms|dec|deg|decimal|degrees|degree|grad|gps|geo|epsg ?\d+|etrs89|` +
			`utm(?: (?:zone )?\d{1,2} ?[ns]?)?|m|ft|feet|metres|meters|amsl|msl|utc|local)\b`)
	// DegreePart is the end of the title of a part of a coordinate.
	DegreePart = pattern.New(`\b(?:deg|degrees|grad|d|min|minutes|minuten|m|sec|seconds|sekunden|s)$`)
)

// Plain takes the marks off the letters of a name: Länge becomes Lange.
func Plain(name string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(letters.Replace(name)) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(r)
		}
	}
	return b.String()
}

// Folded brings a title to small letters without marks, and other signs to single blanks.
func Folded(title string) string {
	var b strings.Builder
	blank := false
	for _, r := range norm.NFD.String(letters.Replace(title)) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if blank && b.Len() > 0 {
				b.WriteByte(' ')
			}
			blank = false
			b.WriteRune(unicode.ToLower(r))
		default:
			blank = true
		}
	}
	return b.String()
}

var headRanks = sync.OnceValue(func() map[string]Heading {
	out := map[string]Heading{}
	for holds, words := range heads() {
		for i, w := range words {
			out[Folded(w)] = Heading{holds, i}
		}
	}
	return out
})

// Heading is what a title is taken for and how surely; the smallest rank is the surest.
type Heading struct {
	Holds string
	Rank  int
}

// Of says what a title is a word for, of a part of a coordinate too: Lat deg, Lat min.
func Of(title string) (Heading, bool) {
	plain := Folded(inBrackets.ReplaceAllString(title, " "))
	for _, t := range []string{plain, Folded(title), withoutMeasure(plain), withoutMeasure(Folded(title))} {
		if h, ok := headRanks()[t]; ok {
			return h, true
		}
	}
	if bare := strings.Join(strings.Fields(trimmings.ReplaceAllString(plain, "")), " "); bare != "" && bare != plain {
		if h, ok := headRanks()[bare]; ok {
			return Heading{h.Holds, h.Rank + 100}, true
		}
	}
	if r := []rune(title); len(r) == 10 { // as tables of attributes cut longer names
		for _, holds := range slices.Sorted(maps.Keys(heads())) {
			i := slices.IndexFunc(heads()[holds], func(w string) bool { return len(w) > 10 && strings.HasPrefix(w, plain) })
			if i >= 0 && holds != "position" {
				return Heading{holds, i}, true
			}
		}
	}
	if bare, power := WithoutPower(plain); power != 0 {
		if h, ok := headRanks()[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + sideRank}, true
		}
	}
	whole := Folded(title)
	if bare := strings.TrimSpace(DegreePart.ReplaceAllString(whole, "")); bare != whole {
		if h, ok := headRanks()[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + partRank}, true
		}
	}
	if bare, side := withoutSide(title); side != "" {
		if h, ok := headRanks()[bare]; ok && (h.Holds == "lat" || h.Holds == "lon") {
			return Heading{h.Holds, h.Rank + sideRank}, true
		}
	}
	return Heading{}, false
}

// Words of the starts and ends of lines, folded, in the languages of offices.
var endWords = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("start begin beginning from von anfang beginn inicio inicial debut depart desde " +
		"inizio begynnelse fra fran begin1 start1 1") {
		out[w] = false
	}
	for w := range strings.FieldsSeq("end finish to bis ende fin final fine slut slutt til till hasta arrivee stop " +
		"einde 2") {
		out[w] = true
	}
	return out
}()

// EndOf finds what the column of the start or the end of a line holds, by its title: Start Lat, Lon to. It is "" where
// the title is none of such a column, or holds no position and no time.
func EndOf(title string) (holds string, end bool) {
	words := strings.Fields(Folded(inBrackets.ReplaceAllString(title, " ")))
	if len(words) < 2 {
		return "", false
	}
	for _, at := range []int{0, len(words) - 1} {
		end, ok := endWords[words[at]]
		if !ok {
			continue
		}
		h, known := Of(strings.Join(slices.Delete(slices.Clone(words), at, at+1), " "))
		if known && slices.Contains([]string{"lat", "lon", "position", "easting", "northing", "time"}, h.Holds) {
			return h.Holds, end
		}
	}
	return "", false
}

// IsDay says whether a title is that of the number of a day in its month.
func IsDay(title string) bool {
	return slices.Contains([]string{"day", "tag", "dia", "jour", "giorno", "dag", "den", "dzien", "paiva", "dd"},
		Folded(title))
}

// WithoutPower takes the power of ten off a folded title of whole numbers: lat e7 and late7 are degrees times 10⁷. The
// power is 0 where none is named.
func WithoutPower(folded string) (bare string, power int) {
	for n, end := range map[int]string{6: "e6", 7: "e7"} {
		if rest, ok := strings.CutSuffix(folded, end); ok {
			return strings.TrimSpace(rest), n
		}
	}
	return folded, 0
}

// Claimed lists the meanings among wanted that titles of fields would be taken for, where no column has them: a table
// then needs that column, though it is empty, so that the fields stay fields.
func Claimed(keys []string, wanted ...string) (out []string) {
	for _, key := range keys {
		if h, ok := Of(key); ok && slices.Contains(wanted, h.Holds) && !slices.Contains(out, h.Holds) {
			out = append(out, h.Holds)
		}
	}
	return
}

// sideRank is added for a title that names a hemisphere beside its word.
const sideRank = 50

// partRank is from where the ranks of parts of a coordinate begin.
const partRank = 200

// Part says whether the title is that of a part of a coordinate.
func (h Heading) Part() bool { return h.Rank >= partRank }

// Meanings says of the attributes of a layer what each holds; "" is a field. Of several with one meaning the surest has
// it.
func Meanings(titles []string, wanted ...string) []string {
	out := make([]string, len(titles))
	best := map[string]int{}
	for i, t := range titles {
		h, ok := Of(t)
		if !ok || !slices.Contains(wanted, h.Holds) {
			continue
		}
		if j, taken := best[h.Holds]; taken {
			if other, _ := Of(titles[j]); other.Rank <= h.Rank {
				continue
			}
			out[j] = ""
		}
		best[h.Holds], out[i] = i, h.Holds
	}
	return out
}
