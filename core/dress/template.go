package dress

import (
	"fmt"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/nav"
)

// Template is a text with values of the item in braces: {name}, {group}, {description}, {comment}, {symbol}, {kind},
// {height}, {date}, {time}, {length}, {size}, {file}, {folder}, {author}, {field:KEY}, and {number}, which counts the
// items of a rule; {number:3} writes it with three digits.
type Template struct {
	Text  string
	parts []part
}

// part is a text or a value.
type part struct {
	text   string
	value  string
	key    string
	digits int
}

var values = []string{"name", "group", "description", "comment", "symbol", "kind", "height", "number", "date", "time",
	"length", "size", "file", "folder", "author"}

// ParseTemplate reads a template.
func ParseTemplate(text string) (Template, error) {
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
		p, err := parseValue(rest[i+1 : j])
		if err != nil {
			return t, err
		}
		t.parts = append(t.parts, p)
		rest = rest[j+1:]
	}
	return t, nil
}

func parseValue(text string) (part, error) {
	word, more, has := strings.Cut(text, ":")
	switch {
	case word == "field" && more != "":
		return part{value: word, key: more}, nil
	case word == "number" && has:
		n, err := strconv.Atoi(more)
		if err != nil || n < 1 || n > 9 {
			return part{}, fmt.Errorf("{%s}: after the colon give the number of digits, 1 to 9", text)
		}
		return part{value: word, digits: n}, nil
	case slices.Contains(values, word) && !has:
		return part{value: word}, nil
	}
	return part{}, fmt.Errorf("templates have no {%s}; available are {%s} and {field:KEY}", text,
		strings.Join(values, "}, {"))
}

// UnmarshalText reads a template.
func (t *Template) UnmarshalText(text []byte) (err error) {
	*t, err = ParseTemplate(string(text))
	return
}

// write fills in the values of an item.
func (t *Template) write(s *subject, item *nav.Item, number int) string {
	var b strings.Builder
	for _, p := range t.parts {
		switch p.value {
		case "":
			b.WriteString(p.text)
		case "name", "group", "description", "comment", "symbol":
			b.WriteString(item.Text(p.value))
		case "kind":
			b.WriteString(s.kind.One())
		case "height":
			b.WriteString(s.height())
		case "date", "time":
			b.WriteString(s.begun(p.value))
		case "length":
			b.WriteString(s.measure.Length(s.summary().Length))
		case "size":
			if s.kind == nav.Areas {
				b.WriteString(s.measure.Area(s.summary().Size))
			}
		case "file", "folder":
			path := item.From(s.data)
			switch {
			case path == "":
			case p.value == "file":
				b.WriteString(strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)))
			default:
				b.WriteString(filepath.Base(filepath.Dir(path)))
			}
		case "author":
			b.WriteString(s.data.Meta.Author)
		case "field":
			v, _ := nav.Get(item.Fields, p.key)
			b.WriteString(v)
		case "number":
			fmt.Fprintf(&b, "%0*d", p.digits, number)
		}
	}
	return b.String()
}
