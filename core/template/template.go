// Package template writes texts with values in braces: {name}, {field:KEY}, {number:3}, and with what is done to a
// value behind bars: {name|trim|upper}.
package template

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Template is a text with values.
type Template struct {
	Text  string
	parts []part
}

// part is a text, or a value with what is done to it.
type part struct {
	text      string
	word, arg string
	done      []func(string) string
}

// Functions are what can be done to a value, in words for help.
var Functions = [][2]string{
	{"trim", "without spaces around it"},
	{"upper", "in capitals"},
	{"lower", "in small letters"},
	{"title", "each word with a capital"},
	{"pad:N", "each number in it with at least N digits"},
}

// functionOf finds what is done by its name.
func functionOf(text string) (func(string) string, error) {
	name, arg, _ := strings.Cut(text, ":")
	switch name {
	case "trim":
		return strings.TrimSpace, nil
	case "upper":
		return strings.ToUpper, nil
	case "lower":
		return strings.ToLower, nil
	case "title":
		return titled, nil
	case "pad":
		const most = 9
		n, err := strconv.Atoi(arg)
		if err != nil || n < 1 || n > most {
			return nil, fmt.Errorf("|pad needs a number of digits, 1 to 9, such as |pad:3")
		}
		return func(s string) string { return padded(s, n) }, nil
	}
	var names []string
	for _, f := range Functions {
		names = append(names, "|"+f[0])
	}
	return nil, fmt.Errorf("there is no |%s; there are %s", text, strings.Join(names, ", "))
}

// titled begins each word with a capital and goes on in small letters.
func titled(text string) string {
	inWord := false
	return strings.Map(func(r rune) rune {
		was := inWord
		inWord = unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.M, r) || r == '\'' || r == '’'
		if was {
			return unicode.ToLower(r)
		}
		return unicode.ToTitle(r)
	}, text)
}

// padded puts zeros in front of whole numbers of fewer digits. What stands behind a decimal point is none.
func padded(text string, n int) string {
	var b strings.Builder
	digit := func(i int) bool { return i >= 0 && i < len(text) && text[i] >= '0' && text[i] <= '9' }
	for i := 0; i < len(text); {
		end := i
		for digit(end) {
			end++
		}
		if end == i {
			b.WriteByte(text[i])
			i++
			continue
		}
		if !(i > 0 && (text[i-1] == '.' || text[i-1] == ',') && digit(i-2)) {
			b.WriteString(strings.Repeat("0", max(n-(end-i), 0)))
		}
		b.WriteString(text[i:end])
		i = end
	}
	return b.String()
}

// value reads what stands between braces.
func value(text string) (p part, err error) {
	fields := strings.Split(text, "|")
	p.word, p.arg, _ = strings.Cut(fields[0], ":")
	for _, f := range fields[1:] {
		done, err := functionOf(strings.TrimSpace(f))
		if err != nil {
			return p, fmt.Errorf("{%s}: %w", text, err)
		}
		p.done = append(p.done, done)
	}
	return p, nil
}

func (p *part) filled(text string) string {
	for _, f := range p.done {
		text = f(text)
	}
	return text
}

// Parse reads a template; known says whether there is such a value.
func Parse(text string, known func(word, arg string) error) (Template, error) {
	t := Template{Text: text}
	for rest := text; rest != ""; {
		i := strings.IndexAny(rest, "{}")
		if i < 0 {
			t.parts = append(t.parts, part{text: rest})
			break
		}
		if rest[i] == '}' {
			return t, fmt.Errorf("the template %q has a } without a {", text)
		}
		j := strings.IndexByte(rest, '}')
		if j < i {
			return t, fmt.Errorf("the template %q has a { without a }", text)
		}
		if i > 0 {
			t.parts = append(t.parts, part{text: rest[:i]})
		}
		p, err := value(rest[i+1 : j])
		if err == nil {
			err = known(p.word, p.arg)
		}
		if err != nil {
			return t, err
		}
		t.parts = append(t.parts, p)
		rest = rest[j+1:]
	}
	return t, nil
}

// Asks says whether the template has a value of this word.
func (t *Template) Asks(word string) bool {
	return slices.ContainsFunc(t.parts, func(p part) bool { return p.word == word })
}

// Write fills the values in.
func (t *Template) Write(value func(word, arg string) string) string {
	var b strings.Builder
	for i := range t.parts {
		if p := &t.parts[i]; p.word == "" {
			b.WriteString(p.text)
		} else {
			b.WriteString(p.filled(value(p.word, p.arg)))
		}
	}
	return b.String()
}

// Replace fills those values of a text in that there are, and leaves the others as they stand.
func Replace(text string, known func(word string) (string, bool)) string {
	var b strings.Builder
	for {
		i := strings.IndexByte(text, '{')
		j := strings.IndexByte(text[max(i, 0):], '}') + max(i, 0)
		if i < 0 || j <= i {
			return b.String() + text
		}
		b.WriteString(text[:i])
		p, err := value(text[i+1 : j])
		if v, ok := known(p.word); ok && err == nil && p.arg == "" {
			b.WriteString(p.filled(v))
		} else {
			b.WriteString(text[i : j+1])
		}
		text = text[j+1:]
	}
}

// Has says whether a text has one of some values.
func Has(text string, words ...string) (has bool) {
	Replace(text, func(word string) (string, bool) {
		has = has || slices.Contains(words, word)
		return "", false
	})
	return has
}
