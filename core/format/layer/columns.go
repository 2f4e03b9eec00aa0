package layer

import (
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/holds"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Type is the type of an attribute's values.
type Type uint8

// The types. A number is not one that has zeros in front, since that is a name.
const (
	Empty Type = iota
	Integer
	Decimal
	Boolean
	Date // 2026-03-14
	Time // 2026-03-14T05:30:00Z
	Text
)

// Column is an attribute of a layer.
type Column struct {
	Name     string
	Type     Type
	Width    int // the bytes of the longest value
	Decimals int // the most decimals of a Decimal
	Field    bool

	untyped decimal.Numbers // of texts of which no source says what they are
	large   bool            // a whole number that a float64 does not hold
}

// table is the columns of a layer, or of several.
type table struct {
	Columns []Column
	index   map[string]int
}

func newTable() *table { return &table{index: map[string]int{}} }

func (t *table) add(c Column) int {
	i := len(t.Columns)
	t.index[c.Name] = i
	t.Columns = append(t.Columns, c)
	return i
}

// Split says what layers data are split into.
type Split uint8

// The splits.
const (
	ByGeometry Split = iota
	ByKind
	Together // by geometry, with the same columns, and heights in all or in none
)

// sort says what an attribute is, which decides on the type of its column.
type sort uint8

const (
	property     sort = iota // a text, whatever it looks like
	moment                   // a time, or a day
	number                   // worked out
	measure                  // worked out, with decimals whether or not they are zero
	field                    // of the type that its values look like
	textField                // a text, or a date, as its source says
	literalField             // of the type that its values have
)

// attribute is one value of a feature.
type attribute struct {
	key, value string
	sort       sort
}

// restores says whether a value of a field comes back from a column of a type as the number or truth value that it is.
func restores(t Type, value string) bool {
	switch value {
	case "true", "false":
		return t == Boolean
	}
	return decimal.IsNumber(value) && (t == Integer || t == Decimal)
}

// loseTypes tells how many numbers and truth values become texts, or absent as null does.
func (l *Layer) loseTypes(ledger *nav.Ledger) {
	counts := map[nav.Kind]int{}
	l.walk(true, func(f *raw) error {
		if f.run != nil {
			f.run.prepare(l, f)
			reader := f.run.Fields()
			for k := range f.run.Len() {
				columns, fields := reader.Of(k)
				for i, at := range columns {
					if fields[i].Literal && fields[i].Value != "" && !restores(l.Columns[at].Type, fields[i].Value) {
						counts[f.of]++
					}
				}
			}
			return nil
		}
		l.attributes(f, func(a attribute) {
			if a.sort == literalField && !restores(l.Columns[l.index[a.key]].Type, a.value) {
				counts[f.of]++
			}
		})
		return nil
	})
	for _, kind := range nav.Kinds {
		at := holds.Place(kind)
		if l.Geometry == Points && kind == nav.Tracks {
			at = holds.TrackPoint
		}
		if n := counts[kind]; n > 0 {
			*ledger = append(*ledger, nav.Entry{Kind: kind, KindWord: at.String(), What: holds.What(at, holds.FieldTypes),
				Old: "numbers, truth values, null", New: "texts, or absent", Why: "a column has one type, and null means no value",
				Count: n})
		}
	}
}

// take lets a column hold a value more.
func (c *Column) take(a attribute) {
	value := a.value
	if value == "" || a.sort == literalField && value == "null" {
		return
	}
	t, decimals := Text, 0
	switch {
	case a.sort == property:
	case a.sort == textField:
		t = timeOf(value)
	case a.sort == literalField && (value == "true" || value == "false"):
		t = Boolean
	case a.sort != literalField || decimal.IsNumber(value):
		t, decimals = typeOf(value)
	}
	if a.sort == moment && t != Date && t != Time {
		t = Text
	}
	if a.sort == measure && t == Integer {
		t = Decimal
	}
	if a.sort == field {
		c.untyped.Take(value)
	}
	if t == Integer && len(value) > exactDigits {
		_, exact := decimal.Exact(value)
		c.large = c.large || !exact
	}
	if t == Decimal && strings.ContainsAny(value, "eE") {
		v, _ := decimal.Exact(value)
		c.Width = max(c.Width, len(strconv.FormatFloat(v, 'f', -1, 64)))
	}
	c.Width = max(c.Width, len(value))
	c.Decimals = max(c.Decimals, decimals)
	c.widen(t)
}

// widen lets a column hold values of a type.
func (c *Column) widen(t Type) {
	switch {
	case c.Type == Empty:
		c.Type = t
	case c.Type == t:
	case (c.Type == Integer || c.Type == Decimal) && (t == Integer || t == Decimal):
		c.Type = Decimal
	default:
		c.Type = Text
	}
}

// settle ends the column: texts of which two have one value are codes, and so are whole numbers beside decimals where a
// float64 does not hold them.
func (c *Column) settle() {
	if numeric := c.Type == Integer || c.Type == Decimal; numeric && c.untyped.Codes() || c.Type == Decimal && c.large {
		c.Type = Text
	}
}

// exactDigits is how many digits every float64 holds.
const exactDigits = 15

// typeOf says what a value is. A number is one of which every digit comes back.
func typeOf(value string) (t Type, decimals int) {
	if len(value) == 0 || value[0] > '9' || !decimal.IsNumber(value) {
		return timeOf(value), 0
	}
	mantissa, power, _ := strings.Cut(strings.ToLower(value), "e")
	_, fraction, point := strings.Cut(mantissa, ".")
	switch {
	case power != "" || len(value) > exactDigits && point:
		v, exact := decimal.Exact(value)
		if !exact {
			return Text, 0
		}
		_, fraction, _ = strings.Cut(strconv.FormatFloat(v, 'f', -1, 64), ".")
		return Decimal, len(fraction)
	case point:
		return Decimal, len(fraction)
	}
	if _, err := strconv.ParseInt(value, 10, 64); err != nil {
		return Text, 0
	}
	return Integer, 0
}

func timeOf(value string) Type {
	if len(value) < 10 || value[4] != '-' || value[7] != '-' {
		return Text
	}
	_, mark, _, ok := instant.Parse([]byte(value), nil)
	switch {
	case !ok:
		return Text
	case mark == instant.Day:
		return Date
	case strings.HasSuffix(value, "Z"):
		return Time
	}
	return Text
}
