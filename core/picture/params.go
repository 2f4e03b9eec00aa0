package picture

import (
	"fmt"
	"strconv"
	"strings"
)

// ParseSize reads a size in pixels such as 1280x800.
func ParseSize(text string) (width, height int, err error) {
	a, b, ok := strings.Cut(strings.ReplaceAll(text, "×", "x"), "x")
	width, err1 := strconv.Atoi(a)
	height, err2 := strconv.Atoi(b)
	if !ok || err1 != nil || err2 != nil || width < 200 || height < 150 || width > 12000 || height > 12000 {
		return 0, 0, fmt.Errorf("%q is not a size: write 1280x800, from 200x150 to 12000x12000", text)
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
