package dress

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/figure"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/template"
)

// Template is a text with values of the item in braces: the words of figure, {date}, {author}, {area}, and {number},
// which counts the items of a rule; {number:3} writes it with three digits.
type Template struct{ template.Template }

// TemplateWords are the values that templates have, beside {field:KEY}.
var TemplateWords = append(slices.Clone(figure.Words), "date", "author", "area")

// ParseTemplate reads a template.
func ParseTemplate(text string) (Template, error) {
	t, err := template.Parse(text, func(word, arg string) error {
		switch n, wrong := strconv.Atoi(arg); {
		case word == "field" && arg != "", slices.Contains(TemplateWords, word) && arg == "":
			return nil
		case word != "number":
			return fmt.Errorf("templates have no {%s}; available are {%s} and {field:KEY}",
				strings.TrimSuffix(word+":"+arg, ":"), strings.Join(TemplateWords, "}, {"))
		case wrong != nil || n < 1 || n > 9:
			return fmt.Errorf("{%s:%s}: after the colon give the number of digits, 1 to 9", word, arg)
		}
		return nil
	})
	return Template{t}, err
}

// UnmarshalText reads a template.
func (t *Template) UnmarshalText(text []byte) (err error) {
	*t, err = ParseTemplate(string(text))
	return
}

// write fills in the values of an item, as it was before.
func (t *Template) write(s *subject, before *nav.Item, number int) string {
	now := s.Item.Item
	s.Item.Item = before
	defer func() { s.Item.Item = now }()
	return t.Write(func(word, arg string) string {
		switch word {
		case "field":
			return s.step.text(s.Value("field:"+arg), word)
		case "number":
			digits, _ := strconv.Atoi(arg)
			return fmt.Sprintf("%0*d", digits, number)
		case "date":
			if at := s.Begun(s.step.zone()); !at.IsZero() {
				return at.Format(time.DateOnly)
			}
			return ""
		case "author":
			return s.Data.Meta.Author
		case "area":
			return s.areas()
		}
		return s.step.text(s.Value(word), word)
	})
}

// text writes a value as people read it, in the measures and the zone of the step.
func (s *Step) text(v any, word string) string {
	switch v := v.(type) {
	case string:
		return v
	case nav.Point:
		return v.Time().In(s.zone()).Format("15:04:05")
	case time.Duration:
		return measure.Exactly(v)
	case float64:
		switch word {
		case "length", "perimeter":
			return s.Measure.Length(v)
		case "size":
			return s.Measure.Area(v)
		case "mean-speed":
			return s.Measure.Speed(v)
		case "ascent", "descent":
			return s.Measure.Height(v)
		case "lat", "lon":
			return string(decimal.AppendShort(nil, v, 7))
		}
		return string(decimal.AppendShort(nil, v, 1))
	}
	return ""
}

func (s *Step) zone() *time.Location {
	if s.Zone == nil {
		return time.UTC
	}
	return s.Zone
}
