package unit

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"gyrolith/core/nav"
)

// Namer gives fitted names that differ from one another, whatever their case.
type Namer struct {
	text     Text
	used     map[string]bool // names that were given, in small letters
	others   map[string]bool // names of other things in the data, which nothing else gets; in small letters
	claimed  map[string]int  // how many of those that are going to be named fit as they are
	learned  map[string]bool
	families map[string]*family
	counted  map[string]int // the last number of names that are made of a word
	tried    map[string]int // the last mark of names that come out alike
}

// NewNamer makes a namer that has given no name yet.
func NewNamer(t Text) *Namer {
	return &Namer{text: t, used: map[string]bool{}, claimed: map[string]int{}, learned: map[string]bool{},
		families: map[string]*family{}, counted: map[string]int{}, tried: map[string]int{}}
}

// Widen allows names of a greater length from here on.
func (n *Namer) Widen(length int) { n.text.Length = length }

// Take keeps a name from being given.
func (n *Namer) Take(name string) { n.used[strings.ToLower(name)] = true }

// TakesName says why a name can't be one on the unit; nil where it can.
func (p *Profile) TakesName(kind nav.Kind, name string) error {
	t := p.TextOf(kind)
	switch {
	case t.Length > 0 && utf8.RuneCountInString(name) > t.Length:
		return fmt.Errorf("%s accepts names of %d characters", p.Name, t.Length)
	case spelled(&t, name) != name || name == "":
		return fmt.Errorf("%s can show only the characters %s", p.Name, cmp.Or(t.Characters, "that print"))
	}
	return nil
}

// key is a name as it is compared: as the unit shows it where it needs not be shortened, in small letters.
func (n *Namer) key(name string) string { return strings.ToLower(n.asItIs(n.spelled(name))) }

// reserved says whether a key is that of a name which something else in the data has as it is.
func (n *Namer) reserved(key string) bool { return n.claimed[key] > 0 || n.others[key] }

// blank is what stands between words.
func (n *Namer) blank() string {
	if n.text.Characters != "" && !allowed(n.text.Characters, ' ') {
		return ""
	}
	return " "
}

// asItIs gives a spelled name that needs not be shortened; "" for one that does.
func (n *Namer) asItIs(text string) string {
	if n.blank() == "" {
		text = (&shortening{namer: n, words: words(text)}).text()
	}
	if n.text.Length > 0 && utf8.RuneCountInString(text) > n.text.Length {
		return ""
	}
	return text
}

// Fit gives a name that fits. Where nothing of the name can be shown, or its digits have no room, it is made of the
// fallback, a word for the sort of thing, and a number.
func (n *Namer) Fit(name, fallback string) string {
	text := n.spelled(name)
	if !strings.ContainsFunc(text, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }) {
		text = ""
	}
	if text != "" {
		if short := n.distinct(text); short != "" {
			return short
		}
	}
	return n.numbered(fallback, strings.ContainsFunc(text, unicode.IsDigit))
}

// spelled brings a name to the unit's characters. Of a whole chapter the beginning is enough where names are short.
func (n *Namer) spelled(name string) string {
	const most = 600 // bytes
	if n.text.Length > 0 && len(name) > most {
		at := strings.LastIndexFunc(name[:most], unicode.IsSpace)
		if at <= 0 {
			at = strings.LastIndexFunc(name[:most], func(r rune) bool { return !unicode.IsDigit(r) && r != utf8.RuneError })
		}
		name = name[:max(at, 0)]
	}
	return spelled(&n.text, name)
}

// Plain gives the name that Fit would give if no other name were like it; "" where nothing of it can be shown.
func (n *Namer) Plain(name string) string {
	text := n.spelled(name)
	if short := n.asItIs(text); short != "" || text == "" {
		return short
	}
	return n.shorten(text, n.text.Length)
}

// distinct shortens a name and tells it from those that were given; "" where its digits have no room.
func (n *Namer) distinct(text string) string {
	own := n.asItIs(text)
	alike := strings.ToLower(own) // of names that come out the same, those before need not be tried again
	if n.text.Length > 0 && (own == "" || utf8.RuneCountInString(own) > n.text.Length) {
		alike = strings.ToLower(n.shorten(text, n.text.Length))
	}
	for i := n.tried[alike]; ; i++ {
		mark := n.mark(i)
		short := own
		room := n.text.Length - utf8.RuneCountInString(mark)
		if own == "" || n.text.Length > 0 && utf8.RuneCountInString(own) > room {
			if room < 1 {
				return ""
			}
			if short = n.shorten(text, room); short == "" {
				return ""
			}
		}
		short += mark
		if n.text.Unique == "none" {
			return short
		}
		key := strings.ToLower(short)
		if n.used[key] || n.reserved(key) && short != own {
			continue
		}
		n.used[key], n.tried[alike] = true, i
		return short
	}
}

// mark is what tells the second and further names from the first that is the same: a letter, since a number could be
// taken for the thing's own.
func (n *Namer) mark(i int) string {
	if i == 0 {
		return ""
	}
	letters := ""
	for ; ; i = (i - 26) / 26 {
		letters = string(rune('a'+i%26)) + letters
		if i < 26 {
			break
		}
	}
	set := n.text.Characters
	if set != "" && !allowed(set, 'a') {
		letters = strings.ToUpper(letters)
	}
	const roomy = 10
	switch {
	case n.blank() == "":
		return letters
	case (n.text.Length == 0 || n.text.Length >= roomy) && allowed(set, '(') && allowed(set, ')'):
		return " (" + letters + ")"
	}
	return " " + letters
}

// numbered makes a name of a word and a number, or a letter where the number could be taken for the thing's own or
// there are no digits.
func (n *Namer) numbered(word string, letter bool) string {
	if word != "" {
		word = strings.ToUpper(word[:1]) + word[1:]
	}
	if word = spelled(&n.text, word); word == "" {
		word = spelled(&n.text, "Point POINT point")
	}
	if n.text.Unique == "none" {
		return n.shortened(word, n.text.Length)
	}
	for i := n.counted[word] + 1; ; i++ {
		mark := strconv.Itoa(i)
		if n.text.Length == 0 || n.text.Length > identifier {
			mark = n.blank() + mark
		}
		if set := n.text.Characters; letter || set != "" && !allowed(set, '0') {
			mark = strings.Trim(n.mark(i), " ()")
		}
		name := n.shortened(word, n.text.Length-utf8.RuneCountInString(mark)) + mark
		if key := strings.ToLower(name); !n.used[key] && !n.reserved(key) {
			n.used[key], n.counted[word] = true, i
			return name
		}
	}
}

// shortened brings a word without digits to a length; one below 1 is none where names may be of any.
func (n *Namer) shortened(word string, length int) string {
	if n.text.Length == 0 || utf8.RuneCountInString(word) <= length {
		return strings.ReplaceAll(word, " ", n.blank())
	}
	runes := []rune(strings.ReplaceAll(word, " ", n.blank()))
	return strings.TrimSpace(string(runes[:max(min(length, len(runes)), 0)]))
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
	n := NewNamer(Text{Characters: "A-Za-z0-9 ()_-", Length: length})
	name := spelled(&n.text, text)
	if utf8.RuneCountInString(name) > length {
		if short := n.shorten(name, length); short != "" {
			name = short
		} else {
			name = string([]rune(name)[:length])
		}
	}
	name = strings.Trim(name, " -")
	if name == "" {
		name = "unnamed"[:min(length, 7)]
	}
	if reserved[strings.ToLower(name)] {
		name += "_"
	}
	return name
}
