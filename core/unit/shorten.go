package unit

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// word is one word of a name that is made shorter.
type word struct {
	text   string
	key    string // the whole word in small letters
	number bool   // it has a digit, and no letter of it goes before all other ways are tried
	clause int    // behind how many commas, dashes and the like it stands
}

// words takes a name apart. What stands between its words and is neither letter nor digit goes.
func words(name string) (out []word) {
	clause := 0
	for _, part := range strings.FieldsFunc(name, unicode.IsSpace) {
		text := strings.TrimFunc(part, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
		if before, _, _ := strings.Cut(part, text); text == "" || strings.ContainsAny(before, "([{-") {
			clause++
		}
		if text == "" {
			continue
		}
		out = append(out, word{text, strings.ToLower(text), strings.ContainsFunc(text, unicode.IsDigit), clause})
		if _, after, _ := strings.Cut(part, text); strings.ContainsAny(after, ",;:)]-") {
			clause++
		}
	}
	return
}

// small words are the first to go from a name that is too long.
var small = map[string]bool{"the": true, "to": true, "of": true, "and": true, "a": true, "an": true, "at": true,
	"on": true, "in": true, "from": true, "de": true, "la": true, "le": true, "el": true, "der": true, "die": true,
	"das": true, "du": true, "des": true}

// shortening brings one name to a length.
type shortening struct {
	namer  *Namer
	words  []word
	length int
	blank  string
}

// text puts the words together. Between two digits there is always something that is none.
func (s *shortening) text() string {
	var b strings.Builder
	for i := range s.words {
		text := s.words[i].text
		if i > 0 {
			between := s.blank
			if between == "" && endsInDigit(s.words[i-1].text) && text[0] >= '0' && text[0] <= '9' {
				between = joint(s.namer.text.Characters, '-')
			}
			b.WriteString(between)
		}
		b.WriteString(text)
	}
	return b.String()
}

func endsInDigit(text string) bool {
	return text != "" && text[len(text)-1] >= '0' && text[len(text)-1] <= '9'
}

func (s *shortening) long() bool { return utf8.RuneCountInString(s.text()) > s.length }

// head is the first word that says what a thing is; below zero where there is none.
func (s *shortening) head() int { return headOf(s.words) }

func headOf(list []word) int {
	if i := slices.IndexFunc(list, func(w word) bool { return !w.number && !small[w.key] }); i >= 0 {
		return i
	}
	return slices.IndexFunc(list, func(w word) bool { return !w.number })
}

// drop takes words away from the end, while the name is too long and some word may go.
func (s *shortening) drop(may func(i int) bool) {
	for i := len(s.words) - 1; i >= 0 && s.long(); i-- {
		if len(s.words) > 1 && !s.words[i].number && i != s.head() && may(i) {
			s.words = slices.Delete(s.words, i, i+1)
		}
	}
}

// shorten brings a name to a length so that it can still be told from its like. What all names of its family share
// goes first, then small words, then what stands behind a dash or a comma if a number tells the name from its like;
// the usual short forms come next, then whole words that nothing is told apart by, the last ones first, then vowels,
// and letters at the ends of words. Digits stay as they are, all of them, but for a number that the whole family
// shares: "" where there is no room for them.
func (n *Namer) shorten(name string, length int) string {
	s := &shortening{namer: n, words: words(name), length: length, blank: n.blank()}
	if len(s.words) == 0 {
		return string([]rune(name)[:min(length, utf8.RuneCountInString(name))])
	}
	family := n.family(s.words)
	for i := range s.words {
		if form := n.text.direction(s.words[i].text); i != s.head() && form != "" {
			s.words[i].text = spelled(&n.text, form)
		}
	}
	if s.long() {
		head := s.words[max(s.head(), 0)].key
		s.words = slices.DeleteFunc(s.words, func(w word) bool { return !w.number && w.key != head && family.shares(w.key) })
	}
	s.drop(func(i int) bool { return small[strings.ToLower(s.words[i].text)] })
	if length <= identifier {
		s.drop(func(i int) bool { return !family.needs(s.words, i) && s.numbers() > 0 })
		return s.identifier(family)
	}
	further := func(i int) bool { return s.words[i].clause > s.words[0].clause && !family.needs(s.words, i) }
	if s.long() && s.numbers() > 0 { // which tells it from its like
		for i := len(s.words) - 1; i > 0; i-- {
			if !s.words[i].number && i != s.head() && further(i) {
				s.words = slices.Delete(s.words, i, i+1)
			}
		}
	}
	s.forms()
	s.drop(further)
	s.drop(func(i int) bool { return i != len(s.words)-1 && !family.needs(s.words, i) })
	s.shrink(lastVowel)
	s.shrink(lastLetter)
	s.drop(func(int) bool { return true })
	if s.long() {
		s.blank = ""
	}
	return s.bare(family)
}

// bare gives the name, or the numbers alone where there is no room for more, or those of them that not all names of the
// family have; "" where these have no room either.
func (s *shortening) bare(f *family) string {
	for _, may := range []func(w word) bool{
		func(w word) bool { return !w.number },
		func(w word) bool { return w.number && f.shares(w.key) },
	} {
		if s.long() && s.numbers() > 0 {
			s.words = slices.DeleteFunc(s.words, may)
		}
	}
	if s.long() {
		return ""
	}
	return s.text()
}

// numbers counts the words with digits.
func (s *shortening) numbers() (n int) {
	for i := range s.words {
		if s.words[i].number {
			n++
		}
	}
	return
}

// forms puts the usual short forms in the place of words, the longest ones first, as far as is needed.
func (s *shortening) forms() {
	tried := map[int]bool{}
	for s.long() && len(tried) < len(s.words) {
		at := -1
		for i := range s.words {
			if !tried[i] && (at < 0 || len(s.words[i].text) > len(s.words[at].text)) {
				at = i
			}
		}
		tried[at] = true
		if form := s.namer.text.shortForm(s.words[at].text); form != "" && !s.words[at].number {
			if form = spelled(&s.namer.text, form); form != "" && len(form) < len(s.words[at].text) {
				s.words[at].text = form
			}
		}
	}
}

// shrink takes letters out of the longest words, one by one, until the name is short enough or no word has one left
// to give. Words with digits give none.
func (s *shortening) shrink(give func([]rune) int) {
	for s.long() {
		longest, at, in := -1, -1, 0
		for i := range s.words {
			runes := []rune(s.words[i].text)
			if j := give(runes); !s.words[i].number && j >= 0 && len(runes) > longest {
				longest, at, in = len(runes), j, i
			}
		}
		if longest < 0 {
			return
		}
		runes := []rune(s.words[in].text)
		s.words[in].text = string(append(runes[:at:at], runes[at+1:]...))
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

// identifier is the greatest length of names that are too short for words.
const identifier = 6

// identifier makes a name of a few characters: the start of the first word, the first letter of each word more that
// tells names apart, and every number whole; or, without numbers, the starts of the first and of the last word. Lantern
// Head north is LANNO, Rock 10 is ROC10. It is "" where the numbers do not fit.
func (s *shortening) identifier(f *family) string {
	s.blank = ""
	if !s.long() {
		return s.text()
	}
	if s.numbers() == 0 {
		first, last := []rune(s.words[0].text), []rune(s.words[len(s.words)-1].text)
		if len(s.words) == 1 {
			s.shrink(lastVowel)
			s.shrink(lastLetter)
			return s.text()
		}
		tail := last[:min(len(last), max(s.length/2, 1))]
		head := first[:min(len(first), s.length-len(tail))]
		return string(head) + string(last[:min(len(last), max(s.length-len(head), len(tail)))])
	}
	head := s.head()
	for i := range s.words {
		if w := &s.words[i]; !w.number && i != head {
			w.text = string([]rune(w.text)[:1])
		}
	}
	for s.long() && head >= 0 && lastLetter([]rune(s.words[head].text)) >= 0 {
		runes := []rune(s.words[head].text)
		s.words[head].text = string(runes[:len(runes)-1])
	}
	s.drop(func(int) bool { return true })
	return s.bare(f)
}
