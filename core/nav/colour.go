package nav

import (
	"encoding/hex"
	"fmt"
	"strings"
)

// ParseColour reads #rrggbb or #rrggbbaa.
func ParseColour(text string) (Colour, bool) {
	digits, ok := strings.CutPrefix(text, "#")
	b, err := hex.DecodeString(digits)
	if !ok || err != nil || len(b) != 3 && len(b) != 4 {
		return Colour{}, false
	}
	c := RGB(b[0], b[1], b[2])
	if len(b) == 4 {
		c.A = b[3]
	}
	return c, true
}

// String writes the colour as #rrggbb, with the opacity behind it where it is not opaque; "" if unset.
func (c Colour) String() string {
	switch {
	case !c.Set:
		return ""
	case c.A == 255:
		return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B)
	}
	return fmt.Sprintf("#%02x%02x%02x%02x", c.R, c.G, c.B, c.A)
}
