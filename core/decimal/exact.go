package decimal

import (
	"strconv"
	"strings"
)

// Exact gives the value of a text that is a number as JSON writes it, and says whether a float64 holds all of its
// digits: the shortest text of the float64 then has the same ones.
func Exact(text string) (v float64, ok bool) {
	if !IsNumber(text) {
		return 0, false
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return 0, false
	}
	const always = 15 // digits that a float64 gives back
	if len(text) <= always {
		return v, true
	}
	var room [32]byte
	return v, significant(text) == significant(string(strconv.AppendFloat(room[:0], v, 'e', -1, 64)))
}

// significant gives the digits of a number without the zeros around them.
func significant(text string) string {
	text, _, _ = strings.Cut(strings.ToLower(strings.TrimLeft(text, "+-")), "e")
	whole, fraction, _ := strings.Cut(text, ".")
	return strings.Trim(whole+fraction, "0")
}

// Numbers judges whether the texts of a column whose source does not say what they are are numbers. They are codes
// where one of them is no number that a float64 holds, such as one with zeros in front, or where two different texts
// have one value: 1.1 and 1.10. Take gets every text, and Check, where Doubtful says so, every text once more.
type Numbers struct {
	any, code, varied, padded bool
	decimals                  int
	texts                     map[float64]string
}

// Take takes notice of a text.
func (n *Numbers) Take(text string) {
	if text == "" || n.code {
		return
	}
	if _, ok := Exact(text); !ok {
		n.code = true
		return
	}
	_, fraction, point := strings.Cut(text, ".")
	power := strings.ContainsAny(text, "eE")
	if power && !strings.ContainsAny(text[1:], "+-.") { // 1E5 is a code: programs write 1e+05
		n.code = true
		return
	}
	n.varied = n.varied || n.any && len(fraction) != n.decimals || power
	n.padded = n.padded || power || point && strings.HasSuffix(fraction, "0") || text == "-0"
	n.any, n.decimals = true, len(fraction)
}

// Doubtful says whether only a look at all texts together can tell whether two of them have one value.
func (n *Numbers) Doubtful() bool { return !n.code && n.varied && n.padded }

// Check looks for a text that has the value of another one.
func (n *Numbers) Check(text string) {
	if text == "" || n.code {
		return
	}
	if n.texts == nil {
		n.texts = map[float64]string{}
	}
	v, _ := Exact(text)
	if first, is := n.texts[v]; !is {
		n.texts[v] = text
	} else if first != text {
		n.code, n.texts = true, nil
	}
}

// Codes says whether some text is no number, or two have one value.
func (n *Numbers) Codes() bool { return n.code }
