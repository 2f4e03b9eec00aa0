package picture

import (
	"fmt"
	"strconv"
	"strings"
)

// papers are the sizes of sheets in millimetres, the shorter side first (ISO 216, ANSI/ASME Y14.1).
var papers = map[string][2]float64{"a5": {148, 210}, "a4": {210, 297}, "a3": {297, 420}, "a2": {420, 594},
	"letter": {215.9, 279.4}, "legal": {215.9, 355.6}, "tabloid": {279.4, 431.8}}

// ParseSize reads a size in pixels such as 1280x800, or that of a sheet such as A4 or letter-portrait, which lies on
// its long side unless it says portrait. A pixel is 1/96 inch.
func ParseSize(text string) (width, height int, err error) {
	word, portrait := strings.CutSuffix(strings.ToLower(text), "-portrait")
	word = strings.TrimSuffix(word, "-landscape")
	if p, ok := papers[word]; ok {
		short, long := int(p[0]/25.4*96+0.5), int(p[1]/25.4*96+0.5)
		if portrait {
			return short, long, nil
		}
		return long, short, nil
	}
	a, b, ok := strings.Cut(strings.ReplaceAll(text, "×", "x"), "x")
	width, err1 := strconv.Atoi(a)
	height, err2 := strconv.Atoi(b)
	if !ok || err1 != nil || err2 != nil || width < 200 || height < 150 || width > 12000 || height > 12000 {
		return 0, 0, fmt.Errorf("%q is not a size: write 1280x800 (200x150 to 12000x12000), or A4, A3, letter, "+
			"A4-portrait", text)
	}
	return width, height, nil
}

// ParseScale reads a scale such as 1:25000.
func ParseScale(text string) (float64, error) {
	n := strings.NewReplacer(",", "", " ", "", "'", "").Replace(strings.TrimPrefix(text, "1:"))
	v, err := strconv.ParseFloat(n, 64)
	if err != nil || v < 10 || v > 1e9 {
		return 0, fmt.Errorf("%q is not a scale: write 1:25000", text)
	}
	return v, nil
}
